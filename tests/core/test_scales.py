"""Shine and reflectance on other rulers, occlusion in and out of color, other primaries, and rounding spread out."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from copper_sieve.core.convert.baked_occlusion import color_with_occlusion, color_without_occlusion
from copper_sieve.core.convert.normals import widened
from copper_sieve.core.convert.scales import SCALES, reflectance_of, refraction_of
from copper_sieve.core.primaries import acescg_from_rec709, rec709_from
from copper_sieve.core.raster import Size
from copper_sieve.core.target import Target, decode, encode_file
from copper_sieve.core.vectors import renormalized


def a_target(channels: dict, **file) -> Target:
    row = {"role": "one", "title": "One", "word": "one", "name": ["x"], "format": "png", "color": "data", "channels": channels}
    row |= file
    return Target.model_validate({"key": "any", "title": "Any", "workflow": "metallic", "green": "up", "files": [row]})


def test_known_reflectances():
    """Water, glass, diamond: n = 1.33, 1.5, 2.417 in any table of optics."""
    np.testing.assert_allclose(reflectance_of(np.array([1.33, 1.5, 2.417])), [0.02006, 0.04, 0.17198], atol=2e-5)
    np.testing.assert_allclose(refraction_of(np.array([0.04])), [1.5], atol=1e-6)


def test_known_shine_powers():
    """alpha = 0.25 makes 2/alpha² − 2 = 30, which is log2(30) − 1 of 10 doublings above 2."""
    stored = SCALES["power"].to_file(np.array([0.5, 0.25], np.float32))
    np.testing.assert_allclose(stored, [(np.log2(30) - 1) / 10, (np.log2(510) - 1) / 10], atol=1e-6)


@pytest.mark.parametrize(("name", "low", "high"), [("squared", 0, 1), ("power", 0.18, 0.84), ("refraction", 0.0, 0.16)])
def test_each_scale_is_undone(name, low, high):
    values = np.linspace(low, high, 57, dtype=np.float32)
    np.testing.assert_allclose(SCALES[name].to_master(SCALES[name].to_file(values)), values, atol=2e-5)


@pytest.mark.parametrize("key", ["roughness_squared", "shine_power", "specular_level", "refraction"])
def test_a_target_may_ask_for_any_of_them(key):
    values = np.linspace(0.2, 0.8, 64, dtype=np.float32).reshape(8, 8)
    master = "roughness" if "level" not in key and key != "refraction" else "reflectance"
    values = values if master == "roughness" else values * 0.08
    target = a_target({"L": {"quantity": key}}, depth=16)
    codes = encode_file(target, target.files[0], {master: values}, Size(8, 8))
    np.testing.assert_allclose(decode(target, {"one": codes})[master], values, atol=1e-3)


def test_specular_level_one_half_is_four_percent():
    target = a_target({"L": {"quantity": "specular_level"}}, depth=16)
    codes = encode_file(target, target.files[0], {"reflectance": np.full((1, 1), 0.04, np.float32)}, Size(1, 1))
    assert abs(int(codes[0, 0]) - 32768) <= 1


@given(st.integers(0, 2**32 - 1), st.floats(0, 1))
def test_occlusion_goes_into_color_and_out_again(seed, amount):
    rng = np.random.default_rng(seed)
    color, occlusion = rng.random((5, 4, 3), np.float32), 0.1 + 0.9 * rng.random((5, 4), np.float32)
    shaded = color_with_occlusion(color, occlusion, amount)
    assert (shaded <= color + 1e-6).all()
    np.testing.assert_allclose(color_without_occlusion(shaded, occlusion, amount), color, atol=1e-5)


def test_acescg_of_pure_red_is_what_the_academy_prints():
    np.testing.assert_allclose(acescg_from_rec709(np.float32([1, 0, 0])), [0.6131, 0.0702, 0.0206], atol=5e-5)
    colors = np.random.default_rng(1).random((50, 3), np.float32)
    np.testing.assert_allclose(rec709_from(acescg_from_rec709(colors), "acescg"), colors, atol=1e-6)


def test_a_file_in_acescg_is_read_back_as_rec709():
    channels = {c: {"quantity": "base_color", "component": c.lower()} for c in "RGB"}
    target = a_target(channels, format="exr", depth=32, sample="float", color="linear", primaries="acescg")
    base = np.random.default_rng(2).random((6, 6, 3), np.float32)
    codes = encode_file(target, target.files[0], {"base_color": base}, Size(6, 6))
    assert np.abs(codes - base).max() > 0.01
    np.testing.assert_allclose(decode(target, {"one": codes})["base_color"], base, atol=1e-5)


def test_dither_keeps_the_mean_and_spares_what_was_eight_bit():
    target = a_target({"L": {"quantity": "height"}}, dither=True)
    between = np.full((128, 128), 100.3 / 255, np.float32)
    spread = encode_file(target, target.files[0], {"height": between}, Size(128, 128), deep={"height"})
    assert abs(float(spread.mean()) - 100.3) < 0.02 and set(np.unique(spread)) == {100, 101}
    assert (spread == encode_file(target, target.files[0], {"height": between}, Size(128, 128), deep={"height"})).all()
    assert (encode_file(target, target.files[0], {"height": between}, Size(128, 128)) == 100).all()


def test_shine_of_averaged_normals_matches_the_spread_of_their_slopes():
    """Slopes of variance s² (per axis) on a mirror make alpha² = 2·s² for small s: the spread of the averaged lobes."""
    rng, spread = np.random.default_rng(3), 0.06
    slopes = rng.normal(0, spread, (200_000, 2))
    normals = renormalized(np.stack([*slopes.T, np.ones(len(slopes))], -1).astype(np.float32))
    length = np.linalg.norm(normals.mean(0, dtype=np.float64))
    alpha2 = widened(np.float32([0.0]), np.float32([length]))[0] ** 4
    assert abs(alpha2 / (2 * spread**2) - 1) < 0.02
