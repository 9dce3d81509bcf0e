"""Roughness from color: lightness and local contrast, brought to a stated mean and spread."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, RELAXED, Cancel, run_rows
from ..color import GRAYS, GrayName
from ..filters import Spectrum, blur_transfer, gaussian
from ..operation import Operation, Part, master
from ..params import Params, choice, control
from ..raster import Edge, Edges, FloatArray, Gray, Rgb, as_rgb, edges_of
from .detail import weighted_detail
from .height import WAVES, gray_spectrum

__all__ = [
    "OPERATIONS",
    "GuessedRoughness",
    "RoughnessFromColor",
    "RoughnessScale",
    "light_and_dark_spot",
    "measure_roughness",
    "roughness_from_color",
    "roughness_signals",
    "shape_roughness",
]

_LIGHTNESS_WEIGHTS = (0.5, 1.0, 1.0, 0.7, 0.3)  # broad light counts half: part of it is the lamp, not the surface
_CONTRAST_SIZE = 0.004  # feature size of local contrast, share of the width
_CONTRAST_AREA = 0.03  # feature size over which it is averaged
_SPOT, _LIGHT_SHARE = 0.05, 0.95  # feature size of a spot that is asked about, and how much is darker than the light one
_LEAST_DEVIATION = 1e-4  # of lightness; a flatter picture has nothing to say and stays at the mean


# What a person would call a surface, and the roughness that such surfaces usually have.
_KINDS = (("Dull", 0.85), ("Satin", 0.5), ("Polished", 0.25), ("Wet", 0.1))


class GuessedRoughness(Params):
    """How dull, and how much that varies: the first way, which varied more than a guess may."""

    mean: float = control(0.65, "Mean", "roughness", 0, 1, "How dull the surface is on the whole.", marks=_KINDS)
    spread: float = control(0.09, "Spread", "roughness", 0, 0.4, "How much it varies: one standard deviation around the mean.")
    detail: float = control(0.35, "Local contrast", "%", 0, 1, "Busy places grow duller than calm ones.", scale=100)
    invert: bool = Field(default=False, title="Light is dull", description="By default what is light is smoother.")
    gray: GrayName = choice("lightness", "Gray", "What of the color is weighed.", GRAYS.values(), more=True)


class RoughnessFromColor(GuessedRoughness):
    """How dull, and how much that varies: little, as nobody has said yet which way lightness goes."""

    spread: float = control(0.05, "Spread", "roughness", 0, 0.4, "How much it varies: one standard deviation around the mean.")


class RoughnessScale(Params):
    """What was measured of the whole picture at the working size: means and deviations of the two signals."""

    shade_mean: float
    shade_deviation: float
    busy_mean: float
    busy_deviation: float
    mixed_deviation: float


@dataclass(frozen=True)
class RoughnessSignals:
    """``shade``: lightness without the lamp's gradient; ``busy``: local contrast. Both (H, W)."""

    shade: Gray
    busy: Gray


def roughness_signals(lightness: Spectrum) -> RoughnessSignals:
    """The two signals roughness is mixed from; they depend on no parameter.

    Examples
    --------
    >>> from ..filters import spectrum
    >>> from ..raster import Edges
    >>> signals = roughness_signals(spectrum(np.full((8, 8), 0.3, np.float32), Edges()))
    >>> signals.shade.shape, float(signals.busy.max()) < 1e-6
    ((8, 8), True)
    """
    broad = blur_transfer(lightness.frequencies(), _CONTRAST_SIZE / np.pi)
    fine = np.abs(lightness.filtered(1 - broad))
    return RoughnessSignals(
        weighted_detail(lightness, _LIGHTNESS_WEIGHTS), gaussian(fine, _CONTRAST_AREA / np.pi, lightness.edges)
    )


def measure_roughness(signals: RoughnessSignals, *, detail: float, invert: bool) -> RoughnessScale:
    """Means and deviations that the curve needs.

    Examples
    --------
    >>> flat = np.zeros((4, 4), np.float32)
    >>> measure_roughness(RoughnessSignals(flat, flat), detail=0.5, invert=False).mixed_deviation
    0.1
    """
    shade, busy = signals.shade, signals.busy
    deviation = [max(float(part.std()), _LEAST_DEVIATION) for part in (shade, busy)]
    light = 1 if invert else -1
    mixed = light * (1 - detail) / deviation[0] * shade + detail / deviation[1] * busy
    return RoughnessScale(
        shade_mean=float(shade.mean()),
        shade_deviation=deviation[0],
        busy_mean=float(busy.mean()),
        busy_deviation=deviation[1],
        mixed_deviation=max(float(mixed.std()), 0.1),  # a flat picture must not have its noise blown up
    )


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _settle(first, last, shade, busy, by_shade, by_busy, shift, mean, spread, out):
    limit = np.float32(2.5)
    for row in range(first, last):
        for i in range(shade.shape[1]):
            z = by_shade * shade[row, i] + by_busy * busy[row, i] + shift
            z = z / np.float32(np.sqrt(1 + (z / limit) * (z / limit)))
            out[row, i] = min(max(mean + spread * z, np.float32(0)), np.float32(1))


