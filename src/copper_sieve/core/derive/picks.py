"""Picks: a person says of a few spots what they are, and the rest of the picture follows by likeness.

Which color is high, or metal, or dull is a matter of the single picture, so it is asked and fitted for that picture alone: a
ridge regression from color, band by band, pulled towards the plain rule (light is high) while picks are few.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from types import MappingProxyType
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..color import GrayName, oklab_from_linear
from ..filters import Spectrum, guided, spectrum
from ..operation import Operation, Part, master
from ..params import Params, control
from ..raster import Edge, Edges, FloatArray, Rgb, as_rgb, edges_of
from .detail import HANDLES, detail_transfer
from .height import UNDER_LAMP

__all__ = [
    "FIRST_ROUGHNESS_BY_PICKS",
    "OPERATIONS",
    "PICK_FIT",
    "ByPicks",
    "GlowByPicks",
    "HeightByPicks",
    "MaskByPicks",
    "Pick",
    "PickFeatures",
    "PickFit",
    "Spectra",
    "color_spectra",
    "fit_picks",
    "height_by_picks",
    "mask_by_picks",
    "pick_features",
    "picked",
    "roughness_by_picks",
]

Share = Annotated[float, Field(ge=0, le=1)]
_BANDS = len(HANDLES)
_PULLS = (0.1, 0.3, 1.0, 3.0, 10.0)  # of the ridge, against features of variance 1
_PULL_BANDS = (1.0, 1.0, 1.0, 1.0, 6.0)  # by size of detail; the finest is mostly grain, and a pick lands on it by chance
_PULL_OF_FEW = 0.3
_CLEARLY = 1.2  # standard errors; a pair taken from the highest and lowest tenth differs by two and more
_CLEARLY_UNDER_A_LAMP = 3.0  # the lamp says which way is up, unless it was told from the wrong side
_FEW = 4  # picks under which leaving one out says nothing
_PULL_SIGN, _PULL_MIDDLE = 0.05, 0.3  # how much less the plain rule's sign and the middle value are held than the rest
_PULL_SIGN_UNDER_A_LAMP = 1.0
_LEAST_SPREAD = 0.05  # of the largest feature's: below it a band is noise and must not be blown up
_LAMP_BANDS = (0.0, 0.7, 1.0, 1.0, 1.0)  # the broadest slopes drift when they are added up
_LAMP_SHARE = 0.75  # of the plain rule, where the lamp is told
_KNEE = 0.85
_SMOOTHING_TOLERANCE = 0.06
# Weights of lightness, band by band, that a person without picks would start from.
PLAIN = MappingProxyType(
    {
        "height": (0.0, 0.7, 1.0, 0.6, 0.25),
        "roughness": (0.0, -0.6, -0.8, -0.5, -0.2),
        "mask": (1.0, 1.0, 1.0, 0.5, 0.2),
    }
)


class Pick(Params):
    """One spot, in shares of width and height from the upper left, and what it is: 0 to 1. In a set of tiles: of which."""

    x: Share
    y: Share
    value: Share
    tile: int | None = None


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


@dataclass(frozen=True)
class PickFit:
    """``weights`` (planes, bands) for the bands of L, a, b and, with a lamp, its relief; ``offset``; how far each pick is off."""

    weights: tuple[tuple[float, ...], ...]
    offset: float
    residuals: tuple[float, ...]


Spectra = tuple[Spectrum, ...]


def color_spectra(color: Rgb, edges: Edges | Edge) -> Spectra:
    """Spectra of OKLab's L, a and b of (H, W, 3) linear color.

    Examples
    --------
    >>> [axis.size for axis in color_spectra(np.zeros((4, 6, 3), np.float32), "wrap")]
    [Size(width=6, height=4), Size(width=6, height=4), Size(width=6, height=4)]
    """
    lab = oklab_from_linear(as_rgb(color, "color"))
    return tuple(spectrum(np.ascontiguousarray(lab[..., k]), edges_of(edges)) for k in range(3))


def _band(which: int) -> tuple[float, ...]:
    return tuple(float(k == which) for k in range(_BANDS))


@dataclass(frozen=True)
class PickFeatures:
    """Every band of L, a, b and the lamp's relief, about zero, and the ``spread`` of each, none too small to divide by.

    ``values`` is (H, W, planes · bands).
    """

    values: np.ndarray
    spread: np.ndarray


def pick_features(spectra: Sequence[Spectrum]) -> PickFeatures:
    """What picks are told apart by; it depends on the picture alone.

    Examples
    --------
    >>> found = pick_features(color_spectra(np.zeros((8, 8, 3), np.float32), "wrap"))
    >>> found.values.shape == (8, 8, found.spread.size)
    True
    """
    planes = [axis.filtered(detail_transfer(axis.frequencies(), _band(k))) for axis in spectra for k in range(_BANDS)]
    spread = np.array([float(plane.std()) for plane in planes]).reshape(-1, _BANDS)
    lab, lamp = spread[:3], spread[3:]  # a relief is in other units than colors, so it is held against itself
    floors = [_LEAST_SPREAD * max(float(part.max()), 1e-4) for part in (lab, lamp) if part.size]
    least = np.concatenate([np.maximum(part, floor).ravel() for part, floor in zip((lab, lamp), floors)])
    return PickFeatures(np.stack(planes, -1), least)


def fit_picks(found: PickFeatures, picks: Sequence[Pick], plain: Sequence[float], tiles: Sequence[int] = ()) -> PickFit:
    """Fit a picture's picks, at the working size; of ``tiles`` that lie one below the other, a pick is on its own.

    The unknowns are the plain rule's factor, a correction per feature, and the middle; least squares with each pulled to ±1,
    0 and ½, the sign being the plain one unless the picks' own lightness speaks clearly against it. How hard is what best
    foretells each pick from the others: where picks follow from color the fit goes along, where they do not it keeps to the
    plain rule, which without picks comes out as it is.
    Examples
    --------
    >>> half = np.zeros((16, 16, 3), np.float32)
    >>> half[:, 8:] = 0.5
    >>> found = pick_features(color_spectra(half, "wrap"))
    >>> fit = fit_picks(found, (Pick(x=0.1, y=0.5, value=0.0), Pick(x=0.9, y=0.5, value=1.0)), PLAIN["height"])
    >>> max(abs(off) for off in fit.residuals) < 0.1
    True
    """
    features, spread = found.values, found.spread
    rows, columns, count = features.shape
    rule = _rule(found, plain)
    relief = (features @ rule.astype(np.float32)).astype(np.float64)
    gain = 0.25 / max(float(relief.std()), 1e-4)  # the plain rule alone spreads by a quarter
    tall = rows // max(len(tiles), 1)
    tops = [tall * tiles.index(p.tile) if p.tile in tiles else 0 for p in picks]
    at = [(top + min(int(p.y * tall), tall - 1), min(int(p.x * columns), columns - 1)) for top, p in zip(tops, picks)]
    spots = np.array([features[place] / spread for place in at]).reshape(len(picks), count)
    plain_at = np.array([relief[place] * gain for place in at]).reshape(len(picks))
    wanted = np.array([p.value for p in picks])
    matrix = np.column_stack([plain_at, spots, np.ones(len(picks))])
    witness = relief if count > 3 * _BANDS else features[..., :_BANDS].sum(-1) * np.sign(sum(plain))
    clearly = _CLEARLY if witness is not relief else _CLEARLY_UNDER_A_LAMP
    turned = _is_turned(wanted, np.array([witness[place] for place in at]), float(witness.std()), clearly)
    start = np.concatenate([[-1.0 if turned else 1.0], np.zeros(count), [0.5]])
    hold = _PULL_SIGN if witness is not relief else _PULL_SIGN_UNDER_A_LAMP
    pulls = np.concatenate([[hold], np.tile(_PULL_BANDS, count // _BANDS), [_PULL_MIDDLE]])
    solved = start + _best(matrix, wanted - matrix @ start, pulls)
    weights = (solved[0] * gain * rule + solved[1:-1] / spread).reshape(-1, _BANDS)
    residuals = tuple(float(v) for v in matrix @ solved - wanted)
    return PickFit(tuple(tuple(float(v) for v in row) for row in weights), float(solved[-1]), residuals)


def _rule(found: PickFeatures, plain: Sequence[float]) -> np.ndarray:
    """Weights of every feature without picks: lightness as ``plain`` says, and where a lamp is told, mostly its relief."""
    count = found.values.shape[2]
    rule = np.concatenate([plain, np.zeros(count - _BANDS)])
    if count == 3 * _BANDS:
        return rule
    lamp = np.concatenate([np.zeros(3 * _BANDS), _LAMP_BANDS])
    light, relief = (max(float((found.values @ part.astype(np.float32)).std()), 1e-6) for part in (rule, lamp))
    return (1 - _LAMP_SHARE) / light * rule + _LAMP_SHARE / relief * lamp


def _is_turned(wanted: np.ndarray, witness: np.ndarray, spread: float, clearly: float) -> bool:
    """Whether what was called high is clearly lower by the ``witness`` than what was called low: in standard errors of chance."""
    high, low = witness[wanted > 0.5], witness[wanted < 0.5]
    if not len(high) or not len(low) or spread <= 0:
        return False
    error = spread * np.sqrt(1 / len(high) + 1 / len(low))
    return float(high.mean() - low.mean()) < -clearly * error


def _best(matrix: np.ndarray, missing: np.ndarray, pulls: np.ndarray) -> np.ndarray:
    """The ridge solution whose pull has the smallest mean error on each pick left out in turn (by the hat matrix)."""
    solutions = []
    for strength in _PULLS if len(missing) >= _FEW else (_PULL_OF_FEW,):
        inverse = np.linalg.inv(matrix.T @ matrix + np.diag(strength * pulls))
        solution = inverse @ matrix.T @ missing
        leverage = np.einsum("ij,jk,ik->i", matrix, inverse, matrix)
        left_out = np.abs(missing - matrix @ solution) / np.maximum(1 - leverage, 1e-9)
        solutions.append((float(left_out.mean()) if len(missing) else 0.0, -strength, solution))
    return min(solutions, key=lambda row: row[:2])[2]


def picked(spectra: Sequence[Spectrum], fit: PickFit) -> FloatArray:
    """The fit over a whole picture, (H, W), not limited to 0..1: three transforms summed and one turned back.

    Examples
    --------
    >>> spectra = color_spectra(np.full((8, 8, 3), 0.2, np.float32), "wrap")
    >>> picked(spectra, fit_picks(pick_features(spectra), (), PLAIN["height"])).round(2).max()
    np.float32(0.5)
    """
    parts = [axis.values * detail_transfer(axis.frequencies(), weights) for axis, weights in zip(spectra, fit.weights)]
    whole = Spectrum(sum(parts[1:], parts[0]), spectra[0].size, spectra[0].edges)
    return whole.filtered(np.ones(1, np.float32)) + np.float32(fit.offset)


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


def _fit(plain: str) -> Part:
    """The fit of a node's picks, at the working size, pulled towards the plain rule of that name."""
    fit = partial(fit_picks, plain=PLAIN[plain])
    return Part(f"{PICK_FIT} of {plain}/1", fit, (_FEATURES,), ("picks",), facts=("tiles",), is_measured=True)


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
_COLORS = Part("color spectra/1", color_spectra, of=("color",), facts=("edges",))
_SPECTRA = Part("lit spectra/1", _with_lamp, of=(_COLORS, replace(UNDER_LAMP, is_needed=_is_lit)), is_kept=False)
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
    effort=3,
    was="the way that leaves the range of the picked values, and is pulled to the middle",
)
_GRAY_UNASKED = "the way that is gray everywhere until something is picked"


