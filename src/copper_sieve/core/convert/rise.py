"""How far a height rises, from the normals that came with it: their slopes are the height's, times the rise."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..bands import in_parts
from ..errors import ShapeMismatch
from ..raster import Edges, FloatArray, Gray, Vectors, as_gray, as_rgb, floats
from .green import difference, slopes

__all__ = ["LEAST_FIT", "MeasuredRise", "measured_rise"]

LEAST_FIT = 0.5  # correlation of the slopes from which the rise is believed
_BLURS_PX = (1.0, 2.0)  # the filter that made the normals is not known; after a Gaussian most are alike
_CONTENT = 1e-4  # of the steepest slope: less is flat ground, where neither file says anything
_BORDERS = {"wrap": cv2.BORDER_WRAP, "mirror": cv2.BORDER_REFLECT}


@dataclass(frozen=True)
class MeasuredRise:
    """``rise`` as a share of the width; ``fit`` is the correlation of both files' slopes, negative where they contradict."""

    rise: float
    fit: float

    @property
    def is_believed(self) -> bool:
        return self.fit >= LEAST_FIT and 0 < self.rise <= 1


def measured_rise(normal: Vectors, height: Gray, edges: Edges) -> MeasuredRise:
    """Least squares of the slopes of normals on those of a height, after a Gaussian of 1 and of 2 texels; the better fit counts.

    Parameters
    ----------
    normal : (H, W, 3) vectors, x right, y up
    height : (H, W), 0 to 1
    Raises
    ------
    ShapeMismatch : the two differ in size
    Examples
    --------
    >>> columns = np.arange(64) / 64 * 2 * np.pi
    >>> height = np.broadcast_to((0.5 + 0.5 * np.sin(columns)).astype(np.float32), (64, 64))
    >>> slope = np.broadcast_to(0.1 * np.pi * np.cos(columns), (64, 64))  # of that height at a rise of 10 %
    >>> normal = np.dstack([-slope, 0 * slope, 1 + 0 * slope]).astype(np.float32)
    >>> round(measured_rise(normal, height, Edges()).rise, 3)
    0.1
    """
    normal, height = as_rgb(normal, "normal"), as_gray(height, "height")
    if normal.shape[:2] != height.shape:
        raise ShapeMismatch(f"normal and height must be of one size (got {normal.shape[:2]} and {height.shape}).")
    p, q = slopes(normal)
    found = in_parts(lambda sigma: _fitted(p, q, height, edges, sigma), _BLURS_PX)
    return max(found, key=lambda one: one.fit)


def _fitted(p: Gray, q: Gray, height: Gray, edges: Edges, sigma: float) -> MeasuredRise:
    soft_p, soft_q, soft = (_blurred(plane, edges, sigma) for plane in (p, q, height))
    across, down = (_difference(soft, edges, axis) for axis in (1, 0))
    said, seen = soft_p * soft_p + soft_q * soft_q, across * across + down * down
    has_content = (said > _least(said)) & (seen > _least(seen))
    aa, bb = (float(square.sum(where=has_content, dtype=np.float64)) for square in (seen, said))
    ab = float((across * soft_p + down * soft_q).sum(where=has_content, dtype=np.float64))
    if aa <= 0 or bb <= 0:
        return MeasuredRise(0.0, 0.0)
    return MeasuredRise(ab / aa / height.shape[1], float(ab / np.sqrt(aa * bb)))


def _least(square: FloatArray) -> np.float32:
    """The square of a slope from which on ground is not flat."""
    return np.float32(_CONTENT**2) * max(square.max(), np.float32(1e-18))


def _blurred(plane: Gray, edges: Edges, sigma: float) -> FloatArray:
    """A Gaussian whose borders go on as the map does, axis by axis."""
    margin = int(np.ceil(4 * sigma))
    high, wide = (min(margin, n) for n in plane.shape)
    tall = cv2.copyMakeBorder(np.ascontiguousarray(plane), high, high, 0, 0, _BORDERS[edges.y])
    whole = cv2.copyMakeBorder(tall, 0, 0, wide, wide, _BORDERS[edges.x])
    return floats(cv2.GaussianBlur(whole, (0, 0), sigma)[high : high + plane.shape[0], wide : wide + plane.shape[1]])


def _difference(plane: Gray, edges: Edges, axis: int) -> FloatArray:
    """Central difference per texel along an axis."""
    edge = edges.x if axis == 1 else edges.y
    if edge == "wrap":
        return (np.roll(plane, -1, axis) - np.roll(plane, 1, axis)) / 2
    return difference(plane, axis)
