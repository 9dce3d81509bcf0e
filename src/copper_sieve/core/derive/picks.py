"""Picks: a person says of a few spots what they are, and the rest of the picture follows by likeness.

Which color is high, or metal, or dull is a matter of the single picture, so it is asked and fitted for that picture alone
(``pick_fit``).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any, ClassVar

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..color import GrayName
from ..filters import Spectrum, guided
from ..operation import Operation, Part, master
from ..params import Params, control
from ..raster import FloatArray, Rgb
from .height import UNDER_LAMP
from .pick_fit import (
    PLAIN,
    Pick,
    PickFit,
    Spectra,
    color_spectra,
    fit_picks,
    pick_features,
    picked,
)

__all__ = [
    "COLOR_SPECTRA",
    "DRAWN_MASKS",
    "FIRST_ROUGHNESS_BY_PICKS",
    "OPERATIONS",
    "PICK_FIT",
    "ByPicks",
    "GlowByPicks",
    "HeightByPicks",
    "MaskByPicks",
    "height_by_picks",
    "mask_by_picks",
    "roughness_by_picks",
]

_KNEE = 0.85
_SMOOTHING_TOLERANCE = 0.06


class ByPicks(Params):
    """The spots."""

    picks: tuple[Pick, ...] = Field(
        default=(),
        title="Picks",
        description="Click on the picture and say what the spot is.",
        examples=[({"x": 0.2, "y": 0.3, "value": 1.0}, {"x": 0.7, "y": 0.6, "value": 0.0})],
    )


class HeightByPicks(ByPicks):
    """Spots that are high or low."""

    gray: ClassVar[GrayName] = "lightness"  # what a lamp's light and shade are read from

    is_lit: bool = Field(default=False, title="A lamp is baked in", description="Its light and shade tell slopes, besides color.")
    light: float = control(
        135.0, "The lamp stands", "°", 0, 360, "Counterclockwise from the right: 90 is above; only with a lamp."
    )
    smoothing: float = control(0.002, "Smoothing", "% of width", 0, 0.02, "Calms small bumps, keeps edges.", scale=100)


class MaskByPicks(ByPicks):
    """Spots that are, or are not."""

    softness: float = control(0.35, "Softness", "%", 0.02, 1, "How gradually one becomes the other.", scale=100)


class GlowByPicks(MaskByPicks):
    """Spots that glow, or do not."""

    gain: float = control(1.0, "Gain", "×", 0, 8, "How bright what glows is, against its color.")


def _kneed(values: FloatArray) -> FloatArray:
    """Into 0..1 about ½: straight in the middle, bent before the ends."""
    t = (values - np.float32(0.5)) * 2
    over = np.maximum(np.abs(t) - _KNEE, 0) / (1 - _KNEE)
    bent = np.where(np.abs(t) > _KNEE, np.sign(t) * (_KNEE + (1 - _KNEE) * over / (1 + over)), t)
    return (bent / 2 + 0.5).astype(np.float32)


def height_by_picks(
    spectra: Sequence[Spectrum], fit: PickFit, *, params: HeightByPicks | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Height (H, W), 0..1, from a picture's spectra and the fit of its picks.

    Examples
    --------
    >>> spectra = color_spectra(np.full((8, 8, 3), 0.2, np.float32), "wrap")
    >>> height_by_picks(spectra, fit_picks(pick_features(spectra), (), PLAIN["height"])).shape
    (8, 8)
    """
    params = params or HeightByPicks()
    relief = _kneed(picked(spectra, fit))
    cancel.check()
    return guided(relief, params.smoothing, _SMOOTHING_TOLERANCE, spectra[0].edges)


