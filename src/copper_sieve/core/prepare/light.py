"""The light that lay on a photo: how it falls off across the picture, apart from what the surface itself looks like."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from ..color import luminance
from ..filters import gaussian
from ..raster import Edge, Edges, FloatArray, Rgb, Size, as_rgb, edges_of, floats

__all__ = [
    "MOST",
    "Falloff",
    "LightAcross",
    "Stuffs",
    "Terms",
    "light_across",
    "light_of",
    "light_on",
    "light_terms",
    "stuffs_in",
]

Falloff = Literal["side", "borders"]
Stuffs = Sequence[np.ndarray] | np.ndarray  # of each: how much of it every cell shows
Terms = tuple[float, float, float, float, float]  # of log light: x, y, x², y², xy, from -½ to ½

MOST = 8.0  # of a term of log light
_CELLS = 64  # per side: light is broad
_ROUNDS, _WIDE = 4, 2.0  # of the robust fit; residuals of twice the spread count a quarter
_MEAN_SQUARE = 1 / 12  # of -½ to ½
_DARKEST = 1e-4  # linear light whose logarithm is still taken
_STEPS = (4, 8, 16)  # cells apart, over which the surface's own tones are told from a slope of the light
_SIDEWAYS = 0.3  # of the whole reach: less of a slope than that is light that falls off around a middle
# Of the variance that two values leave where there are two stuffs; values that are evenly spread leave 0.25, as those of light
# that goes warm, or dark, across. How far two are apart, in logs; the least share of the picture that is a stuff of its own.
_TWO_HUES, _TWO_TONES = 0.2, 0.15
_HUES_APART, _TONES_APART, _LEAST_SHARE = 0.1, 0.3, 0.04
_AMONG = 9  # cells around one, among which it is told whether a part of one tone is broad
_ALIKE, _MOST_ALIKE = 0.1, 0.5  # of them that may be of the other tone; of all cells that lie so among their like
# Light counts as uneven from that brightest over darkest, where it is so many times the spread of what the fit leaves: own broad
# tones of a material reach 2 times, and less light is seen on a surface that is calm.
_UNEVEN = ((1.5, 2.5), (1.2, 6.0))


@dataclass(frozen=True)
class LightAcross:
    """How unevenly a photo is lit: brightest over darkest, whether that stands out from the material's own tones, and whereto it
    falls off.

    ``toned`` is how much brighter than the rest a broad part of the same hue is: paint, or what lies in no shadow.
    """

    ratio: float
    stands_out: bool
    falloff: Falloff
    toned: float = 1.0


@dataclass(frozen=True)
class _Fit:
    """Log light over the cells: its terms, as many as there are columns, the spread it leaves, and how much brighter each stuff
    is than the first.
    """

    terms: np.ndarray
    spread: float
    stuffs: np.ndarray


def _columns(shape: tuple[int, ...], edges: Edges, degree: int) -> dict[str, np.ndarray]:
    """Powers of x and y, from -½ to ½, that light may follow: none along an axis on which the picture repeats."""
    rows, columns = shape
    x = np.tile((np.arange(columns) + 0.5) / columns - 0.5, (rows, 1))
    y = np.tile(((np.arange(rows) + 0.5) / rows - 0.5)[:, None], (1, columns))
    free_x, free_y = edges.x != "wrap", edges.y != "wrap"
    found = {"one": np.ones((rows, columns))}
    found |= {"x": x} if free_x else {}
    found |= {"y": y} if free_y else {}
    if degree == 2:
        found |= {"xx": x * x} if free_x else {}
        found |= {"yy": y * y} if free_y else {}
        found |= {"xy": x * y} if free_x and free_y else {}
    return found


def _cells(values: FloatArray) -> np.ndarray:
    """Log of the mean over cells."""
    small = cv2.resize(values, (_CELLS, _CELLS), interpolation=cv2.INTER_AREA)
    return np.log(np.maximum(small, _DARKEST)).astype(np.float64)


@dataclass(frozen=True)
class _Parting:
    """Values as two: where they part, what each of the two is, and the share of their variance that two values leave."""

    at: float
    low: float
    high: float
    left: float
    least: float

    @classmethod
    def of(cls, values: np.ndarray) -> _Parting:
        """Where two values explain them best: Otsu 1979."""
        ordered = np.sort(values, axis=None)
        below, sums = np.arange(1, ordered.size), np.cumsum(ordered)
        above = ordered.size - below
        low, high = sums[:-1] / below, (sums[-1] - sums[:-1]) / above
        between = below * above * (high - low) ** 2 / ordered.size**2
        at = int(np.argmax(between))
        left = 1 - float(between[at]) / max(float(ordered.var()), 1e-12)
        return cls(float(ordered[at]), float(low[at]), float(high[at]), left, min(below[at], above[at]) / ordered.size)

    def is_told(self, most_left: float, apart: float) -> bool:
        return self.left <= most_left and self.high - self.low >= apart and self.least >= _LEAST_SHARE


def stuffs_in(photo: Rgb, edges: Edges | Edge = "wrap") -> np.ndarray:
    """How much each cell shows of another stuff, 0 to 1, (stuffs, 64, 64): of another hue, of another tone, where they are told.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> halves = np.full((64, 64, 3), (0.4, 0.1, 0.05), np.float32)
    >>> halves[:, 32:] = 0.3, 0.3, 0.3
    >>> stuffs_in(halves, "mirror")[0, 0, [0, -1]].round().tolist() in ([0, 1], [1, 0])
    True
    """
    photo, edges = as_rgb(photo, "photo"), edges_of(edges)
    hues = _other_hue(photo)
    return np.array([*hues, *_other_tone(_cells(luminance(photo)), edges, hues)]).reshape(-1, _CELLS, _CELLS)


def _other_hue(photo: FloatArray) -> list[np.ndarray]:
    """Light makes a hue brighter, not another: plaster beside brick is told by it from plaster in the sun.

    The hue is the first principal component of the log ratios of red and blue to green.
    """
    red, green, blue = np.moveaxis(_cells(photo), -1, 0)
    ratios = np.stack([red - green, blue - green], -1).reshape(-1, 2)
    ratios -= ratios.mean(0)
    hue = (ratios @ np.linalg.eigh(ratios.T @ ratios)[1][:, 1]).reshape(red.shape)
    two = _Parting.of(hue)
    if not two.is_told(_TWO_HUES, _HUES_APART):
        return []
    return [np.clip((hue - two.low) / (two.high - two.low), 0, 1)]


def _other_tone(cells: np.ndarray, edges: Edges, hues: list[np.ndarray]) -> list[np.ndarray]:
    """A tone is told where two explain what the light leaves."""
    unlit, tone = cells, np.zeros(cells.shape)
    for _ in range(_ROUNDS):
        tone = (unlit > _Parting.of(unlit).at).astype(float)
        fit = _fitted(cells, edges, 2, [*hues, tone])
        unlit = cells - np.log(_surface(fit.terms, cells.shape, edges, 2)) - _tones(fit, hues)
    return [tone] if _Parting.of(unlit).is_told(_TWO_TONES, _TONES_APART) else []


def _is_broad(tone: np.ndarray) -> bool:
    """Whether most cells lie among their like: a part of the picture, not the joints of stones."""
    around = cv2.blur(tone, (_AMONG, _AMONG))
    return float(((around < _ALIKE) | (around > 1 - _ALIKE)).mean()) > _MOST_ALIKE


def _fitted(cells: np.ndarray, edges: Edges, degree: int, stuffs: Stuffs = ()) -> _Fit:
    """Least squares in which what is far off counts little, so that dark joints or light stones do not tilt the light."""
    columns = list(_columns(cells.shape, edges, degree).values())
    matrix = np.stack([column.ravel() for column in (*columns, *stuffs)], 1)
    wanted, weights = cells.ravel(), np.ones(cells.size)
    terms, spread = np.zeros(matrix.shape[1]), 0.0
    for _ in range(_ROUNDS):
        root = np.sqrt(weights)
        terms = np.linalg.lstsq(matrix * root[:, None], wanted * root, rcond=None)[0]
        off = wanted - matrix @ terms
        spread = 1.48 * float(np.median(np.abs(off - np.median(off)))) + 1e-6
        weights = 1 / (1 + (off / (_WIDE * spread)) ** 2) ** 2
    return _Fit(terms[: len(columns)], spread, terms[len(columns) :])


def _tones(fit: _Fit, stuffs: Stuffs) -> np.ndarray:
    """How much brighter the stuff of each cell is than the first, in logs."""
    return sum((term * stuff for term, stuff in zip(fit.stuffs, stuffs)), np.zeros((_CELLS, _CELLS)))


def _surface(terms: np.ndarray, shape: tuple[int, ...], edges: Edges, degree: int) -> np.ndarray:
    """Light (H, W) about 1 of a fit's terms, whatever its mean."""
    columns = list(_columns(shape, edges, degree).values())
    return np.exp(sum(term * column for term, column in zip(terms[1:], columns[1:])) + np.zeros(shape))


