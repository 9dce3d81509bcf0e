"""Parts that belong together by name: rays from one low part see its own high part alone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..mesh.made import only
from ..mesh.pairing import role_of
from ..mesh.shape import IntArray, Shape
from ..raster import FloatArray
from .cast import Caster, Hits, hits

__all__ = ["Parted", "Partners", "partners_of"]

_NONE = -1


@dataclass(frozen=True)
class Partners:
    """Which part is baked from which.

    Parameters
    ----------
    low, high : (T,) int32 of each triangle, the number of its group; -1 for what has no partner and is left out
    count : how many groups there are
    """

    low: IntArray
    high: IntArray
    count: int


def partners_of(low: Shape, high: Shape) -> Partners | None:
    """Parts of two meshes by the name that they share; what says of itself neither low nor high belongs to all of its kind.

    Returns
    -------
    partners : None where everything is one group, so that nothing has to be told apart
    Examples
    --------
    >>> flat = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]])
    >>> both = {"corners": np.int32([0, 1, 2, 0, 1, 2]), "counts": np.int32([3, 3]), "part": np.int32([0, 1])}
    >>> low, high = (Shape(flat, **both, parts=(f"pin_{end}", f"roller_{end}")) for end in ("low", "high"))
    >>> found = partners_of(low, high)
    >>> found.low.tolist(), found.high.tolist()
    ([0, 1], [0, 1])
    """
    named = {side: [_stem(name, side) for name in shape.parts] for side, shape in (("low", low), ("high", high))}
    used = {side: {named[side][k] for k in np.unique(shape.part)} for side, shape in (("low", low), ("high", high))}
    shared = sorted(used["low"] & used["high"], key=lambda stem: (stem is not None, stem or ""))
    if len(shared) == 1 and used["low"] == used["high"]:
        return None
    if not any(stem is not None for stem in shared):
        return None  # names that pair nowhere say nothing
    number = {stem: k for k, stem in enumerate(shared)}
    of = {
        side: np.array([number.get(stem, _NONE) for stem in named[side]], np.int32)[shape.part[shape.polygon_of]]
        for side, shape in (("low", low), ("high", high))
    }
    return Partners(of["low"], of["high"], len(shared))


def _stem(name: str, side: str) -> str | None:
    stem, role = role_of(name)
    return stem.casefold() if role == side else None


@dataclass(frozen=True)
class Parted:
    """A caster for each group of partners, and the triangles of the whole high mesh that each one's are."""

    low: IntArray
    casters: tuple[Caster, ...]
    triangles: tuple[IntArray, ...]

    @classmethod
    def of(cls, high: Shape, partners: Partners, caster_for: Callable[[Shape], Caster]) -> Parted:
        triangles = tuple(np.flatnonzero(partners.high == k).astype(np.int32) for k in range(partners.count))
        polygons = [np.bincount(high.polygon_of[rows], minlength=len(high.counts)) > 0 for rows in triangles]
        return cls(partners.low, tuple(caster_for(only(high, which)) for which in polygons), triangles)

    def hits(self, origins: FloatArray, directions: FloatArray, reach: FloatArray, low_triangle: IntArray) -> Hits:
        """As ``cast.hits``, each ray in the group of the low triangle that it starts from."""
        many = len(origins)
        nothing = np.full(many, np.inf, np.float32)
        found = Hits(nothing, np.full(many, -1, np.int32), np.zeros(many, np.float32), np.zeros(many, np.float32))
        group = self.low[low_triangle]
        for k, (caster, triangles) in enumerate(zip(self.casters, self.triangles)):
            which = np.flatnonzero(group == k)
            if len(which):
                met = hits(caster, origins[which], directions[which], reach[which])
                found.triangle[which] = np.where(met.triangle >= 0, triangles[np.maximum(met.triangle, 0)], -1)
                for ours, theirs in zip((found.distance, found.second, found.third), (met.distance, met.second, met.third)):
                    ours[which] = theirs
        return found
