"""Baked maps as sources of a set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal

from ..baked_maps import MapName
from ..quantities import quantity
from ..recipe import BakedFrom, Recipe, Source, source_ref
from ..recipe.model import without_fitted_rise
from ..recipe.refs import Ref

__all__ = ["BakedPicture", "size_of_bake", "source_name", "with_baked"]

_SHARP: tuple[MapName, ...] = ("id",)
_WIDE: tuple[MapName, ...] = ("normal", "object_normal", "position", "id")
_GREEN: Mapping[MapName, Literal["up"]] = MappingProxyType({"normal": "up"})
_MOST_RISE = 1.0


@dataclass(frozen=True)
class BakedPicture:
    """One baked map as it was written: its file, and how it came to be.

    ``rise`` is what of the picture's width stored 0 to 1 of a height spans, None for others; ``up`` the mesh's axis.
    """

    sha256: str
    name: str
    size: int
    depth: Literal[8, 16]
    made: BakedFrom
    rise: float | None = None
    up: Literal["y", "z"] = "y"


def source_name(map: MapName) -> str:
    """What the source of a baked map is called in a recipe."""
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
