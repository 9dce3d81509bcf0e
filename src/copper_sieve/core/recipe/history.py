"""What one step of a set's history did, in a few words."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..convert.corrections import CORRECTIONS, correction_of
from ..convert.noise import AddedNoise
from ..convert.touches import Touch
from ..params import Params
from ..prepare.said import changed_steps
from ..primaries import PRIMARIES
from ..quantities import quantity
from .model import Node, Recipe, Source, origin_of
from .refs import node_ref
from .steps import operation_of, params_of

__all__ = ["changes", "said_of", "said_of_noise"]

_GREEN = {"up": "Y+", "down": "Y−"}
_FACTS = {
    "rise": ("rise", 100, "%"),
    "tile_size": ("tile width", 1, "m"),
    "emissive_strength": ("emissive strength", 1, "×"),
    "seed": ("seed", 1, ""),
}
_WORDS = {
    "origin": "origin noted",
    "license": "license noted",
    "edges": "edges changed",
    "edges_from": "edges told",
    "sampling": "sampling changed",
}


def changes(before: Recipe, after: Recipe) -> str:
    """The differences between two recipes, the most telling first; "nothing" when they are equal.

    Examples
    --------
    >>> from .model import Facts
    >>> old = Recipe(facts=Facts(width=8, height=8))
    >>> changes(old, old.model_copy(update={"facts": old.facts.model_copy(update={"rise": 0.05})}))
    'rise 2 % → 5 %'
    """
    found = [change for part in (_origins, _params, _touches, _worn, _sources, _facts) for change in part(before, after)]
    return "; ".join(dict.fromkeys(found)) or "nothing"


def _origins(before: Recipe, after: Recipe) -> Iterator[str]:
    for key in {**before.masters, **after.masters}:
        if before.masters.get(key) == after.masters.get(key):
            continue
        made = after.node_of(key)
        origin = origin_of(after, key)
        source = after.source_of(key)
        if made is not None and origin == "derived":
            yield f"{quantity(key).title} {operation_of(made[1]).title}"
        elif source is not None and source[1].baked is not None:
            yield f"{quantity(key).title} baked"
        else:
            yield f"{quantity(key).title} {'left out' if origin == 'absent' else origin}"


def _params(before: Recipe, after: Recipe) -> Iterator[str]:
    for name, node in after.nodes.items():
        old = before.nodes.get(name)
        if old is None or old == node:
            continue
        titles = [quantity(key).title for key, ref in after.masters.items() if ref.whole == node_ref(name)]
        what = " and ".join(titles) or operation_of(node).title
        if old.op == node.op and old.algorithm < node.algorithm:
            yield f"{what} made by the newest way"
            continue
        fed = ("mask changed" if slot == "mask" else "made of another map" for slot in _fed_otherwise(old, node))
        if moved := [*dict.fromkeys(fed), *_moved(old, node)]:
            yield f"{what}: {', '.join(moved)}"


def _fed_otherwise(old: Node, new: Node) -> Iterator[str]:
    """Slots that something else feeds."""
    return (slot for slot in {**old.inputs, **new.inputs} if old.inputs.get(slot) != new.inputs.get(slot))


def _moved(old: Node, new: Node) -> Iterator[str]:
    return _changed(params_of(old), params_of(new))


def _changed(first: Params, second: Params) -> Iterator[str]:
    for field, info in type(second).model_fields.items():
        if getattr(first, field, None) != getattr(second, field):
            was = f"{_value_of(first, field)} → " if field in type(first).model_fields else ""
            yield f"{(info.title or field).lower()} {was}{_value_of(second, field)}"


def said_of(params: Params, field: str) -> str:
    """A parameter in a person's words: title, value, unit."""
    return f"{(type(params).model_fields[field].title or field).lower()} {_value_of(params, field)}"


def _value_of(params: Params, field: str) -> str:
    extra = type(params).model_fields[field].json_schema_extra
    return _said(getattr(params, field), extra if isinstance(extra, dict) else {})


def _said(value: Any, extra: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, tuple):
        return str(len(value)) if value and not isinstance(value[0], float) else " ".join(f"{v:g}" for v in value) or "0"
    if isinstance(value, int | float):
        unit = str(extra.get("unit", ""))
        return f"{round(value * float(extra.get('scale', 1)), 4):g}{' ' if unit else ''}{unit}"
    return str(value)


