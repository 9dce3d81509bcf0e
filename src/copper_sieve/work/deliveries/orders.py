"""What somebody wants delivered, and what it comes to: plans against the folder they go to, and the delivery that is begun."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import count
from pathlib import Path
from typing import Any, Literal
from uuid import UUID

from ...core.errors import SieveError
from ...core.plan import Plan
from ...core.recipe import Evaluation
from ...core.target import Target, write_target
from ...store import deliveries, destinations, projects, sets
from ...store.database import Database
from ...store.sets import SetRow
from ..targets import known_target
from .again import Answer, compared, keyed, latest_folder
from .destinations import Destination, Part, apart
from .planning import plan_delivery
from .running import Deliverer

__all__ = ["Order", "begin", "plans_of"]


@dataclass(frozen=True)
class Order:
    """Sets of a project for targets.

    ``size`` is the longer side in px, None each set's own. ``into`` says whether they go on in the folder that they went to
    last; where ``folder`` is said, it is that one or none. ``unwanted`` are files that are left out, by set, target and role;
    ``answers`` say by set's name and target what is done with files that are not as we left them, by name; ``remove`` are places
    in the folder of files that the sets have no more.
    """

    project: str
    sets: Collection[UUID]
    targets: Collection[str]
    size: int | None = None
    into: Literal["own", "new"] = "own"
    unwanted: Collection[tuple[UUID, str, str]] = ()
    answers: Mapping[tuple[str, str], Mapping[str, Answer]] = field(default_factory=dict)
    remove: Collection[str] = ()
    folder: str | None = None


@dataclass(frozen=True)
class _Asked:
    """What an order comes to: plans in the order of sets and targets, and the folder of before that they go on in."""

    plans: list[tuple[SetRow, Plan]]
    folder: str | None


def plans_of(deliverer: Deliverer, order: Order) -> list[Plan]:
    """The exact files, before anything is written, each as it stands against the folder it goes to."""
    return [plan for _, plan in _asked(deliverer, order).plans]


def _asked(deliverer: Deliverer, order: Order) -> _Asked:
    with deliverer.pool.connection() as conn:
        box = projects.project_named(conn, order.project)
        rows = [sets.get_set(conn, set_id) for set_id in order.sets]
        targets = [known_target(conn, key) for key in order.targets]
        done = deliveries.done_manifests(conn, box.id) if order.into == "own" else []
        places = destinations.list_destinations(conn, box.id) if order.into == "own" else {}
    pairs = {(row.name, target.key) for row in rows for target in targets}
    if order.folder is not None:
        done = [row for row in done if row[0] == order.folder]
    folder, lying = latest_folder(deliverer.destinations.deliveries, done, pairs)
    if folder is None and order.folder is not None:
        raise SieveError(f"The folder {order.folder} was taken away. Deliver to a new one.")

    counted: set[str] = set()

    def evaluated(row: SetRow) -> Evaluation:
        facts = row.recipe.facts
        return deliverer.evaluation(row.recipe, None if order.size is None else min(order.size, max(facts.width, facts.height)))

    def planned(row: SetRow, evaluation: Evaluation, target: Target) -> Plan:
        roles = {role for set_id, key, role in order.unwanted if (set_id, key) == (row.id, target.key)}
        plan = keyed(evaluation, target, plan_delivery(evaluation, target, row.name, project=box.title, unwanted=roles))
        where = places.get(target.key)
        if where is not None:
            names: dict[Part, str] = {"project": box.title, "set": row.name, "target": target.key}
            plan = plan.model_copy(update={"place": Destination.kept(where).place(names)})
        elif folder is None:
            return deliverer.lasting(evaluation, target, plan, counted)
        there = lying.get((row.name, target.key, plan.place), {})
        lies = deliverer.destinations.folder(folder or "", plan)
        answers = order.answers.get((row.name, target.key), {})
        plan = compared(plan, there, lies, deliverer.hashes.of, answers).model_copy(update={"folder": folder})
        return deliverer.lasting(evaluation, target, plan, counted)

    of_sets = [(row, evaluated(row)) for row in rows]
    plans = [planned(row, evaluation, target) for row, evaluation in of_sets for target in targets]
    return _Asked(list(zip((row for row in rows for _ in targets), apart(plans))), folder)


def begin(deliverer: Deliverer, order: Order) -> UUID:
    """Start writing in the background: what changed, into the folder of before, or everything into a new one.

    Files that wait, and files in whose place lies what nobody said may be touched, are not written. Raises SieveError where
    there is nothing to write.
    """
    asked = _asked(deliverer, order)
    going = [(row, plan) for row, plan in asked.plans if any(f.is_written for f in plan.files)]
    if not going:
        raise SieveError("Nothing can be delivered: choose a set and a target of which at least one file does not wait.")
    if not order.remove and not any(f.goes for _, plan in going for f in plan.files):
        raise SieveError("There is nothing to write: every file lies there as it would be written.")
    recipes = {row.id: row.recipe.model_dump(mode="json", by_alias=True) for row, _ in going}
    with deliverer.pool.connection() as conn:  # a delivery keeps the tables it was made by
        tables = {key: write_target(known_target(conn, key)) for key in {plan.target for _, plan in going}}
    jobs: list[dict[str, Any]] = [
        {"plan": plan.model_dump(mode="json"), "recipe": recipes[row.id], "target": tables[plan.target]} for row, plan in going
    ]
    gone = {f"{plan.set}/{plan.target}/{name}" for _, plan in going for name in plan.gone}
    jobs[0]["remove"] = [place for place in order.remove if place in gone]
    heads = {str(row.id): row.head for row, _ in going}
    with deliverer.pool.connection() as conn:
        box = projects.project_named(conn, order.project)
        told = {"project_id": box.id, "plan": jobs, "heads": heads, "is_again": asked.folder is not None}
        folder = asked.folder or _new_folder(conn, deliverer.destinations.deliveries, order.project)
        delivery_id = deliveries.create_delivery(conn, folder=folder, **told)
    deliverer.start(delivery_id)
    return delivery_id


def _new_folder(conn: Database, root: Path, project: str) -> str:
    """Make a folder of a name that no delivery had before, not even one whose folder was taken away since."""
    day = datetime.now(UTC).date().isoformat()
    used = deliveries.used_folders(conn, f"{project}/{day} ")
    (root / project).mkdir(parents=True, exist_ok=True)
    for number in count(1):
        folder = f"{project}/{day} {number}"
        if folder in used:
            continue
        try:
            (root / folder).mkdir()
            return folder
        except FileExistsError:
            continue
    raise AssertionError("counting has no end")
