"""The few corrections of a map that was given: normals, colors, grays. At their defaults nothing changes, bit for bit."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

import numba
import numpy as np
from pydantic import Field, model_validator

from ..bands import NEVER, run_rows
from ..color import LUMINANCE_REC709, linear_from_srgb, luminance, srgb_from_linear
from ..filters import gaussian
from ..params import Params, control
from ..quantities import Quantity
from ..raster import Edge, Edges, FloatArray, Gray, Rgb, Vectors, edges_of

__all__ = [
    "CORRECTIONS",
    "CorrectColor",
    "CorrectGray",
    "CorrectNormal",
    "CorrectionKind",
    "corrected",
    "corrected_color",
    "corrected_gray",
    "corrected_normal",
    "correction_of",
]

CorrectionKind = Literal["gray", "color", "normal", "none"]
_STEEPEST = 0.02  # z of a vector; flatter ones have no slope that could be scaled
_WARMTH = 0.25  # by how much full warmth changes red against blue


class _Sharpened(Params):
    sharpness: float = control(
        0.0,
        "Sharpen",
        "%",
        -1,
        2,
        "Fine detail counts more; under 0 it is softened.",
        scale=100,
        example=0.8,
    )
    finer: float = control(
        0.004, "Finer than", "% of width", 0.0005, 0.05, "How fine the detail is that is sharpened.", scale=100, more=True
    )


class _Levels(_Sharpened):
    black: float = control(0.0, "Black at", "%", 0, 1, "What is this dark or darker becomes black.", scale=100, example=0.1)
    white: float = control(1.0, "White at", "%", 0, 1, "What is this bright or brighter becomes white.", scale=100, example=0.9)

    @model_validator(mode="after")
    def _apart(self) -> _Levels:
        if self.white - self.black < 0.004:
            raise ValueError(f"white must lie over black (got {self.black:g} and {self.white:g})")
        return self


class CorrectGray(_Levels):
    """Corrections of a map of one value, on its own range from low to high."""

    times: float = control(1.0, "Multiply", "×", 0, 4, "Of all values, before the others.", more=True, example=0.6)
    contrast: float = control(1.0, "Contrast", "×", 0, 4, "How far the values lie from the middle.", example=1.4)
    offset: float = control(0.0, "Offset", "%", -1, 1, "Lifts or lowers everything.", scale=100, example=0.1)
    invert: bool = Field(default=False, title="Invert", description="What was high is low.")


class CorrectColor(_Levels):
    """Corrections of a color. Black and white are meant as the eye sees them, on the sRGB curve."""

    red: float = control(1.0, "Multiply red", "×", 0, 4, "Of linear light, before the others.", more=True, example=0.6)
    green: float = control(1.0, "Multiply green", "×", 0, 4, "Of linear light, before the others.", more=True)
    blue: float = control(1.0, "Multiply blue", "×", 0, 4, "Of linear light, before the others.", more=True)
    saturation: float = control(1.0, "Saturation", "×", 0, 3, "0 is gray.", example=1.3)
    warmth: float = control(0.0, "Warmth", "%", -1, 1, "Over 0 more red, under 0 more blue.", scale=100, example=0.3)
    tint: float = control(0.0, "Tint", "%", -1, 1, "Over 0 more magenta, under 0 more green.", scale=100, more=True)


class CorrectNormal(_Sharpened):
    """Corrections of normals, made on their slopes: what is flat stays flat, and vectors stay 1 long."""

    strength: float = control(1.0, "Strength", "×", 0, 4, "How much steeper or flatter the slopes are.", example=1.6)


class CorrectNothing(Params):
    """Of a map that no correction suits, as of normals in object space: their slopes are the object's."""


def _as_it_is(values: FloatArray, edges: Edges | Edge = "wrap", *, params: CorrectNothing | None = None) -> FloatArray:
    return values


def _sharper(values: FloatArray, params: _Sharpened, edges: Edges | Edge) -> FloatArray:
    """Values plus ``sharpness`` times what is finer than ``finer``, a share of the width."""
    if params.sharpness == 0:
        return values
    planes = values[..., None] if values.ndim == 2 else values
    broad = [gaussian(np.ascontiguousarray(planes[..., k]), params.finer, edges_of(edges)) for k in range(planes.shape[2])]
    soft = np.stack(broad, -1).reshape(values.shape)
    return values + (values - soft) * np.float32(params.sharpness)


def _leveled(values: FloatArray, params: _Levels) -> FloatArray:
    if (params.black, params.white) == (0, 1):
        return values
    return ((values - np.float32(params.black)) / np.float32(params.white - params.black)).clip(0, 1)


def corrected_gray(gray: Gray, edges: Edges | Edge = "wrap", *, params: CorrectGray | None = None) -> FloatArray:
    """Correct a gray (H, W) of 0..1: factor, sharpness, levels, contrast about the middle, offset, inversion, in this order.

    Examples
    --------
    >>> corrected_gray(np.float32([[0.25, 0.75]]), params=CorrectGray(invert=True)).tolist()
    [[0.75, 0.25]]
    """
    params = params or CorrectGray()
    values = gray if params.times == 1 else gray * np.float32(params.times)
    values = _leveled(_sharper(values, params, edges), params)
    if params.contrast != 1 or params.offset != 0:
        values = (values - np.float32(0.5)) * np.float32(params.contrast) + np.float32(0.5 + params.offset)
    if params.invert:
        values = 1 - values
    return values if values is gray else values.clip(0, 1)


