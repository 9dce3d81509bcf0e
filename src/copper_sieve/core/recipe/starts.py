"""Starting points by kind of material: parameters that suit cloth, leather, bare metal and so on, as one table."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Any

from pydantic import Field, model_validator

from ..errors import RecipeInvalid, UnknownKey
from ..operations import OPERATIONS
from ..value import Value
from .model import Node, Recipe, origin_of
from .origins import ONE_VALUE, with_origin

__all__ = ["Start", "starts", "with_start"]

_PLAIN = "plain"


class Start(Value):
    """One kind: how far its relief leans, values of masters that are constant, and parameters by operation."""

    key: str
    title: str
    says: str
    tilt: float = Field(gt=0, lt=90, description="Mean tilt of a derived relief in degrees")
    constants: dict[str, float] = {}
    params: dict[str, dict[str, Any]] = {}

    @model_validator(mode="after")
    def _in_range(self) -> Start:
        for op, params in self.params.items():
            OPERATIONS[op].params(**params)
        return self


@cache
def starts() -> MappingProxyType[str, Start]:
    """All starting points by key, in the order they are offered; ``plain`` puts every parameter back to its default."""
    text = (resources.files("copper_sieve.core.recipe") / "starts.toml").read_text("utf-8")
    found = {key: _read(key, row) for key, row in tomllib.loads(text).items()}
    ops = {op: OPERATIONS[op].params().model_dump(mode="json") for op in next(iter(found.values())).params}
    plain = Start(key=_PLAIN, title="Plain", says="Every parameter as it is at first.", tilt=12, params=ops)
    return MappingProxyType({_PLAIN: plain, **found})


def _read(key: str, row: dict[str, Any]) -> Start:
    named = {name: row[name] for name in ("title", "says", "tilt")}
    rest = {name: value for name, value in row.items() if name not in named}
    constants = {name: value for name, value in rest.items() if not isinstance(value, dict)}
    return Start(key=key, **named, constants=constants, params={n: v for n, v in rest.items() if n not in constants})


def with_start(recipe: Recipe, key: str, only: str | None = None) -> Recipe:
    """The recipe whose derivations, or the one of the master ``only``, start as that kind of material does.

    Given maps and origins stay, and so does the rise: what leans as that kind does is known once the height is computed
    (``intake.facts.with_fitted_rise``). Raises UnknownKey, or RecipeInvalid where there is nothing to start from.
    """
    start = starts().get(key)
    if start is None:
        raise UnknownKey("starting point", key, list(starts()))
    if only is not None:
        return _one_started(recipe, start, only)
    if not any(node.op in start.params for node in recipe.nodes.values()):
        raise RecipeInvalid("nothing in this set is derived, so there is nothing to start from.", key=key)
    if start.constants.get("metallic") and origin_of(recipe, "metallic") == "absent":  # bare metal has to be said to be one
        recipe = with_origin(recipe, "metallic", ONE_VALUE)
    nodes = {name: _started(node, start) for name, node in recipe.nodes.items()}
    for master, value in start.constants.items():
        made = recipe.node_of(master)
        if made is not None and made[1].op == "constant":
            nodes[made[0]] = made[1].model_copy(update={"params": {"value": value}})
    return recipe.model_copy(update={"nodes": nodes})


def _one_started(recipe: Recipe, start: Start, master: str) -> Recipe:
    """The recipe in which one master alone starts anew."""
    made = recipe.node_of(master)
    if made is None:
        raise RecipeInvalid(f"{master} is not derived in this set, so there is nothing to start from.", master=master)
    name, node = made
    value = start.constants.get(master)
    if node.op == "constant" and value is not None:
        node = node.model_copy(update={"params": {"value": value}})
    elif start.key == _PLAIN and node.op != "constant":
        node = node.model_copy(update={"params": {}})
    else:
        node = _started(node, start)
    return recipe.model_copy(update={"nodes": {**recipe.nodes, name: node}})


def _started(node: Node, start: Start) -> Node:
    changed = start.params.get(node.op)
    if changed is None or node.algorithm != OPERATIONS[node.op].number:  # an older way keeps what it was told
        return node
    return node.model_copy(update={"params": {**node.params, **changed}})
