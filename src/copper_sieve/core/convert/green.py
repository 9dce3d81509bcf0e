"""Which way is green? Slopes of a true surface close on themselves; with green misread they do not."""

from __future__ import annotations

from dataclasses import astuple, dataclass
from typing import Literal

import cv2
import numpy as np

from ..raster import FloatArray

__all__ = ["LEAST_RATIO", "WhichGreen", "closing", "slopes", "which_green"]

LEAST_RATIO = 1.2  # no map of 810 known ones was answered wrongly from here up
LEAST_VOTE = 2.5  # standard deviations of the vote of patches
_PATCHES = 16
_ENOUGH_PX = 512
_LEAST_SLOPE = 1 / 255  # an 8-bit flat may be off by half a code; under this nothing can be told
_STEEPEST = 0.05  # z below which a slope is no longer trusted


@dataclass(frozen=True)
class WhichGreen:
    """``ratio_up`` and ``ratio_down`` say how badly the slopes fail to close in each reading; smaller is right."""

    answer: Literal["up", "down", "unsure"]
    confidence: float
    ratio_up: float
    ratio_down: float
    reason: str

    def __iter__(self):
        return iter(astuple(self))


def which_green(normal: np.ndarray, height: FloatArray | None = None) -> WhichGreen:
    """Tell Y+ from Y− by the curl of the slopes, at two sizes, confirmed by a vote of patches.

    Parameters
    ----------
    normal : (H, W, 3) uint8 or uint16 codes, or float vectors
    height : (H, W) float, optional: its gradient then settles what the curl leaves open
    Notes
    -----
    With p = -nx/nz and q = ny/nz (read as Y+, rows downwards) a surface has dp/drow = dq/dx; read wrongly the sign of one
    side turns. Flat, one-dimensional and separable surfaces cannot be told from the map alone.
    """
    rows, columns = normal.shape[:2]
    if min(rows, columns) >= 2 * _ENOUGH_PX:  # the middle of a large map tells as well; the whole is asked when it does not
        top, left = (rows - _ENOUGH_PX) // 2, (columns - _ENOUGH_PX) // 2
        middle = which_green(normal[top : top + _ENOUGH_PX, left : left + _ENOUGH_PX])
        if middle.answer != "unsure":
            return middle
    p, q = slopes(normal)
    if min(p.shape) < 8 or max(float(p.std()), float(q.std())) < _LEAST_SLOPE:
        return WhichGreen("unsure", 0.0, 1.0, 1.0, "The map is too flat to tell.")
    up, down, answer = closing(p, q)
    ratio = max(up, down) / max(min(up, down), 1e-9)
    if answer is not None:
        confidence = float(1 - 0.5 * (LEAST_RATIO / ratio) ** 2)
        shown = {"up": "Y+", "down": "Y−"}
        other = "down" if answer == "up" else "up"
        reason = f"Read as {shown[answer]} the slopes close {ratio:.1f} × better than as {shown[other]}."
        return WhichGreen(answer, confidence, up, down, reason)
    if height is not None:
        return _by_height(p, q, height, up, down)
    return WhichGreen("unsure", 0.0, up, down, "Both readings fit about equally well.")


def closing(p: FloatArray, q: FloatArray) -> tuple[float, float, Literal["up", "down"] | None]:
    """Residuals of both readings at the size that tells more, and the answer when ratio, sizes and vote agree."""
    sizes = [_compare(cv2.GaussianBlur(p, (0, 0), s), cv2.GaussianBlur(q, (0, 0), s)) for s in (1.0, 2.0)]
    up, down, vote = max(sizes, key=lambda s: max(s[0], s[1]) / max(min(s[0], s[1]), 1e-9))
    ratio = max(up, down) / max(min(up, down), 1e-9)
    signs = {np.sign(d - u) for u, d, _ in sizes if max(u, d) / max(min(u, d), 1e-9) >= LEAST_RATIO}
    agreed = len(signs) == 1 and abs(vote) >= LEAST_VOTE and np.sign(vote) in signs
    if ratio < LEAST_RATIO or not agreed:
        return up, down, None
    return up, down, "up" if down > up else "down"


def slopes(normal: np.ndarray) -> tuple[FloatArray, FloatArray]:
    """dh/dx and dh/drow per texel, read as Y+, of (H, W, 3) codes or vectors; 128 of 8 bits counts as flat."""
    vectors = normal.astype(np.float32)
    if normal.dtype.kind == "u":
        top = np.iinfo(normal.dtype).max
        vectors = vectors * np.float32(2 / top) - 1
        xy = vectors[..., :2]
        xy[np.abs(xy) <= 1 / 255] = 0
    z = np.maximum(vectors[..., 2], _STEEPEST)
    return -vectors[..., 0] / z, vectors[..., 1] / z


def _compare(p: FloatArray, q: FloatArray) -> tuple[float, float, float]:
    """Residual read as Y+, as Y−, and the patches' vote (positive for Y+)."""
    dp = (p[2:, 1:-1] - p[:-2, 1:-1]) / 2
    dq = (q[1:-1, 2:] - q[1:-1, :-2]) / 2
    minus, plus = float(np.abs(dp - dq).mean()), float(np.abs(dp + dq).mean())
    scale = max(minus + plus, 1e-12)
    both, energy = _patch_sums(dp * dq), np.sqrt(_patch_sums(dp * dp) * _patch_sums(dq * dq))
    s = both / np.sqrt(np.maximum(energy, 1e-30))  # a patch's correlation, weighed by the root of its energy
    vote = float(s.sum() / np.sqrt((s * s).sum())) if (s * s).sum() > 0 else 0.0
    return 2 * minus / scale, 2 * plus / scale, vote


def _patch_sums(values: FloatArray) -> np.ndarray:
    """Sums over 16 × 16 patches of (H, W); up to fifteen rows and columns at the end stay out."""
    rows, columns = (max(1, n // _PATCHES) for n in values.shape)
    kept = values[: rows * min(_PATCHES, values.shape[0]), : columns * min(_PATCHES, values.shape[1])]
    tall = np.add.reduceat(kept, np.arange(0, kept.shape[0], rows), axis=0)
    return np.add.reduceat(tall, np.arange(0, kept.shape[1], columns), axis=1).astype(np.float64)


def _by_height(p: FloatArray, q: FloatArray, height: FloatArray, up: float, down: float) -> WhichGreen:
    if height.shape != p.shape:
        height = cv2.resize(height, p.shape[::-1], interpolation=cv2.INTER_LINEAR)
    gy = np.gradient(height.astype(np.float32), axis=0)
    across = float(np.corrcoef(gy.ravel(), q.ravel())[0, 1]) if gy.std() > 0 and q.std() > 0 else 0.0
    if abs(across) < 0.3:
        return WhichGreen("unsure", 0.0, up, down, "Neither the slopes nor the height settle it.")
    answer = "up" if across > 0 else "down"
    return WhichGreen(answer, abs(across), up, down, "The height that came along rises that way.")
