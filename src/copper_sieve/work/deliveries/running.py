"""Deliveries in the background: one at a time, with progress, and stopped within a band of rows."""

from __future__ import annotations

import contextlib
import shutil
import time
from collections.abc import Callable
from typing import Any
from uuid import UUID

import psycopg

from ...core.bands import Cancel
from ...core.plan import Plan
from ...core.recipe import Cache, Evaluation, Meshes, Progress, Recipe, Source
from ...core.target import Target, read_target
from ...store import deliveries
from ...store.database import Pool
from ...store.deliveries import WholeDelivery
from ...store.originals import original_bytes
from ...targets import shipped_target
from ..background import Background, Ended
from ..hashes import Hashes
from ..intake.looking import load_codes
from .delivering import Report, deliver, effort
from .destinations import Destinations
from .handing import write_notes
from .pace import Pace, work_of

__all__ = ["Deliverer", "Reporter", "content_from", "load_from", "target_of"]

_REPORT_EVERY_S = 0.1
_SELDOM = 20  # times as long as writing how far it is takes, until it is written again


def content_from(pool: Pool) -> Callable[[str], bytes]:
    """Files of the store by their hashes."""

    def content(sha256: str) -> bytes:
        with pool.connection() as conn:
            return original_bytes(conn, sha256)

    return content


def load_from(content: Callable[[str], bytes]):  # -> Callable[[Source], ndarray]
    """A loader of sources out of files by their hashes."""

    def load(source: Source):
        return load_codes(source, content)

    return load


class Deliverer(Background):
    """Runs deliveries, one at a time. What did not finish leaves no file."""

    name, did, again = "deliveries", "delivered", "deliver again"

    def __init__(self, pool: Pool, destinations: Destinations, cache: Cache, meshes: Meshes) -> None:
        self.destinations, self._cache, self._meshes = destinations, cache, meshes
        self.pool, self.hashes, self._pace = pool, Hashes(), Pace()
        super().__init__(pool)

    def lasting(self, evaluation: Evaluation, target: Target, plan: Plan, counted: set[str]) -> Plan:
        """The plan with about how long it takes to write what goes, beside the plans that did what is ``counted``."""
        work = work_of(effort(evaluation, target, plan, counted), plan)
        return plan.model_copy(update={"seconds": self.seconds(work)})

    def seconds(self, work: float) -> float:
        """About how long so much work takes here, in units × texels."""
        return self._pace.seconds(work)

    def _clear(self, id: UUID) -> None:
        with self._pool.connection() as conn:
            row = deliveries.get_delivery(conn, id)
        if not row.is_again:
            shutil.rmtree(self.destinations.deliveries / row.folder, ignore_errors=True)

    def _write_end(self, id: UUID, state: Ended, problem: str | None) -> None:
        with self._pool.connection() as conn:
            deliveries.update_delivery(conn, id, state=state, problem=problem)

    def _work(self, id: UUID, cancel: Cancel) -> None:
        with self._pool.connection() as conn:
            row = deliveries.whole_delivery(conn, id)
        jobs = []
        for job in row.plan:
            plan, target = Plan.model_validate(job["plan"]), target_of(job)
            recipe = Recipe.model_validate(job["recipe"])
            jobs.append((plan, target, self.evaluation(recipe, max(plan.width, plan.height), cancel)))
        counted: set[str] = set()
        units = [effort(e, t, p, counted) for p, t, e in jobs]
        progress, began = Reporter(self._pool, id, sum(units)), time.monotonic()
        self._log.info("delivering %s into %s", id, row.folder)
        made: list[Made] = []
        try:
            for job in jobs:
                made.append(self._one(job, row.folder, progress))
            cancel.check()
            with self._pool.connection() as conn:
                before = deliveries.folder_manifest(conn, row.folder) if row.is_again else {}
                deliveries.update_delivery(
                    conn, id, state="done", done_units=progress.total, rows=progress.rows, manifest=_joined(before, made)
                )
            self._pace.learn(sum(work_of(n, p) for n, (p, _, _) in zip(units, jobs)), time.monotonic() - began)
            self._remove(row)
        except BaseException:
            progress.flush()
            self._undo(row, made)
            raise

    def evaluation(self, recipe: Recipe, longer_px: int | None, cancel: Cancel | None = None) -> Evaluation:
        """Of a recipe whose sources are in the store. For a worker thread."""
        return Evaluation(
            recipe, longer_px, load_from(content_from(self.pool)), self._cache, cancel or Cancel(), meshes=self._meshes
        )

    def _remove(self, row: WholeDelivery) -> None:
        """Files of before that a person ticked."""
        for job in row.plan:
            plan = Plan.model_validate(job["plan"])
            for name in (name for name in plan.gone if f"{plan.set}/{plan.target}/{name}" in job.get("remove", ())):
                (self.destinations.folder(row.folder, plan) / name).unlink(missing_ok=True)

    def _undo(self, row: WholeDelivery, made: list[Made]) -> None:
        """After a delivery that did not finish: a new folder leaves nothing; what is whole elsewhere stays, as ours."""
        folder = self.destinations.deliveries / row.folder
        stays = [one for one in made if row.is_again or one[0].sent_to is not None]
        if not row.is_again:
            for one in made if stays else ():
                if one not in stays:
                    shutil.rmtree(folder / one[0].set / one[0].target, ignore_errors=True)
            if not stays:
                shutil.rmtree(folder, ignore_errors=True)
        if stays:
            with contextlib.suppress(psycopg.Error), self._pool.connection() as conn:
                before = deliveries.folder_manifest(conn, row.folder)
                deliveries.update_delivery(conn, row.id, manifest=_joined(before, stays))

    def _one(self, job: tuple[Plan, Target, Evaluation], delivery: str, progress: Reporter) -> Made:
        plan, target, evaluation = job
        evaluation.cancel.check()
        evaluation.progress = progress

        def on_file(name: str, state: str) -> None:
            progress.file(f"{plan.set}/{plan.target}/{name}", state)

        folder, build_in = self.destinations.folder(delivery, plan), self.destinations.building(plan.place)
        report = deliver(evaluation, target, plan, folder, build_in=build_in, on_file=on_file)
        notes = write_notes(plan, target, evaluation.recipe, self.destinations.deliveries / delivery / plan.set)
        return report, {f"{plan.set}/{name}": sha256 for name, sha256 in notes.items()}


