"""Tangents by the public standard algorithm, so that normals are read in the frame that they were baked in.

After M. S. Mikkelsen, *Simulation of Wrinkled Surfaces Revisited* (2008), in float32 and in the reference's order of sums. UV are
v up; fed v down the vectors are the same and every sign is turned.
"""

from __future__ import annotations

import math

import numba
import numpy as np

from ..errors import MeshInvalid
from ..raster import FloatArray
from ..vectors import renormalized
from .shape import Shape, welded

__all__ = ["tangents", "unlike_degrees"]

_NONE, _ANY = -1, 1
_LEAST = np.float32(1.1754943508222875e-38)  # smaller numbers count as none, as in the reference


@numba.njit(nogil=True, cache=True)
def _is_some(x):
    return abs(x) > _LEAST


@numba.njit(nogil=True, cache=True)
def _dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@numba.njit(nogil=True, cache=True)
def _made_unit(v):
    if not (_is_some(v[0]) or _is_some(v[1]) or _is_some(v[2])):
        return
    length = np.float32(math.sqrt(_dot(v, v)))
    if length == 0:  # its squares are too small to be told
        largest = max(abs(v[0]), abs(v[1]), abs(v[2]))
        v[0], v[1], v[2] = v[0] / largest, v[1] / largest, v[2] / largest
        length = np.float32(math.sqrt(_dot(v, v)))
    if length < np.inf:
        scale = np.float32(1) / length
        v[0], v[1], v[2] = scale * v[0], scale * v[1], scale * v[2]


@numba.njit(nogil=True, cache=True)
def _laid_flat(v, normal, out):
    """``v`` without what goes along the normal, of unit length."""
    along = _dot(normal, v)
    for k in range(3):
        out[k] = v[k] - along * normal[k]
    _made_unit(out)


@numba.njit(nogil=True, cache=True)
def _slopes(at, uv, across, along, keeps, is_any):
    """Of each triangle: the unit directions that u and v grow in, whether its UV are not mirrored, and have no area."""
    zero = np.float32(0)
    for t in range(len(at)):
        t1x, t1y = uv[t, 1, 0] - uv[t, 0, 0], uv[t, 1, 1] - uv[t, 0, 1]
        t2x, t2y = uv[t, 2, 0] - uv[t, 0, 0], uv[t, 2, 1] - uv[t, 0, 1]
        area = t1x * t2y - t1y * t2x
        keeps[t] = area > zero
        is_any[t] = True
        for k in range(3):
            d1, d2 = at[t, 1, k] - at[t, 0, k], at[t, 2, k] - at[t, 0, k]
            across[t, k] = t2y * d1 - t1y * d2
            along[t, k] = t1x * d2 - t2x * d1
        if not _is_some(area):
            continue
        size = abs(area)
        wide = np.float32(math.sqrt(_dot(across[t], across[t])))
        high = np.float32(math.sqrt(_dot(along[t], along[t])))
        sign = np.float32(1) if keeps[t] else np.float32(-1)
        if _is_some(wide):
            scale = sign / wide
            for k in range(3):
                across[t, k] = scale * across[t, k]
        if _is_some(high):
            scale = sign / high
            for k in range(3):
                along[t, k] = scale * along[t, k]
        is_any[t] = not (_is_some(wide / size) and _is_some(high / size))


@numba.njit(nogil=True, cache=True)
def _beside(order, low, high, triangle, edge, index, out):
    """The triangle beyond each edge, (T, 3), of edges sorted by their ends: the first free one that runs the other way."""
    many = len(order)
    for i in range(many):
        here = order[i]
        a, ea = triangle[here], edge[here]
        if out[a, ea] >= 0:
            continue
        start, end = index[a, ea], index[a, (ea + 1) % 3]
        j = i + 1
        while j < many and low[order[j]] == low[here] and high[order[j]] == high[here]:
            there = order[j]
            b, eb = triangle[there], edge[there]
            if out[b, eb] < 0 and index[b, eb] == end and index[b, (eb + 1) % 3] == start:
                out[a, ea], out[b, eb] = b, a
                break
            j += 1


