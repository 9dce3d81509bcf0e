"""Our own caster: a tree of boxes over triangles, split where surfaces are met least."""

from __future__ import annotations

import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..raster import FloatArray
from .cast import Hits

__all__ = ["OwnCaster", "exactly"]

_BINS, _LEAF, _DEEPEST = 16, 4, 96
_EDGE = 1e-9  # of a side: so that no ray slips through between two triangles


@numba.njit(nogil=True, cache=True)
def _half_area(low, high):
    x, y, z = high[0] - low[0], high[1] - low[1], high[2] - low[2]
    return x * y + y * z + z * x


@numba.njit(nogil=True, cache=True)
def _built(low, high, order):
    """Boxes (N, 6), the left child or first triangle (N,), and how many triangles (N,), 0 for a box of two boxes."""
    many = len(low)
    boxes = np.empty((2 * many, 6), np.float32)
    child, count = np.empty(2 * many, np.int32), np.zeros(2 * many, np.int32)
    middle = (low + high) * np.float32(0.5)
    waiting = np.empty((2 * many + 2, 3), np.int64)
    waiting[0] = (0, 0, many)
    top, nodes = 1, 1
    bin_low, bin_high = np.empty((_BINS, 3), np.float32), np.empty((_BINS, 3), np.float32)
    bin_count = np.empty(_BINS, np.int64)
    right_cost = np.empty(_BINS, np.float64)
    lo, hi = np.empty(3, np.float32), np.empty(3, np.float32)
    while top:
        top -= 1
        node, first, last = waiting[top]
        lo[:], hi[:] = np.inf, -np.inf
        for i in range(first, last):
            t = order[i]
            for k in range(3):
                lo[k], hi[k] = min(lo[k], low[t, k]), max(hi[k], high[t, k])
        boxes[node, :3], boxes[node, 3:] = lo, hi
        size = last - first
        best, best_axis, best_bin = np.float64(size) * _half_area(lo, hi), -1, 0
        scale_of, start_of = 0.0, 0.0
        for axis in range(3):
            if size <= _LEAF:
                break
            start, end = np.inf, -np.inf
            for i in range(first, last):
                c = middle[order[i], axis]
                start, end = min(start, c), max(end, c)
            if end <= start:
                continue
            scale = _BINS * (1 - 1e-6) / (end - start)
            bin_low[:], bin_high[:], bin_count[:] = np.inf, -np.inf, 0
            for i in range(first, last):
                t = order[i]
                b = int((middle[t, axis] - start) * scale)
                bin_count[b] += 1
                for k in range(3):
                    bin_low[b, k], bin_high[b, k] = min(bin_low[b, k], low[t, k]), max(bin_high[b, k], high[t, k])
            lo[:], hi[:] = np.inf, -np.inf
            n = 0
            for b in range(_BINS - 1, 0, -1):
                n += bin_count[b]
                for k in range(3):
                    lo[k], hi[k] = min(lo[k], bin_low[b, k]), max(hi[k], bin_high[b, k])
                right_cost[b] = n * _half_area(lo, hi) if n else 0.0
            lo[:], hi[:] = np.inf, -np.inf
            n = 0
            for b in range(_BINS - 1):
                n += bin_count[b]
                for k in range(3):
                    lo[k], hi[k] = min(lo[k], bin_low[b, k]), max(hi[k], bin_high[b, k])
                if n == 0 or n == size:
                    continue
                cost = n * _half_area(lo, hi) + right_cost[b + 1]
                if cost < best:
                    best, best_axis, best_bin, scale_of, start_of = cost, axis, b, scale, start
        cut = first
        if best_axis >= 0:
            i, j = first, last - 1
            while i <= j:
                if int((middle[order[i], best_axis] - start_of) * scale_of) <= best_bin:
                    i += 1
                else:
                    order[i], order[j] = order[j], order[i]
                    j -= 1
            cut = i
        elif size > 8 * _LEAF:
            cut = (first + last) // 2  # all in one place: by halves, so that no leaf is long
        if cut in (first, last):
            child[node], count[node] = first, size
            continue
        child[node], count[node] = nodes, 0
        waiting[top] = (nodes, first, cut)
        waiting[top + 1] = (nodes + 1, cut, last)
        nodes += 2
        top += 2
    return boxes[:nodes], child[:nodes], count[:nodes]


