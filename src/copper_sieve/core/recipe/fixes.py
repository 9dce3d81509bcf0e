"""What one click mends: a finding's id to the next recipe. Undone like any other step."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

from ..errors import RecipeInvalid
from .model import Recipe, Source

__all__ = ["FIXES", "mended"]


def _source_of(recipe: Recipe, master: str) -> tuple[str, Source]:
    kind, name, *_ = recipe.masters.get(master, ":").split(":")
    if kind != "source":
        raise RecipeInvalid(f"{master} does not come from a file, so there is nothing to mend.", master=master)
    return name, recipe.sources[name]


def _with_source(recipe: Recipe, name: str, source: Source) -> Recipe:
    return recipe.model_copy(update={"sources": {**recipe.sources, name: source}})


def _turn_green(recipe: Recipe) -> Recipe:
    name, source = _source_of(recipe, "normal")
    return _with_source(recipe, name, source.model_copy(update={"green": "up" if source.green == "down" else "down"}))


def _read_as_gloss(recipe: Recipe) -> Recipe:
    name, source = _source_of(recipe, "roughness")
    now, then = ("gloss", "roughness") if "gloss" in source.reads.values() else ("roughness", "gloss")
    reads = {letters: then if key == now else key for letters, key in source.reads.items()}
    changed = _with_source(recipe, name, source.model_copy(update={"reads": reads}))
    return changed.model_copy(update={"masters": {**recipe.masters, "roughness": f"source:{name}:{then}"}})


FIXES: Mapping[str, tuple[str, Callable[[Recipe], Recipe]]] = MappingProxyType(
    {
        "green-misread": ("Turn green over", _turn_green),
        "mirror-like": ("Read it as gloss", _read_as_gloss),
    }
)


def mended(recipe: Recipe, finding_id: str) -> Recipe:
    """The recipe after the fix of a finding. Raises RecipeInvalid when there is none, or nothing to mend."""
    if finding_id not in FIXES:
        raise RecipeInvalid(f"there is no fix for {finding_id!r}; there are fixes for {', '.join(FIXES)}.")
    return FIXES[finding_id][1](recipe)
