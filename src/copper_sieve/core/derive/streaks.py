"""Whether a picture looks like the grain of wood: brown streaks that run side by side."""

from __future__ import annotations

import numpy as np

from ..color import oklab_from_linear
from ..filters import gaussian
from ..raster import Edge, Edges, Rgb, as_rgb

__all__ = ["looks_like_wood"]

_HUES = (42.0, 90.0)  # degrees in OKLab: from mahogany to maple
_LEAST_CHROMA = 0.035  # stone and bark have less
_LEAST_COHERENCE = 0.75  # of wood, and of what a loom or the wind makes; cork, chipboard and bark have 0.6 at most
_FINE, _AROUND = 0.0024, 0.012  # of the width: noise is left out; a streak and those beside it


def looks_like_wood(color: Rgb, edges: Edges | Edge = "wrap") -> bool:
    """Whether (H, W, 3) linear color is brown on the whole, and its detail runs one way wherever it is looked at closely.

    Raises ShapeMismatch where it is not (H, W, 3).

    References
    ----------
    Coherence of the structure tensor: Bigün & Granlund 1987.

    Examples
    --------
    >>> streaks = 0.5 + 0.1 * np.sin(np.arange(96) / 3)[None, :, None] * np.ones((96, 1, 3))
    >>> oak, slate = np.array([0.62, 0.42, 0.22]), np.array([0.30, 0.31, 0.33])
    >>> looks_like_wood((streaks * oak).astype(np.float32)), looks_like_wood((streaks * slate).astype(np.float32))
    (True, False)
    """
    lab = oklab_from_linear(as_rgb(color, "color"))
    a, b = (float(lab[..., k].mean()) for k in (1, 2))
    is_brown = np.hypot(a, b) >= _LEAST_CHROMA and _HUES[0] <= np.degrees(np.arctan2(b, a)) <= _HUES[1]
    return bool(is_brown and _coherence(np.ascontiguousarray(lab[..., 0]), edges) >= _LEAST_COHERENCE)


def _coherence(lightness: np.ndarray, edges: Edges | Edge) -> float:
    """How much of the gradients around a texel agrees on a direction, 0..1, where there are some."""
    down, across = np.gradient(gaussian(lightness, _FINE, edges))
    along, over, mixed = (gaussian(product, _AROUND, edges) for product in (across * across, down * down, across * down))
    energy = float((along + over).mean())
    return float(np.hypot(along - over, 2 * mixed).mean()) / energy if energy > 0 else 0.0
