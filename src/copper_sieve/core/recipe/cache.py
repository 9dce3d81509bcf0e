"""Computed values by the hash of everything that went into them. Delete it and nothing is lost."""

from __future__ import annotations

import threading
from collections.abc import Callable, Generator
from contextlib import contextmanager
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

import numpy as np
from cachetools import LRUCache

from ..bands import NEVER, Cancel

__all__ = ["Cache"]

Made = TypeVar("Made")
_ASK_AGAIN_S = 0.02  # how soon a waiting thread sees that nobody waits for it any more
_SMALL = 64  # bytes that anything but an array counts as
_LASTING = 4 << 20  # bytes: what is measured at the working size is smaller


class Cache:
    """Least recently used goes first once ``limit_bytes`` is passed. Safe to share between threads.

    Examples
    --------
    >>> cache = Cache(1 << 20)
    >>> cache.kept("answer", lambda: 42), cache.get("answer")
    (42, 42)
    """

    def __init__(self, limit_bytes: int) -> None:
        self._values: LRUCache[str, Any] = LRUCache(limit_bytes, getsizeof=_bytes_of)
        self._making: dict[str, threading.Event] = {}
        self._lock = threading.Lock()

    @property
    def limit_bytes(self) -> int:
        """How much is kept at most."""
        return int(self._values.maxsize)

    @contextmanager
    def passing(self) -> Generator[None, None, None]:
        """What is computed meanwhile is let go of at the end, but for what is small: measured once, of use to what comes next.

        Examples
        --------
        >>> cache = Cache(1 << 30)
        >>> with cache.passing():
        ...     measured, whole = cache.kept("mean", lambda: 0.5), cache.kept("map", lambda: np.zeros(1 << 20))
        >>> cache.get("mean"), cache.get("map")
        (0.5, None)
        """
        with self._lock:
            before = set(self._values)
        try:
            yield
        finally:
            with self._lock:
                for key in set(self._values) - before:
                    if _bytes_of(self._values[key]) > _LASTING:
                        del self._values[key]

    def get(self, key: str) -> Any | None:
        """The value, None where it is not there (any more)."""
        with self._lock:
            return self._values.get(key)

    def put(self, key: str, value: Any) -> None:
        """Keep a value, unless it is larger than the whole cache."""
        with self._lock:
            if key not in self._values and _bytes_of(value) <= self._values.maxsize:
                self._values[key] = value

    def kept(self, key: str, make: Callable[[], Made], cancel: Cancel = NEVER) -> Made:
        """The value, made now where it is not there; whoever asks while another thread makes it waits for that one.

        Where that thread fails, the one that waited makes it itself. Raises what ``make`` raises, or Cancelled.
        """
        while True:
            with self._lock:
                found = self._values.get(key)
                if found is not None:
                    return found
                other = self._making.get(key)
                if other is None:
                    own = self._making[key] = threading.Event()
                    break
            while not other.wait(_ASK_AGAIN_S):
                cancel.check()
        try:
            made = make()
            self.put(key, made)
            return made
        finally:
            with self._lock:
                del self._making[key]
            own.set()


def _bytes_of(value: Any) -> int:
    if isinstance(value, np.ndarray):
        return value.nbytes if value.base is None else value.base.nbytes
    if is_dataclass(value) and not isinstance(value, type):
        return sum(_bytes_of(getattr(value, field.name)) for field in fields(value))
    return _SMALL
