"""What looks like the grain of wood, and what is brown or streaky and does not."""

import numpy as np
import pytest

from copper_sieve.core.derive.streaks import looks_like_wood

OAK, MAPLE, MAHOGANY = (0.42, 0.25, 0.11), (0.68, 0.5, 0.3), (0.2, 0.07, 0.03)
Y, X = np.mgrid[:256, :256] / 256
RINGS = np.sin(150 * np.hypot(X - 0.4, Y - 0.6) + 3 * np.sin(7 * X))  # sawn across
BOARD = np.sin(2 * np.pi * (20 * Y + 1.5 * np.sin(5 * X)))
FELT = np.random.default_rng(5).normal(size=(256, 256)) * 0.5


def painted(tones: np.ndarray, color: tuple[float, ...]) -> np.ndarray:
    return ((1 + 0.3 * tones)[..., None] * np.float32(color)).astype(np.float32)


@pytest.mark.parametrize("color", [OAK, MAPLE, MAHOGANY])
@pytest.mark.parametrize("tones", [RINGS, BOARD])
def test_brown_streaks_are_wood_whichever_way_they_run(tones, color):
    wood = painted(tones, color)
    assert all(looks_like_wood(np.ascontiguousarray(np.rot90(wood, k)), "mirror") for k in (0, 1))


def test_what_is_brown_or_streaky_alone_is_none():
    assert not looks_like_wood(painted(BOARD, (0.2, 0.21, 0.22)))  # brushed metal
    assert not looks_like_wood(painted(BOARD, (0.35, 0.06, 0.04)), "mirror")  # red brick
    assert not looks_like_wood(painted(FELT, OAK))
    assert not looks_like_wood(painted(np.zeros((64, 64)), OAK))  # plain
