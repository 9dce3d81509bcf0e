"""Which way green points, as a property that is set, never as a blind flip."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..errors import ShapeMismatch
from ..raster import FloatArray, Gray

__all__ = ["Green", "to_green_down", "to_green_up", "widened"]

Green = Literal["up", "down"]


def _turned(normal: np.ndarray) -> np.ndarray:
    if normal.ndim < 1 or normal.shape[-1] < 2:
        raise ShapeMismatch(f"normal must have shape (..., 3) (got {normal.shape}).")
    turned = normal.copy()
    green = normal[..., 1]
    turned[..., 1] = np.iinfo(normal.dtype).max - green if normal.dtype.kind == "u" else -green
    return turned


def to_green_down(normal: np.ndarray, *, green: Green) -> np.ndarray:
    """Return ``normal`` as Y−; the very input when ``green`` says it is already.

    Parameters
    ----------
    normal : (..., 3) float vectors, or uint8 / uint16 codes (then g' = max − g, red and blue untouched)
    green : how the input reads
    Examples
    --------
    >>> to_green_down(np.array([128, 200, 255], np.uint8), green="up").tolist()
    [128, 55, 255]
    """
    return normal if green == "down" else _turned(normal)


def to_green_up(normal: np.ndarray, *, green: Green) -> np.ndarray:
    """Return ``normal`` as Y+; the very input when ``green`` says it is already.

    Examples
    --------
    >>> to_green_up(np.array([128, 200, 255], np.uint8), green="up").tolist()  # already
    [128, 200, 255]
    """
    return normal if green == "up" else _turned(normal)


def widened(roughness: Gray, length: Gray) -> FloatArray:
    """Move detail that averaging took out of normals into roughness.

    Parameters
    ----------
    roughness : (...) float32, perceptual
    length : (...) length of the mean of unit normals under each texel, (0, 1]
    References
    ----------
    alpha'² = min(1, alpha² + 2(1 − l)/l), alpha = roughness²: Toksvig 2005 in the form for microfacet widths.
    Examples
    --------
    >>> widened(np.float32([0.5]), np.float32([1.0])).tolist()
    [0.5]
    """
    lost = 2 * (1 - length) / np.maximum(length, 1e-6)
    return np.minimum(1, roughness.astype(np.float32) ** 4 + np.maximum(lost, 0)).astype(np.float32) ** np.float32(0.25)