def corrected_color(color: Rgb, edges: Edges | Edge = "wrap", *, params: CorrectColor | None = None) -> FloatArray:
    """Correct a color (H, W, 3), linear light: factors, sharpness, warmth and tint at the same luminance, levels, saturation.

    Values over 1, as of what glows, are kept over 1 unless black or white is moved.

    Examples
    --------
    >>> corrected_color(np.float32([[[0.2, 0.4, 0.6]]]), params=CorrectColor(saturation=0)).round(2).tolist()[0][0][0] < 0.4
    True
    """
    params = params or CorrectColor()
    factors = (params.red, params.green, params.blue)
    values = color if factors == (1, 1, 1) else color * np.array(factors, np.float32)
    values = np.maximum(_sharper(values, params, edges), 0) if params.sharpness else values
    if params.warmth != 0 or params.tint != 0:
        warm, green = _WARMTH * params.warmth, _WARMTH * params.tint
        gains = np.array([1 + warm, 1 - green, 1 - warm], np.float32)
        values = values * (gains / np.float32(gains @ LUMINANCE_REC709))
    if (params.black, params.white) != (0, 1):
        values = linear_from_srgb(_leveled(srgb_from_linear(np.ascontiguousarray(values.clip(0, 1))), params))
    if params.saturation != 1:
        gray = luminance(np.ascontiguousarray(values))[..., None]
        values = np.maximum(gray + (values - gray) * np.float32(params.saturation), 0)
    return values


def corrected_normal(normal: Vectors, edges: Edges | Edge = "wrap", *, params: CorrectNormal | None = None) -> FloatArray:
    """Correct normals (H, W, 3), Y+, by their slopes; vectors that are changed are 1 long.

    Examples
    --------
    >>> corrected_normal(np.float32([[[0.6, 0, 0.8]]]), params=CorrectNormal(strength=0)).tolist()
    [[[0.0, 0.0, 1.0]]]
    """
    params = params or CorrectNormal()
    if params.strength == 1 and params.sharpness == 0:
        return normal
    out, steepest = np.empty(normal.shape, np.float32), np.float32(_STEEPEST)
    if params.sharpness == 0:
        run_rows(_steeper, *normal.shape[:2], NEVER, normal, np.float32(params.strength), steepest, out)
        return out
    z = np.maximum(normal[..., 2], steepest)
    across, along = (_sharper(np.ascontiguousarray(normal[..., k] / z), params, edges) for k in (0, 1))
    run_rows(_leaning, *normal.shape[:2], NEVER, across, along, np.float32(params.strength), out)
    return out


@numba.njit(nogil=True, cache=True)  # exact, so that flat stays flat
def _steeper(first, last, normal, strength, steepest, out):
    for row in range(first, last):
        for i in range(normal.shape[1]):
            x, y, z = normal[row, i, 0] * strength, normal[row, i, 1] * strength, max(normal[row, i, 2], steepest)
            inverse = np.float32(1) / np.sqrt(x * x + y * y + z * z)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = x * inverse, y * inverse, z * inverse


@numba.njit(nogil=True, cache=True)  # exact, so that flat stays flat
def _leaning(first, last, across, along, strength, out):
    one = np.float32(1)
    for row in range(first, last):
        for i in range(across.shape[1]):
            x, y = across[row, i] * strength, along[row, i] * strength
            inverse = one / np.sqrt(x * x + y * y + one)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = x * inverse, y * inverse, inverse


class _Kind(NamedTuple):
    params: type[Params]
    correct: Callable[..., FloatArray]


CORRECTIONS: Mapping[CorrectionKind, _Kind] = MappingProxyType(
    {
        "gray": _Kind(CorrectGray, corrected_gray),
        "color": _Kind(CorrectColor, corrected_color),
        "normal": _Kind(CorrectNormal, corrected_normal),
        "none": _Kind(CorrectNothing, _as_it_is),
    }
)


def correction_of(row: Quantity) -> CorrectionKind:
    """Which corrections fit a quantity.

    Examples
    --------
    >>> from ..quantities import quantity
    >>> [correction_of(quantity(key)) for key in ("height", "base_color", "normal")]
    ['gray', 'color', 'normal']
    """
    if row.channels == 1:
        return "gray"
    if row.color == "srgb":
        return "color"
    return "normal" if row.key == "normal" else "none"


def corrected(values: FloatArray, row: Quantity, edges: Edges | Edge, told: Mapping[str, Any]) -> FloatArray:
    """A map of the quantity ``row`` as what was ``told`` of it corrects it; the very same array where that is nothing.

    Examples
    --------
    >>> from ..quantities import quantity
    >>> curvature = np.float32([[-1, 0, 0.5]])  # its range is -1 to 1
    >>> corrected(curvature, quantity("curvature"), "wrap", {"invert": True}).tolist()
    [[1.0, 0.0, -0.5]]
    """
    kind = correction_of(row)
    params = CORRECTIONS[kind].params(**told)
    if params == CORRECTIONS[kind].params():
        return values
    if kind == "gray" and (row.low, row.high) != (0, 1):
        span, low = np.float32(row.high - row.low), np.float32(row.low)
        return CORRECTIONS[kind].correct((values - low) / span, edges, params=params) * span + low
    return CORRECTIONS[kind].correct(values, edges, params=params)
