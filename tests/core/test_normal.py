"""Normals against analytic slopes, and which way is green."""

import numpy as np
import pytest

from copper_sieve.core.convert import to_green_down, to_green_up, which_green
from copper_sieve.core.derive import NormalFromHeight, normal_from_height


def waves(width: int, rows: int):
    """Height with three and two periods, and its true slopes per width."""
    x, y = np.meshgrid((np.arange(width) + 0.5) / width, (np.arange(rows) + 0.5) / width)
    fx, fy = 2 * np.pi * 3, 2 * np.pi * 2 * width / rows
    height = 0.5 + 0.25 * np.sin(fx * x) * np.cos(fy * y) + 0.15 * np.sin(fx * x + fy * y)
    dx = 0.25 * fx * np.cos(fx * x) * np.cos(fy * y) + 0.15 * fx * np.cos(fx * x + fy * y)
    dy = -0.25 * fy * np.sin(fx * x) * np.sin(fy * y) + 0.15 * fy * np.cos(fx * x + fy * y)
    return height.astype(np.float32), dx, dy


def degrees_off(found, dx, dy, rise):
    true = np.stack([-rise * dx, rise * dy, np.ones_like(dx)], -1)
    true /= np.linalg.norm(true, axis=-1, keepdims=True)
    cross = np.linalg.norm(np.cross(found.astype(np.float64), true), axis=-1)
    return np.degrees(np.arctan2(cross, (found * true).sum(-1))).mean()


@pytest.mark.parametrize("stencil", ["central", "sobel3", "scharr3", "scharr5"])
def test_true_surface_within_a_fifth_of_a_degree_and_second_order(stencil):
    errors = []
    for width in (192, 384):
        height, dx, dy = waves(width, width // 2 * 2)
        found = normal_from_height(height, 0.1, params=NormalFromHeight(filter=stencil))
        errors.append(degrees_off(found, dx, dy, 0.1))
    assert errors[0] <= 0.2
    assert 3.5 <= errors[0] / errors[1] <= 4.5


def test_green_points_up_where_the_surface_faces_up():
    """A hill: its upper flank faces up the picture, so y is positive there (Y+)."""
    y = np.linspace(-1, 1, 64)[:, None].repeat(64, 1)
    normal = normal_from_height(np.exp(-4 * y * y).astype(np.float32), 0.2, "mirror")
    assert normal[16, 32, 1] > 0.1 > -0.1 > normal[48, 32, 1]


def test_rolled_input_gives_rolled_result():
    height = np.random.default_rng(1).random((40, 56)).astype(np.float32)
    rolled = normal_from_height(np.roll(height, (7, 11), (0, 1)))
    np.testing.assert_allclose(rolled, np.roll(normal_from_height(height), (7, 11), (0, 1)), atol=1e-6)


def test_convention_is_a_property_not_a_flip():
    codes = np.random.default_rng(2).integers(0, 256, (5, 7, 3)).astype(np.uint8)
    down = to_green_down(codes, green="up")
    assert (down[..., [0, 2]] == codes[..., [0, 2]]).all() and (down[..., 1] == 255 - codes[..., 1]).all()
    assert to_green_down(down, green="down") is down
    assert (to_green_up(down, green="down") == codes).all()


@pytest.mark.parametrize("green", ["up", "down"])
def test_which_green_from_analytic_slopes(green):
    _, dx, dy = waves(128, 128)
    vectors = np.stack([-0.1 * dx, 0.1 * dy, np.ones_like(dx)], -1)
    vectors /= np.linalg.norm(vectors, axis=-1, keepdims=True)
    codes = np.round((vectors * 0.5 + 0.5) * 255).astype(np.uint8)
    assert which_green(to_green_down(codes, green="up") if green == "down" else codes).answer == green


def test_a_flat_map_cannot_be_told():
    assert which_green(np.full((64, 64, 3), (128, 128, 255), np.uint8)).answer == "unsure"
