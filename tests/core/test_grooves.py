"""Height from grooves: lines go down, faces stay calm, whichever way the lines are lit."""

import numpy as np
import pytest

from copper_sieve.core.color import linear_from_srgb
from copper_sieve.core.derive import HeightFromGrooves, height_from_color, height_from_grooves

SIDE = 256
PITCH, LINE = 64, 6


def tiles(side: int = SIDE, noise: float = 0.04, are_light: bool = False) -> tuple[np.ndarray, np.ndarray]:
    """A picture of square tiles with joints, some noise on it, and where the joints are."""
    at = (np.arange(side) + 0.5) * SIDE / side % PITCH < LINE
    joint = at[:, None] | at[None, :]
    rng = np.random.default_rng(4)
    grain = np.repeat(np.repeat(rng.normal(0, noise, (SIDE, SIDE)), side // SIDE, 0), side // SIDE, 1)
    shades = np.kron(rng.uniform(0.45, 0.6, (SIDE // PITCH, SIDE // PITCH)), np.ones((side * PITCH // SIDE,) * 2))
    encoded = np.where(joint, 0.9 if are_light else 0.15, shades) + grain
    return linear_from_srgb(np.repeat(np.clip(encoded, 0, 1)[..., None], 3, -1).astype(np.float32)), joint


def centers(joint: np.ndarray) -> np.ndarray:
    """Where a line is a line on all sides of a texel, away from its border."""
    return joint & np.roll(joint, 2, 0) & np.roll(joint, -2, 0) | joint & np.roll(joint, 2, 1) & np.roll(joint, -2, 1)


@pytest.mark.parametrize("are_light", [False, True])
def test_lines_go_down_and_faces_stay_calm_whatever_their_shade(are_light):
    color, joint = tiles(are_light=are_light)
    height = height_from_grooves(color, params=HeightFromGrooves(are_light=are_light, fine=0))
    wide = joint
    for axis in (0, 1):
        for step in (-10, -5, 5, 10):
            wide = wide | np.roll(joint, step, axis)
    assert np.quantile(height[~wide], 0.01) > np.quantile(height[centers(joint)], 0.99) + 0.1
    other = height_from_color(color)
    assert height[~wide].std() < 0.5 * other[~wide].std()  # lightness makes every grain and shade a bump


def test_light_lines_stand_up_unless_they_are_said_to_be_grooves():
    color, joint = tiles(are_light=True)
    dark, light = (height_from_grooves(color, params=HeightFromGrooves(are_light=way, fine=0)) for way in (False, True))
    assert light[joint].mean() < light[~joint].mean() - 0.2
    assert dark[joint].mean() > dark[~joint].mean() - 0.05


def test_a_round_groove_is_deep_sooner_and_fine_relief_lies_on_top():
    color, joint = tiles(noise=0.02)
    sharp, round_ = (height_from_grooves(color, params=HeightFromGrooves(profile=way, fine=0)) for way in ("sharp", "round"))
    assert round_.mean() < sharp.mean() and (round_ <= sharp + 1e-6).all()
    fine = height_from_grooves(color, params=HeightFromGrooves(fine=0.5))
    assert fine[~joint].std() > 1.5 * sharp[~joint].std()


def test_a_nearly_plain_picture_stays_flat():
    faint = np.full((SIDE, SIDE, 3), 0.3, np.float32) + np.random.default_rng(1).normal(0, 0.0004, (SIDE, SIDE, 1)).astype(
        np.float32
    )
    assert np.ptp(height_from_grooves(faint)) < 0.1


def test_the_same_picture_at_another_size_gives_the_same_relief():
    small, large = (height_from_grooves(tiles(side, noise=0)[0]) for side in (SIDE, 2 * SIDE))
    again = large.reshape(SIDE, 2, SIDE, 2).mean((1, 3))
    assert np.abs(again - small).mean() < 0.02
