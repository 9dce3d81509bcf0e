"""Baked maps as sources of a set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any, Literal

from ..baked_maps import MapName
from ..errors import RecipeInvalid
from ..mesh.shape import Shape
from ..mesh.udim import are_copies, tiles_of
from ..quantities import quantity
from ..recipe import BakedFrom, Recipe, Source, source_ref
from ..recipe.model import TileFile, without_fitted_rise
from ..recipe.refs import Ref

__all__ = ["BakedPicture", "size_of_bake", "source_name", "tiles_of_bake", "with_baked"]

_SHARP: tuple[MapName, ...] = ("id",)
_WIDE: tuple[MapName, ...] = ("normal", "object_normal", "position", "id")
_GREEN: Mapping[MapName, Literal["up"]] = MappingProxyType({"normal": "up"})
_MOST_RISE = 1.0


@dataclass(frozen=True)
class BakedPicture:
    """One baked map as it was written: its file, and how it came to be.

    ``rise`` is what of the picture's width stored 0 to 1 of a height spans, None for others; ``up`` the mesh's axis. In tiles
    it is the file of ``tile``, and ``beside`` has those of the others.
    """

    sha256: str
    name: str
    size: int
    depth: Literal[8, 16]
    made: BakedFrom
    rise: float | None = None
    up: Literal["y", "z"] = "y"
    tile: int | None = None
    beside: Mapping[int, TileFile] = field(default_factory=dict)


def source_name(map: MapName) -> str:
    """What the source of a baked map is called in a recipe.

    Examples
    --------
    >>> source_name("occlusion")
    'mesh_occlusion'
    """
    return f"mesh_{map}"


def size_of_bake(recipe: Recipe) -> int:
    """Size in texels of the maps that are baked for a set: what was asked for, else the longer side of its files.

    Examples
    --------
    >>> from ..recipe import Facts
    >>> size_of_bake(Recipe(facts=Facts(width=1024, height=512)))
    1024
    """
    whole = recipe.frame or recipe.facts
    asked = None if recipe.worn is None else recipe.worn.size
    return asked or max(8, min(8192, max(whole.width, whole.height)))


def tiles_of_bake(recipe: Recipe, low: Shape) -> tuple[int, ...]:
    """UDIM numbers of the tiles that are baked for a set; none where it is one picture.

    A set in tiles is baked tile by tile. One without files of its own is where its mesh lies in tiles, unless these are copies
    of the first, or it was told otherwise.

    Raises
    ------
    RecipeInvalid : the set lies in tiles, and the UV of the mesh do not
    Examples
    --------
    >>> import numpy as np
    >>> from ..recipe import Facts
    >>> uv = np.float32([[0, 0], [1, 0], [0, 1], [1, 0], [2, 0], [2, 1]])
    >>> low = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(6, dtype=np.int32), np.int32([3, 3]), uv=uv)
    >>> tiles_of_bake(Recipe(facts=Facts(width=8, height=8)), low)
    (1001, 1002)
    """
    tiles, own = tiles_of(low), [source for source in recipe.sources.values() if source.baked is None]
    if any(source.tiles for source in own):
        if not tiles:
            raise RecipeInvalid(
                f"the set lies in tiles, and the UV of {low.name} do not: a face reaches over a border, or lies beside all tiles."
            )
        return tiles
    told = None if recipe.worn is None else recipe.worn.is_in_tiles
    if own or len(tiles) < 2 or told is False:
        return ()
    return tiles if told or not are_copies(low) else ()


def with_baked(recipe: Recipe, pictures: Sequence[BakedPicture]) -> Recipe:
    """The recipe with baked maps as its sources.

    One that was baked before is replaced, and what is told of it stays. A master that was derived, constant or absent comes
    from its baked map from now on; one that a file gives keeps that file, and the baked map is there to be chosen.

    Examples
    --------
    >>> from ..recipe import Facts
    >>> made = BakedFrom(map="occlusion", low="1" * 64)
    >>> bare = Recipe(facts=Facts(width=8, height=8))
    >>> with_baked(bare, [BakedPicture("0" * 64, "pin_occlusion.png", 8, 16, made)]).masters
    {'occlusion': 'source:mesh_occlusion:occlusion'}
    """
    sources: dict[str, Source] = dict(recipe.sources)
    masters: dict[str, Ref] = dict(recipe.masters)
    facts: dict[str, Any] = {}
    for picture in pictures:
        map = picture.made.map
        name, key = source_name(map), quantity(map).key
        changed: dict[str, Any] = {
            "sha256": picture.sha256,
            "name": picture.name,
            "width": picture.size,
            "height": picture.size,
            "depth": picture.depth,
            "tile": picture.tile,
            "beside": dict(picture.beside),
            "baked": picture.made,
        }
        before = sources.get(name)
        if before is not None:
            sources[name] = before.model_copy(update=changed)
        else:
            reads: dict[Any, str] = {"RGB" if map in _WIDE else "L": key}
            sampling = "nearest" if map in _SHARP else None
            changed |= {"object_up": picture.up}
            sources[name] = Source(**changed, reads=reads, green=_GREEN.get(map), sampling=sampling, fit="stretch")
        now = masters.get(key)
        if now is None or now.kind != "source":
            masters[key] = source_ref(name, key)
        if picture.rise is not None and masters[key] == source_ref(name, key):
            facts = {"rise": min(max(picture.rise, 1e-6), _MOST_RISE), "rise_from": "baked", "rise_fit": None}
    changed_facts = recipe.facts.model_copy(update=facts) if facts else recipe.facts
    grown = recipe.model_copy(update={"sources": sources, "masters": masters, "facts": changed_facts})
    return without_fitted_rise(grown)
