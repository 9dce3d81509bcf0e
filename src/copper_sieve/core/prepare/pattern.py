"""The steps that make a picture repeat by its own pattern: turned straight, and as many whole repeats as there is room for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import RecipeInvalid
from ..raster import FloatArray
from .lattice import HAS_LATTICE, lattice_of
from .straighten import Straighten

__all__ = ["Pattern", "pattern_of"]

_STRAIGHT = 0.1  # degrees: less is left as it is
_ROOM = 1 / 1.12  # of the picture: the largest tile


@dataclass(frozen=True)
class Pattern:
    """What a picture's pattern asks for.

    ``turn`` brings it straight, None where it is; ``period`` is one step of it across and down, as a share of the picture
    after that, None where an axis has none.
    """

    turn: Straighten | None
    period: tuple[float | None, float | None]

    @property
    def sides(self) -> tuple[float | None, float | None]:
        """The largest tile of whole repeats that leaves room for its copies to overlap, as shares; None: to be fitted."""
        across, down = (None if step is None else int(_ROOM / step) * step or None for step in self.period)
        return across, down


def pattern_of(planes: FloatArray) -> Pattern:
    """Find a picture's pattern.

    Parameters
    ----------
    planes : (H, W, C) of the color as it is stored
    Raises
    ------
    RecipeInvalid : no pattern can be trusted, or its two directions do not make a right angle
    Examples
    --------
    >>> from scipy import ndimage
    >>> dots = np.zeros((96, 96, 1), np.float32)
    >>> dots[::12, ::16] = 1
    >>> found = pattern_of(ndimage.gaussian_filter(dots, (2, 2, 0)))
    >>> found.turn, [round(side * 96) for side in found.sides]
    (None, [80, 84])
    """
    rows, columns = planes.shape[:2]
    lattice = lattice_of(planes)
    if lattice is None:
        raise RecipeInvalid(
            f"no pattern was found that can be trusted: nowhere is the picture {HAS_LATTICE:.0%} alike to itself one step on, or"
            " fewer than two and a half repeats of it are in the picture. Let the tile be fitted, or type its sides."
        )
    if lattice.is_oblique:
        raise RecipeInvalid(
            "a pattern was found whose two directions are not at a right angle: straighten the picture by four points first."
        )
    turn, whole = None, (float(columns), float(rows))
    if abs(lattice.turned) > _STRAIGHT:
        turn, whole = _turned(lattice.turned, columns, rows)
    lengths = [None if step is None else float(np.hypot(*step)) for step in (lattice.across, lattice.down)]
    across, down = (None if step is None else min(step / side, 1.0) for step, side in zip(lengths, whole))
    return Pattern(turn, (across, down))


def _turned(degrees: float, columns: int, rows: int) -> tuple[Straighten, tuple[float, float]]:
    """The largest rectangle within a picture that is turned by so much, of the picture's own shape, and its sides in texels."""
    angle = np.radians(degrees)
    sine, cosine = abs(np.sin(angle)), abs(np.cos(angle))
    scale = min(columns / (columns * cosine + rows * sine), rows / (columns * sine + rows * cosine))
    wide, high = columns * scale, rows * scale
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    corners = np.array([[-wide, -high], [wide, -high], [wide, high], [-wide, high]]) / 2 @ turn.T
    shares = np.clip(corners / [columns, rows] + 0.5, 0, 1)
    points = tuple((float(x), float(y)) for x, y in shares)
    return Straighten(points=(points[0], points[1], points[2], points[3]), aspect=columns / rows), (wide, high)
