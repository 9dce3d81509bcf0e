"""The mesh that wears a set: which files, how its maps are baked, and whether those that were are still true of it."""

from __future__ import annotations

from typing import Annotated, Any, Protocol

import numpy as np
from pydantic import Field

from ..baked_maps import MapName
from ..raster import Size
from ..tiles import MAX_TILES
from ..value import Value

__all__ = ["BakedFrom", "MeshRef", "Meshes", "Worn"]

Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
_MOST = 16  # high meshes of one bake
_SAME_OFFSET = 1e-6


class MeshRef(Value):
    """A mesh file as it came; ``print`` tells its shape, so that one saved again without a change is the same."""

    sha256: Sha256
    name: str = Field(max_length=1024)
    print: Sha256
    triangles: int = Field(ge=1)


class Worn(Value):
    """The low mesh that wears a set, and what is baked to it from where.

    ``offset`` is how far above the low mesh rays start, in % of the diagonal of its box; None: found from the two meshes.
    """

    low: MeshRef
    material: int = Field(default=0, ge=0, description="Which of the mesh's materials the set is")
    called: str = Field(default="", max_length=1024, description="That material's name")
    high: tuple[MeshRef, ...] = Field(default=(), max_length=_MOST)
    cage: MeshRef | None = None
    offset: float | None = Field(default=None, gt=0, le=50)
    maps: tuple[MapName, ...] = Field(default=("normal", "occlusion", "curvature"), max_length=8)
    size: int | None = Field(default=None, ge=8, le=8192, description="Of the baked maps; None: as the set")
    samples: int = Field(default=1, ge=1, le=4, description="Of each texel, each way")
    rays: int = Field(default=64, ge=1, le=4096, description="Of each texel, for occlusion and thickness")
    is_in_tiles: bool | None = Field(default=None, description="Baked tile by tile; None: where the UV lie so")
    is_padded: bool = Field(default=True, description="Delivered maps go on beyond the islands' borders")

    def told_by(self, before: Worn | None) -> Worn:
        """This one with the settings of a bake that were told before."""
        kept = ("offset", "maps", "size", "samples", "rays", "is_in_tiles", "is_padded")
        return self if before is None else self.model_copy(update={name: getattr(before, name) for name in kept})

    @property
    def meshes(self) -> tuple[MeshRef, ...]:
        """Every file that it names."""
        return (self.low, *self.high, *((self.cage,) if self.cage is not None else ()))


class BakedFrom(Value):
    """What a map was baked from and how, so that it can be told when that has changed.

    ``far`` is the offset that was used, in units of the mesh; ``offset`` as it was asked for.
    """

    map: MapName
    low: Sha256
    material: int = 0
    high: tuple[Sha256, ...] = ()
    cage: Sha256 | None = None
    offset: float | None = None
    far: float = Field(default=0, ge=0)
    samples: int = 1
    rays: int = 256
    caster: str = ""
    missed: float = Field(default=0, ge=0, le=1, description="Share of the covered texels whose rays met nothing")
    missed_map: Sha256 | None = Field(default=None, description="The picture that shows where")
    missed_in_tiles: dict[int, Sha256] = Field(default={}, max_length=MAX_TILES, description="Those of a set in tiles, by tile")
    low_end: tuple[float, ...] = Field(default=(), max_length=3, description="What stored 0 means, in units of the mesh")
    high_end: tuple[float, ...] = Field(default=(), max_length=3, description="What stored 1 means")

    def stale(self, worn: Worn | None) -> tuple[str, ...]:
        """What has changed since it was baked, in words; nothing where it is true of the mesh that wears the set now.

        Examples
        --------
        >>> mesh = MeshRef(sha256="0" * 64, name="pin_low.obj", print="1" * 64, triangles=12)
        >>> made = BakedFrom(map="normal", low="1" * 64, high=("1" * 64,), offset=1.2)
        >>> made.stale(Worn(low=mesh, high=(mesh,), offset=1.2)), made.stale(Worn(low=mesh, high=(mesh,), offset=2))
        ((), ('the offset is 2 % now, and was 1.2 %',))
        """
        if worn is None:
            return ("no mesh wears the set any more",)
        why = []
        if self.low != worn.low.print or self.material != worn.material:
            why.append("the low mesh is another one")
        if self.map == "position":
            return tuple(why)
        if sorted(self.high) != sorted(mesh.print for mesh in worn.high):
            why.append("the high mesh is another one")
        if not self.high:
            return tuple(why)
        cage = None if worn.cage is None else worn.cage.print
        if self.cage != cage:
            why.append("the cage is another one" if self.cage and cage else "a cage was added" if cage else "the cage is gone")
        elif cage is None and not _same(self.offset, worn.offset):
            why.append(f"the offset is {_said(worn.offset)} now, and was {_said(self.offset)}")
        return tuple(why)


def _same(a: float | None, b: float | None) -> bool:
    return a == b if a is None or b is None else abs(a - b) <= _SAME_OFFSET


def _said(offset: float | None) -> str:
    return "found by itself" if offset is None else f"{offset:g} %"


class Meshes(Protocol):
    """What an evaluation asks of the meshes that sets are worn by."""

    def shape(self, worn: Worn, tile: int | None = None) -> Any:
        """The part of the low mesh that wears the set, or one of its tiles, as ``core.mesh.Shape``.

        Raises SieveError where it cannot be read, MeshInvalid where nothing of it lies in that tile.
        """
        ...

    def tiles(self, worn: Worn) -> tuple[int, ...]:
        """UDIM numbers of the tiles that the part's UV lie in; none where they do not lie in tiles."""
        ...

    def is_whole(self, worn: Worn) -> bool:
        """Whether all of the low mesh wears the set, and no other material is on it. Raises as ``shape``."""
        ...

    def nearest(self, worn: Worn, size: Size, tile: int | None) -> np.ndarray | None:
        """Row and column of the nearest texel that the mesh shows, (2, H, W) int16; None where the map is repeated over it."""
        ...
