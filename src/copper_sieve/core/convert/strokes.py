"""Painted strokes: points and how far they reach, kept as data, so that they are the same at every size."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

import numba
import numpy as np
from pydantic import Field, model_validator

from ..bands import NEVER, Cancel
from ..color import linear_from_srgb_codes
from ..filters import gaussian
from ..raster import Edges, FloatArray
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
def _draw(out, xs, ys, radii, hardness):
    """The largest of every segment's profile; places and radii in texels of ``out``."""
    rows, columns = out.shape
    for k in range(max(len(xs) - 1, 1)):
        j = min(k + 1, len(xs) - 1)
        reach = max(radii[k], radii[j])
        left, right = max(0, int(min(xs[k], xs[j]) - reach)), min(columns, int(max(xs[k], xs[j]) + reach) + 2)
        top, bottom = max(0, int(min(ys[k], ys[j]) - reach)), min(rows, int(max(ys[k], ys[j]) + reach) + 2)
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
                if share > out[y, x]:
                    out[y, x] = share


def reach_of(stroke: Brushed, shape: tuple[int, int], edges: Edges) -> FloatArray:
    """How much of a stroke covers every texel of a map of ``shape``, (H, W), 0..1; over a border where the map repeats.

    Examples
    --------
    >>> dot = Brushed(points=((0.0, 0.5),), radius=0.1, hardness=0.9)
    >>> [row.round().tolist() for row in reach_of(dot, (1, 8), Edges())]
    [[1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0]]
    """
    rows, columns = shape
    at = np.array(stroke.points, np.float64) * (columns, rows)
    pressures = np.array(stroke.pressures, np.float64) if stroke.pressures else np.ones(len(at))
    radii = np.maximum(stroke.radius * columns * pressures, 0.5)
    out = np.zeros(shape, np.float32)
    for across in (-columns, 0, columns) if edges.x == "wrap" else (0,):
        for down in (-rows, 0, rows) if edges.y == "wrap" else (0,):
            _draw(out, at[:, 0] + across, at[:, 1] + down, radii, stroke.hardness)
    return out


def brushed(
    values: FloatArray,
    strokes: Sequence[Brushed],
    edges: Edges,
    *,
    low: float = 0.0,
    high: float = 1.0,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """A map with strokes on it, in order; those that are off are left out.

    Parameters
    ----------
    values : (H, W) float32, or (H, W, 3) of a color in linear light
    low, high : the range of the map, which strokes do not leave
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
    given, out = values, values
    for stroke in strokes:
        cancel.check()
        if not stroke.is_on:
            continue
        share = reach_of(stroke, (values.shape[0], values.shape[1]), edges) * np.float32(stroke.strength)
        share = share[..., None] if values.ndim == 3 else share
        match stroke.way:
            case "paint":
                met = out + (_painted(stroke, values) - out) * share
            case "raise":
                met = out + np.float32(stroke.value) * share
            case "lower":
                met = out - np.float32(stroke.value) * share
            case "soften":
                met = out + (_softened(out, stroke.radius * _SOFTENED, edges) - out) * share
            case "erase":
                met = out + (given - out) * share
        out = np.where(share > 0, np.clip(met, np.float32(low), np.float32(high)), out)
    return out


def _painted(stroke: Brushed, values: FloatArray) -> FloatArray | np.float32:
    if values.ndim == 2:
        return np.float32(stroke.value)
    code = stroke.color or "#{0:02x}{0:02x}{0:02x}".format(round(stroke.value * 255))
    return linear_from_srgb_codes(np.frombuffer(bytes.fromhex(code[1:]), np.uint8))


def _softened(values: FloatArray, sigma: float, edges: Edges) -> FloatArray:
    planes = np.moveaxis(np.atleast_3d(values), -1, 0)
    soft = np.stack([gaussian(np.ascontiguousarray(plane), sigma, edges) for plane in planes], -1)
    return soft if values.ndim == 3 else soft[..., 0]
