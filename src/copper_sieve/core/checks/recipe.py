"""Checks on a set's recipe: what it lacks, what contradicts its files' names, what was assumed, what is made the old way."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..color import luminance
from ..convert.steps import STEPPED, is_of_8_bits, stepping
from ..derive.picks import PICK_FIT
from ..findings import Finding, finding
from ..intake.facts import rise_said
from ..intake.names import read_name
from ..intake.workflow import HALF_METAL, half_metal_of, is_read_as_level
from ..prepare.said import step_said
from ..prepare.steps import active
from ..quantities import quantity
from ..raster import is_multiple
from ..recipe import (
    Evaluation,
    Recipe,
    Ref,
    Source,
    node_ref,
    older_ways,
    operation_of,
    origin_of,
    source_ref,
)

__all__ = ["CHECKS", "PLANNED_TOO", "size_findings"]

_MISSED_RAYS = 1e-4
_BLACK = 0.02  # mean luminance of bare metal in a diffuse map; a share of metal that is none
_MISSED = 0.2  # a pick that is missed by more was contradicted
_TURNED = {"roughness": "gloss", "gloss": "roughness"}


def _no_base_color(seen: Evaluation) -> Iterator[Finding]:
    if origin_of(seen.recipe, "base_color") == "absent":
        yield finding("no-base-color")


def _no_origin(seen: Evaluation) -> Iterator[Finding]:
    photos = any("photo" in source.reads.values() for source in seen.recipe.sources.values())
    if photos and not seen.recipe.facts.origin:
        yield finding("no-origin")


def _gray_specular(seen: Evaluation) -> Iterator[Finding]:
    for source in seen.recipe.sources.values():
        if source.reads.get("L") == "specular_level" and read_name(source.name).kind == "specular":
            yield finding("gray-specular", master="reflectance", file=source.name)


def _half_metal(seen: Evaluation) -> Iterator[Finding]:
    """A specular file that cannot be what colors reflect: read as a level, which the eye may refuse, or still as a color."""
    share = 0.0 if "specular-as-level" in seen.recipe.answered else half_metal_of(seen)
    if share > HALF_METAL:
        is_level = is_read_as_level(seen.recipe)
        key, found = ("specular_level", "specular-as-level") if is_level else ("specular", "half-metal")
        file = next(source.name for source in seen.recipe.sources.values() if key in source.reads.values())
        yield finding(found, master="reflectance" if is_level else "metallic", file=file, share=share)


def _shine_named(seen: Evaluation) -> Iterator[Finding]:
    """Files named for gloss and read as roughness, or the other way round."""
    for source in seen.recipe.sources.values():
        named = read_name(source.name).kind
        if named in _TURNED and _TURNED[named] in source.reads.values():
            yield finding("shine-contradicts", master="roughness", file=source.name, named=named, read=_TURNED[named])


def _rise(seen: Evaluation) -> Iterator[Finding]:
    """What is to be said of a rise that nobody told."""
    recipe = seen.recipe
    if recipe.facts.rise_from != "assumed" or origin_of(recipe, "height") != "given":
        return
    rise, files = f"{recipe.facts.rise * 100:g} %", {key: _file_of(recipe, key) for key in ("height", "normal")}
    said = rise_said(seen)
    if said is None:
        where = "what is derived from it leans accordingly"
        yield finding("rise-assumed", master="height", file=files["height"], rise=rise, where=where)
    elif said.is_believed:
        measured = f"{said.rise * 100:.3g} %"
        yield finding("rise-measurable", master="height", **files, rise=rise, measured=measured, fit=said.fit)
    else:
        yield finding("rise-asked", master="height", **files, rise=rise, fit=said.fit)


def _file_of(recipe: Recipe, master: str) -> str:
    """The name of the file that gives a master, or the master's own."""
    found = recipe.source_of(master)
    return quantity(master).title if found is None else found[1].name


