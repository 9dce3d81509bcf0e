"""Integration, curvature and blending against surfaces whose answers are worked by hand."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from copper_sieve.core.convert.blending import blend_normals
from copper_sieve.core.derive import NormalFromHeight, normal_from_height
from copper_sieve.core.derive.curvature import CurvatureFromNormal, curvature_from_normal, mean_curvature
from copper_sieve.core.derive.integration import HeightFromNormal, height_from_normal
from copper_sieve.core.filters import STENCILS
from copper_sieve.core.raster import Edges
from copper_sieve.core.vectors import renormalized

N, RISE = 96, 0.04
X, Y = np.meshgrid((np.arange(N) + 0.5) / N, (np.arange(N) + 0.5) / N)
WAVES = [(1, 2, 0.3), (3, -1, 1.1), (5, 4, 2.0), (0, 7, 0.7), (8, 0, 0.2)]
WRAPPING = sum(np.sin(2 * np.pi * (a * X + b * Y) + u) / (1 + a * a + b * b) for a, b, u in WAVES)
MIRRORED = sum(np.cos(np.pi * a * X) * np.cos(np.pi * abs(b) * Y) / (1 + a * a + b * b) for a, b, _ in WAVES)
MIXED = sum(np.sin(2 * np.pi * a * X + u) * np.cos(np.pi * abs(b) * Y) / (1 + a * a + b * b) for a, b, u in WAVES)
SURFACES = {"wrap": (WRAPPING, Edges()), "mirror": (MIRRORED, Edges(x="mirror", y="mirror")), "mixed": (MIXED, Edges(y="mirror"))}


def unit(values: np.ndarray) -> np.ndarray:
    return ((values - values.min()) / np.ptp(values)).astype(np.float32)


def off(found: np.ndarray, wanted: np.ndarray) -> float:
    """Largest difference in shares of the range, means taken out."""
    return float(np.abs((found - found.mean()) - (wanted - wanted.mean())).max() / np.ptp(wanted))


@pytest.mark.parametrize("stencil", STENCILS)
@pytest.mark.parametrize("surface", SURFACES)
def test_integrating_the_normals_of_a_height_gives_it_back(surface, stencil):
    values, edges = SURFACES[surface]
    height = unit(values)
    normal = normal_from_height(height, RISE, edges, params=NormalFromHeight(filter=stencil))
    found = height_from_normal(normal, edges, params=HeightFromNormal(filter=stencil, level=False))
    assert off(found.height * found.rise / RISE, height) < (1e-5 if surface == "wrap" else 2e-5)
    assert abs(found.rise / RISE - 1) < 1e-4


@pytest.mark.parametrize(("top", "most"), [(65535, 1e-3), (255, 8e-3)])
def test_stored_normals_give_it_back_as_well_as_they_are_stored(top, most):
    height = unit(WRAPPING)
    normal = normal_from_height(height, 0.3, params=NormalFromHeight(filter="central"))
    stored = np.round((normal * 0.5 + 0.5) * top).astype(np.float32) / np.float32(top) * 2 - 1
    found = height_from_normal(stored)
    assert off(found.height * np.float32(found.rise / 0.3), height) < most
    if top == 255:
        difference = found.height * found.rise / 0.3 - height
        assert float((difference - difference.mean()).std()) < 1e-3


def test_a_flat_map_and_zero_vectors_integrate_to_the_reference_plane():
    for normal in (np.zeros((8, 8, 3), np.float32), np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))):
        found = height_from_normal(normal)
        assert found.rise == 0 and (found.height == 0.5).all()


def test_one_row_of_texels_is_no_trouble():
    normal = normal_from_height(unit(WRAPPING[:1]), RISE)
    assert np.isfinite(height_from_normal(normal).height).all() and np.isfinite(curvature_from_normal(normal)).all()


def cap(radius: float) -> tuple[np.ndarray, np.ndarray]:
    """Normals of a ball's cap in the middle of a square, and how far each texel is from the middle, in widths."""
    n = 256
    x, y = np.meshgrid((np.arange(n) + 0.5) / n - 0.5, 0.5 - (np.arange(n) + 0.5) / n)
    z = np.sqrt(np.maximum(radius**2 - x**2 - y**2, 1e-6))
    return renormalized(np.stack([x, y, z], -1).astype(np.float32)), np.hypot(x, y)


