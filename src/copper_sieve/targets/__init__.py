"""The shipped targets: one TOML file each, data without code."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

from ..core.errors import UnknownKey
from ..core.target import Target, read_target

__all__ = ["carriers_of", "shipped_target", "shipped_targets"]


@lru_cache
def shipped_targets() -> dict[str, Target]:
    """All shipped targets by key, in the order of their keys."""
    files = sorted(
        (f for f in resources.files("copper_sieve.targets").iterdir() if f.name.endswith(".toml")), key=lambda f: f.name
    )
    targets = [read_target(f.read_text("utf-8")) for f in files]
    return {target.key: target for target in targets}


@lru_cache
def carriers_of(master: str) -> tuple[str, ...]:
    """Keys of the shipped targets of which a file carries a master.

    Examples
    --------
    >>> "gltf" in carriers_of("metallic"), carriers_of("no master")
    (True, ())
    """
    return tuple(target.key for target in shipped_targets().values() if master in target.masters())


def shipped_target(key: str) -> Target:
    """One shipped target. Raises UnknownKey with the list."""
    if key not in shipped_targets():
        raise UnknownKey("target", key, list(shipped_targets()))
    return shipped_targets()[key]
