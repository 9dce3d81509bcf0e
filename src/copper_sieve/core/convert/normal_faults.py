"""What else can be wrong with a normal map than its green: axes swapped, x mirrored, height inverted, traces of lossy storing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from ..raster import FloatArray, Gray, floats
from .green import closing, difference, slopes

__all__ = ["HeightVerdict", "against_height", "block_period", "is_swapped", "telling_patch"]

_SWAP_RATIO = 2.0  # swapped back, the better reading must close this much better than the better one of the map as it is
_LEAST_CORRELATION = 0.3
_BLOCK_JUMP = 1.4  # curvature across block borders over that inside of blocks
_BLOCKS = (8, 4)
_LEAST_PX = 8  # in fewer, chance alone makes slopes agree
_LEAST_BLOCKS_PX = 96  # in fewer, a pattern drawn on a grid of eights looks the same
_TELLING_PATCHES = 8
_LONGEST_LOOK_PX = 1024


@dataclass(frozen=True)
class HeightVerdict:
    """How normals, read as Y+, fit the height beside them. ``across`` and ``down`` are correlations of the slopes."""

    verdict: Literal["agrees", "green", "mirrored", "inverted", "unsure"]
    across: float
    down: float


def _correlation(a: FloatArray, b: FloatArray) -> float:
    a, b = a - a.mean(), b - b.mean()
    norm = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum()) / norm if norm > 0 else 0.0


def against_height(normal: np.ndarray, height: Gray) -> HeightVerdict:
    """Compare the slopes of normals with those of a height of the same size, or another that is brought to it.

    Only a height tells x mirrored from green turned, and an inverted height (or normals) from both.

    Parameters
    ----------
    normal : (H, W, 3) codes, or float vectors; read as Y+
    height : (h, w) float
    Examples
    --------
    >>> rows, columns = np.mgrid[:64, :64] * (2 * np.pi / 64)
    >>> bumps = np.sin(rows * 3 + columns * 2) + np.sin(columns * 4 - rows)
    >>> across, down = np.gradient(bumps, axis=1), np.gradient(bumps, axis=0)
    >>> normal = np.dstack([-across, down, np.ones_like(across)])
    >>> [against_height(*pair).verdict for pair in ((normal, bumps), (normal * (1, -1, 1), bumps), (normal, -bumps))]
    ['agrees', 'green', 'inverted']
    """
    p, q = slopes(normal)
    if height.shape != p.shape:
        height = floats(cv2.resize(height, p.shape[::-1], interpolation=cv2.INTER_AREA))
    smooth = floats(cv2.GaussianBlur(height.astype(np.float32), (0, 0), 1))
    down, across = difference(smooth, axis=0), difference(smooth, axis=1)
    x = _correlation(across, floats(cv2.GaussianBlur(p, (0, 0), 1)))
    y = _correlation(down, floats(cv2.GaussianBlur(q, (0, 0), 1)))
    if min(p.shape) < _LEAST_PX or min(abs(x), abs(y)) < _LEAST_CORRELATION:
        return HeightVerdict("unsure", x, y)
    verdicts = {(True, True): "agrees", (True, False): "green", (False, True): "mirrored", (False, False): "inverted"}
    return HeightVerdict(verdicts[x > 0, y > 0], x, y)  # type: ignore[arg-type]


def is_swapped(normal: np.ndarray) -> bool:
    """Whether red holds y and green holds x: only read so do the slopes close.

    A surface whose curvatures are alike along both axes closes either way and is not accused.
    Examples
    --------
    >>> is_swapped(np.broadcast_to(np.float32([0, 0, 1]), (64, 64, 3)))  # what is flat is accused of nothing
    False
    """
    p, q = slopes(normal)
    if min(p.shape) < _LEAST_PX:
        return False
    up, down, answer = closing(-q, -p)
    return answer is not None and _SWAP_RATIO * min(up, down) <= min(closing(p, q)[:2])


def block_period(codes: np.ndarray) -> Literal[4, 8] | None:
    """8 for the traces of JPEG, 4 for those of a block-compressed texture, None where there are none.

    Second differences across the borders of blocks are compared with those inside, on (H, W, C) codes of 8 bits.
    Examples
    --------
    >>> blocks = np.kron(np.random.default_rng(1).integers(0, 255, (16, 16)), np.ones((8, 8))).astype(np.uint8)
    >>> block_period(np.dstack([blocks] * 3)), block_period(np.zeros((128, 128, 3), np.uint8))
    (8, None)
    """
    if codes.dtype != np.uint8 or min(codes.shape[:2]) < _LEAST_BLOCKS_PX:
        return None
    values = codes[:_LONGEST_LOOK_PX, :_LONGEST_LOOK_PX].astype(np.float32)
    values = values if values.ndim == 2 else values[..., :3].mean(-1)
    ratios = {period: min(_block_ratio(values, period), _block_ratio(values.T, period)) for period in _BLOCKS}
    if ratios[4] >= _BLOCK_JUMP and ratios[4] >= ratios[8] * 0.95:
        return 4
    return 8 if ratios[8] >= _BLOCK_JUMP else None


def _block_ratio(values: FloatArray, period: int) -> float:
    jumps = np.abs(values[:, 3:] - 3 * values[:, 2:-1] + 3 * values[:, 1:-2] - values[:, :-3]).mean(0)
    at = (np.arange(jumps.size) + 2) % period  # jumps[k] sits between texels k + 1 and k + 2
    over, inside = jumps[at == 0], jumps[at == period // 2]
    return float(over.mean() / max(float(inside.mean()), 1e-3))


def telling_patch(normal: np.ndarray) -> tuple[float, float, float, float]:
    """The region that says most about green: left, top, right, bottom in shares of width and height.

    It is the one of 8 × 8 patches, grown to twice its side, with the most mixed curvature that both axes agree on.
    Examples
    --------
    >>> normal = np.zeros((64, 64, 3), np.float32)
    >>> normal[..., 2] = 1
    >>> normal[33:39, 33:39, :2] = np.random.default_rng(1).uniform(-0.4, 0.4, (6, 6, 2))
    >>> telling_patch(normal)
    (0.375, 0.375, 0.625, 0.625)
    """
    p, q = (floats(cv2.GaussianBlur(plane, (0, 0), 1)) for plane in slopes(normal))
    a, b = difference(p, axis=0), difference(q, axis=1)
    told = np.abs(a * b)
    patches = cv2.resize(told.astype(np.float32), (_TELLING_PATCHES, _TELLING_PATCHES), interpolation=cv2.INTER_AREA)
    pairs = patches[:-1, :-1] + patches[1:, :-1] + patches[:-1, 1:] + patches[1:, 1:]
    top, left = np.unravel_index(int(pairs.argmax()), pairs.shape)
    side = 2 / _TELLING_PATCHES
    x, y = float(left) / _TELLING_PATCHES, float(top) / _TELLING_PATCHES
    return x, y, min(1.0, x + side), min(1.0, y + side)