@numba.njit(nogil=True, cache=True)
def _grouped(index, beside, keeps, is_any, group):
    """Around each corner the triangles joined by edges whose UV turn the same way: their number for each corner (T, 3)."""
    many = len(index)
    found = 0
    waiting = np.empty((2 * many + 8, 1), np.int64)
    signs = np.empty(3 * many, np.bool_)
    for f in range(many):
        if is_any[f]:
            continue
        for i in range(3):
            if group[f, i] >= 0:
                continue
            vertex, sign = index[f, i], keeps[f]
            group[f, i], signs[found] = found, sign
            top = 0
            for neighbor in (beside[f, i - 1 if i > 0 else 2], beside[f, i]):  # the last is looked at first
                if neighbor >= 0:
                    waiting[top, 0] = neighbor
                    top += 1
            while top > 0:
                top -= 1
                t = waiting[top, 0]
                k = 0
                while k < 3 and index[t, k] != vertex:
                    k += 1
                if k == 3 or group[t, k] >= 0:
                    continue
                if is_any[t] and group[t, 0] < 0 and group[t, 1] < 0 and group[t, 2] < 0:
                    keeps[t] = sign  # a triangle without UV area goes with the first that asks
                if keeps[t] != sign:
                    continue
                group[t, k] = found
                for neighbor in (beside[t, k - 1 if k > 0 else 2], beside[t, k]):
                    if neighbor >= 0:
                        if top == len(waiting):
                            more = np.empty((2 * len(waiting), 1), np.int64)
                            more[:top] = waiting
                            waiting = more
                        waiting[top, 0] = neighbor
                        top += 1
            found += 1
    return found, signs[:found]


@numba.njit(nogil=True, cache=True)
def _summed(order, firsts, counts, group, at, normals, across, along, is_any, signs, out):
    """Tangents of all corners (T, 3, 4): of each group the directions weighted by the angle that its triangles have there."""
    flat, flat_along = np.empty(3, np.float32), np.empty(3, np.float32)
    other, other_along = np.empty(3, np.float32), np.empty(3, np.float32)
    before, after, total = np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.float32)
    edge = np.empty(3, np.float32)
    minus = np.float32(-1)
    for g in range(len(firsts)):
        first, count = firsts[g], counts[g]
        whole = False
        for i in range(first, first + count):
            f, k = order[i] // 3, order[i] % 3
            n = normals[f, k]
            if not whole:
                _laid_flat(across[f], n, flat)
                _laid_flat(along[f], n, flat_along)
                total[:] = 0
                took_all = True
                for j in range(first, first + count):
                    t, m = order[j] // 3, order[j] % 3
                    _laid_flat(across[t], n, other)
                    _laid_flat(along[t], n, other_along)
                    is_alike = _dot(flat, other) > minus and _dot(flat_along, other_along) > minus
                    if not (is_any[f] or is_any[t] or t == f or is_alike):
                        took_all = False
                        continue
                    if is_any[t]:
                        continue
                    nt = normals[t, m]
                    _laid_flat(across[t], nt, other)
                    p, q = at[t, m], at[t, m - 1 if m > 0 else 2]
                    for c in range(3):
                        edge[c] = q[c] - p[c]
                    _laid_flat(edge, nt, before)
                    q = at[t, m + 1 if m < 2 else 0]
                    for c in range(3):
                        edge[c] = q[c] - p[c]
                    _laid_flat(edge, nt, after)
                    cosine = min(max(_dot(before, after), minus), np.float32(1))
                    angle = np.float32(math.acos(np.float64(cosine)))
                    for c in range(3):
                        total[c] = total[c] + angle * other[c]
                _made_unit(total)
                whole = took_all  # all corners of the group share one normal, so what took all is the same for each
            for c in range(3):
                out[f, k, c] = total[c]
            out[f, k, 3] = np.float32(1) if signs[g] else minus


