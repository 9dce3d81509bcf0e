"""Photos of known surfaces, as they are taken in."""

from functools import cache

import numpy as np
import pytest
from bench.first_look import Case, taken_in
from bench.photos import SURFACES, photo_of

from copper_sieve.core.derive.tilt import tilt_of
from copper_sieve.core.intake.facts import with_fitted_rise
from copper_sieve.core.intake.first_look import first_look
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, master_ref
from copper_sieve.files import encode
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.sets import assay_set, fixed

UNEVEN = {"Brick, light joints", "Woven cloth", "Brushed metal", "Plaster", "Stone", "Glazed tiles"}
LIGHT_LINES = {"Brick, light joints", "Glazed tiles"}
DARK_LINES = {"Brick, dark joints", "Planks", "Quilted cloth"}
FEW_LINES = {"Planks", "Chipped paint"}
LAMP = {"Quilted cloth"}


@cache
def looked_at(name: str) -> Evaluation:
    return taken_in(Case(name, photo_of(name, 384).codes))


def op_of(seen: Evaluation, master: str) -> str | None:
    made = seen.recipe.node_of(master)
    return None if made is None else made[1].op


@pytest.mark.parametrize("name", SURFACES)
def test_only_uneven_light_is_taken_out_and_only_light_lines_are_asked_about(name):
    seen = looked_at(name)
    found = {finding.id for _, finding in assay_set(seen)}
    assert (op_of(seen, "base_color") == "albedo_from_photo") == ("light-evened" in found) == (name in UNEVEN)
    assert ("light-lines" in found) == (name in LIGHT_LINES)
    assert ("relief-or-color" in found) == (name in FEW_LINES)
    assert ("lit-from-a-side" in found) == (name in LAMP)
    if name in DARK_LINES | LIGHT_LINES:
        assert (op_of(seen, "height") == "height_from_grooves") == (name in DARK_LINES)


@pytest.mark.parametrize("name", SURFACES)
def test_it_leans_like_a_surface_and_varies_little_in_roughness(name):
    seen = looked_at(name)
    tilt = tilt_of(seen.value(master_ref("height"), seen.working), seen.recipe.facts.rise, seen.recipe.facts.edges)
    assert tilt.mean < 12.5 and tilt.steepest < 61
    assert tilt.mean > (0.5 if name == "Plaster" else 3)
    assert 0.02 < seen.value(master_ref("roughness"), seen.working).std() < 0.06


def test_the_rise_of_a_photo_in_tiles_is_that_of_what_its_first_look_makes():
    codes = photo_of("Brick, dark joints", 384).codes
    files = {f"wall_photo.{tile}.png": encode(np.roll(codes, 40 * k, 0), "png") for k, tile in enumerate((1001, 1002))}
    looked = [look_at_bytes(content, name) for name, content in files.items()]
    content = {one.sha256: files[one.name] for one in looked}
    recipe, _ = recipe_for(looked)

    def by(recipe: Recipe) -> Evaluation:
        return Evaluation(recipe, None, lambda source: load_codes(source, content.__getitem__), Cache(1 << 28))

    made = first_look(by(recipe))
    assert made.tiles == (1001, 1002) and made.node_of("height")[1].op == "height_from_grooves"
    assert made.facts.rise == with_fitted_rise(by(made)).facts.rise


def test_nearly_plain_stays_nearly_flat_and_says_so():
    seen = looked_at("Plaster")
    tilt = tilt_of(seen.value(master_ref("height"), seen.working), seen.recipe.facts.rise, seen.recipe.facts.edges)
    assert tilt.mean < 4 and "nearly-plain" in {finding.id for _, finding in assay_set(seen)}


def test_pores_in_a_plain_slab_are_no_pits_and_are_asked_about():
    rng = np.random.default_rng(5)
    y, x = np.mgrid[0:384, 0:384]
    pores = [np.hypot(x - a, y - b) < r for a, b, r in zip(*rng.uniform(0, 384, (2, 90)), rng.uniform(1, 3, 90))]
    slab = 150 + 4 * rng.standard_normal((384, 384)) - 70 * np.any(pores, axis=0)
    seen = taken_in(Case("slab", np.repeat(slab.clip(0, 255).astype(np.uint8)[..., None], 3, -1)))
    tilt = tilt_of(seen.value(master_ref("height"), seen.working), seen.recipe.facts.rise, seen.recipe.facts.edges)
    asked = {finding.id for _, finding in assay_set(seen)}
    assert 1 < tilt.mean < 5 and tilt.steepest < 52 and "relief-or-color" in asked


