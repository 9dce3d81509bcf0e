"""How faces hang together: edges, islands of UV, what is open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph

from .shape import IntArray, Shape, welded

__all__ = ["Edges", "edges_of", "islands_of"]


@dataclass(frozen=True)
class Edges:
    """The edges of a shape's triangles, by position.

    Parameters
    ----------
    faces : (E, 2) the two triangles of each inner edge
    sides : (E, 2) which side of each, 0 from its first corner to its second
    open_count, crowded_count, turned_count : edges with one face; with three or more; whose two faces run the same way
    """

    faces: IntArray
    sides: IntArray
    open_count: int
    crowded_count: int
    turned_count: int


def edges_of(shape: Shape) -> Edges:
    """The edges of a shape.

    Examples
    --------
    >>> points = np.float32([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    >>> found = edges_of(Shape(points, np.arange(4, dtype=np.int32), np.int32([4])))
    >>> found.faces.tolist(), found.open_count, found.turned_count
    ([[0, 1]], 4, 0)
    """
    point = welded(shape.points)[shape.faces]
    sound = np.flatnonzero((point != np.roll(point, 1, 1)).all(1))  # a face that is a line has no side of its own
    point = point[sound]
    if not len(point):
        return Edges(np.zeros((0, 2), np.int32), np.zeros((0, 2), np.int32), 0, 0, 0)
    start, end = point.ravel(), np.roll(point, -1, 1).ravel()
    low, high = np.minimum(start, end).astype(np.int64), np.maximum(start, end).astype(np.int64)
    key = low * (int(point.max()) + 1) + high
    order = np.argsort(key, kind="stable")
    first = np.flatnonzero(np.diff(key[order], prepend=-1))
    counts = np.diff(np.append(first, len(order)))
    pairs = first[counts == 2]
    one, two = order[pairs], order[pairs + 1]
    is_turned = start[one] == start[two]
    face, side = np.repeat(sound, 3), np.tile(np.arange(3), len(point))
    return Edges(
        np.stack([face[one], face[two]], 1).astype(np.int32),
        np.stack([side[one], side[two]], 1).astype(np.int32),
        int((counts == 1).sum()),
        int((counts > 2).sum()),
        int(is_turned.sum()),
    )


def islands_of(shape: Shape, uv: np.ndarray) -> IntArray:
    """The island of each triangle, (T,): those that share a corner's place in UV hang together.

    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> islands_of(Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4])), uv).tolist()
    [0, 0]
    """
    corner = shape.triangles
    place = welded(np.concatenate([uv, shape.points[shape.corners]], 1))[corner]
    many, places = len(corner), int(place.max()) + 1
    rows = np.repeat(np.arange(many), 3)
    graph = sparse.coo_matrix((np.ones(3 * many, np.int8), (rows, many + place.ravel())), (many + places,) * 2)
    return csgraph.connected_components(graph, directed=False)[1][:many].astype(np.int32)
