"""One fixed triangulation of polygons: a fan where they are convex, ears cut off where they are not."""

from __future__ import annotations

import numba
import numpy as np

from ..raster import FloatArray

__all__ = ["bent_or_concave", "triangulated"]

_BENT = 1e-3  # of the polygon's size: corners that lie farther from its plane make it bent


@numba.njit(nogil=True, cache=True)
def _normal(at, first, count):
    """Newell's normal of a polygon, not of unit length."""
    x = y = z = 0.0
    for k in range(count):
        a, b = at[first + k], at[first + (k + 1) % count]
        x += (a[1] - b[1]) * (a[2] + b[2])
        y += (a[2] - b[2]) * (a[0] + b[0])
        z += (a[0] - b[0]) * (a[1] + b[1])
    return x, y, z


@numba.njit(nogil=True, cache=True)
def _flat(at, first, count, out):
    """A polygon's corners on the plane of two axes that its normal leans on least, (count, 2), turning counterclockwise."""
    x, y, z = _normal(at, first, count)
    drop = 0
    if abs(y) > abs(x):
        drop = 1
    if abs(z) > max(abs(x), abs(y)):
        drop = 2
    u, v = (drop + 1) % 3, (drop + 2) % 3
    is_turned = (x, y, z)[drop] < 0
    for k in range(count):
        p = at[first + k]
        out[k, 0], out[k, 1] = (p[v], p[u]) if is_turned else (p[u], p[v])


@numba.njit(nogil=True, cache=True)
def _turn(p, a, b, c):
    return (p[b, 0] - p[a, 0]) * (p[c, 1] - p[b, 1]) - (p[b, 1] - p[a, 1]) * (p[c, 0] - p[b, 0])


@numba.njit(nogil=True, cache=True)
def _is_convex(p, count):
    for k in range(count):
        if _turn(p, k, (k + 1) % count, (k + 2) % count) < 0:
            return False
    return True


@numba.njit(nogil=True, cache=True)
def _is_ear(p, left, a, b, c, count):
    """Whether no other corner lies in the triangle that would be cut off."""
    if _turn(p, a, b, c) <= 0:
        return False
    for k in range(count):
        q = left[k]
        if q == a or q == b or q == c:
            continue
        same = (p[q] == p[a]).all() or (p[q] == p[b]).all() or (p[q] == p[c]).all()
        if not same and _turn(p, a, b, q) >= 0 and _turn(p, b, c, q) >= 0 and _turn(p, c, a, q) >= 0:
            return False
    return True


@numba.njit(nogil=True, cache=True)
def _split(at, starts, counts, out, polygon):
    widest = counts.max()
    flat, left = np.empty((widest, 2), np.float64), np.empty(widest, np.int64)
    t = 0
    for f in range(len(counts)):
        first, count = starts[f], counts[f]
        is_fan = count == 3
        if not is_fan:
            _flat(at, first, count, flat)
            is_fan = _is_convex(flat, count)
        if is_fan:
            for k in range(1, count - 1):
                out[t, 0], out[t, 1], out[t, 2], polygon[t] = first, first + k, first + k + 1, f
                t += 1
            continue
        left[:count] = np.arange(count)
        n = count
        while n > 3:
            ear = 0  # where rounding leaves no ear, the first corner is cut all the same
            for k in range(n):
                if _is_ear(flat, left, left[(k + n - 1) % n], left[k], left[(k + 1) % n], n):
                    ear = k
                    break
            out[t, 0], out[t, 1] = first + left[(ear + n - 1) % n], first + left[ear]
            out[t, 2], polygon[t] = first + left[(ear + 1) % n], f
            t += 1
            for k in range(ear, n - 1):
                left[k] = left[k + 1]
            n -= 1
        out[t, 0], out[t, 1], out[t, 2], polygon[t] = first + left[0], first + left[1], first + left[2], f
        t += 1


def triangulated(at: FloatArray, starts: np.ndarray, counts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Corners of each triangle (T, 3), and its polygon (T,), of polygons whose corners lie at ``at`` (C, 3).

    References
    ----------
    Ears: Meisters 1975.
    Examples
    --------
    >>> arrow = np.float32([[0, 0, 0], [2, 1, 0], [0, 2, 0], [1, 1, 0]])
    >>> triangulated(arrow, np.int32([0]), np.int32([4]))[0].tolist()
    [[3, 0, 1], [1, 2, 3]]
    """
    many = int(counts.sum()) - 2 * len(counts)
    out, polygon = np.empty((many, 3), np.int32), np.empty(many, np.int32)
    if (counts == 3).all():
        return np.stack([starts, starts + 1, starts + 2], 1).astype(np.int32), np.arange(many, dtype=np.int32)
    _split(at.astype(np.float64), starts, counts, out, polygon)
    return out, polygon


@numba.njit(nogil=True, cache=True)
def _bent(at, starts, counts, out):
    flat = np.empty((counts.max(), 2), np.float64)
    for f in range(len(counts)):
        first, count = starts[f], counts[f]
        if count == 3:
            continue
        _flat(at, first, count, flat)
        x, y, z = _normal(at, first, count)
        length = np.sqrt(x * x + y * y + z * z)
        farthest = size = 0.0
        for k in range(count):
            p, q = at[first + k], at[first]
            d = p - q
            size = max(size, np.sqrt((d * d).sum()))
            if length > 0:
                farthest = max(farthest, abs(d[0] * x + d[1] * y + d[2] * z) / length)
        out[f] = not _is_convex(flat, count) or farthest > _BENT * size


def bent_or_concave(at: FloatArray, starts: np.ndarray, counts: np.ndarray) -> np.ndarray:
    """Which polygons of corners at ``at`` (C, 3) are concave, or bent by more than a thousandth of their size, (F,).

    Examples
    --------
    >>> saddle = np.float32([[0, 0, 0], [1, 0, 0], [1, 1, 0.2], [0, 1, 0]])
    >>> bent_or_concave(saddle, np.int32([0]), np.int32([4])).tolist()
    [True]
    """
    out = np.zeros(len(counts), np.bool_)
    _bent(at.astype(np.float64), starts, counts, out)
    return out
