"""How far a relief leans, and the rise at which it leans as surfaces do."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from copper_sieve.core.derive.tilt import rise_for_tilt, slope_quantiles, tilt_of
from copper_sieve.core.errors import ShapeMismatch
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.intake.facts import with_fitted_rise, with_known_rise
from copper_sieve.core.intake.growing import grown
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, starts, with_origin
from copper_sieve.work.sets import derived_anew, started

SIDE = 96


def waves(side: int = SIDE) -> np.ndarray:
    y, x = np.mgrid[:side, :side] / side * 2 * np.pi
    return (0.5 + 0.25 * np.sin(3 * x) + 0.25 * np.cos(2 * y)).astype(np.float32)


def grain() -> np.ndarray:
    y, x = np.mgrid[:SIDE, :SIDE] / SIDE * 2 * np.pi
    return (0.5 + 0.2 * np.sin(11 * x + np.sin(3 * y)) + 0.2 * np.cos(9 * y)).astype(np.float32)


def photo(gray: np.ndarray) -> Evaluation:
    codes = np.repeat((gray[..., None] * 255).astype(np.uint8), 3, -1)
    recipe = plan_set([FileEntry("a" * 64, "moor.png", gray.shape[1], gray.shape[0], 8, {"RGB": "photo"})])
    return Evaluation(recipe, None, lambda _: codes, Cache(1 << 26))


def of(recipe: Recipe, seen: Evaluation) -> Evaluation:
    return Evaluation(recipe, None, seen.load, Cache(1 << 26))


def test_a_slope_leans_as_geometry_says():
    ramp = np.tile(np.abs(np.linspace(-1, 1, SIDE + 1, dtype=np.float32))[:SIDE], (SIDE, 1))  # a whole rise in half a width
    for rise in (0.01, 0.1, 0.5):
        expected = np.degrees(np.arctan(2 * rise))
        assert tilt_of(ramp, rise).steepest == pytest.approx(expected, abs=0.01)
        assert tilt_of(ramp, rise).mean == pytest.approx(expected, rel=0.03)  # the two ridges are flat


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 25))
def test_the_rise_for_a_tilt_has_that_tilt_whatever_the_size_and_the_contrast(mean):
    rise = rise_for_tilt(waves(), mean, steepest=None)
    assert tilt_of(waves(), rise).mean == pytest.approx(mean, rel=0.01)
    assert tilt_of(waves(2 * SIDE), rise).mean == pytest.approx(mean, rel=0.01)
    assert rise_for_tilt(0.5 * waves(), mean, steepest=None) == pytest.approx(2 * rise, rel=0.01)


def test_a_default_grows_neither_steeper_than_surfaces_are_nor_higher_than_a_twentieth():
    spikes = np.zeros((SIDE, SIDE), np.float32)
    spikes[::8, ::8] = 1
    assert tilt_of(spikes, rise_for_tilt(spikes, 30)).steepest <= 60
    assert tilt_of(spikes, rise_for_tilt(spikes, 30, steepest=None)).steepest > 60
    assert rise_for_tilt(0.5 + 0.001 * waves()) == 0.05
    with pytest.raises(ShapeMismatch):
        tilt_of(np.zeros((4, 4, 3), np.float32), 0.1)


def test_the_screen_can_say_any_tilt_from_a_hundred_slopes():
    slopes = np.array(slope_quantiles(waves()))
    for rise in (0.005, 0.05, 0.3):
        assert np.degrees(np.arctan(slopes * rise)).mean() == pytest.approx(tilt_of(waves(), rise).mean, rel=0.01)


def leans(recipe: Recipe, seen: Evaluation) -> float:
    height = of(recipe, seen).master("height")
    assert height is not None
    return tilt_of(height, recipe.facts.rise, recipe.facts.edges).mean


def test_a_photo_leans_as_surfaces_do_and_as_its_kind_does_once_that_is_said():
    seen = photo(grain())
    made = with_known_rise(seen)
    assert made.facts.rise_from == "fitted" and leans(made, seen) == pytest.approx(12, rel=0.02)
    for kind in ("paper", "leather"):
        assert leans(started(of(made, seen), kind), seen) == pytest.approx(starts()[kind].tilt, rel=0.05)
    assert started(of(made, seen), "paper", "roughness").facts == made.facts


def test_what_was_told_stands_and_another_derivation_is_fitted_anew():
    seen = photo(waves())
    told = seen.recipe.model_copy(update={"facts": seen.recipe.facts.model_copy(update={"rise": 0.2, "rise_from": "told"})})
    assert with_known_rise(of(told, seen)) == told
    assert derived_anew(of(told, seen), "height", "op:height_by_picks").facts.rise == 0.2
    anew = derived_anew(of(with_fitted_rise(seen), seen), "height", "op:height_by_picks")
    assert anew.facts.rise_from == "fitted"


def test_a_given_height_does_not_keep_a_rise_that_was_fitted_to_a_derived_one():
    seen = photo(grain())
    entry = FileEntry("b" * 64, "moor_height.png", SIDE, SIDE, 8, {"L": "height"})
    assert grown(with_fitted_rise(seen), [entry], replace=False).facts.rise_from == "assumed"
    beside = grown(seen.recipe, [entry], replace=False)
    derived = with_origin(beside, "height", "op:height_from_color")
    fitted = derived.model_copy(update={"facts": derived.facts.model_copy(update={"rise_from": "fitted"})})
    assert with_origin(fitted, "height", beside.masters["height"]).facts.rise_from == "assumed"
    assert with_origin(fitted, "roughness", "one-value").facts.rise_from == "fitted"
