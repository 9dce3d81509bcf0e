"""Files made side by side: in order, whole or not at all, with what does not read back named."""

import numpy as np
import pytest

from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source, source_ref
from copper_sieve.core.target import Target
from copper_sieve.targets import shipped_target
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.deliveries import delivering
from copper_sieve.work.deliveries.delivering import ReadBackFailed

PX = 64
KEYS = ("base_color", "normal", "roughness", "metallic", "occlusion")


def evaluation(*more: str) -> Evaluation:
    rng, keys = np.random.default_rng(5), (*KEYS, *more)
    codes = {key: rng.integers(40, 220, (PX, PX, 3) if k < 2 else (PX, PX)).astype(np.uint8) for k, key in enumerate(keys)}
    sources = {
        key: Source(
            sha256=f"{k:064x}",
            name=key,
            width=PX,
            height=PX,
            reads={"RGB" if k < 2 else "L": key},
            green="up" if k == 1 else None,
        )
        for k, key in enumerate(keys)
    }
    recipe = Recipe(facts=Facts(width=PX, height=PX), sources=sources, masters={key: source_ref(key, key) for key in keys})
    return Evaluation(recipe, None, lambda source: codes[source.name], Cache(1 << 26))


def loose() -> Target:
    return shipped_target("engine-loose-down")


def test_the_report_keeps_the_order_of_the_table_and_repeats_itself(tmp_path):
    plan = plan_delivery(evaluation(), loose(), "satin")
    reports = [deliver(evaluation(), loose(), plan, tmp_path / name) for name in "ab"]
    assert [file.role for file in reports[0].files] == [file.role for file in loose().files]
    assert reports[0] == reports[1]  # the hashes too


def test_a_file_that_does_not_read_back_leaves_none_of_them(tmp_path, monkeypatch):
    monkeypatch.setattr(delivering, "holds", lambda content, codes, format, name: "metallic" not in name)
    plan = plan_delivery(evaluation(), loose(), "satin")
    with pytest.raises(ReadBackFailed, match="does not read back"):
        deliver(evaluation(), loose(), plan, tmp_path / "out")
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_leaves_what_was_there_before(tmp_path, monkeypatch):
    plan = plan_delivery(evaluation(), loose(), "satin")
    deliver(evaluation(), loose(), plan, tmp_path / "out")
    before = {path.name: path.read_bytes() for path in (tmp_path / "out").iterdir()}

    def full(path, content):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(delivering, "write_bytes", full)
    with pytest.raises(OSError, match="No space left"):
        deliver(evaluation(), loose(), plan, tmp_path / "out")
    assert {path.name: path.read_bytes() for path in (tmp_path / "out").iterdir()} == before
    assert [path.name for path in tmp_path.iterdir()] == ["out"]


def test_what_is_left_out_by_hand_is_neither_written_nor_missed(tmp_path):
    source = evaluation()
    bare = Evaluation(
        source.recipe.model_copy(update={"masters": {"roughness": source.recipe.masters["roughness"]}}),
        None,
        source.load,
        Cache(1 << 24),
    )
    waiting = plan_delivery(bare, loose(), "satin")
    assert {file.role for file in waiting.waits} == {"base_color"} and not waiting.stops
    plan = plan_delivery(bare, loose(), "satin", unwanted={"base_color", "normal", "occlusion"})
    assert not plan.waits
    report = deliver(bare, loose(), plan, tmp_path / "out")
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["satin_roughness.png"]
    whys = [file.why for file in report.files if file.state == "left-out"]
    assert sorted(whys) == [*["left out by you"] * 3, "the set has no metallic"]


def test_what_sets_seldom_have_is_listed_only_where_it_is_there(tmp_path):
    target, coated = shipped_target("gltf"), evaluation("own_coat")
    left_out = {file.role for file in plan_delivery(evaluation(), target, "satin").files if not file.is_written}
    assert left_out == {"emissive", "reflectance"}
    plan = plan_delivery(coated, target, "satin")
    assert {file.role for file in plan.files if not file.is_written} == left_out
    assert not [finding for finding in plan.findings if finding.rule == "unused-master"]
    deliver(coated, target, plan, tmp_path / "out")
    assert (tmp_path / "out" / "satin_coat.png").exists()
