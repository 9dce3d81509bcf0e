"""Which way is green? Slopes of a true surface close on themselves; with green misread they do not."""

from __future__ import annotations

from dataclasses import astuple, dataclass
from typing import Literal

import cv2
import numpy as np

from ..raster import FloatArray, Gray, floats

__all__ = ["LEAST_RATIO", "WhichGreen", "closing", "difference", "slopes", "which_green"]

LEAST_RATIO = 1.2  # no map of 810 known ones was answered wrongly from here up
LEAST_VOTE = 2.5  # standard deviations of the vote of patches
_SIZES, _WIDER = (1.0, 2.0), 4.0  # of the Gaussian, in texels
_REACH = 1.5  # sigmas within which empty ground still shows
_NEARLY_FLAT = 3 / 255  # empty ground after lossy storing
_GROUND_PX, _LEAST_GROUND = 5, 0.08  # empty ground between islands: squares of so many texels, on so much of the map
_PATCHES = 16
_ENOUGH_PX = 512
_LEAST_SLOPE = 1 / 255  # an 8-bit flat may be off by half a code; under this nothing can be told
_FACING_IN = -0.3  # z of what is no slope, as where a map is left black
_STEEPEST = 0.05  # z below which a slope is no longer trusted
_FLAT = np.float32(1.01 / 255)  # 128 of 8 bits is 1 / 255, but for what float32 rounds


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


def which_green(normal: np.ndarray, height: Gray | None = None, *, is_worn: bool = False) -> WhichGreen:
    """Tell Y+ from Y− by the curl of the slopes, at two sizes, confirmed by a vote of patches.

    Parameters
    ----------
    normal : (H, W, 3) uint8 or uint16 codes, or float vectors
    height : (H, W) float, optional: its gradient then settles what the curl leaves open
    is_worn : the map shows blocks of lossy storing, so a wider size is asked as well
    Notes
    -----
    With p = -nx/nz and q = ny/nz (read as Y+, rows downwards) a surface has dp/drow = dq/dx; read wrongly the sign of one
    side turns. Flat, one-dimensional and separable surfaces cannot be told from the map alone.
    Examples
    --------
    >>> rows, columns = np.mgrid[:64, :64] * (2 * np.pi / 64)
    >>> bumps = np.sin(rows * 3 + columns * 2) + np.sin(columns * 4 - rows)
    >>> across, down = np.gradient(bumps, axis=1), np.gradient(bumps, axis=0)
    >>> up = np.dstack([-across, down, np.ones_like(across)])
    >>> which_green(up).answer, which_green(up * (1, -1, 1)).answer
    ('up', 'down')
    """
    rows, columns = normal.shape[:2]
    if min(rows, columns) >= 2 * _ENOUGH_PX:  # the middle of a large map tells as well; the whole is asked when it does not
        top, left = (rows - _ENOUGH_PX) // 2, (columns - _ENOUGH_PX) // 2
        middle = which_green(normal[top : top + _ENOUGH_PX, left : left + _ENOUGH_PX], is_worn=is_worn)
        if middle.answer != "unsure":
            return middle
    p, q = slopes(normal)
    if min(p.shape) < 8 or max(float(p.std()), float(q.std())) < _LEAST_SLOPE:
        return WhichGreen("unsure", 0.0, 1.0, 1.0, "The map is too flat to tell.")
    up, down, answer = closing(p, q, is_worn=is_worn)
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


Compared = tuple[float, float, float]  # residual read as Y+, as Y−, and the patches' vote


def closing(p: Gray, q: Gray, *, is_worn: bool = False) -> tuple[float, float, Literal["up", "down"] | None]:
    """Residuals of both readings at the size that tells more, and the answer when ratio, sizes and vote agree.

    ``is_worn`` asks a wider size where these two leave it open, as noise of blocks or rims of islands may drown them.
    Examples
    --------
    >>> rows, columns = np.mgrid[:64, :64] * (2 * np.pi / 64)
    >>> bumps = np.sin(rows * 3 + columns * 2) + np.sin(columns * 4 - rows)
    >>> closing(np.gradient(bumps, axis=1), np.gradient(bumps, axis=0))[2]
    'up'
    """
    content = _content(p, q)

    def at(sigma: float) -> Compared:
        inside = None if content is None else _inside(content, sigma)
        smooth_p, smooth_q = (floats(cv2.GaussianBlur(plane, (0, 0), sigma)) for plane in (p, q))
        return _compare(smooth_p, smooth_q, inside)

    sizes = [at(sigma) for sigma in _SIZES]
    best = max(sizes, key=_ratio)
    signs = {_sign(size) for size in sizes if _ratio(size) >= LEAST_RATIO}
    if signs == {np.sign(best[2])} and abs(best[2]) >= LEAST_VOTE:
        return best[0], best[1], "up" if _sign(best) > 0 else "down"
    if not is_worn and content is None:
        return best[0], best[1], None
    wider = at(_WIDER)
    signs |= {np.sign(vote) for *_, vote in sizes if abs(vote) >= LEAST_VOTE}
    if (
        _ratio(wider) < LEAST_RATIO
        or abs(wider[2]) < LEAST_VOTE
        or not signs <= {_sign(wider)}
        or np.sign(wider[2]) != _sign(wider)
    ):
        return best[0], best[1], None
    return wider[0], wider[1], "up" if _sign(wider) > 0 else "down"