def size_findings(seen: Evaluation) -> Iterator[Finding]:
    """Sources of another size than the set's files came at, where nobody has said how they fit; one value fits any."""
    recipe, whole = seen.recipe, seen.recipe.frame or seen.recipe.facts
    for name, source in recipe.sources.items():
        is_same = (source.width, source.height) == (whole.width, whole.height)
        if is_same or source.fit is not None or _is_one_value(seen, name):
            continue
        numbers = {"file": source.name, "width": source.width, "height": source.height}
        numbers |= {"set_width": whole.width, "set_height": whole.height}
        same_shape = abs(source.width * whole.height - source.height * whole.width) <= max(whole.width, whole.height)
        fed = (key for key, ref in recipe.masters.items() if (ref.kind, ref.name) == ("source", name))
        yield finding("size-differs" if same_shape else "aspect-differs", master=next(fed, None), **numbers)


def _uneven_pixels(seen: Evaluation) -> Iterator[Finding]:
    """Files that are sampled as pixel art to a size of which theirs is no whole multiple, nor the other way round."""
    recipe, facts = seen.recipe, seen.recipe.facts
    for name, source in recipe.sources.items():
        if (source.sampling or facts.sampling) != "nearest" or _is_one_value(seen, name):
            continue
        height, width = seen.stored(source_ref(name, next(iter(source.reads.values())))).shape[:2]
        if not (is_multiple(width, facts.width) and is_multiple(height, facts.height)):
            fed = (key for key, ref in recipe.masters.items() if (ref.kind, ref.name) == ("source", name))
            numbers = {"width": facts.width, "height": facts.height, "from_width": width, "from_height": height}
            yield finding("uneven-pixels", master=next(fed, None), file=source.name, **numbers)


def _is_one_value(evaluation: Evaluation, source: str) -> bool:
    keys = evaluation.recipe.sources[source].reads.values()
    stored = [evaluation.stored(source_ref(source, key)) for key in keys]
    return all(bool((values == values[:1, :1]).all()) for values in stored)


def _picks(seen: Evaluation) -> Iterator[Finding]:
    for key in seen.recipe.masters:
        made = seen.recipe.node_of(key)
        if made is None or not made[1].params.get("picks"):
            continue
        worst = seen.measured(made[0], PICK_FIT).worst
        if worst > _MISSED:
            yield finding("picks-contradict", master=key, title=quantity(key).title, worst=worst)


def _older(seen: Evaluation) -> Iterator[Finding]:
    """Steps that are made by an older way than a new one would be."""
    for name, was in older_ways(seen.recipe).items():
        fed = [key for key, ref in seen.recipe.masters.items() if ref.whole == node_ref(name)]
        if fed:
            title = quantity(fed[0]).title
            yield finding("older-way", master=fed[0], title=title, was=was, number=seen.recipe.nodes[name].algorithm)


def _stepped(seen: Evaluation) -> Iterator[Finding]:
    """The given height, where it is of 8 bits, its steps would be seen, and nobody has had them smoothed."""
    found = seen.recipe.source_of("height")
    if found is None or found[1].smooth_steps:
        return
    ref = seen.recipe.masters["height"]
    times = seen.kept(ref, "stepping", lambda: _steps_of(seen, found[1], ref))
    if times >= STEPPED:
        yield finding("stepped-height", master="height", file=found[1].name, times=times)


def _steps_of(seen: Evaluation, source: Source, ref: Ref) -> float:
    is_coarse = source.depth < 32 and is_of_8_bits(seen.load(source))
    return stepping(seen.stored(ref), source.step_of("height")) if is_coarse and ref.part == "height" else 1.0


def _lone_diffuse(seen: Evaluation) -> Iterator[Finding]:
    """A diffuse map alone, unless a metallic map beside it tells that it is a base color by another name."""
    sources = seen.recipe.sources.values()
    has_specular = any({"specular", "specular_level"} & set(source.reads.values()) for source in sources)
    if not has_specular and not _is_metal_in_color(seen):
        yield from (finding("specular-missing", file=s.name) for s in sources if "diffuse" in s.reads.values())


def _is_metal_in_color(seen: Evaluation) -> bool:
    """Whether a given metallic map says where metal is, and the base color is not black there."""
    metallic, color = (seen.recipe.masters.get(key) for key in ("metallic", "base_color"))
    if metallic is None or color is None or origin_of(seen.recipe, "metallic") != "given":
        return False
    metal, light = seen.value(metallic, seen.working), luminance(seen.value(color, seen.working))
    share = float(metal.mean())
    return share < _BLACK or float((light * metal).mean()) / share >= _BLACK


