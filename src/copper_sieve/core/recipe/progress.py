"""How far a walk through a recipe is."""

from __future__ import annotations

import threading
from collections.abc import Callable

__all__ = ["Progress"]


class Progress:
    """Counts work done out of work known. ``report`` is called with (done, total) after every step."""

    def __init__(self, total: int, report: Callable[[int, int], None] = lambda done, total: None) -> None:
        self.done, self.total = 0, total
        self._report = report
        self._lock = threading.Lock()

        self._made: set[str] = set()

    def made(self, what: str, effort: int) -> None:
        """Advance by ``effort``, once for each ``what``."""
        with self._lock:
            if what in self._made:
                return
            self._made.add(what)
        self.advance(effort)

    def advance(self, amount: int) -> None:
        with self._lock:  # reports come in order, whichever thread was first
            self.done += amount
            self._report(self.done, self.total)
