"""The pool of connections, and the migrations."""

from __future__ import annotations

from importlib import resources

import psycopg
from psycopg import Connection
from psycopg.rows import DictRow, dict_row
from psycopg_pool import ConnectionPool

__all__ = ["Database", "Pool", "answers", "migrate", "open_pool"]

Database = Connection[DictRow]
Pool = ConnectionPool[Database]
_WAIT_S = 1.5
_MIGRATION_LOCK = 84201  # any fixed number: two starts must not migrate at once


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


def answers(pool: Pool) -> bool:
    """Whether the database answers now."""
    try:
        with pool.connection() as conn:
            conn.execute("SELECT 1")
    except psycopg.Error:
        return False
    return True


def migrate(conn: Database) -> list[str]:
    """Run the numbered files that have not run yet, each once; returns their names."""
    conn.execute("SELECT pg_advisory_xact_lock(%s)", (_MIGRATION_LOCK,))
    conn.execute("CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, ran timestamptz NOT NULL DEFAULT now())")
    ran = {row["name"] for row in conn.execute("SELECT name FROM migration")}
    folder = resources.files("copper_sieve.store") / "migrations"
    new = sorted(f.name for f in folder.iterdir() if f.name.endswith(".sql") and f.name not in ran)
    for name in new:
        conn.execute((folder / name).read_text("utf-8").encode())
        conn.execute("INSERT INTO migration (name) VALUES (%s)", (name,))
    return new
