"""Moving a set: every map alike, and the normals' vectors with them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.prepare.moves import Crop, Mirror, Offset, Turn
from copper_sieve.core.prepare.steps import applied
from copper_sieve.core.raster import Edges
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, SizeRequest, Source, source_ref, with_size, with_step
from copper_sieve.demo.materials import _noise

HEIGHT = np.clip(0.5 + 0.3 * _noise(64, 3, 6), 0, 1)
STEPS = [Turn(quarters=1), Turn(quarters=2), Turn(quarters=3), Mirror(axis="x"), Mirror(axis="y"), Offset(right=5, down=-9)]


@pytest.mark.parametrize("step", STEPS, ids=str)
def test_normals_of_the_moved_height_are_the_moved_normals(step):
    expected = normal_from_height(applied(HEIGHT, [step], "height", Edges()), 0.05)
    np.testing.assert_allclose(applied(normal_from_height(HEIGHT, 0.05), [step], "normal", Edges()), expected, atol=1e-6)


@given(st.lists(st.sampled_from(STEPS), max_size=6), st.integers(1, 9), st.integers(1, 9))
def test_every_texel_is_still_there(steps, rows, columns):
    values = np.arange(rows * columns).reshape(rows, columns)
    assert sorted(applied(values, steps, "scalar", Edges()).ravel()) == list(range(rows * columns))


def a_recipe(maps: dict[str, np.ndarray], **facts) -> tuple[Recipe, Evaluation]:
    """A set of given maps at their own sizes; the first one leads."""
    sources = {}
    for k, (key, values) in enumerate(maps.items()):
        letters, green = "L" if values.ndim == 2 else "RGB", "up" if key == "normal" else None
        size = {"width": values.shape[1], "height": values.shape[0], "depth": 32}
        sources[f"s{k}"] = Source(sha256=f"{k}" * 64, name=key, **size, reads={letters: key}, green=green)
    rows, columns = next(iter(maps.values())).shape[:2]
    recipe = Recipe(
        facts=Facts(**{"width": columns, "height": rows, **facts}),
        sources=sources,
        masters={key: source_ref(name, key) for name, key in zip(sources, maps)},
    )
    return recipe, evaluated(recipe, maps)


def evaluated(recipe: Recipe, maps: dict[str, np.ndarray]) -> Evaluation:
    stored = {key: values * 0.5 + 0.5 if key == "normal" else values for key, values in maps.items()}
    return Evaluation(recipe, None, lambda source: stored[source.name].astype(np.float32), Cache(1 << 28))


def test_maps_of_unlike_size_are_cropped_to_the_same_place():
    maps = {"roughness": HEIGHT, "height": HEIGHT[::2, ::2].copy(), "occlusion": np.full((1, 1), 0.25, np.float32)}
    recipe, _ = a_recipe(maps, rise=0.02, tile_size=2.0)
    cropped = with_step(recipe, Crop(left=10, top=20, width=32, height=16))
    facts = cropped.facts
    assert (facts.width, facts.height, facts.rise, facts.tile_size) == (32, 16, pytest.approx(0.04), 1.0)
    assert (facts.edges.x, facts.edges.y) == ("mirror", "mirror")
    evaluation = evaluated(cropped, maps)
    np.testing.assert_array_equal(evaluation.master("roughness"), HEIGHT[20:36, 10:42])
    assert evaluation.master("height").shape == (16, 32)
    assert (evaluation.master("occlusion") == 0.25).all()


def test_a_turned_set_keeps_its_own_rise_and_swaps_its_edges():
    maps = {"height": HEIGHT[:32].copy()}
    recipe, _ = a_recipe(maps, rise=0.02)
    turned = with_step(recipe, Turn(quarters=1))
    assert (turned.facts.width, turned.facts.height, turned.facts.rise) == (32, 64, pytest.approx(0.04))
    assert (evaluated(turned, maps).master("height") == np.rot90(HEIGHT[:32])).all()
    back = with_step(turned, Turn(quarters=3))
    assert (evaluated(back, maps).master("height") == HEIGHT[:32]).all() and back.facts.rise == pytest.approx(0.02)


def test_a_crop_that_does_not_fit_says_what_does():
    recipe, _ = a_recipe({"height": HEIGHT})
    with pytest.raises(RecipeInvalid, match="64 × 64"):
        with_step(recipe, Crop(left=40, top=0, width=32, height=8))


def test_resizing_is_undone_by_resizing_back():
    maps = {"roughness": HEIGHT}
    recipe, _ = a_recipe(maps)
    small = with_size(recipe, SizeRequest(longer=16))
    assert evaluated(small, maps).master("roughness").shape == (16, 16)
    np.testing.assert_array_equal(evaluated(with_size(small, SizeRequest(longer=64)), maps).master("roughness"), HEIGHT)


def test_pixel_art_keeps_its_colors():
    art = np.random.default_rng(1).choice(np.float32([0.1, 0.5, 0.9]), (16, 16))
    maps = {"roughness": art}
    recipe, _ = a_recipe(maps)
    large = evaluated(with_size(recipe, SizeRequest(longer=64, sampling="nearest")), maps).master("roughness")
    np.testing.assert_array_equal(large, np.kron(art, np.ones((4, 4), np.float32)))


def test_lost_detail_of_normals_becomes_shine_only_where_asked_and_only_where_lost():
    rough = np.full((64, 64), 0.3, np.float32)
    maps = {"roughness": rough, "normal": normal_from_height(HEIGHT, 0.3)}
    recipe, _ = a_recipe(maps)
    plain = evaluated(with_size(recipe, SizeRequest(longer=8)), maps).master("roughness")
    kept = evaluated(with_size(recipe, SizeRequest(longer=8, keep_shine=True)), maps).master("roughness")
    same = evaluated(with_size(recipe, SizeRequest(longer=64, keep_shine=True)), maps).master("roughness")
    np.testing.assert_allclose(plain, 0.3, atol=1e-6)
    assert kept.min() > 0.35
    np.testing.assert_array_equal(same, rough)