def _ratio(size: Compared) -> float:
    return max(size[:2]) / max(min(size[:2]), 1e-9)


def _sign(size: Compared) -> float:
    """1 where the slopes close better as Y+."""
    return float(np.sign(size[1] - size[0]))


def _content(p: Gray, q: Gray) -> np.ndarray | None:
    """Where a map of islands holds anything, (H, W) bool; None where it has no empty ground between them."""
    lies = np.maximum(np.abs(p), np.abs(q)) > _NEARLY_FLAT
    ground = cv2.erode((~lies).astype(np.uint8), np.ones((_GROUND_PX, _GROUND_PX), np.uint8))
    return lies if _LEAST_GROUND < float(ground.mean()) < 1 - _LEAST_GROUND else None


def _inside(content: np.ndarray, sigma: float) -> np.ndarray:
    """Texels whose blur reaches no empty ground, without the border that has no differences."""
    side = 2 * int(np.ceil(_REACH * sigma)) + 1
    return cv2.erode(content.astype(np.uint8), np.ones((side, side), np.uint8))[1:-1, 1:-1] > 0


def difference(plane: Gray, axis: int) -> FloatArray:
    """Central difference per texel of (H, W) along an axis; zero where the axis is one texel long.

    Examples
    --------
    >>> difference(np.float32([[0, 1, 4]]), axis=1).tolist()
    [[1.0, 2.0, 3.0]]
    >>> difference(np.float32([[0, 1, 4]]), axis=0).tolist()
    [[0.0, 0.0, 0.0]]
    """
    return np.gradient(plane, axis=axis) if plane.shape[axis] > 1 else np.zeros_like(plane)


def slopes(normal: np.ndarray) -> tuple[FloatArray, FloatArray]:
    """dh/dx and dh/drow per texel, read as Y+, of (H, W, 3) codes or vectors. 128 of 8 bits, and what faces inward, is flat.

    Examples
    --------
    >>> p, q = slopes(np.float32([[[0.6, 0, 0.8]]]))
    >>> p.round(2).tolist(), q.round(2).tolist()
    ([[-0.75]], [[0.0]])
    """
    x, y, z = (np.ascontiguousarray(normal[..., k]).astype(np.float32, copy=False) for k in range(3))
    if normal.dtype.kind == "u":
        per_code = np.float32(2 / np.iinfo(normal.dtype).max)
        x, y, z = (plane * per_code - 1 for plane in (x, y, z))
        x, y = (np.where(np.abs(plane) <= _FLAT, np.float32(0), plane) for plane in (x, y))
    away = z < _FACING_IN
    x, y = (np.where(away, np.float32(0), plane) for plane in (x, y))
    z = np.maximum(z, _STEEPEST)
    return -x / z, y / z


def _compare(p: Gray, q: Gray, inside: np.ndarray | None = None) -> tuple[float, float, float]:
    """Residual read as Y+, as Y−, and the patches' vote (positive for Y+), ``inside`` of islands where there are some."""
    dp = (p[2:, 1:-1] - p[:-2, 1:-1]) / 2
    dq = (q[1:-1, 2:] - q[1:-1, :-2]) / 2
    if inside is not None and inside.any():
        dp, dq = dp * inside, dq * inside
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


def _by_height(p: Gray, q: Gray, height: Gray, up: float, down: float) -> WhichGreen:
    if height.shape != p.shape:
        height = floats(cv2.resize(height, p.shape[::-1], interpolation=cv2.INTER_LINEAR))
    gy = difference(height.astype(np.float32), axis=0)
    across = float(np.corrcoef(gy.ravel(), q.ravel())[0, 1]) if gy.std() > 0 and q.std() > 0 else 0.0
    if abs(across) < 0.3:
        return WhichGreen("unsure", 0.0, up, down, "Neither the slopes nor the height settle it.")
    answer = "up" if across > 0 else "down"
    return WhichGreen(answer, abs(across), up, down, "The height that came along rises that way.")
