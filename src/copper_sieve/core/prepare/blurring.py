"""Softening a part of a picture by a Gaussian."""

from __future__ import annotations

import cv2

from ..raster import FloatArray, floats

__all__ = ["soft"]

_SMALL = 4.0  # texels: a wider Gaussian is taken of the map made smaller


def soft(values: FloatArray, sigma: float) -> FloatArray:
    """Gaussian of ``sigma`` texels of (H, W[, C]), mirrored at its borders; wide ones by way of a smaller map.

    Examples
    --------
    >>> import numpy as np
    >>> soft(np.float32([[0, 0, 9, 0, 0]]), 1.0).round().tolist()
    [[1.0, 2.0, 4.0, 2.0, 1.0]]
    """
    if sigma <= 0:
        return values
    times = int(sigma // _SMALL)
    rows, columns = values.shape[:2]
    if times < 2 or min(rows, columns) < 4 * times:
        return floats(cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REFLECT))
    small = cv2.resize(values, (-(-columns // times), -(-rows // times)), interpolation=cv2.INTER_AREA)
    blurred = cv2.GaussianBlur(small, (0, 0), sigma * small.shape[1] / columns, sigma * small.shape[0] / rows)
    return floats(cv2.resize(blurred, (columns, rows), interpolation=cv2.INTER_CUBIC))
