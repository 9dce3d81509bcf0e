"""Masks from color, mixing, and height from a lamp's light and shade."""

import numpy as np
import pytest

from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.convert.mixing import Mix, mixed, mixed_normals
from copper_sieve.core.derive import NormalFromHeight, normal_from_height
from copper_sieve.core.derive.masks import BledColor, MaskByRange, Threshold, bled_color, mask_by_range, thresholded
from copper_sieve.core.derive.shape_from_shading import relief_along_light
from copper_sieve.demo.materials import _noise

GRAY = np.linspace(0, 1, 64, dtype=np.float32).reshape(8, 8)
RED, TEAL = ("#C04030", "#208080")


def painted(*colors: str) -> np.ndarray:
    """A row of squares of 16 px, linear light."""
    codes = np.concatenate([np.full((16, 16, 3), list(bytes.fromhex(c[1:])), np.uint8) for c in colors], 1)
    return linear_from_srgb_codes(codes)


def test_a_threshold_leaves_the_gray_alone_by_default_and_cuts_it_where_told():
    np.testing.assert_allclose(thresholded(GRAY, params=Threshold()), GRAY, atol=1e-6)
    np.testing.assert_allclose(thresholded(GRAY, params=Threshold(invert=True)), 1 - GRAY, atol=1e-6)
    cut = thresholded(GRAY, params=Threshold(threshold=0.3, softness=0))
    assert set(np.unique(cut)) == {0, 1} and cut.mean() == pytest.approx(0.7, abs=0.02)


def test_a_range_takes_what_is_near_one_color_and_nothing_else():
    mask = mask_by_range(painted(RED, TEAL, RED), "wrap", params=MaskByRange(color=RED))
    assert (mask[:, :16] == 1).all() and (mask[:, 16:32] == 0).all() and (mask[:, 32:] == 1).all()
    darker = painted("#602018")
    strict, by_hue = (mask_by_range(darker, "wrap", params=MaskByRange(color=RED, lightness=w)).mean() for w in (1, 0))
    assert strict == 0 and by_hue == 1


def test_cleaning_up_takes_specks_and_pinholes_but_no_shape():
    color = np.tile(painted(RED, TEAL, TEAL, TEAL), (4, 1, 1)).copy()
    color[5, 40] = color[4, 0, 0]  # a speck
    color[5, 8] = color[4, 40, 0]  # a pinhole
    mask = mask_by_range(color, "mirror", params=MaskByRange(color=RED, cleanup=0.05))
    assert mask[5, 40] == 0 and mask[5, 8] == 1
    assert mask[:, :15].mean() > 0.98 and mask[:, 18:].mean() < 0.02


@pytest.mark.parametrize("edges", ["wrap", "mirror"])
def test_color_bleeds_under_holes_as_far_as_told_and_changes_nothing_solid(edges):
    rng = np.random.default_rng(3)
    color, opacity = rng.random((48, 64, 3), np.float32), np.zeros((48, 64), np.float32)
    opacity[:, :8] = 1
    bled = bled_color(color, opacity, edges, params=BledColor(reach=0.25))
    assert (bled[:, :8] == color[:, :8]).all()
    np.testing.assert_array_equal(bled[:, 8:24], np.repeat(color[:, 7:8], 16, 1))
    assert (bled[:, 30:40] == color[:, 30:40]).all()
    last = color[:, 0] if edges == "wrap" else color[:, 63]  # a tile goes on at its other side
    np.testing.assert_array_equal(bled[:, 63], last)
    assert (bled_color(color, opacity * 0, edges) == color).all()


def test_mixing_by_amount_and_mask():
    own, other, mask = GRAY, 1 - GRAY, (GRAY > 0.5).astype(np.float32)
    assert (mixed(own, other, params=Mix(amount=0)) == own).all()
    assert np.allclose(mixed(own, other, params=Mix(amount=1)), other)
    half = mixed(own, other, mask, params=Mix(amount=0.5))
    assert (half[mask == 0] == own[mask == 0]).all() and np.allclose(half[mask == 1], 0.5)
    assert (mixed(own, other, mask, params=Mix(amount=1, invert=True))[mask == 1] == own[mask == 1]).all()
    np.testing.assert_allclose(mixed(own, other, params=Mix(amount=1, way="multiply")), own * other, atol=1e-6)
    np.testing.assert_allclose(mixed(own, np.full_like(own, 0.5), params=Mix(amount=1, way="overlay")), own, atol=1e-6)
    normals = mixed_normals(*(normal_from_height(h, 0.1) for h in (own, other)), mask)
    np.testing.assert_allclose(np.linalg.norm(normals, axis=-1), 1, atol=1e-6)


@pytest.mark.parametrize("light", [0, 90, 135, 250])
def test_height_comes_back_from_a_picture_lit_from_that_side(light):
    height = _noise(128, 7, 6, 3)
    normal = normal_from_height(height.astype(np.float32), 0.01)
    angle = np.deg2rad(light)
    shade = normal @ np.float32([np.cos(angle) * 0.6, np.sin(angle) * 0.6, 0.8])
    found = [np.corrcoef(relief_along_light(shade, side).ravel(), height.ravel())[0, 1] for side in (light, light + 180)]
    assert found[0] > 0.8 and found[1] < -0.8


def test_edges_only_keeps_rims_and_flattens_broad_forms():
    x = (np.arange(128) + 0.5) / 128
    height = np.tile(np.where(np.abs(x - 0.5) < 0.25, 1, 0).astype(np.float32) * 0.5 + 0.2 * np.sin(2 * np.pi * x), (8, 1))
    lean = {
        k: np.abs(normal_from_height(height, 0.1, params=NormalFromHeight(keeps=k))[4, :, 0])
        for k in ("all", "edges", "raised", "sunken")
    }
    rim = [31, 32, 95, 96]
    assert (lean["edges"][rim] > 0.6 * lean["all"][rim]).all() and lean["edges"][60:68].max() < 0.2 * lean["all"][60:68].max()
    inside, outside = slice(33, 38), slice(26, 31)
    assert lean["raised"][inside].max() > 0.1 and lean["raised"][outside].max() < 0.01
    assert lean["sunken"][outside].max() > 0.1 and lean["sunken"][inside].max() < 0.01
