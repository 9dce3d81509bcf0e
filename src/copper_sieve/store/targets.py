"""Targets that people made, one per key, shared by all projects."""

from __future__ import annotations

from ..core.errors import UnknownKey
from ..core.target import Target, read_target, write_target
from .database import Database

__all__ = ["forget_target", "keep_target", "list_own_targets", "lock_targets", "own_target"]


def list_own_targets(conn: Database) -> list[Target]:
    """In the order of their titles."""
    rows = conn.execute("SELECT toml FROM own_target WHERE NOT removed").fetchall()
    return sorted((read_target(row["toml"]) for row in rows), key=lambda target: target.title.casefold())


def own_target(conn: Database, key: str) -> Target:
    """One of them, also one that was removed since. Raises UnknownKey with those there are."""
    row = conn.execute("SELECT toml FROM own_target WHERE key = %s", (key,)).fetchone()
    if row is None:
        raise UnknownKey("target", key, [target.key for target in list_own_targets(conn)])
    return read_target(row["toml"])


def lock_targets(conn: Database) -> None:
    """Hold all targets until the transaction ends: who writes reads first, and two must not do so at once."""
    conn.execute("LOCK TABLE own_target IN SHARE ROW EXCLUSIVE MODE")


def keep_target(conn: Database, target: Target) -> None:
    """Keep a target, or put it in place of the one of its key."""
    conn.execute(
        """INSERT INTO own_target (key, toml) VALUES (%s, %s)
           ON CONFLICT (key) DO UPDATE SET toml = excluded.toml, changed = now(), removed = false""",
        (target.key, write_target(target)),
    )


def forget_target(conn: Database, key: str) -> None:
    conn.execute("UPDATE own_target SET removed = true WHERE key = %s", (key,))
