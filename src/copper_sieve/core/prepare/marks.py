"""Marks that lie over a picture again and again, exactly alike, as those of a watermark."""

from __future__ import annotations

import cv2
import numpy as np
from scipy import fft, ndimage

from ..bands import CORES
from ..filters import gaussian
from ..raster import Gray, floats

__all__ = ["marks_step"]

_LEAST = 96  # texels of a side: in less there is no room for marks that come again
_FINE = 2.0  # texels: softer tones are no edges of letters
_NEIGHBORS = 15  # frequencies over which a spectrum is evened
_NEAREST, _FARTHEST = 0.04, 0.45  # of the sides: how far apart places are compared
_FARTHEST_STEP = 0.25  # of the sides: marks farther apart do not come often enough to tell
_ALIKE = 0.04  # of the evened detail that comes again; materials of twelve kinds have 0.03 at most
_STANDS_OUT = 60.0  # times as much as elsewhere
_AGAIN = 0.5  # of it at twice the step, for as much of the picture as meets itself there
_THINNED = 3  # one row and one column of so many, for a median
_BLOCK = 8  # texels of a JPEG's blocks
_STEPPED = 0.15  # of the mean change to the next row: where half of all rows change less, a picture stands in blocks
_STRONG, _MOST = 0.05, 0.75  # spread, and share of the picture's own: what comes again and is more than both is no faint mark
_BROAD = 0.125  # of the width: tones broader than that are light
_FAINT, _PATTERN = 0.03, 0.35  # of the detail as it is: less is what a JPEG's blocks leave, more is the pattern of a material


def marks_step(gray: Gray) -> tuple[int, int] | None:
    """The step (right, down), in texels, by which faint marks come again over a picture; None where none are found.

    Nothing of a material comes again to the texel, and what a machine wove does in all of its detail, not in a part of it; what a
    machine punched does in nearly all of its tones.

    Parameters
    ----------
    gray : (H, W), as it is stored, of which marks were laid over it with the same step everywhere

    References
    ----------
    Autocorrelation by Wiener-Khinchin of detail whose spectrum is evened, so that only what repeats exactly is left of it.

    Examples
    --------
    >>> rng = np.random.default_rng(1)
    >>> sand = ndimage.gaussian_filter(rng.normal(size=(256, 256)), 1).astype(np.float32)
    >>> letters = np.tile(np.float32(rng.random((64, 64)) > 0.9), (4, 4))
    >>> marks_step(sand), marks_step(sand + letters / 4)
    (None, (0, 64))
    """
    rows, columns = gray.shape
    if min(rows, columns) < _LEAST or _is_stepped(gray, 0) or _is_stepped(gray, 1):
        return None
    detail = gray - floats(cv2.GaussianBlur(gray, (0, 0), _FINE, borderType=cv2.BORDER_REFLECT))
    detail /= np.abs(detail) + 2 * np.float32(_median(np.abs(detail)) + 1e-6)  # strong edges count like faint ones
    detail -= detail.mean()
    detail *= np.hanning(rows + 2)[1:-1, None].astype(np.float32)
    detail *= np.hanning(columns + 2)[1:-1].astype(np.float32)
    power = np.abs(np.asarray(fft.rfft2(detail, workers=CORES))) ** 2
    around = ndimage.uniform_filter1d(ndimage.uniform_filter1d(power, _NEIGHBORS, 0, mode="wrap"), _NEIGHBORS, 1, mode="mirror")
    evened = _alike(power / (around + around.max() * 1e-9), gray.shape)
    judged = _is_judged(rows, columns)
    found = np.where(judged & _is_near(rows, columns), evened, 0)
    down, right = np.unravel_index(int(found.argmax()), found.shape)
    most = found[down, right]
    if most < _ALIKE:
        return None
    alike = evened[judged & _kin(int(down), rows)[:, None] & _kin(int(right), columns)]
    if most < _STANDS_OUT * (float(np.median(np.abs(alike))) if alike.size else np.inf):
        return None
    if not _FAINT <= _alike(power, gray.shape)[down, right] < _PATTERN:
        return None
    step = [int(at) - side if at > side // 2 else int(at) for at, side in ((right, columns), (down, rows))]
    there, here = (_overlap(times * step[0] / columns) * _overlap(times * step[1] / rows) for times in (2, 1))
    if evened[2 * down % rows, 2 * right % columns] * here < _AGAIN * most * there:
        return None  # a place that was painted over with another comes again once; marks do at twice the step as well
    if _carries(gray, step[0], step[1]):
        return None
    return (step[0], step[1]) if (step[1], step[0]) > (0, 0) else (-step[0], -step[1])


def _median(values: np.ndarray) -> float:
    """Of one texel in nine: enough of a picture to tell."""
    return float(np.median(values[::_THINNED, ::_THINNED]))


def _is_judged(rows: int, columns: int) -> np.ndarray:
    """Moves, down and right, that are neither so short that a material is alike there, nor so long that little overlaps."""
    y, x = (np.abs(fft.fftfreq(side)).astype(np.float32) for side in (rows, columns))
    far = (y[:, None] * rows) ** 2 + (x * columns) ** 2 > (_NEAREST * min(rows, columns)) ** 2
    return far & (y[:, None] < _FARTHEST) & (x < _FARTHEST)


def _is_near(rows: int, columns: int) -> np.ndarray:
    """Moves, down and right, that a picture has room for four times."""
    y, x = (np.abs(fft.fftfreq(side)) <= _FARTHEST_STEP for side in (rows, columns))
    return y[:, None] & x


def _overlap(move: float) -> float:
    """How much of a Hann window meets itself moved by that share of its length, of what it does in place."""
    u, turn = abs(move), 2 * np.pi * abs(move)
    return float(((1 - u) * (2 + np.cos(turn)) + 3 * np.sin(turn) / (2 * np.pi)) / 3)


def _carries(gray: Gray, right: int, down: int) -> bool:
    """Whether what comes again at that step is the picture, and nothing faint over it: punched holes, treads."""
    tones = gray - gaussian(gray, _BROAD, "mirror")
    here, there = (_rest(_rest(tones, sign * down), sign * right, 1) for sign in (1, -1))
    again = float(((here - here.mean()) * (there - there.mean())).mean())
    return again > max(_STRONG**2, _MOST * float(tones.var()))


def _rest(values: np.ndarray, step: int, axis: int = 0) -> np.ndarray:
    """What is left behind the first ``step`` rows (columns on axis 1), before the last where it is below 0."""
    return np.moveaxis(np.moveaxis(values, axis, 0)[step:] if step >= 0 else np.moveaxis(values, axis, 0)[:step], 0, axis)


def _is_stepped(gray: Gray, axis: int) -> bool:
    """Whether most rows (or columns) are as the one before: enlarged texel by texel. Blocks lie alike wherever they do."""
    changes = np.abs(np.diff(gray, axis=axis)).mean(1 - axis)
    return float(np.median(changes)) < _STEPPED * float(changes.mean())


def _kin(move: int, side: int) -> np.ndarray:
    """Moves that blocks make alike if they make this one so: every eighth, or all others."""
    moves = np.arange(side)
    is_back = moves > side // 2
    moves = np.where(is_back, side - moves, moves)
    return (moves % _BLOCK == 0) == (min(move, side - move) % _BLOCK == 0)


def _alike(power: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
    """How alike what has this spectrum is to itself moved, 1 where it is not."""
    found = np.asarray(fft.irfft2(power, shape, workers=CORES))
    return found / max(float(found[0, 0]), 1e-12)
