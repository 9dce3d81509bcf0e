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
_ANYTHING = 64  # bytes that anything but an array counts as
_ROOM = 0.5  # of the limit: what work is made room for at most, unless one piece takes more
_AT_ONCE = 0.04  # of the limit: what takes no more is done beside anything, such as what is looked at beside a delivery
_SMALL = 4 << 20  # bytes: what is measured at the working size is smaller
_LASTING = 0.5  # of the limit: what lasts and is small together, where there is more than has place


class Cache:
    """Least recently used goes first once ``limit_bytes`` is passed. Safe to share between threads.

    What is small, or said to last, goes last, as long as it takes no more than half: it is of use again and again where
    whole maps pass through.

    Examples
    --------
    >>> cache = Cache(1 << 20)
    >>> cache.kept("answer", lambda: 42), cache.get("answer")
    (42, 42)
    """

    def __init__(self, limit_bytes: int) -> None:
        self._values: LRUCache[str, Any] = LRUCache(limit_bytes, getsizeof=_bytes_of)
        self._lasting: LRUCache[str, Any] = LRUCache(limit_bytes, getsizeof=_bytes_of)
        self._making: dict[str, threading.Event] = {}
        self._room = 0
        self._lock = threading.Lock()
        self._freed = threading.Condition(self._lock)

    @property
    def limit_bytes(self) -> int:
        """How much is kept at most."""
        return int(self._values.maxsize)

    @contextmanager
    def passing(self) -> Generator[None, None, None]:
        """What is computed meanwhile is let go of at the end, but for what lasts: of use to what comes next.

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
                    del self._values[key]

    @contextmanager
    def room(self, needed_bytes: int, cancel: Cancel = NEVER) -> Generator[None, None, None]:
        """So much less is kept meanwhile, so that what is kept and what works together hold to the limit.

        Half of the limit is for work: what does not fit beside other work waits for that, and what does not fit at all works
        alone. Small work takes none and never waits. Raises Cancelled while it waits. What works must not ask for room itself.

        Examples
        --------
        >>> cache = Cache(1 << 20)
        >>> cache.put("map", np.zeros(150_000, np.float32))
        >>> with cache.room(1 << 20):
        ...     cache.get("map") is None
        True
        """
        if needed_bytes <= _AT_ONCE * self.limit_bytes:
            yield
            return
        most = int(_ROOM * self.limit_bytes)
        with self._freed:
            while self._room and self._room + needed_bytes > most:
                self._freed.wait(_ASK_AGAIN_S)
                cancel.check()
            self._room += needed_bytes
            self._let_go()
        try:
            yield
        finally:
            with self._freed:
                self._room -= needed_bytes
                self._freed.notify_all()

    def get(self, key: str) -> Any | None:
        """The value, None where it is not there (any more)."""
        with self._lock:
            return self._found(key)

    def put(self, key: str, value: Any, lasts: bool = False) -> None:
        """Keep a value, unless it is larger than the whole cache."""
        count = _bytes_of(value)
        with self._lock:
            if self._found(key) is None and count <= self.limit_bytes:
                self._let_go(count)
                (self._lasting if lasts or count <= _SMALL else self._values)[key] = value

    def kept(self, key: str, make: Callable[[], Made], cancel: Cancel = NEVER) -> Made:
        """The value, made now where it is not there; whoever asks while another thread makes it waits for that one.

        Where that thread fails, the one that waited makes it itself. Raises what ``make`` raises, or Cancelled.
        """
        while True:
            with self._lock:
                found = self._found(key)
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

    def _found(self, key: str) -> Any | None:
        value = self._values.get(key)
        return self._lasting.get(key) if value is None else value

    def _let_go(self, more: int = 0) -> None:
        """What was used longest ago, until what works has its room, and so many bytes ``more`` as well."""
        limit = self.limit_bytes - min(self._room, int(_ROOM * self.limit_bytes)) - more
        while self._values.currsize + self._lasting.currsize > max(limit, 0):
            is_full = self._lasting.currsize > _LASTING * self.limit_bytes
            (self._lasting if is_full or not self._values.currsize else self._values).popitem()


def _bytes_of(value: Any) -> int:
    if isinstance(value, np.ndarray):
        return value.nbytes if value.base is None else value.base.nbytes
    if is_dataclass(value) and not isinstance(value, type):
        return sum(_bytes_of(getattr(value, field.name)) for field in fields(value))
    return _ANYTHING
