"""What looks like a few spots. Of a mask of which one word alone was said, that much is meant and no more."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..filters import Spectrum
from ..raster import FloatArray
from .detail import HANDLES, detail_transfer

__all__ = ["Alike", "alike_spots", "nearness"]

_FINEST = tuple(float(size == HANDLES[-1]) for size in HANDLES)
_GRAIN = 0.3  # of the finest detail: a spot is hardly known by its grain
_WEIGHTS = (0.5, 1.0, 1.0)  # of OKLab: light and shade lie on one material
_OF_THE_PICTURE = 0.4  # of how far the picture's texels are from the spots, root mean square: so far is alike
_LEAST, _MOST = 0.005, 0.12  # of OKLab
_APART = 0.25  # of the reach: spots that are nearer to each other count as one
_LEAST_SOFTNESS = 1e-3


@dataclass(frozen=True)
class Alike:
    """What spots look like, and the ``value`` that was said of them.

    ``colors`` (spots, 3) are in OKLab with lightness and grain held for little; what is within ``reach`` of one is alike.
    """

    value: float
    colors: FloatArray
    reach: float


def _seen(spectra: Sequence[Spectrum]) -> list[FloatArray]:
    """L, a and b as they are compared, each (H, W)."""
    return [
        axis.filtered(np.float32(weight) * (1 - np.float32(1 - _GRAIN) * detail_transfer(axis.frequencies(), _FINEST)))
        for axis, weight in zip(spectra, _WEIGHTS)
    ]


def alike_spots(spectra: Sequence[Spectrum], places: Sequence[tuple[int, int]], value: float) -> Alike:
    """What the spots in these rows and columns look like, of which ``value`` was said, by the spectra of a picture's OKLab.

    Examples
    --------
    >>> from .pick_fit import color_spectra
    >>> halves = np.zeros((8, 8, 3), np.float32)
    >>> halves[:, :4] = 0.1, 0.3, 0.6
    >>> found = alike_spots(color_spectra(halves, "mirror"), [(0, 1), (3, 1)], 1.0)
    >>> found.colors.shape, 0.005 < found.reach <= 0.12
    ((1, 3), True)
    """
    seen = np.stack(_seen(spectra), -1)
    spots = np.array([seen[place] for place in places], np.float32)
    far = float(seen.var((0, 1)).sum() + np.square(spots - seen.mean((0, 1))).sum(1).mean())
    reach = min(max(_OF_THE_PICTURE * far**0.5, _LEAST), _MOST)
    kept = [spots[0]]
    for spot in spots[1:]:
        if np.square(spot - kept).sum(1).min() > (_APART * reach) ** 2:
            kept.append(spot)
    return Alike(value, np.array(kept, np.float32), reach)


def _near(
    first: int, last: int, planes: Sequence[FloatArray], colors: FloatArray, reach: float, rim: float, out: FloatArray
) -> None:
    apart = np.full(out[first:last].shape, np.inf, np.float32)
    for color in colors:
        square = np.zeros_like(apart)
        for plane, value in zip(planes, color):
            square += np.square(plane[first:last] - value)
        np.minimum(apart, square, out=apart)
    out[first:last] = np.clip((np.float32(reach) - np.sqrt(apart)) / np.float32(rim) + np.float32(0.5), 0, 1)


def nearness(spectra: Sequence[Spectrum], alike: Alike, softness: float, cancel: Cancel = NEVER) -> FloatArray:
    """1 where a picture looks like one of the spots, 0 elsewhere, and between them a rim ``softness`` of the reach wide; (H, W).

    Examples
    --------
    >>> from .pick_fit import color_spectra
    >>> halves = np.zeros((8, 8, 3), np.float32)
    >>> halves[:, :4] = 0.1, 0.3, 0.6
    >>> spectra = color_spectra(halves, "mirror")
    >>> nearness(spectra, alike_spots(spectra, [(3, 1)], 1.0), 0.35)[0].round(1).tolist()
    [1.0, 1.0, 1.0, 1.0, 0.0, 0.0, 0.0, 0.0]
    """
    planes = _seen(spectra)
    out = np.empty_like(planes[0])
    rim = max(softness, _LEAST_SOFTNESS) * alike.reach
    run_rows(_near, *out.shape, cancel, planes, alike.colors, alike.reach, rim, out)
    return out
