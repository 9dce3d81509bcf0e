"""How one set is made, taken over by another: its derivations and their parameters, never its files."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from ..errors import RecipeInvalid
from .model import Recipe, origin_of
from .operations import OPERATIONS
from .origins import ONE_VALUE, with_origin

__all__ = ["Way", "Ways", "ways_of", "with_ways"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)


class Way(_Value):
    """One master's derivation. Picks stay behind: they are spots of one picture."""

    op: str
    params: dict[str, Any] = {}


class Ways(_Value):
    """Derivations by master, parents first, and the rise they were judged at."""

    schema_: int = Field(default=1, alias="schema", ge=1, le=1)
    rise: float = Field(gt=0, le=1)
    masters: dict[str, Way]


def ways_of(recipe: Recipe) -> Ways:
    """What of a recipe another set can take over."""
    found: dict[str, Way] = {}

    def take(key: str) -> None:
        made = recipe.node_of(key)
        if key in found or made is None:
            return
        for ref in made[1].inputs.values():
            if ref.startswith("master:") and ref[7:] in recipe.masters:
                take(ref[7:])
        found[key] = Way(op=made[1].op, params={name: value for name, value in made[1].params.items() if name != "picks"})

    for key in recipe.masters:
        take(key)
    return Ways(rise=recipe.facts.rise, masters=found)


def with_ways(recipe: Recipe, ways: Ways) -> tuple[Recipe, list[str]]:
    """The recipe made in those ways as far as it can be, and the masters that kept their own.

    Given maps stay; a derivation whose inputs this set lacks is left out. Raises RecipeInvalid for parameters out of range.
    """
    kept = []
    for master, way in ways.masters.items():
        if origin_of(recipe, master) == "given":
            kept.append(master)
            continue
        try:
            changed = with_origin(recipe, master, ONE_VALUE if way.op == "constant" else f"op:{way.op}")
        except RecipeInvalid:
            kept.append(master)
            continue
        recipe = _with_params(changed, master, way)
    if "height" in ways.masters and "height" not in kept:
        recipe = recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"rise": ways.rise})})
    return recipe, kept


def _with_params(recipe: Recipe, master: str, way: Way) -> Recipe:
    made = recipe.node_of(master)
    assert made is not None  # with_origin has just made it
    name, node = made
    params = {**way.params, **({"picks": node.params["picks"]} if "picks" in node.params else {})}
    try:
        OPERATIONS[node.op].params(**params)
    except ValueError as problem:
        raise RecipeInvalid(f"{master}: {problem}", master=master) from problem
    return recipe.model_copy(update={"nodes": {**recipe.nodes, name: node.model_copy(update={"params": params})}})
