"""Where a master may come from: files that hold it, derivations whose inputs are there, a mix of two, one value, or nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from types import MappingProxyType

from pydantic import ValidationError

from ..errors import RecipeInvalid
from ..quantities import quantity
from .model import Node, Recipe, Ref, node_ref, source_ref
from .operations import OPERATIONS, Operation

__all__ = ["ABSENT", "EVERYWHERE", "ONE_VALUE", "Choice", "choices", "mask_choices", "with_mask", "with_origin"]

ONE_VALUE, ABSENT = "one-value", "absent"
EVERYWHERE, BY_PICKS = "everywhere", "picks"
# The master that feeds an operation's input; a photo and a given normal are found among the sources.
_FEEDS = MappingProxyType(
    {"color": "base_color", "height": "height", "normal": "normal", "occlusion": "occlusion", "opacity": "opacity"}
)
_OWN = MappingProxyType(  # inputs that are the master as it was given
    {"base": "normal", "own_color": "base_color", "own_opacity": "opacity"}
)

_DETAIL = "normal_detail"
# Where what is given, and what comes in, stand in each kind of mix. Normals are never mixed like colors: that flattens the form.
_MIXES = MappingProxyType({"mixed": ("own", "other"), "mixed_normals": ("own", "other"), "blend_normals": ("base", "detail")})
_OF_NORMALS = "blend_normals"
_ON_GIVEN = tuple(row for row in OPERATIONS.values() if set(row.inputs) & set(_OWN))  # they rework the given map already


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
            if wanted in (key, quantity(key).master):
                yield source_ref(name, key), source.name


def choices(recipe: Recipe, master: str) -> list[Choice]:
    """Every way this set can come by ``master``, files first, mixes after derivations; only what works is offered."""
    now = recipe.masters.get(master)
    made = recipe.node_of(master)
    given = list(_given(recipe, master))
    rows = [Choice(ref, f"given · {file}", ref == now) for ref, file in given]
    for operation in OPERATIONS.values():
        if master in operation.makes and operation.key != "constant":
            is_now = made is not None and made[1].op == operation.key and made[0] != f"mix_{master}"
            if operation.key == _OF_NORMALS and not is_now:  # offered below, with whatever can give the detail
                continue
            if is_now or _works(with_origin, recipe, master, f"op:{operation.key}"):
                rows.append(Choice(f"op:{operation.key}", operation.title, is_now))
    is_constant = made is not None and made[1].op == "constant"
    rows += [
        Choice(key, title, is_now)
        for key, title, is_now in _mixes(recipe, master, [*rows, *_not_alone(master, rows)])
        if is_now or _works(with_origin, recipe, master, key)
    ]
    return [*rows, Choice(ONE_VALUE, "one value", is_constant), Choice(ABSENT, "left out", now is None)]


def _not_alone(master: str, rows: list[Choice]) -> list[Choice]:
    """Derivations that do not work by themselves here but may beside the given map: of a height that comes from it."""
    known = {row.key for row in rows}
    making = (op for op in OPERATIONS.values() if master in op.makes and op.key != "constant" and f"op:{op.key}" not in known)
    return [Choice(f"op:{operation.key}", operation.title, False) for operation in making]


def _mixes(recipe: Recipe, master: str, others: list[Choice]) -> Iterator[tuple[str, str, bool]]:
    """A file that gives ``master``, mixed with every other way to come by it: key, title, whether it is so now."""
    given = [ref for ref, _ in _given(recipe, master)]
    made = recipe.node_of(master)
    now = made[1].inputs.get(_MIXES[made[1].op][1], "") if made is not None and made[1].op in _MIXES else ""
    for other in others:
        if given and other.key != given[0] and OPERATIONS.get(other.key[3:], None) not in _ON_GIVEN:
            is_now = now == other.key or (now.startswith("node:") and recipe.nodes[now.split(":")[1]].op == other.key[3:])
            says = "given, with detail" if master == "normal" else "given, mixed with"
            yield f"mix:{other.key}", f"{says} {other.title}", is_now


def _works(change: Callable[[Recipe, str, str], Recipe], recipe: Recipe, master: str, key: str) -> bool:
    try:
        change(recipe, master, key)
    except RecipeInvalid:
        return False
    return True


def with_origin(recipe: Recipe, master: str, key: str) -> Recipe:
    """The recipe in which ``master`` comes from ``key``: a source ref, ``op:NAME``, ``mix:`` and either, one value, or nothing.

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
    if key.startswith("mix:"):
        return _mixed(recipe, master, key[4:])
    if not key.startswith("op:"):
        if key not in [ref for ref, _ in _given(recipe, master)]:
            raise RecipeInvalid(f"{master} is in no file of this set that is called {key!r}.", master=master)
        return _checked(recipe, recipe.nodes, {**recipe.masters, master: key})
    operation = OPERATIONS.get(key[3:])
    if operation is None or master not in operation.makes:
        makers = [f"op:{o.key}" for o in OPERATIONS.values() if master in o.makes]
        raise RecipeInvalid(f"{master} can be made by {', '.join(makers)} (got {key!r}).", master=master)
    return _derived(recipe, master, operation)


