"""Where a picture falls into two by itself: a background that goes around its border, or a light and a dark group."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..color import encode_srgb_codes, oklab_from_linear
from ..raster import Rgb, as_rgb, floats

__all__ = ["Background", "LightSplit", "background_of", "is_lone_thing", "light_split", "reaching_border"]

_STRIP = 0.01  # of the shorter side: how much of the border is looked at
_ALIKE, _ALIKE_SHARE = 0.06, 0.8  # in OKLab; of the border's texels, so much has to be of one color
_LEAST_TOLERANCE, _MOST_TOLERANCE = 0.04, 0.2
_LEAST_SHARE = 0.02  # of the texels: less on one side is a blemish, not a group
_BINS = 256
_CLEAR = 0.8  # of the variance, explained by the two groups: a ramp has 0.75, noise less
_LEAST_INSIDE = 1e-3  # of the texels: less inside a thing is not asked about
_MOSTLY_GROUND = 0.9  # of the ground lies as near to its color
_THING_PX = 256  # longer side at which things are counted
_MOST_OF_IT = 0.6  # of what is no ground lies in one piece: dots of a print do not
_AT_RIM = 0.01  # of the outermost texels may be no ground
_FRAMED = 0.9  # of its box: what fills more is a picture in a frame


@dataclass(frozen=True)
class Background:
    """The color of a border as #RRGGBB, and how far from it, in OKLab, still belongs to it.

    ``is_around`` where what is as near to it inside the thing is the thing's own: shade or dark parts, and no hole.
    """

    color: str
    tolerance: float
    is_around: bool = False


@dataclass(frozen=True)
class LightSplit:
    """The lightness, 0..1, between a dark and a light group."""

    threshold: float


def background_of(color: Rgb) -> Background | None:
    """The color that goes around a picture's border, where it is one, and something else is inside.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    Returns
    -------
    background : None where the border is of many colors, or all is of that one
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> leaf = np.ones((32, 32, 3), np.float32)
    >>> leaf[8:24, 8:24] = (0.1, 0.4, 0.1)
    >>> background_of(leaf).color, background_of(leaf[8:24, 8:24])
    ('#ffffff', None)
    """
    lab = oklab_from_linear(as_rgb(color, "color"))
    rows, columns = lab.shape[:2]
    strip = max(1, round(_STRIP * min(rows, columns)))
    inside = np.zeros((rows, columns), bool)
    inside[strip:-strip, strip:-strip] = True
    border = lab[~inside]
    middle = np.median(border, axis=0)
    if (np.linalg.norm(border - middle, axis=-1) < _ALIKE).mean() < _ALIKE_SHARE:
        return None
    apart = np.linalg.norm(lab - middle, axis=-1)
    if not _LEAST_SHARE < (apart > _ALIKE).mean():
        return None
    split = _otsu(apart)
    tolerance = _ALIKE if split is None else split[0]
    mean = color[~inside][np.linalg.norm(border - middle, axis=-1) < _ALIKE].mean(0)
    red, green, blue = encode_srgb_codes(np.asarray(mean, np.float32)[None, None])[0, 0]
    tolerance = round(float(np.clip(tolerance, _LEAST_TOLERANCE, _MOST_TOLERANCE)), 3)
    return Background(f"#{red:02x}{green:02x}{blue:02x}", tolerance, _is_around(apart, tolerance))


def _is_around(apart: np.ndarray, tolerance: float) -> bool:
    """Whether what is near the ground's color without going on to the border differs from it by more than the ground itself."""
    is_near = apart <= tolerance
    outer = reaching_border(is_near)
    inner = apart[is_near & ~outer]
    if inner.size < _LEAST_INSIDE * apart.size or not outer.any():
        return False
    return bool(np.median(inner) > max(_ALIKE / 2, float(np.quantile(apart[outer], _MOSTLY_GROUND))))


