"""Targets that people made, one per key, shared by all projects."""

from __future__ import annotations

from datetime import datetime

from ..core.errors import UnknownKey
from ..core.target import Target, read_target, write_target
from .database import Database
from .statements import statements

__all__ = ["forget_target", "keep_target", "list_own_targets", "lock_targets", "own_target", "used_keys", "when_changed"]

_SQL = statements("targets")


def list_own_targets(conn: Database) -> list[Target]:
    """In the order of their titles."""
    rows = conn.execute(_SQL["list_targets"]).fetchall()
    return sorted((read_target(row["toml"]) for row in rows), key=lambda target: target.title.casefold())


def own_target(conn: Database, key: str) -> Target:
    """One of them, also one that was removed since. Raises UnknownKey with those there are."""
    row = conn.execute(_SQL["target_of_key"], {"key": key}).fetchone()
    if row is None:
        raise UnknownKey("target", key, [target.key for target in list_own_targets(conn)])
    return read_target(row["toml"])


def when_changed(conn: Database) -> frozenset[tuple[str, datetime]]:
    """The keys of all own targets, each with when it was kept last."""
    return frozenset((row["key"], row["changed"]) for row in conn.execute(_SQL["when_changed"]))


def lock_targets(conn: Database) -> None:
    """Hold all targets until the transaction ends: who writes reads first, and two must not do so at once."""
    conn.execute(_SQL["hold_targets"])


def keep_target(conn: Database, target: Target) -> None:
    """Keep a target, or put it in place of the one of its key."""
    conn.execute(_SQL["keep_target"], {"key": target.key, "toml": write_target(target)})


def used_keys(conn: Database) -> set[str]:
    """Keys that an own target has or had: an old delivery may name one that was removed."""
    return {row["key"] for row in conn.execute(_SQL["used_keys"])}


def forget_target(conn: Database, key: str) -> None:
    """Put a target away; old deliveries may still name it."""
    conn.execute(_SQL["forget_target"], {"key": key})
