"""Run compiled kernels over bands of rows on all cores, and stop between bands when asked to.

Kernels release the interpreter lock and are never ``parallel`` themselves: two requests can then run side by
side without a threading layer, and a stop takes effect within one band.
"""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

from .errors import Cancelled

__all__ = ["CORES", "Cancel", "NEVER", "RELAXED", "give_way", "in_parts", "run_rows"]

CORES = max(1, len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1)
BANDS_PER_CORE = 8
MIN_BAND_TEXELS = 1 << 15  # below this a band costs less than handing it to a thread

# What kernels may do to their arithmetic to be fast. Sums keep their order: the compiler would choose another one each time,
# and a kernel that was just compiled would then give other bytes than the same one from the cache.
RELAXED = {"nnan", "ninf", "nsz", "arcp", "contract"}

_NICENESS = 5


def give_way() -> None:
    """Let this thread step back behind threads that answer people, wherever a thread has a niceness of its own (Linux)."""
    if sys.platform == "linux":
        thread = threading.get_native_id()
        if os.getpriority(os.PRIO_PROCESS, thread) < _NICENESS:
            os.setpriority(os.PRIO_PROCESS, thread, _NICENESS)


_pool = ThreadPoolExecutor(CORES, thread_name_prefix="rows", initializer=give_way)


class Cancel:
    """A flag that long work polls."""

    def __init__(self) -> None:
        self._event = threading.Event()

    def cancel(self) -> None:
        self._event.set()

    @property
    def cancelled(self) -> bool:
        return self._event.is_set()

    def check(self) -> None:
        """Raise Cancelled once somebody has called ``cancel``."""
        if self._event.is_set():
            raise Cancelled


NEVER = Cancel()
_Part = TypeVar("_Part")
_Done = TypeVar("_Done")


def in_parts(work: Callable[[_Part], _Done], parts: Iterable[_Part]) -> list[_Done]:
    """Call ``work`` on every part, on all cores where it releases the interpreter lock; what came of them, in order."""
    return list(_pool.map(work, parts))


def run_rows(kernel: Callable[..., None], rows: int, width: int, cancel: Cancel, *arguments: Any) -> None:
    """Call ``kernel(first, last, *arguments)`` for bands that together cover ``rows``.

    Raises Cancelled between bands. Kernels write only rows ``first``..``last - 1`` of their outputs.
    """
    band = max(1, rows // (CORES * BANDS_PER_CORE), MIN_BAND_TEXELS // max(1, width))
    starts = range(0, rows, band)

    def run(first: int) -> None:
        cancel.check()
        kernel(first, min(first + band, rows), *arguments)

    if len(starts) == 1:
        run(0)
        return
    for _ in _pool.map(run, starts):
        pass
