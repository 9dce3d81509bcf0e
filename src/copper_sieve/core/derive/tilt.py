"""How far a relief leans, and the rise that makes it lean as far as surfaces of its kind do."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from ..filters import resize
from ..raster import Edge, Edges, FloatArray, Gray, Size, as_gray, edges_of
from .normal import neighbors

__all__ = ["STEEPEST", "USUAL_TILT", "Tilt", "rise_for_tilt", "slope_quantiles", "tilt_of"]

USUAL_TILT = 12.0  # degrees, mean: the median of real sets, which have 2 to 28
STEEPEST = 60.0  # degrees that one texel of a hundred may exceed by default
_WORKING_PX = 512  # a tilt is one of this size: finer texels lean more
_MOST, _LEAST = 0.05, 1e-4  # of the width: a nearly plain picture stays nearly flat
_STEEP_SHARE = 0.99
_SETTLED = 1e-9  # of the logarithm of a rise, which is said to three digits


@dataclass(frozen=True)
class Tilt:
    """Degrees from flat: the mean, and what one texel of a hundred exceeds."""

    mean: float
    steepest: float


def _gradient(height: Gray, edges: Edges) -> FloatArray:
    """Length of the slope (H, W) of a rise of one width, at the working size."""
    scale = min(1.0, _WORKING_PX / max(height.shape))
    if scale < 1:
        rows, columns = height.shape
        height = resize(height, Size(max(1, round(columns * scale)), max(1, round(rows * scale))), edges)
    rows, columns = height.shape
    above, below = neighbors(rows, edges.y)
    left, right = neighbors(columns, edges.x)
    across, down = height[:, right] - height[:, left], height[below] - height[above]
    return np.hypot(across, down) * np.float32(edges.width(columns) / 2)


def slope_quantiles(height: Gray, edges: Edges | Edge = "wrap", *, count: int = 100) -> list[float]:
    """``count`` slopes of a height field that rises by one width, flattest first, each for an equal share of its texels.

    At a rise of r those are r times as steep, so that any screen can say the tilt of any rise. Raises ShapeMismatch.

    Examples
    --------
    >>> slope_quantiles(np.full((8, 8), 0.5, np.float32), count=3)
    [0.0, 0.0, 0.0]
    """
    gradient = _gradient(as_gray(height, "height"), edges_of(edges))
    return [float(value) for value in np.quantile(gradient, (np.arange(count) + 0.5) / count)]


def _mean_tilt(gradient: FloatArray, rise: float) -> float:
    return float(np.degrees(np.arctan(gradient * np.float32(rise))).mean())


def _steep(gradient: FloatArray) -> float:
    kept = min(gradient.size - 1, int(_STEEP_SHARE * gradient.size))
    return float(np.partition(gradient.ravel(), kept)[kept])


def _tilt(gradient: FloatArray, rise: float) -> Tilt:
    return Tilt(_mean_tilt(gradient, rise), float(np.degrees(np.arctan(_steep(gradient) * rise))))


def _rounded_down(rise: float) -> float:
    """To three digits, and never beyond what was allowed."""
    step = 10.0 ** (np.floor(np.log10(rise)) - 2)
    return float(f"{np.floor(rise / step + 1e-6) * step:.3g}")


def tilt_of(height: Gray, rise: float, edges: Edges | Edge = "wrap") -> Tilt:
    """How far a height field leans, at the working size of 512 texels.

    Parameters
    ----------
    height : (H, W) float32, 0..1 spanning ``rise``
    rise : height range as a share of the width
    Returns
    -------
    tilt : degrees, mean and 99th percentile
    Raises
    ------
    ShapeMismatch : not (H, W)
    Examples
    --------
    >>> tilt_of(np.full((8, 8), 0.5, np.float32), 0.02)
    Tilt(mean=0.0, steepest=0.0)
    >>> ramp = np.tile(np.abs(np.linspace(-1, 1, 65, dtype=np.float32))[:64], (64, 1))  # up and down by half a width
    >>> round(tilt_of(ramp, 0.5).mean)
    44
    """
    edges = edges_of(edges)
    return _tilt(_gradient(as_gray(height, "height"), edges), rise)


def rise_for_tilt(
    height: Gray, mean: float = USUAL_TILT, edges: Edges | Edge = "wrap", *, steepest: float | None = STEEPEST
) -> float:
    """The rise at which a height field leans by ``mean`` degrees on average.

    Parameters
    ----------
    height : (H, W) float32, 0..1
    mean : degrees, more than 0 and less than 90
    steepest : degrees that the 99th percentile stays under, and with it a rise of 5 %; None where a person has asked for ``mean``
    Returns
    -------
    rise : share of the width, 0.0001 to 1
    Raises
    ------
    ShapeMismatch : not (H, W)
    Examples
    --------
    >>> ramp = np.tile(np.abs(np.linspace(-1, 1, 65, dtype=np.float32))[:64], (64, 1))
    >>> round(tilt_of(ramp, rise_for_tilt(ramp, 10, steepest=None)).mean, 1)
    10.0
    >>> rise_for_tilt(np.full((8, 8), 0.5, np.float32))  # nothing leans, however far it rises
    0.05
    """
    gradient = _gradient(as_gray(height, "height"), edges_of(edges))
    most = 1.0 if steepest is None else _MOST
    if steepest is not None:
        steep = float(np.tan(np.radians(steepest)))
        most = min(most, steep / max(_steep(gradient), steep))

    def over(log_rise: float) -> float:
        return _mean_tilt(gradient, float(np.exp(log_rise))) - mean

    low, high = np.log(_LEAST), np.log(max(most, _LEAST))
    if over(high) <= 0:
        return _rounded_down(float(np.exp(high)))
    return _LEAST if over(low) >= 0 else _rounded_down(float(np.exp(brentq(over, low, high, xtol=_SETTLED))))
