"""Every demo set delivered to every target, read back from disk by the target's stand-in."""

import hashlib
from functools import cache

import numpy as np
import pytest

from copper_sieve.core.errors import SieveError
from copper_sieve.core.recipe import Cache, Evaluation
from copper_sieve.core.target import Target
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode, read, write
from copper_sieve.standins import BALL_PX, TABLES, ball, surface_of
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.proofs import balls, prove_file, seen_by, table_of

PX = 128
CARRIES_ALL = ("gltf", "materialx", "engine-specular-up", "film-specular", "path-specular", "gloss-tiff")


@cache
def evaluation_of(name: str) -> Evaluation:
    material = next(m for m in MATERIALS if m.name == name)
    contents = {f.name: encode(f.codes, f.format) for f in material.files(PX)}
    recipe, _ = recipe_for([look_at_bytes(content, name) for name, content in contents.items()], rise=material.rise)
    assert recipe is not None
    by_digest = {hashlib.sha256(content).hexdigest(): content for content in contents.values()}
    return Evaluation(recipe, None, lambda source: load_codes(source, by_digest.__getitem__), Cache(1 << 28))


def delivered(name: str, target: Target, folder):
    evaluation = evaluation_of(name)
    plan = plan_delivery(evaluation, target, name)
    report = deliver(evaluation, target, plan, folder / target.key)
    return evaluation, plan, folder / target.key, [f for f in report.files if f.state == "written"]


@pytest.mark.parametrize("name", [m.name for m in MATERIALS])
def test_every_target_gets_every_demo_set_right(name, tmp_path):
    for key, target in shipped_targets().items():
        evaluation, plan, folder, _ = delivered(name, target, tmp_path)
        for file in plan.files:
            if file.kind == "image" and file.left_out is None:
                proof = prove_file(evaluation, target, plan, file.role, folder)
                assert proof.is_right, (key, proof)
        proof, *_ = balls(evaluation, target, plan, folder)
        assert proof.is_independent
        for lamp in proof.lamps:
            assert lamp.storing_mean <= 0.5 and lamp.storing_dull_999 <= 4, (key, lamp)
            if not proof.lost and TABLES[key].model != "classic":
                assert lamp.whole_mean <= 0.5, (key, lamp)


def test_what_a_target_cannot_carry_is_named_and_measured(tmp_path):
    evaluation, plan, folder, _ = delivered("Lace trim", shipped_target("engine-orm-down"), tmp_path)
    proof, theirs, masters = balls(evaluation, shipped_target("engine-orm-down"), plan, folder)
    assert proof.lost == ("opacity",) and min(lamp.whole_mean for lamp in proof.lamps) > 5
    assert theirs.pictures.shape == masters.pictures.shape == (3, BALL_PX, BALL_PX, 3)


def test_files_that_were_changed_or_taken_away_are_told(tmp_path):
    target = shipped_target("engine-loose-down")
    evaluation, plan, folder, files = delivered("Grained leather", target, tmp_path)
    name = {f.role: folder / f.name for f in files}
    codes = read(name["roughness"]).codes.copy()
    codes[5, 7] ^= 8
    write(name["roughness"], codes, format="png")
    off = prove_file(evaluation, target, plan, "roughness", folder)
    assert not off.is_right and 7.4 < off.channels[0].steps < 8.6 and off.channels[0].mean < 2e-3
    write(name["normal"], read(name["normal"]).codes[..., [0, 2, 1]], format="png")
    assert [c.is_right for c in prove_file(evaluation, target, plan, "normal", folder).channels] == [True, False, False]
    write(name["base_color"], codes, format="png")
    assert prove_file(evaluation, target, plan, "base_color", folder).faults
    write(name["occlusion"], codes[:64], format="png")
    assert "is 128 × 64 px, its masters 128 × 128" in prove_file(evaluation, target, plan, "occlusion", folder).faults[0]
    name["occlusion"].write_bytes(b"no picture")
    assert "no picture that can be read" in prove_file(evaluation, target, plan, "occlusion", folder).faults[0]
    with pytest.raises(SieveError, match="is no picture"):
        balls(evaluation, target, plan, folder)
    name["occlusion"].unlink()
    with pytest.raises(SieveError, match="Deliver again"):
        prove_file(evaluation, target, plan, "occlusion", folder)
    with pytest.raises(SieveError, match="no image of this delivery"):
        prove_file(evaluation, target, plan, "specular", folder)


