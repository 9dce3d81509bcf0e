"""Files that were looked at go into the store."""

from __future__ import annotations

from dataclasses import asdict
from typing import IO

from ...store.database import Pool
from ...store.originals import keep_original
from .looking import Looked

__all__ = ["keep_looked"]


def keep_looked(pool: Pool, looked: Looked, content: IO[bytes]) -> None:
    """Keep a file that could be read."""
    if looked.header is None:
        return
    row = {"sha256": looked.sha256, "name": looked.name, "size_bytes": looked.bytes, "header": asdict(looked.header)}
    with pool.connection() as conn:
        keep_original(conn, **row, content=content)
