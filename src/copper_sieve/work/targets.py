"""Targets by their keys, wherever they come from."""

from __future__ import annotations

from ..core.target import Target
from ..store.database import Database
from ..store.targets import own_target
from ..targets import shipped_targets

__all__ = ["known_target"]


def known_target(conn: Database, key: str) -> Target:
    """A shipped target or one of people's own. Raises UnknownKey."""
    return shipped_targets()[key] if key in shipped_targets() else own_target(conn, key)
