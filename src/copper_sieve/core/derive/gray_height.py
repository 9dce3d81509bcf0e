"""Height put together from a gray and noise: a mask raised or sunk, its rim softened, liveliness on top."""

from __future__ import annotations

import cv2
import numpy as np
from pydantic import Field

from ..filters import gaussian, resize
from ..operation import Operation, any_gray
from ..params import Params, control
from ..raster import Edge, Edges, FloatArray, Gray, Joined, Size, as_gray, edges_of, floats

__all__ = ["OPERATIONS", "HeightFromGray", "bumps", "height_from_gray"]

_CELLS = 256  # per width, whatever the size
_SEED = 20


class HeightFromGray(Params):
    """How a gray becomes height."""

    contrast: float = control(0.8, "Contrast", "×", 0, 2, "How far apart black and white lie.")
    offset: float = control(0.0, "Offset", "%", -0.5, 0.5, "Lifts or lowers the whole map.", scale=100)
    rim: float = control(0.004, "Soft rim", "% of width", 0, 0.1, "How gradually black becomes white.", scale=100)
    noise: float = control(0.02, "Noise", "% of rise", 0, 0.3, "A little roughens what is too clean.", scale=100)
    grain: float = control(0.01, "Size of noise", "% of width", 0.004, 0.2, "From one bump to the next, about.", scale=100)
    invert: bool = Field(default=False, title="Black is high", description="Inverts the map: black is high, white is low.")


def bumps(shape: tuple[int, int], grain: float, edges: Edges | Edge) -> FloatArray:
    """Noise of deviation 1, (H, W): the same bumps at every size, wrapping, ``grain`` of the width apart or more.

    Examples
    --------
    >>> bumps((8, 8), 0.01, "wrap").shape
    (8, 8)
    """
    edges = edges_of(edges)
    if isinstance(edges, Joined):  # a tile has its own bumps, whatever is joined to it
        own = bumps((shape[0] - edges.top - edges.bottom, edges.width(shape[1])), grain, "wrap")
        return floats(cv2.copyMakeBorder(own, edges.top, edges.bottom, edges.left, edges.right, cv2.BORDER_WRAP))
    rows = max(1, round(_CELLS * shape[0] / shape[1]))
    cells = np.random.default_rng(_SEED).standard_normal((rows, _CELLS)).astype(np.float32)
    if grain > 2 / _CELLS:
        cells = gaussian(cells, grain / np.pi, "wrap")
        cells /= max(float(cells.std()), 1e-6)
    return resize(cells, Size(shape[1], shape[0]), edges)


def height_from_gray(gray: Gray, edges: Edges | Edge = "wrap", *, params: HeightFromGray | None = None) -> FloatArray:
    """Height (H, W), 0..1 about 0.5, from a gray (H, W), 0..1; white is high unless ``invert``.

    Raises ShapeMismatch where the gray is not (H, W).

    Examples
    --------
    >>> even = np.full((4, 4), 0.5, np.float32)
    >>> bool(np.allclose(height_from_gray(even, params=HeightFromGray(noise=0)), 0.5))
    True
    """
    params = params or HeightFromGray()
    soft = gaussian(as_gray(gray, "gray"), params.rim / np.pi, edges_of(edges))
    contrast = np.float32(-params.contrast if params.invert else params.contrast)
    height = np.float32(0.5 + params.offset) + (soft - np.float32(0.5)) * contrast
    if params.noise > 0:
        height = height + bumps(height.shape, params.grain, edges) * np.float32(params.noise)
    return np.clip(height, 0, 1)


OPERATIONS = (
    Operation(
        "height_from_gray",
        "from a gray and noise",
        height_from_gray,
        HeightFromGray,
        slots=(any_gray("gray"),),
        outputs=("height",),
        facts=("edges",),
        effort=3,
    ),
)
