"""Deliveries in the background: one at a time, with progress, and stopped within a band of rows."""

from __future__ import annotations

import contextlib
import errno
import logging
import queue
import shutil
import threading
import time
from typing import Any
from uuid import UUID

import psycopg

from ...core.bands import Cancel
from ...core.errors import Cancelled, SieveError
from ...core.plan import Plan
from ...core.recipe import Cache, Evaluation, Progress, Recipe, Source
from ...core.target import Target, read_target
from ...store import deliveries
from ...store.database import Pool, answers
from ...store.deliveries import DeliveryRow, DeliveryState
from ...store.originals import original_bytes
from ...targets import shipped_target
from ..intake.looking import load_codes
from .delivering import Report, deliver, effort
from .destinations import Destinations
from .handing import write_notes

__all__ = ["Deliverer", "load_from", "target_of"]

_log = logging.getLogger("copper_sieve.deliveries")
_REPORT_EVERY_S = 0.1
_ASK_AGAIN_S = 0.25
_TRIES = 3
_NO_SPACE = (errno.ENOSPC, errno.EDQUOT)
_FULL = "The disk is full. Nothing was delivered and nothing was lost: make room, then deliver again."


def load_from(pool: Pool):  # -> Callable[[Source], ndarray]
    """A loader of sources from the store."""

    def content(sha256: str) -> bytes:
        with pool.connection() as conn:
            return original_bytes(conn, sha256)

    def load(source: Source):
        return load_codes(source, content)

    return load