def test_a_leaf_on_a_white_ground_keeps_its_tones_and_can_be_cut_out():
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    is_leaf = np.hypot(x, y) < 0.6 + 0.1 * np.cos(7 * np.arctan2(y, x))
    grain = np.random.default_rng(2).integers(0, 30, (256, 256))
    photo = np.where(is_leaf[..., None], np.dstack([40 + grain, 90 + grain, 30 + grain]), 245).astype(np.uint8)
    seen = taken_in(Case("leaf", photo))
    asked = {finding.id for _, finding in assay_set(seen)}
    cut = seen.of(fixed(seen, "plain-ground", "opacity", list))
    solid = cut.value(master_ref("opacity"), cut.working)
    assert "plain-ground" in asked and op_of(seen, "base_color") is None and seen.recipe.facts.edges.x == "mirror"
    assert np.abs(solid - is_leaf).mean() < 0.01 and "plain-ground" not in {finding.id for _, finding in assay_set(cut)}


@pytest.mark.parametrize("is_lace", [False, True])
def test_what_is_dark_inside_a_thing_is_a_hole_only_where_the_ground_shows_through(is_lace):
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    far = np.hypot(x, y)
    rings = 30 if is_lace else 62 + 20 * np.cos(90 * x)  # of the ground's gray, or of the thing's own darker ones
    photo = np.where(far < 0.7, np.where((far * 8).astype(int) % 2 == 0, rings, 200), 30)
    seen = taken_in(Case("button", np.dstack([photo] * 3).astype(np.uint8)))
    cut = seen.of(fixed(seen, "plain-ground", "opacity", list))
    solid = cut.value(master_ref("opacity"), cut.working)
    assert np.abs(solid - ((photo != 30) if is_lace else (far < 0.7))).mean() < 0.02


@pytest.mark.parametrize(("vein", "around"), [(70, 225), (200, 40)])
def test_veins_are_flat_once_they_are_said_to_be_only_color(vein, around):
    rows = np.mgrid[:256, :256][0]
    veined = np.where((rows + 9 * np.sin(rows.T / 20)) % 64 < 3, vein, around).astype(np.uint8)
    seen = taken_in(Case("marble", np.dstack([veined] * 3)))
    asked = {finding.id for _, finding in assay_set(seen)}
    flat = seen.of(fixed(seen, "relief-or-color", "height", list))
    normal = flat.value(master_ref("normal"), flat.working)
    assert "relief-or-color" in asked and np.allclose(normal, (0, 0, 1), atol=1e-3)
    assert not {"relief-or-color", "light-lines"} & {finding.id for _, finding in assay_set(flat)}


@pytest.mark.parametrize("inks", [((60, 80, 90), (150, 100, 60)), ((60, 80, 90), (120, 160, 180))])
def test_blots_of_several_hues_may_be_only_color_and_shades_of_one_are_relief(inks):
    across = np.sin(np.arange(256) * 8 * np.pi / 128)
    share = (0.5 + 0.5 * across * across[:, None])[..., None]  # they run into each other: no sharp rim carries the relief
    dark, light = np.array(inks)
    seen = taken_in(Case("cloth", (dark + share * (light - dark)).astype(np.uint8)))
    found = {finding.id: finding.text for _, finding in assay_set(seen)}
    is_dyed = inks[1][2] < inks[0][2]
    assert ("relief-or-color" in found) == is_dyed and (not is_dyed or "differ in hue" in found["relief-or-color"])


@pytest.mark.parametrize("is_wood", [True, False])
def test_the_grain_of_smooth_wood_may_be_only_color(is_wood):
    rows, columns = np.mgrid[:256, :256]  # sawn across
    streaks = 1 + 0.12 * np.sin(np.hypot(rows - 150, columns - 100) / 2 + 3 * np.sin(columns / 40))
    brown = (178, 132, 84) if is_wood else (120, 124, 130)
    seen = taken_in(Case("veneer", (streaks[..., None] * brown).astype(np.uint8)))
    found = {finding.id: finding.text for _, finding in assay_set(seen)}
    assert ("grain of smooth wood" in found.get("relief-or-color", "")) == is_wood


