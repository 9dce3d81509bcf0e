"""Unit vectors: what normals are made of, whichever way they came."""

from __future__ import annotations

from typing import Literal

import numpy as np

from .raster import FloatArray, Vectors

__all__ = ["Up", "rebuild_z", "renormalized", "with_y_up"]

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
    length = np.sqrt(np.einsum("...i,...i->...", normal, normal))[..., None]
    flat = np.array([0, 0, 1], np.float32)
    return np.where(length > 1e-12, normal / np.maximum(length, 1e-12), flat).astype(np.float32)


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
