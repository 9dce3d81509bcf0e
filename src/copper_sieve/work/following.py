"""What projects do by themselves: take newer files of linked folders, and deliver again what changed since it was delivered."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import datetime
from pathlib import Path
from uuid import UUID

import psycopg
from psycopg_pool import PoolTimeout

from ..core.errors import SieveError, UnknownKey
from ..core.plan import Plan
from ..core.recipe import Recipe
from ..store import deliveries, projects, sets
from ..store.database import Database, Pool
from ..store.deliveries import Lying
from ..store.projects import ProjectRow
from ..store.sets import HeadMoved
from ..store.targets import when_changed
from .deliveries.orders import Order, begin, plans_of
from .deliveries.running import Deliverer
from .folders import Folders, Newer
from .linked import take_newer
from .targets import known_target

__all__ = ["Follower", "Following"]

_AWAY = (psycopg.OperationalError, psycopg.InterfaceError, PoolTimeout)  # of the database
ROUND_S = 1.0
REST_S = 2.0  # how long a set stays as it is before it is delivered: who moves a slider is not done yet


@dataclass
class Following:
    """What was done of one project: heads of sets that newer files were taken of, sentences on what was not done.

    ``problems`` are by the ids of sets, or of the project itself where all of it is left alone.
    """

    heads: dict[UUID, int] = field(default_factory=dict)
    problems: dict[UUID, str] = field(default_factory=dict)
    delivery: UUID | None = None


@dataclass
class _Still:
    """A set as it was when it was last looked at, and since when it is so."""

    head: int
    since: float
    is_linked: bool | None = None
    recipe: Recipe | None = None  # of a set that is linked
    stamps: frozenset[tuple[str, int, int]] = frozenset()
    refused: frozenset[tuple[str, int, int]] = frozenset()  # files that could not be taken as they are
    tried: tuple[int, Tables] | None = None  # the head that it was delivered at, or that could not be, and the tables then


# When each target of somebody's own was kept last.
Tables = frozenset[tuple[str, datetime]]
# The last delivery, the heads of sets and the tables that nothing more is to be delivered of.
Looked = tuple[UUID, frozenset[tuple[UUID, int]], Tables]


class Follower:
    """A thread that goes round the projects that keep up. ``close`` ends it.

    A set is delivered once it and the targets have been left alone for a while, to the targets and into the folders that it went
    to last, at the size and without the files that were left out then; nothing that somebody else changed is touched.

    A file is taken once it was the same for a whole round, so that none is read while it is written, and never one that somebody
    has gone back from.
    """

    def __init__(self, pool: Pool, folders: Folders, deliverer: Deliverer) -> None:
        self._pool, self._folders, self._deliverer = pool, folders, deliverer
        self._log = logging.getLogger("copper_sieve.following")
        self._still: dict[UUID, _Still] = {}
        self._told: dict[UUID, Following] = {}
        self._began: dict[UUID, list[UUID]] = {}
        self._looked: dict[UUID, Looked] = {}
        self._tables: tuple[Tables, float] = frozenset(), 0.0  # and since when they are so
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._run, name="following", daemon=True)
        self._thread.start()

    def close(self) -> None:
        self._closing.set()
        self._thread.join(timeout=10)

    def told(self, project_id: UUID) -> Following:
        """What came of it, since the server was started."""
        return self._told.get(project_id) or Following()

    def _run(self) -> None:
        while not self._closing.wait(ROUND_S):
            try:
                self._round(time.monotonic())
            except (*_AWAY, UnknownKey):
                continue  # the database is away and comes back, or a set was taken off in the middle

    def _round(self, now: float) -> None:
        with self._pool.connection() as conn:
            rows = [row for row in projects.list_projects(conn) if not row.is_away and (row.takes_newer or row.delivers_changes)]
            tables = when_changed(conn)
        if tables != self._tables[0]:
            self._tables = tables, now
        for project in rows:
            told = self._told.setdefault(project.id, Following())
            if project.id in told.problems:
                continue
            try:
                self._look_after(project, told, now)
            except (*_AWAY, UnknownKey):
                raise
            except Exception as problem:  # the thread must outlive any one project
                self._log.exception("%s is left alone", project.name)
                what = f"A fault of ours, {type(problem).__name__}: {problem}"
                told.problems[project.id] = f"{what}. Nothing is done by itself until the program is started again."

    def _look_after(self, project: ProjectRow, told: Following, now: float) -> None:
        with self._pool.connection() as conn:
            heads = sets.list_heads(conn, project.id)
        for set_id, head in heads.items():
            if set_id not in self._still or self._still[set_id].head != head:
                before = self._still.get(set_id)
                self._still[set_id] = _Still(head, now, refused=before.refused if before else frozenset())
                told.problems.pop(set_id, None)
        if project.takes_newer:
            for set_id in heads:
                self._take_newer(set_id, told)
        if project.delivers_changes and now - self._tables[1] >= REST_S:
            rested = {set_id for set_id in heads if now - self._still[set_id].since >= REST_S}
            self._deliver(project, rested, told)

    def _take_newer(self, set_id: UUID, told: Following) -> None:
        still = self._still[set_id]
        if still.is_linked is None:
            with self._pool.connection() as conn:
                row = sets.get_set(conn, set_id)
            if row.head != still.head:
                return  # it moves; the next round sees it
            files = [file for source in row.recipe.sources.values() for file in source.files]
            still.is_linked = any(file.place is not None for file in files)
            still.recipe = row.recipe if still.is_linked else None
        if still.recipe is None:
            return
        newer = self._folders.newer(still.recipe)
        stamps = frozenset(_stamps(self._paths(newer)))
        settled, still.stamps = stamps == still.stamps, stamps
        if not newer or not settled or stamps == still.refused:
            return
        with self._pool.connection() as conn:
            undone = sets.undone_files(conn, set_id)
        changed = [file for file in newer.changed if file.sha256 not in undone]
        wanted = Newer(changed, [place for place in newer.added if place not in undone])
        if not wanted:
            return
        try:
            take_newer(self._pool, self._folders, set_id, still.head, wanted)
            with self._pool.connection() as conn:
                told.heads[set_id] = sets.get_set(conn, set_id).head
            told.problems.pop(set_id, None)
        except HeadMoved:
            return  # somebody was quicker; the next round looks again
        except (SieveError, OSError, psycopg.errors.InsufficientResources) as problem:
            still.refused = stamps
            is_full = isinstance(problem, psycopg.Error)
            told.problems[set_id] = "The disk is full: newer files were not taken." if is_full else str(problem)
            self._log.warning("newer files of %s were not taken: %s", set_id, problem)

    def _paths(self, newer: Newer) -> Iterable[Path]:
        yield from (file.path for file in newer.changed)
        for place in newer.added:
            try:
                yield self._folders.path_of(place)
            except UnknownKey:
                continue

    def _deliver(self, project: ProjectRow, rested: set[UUID], told: Following) -> None:
        with self._pool.connection() as conn:
            last = deliveries.last_delivery(conn, project.id)
            if last is None:
                return
            now = last.id, frozenset((set_id, self._still[set_id].head) for set_id in rested), self._tables[0]
            if self._looked.get(project.id) == now:
                return  # what lies where is much to ask for, every second
            if deliveries.is_delivering(conn, project.id):
                return
            orders = self._orders(conn, project, rested)
        self._looked[project.id] = now
        if last.id not in self._began.get(project.id, ()):
            for set_id in last.heads:  # somebody has looked after these
                told.problems.pop(UUID(set_id), None)
        for order in orders:
            for set_id in order.sets:
                self._still[set_id].tried = self._still[set_id].head, self._tables[0]
            try:
                plans = plans_of(self._deliverer, order)
                told.problems |= _asking(order, plans)
                if any(file.goes for plan in plans for file in plan.files):
                    self._begin(project.id, order, told)
            except SieveError as problem:
                told.problems |= dict.fromkeys(order.sets, str(problem))
                self._log.warning("not delivered: %s", problem)

    def _begin(self, project_id: UUID, order: Order, told: Following) -> None:
        before, began = told.delivery, self._began.setdefault(project_id, [])
        if before is not None:
            with self._pool.connection() as conn:  # one per change, each with all it was made by, would fill the database
                deliveries.forget_overtaken(conn, began, before)
        told.delivery = begin(self._deliverer, order)
        began.append(told.delivery)

    def _orders(self, conn: Database, project: ProjectRow, rested: set[UUID]) -> list[Order]:
        """What is to be delivered again: sets of which something older lies somewhere, as it was delivered there."""
        names = {set_id: name for name, set_id in sets.list_names(conn, project.id).items()}
        lying: dict[str, list[Lying]] = {}
        for one in deliveries.list_lying(conn, project.id):
            lying.setdefault(one.sent["set"], []).append(one)
        grouped: dict[tuple[str | None, int | None, frozenset[str]], Order] = {}
        for set_id in sorted(rested & names.keys(), key=str):
            still, own = self._still[set_id], lying.get(names[set_id], [])
            if (still.head, self._tables[0]) == still.tried:
                continue
            for order in _orders_of(conn, project.name, set_id, still.head, own):
                key = order.folder, order.size, frozenset(order.targets)
                same = grouped.get(key)
                if same is not None:
                    order = replace(same, sets=[*same.sets, set_id], unwanted=[*same.unwanted, *order.unwanted])
                grouped[key] = order
        return list(grouped.values())


def _orders_of(conn: Database, project: str, set_id: UUID, head: int, lying: list[Lying]) -> list[Order]:
    """Of one set: for each folder and size that it went to last, the targets that it went to so and that have not its ``head``,
    or have another table now.
    """
    newest: dict[str, Lying] = {}
    for one in lying:
        newest.setdefault(one.sent["target"], one)
    orders: dict[tuple[str, int | None], Order] = {}
    for key, one in newest.items():
        if (one.heads.get(str(set_id)) == head and not one.is_of_other_table) or not _is_known(conn, key):
            continue
        job = deliveries.job_of(conn, one.id, one.sent["set"], key)[1]
        plan, recipe = Plan.model_validate(job["plan"]), Recipe.model_validate(job["recipe"])
        longer = max(plan.width, plan.height)
        size = None if longer == max(recipe.facts.width, recipe.facts.height) else longer
        unwanted = [(set_id, key, role) for role in {file.role for file in plan.files if file.left_out == "unwanted"}]
        order = orders.get((one.folder, size)) or Order(project, [set_id], [], size=size, folder=one.folder)
        orders[one.folder, size] = replace(order, targets=[*order.targets, key], unwanted=[*order.unwanted, *unwanted])
    return list(orders.values())


def _asking(order: Order, plans: list[Plan]) -> dict[UUID, str]:
    """Sentences on files that are left as somebody else changed them, by the sets that they are of."""
    told, count = {}, len(order.targets)
    for k, set_id in enumerate(order.sets):
        own = plans[k * count : (k + 1) * count]
        asks = [file.name for plan in own for file in plan.files if file.asks]
        if asks:
            said = f"{', '.join(asks)} was changed by somebody else and left as it is: say in Delivery what to do."
            told[set_id] = f"{own[0].set}: {said}"
    return told


def _is_known(conn: Database, target: str) -> bool:
    """Whether there is a target of that key still."""
    try:
        known_target(conn, target)
    except UnknownKey:
        return False
    return True


def _stamps(paths: Iterable[Path]) -> Iterable[tuple[str, int, int]]:
    """What tells a file that is still written from one that is whole: its time and size."""
    for path in paths:
        try:
            stat = path.stat()
        except OSError:
            continue
        yield str(path), stat.st_mtime_ns, stat.st_size