def studs() -> np.ndarray:
    """Bumps of several sizes and places, (256, 256), that repeat."""
    rng, height = np.random.default_rng(4), np.zeros((256, 256), np.float32)
    y, x = np.mgrid[-128:128, -128:128]
    for at, size in zip(rng.integers(0, 256, (90, 2)), rng.uniform(5, 11, 90)):
        bump = np.maximum(1 - (x * x + y * y) / size**2, 0) * size / 11
        height = np.maximum(height, np.roll(bump, at, (0, 1)))
    return height


@pytest.mark.parametrize(
    ("lamp", "said"), [(20, "the upper right"), (90, "above"), (130, "the upper left"), (310, "the upper left")]
)
def test_light_and_shade_of_a_lamp_become_relief_with_one_press(lamp, said):
    height = studs()
    down, right = np.gradient(height)
    shade = -right * np.cos(np.deg2rad(lamp)) + down * np.sin(np.deg2rad(lamp))
    grain = np.random.default_rng(5).normal(0, 2, (256, 256))
    photo = np.clip(120 + 200 * shade + grain, 0, 255).astype(np.uint8)
    seen = taken_in(Case("studs", np.dstack([photo] * 3)))
    asked = {finding.id: finding.text for _, finding in assay_set(seen)}
    assert f"lit from {said}." in asked["lit-from-a-side"]
    assert not {"relief-or-color", "light-lines"} & asked.keys()
    lit = seen.of(fixed(seen, "lit-from-a-side", "height", list))
    assert "lit-from-a-side" not in {finding.id for _, finding in assay_set(lit)}

    def likeness(one: Evaluation) -> float:
        made = np.concatenate(np.gradient(one.value(master_ref("height"), one.working)))
        return float(np.corrcoef(made.ravel(), np.concatenate((down, right)).ravel())[0, 1])

    is_upside_down = lamp > 180  # a lamp below looks like one above over pits
    assert (-likeness(lit) if is_upside_down else likeness(lit)) > 0.5 > 0.3 > abs(likeness(seen))
    tilt = tilt_of(lit.value(master_ref("height"), lit.working), lit.recipe.facts.rise, lit.recipe.facts.edges)
    assert 3 < tilt.mean < 12.5


def test_a_border_between_two_tones_is_no_flank():
    two = np.zeros((128, 128, 3), np.uint8)
    two[:, :64], two[:, 64:] = (190, 150, 60), (30, 60, 70)
    assert "lit-from-a-side" not in {finding.id for _, finding in assay_set(taken_in(Case("two", two)))}


@pytest.mark.parametrize("tone", [1, -1])
def test_tones_that_go_with_the_shapes_ask_for_no_lamp(tone):
    photo = np.clip(120 + tone * 80 * studs(), 0, 255).astype(np.uint8)
    seen = taken_in(Case("studs", np.dstack([photo] * 3)))
    assert "lit-from-a-side" not in {finding.id for _, finding in assay_set(seen)}


@pytest.mark.parametrize("shape", [(1, 64), (64, 1), (4, 256)])
def test_a_strip_is_looked_at_as_well(shape):
    stripes = (
        np.arange(max(shape), dtype=np.uint8)[None, :] * 37
        if shape[0] < shape[1]
        else np.arange(64, dtype=np.uint8)[:, None] * 37
    )
    photo = np.broadcast_to(stripes, shape)
    assert assay_set(taken_in(Case("strip", np.dstack([photo] * 3)))) is not None


def test_one_color_and_a_black_photo_crash_nothing():
    for value in (0, 128, 255):
        seen = taken_in(Case("plain", np.full((64, 64, 3), value, np.uint8)))
        normal = seen.value(master_ref("normal"), seen.working) if seen.has(master_ref("normal")) else None
        assert normal is None or np.allclose(normal, (0, 0, 1), atol=1e-3)
