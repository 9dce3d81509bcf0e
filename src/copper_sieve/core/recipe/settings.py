"""The settings of a set, kept or used for another set: its derivations and their parameters, never its files."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import Field

from ..errors import RecipeInvalid
from ..value import Value
from .model import Node, Recipe, origin_of
from .origins import ONE_VALUE, with_mask, with_origin
from .refs import Ref
from .steps import operation_of, with_params

__all__ = ["Derivation", "Fit", "Settings", "fit_of", "settings_of", "with_settings"]


class Derivation(Value):
    """One master's derivation. Picks stay behind: they are spots of one picture.

    ``under``, ``other`` and ``mask`` are of a mix: how what lies under it is derived where no file gives that, how what is mixed
    in is, and the master that limits it.
    """

    op: str
    algorithm: int = Field(default=1, ge=1)
    params: dict[str, Any] = {}
    under: Derivation | None = None
    other: Derivation | None = None
    mask: str | None = None


class Settings(Value):
    """Derivations by master, parents first, and the rise they were judged at."""

    schema_: int = Field(default=1, alias="schema", ge=1, le=1)
    rise: float = Field(gt=0, le=1)
    masters: dict[str, Derivation]


@dataclass(frozen=True)
class Fit:
    """What settings would do to a set: masters that they change, that stay as given, and that lack what they are derived from."""

    changes: list[str]
    given: list[str]
    lacking: list[str]


def settings_of(recipe: Recipe) -> Settings:
    """The settings of a set: how each of its masters is derived, without its files and picks."""
    found: dict[str, Derivation] = {}

    def take(key: str) -> None:
        made = recipe.node_of(key)
        if key in found or made is None:
            return
        for ref in made[1].inputs.values():
            if ref.kind == "master" and ref.name in recipe.masters:
                take(ref.name)
        found[key] = _derivation(recipe, made[1])

    for key in recipe.masters:
        take(key)
    return Settings(rise=recipe.facts.rise, masters=found)


def _derivation(recipe: Recipe, node: Node) -> Derivation:
    mixed, mask = _mixed(node), node.inputs.get("mask")
    under, other = (None if ref is None or ref.kind != "node" else _derivation(recipe, recipe.nodes[ref.name]) for ref in mixed)
    return Derivation(
        op=node.op,
        algorithm=node.algorithm,
        params={name: value for name, value in node.params.items() if name != "picks"},
        under=under,
        other=other,
        mask=mask if mask is not None and mask.kind == "master" else None,
    )


def _mixed(node: Node) -> tuple[Ref | None, Ref | None]:
    """What lies under a mix and what it mixes in, None for what is no mix."""
    mixes = operation_of(node).mixes
    return (None, None) if mixes is None else (node.inputs[mixes[0].key], node.inputs[mixes[1].key])


def _origin(derivation: Derivation) -> str:
    if derivation.other is not None:
        return f"mix:{_origin(derivation.other)}"
    return ONE_VALUE if derivation.op == "constant" else f"op:{derivation.op}"


def with_settings(recipe: Recipe, settings: Settings) -> tuple[Recipe, list[str]]:
    """The recipe made by those settings as far as it can be, and the masters that kept their own.

    Given maps stay; a derivation whose inputs this set lacks is left out. Raises RecipeInvalid for parameters out of range.
    """
    after, given, lacking = _applied(recipe, settings)
    return after, [master for master in settings.masters if master in given or master in lacking]


def fit_of(recipe: Recipe, settings: Settings) -> Fit:
    """What those settings would change of a set, without changing it. Raises RecipeInvalid for parameters out of range."""
    after, given, lacking = _applied(recipe, settings)
    then, now = settings_of(after).masters, settings_of(recipe).masters
    return Fit([master for master in then if then[master] != now.get(master)], given, lacking)


def _applied(recipe: Recipe, settings: Settings) -> tuple[Recipe, list[str], list[str]]:
    """The recipe made by those settings, the masters that stay as given, and those that lack what they are derived from."""
    given: list[str] = []
    lacking: list[str] = []
    for master, derivation in settings.masters.items():
        if origin_of(recipe, master) == "given" and (derivation.other is None or derivation.under is not None):
            given.append(master)
            continue
        try:
            under = derivation.under
            changed = recipe if under is None else with_origin(recipe, master, _origin(under))
            changed = with_origin(changed, master, _origin(derivation))
            changed = with_mask(changed, master, derivation.mask) if derivation.mask is not None else changed
        except RecipeInvalid:
            lacking.append(master)
            continue
        recipe = _with_params(changed, master, derivation)
    if "height" in settings.masters and "height" not in given + lacking:
        recipe = recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"rise": settings.rise, "rise_from": "told"})})
    return recipe, given, lacking


def _with_params(recipe: Recipe, master: str, derivation: Derivation) -> Recipe:
    made = recipe.node_of(master)
    assert made is not None  # with_origin has just made it
    recipe = _told(recipe, made[0], master, derivation)
    for ref, told in zip(_mixed(made[1]), (derivation.under, derivation.other), strict=True):
        if ref is not None and ref.kind == "node" and told is not None:
            recipe = _told(recipe, ref.name, master, told)
    return recipe


def _told(recipe: Recipe, name: str, master: str, derivation: Derivation) -> Recipe:
    node = recipe.nodes[name].model_copy(update={"algorithm": derivation.algorithm})
    params = {**derivation.params, **({"picks": node.params["picks"]} if "picks" in node.params else {})}
    try:
        return with_params(recipe.model_copy(update={"nodes": {**recipe.nodes, name: node}}), name, params)
    except RecipeInvalid as problem:
        raise RecipeInvalid(f"{master}: {problem.message}", master=master) from problem
