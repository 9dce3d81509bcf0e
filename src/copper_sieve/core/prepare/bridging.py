"""What is added to two copies of a picture so that their broad tones meet along a line, and neither shows through the other."""

from __future__ import annotations

import cv2
import numpy as np

from ..raster import FloatArray, floats
from .blurring import soft

__all__ = ["bridge"]

_NEAREST = 2.0  # texels of the line's grid: how far around a place its own difference counts most
_FALLS = 0.25  # of the weight, with each doubling of the distance
_MOST = 3.0  # times the usual difference along the line: more is another thing, which no tone can bridge
_SMOOTH = 1.0  # texels of the line's grid
_LEAST = 1e-12


def bridge(apart: FloatArray, is_second: np.ndarray, wraps: bool) -> FloatArray:
    """How far two copies are apart along the line between them, spread to both sides and gone at the ends.

    Half of it added to the first copy, and half taken from the second, they meet on the line. What differs elsewhere is left
    alone: blended over the whole width, large unlike things would show through each other.

    Parameters
    ----------
    apart : (H, W, C), the second copy less the first
    is_second : (rows, columns), where the second copy shows, which holds the left end; at any size
    wraps : whether rows go on from the last to the first
    References
    ----------
    After Pérez et al. 2003, by weights that fall off with the distance (Shepard 1968) in place of an equation.
    Examples
    --------
    >>> apart = np.full((4, 64, 1), 0.5, np.float32)
    >>> spread = bridge(apart, np.arange(64)[None, :].repeat(4, 0) < 32, False)
    >>> [round(float(spread[2, x, 0]), 2) for x in (0, 16, 31, 32, 63)]
    [0.0, 0.27, 0.5, 0.5, 0.0]
    """
    height, width = apart.shape[:2]
    shown = np.pad(np.pad(is_second, ((0, 0), (1, 0)), constant_values=True), ((0, 0), (0, 1)))
    rows, columns = shown.shape
    small = cv2.resize(apart, (columns - 2, rows), interpolation=cv2.INTER_AREA if rows < height else cv2.INTER_LINEAR)
    small = np.pad(small.reshape(rows, columns - 2, -1), ((0, 0), (1, 1), (0, 0)), mode="edge")
    around = min(rows, 2 * columns)
    held, how, beside = ((around, around), (0, 0)), "wrap" if wraps else "symmetric", _beside(shown, wraps)
    line, usual = np.pad(beside, held, mode=how), np.median(np.abs(small[beside > 0]), 0)
    told = np.pad(np.clip(small, -_MOST * usual, _MOST * usual), (*held, (0, 0)), mode=how)
    spread, weight = np.zeros_like(told), np.full_like(line, _LEAST)
    sigma, share = _NEAREST, 1.0
    while sigma < columns:
        spread += share * soft(floats(told * line[..., None]), sigma).reshape(told.shape)
        weight += share * soft(line, sigma)
        sigma, share = 2 * sigma, share * _FALLS
    away = cv2.distanceTransform((line == 0).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[around : around + rows]
    at = np.arange(columns, dtype=np.float32) + 0.5
    to_end = np.where(shown, at, columns - at) - 1
    left = np.clip(to_end / np.maximum(away + to_end, 0.5), 0, 1)
    spread = (spread / weight[..., None])[around : around + rows] * (left * left * (3 - 2 * left))[..., None]
    spread = soft(floats(spread), _SMOOTH).reshape(rows, columns, -1)[:, 1:-1]
    return floats(cv2.resize(spread, (width, height), interpolation=cv2.INTER_CUBIC)).reshape(apart.shape)


def _beside(shown: np.ndarray, wraps: bool) -> FloatArray:
    """1 where the other copy is next, across or down."""
    line = np.zeros(shown.shape, bool)
    for axis in (0, 1):
        turns = shown != np.roll(shown, -1, axis)
        if axis == 1 or not wraps:
            turns[(slice(None),) * axis + (-1,)] = False
        line |= turns | np.roll(turns, 1, axis)
    return line.astype(np.float32)
