"""Occlusion kept apart from color, or multiplied into it, for receivers that have no input of its own."""

from __future__ import annotations

import numpy as np

from ..operation import Operation, given, master, read_as
from ..params import Params, control
from ..raster import FloatArray, Gray, Rgb

__all__ = ["OPERATIONS", "ShadedColor", "color_with_occlusion", "color_without_occlusion"]

_DARKEST = 0.08  # occlusion under this hides what color was there: dividing by less would only show noise


class ShadedColor(Params):
    """How much of the occlusion stands in the color."""

    amount: float = control(1.0, "Amount", "%", 0, 1, "How much of the occlusion was multiplied in.", scale=100)


def _factor(occlusion: Gray, amount: float) -> FloatArray:
    return (1 - amount * (1 - occlusion))[..., None]


def color_with_occlusion(color: Rgb, occlusion: Gray, amount: float = 1.0) -> FloatArray:
    """Return (..., 3) ``color`` times (...) ``occlusion``, in linear light; ``amount`` 0 leaves it alone.

    Examples
    --------
    >>> color_with_occlusion(np.float32([0.5, 0.5, 0.5]), np.float32(0.5)).tolist()
    [0.25, 0.25, 0.25]
    """
    return (color * _factor(occlusion, amount)).astype(np.float32)


def color_without_occlusion(shaded: FloatArray, occlusion: Gray, amount: float = 1.0) -> FloatArray:
    """Undo ``color_with_occlusion``: exact where occlusion is above 8 % and the result within 0..1, clamped elsewhere.

    Examples
    --------
    >>> color_without_occlusion(np.float32([0.25, 0.25, 0.25]), np.float32(0.5)).tolist()
    [0.5, 0.5, 0.5]
    """
    return np.clip(shaded / np.maximum(_factor(occlusion, amount), _DARKEST), 0, 1).astype(np.float32)


def _shaded(color: Rgb, occlusion: Gray, *, params: ShadedColor) -> FloatArray:
    return color_with_occlusion(color, occlusion, params.amount)


def _unshaded(color: Rgb, occlusion: Gray, *, params: ShadedColor) -> FloatArray:
    return color_without_occlusion(color, occlusion, params.amount)


OPERATIONS = (
    Operation(
        "color_without_occlusion",
        "from color with occlusion in it",
        _unshaded,
        ShadedColor,
        slots=(read_as("color", "shaded_color"), master("occlusion")),
        outputs=("base_color",),
        effort=2,
    ),
    Operation(
        "color_with_occlusion",
        "given, with occlusion in it",
        _shaded,
        ShadedColor,
        slots=(given("own_color", "base_color"), master("occlusion")),
        outputs=("base_color",),
        effort=2,
    ),
)
