"""How each master came to be, told from the recipe: the account that goes along with a set."""

from __future__ import annotations

from collections.abc import Iterator

from ..convert.corrections import CORRECTIONS, correction_of
from ..prepare.said import step_said
from ..prepare.steps import active
from ..primaries import PRIMARIES
from ..quantities import quantity
from .history import said_of, said_of_noise
from .model import Facts, Node, Recipe, Source, origin_of
from .refs import Ref, master_ref
from .steps import operation_of, params_of

__all__ = ["account_of", "guess_in", "how_made", "maps_made", "rise_known", "told"]

_GREEN = {"up": "Y+", "down": "Y−"}
_WHERE = "mask"  # the input of a mix that says where, and nothing of what


def account_of(recipe: Recipe, master: str) -> list[str]:
    """Sentences on one master, from its files upwards: what was read, what was derived by what, with which parameters.

    Examples
    --------
    >>> from .model import Facts
    >>> account_of(Recipe(facts=Facts(width=8, height=8)), "metallic")
    ['absent, which means 0']
    """
    ref = recipe.masters.get(master)
    if ref is None:
        return [f"absent, which means {' '.join(f'{v:g}' for v in quantity(master).absent)}"]
    return [*_ref(recipe, ref, set()), *_touched(recipe, master)]


def _touched(recipe: Recipe, master: str) -> Iterator[str]:
    """What is laid over a master, which no file and no derivation gave."""
    touch = recipe.touches.get(master)
    if touch is None:
        return
    if touch.noise is not None and touch.noise.amount:
        yield f"with {said_of_noise(touch.noise)}, seed {touch.noise.seed}"
    count = sum(stroke.is_on for stroke in touch.strokes)
    if count:
        yield f"painted over by hand, {count} {'stroke' if count == 1 else 'strokes'}"


def _ref(recipe: Recipe, ref: Ref, told: set[str]) -> Iterator[str]:
    if ref.kind == "master":
        yield quantity(ref.name).title.lower()
    elif ref.kind == "source":
        yield _source(recipe, ref)
    elif ref.name in told:
        yield f"{operation_of(recipe.nodes[ref.name]).title}, as told above"
    else:
        told.add(ref.name)
        yield from _node(recipe, recipe.nodes[ref.name], told)


def _source(recipe: Recipe, ref: Ref) -> str:
    source, key = recipe.sources[ref.name], str(ref.part)
    letters = source.letters_of(key)
    size = f"{source.width} × {source.height}, {source.depth} bit"
    parts = [f"given: {letters} of {source.name}, {size}, read as {quantity(key).title.lower()}"]
    if key == "normal" and source.green is not None:
        parts.append(f"green read as {_GREEN[source.green]}")
    if source.primaries != "rec709" and quantity(key).color == "srgb":
        parts.append(f"colors told in {PRIMARIES[source.primaries].title}")
    if source.baked is not None:
        made, why = source.baked, source.baked.stale(recipe.worn)
        parts[0] = parts[0].replace("given:", "baked:")
        parts.append(f"{'from the high mesh' if made.high else 'from the mesh itself'}, {made.missed:.2%} of the rays missed")
        parts += [f"out of date ({', '.join(why)})"] if why else []
    if letters in source.spans:
        parts.append("stored values from {:g} to {:g}".format(*source.spans[letters]))
    parts += _corrected(source, key)
    return ", ".join([*parts, f"sha256 {source.sha256[:12]}"])


def _corrected(source: Source, key: str) -> Iterator[str]:
    """What is done to a given map before it counts as given."""
    if source.smooth_steps and key == "height":
        yield "steps smoothed"
    if source.unit_length and key == "normal":
        yield "vectors brought to length 1"
    if source.black_is_flat and key == "normal":
        yield "black read as flat"
    params = CORRECTIONS[correction_of(quantity(key))].params
    told, start = params(**source.corrections.get(key, {})), params()
    said = [said_of(told, field) for field in params.model_fields if getattr(told, field) != getattr(start, field)]
    if said:
        yield f"corrected: {', '.join(said)}"


def _node(recipe: Recipe, node: Node, told: set[str]) -> Iterator[str]:
    operation, params = operation_of(node), params_of(node)
    start = type(params)() if node.op != "constant" else None
    said = [
        said_of(params, field)
        for field in type(params).model_fields
        if start is None or getattr(params, field) != getattr(start, field)
    ]
    by = f", by an older way ({operation.was})" if operation.was else ""
    yield f"{operation.title}{by}{': ' if said else ''}{', '.join(said)}"
    for slot, below in node.inputs.items():
        for line in _ref(recipe, below, told):
            yield f"  {slot.replace('_', ' ')}: {line}"


def how_made(recipe: Recipe, master: str) -> str | None:
    """Of what a master is made that no file gives as it is, down to the files; None of others, and of one value.

    What is read from a color is a guess: no formula makes one a shape or a shine.

    Examples
    --------
    >>> from .model import Facts
    >>> shape, color = Node(op="normal_from_height", inputs={"height": "master:height"}), "source:s1:base_color"
    >>> file = Source(sha256="0" * 64, name="felt.png", width=8, height=8, reads={"RGB": "base_color"})
    >>> guess = Node(op="height_from_color", inputs={"color": "master:base_color"})
    >>> masters = {"base_color": color, "height": "node:height", "normal": "node:normal"}
    >>> nodes = {"height": guess, "normal": shape}
    >>> felt = Recipe(facts=Facts(width=8, height=8), sources={"s1": file}, nodes=nodes, masters=masters)
    >>> how_made(felt, "base_color"), how_made(felt, "normal")
    (None, 'made of the height (guessed from the base color)')
    """
    made = recipe.node_of(master)
    return None if made is None else _how(recipe, master, made[1])


