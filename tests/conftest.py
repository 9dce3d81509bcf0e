"""Shared fixtures: one real PostgreSQL for the whole run, and an application over it."""

from __future__ import annotations

import tempfile
from pathlib import Path

import pytest

from asking import asking
from copper_sieve.api.app import create_app
from copper_sieve.demo import load_demo
from copper_sieve.server.postgres import running_postgres
from copper_sieve.store.database import migrate, open_pool


@pytest.fixture(scope="session")
def data():
    with tempfile.TemporaryDirectory(dir="/tmp") as folder:
        Path(folder).chmod(0o755)  # the database's user must be able to enter it
        yield Path(folder)


@pytest.fixture(scope="session")
def database(data):
    with running_postgres(data) as url:
        with open_pool(url) as pool:
            with pool.connection() as conn:
                migrate(conn)
            load_demo(pool, size=128)
        yield url


@pytest.fixture(scope="session")
def client(database, data):
    with asking(create_app(database, data, warm=False)) as client:
        yield client


def pytest_collection_modifyitems(items):
    """What takes longest begins first, so that two workers end together."""
    items.sort(key=lambda item: not {"screen", "server"} & set(item.path.parts))
