"""How much of the machine's memory computed maps may take."""

from __future__ import annotations

import os
from pathlib import Path

__all__ = ["cache_bytes"]

_SHARE = 1 / 4  # of the memory there is
_LEAST, _MOST = 1 << 30, 8 << 30
_LIMIT_OF_GROUP = Path("/sys/fs/cgroup/memory.max")  # of a container


def cache_bytes(memory: int | None = None) -> int:
    """A quarter of ``memory``, by default of what this machine or container has, between 1 and 8 GiB.

    Examples
    --------
    >>> [cache_bytes(gib << 30) >> 30 for gib in (2, 16, 128)]
    [1, 4, 8]
    """
    return int(min(max(_SHARE * (_there() if memory is None else memory), _LEAST), _MOST))


def _there() -> int:
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    try:
        return min(whole, int(_LIMIT_OF_GROUP.read_text()))
    except (OSError, ValueError):  # no container, or one without a limit ("max")
        return whole
