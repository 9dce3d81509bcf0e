"""How faces hang together: edges, islands of UV, what is open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph

from .shape import IntArray, Shape, welded

__all__ = ["Edges", "edges_of", "inward", "islands_of"]


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


def inward(shape: Shape, edges: Edges) -> np.ndarray:
    """Which triangles look inward, (T,): those of closed pieces with less than nothing inside; a hollow in a piece may.

    Examples
    --------
    >>> points = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]])
    >>> corners = np.int32([0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2])
    >>> tent = Shape(points, corners, np.full(4, 3, np.int32))
    >>> inward(tent, edges_of(tent)).tolist()
    [True, True, True, True]
    """
    many = len(shape.faces)
    graph = sparse.coo_matrix((np.ones(len(edges.faces), np.int8), tuple(edges.faces.T)), (many, many))
    count, piece = csgraph.connected_components(graph, directed=False)
    point = welded(shape.points)[shape.faces]
    one, two = (point[edges.faces[:, k], edges.sides[:, k]] for k in (0, 1))
    is_turned = np.bincount(piece[edges.faces[:, 0]], one == two, count) > 0
    is_closed = np.bincount(piece[edges.faces.ravel()], minlength=count) == 3 * np.bincount(piece, minlength=count)
    at = shape.at.astype(np.float64)
    at = at - at.mean((0, 1))
    volume = np.bincount(piece, (at[:, 0] * np.cross(at[:, 1], at[:, 2])).sum(1), count)
    is_sound = is_closed & ~is_turned
    if not (is_sound & (volume < 0)).any():
        return np.zeros(many, bool)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, piece, at.min(1))
    np.maximum.at(high, piece, at.max(1))
    outward, found = np.flatnonzero(is_sound & (volume > 0)), is_sound & (volume < 0)
    for k in np.flatnonzero(found):
        found[k] = not ((low[outward] <= low[k]) & (high[outward] >= high[k])).all(1).any()
    return found[piece]


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
