"""A mesh as it was read: polygons stay what they are, and one fixed triangulation stands beside them."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

import numba
import numpy as np

from ..errors import MeshInvalid
from ..raster import FloatArray
from .triangulate import bent_or_concave, triangulated

__all__ = ["MAX_TRIANGLES", "IntArray", "Shape", "smooth_normals", "welded"]

IntArray = np.ndarray[tuple[int, ...], np.dtype[np.int32]]
MAX_TRIANGLES = 12_000_000  # beyond it nothing is built: about 1 GB of rays' structure


@dataclass(frozen=True)
class Shape:
    """Points own positions; corners own normals, UV and tangents; polygons own material and part.

    Conventions: right-handed; UV origin lower left, v up, so image row 0 is v = 1; tangents' fourth number is the sign of the
    bitangent, w · (N × T).

    Parameters
    ----------
    points : (P, 3) float32
    corners : (C,) int32, the point of each corner, polygon after polygon
    counts : (F,) int32, corners of each polygon, 3 or more
    uv, second_uv : (C, 2) float32, or None where the file has none
    normals : (C, 3) float32 of unit length, or None
    given_tangents : (C, 4) float32 as the file has them, or None
    material, part : (F,) int32 into ``materials`` and ``parts``
    scales : for each part how its node scales it, (1, 1, 1) where it does not
    up : the axis that the format's rule, or its file, says is up
    Raises
    ------
    MeshInvalid : indices lead outside, positions are not finite, or there are too many triangles
    Examples
    --------
    >>> points = np.float32([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    >>> Shape(points, np.arange(4, dtype=np.int32), np.int32([4])).triangles.tolist()
    [[0, 1, 2], [0, 2, 3]]
    """

    points: FloatArray
    corners: IntArray
    counts: IntArray
    uv: FloatArray | None = None
    second_uv: FloatArray | None = None
    normals: FloatArray | None = None
    given_tangents: FloatArray | None = None
    material: IntArray = field(default_factory=lambda: np.zeros(0, np.int32))
    materials: tuple[str, ...] = ("",)
    part: IntArray = field(default_factory=lambda: np.zeros(0, np.int32))
    parts: tuple[str, ...] = ("",)
    scales: tuple[tuple[float, float, float], ...] = ()
    up: Literal["y", "z"] = "y"

    def __post_init__(self) -> None:
        if not len(self.material):
            object.__setattr__(self, "material", np.zeros(len(self.counts), np.int32))
        if not len(self.part):
            object.__setattr__(self, "part", np.zeros(len(self.counts), np.int32))
        if not len(self.counts):
            raise MeshInvalid("the mesh has no faces. Export it with its polygons.")
        triangles = int(self.counts.sum()) - 2 * len(self.counts)
        if triangles > MAX_TRIANGLES:
            raise MeshInvalid(
                f"the mesh has {triangles:,} triangles, and {MAX_TRIANGLES:,} are the most. Reduce it, or bring it in parts."
            )
        if int(self.counts.min()) < 3:
            raise MeshInvalid("a face has fewer than three corners. Clean the mesh up where it was made.")
        low, high = int(self.corners.min()), int(self.corners.max())
        if low < 0 or high >= len(self.points):
            raise MeshInvalid(
                f"a face asks for point {high if low >= 0 else low}, and there are {len(self.points)}. Export it anew."
            )
        bad = ~np.isfinite(self.points).all(1)
        if bad.any():
            raise MeshInvalid(f"{int(bad.sum())} points lie nowhere (their position is no number). Export the mesh anew.")

    @cached_property
    def starts(self) -> IntArray:
        """The first corner of each polygon, (F,)."""
        return (np.cumsum(self.counts) - self.counts).astype(np.int32)

    @cached_property
    def _split(self) -> tuple[IntArray, IntArray]:
        at = self.points[self.corners]
        return triangulated(at, self.starts, self.counts)

    @property
    def triangles(self) -> IntArray:
        """Corners of each triangle, (T, 3): a fan where a polygon is convex, ears else."""
        return self._split[0]

    @property
    def polygon_of(self) -> IntArray:
        """The polygon of each triangle, (T,)."""
        return self._split[1]

    def by_triangle(self, values: FloatArray | IntArray) -> Any:
        """What corners hold, (C, ...), triangle by triangle, (T, 3, ...): where all are triangles, the same numbers in place."""
        if len(self.triangles) == len(self.counts):
            return values.reshape(-1, 3, *values.shape[1:])
        return values[self.triangles]

    @cached_property
    def faces(self) -> IntArray:
        """Points of each triangle, (T, 3)."""
        return self.by_triangle(self.corners)

    @cached_property
    def at(self) -> FloatArray:
        """Positions of each triangle's corners, (T, 3, 3)."""
        return self.points[self.faces]

    @cached_property
    def bent(self) -> np.ndarray:
        """Which polygons are concave or not flat, (F,), so that another triangulation would be another surface."""
        return bent_or_concave(self.points[self.corners], self.starts, self.counts)

    @cached_property
    def size(self) -> float:
        """The diagonal of the box around it."""
        used = self.points[np.unique(self.corners)]
        return float(np.linalg.norm(used.max(0) - used.min(0)))

    @cached_property
    def shading(self) -> FloatArray:
        """Normals of the corners, (C, 3): the file's, or smooth ones by position where it has none."""
        if self.normals is not None:
            return self.normals
        return smooth_normals(self)[self.corners]

    @property
    def name(self) -> str:
        return next((part for part in self.parts if part), "mesh")


def smooth_normals(shape: Shape) -> FloatArray:
    """One normal for each point, (P, 3): that of its faces, by their angles there; equal positions share one.

    References
    ----------
    Thürmer & Wüthrich 1998.
    Examples
    --------
    >>> flat = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]))
    >>> smooth_normals(flat)[0].tolist()
    [0.0, 0.0, 1.0]
    """
    at = shape.at.astype(np.float64)
    weighted = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    length = np.linalg.norm(weighted, axis=1, keepdims=True)
    unit = weighted / np.maximum(length, 1e-300)
    same = welded(shape.points)
    sums = np.zeros((int(same.max()) + 1, 3))
    for k in range(3):
        left, right = at[:, (k + 1) % 3] - at[:, k], at[:, (k + 2) % 3] - at[:, k]
        angle = np.arctan2(np.linalg.norm(np.cross(left, right), axis=1), (left * right).sum(1))
        place = same[shape.faces[:, k]]
        for axis in range(3):
            sums[:, axis] += np.bincount(place, unit[:, axis] * angle, len(sums))
    length = np.linalg.norm(sums, axis=1, keepdims=True)
    sums = np.where(length > 1e-12, sums / np.maximum(length, 1e-12), (0.0, 0.0, 1.0))
    return sums[same].astype(np.float32)


def welded(rows: np.ndarray) -> IntArray:
    """For each row of (N, K) numbers the number of the value that it has, by first appearance; 0 and -0 are equal.

    Examples
    --------
    >>> welded(np.float32([[1, 2], [0, 1], [1, 2]])).tolist()
    [0, 1, 0]
    """
    return _numbered(np.ascontiguousarray(rows + np.float32(0), np.float32).view(np.uint32))


@numba.njit(nogil=True, cache=True)
def _numbered(bits):
    """Rows of bits numbered by first appearance: a table of twice their count, open addressing."""
    many, wide = bits.shape
    room = 1
    while room < 2 * many:
        room *= 2
    table, first, out = np.full(room, -1, np.int32), np.empty(many, np.int32), np.empty(many, np.int32)
    found = 0
    for i in range(many):
        h = np.uint32(2166136261)
        for k in range(wide):
            h = np.uint32((h ^ bits[i, k]) * np.uint32(16777619))
            h = np.uint32(h ^ (h >> np.uint32(15)))
        at = np.int64(h) & (room - 1)
        while table[at] >= 0 and not (bits[first[table[at]]] == bits[i]).all():
            at = (at + 1) & (room - 1)
        if table[at] < 0:
            table[at], first[found] = found, i
            found += 1
        out[i] = table[at]
    return out
