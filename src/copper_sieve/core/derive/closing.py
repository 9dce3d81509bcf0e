"""Closing by a disc: what is darker and thinner than the disc is filled up to what is around it."""

from __future__ import annotations

import cv2
import numba
import numpy as np

from ..bands import RELAXED
from ..raster import FloatArray, Gray

__all__ = ["closed_by_disc"]


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _widen(into, before, left, right):
    for i in range(into.size):
        value = left[i] if left[i] > right[i] else right[i]
        into[i] = value if value > before[i] else before[i]


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _raise_to(into, other):
    for i in range(into.size):
        value = other[i]
        into[i] = value if value > into[i] else into[i]


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _dilate(values, halves, out):
    """The largest within each disc, whose rows are as wide as ``halves`` say: of every row of the map all widths are made, each
    from the one before, and put to the rows that they reach. ``out`` is smaller by the reach on every side.
    """
    reach = halves.size // 2
    rows, columns = out.shape
    runs = np.empty((reach + 1, columns), np.float32)
    out[:] = np.float32(-np.inf)
    for source in range(rows + 2 * reach):
        own = values[source]
        runs[0, :] = own[reach : reach + columns]
        for half in range(1, reach + 1):
            _widen(runs[half], runs[half - 1], own[reach - half :], own[reach + half :])
        for row in range(max(0, source - 2 * reach), min(rows, source + 1)):
            _raise_to(out[row], runs[halves[source - row]])


def closed_by_disc(values: Gray, reach: int) -> FloatArray:
    """Close a map (H, W), that was grown by twice ``reach`` on every side, by a disc of that radius in texels; (H - 4r, W - 4r).

    References
    ----------
    Closing: Serra 1982.
    Examples
    --------
    >>> line = np.full((12, 12), 0.8, np.float32)
    >>> line[:, 6] = 0.1
    >>> bool((closed_by_disc(line, 2) == np.float32(0.8)).all())
    True
    """
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    halves = (disc.sum(1).astype(np.int64) - 1) // 2
    found = np.ascontiguousarray(values, np.float32)
    for _ in "dilated", "eroded":
        out = np.empty((found.shape[0] - 2 * reach, found.shape[1] - 2 * reach), np.float32)
        _dilate(found, halves, out)
        found = np.negative(out, out=out)
    return found
