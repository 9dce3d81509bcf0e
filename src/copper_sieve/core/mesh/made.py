"""Shapes made of shapes: some of their faces, several as one, triangles alone, stood upright."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from .pairing import role_of
from .shape import Shape
from .topology import edges_of, inward

__all__ = ["as_triangles", "high_of", "is_both", "joined", "low_of", "only", "triangles_worn", "turned_over", "upright"]


def only(shape: Shape, polygons: np.ndarray) -> Shape:
    """A shape of some of its polygons, by a mask (F,); points that nothing uses stay. Raises MeshInvalid where none is left.

    Examples
    --------
    >>> points, corners = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.int32([0, 1, 2, 2, 1, 0])
    >>> only(Shape(points, corners, np.int32([3, 3])), np.array([False, True])).corners.tolist()
    [2, 1, 0]
    """
    kept = np.repeat(polygons, shape.counts)
    corner_wise = ("corners", "uv", "second_uv", "normals", "given_tangents")
    changed = {name: getattr(shape, name)[kept] for name in corner_wise if getattr(shape, name) is not None}
    changed |= {name: getattr(shape, name)[polygons] for name in ("counts", "material", "part")}
    return replace(shape, **changed)


def joined(shapes: Sequence[Shape]) -> Shape:
    """Several shapes as one: their parts and materials stay apart by name; what not all of them have is left out.

    Examples
    --------
    >>> one = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]), parts=("pin",))
    >>> both = joined([one, one])
    >>> both.counts.tolist(), both.corners.tolist(), both.parts
    ([3, 3], [0, 1, 2, 3, 4, 5], ('pin',))
    """
    if len(shapes) == 1:
        return shapes[0]
    points = np.cumsum([0, *(len(shape.points) for shape in shapes)])
    told: dict[str, Any] = {"corners": np.concatenate([s.corners + np.int32(n) for s, n in zip(shapes, points)])}
    for name in ("points", "counts"):
        told[name] = np.concatenate([getattr(shape, name) for shape in shapes])
    for name in ("uv", "second_uv"):
        values = [getattr(shape, name) for shape in shapes]
        told[name] = None if any(one is None for one in values) else np.concatenate(values)
    if any(shape.normals is not None for shape in shapes):
        told["normals"] = np.concatenate([shape.shading for shape in shapes])
    for name, names in (("material", "materials"), ("part", "parts")):
        known = list(dict.fromkeys(one for shape in shapes for one in getattr(shape, names)))
        rows = [np.array([known.index(one) for one in getattr(s, names)], np.int32)[getattr(s, name)] for s in shapes]
        told[name], told[names] = np.concatenate(rows), tuple(known)
    return Shape(**told, up=shapes[0].up)


def low_of(shape: Shape) -> Shape:
    """What of a file wears maps: all of it, or without the parts that say high or cage where others say low.

    Examples
    --------
    >>> points, corners = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.int32([0, 1, 2, 0, 1, 2])
    >>> both = Shape(points, corners, np.int32([3, 3]), part=np.int32([0, 1]), parts=("pin_low", "pin_high"))
    >>> len(low_of(both).counts), len(high_of(both).counts), is_both(both.parts)
    (1, 1, True)
    """
    return _of(shape, {"high", "cage"}) if is_both(shape.parts) else shape


def high_of(shape: Shape) -> Shape:
    """What of a file is baked from: all of it, or its high parts where others say low.

    Examples
    --------
    >>> points, corners = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.int32([0, 1, 2, 0, 1, 2])
    >>> both = Shape(points, corners, np.int32([3, 3]), part=np.int32([0, 1]), parts=("pin_low", "pin_high"))
    >>> [both.parts[k] for k in high_of(both).part]
    ['pin_high']
    """
    return _of(shape, {"low", "cage", None}) if is_both(shape.parts) else shape


def triangles_worn(shape: Shape) -> list[int]:
    """How many triangles wear each of a file's materials, in their order; those of high parts wear none.

    Examples
    --------
    >>> points, corners = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.int32([0, 1, 2, 0, 1, 2])
    >>> told = {"part": np.int32([0, 1]), "material": np.int32([0, 1]), "materials": ("brass", "fine")}
    >>> triangles_worn(Shape(points, corners, np.int32([3, 3]), parts=("pin_low", "pin_high"), **told))
    [1, 0]
    """
    low = low_of(shape)
    return np.bincount(low.material, low.counts - 2, len(shape.materials)).astype(int).tolist()


def is_both(parts: Sequence[str]) -> bool:
    """Whether one file holds what is baked to and what is baked from, by the names of its parts.

    Examples
    --------
    >>> is_both(["pin_low", "pin_high"]), is_both(["pin_high", "strap_high"])
    (True, False)
    """
    return {"low", "high"} <= {role_of(name)[1] for name in parts}


def _of(shape: Shape, left_out: set[str | None]) -> Shape:
    kept = np.array([role_of(name)[1] not in left_out for name in shape.parts])
    return only(shape, kept[shape.part])


def as_triangles(shape: Shape) -> Shape:
    """A shape whose polygons are its triangles.

    Examples
    --------
    >>> square = Shape(np.float32([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]), np.arange(4, dtype=np.int32), np.int32([4]))
    >>> as_triangles(square).counts.tolist()
    [3, 3]
    """
    corner = shape.triangles.ravel()
    taken: dict[str, Any] = {"corners": shape.corners[corner], "counts": np.full(len(shape.triangles), 3, np.int32)}
    for name in ("uv", "second_uv", "normals", "given_tangents"):
        values = getattr(shape, name)
        taken[name] = None if values is None else values[corner]
    return replace(shape, material=shape.material[shape.polygon_of], part=shape.part[shape.polygon_of], **taken)


def upright(shape: Shape) -> Shape:
    """A shape with y up: one whose file has z up is turned by a quarter about x.

    Examples
    --------
    >>> lying = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 0, 2]]), np.arange(3, dtype=np.int32), np.int32([3]), up="z")
    >>> upright(lying).points[2].tolist()
    [0.0, 2.0, 0.0]
    """
    if shape.up == "y":
        return shape

    def turned(vectors: np.ndarray) -> np.ndarray:
        made = vectors.copy()
        made[:, 1], made[:, 2] = vectors[:, 2], -vectors[:, 1]
        return made + np.float32(0)  # no -0

    given = {name: getattr(shape, name) for name in ("points", "normals", "given_tangents")}
    vectors: dict[str, Any] = {name: None if values is None else turned(values) for name, values in given.items()}
    return replace(shape, up="y", **vectors)


def turned_over(shape: Shape) -> Shape:
    """A shape in triangles, of which those that look inward look the other way; all of them where none is known to.

    Examples
    --------
    >>> one = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]))
    >>> turned_over(one).corners.tolist()
    [0, 2, 1]
    """
    whole = as_triangles(shape)
    is_turned = inward(whole, edges_of(whole))
    is_turned |= not is_turned.any()
    order = np.arange(len(whole.corners)).reshape(-1, 3)
    order = np.where(is_turned[:, None], order[:, [0, 2, 1]], order).ravel()
    names = ("corners", "uv", "second_uv", "normals")
    turned = {name: None if (values := getattr(whole, name)) is None else values[order] for name in names}
    if turned["normals"] is not None:
        at, shading = whole.at, turned["normals"].reshape(-1, 3, 3)
        facing = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
        goes_along = is_turned & ((shading.sum(1) * facing).sum(-1) > 0)  # what points outward already stays
        turned["normals"] = np.where(goes_along[:, None, None], -shading, shading).reshape(-1, 3)
    return replace(whole, given_tangents=None, **turned)  # type: ignore[arg-type]
