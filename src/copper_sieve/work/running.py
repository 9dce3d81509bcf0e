"""Deliveries in the background: one at a time, with progress, and stopped within a band of rows."""

from __future__ import annotations

import queue
import shutil
import threading
import time
from pathlib import Path
from typing import Any
from uuid import UUID

from ..core.bands import Cancel
from ..core.errors import Cancelled, SieveError
from ..core.recipe import Cache, Evaluation, Progress, Recipe, Source
from ..core.target import Target, read_target
from ..store import deliveries
from ..store.database import Pool
from ..store.originals import original_bytes
from ..targets import shipped_target
from .delivering import Report, deliver, effort
from .handing import write_notes
from .looking import load_codes
from .planning import Plan

__all__ = ["Deliverer", "load_from", "target_of"]

_REPORT_EVERY_S = 0.1


def load_from(pool: Pool):  # -> Callable[[Source], ndarray]
    """A loader of sources from the store."""

    def content(sha256: str) -> bytes:
        with pool.connection() as conn:
            return original_bytes(conn, sha256)

    def load(source: Source):
        return load_codes(source, content)

    return load


class Deliverer:
    """Runs deliveries on a thread of its own. ``close`` cancels what runs and waits for it."""

    def __init__(self, pool: Pool, root: Path, cache: Cache) -> None:
        self._pool, self.root, self._cache = pool, root, cache
        self._waiting: queue.Queue[UUID | None] = queue.Queue()
        self._cancels: dict[UUID, Cancel] = {}
        self._thread = threading.Thread(target=self._run, name="deliveries", daemon=True)
        self._thread.start()

    def start(self, delivery_id: UUID) -> None:
        self._cancels[delivery_id] = Cancel()
        self._waiting.put(delivery_id)

    def cancel(self, delivery_id: UUID) -> None:
        if delivery_id in self._cancels:
            self._cancels[delivery_id].cancel()

    def close(self) -> None:
        for cancel in list(self._cancels.values()):
            cancel.cancel()
        self._waiting.put(None)
        self._thread.join(timeout=10)

    def _run(self) -> None:
        while (delivery_id := self._waiting.get()) is not None:
            cancel = self._cancels[delivery_id]
            try:
                self._deliver(delivery_id, cancel)
            except Cancelled:
                self._settle(delivery_id, "cancelled")
            except (SieveError, OSError) as problem:
                self._settle(delivery_id, "failed", str(problem))
            except Exception as problem:  # the thread must outlive any one delivery
                self._settle(delivery_id, "failed", f"A fault of ours: {type(problem).__name__}: {problem}")
            finally:
                del self._cancels[delivery_id]

    def _settle(self, delivery_id: UUID, state: str, problem: str | None = None) -> None:
        with self._pool.connection() as conn:
            deliveries.update_delivery(conn, delivery_id, state=state, problem=problem)

    def _deliver(self, delivery_id: UUID, cancel: Cancel) -> None:
        with self._pool.connection() as conn:
            row = deliveries.get_delivery(conn, delivery_id)
        load = load_from(self._pool)
        jobs = []
        for job in row["plan"]:
            plan, target = Plan.model_validate(job["plan"]), target_of(job)
            recipe = Recipe.model_validate(job["recipe"])
            jobs.append((plan, target, Evaluation(recipe, max(plan.width, plan.height), load, self._cache, cancel)))
        progress = _Reporter(self._pool, delivery_id, sum(effort(e, t, p) for p, t, e in jobs))
        folder = self.root / row["folder"]
        try:
            reports = [self._one(job, folder, progress) for job in jobs]
            cancel.check()
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)  # it was new: a delivery that did not finish leaves nothing
            raise
        manifest = {"deliveries": [report.model_dump(mode="json") for report in reports]}
        with self._pool.connection() as conn:
            deliveries.update_delivery(
                conn,
                delivery_id,
                state="done",
                done_units=progress.total,
                rows=progress.rows,
                manifest=manifest,
            )

    @staticmethod
    def _one(job: tuple[Plan, Target, Evaluation], folder: Path, progress: _Reporter) -> Report:
        plan, target, evaluation = job
        evaluation.cancel.check()
        evaluation.progress = progress

        def on_file(name: str, state: str) -> None:
            progress.file(f"{plan.set}/{plan.target}/{name}", state)

        report = deliver(evaluation, target, plan, folder / plan.set / plan.target, on_file=on_file)
        write_notes(plan, target, evaluation.recipe, folder / plan.set)
        return report


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
        with self._pool.connection() as conn:
            deliveries.update_delivery(conn, self._id, done_units=done, rows=self.rows)