@numba.njit(nogil=True, cache=True)
def _enters(box, o, inverse, reach):
    """How far a ray goes until it is in a box; infinite where it does not come into it."""
    near, far = 0.0, reach
    for k in range(3):
        a, b = (box[k] - o[k]) * inverse[k], (box[k + 3] - o[k]) * inverse[k]
        if a > b:
            a, b = b, a
        if a == a:
            near = max(near, a)
        if b == b:
            far = min(far, b)
    return near if near <= far * (1 + 4e-7) else np.inf


@numba.njit(nogil=True, cache=True)
def _crossing(tx, ty, tz, sides, d):
    """Möller & Trumbore 1997: distance to a triangle's plane and the shares of its sides there; infinite where it is never met.

    ``tx``, ``ty``, ``tz`` lead from the first corner to where the ray begins.
    """
    px, py, pz = (
        d[1] * sides[1, 2] - d[2] * sides[1, 1],
        d[2] * sides[1, 0] - d[0] * sides[1, 2],
        d[0] * sides[1, 1] - d[1] * sides[1, 0],
    )
    det = sides[0, 0] * px + sides[0, 1] * py + sides[0, 2] * pz
    if det == 0:
        return np.inf, 0.0, 0.0
    qx, qy, qz = ty * sides[0, 2] - tz * sides[0, 1], tz * sides[0, 0] - tx * sides[0, 2], tx * sides[0, 1] - ty * sides[0, 0]
    u = (tx * px + ty * py + tz * pz) / det
    v = (d[0] * qx + d[1] * qy + d[2] * qz) / det
    return (sides[1, 0] * qx + sides[1, 1] * qy + sides[1, 2] * qz) / det, u, v


@numba.njit(nogil=True, cache=True)
def _met(corner, sides, o, d, reach):
    """Distance and shares, infinite where the triangle is missed."""
    t, u, v = _crossing(o[0] - corner[0], o[1] - corner[1], o[2] - corner[2], sides, d)
    within = -_EDGE <= u <= 1 + _EDGE and v >= -_EDGE and u + v <= 1 + _EDGE
    return (t, u, v) if within and 0 <= t <= reach else (np.inf, 0.0, 0.0)


@numba.njit(nogil=True, cache=True)
def _cast(first, last, origins, directions, reach, any_hit, tree, corners, sides, order, distance, triangle, second, third):
    boxes, child, count = tree
    waiting = np.empty(_DEEPEST * 2, np.int32)
    o, d, inverse = np.empty(3), np.empty(3), np.empty(3)
    for i in range(first, last):
        for k in range(3):
            o[k], d[k] = origins[i, k], directions[i, k]
            inverse[k] = 1.0 / d[k] if d[k] != 0 else np.inf
        best, found, b, c = np.float64(reach[i]), -1, 0.0, 0.0
        top = 0
        if _enters(boxes[0], o, inverse, best) < np.inf:
            waiting[0] = 0
            top = 1
        while top:
            top -= 1
            node = waiting[top]
            if count[node]:
                for k in range(child[node], child[node] + count[node]):
                    t, u, v = _met(corners[k], sides[k], o, d, best)
                    if t < best or (t == best and (found < 0 or order[k] < found)):
                        best, found, b, c = t, order[k], u, v
                if any_hit and found >= 0:
                    break
                continue
            left, right = child[node], child[node] + 1
            near, far = _enters(boxes[left], o, inverse, best), _enters(boxes[right], o, inverse, best)
            if near > far:
                left, right, near, far = right, left, far, near
            if far < np.inf and top < _DEEPEST * 2 - 2:
                waiting[top] = right
                top += 1
            if near < np.inf:
                waiting[top] = left
                top += 1
        distance[i] = best if found >= 0 else np.inf
        triangle[i], second[i], third[i] = found, b, c


