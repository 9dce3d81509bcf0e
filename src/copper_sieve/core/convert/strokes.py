"""Painted strokes: points and how far they reach, kept as data, so that they are the same at every size."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numba
import numpy as np
from pydantic import Field, model_validator

from ..bands import NEVER, Cancel
from ..color import linear_from_srgb_codes
from ..filters import gaussian, gaussian_reach
from ..raster import Edge, Edges, FloatArray
from ..value import Value

__all__ = ["Brushed", "brushed", "reach_of"]

_SOFTENED = 0.5  # of the radius: the Gaussian that a softening stroke mixes in
Place = Annotated[float, Field(ge=-1, le=2)]
Hex = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]


class Brushed(Value):
    """One stroke over a map: its points in shares of the width and height, its radius as a share of the width.

    ``hardness`` is the share of the radius that is painted in full. ``value`` is what is painted, or by how much is raised and
    lowered; a color is painted as ``color``. ``pressures`` narrow the stroke point by point.
    """

    points: tuple[tuple[Place, Place], ...] = Field(min_length=1, max_length=2000)
    pressures: tuple[Annotated[float, Field(ge=0, le=1)], ...] = Field(default=(), max_length=2000)
    radius: float = Field(gt=0, le=0.5)
    hardness: float = Field(default=0.5, ge=0, le=1)
    way: Literal["paint", "raise", "lower", "soften", "erase"] = "paint"
    value: float = Field(default=1.0, ge=0, le=1)
    color: Hex | None = None
    strength: float = Field(default=1.0, ge=0, le=1)
    is_on: bool = True
    tile: int | None = Field(default=None, description="Of a set in tiles: which one")

    @model_validator(mode="after")
    def _as_many_pressures(self) -> Brushed:
        if self.pressures and len(self.pressures) != len(self.points):
            raise ValueError(f"a stroke has a pressure for each of its points or for none (got {len(self.pressures)})")
        return self


@numba.njit(nogil=True, cache=True)
def _draw(out, first_row, first_column, xs, ys, radii, hardness):
    """The largest of every segment's profile; places and radii in texels of the map that ``out`` begins so far inside of."""
    rows, columns = out.shape
    for k in range(max(len(xs) - 1, 1)):
        j = min(k + 1, len(xs) - 1)
        reach = max(radii[k], radii[j])
        left = max(first_column, int(np.floor(min(xs[k], xs[j]) - reach)))
        right = min(first_column + columns, int(np.floor(max(xs[k], xs[j]) + reach)) + 2)
        top = max(first_row, int(np.floor(min(ys[k], ys[j]) - reach)))
        bottom = min(first_row + rows, int(np.floor(max(ys[k], ys[j]) + reach)) + 2)
        dx, dy = xs[j] - xs[k], ys[j] - ys[k]
        square = dx * dx + dy * dy
        for y in range(top, bottom):
            for x in range(left, right):
                px, py = x + 0.5 - xs[k], y + 0.5 - ys[k]
                t = 0.0
                if square > 0:
                    t = min(max((px * dx + py * dy) / square, 0.0), 1.0)
                radius = radii[k] + (radii[j] - radii[k]) * t
                if radius <= 0:
                    continue
                away = np.sqrt((px - t * dx) ** 2 + (py - t * dy) ** 2) / radius
                if away >= 1:
                    continue
                share = np.float32(1.0)
                if away > hardness:
                    share = np.float32(0.5 * (1 + np.cos(np.pi * (away - hardness) / (1 - hardness))))
                if share > out[y - first_row, x - first_column]:
                    out[y - first_row, x - first_column] = share


