"""What of a photo's detail is noise: the camera's grain and the blocks of a JPEG, size by size."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy import fft

from ..bands import CORES
from ..color import oklab_lightness
from ..raster import Gray, Rgb, as_rgb
from .detail import HANDLES, detail_transfer

__all__ = ["LEFT_OUT", "noise_by_size", "without_noise"]

LEFT_OUT = 0.5  # of the variance of a size of detail: more of it is noise than picture
_FINE = 2  # sizes of detail that may be left out
_LOOK_PX = 1024  # of the middle: a photo is as noisy everywhere
_LEAST_PX = 32
_CORNER = 0.35  # cycles per texel on both axes, from which a lens passes hardly anything
_BLOCK = 8  # texels, of a JPEG
_JUMP = 1.25  # how much more a picture jumps over the borders of blocks than inside from which blocks are seen
_UNIFORM = 12.0  # a step spread evenly over its width has a twelfth of its square as variance


def noise_by_size(photo: Rgb) -> tuple[float, ...]:
    """How much of the variance of each size of detail is noise, 0 to 1, broadest first as the sizes of ``HANDLES`` are.

    Noise is what fills all waves alike: its power is taken from the finest waves on both axes, which a lens hardly passes. Where
    jumps over the borders of 8 × 8 blocks stand out, they count as noise of the sizes that are no broader than two blocks.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light, at the size of its file
    Returns
    -------
    shares : five, of which one under 32 px has none
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> noise_by_size(np.full((64, 64, 3), 0.4, np.float32))
    (0.0, 0.0, 0.0, 0.0, 0.0)
    >>> grain = np.random.default_rng(1).normal(0.4, 0.01, (256, 256, 3)).astype(np.float32)
    >>> noise_by_size(grain)[-1] > 0.8
    True
    """
    photo = as_rgb(photo, "photo")
    rows, columns = (_middle(side) for side in photo.shape[:2])
    width = photo.shape[1]
    lightness = oklab_lightness(photo[rows, columns])
    height, across = lightness.shape
    if min(height, across) < _LEAST_PX:
        return (0.0,) * len(HANDLES)
    window = np.outer(np.hanning(height), np.hanning(across)).astype(np.float32)
    waves = np.asarray(fft.rfft2((lightness - lightness.mean()) * window, workers=CORES))
    power = np.abs(waves) ** 2 / float((window**2).mean())
    fx, fy = np.fft.rfftfreq(across), np.fft.fftfreq(height)
    corner = np.outer(np.abs(fy) > _CORNER, fx > _CORNER)
    per_wave = float(np.median(power[corner])) / np.log(2)  # the median of a chi-square of two degrees is that of its mean
    blocks = _of_blocks(lightness, columns.start, rows.start) * power.size
    shares = []
    for k, size in enumerate(HANDLES):
        passed = detail_transfer((fx * width, fy * width), tuple(float(j == k) for j in range(len(HANDLES)))) ** 2
        whole = float((power * passed).sum())
        noise = per_wave * float(passed.sum())
        if size * width <= 2 * _BLOCK:
            noise += blocks * lightness.size
        shares.append(min(1.0, noise / whole) if whole > 0 else 0.0)
    return tuple(round(float(share), 3) for share in shares)


def without_noise(detail: Sequence[float], shares: Sequence[float]) -> tuple[float, ...]:
    """Weights of sizes of detail in which the finest two weigh nothing where they are mostly noise; broader noise is a picture's.

    Examples
    --------
    >>> without_noise((0.0, 0.7, 1.0, 0.6, 0.25), (0.0, 0.0, 0.1, 0.2, 0.9))
    (0.0, 0.7, 1.0, 0.6, 0.0)
    """
    fine = len(detail) - _FINE
    return tuple(0.0 if k >= fine and shares[k] >= LEFT_OUT else weight for k, weight in enumerate(detail))


def _middle(side: int) -> slice:
    kept = min(side, _LOOK_PX)
    start = (side - kept) // 2
    return slice(start, start + kept)


def _of_blocks(lightness: Gray, left: int, top: int) -> float:
    """Variance of what blocks add to a picture whose first texel lies at ``left``, ``top`` of its file; 0 where none are seen."""
    excess = []
    for axis, start in ((1, left), (0, top)):
        jumps = np.abs(np.diff(lightness, axis=axis)).mean(axis=1 - axis)
        at_border = (np.arange(len(jumps)) + 1 + start) % _BLOCK == 0
        border, inside = float(np.median(jumps[at_border])), float(np.median(jumps[~at_border]))
        excess.append(border - inside if border > _JUMP * inside else 0.0)
    return float(np.mean(np.square(excess))) / _UNIFORM
