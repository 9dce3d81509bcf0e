"""Deliveries: what was planned, how far it is, what came of it."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from .database import Database

__all__ = ["create_delivery", "get_delivery", "list_deliveries", "stop_interrupted", "update_delivery", "used_folders"]

_COLUMNS = "id, project_id, state, folder, plan, heads, done_units, total_units, rows, manifest, problem, created"


def create_delivery(conn: Database, *, project_id: UUID, folder: str, plan: Any, heads: dict[str, int]) -> UUID:
    row = conn.execute(
        "INSERT INTO delivery (project_id, state, folder, plan, heads) VALUES (%s, 'waiting', %s, %s, %s) RETURNING id",
        (project_id, folder, Jsonb(plan), Jsonb(heads)),
    ).fetchone()
    assert row is not None
    return row["id"]


def used_folders(conn: Database, beginning: str) -> set[str]:
    """Folders of all deliveries whose name begins so. Until the transaction ends nobody else may choose one."""
    conn.execute("LOCK TABLE delivery IN SHARE ROW EXCLUSIVE MODE")
    rows = conn.execute("SELECT folder FROM delivery WHERE starts_with(folder, %s)", (beginning,))
    return {row["folder"] for row in rows}


def get_delivery(conn: Database, delivery_id: UUID) -> dict[str, Any]:
    """Raises UnknownKey."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM delivery WHERE id = %s", (delivery_id,)).fetchone()
    if row is None:
        raise UnknownKey("delivery", str(delivery_id), ["a delivery of this project"])
    return row


def list_deliveries(conn: Database, project_id: UUID) -> list[dict[str, Any]]:
    return conn.execute(
        f"SELECT {_COLUMNS} FROM delivery WHERE project_id = %s ORDER BY created DESC LIMIT 50", (project_id,)
    ).fetchall()


def update_delivery(
    conn: Database,
    delivery_id: UUID,
    *,
    state: str | None = None,
    done_units: int | None = None,
    total_units: int | None = None,
    rows: dict[str, str] | None = None,
    manifest: Any = None,
    problem: str | None = None,
) -> None:
    """Set what is given, leave the rest."""
    conn.execute(
        """UPDATE delivery SET state = coalesce(%s, state), done_units = coalesce(%s, done_units),
             total_units = coalesce(%s, total_units), rows = coalesce(%s, rows), manifest = coalesce(%s, manifest),
             problem = coalesce(%s, problem) WHERE id = %s""",
        (
            state,
            done_units,
            total_units,
            None if rows is None else Jsonb(rows),
            None if manifest is None else Jsonb(manifest),
            problem,
            delivery_id,
        ),
    )


def stop_interrupted(conn: Database) -> list[str]:
    """Mark what a killed server left running; returns the folders of those deliveries."""
    rows = conn.execute(
        "UPDATE delivery SET state = 'failed', problem = 'The server was stopped in the middle. Deliver again.'"
        " WHERE state IN ('waiting', 'running') RETURNING folder"
    )
    return [row["folder"] for row in rows]
