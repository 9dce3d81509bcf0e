"""The same picture in another format: values stay, and what the format cannot hold is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from copper_sieve.core.color import linear_from_srgb, linear_from_srgb_codes
from copper_sieve.core.target import FORMATS
from copper_sieve.core.target.formats import depth_in
from copper_sieve.core.target.reformat import reformatted, shrunk

rng = np.random.default_rng(5)


@pytest.mark.parametrize("is_color", [True, False])
@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("format", list(FORMATS))
def test_at_its_own_or_the_nearest_depth_a_picture_comes_back_or_says_that_it_does_not(format, kind, is_color):
    codes = rng.integers(0, np.iinfo(kind).max + 1, (16, 16, 3)).astype(kind)
    made = reformatted(codes, format, depth_in(format, (codes.dtype.itemsize * 8, "uint")), is_color=is_color)
    back = reformatted(made.codes, "png", (codes.dtype.itemsize * 8, "uint"), is_color=is_color).codes
    assert made.cut == 0
    assert np.array_equal(back, codes) == (not made.is_rounded)
    assert made.is_rounded == (kind is np.uint16 and FORMATS[format].depths == ((8, "uint"),))


def test_a_color_is_decoded_for_floats_and_data_keeps_its_value():
    codes = rng.integers(0, 256, (8, 8, 4)).astype(np.uint8)
    color = reformatted(codes, "exr", (32, "float"), is_color=True).codes
    assert np.allclose(color[..., :3], linear_from_srgb_codes(codes[..., :3]), atol=1e-7)
    assert np.array_equal(color[..., 3], codes[..., 3] / np.float32(255))
    assert np.array_equal(reformatted(codes, "exr", (32, "float")).codes, codes / np.float32(255))


@given(arrays(np.float32, (6, 5), elements=st.floats(-4, 4, width=32)))
def test_what_lies_outside_is_cut_and_counted(values):
    made = reformatted(values, "png", (16, "uint"))
    assert made.cut == pytest.approx(np.mean((values < 0) | (values > 1)))
    assert np.abs(made.codes / 65535 - np.clip(values, 0, 1)).max() <= 0.5001 / 65535


def test_what_is_no_number_is_cut_too():
    made = reformatted(np.float32([[np.nan, np.inf, -np.inf, 0.5]]), "png", (8, "uint"))
    assert made.codes.tolist() == [[0, 255, 0, 128]]
    assert made.cut == 0.75


@pytest.mark.parametrize(
    ("format", "channels", "loses"), [("jpeg", 3, True), ("tga", 4, False), ("exr", 4, False), ("png", 2, False)]
)
def test_gray_with_an_alpha_finds_channels_or_says_that_there_are_none(format, channels, loses):
    codes = rng.integers(0, 256, (4, 4, 2)).astype(np.uint8)
    made = reformatted(codes, format, depth_in(format, (8, "uint")))
    assert (1 if made.codes.ndim == 2 else made.codes.shape[2]) == (1 if loses else channels)
    assert made.lost_alpha == loses
    codes[..., 1] = 255
    assert not reformatted(codes, format, depth_in(format, (8, "uint"))).lost_alpha  # nothing of it was seen


def test_codes_that_fit_are_passed_on_as_they_are():
    codes = rng.integers(0, 65536, (4, 4)).astype(np.uint16)
    assert reformatted(codes, "tiff", (16, "uint"), is_color=True).codes is codes


def blocks(values: np.ndarray) -> np.ndarray:
    """Means of 4 × 4 texels in float64."""
    height, width, *rest = values.shape
    return values.astype(np.float64).reshape(height // 4, 4, width // 4, 4, *rest).mean((1, 3))


@pytest.mark.parametrize("kind", [np.uint8, np.uint16, np.float32])
def test_what_is_made_smaller_is_the_mean_of_light_or_of_values(kind):
    shares = rng.random((16, 24, 3)).astype(np.float32)
    codes = shares if kind is np.float32 else (shares * np.iinfo(kind).max).round().astype(kind)
    unit = codes.astype(np.float64) / (1 if kind is np.float32 else np.iinfo(kind).max)
    data = shrunk(codes, 6, "data")
    assert data.shape == (4, 6, 3)
    np.testing.assert_allclose(data, blocks(unit), atol=1e-5)
    light = unit if kind is np.float32 else linear_from_srgb(unit.astype(np.float32))
    np.testing.assert_allclose(shrunk(codes, 6, "color"), blocks(light), atol=1e-5)


def test_a_hole_gives_none_of_its_color_and_the_alpha_is_a_mean():
    codes = np.zeros((8, 8, 4), np.float32)
    codes[:, ::2] = (0.2, 0.4, 0.6, 1)  # every other column is a black hole
    made = shrunk(codes, 2, "color", has_holes=True)
    np.testing.assert_allclose(made, np.broadcast_to(np.float32([0.2, 0.4, 0.6, 0.5]), (2, 2, 4)), atol=1e-6)
    np.testing.assert_allclose(shrunk(codes, 2, "color")[0, 0], [0.1, 0.2, 0.3, 0.5], atol=1e-6)  # an alpha of another kind


@pytest.mark.parametrize("is_signed", [True, False])
def test_directions_keep_unit_length_and_labels_are_never_mixed(is_signed):
    lean = rng.normal(size=(16, 16, 3)) * [0.4, 0.4, 0] + [0, 0, 1]
    lean = (lean / np.linalg.norm(lean, axis=2, keepdims=True)).astype(np.float32)
    made = shrunk(lean if is_signed else lean / 2 + np.float32(0.5), 4, "directions", has_signs=is_signed)
    made = made if is_signed else made * 2 - 1
    wanted = blocks(lean)
    np.testing.assert_allclose(made, wanted / np.linalg.norm(wanted, axis=2, keepdims=True), atol=1e-5)
    labels = rng.integers(0, 3, (16, 16, 1)).astype(np.uint8) * np.uint8([100, 50, 25])
    found = np.round(shrunk(labels, 4, "labels") * 255).reshape(-1, 3)
    assert {tuple(row) for row in found} <= {tuple(row) for row in labels.reshape(-1, 3)}
