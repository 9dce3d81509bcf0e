"""Unit vectors: what normals are made of, whichever way they came."""

from __future__ import annotations

from typing import Literal

import numba
import numpy as np

from .raster import FloatArray, Vectors

__all__ = ["Up", "is_black", "rebuild_z", "renormalized", "with_y_up"]

_BLACK = 0.96  # within five codes of 255
Up = Literal["y", "z"]  # which axis of an object points up; both are right-handed


def renormalized(normal: Vectors) -> FloatArray:
    """Bring vectors to length 1.

    Parameters
    ----------
    normal : (..., 3) float32, any length
    Returns
    -------
    normal : (..., 3) float32, unit length; a zero vector counts as (0, 0, 1)
    Examples
    --------
    >>> [round(float(v), 2) for v in renormalized(np.float32([0, 3, 4]))]
    [0.0, 0.6, 0.8]
    """
    out = np.empty(normal.shape, np.float32)
    _renormalize(np.ascontiguousarray(normal).reshape(-1, 3), out.reshape(-1, 3))
    return out


@numba.njit(nogil=True, cache=True)
def _renormalize(vectors, out):
    for k in range(len(vectors)):
        x, y, z = vectors[k]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 1e-12:
            out[k, 0], out[k, 1], out[k, 2] = x / length, y / length, z / length
        else:
            out[k, 0], out[k, 1], out[k, 2] = 0, 0, 1


def is_black(vectors: Vectors) -> np.ndarray:
    """Where (..., 3) vectors, −1..1, are stored as black, which no direction is: maps are left so where nothing lies.

    Examples
    --------
    >>> is_black(np.float32([[-1, 1, -1], [-0.6, 0, 0.8]])).tolist()  # green was turned since
    [True, False]
    """
    x, y, z = (vectors[..., k] for k in range(3))
    return (x < -_BLACK) & (np.abs(y) > _BLACK) & (z < -_BLACK)


def rebuild_z(x: FloatArray, y: FloatArray) -> FloatArray:
    """z of unit normals that are stored as two channels.

    Convention: decoded vectors, z out of the surface; where x² + y² passes 1 there is none, and z is 0.

    Parameters
    ----------
    x, y : (...) float32, −1..1
    Returns
    -------
    z : (...) float32, 0..1
    References
    ----------
    Unit length, x² + y² + z² = 1.
    Examples
    --------
    >>> [round(float(v), 2) for v in rebuild_z(np.float32([0.6, 1.0]), np.float32([0.0, 1.0]))]
    [0.8, 0.0]
    """
    return np.sqrt(np.maximum(0, 1 - x * x - y * y))


def with_y_up(vectors: Vectors) -> FloatArray:
    """Vectors (..., 3) in object space whose z points up, as they are where y does: x stays, z becomes y, y becomes −z.

    Examples
    --------
    >>> with_y_up(np.float32([[1, 2, 3]])).tolist()
    [[1.0, 3.0, -2.0]]
    """
    return np.stack([vectors[..., 0], vectors[..., 2], -vectors[..., 1]], -1)
