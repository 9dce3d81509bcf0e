"""Metallic to specular and back: exact where the files determine it, honest where they do not."""

import numpy as np
import pytest

from copper_sieve.core.color import encode_srgb_codes, linear_from_srgb_codes
from copper_sieve.core.convert import metallic_from_specular, specular_from_metallic
from copper_sieve.core.errors import ShapeMismatch

DETERMINED = 0.05  # |base − F0·(1 − m)| of some channel, worked out from the truth and not by the code


def a_set(seed: int, size: int = 128) -> tuple[np.ndarray, np.ndarray]:
    """Base colors of all kinds, a third metal, a third not, a third in between."""
    rng = np.random.default_rng(seed)
    base = rng.random((size, size, 3), np.float32) ** rng.choice([0.5, 1, 3], (size, size, 1)).astype(np.float32)
    metallic = rng.choice([0.0, 1.0, 2.0], (size, size))
    return base, np.where(metallic == 2, rng.random((size, size)), metallic).astype(np.float32)


def clear(base: np.ndarray, metallic: np.ndarray, f0: float) -> np.ndarray:
    """Where the truth is well inside of what can be told."""
    return np.abs(base - f0 * (1 - metallic[..., None])).max(-1) > max(DETERMINED, 1.25 * f0) * 1.05


def test_worked_by_hand():
    base = np.array([[[0.5, 0.25, 0.1], [0.9, 0.6, 0.2], [0.8, 0.4, 0.2]]], np.float32)
    diffuse, specular = specular_from_metallic(base, np.array([[0, 1, 0.25]], np.float32))
    np.testing.assert_allclose(diffuse[0], [[0.5, 0.25, 0.1], [0, 0, 0], [0.6, 0.3, 0.15]], atol=1e-6)
    np.testing.assert_allclose(specular[0], [[0.04] * 3, [0.9, 0.6, 0.2], [0.23, 0.13, 0.08]], atol=1e-6)


@pytest.mark.parametrize("f0", [0.02, 0.04, 0.08])
def test_there_and_back_in_float_and_16_bit(f0):
    base, metallic = a_set(1)
    for steps in (None, 65535):
        pair = [
            p if steps is None else np.round(p * steps).astype(np.float32) / steps
            for p in specular_from_metallic(base, metallic, f0)
        ]
        found = metallic_from_specular(*pair, f0)
        sure = clear(base, metallic, f0)
        assert sure.mean() > 0.8 and not found.undetermined[sure].any()
        assert np.abs(found.metallic - metallic)[sure].max() <= 1e-3
        assert np.abs(found.base_color - base)[sure].max() <= 1e-3


def test_there_and_back_through_8_bit_files():
    base, metallic = a_set(2)
    pair = [linear_from_srgb_codes(encode_srgb_codes(p)) for p in specular_from_metallic(base, metallic)]
    found = metallic_from_specular(*pair)
    sure = clear(base, metallic, 0.04) & ~found.undetermined
    assert sure.mean() > 0.8
    assert np.abs(found.metallic - metallic)[sure].max() <= 0.02
    assert np.abs(found.base_color - base)[sure].max() <= 0.006


def test_a_dim_neutral_specular_is_a_non_metal_with_that_reflectance():
    diffuse = np.full((4, 4, 3), (0.3, 0.2, 0.1), np.float32)
    found = metallic_from_specular(diffuse, np.full((4, 4, 3), 0.025, np.float32))
    assert (found.metallic == 0).all() and not found.undetermined.any()
    np.testing.assert_allclose(found.reflectance, 0.025, atol=1e-6)
    np.testing.assert_allclose(found.base_color, diffuse, atol=1e-6)
    tinted = metallic_from_specular(diffuse, np.full((4, 4, 3), (0.03, 0.02, 0.01), np.float32))
    assert tinted.undetermined.all() and (tinted.metallic == 0).all()


def test_the_look_is_kept_even_where_the_reading_is_not_determined():
    base, metallic = a_set(3)
    diffuse, specular = specular_from_metallic(base * 0.12, metallic)
    base_again, metal_again, f0_again, undetermined = metallic_from_specular(diffuse, specular)
    brighter = specular.max(-1) > 0.0401  # below, a tinted specular is a stated loss
    assert (undetermined & brighter).any()
    again = specular_from_metallic(base_again, metal_again, f0_again)
    assert np.abs(again.diffuse - diffuse)[brighter].max() < 2e-3
    assert np.abs(again.specular - specular)[brighter].max() < 2e-3


def test_black_is_no_metal_and_sizes_must_agree():
    black = np.zeros((2, 2, 3), np.float32)
    found = metallic_from_specular(black, black)
    assert (found.metallic == 0).all() and (found.base_color == 0).all()
    with pytest.raises(ShapeMismatch, match="one size"):
        metallic_from_specular(black, np.zeros((2, 3, 3), np.float32))
