"""Files as they came, each once by its sha256, in chunks of 1 MiB."""

from __future__ import annotations

from typing import IO, Any

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from .database import Database

__all__ = ["keep_original", "original_bytes", "original_exists", "original_header", "sweep_originals"]

CHUNK_BYTES = 1 << 20


def keep_original(
    conn: Database, *, sha256: str, name: str, size_bytes: int, content: IO[bytes], header: dict[str, Any] | None = None
) -> None:
    """Store ``content`` unless it is there already; ``header`` is what its reader said of it."""
    new = conn.execute(
        """INSERT INTO original (sha256, name, size_bytes, header) VALUES (%s, %s, %s, %s)
           ON CONFLICT DO NOTHING RETURNING sha256""",
        (sha256, name, size_bytes, None if header is None else Jsonb(header)),
    ).fetchone()
    if new is None:
        return
    with conn.cursor() as cursor:
        for number, chunk in enumerate(iter(lambda: content.read(CHUNK_BYTES), b"")):
            cursor.execute("INSERT INTO original_chunk VALUES (%s, %s, %s)", (sha256, number, chunk))


def original_exists(conn: Database, sha256: str) -> bool:
    """Whether the file is kept."""
    return conn.execute("SELECT 1 FROM original WHERE sha256 = %s", (sha256,)).fetchone() is not None


def original_header(conn: Database, sha256: str) -> dict[str, Any] | None:
    """Width, height, depth and the like of a kept file; None for files kept before these were noted."""
    row = conn.execute("SELECT header FROM original WHERE sha256 = %s", (sha256,)).fetchone()
    return None if row is None else row["header"]


def original_bytes(conn: Database, sha256: str) -> bytes:
    """All bytes of a kept file. Raises UnknownKey."""
    if not original_exists(conn, sha256):
        raise UnknownKey("original", sha256, ["the sha256 of a file that was dropped"])
    rows = conn.execute("SELECT content FROM original_chunk WHERE sha256 = %s ORDER BY number", (sha256,), binary=True)
    return b"".join(row["content"] for row in rows)


def sweep_originals(conn: Database) -> int:
    """Remove files that no recipe names and that are older than a day; returns how many."""
    return conn.execute(
        """DELETE FROM original WHERE created < now() - interval '1 day' AND NOT EXISTS (
             SELECT 1 FROM recipe_version v WHERE v.recipe
               @? ('$.sources.*.sha256 ? (@ == "' || original.sha256 || '")')::jsonpath)"""
    ).rowcount