def _slope(cells: np.ndarray, axis: int) -> float:
    """Log light over the whole width by the median difference of cells some way apart: steps between stones leave it alone.

    The smallest of three distances, and none where they disagree on the sign.
    """
    slopes: list[float] = []
    for step in _STEPS:
        far, near = (np.take(cells, range(*ends), axis) for ends in ((step, _CELLS), (0, _CELLS - step)))
        slopes.append(float(np.median(far - near)) * _CELLS / step)
    return min(slopes, key=abs) if abs(sum(map(np.sign, slopes))) == len(slopes) else 0.0


def light_across(photo: Rgb, edges: Edges | Edge = "wrap") -> LightAcross:
    """Measure how unevenly a photo is lit.

    A second-degree surface in log light, whose slope counts only as far as neighbors at three distances show it as well: planks
    or stones of different tones are no light. Neither are two stuffs of different hues or tones, wherever each lies.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    Returns
    -------
    across : the brightest over the darkest, whether that can be told from the material's own tones, and whereto it falls off
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> lit = np.tile(np.geomspace(0.6, 0.2, 64, dtype=np.float32)[None, :, None], (64, 1, 3))
    >>> across = light_across(lit, "mirror")
    >>> round(across.ratio, 1), across.stands_out
    (3.0, True)
    >>> light_across(lit[:, :1].repeat(64, 1), "mirror").stands_out
    False
    """
    edges = edges_of(edges)
    photo = as_rgb(photo, "photo")
    cells, hues = _cells(luminance(photo)), _other_hue(photo)
    tones = _other_tone(cells, edges, hues)
    stuffs = [*hues, *tones]
    fit = _fitted(cells, edges, 2, stuffs)
    names = list(_columns(cells.shape, edges, 2))
    terms = fit.terms.copy()
    cells = cells - _tones(fit, stuffs)
    for name, axis in (("x", 1), ("y", 0)):
        if name in names:
            seen, at = _slope(cells, axis), names.index(name)
            terms[at] = min(terms[at], seen, key=abs) if terms[at] * seen > 0 else 0.0
    surface = np.log(_surface(terms, cells.shape, edges, 2))
    reach = float(np.ptp(surface))
    sideways = sum(abs(float(term)) for name, term in zip(names, terms) if name in ("x", "y"))
    stands_out = any(reach >= max(np.log(ratio), times * fit.spread) for ratio, times in _UNEVEN)
    toned = float(np.exp(abs(fit.stuffs[-1]))) if tones and not hues and _is_broad(tones[0]) else 1.0
    return LightAcross(float(np.exp(reach)), stands_out, "side" if sideways > _SIDEWAYS * reach else "borders", toned)


