"""Files as they came, each once by its sha256, in chunks of 1 MiB."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from typing import IO, Any

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from .database import Database
from .statements import statements

__all__ = [
    "keep_original",
    "original_bytes",
    "original_chunks",
    "original_exists",
    "original_header",
    "original_headers",
    "sweep_originals",
]

_SQL = statements("originals")
CHUNK_BYTES = 1 << 20
_AT_ONCE = 8  # chunks that come from the database together


def keep_original(
    conn: Database, *, sha256: str, name: str, size_bytes: int, content: IO[bytes], header: dict[str, Any] | None = None
) -> None:
    """Store ``content`` unless it is there already; ``header`` is what its reader said of it."""
    told = {"sha256": sha256, "name": name, "size_bytes": size_bytes, "header": None if header is None else Jsonb(header)}
    if conn.execute(_SQL["keep_original"], told).fetchone() is None:
        return
    with conn.cursor() as cursor:
        for number, chunk in enumerate(iter(lambda: content.read(CHUNK_BYTES), b"")):
            cursor.execute(_SQL["keep_chunk"], {"sha256": sha256, "number": number, "content": chunk})


def original_exists(conn: Database, sha256: str) -> bool:
    """Whether the file is kept."""
    return sha256 in original_headers(conn, [sha256])


def original_headers(conn: Database, sha256s: Sequence[str]) -> dict[str, dict[str, Any] | None]:
    """Headers of those of the files that are kept; None for what was kept before these were noted."""
    rows = conn.execute(_SQL["original_headers"], {"sha256s": list(sha256s)})
    return {row["sha256"]: row["header"] for row in rows}


def original_header(conn: Database, sha256: str) -> dict[str, Any] | None:
    """Width, height, depth and the like of a kept file; None for files kept before these were noted."""
    return original_headers(conn, [sha256]).get(sha256)


def original_bytes(conn: Database, sha256: str) -> bytes:
    """All bytes of a kept file. Raises UnknownKey."""
    if not original_exists(conn, sha256):
        raise UnknownKey("original", sha256, ["the sha256 of a file that was dropped"])
    whole = io.BytesIO()  # grows in place: never all pieces and the whole at a time
    with conn.cursor() as cursor:
        for row in cursor.stream(_SQL["original_chunks"], {"sha256": sha256}, binary=True):
            whole.write(row["content"])
    return whole.getvalue()


def original_chunks(conn: Database, sha256: str) -> Iterator[bytes]:
    """The same piece by piece, never whole in memory; nothing for a file that is not kept."""
    with conn.cursor("chunks", binary=True) as cursor:
        cursor.itersize = _AT_ONCE
        for row in cursor.execute(_SQL["original_chunks"], {"sha256": sha256}):
            yield row["content"]


def sweep_originals(conn: Database) -> int:
    """Remove files that no recipe names and that are older than a day; returns how many."""
    return conn.execute(_SQL["sweep_originals"]).rowcount
