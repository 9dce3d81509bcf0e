"""Where a master may come from: files that hold it, derivations whose inputs are there, one value, or nothing."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from types import MappingProxyType

from pydantic import ValidationError

from ..errors import RecipeInvalid
from ..quantities import QUANTITIES, quantity
from .model import Node, Recipe, Ref, node_ref, source_ref
from .operations import OPERATIONS, Operation

__all__ = ["ABSENT", "ONE_VALUE", "Choice", "choices", "with_origin"]

ONE_VALUE, ABSENT = "one-value", "absent"
# The master that feeds an operation's input; a photo and a given normal are found among the sources.
_FEEDS = MappingProxyType({"color": "base_color", "height": "height", "normal": "normal", "occlusion": "occlusion"})
_OWN = MappingProxyType({"base": "normal", "own_color": "base_color"})  # inputs that are the master as it was given
_DETAIL = "normal_detail"


@dataclass(frozen=True)
class Choice:
    """``key`` is what ``with_origin`` takes; ``is_now`` that the master comes from there."""

    key: str
    title: str
    is_now: bool


def _given(recipe: Recipe, wanted: str) -> Iterator[tuple[Ref, str]]:
    """Refs of sources that are read as what becomes the master ``wanted``, with their files' names."""
    for name, source in recipe.sources.items():
        for key in source.reads.values():
            row = QUANTITIES[key]
            if wanted in (key, row.master):
                yield source_ref(name, key), source.name


def choices(recipe: Recipe, master: str) -> list[Choice]:
    """Every way this set can come by ``master``, files first; only what works is offered."""
    now = recipe.masters.get(master)
    made = recipe.node_of(master)
    rows = [Choice(ref, f"given · {file}", ref == now) for ref, file in _given(recipe, master)]
    for operation in OPERATIONS.values():
        if master in operation.makes and operation.key != "constant":
            is_now = made is not None and made[1].op == operation.key
            if is_now or _possible(recipe, master, f"op:{operation.key}"):
                rows.append(Choice(f"op:{operation.key}", operation.title, is_now))
    is_constant = made is not None and made[1].op == "constant"
    return [*rows, Choice(ONE_VALUE, "one value", is_constant), Choice(ABSENT, "left out", now is None)]


def _possible(recipe: Recipe, master: str, key: str) -> bool:
    try:
        with_origin(recipe, master, key)
    except RecipeInvalid:
        return False
    return True


def with_origin(recipe: Recipe, master: str, key: str) -> Recipe:
    """The recipe in which ``master`` comes from ``key``: a source ref, ``op:NAME``, one value, or nothing.

    A node that made it before is found again with its parameters. Raises RecipeInvalid when an input is missing or would
    run in a circle.
    """
    if key == ABSENT:
        return _checked(recipe, recipe.nodes, {k: ref for k, ref in recipe.masters.items() if k != master})
    if key == ONE_VALUE:
        node = Node(op="constant", params={"value": quantity(master).absent_value().tolist()})
        name = f"one_{master}"
        nodes = {**recipe.nodes, name: recipe.nodes.get(name, node)}
        return _checked(recipe, nodes, {**recipe.masters, master: node_ref(name)})
    if not key.startswith("op:"):
        if key not in [ref for ref, _ in _given(recipe, master)]:
            raise RecipeInvalid(f"{master} is in no file of this set that is called {key!r}.", master=master)
        return _checked(recipe, recipe.nodes, {**recipe.masters, master: key})
    operation = OPERATIONS.get(key[3:])
    if operation is None or master not in operation.makes:
        makers = [f"op:{o.key}" for o in OPERATIONS.values() if master in o.makes]
        raise RecipeInvalid(f"{master} can be made by {', '.join(makers)} (got {key!r}).", master=master)
    return _derived(recipe, master, operation)


def _derived(recipe: Recipe, master: str, operation: Operation) -> Recipe:
    found = next((name for name, node in recipe.nodes.items() if node.op == operation.key), None)
    name, nodes = found or operation.key, dict(recipe.nodes)
    if found is None:
        if operation.key == "blend_normals":
            nodes[_DETAIL] = Node(op="normal_from_height", inputs={"height": "master:height"})
        nodes[name] = Node(op=operation.key, inputs={slot: _feed(recipe, slot) for slot in operation.inputs})
    ref = node_ref(name, master) if len(operation.makes) > 1 else node_ref(name)
    return _checked(recipe, nodes, {**recipe.masters, master: ref})


def _feed(recipe: Recipe, slot: str) -> Ref:
    if slot in _FEEDS:
        if _FEEDS[slot] not in recipe.masters:
            raise RecipeInvalid(f"the set has no {quantity(_FEEDS[slot]).title.lower()} to derive it from.", slot=slot)
        return f"master:{_FEEDS[slot]}"
    if slot == "detail":
        if "height" not in recipe.masters:
            raise RecipeInvalid("the set has no height to take detail from.", slot=slot)
        return node_ref(_DETAIL)
    wanted = _OWN.get(slot, slot)
    given = [ref for ref, _ in _given(recipe, wanted) if slot in _OWN or ref.endswith(f":{wanted}")]
    if not given:
        raise RecipeInvalid(f"the set has no file that is read as {wanted}.", slot=slot)
    return given[0]


def _checked(recipe: Recipe, nodes: dict[str, Node], masters: dict[str, Ref]) -> Recipe:
    """The changed recipe if it holds together: everything named is there, and nothing runs in a circle."""
    changed = recipe.model_copy(update={"nodes": nodes, "masters": masters})
    try:
        return Recipe.model_validate(changed.model_dump(by_alias=True))
    except ValidationError as problem:
        why = problem.errors()[0]["msg"].removeprefix("Value error, ")
        raise RecipeInvalid(f"that does not hold together: {why}.") from problem