def light_terms(photo: Rgb, edges: Edges | Edge = "wrap") -> Terms:
    """The second-degree surface in log light that lies on a photo; 0 along an axis on which it repeats.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    Examples
    --------
    >>> lit = np.tile(np.geomspace(0.6, 0.2, 64, dtype=np.float32)[None, :, None], (64, 1, 3))
    >>> [abs(round(term, 1)) for term in light_terms(lit, "mirror")]
    [1.1, 0.0, 0.0, 0.0, 0.0]
    """
    edges = edges_of(edges)
    photo = as_rgb(photo, "photo")
    cells = _cells(luminance(photo))
    found = dict(zip(_columns(cells.shape, edges, 2), _fitted(cells, edges, 2, stuffs_in(photo, edges)).terms))
    x, y, xx, yy, xy = (round(min(max(float(found.get(name, 0.0)), -MOST), MOST), 5) for name in ("x", "y", "xx", "yy", "xy"))
    return x, y, xx, yy, xy


def light_of(terms: Terms, size: Size) -> FloatArray:
    """That surface as light about 1, (H, W) float32: of the same mean in log light at any size.

    Examples
    --------
    >>> light_of((-1.0, 0, 0, 0, 0), Size(2, 1)).round(2)
    array([[1.28, 0.78]], dtype=float32)
    """
    x, y = ((np.arange(side, dtype=np.float32) + 0.5) / side - 0.5 for side in (size.width, size.height))
    along, down = x * terms[0] + (x * x - _MEAN_SQUARE) * terms[2], y * terms[1] + (y * y - _MEAN_SQUARE) * terms[3]
    return floats(np.exp(along[None, :] + down[:, None] + np.outer(y, x * np.float32(terms[4]))))


