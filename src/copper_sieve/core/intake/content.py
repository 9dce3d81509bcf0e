"""What the pixels say when the name says nothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from ..target.decode import unit_values

__all__ = ["Content", "measure_content"]

_LOOK_PX = 256  # longer side of the copy that is measured
_ALPHA_SETTLED, _CUT_OUT_SHARE = 0.06, 0.6
_SEAM_LINES = 96  # rows and columns that are followed from border to border
_STRONGEST_COUNTS = 0.55
_FLAT_JUMP = 1e-3  # of the range: less than any 8-bit step
_SAME = 2 / 255  # channels closer than this are one gray, as JPEG saves it
_NORMAL_BLUE = 0.7
_NORMAL_NEUTRAL = 0.2  # how far mean red and green of a tangent-space map stray from the middle
_UNIT_WITHIN = 0.12


@dataclass(frozen=True)
class Content:
    """Plain statistics of a picture, on its stored 0..1 scale."""

    is_gray: bool
    is_constant: bool
    mean: tuple[float, ...]
    low: float
    high: float
    unit_share: float  # share of texels whose 2v − 1 has a length near 1
    looks_normal: bool
    seam: tuple[float, float]  # jump across the left-right and top-bottom border over the jump inside; about 1 tiles
    alpha: Literal["none", "constant", "cut-out", "gray"]  # cut-out: most of it is fully there or fully gone


def measure_content(codes: np.ndarray) -> Content:
    """Measure (H, W[, C]) codes of any depth."""
    height, width = codes.shape[:2]
    has_alpha = codes.ndim == 3 and codes.shape[2] in (2, 4)
    color = codes[..., : codes.shape[2] - has_alpha] if codes.ndim == 3 else codes
    step = max(1, max(height, width) // _LOOK_PX)
    small = unit_values(np.ascontiguousarray(color[::step, ::step]))
    small = small[..., None] if small.ndim == 2 else small
    is_gray = small.shape[2] < 3 or float(np.abs(small - small[..., :1]).max()) <= _SAME * 4
    mean = tuple(round(float(v), 4) for v in small.mean((0, 1)))
    vectors = small[..., :3] * 2 - 1
    lengths = np.linalg.norm(vectors, axis=-1)
    unit_share = float((np.abs(lengths - 1) < _UNIT_WITHIN).mean()) if small.shape[2] == 3 else 0.0
    neutral = not is_gray and all(abs(m - 0.5) < _NORMAL_NEUTRAL for m in mean[:2]) and mean[2] > _NORMAL_BLUE
    alpha = codes[..., -1] if has_alpha else None
    return Content(
        is_gray=is_gray,
        is_constant=bool((small == small[:1, :1]).all()) and bool((color == color[:1, :1]).all()),  # the small look first
        mean=mean,
        low=float(small.min()),
        high=float(small.max()),
        unit_share=unit_share,
        looks_normal=neutral and unit_share > 0.5,
        seam=_seams(color),
        alpha=_alpha_kind(alpha),
    )


def _alpha_kind(alpha: np.ndarray | None) -> Literal["none", "constant", "cut-out", "gray"]:
    if alpha is None:
        return "none"
    if (alpha == alpha[0, 0]).all():
        return "constant"
    values = unit_values(np.ascontiguousarray(alpha))
    settled = float(((values < _ALPHA_SETTLED) | (values > 1 - _ALPHA_SETTLED)).mean())
    return "cut-out" if settled >= _CUT_OUT_SHARE else "gray"


def _seams(color: np.ndarray) -> tuple[float, float]:
    """How much larger the jump over the border is than jumps inside: those beside it, and the strongest anywhere.

    The strongest count for a little over half, so that a pattern whose own edge lies on the border still tiles.
    """
    if min(color.shape[:2]) < 16:
        return 1.0, 1.0
    rows, columns = (max(1, n // _SEAM_LINES) for n in color.shape[:2])
    across, down = color[::rows], color[:, ::columns].swapaxes(0, 1)
    return _seam(unit_values(np.ascontiguousarray(across))), _seam(unit_values(np.ascontiguousarray(down)))


def _seam(values: np.ndarray) -> float:
    """The seam between the last and the first column of (N, W) or (N, W, C)."""
    jumps = np.abs(np.diff(values, axis=1)).reshape(len(values), values.shape[1] - 1, -1).mean((0, 2))
    over = float(np.abs(values[:, 0] - values[:, -1]).mean())
    beside, strongest = (jumps[0] + jumps[-1]) / 2, float(np.percentile(jumps, 99))
    return over / max(float(beside), _STRONGEST_COUNTS * float(strongest), _FLAT_JUMP)


def smaller(codes: np.ndarray, longer_px: int) -> np.ndarray:
    """A copy whose longer side is at most ``longer_px``, averaged over area; for thumbnails."""
    height, width = codes.shape[:2]
    scale = longer_px / max(height, width)
    if scale >= 1:
        return codes
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    return cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