def reaching_border(is_meant: np.ndarray) -> np.ndarray:
    """What of a mask (H, W) goes on to the border of the picture.

    Examples
    --------
    >>> reaching_border(np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, 0, 0, 0]], bool)).sum()
    np.int64(1)
    """
    parts = np.asarray(cv2.connectedComponents(is_meant.astype(np.uint8), connectivity=4)[1], np.int32)
    outer = np.unique(_rim(parts))
    return np.isin(np.arange(parts.max() + 1), outer[outer > 0])[parts]


def is_lone_thing(color: Rgb) -> bool:
    """Whether a picture shows one thing on a plain ground: a leaf, a button, a sticker; no pattern and no framed picture.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> y, x = np.mgrid[-1:1:64j, -1:1:64j]
    >>> leaf = np.where(np.hypot(x, y)[..., None] < 0.7, (0.1, 0.4, 0.1), 1).astype(np.float32)
    >>> is_lone_thing(leaf), is_lone_thing(np.tile(leaf, (3, 3, 1)))
    (True, False)
    """
    color = as_rgb(color, "color")
    scale = min(1.0, _THING_PX / max(color.shape[:2]))
    small = floats(cv2.resize(color, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)) if scale < 1 else color
    ground = background_of(small)
    if ground is None:
        return False
    lab = oklab_from_linear(small)
    apart = np.linalg.norm(lab - np.median(_rim(lab), axis=0), axis=-1)
    split, is_thing = _otsu(apart), apart > ground.tolerance
    if split is None or split[1] < _CLEAR or not is_thing.any() or _rim(is_thing).mean() > _AT_RIM:
        return False
    boxes = cv2.connectedComponentsWithStats(is_thing.astype(np.uint8))[2][1:]
    largest = boxes[boxes[:, cv2.CC_STAT_AREA].argmax()]
    fills = largest[cv2.CC_STAT_AREA] / (largest[cv2.CC_STAT_WIDTH] * largest[cv2.CC_STAT_HEIGHT])
    return bool(largest[cv2.CC_STAT_AREA] >= _MOST_OF_IT * is_thing.sum() and fills < _FRAMED)


def _rim(values: np.ndarray) -> np.ndarray:
    return np.concatenate([values[0], values[-1], values[:, 0], values[:, -1]])


def light_split(color: Rgb) -> LightSplit | None:
    """Where a picture is a light and a dark group with little between them; None where it is not.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    References
    ----------
    Otsu 1979.
    Examples
    --------
    >>> lace = np.full((16, 16, 3), 0.02, np.float32)
    >>> lace[::2] = 0.8
    >>> 0.3 < light_split(lace).threshold < 0.9
    True
    >>> ramp = np.linspace(0, 1, 256, dtype=np.float32)[:, None, None] ** 3 * np.ones((1, 16, 3), np.float32)
    >>> light_split(ramp) is None
    True
    """
    found = _otsu(oklab_from_linear(as_rgb(color, "color"))[..., 0])
    return None if found is None or found[1] < _CLEAR else LightSplit(round(float(found[0]), 3))


def _otsu(values: np.ndarray) -> tuple[float, float] | None:
    """The threshold that parts values best, in the middle of the gap it lies in, and the share of variance it explains."""
    counts, ends = np.histogram(values, _BINS)
    share = counts / counts.sum()
    centers = (ends[:-1] + ends[1:]) / 2
    below, sums = np.cumsum(share)[:-1], np.cumsum(share * centers)[:-1]
    mean, variance = float((share * centers).sum()), float(values.var())
    if variance <= 0:
        return None
    with np.errstate(divide="ignore", invalid="ignore"):
        between = np.nan_to_num((mean * below - sums) ** 2 / (below * (1 - below)))
    best = np.flatnonzero(between >= between.max() * (1 - 1e-9))
    at = int(best[len(best) // 2])
    if not _LEAST_SHARE < below[at] < 1 - _LEAST_SHARE:
        return None
    return float(ends[at + 1]), float(between[at]) / variance
