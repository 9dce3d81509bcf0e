"""Masks of what looks like a few spots: of those that are said to be it more than of those that are said not to be."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..operation import Operation, Part
from ..raster import FloatArray, Rgb
from .detail import HANDLES, detail_transfer
from .pick_fit import Pick, Spectra, places_of
from .picks import COLOR_SPECTRA, DRAWN_MASKS, PICK_FIT, GlowByPicks, MaskByPicks

__all__ = ["OPERATIONS", "AlikeFit", "alike_features", "fit_alike", "mask_alike"]

_FINEST = tuple(float(size == HANDLES[-1]) for size in HANDLES)
_GRAIN = 0.3  # of the finest detail: a spot is hardly known by its grain
_WEIGHTS = (0.5, 1.0, 1.0)  # of OKLab: light and shade lie on one material
_OF_THE_PICTURE = 0.4  # of how far the picture's texels are from the spots, root mean square: so far is alike
_LEAST, _MOST = 0.005, 0.12  # of OKLab
_LEAST_APART = 0.01
_SAME = 0.25  # of the reach: spots of one word that are nearer to each other count as one
_LONG, _JURY = 8, 3  # texels of a stroke in which the hand may slip; nearest picks by whose word that is told
_LEAST_SOFTNESS = 1e-3
_EFFORT = 11
_SOFTNESS = MaskByPicks().softness


@dataclass(frozen=True)
class AlikeFit:
    """Spots among the features, each (spots, 3): of those that ``is_it`` and ``is_not``. How far from a spot is alike, or,
    where both words were said, how far the two lie apart: ``reach``. ``residuals`` are how far the mask is off at each pick.
    """

    is_it: FloatArray
    is_not: FloatArray
    reach: float
    residuals: tuple[float, ...] = ()

    @property
    def worst(self) -> float:
        """How far the worst pick is off."""
        return max(map(abs, self.residuals), default=0.0)

    def doubt(self, features: FloatArray) -> FloatArray:
        """How unlike each texel is to every pick, (H, W): 0 as one of them, near 1 where nothing like it was picked."""
        spots = np.concatenate([self.is_it, self.is_not])
        if not len(spots):
            return np.ones(features.shape[1:], np.float32)
        apart = np.min([np.square(features - spot[:, None, None]).sum(0) for spot in spots], 0)
        return (1 - np.exp(-0.5 * apart / self.reach**2)).astype(np.float32)


def alike_features(spectra: Spectra) -> FloatArray:
    """What spots are told apart by, (3, H, W): OKLab by its spectra, with little of its lightness and of its grain.

    Examples
    --------
    >>> from .pick_fit import color_spectra
    >>> alike_features(color_spectra(np.zeros((4, 6, 3), np.float32), "wrap")).shape
    (3, 4, 6)
    """
    fine = (detail_transfer(axis.frequencies(), _FINEST) for axis in spectra)
    planes = [
        axis.filtered(np.float32(weight) * (1 - np.float32(1 - _GRAIN) * own))
        for axis, own, weight in zip(spectra, fine, _WEIGHTS)
    ]
    return np.stack(planes)


def fit_alike(features: FloatArray, picks: Sequence[Pick], tiles: Sequence[int] = ()) -> AlikeFit:
    """Where picks lie among the features of the working size; of ``tiles`` that lie one below the other, each is on its own.

    Examples
    --------
    >>> from .pick_fit import color_spectra
    >>> halves = np.zeros((8, 8, 3), np.float32)
    >>> halves[:, :4] = 0.1, 0.3, 0.6
    >>> fit = fit_alike(alike_features(color_spectra(halves, "mirror")), [Pick(x=0.2, y=0.5, value=1)])
    >>> fit.is_it.shape, fit.is_not.shape, 0.005 < fit.reach <= 0.12
    ((1, 3), (0, 3), True)
    """
    rows, columns = features.shape[1:]
    at = places_of(picks, rows, columns, tiles)
    spots = np.array([features[:, row, column] for row, column in at], np.float32).reshape(len(picks), 3)
    is_it = np.array([pick.value > 0.5 for pick in picks], bool)
    if not len(picks):
        return AlikeFit(spots, spots, _LEAST)
    held = _held(spots, is_it, _is_in_long_stroke(picks))
    own, other = spots[held & is_it], spots[held & ~is_it]
    reach = alike = _alike_within(features, spots)
    if len(own) and len(other):
        apart = _apart(own, other)
        reach = max(float(np.median([*apart.min(0), *apart.min(1)])), _LEAST_APART)
    same = _SAME * min(alike, reach)
    fit = AlikeFit(_telling(own, same), _telling(other, same), reach)
    found = mask_alike(spots.T[:, None], fit, _SOFTNESS)[0]
    return replace(fit, residuals=tuple(float(off) for off in (found - is_it) * held))


def _is_in_long_stroke(picks: Sequence[Pick]) -> np.ndarray:
    counts = Counter(pick.stroke for pick in picks)
    return np.array([pick.stroke is not None and counts[pick.stroke] >= _LONG for pick in picks])


def _alike_within(features: FloatArray, spots: FloatArray) -> float:
    """How far from a spot is still alike, where the other word was not said."""
    far = float(features.var((1, 2)).sum() + np.square(spots - features.mean((1, 2))).sum(1).mean())
    return min(max(_OF_THE_PICTURE * far**0.5, _LEAST), _MOST)


def _apart(some: FloatArray, others: FloatArray) -> np.ndarray:
    return np.sqrt(np.square(some[:, None] - others).sum(-1))


def _held(spots: FloatArray, is_it: np.ndarray, may_slip: np.ndarray) -> np.ndarray:
    """Which picks are held to: of long strokes not where they slipped into what the other word was said of (Wilson 1972)."""
    if len(spots) <= _JURY or is_it.all() or not is_it.any():
        return np.ones(len(spots), bool)
    apart = _apart(spots, spots)
    np.fill_diagonal(apart, np.inf)
    jury = np.argsort(apart, 1)[:, :_JURY]
    held = ~may_slip | ((is_it[jury] == is_it[:, None]).mean(1) > 0.5)
    return held if is_it[held].any() and not is_it[held].all() else np.ones(len(spots), bool)


def _telling(spots: FloatArray, apart: float) -> FloatArray:
    """Those of the spots that are no nearer than that to one before."""
    kept: list[FloatArray] = []
    for spot in spots:
        if not kept or np.square(spot - kept).sum(1).min() > apart * apart:
            kept.append(spot)
    return np.array(kept, np.float32).reshape(-1, 3)


def _settle(
    first: int, last: int, features: FloatArray, spots: Sequence[FloatArray], reach: float, rim: float, out: FloatArray
) -> None:
    """By the distances to the nearest spot of either word; of a word that was not said, it is the ``reach`` everywhere."""
    far: list[FloatArray] = []
    for own in spots:
        nearest = np.full(out[first:last].shape, np.float32(reach * reach if not len(own) else np.inf), np.float32)
        for spot in own:
            square = np.square(features[0, first:last] - spot[0])
            for plane, value in zip(features[1:], spot[1:]):
                square += np.square(plane[first:last] - value)
            np.minimum(nearest, square, out=nearest)
        far.append(np.sqrt(nearest, out=nearest))
    out[first:last] = np.clip((far[1] - far[0]) * np.float32(1 / rim) + np.float32(0.5), 0, 1)


def mask_alike(features: FloatArray, fit: AlikeFit, softness: float, unasked: float = 0.0, cancel: Cancel = NEVER) -> FloatArray:
    """1 where a picture looks like spots that are it, 0 where it looks like spots that are not, and a rim between, (H, W).

    Where one word alone was said, what does not look like its spots is ``unasked``; so is everything without picks.

    Parameters
    ----------
    features : (3, H, W)
    softness : how wide the rim is, as a share of the reach
    References
    ----------
    The nearest neighbor decides: Cover & Hart 1967.
    Examples
    --------
    >>> from .pick_fit import color_spectra
    >>> halves = np.zeros((8, 8, 3), np.float32)
    >>> halves[:, :4] = 0.1, 0.3, 0.6
    >>> features = alike_features(color_spectra(halves, "mirror"))
    >>> mask_alike(features, fit_alike(features, [Pick(x=0.2, y=0.5, value=1)]), 0.35)[0].round(1).tolist()
    [1.0, 1.0, 1.0, 1.0, 0.0, 0.0, 0.0, 0.0]
    """
    said = {value for value, spots in ((1.0, fit.is_it), (0.0, fit.is_not)) if len(spots)}
    out = np.full(features.shape[1:], unasked, np.float32)
    if said - {unasked}:
        rim = max(softness, _LEAST_SOFTNESS) * fit.reach
        run_rows(_settle, *out.shape, cancel, features, (fit.is_it, fit.is_not), fit.reach, rim, out)
    return out


def _mask(features: FloatArray, fit: AlikeFit, *, params: MaskByPicks, unasked: float, cancel: Cancel) -> FloatArray:
    return mask_alike(features, fit, params.softness, unasked, cancel)


def _glow(color: Rgb, features: FloatArray, fit: AlikeFit, *, params: GlowByPicks, cancel: Cancel) -> FloatArray:
    return color * mask_alike(features, fit, params.softness, 0.0, cancel)[..., None] * np.float32(params.gain)


_FEATURES = Part("alike features/1", alike_features, of=(COLOR_SPECTRA,))
_FIT = Part(f"{PICK_FIT} of mask/2", fit_alike, (_FEATURES,), ("picks",), facts=("tiles",), is_measured=True)


def _alike(output: str, make: Callable[..., FloatArray], *of: str) -> Operation:
    drawn = DRAWN_MASKS[output]
    ways = (*drawn.older, replace(drawn, older=()))
    return replace(drawn, make=make, of=(*of, _FEATURES, _FIT), number=3, effort=_EFFORT, was="", older=ways)


OPERATIONS = (
    _alike("metallic", partial(_mask, unasked=0.0)),
    _alike("opacity", partial(_mask, unasked=1.0)),
    _alike("emissive", _glow, "color"),
)