class Deliverer:
    """Runs deliveries on a thread of its own, which outlives whatever happens to any of them. ``close`` cancels and waits."""

    def __init__(self, pool: Pool, destinations: Destinations, cache: Cache) -> None:
        self._pool, self.destinations, self._cache = pool, destinations, cache
        self._waiting: queue.Queue[UUID | None] = queue.Queue()
        self._cancels: dict[UUID, Cancel] = {}
        self._now: UUID | None = None
        self._closing = threading.Event()
        self._starting = threading.Lock()
        self._thread = self._begun()

    def start(self, delivery_id: UUID) -> None:
        self._cancels[delivery_id] = Cancel()
        self._waiting.put(delivery_id)
        self.keep_alive()

    def cancel(self, delivery_id: UUID) -> None:
        if delivery_id in self._cancels:
            self._cancels[delivery_id].cancel()

    def close(self) -> None:
        self._closing.set()
        for cancel in list(self._cancels.values()):
            cancel.cancel()
        self._waiting.put(None)
        self._thread.join(timeout=10)

    def keep_alive(self) -> bool:
        """Start the thread again if it is dead, and settle what it left; returns whether it was alive."""
        with self._starting:
            if self._thread.is_alive() or self._closing.is_set():
                return True
            _log.error("the thread of the deliveries was dead; it is started again")
            left, self._now = self._now, None
            self._thread = self._begun(left)
            return False

    def _begun(self, left: UUID | None = None) -> threading.Thread:
        thread = threading.Thread(target=self._run, args=(left,), name="deliveries", daemon=True)
        thread.start()
        return thread

    def _run(self, left: UUID | None) -> None:
        if left is not None:
            self._give_up(left)
        while (delivery_id := self._waiting.get()) is not None:
            self._now = delivery_id
            try:
                self._settle(delivery_id, *self._outcome(delivery_id))
            except BaseException:  # the thread must outlive any one delivery
                _log.exception("delivery %s could not be settled", delivery_id)
            self._now = None
            self._cancels.pop(delivery_id, None)

    def _outcome(self, delivery_id: UUID) -> tuple[DeliveryState, str | None]:
        """Run one delivery; how it ended, and why where it failed. What did not finish leaves no file."""
        cancel = self._cancels.setdefault(delivery_id, Cancel())
        for _ in range(_TRIES):
            try:
                self._deliver(delivery_id, cancel)
                _log.info("delivered %s", delivery_id)
                return "done", None
            except Cancelled:
                _log.info("cancelled %s", delivery_id)
                return "cancelled", None
            except psycopg.errors.InsufficientResources as problem:
                _log.warning("failed %s: %s", delivery_id, problem)
                return "failed", _FULL
            except (psycopg.OperationalError, psycopg.InterfaceError) as problem:
                _log.warning("delivery %s lost the database: %s", delivery_id, problem)
                self._wait_for_database()
            except (SieveError, OSError) as problem:
                _log.warning("failed %s: %s", delivery_id, problem)
                return "failed", _FULL if isinstance(problem, OSError) and problem.errno in _NO_SPACE else str(problem)
            except BaseException as problem:
                _log.exception("failed %s", delivery_id)
                return "failed", f"A fault of ours: {type(problem).__name__}: {problem}"
        return "failed", "The database was lost in the middle of it, more than once. Deliver again."

    def _give_up(self, delivery_id: UUID) -> None:
        """Settle what a dead thread left in the middle."""
        with contextlib.suppress(BaseException):
            with self._pool.connection() as conn:
                row = deliveries.get_delivery(conn, delivery_id)
                if not row.is_again:
                    shutil.rmtree(self.destinations.deliveries / row.folder, ignore_errors=True)
        self._cancels.pop(delivery_id, None)
        self._settle(delivery_id, "failed", "It was stopped in the middle by a fault of ours. Deliver again.")

    def _settle(self, delivery_id: UUID, state: DeliveryState, problem: str | None) -> None:
        """Write how it ended, as soon as the database takes it."""
        while not self._closing.is_set():
            try:
                with self._pool.connection() as conn:
                    if state != "done":  # that was written together with the manifest
                        deliveries.update_delivery(conn, delivery_id, state=state, problem=problem)
                return
            except (psycopg.OperationalError, psycopg.InterfaceError):
                self._wait_for_database()

    def _wait_for_database(self) -> None:
        while not self._closing.is_set() and not answers(self._pool):
            self._closing.wait(_ASK_AGAIN_S)

    def _deliver(self, delivery_id: UUID, cancel: Cancel) -> None:
        with self._pool.connection() as conn:
            row = deliveries.get_delivery(conn, delivery_id)
        load = load_from(self._pool)
        jobs = []
        for job in row.plan:
            plan, target = Plan.model_validate(job["plan"]), target_of(job)
            recipe = Recipe.model_validate(job["recipe"])
            jobs.append((plan, target, Evaluation(recipe, max(plan.width, plan.height), load, self._cache, cancel)))
        progress = _Reporter(self._pool, delivery_id, sum(effort(e, t, p) for p, t, e in jobs))
        _log.info("delivering %s into %s", delivery_id, row.folder)
        made: list[Made] = []
        try:
            for job in jobs:
                made.append(self._one(job, row.folder, progress))
            cancel.check()
            with self._pool.connection() as conn:
                before = deliveries.folder_manifest(conn, row.folder) if row.is_again else {}
                deliveries.update_delivery(
                    conn, delivery_id, state="done", done_units=progress.total, rows=progress.rows, manifest=_joined(before, made)
                )
            self._remove(row)
        except BaseException:
            self._undo(row, made)
            raise

    def _remove(self, row: DeliveryRow) -> None:
        """Files of before that a person ticked."""
        for job in row.plan:
            plan = Plan.model_validate(job["plan"])
            for name in (name for name in plan.gone if f"{plan.set}/{plan.target}/{name}" in job.get("remove", ())):
                (self.destinations.folder(row.folder, plan) / name).unlink(missing_ok=True)

    def _undo(self, row: DeliveryRow, made: list[Made]) -> None:
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

    def _one(self, job: tuple[Plan, Target, Evaluation], delivery: str, progress: _Reporter) -> Made:
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


class _Reporter(Progress):
    """Progress that writes to the delivery's row, at most ten times a second."""

    def __init__(self, pool: Pool, delivery_id: UUID, total: int) -> None:
        super().__init__(max(total, 1), self._write)
        self._pool, self._id, self._last = pool, delivery_id, 0.0
        self.rows: dict[str, str] = {}
        with pool.connection() as conn:
            deliveries.update_delivery(conn, delivery_id, state="running", total_units=self.total)

    def file(self, place: str, state: str) -> None:
        self.rows[place] = state
        self._write(self.done, self.total, force=True)

    def _write(self, done: int, total: int, *, force: bool = False) -> None:
        now = time.monotonic()
        if not force and now - self._last < _REPORT_EVERY_S:
            return
        self._last = now
        with contextlib.suppress(psycopg.Error):  # how far it is can wait; the files do not
            with self._pool.connection() as conn:
                deliveries.update_delivery(conn, self._id, done_units=done, rows=self.rows)
