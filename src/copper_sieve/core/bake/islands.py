"""Where a picture goes on beyond the islands of a mesh: each texel that nothing shows takes the nearest that something does."""

from __future__ import annotations

from typing import cast

import numpy as np
from scipy import ndimage

from ..bands import NEVER, Cancel
from ..mesh.shape import Shape
from ..raster import FloatArray, Size
from .cover import covered

__all__ = ["grown", "nearest_shown"]

_OUTSIDE = 1e-4  # of the picture: UV that leave it by more are of a picture that repeats
_ROWS = 256  # at once, as numpy makes places of 8 bytes of them
_BESIDE = 1.5  # texels: a place that only touches one stands for itself where nothing covers a texel so near


def nearest_shown(low: Shape, size: Size, *, cancel: Cancel = NEVER) -> np.ndarray | None:
    """Row and column of the nearest texel that a mesh shows.

    Parameters
    ----------
    low : the part of a mesh that wears one picture
    Returns
    -------
    where : (2, H, W) int16, a texel that is shown names itself; None where the mesh has no UV, nothing of it lies in the
        picture, or the picture is repeated over it, so that no place is free
    Examples
    --------
    >>> uv = np.float32([[0, 0], [0.5, 0], [0.5, 1], [0, 1]])
    >>> left = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]), uv=uv)
    >>> nearest_shown(left, Size(4, 1))[1].tolist()
    [[0, 1, 1, 1]]
    """
    if low.uv is None or not np.isfinite(low.uv).all():
        return None
    if low.uv.min() < -_OUTSIDE or low.uv.max() > 1 + _OUTSIDE:
        return None
    cover = covered(low, low.uv, size, cancel=cancel)
    cancel.check()
    held = cover.count > 0
    if not held.any():
        held = cover.is_covered
        if not held.any():
            return None
    else:
        touched = cover.is_covered & ~held
        if touched.any():
            held |= touched & (cast(np.ndarray, ndimage.distance_transform_edt(~held)) > _BESIDE)
    found = ndimage.distance_transform_edt(~held, return_distances=False, return_indices=True)
    return cast(np.ndarray, found).astype(np.int16)


def grown(values: FloatArray, where: np.ndarray) -> FloatArray:
    """A map that goes on beyond the islands, (H, W) or (H, W, K).

    Parameters
    ----------
    where : as of ``nearest_shown``, of the same size
    Examples
    --------
    >>> grown(np.float32([[1, 2, 3]]), np.int32([[[0, 0, 0]], [[0, 1, 1]]])).tolist()
    [[1.0, 2.0, 2.0]]
    """
    out = np.empty_like(values)
    for first in range(0, len(out), _ROWS):
        rows, columns = where[:, first : first + _ROWS]
        out[first : first + _ROWS] = values[rows, columns]
    return out
