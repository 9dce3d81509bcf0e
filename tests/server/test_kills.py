"""Killed at random moments of deliveries: the server, one connection of the database, all of the database. Nothing is lost."""

import os
import random
import signal
import tempfile
import threading
import time
from pathlib import Path

import pytest
from bench.kills import PATIENCE_S, VICTIMS, Trial

from asking import asking, ended, eventually
from copper_sieve.api.app import create_app
from copper_sieve.server.postgres import _Kept, running_postgres
from copper_sieve.store.database import migrate, open_pool
from copper_sieve.work.deliveries.running import Deliverer

PROJECT = "/api/projects/the-salt-heron-wardrobe"
SLACK_S = 1  # for a machine that is busy with other tests


@pytest.fixture(scope="module")
def trial():
    with tempfile.TemporaryDirectory(dir="/tmp") as folder:
        Path(folder).chmod(0o755)  # the database's user must be able to enter it
        made = Trial(Path(folder), random.Random(3))
        yield made
        made.end()


@pytest.mark.parametrize("victim", [*VICTIMS, "postmaster", "backend"])
def test_what_was_acknowledged_outlives_a_kill(trial, victim):
    trial.kill(victim)
    assert not trial.lost and sum(trial.outcomes.values()) == len(trial.runs)


def test_a_database_that_is_gone_is_said_to_be_and_one_that_comes_back_is_found(monkeypatch):
    with tempfile.TemporaryDirectory(dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        with running_postgres(Path(folder)) as url:
            with open_pool(url) as pool, pool.connection() as conn:
                migrate(conn)
            with asking(create_app(url, Path(folder), warm=False)) as client:
                assert client.get("/api/health").json()["status"] == "ok"
                may_come_back, spawn = threading.Event(), _Kept._spawn
                monkeypatch.setattr(_Kept, "_spawn", lambda kept: may_come_back.wait() and spawn(kept))
                os.kill(int((Path(folder) / "postgres" / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
                # what it had started ends a moment after it
                eventually(lambda: client.get("/api/health").status_code != 200)
                for path, code in (("health", None), ("projects", "database-gone"), ("profiles", "database-gone")):
                    began = time.monotonic()
                    answer = client.get(f"/api/{path}")
                    assert answer.status_code == 503 and answer.json().get("code") == code
                    assert time.monotonic() - began < 2 + SLACK_S
                may_come_back.set()
                eventually(lambda: client.get("/api/projects").status_code == 200)
                assert client.get("/api/health").json()["status"] == "ok"


def test_a_dead_thread_of_deliveries_is_started_again_and_what_it_left_is_settled(client, monkeypatch):
    sets = client.get(f"{PROJECT}/sets").json()
    asked = {"sets": [sets[0]["id"]], "targets": ["gltf"]}

    def dying(self, delivery_id):
        raise SystemExit  # not caught by anything that catches errors

    with monkeypatch.context() as patched:
        patched.setattr(Deliverer, "_outcome", dying)
        deliverer = client.app.state.sieve.deliverer
        patched.setattr(deliverer._log, "exception", dying)
        left = client.post(f"{PROJECT}/deliveries", json=asked).json()
        deliverer._thread.join(timeout=PATIENCE_S)
    assert client.get("/api/health").json()["deliveries"] == "started again"
    after = client.post(f"{PROJECT}/deliveries", json=asked).json()
    found = [ended(client, run) for run in (left, after)]
    assert [run["state"] for run in found] == ["failed", "done"] and "Deliver again" in found[0]["problem"]
