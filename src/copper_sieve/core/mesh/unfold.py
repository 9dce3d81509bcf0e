"""How a picture lies on a mesh: stretch, overlap, turned islands, margins, hard edges that share one UV."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import cast

import numba
import numpy as np
from scipy import ndimage

from ..raster import FloatArray
from .shape import Shape
from .topology import Edges, islands_of

__all__ = [
    "Stretch",
    "borders_of",
    "crowded",
    "hard_edges_inside",
    "margin_of",
    "overlapping",
    "stretch_of",
    "turned_islands",
    "uv_areas",
]

_NO_AREA = 1e-12
_LEAST_OVERLAP = 1e-10  # of the unit square


def uv_areas(shape: Shape, uv: FloatArray) -> np.ndarray:
    """Signed area of each triangle in UV, (T,): below 0 where it is mirrored.

    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [0, 1]])
    >>> uv_areas(Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(3, dtype=np.int32), np.int32([3])), uv).tolist()
    [0.5]
    """
    at = uv[shape.triangles].astype(np.float64)
    a, b = at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]
    return (a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / 2


@dataclass(frozen=True)
class Stretch:
    """For each triangle with an area both in space and in UV: how unevenly it is stretched, and its density.

    Parameters
    ----------
    triangles : (K,) which ones
    ratio : (K,) the longer of its two stretches over the shorter, 1 for none
    density : (K,) of units of length for a unit of UV
    weight : (K,) its area in space
    """

    triangles: np.ndarray
    ratio: np.ndarray
    density: np.ndarray
    weight: np.ndarray


def stretch_of(shape: Shape, uv: FloatArray) -> Stretch:
    """Singular values of the map from UV to space, triangle by triangle.

    References
    ----------
    Sander et al. 2001.
    Examples
    --------
    >>> points, uv = np.float32([[0, 0, 0], [2, 0, 0], [0, 1, 0]]), np.float32([[0, 0], [1, 0], [0, 1]])
    >>> float(stretch_of(Shape(points, np.arange(3, dtype=np.int32), np.int32([3])), uv).ratio[0])
    2.0
    """
    at, place = shape.at.astype(np.float64), uv[shape.triangles].astype(np.float64)
    space = 0.5 * np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1)
    area = uv_areas(shape, uv)
    held = np.flatnonzero((np.abs(area) > _NO_AREA) & (space > 0))
    d1, d2 = at[held, 1] - at[held, 0], at[held, 2] - at[held, 0]
    t1, t2 = place[held, 1] - place[held, 0], place[held, 2] - place[held, 0]
    twice = (2 * area[held])[:, None]
    across = (t2[:, 1:] * d1 - t1[:, 1:] * d2) / twice
    along = (t1[:, :1] * d2 - t2[:, :1] * d1) / twice
    a, b, c = ((x * y).sum(1) for x, y in ((across, across), (across, along), (along, along)))
    root = np.sqrt(np.maximum((a - c) ** 2 + 4 * b * b, 0))
    most, least = np.sqrt((a + c + root) / 2), np.sqrt(np.maximum((a + c - root) / 2, 0))
    sound = least > 0
    return Stretch(held[sound], (most / np.maximum(least, 1e-300))[sound], np.sqrt(most * least)[sound], space[held][sound])


def borders_of(shape: Shape, uv: FloatArray, edges: Edges) -> tuple[np.ndarray, FloatArray]:
    """The borders of islands: the triangle of each piece, (K,), and where it runs from and to in UV, (K, 2, 2).

    Examples
    --------
    >>> from .topology import edges_of
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> square = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]))
    >>> len(borders_of(square, uv, edges_of(square))[0])  # the diagonal is none
    4
    """
    place = uv[shape.triangles]
    is_border = np.ones((len(place), 3), bool)
    (f, g), (i, j) = edges.faces.T, edges.sides.T
    joined = (place[f, i] == place[g, (j + 1) % 3]).all(1) & (place[f, (i + 1) % 3] == place[g, j]).all(1)
    is_border[f[joined], i[joined]] = is_border[g[joined], j[joined]] = False
    face, side = np.nonzero(is_border)
    return face, np.stack([place[face, side], place[face, (side + 1) % 3]], 1)


def turned_islands(shape: Shape, uv: FloatArray, edges: Edges) -> list[tuple[float, float]]:
    """For each island the angle that its border is turned by, degrees within ±45, and how clearly it has one, 0..1.

    References
    ----------
    The length-weighted mean of exp(4iα) over border edges: exact for rectangles.

    Examples
    --------
    >>> from .topology import edges_of
    >>> uv = np.float32([[0.5, 0], [1, 0.5], [0.5, 1], [0, 0.5]])
    >>> square = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]), uv=uv)
    >>> ((angle, clear),) = turned_islands(square, uv, edges_of(square))
    >>> round(abs(angle)), round(clear)
    (45, 1)
    """
    island = islands_of(shape, uv)
    face, ends = borders_of(shape, uv, edges)
    way = (ends[:, 1] - ends[:, 0]).astype(np.float64)
    length = np.hypot(way[:, 0], way[:, 1])
    turn = length * np.exp(4j * np.arctan2(way[:, 1], way[:, 0]))
    count = int(island.max()) + 1
    whole = np.bincount(island[face], length, count)
    sums = np.bincount(island[face], np.real(turn), count) + 1j * np.bincount(island[face], np.imag(turn), count)
    angle, clear = np.degrees(np.angle(sums)) / 4, np.abs(sums) / np.maximum(whole, 1e-12)
    return list(zip(angle.tolist(), clear.tolist()))


def hard_edges_inside(shape: Shape, uv: FloatArray, edges: Edges) -> np.ndarray:
    """Inner edges, as rows of ``edges.faces``, whose two faces have two normals at a point and one UV there.

    Half a turn within one texel cannot be held by a map, whatever it is baked from.

    Examples
    --------
    >>> from .topology import edges_of
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> points, corners = np.float32([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 1]]), np.int32([0, 1, 2, 0, 2, 3])
    >>> normals = np.float32([[0, 0, 1]] * 3 + [[0, -1, 0]] * 3)
    >>> roof = Shape(points, corners, np.int32([3, 3]), uv=uv[corners], normals=normals)
    >>> len(hard_edges_inside(roof, roof.uv, edges_of(roof)))
    1
    """
    if shape.normals is None:
        return np.zeros(0, np.int64)
    place, normal = uv[shape.triangles], shape.normals[shape.triangles]
    (f, g), (i, j) = edges.faces.T, edges.sides.T
    ends = ((i, (j + 1) % 3), ((i + 1) % 3, j))
    is_one_uv = np.logical_and.reduce([(place[f, a] == place[g, b]).all(1) for a, b in ends])
    is_hard = np.logical_or.reduce([(normal[f, a] * normal[g, b]).sum(1) < _ALIKE for a, b in ends])
    return np.flatnonzero(is_one_uv & is_hard)


_ALIKE = float(np.cos(np.radians(1.0)))


@numba.njit(nogil=True, cache=True)
def _clipped(polygon, count, ax, ay, bx, by, out):
    """A polygon's part on the left of the line from a to b; how many corners it has."""
    found = 0
    for k in range(count):
        px, py = polygon[k, 0], polygon[k, 1]
        qx, qy = polygon[(k + 1) % count, 0], polygon[(k + 1) % count, 1]
        here = (bx - ax) * (py - ay) - (by - ay) * (px - ax)
        there = (bx - ax) * (qy - ay) - (by - ay) * (qx - ax)
        if here >= 0:
            out[found, 0], out[found, 1] = px, py
            found += 1
        if (here > 0 > there) or (here < 0 < there):
            share = here / (here - there)
            out[found, 0], out[found, 1] = px + share * (qx - px), py + share * (qy - py)
            found += 1
    return found


