"""The pool of connections, and the migrations."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from importlib import resources
from typing import Any, LiteralString, TypeVar

import psycopg
from psycopg import Connection, Cursor
from psycopg.rows import DictRow, dict_row, kwargs_row
from psycopg_pool import ConnectionPool

from ..core.errors import SieveError

__all__ = ["Database", "MigrationChanged", "Pool", "answers", "migrate", "open_pool", "rows_of"]

Database = Connection[DictRow]
Pool = ConnectionPool[Database]
Row = TypeVar("Row")
_WAIT_S = 1.5
_MIGRATION_LOCK = 84201  # any fixed number: two starts must not migrate at once


class MigrationChanged(SieveError):
    """A migration that this database has run is not the file of that name any more: another program made the database."""

    code = "migration-changed"


def open_pool(url: str) -> Pool:
    """Open a pool whose rows are dicts. Every ``with pool.connection()`` is one transaction.

    A connection is tried before it is handed out, and whoever waits for one gives up soon: a database that is gone is said
    to be gone while somebody is still looking at the screen.
    """
    pool: Pool = ConnectionPool(
        url,
        min_size=1,
        max_size=16,
        kwargs={"row_factory": dict_row, "connect_timeout": 2, "keepalives_idle": 5},
        open=True,
        timeout=_WAIT_S,
        reconnect_timeout=_WAIT_S,
        check=ConnectionPool[Database].check_connection,
    )
    return pool


def rows_of(conn: Database, make: Callable[..., Row], statement: LiteralString, told: Mapping[str, Any] = {}) -> Cursor[Row]:
    """Run a statement whose rows are what ``make`` makes of their columns, by name."""
    return conn.cursor(row_factory=kwargs_row(make)).execute(statement, told)


def answers(pool: Pool) -> bool:
    """Whether the database answers now."""
    try:
        with pool.connection() as conn:
            conn.execute("SELECT 1")
    except psycopg.Error:
        return False
    return True


def migrate(conn: Database, *, up_to: str | None = None) -> list[str]:
    """Run the numbered files that have not run yet, each once and in their order; returns their names.

    Parameters
    ----------
    up_to : the last file to run, for tests that look at a database as it was
    Raises
    ------
    MigrationChanged : a file that has run is not the one of that name any more
    """
    conn.execute("SELECT pg_advisory_xact_lock(%s)", (_MIGRATION_LOCK,))
    conn.execute("CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, ran timestamptz NOT NULL DEFAULT now())")
    ran = {row["name"] for row in conn.execute("SELECT name FROM migration")}
    files = _files()
    _check_unchanged(conn, files)
    new = [name for name in sorted(files) if name not in ran and (up_to is None or name <= up_to)]
    for name in new:
        conn.execute(files[name])
        conn.execute("INSERT INTO migration (name) VALUES (%s)", (name,))
    if _has_checksums(conn):
        for name, content in files.items():
            told = {"name": name, "sha256": hashlib.sha256(content).hexdigest()}
            conn.execute("UPDATE migration SET sha256 = %(sha256)s WHERE name = %(name)s AND sha256 IS NULL", told)
    return new


def _files() -> dict[str, bytes]:
    folder = resources.files("copper_sieve.store") / "migrations"
    return {file.name: file.read_bytes() for file in folder.iterdir() if file.name.endswith(".sql")}


def _has_checksums(conn: Database) -> bool:
    column = "SELECT 1 FROM information_schema.columns WHERE table_name = 'migration' AND column_name = 'sha256'"
    return conn.execute(column).fetchone() is not None


def _check_unchanged(conn: Database, files: Mapping[str, bytes]) -> None:
    if not _has_checksums(conn):
        return
    for row in conn.execute("SELECT name, sha256 FROM migration WHERE sha256 IS NOT NULL ORDER BY name"):
        content = files.get(row["name"])
        if content is None or hashlib.sha256(content).hexdigest() != row["sha256"]:
            raise MigrationChanged(
                f"The database was made by another program: {row['name']} is not what it was when it ran. "
                "Start the program that made it, or choose another data folder.",
                name=row["name"],
            )
