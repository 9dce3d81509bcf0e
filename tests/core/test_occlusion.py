"""Occlusion against a brute-force slice integral in float64."""

import os
import subprocess
import sys

import numpy as np
import pytest

from copper_sieve.core.derive import OcclusionFromHeight, occlusion_from_height
from copper_sieve.core.derive.occlusion import first_occlusion_from_height as first_way
from copper_sieve.core.filters import gaussian


def bumps(size: int) -> np.ndarray:
    at = (np.arange(size) + 0.5) / size
    x, y = np.meshgrid(at, at)
    return (0.5 + 0.3 * np.sin(2 * np.pi * 3 * x) * np.sin(2 * np.pi * 2 * y) + 0.2 * np.sin(2 * np.pi * 7 * (x + y))).astype(
        "f4"
    )


def brute(height: np.ndarray, rise: float, reach: float, rows, columns, slices: int = 48) -> np.ndarray:
    """Slow twin: angles by arctangent, a sample every half texel, numeric integral over each slice."""
    size = height.shape[1]
    scale = rise * size
    h = height.astype(np.float64) * scale

    def at(x, y):
        x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
        fx, fy = x - x0, y - y0
        xa, xb, ya, yb = x0 % size, (x0 + 1) % size, y0 % h.shape[0], (y0 + 1) % h.shape[0]
        top = h[ya, xa] * (1 - fx) + h[ya, xb] * fx
        return top * (1 - fy) + (h[yb, xa] * (1 - fx) + h[yb, xb] * fx) * fy

    gx = (np.roll(h, -1, 1) - np.roll(h, 1, 1))[rows, columns] / 2
    gy = (np.roll(h, -1, 0) - np.roll(h, 1, 0))[rows, columns] / 2
    normal = np.stack([-gx, -gy, np.ones_like(gx)], -1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    theta = np.linspace(-np.pi, np.pi, 721)
    total = np.zeros(len(rows))
    distances = np.arange(1.0, reach * size + 1e-9, 0.5)
    for k in range(slices):
        angle = np.pi * (k + 0.5) / slices
        d = np.array([np.cos(angle), np.sin(angle)])
        horizon = []
        for sign in (1, -1):
            samples = at(columns[:, None] + sign * d[0] * distances, rows[:, None] + sign * d[1] * distances)
            slope = (samples - h[rows, columns][:, None]) / distances
            horizon.append(np.pi / 2 - np.arctan(slope.max(1)))
        # direction in the slice: (sin theta, cos theta); visible above both horizons and above the surface
        along = normal[:, :2] @ d
        cosine = along[:, None] * np.sin(theta) + normal[:, 2:] * np.cos(theta)
        seen = (theta <= horizon[0][:, None]) & (theta >= -horizon[1][:, None]) & (cosine > 0)
        total += (cosine * seen * np.abs(np.sin(theta))).sum(1) * (theta[1] - theta[0])
    return total / slices


@pytest.mark.parametrize(("rise", "reach"), [(0.05, 0.1), (0.2, 0.25)])
def test_agrees_with_brute_force(rise, reach):
    height = bumps(96)
    rng = np.random.default_rng(5)
    rows, columns = rng.integers(0, 96, 1000), rng.integers(0, 96, 1000)
    found = occlusion_from_height(height, rise, params=OcclusionFromHeight(reach=reach))[rows, columns]
    assert np.sqrt(np.mean((found - brute(height, rise, reach, rows, columns)) ** 2)) <= 0.01


def test_walls_of_a_steep_relief_agree_too():
    """Blocks that rise by 15 % of the width, seen in narrow angles: more directions are looked in than by the first way."""
    y, x = np.mgrid[:96, :96]
    blocks = ((((x // 12) + (y // 16)) % 2) * 0.8 + 0.1).astype(np.float32)
    rng = np.random.default_rng(6)
    rows, columns = rng.integers(0, 96, 1000), rng.integers(0, 96, 1000)
    truth = brute(blocks, 0.15, 0.08, rows, columns, slices=96)
    errors = [np.sqrt(np.mean((way(blocks, 0.15)[rows, columns] - truth) ** 2)) for way in (occlusion_from_height, first_way)]
    assert errors[0] <= 0.01 and errors[0] < 0.8 * errors[1]


def test_no_blotches():
    """What is finer than 2 texels holds no more energy than in the brute form, over a whole map."""
    height = bumps(64)
    rows, columns = (part.ravel() for part in np.indices(height.shape))
    reference = brute(height, 0.1, 0.1, rows, columns).reshape(height.shape).astype(np.float32)
    found = occlusion_from_height(height, 0.1, params=OcclusionFromHeight(reach=0.1))
    energy = [float(np.square(v - gaussian(v, 2 / 64, "wrap")).mean()) for v in (found, reference)]
    assert energy[0] <= 1.05 * energy[1]


def test_a_plane_is_open():
    assert np.allclose(occlusion_from_height(np.full((32, 48), 0.3, np.float32)), 1, atol=1e-5)


def test_rolled_input_gives_rolled_result():
    height = bumps(64)
    rolled = occlusion_from_height(np.roll(height, (13, 29), (0, 1)), 0.1)
    np.testing.assert_allclose(rolled, np.roll(occlusion_from_height(height, 0.1), (13, 29), (0, 1)), atol=2e-6)


_ONCE = """
import numpy as np
from copper_sieve.core.derive import occlusion_from_height
height = np.random.default_rng(1).random((96, 96)).astype(np.float32)
print(occlusion_from_height(height, 0.03).tobytes().hex())
"""


def test_what_was_just_compiled_gives_the_same_bytes_as_what_comes_from_the_cache(tmp_path):
    fresh, kept = (
        subprocess.run(
            [sys.executable, "-c", _ONCE],
            env={**os.environ, "NUMBA_CACHE_DIR": str(tmp_path)},
            capture_output=True,
            text=True,
            check=True,
        ).stdout
        for _ in range(2)
    )
    assert len(fresh) > 96 * 96 and fresh == kept