def _touches(before: Recipe, after: Recipe) -> Iterator[str]:
    for key in {**before.touches, **after.touches}:
        old, new = before.touches.get(key, Touch()), after.touches.get(key, Touch())
        if old == new:
            continue
        title, more = quantity(key).title, len(new.strokes) - len(old.strokes)
        if old.noise != new.noise:
            yield f"{title}: {said_of_noise(new.noise)}" if new.noise is not None else f"{title} without noise"
        if more > 0:
            yield f"{title}: {new.strokes[-1].way} by hand"
        elif more < 0:
            yield f"{title}: {-more} {'stroke' if more == -1 else 'strokes'} off"
        elif old.strokes != new.strokes:
            yield f"{title}: strokes changed"


def said_of_noise(noise: AddedNoise) -> str:
    """Noise over a map in words.

    Examples
    --------
    >>> said_of_noise(AddedNoise())
    'noise, cloud 3 % of 5 % of the width'
    """
    over = ", on over the tiles" if noise.is_over_tiles else ""
    return f"noise, {noise.kind} {noise.amount * 100:g} % of {noise.size * 100:g} % of the width{over}"


def _worn(before: Recipe, after: Recipe) -> Iterator[str]:
    """What of the mesh that wears the set has changed."""
    old, new = before.worn, after.worn
    if old == new:
        return
    if new is None:
        yield "worn by no mesh"
        return
    if old is None or old.low != new.low:
        yield f"worn by {new.low.name}"
        return
    if old.material != new.material:
        yield f"worn as {new.called or f'material {new.material + 1}'}"
    if old.high != new.high:
        yield f"baked from {', '.join(mesh.name for mesh in new.high) or 'the mesh itself'}"
    if old.cage != new.cage:
        yield f"cage {new.cage.name if new.cage is not None else 'left out'}"
    if old.offset != new.offset:
        yield f"offset {f'{new.offset:g} %' if new.offset is not None else 'found'}"
    if old.is_padded != new.is_padded:
        yield f"maps {'go on' if new.is_padded else 'do not go on'} beyond the islands"
    if any(getattr(old, name) != getattr(new, name) for name in ("maps", "size", "samples", "rays")):
        yield "bake set otherwise"


def _sources(before: Recipe, after: Recipe) -> Iterator[str]:
    for name, source in after.sources.items():
        old = before.sources.get(name)
        if old is None or old == source:
            continue
        newer = [file.name for tile, file in source.beside.items() if tile in old.beside and old.beside[tile] != file]
        if newer:
            yield from (f"newer {name}" for name in newer)
        if old.green != source.green and source.green is not None:
            yield f"{source.name} read as {_GREEN[source.green]}"
        elif old.sha256 != source.sha256:
            yield f"newer {source.name}"
        elif told := list(_told(old, source)):
            yield f"{source.name}: {', '.join(told)}"
        elif not newer:
            yield f"{source.name} read otherwise"


def _told(old: Source, new: Source) -> Iterator[str]:
    """What a person told of a given map: its steps, its way to a size, its corrections."""
    if old.smooth_steps != new.smooth_steps:
        yield "steps smoothed" if new.smooth_steps else "steps left as they came"
    if old.unit_length != new.unit_length:
        yield "vectors brought to length 1" if new.unit_length else "vectors left as long as they came"
    if old.black_is_flat != new.black_is_flat:
        yield "black read as flat" if new.black_is_flat else "black left as it came"
    if old.sampling != new.sampling:
        yield {None: "sampled as the set", "nearest": "sampled as pixel art", "smooth": "sampled smoothly"}[new.sampling]
    if old.primaries != new.primaries:
        yield f"colors read as {PRIMARIES[new.primaries].title}"
    for key in new.reads.values():
        model = CORRECTIONS[correction_of(quantity(key))].params
        yield from _changed(model(**old.corrections.get(key, {})), model(**new.corrections.get(key, {})))


def _facts(before: Recipe, after: Recipe) -> Iterator[str]:
    old, new = before.facts, after.facts
    steps = [recipe.frame.steps if recipe.frame is not None else () for recipe in (before, after)]
    if steps[0] != steps[1]:
        yield changed_steps(*steps)
    if (old.width, old.height) != (new.width, new.height):
        yield f"size {old.width} × {old.height} → {new.width} × {new.height}"
    for field, (title, scale, unit) in _FACTS.items():
        a, b = getattr(old, field), getattr(new, field)
        if a != b:
            said = [f"{round(v * scale, 4):g} {unit}".strip() if v is not None else "not known" for v in (a, b)]
            yield f"{title} {said[0]} → {said[1]}"
    if old.rise_from != new.rise_from and old.rise == new.rise:
        yield f"rise {new.rise * 100:g} % {new.rise_from}"
    yield from (word for field, word in _WORDS.items() if getattr(old, field) != getattr(new, field))
