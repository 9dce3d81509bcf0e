"""Hashes of files on disk, taken anew only when a file's time or size is another."""

from __future__ import annotations

import hashlib
from pathlib import Path

__all__ = ["Hashes"]


class Hashes:
    """Remembers what it has read."""

    def __init__(self) -> None:
        self._known: dict[tuple[str, int, int], str] = {}

    def of(self, path: Path) -> str:
        """sha256 of a file. Raises OSError."""
        stat = path.stat()
        key = (str(path), stat.st_mtime_ns, stat.st_size)
        if key not in self._known:
            with path.open("rb") as file:
                self._known[key] = hashlib.file_digest(file, "sha256").hexdigest()
        return self._known[key]