def _mask_of(output: str, make: Callable[..., FloatArray], number: int, older: tuple[Operation, ...] = ()) -> Operation:
    was = "" if older else _GRAY_UNASKED
    return Operation(
        f"{output}_by_picks",
        _BY_PICKS,
        make,
        MaskByPicks,
        slots=_COLOR,
        outputs=(output,),
        of=_AS_MASK,
        effort=3,
        number=number,
        was=was,
        older=older,
    )


def _glow(make: Callable[..., FloatArray], number: int, older: tuple[Operation, ...] = ()) -> Operation:
    return replace(_mask_of("emissive", make, number, older), params=GlowByPicks, of=("color", *_AS_MASK))


OPERATIONS = (
    Operation(
        "height_by_picks",
        _BY_PICKS,
        height_by_picks,
        HeightByPicks,
        slots=_COLOR,
        outputs=("height",),
        of=(_SPECTRA, _fit("height")),
        effort=3,
    ),
    *(
        _mask_of(output, partial(_once_asked, unasked=unasked), 2, older=(_mask_of(output, mask_by_picks, 1),))
        for output, unasked in (("metallic", 0.0), ("opacity", 1.0))
    ),
    _glow(_glow_once_asked, 2, older=(_glow(_glow_by_picks, 1),)),
)