@pytest.mark.parametrize("key", shipped_targets())
def test_a_table_read_off_a_target_says_what_was_written_by_hand(key):
    own = shipped_target(key).model_copy(update={"key": "own", "title": "Own"})
    table, is_independent = table_of(own)
    assert not is_independent and table == TABLES[key]


def test_a_targets_own_ways_with_numbers_are_proved_too(tmp_path):
    shipped = shipped_target("engine-loose-down")
    wetter = {
        "R": {"quantity": "roughness", "invert": True, "range": [0.25, 0.75]},
        "G": {"constant": 0.4},
        "B": {"quantity": "refraction"},
    }
    table = shipped.model_dump(mode="json", by_alias=True) | {"key": "own"}
    table["files"][2] = table["files"][2] | {"channels": wetter, "dither": True}
    own = Target.model_validate(table)
    evaluation, plan, folder, _ = delivered("Grained leather", own, tmp_path)
    proof = prove_file(evaluation, own, plan, own.files[2].role, folder)
    assert proof.is_right and [c.meaning for c in proof.channels] == ["roughness", "fixed 0.4", "refraction"]


def test_half_floats_in_another_renderers_primaries_are_proved(tmp_path):
    table = shipped_target("film-specular").model_dump(mode="json", by_alias=True) | {"key": "own"}
    for file in table["files"][:2]:
        file["primaries"] = "acescg"
    own = Target.model_validate(table)
    evaluation, plan, folder, _ = delivered("Gilt brocade", own, tmp_path)
    for role in ("diffuse", "specular"):
        assert all(c.mean < 2e-4 and c.largest < 1e-3 for c in prove_file(evaluation, own, plan, role, folder).channels)
    proof, *_ = balls(evaluation, own, plan, folder)
    assert max(lamp.whole_mean for lamp in proof.lamps) < 0.1


def test_a_lossy_file_is_held_to_its_mean_and_a_swapped_one_is_noticed(tmp_path):
    table = shipped_target("engine-loose-down").model_dump(mode="json", by_alias=True) | {"key": "own"}
    table["files"][0]["format"] = "jpeg"
    own = Target.model_validate(table)
    evaluation, plan, folder, files = delivered("Grained leather", own, tmp_path)
    proof = prove_file(evaluation, own, plan, "base_color", folder)
    assert proof.is_right and max(c.steps for c in proof.channels) > 1
    path = folder / files[0].name
    write(path, read(path).codes[..., ::-1].copy(), format="jpeg")
    assert not prove_file(evaluation, own, plan, "base_color", folder).is_right


def test_what_a_target_sees_at_a_smaller_size_is_what_the_masters_say():
    evaluation = evaluation_of("Grained leather")
    maps = seen_by(evaluation, shipped_target("engine-mra-down"))
    np.testing.assert_allclose(maps["normal"], evaluation.master("normal"), atol=0.012)
    np.testing.assert_allclose(maps["roughness"], evaluation.master("roughness"), atol=0.002)
    assert "diffuse" in seen_by(evaluation, shipped_target("gloss-tiff"))


def test_the_ball_is_lit_from_where_its_lamps_are():
    rough = {"base_color": np.full((4, 4, 3), 0.5), "roughness": np.full((4, 4), 0.9)}
    shaded = ball(surface_of(rough)).pictures.mean(-1)
    half = BALL_PX // 2
    left, right = shaded[0][:, :half].mean(), shaded[0][:, half:].mean()
    top, bottom = shaded[0][:half].mean(), shaded[0][half:].mean()
    assert left > right + 0.05 and top > bottom + 0.05
    assert shaded[1][:, half:].mean() > shaded[1][:, :half].mean() + 0.05
    leaning = {**rough, "normal": np.broadcast_to(np.array([0, 0.6, 0.8]), (4, 4, 3))}  # green up: all lean to the sky
    assert ball(surface_of(leaning)).pictures[0].mean() > shaded[0].mean() + 0.01
    mirror = ball(surface_of({**rough, "roughness": np.full((4, 4), 0.25)})).pictures[0].mean(-1)
    assert mirror.max() > shaded[0].max() + 0.1  # a smaller, brighter highlight
    holes = ball(surface_of({**rough, "opacity": np.zeros((4, 4))})).pictures
    assert np.ptp(holes) < 1e-6
