"""Shape from shading, linear: under one lamp at a known side, brightness is slope towards it, and slopes add up to height."""

from __future__ import annotations

import numpy as np
from scipy import fft

from ..bands import CORES
from ..filters import padded
from ..raster import Edge, Edges, FloatArray, Gray, edges_of

__all__ = ["relief_along_light"]

_ACROSS = 0.15  # slopes across the light do not show; below this share of a wave's frequency they are not blown up
_MARGIN = 0.25  # of a side that does not tile: mirrored beyond the border and faded out


def relief_along_light(gray: Gray, light: float, edges: Edges | Edge = "wrap") -> FloatArray:
    """Integrate brightness along the light.

    Convention: ``light`` is the side the lamp stands on, in degrees, counterclockwise from the right: 90 is above. A flank
    that faces it is bright, so height rises away from bright flanks' feet.

    Parameters
    ----------
    gray : (H, W) float32, brightness
    light : degrees
    Returns
    -------
    relief : (H, W) float32 about zero, in brightness times widths
    References
    ----------
    Pentland 1990, linear shape from shading; here damped where the light says nothing.
    Examples
    --------
    >>> float(np.abs(relief_along_light(np.full((8, 8), 0.5, np.float32), 90)).max())
    0.0
    """
    edges = edges_of(edges)
    (height, width), unit = gray.shape, edges.width(gray.shape[1])
    left, top = (0 if edge == "wrap" else max(1, int(_MARGIN * side)) for edge, side in ((edges.x, width), (edges.y, height)))
    level = gray - np.float32(gray.mean())
    grown = padded(level, left, top, edges) if left or top else level
    grown = grown * _faded(grown.shape[1], left) * _faded(grown.shape[0], top)[:, None]
    rows, columns = grown.shape
    fx = fft.rfftfreq(columns).astype(np.float32) * unit
    fy = fft.fftfreq(rows).astype(np.float32)[:, None] * unit
    angle = np.deg2rad(light)
    towards = 2 * np.pi * (np.cos(angle) * fx - np.sin(angle) * fy)  # the slope of a wave towards the light, times 1/i
    least = (2 * np.pi * _ACROSS) ** 2 * (fx * fx + fy * fy)
    least[0, 0] = 1
    # h = -(integral of brightness): divide by -i * towards, damped
    transfer = (1j * towards / (towards * towards + least)).astype(np.complex64)
    relief = np.asarray(fft.irfft2(fft.rfft2(grown, workers=CORES) * transfer, s=grown.shape, workers=CORES))
    return np.ascontiguousarray(relief[top : top + height, left : left + width], np.float32)


def _faded(length: int, margin: int) -> FloatArray:
    """1 inside, falling to 0 over the margins; all 1 without them."""
    ramp = 0.5 - 0.5 * np.cos(np.pi * (np.arange(margin) + 0.5) / max(margin, 1))
    return np.concatenate([ramp, np.ones(length - 2 * margin), ramp[::-1]]).astype(np.float32)