def tangents(shape: Shape) -> FloatArray:
    """Tangents of a shape's triangles.

    Returns
    -------
    tangents : (T, 3, 4) float32 for the corners of ``shape.triangles``: unit vectors, and the sign of the bitangent w · (N × T);
        where UV have no area, any direction in the surface (the reference gives none)
    Raises
    ------
    MeshInvalid : the shape has no UV
    References
    ----------
    Mikkelsen 2008. Triangles of two equal points take the tangents of a sound triangle at the same corner.
    Examples
    --------
    >>> points = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]])
    >>> flat = Shape(points, np.arange(3, dtype=np.int32), np.int32([3]), uv=np.float32([[0, 0], [1, 0], [0, 1]]))
    >>> tangents(flat)[0, 0].tolist()
    [1.0, 0.0, 0.0, 1.0]
    """
    if shape.uv is None:
        raise MeshInvalid("tangents need UV, and the mesh has none. Unfold it first.")
    corner = shape.triangles
    at, normals, uv = shape.at, np.ascontiguousarray(shape.shading[corner]), np.ascontiguousarray(shape.uv[corner])
    rows = np.concatenate([at.reshape(-1, 3), normals.reshape(-1, 3), uv.reshape(-1, 2)], 1)
    index = welded(rows).reshape(-1, 3)
    out = np.zeros((len(corner), 3, 4), np.float32)
    out[..., 0], out[..., 3] = 1, -1
    is_point = (at[:, 0] == at[:, 1]).all(1) | (at[:, 1] == at[:, 2]).all(1) | (at[:, 2] == at[:, 0]).all(1)
    sound = np.flatnonzero(~is_point)
    if len(sound):
        out[sound] = _of_sound(at[sound], normals[sound], uv[sound], index[sound], out[sound])
    if is_point.any() and len(sound):
        _copied(index, sound, is_point, out)
    is_none = ~out[..., :3].any(-1)
    out[is_none, :3] = _across(normals[is_none])
    return out


def _across(normals: FloatArray) -> FloatArray:
    """A direction (N, 3) in the surface for each normal, any: where UV have no area nothing says which."""
    axis = np.zeros_like(normals)
    axis[np.arange(len(normals)), np.abs(normals).argmin(-1)] = 1
    return renormalized(axis - (axis * normals).sum(-1, keepdims=True) * normals)


def _of_sound(at: FloatArray, normals: FloatArray, uv: FloatArray, index: np.ndarray, out: FloatArray) -> FloatArray:
    many = len(at)
    across, along = np.empty((many, 3), np.float32), np.empty((many, 3), np.float32)
    keeps, is_any = np.empty(many, np.bool_), np.empty(many, np.bool_)
    _slopes(np.ascontiguousarray(at), np.ascontiguousarray(uv), across, along, keeps, is_any)
    ends = np.stack([index, np.roll(index, -1, 1)], -1).reshape(-1, 2)
    low, high = ends.min(1), ends.max(1)
    triangle = np.repeat(np.arange(many, dtype=np.int32), 3)
    edge = np.tile(np.arange(3, dtype=np.int32), many)
    beside = np.full((many, 3), _NONE, np.int32)
    _beside(np.lexsort((triangle, high, low)), low, high, triangle, edge, index, beside)
    group = np.full((many, 3), _NONE, np.int32)
    count, signs = _grouped(index, beside, keeps, is_any, group)
    flat = group.ravel()
    order = np.argsort(flat, kind="stable")[int((flat < 0).sum()) :]
    counts = np.bincount(flat[order], minlength=count)
    firsts = np.cumsum(counts) - counts
    _summed(order, firsts, counts, flat, at, normals, across, along, is_any, signs, out)
    return out


def _copied(index: np.ndarray, sound: np.ndarray, is_point: np.ndarray, out: FloatArray) -> None:
    """Give triangles of two equal points the tangents of the first sound triangle that has the same corner."""
    flat = index[sound].ravel()
    corners, first = np.unique(flat, return_index=True)
    for t in np.flatnonzero(is_point):
        for k in range(3):
            at = np.searchsorted(corners, index[t, k])
            if at < len(corners) and corners[at] == index[t, k]:
                out[t, k] = out[sound[first[at] // 3], first[at] % 3]


def unlike_degrees(given: FloatArray, ours: FloatArray) -> np.ndarray:
    """By how many degrees tangents (..., 4) differ; those of unlike sign by 180.

    Examples
    --------
    >>> unlike_degrees(np.float32([[1, 0, 0, 1]]), np.float32([[0, 1, 0, 1]])).round(3).tolist()
    [90.0]
    """
    a, b = given.astype(np.float64), ours.astype(np.float64)
    sine = np.linalg.norm(np.cross(a[..., :3], b[..., :3]), axis=-1)
    angle = np.degrees(np.arctan2(sine, (a[..., :3] * b[..., :3]).sum(-1)))
    return np.where(np.sign(a[..., 3]) == np.sign(b[..., 3]), angle, 180.0)
