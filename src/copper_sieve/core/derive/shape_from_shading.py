"""Shape from shading, linear: where a lamp stands, brightness is slope towards it, and slopes add up to height."""

from __future__ import annotations

import numpy as np
from scipy import fft

from ..bands import CORES
from ..filters import blur_transfer, gaussian, padded, spectrum
from ..raster import Edge, Edges, FloatArray, Gray, edges_of

__all__ = ["lamp_side", "relief_along_light"]

_ACROSS = 0.15  # slopes across the light do not show; below this share of a wave's frequency they are not blown up
_MARGIN = 0.25  # of a side that does not tile: mirrored beyond the border and faded out
_SHAPES = (0.004, 0.08)  # features whose flanks are looked at, as a share of the width
_AROUND = (0.01, 0.02)  # how broadly what surrounds a flank is gathered
_FLANKED = 0.15  # correlation of brightness with the side of a shape: without a lamp only lopsided shapes pass 0.11
_ONE_WAY, _EVEN_TONES, _SEEN = 0.8, 1.0, 0.02  # of waves that lie one way: their share, skewness at most, deviation at least
_FILLED = (0.08, 0.4)  # of the width that strength is gathered over; of its mean, where it is weak
_MOSTLY_SHADE = 0.35  # the sum of both shares: in less, as of gravel in the sun, the stones' own tones say more
_LEAST_SEEN = 0.012  # of lightness: what varies less says nothing
_LEAST_PX = 16  # of a side: in a strip there are no shapes
_LEVEL = 20.0  # degrees: a lamp so little above the horizon may as well stand on the left


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


def lamp_side(lightness: Gray, edges: Edges | Edge = "wrap") -> float | None:
    """Where a lamp seems to stand that lights a picture from a side; None where light and dark are the material's own tones.

    Under a lamp one flank of every shape is bright and the other is dark: brightness goes along with the side of the shape that
    a texel is on, which no tones of a material's own do. Or nearly all waves lie one way, as those of ripples and folds.

    Convention: degrees, counterclockwise from the right, above the horizon or on the left: whether a shape stands up or is
    sunk cannot be seen, and the eye takes light to come from above.

    Parameters
    ----------
    lightness : (H, W) float32, 0..1
    References
    ----------
    The prior for light from above: Brewster 1826. The image of shading as a derivative: Pentland 1990.
    Examples
    --------
    >>> y, x = np.mgrid[0:128, 0:128] * np.float32(8 * np.pi / 128)
    >>> domes = np.maximum(np.sin(x) * np.sin(y), 0)
    >>> from_above = 0.5 + np.float32(0.8) * (np.roll(domes, -1, 0) - domes)
    >>> lamp_side(from_above), lamp_side(domes)
    (90.0, None)
    """
    edges = edges_of(edges)
    if min(lightness.shape) < _LEAST_PX:
        return None
    waves = spectrum(lightness, edges)
    fine, broad = (blur_transfer(waves.frequencies(), size / np.pi) for size in _SHAPES)
    detail = waves.filtered(fine - broad)
    detail = detail - detail.mean()
    spread = float(detail.std())
    if spread < _LEAST_SEEN or not _is_all_over(detail, edges):
        return None
    flanked, side = max(_flanked(detail, reach, edges) for reach in _AROUND)
    lying, across = _lying(detail)
    if flanked >= _FLANKED and flanked + lying >= _MOSTLY_SHADE:
        return _above(side)
    is_toned = abs(float((detail * detail * detail).mean())) > _EVEN_TONES * spread**3
    return None if lying < _ONE_WAY or spread < _SEEN or is_toned else _above(across)


def _is_all_over(detail: Gray, edges: Edges) -> bool:
    """Whether shapes fill the picture: of a few borders between two tones nothing can be told."""
    strength = gaussian(detail * detail, _FILLED[0], edges)
    return float(np.percentile(strength, 20)) >= _FILLED[1] * float(strength.mean())


def _flanked(detail: Gray, reach: float, edges: Edges) -> tuple[float, float]:
    """How far brightness correlates with the way to the middle of the shapes around, and that way in degrees."""
    down, right = np.gradient(gaussian(np.abs(detail), reach, edges))
    scale = float(detail.std()) * float(np.sqrt((right * right + down * down).mean() / 2))
    x, y = float((detail * right).mean()), -float((detail * down).mean())
    return (float(np.hypot(x, y)) / scale, float(np.rad2deg(np.arctan2(y, x)))) if scale > 0 else (0.0, 0.0)


def _lying(detail: Gray) -> tuple[float, float]:
    """How much of its waves lie one way, 0..1, and across which line they come and go, in degrees."""
    rows, columns = detail.shape
    faded = detail * np.hanning(columns).astype(np.float32) * np.hanning(rows).astype(np.float32)[:, None]
    waves = np.asarray(fft.rfft2(faded, workers=CORES))
    power = waves.real**2 + waves.imag**2
    power[:, 1:] *= 2  # the other half mirrors this one
    fx, fy = fft.rfftfreq(columns).astype(np.float32), -fft.fftfreq(rows).astype(np.float32)[:, None]
    square = fx * fx + fy * fy
    square[0, 0] = 1
    along, slanted = float((power * (fx * fx - fy * fy) / square).sum()), float((power * (2 * fx * fy) / square).sum())
    whole = float(power.sum()) - float(power[0, 0])
    return (float(np.hypot(along, slanted)) / whole, float(np.rad2deg(np.arctan2(slanted, along)) / 2)) if whole > 0 else (0, 0)


def _above(side: float) -> float:
    """The same line through the shape, from the end that is above or on the left."""
    side %= 180
    return round(side + 180 if side < _LEVEL else side, 1)


def _faded(length: int, margin: int) -> FloatArray:
    """1 inside, falling to 0 over the margins; all 1 without them."""
    ramp = 0.5 - 0.5 * np.cos(np.pi * (np.arange(margin) + 0.5) / max(margin, 1))
    return np.concatenate([ramp, np.ones(length - 2 * margin), ramp[::-1]]).astype(np.float32)
