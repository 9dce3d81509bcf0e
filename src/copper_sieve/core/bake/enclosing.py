"""How much of a high mesh lies outside of the cage that rays start from: no ray from there sees it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..bands import NEVER, Cancel
from ..raster import FloatArray
from .bvh import OwnCaster
from .cast import hits
from .places import Places, made_unit, scattered

__all__ = ["Facing", "Outside", "outside_of"]

_TRIED, _LEAST_TRIED = 1 << 15, 1 << 10
_FARTHEST = 0.1  # of the size
_OFF = 1e-6  # of the size


class Facing(NamedTuple):
    """What is baked from each other, in triangles: of the low mesh its corners, UV and ways to the cage; of the high corners."""

    low: FloatArray  # (T, 3, 3)
    uv: FloatArray  # (T, 3, 2)
    ways: FloatArray  # (T, 3, 3)
    high: FloatArray  # (T', 3, 3)


class Outside(NamedTuple):
    """Of what lies close to the low mesh: the share outside of the cage, and where over the picture (from the upper left)."""

    share: float
    where: tuple[float, float, float, float] | None


def outside_of(facing: Sequence[Facing], size: float, *, cancel: Cancel = NEVER) -> Outside:
    """Measure at places spread by area over the high mesh, or over each part that is baked from its own partner.

    Parameters
    ----------
    size : of the low mesh; what lies farther than a tenth of it from the low mesh belongs to something else
    Returns
    -------
    outside : share 0 where nothing of the high mesh lies close to the low one
    Examples
    --------
    >>> low = np.float32([[[0, 0, 0], [1, 0, 0], [0, 1, 0]]])
    >>> up = np.zeros_like(low)
    >>> up[..., 2] = 0.02
    >>> [outside_of([Facing(low, low[..., :2], k * up, low + 2 * up)], 1.0).share for k in (1, 3)]
    [1.0, 0.0]
    """
    beside, outside, places = 0, 0, []
    for one in facing:
        at, way = _places_on(one.high, max(_TRIED // len(facing), _LEAST_TRIED))
        reach = np.full(len(at), _FARTHEST * size, np.float32)
        own, cage = OwnCaster(one.low, cancel=cancel), one.low + one.ways
        under = hits(own, at + way * np.float32(_OFF * size), -way, reach)
        above = hits(
            OwnCaster(cage, cancel=cancel), at, way, reach + np.float32(np.linalg.norm(one.ways, axis=-1).max(initial=0))
        )
        is_under = _looks_alike(one.low, hits(own, at, way, reach).triangle, way)
        is_over = _looks_alike(one.low, under.triangle, way)
        is_outside = is_over & ~_looks_alike(cage, above.triangle, way)
        beside, outside = beside + int((is_over | is_under).sum()), outside + int(is_outside.sum())
        met = (values[is_outside] for values in (under.triangle, under.second, under.third))
        places.append(Places(np.arange(int(is_outside.sum())), *met).of(one.uv))
    if not outside:
        return Outside(0.0, None)
    u, v = np.concatenate(places).T.clip(0, 1)
    return Outside(outside / beside, (float(u.min()), float(1 - v.max()), float(u.max()), float(1 - v.min())))


def _places_on(at: FloatArray, many: int) -> tuple[FloatArray, FloatArray]:
    """Places on triangles (N, 3), as many on equal areas, and the normals of the faces that they lie on."""
    places = scattered(at, many)
    across = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    return places.of(at), made_unit(across[places.triangle])


def _looks_alike(at: FloatArray, triangle: np.ndarray, way: FloatArray) -> np.ndarray:
    """Whether something was met that looks the same way."""
    met = at[np.maximum(triangle, 0)]
    return (triangle >= 0) & ((np.cross(met[:, 1] - met[:, 0], met[:, 2] - met[:, 0]) * way).sum(1) > 0)
