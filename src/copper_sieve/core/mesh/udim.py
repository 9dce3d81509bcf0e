"""Meshes whose UV lie in tiles: which tiles, and the mesh as one of them has it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..tiles import FIRST_TILE, MAX_TILES, TILES_PER_ROW, place_of
from .made import as_triangles, only
from .shape import Shape

__all__ = ["are_copies", "of_tile", "on_tile", "tiles_of"]

_OVER = 1e-4  # of a tile: UV that pass its border by more are of a picture that repeats
_LEAST_AREA = 1e-12
_ALIKE = 0.9  # of the faces beside the first tile, for all to be copies
_FINE = 4096  # places of a tile that are told apart


def tiles_of(shape: Shape) -> tuple[int, ...]:
    """UDIM numbers of the tiles that the UV of a shape lie in, in order.

    Returns
    -------
    tiles : none where a face reaches over a border or lies where no tile is: then a picture is repeated over the shape
    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> square = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]), uv=uv)
    >>> tiles_of(square), tiles_of(replace(square, uv=uv + np.float32([2, 1]))), tiles_of(replace(square, uv=uv * 2))
    ((1001,), (1013,), ())
    """
    if shape.uv is None or not np.isfinite(shape.uv).all():
        return ()
    at = shape.uv[shape.triangles].astype(np.float64)
    at = at[np.abs(np.linalg.det(at[:, 1:] - at[:, :1])) > _LEAST_AREA]
    if not len(at):
        return ()
    low, high = np.floor(at.min(1) + _OVER), np.ceil(at.max(1) - _OVER)
    rows = MAX_TILES // TILES_PER_ROW
    if (high - low > 1).any() or low.min() < 0 or (low.max(0) >= (TILES_PER_ROW, rows)).any():
        return ()
    return tuple(int(number) for number in np.unique(FIRST_TILE + low[:, 0] + TILES_PER_ROW * low[:, 1]))


def are_copies(shape: Shape) -> bool:
    """Whether what lies beside the first tile lies on what is in it, moved by whole tiles, so that nothing is baked from it.

    Examples
    --------
    >>> uv = np.float32([[0.1, 0], [0.6, 0], [0.1, 0.5], [1.1, 0], [1.6, 0], [1.1, 0.5]])
    >>> two = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(6, dtype=np.int32), np.int32([3, 3]), uv=uv)
    >>> are_copies(two), are_copies(replace(two, uv=uv * np.float32([1, 0.5]) + np.float32([0, 0.2]) * (uv[:, :1] > 1)))
    (True, False)
    """
    if shape.uv is None:
        return False
    at = shape.uv[shape.triangles].astype(np.float64)
    tile = np.floor(at.mean(1))
    if not tile.any():
        return False
    within = np.sort(np.round((at - tile[:, None]) * _FINE).astype(np.int64) @ [1 << 16, 1], axis=1)
    is_first = (tile == 0).all(1)
    known = {tuple(row) for row in within[is_first].tolist()}
    beside = within[~is_first].tolist()
    return sum(tuple(row) in known for row in beside) >= _ALIKE * len(beside)


def on_tile(shape: Shape, tile: int | None) -> Shape:
    """The shape with its UV moved so that one tile is the picture; itself for none.

    Examples
    --------
    >>> uv = np.float32([[2, 1], [3, 1], [3, 2]])
    >>> one = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(3, dtype=np.int32), np.int32([3]), uv=uv)
    >>> on_tile(one, 1013).uv.tolist()
    [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0]]
    """
    if tile is None or shape.uv is None:
        return shape
    return replace(shape, uv=shape.uv - np.array(place_of(tile), np.float32))


def of_tile(shape: Shape, tile: int) -> Shape:
    """What of a shape lies in one tile, in triangles, which then is the picture. Raises MeshInvalid where nothing does.

    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [0, 1], [1, 0], [2, 0], [1, 1]])
    >>> two = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(6, dtype=np.int32), np.int32([3, 3]), uv=uv)
    >>> of_tile(two, 1002).uv.tolist()
    [[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]
    """
    whole = as_triangles(on_tile(shape, tile))
    assert whole.uv is not None
    middle = whole.uv.reshape(-1, 3, 2).mean(1)
    return only(whole, ((middle >= 0) & (middle < 1)).all(1))
