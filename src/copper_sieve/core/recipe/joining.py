"""Tiles that touch: what an operation sees of them beyond a tile's own border."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import cv2
import numpy as np
from scipy import fft

from ..raster import Edges, FloatArray, Joined, Size, floats
from ..tiles import beside

__all__ = ["Where", "is_seen", "joined", "joined_edges", "strip", "touching"]

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


def joined(
    own: Callable[[], FloatArray], edges: Joined, beyond: Callable[[Where], FloatArray], around: Iterable[Where]
) -> FloatArray:
    """A tile's array with the strips of its neighbors around it; corners where there is none are mirrored.

    The neighbors come first and leave only their strips, so that no more than one whole tile is held while another is made.

    Parameters
    ----------
    own : makes the (H, W[, C]) array
    beyond : the ``strip`` of the tile that lies there
    around : where tiles touch
    """
    strips = {where: beyond(where) for where in around if is_seen(edges, where)}
    grown = floats(cv2.copyMakeBorder(own(), edges.top, edges.bottom, edges.left, edges.right, cv2.BORDER_REFLECT))
    rows, columns = grown.shape[:2]
    across, along = (edges.left, columns - edges.right), (edges.top, rows - edges.bottom)
    for (x, y), taken in strips.items():
        grown[_placed(y, *along, rows), _placed(x, *across, columns)] = taken
    return grown


def is_seen(edges: Joined, where: Where) -> bool:
    """Whether a tile of these edges takes anything of the one that lies there.

    Examples
    --------
    >>> is_seen(Joined(left=2), (-1, 0)), is_seen(Joined(left=2), (1, 0)), is_seen(Joined(left=2), (-1, 1))
    (True, False, False)
    """
    across, along = (edges.left, 1, edges.right), (edges.top, 1, edges.bottom)
    return min(across[where[0] + 1], along[where[1] + 1]) > 0


def strip(values: FloatArray, edges: Joined, where: Where) -> FloatArray:
    """What a tile of these ``edges`` takes of the neighbor that lies there, by the neighbor's ``values``, as a copy.

    Examples
    --------
    >>> strip(np.eye(4, dtype=np.float32), Joined(left=2), (-1, 0)).shape
    (4, 2)
    """
    rows, columns = values.shape[:2]
    return np.copy(values[_taken(where[1], edges.top, edges.bottom, rows), _taken(where[0], edges.left, edges.right, columns)])


def _taken(where: int, before: int, after: int, side: int) -> slice:
    return slice(side - before, side) if where < 0 else slice(0, after) if where > 0 else slice(0, side)


def _placed(where: int, first: int, end: int, whole: int) -> slice:
    """Where that goes along a side of the grown array, whose own texels are from ``first`` to ``end``."""
    return slice(0, first) if where < 0 else slice(end, whole) if where > 0 else slice(first, end)
