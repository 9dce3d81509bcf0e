"""How much a picture follows a pattern, and which: from how alike it is to itself some way on."""

from __future__ import annotations

from typing import cast

import numpy as np
from scipy import fft, ndimage

from ..bands import CORES
from ..filters import gaussian
from ..raster import FloatArray

__all__ = ["HAS_LATTICE", "IS_RANDOM", "likeness", "structure_of"]

IS_RANDOM, HAS_LATTICE = 0.18, 0.25
_BROAD = 0.08  # of the width: broader tones are no pattern
_MIDDLE = 0.05  # of the way from the middle peak's height at which it ends
_FARTHEST = 0.45  # of the sides, beyond which too little of the picture lies over itself


def likeness(planes: FloatArray) -> np.ndarray:
    """How alike (H, W, C) is to itself moved by whole texels: 1 for itself, 0 by chance, (H, W) with no move in the middle.

    Unbiased: divided by how much of the picture overlaps.

    References
    ----------
    Wiener-Khinchin; the window is Hann's.
    Examples
    --------
    >>> stripes = np.tile(np.float32([0, 0, 1, 1]), (16, 4))[..., None]
    >>> found = likeness(stripes)
    >>> bool(found[8, 12] > 0.9 > 0 > found[8, 10])
    True
    """
    rows, columns = planes.shape[:2]
    high = np.stack([p - gaussian(np.ascontiguousarray(p), _BROAD, "mirror") for p in np.moveaxis(planes, -1, 0)], -1)
    window = np.outer(np.hanning(rows + 2)[1:-1], np.hanning(columns + 2)[1:-1])
    size = (2 * rows, 2 * columns)

    def over(values: np.ndarray) -> np.ndarray:
        return np.abs(np.asarray(fft.rfft2(values, size, workers=CORES))) ** 2

    power = sum(over(high[..., k] * window) for k in range(high.shape[2]))
    found = fft.fftshift(np.asarray(fft.irfft2(power, size)))[rows // 2 : rows // 2 + rows, columns // 2 : columns // 2 + columns]
    share = fft.fftshift(np.asarray(fft.irfft2(over(window), size)))
    share = share[rows // 2 : rows // 2 + rows, columns // 2 : columns // 2 + columns]
    found = found / np.maximum(share, 1e-3 * share.max())
    return found / max(float(found[rows // 2, columns // 2]), 1e-12)


def structure_of(planes: FloatArray, least_unlike: float) -> float:
    """One number for how much a picture follows a pattern: how alike it is to itself one step on, at best.

    Parameters
    ----------
    planes : (H, W, C) of the color as it is stored
    least_unlike : how unlike its copies are at the best fit, 0..1
    Examples
    --------
    >>> stripes = np.tile(np.float32([0, 0, 1, 1]), (64, 16))[..., None]
    >>> round(structure_of(stripes, 1.0), 1)
    1.0
    """
    found = likeness(planes)
    rows, columns = found.shape
    middle, _ = cast(tuple[np.ndarray, int], ndimage.label(found > _MIDDLE))
    outside = middle != middle[rows // 2, columns // 2]
    y, x = np.ogrid[:rows, :columns]
    near = (np.abs(y - rows // 2) < _FARTHEST * rows) & (np.abs(x - columns // 2) < _FARTHEST * columns)
    peak = float(found[outside & near].max(initial=0.0))
    return max(peak, 1 - least_unlike, 0.0)
