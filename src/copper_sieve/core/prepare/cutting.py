"""Where the line runs along which a picture changes from one copy of itself to the other."""

from __future__ import annotations

import cv2
import numba
import numpy as np

from ..raster import FloatArray
from .decision import Guide, Stroke
from .flow import FIRST, SECOND, parted

__all__ = ["cheapest_cut", "graph_cut", "painted", "quick_cut"]

_BOUND = 0.1  # of the overlap at either end is one copy alone
_KINK, _LEAST_COST, _WHOLE, _MOST_COST = 0.05, 0.001, 1000, 1 << 20  # of what the line costs from texel to texel
_AVOIDED = 30.0  # times the cost where the line had better not run


def painted(guide: Guide, axis: int, shape: tuple[int, int], side: int, overlap: int) -> tuple[np.ndarray, np.ndarray]:
    """Where the line had better not run, (rows, overlap), and what is bound: 0 free, 1 to the first copy, 2 to the second.

    Examples
    --------
    >>> avoid, bound = painted(Guide(avoid=(Stroke(points=((0.1, 0.5),), radius=0.05),)), 0, (8, 16), 10, 6)
    >>> bool(avoid.any()), int(bound.max())
    (True, 0)
    """
    rows, columns = shape

    def drawn(strokes: tuple[Stroke, ...]) -> np.ndarray:
        canvas = np.zeros(shape, np.uint8)
        unit = rows if axis else columns
        for stroke in strokes:
            points = [(p[1], p[0]) if axis else p for p in stroke.points]
            at = np.array([(x * columns, y * rows) for x, y in points]).round().astype(np.int32)
            thick = max(1, round(2 * stroke.radius * unit))
            cv2.polylines(canvas, [at.reshape(-1, 1, 2)], False, 1, thick)
            for x, y in at.tolist():
                cv2.circle(canvas, (x, y), max(1, thick // 2), 1, -1)
        return canvas > 0

    avoid, keep = drawn(guide.avoid), drawn(guide.keep)
    bound = np.where(keep[:, :overlap], FIRST, np.where(keep[:, side : side + overlap], SECOND, 0))
    return avoid[:, :overlap] | avoid[:, side : side + overlap], bound


def _apart(first: FloatArray, second: FloatArray, avoid: np.ndarray) -> np.ndarray:
    """What it costs the line to run between texels, texel by texel, before it is shared out to its edges."""
    apart = np.sqrt(np.square(first - second).mean(-1)).astype(np.float64)
    return np.where(avoid, apart * _AVOIDED + _AVOIDED * _LEAST_COST, apart)


def graph_cut(first: FloatArray, second: FloatArray, avoid: np.ndarray, bound: np.ndarray, wraps: bool) -> np.ndarray:
    """The cheapest line there is: a (rows, overlap) mask of the second copy, which holds the left end.

    ``first`` and ``second`` are (rows, overlap, C). Kwatra et al. 2003.

    Examples
    --------
    >>> same, free = np.zeros((3, 10, 1), np.float32), np.zeros((3, 10), int)
    >>> found = graph_cut(same, same, free > 0, free, False)
    >>> bool(found[:, 0].all()), bool(found[:, -1].any())
    (True, False)
    """
    columns = first.shape[1]
    edge, bound = max(1, round(_BOUND * columns)), bound.copy()
    bound[:, :edge], bound[:, columns - edge :] = SECOND, FIRST
    return cheapest_cut(first, second, bound, avoid=avoid, wraps=wraps)


def cheapest_cut(
    first: FloatArray, second: FloatArray, bound: np.ndarray, *, avoid: np.ndarray | None = None, wraps: bool = False
) -> np.ndarray:
    """Where the second copy shows, (rows, columns), so that it costs least to go from one to the other.

    ``first`` and ``second`` are (rows, columns, C), ``bound`` says what is given: 1 the first, 2 the second, 0 free; both occur.

    Examples
    --------
    >>> bound = np.ones((5, 5), int)
    >>> bound[1:4, 1:4], bound[2, 2] = 0, 2
    >>> first = np.zeros((5, 5, 1), np.float32)
    >>> int(cheapest_cut(first, first, bound).sum())
    1
    """
    apart = _apart(first, second, np.zeros(bound.shape, bool) if avoid is None else avoid)
    costs = []
    for axis in (1, 0):
        steep = sum(np.abs(np.diff(copy, axis=axis, append=copy.take([0], axis))).mean(-1) for copy in (first, second))
        cost = (apart + np.roll(apart, -1, axis)) / (steep + _KINK) + _LEAST_COST
        costs.append(np.clip(np.round(cost * _WHOLE), 1, _MOST_COST))
    right, down = costs
    right[:, -1] = 0
    if not wraps:
        down[-1] = 0
    return parted(right, down, bound)


@numba.njit(nogil=True, cache=True)
def _cheapest(cost, step):
    """The cheapest way from the first row to the last, moving at most ``step`` columns a row."""
    rows, columns = cost.shape
    total = cost.copy()
    came = np.zeros((rows, columns), np.int32)
    for y in range(1, rows):
        for x in range(columns):
            low, high = max(0, x - step), min(columns, x + step + 1)
            best = low
            for k in range(low, high):
                if total[y - 1, k] < total[y - 1, best]:
                    best = k
            came[y, x] = best
            total[y, x] = cost[y, x] + total[y - 1, best]
    line = np.zeros(rows, np.int32)
    line[rows - 1] = np.argmin(total[rows - 1])
    for y in range(rows - 1, 0, -1):
        line[y - 1] = came[y, line[y]]
    return line


def quick_cut(first: FloatArray, second: FloatArray, avoid: np.ndarray, bound: np.ndarray, wraps: bool) -> np.ndarray:
    """A line that moves at most two columns a row; where rows wrap, three periods are run and the middle one is closed.

    As ``graph_cut``, in a moment. Efros & Freeman 2001.

    Examples
    --------
    >>> same, free = np.zeros((3, 10, 1), np.float32), np.zeros((3, 10), int)
    >>> found = quick_cut(same, same, free > 0, free, True)
    >>> bool(found[:, 0].all()), bool(found[:, -1].any())
    (True, False)
    """
    rows, columns = first.shape[:2]
    edge, far = max(1, round(_BOUND * columns)), 1e6
    cost = np.square(_apart(first, second, avoid))
    cost[:, :edge], cost[:, columns - edge :] = far, far
    right_of, left_of = np.cumsum(bound == FIRST, 1) > 0, np.cumsum((bound == SECOND)[:, ::-1], 1)[:, ::-1] > 0
    cost = cost + far * 0.01 * (
        right_of + left_of
    )  # the line runs left of what the first copy keeps, right of what the second does
    if wraps:
        line = _cheapest(np.tile(cost, (3, 1)), 2)[rows : 2 * rows + 1]
        pinned = cost.copy()
        at = int(line[0])
        pinned = np.concatenate([pinned, pinned[:1]])
        pinned[0] = pinned[-1] = far * 10
        pinned[0, at] = pinned[-1, at] = 0
        line = _cheapest(pinned, 2)[:rows]
    else:
        line = _cheapest(cost, 2)
    return np.arange(columns)[None, :] < line[:, None]
