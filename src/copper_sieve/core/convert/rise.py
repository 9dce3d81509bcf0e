"""How far a height rises, from the normals that came with it: their slopes are the height's, times the rise."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

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
    return max((_fitted(p, q, height, edges, sigma) for sigma in _BLURS_PX), key=lambda found: found.fit)


def _fitted(p: Gray, q: Gray, height: Gray, edges: Edges, sigma: float) -> MeasuredRise:
    soft_p, soft_q, soft = (_blurred(plane, edges, sigma) for plane in (p, q, height))
    across, down = (_difference(soft, edges, axis) for axis in (1, 0))
    said, seen = np.hypot(soft_p, soft_q), np.hypot(across, down)
    content = (said > _CONTENT * max(float(said.max()), 1e-9)) & (seen > _CONTENT * max(float(seen.max()), 1e-9))
    a = np.concatenate([across[content], down[content]]).astype(np.float64)
    b = np.concatenate([soft_p[content], soft_q[content]]).astype(np.float64)
    aa, ab, bb = float(a @ a), float(a @ b), float(b @ b)
    if aa <= 0 or bb <= 0:
        return MeasuredRise(0.0, 0.0)
    return MeasuredRise(ab / aa / height.shape[1], float(ab / np.sqrt(aa * bb)))


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
