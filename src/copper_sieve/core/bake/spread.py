"""Rays spread over a hemisphere, the same for a texel whatever is baked beside it."""

from __future__ import annotations

import math

import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..raster import FloatArray

__all__ = ["spread"]


@numba.njit(nogil=True, cache=True)
def _hash(x, seed):
    h = np.uint32(x) * np.uint32(747796405) + np.uint32(seed) * np.uint32(2891336453) + np.uint32(2654435769)
    h = np.uint32((h ^ (h >> np.uint32(16))) * np.uint32(2246822519))
    h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(3266489917))
    return np.uint32(h ^ (h >> np.uint32(16)))


@numba.njit(nogil=True, cache=True)
def _turned_bits(k):
    out, part = 0.0, 0.5
    while k:
        out += part * (k & 1)
        k >>= 1
        part *= 0.5
    return out


@numba.njit(nogil=True, cache=True)
def _spread(first, last, normals, faces, texels, count, seed, out):
    for i in range(first, last):
        nx, ny, nz = normals[i, 0], normals[i, 1], normals[i, 2]
        sign = 1.0 if nz >= 0 else -1.0
        a = -1.0 / (sign + nz)
        b = nx * ny * a
        tx, ty, tz = 1 + sign * nx * nx * a, sign * b, -sign * nx
        bx, by, bz = b, sign + ny * ny * a, -ny
        first_shift = _hash(texels[i], 2 * seed) * (1.0 / 4294967296.0)
        second_shift = _hash(texels[i], 2 * seed + 1) * (1.0 / 4294967296.0)
        for k in range(count):
            u = ((k + 0.5) / count + first_shift) % 1.0
            angle = 2 * math.pi * ((_turned_bits(k) + second_shift) % 1.0)
            r, z = math.sqrt(u), math.sqrt(max(1 - u, 0.0))
            x, y = r * math.cos(angle), r * math.sin(angle)
            dx, dy, dz = x * tx + y * bx + z * nx, x * ty + y * by + z * ny, x * tz + y * bz + z * nz
            under = dx * faces[i, 0] + dy * faces[i, 1] + dz * faces[i, 2]
            if under < 0:  # a ray that a smooth normal would send through its own face is turned back over it
                dx, dy, dz = dx - 2 * under * faces[i, 0], dy - 2 * under * faces[i, 1], dz - 2 * under * faces[i, 2]
            out[i, k, 0], out[i, k, 1], out[i, k, 2] = dx, dy, dz


def spread(
    normals: FloatArray, faces: FloatArray, texels: np.ndarray, count: int, seed: int = 0, *, cancel: Cancel = NEVER
) -> FloatArray:
    """Directions (N, count, 3) about unit normals (N, 3), more of them the steeper they stand (cosine).

    Parameters
    ----------
    faces : (N, 3) unit normals of the flat faces that the points lie on; no ray goes below them
    texels : (N,) whole numbers: a texel has its rays from its own number and the seed alone
    References
    ----------
    Hammersley's points, shifted for each texel (Cranley & Patterson 1976); frames of Duff et al. 2017.
    Examples
    --------
    >>> up = np.float32([[0, 0, 1]])
    >>> found = spread(up, up, np.int64([0]), 64)
    >>> round(float(found[..., 2].mean()), 1), bool((found[..., 2] >= 0).all())
    (0.7, True)
    """
    out = np.empty((len(normals), count, 3), np.float32)
    run_rows(_spread, len(normals), 3 * count, cancel, normals, faces, texels, count, seed, out)
    return out
