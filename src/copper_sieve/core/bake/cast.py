"""Casting rays: what every caster does, whichever it is."""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np

from ..raster import FloatArray

__all__ = ["Caster", "Hits", "blocked", "hits"]


class Hits(NamedTuple):
    """Of each ray: how far the first surface is (infinite where there is none), its triangle (−1), and where on it."""

    distance: FloatArray
    triangle: np.ndarray
    second: FloatArray
    third: FloatArray


class Caster(Protocol):
    """Finds what rays meet among the triangles that it was made of.

    ``name`` says which it is, wherever a bake is told. ``run`` takes origins (N, 3), unit directions (N, 3) and how far each
    reaches (N,), all float32. With ``any_hit`` only whether something is met counts: ``triangle`` is 0 or more there, and the
    rest means nothing.
    """

    name: str

    def run(self, origins: FloatArray, directions: FloatArray, reach: FloatArray, any_hit: bool) -> Hits:
        """What each ray meets first."""
        ...


def hits(caster: Caster, origins: FloatArray, directions: FloatArray, reach: FloatArray) -> Hits:
    """What each ray meets first.

    Examples
    --------
    >>> from .bvh import OwnCaster
    >>> floor = OwnCaster(np.float32([[[0, 0, 0], [2, 0, 0], [0, 2, 0]]]))
    >>> found = hits(floor, np.float32([[0.5, 0.5, 1]]), np.float32([[0, 0, -1]]), np.float32([9]))
    >>> float(found.distance[0]), int(found.triangle[0])
    (1.0, 0)
    """
    return caster.run(*_plain(origins, directions, reach), False)


def blocked(caster: Caster, origins: FloatArray, directions: FloatArray, reach: FloatArray) -> np.ndarray:
    """Whether each ray meets anything, (N,).

    Examples
    --------
    >>> from .bvh import OwnCaster
    >>> floor = OwnCaster(np.float32([[[0, 0, 0], [2, 0, 0], [0, 2, 0]]]))
    >>> above, ways = np.float32([[0.5, 0.5, 1]] * 2), np.float32([[0, 0, -1], [0, 0, 1]])
    >>> blocked(floor, above, ways, np.float32([9, 9])).tolist()
    [True, False]
    """
    return caster.run(*_plain(origins, directions, reach), True).triangle >= 0


def _plain(origins: FloatArray, directions: FloatArray, reach: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    first, second, third = (np.ascontiguousarray(values, np.float32) for values in (origins, directions, reach))
    return first, second, third
