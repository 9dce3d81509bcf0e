"""Computed values by the hash of everything that went into them. Delete it and nothing is lost."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np

__all__ = ["Cache"]


class Cache:
    """Least recently used goes first once ``limit_bytes`` is passed. Safe to share between threads."""

    def __init__(self, limit_bytes: int) -> None:
        self._limit = limit_bytes
        self._held = 0
        self._values: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: str) -> Any | None:
        with self._lock:
            found = self._values.get(key)
            if found is None:
                return None
            self._values.move_to_end(key)
            return found[0]

    def put(self, key: str, value: Any) -> None:
        size = _bytes_of(value)
        with self._lock:
            if key in self._values or size > self._limit:
                return
            self._values[key] = (value, size)
            self._held += size
            while self._held > self._limit:
                _, (_, freed) = self._values.popitem(last=False)
                self._held -= freed


def _bytes_of(value: Any) -> int:
    if isinstance(value, np.ndarray):
        return value.nbytes if value.base is None else value.base.nbytes
    if is_dataclass(value) and not isinstance(value, type):
        return sum(_bytes_of(getattr(value, field.name)) for field in fields(value))
    return 64
