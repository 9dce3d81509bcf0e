"""What is laid over maps by hand: strokes and noise, the same at every size, over borders, and undone."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from test_geometry import a_recipe, evaluated

from copper_sieve.core.convert.noise import AddedNoise, leaning_with_noise, noise_of, with_noise
from copper_sieve.core.convert.strokes import Brushed, brushed, reach_of
from copper_sieve.core.convert.touches import Touch
from copper_sieve.core.convert.touches import touched as laid_over
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.quantities import quantity
from copper_sieve.core.raster import Edges, Size
from copper_sieve.core.recipe import Recipe, changes, told, with_origin
from copper_sieve.demo.materials import _noise

ENDS = Edges(x="mirror", y="mirror")
GRAY = np.clip(0.5 + 0.2 * _noise(96, 3, 8), 0, 1).astype(np.float32)
LINE = Brushed(points=((0.2, 0.3), (0.7, 0.4)), radius=0.06, hardness=0.4, value=0.9)
shares = st.floats(0, 1)
strokes = st.builds(
    Brushed,
    points=st.lists(st.tuples(shares, shares), min_size=1, max_size=5).map(tuple),
    radius=st.floats(0.01, 0.3),
    hardness=shares,
    way=st.sampled_from(["paint", "raise", "lower", "soften", "erase"]),
    value=shares,
    strength=shares,
)


@settings(max_examples=40, deadline=None)
@given(st.lists(strokes, max_size=4))
def test_strokes_stay_within_the_range_and_touch_nothing_out_of_their_reach(painted):
    made = brushed(GRAY, painted, Edges())
    assert made.min() >= 0 and made.max() <= 1 and np.isfinite(made).all()
    reached = np.zeros(GRAY.shape, bool)
    for stroke in painted:
        reached |= reach_of(stroke, GRAY.shape, Edges()) > 0
    assert (made[~reached] == GRAY[~reached]).all()


def shifted(stroke: Brushed, x: float, y: float) -> Brushed:
    return stroke.model_copy(update={"points": tuple((px + x, py + y) for px, py in stroke.points)})


@settings(max_examples=40, deadline=None)
@given(st.lists(strokes, min_size=1, max_size=3), st.integers(0, 95), st.integers(0, 95))
def test_where_the_map_repeats_a_border_is_a_place_as_any_other(painted, x, y):
    """Only what a stroke reaches is computed, wherever that lies: moved along with the map, it is the same."""
    moved = np.roll(GRAY, (y, x), (0, 1))
    made = brushed(moved, [shifted(stroke, x / 96, y / 96) for stroke in painted], Edges())
    np.testing.assert_allclose(made, np.roll(brushed(GRAY, painted, Edges()), (y, x), (0, 1)), atol=3e-5)


@settings(max_examples=20, deadline=None)
@given(st.lists(strokes, min_size=1, max_size=3))
def test_where_the_map_ends_it_is_mirrored_under_a_stroke(painted):
    seen = [stroke.model_copy(update={"points": tuple((1 - x, y) for x, y in stroke.points)}) for stroke in painted]
    mirrored = brushed(np.ascontiguousarray(GRAY[:, ::-1]), seen, ENDS)
    np.testing.assert_allclose(mirrored, brushed(GRAY, painted, ENDS)[:, ::-1], atol=3e-5)


@settings(max_examples=20, deadline=None)
@given(st.lists(strokes, min_size=2, max_size=5))
def test_painting_goes_on_from_what_was_painted(painted):
    noise, row = AddedNoise(amount=0.2), quantity("roughness")
    whole = Touch(noise=noise, strokes=tuple(painted))
    before = laid_over(GRAY, row, whole.before_last, Edges())
    made = laid_over(GRAY, row, whole, Edges(), before=before)
    np.testing.assert_array_equal(made, laid_over(GRAY, row, whole, Edges()))


def test_a_stroke_is_the_same_at_every_size():
    large, small = reach_of(LINE, (512, 512), ENDS), reach_of(LINE, (128, 128), ENDS)
    assert np.abs(large.reshape(128, 4, 128, 4).mean((1, 3)) - small).max() < 0.12


def test_a_stroke_goes_on_over_a_border_where_the_map_repeats():
    dot = Brushed(points=((0.99, 0.5),), radius=0.1)
    assert reach_of(dot, (64, 64), Edges())[32, 0] > 0.5 > reach_of(dot, (64, 64), ENDS)[32, 0] == 0


def test_each_way_does_what_it_says():
    middle = (slice(30, 36), slice(40, 50))  # under the line
    ways = {
        way: brushed(GRAY, [LINE.model_copy(update={"way": way, "value": 0.2})], ENDS) for way in ("raise", "lower", "soften")
    }
    assert (ways["raise"] - GRAY)[middle].max() == pytest.approx(0.2, abs=1e-6)
    assert (ways["lower"] - GRAY)[middle].min() == pytest.approx(-0.2, abs=1e-6)
    assert np.abs(np.diff(ways["soften"][middle])).mean() < np.abs(np.diff(GRAY[middle])).mean()
    erased = brushed(GRAY, [LINE, LINE.model_copy(update={"way": "erase", "hardness": 1.0})], ENDS)
    np.testing.assert_allclose(erased, GRAY, atol=1e-6)
    assert (brushed(GRAY, [LINE.model_copy(update={"is_on": False})], ENDS) == GRAY).all()
    thin = reach_of(LINE.model_copy(update={"pressures": (1.0, 0.2)}), GRAY.shape, ENDS)
    assert 0 < thin.sum() < 0.8 * reach_of(LINE, GRAY.shape, ENDS).sum()


def test_a_color_is_painted_as_a_color():
    color = np.full((32, 32, 3), 0.2, np.float32)
    red = LINE.model_copy(update={"color": "#ff0000", "hardness": 1.0})
    assert brushed(color, [red], ENDS)[11, 15].tolist() == [1.0, 0.0, 0.0]


@pytest.mark.parametrize("kind", ["grain", "cloud", "cell"])
def test_noise_repeats_without_a_seam_and_is_its_seed_alone(kind):
    noise = AddedNoise(kind=kind, size=0.07)
    found = noise_of(Size(192, 128), noise)
    inside = [np.abs(np.diff(found, axis=axis)).mean() for axis in (0, 1)]
    border = [np.abs(found.take(0, axis) - found.take(-1, axis)).mean() for axis in (0, 1)]
    assert border[0] < 1.6 * inside[0] and border[1] < 1.6 * inside[1]
    assert (found == noise_of(Size(192, 128), noise)).all()
    other = [noise_of(Size(192, 128), noise, 1), noise_of(Size(192, 128), noise.model_copy(update={"seed": 2}))]
    assert all(abs(np.corrcoef(found.ravel(), one.ravel())[0, 1]) < 0.3 for one in other)
    assert 0.18 < found.std() < 0.32
    large = noise_of(Size(768, 512), noise).reshape(128, 4, 192, 4).mean((1, 3))
    assert np.corrcoef(large.ravel(), found.ravel())[0, 1] > 0.97
    assert with_noise(GRAY, noise.model_copy(update={"amount": 0.0})) is GRAY
    assert (with_noise(GRAY, noise.model_copy(update={"way": "lighter"})) >= GRAY).all()


def touched(recipe: Recipe, **by_master: Touch) -> Recipe:
    return Recipe.model_validate(recipe.model_copy(update={"touches": by_master}).model_dump(by_alias=True))


@pytest.mark.parametrize("kind", ["grain", "cloud", "cell"])
def test_noise_over_tiles_goes_on_from_each_to_the_next_and_is_the_same_in_none(kind):
    noise, size = AddedNoise(kind=kind, size=0.07, is_over_tiles=True), Size(96, 64)
    here, right, above = (noise_of(size, noise, tile=tile) for tile in (1001, 1002, 1011))
    wider = noise_of(size, noise, tile=1001, margin=1)
    assert (wider[1:-1, 1:-1] == here).all()
    assert (wider[1:-1, -1] == right[:, 0]).all() and (wider[0, 1:-1] == above[-1]).all()
    assert max(abs(np.corrcoef(here.ravel(), other.ravel())[0, 1]) for other in (right, above)) < 0.3
    each = noise.model_copy(update={"is_over_tiles": False})
    assert (noise_of(size, each, tile=1002) == noise_of(size, each)).all()  # as it was before tiles could differ
    flat = np.broadcast_to(np.float32([0, 0, 1]), (64, 96, 3))
    lean = leaning_with_noise(flat, noise, tile=1001)
    slope = lean[:, -1, 0] / lean[:, -1, 2]
    beside = (right[:, 0] - here[:, -2]) / 2  # over the border, not around it
    assert np.corrcoef(slope, -beside)[0, 1] > 0.999


def test_what_is_painted_reaches_whatever_is_made_of_the_map():
    recipe = with_origin(a_recipe({"height": GRAY}, rise=0.05)[0], "normal", "op:normal_from_height")
    painted = touched(recipe, height=Touch(strokes=(LINE,)))
    height = evaluated(painted, {"height": GRAY}).master("height")
    assert height[30, 40] > 0.85 and (height[80] == GRAY[80]).all()
    expected = normal_from_height(height, 0.05)
    np.testing.assert_allclose(evaluated(painted, {"height": GRAY}).master("normal"), expected, atol=1e-4)
    assert changes(recipe, painted) == "Height: paint by hand"
    assert "painted over by hand, 1 stroke" in told(painted, "Set", [])
    noisy = touched(painted, height=Touch(noise=AddedNoise(), strokes=(LINE,)), roughness=Touch())
    assert "noise, cloud 3 %" in changes(painted, noisy)


def test_another_seed_of_the_set_is_other_noise_in_all_of_its_maps():
    recipe = a_recipe({"height": GRAY, "roughness": GRAY})[0]
    noisy = touched(recipe, height=Touch(noise=AddedNoise(amount=0.1)), roughness=Touch(noise=AddedNoise(amount=0.1, seed=5)))
    files = {"height": GRAY, "roughness": GRAY}
    first, again = (evaluated(noisy, files) for _ in range(2))
    other = evaluated(noisy.model_copy(update={"facts": noisy.facts.model_copy(update={"seed": 7})}), files)
    for key in files:
        assert (first.master(key) == again.master(key)).all() and (first.master(key) != other.master(key)).mean() > 0.9


@pytest.mark.parametrize("kind", ["grain", "cloud", "cell"])
def test_noise_on_normals_adds_its_slopes_by_the_amount_that_is_told(kind):
    normal = normal_from_height(GRAY, 0.05)
    recipe = touched(a_recipe({"normal": normal})[0], normal=Touch(noise=AddedNoise(kind=kind, amount=0.1, size=0.3)))
    noisy = evaluated(recipe, {"normal": normal}).master("normal")
    slopes = [part[..., :2] / part[..., 2:] for part in (noisy, normal)]
    added = slopes[0] - slopes[1]
    assert 0.06 < added.std() < 0.14 and np.abs(added.mean((0, 1))).max() < 0.02
    np.testing.assert_allclose(np.linalg.norm(noisy, axis=-1), 1, atol=1e-5)


def test_overlaid_noise_leaves_black_and_white_alone():
    ends = np.float32([[0, 1] * 8] * 16)
    assert (with_noise(ends, AddedNoise(way="overlay", amount=0.3)) == ends).all()


def test_vectors_are_not_painted_and_colors_get_no_noise():
    recipe, _ = a_recipe({"height": GRAY})
    for key, touch in (("normal", Touch(strokes=(LINE,))), ("base_color", Touch(noise=AddedNoise()))):
        with pytest.raises(ValueError, match="only grays"):
            touched(recipe, **{key: touch})
    with pytest.raises(ValueError, match="pressure for each"):
        Brushed(points=((0, 0), (1, 1)), radius=0.1, pressures=(1.0,))