def shape_roughness(
    signals: RoughnessSignals, scale: RoughnessScale, *, params: GuessedRoughness, cancel: Cancel = NEVER
) -> FloatArray:
    """Roughness (H, W), 0..1, from the signals and what was measured at the working size.

    Examples
    --------
    >>> flat = np.zeros((4, 4), np.float32)
    >>> signals, params = RoughnessSignals(flat, flat), RoughnessFromColor(mean=0.6)
    >>> scale = measure_roughness(signals, detail=params.detail, invert=params.invert)
    >>> shape_roughness(signals, scale, params=params).round(3).max()
    np.float32(0.6)
    """
    light = 1 if params.invert else -1
    by_shade = light * (1 - params.detail) / scale.shade_deviation / scale.mixed_deviation
    by_busy = params.detail / scale.busy_deviation / scale.mixed_deviation
    shift = -by_shade * scale.shade_mean - by_busy * scale.busy_mean
    numbers = [np.float32(v) for v in (by_shade, by_busy, shift, params.mean, params.spread)]
    out = np.empty_like(signals.shade)
    run_rows(_settle, *out.shape, cancel, signals.shade, signals.busy, *numbers, out)
    return out


def roughness_from_color(
    color: Rgb,
    edges: Edges | Edge = "wrap",
    *,
    params: RoughnessFromColor | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """Guess how dull a surface is from its picture.

    Convention: perceptual roughness, 0 mirror-like, 1 dull. Light is smooth unless ``invert``; far values are bent
    towards 2.5 deviations, so a glint does not make a mirror.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light, 0..1
    Returns
    -------
    roughness : (H, W) float32, 0..1
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> gray = np.full((8, 8, 3), 0.2, np.float32)
    >>> bool(np.allclose(roughness_from_color(gray, params=RoughnessFromColor(mean=0.4)), 0.4, atol=0.01))
    True
    """
    params = params or RoughnessFromColor()
    waves = gray_spectrum(as_rgb(color, "color"), edges_of(edges), gray=params.gray, cancel=cancel)
    signals = roughness_signals(waves)
    scale = measure_roughness(signals, detail=params.detail, invert=params.invert)
    return shape_roughness(signals, scale, params=params, cancel=cancel)


_SIGNALS = Part("roughness signals/1", roughness_signals, of=(WAVES,))
_SCALE = Part("roughness scale/1", measure_roughness, of=(_SIGNALS,), by=("detail", "invert"), is_measured=True)


def light_and_dark_spot(color: Rgb, edges: Edges | Edge = "wrap") -> tuple[tuple[float, float], tuple[float, float]]:
    """Where a person may tell how roughness follows the color: a place typical of what is light, and one of what is dark.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    Returns
    -------
    spots : x and y of the light and the dark one, shares of width and height from the upper left
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> halves = np.full((64, 64, 3), 0.1, np.float32)
    >>> halves[:, :32] = 0.6
    >>> light, dark = light_and_dark_spot(halves)
    >>> light[0] < 0.5 < dark[0]
    True
    """
    edges = edges_of(edges)
    shade = roughness_signals(gray_spectrum(as_rgb(color, "color"), edges, gray="lightness")).shade
    shade = gaussian(shade, _SPOT / np.pi, edges)
    rows, columns = shade.shape
    spots = []
    for share in (_LIGHT_SHARE, 1 - _LIGHT_SHARE):
        row, column = np.unravel_index(np.argmin(np.abs(shade - np.quantile(shade, share))), shade.shape)
        spots.append(((float(column) + 0.5) / columns, (float(row) + 0.5) / rows))
    return spots[0], spots[1]


def _told(params: type[GuessedRoughness], number: int, was: str = "", older: tuple[Operation, ...] = ()) -> Operation:
    return Operation(
        "roughness_from_color",
        "one value, varied by color",
        shape_roughness,
        params,
        slots=(master("color", "base_color"),),
        outputs=("roughness",),
        of=(_SIGNALS, _SCALE),
        effort=12,
        number=number,
        was=was,
        older=older,
    )


OPERATIONS = (_told(RoughnessFromColor, 2, older=(_told(GuessedRoughness, 1, "the way that varies more than a guess may"),)),)
