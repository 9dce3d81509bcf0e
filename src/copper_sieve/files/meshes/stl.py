"""STL: triangles alone, binary or as text; equal positions become one point. It has no UV, no materials and no unit."""

from __future__ import annotations

import re

import numpy as np

from ...core.errors import MeshInvalid
from ...core.mesh.shape import MAX_TRIANGLES, Shape, welded
from .text import numbers, pieces

__all__ = ["read_stl"]

_HEADER, _FACET = 84, np.dtype([("normal", "<f4", 3), ("at", "<f4", (3, 3)), ("spare", "<u2")])
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)")


def read_stl(content: bytes) -> Shape:
    """The shape in an STL file. Raises MeshInvalid where it is cut off, or too large."""
    count = int.from_bytes(content[80:84], "little") if len(content) >= _HEADER else 0
    if len(content) >= _HEADER and len(content) == _HEADER + count * _FACET.itemsize:
        _refuse_many(count)
        at = np.frombuffer(content, _FACET, count, _HEADER)["at"].reshape(-1, 3)
        name = ""
    elif content.lstrip()[:5] == b"solid":
        found = [corner for piece in pieces(content) for corner in _VERTEX.findall(piece)]
        _refuse_many(len(found) // 3)
        if len(found) % 3:
            raise MeshInvalid("the file ends within a triangle: it was cut off. Export it anew.")
        try:
            at = numbers(found).astype(np.float32).reshape(-1, 3)
        except ValueError as problem:
            raise MeshInvalid("a corner of the file is not made of three numbers. Export it anew.") from problem
        name = content.lstrip().split(b"\n", 1)[0][5:].decode("utf-8", "replace").strip()
    else:
        told = f"its header tells {count:,} triangles, {_HEADER + count * _FACET.itemsize:,} bytes, and it has {len(content):,}"
        raise MeshInvalid(f"this is no whole STL file: {told}. Export it anew.")
    if not len(at):
        raise MeshInvalid("the file holds no triangles.")
    point = welded(at)
    points = np.zeros((int(point.max()) + 1, 3), np.float32)
    points[point[::-1]] = at[::-1]
    return Shape(points, point, np.full(len(at) // 3, 3, np.int32), parts=(name,), up="z")


def _refuse_many(count: int) -> None:
    if count > MAX_TRIANGLES:
        raise MeshInvalid(
            f"the mesh has {count:,} triangles, and {MAX_TRIANGLES:,} are the most. Reduce it, or bring it in parts."
        )
