"""The same picture in another format: values stay, and what the format cannot hold is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.target import FORMATS
from copper_sieve.core.target.formats import depth_in
from copper_sieve.core.target.reformat import reformatted

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
