"""Curves against float64, and codes that come back."""

import numpy as np
import pytest

from copper_sieve.core.color import (
    OKLAB_LAB,
    OKLAB_LMS,
    encode_srgb_codes,
    linear_from_srgb,
    linear_from_srgb_codes,
    oklab_from_linear,
    oklab_lightness,
    srgb_from_linear,
)


@pytest.mark.parametrize(("depth", "dtype"), [(8, np.uint8), (16, np.uint16)])
def test_every_code_comes_back(depth, dtype):
    codes = np.arange(1 << depth).astype(dtype).reshape(16, -1)
    assert (encode_srgb_codes(linear_from_srgb_codes(codes), depth) == codes).all()


def test_8_bit_rounds_to_the_nearest_code():
    linear = np.random.default_rng(0).random((64, 512)).astype(np.float32) ** 3
    exact = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.float64(linear) ** (1 / 2.4) - 0.055) * 255
    assert np.abs(encode_srgb_codes(linear) - exact).max() <= 0.5001


def test_float_curves_are_inverse_and_known():
    assert linear_from_srgb(np.array([0.5], np.float32))[0] == pytest.approx(0.21404114, abs=1e-6)
    values = np.linspace(0, 1, 5000, dtype=np.float32).reshape(50, 100)
    np.testing.assert_allclose(srgb_from_linear(linear_from_srgb(values)), values, atol=1e-6)


def test_oklab_of_white_and_red():
    lab = oklab_from_linear(np.array([[1, 1, 1], [1, 0, 0]], np.float32))
    np.testing.assert_allclose(lab, [[1, 0, 0], [0.62796, 0.22486, 0.12585]], atol=1e-4)
    assert oklab_lightness(np.ones((2, 2, 3), np.float32))[0, 0] == pytest.approx(1, abs=1e-5)


def test_lightness_alone_is_that_of_oklab_from_black_to_brighter_than_white():
    rng = np.random.default_rng(3)
    colors = (rng.random((64, 64, 3)) * 10.0 ** rng.uniform(-8, 1, (64, 64, 1))).astype(np.float32)
    colors[0] = 0
    exact = (np.cbrt(colors.astype(np.float64) @ OKLAB_LMS.T) @ OKLAB_LAB.T)[..., 0]
    np.testing.assert_allclose(oklab_lightness(colors), exact, rtol=2e-6, atol=1e-9)
