"""How far a delivery is costs little, however many files it has, and its last word is complete."""

import time
from contextlib import nullcontext
from types import SimpleNamespace
from uuid import uuid4

from copper_sieve.store import deliveries
from copper_sieve.work.deliveries.running import Reporter


def test_thousands_of_files_are_told_some_times_a_second_and_at_the_end_in_full(monkeypatch):
    told = []
    monkeypatch.setattr(deliveries, "update_delivery", lambda conn, id, **more: told.append(more))
    began = time.monotonic()
    reporter = Reporter(SimpleNamespace(connection=nullcontext), uuid4(), 4000)
    for k in range(4000):
        reporter.file(f"silk {k}/gltf/silk.png", "written")
        reporter.advance(1)
    reporter.flush()
    assert len(told) <= 3 + (time.monotonic() - began) / 0.1
    assert len(told[-1]["rows"]) == told[-1]["done_units"] == 4000
