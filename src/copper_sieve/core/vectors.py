"""Unit vectors: what normals are made of, whichever way they came."""

from __future__ import annotations

import numpy as np

from .raster import FloatArray, Vectors

__all__ = ["rebuild_z", "renormalized"]


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
