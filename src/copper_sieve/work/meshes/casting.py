"""Which caster there is: a library's where it is installed, our own else. Both find the same."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from typing import Any

import numpy as np

from ...core.bake.bvh import OwnCaster, exactly
from ...core.bake.cast import Caster, Hits
from ...core.bake.parting import Parted, partners_of
from ...core.bands import CORES, NEVER, Cancel, in_parts
from ...core.mesh.shape import Shape
from ...core.raster import FloatArray

__all__ = ["EmbreeCaster", "caster_for", "parted_for"]

_log = logging.getLogger(__name__)
_PART = 1 << 16  # rays handed over at once


class EmbreeCaster:
    """Casts rays by Embree. Bit-equal however rays are parted."""

    name = "embree"

    def __init__(self, shape: Shape, *, cancel: Cancel = NEVER) -> None:
        from embreex.mesh_construction import TriangleMesh  # type: ignore[import-not-found]
        from embreex.rtcore_scene import EmbreeScene  # type: ignore[import-not-found]

        self._scene: Any = EmbreeScene(robust=True)
        self._points, self._faces = shape.points, shape.faces
        self._mesh = TriangleMesh(self._scene, shape.points, shape.faces)
        self._cancel = cancel

    def run(self, origins: FloatArray, directions: FloatArray, reach: FloatArray, any_hit: bool) -> Hits:
        """What each ray meets first, as ``Caster`` says."""

        def cast(part: slice) -> np.ndarray:
            self._cancel.check()
            rays = origins[part], directions[part]
            if any_hit:  # 0 is met, −1 is free
                return self._scene.run(*rays, dists=reach[part].copy(), query="OCCLUDED").astype(np.int32)
            return self._scene.run(*rays, dists=reach[part].copy(), output=1)["primID"].astype(np.int32)

        triangle = np.concatenate([np.zeros(0, np.int32), *in_parts(cast, _parts(len(origins)))])
        if any_hit:
            nothing = np.zeros(len(triangle), np.float32)
            return Hits(nothing, triangle, nothing, nothing)
        # it works in float32: which triangle is met is right, where on it is found anew
        distance, second, third = exactly(self._points, self._faces, triangle, origins, directions)
        return Hits(distance, triangle, second, third)


def _parts(many: int) -> Iterator[slice]:
    step = max(_PART, -(-many // (8 * CORES)))
    return (slice(first, min(first + step, many)) for first in range(0, many, step))


def parted_for(low: Shape, high: Shape | None, *, cancel: Cancel = NEVER) -> Parted | None:
    """Casters for parts that pair by name; None where nothing has to be told apart."""
    partners = None if high is None else partners_of(low, high)
    if high is None or partners is None:
        return None
    return Parted.of(high, partners, lambda shape: caster_for(shape, cancel=cancel))


def caster_for(shape: Shape, *, cancel: Cancel = NEVER) -> Caster:
    """The quicker caster for a shape, where it is installed; our own else."""
    try:
        return EmbreeCaster(shape, cancel=cancel)
    except ImportError:
        _log.info("embreex is not installed: rays are cast by our own tree")
        return OwnCaster(shape.at, cancel=cancel)
