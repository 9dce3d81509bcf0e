"""What is found on a mesh, drawn over its picture: RGBA with nothing where nothing is, and a hatch where something is."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

import numpy as np

from ...core.bake.cover import Cover, covered
from ...core.checks.mesh import LEAST_MARGIN
from ...core.errors import UnknownKey
from ...core.mesh.shape import Shape
from ...core.mesh.topology import edges_of, islands_of
from ...core.mesh.unfold import crowded, hard_edges_inside, stretch_of
from ...core.raster import Size
from ...files import encode
from ..hatching import hatched

__all__ = ["MARKS", "marks_of", "missed_marks"]

_OVERLAP, _STRETCH, _MISSED, _HARD, _CLOSE = (225, 0, 120), (235, 140, 0), (0, 150, 235), (225, 0, 120), (150, 60, 220)
_FROM, _TO = 1.25, 2.5  # stretch that begins to show, and that shows full
_WIDE = 1.5  # texels at 512 that a marked edge is wide, half


def _overlaps(cover: Cover) -> np.ndarray:
    return hatched(cover.count > 1, _OVERLAP)


def _stretch(shape: Shape, cover: Cover) -> np.ndarray:
    """The more unevenly a face is stretched, the more it is covered."""
    assert shape.uv is not None
    found = stretch_of(shape, shape.uv)
    ratio = np.ones(len(shape.triangles), np.float32)
    ratio[found.triangles] = found.ratio
    shown = np.where(cover.is_covered, ratio[np.maximum(cover.triangle, 0)], 1)
    much = np.clip((shown - _FROM) / (_TO - _FROM), 0, 1)
    return hatched(much, _STRETCH, falling=True)


def _hard(shape: Shape, cover: Cover) -> np.ndarray:
    """Hard edges that lie inside an island."""
    assert shape.uv is not None
    height, width = cover.count.shape
    edges = edges_of(shape)
    inside = hard_edges_inside(shape, shape.uv, edges)
    out = np.zeros((height, width, 4), np.uint8)
    away = np.full((height, width), np.inf, np.float32)
    wide = _WIDE * max(height, width) / 512
    for edge in inside:
        face, side = edges.faces[edge, 0], edges.sides[edge, 0]
        ends = shape.uv[shape.triangles[face][[side, (side + 1) % 3]]].astype(np.float64)
        _along(away, ends * [width, -height] + [0, height], wide)
    out[away <= wide] = (*_HARD, 255)
    return out


def _along(away: np.ndarray, ends: np.ndarray, wide: float) -> None:
    """The distance of texels' middles to a line, where it is smaller than before."""
    height, width = away.shape
    left, top = np.clip(np.floor(ends.min(0) - wide - 1), 0, [width, height]).astype(int)
    right, low = np.clip(np.ceil(ends.max(0) + wide + 1), 0, [width, height]).astype(int)
    if right <= left or low <= top:
        return
    y, x = np.mgrid[top:low, left:right] + 0.5
    way = ends[1] - ends[0]
    share = np.clip(((x - ends[0, 0]) * way[0] + (y - ends[0, 1]) * way[1]) / max(float(way @ way), 1e-12), 0, 1)
    far = np.hypot(x - ends[0, 0] - share * way[0], y - ends[0, 1] - share * way[1])
    away[top:low, left:right] = np.minimum(away[top:low, left:right], far)


def _margins(shape: Shape, cover: Cover, size: int) -> np.ndarray:
    """Where islands lie so close that they run into each other in the smaller maps."""
    assert shape.uv is not None
    island = islands_of(shape, shape.uv)[np.maximum(cover.triangle, 0)]
    return hatched(crowded(np.where(cover.is_covered, island, -1), LEAST_MARGIN * len(cover.count) / size), _CLOSE)


MARKS: Mapping[str, Callable[[Shape, Cover, int], np.ndarray]] = MappingProxyType(
    {
        "overlaps": lambda shape, cover, size: _overlaps(cover),
        "stretch": lambda shape, cover, size: _stretch(shape, cover),
        "hard": lambda shape, cover, size: _hard(shape, cover),
        "margins": _margins,
    }
)


def marks_of(shape: Shape, kind: str, px: int, size: int = 2048) -> bytes:
    """A PNG to lay over the picture of a mesh; empty where there is no UV.

    Parameters
    ----------
    kind : one of ``MARKS``
    px : size of each side
    size : of the maps that it will wear, which margins are judged at
    Raises
    ------
    UnknownKey : it is none of them
    """
    make = MARKS.get(kind)
    if make is None:
        raise UnknownKey("mark", kind, list(MARKS))
    if shape.uv is None or not np.isfinite(shape.uv).all():
        return encode(np.zeros((px, px, 4), np.uint8), "png")
    return encode(make(shape, covered(shape, shape.uv, Size(px, px)), size), "png")


def missed_marks(missed: np.ndarray) -> bytes:
    """Where rays met nothing, (H, W) not 0, as a PNG to lay over the picture."""
    return encode(hatched(missed > 0, _MISSED), "png")
