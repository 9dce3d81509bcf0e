"""Where the files of a project's targets go, as people said it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from .database import Database, rows_of
from .statements import statements

__all__ = ["DestinationRow", "forget_destination", "keep_destination", "list_destinations"]

_SQL = statements("destinations")


@dataclass(frozen=True)
class DestinationRow:
    """Of one target: the name of a folder of the server, a path below it, and what gets a folder of its own there."""

    target: str
    root: str
    below: str
    each: list[str]


def list_destinations(conn: Database, project_id: UUID) -> dict[str, DestinationRow]:
    """By the keys of the targets that have one."""
    rows = rows_of(conn, DestinationRow, _SQL["list_destinations"], {"project_id": project_id})
    return {row.target: row for row in rows}


def keep_destination(conn: Database, project_id: UUID, target: str, *, root: str, below: str, each: Sequence[str]) -> None:
    """Keep where a target's files go, in place of what was said before."""
    told = {"project_id": project_id, "target": target, "root": root, "below": below, "each": list(each)}
    conn.execute(_SQL["keep_destination"], told)


def forget_destination(conn: Database, project_id: UUID, target: str) -> None:
    """From now on they go into the delivery's own folder."""
    conn.execute(_SQL["forget_destination"], {"project_id": project_id, "target": target})
