"""Heights of 8 bits: how stepped they are, and the smooth surface that rounds to the same codes."""

from __future__ import annotations

import cv2
import numpy as np

from ..bands import NEVER, Cancel
from ..filters import padded
from ..raster import Edge, Edges, FloatArray, Gray, as_gray, floats

__all__ = ["CODE", "STEPPED", "is_of_8_bits", "stepping", "without_steps"]

CODE = 1 / 255  # from one code of 8 bits to the next, of 0 to 1
STEPPED = 3.0  # times: from here on normals of such a height show its steps
_LEVELS = 5  # each half as large, so that plateaus of 64 texels and more become slopes
_ROUNDS = 30  # of the plate at each level
_SIGMA, _LAST_SIGMA, _LAST_ROUNDS = 1.5, 1.0, 3
_LEAST_PX = 32
_SEEN_PX = 512  # the middle tells enough
_MARGIN = 64


def is_of_8_bits(codes: np.ndarray) -> bool:
    """Whether codes hold no more than 8 bits do: they are of 8, or of 16 that are 8 stretched over them.

    Examples
    --------
    >>> is_of_8_bits(np.uint16([0, 257, 65535])), is_of_8_bits(np.uint16([0, 258])), is_of_8_bits(np.float32([0.5]))
    (True, False, False)
    """
    return codes.dtype == np.uint8 or (codes.dtype == np.uint16 and not (codes % 257).any())


def without_steps(height: Gray, step: float, edges: Edges | Edge = "wrap", *, cancel: Cancel = NEVER) -> FloatArray:
    """The smoothest surface found that stays within half a step of a height, so that it would be stored as the same codes.

    A thin plate is relaxed between the two bounds, from coarse to fine; a cliff of many steps stays where it is, as its
    bounds do. Where a picture is full of detail the codes are kept all the same, within the same half step.

    Parameters
    ----------
    height : (H, W) float32, as read from codes
    step : how far apart two codes lie, in units of ``height``
    Returns
    -------
    height : (H, W) float32, nowhere more than ``step / 2`` from what was given
    Raises
    ------
    ShapeMismatch : the height is not (H, W)
    Examples
    --------
    >>> stairs = np.repeat(np.float32([0, 1, 2, 3]), 16)[None].repeat(64, 0)
    >>> smooth = without_steps(stairs, 1.0, "mirror")
    >>> float(np.abs(smooth - stairs).max()) <= 0.5, float(np.abs(np.diff(smooth[32])).max()) < 0.1
    (True, True)
    """
    height = as_gray(height, "height")
    rows, columns = height.shape
    grown = padded(height, _MARGIN, _MARGIN, edges)
    half = np.float32(step / 2)
    bounds = [(grown - half, grown + half)]
    while len(bounds) <= _LEVELS and min(bounds[-1][0].shape) >= 2 * _LEAST_PX:
        low, high = bounds[-1]
        bounds.append((_halved(low), _halved(high)))
    surface = (bounds[-1][0] + bounds[-1][1]) / 2
    for low, high in reversed(bounds):
        cancel.check()
        if surface.shape != low.shape:
            surface = floats(cv2.resize(surface, low.shape[::-1], interpolation=cv2.INTER_LINEAR))
        surface = _relaxed(np.clip(surface, low, high), low, high, cancel)
    within = surface[_MARGIN : _MARGIN + rows, _MARGIN : _MARGIN + columns]
    return np.ascontiguousarray(np.clip(within, height - half, height + half))


def _halved(values: FloatArray) -> FloatArray:
    return floats(cv2.resize(values, (values.shape[1] // 2, values.shape[0] // 2), interpolation=cv2.INTER_AREA))


def _relaxed(surface: FloatArray, low: FloatArray, high: FloatArray, cancel: Cancel) -> FloatArray:
    """Turns less and less sharply, between the bounds: 2g − g∗g keeps slopes, and only what bends is taken away."""
    for _ in range(_ROUNDS):
        cancel.check()
        soft = _blurred(surface, _SIGMA)
        surface = np.clip(2 * soft - _blurred(soft, _SIGMA), low, high)
    for _ in range(_LAST_ROUNDS):
        surface = np.clip(_blurred(surface, _LAST_SIGMA), low, high)
    return surface


def _blurred(values: FloatArray, sigma: float) -> FloatArray:
    return floats(cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REFLECT))


def stepping(height: Gray, step: float) -> float:
    """How many times more sharply a height turns from texel to texel than the smooth surface of the same codes.

    About 1 where its codes suffice; ``STEPPED`` and more where normals of it show steps. The middle of a large map is asked.

    Examples
    --------
    >>> stairs = np.repeat(np.float32([0, 1, 2, 3]), 16)[None].repeat(64, 0)
    >>> stepping(stairs, 1.0) > 5, stepping(np.float32([[0.5]]), 1.0)
    (True, 1.0)
    """
    rows, columns = height.shape
    top, left = (max(0, (side - _SEEN_PX) // 2) for side in (rows, columns))
    seen = np.ascontiguousarray(height[top : top + _SEEN_PX, left : left + _SEEN_PX])
    now = _turning(seen)
    return now / max(_turning(without_steps(seen, step, "mirror")), 1e-9) if now > 0 else 1.0


def _turning(values: FloatArray) -> float:
    """Mean size of the second differences along both axes."""
    turns = [np.abs(np.diff(values, 2, axis=axis)) for axis in (0, 1) if values.shape[axis] > 2]
    return float(sum(t.mean() for t in turns))
