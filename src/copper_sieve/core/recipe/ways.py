"""How one set is made, taken over by another: its derivations and their parameters, never its files."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from ..errors import RecipeInvalid
from .model import Node, Recipe, origin_of
from .origins import ONE_VALUE, with_mask, with_origin
from .refs import Ref
from .steps import operation_of, with_params

__all__ = ["Way", "Ways", "ways_of", "with_ways"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True)


class Way(_Value):
    """One master's derivation. Picks stay behind: they are spots of one picture.

    ``other`` and ``mask`` are of a mix: how the map that a given one is mixed with is derived, and the master that limits it.
    """

    op: str
    algorithm: int = Field(default=1, ge=1)
    params: dict[str, Any] = {}
    other: Way | None = None
    mask: str | None = None


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
            if ref.kind == "master" and ref.name in recipe.masters:
                take(ref.name)
        found[key] = _way(recipe, made[1])

    for key in recipe.masters:
        take(key)
    return Ways(rise=recipe.facts.rise, masters=found)


def _way(recipe: Recipe, node: Node) -> Way:
    other, mask = _mixed_in(node), node.inputs.get("mask")
    return Way(
        op=node.op,
        algorithm=node.algorithm,
        params={name: value for name, value in node.params.items() if name != "picks"},
        other=_way(recipe, recipe.nodes[other.name]) if other is not None and other.kind == "node" else None,
        mask=mask if mask is not None and mask.kind == "master" else None,
    )


def _mixed_in(node: Node) -> Ref | None:
    """What a mix mixes in, None for what is no mix."""
    mixes = operation_of(node).mixes
    return None if mixes is None else node.inputs[mixes[1].key]


def _origin(way: Way) -> str:
    if way.other is not None:
        return f"mix:{_origin(way.other)}"
    return ONE_VALUE if way.op == "constant" else f"op:{way.op}"


def with_ways(recipe: Recipe, ways: Ways) -> tuple[Recipe, list[str]]:
    """The recipe made in those ways as far as it can be, and the masters that kept their own.

    Given maps stay; a derivation whose inputs this set lacks is left out. Raises RecipeInvalid for parameters out of range.
    """
    kept = []
    for master, way in ways.masters.items():
        if origin_of(recipe, master) == "given" and way.other is None:
            kept.append(master)
            continue
        try:
            changed = with_origin(recipe, master, _origin(way))
            changed = with_mask(changed, master, way.mask) if way.mask is not None else changed
        except RecipeInvalid:
            kept.append(master)
            continue
        recipe = _with_params(changed, master, way)
    if "height" in ways.masters and "height" not in kept:
        recipe = recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"rise": ways.rise, "rise_from": "told"})})
    return recipe, kept


def _with_params(recipe: Recipe, master: str, way: Way) -> Recipe:
    made = recipe.node_of(master)
    assert made is not None  # with_origin has just made it
    recipe = _told(recipe, made[0], master, way)
    other = _mixed_in(made[1])
    return recipe if way.other is None or other is None else _told(recipe, other.name, master, way.other)


def _told(recipe: Recipe, name: str, master: str, way: Way) -> Recipe:
    node = recipe.nodes[name].model_copy(update={"algorithm": way.algorithm})
    params = {**way.params, **({"picks": node.params["picks"]} if "picks" in node.params else {})}
    try:
        return with_params(recipe.model_copy(update={"nodes": {**recipe.nodes, name: node}}), name, params)
    except RecipeInvalid as problem:
        raise RecipeInvalid(f"{master}: {problem.message}", master=master) from problem