def _how(recipe: Recipe, master: str, node: Node) -> str | None:
    if node.op == "constant":
        return None
    parts = dict.fromkeys(_named(recipe, ref.whole, None if slot == _WHERE else master) for slot, ref in node.inputs.items())
    return f"{'guessed from' if _is_guess(master, node) else 'made of'} {' and '.join(parts)}"


def guess_in(recipe: Recipe, master: str) -> str | None:
    """What of a master is a guess, in a few words: itself, or what it is made of. None where nothing is, or of one value.

    Examples
    --------
    >>> from .model import Facts
    >>> given = Source(sha256="0" * 64, name="oak.png", width=8, height=8, reads={"L": "height"})
    >>> shape = Node(op="normal_from_height", inputs={"height": "master:height"})
    >>> masters = {"height": "source:s1:height", "normal": "node:normal"}
    >>> facts = Facts(width=8, height=8, rise_from="assumed")
    >>> guess_in(Recipe(facts=facts, sources={"s1": given}, nodes={"normal": shape}, masters=masters), "normal")
    'its height has an assumed rise'
    """
    made = recipe.node_of(master)
    return None if made is None else _guess(recipe, master, made[1])


def _guess(recipe: Recipe, master: str, node: Node) -> str | None:
    parts = [ref for slot, ref in node.inputs.items() if slot != _WHERE]
    if _is_guess(master, node):
        return f"guessed from {' and '.join(dict.fromkeys(_title(recipe, ref) for ref in parts))}"
    for ref in parts:
        if ref.kind == "master" and guess_in(recipe, ref.name) is not None:
            return f"its {quantity(ref.name).title.lower()} is a guess"
        if ref.kind == "node" and (mixed := _guess(recipe, master, recipe.nodes[ref.name])) is not None:
            return f"in part {mixed}" if mixed.startswith("guessed") else mixed
    is_assumed = recipe.facts.rise_from == "assumed" and any(ref == master_ref("height") for ref in parts)
    return "its height has an assumed rise" if is_assumed else None


def _is_guess(master: str, node: Node) -> bool:
    """Whether data is read from a color that it is no part of: no formula makes one a shape or a shine."""
    read = (quantity(_read_as(ref)) for slot, ref in node.inputs.items() if ref.kind != "node" and slot != _WHERE)
    colors = [row for row in read if row.color == "srgb"]
    return quantity(master).color == "data" and bool(colors) and not any(master in row.made_of for row in colors)


def maps_made(recipe: Recipe) -> dict[str, str]:
    """``how_made`` of every master that it says something of."""
    return {key: how for key in recipe.keys if (how := how_made(recipe, key)) is not None}


def _read_as(ref: Ref) -> str:
    return str(ref.part) if ref.kind == "source" else ref.name


def _named(recipe: Recipe, ref: Ref, master: str | None) -> str:
    """A file, a step towards ``master``, or another master; the latter two with what they are made of."""
    facts, title, rise = recipe.facts, _title(recipe, ref), None
    if ref.kind == "master":
        how = how_made(recipe, ref.name)
        is_assumed = ref.name == "height" and facts.rise_from == "assumed"
        rise = f"its rise of {facts.rise * 100:.3g} % of the width is assumed" if is_assumed else None
    else:
        how = _how(recipe, master, recipe.nodes[ref.name]) if ref.kind == "node" and master is not None else None
    known = "; ".join(said for said in (how, rise) if said is not None)
    return title + (f" ({known})" if known else "")


def _title(recipe: Recipe, ref: Ref) -> str:
    if ref.kind == "source":
        return recipe.sources[ref.name].name
    if ref.kind == "node":
        return operation_of(recipe.nodes[ref.name]).title.lower()
    return f"the {quantity(ref.name).title.lower()}"


def rise_known(facts: Facts) -> str:
    """How the rise of a set is known, to stand behind it."""
    if facts.rise_from == "measured":
        return "measured on its normals" + (f" (correlation {facts.rise_fit:.2f})" if facts.rise_fit is not None else "")
    return {
        "told": "told",
        "assumed": "assumed: nobody has told or measured it",
        "fitted": "set so that it leans as usual",
        "baked": "as it was baked",
    }[facts.rise_from]


def told(recipe: Recipe, name: str, history: list[str]) -> str:
    """The whole account as Markdown: facts, masters, then the steps of the set's history, oldest first."""
    facts = recipe.facts
    lines = [
        f"# {name}",
        "",
        f"{facts.width} × {facts.height} texels, rise {facts.rise * 100:.4g} % of the width, {rise_known(facts)}.",
    ]
    ways = {"wrap": "repeats", "mirror": "does not repeat"}
    lines.append(f"It {ways[facts.edges.x]} across and {ways[facts.edges.y]} down, {facts.edges_from}.")
    if facts.tile_size:
        lines.append(f"The tile is {facts.tile_size:g} m wide, so the rise is {facts.rise * facts.tile_size * 1000:g} mm.")
    lines += [f"{word}: {text}" for word, text in (("Origin", facts.origin), ("License", facts.license)) if text]
    steps = active(recipe.frame.steps) if recipe.frame is not None else ()
    if steps:
        lines += ["", "Its pictures were:", "", *(f"{k}. {step_said(step)}" for k, step in enumerate(steps, 1))]
    for master in recipe.keys:
        lines += ["", f"## {quantity(master).title} ({origin_of(recipe, master)})", ""]
        lines += [f"{'  ' if line.startswith('  ') else ''}- {line.strip()}" for line in account_of(recipe, master)]
    if history:
        lines += ["", "## Steps", "", *(f"{k}. {step}" for k, step in enumerate(history, 1))]
    return "\n".join(lines) + "\n"