def _unused_sources(seen: Evaluation) -> Iterator[Finding]:
    """Files in the set that nothing is made of, each with what stands in its place or what it lacks."""
    recipe = seen.recipe
    refs = [*recipe.masters.values(), *(ref for node in recipe.nodes.values() for ref in node.inputs.values())]
    read = {ref.name for ref in refs if ref.kind == "source"}
    for name, source in recipe.sources.items():
        if name not in read:
            yield finding("source-unused", file=source.name, why=_why_unused(recipe, source))


def _why_unused(recipe: Recipe, source: Source) -> str:
    key = next(iter(source.reads.values()))
    master = quantity(key).master or ("base_color" if key in ("diffuse", "shaded_color") else None)
    given = {held for other in recipe.sources.values() for held in other.reads.values()}
    if key == "specular" and "diffuse" not in given:
        return "a specular color needs a diffuse map beside it"
    if master is None or master not in recipe.masters:
        return f"{quantity(master or key).title.lower()} was left out of the set"
    made, other = recipe.node_of(master), recipe.source_of(master)
    title = quantity(master).title.lower()
    if other is not None:
        return f"{title} is taken from {other[1].name}"
    instead = operation_of(made[1]).title if made is not None and made[1].op != "constant" else "one value"
    return f"{title} is {instead} instead"


def _baked(seen: Evaluation) -> Iterator[Finding]:
    """Maps that were baked from what the mesh is no more, and where rays met nothing."""
    recipe = seen.recipe
    stale: dict[str, list[str]] = {}
    missed: dict[float, list[str]] = {}
    for key in recipe.masters:
        found = recipe.source_of(key)
        made = None if found is None else found[1].baked
        if made is None:
            continue
        why = ", and ".join(made.stale(recipe.worn))
        if why:
            stale.setdefault(why, []).append(key)
        if made.missed > _MISSED_RAYS and made.map != "position":
            missed.setdefault(round(made.missed, 4), []).append(key)
    # each is said once for all that it holds for
    for share, keys in missed.items():
        yield finding("baked-missed", master=keys[0], title=", ".join(quantity(key).title for key in keys), missed=share)
    for why, keys in stale.items():
        yield finding("baked-stale", master=keys[0], title=", ".join(quantity(key).title for key in keys), why=why)


def _worn(seen: Evaluation) -> Iterator[Finding]:
    """A mesh whose UV the set's pictures do not follow any more."""
    recipe = seen.recipe
    if recipe.worn is None:
        return
    steps = active(recipe.frame.steps) if recipe.frame is not None else ()
    if steps:
        yield finding("baked-moved", file=recipe.worn.low.name, steps=", ".join(step_said(step) for step in steps))
    if recipe.tiles and seen.meshes is not None and not seen.meshes.tiles(recipe.worn):
        yield finding("baked-in-tiles", file=recipe.worn.low.name)


def _occlusions(seen: Evaluation) -> Iterator[Finding]:
    """One occlusion goes into the files; where there are others, it is said which."""
    recipe, now = seen.recipe, seen.recipe.masters.get("occlusion")
    made = recipe.node_of("occlusion")
    refs = [source_ref(name, "occlusion") for name, source in recipe.sources.items() if "occlusion" in source.reads.values()]
    mixed = () if made is None else made[1].inputs.values()
    others = [recipe.sources[ref.name].name for ref in refs if ref != now and ref not in mixed]
    if now is None or not others:
        return
    used = _file_of(recipe, "occlusion") if made is None else operation_of(made[1]).title
    yield finding("occlusions", master="occlusion", used=used, others=", ".join(others))


Check = Callable[[Evaluation], Iterator[Finding]]
# What a person is told on the bench, and what of a recipe matters to a delivery besides.
CHECKS: tuple[Check, ...] = (
    _no_base_color,
    _no_origin,
    _gray_specular,
    _half_metal,
    _shine_named,
    _rise,
    size_findings,
    _uneven_pixels,
    _picks,
    _stepped,
    _older,
    _baked,
    _worn,
    _occlusions,
)
PLANNED_TOO: tuple[Check, ...] = (
    size_findings,
    _uneven_pixels,
    _lone_diffuse,
    _unused_sources,
    _stepped,
    _older,
    _baked,
    _worn,
)