Made = tuple[Report, dict[str, str]]  # what one set for one target came to, and its notes


def _joined(before: dict[str, Any], made: list[Made]) -> dict[str, Any]:
    """The manifest of a folder: what was made now, and what an earlier delivery left there of other sets and targets."""
    now = {(report.set, report.target) for report, _ in made}
    others = [row for row in before.get("deliveries", ()) if (row["set"], row["target"]) not in now]
    notes = before.get("notes", {}) | {name: sha256 for _, notes in made for name, sha256 in notes.items()}
    return {"deliveries": [*others, *(report.model_dump(mode="json") for report, _ in made)], "notes": notes}


def target_of(job: dict[str, Any]) -> Target:
    """The table that one set of a delivery was planned by; jobs from before own targets name a shipped one."""
    return read_target(job["target"]) if "target" in job else shipped_target(job["plan"]["target"])


class Reporter(Progress):
    """Progress that writes to the delivery's row, ten times a second at most, and seldom enough to cost little.

    Thousands of files make that row hundreds of kilobytes; written at every file it would cost more than the files.
    """

    def __init__(self, pool: Pool, delivery_id: UUID, total: int) -> None:
        super().__init__(max(total, 1), self._write)
        self._pool, self._id, self._next = pool, delivery_id, 0.0
        self.rows: dict[str, str] = {}
        with pool.connection() as conn:
            deliveries.update_delivery(conn, delivery_id, state="running", total_units=self.total)

    def file(self, place: str, state: str) -> None:
        self.rows[place] = state
        self._write(self.done, self.total)

    def _write(self, done: int, total: int) -> None:
        if time.monotonic() >= self._next:
            self.flush()

    def flush(self) -> None:
        """Write it now."""
        began = time.monotonic()
        self._next = began + _REPORT_EVERY_S  # until it is known how long this one takes
        with contextlib.suppress(psycopg.Error):  # how far it is can wait; the files do not
            with self._pool.connection() as conn:
                deliveries.update_delivery(conn, self._id, done_units=self.done, rows=dict(self.rows))
        now = time.monotonic()
        self._next = now + max(_REPORT_EVERY_S, _SELDOM * (now - began))
