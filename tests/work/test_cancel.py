"""Long work counts what it does, and stops when it is told to."""

import threading
import time

import numpy as np
import pytest

from copper_sieve.core.bands import Cancel
from copper_sieve.core.errors import Cancelled
from copper_sieve.core.recipe import Cache, Evaluation, Progress
from copper_sieve.files import encode
from copper_sieve.targets import shipped_target
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.deliveries.delivering import effort
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes

IDLE_WITHIN = 1 / 6  # of the processor time that the whole delivery takes in this run: others do not count


def evaluation_of(size: int, cancel: Cancel) -> Evaluation:
    codes = np.random.default_rng(2).integers(0, 255, (size, size, 3)).astype(np.uint8)
    content = encode(codes, "png")
    recipe, findings = recipe_for([look_at_bytes(content, "tulle.png")])
    assert recipe is not None, findings
    return Evaluation(recipe, None, lambda source: load_codes(source, lambda _: content), Cache(1 << 30), cancel)


def test_progress_counts_every_unit_once(tmp_path):
    evaluation, target = evaluation_of(96, Cancel()), shipped_target("gltf")
    plan = plan_delivery(evaluation, target, "tulle")
    seen: list[int] = []
    evaluation.progress = Progress(effort(evaluation, target, plan), lambda done, total: seen.append(done))
    deliver(evaluation, target, plan, tmp_path / "out")
    assert seen == sorted(seen) and len(seen) > 4 and seen[-1] == evaluation.progress.total


@pytest.fixture(scope="module")
def whole(tmp_path_factory):
    """The seconds, by the clock and of the processor, of the delivery that nobody cancels."""
    evaluation, target = evaluation_of(2048, Cancel()), shipped_target("gltf")
    plan, began = plan_delivery(evaluation, target, "tulle"), clocks()
    deliver(evaluation, target, plan, tmp_path_factory.mktemp("whole") / "out")
    return clocks() - began


def clocks():
    return np.array([time.monotonic(), time.process_time()])


@pytest.mark.parametrize("after", [0.02, 0.25, 0.6])  # of the work
def test_cancelled_midway_the_processor_is_idle_and_no_file_is_left(tmp_path, after, whole):
    cancel, reached, told = Cancel(), threading.Event(), []
    evaluation, target = evaluation_of(2048, cancel), shipped_target("gltf")
    plan = plan_delivery(evaluation, target, "tulle")
    total = effort(evaluation, target, plan)
    evaluation.progress = Progress(total, lambda done, total: reached.set() if done >= after * total else None)

    def work():
        with pytest.raises(Cancelled):
            deliver(evaluation, target, plan, tmp_path / "out")
        told.append(clocks())

    thread = threading.Thread(target=work)
    thread.start()
    assert reached.wait(60)
    asked = clocks()
    cancel.cancel()
    thread.join(60)
    assert told and (told[0] - asked < [1 / 2, IDLE_WITHIN] * whole).all()
    used = time.process_time()
    threading.Event().wait(0.2)  # a stretch of time to look at, not a wait for anything
    assert time.process_time() - used < 0.1
    assert evaluation.progress.done < total and list(tmp_path.iterdir()) == []
