"""What is laid over a map once it is made, and before anything is made of it: noise, then strokes."""

from __future__ import annotations

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..errors import RecipeInvalid
from ..quantities import Quantity
from ..raster import Edges, FloatArray
from ..value import Value
from .noise import AddedNoise, leaning_with_noise, with_noise
from .strokes import Brushed, brushed

__all__ = ["Touch", "may_be_touched", "may_get_noise", "touched"]


class Touch(Value):
    """Noise and strokes over one map."""

    noise: AddedNoise | None = None
    strokes: tuple[Brushed, ...] = Field(default=(), max_length=500)

    @property
    def is_any(self) -> bool:
        """Whether it changes anything."""
        return (self.noise is not None and self.noise.amount > 0) or any(stroke.is_on for stroke in self.strokes)

    @property
    def before_last(self) -> Touch:
        """Without the last stroke."""
        return self.model_copy(update={"strokes": self.strokes[:-1]})

    def at(self, tile: int) -> Touch:
        """As one tile of a set sees it."""
        return self.model_copy(update={"strokes": tuple(s for s in self.strokes if s.tile in (None, tile))})


def may_be_touched(row: Quantity) -> bool:
    """Whether maps of a quantity can be painted: grays and colors, not vectors.

    Examples
    --------
    >>> from ..quantities import quantity
    >>> may_be_touched(quantity("base_color")), may_be_touched(quantity("normal"))
    (True, False)
    """
    return row.channels == 1 or row.color == "srgb"


def may_get_noise(row: Quantity) -> bool:
    """Whether maps of a quantity can get noise: grays by their values, normals by their slopes.

    Examples
    --------
    >>> from ..quantities import quantity
    >>> may_get_noise(quantity("roughness")), may_get_noise(quantity("normal")), may_get_noise(quantity("base_color"))
    (True, True, False)
    """
    return row.channels == 1 or row.key == "normal"


def touched(
    values: FloatArray,
    row: Quantity,
    touch: Touch,
    edges: Edges,
    seed: int = 0,
    *,
    tile: int | None = None,
    before: FloatArray | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """A map of a quantity with what is laid over it, within its range; ``tile`` is the UDIM number of the one it is of.

    ``before`` is the same with all strokes but the last, where that is known: painting goes on from it.

    Raises RecipeInvalid for strokes over vectors, and noise over colors.

    Examples
    --------
    >>> from ..quantities import quantity
    >>> flat = np.full((8, 8), 0.5, np.float32)
    >>> dark = Touch(strokes=(Brushed(points=((0.5, 0.5),), radius=0.2, value=0.0),))
    >>> float(touched(flat, quantity("roughness"), dark, Edges()).min())
    0.0
    """
    if (touch.strokes and not may_be_touched(row)) or (touch.noise is not None and not may_get_noise(row)):
        raise RecipeInvalid(f"{row.title.lower()} cannot be painted or get such noise: mix it with another map instead.")
    if touch.noise is not None and row.channels == 3:
        return leaning_with_noise(values, touch.noise, seed, tile=tile, cancel=cancel)
    is_shown = before is None or touch.strokes[-1].way == "erase"  # else what lies under the strokes is in ``before``
    if touch.noise is not None and is_shown:
        noisy = with_noise(values, touch.noise, seed, tile=tile, cancel=cancel)
        values = np.clip(noisy, np.float32(row.low), np.float32(row.high))
    strokes = touch.strokes if before is None else touch.strokes[-1:]
    return brushed(values, strokes, edges, low=row.low, high=row.high, before=before, cancel=cancel)
