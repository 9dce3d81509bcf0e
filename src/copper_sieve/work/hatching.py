"""Places of a picture marked by lines across a faint ground, so that shape tells them and not color alone."""

from __future__ import annotations

import numpy as np

__all__ = ["hatched"]

_ALPHA, _FAINT = 205, 90
_STEP = 8  # texels from line to line at 512; a third of it is drawn full


def hatched(where: np.ndarray, color: tuple[int, int, int], *, falling: bool = False) -> np.ndarray:
    """RGBA (H, W, 4), nothing where ``where`` is 0; a share from 0 to 1 is covered the more the larger it is."""
    much = np.asarray(where, np.float32)
    rows, columns = np.indices(much.shape, np.int32)
    step = max(4, _STEP * max(much.shape) // 512)
    is_line = (rows + columns if falling else rows - columns) % step < max(1, step // 3)
    out = np.zeros((*much.shape, 4), np.uint8)
    out[much > 0, :3] = color
    out[..., 3] = np.where(is_line, _ALPHA, _FAINT) * np.where(much < 1, 0.3 + 0.7 * much, 1) * (much > 0)
    return out
