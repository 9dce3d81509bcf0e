"""What can be done to a map that was given: its steps smoothed, itself corrected, brought to a size in its own way."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from copper_sieve.core.color import luminance
from copper_sieve.core.convert.corrections import CORRECTIONS, corrected, correction_of
from copper_sieve.core.convert.steps import CODE, STEPPED, stepping, without_steps
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.filters import resize
from copper_sieve.core.quantities import quantity
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source, changes
from core.test_every_derivation import waves

RISE = 0.02
rng = np.random.default_rng(5)


def fractal(size: int, roll_off: float, seed: int) -> np.ndarray:
    """A wrapping surface of 0 to 1 whose finest waves are eight texels long."""
    spread = np.hypot(*np.meshgrid(np.fft.rfftfreq(size), np.fft.fftfreq(size)))
    spread[0, 0] = 1
    waves = np.fft.rfft2(np.random.default_rng(seed).standard_normal((size, size))) * spread**-roll_off
    surface = np.fft.irfft2(np.where(spread > 0.12, 0, waves), (size, size))
    return ((surface - surface.min()) / np.ptp(surface)).astype(np.float32)


def dome(size: int) -> np.ndarray:
    y, x = np.mgrid[:size, :size] / size - 0.5
    return (2 * np.sqrt(np.clip(0.25 - x * x - y * y, 0, None))).astype(np.float32)


def stored(height: np.ndarray, top: int) -> np.ndarray:
    return (np.round(height * top) / top).astype(np.float32)


def turning(height: np.ndarray) -> float:
    normals = normal_from_height(height, RISE)[..., :2]
    return float(sum(np.abs(np.diff(normals, axis=axis)).mean() for axis in (0, 1)))


@pytest.mark.parametrize("surface", [fractal(512, 3.0, 2), fractal(512, 2.6, 4), dome(512)], ids=["clouds", "rougher", "dome"])
def test_normals_of_8_bits_lose_their_steps(surface):
    coarse, fine = stored(surface, 255), turning(stored(surface, 65535))
    smooth = without_steps(coarse, CODE, "wrap")
    assert stepping(coarse, CODE) >= STEPPED > 2 > stepping(stored(surface, 65535), CODE)
    assert turning(coarse) - fine >= 8 * (turning(smooth) - fine)
    assert np.abs(smooth - surface).mean() < np.abs(coarse - surface).mean()


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 99), st.integers(9, 90), st.integers(9, 90), st.sampled_from(["wrap", "mirror"]))
def test_smoothing_never_leaves_the_code(seed, rows, columns, edges):
    height = stored(np.random.default_rng(seed).random((rows, columns)), 255)
    smooth = without_steps(height, CODE, edges)
    assert np.abs(smooth - height).max() <= CODE / 2 + 1e-6
    assert (np.abs(np.round(smooth * 255) - np.round(height * 255)) <= 1).all()


def test_a_cliff_stays_where_it_is():
    cliff = np.zeros((64, 64), np.float32)
    cliff[:, 32:] = 0.5
    assert np.abs(np.diff(without_steps(cliff, CODE, "mirror"), axis=1)[:, 31]).min() > 0.5 - 1.01 * CODE


KEYS = ("base_color", "roughness", "height", "curvature", "normal", "gloss")


def a_map(key: str) -> np.ndarray:
    row = quantity(key)
    if key == "normal":
        return normal_from_height(waves(64, 1), 0.05)
    values = np.stack([waves(64, k) for k in range(row.channels)], -1) * (row.high - row.low) + row.low
    return values[..., 0] if row.channels == 1 else values


@pytest.mark.parametrize("key", KEYS)
def test_nothing_told_is_nothing_done(key):
    values = a_map(key)
    kind = CORRECTIONS[correction_of(quantity(key))]
    assert corrected(values, quantity(key), "wrap", kind.params().model_dump()) is values


@pytest.mark.parametrize("key", KEYS)
def test_every_correction_does_something_and_stays_in_range(key):
    values, row = a_map(key), quantity(key)
    for name, field in CORRECTIONS[correction_of(row)].params.model_fields.items():
        if name == "finer":
            continue
        told = {name: True} if field.annotation is bool else {name: (field.examples or [0.4])[0]}
        found = corrected(values, row, "wrap", {**told, "finer": 0.03})
        assert np.abs(found - values).max() > 0.01, name
        assert found.min() >= row.low - 1e-6 and (found.max() <= row.high + 1e-6 or row.color == "srgb"), name
        if key == "normal":
            np.testing.assert_allclose(np.linalg.norm(found, axis=-1), 1, atol=1e-5)


def test_strength_scales_slopes_and_leaves_flat_flat():
    normal, row = a_map("normal"), quantity("normal")
    steeper = corrected(normal, row, "wrap", {"strength": 2.5})
    np.testing.assert_allclose(steeper[..., 0] / steeper[..., 2], 2.5 * normal[..., 0] / normal[..., 2], rtol=1e-3, atol=1e-5)
    flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    np.testing.assert_array_equal(corrected(flat, row, "wrap", {"strength": 3, "sharpness": 1}), flat)


def test_warmth_and_saturation_keep_the_light():
    color, row = a_map("base_color") * 0.5 + 0.2, quantity("base_color")
    for told in ({"warmth": 0.5}, {"tint": -0.5}, {"saturation": 0.5}):
        changed = corrected(color, row, "wrap", told)
        np.testing.assert_allclose(luminance(changed).mean(), luminance(color).mean(), rtol=0.06)
    assert np.ptp(corrected(color, row, "wrap", {"saturation": 0}), axis=-1).max() < 1e-6


@pytest.mark.parametrize(
    "key, told, made",
    [
        ("base_color", {"red": 0.5, "green": 1, "blue": 0}, lambda v: v * np.float32([0.5, 1, 0])),
        ("roughness", {"times": 0.25}, lambda v: v * 0.25),
        ("occlusion", {"contrast": 0.4, "offset": 0.5 - 0.4 / 2}, lambda v: 1 + 0.4 * (v - 1)),
        ("normal", {"strength": 0.5}, lambda v: v * [0.5, 0.5, 1] / np.linalg.norm(v * [0.5, 0.5, 1], axis=-1, keepdims=True)),
    ],
)
def test_what_a_material_multiplies_is_what_its_corrections_do(key, told, made):
    """The formulas are those of glTF 2.0, 3.9."""
    values = a_map(key)
    assert np.abs(corrected(values, quantity(key), "wrap", told) - made(values)).max() < 1e-6


def test_softening_takes_the_finest_away_and_keeps_the_mean():
    gray, row = rng.random((128, 128)).astype(np.float32), quantity("roughness")
    soft = corrected(gray, row, "wrap", {"sharpness": -1, "finer": 0.02})
    assert soft.std() < 0.3 * gray.std() and abs(soft.mean() - gray.mean()) < 1e-3


def height_set(**told) -> tuple[Recipe, dict[str, np.ndarray]]:
    pixels = {"h": np.round(fractal(256, 3.0, 2) * 255).astype(np.uint8)}
    source = Source(sha256="0" * 64, name="h", width=256, height=256, reads={"L": "height"}, **told)
    return Recipe(facts=Facts(width=256, height=256), sources={"h": source}, masters={"height": "source:h:height"}), pixels


def made(told: dict, px: int | None = None, cache: Cache | None = None) -> np.ndarray:
    recipe, pixels = height_set(**told)
    found = Evaluation(recipe, px, lambda source: pixels[source.name], cache or Cache(1 << 26)).master("height")
    assert found is not None
    return found


def test_a_recipe_smooths_corrects_and_samples_each_file_as_told():
    plain = made({})
    assert 0 < np.abs(made({"smooth_steps": True}) - plain).max() <= CODE / 2 + 1e-6
    np.testing.assert_array_equal(made({"corrections": {"height": {"invert": True}}}), 1 - plain)
    np.testing.assert_array_equal(made({"corrections": {"height": {}}}), plain)
    sharp = made({"sampling": "nearest"}, px=128)
    np.testing.assert_array_equal(sharp, resize(plain, Size(128, 128), "wrap", "nearest"))
    assert set(np.unique(sharp)) <= set(np.unique(plain))


def test_a_correction_costs_no_reading_anew():
    recipe, pixels = height_set()
    loads, cache = [], Cache(1 << 26)
    for contrast in (1.0, 1.2, 1.4):
        source = recipe.sources["h"].model_copy(update={"corrections": {"height": {"contrast": contrast}}})
        moved = recipe.model_copy(update={"sources": {"h": source}})
        Evaluation(moved, 128, lambda source: loads.append(source) or pixels[source.name], cache).master("height")
    assert len(loads) == 1


def test_what_is_told_is_checked_and_said():
    for told in ({"normal": {"strength": 1}}, {"height": {"strength": 2}}, {"height": {"black": 0.5, "white": 0.5}}):
        with pytest.raises(ValidationError):
            height_set(corrections=told)
    before, after = height_set()[0], height_set(corrections={"height": {"contrast": 1.4}}, smooth_steps=True)[0]
    assert changes(before, after) == "h: steps smoothed, contrast 1 × → 1.4 ×"