@numba.njit(nogil=True, cache=True)
def _exactly(first, last, points, faces, triangle, origins, directions, distance, second, third):
    o, d, sides = np.empty(3), np.empty(3), np.empty((2, 3))
    for i in range(first, last):
        face = triangle[i]
        distance[i], second[i], third[i] = np.inf, 0.0, 0.0
        if face < 0:
            continue
        for k in range(3):
            corner = np.float64(points[faces[face, 0], k])
            o[k], d[k] = origins[i, k] - corner, directions[i, k]
            sides[0, k], sides[1, k] = points[faces[face, 1], k] - corner, points[faces[face, 2], k] - corner
        t, u, v = _crossing(o[0], o[1], o[2], sides, d)
        if t < np.inf:
            u = min(max(u, 0.0), 1.0)
            second[i], third[i] = u, min(max(v, 0.0), 1.0 - u)
            distance[i] = max(t, 0.0)


def exactly(
    points: FloatArray, faces: np.ndarray, triangle: np.ndarray, origins: FloatArray, directions: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where rays meet triangles that they are known to meet, in float64 where a caster found them in float32.

    Parameters
    ----------
    points, faces : (P, 3), and the points of each triangle, (T, 3)
    triangle : (N,) the one that each ray meets, −1 for none
    Returns
    -------
    distance, second, third : (N,) float32
    Examples
    --------
    >>> floor, faces = np.float32([[0, 0, 0], [2, 0, 0], [0, 2, 0]]), np.int32([[0, 1, 2]])
    >>> found = exactly(floor, faces, np.int32([0]), np.float32([[0.5, 0.5, 1]]), np.float32([[0, 0, -1]]))
    >>> [float(part[0]) for part in found]
    [1.0, 0.25, 0.25]
    """
    out = tuple(np.empty(len(triangle), np.float32) for _ in range(3))
    run_rows(_exactly, len(triangle), 16, NEVER, points, faces, triangle, origins, directions, *out)
    return out[0], out[1], out[2]


class OwnCaster:
    """Casts rays at triangles (T, 3, 3). Equal rays meet the triangle that comes first in the file.

    References
    ----------
    Binned surface area heuristic: Wald 2007.
    Examples
    --------
    >>> floor = OwnCaster(np.float32([[[0, 0, 0], [2, 0, 0], [0, 2, 0]]]))
    >>> found = floor.run(np.float32([[0.5, 0.5, 1]]), np.float32([[0, 0, -1]]), np.float32([9]), False)
    >>> float(found[0][0]), int(found[1][0])
    (1.0, 0)
    """

    name = "own"

    def __init__(self, triangles: FloatArray, *, cancel: Cancel = NEVER) -> None:
        at = np.ascontiguousarray(triangles, np.float32)
        self._order = np.arange(len(at), dtype=np.int32)
        self._tree = _built(at.min(1), at.max(1), self._order)
        sorted_at = at[self._order].astype(np.float64)
        self._corners = np.ascontiguousarray(sorted_at[:, 0])
        self._sides = np.ascontiguousarray(sorted_at[:, 1:] - sorted_at[:, :1])
        self._cancel = cancel

    def run(self, origins: FloatArray, directions: FloatArray, reach: FloatArray, any_hit: bool) -> Hits:
        """What each ray meets first, as ``Caster`` says."""
        many = len(origins)
        distance, second, third = np.empty(many, np.float32), np.empty(many, np.float32), np.empty(many, np.float32)
        triangle = np.empty(many, np.int32)
        arguments = (origins, directions, reach, any_hit, self._tree, self._corners, self._sides, self._order)
        run_rows(_cast, many, 16, self._cancel, *arguments, distance, triangle, second, third)
        return Hits(distance, triangle, second, third)
