"""How much a picture follows a pattern, and which: from how alike it is to itself some way on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

import numpy as np
from scipy import fft, ndimage

from ..bands import CORES
from ..filters import gaussian
from ..raster import FloatArray

__all__ = ["HAS_LATTICE", "IS_RANDOM", "Lattice", "lattice_of", "likeness", "structure_of"]

IS_RANDOM, HAS_LATTICE = 0.18, 0.25
_BROAD = 0.08  # of the width: broader tones are no pattern
_MIDDLE = 0.05  # of the way from the middle peak's height at which it ends
_AS_GOOD = 0.85  # of the best: the nearest step that is alike so far is the smallest whole one
_ASIDE = 0.18  # tangent of 10 degrees: a step leads across or down, give or take so much
_HOLDS = 0.5  # of the first step's likeness, down to which its multiples make it more exact
_TOO_OBLIQUE = 3.0  # degrees between what the two axes say: it is no grid of right angles
_FARTHEST = 0.45  # of the sides, beyond which too little of the picture lies over itself


def likeness(planes: FloatArray) -> np.ndarray:
    """How alike (H, W, C) is to itself moved by whole texels: 1 for itself, 0 by chance, (H, W) with no move in the middle.

    Unbiased: divided by how much of the picture overlaps.

    References
    ----------
    Wiener-Khinchin; the window is Hann's.
    Examples
    --------
    >>> stripes = np.tile(np.float32([0, 0, 1, 1]), (16, 4))[..., None]
    >>> found = likeness(stripes)
    >>> bool(found[8, 12] > 0.9 > 0 > found[8, 10])
    True
    """
    rows, columns = planes.shape[:2]
    high = np.stack([p - gaussian(np.ascontiguousarray(p), _BROAD, "mirror") for p in np.moveaxis(planes, -1, 0)], -1)
    window = np.outer(np.hanning(rows + 2)[1:-1], np.hanning(columns + 2)[1:-1])
    size = (2 * rows, 2 * columns)

    def over(values: np.ndarray) -> np.ndarray:
        return np.abs(np.asarray(fft.rfft2(values, size, workers=CORES))) ** 2

    power = sum(over(high[..., k] * window) for k in range(high.shape[2]))
    found = fft.fftshift(np.asarray(fft.irfft2(power, size)))[rows // 2 : rows // 2 + rows, columns // 2 : columns // 2 + columns]
    share = fft.fftshift(np.asarray(fft.irfft2(over(window), size)))
    share = share[rows // 2 : rows // 2 + rows, columns // 2 : columns // 2 + columns]
    found = found / np.maximum(share, 1e-3 * share.max())
    return found / max(float(found[rows // 2, columns // 2]), 1e-12)


def structure_of(planes: FloatArray, least_unlike: float) -> float:
    """One number for how much a picture follows a pattern: how alike it is to itself one step on, at best.

    Parameters
    ----------
    planes : (H, W, C) of the color as it is stored
    least_unlike : how unlike its copies are at the best fit, 0..1
    Examples
    --------
    >>> stripes = np.tile(np.float32([0, 0, 1, 1]), (64, 16))[..., None]
    >>> round(structure_of(stripes, 1.0), 1)
    1.0
    """
    found = likeness(planes)
    peak = float(found[_judged(found)].max(initial=0.0))
    return max(peak, 1 - least_unlike, 0.0)


def _judged(found: np.ndarray) -> np.ndarray:
    """The moves that say something about a pattern: past the middle peak, and of which enough lies over itself."""
    rows, columns = found.shape
    middle, _ = cast(tuple[np.ndarray, int], ndimage.label(found > _MIDDLE))
    y, x = np.ogrid[:rows, :columns]
    near = (np.abs(y - rows // 2) < _FARTHEST * rows) & (np.abs(x - columns // 2) < _FARTHEST * columns)
    return near & (middle != middle[rows // 2, columns // 2])


@dataclass(frozen=True)
class Lattice:
    """The steps that a pattern repeats by, in texels, as (right, down); None where an axis has none that can be trusted."""

    across: tuple[float, float] | None
    down: tuple[float, float] | None
    strength: float  # how alike the picture is to itself one step on, 0..1

    @property
    def turned(self) -> float:
        """Degrees, clockwise as seen, that the pattern stands turned by."""
        said = [(np.hypot(*step), angle) for step, angle in self._angles()]
        return float(sum(length * angle for length, angle in said) / sum(length for length, _ in said))

    @property
    def is_oblique(self) -> bool:
        """Whether its two steps are far from a right angle, so that no turn brings both straight."""
        angles = [angle for _, angle in self._angles()]
        return len(angles) == 2 and abs(angles[0] - angles[1]) > _TOO_OBLIQUE

    def _angles(self) -> list[tuple[tuple[float, float], float]]:
        across = [] if self.across is None else [(self.across, float(np.degrees(np.arctan2(self.across[1], self.across[0]))))]
        down = [] if self.down is None else [(self.down, float(np.degrees(np.arctan2(-self.down[0], self.down[1]))))]
        return across + down


def lattice_of(planes: FloatArray) -> Lattice | None:
    """The smallest steps, across and down, that a picture's pattern repeats by; None where none can be trusted.

    Parameters
    ----------
    planes : (H, W, C) of the color as it is stored
    References
    ----------
    Peaks of the autocorrelation, by a parabola over 3 × 3 and made more exact at their multiples.
    Examples
    --------
    >>> dots = np.zeros((96, 96, 1), np.float32)
    >>> dots[::12, ::16] = 1
    >>> found = lattice_of(ndimage.gaussian_filter(dots, (2, 2, 0)))
    >>> [tuple(round(part, 1) + 0.0 for part in step) for step in (found.across, found.down)]
    [(16.0, 0.0), (0.0, 12.0)]
    """
    found = likeness(planes)
    peaks = _judged(found) & (ndimage.maximum_filter(found, 5) == found) & (found >= HAS_LATTICE)
    rows, columns = found.shape
    at = np.argwhere(peaks) - (rows // 2, columns // 2)
    steps: list[tuple[float, float] | None] = []
    best = 0.0
    for along, aside in ((at[:, 1], at[:, 0]), (at[:, 0], at[:, 1])):
        here = at[(along > 0) & (np.abs(aside) <= _ASIDE * along)]
        if not len(here):
            steps.append(None)
            continue
        heights = found[here[:, 0] + rows // 2, here[:, 1] + columns // 2]
        good = here[heights >= _AS_GOOD * heights.max()]
        step = good[int(np.argmin((good**2).sum(1)))]
        best = max(best, float(heights.max()))
        down, right = _exact(found, step)
        steps.append((right, down))
    return Lattice(steps[0], steps[1], best) if any(step is not None for step in steps) else None


def _exact(found: np.ndarray, step: np.ndarray) -> tuple[float, float]:
    """A step (down, right) between texels, by its peak and those of its multiples while they hold."""
    rows, columns = found.shape
    middle = np.array((rows // 2, columns // 2))
    least = _HOLDS * found[tuple(middle + step)]
    exact, times = _peak(found, middle + step) - middle, 1
    while True:
        near = np.rint(exact * (times + 1)).astype(int)
        if (np.abs(near) >= _FARTHEST * np.array((rows, columns))).any():
            break
        top, left = middle + near - 2
        around = found[top : top + 5, left : left + 5]
        place = np.array(np.unravel_index(int(np.argmax(around)), around.shape)) + (top, left)
        if found[tuple(place)] < least or (np.abs(place - middle - near) == 2).any():
            break
        times += 1
        exact = (_peak(found, place) - middle) / times
    return float(exact[0]), float(exact[1])


def _peak(found: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The top of a parabola through 3 × 3 values around a peak."""
    y, x = at
    low, here, high = found[y - 1, x], found[y, x], found[y + 1, x]
    left, right = found[y, x - 1], found[y, x + 1]
    bends = np.array([low - 2 * here + high, left - 2 * here + right])
    tilts = np.array([high - low, right - left]) / 2
    return at - np.where(bends < 0, np.clip(tilts / np.minimum(bends, -1e-12), -1, 1), 0)