@numba.njit(nogil=True, cache=True)
def _shared_area(a, b, one, two):
    """The area that two triangles turning counterclockwise share."""
    one[:3], count = a, 3
    for k in range(3):
        p, q = b[k], b[(k + 1) % 3]
        count = _clipped(one, count, p[0], p[1], q[0], q[1], two)
        one, two = two, one
        if count < 3:
            return 0.0
    area = 0.0
    for k in range(count):
        p, q = one[k], one[(k + 1) % count]
        area += p[0] * q[1] - p[1] * q[0]
    return area / 2


@numba.njit(nogil=True, cache=True)
def _pairs(at, low, high, group, firsts, order, corner, scale, across, out):
    """Pairs of one group that share area: each pair is owned by the cell where the larger of their low corners lies."""
    one, two = np.empty((12, 2)), np.empty((12, 2))
    found = 0
    for cell in range(len(firsts) - 1):
        for i in range(firsts[cell], firsts[cell + 1]):
            a = order[i]
            for j in range(i + 1, firsts[cell + 1]):
                b = order[j]
                if group[a] != group[b]:
                    continue
                left, bottom = max(low[a, 0], low[b, 0]), max(low[a, 1], low[b, 1])
                if left >= min(high[a, 0], high[b, 0]) or bottom >= min(high[a, 1], high[b, 1]):
                    continue
                column = min(int((left - corner[0]) * scale), across - 1)
                if column + across * min(int((bottom - corner[1]) * scale), across - 1) != cell:
                    continue
                if _shared_area(at[a], at[b], one, two) > _LEAST_OVERLAP:
                    if found < len(out):
                        out[found, 0], out[found, 1] = a, b
                    found += 1
    return found