def test_curvature_of_a_ball_is_one_over_its_radius():
    radius, scale = 0.7, 0.02
    normal, distance = cap(radius)
    found = mean_curvature(normal, scale, "mirror")
    inside = distance < 0.5 * 0.7 - scale
    np.testing.assert_allclose(found[inside], 1 / radius, rtol=0.05)
    hollow = mean_curvature(normal * np.float32([-1, -1, 1]), scale, "mirror")
    np.testing.assert_allclose(hollow[inside], -1 / radius, rtol=0.05)


def test_curvature_of_a_saddle_is_half_the_sum_of_its_two():
    n, a, b = 256, 1.2, -0.5
    x, y = np.meshgrid((np.arange(n) + 0.5) / n - 0.5, 0.5 - (np.arange(n) + 0.5) / n)
    normal = renormalized(np.stack([a * x, b * y, np.ones_like(x)], -1).astype(np.float32))  # h = −a·x²/2 − b·y²/2
    found = mean_curvature(normal, 0.02, "mirror")
    middle = (np.abs(x) < 0.08) & (np.abs(y) < 0.08)
    np.testing.assert_allclose(found[middle], (a + b) / 2, rtol=0.05)


def test_curvature_wraps_and_flat_is_neutral():
    normal = normal_from_height(unit(WRAPPING), 0.1)
    moved = curvature_from_normal(np.roll(normal, (11, -7), (0, 1)))
    np.testing.assert_allclose(moved, np.roll(curvature_from_normal(normal), (11, -7), (0, 1)), atol=2e-5)
    assert (curvature_from_normal(np.broadcast_to(np.float32([0, 0, 1]), (16, 16, 3))) == 0).all()
    assert curvature_from_normal(normal, params=CurvatureFromNormal(strength=4)).max() <= 1


vectors = hnp.arrays(np.float32, (4, 3), elements=st.floats(-1, 1, width=32)).map(
    lambda v: renormalized(np.abs(v) * [1, 1, 1] + [0, 0, 0.1])
)
FLAT = np.broadcast_to(np.float32([0, 0, 1]), (4, 3))
UP = np.float32([1, -1, 1])


@given(vectors, st.sampled_from(["turned", "summed"]))
@settings(deadline=None)
def test_flat_leaves_the_other_alone(normal, way):
    np.testing.assert_allclose(blend_normals(normal, FLAT, way=way), normal, atol=2e-6)
    np.testing.assert_allclose(blend_normals(FLAT, normal, way=way), normal, atol=2e-6)
    np.testing.assert_allclose(blend_normals(normal, normal[::-1], 0.0, way=way), normal, atol=2e-6)


@given(vectors, vectors, st.floats(0, 1), st.sampled_from(["turned", "summed"]))
@settings(deadline=None)
def test_blending_commutes_with_turning_green_and_keeps_length(base, detail, amount, way):
    here = blend_normals(base, detail, amount, way=way)
    np.testing.assert_allclose(blend_normals(base * UP, detail * UP, amount, way=way), here * UP, atol=2e-6)
    np.testing.assert_allclose(np.linalg.norm(here, axis=-1), 1, atol=1e-5)


def test_summed_slopes_are_the_normal_of_the_summed_heights():
    first, second = 0.02 * WRAPPING, 0.01 * np.roll(WRAPPING, 9, 0)
    both = normal_from_height((first + second).astype(np.float32), 1.0)
    parts = [normal_from_height(h.astype(np.float32), 1.0) for h in (first, second)]
    np.testing.assert_allclose(blend_normals(*parts, way="summed"), both, atol=1e-5)
