"""Where a master may come from: files that hold it, derivations whose inputs are there, a mix of two, one value, or nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from pydantic import ValidationError

from ..errors import RecipeInvalid
from ..operation import Feed, Operation, Slot
from ..operations import OPERATIONS
from ..quantities import quantity
from .model import Node, Recipe, origin_of, without_fitted_rise
from .refs import Ref, master_ref, node_ref, source_ref
from .steps import new_node, operation_of, params_of

__all__ = [
    "ABSENT",
    "EVERYWHERE",
    "ONE_VALUE",
    "Choice",
    "choices",
    "given_ref",
    "mask_choices",
    "needs",
    "photo_ref",
    "with_mask",
    "with_origin",
    "works",
]

ONE_VALUE, ABSENT = "one-value", "absent"
EVERYWHERE, BY_PICKS = "everywhere", "picks"
_BENDS = MappingProxyType({"edges": "on edges", "folds": "in folds"})
_DETAIL = "normal_detail"
_LAYS_ON = "blend_normals"  # normals are never mixed like colors, which flattens the form: detail is laid onto it
_MIX = "mixed"
_SHAPES = ("height", "normal")  # one value of these is no surface


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
                yield source_ref(name, key), source.said


def given_ref(recipe: Recipe, master: str) -> Ref | None:
    """The source that gives ``master``, or that a mix makes it of; None where no file does.

    Examples
    --------
    >>> from .model import Facts, Source
    >>> file = Source(sha256="0" * 64, name="h.png", width=8, height=8, reads={"L": "height"})
    >>> whole = Recipe(facts=Facts(width=8, height=8), sources={"h": file}, masters={"height": Ref("source:h:height")})
    >>> given_ref(whole, "height"), given_ref(whole, "normal")
    ('source:h:height', None)
    """
    ref, made = recipe.masters.get(master), recipe.node_of(master)
    slots = None if made is None else _mix_slots(made[1])
    if made is not None and slots is not None:
        ref = made[1].inputs[slots[0]]
    return ref if ref is not None and ref.kind == "source" else None


def _makers(master: str) -> list[Operation]:
    """Operations that make ``master`` and no other for all sets."""
    return [operation for operation in OPERATIONS.values() if master in operation.outputs]


def _mix_slots(node: Node | None) -> tuple[str, str] | None:
    """The names of the slots of what is given and of what is mixed in, where a node mixes."""
    mixes = operation_of(node).mixes if node is not None else None
    return None if mixes is None else (mixes[0].key, mixes[1].key)


def choices(recipe: Recipe, master: str) -> list[Choice]:
    """Every way this set can come by ``master``, files first, mixes after derivations; only what works is offered."""
    now = recipe.masters.get(master)
    made = recipe.node_of(master)
    given = list(_given(recipe, master))
    rows = [Choice(ref, f"given · {file}", ref == now) for ref, file in given]
    for operation in _makers(master):
        is_now = made is not None and made[1].op == operation.key and made[0] != f"mix_{master}"
        if operation.mixes is not None and not is_now:  # offered below, with whatever can be mixed in
            continue
        if is_now or works(recipe, master, f"op:{operation.key}"):
            rows.append(Choice(f"op:{operation.key}", operation.title, is_now))
    is_constant = made is not None and made[1].op == "constant"
    rows += [
        Choice(key, title, is_now)
        for key, title, is_now in _mixes(recipe, master, [*rows, *_not_alone(master, rows), *_one_value(master)])
        if is_now or works(recipe, master, key)
    ]
    return [*rows, Choice(ONE_VALUE, "one value", is_constant), Choice(ABSENT, "left out", now is None)]


def photo_ref(recipe: Recipe) -> Ref | None:
    """The photo that the base color is, as it came; None where it is another file, or made of one."""
    ref = recipe.masters.get("base_color")
    return ref if ref is not None and ref.kind == "source" and ref.part == "photo" else None


def needs(recipe: Recipe, master: str) -> dict[str, str]:
    """Which master derivations of ``master`` lack that do not work in this set yet, by the derivation's title.

    Examples
    --------
    >>> from .model import Facts
    >>> needs(Recipe(facts=Facts(width=8, height=8)), "occlusion")
    {'from height': 'height'}
    """
    found = {}
    for operation in _makers(master):
        if operation.mixes is None and not works(recipe, master, f"op:{operation.key}"):
            slots = [slot for slot in operation.slots if not slot.is_optional]
            if any(slot.feed in ("file", "given") and not any(_given(recipe, slot.quantity or "")) for slot in slots):
                continue  # no master would make up for a file
            fed = [slot for slot in slots if slot.feed == "master"]
            missing = [_title(slot) for slot in fed if slot.quantity not in recipe.masters]
            if missing:
                found[operation.title] = missing[0]
    return found


def _not_alone(master: str, rows: list[Choice]) -> list[Choice]:
    """Derivations that do not work by themselves here but may beside the given map: of a height that comes from it."""
    known = {row.key for row in rows}
    return [Choice(f"op:{o.key}", o.title, False) for o in _makers(master) if f"op:{o.key}" not in known]


def _one_value(master: str) -> list[Choice]:
    """One value to mix in, as bare metal where edges are worn; of normals that would be no detail."""
    return [] if master == "normal" else [Choice(ONE_VALUE, "one value", False)]


def _mixes(recipe: Recipe, master: str, others: list[Choice]) -> Iterator[tuple[str, str, bool]]:
    """A file that gives ``master``, mixed with every other way to come by it: key, title, whether it is so now. Where no file
    gives it, what makes it now, mixed with one value.
    """
    given = [] if quantity(master).is_seldom else [ref for ref, _ in _given(recipe, master)]  # nothing suits those
    made = recipe.node_of(master)
    slots = _mix_slots(made[1]) if made is not None else None
    now = made[1].inputs[slots[1]] if made is not None and slots is not None else None
    for other in others:
        operation = OPERATIONS.get(other.key[3:])
        if given and other.key != given[0] and not (operation is not None and operation.reworks_given):
            op = recipe.nodes[now.name].op if now is not None and now.kind == "node" else None
            is_now = now == other.key or op == ("constant" if other.key == ONE_VALUE else other.key[3:])
            says = "given, with detail" if master == "normal" else "given, mixed with"
            yield f"mix:{other.key}", f"{says} {other.title}", is_now
    under = None if given else _made_base(recipe, master)
    if under is not None:
        operation = operation_of(recipe.nodes[under.name])
        says = "one value, mixed with another" if operation.key == "constant" else f"{operation.title}, mixed with one value"
        yield f"mix:{ONE_VALUE}", says, slots is not None


def _made_base(recipe: Recipe, master: str) -> Ref | None:
    """The step that makes ``master`` now, which one value can be mixed into; None for heights and normals, and what has none."""
    made = recipe.node_of(master)
    if made is None or master in _SHAPES or quantity(master).is_seldom:
        return None
    slots = _mix_slots(made[1])
    ref = recipe.masters[master] if slots is None else made[1].inputs[slots[0]]
    return ref if ref.kind == "node" else None


def works(recipe: Recipe, master: str, key: str) -> bool:
    """Whether ``master`` can come from ``key`` in this set, as ``with_origin`` reads it.

    Examples
    --------
    >>> from .model import Facts
    >>> works(Recipe(facts=Facts(width=8, height=8)), "occlusion", "op:occlusion_from_height")
    False
    """
    return _works(with_origin, recipe, master, key)


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
        node = new_node("constant", {}, {"value": quantity(master).absent_value().tolist()})
        name = f"one_{master}"
        nodes = {**recipe.nodes, name: recipe.nodes.get(name, node)}
        return _checked(recipe, nodes, {**recipe.masters, master: node_ref(name)})
    if key.startswith("mix:"):
        return _mixed(recipe, master, key[4:])
    if not key.startswith("op:"):
        if key not in [ref for ref, _ in _given(recipe, master)]:
            raise RecipeInvalid(f"{master} is in no file of this set that is called {key!r}.", master=master)
        return without_fitted_rise(_checked(recipe, recipe.nodes, {**recipe.masters, master: Ref(key)}))
    operation = OPERATIONS.get(key[3:])
    if operation is None or master not in operation.outputs:
        makers = [f"op:{operation.key}" for operation in _makers(master)]
        raise RecipeInvalid(f"{master} can be made by {', '.join(makers)} (got {key!r}).", master=master)
    return _derived(recipe, master, operation)


def _mixed(recipe: Recipe, master: str, other: str) -> Recipe:
    given = [ref for ref, _ in _given(recipe, master) if ref != other]
    base = given[0] if given else _made_base(recipe, master) if other == ONE_VALUE else None
    if base is None or other == ABSENT or other.startswith("mix:"):
        raise RecipeInvalid("a mix needs a file that gives the map, and a derivation or a second file.", master=master)
    recipe = _freed(recipe, base) if master == "normal" else recipe
    changed = with_origin(recipe, master, other) if given else _with_second_value(recipe, master)
    op = _LAYS_ON if master == "normal" else _MIX
    name = f"mix_{master}"
    found = recipe.nodes.get(name)
    found = found if found is not None and found.op == op else new_node(op, {}, {} if given else {"amount": 1.0})
    own, other_slot = _mix_slots(found) or ("", "")
    mask = {"mask": found.inputs["mask"]} if "mask" in found.inputs else {}
    node = found.model_copy(update={"inputs": {**mask, own: base, other_slot: changed.masters[master]}})
    return _checked(recipe, {**changed.nodes, name: node}, {**recipe.masters, master: node_ref(name)})


def _with_second_value(recipe: Recipe, master: str) -> Recipe:
    """The recipe in which ``master`` is a value of its own beside the one that it may be already."""
    name = f"second_{master}"
    value = new_node("constant", {}, {"value": quantity(master).absent_value().tolist()})
    nodes = {**recipe.nodes, name: recipe.nodes.get(name, value)}
    return recipe.model_copy(update={"nodes": nodes, "masters": {**recipe.masters, master: node_ref(name)}})


def _freed(recipe: Recipe, given: Ref) -> Recipe:
    """The recipe whose height, where it is integrated from the normals, is so from the given ones: detail may come of it then."""
    made = recipe.node_of("height")
    if made is None or made[1].op != "height_from_normal" or made[1].inputs["normal"] != master_ref("normal"):
        return recipe
    node = made[1].model_copy(update={"inputs": {"normal": given}})
    return recipe.model_copy(update={"nodes": {**recipe.nodes, made[0]: node}})


def mask_choices(recipe: Recipe, master: str) -> list[Choice]:
    """Where the other map may come in: everywhere, where a gray of this set is white, or by picks. Empty unless it is a mix.

    What is the same everywhere tells no place from another, and is not offered.
    """
    made = recipe.node_of(master)
    if made is None or _mix_slots(made[1]) is None:
        return []
    now = made[1].inputs.get("mask")
    rows = [Choice(EVERYWHERE, "everywhere", now is None)]
    for ref, title in _grays(recipe, master):
        is_flat = ref.kind == "master" and origin_of(recipe, ref.name) == "constant"
        if ref == now or (not is_flat and _works(with_mask, recipe, master, ref)):
            rows.append(Choice(ref, f"where {title} is white", ref == now))
    mask = f"mask_{master}"
    made_by = recipe.nodes[mask] if now == node_ref(mask) else None
    if "curvature" in recipe.masters and master != "curvature":
        side = params_of(made_by).model_dump()["side"] if made_by is not None and made_by.op == "bends_mask" else None
        offered = [key for key in _BENDS if side == key or _works(with_mask, recipe, master, key)]
        rows += [Choice(key, f"{_BENDS[key]}, by the curvature", side == key) for key in offered]
    is_picked = made_by is not None and made_by.op != "bends_mask"
    has_color = origin_of(recipe, "base_color") in ("given", "derived")
    if is_picked or (has_color and _works(with_mask, recipe, master, BY_PICKS)):
        rows.append(Choice(BY_PICKS, "by picks on the color", is_picked))
    return rows


def with_mask(recipe: Recipe, master: str, key: str) -> Recipe:
    """The recipe in which the mix that makes ``master`` is limited to ``key`` of ``mask_choices``.

    Raises RecipeInvalid when the master is no mix, or the mask is not there or would run in a circle.
    """
    made = recipe.node_of(master)
    if made is None or _mix_slots(made[1]) is None:
        raise RecipeInvalid(f"{quantity(master).title.lower()} is not mixed, so a mask has nothing to do.", master=master)
    name, node = made
    nodes, inputs = dict(recipe.nodes), {slot: ref for slot, ref in node.inputs.items() if slot != "mask"}
    mask = f"mask_{master}"
    if key in (BY_PICKS, *_BENDS):
        op = "metallic_by_picks" if key == BY_PICKS else "bends_mask"
        told = {} if key == BY_PICKS else {"side": key}
        made, before = new_node(op, _fed(recipe, OPERATIONS[op]), told), nodes.get(mask)
        is_kept = before is not None and before.op == op
        nodes[mask] = before.model_copy(update={"params": {**before.params, **told}}) if before and is_kept else made
        inputs["mask"] = node_ref(mask)
    elif key != EVERYWHERE:
        if key not in [ref for ref, _ in _grays(recipe, master)]:
            raise RecipeInvalid(f"there is no gray {key!r} in this set to serve as a mask.", master=master)
        inputs["mask"] = Ref(key)
    nodes[name] = node.model_copy(update={"inputs": inputs})
    return _checked(recipe, nodes, recipe.masters)


def _grays(recipe: Recipe, master: str) -> Iterator[tuple[Ref, str]]:
    """Every gray of the set that may serve as a mask: its masters, then what its files are read as besides."""
    for key in recipe.masters:
        if key != master and quantity(key).channels == 1 and quantity(key).low == 0:
            yield master_ref(key), quantity(key).title.lower()
    for name, source in recipe.sources.items():
        for key in source.reads.values():
            ref = source_ref(name, key)
            if quantity(key).channels == 1 and ref not in recipe.masters.values():
                yield ref, f"{source.name}, {quantity(key).title.lower()},"


def _derived(recipe: Recipe, master: str, operation: Operation) -> Recipe:
    found = next((name for name, node in recipe.nodes.items() if node.op == operation.key), None)
    name, nodes = found or operation.key, dict(recipe.nodes)
    if found is None:
        if any(slot.feed == "mixed" for slot in operation.slots):
            nodes[_DETAIL] = new_node("normal_from_height", {"height": master_ref("height")})
        nodes[name] = new_node(operation.key, _fed(recipe, operation))
    ref = node_ref(name, master) if len(operation.outputs) > 1 else node_ref(name)
    return _checked(recipe, nodes, {**recipe.masters, master: ref})


def _fed(recipe: Recipe, operation: Operation) -> dict[str, Ref]:
    """What this set feeds every slot of an operation that has to be fed. Raises RecipeInvalid that says what is missing."""
    return {slot.key: _FEEDS[slot.feed](recipe, slot) for slot in operation.slots if not slot.is_optional}


def _feed_master(recipe: Recipe, slot: Slot) -> Ref:
    if slot.quantity not in recipe.masters:
        raise RecipeInvalid(f"the set has no {_title(slot)} to derive it from.", slot=slot.key)
    return master_ref(str(slot.quantity))


def _feed_file(recipe: Recipe, slot: Slot) -> Ref:
    found = (source_ref(n, key) for n, source in recipe.sources.items() for key in source.reads.values() if key == slot.quantity)
    return _first(found, slot, f"the set has no file that is read as {_title(slot)}.")


def _feed_given(recipe: Recipe, slot: Slot) -> Ref:
    found = (ref for ref, _ in _given(recipe, str(slot.quantity)))
    return _first(found, slot, f"the set has no file that is read as {_title(slot)}.")


def _feed_gray(recipe: Recipe, slot: Slot) -> Ref:
    grays = [ref for ref, _ in _grays(recipe, "height") if ref.kind == "master" and ref.name.startswith(("own_", "opacity"))]
    own_first = sorted(grays, key=lambda ref: ref.name == "opacity")
    return _first(iter(own_first), slot, "the set has no gray of your own and no opacity to raise a height from.")


def _feed_mixed(recipe: Recipe, slot: Slot) -> Ref:
    """Detail of the set's own height, where nobody has said what comes in."""
    if "height" not in recipe.masters:
        raise RecipeInvalid("the set has no height to take detail from.", slot=slot.key)
    return node_ref(_DETAIL)


def _first(found: Iterator[Ref], slot: Slot, otherwise: str) -> Ref:
    ref = next(found, None)
    if ref is None:
        raise RecipeInvalid(otherwise, slot=slot.key)
    return ref


def _title(slot: Slot) -> str:
    return quantity(str(slot.quantity)).title.lower()


_FEEDS: Mapping[Feed, Callable[[Recipe, Slot], Ref]] = MappingProxyType(
    {
        "master": _feed_master,
        "file": _feed_file,
        "given": _feed_given,
        "gray": _feed_gray,
        "mixed": _feed_mixed,
    }
)


def _checked(recipe: Recipe, nodes: dict[str, Node], masters: dict[str, Ref]) -> Recipe:
    """The changed recipe if it holds together: everything named is there, and nothing runs in a circle."""
    parts = {name: getattr(recipe, name) for name in Recipe.model_fields}  # known to be valid, each by itself
    try:
        return Recipe.model_validate({**parts, "nodes": nodes, "masters": masters})
    except ValidationError as problem:
        why = problem.errors()[0]["msg"].removeprefix("Value error, ")
        raise RecipeInvalid(f"that does not hold together: {why}.") from problem
