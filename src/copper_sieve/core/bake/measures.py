"""What a surface says of itself at places on it: how open it lies, how thick it is, how it bends, which part it is."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..bands import NEVER, Cancel
from ..mesh.shape import Shape, welded
from ..raster import FloatArray
from .cast import Caster, blocked, hits
from .spread import spread

__all__ = ["Surface", "colors_of", "curvature_of", "openness", "thickness"]

_OFF = 1e-5  # of the size: how far off the surface rays start
_CHUNK = 1 << 20  # rays at once
_MEANT = 0.85, 0.35  # lightest and darkest of an ID color's components


class Surface(NamedTuple):
    """Places on a mesh that rays start from.

    Parameters
    ----------
    points, normals, faces : (N, 3) float32; faces are the normals of the flat faces that the points lie on
    texels : (N,) whole numbers that their rays are found by
    size : of the mesh
    """

    points: FloatArray
    normals: FloatArray
    faces: FloatArray
    texels: np.ndarray
    size: float


def openness(caster: Caster, surface: Surface, rays: int, seed: int = 0, *, cancel: Cancel = NEVER) -> FloatArray:
    """How much of the sky each place sees, (N,): 1 all of it, weighted by the cosine.

    Examples
    --------
    >>> from .bvh import OwnCaster
    >>> up, at = np.float32([[0, 0, 1]]), np.float32([[0, 0, 0]])
    >>> lid = OwnCaster(np.float32([[[-9, -9, 1], [9, -9, 1], [0, 18, 1]]]))
    >>> float(openness(lid, Surface(at, up, up, np.int64([0]), 9.0), 64)[0]) < 0.1
    True
    """
    out = np.empty(len(surface.points), np.float32)
    for part in _chunks(len(out), rays):
        cancel.check()
        starts, ways, reach = _rays(surface, part, 1, rays, seed, cancel)
        out[part] = 1 - blocked(caster, starts, ways, reach).reshape(-1, rays).mean(1, dtype=np.float32)
    return out


def thickness(caster: Caster, surface: Surface, rays: int, seed: int = 0, *, cancel: Cancel = NEVER) -> FloatArray:
    """How far it is through the inside, on the mean of rays turned inward, (N,), in units of the mesh.

    Examples
    --------
    >>> from .bvh import OwnCaster
    >>> up, at = np.float32([[0, 0, 1]]), np.float32([[0, 0, 0]])
    >>> floor = OwnCaster(np.float32([[[-900, -900, -1], [900, -900, -1], [0, 1800, -1]]]))
    >>> 1 < float(thickness(floor, Surface(at, up, up, np.int64([0]), 9.0), 64)[0]) < 3
    True
    """
    out = np.empty(len(surface.points), np.float32)
    for part in _chunks(len(out), rays):
        cancel.check()
        starts, ways, reach = _rays(surface, part, -1, rays, seed, cancel)
        far = hits(caster, starts, ways, reach).distance
        far = np.where(np.isfinite(far), far, 0).reshape(-1, rays)
        out[part] = far.mean(1, dtype=np.float32) + np.float32(_OFF * surface.size)
    return out


def _rays(
    surface: Surface, part: slice, side: int, rays: int, seed: int, cancel: Cancel
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where the rays of some places start, a little off the surface, which way they go, and how far."""
    normals, faces = side * surface.normals[part], side * surface.faces[part]
    ways = spread(normals, faces, surface.texels[part], rays, seed, cancel=cancel).reshape(-1, 3)
    starts = np.repeat(surface.points[part] + faces * np.float32(_OFF * surface.size), rays, 0)
    return starts, ways, np.full(len(starts), 2 * surface.size, np.float32)


def _chunks(many: int, rays: int) -> Sequence[slice]:
    step = max(1, _CHUNK // rays)
    return [slice(first, min(first + step, many)) for first in range(0, many, step)]


def curvature_of(shape: Shape) -> FloatArray:
    """Mean curvature at each point, (P,), 1 over units of length; outward bends are above 0.

    Convention: half the divergence of the normals.

    Examples
    --------
    >>> import numpy as np
    >>> flat = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]))
    >>> float(abs(curvature_of(flat)).max())
    0.0
    """
    at, corner = shape.at.astype(np.float64), shape.triangles
    normals = shape.shading[corner].astype(np.float64)
    whole = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    twice = np.linalg.norm(whole, axis=1)
    unit = whole / np.maximum(twice, 1e-300)[:, None]
    diverges = np.zeros(len(at))
    for k in range(3):
        gradient = np.cross(unit, at[:, (k + 2) % 3] - at[:, (k + 1) % 3]) / np.maximum(twice, 1e-300)[:, None]
        diverges += (normals[:, k] * gradient).sum(1)
    same = welded(shape.points)
    place = same[shape.faces]
    many = int(same.max()) + 1
    area = np.bincount(place.ravel(), np.repeat(twice, 3), many)
    sums = np.bincount(place.ravel(), np.repeat(twice * diverges / 2, 3), many)
    return (sums / np.maximum(area, 1e-300))[same].astype(np.float32)


def colors_of(names: Sequence[str]) -> FloatArray:
    """A color for each name, (N, 3), the same wherever that name comes; for a nameless one by its place.

    Examples
    --------
    >>> colors_of(["brass", "linen"]).shape, bool((colors_of(["brass"]) == colors_of(["linen", "brass"])[1:]).all())
    ((2, 3), True)
    """
    light, dark = _MEANT
    bytes_of = [hashlib.sha256((name or f"part {k}").encode()).digest()[:3] for k, name in enumerate(names)]
    return np.array([[dark + (light - dark) * value / 255 for value in one] for one in bytes_of], np.float32).reshape(-1, 3)
