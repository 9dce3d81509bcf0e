"""Bakes: what was asked, how far it is, what came of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from ..core.recipe import Worn
from .database import Database, rows_of
from .statements import statements

__all__ = [
    "BakeRow",
    "create_bake",
    "get_bake",
    "going_bakes",
    "is_baking",
    "latest_bake",
    "stop_interrupted_bakes",
    "update_bake",
]

_SQL = statements("bakes")
BakeState = Literal["waiting", "running", "done", "cancelled", "failed"]


@dataclass(frozen=True)
class BakeRow:
    """One bake. ``trial`` are rows of its small pictures; a bake that ``is_trial`` ends with them."""

    id: UUID
    set_id: UUID
    state: BakeState
    worn: Worn
    size: int
    is_trial: bool
    share: float
    doing: str
    trial: list[dict[str, Any]]
    findings: list[dict[str, Any]]
    problem: str | None
    created: datetime


def _row(*, worn: Any, **columns: Any) -> BakeRow:
    return BakeRow(worn=Worn.model_validate(worn), **columns)


def create_bake(conn: Database, *, set_id: UUID, worn: Worn, size: int, is_trial: bool) -> UUID:
    """Note a bake that waits for its turn, in the place of those of the set that are over."""
    conn.execute(_SQL["forget_ended"], {"set_id": set_id})
    told = {"set_id": set_id, "worn": Jsonb(worn.model_dump(mode="json")), "size": size, "is_trial": is_trial}
    row = conn.execute(_SQL["make_bake"], told).fetchone()
    assert row is not None
    return row["id"]


def get_bake(conn: Database, bake_id: UUID) -> BakeRow:
    """Raises UnknownKey."""
    row = rows_of(conn, _row, _SQL["get_bake"], {"bake_id": bake_id}).fetchone()
    if row is None:
        raise UnknownKey("bake", str(bake_id), ["a bake of this set"])
    return row


def latest_bake(conn: Database, set_id: UUID) -> BakeRow | None:
    """The newest bake of a set, None where there was none."""
    return rows_of(conn, _row, _SQL["latest_bake"], {"set_id": set_id}).fetchone()


def going_bakes(conn: Database, set_id: UUID) -> list[UUID]:
    """Bakes of a set that wait or run."""
    return [row["id"] for row in conn.execute(_SQL["going_bakes"], {"set_id": set_id})]


def is_baking(conn: Database, project_id: UUID) -> bool:
    """Whether a bake of a project's sets waits or runs."""
    return conn.execute(_SQL["is_baking"], {"project_id": project_id}).fetchone() is not None


def update_bake(
    conn: Database,
    bake_id: UUID,
    *,
    state: BakeState | None = None,
    share: float | None = None,
    doing: str | None = None,
    trial: Sequence[dict[str, Any]] | None = None,
    findings: Sequence[dict[str, Any]] | None = None,
    problem: str | None = None,
) -> None:
    """Set what is given, leave the rest."""
    told = {
        "bake_id": bake_id,
        "state": state,
        "share": share,
        "doing": doing,
        "trial": None if trial is None else Jsonb(list(trial)),
        "findings": None if findings is None else Jsonb(list(findings)),
        "problem": problem,
    }
    conn.execute(_SQL["update_bake"], told)


def stop_interrupted_bakes(conn: Database) -> int:
    """Mark what a killed server left running; returns how many."""
    return conn.execute(_SQL["stop_interrupted"]).rowcount
