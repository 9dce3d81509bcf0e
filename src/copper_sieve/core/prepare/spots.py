"""Spots taken out: each is filled from one other place of the picture, the same for all maps of a set."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import Field, model_validator
from scipy import fft

from ..bands import CORES, NEVER, Cancel
from ..errors import RecipeInvalid
from ..raster import FloatArray, floats
from ..value import Value
from ..vectors import renormalized
from .decision import Kind
from .joining import coded, uncoded
from .step import Step

__all__ = ["LARGEST_SPOT", "Path", "Spot", "Spots", "places_for", "without_spots"]

LARGEST_SPOT = 0.2  # of the width, across
_LONGEST, _BROADEST = 0.5, 0.1  # of the width, across: a brushed spot, and the brush
_RING, _FEATHER = 8 / 512, 2 / 512  # of the width, around a spot
_APART = 4 / 512  # of the width: places nearer to each other are one
_MEMBRANE = (1.0, 0.5, 0.25)  # of the spot's radius: Gaussians that the ring's difference is spread inwards by
_MOST_EVENED = 0.15  # of a map as it is stored: more than that around a spot is the spot itself, or another thing
_UNSEEN, _SEEN = 1e-6, 0.05  # how much of a Gaussian lies on the ring
_LEAST_SPREAD = 0.03
_FINER = 16  # parts of a texel that a line's points are told in


Path = tuple[tuple[Annotated[float, Field(ge=-1, le=1)], Annotated[float, Field(ge=-1, le=1)]], ...]


class Spot(Value):
    """An ellipse around (x, y), as shares of the picture's width and height; its radii and where it is filled from are too.

    ``from_x`` and ``from_y`` say how far away the other place is. A brushed one is what lies within ``brush`` of a line through
    ``path``, from (x, y) on; its radii are those of what it reaches.
    """

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    across: float = Field(gt=0, le=_LONGEST / 2, description="Radius, as a share of the width")
    down: float = Field(gt=0, le=_LONGEST / 2, description="Radius, as a share of the width as well")
    from_x: float = Field(ge=-1, le=1)
    from_y: float = Field(ge=-1, le=1)
    path: Path = Field(default=(), max_length=200)
    brush: float = Field(default=0, ge=0, le=_BROADEST / 2, description="Radius, as a share of the width; 0 of an ellipse")

    @model_validator(mode="after")
    def _is_small(self) -> Spot:
        if not self.path and max(self.across, self.down) > LARGEST_SPOT / 2:
            raise ValueError(f"a spot is at most {LARGEST_SPOT:.0%} of the width across")
        if bool(self.path) != bool(self.brush):
            raise ValueError("a brushed spot has a path and a brush, another neither")
        return self

    @property
    def radius(self) -> float:
        """How far the farthest of it is from what lies around it, as a share of the width."""
        return self.brush or max(self.across, self.down)


class Spots(Step):
    """Take spots out, one after the other."""

    kind: Literal["spots"] = "spots"
    spots: tuple[Spot, ...] = Field(default=(), max_length=500)

    @property
    def before_last(self) -> Spots:
        """Without the last spot."""
        return self.model_copy(update={"spots": self.spots[:-1]})


@dataclass(frozen=True)
class _Box:
    """The texels of a map that a spot and its ring may touch: rows and columns, which wrap or are clipped, and where it lies."""

    rows: np.ndarray
    columns: np.ndarray
    inside: np.ndarray  # signed distance into the spot, in texels


def _box(spot: Spot, shape: tuple[int, int], wraps: tuple[bool, bool], margin: float) -> _Box:
    height, width = shape
    x, y = spot.x * width - 0.5, spot.y * height - 0.5
    rx, ry = spot.across * width, spot.down * width
    columns = np.arange(int(np.floor(x - rx - margin)), int(np.ceil(x + rx + margin)) + 1)
    rows = np.arange(int(np.floor(y - ry - margin)), int(np.ceil(y + ry + margin)) + 1)
    columns = columns if wraps[0] else columns[(columns >= 0) & (columns < width)]
    rows = rows if wraps[1] else rows[(rows >= 0) & (rows < height)]
    columns, rows = columns[: width if wraps[0] else None], rows[: height if wraps[1] else None]
    if spot.path:
        points = np.array(spot.path) * (width, height) + (x - columns[0], y - rows[0])
        return _Box(rows, columns, _within(points, (len(rows), len(columns)), spot.brush * width))
    u, v = (columns - x)[None, :] / rx, (rows - y)[:, None] / ry
    away = np.hypot(u, v)
    slope = np.hypot(u / rx, v / ry) / np.maximum(away, 1e-6)  # of `away`, a texel
    inside = np.where(away < 1e-6, min(rx, ry), (1 - away) / np.maximum(slope, 1e-6))
    return _Box(rows, columns, inside.astype(np.float32))


def _within(points: np.ndarray, shape: tuple[int, int], radius: float) -> np.ndarray:
    """The signed distance into what lies within ``radius`` texels of a line, (H, W); ``points`` are x, y from its first texel."""
    away = np.full(shape, 255, np.uint8)
    pinned = np.clip(np.rint(points * _FINER), -(1 << 20), 1 << 20).astype(np.int32).reshape(-1, 1, 2)
    cv2.polylines(away, [pinned], False, 0, 1, cv2.LINE_8, _FINER.bit_length() - 1)
    return (np.float32(radius) - cv2.distanceTransform(away, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)).astype(np.float32)


def without_spots(
    values: FloatArray,
    spots: Sequence[Spot],
    kind: Kind,
    *,
    wraps: tuple[bool, bool] = (False, False),
    cancel: Cancel = NEVER,
) -> FloatArray:
    """A map without its spots: each a copy of its other place, its broad difference to what is around it evened out.

    Parameters
    ----------
    values : (H, W) or (H, W, 3) float32; colors in linear light, normals as vectors
    wraps : whether the picture repeats across and down
    Returns
    -------
    values : as they came, bit for bit, outside of each spot and a feather of 0.4 % of the width
    References
    ----------
    A cheap membrane in place of Pérez et al. 2003: the ring's difference spread inwards by nested Gaussians.
    Examples
    --------
    >>> sand = np.full((64, 64), 0.5, np.float32)
    >>> sand[20:24, 20:24] = 1.0
    >>> clean = without_spots(sand, [Spot(x=0.34, y=0.34, across=0.08, down=0.08, from_x=0.4, from_y=0.0)], "scalar")
    >>> float(clean.max())
    0.5
    """
    out = values.copy()
    for spot in spots:
        cancel.check()
        _fill(out, spot, kind, wraps)
    return out


def _fill(values: FloatArray, spot: Spot, kind: Kind, wraps: tuple[bool, bool]) -> None:
    """Fill one spot of a map in place; its other place is read as the map is then."""
    height, width = values.shape[:2]
    ring, feather = max(_RING * width, 2.0), max(_FEATHER * width, 1.0)
    box = _box(spot, (height, width), wraps, ring + 2)
    moved = box.columns + round(spot.from_x * width), box.rows + round(spot.from_y * height)
    columns, rows = (
        part % side if wrap else np.clip(part, 0, side - 1) for part, side, wrap in zip(moved, (width, height), wraps)
    )
    here, there = np.ix_(box.rows % height, box.columns % width), np.ix_(rows, columns)
    own, other = values[here], coded(np.ascontiguousarray(values[there]), kind)
    share = np.clip((box.inside + feather) / feather, 0, 1).astype(np.float32)
    if kind == "mask":
        share = (share > 0.5).astype(np.float32)
        filled = other
    else:
        differs = np.clip(coded(np.ascontiguousarray(own), kind) - other, -_MOST_EVENED, _MOST_EVENED)
        weight = ((box.inside < -feather / 2) & (box.inside > -ring)).astype(np.float32)
        filled = uncoded(other + _membrane(differs, weight, spot.radius * width), kind)
    share = share[..., None] if values.ndim == 3 else share
    met = own + (filled - own) * share
    values[here] = np.where(share > 0, renormalized(met) if kind == "normal" else met, own)


def _membrane(differs: FloatArray, weight: FloatArray, size: float) -> FloatArray:
    """What differs on the ring, spread inwards: by ever narrower Gaussians, each as far as it still sees the ring."""
    shape, differs, weight = differs.shape, np.atleast_3d(differs), weight[..., None]
    out = np.zeros_like(differs)
    for k, part in enumerate(_MEMBRANE):
        sigma = max(size * part, 1.0)
        near = np.atleast_3d(cv2.GaussianBlur(weight, (0, 0), sigma))
        spread = np.atleast_3d(cv2.GaussianBlur(differs * weight, (0, 0), sigma)) / np.maximum(near, _UNSEEN)
        sees = np.clip(near / _SEEN, 0, 1) if k else 1.0
        out += (spread - out) * sees
    return floats(out.astype(np.float32).reshape(shape))


def places_for(
    maps: Sequence[FloatArray],
    spot: tuple[float, float, float, float],
    others: Sequence[Spot] = (),
    *,
    path: Path = (),
    brush: float = 0,
    wraps: tuple[bool, bool] = (False, False),
    count: int = 6,
) -> list[Spot]:
    """The places that a spot is best filled from, the best first: those around which the picture is most like around the spot.

    Parameters
    ----------
    maps : of the picture at one size, (H, W) or (H, W, C), as they are stored; each counts by its spread
    spot : x, y and the radii across and down, as in ``Spot``
    others : spots that no place may touch
    path, brush : of a brushed spot, as in ``Spot``
    Returns
    -------
    spots : at most ``count``, each from a place of its own
    Raises
    ------
    RecipeInvalid : there is no place free of spots that the spot fits into, or it is larger than a fifth of the width (a brushed
        one: longer than half of it)
    References
    ----------
    All places at once by correlation: squared error over the ring, expanded.
    Examples
    --------
    >>> dots = np.tile(np.float32([[0, 0, 0, 0], [0, 1, 0, 0], [0, 0, 0, 0], [0, 0, 0, 0]]), (16, 16))
    >>> found = places_for([dots], (0.5, 0.5, 0.05, 0.05))[0]
    >>> round(found.from_x * 64) % 4, round(found.from_y * 64) % 4
    (0, 0)
    """
    x, y, across, down = spot
    if bool(path) != bool(brush):
        raise RecipeInvalid("a brushed spot has a path and a brush, another neither.")
    largest = _LONGEST if path else LARGEST_SPOT
    if max(across, down) > largest / 2:
        raise RecipeInvalid(
            f"a spot may be {largest:.0%} of the width across (got {2 * max(across, down):.0%}), as one other place has to"
            " fill it. Crop it away, or take it out in parts."
        )
    whole = Spot(x=x, y=y, across=across, down=down, from_x=0, from_y=0, path=path, brush=brush)
    height, width = maps[0].shape[:2]
    ring = max(_RING * width, 2.0)
    inside, around, taken = (np.zeros((height, width), bool) for _ in range(3))
    for one in (whole, *others):
        box = _box(one, (height, width), wraps, ring + 1)
        at = np.ix_(box.rows % height, box.columns % width)
        taken[at] |= box.inside > 0
        if one is whole:
            inside[at] |= box.inside > 0
            around[at] |= (box.inside <= 0) & (box.inside > -ring)
    unlike = _unlike(maps, around & ~taken, wraps)
    hit = _over(inside | around, taken, wraps, outside=1.0)
    unlike = np.where(hit > 0.5, np.inf, unlike)
    found: list[Spot] = []
    apart = max(1, round(_APART * width))
    while len(found) < count and np.isfinite(unlike).any():
        down_by, right_by = np.unravel_index(int(np.argmin(unlike)), unlike.shape)
        right, below = (_signed(int(by), side) for by, side in ((right_by, unlike.shape[1]), (down_by, unlike.shape[0])))
        found.append(whole.model_copy(update={"from_x": right / width, "from_y": below / height}))
        rows = np.arange(down_by - apart, down_by + apart + 1) % unlike.shape[0]
        unlike[np.ix_(rows, np.arange(right_by - apart, right_by + apart + 1) % unlike.shape[1])] = np.inf
    if not found:
        raise RecipeInvalid("the picture has no other place free of spots that is as large. Make the spot smaller.")
    return found


def _signed(by: int, side: int) -> int:
    return by - side if by > side // 2 else by


def _unlike(maps: Sequence[FloatArray], weight: np.ndarray, wraps: tuple[bool, bool]) -> np.ndarray:
    """Squared error over ``weight`` between the picture and itself moved, for every move: rows down, columns right."""
    planes = [plane for values in maps for plane in np.moveaxis(np.atleast_3d(values), -1, 0)]
    planes = [(plane - plane.mean()) / max(float(plane.std()), _LEAST_SPREAD) for plane in planes]
    squares = sum((plane * plane for plane in planes), np.zeros(weight.shape, np.float32))
    product = np.conj(_waves(weight, wraps)) * _waves(squares, wraps)
    for plane in planes:
        product -= 2 * np.conj(_waves(weight * plane, wraps)) * _waves(plane, wraps)
    return float((weight * squares).sum()) + _moves(product, weight.shape, wraps)


def _over(first: np.ndarray, second: np.ndarray, wraps: tuple[bool, bool], outside: float = 0.0) -> np.ndarray:
    """The sum of ``first`` times ``second`` moved by every amount; beyond a border that does not wrap lies ``outside``."""
    return _moves(np.conj(_waves(first, wraps)) * _waves(second, wraps, outside), first.shape, wraps)


def _grown(shape: tuple[int, ...], wraps: tuple[bool, bool]) -> tuple[int, int]:
    return (shape[0] if wraps[1] else 2 * shape[0], shape[1] if wraps[0] else 2 * shape[1])


def _waves(values: np.ndarray, wraps: tuple[bool, bool], outside: float = 0.0) -> np.ndarray:
    grown = np.full(_grown(values.shape, wraps), outside, np.float32)
    grown[: values.shape[0], : values.shape[1]] = values
    return np.asarray(fft.rfft2(grown, workers=CORES))


def _moves(product: np.ndarray, shape: tuple[int, ...], wraps: tuple[bool, bool]) -> np.ndarray:
    return np.asarray(fft.irfft2(product, _grown(shape, wraps), workers=CORES))
