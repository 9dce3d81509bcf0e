"""Places on a mesh, many at once: what its corners hold there, and normals in the frames that stand there."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numba
import numpy as np

from ..bands import NEVER, run_rows
from ..raster import FloatArray

__all__ = ["Places", "in_frames", "made_unit", "padded", "scattered"]

_NOTHING, _PARALLEL = np.float32(1e-12), 1e-12


@dataclass(frozen=True)
class Places:
    """Samples on a mesh, N of them.

    Parameters
    ----------
    texels : (N,) whole numbers that tell them apart
    triangle : (N,) int32
    second, third : (N,) float32, the shares of the triangle's second and third corner
    """

    texels: np.ndarray
    triangle: np.ndarray
    second: FloatArray
    third: FloatArray

    def of(self, values: FloatArray) -> FloatArray:
        """What corners hold, (T, 3, K), between them: (N, K), not made unit."""
        out = np.empty((len(self.triangle), values.shape[2]), np.float32)
        run_rows(_between, len(out), 16, NEVER, values, self.triangle, self.second, self.third, out)
        return out


def scattered(at: FloatArray, many: int, seed: int = 0) -> Places:
    """Places by chance on triangles (T, 3, 3), as many on equal areas; the same each time.

    Examples
    --------
    >>> scattered(np.float32([[[0, 0, 0], [1, 0, 0], [0, 1, 0]]]), 5).triangle.tolist()
    [0, 0, 0, 0, 0]
    """
    areas = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1)
    rng = np.random.Generator(np.random.PCG64(seed))
    which = np.searchsorted(np.cumsum(areas), rng.random(many) * areas.sum()).clip(0, len(at) - 1)
    second, third = rng.dirichlet((1, 1, 1), many).astype(np.float32).T[1:].copy()
    return Places(np.arange(many), which.astype(np.int32), second, third)


@numba.njit(nogil=True, cache=True)
def _between(first, last, values, triangle, second, third, out):
    for i in range(first, last):
        t, b, c = triangle[i], second[i], third[i]
        a = np.float32(1) - b - c
        for k in range(values.shape[2]):
            out[i, k] = a * values[t, 0, k] + b * values[t, 1, k] + c * values[t, 2, k]


@numba.njit(nogil=True, cache=True)
def _unit(first, last, vectors):
    for i in range(first, last):
        x, y, z = vectors[i, 0], vectors[i, 1], vectors[i, 2]
        length = np.float32(math.sqrt(x * x + y * y + z * z))
        if length > _NOTHING:
            vectors[i, 0], vectors[i, 1], vectors[i, 2] = x / length, y / length, z / length
        else:
            vectors[i, 0], vectors[i, 1], vectors[i, 2] = np.float32(0), np.float32(0), np.float32(1)


def made_unit(vectors: FloatArray) -> FloatArray:
    """Bring vectors (..., 3) to length 1 where they stand, and return them; what has no length becomes (0, 0, 1).

    Examples
    --------
    >>> made_unit(np.float32([[0, 0, 2]])).tolist()
    [[0.0, 0.0, 1.0]]
    """
    flat = vectors.reshape(-1, 3)
    assert not len(flat) or np.shares_memory(flat, vectors)
    run_rows(_unit, len(flat), 16, NEVER, flat)
    return vectors


@numba.njit(nogil=True, cache=True)
def _framed(first, last, wanted, normals, tangents, out):
    for i in range(first, last):
        nx, ny, nz = normals[i, 0], normals[i, 1], normals[i, 2]
        tx, ty, tz = tangents[i, 0], tangents[i, 1], tangents[i, 2]
        sign = np.float32(-1) if tangents[i, 3] < 0 else np.float32(1)
        bx, by, bz = sign * (ny * tz - nz * ty), sign * (nz * tx - nx * tz), sign * (nx * ty - ny * tx)
        px, py, pz = by * nz - bz * ny, bz * nx - bx * nz, bx * ny - by * nx  # B × N
        det = tx * px + ty * py + tz * pz
        if abs(det) < _PARALLEL:
            det = np.float32(1)
        x, y, z = wanted[i, 0], wanted[i, 1], wanted[i, 2]
        out[i, 0] = (x * px + y * py + z * pz) / det
        out[i, 1] = (x * (ny * tz - nz * ty) + y * (nz * tx - nx * tz) + z * (nx * ty - ny * tx)) / det
        out[i, 2] = (x * (ty * bz - tz * by) + y * (tz * bx - tx * bz) + z * (tx * by - ty * bx)) / det


def in_frames(wanted: FloatArray, normals: FloatArray, tangents: FloatArray) -> FloatArray:
    """Directions (N, 3) in frames whose vectors were interpolated and not made unit: what a shader does, undone; unit.

    Parameters
    ----------
    normals : (N, 3); tangents : (N, 4), the fourth the sign of the bitangent
    Notes
    -----
    Solves [T B N] x = wanted, and not its transpose: on coarse meshes the frame is far from square.
    Examples
    --------
    >>> found = in_frames(np.float32([[0.6, 0, 0.8]]), np.float32([[0, 0, 1]]), np.float32([[-1, 0, 0, 1]]))
    >>> [round(float(part), 1) for part in found[0]]
    [-0.6, 0.0, 0.8]
    """
    out = np.empty_like(wanted)
    run_rows(_framed, len(wanted), 16, NEVER, wanted, normals, tangents, out)
    return made_unit(out)


@numba.njit(nogil=True, cache=True)
def _padded(first, last, values, held, rows, columns):
    for y in range(first, last):
        for x in range(values.shape[1]):
            if not held[y, x]:
                for k in range(values.shape[2]):
                    values[y, x, k] = values[rows[y, x], columns[y, x], k]


def padded(values: FloatArray, held: np.ndarray, rows: np.ndarray, columns: np.ndarray) -> FloatArray:
    """Fill a map (H, W[, C]) where it is not ``held`` from the texels at ``rows`` and ``columns``, where it stands.

    Examples
    --------
    >>> padded(np.float32([[5, 0]]), np.array([[True, False]]), np.int32([[0, 0]]), np.int32([[0, 0]])).tolist()
    [[5.0, 5.0]]
    """
    flat = values.reshape(*values.shape[:2], -1)
    run_rows(_padded, *flat.shape[:2], NEVER, flat, held, rows, columns)
    return values