def overlapping(shape: Shape, uv: FloatArray, most: int = 1 << 20) -> np.ndarray:
    """Pairs of triangles of one material that share an area of UV, (K, 2); at most ``most`` of them.

    References
    ----------
    A grid of cells; clipping after Sutherland & Hodgman 1974.
    Examples
    --------
    >>> twice = np.float32([[0, 0], [1, 0], [0, 1], [0, 0], [1, 0], [0, 1]])
    >>> shape = Shape(np.pad(twice, ((0, 0), (0, 1))), np.arange(6, dtype=np.int32), np.int32([3, 3]))
    >>> overlapping(shape, twice).tolist()
    [[0, 1]]
    """
    at = uv[shape.triangles].astype(np.float64)
    area = uv_areas(shape, uv)
    at[area < 0] = at[area < 0][:, ::-1]
    held = np.flatnonzero(np.abs(area) > _LEAST_OVERLAP)
    if len(held) < 2 or not np.isfinite(at[held]).all():
        return np.zeros((0, 2), np.int64)
    at = at[held]
    low, high = at.min(1), at.max(1)
    corner, span = low.min(0), float((high.max(0) - low.min(0)).max())
    across = int(np.clip(np.sqrt(len(held)), 1, 2048))
    scale = across / max(span, 1e-12)
    first = np.minimum(((low - corner) * scale).astype(np.int64), across - 1)
    last = np.minimum(((high - corner) * scale).astype(np.int64), across - 1)
    counts = (last - first + 1).prod(1)
    which = np.repeat(np.arange(len(held)), counts)
    within = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    wide = (last - first + 1)[which, 0]
    cell = first[which, 0] + within % wide + across * (first[which, 1] + within // wide)
    order = np.argsort(cell, kind="stable")
    firsts = np.searchsorted(cell[order], np.arange(across * across + 1))
    out = np.empty((most, 2), np.int64)
    count = _pairs(at, low, high, shape.material[shape.polygon_of][held], firsts, which[order], corner, scale, across, out)
    return held[out[: min(count, most)]]


def margin_of(island_at: np.ndarray) -> tuple[float, tuple[int, int]] | None:
    """The smallest gap between two islands in texels, and where (x, y); None where there are not two.

    Parameters
    ----------
    island_at : (H, W) the island of each texel, −1 where there is none

    Examples
    --------
    >>> margin_of(np.array([[0, 0, -1, -1, 1]] * 3))[0]
    2.0
    """
    best: tuple[float, tuple[int, int]] | None = None
    for gap, _, _ in _gaps(island_at):
        place = np.unravel_index(int(np.argmin(gap)), gap.shape)
        if np.isfinite(gap[place]) and (best is None or gap[place] < best[0]):
            best = float(gap[place]), (int(place[1]), int(place[0]))
    return best


def crowded(island_at: np.ndarray, least: float) -> np.ndarray:
    """The texels between islands that lie closer than ``least`` texels, with the border where they meet, (H, W).

    Parameters
    ----------
    island_at : (H, W) the island of each texel, −1 where there is none
    Examples
    --------
    >>> crowded(np.int32([[0, -1, 1, -1, -1, -1, -1, -1, 2]]), 4).tolist()
    [[False, True, True, False, False, False, False, False, False]]
    """
    met = np.zeros(island_at.shape, bool)
    for gap, behind, ahead in _gaps(island_at):
        met[behind] |= gap < least
        met[ahead] |= gap < least
    is_between = met & (island_at < 0)
    if not is_between.any():
        return met
    far = cast(np.ndarray, ndimage.distance_transform_edt(~is_between))
    return met | ((island_at < 0) & (far < least / 2))


_Rows = tuple[slice, slice]


def _gaps(island_at: np.ndarray) -> Iterator[tuple[np.ndarray, _Rows, _Rows]]:
    """Down, then across: how many texels part two islands where they meet, infinite elsewhere; and which texels those are."""
    is_free = island_at < 0
    if not is_free.any() or len(np.unique(island_at[~is_free])) < 2:
        return
    away, nearest = cast(tuple[np.ndarray, np.ndarray], ndimage.distance_transform_edt(is_free, return_indices=True))
    label = island_at[nearest[0], nearest[1]]
    every, first, rest = slice(None), slice(None, -1), slice(1, None)
    for behind, ahead in (((first, every), (rest, every)), ((every, first), (every, rest))):
        yield np.where(label[behind] != label[ahead], away[behind] + away[ahead], np.inf), behind, ahead