def mask_by_picks(
    spectra: Sequence[Spectrum], fit: PickFit, *, params: MaskByPicks | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """0 or 1 and a rim between them, ``softness`` wide in values, (H, W).

    Examples
    --------
    >>> spectra = color_spectra(np.full((8, 8, 3), 0.2, np.float32), "wrap")
    >>> mask_by_picks(spectra, fit_picks(pick_features(spectra), (), PLAIN["height"])).shape
    (8, 8)
    """
    params = params or MaskByPicks()
    values = picked(spectra, fit)
    cancel.check()
    return np.clip((values - np.float32(0.5)) / np.float32(params.softness) + np.float32(0.5), 0, 1)


def roughness_by_picks(spectra: Sequence[Spectrum], fit: PickFit, *, params: ByPicks | None = None) -> FloatArray:
    """Roughness (H, W), 0..1.

    Examples
    --------
    >>> spectra = color_spectra(np.full((8, 8, 3), 0.2, np.float32), "wrap")
    >>> roughness_by_picks(spectra, fit_picks(pick_features(spectra), (), PLAIN["height"])).round(2).max()
    np.float32(0.5)
    """
    return np.clip(picked(spectra, fit), 0, 1)


def _with_lamp(colors: Spectra, lamp: Spectrum | None) -> Spectra:
    return colors if lamp is None else (*colors, lamp)


def _is_lit(params: Any) -> bool:
    return isinstance(params, HeightByPicks) and params.is_lit


def _glow_by_picks(color: Rgb, spectra: Spectra, fit: PickFit, *, params: GlowByPicks, cancel: Cancel) -> FloatArray:
    return color * mask_by_picks(spectra, fit, params=params, cancel=cancel)[..., None] * np.float32(params.gain)


def _fit(plain: str, number: int = 1) -> Part:
    """The fit of a node's picks, at the working size, pulled towards the plain rule of that name."""
    fit = partial(fit_picks, plain=PLAIN[plain], waits=number > 1)
    return Part(f"{PICK_FIT} of {plain}/{number}", fit, (_FEATURES,), ("picks",), facts=("tiles",), is_measured=True)


def _once_asked(spectra: Spectra, fit: PickFit, *, params: MaskByPicks, unasked: float, cancel: Cancel = NEVER) -> FloatArray:
    """The mask of the picks; one value where nobody has picked yet, instead of a gray that says nothing."""
    if fit.residuals:
        return mask_by_picks(spectra, fit, params=params, cancel=cancel)
    return np.full((spectra[0].size.height, spectra[0].size.width), unasked, np.float32)


def _glow_once_asked(color: Rgb, spectra: Spectra, fit: PickFit, *, params: GlowByPicks, cancel: Cancel) -> FloatArray:
    mask = _once_asked(spectra, fit, params=params, unasked=0.0, cancel=cancel)
    return color * mask[..., None] * np.float32(params.gain)


PICK_FIT = "pick fit"
_BY_PICKS = "from color, by picks"
_COLOR = (master("color", "base_color"),)
COLOR_SPECTRA = Part("color spectra/1", color_spectra, of=("color",), facts=("edges",))
_SPECTRA = Part("lit spectra/1", _with_lamp, of=(COLOR_SPECTRA, replace(UNDER_LAMP, is_needed=_is_lit)), is_kept=False)
_FEATURES = Part("pick features/1", pick_features, of=(_SPECTRA,), is_measured=True)
_AS_MASK = (_SPECTRA, _fit("mask"))
FIRST_ROUGHNESS_BY_PICKS = Operation(
    "roughness_by_picks",
    _BY_PICKS,
    roughness_by_picks,
    ByPicks,
    slots=_COLOR,
    outputs=("roughness",),
    of=(_SPECTRA, _fit("roughness")),
    effort=18,
    was="the way that leaves the range of the picked values, and is pulled to the middle",
)


def _drawn(output: str, first: Callable[..., FloatArray], asked: Callable[..., FloatArray], **of_glow: Any) -> Operation:
    """A mask that is drawn through the picks, with the way before it; what glows is made of the color itself as well."""
    made = Operation(f"{output}_by_picks", _BY_PICKS, first, MaskByPicks, slots=_COLOR, outputs=(output,), of=_AS_MASK, effort=7)
    gray = replace(made, was="the way that is gray everywhere until something is picked", **of_glow)
    return replace(gray, make=asked, number=2, was="the way that draws far more than looks like the spots", older=(gray,))


_FIRST_HEIGHT = Operation(
    "height_by_picks",
    _BY_PICKS,
    height_by_picks,
    HeightByPicks,
    slots=_COLOR,
    outputs=("height",),
    of=(_SPECTRA, _fit("height")),
    effort=14,
    was="the way that a few picks move the whole height by",
)
_HEIGHT = replace(_FIRST_HEIGHT, of=(_SPECTRA, _fit("height", 2)), number=2, was="", older=(_FIRST_HEIGHT,))
# By what they are of. They were followed by masks of what looks like the spots.
DRAWN_MASKS = {
    "metallic": _drawn("metallic", mask_by_picks, partial(_once_asked, unasked=0.0)),
    "opacity": _drawn("opacity", mask_by_picks, partial(_once_asked, unasked=1.0)),
    "emissive": _drawn("emissive", _glow_by_picks, _glow_once_asked, params=GlowByPicks, of=("color", *_AS_MASK)),
}
OPERATIONS = (_HEIGHT,)
