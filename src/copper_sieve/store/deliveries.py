"""Deliveries: what was planned, how far it is, what came of it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg.types.json import Jsonb

from ..core.errors import TargetInvalid, UnknownKey
from ..core.target import read_target
from .database import Database, rows_of
from .statements import statements

__all__ = [
    "DeliveryLine",
    "DeliveryRow",
    "DeliveryState",
    "LastDelivery",
    "Lying",
    "WholeDelivery",
    "create_delivery",
    "done_manifests",
    "folder_manifest",
    "forget_overtaken",
    "get_delivery",
    "is_delivering",
    "job_of",
    "last_delivery",
    "list_deliveries",
    "list_lying",
    "stop_interrupted",
    "update_delivery",
    "used_folders",
    "whole_delivery",
]

_SQL = statements("deliveries")
_SHOWN = 50
_VERSION = re.compile(r"^(?:version|changed) = .*\n", re.MULTILINE)
DeliveryState = Literal["waiting", "running", "done", "cancelled", "failed"]


@dataclass(frozen=True)
class DeliveryLine:
    """One delivery in a list. ``sent`` says of each set and target its names and place; ``heads`` the sets' heads then, by id."""

    id: UUID
    project_id: UUID
    state: DeliveryState
    folder: str
    sent: list[dict[str, Any]]
    heads: dict[str, int]
    done_units: int
    total_units: int
    problem: str | None
    created: datetime
    is_again: bool


def _without_version(table: str | None) -> str:
    return _VERSION.sub("", table or "")


def _read(table: str) -> object:
    """A table as it is meant; as text where it cannot be read any more."""
    try:
        return read_target(table)
    except TargetInvalid:
        return table


@dataclass(frozen=True)
class Lying:
    """One set for one target as it lies in a folder: the delivery that wrote it last, and the sets' heads then, by id.

    ``at`` is which of that delivery's it is; ``table_then`` and ``table_now`` are of a target of somebody's own.
    """

    id: UUID
    folder: str
    sent: dict[str, Any]
    heads: dict[str, int]
    created: datetime
    at: int
    table_now: str | None
    table_then: str | None

    @property
    def is_of_other_table(self) -> bool:
        """Whether its target was changed since, its version and date apart."""
        now, then = (_without_version(text) for text in (self.table_now, self.table_then))
        return now != then and _read(now) != _read(then)  # one may have been written by an older program


@dataclass(frozen=True)
class DeliveryRow(DeliveryLine):
    """One delivery and how far each of its files is, by place."""

    rows: dict[str, str]


@dataclass(frozen=True)
class WholeDelivery(DeliveryRow):
    """One delivery with all it is made by: ``plan`` is a list of jobs (plan, recipe, target), megabytes for hundreds of sets."""

    plan: list[dict[str, Any]]
    manifest: dict[str, Any] | None


def create_delivery(
    conn: Database, *, project_id: UUID, folder: str, plan: Any, heads: dict[str, int], is_again: bool = False
) -> UUID:
    """Note a delivery that waits for its turn; ``is_again`` where its folder is one that was there before."""
    sent = [{part: job["plan"].get(part) for part in ("set", "target", "target_title", "place")} for job in plan]
    told = {"project_id": project_id, "folder": folder, "heads": Jsonb(heads), "is_again": is_again}
    told |= {"plan": Jsonb(plan), "sent": Jsonb(sent)}
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
        raise _unknown(delivery_id)
    return row


def whole_delivery(conn: Database, delivery_id: UUID) -> WholeDelivery:
    """Raises UnknownKey."""
    row = rows_of(conn, WholeDelivery, _SQL["whole_delivery"], {"delivery_id": delivery_id}).fetchone()
    if row is None:
        raise _unknown(delivery_id)
    return row


def job_of(conn: Database, delivery_id: UUID, set_name: str, target: str) -> tuple[DeliveryRow, dict[str, Any]]:
    """A delivery and what it was made by for one set and one target: its plan, recipe and target. Raises UnknownKey."""
    row = get_delivery(conn, delivery_id)
    pairs = [(one["set"], one["target"]) for one in row.sent]
    if (set_name, target) not in pairs:
        raise UnknownKey("delivered set", f"{set_name} for {target}", [" for ".join(pair) for pair in pairs])
    told = {"delivery_id": delivery_id, "at": pairs.index((set_name, target))}
    found = conn.execute(_SQL["job_of"], told).fetchone()
    assert found is not None
    return row, found["job"]


def _unknown(delivery_id: UUID) -> UnknownKey:
    return UnknownKey("delivery", str(delivery_id), ["a delivery of this project"])


def list_deliveries(conn: Database, project_id: UUID) -> list[DeliveryLine]:
    """The newest deliveries of a project, newest first; of those done in one folder only the last."""
    return rows_of(conn, DeliveryLine, _SQL["list_deliveries"], {"project_id": project_id, "most": _SHOWN}).fetchall()


def done_manifests(conn: Database, project_id: UUID) -> list[tuple[str, dict[str, Any]]]:
    """Folders and manifests of a project's finished deliveries, the newest first, each folder once."""
    rows = conn.execute(_SQL["done_manifests"], {"project_id": project_id, "most": _SHOWN})
    return [(row["folder"], row["manifest"]) for row in rows]


def list_lying(conn: Database, project_id: UUID) -> list[Lying]:
    """What lies in each folder of a project's deliveries, the newest first."""
    return rows_of(conn, Lying, _SQL["list_lying"], {"project_id": project_id}).fetchall()


def is_delivering(conn: Database, project_id: UUID) -> bool:
    """Whether a delivery of a project waits or runs."""
    return conn.execute(_SQL["is_delivering"], {"project_id": project_id}).fetchone() is not None


@dataclass(frozen=True)
class LastDelivery:
    """The newest delivery of a project, and the heads of the sets in it, by id."""

    id: UUID
    state: DeliveryState
    heads: dict[str, int]


def last_delivery(conn: Database, project_id: UUID) -> LastDelivery | None:
    """The newest, however it ended."""
    return rows_of(conn, LastDelivery, _SQL["last_delivery"], {"project_id": project_id}).fetchone()


def forget_overtaken(conn: Database, ids: Sequence[UUID], last: UUID) -> None:
    """Forget those of the deliveries whose every set and target ``last`` wrote again in the same folder."""
    conn.execute(_SQL["forget_overtaken"], {"ids": list(ids), "last": last})


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
