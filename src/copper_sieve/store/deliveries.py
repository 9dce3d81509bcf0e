"""Deliveries: what was planned, how far it is, what came of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from .database import Database, rows_of
from .statements import statements

__all__ = [
    "DeliveryRow",
    "DeliveryState",
    "create_delivery",
    "done_manifests",
    "folder_manifest",
    "get_delivery",
    "list_deliveries",
    "stop_interrupted",
    "update_delivery",
    "used_folders",
]

_SQL = statements("deliveries")
_SHOWN = 50
DeliveryState = Literal["waiting", "running", "done", "cancelled", "failed"]


@dataclass(frozen=True)
class DeliveryRow:
    """One delivery. ``plan`` is a list of jobs (plan, recipe, target); ``heads`` the set's heads then, by the id's text."""

    id: UUID
    project_id: UUID
    state: DeliveryState
    folder: str
    plan: list[dict[str, Any]]
    heads: dict[str, int]
    done_units: int
    total_units: int
    rows: dict[str, str]
    manifest: dict[str, Any] | None
    problem: str | None
    created: datetime
    is_again: bool = False


def create_delivery(
    conn: Database, *, project_id: UUID, folder: str, plan: Any, heads: dict[str, int], is_again: bool = False
) -> UUID:
    """Note a delivery that waits for its turn; ``is_again`` where its folder is one that was there before."""
    told = {"project_id": project_id, "folder": folder, "plan": Jsonb(plan), "heads": Jsonb(heads), "is_again": is_again}
    row = conn.execute(_SQL["make_delivery"], told).fetchone()
    assert row is not None
    return row["id"]


def used_folders(conn: Database, beginning: str) -> set[str]:
    """Folders of all deliveries whose name begins so. Until the transaction ends nobody else may choose one."""
    conn.execute(_SQL["hold_folders"])
    return {row["folder"] for row in conn.execute(_SQL["used_folders"], {"beginning": beginning})}


def get_delivery(conn: Database, delivery_id: UUID) -> DeliveryRow:
    """Raises UnknownKey."""
    row = rows_of(conn, DeliveryRow, _SQL["get_delivery"], {"delivery_id": delivery_id}).fetchone()
    if row is None:
        raise UnknownKey("delivery", str(delivery_id), ["a delivery of this project"])
    return row


def list_deliveries(conn: Database, project_id: UUID) -> list[DeliveryRow]:
    """The newest deliveries of a project, newest first."""
    return rows_of(conn, DeliveryRow, _SQL["list_deliveries"], {"project_id": project_id, "most": _SHOWN}).fetchall()


def done_manifests(conn: Database, project_id: UUID) -> list[tuple[str, dict[str, Any]]]:
    """Folders and manifests of a project's finished deliveries, the newest first, each folder once."""
    rows = conn.execute(_SQL["done_manifests"], {"project_id": project_id, "most": _SHOWN})
    newest: dict[str, dict[str, Any]] = {}
    for row in rows:
        newest.setdefault(row["folder"], row["manifest"])
    return list(newest.items())


def folder_manifest(conn: Database, folder: str) -> dict[str, Any]:
    """What the last finished delivery into a folder left there; empty where there was none."""
    row = conn.execute(_SQL["folder_manifest"], {"folder": folder}).fetchone()
    return {} if row is None else row["manifest"]


def update_delivery(
    conn: Database,
    delivery_id: UUID,
    *,
    state: DeliveryState | None = None,
    done_units: int | None = None,
    total_units: int | None = None,
    rows: dict[str, str] | None = None,
    manifest: Any = None,
    problem: str | None = None,
) -> None:
    """Set what is given, leave the rest."""
    told = {
        "delivery_id": delivery_id,
        "state": state,
        "done_units": done_units,
        "total_units": total_units,
        "rows": None if rows is None else Jsonb(rows),
        "manifest": None if manifest is None else Jsonb(manifest),
        "problem": problem,
    }
    conn.execute(_SQL["update_delivery"], told)


def stop_interrupted(conn: Database) -> list[str]:
    """Mark what a killed server left running; returns the folders of those deliveries."""
    return [row["folder"] for row in conn.execute(_SQL["stop_interrupted"])]
