"""Fit what a person said of a few spots: a ridge regression from color, band by band, for one picture alone.

It is pulled towards the plain rule (light is high) while picks are few.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Annotated

import numpy as np
from pydantic import Field

from ..color import oklab_from_linear
from ..filters import Spectrum, spectrum
from ..params import Params
from ..raster import Edge, Edges, FloatArray, Rgb, as_rgb, edges_of
from .detail import HANDLES, detail_transfer

__all__ = [
    "PLAIN",
    "Pick",
    "PickFeatures",
    "PickFit",
    "Spectra",
    "color_spectra",
    "fit_picks",
    "pick_features",
    "picked",
    "places_of",
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
_SPOTS_OF_MIDDLE = 8  # with so many the middle is heard by half: what is high and low says little of it
_PULL_ONE_WORD, _PULL_HELD = 10.0, 300.0  # while all picks say the same: of all, and of the rule's sign and the middle
_LEAST_SPREAD = 0.05  # of the largest feature's: below it a band is noise and must not be blown up
_LAMP_BANDS = (0.0, 0.7, 1.0, 1.0, 1.0)  # the broadest slopes drift when they are added up
_LAMP_SHARE = 0.75  # of the plain rule, where the lamp is told
# Weights of lightness, band by band, that a person without picks would start from.
PLAIN = MappingProxyType(
    {
        "height": (0.0, 0.7, 1.0, 0.6, 0.25),
        "roughness": (0.0, -0.6, -0.8, -0.5, -0.2),
        "mask": (1.0, 1.0, 1.0, 0.5, 0.2),
    }
)


class Pick(Params):
    """One spot, in shares of width and height from the upper left, and what it is: 0 to 1. In a set of tiles: of which.

    A spot that was brushed is many picks of one ``stroke``: each counts, and together they are one word of a person.
    """

    x: Share
    y: Share
    value: Share
    tile: int | None = None
    stroke: int | None = None


@dataclass(frozen=True)
class PickFit:
    """``weights`` (planes, bands) for the bands of L, a, b and, with a lamp, its relief; ``offset``; how far each pick is off.

    ``points`` are the picks among the features, each over its spread. One that ``is_waiting`` has heard one word alone.
    """

    weights: tuple[tuple[float, ...], ...]
    offset: float
    residuals: tuple[float, ...]
    points: FloatArray | None = field(default=None, compare=False, repr=False)
    is_waiting: bool = False

    @property
    def worst(self) -> float:
        """How far the worst pick is off; 0 while there is nothing that it could contradict."""
        return 0.0 if self.is_waiting else max(map(abs, self.residuals), default=0.0)

    def doubt(self, features: PickFeatures) -> FloatArray:
        """How unlike each texel is to every pick, (H, W): 0 as one of them, near 1 where nothing like it was picked."""
        values, shape = features.values, features.values.shape[:2]
        if self.points is None or not len(self.points):
            return np.ones(shape, np.float32)
        counts = np.tile(1 / np.array(_PULL_BANDS, np.float32), values.shape[2] // _BANDS)  # grain tells little
        here, scale = values / features.spread, np.square(values.std((0, 1)) / features.spread)
        apart = np.min([(np.square(here - point) * counts).sum(-1) for point in self.points], 0)
        return (1 - np.exp(-0.5 * apart / max(float((scale * counts).sum()), 1.0))).astype(np.float32)


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


def fit_picks(
    found: PickFeatures, picks: Sequence[Pick], plain: Sequence[float], tiles: Sequence[int] = (), *, waits: bool = False
) -> PickFit:
    """Fit a picture's picks, at the working size; of ``tiles`` that lie one below the other, a pick is on its own.

    The unknowns are the plain rule's factor, a correction per feature, and the middle; least squares with each pulled to ±1,
    0 and ½, the sign being the plain one unless the picks' own lightness speaks clearly against it. How hard is what best
    foretells each spot from the others: where picks follow from color the fit goes along, where they do not it keeps to the
    plain rule, which without picks comes out as it is.

    Parameters
    ----------
    waits : for the other word: while all picks say the same, nothing tells where that ends, so the rule's sign and the middle
        are held, and a stroke counts as one click; with both, the middle is heard the less the fewer spots there are

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
    at = places_of(picks, rows, columns, tiles)
    spots = np.array([features[place] / spread for place in at]).reshape(len(picks), count)
    plain_at = np.array([relief[place] * gain for place in at]).reshape(len(picks))
    wanted = np.array([p.value for p in picks])
    matrix = np.column_stack([plain_at, spots, np.ones(len(picks))])
    witness = relief if count > 3 * _BANDS else features[..., :_BANDS].sum(-1) * np.sign(sum(plain))
    clearly = _CLEARLY if witness is not relief else _CLEARLY_UNDER_A_LAMP
    spot = _spots(picks)
    turned = _is_turned(wanted, np.array([witness[place] for place in at]), spot, float(witness.std()), clearly)
    start = np.concatenate([[-1.0 if turned else 1.0], np.zeros(count), [0.5]])
    hold = _PULL_SIGN if witness is not relief else _PULL_SIGN_UNDER_A_LAMP
    pulls = np.concatenate([[hold], np.tile(_PULL_BANDS, count // _BANDS), [_PULL_MIDDLE]])
    is_waiting = waits and _is_one_word(picks)
    if is_waiting:
        once = (spot == np.arange(spot.max() + 1)[:, None]) / np.bincount(spot)[:, None]
        pulls *= _PULL_ONE_WORD
        pulls[[0, -1]] = _PULL_HELD
        solved = start + _best(once @ matrix, once @ (wanted - matrix @ start), pulls, np.arange(len(once)))
    else:
        solved = start + _best(matrix, wanted - matrix @ start, pulls, spot)
    weights = (solved[0] * gain * rule + solved[1:-1] / spread).reshape(-1, _BANDS)
    residuals = tuple(float(v) for v in matrix @ solved - wanted)
    told = tuple(tuple(float(v) for v in row) for row in weights)
    count = len(set(spot.tolist()))
    heard = count / (count + _SPOTS_OF_MIDDLE) if waits else 1.0
    return PickFit(told, 0.5 + heard * (float(solved[-1]) - 0.5), residuals, spots.astype(np.float32), is_waiting)


def _is_one_word(picks: Sequence[Pick]) -> bool:
    """Whether all picks say the same, so that nothing tells where that ends."""
    values = [pick.value for pick in picks]
    return bool(values) and (min(values) > 0.5 or max(values) < 0.5)


def places_of(picks: Sequence[Pick], rows: int, columns: int, tiles: Sequence[int] = ()) -> list[tuple[int, int]]:
    """Row and column of each pick in a picture of that size, in which ``tiles`` lie one below the other.

    Examples
    --------
    >>> places_of([Pick(x=0.5, y=0.25, value=1), Pick(x=1, y=1, value=1, tile=1002)], 8, 4, (1001, 1002))
    [(1, 2), (7, 3)]
    """
    tall = rows // max(len(tiles), 1)
    tops = [tall * tiles.index(p.tile) if p.tile in tiles else 0 for p in picks]
    return [(top + min(int(p.y * tall), tall - 1), min(int(p.x * columns), columns - 1)) for top, p in zip(tops, picks)]


def _rule(found: PickFeatures, plain: Sequence[float]) -> np.ndarray:
    """Weights of every feature without picks: lightness as ``plain`` says, and where a lamp is told, mostly its relief."""
    count = found.values.shape[2]
    rule = np.concatenate([plain, np.zeros(count - _BANDS)])
    if count == 3 * _BANDS:
        return rule
    lamp = np.concatenate([np.zeros(3 * _BANDS), _LAMP_BANDS])
    light, relief = (max(float((found.values @ part.astype(np.float32)).std()), 1e-6) for part in (rule, lamp))
    return (1 - _LAMP_SHARE) / light * rule + _LAMP_SHARE / relief * lamp


def _spots(picks: Sequence[Pick]) -> np.ndarray:
    """Which spot each pick is of, (picks,): a click is one, all of a stroke are one.

    >>> stroke = [Pick(x=0.1, y=y, value=1, stroke=3) for y in (0.1, 0.2)]
    >>> _spots([Pick(x=0, y=0, value=0), *stroke, Pick(x=1, y=0, value=0)])
    array([0, 1, 1, 2])
    """
    names = [("click", k) if pick.stroke is None else ("stroke", pick.stroke) for k, pick in enumerate(picks)]
    order = {name: k for k, name in enumerate(dict.fromkeys(names))}
    return np.array([order[name] for name in names], int)


def _is_turned(wanted: np.ndarray, witness: np.ndarray, spot: np.ndarray, spread: float, clearly: float) -> bool:
    """Whether what was called high is clearly lower by the ``witness`` than what was called low: in standard errors of chance.

    Texels of one stroke lie beside each other and are alike: by chance they go wrong together, so they are heard as one.
    """
    if not len(wanted) or spread <= 0:
        return False
    counts = np.bincount(spot)
    said, seen = (np.bincount(spot, values) / counts for values in (wanted, witness))
    high, low = seen[said > 0.5], seen[said < 0.5]
    if not len(high) or not len(low):
        return False
    error = spread * np.sqrt(1 / len(high) + 1 / len(low))
    return bool(high.mean() - low.mean() < -clearly * error)


def _best(matrix: np.ndarray, missing: np.ndarray, pulls: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """The ridge solution whose pull has the smallest mean error on each spot left out in turn (by the hat matrix).

    A stroke is left out whole, since its texels foretell each other whatever the pull.
    """
    count = int(spot.max(initial=-1)) + 1
    solutions = []
    for strength in _PULLS if count >= _FEW else (_PULL_OF_FEW,):
        inverse = np.linalg.inv(matrix.T @ matrix + np.diag(strength * pulls))
        solution = inverse @ matrix.T @ missing
        hat, off = matrix @ inverse @ matrix.T, missing - matrix @ solution
        left_out = np.concatenate([_without(hat, off, spot == k) for k in range(count)]) if count else np.zeros(1)
        solutions.append((float(left_out.mean()), -strength, solution))
    return min(solutions, key=lambda row: row[:2])[2]


def _without(hat: np.ndarray, off: np.ndarray, own: np.ndarray) -> np.ndarray:
    """How far the others' solution is off at ``own``, from the hat matrix and how far the solution of all is off."""
    rest = np.eye(int(own.sum())) - hat[np.ix_(own, own)]
    return np.abs(np.linalg.solve(rest, off[own]))


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