def _mixed(recipe: Recipe, master: str, other: str) -> Recipe:
    given = [ref for ref, _ in _given(recipe, master) if ref != other]
    if not given or other in (ABSENT, ONE_VALUE) or other.startswith("mix:"):
        raise RecipeInvalid("a mix needs a file that gives the map, and a derivation or a second file.", master=master)
    recipe = _freed(recipe, given[0]) if master == "normal" else recipe
    changed = with_origin(recipe, master, other)
    op = _OF_NORMALS if master == "normal" else "mixed"
    name = f"mix_{master}"
    found = recipe.nodes.get(name)
    found = found if found is not None and found.op == op else None
    own, comes_in = _MIXES[op]
    mask = {"mask": found.inputs["mask"]} if found is not None and "mask" in found.inputs else {}
    node = Node(op=op, inputs={**mask, own: given[0], comes_in: changed.masters[master]}, params=found.params if found else {})
    return _checked(recipe, {**changed.nodes, name: node}, {**recipe.masters, master: node_ref(name)})


def _freed(recipe: Recipe, given: Ref) -> Recipe:
    """The recipe whose height, where it is integrated from the normals, is so from the given ones: detail may come of it then."""
    made = recipe.node_of("height")
    if made is None or made[1].op != "height_from_normal" or made[1].inputs["normal"] != "master:normal":
        return recipe
    node = made[1].model_copy(update={"inputs": {"normal": given}})
    return recipe.model_copy(update={"nodes": {**recipe.nodes, made[0]: node}})


def mask_choices(recipe: Recipe, master: str) -> list[Choice]:
    """Where the other map may come in: everywhere, where a gray of this set is white, or by picks. Empty unless it is a mix."""
    made = recipe.node_of(master)
    if made is None or made[1].op not in _MIXES:
        return []
    now = made[1].inputs.get("mask")
    rows = [Choice(EVERYWHERE, "everywhere", now is None)]
    for ref, title in _grays(recipe, master):
        if ref == now or _works(with_mask, recipe, master, ref):
            rows.append(Choice(ref, f"where {title} is white", ref == now))
    if "base_color" in recipe.masters:
        rows.append(Choice(BY_PICKS, "by picks on the color", now == node_ref(f"mask_{master}")))
    return rows


def with_mask(recipe: Recipe, master: str, key: str) -> Recipe:
    """The recipe in which the mix that makes ``master`` is limited to ``key`` of ``mask_choices``.

    Raises RecipeInvalid when the master is no mix, or the mask is not there or would run in a circle.
    """
    made = recipe.node_of(master)
    if made is None or made[1].op not in _MIXES:
        raise RecipeInvalid(f"{quantity(master).title.lower()} is not mixed, so a mask has nothing to do.", master=master)
    name, node = made
    nodes, inputs = dict(recipe.nodes), {slot: ref for slot, ref in node.inputs.items() if slot != "mask"}
    if key == BY_PICKS:
        picks = f"mask_{master}"
        nodes.setdefault(picks, Node(op="metallic_by_picks", inputs={"color": _feed(recipe, "color")}))
        inputs["mask"] = node_ref(picks)
    elif key != EVERYWHERE:
        if key not in [ref for ref, _ in _grays(recipe, master)]:
            raise RecipeInvalid(f"there is no gray {key!r} in this set to serve as a mask.", master=master)
        inputs["mask"] = key
    nodes[name] = node.model_copy(update={"inputs": inputs})
    return _checked(recipe, nodes, recipe.masters)


def _grays(recipe: Recipe, master: str) -> Iterator[tuple[Ref, str]]:
    """Every gray of the set that may serve as a mask: its masters, then what its files are read as besides."""
    for key in recipe.masters:
        if key != master and quantity(key).channels == 1 and quantity(key).low == 0:
            yield f"master:{key}", quantity(key).title.lower()
    for name, source in recipe.sources.items():
        for key in source.reads.values():
            ref = source_ref(name, key)
            if quantity(key).channels == 1 and ref not in recipe.masters.values():
                yield ref, f"{source.name}, {quantity(key).title.lower()},"


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
    if slot == "gray":
        grays = [ref for ref, _ in _grays(recipe, "height") if ref.startswith(("master:own_", "master:opacity"))]
        if not grays:
            raise RecipeInvalid("the set has no gray of your own and no opacity to raise a height from.", slot=slot)
        return min(grays, key=lambda ref: ref == "master:opacity")
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
