"""Tiles that touch: what an operation sees of them beyond a tile's own border."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import cv2
import numpy as np
from scipy import fft

from ..raster import Edges, FloatArray, Joined, Size, floats
from ..tiles import beside

__all__ = ["joined", "joined_edges", "touching"]

_LEAST = 4  # texels: every stencil sees its own
_LONGEST = 0.5  # of a tile, so that no more than the eight tiles around are looked at
Where = tuple[int, int]  # columns to the right, rows down


def touching(tile: int, tiles: Iterable[int]) -> dict[Where, int]:
    """Which of ``tiles`` touch one, by where they lie.

    Examples
    --------
    >>> touching(1001, [1001, 1002, 1011, 1013])
    {(0, -1): 1011, (1, 0): 1002}
    """
    known = set(tiles)
    around = ((x, y) for y in (-1, 0, 1) for x in (-1, 0, 1) if (x, y) != (0, 0))
    found = ((where, beside(tile, *where)) for where in around)
    return {where: other for where, other in found if other in known and other is not None}


def joined_edges(edges: Edges, around: Mapping[Where, int], reach: float, size: Size) -> Edges:
    """The edges of a tile with so much of its neighbors beside it: ``reach`` of the width, and a little more where the
    transforms are quicker then. An axis on which a tile touches does not wrap any more."""
    left, right = _margins((-1, 0) in around, (1, 0) in around, reach * size.width, size.width)
    top, bottom = _margins((0, -1) in around, (0, 1) in around, reach * size.width, size.height)
    if not left + right + top + bottom:
        return edges
    x, y = "mirror" if left + right else edges.x, "mirror" if top + bottom else edges.y
    return Joined(x=x, y=y, left=left, right=right, top=top, bottom=bottom)


def _margins(has_before: bool, has_after: bool, reach: float, side: int) -> tuple[int, int]:
    """Texels before and after a side."""
    sides = has_before + has_after
    if not sides:
        return 0, 0
    least = min(max(_LEAST, int(np.ceil(reach))), max(1, int(side * _LONGEST)))
    more = int(fft.next_fast_len(side + sides * least, real=True) or 0) - side
    before = min(more // sides if has_after else more, side) if has_before else 0
    return before, min(more - before, side) if has_after else 0


def joined(own: FloatArray, edges: Edges, of: Callable[[int], FloatArray], around: Mapping[Where, int]) -> FloatArray:
    """A tile's array with the strips of its neighbors around it; corners where there is none are mirrored.

    Parameters
    ----------
    own : (H, W[, C]) array, which is returned itself where nothing touches
    of : the array of another tile, of the same shape
    """
    if not isinstance(edges, Joined):
        return own
    grown = floats(cv2.copyMakeBorder(own, edges.top, edges.bottom, edges.left, edges.right, cv2.BORDER_REFLECT))
    rows, columns = own.shape[:2]
    across, along = _strips(columns, edges.left, edges.right), _strips(rows, edges.top, edges.bottom)
    for (x, y), tile in around.items():
        (from_x, to_x), (from_y, to_y) = across[x], along[y]
        if to_x.stop > to_x.start and to_y.stop > to_y.start:
            grown[to_y, to_x] = of(tile)[from_y, from_x]
    return grown


def _strips(side: int, before: int, after: int) -> dict[int, tuple[slice, slice]]:
    """By where a neighbor lies: what is taken of it, and where that goes in the grown array."""
    whole = before + side + after
    return {
        -1: (slice(side - before, side), slice(0, before)),
        0: (slice(0, side), slice(before, before + side)),
        1: (slice(0, after), slice(before + side, whole)),
    }