@dataclass(frozen=True)
class _Span:
    """Texels of one axis, from ``first``, that a stroke may reach; over the border where the axis wraps.

    ``copies`` says by how much the stroke is moved along the axis so that all of it that comes round lies here.
    """

    first: int
    count: int
    whole: int
    edge: Edge
    copies: tuple[int, ...] = (0,)

    @classmethod
    def around(cls, at: np.ndarray, radii: np.ndarray, whole: int, edge: Edge) -> _Span:
        first, end = int(np.floor((at - radii).min())), int(np.floor((at + radii).max())) + 2
        if edge == "wrap" and end - first < whole:
            return cls(first, end - first, whole, edge)
        if edge == "wrap":
            return cls(0, whole, whole, edge, tuple(-whole * k for k in range(first // whole, (end - 1) // whole + 1)))
        first, end = max(first, 0), min(end, whole)
        return cls(first, max(end - first, 0), whole, edge)

    @property
    def places(self) -> np.ndarray | slice:
        """Where in the map they lie."""
        if 0 <= self.first and self.first + self.count <= self.whole:
            return slice(self.first, self.first + self.count)
        steps = np.arange(self.first, self.first + self.count)
        if self.edge == "wrap":
            return steps % self.whole
        folded = steps % (2 * self.whole)
        return np.minimum(folded, 2 * self.whole - 1 - folded)

    def grown(self, by: int) -> _Span | None:
        """With so many more on each side, taken from where the axis goes on; None where that is more than there is."""
        if self.count + 2 * by >= self.whole:
            return None
        return _Span(self.first - by, self.count + 2 * by, self.whole, self.edge)


def _window(rows: _Span, columns: _Span) -> Any:
    """An index of the texels in both."""
    down, across = rows.places, columns.places
    if isinstance(down, slice) or isinstance(across, slice):
        return down, across  # one of them may be a list
    return np.ix_(down, across)


def _reached(stroke: Brushed, shape: tuple[int, int], edges: Edges) -> tuple[_Span, _Span, FloatArray]:
    """The rows and columns that a stroke reaches, and how much of it covers every texel there."""
    rows, columns = shape
    at = np.array(stroke.points, np.float64) * (columns, rows)
    pressures = np.array(stroke.pressures, np.float64) if stroke.pressures else np.ones(len(at))
    radii = np.maximum(stroke.radius * columns * pressures, 0.5)
    across = _Span.around(at[:, 0], radii, columns, edges.x)
    down = _Span.around(at[:, 1], radii, rows, edges.y)
    share = np.zeros((down.count, across.count), np.float32)
    for x in across.copies:
        for y in down.copies:
            _draw(share, down.first, across.first, at[:, 0] + x, at[:, 1] + y, radii, stroke.hardness)
    return down, across, share


def reach_of(stroke: Brushed, shape: tuple[int, int], edges: Edges) -> FloatArray:
    """How much of a stroke covers every texel of a map of ``shape``, (H, W), 0..1; over a border where the map repeats.

    Examples
    --------
    >>> dot = Brushed(points=((0.0, 0.5),), radius=0.1, hardness=0.9)
    >>> [row.round().tolist() for row in reach_of(dot, (1, 8), Edges())]
    [[1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0]]
    """
    down, across, share = _reached(stroke, shape, edges)
    out = np.zeros(shape, np.float32)
    out[_window(down, across)] = share
    return out


def brushed(
    values: FloatArray,
    strokes: Sequence[Brushed],
    edges: Edges,
    *,
    low: float = 0.0,
    high: float = 1.0,
    before: FloatArray | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """A map with strokes on it, in order; those that are off are left out.

    Parameters
    ----------
    values : (H, W) float32, or (H, W, 3) of a color in linear light
    low, high : the range of the map, which strokes do not leave
    before : the map with strokes that came before these, where there were some; what is erased shows ``values``
    Returns
    -------
    values : as they came, bit for bit, where no stroke reaches
    Examples
    --------
    >>> flat = np.full((4, 4), 0.25, np.float32)
    >>> all_of_it = Brushed(points=((0.5, 0.5),), radius=0.5, hardness=1.0, value=0.75)
    >>> float(brushed(flat, [all_of_it], Edges())[2, 2])
    0.75
    """
    given, out = values, values if before is None else before
    shape = values.shape[0], values.shape[1]
    is_ours = False
    for stroke in strokes:
        cancel.check()
        if not stroke.is_on:
            continue
        down, across, share = _reached(stroke, shape, edges)
        if not share.size:
            continue
        if not is_ours:
            out, is_ours = out.copy(), True
        window = _window(down, across)
        here = out[window]
        share = share * np.float32(stroke.strength)
        share = share[..., None] if values.ndim == 3 else share
        match stroke.way:
            case "paint":
                met = here + (_painted(stroke, values) - here) * share
            case "raise":
                met = here + np.float32(stroke.value) * share
            case "lower":
                met = here - np.float32(stroke.value) * share
            case "soften":
                met = here + (_softened(out, (down, across), stroke.radius * _SOFTENED, edges) - here) * share
            case "erase":
                met = here + (given[window] - here) * share
        out[window] = np.where(share > 0, np.clip(met, np.float32(low), np.float32(high)), here)
    return out


def _painted(stroke: Brushed, values: FloatArray) -> FloatArray | np.float32:
    if values.ndim == 2:
        return np.float32(stroke.value)
    code = stroke.color or "#{0:02x}{0:02x}{0:02x}".format(round(stroke.value * 255))
    return linear_from_srgb_codes(np.frombuffer(bytes.fromhex(code[1:]), np.uint8))


def _softened(values: FloatArray, where: tuple[_Span, _Span], sigma: float, edges: Edges) -> FloatArray:
    """``values`` blurred, of the rows and columns asked for; ``sigma`` is a share of the whole width."""
    reach = gaussian_reach(sigma * values.shape[1])
    down, across = (None if reach is None else span.grown(reach) for span in where)
    if reach is None or down is None or across is None:
        return _blurred(values, sigma, edges)[_window(*where)]
    near = values[_window(down, across)]
    blurred = _blurred(near, sigma * values.shape[1] / near.shape[1], Edges())  # what goes on past its border is too far to tell
    return blurred[reach:-reach, reach:-reach]


def _blurred(values: FloatArray, sigma: float, edges: Edges) -> FloatArray:
    planes = np.moveaxis(np.atleast_3d(values), -1, 0)
    soft = np.stack([gaussian(np.ascontiguousarray(plane), sigma, edges) for plane in planes], -1)
    return soft if values.ndim == 3 else soft[..., 0]