def light_on(
    photo: Rgb,
    edges: Edges | Edge = "wrap",
    *,
    falloff: Falloff = "side",
    breadth: float = 0.5,
    is_tinted: bool = False,
    stuffs: Stuffs | None = None,
) -> FloatArray:
    """The light on a photo, about 1: where it falls off to one side, a plane in log light and what is broad of the rest; where
    it falls off to the borders, a second-degree surface in log light.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    breadth : share of the width; of the rest, what is broader counts as light
    is_tinted : whether the color of the light changes across the picture as well
    stuffs : whose tones are left alone, as ``stuffs_in`` tells them; those of the photo where None; of others, tones are light
    Returns
    -------
    light : (H, W, 1) float32, or (H, W, 3) of a light whose color changes; positive
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    References
    ----------
    Homomorphic filtering: Oppenheim 1968. Weights of the robust fit: Geman & McClure 1987.
    Examples
    --------
    >>> lit = np.tile(np.geomspace(0.6, 0.2, 64, dtype=np.float32)[None, :, None], (64, 1, 3))
    >>> evened = lit / light_on(lit, "mirror")
    >>> bool(evened.max() / evened.min() < 1.1 < 2.9 < lit.max() / lit.min())
    True
    """
    photo, edges = as_rgb(photo, "photo"), edges_of(edges)
    seen = luminance(photo)
    degree = 2 if falloff == "borders" else 1
    apart = stuffs_in(photo, edges) if stuffs is None else stuffs
    fit = _fitted(_cells(seen), edges, degree, apart)
    light = _surface(fit.terms, seen.shape, edges, degree).astype(np.float32)
    if falloff == "side":
        rest = seen / light
        if len(apart):
            tones = np.exp(_tones(fit, apart)).astype(np.float32)
            rest = rest / floats(cv2.resize(tones, rest.shape[::-1], interpolation=cv2.INTER_LINEAR))
        light = light * gaussian(rest, breadth / np.pi, edges) / np.float32(max(float(rest.mean()), _DARKEST))
    light = np.maximum(light, np.float32(_DARKEST))[..., None]
    return light * _tints(photo, edges) if is_tinted else light


def _tints(photo: Rgb, edges: Edges) -> FloatArray:
    """How red and blue the light is against green, (H, W, 3): planes in the log of their ratios."""
    red, green, blue = np.moveaxis(_cells(photo), -1, 0)
    sides = [_surface(_fitted(part - green, edges, 1).terms, photo.shape[:2], edges, 1) for part in (red, blue)]
    return np.stack([sides[0], np.ones_like(sides[0]), sides[1]], -1).astype(np.float32)
