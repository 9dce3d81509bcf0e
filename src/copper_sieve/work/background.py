"""Work that goes on behind the screen: one piece at a time, told how it ended, cancelled within a band of rows."""

from __future__ import annotations

import contextlib
import errno
import logging
import queue
import threading
from abc import ABC, abstractmethod
from typing import ClassVar, Literal
from uuid import UUID

import psycopg

from ..core.bands import Cancel
from ..core.errors import Cancelled, SieveError
from ..store.database import Pool, answers

__all__ = ["Background", "Ended"]

Ended = Literal["done", "cancelled", "failed"]
_ASK_AGAIN_S = 0.25
_TRIES = 3
_NO_SPACE = (errno.ENOSPC, errno.EDQUOT)


class Background(ABC):
    """A thread that does what it is given by id, and that outlives whatever happens to any of it. ``close`` cancels and waits.

    What a piece of work is, where its end is written and what it is called are said by those who derive from it.
    """

    name: ClassVar[str]  # of the thread, and in the log
    did: ClassVar[str]  # "delivered"
    again: ClassVar[str]  # "deliver again"

    def __init__(self, pool: Pool) -> None:
        self._pool = pool
        self._log = logging.getLogger(f"copper_sieve.{self.name}")
        self._waiting: queue.Queue[UUID | None] = queue.Queue()
        self._cancels: dict[UUID, Cancel] = {}
        self._now: UUID | None = None
        self._closing = threading.Event()
        self._starting = threading.Lock()
        self._thread = self._begun()

    @abstractmethod
    def _work(self, id: UUID, cancel: Cancel) -> None:
        """Do one piece, and write what came of it. Raises Cancelled, SieveError, OSError; whatever else is a fault of ours."""

    @abstractmethod
    def _write_end(self, id: UUID, state: Ended, problem: str | None) -> None:
        """Write how it ended, where it was not done: what was done was written together with what came of it."""

    def _clear(self, id: UUID) -> None:
        """Take away what a dead thread left half-made."""
        return

    def start(self, id: UUID) -> None:
        self._cancels[id] = Cancel()
        self._waiting.put(id)
        self.keep_alive()

    def cancel(self, id: UUID) -> None:
        if id in self._cancels:
            self._cancels[id].cancel()

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
            self._log.error("the thread of the %s was dead; it is started again", self.name)
            left, self._now = self._now, None
            self._thread = self._begun(left)
            return False

    def _begun(self, left: UUID | None = None) -> threading.Thread:
        thread = threading.Thread(target=self._run, args=(left,), name=self.name, daemon=True)
        thread.start()
        return thread

    def _run(self, left: UUID | None) -> None:
        if left is not None:
            self._give_up(left)
        while (id := self._waiting.get()) is not None:
            self._now = id
            try:
                self._settle(id, *self._outcome(id))
            except BaseException:  # the thread must outlive any one piece
                self._log.exception("%s could not be settled", id)
            self._now = None
            self._cancels.pop(id, None)

    def _outcome(self, id: UUID) -> tuple[Ended, str | None]:
        """Do one piece; how it ended, and why where it failed."""
        cancel = self._cancels.setdefault(id, Cancel())
        for _ in range(_TRIES):
            try:
                self._work(id, cancel)
                self._log.info("%s %s", self.did, id)
                return "done", None
            except Cancelled:
                self._log.info("cancelled %s", id)
                return "cancelled", None
            except psycopg.errors.InsufficientResources as problem:
                self._log.warning("failed %s: %s", id, problem)
                return "failed", self._full
            except (psycopg.OperationalError, psycopg.InterfaceError) as problem:
                self._log.warning("%s lost the database: %s", id, problem)
                self._wait_for_database()
            except (SieveError, OSError) as problem:
                self._log.warning("failed %s: %s", id, problem)
                is_full = isinstance(problem, OSError) and problem.errno in _NO_SPACE
                return "failed", self._full if is_full else str(problem)
            except BaseException as problem:
                self._log.exception("failed %s", id)
                return "failed", f"A fault of ours: {type(problem).__name__}: {problem}"
        return "failed", f"The database was lost in the middle of it, more than once. {self._again}."

    @property
    def _again(self) -> str:
        return self.again.capitalize()

    @property
    def _full(self) -> str:
        return f"The disk is full. Nothing was {self.did} and nothing was lost: make room, then {self.again}."

    def _give_up(self, id: UUID) -> None:
        """Settle what a dead thread left in the middle."""
        with contextlib.suppress(BaseException):
            self._clear(id)
        self._cancels.pop(id, None)
        self._settle(id, "failed", f"It was stopped in the middle by a fault of ours. {self._again}.")

    def _settle(self, id: UUID, state: Ended, problem: str | None) -> None:
        """Write how it ended, as soon as the database takes it."""
        while not self._closing.is_set():
            try:
                if state != "done":
                    self._write_end(id, state, problem)
                return
            except (psycopg.OperationalError, psycopg.InterfaceError):
                self._wait_for_database()

    def _wait_for_database(self) -> None:
        while not self._closing.is_set() and not answers(self._pool):
            self._closing.wait(_ASK_AGAIN_S)
