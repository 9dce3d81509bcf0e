"""Which triangle each texel of a map shows, and where on it."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..mesh.shape import Shape
from ..raster import FloatArray, Size

__all__ = ["Cover", "covered"]

_REACH = 0.5  # of a texel², to the closest point of a triangle whose inside misses the texel's middle


@dataclass(frozen=True)
class Cover:
    """What lies under each texel's middle.

    Parameters
    ----------
    triangle : (H, W) int32, −1 where there is none
    second, third : (H, W) float32, the shares of the triangle's second and third corner there
    count : (H, W) uint8, how many triangles cover the texel's middle; 0 also where only an edge comes near
    """

    triangle: np.ndarray
    second: FloatArray
    third: FloatArray
    count: np.ndarray

    @property
    def is_covered(self) -> np.ndarray:
        return self.triangle >= 0


@numba.njit(nogil=True, cache=True)
def _crossing(ax, ay, bx, by, y):
    """Where an edge crosses a row, the same number from whichever side it is asked."""
    if ay > by or (ay == by and ax > bx):
        ax, ay, bx, by = bx, by, ax, ay
    return ax + (bx - ax) * ((y - ay) / (by - ay))


@numba.njit(nogil=True, cache=True)
def _shares(p, x, y):
    area = (p[1, 0] - p[0, 0]) * (p[2, 1] - p[0, 1]) - (p[1, 1] - p[0, 1]) * (p[2, 0] - p[0, 0])
    second = ((x - p[0, 0]) * (p[2, 1] - p[0, 1]) - (y - p[0, 1]) * (p[2, 0] - p[0, 0])) / area
    third = ((p[1, 0] - p[0, 0]) * (y - p[0, 1]) - (p[1, 1] - p[0, 1]) * (x - p[0, 0])) / area
    return second, third


@numba.njit(nogil=True, cache=True)
def _filled(first, last, at, which, triangle, second, third, count):
    """Rows of texels whose middles lie in triangles at ``at`` (K, 3, 2): from one crossing up to, and without, the next."""
    columns = triangle.shape[1]
    for t in range(len(at)):
        p = at[t]
        low, high = min(p[0, 1], p[1, 1], p[2, 1]), max(p[0, 1], p[1, 1], p[2, 1])
        if high <= first or low >= last or p[0, 0] != p[0, 0]:
            continue
        for row in range(max(first, int(np.floor(low - 0.5))), min(last, int(np.ceil(high + 0.5)))):
            y = row + 0.5
            left, right, met = 0.0, 0.0, 0
            for k in range(3):
                a, b = p[k], p[(k + 1) % 3]
                if (a[1] <= y) != (b[1] <= y):
                    x = _crossing(a[0], a[1], b[0], b[1], y)
                    left = x if met == 0 else min(left, x)
                    right = x if met == 0 else max(right, x)
                    met += 1
            if met < 2:
                continue
            for column in range(max(0, int(np.ceil(left - 0.5))), min(columns, int(np.ceil(right - 0.5)))):
                if count[row, column] < 255:
                    count[row, column] += 1
                if triangle[row, column] < 0:
                    triangle[row, column] = which[t]
                    second[row, column], third[row, column] = _shares(p, column + 0.5, y)


@numba.njit(nogil=True, cache=True)
def _closest(p, x, y):
    """The point of a triangle that is closest to a place outside of it: squared distance, and the shares of its corners."""
    best, second, third = np.inf, 0.0, 0.0
    for k in range(3):
        a, b = p[k], p[(k + 1) % 3]
        wide, high = b[0] - a[0], b[1] - a[1]
        length = wide * wide + high * high
        s = 0.0 if length <= 0 else min(max(((x - a[0]) * wide + (y - a[1]) * high) / length, 0.0), 1.0)
        dx, dy = a[0] + s * wide - x, a[1] + s * high - y
        away = dx * dx + dy * dy
        if away < best:
            best = away
            second = (s, 1 - s, 0.0)[k]
            third = (0.0, s, 1 - s)[k]
    return best, second, third


@numba.njit(nogil=True, cache=True)
def _touched(first, last, at, which, triangle, second, third, count, away):
    """Texels that no triangle covers and one comes near: its closest point."""
    columns = triangle.shape[1]
    for t in range(len(at)):
        p = at[t]
        low, high = min(p[0, 1], p[1, 1], p[2, 1]), max(p[0, 1], p[1, 1], p[2, 1])
        if high + 1 <= first or low - 1 >= last or p[0, 0] != p[0, 0]:
            continue
        left, right = min(p[0, 0], p[1, 0], p[2, 0]), max(p[0, 0], p[1, 0], p[2, 0])
        for row in range(max(first, int(np.floor(low - 1))), min(last, int(np.ceil(high + 1)))):
            for column in range(max(0, int(np.floor(left - 1))), min(columns, int(np.ceil(right + 1)))):
                if count[row, column]:
                    continue
                near, b, c = _closest(p, column + 0.5, row + 0.5)
                if near <= _REACH and near < away[row, column]:
                    away[row, column] = near
                    triangle[row, column], second[row, column], third[row, column] = which[t], b, c


def covered(
    shape: Shape,
    uv: FloatArray,
    size: Size,
    which: np.ndarray | None = None,
    *,
    shift: tuple[float, float] = (0.0, 0.0),
    rows: tuple[int, int] | None = None,
    cancel: Cancel = NEVER,
) -> Cover:
    """What each texel of a map shows of a shape.

    Parameters
    ----------
    uv : (C, 2), v up
    which : triangles to look at, in the order of the file; all by default. Where several lie on each other, the first is shown
    shift : in texels, right and down, where within its texel each sample lies; (0, 0) is the middle
    rows : the first row, and the one behind the last, of a part of the map that is looked at alone
    Returns
    -------
    cover : an edge that two triangles share is counted for one of them alone
    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> square = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]))
    >>> covered(square, uv, Size(2, 2)).count.tolist()
    [[1, 1], [1, 1]]
    """
    which = np.arange(len(shape.triangles)) if which is None else which
    at = uv[shape.triangles[which]].astype(np.float64) * [size.width, -size.height] + [0, size.height]
    first, last = rows or (0, size.height)
    at -= (shift[0], shift[1] + first)
    triangle = np.full((last - first, size.width), -1, np.int32)
    second, third = np.zeros(triangle.shape, np.float32), np.zeros(triangle.shape, np.float32)
    count, away = np.zeros(triangle.shape, np.uint8), np.full(triangle.shape, np.inf, np.float32)
    area = np.abs(np.linalg.det(at[:, 1:] - at[:, :1]))
    held = np.flatnonzero(area > 0)
    arguments = (at[held], which[held].astype(np.int32), triangle, second, third, count)
    run_rows(_filled, last - first, size.width, cancel, *arguments)
    run_rows(_touched, last - first, size.width, cancel, *arguments, away)
    return Cover(triangle, second, third, count)
