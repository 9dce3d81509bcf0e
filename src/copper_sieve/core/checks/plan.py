"""Checks on what a plan would write: what is missing, what would clash, what would be flat, and what nobody carries."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np

from ..findings import Finding, finding
from ..intake.facts import seams_of
from ..plan import PlannedFile, in_short
from ..quantities import quantity
from ..raster import is_multiple
from ..recipe import Evaluation, Recipe, origin_of
from ..target import Target, TargetFile
from ..target.naming import refused

__all__ = ["CHECKS", "Planned", "waiting"]

_SMOOTH = ("height", "normal")  # quantities whose slopes show the steps of 8 bits


@dataclass(frozen=True)
class Planned:
    """What a check of a plan sees: the set, the target, and the files that come of it."""

    evaluation: Evaluation
    target: Target
    files: tuple[PlannedFile, ...]

    @property
    def recipe(self) -> Recipe:
        return self.evaluation.recipe

    @property
    def written(self) -> dict[str, PlannedFile]:
        """Files that will be written, by role."""
        return {file.role: file for file in self.files if file.is_written}

    @property
    def images(self) -> list[TargetFile]:
        """The target's files of those."""
        written = self.written
        return [file for file in self.target.files if file.role in written]


def _missing(seen: Planned) -> Iterator[Finding]:
    unwanted = {file.role for file in seen.files if file.left_out == "unwanted"}
    wanted = {
        (file.title, channel.masters[0])
        for file in seen.target.files
        if file.role not in unwanted
        for channel in file.channels.values()
        if channel.fill == "stop" and channel.masters and origin_of(seen.recipe, channel.masters[0]) == "absent"
    }
    yield from (finding("master-missing", file=file, missing=quantity(key).title) for file, key in sorted(wanted))


def _written_flat(seen: Planned) -> Iterator[Finding]:
    """Files that hold nothing of the set and are written all the same."""
    for file in seen.images:
        channels = seen.written[file.role].channels
        if file.required and all(c.content == "fill" for c in channels):
            why = next(c.why for c in channels if c.why)
            yield finding("written-flat", file=seen.written[file.role].name, why=why, reason=file.required)


def _rise_stated(seen: Planned) -> Iterator[Finding]:
    """An assumed rise that a note or a document would state."""
    recipe, facts, target = seen.recipe, seen.recipe.facts, seen.target
    carries = any("height" in file.masters() for file in seen.images)
    documents = [d for d in target.documents if d.role in seen.written and any("displacement" in slot for slot in d.inputs)]
    is_assumed = facts.rise_from == "assumed" and origin_of(recipe, "height") == "given"
    if not is_assumed or not carries or (target.height.use in ("none", "blending") and not documents):
        return
    given = recipe.source_of("height")
    file = given[1].name if given is not None else quantity("height").title
    where = f"{target.title} is told so" if not documents else "its document would state it"
    yield finding("rise-assumed", master="height", file=file, rise=f"{facts.rise * 100:g} %", where=where)


def _seams_shown(seen: Planned) -> Iterator[Finding]:
    """A set that does not repeat, for a target that repeats it. Tiles are parts of an atlas: nobody repeats one."""
    facts, target = seen.recipe.facts, seen.target
    axes = [says for axis, says in ((facts.edges.x, "across"), (facts.edges.y, "down")) if axis == "mirror"]
    if seen.evaluation.tile is not None or not axes or not (target.repeats or facts.tile_size is not None):
        return
    where = f"{target.title} lays it out again and again" if target.repeats else "the note says how wide one tile is"
    worst = next(iter(seams_of(seen.evaluation)), None)
    title, seam = (quantity(worst.master).title.lower(), max(worst.across, worst.down)) if worst else ("it", 0.0)
    yield finding("does-not-repeat", axes=" and ".join(axes), title=title, seam=seam, where=where)


def _named_alike(seen: Planned) -> Iterator[tuple[PlannedFile, PlannedFile]]:
    """Files with the first of the same name, as file systems that do not heed case see it."""
    named: dict[str, PlannedFile] = {}
    for file in seen.written.values():
        first = named.setdefault(file.name.casefold(), file)
        words = {f.layer_of for f in seen.target.files if f.role in (first.role, file.role)}
        if first is not file and not (first.layer and file.layer and len(words) == 1):
            yield first, file


def _clashes(seen: Planned) -> Iterator[Finding]:
    for first, file in _named_alike(seen):
        yield finding("name-clash", first=first.title, second=file.title, name=file.name)


def _refused(seen: Planned) -> Iterator[Finding]:
    """Names that file systems do not take."""
    for file in seen.written.values():
        why = refused(file.name)
        if why is not None:
            yield finding("name-refused", file=file.title, name=file.name, why=why)


def waiting(seen: Planned, found: Iterable[Finding]) -> dict[tuple[str, int | None], str]:
    """Files of a plan that cannot go, by role and tile, and why: their name, or a map that a finding stops."""
    tile, why = seen.evaluation.tile, {}
    stopped = {one.master for one in found if one.grade == "stop" and one.master is not None}
    for file in seen.images:
        held = next((key for key in file.masters() if key in stopped), None)
        if held is not None:
            why[file.role, tile] = f"waits: its {quantity(held).title.lower()} does not fit the set"
        if refused(seen.written[file.role].name) is not None:
            why[file.role, tile] = "waits for another name"
    return why | {(file.role, tile): f"waits for another name: {first.title} has it" for first, file in _named_alike(seen)}


def _alike(seen: Planned) -> Iterator[Finding]:
    """Files whose channels carry different maps that are one picture; maps of one value are no pictures."""
    short = in_short(seen.evaluation)
    for file in seen.images:
        keys = {letter: c.masters[0] for letter, c in file.channels.items() if c.row is not None and c.row.channels == 1}
        made = {letter: key for letter, key in keys.items() if origin_of(seen.recipe, key) in ("given", "derived")}
        maps = {letter: short.master(key) for letter, key in made.items()}
        drawn = [(letter, values) for letter, values in maps.items() if values is not None and float(np.ptp(values)) > 0]
        for (a, first), (b, second) in combinations(drawn, 2):
            if keys[a] != keys[b] and np.array_equal(first, second):
                said = " and ".join(quantity(keys[letter]).title.lower() for letter in (a, b))
                yield finding("channels-alike", file=file.title, letters=f"{a} and {b}", maps=said)


def _sign_lost(seen: Planned) -> Iterator[Finding]:
    """Normals whose z is rebuilt by the target though some of it is negative."""
    for file in seen.images:
        parts = {c.component for c in file.channels.values() if c.quantity == "normal"}
        normal = in_short(seen.evaluation).master("normal") if parts and "z" not in parts else None
        share = 0.0 if normal is None else float((normal[..., 2] < 0).mean())
        if share > 0:
            yield finding("sign-lost", file=file.title, share=share)


def _occlusion_twice(seen: Planned) -> Iterator[Finding]:
    """Files with occlusion in their color, by the target's table or by the recipe, beside one that carries it apart."""
    made = seen.recipe.node_of("base_color")
    in_base = made is not None and made[1].op == "color_with_occlusion"
    colors = {"shaded_color", "base_color", "diffuse"} if in_base else {"shaded_color"}
    carried = {file.title: {c.quantity for c in file.channels.values()} for file in seen.images}
    shaded = [title for title, keys in carried.items() if colors & keys]
    apart = [title for title, keys in carried.items() if "occlusion" in keys]
    yield from (finding("occlusion-twice", file=a, other=b) for a in shaded for b in apart)


def _bands(seen: Planned) -> Iterator[Finding]:
    """Files of 8 bit without dither that round a smooth master given in more."""
    deep = [key for key in _SMOOTH if (given := seen.recipe.source_of(key)) is not None and given[1].depth > 8]
    for file in seen.images:
        for key in deep:
            if file.depth == 8 and not file.dither and key in file.masters():
                yield finding("bands-in-8-bit", file=seen.written[file.role].name, deep=quantity(key).title.lower())


def _uneven_pixels(seen: Planned) -> Iterator[Finding]:
    """Files that are sampled as pixel art to a size that is no whole part of the set's."""
    facts = seen.recipe.facts
    for file in seen.images:
        made = seen.written[file.role]
        if not (file.pixel_art or facts.sampling == "nearest"):
            continue
        if not (is_multiple(made.width, facts.width) and is_multiple(made.height, facts.height)):
            numbers: dict[str, Any] = {"width": made.width, "height": made.height}
            numbers |= {"from_width": facts.width, "from_height": facts.height}
            yield finding("uneven-pixels", file=made.name, **numbers)


def _unused(seen: Planned) -> Iterator[Finding]:
    """Given masters that the target does not carry."""
    carried = set(seen.target.masters())
    for key in seen.recipe.masters:
        if key not in carried and origin_of(seen.recipe, key) == "given":
            yield finding("unused-master", unused=quantity(key).title, target=seen.target.title)


CHECKS: tuple[Callable[[Planned], Iterator[Finding]], ...] = (
    _missing,
    _written_flat,
    _rise_stated,
    _seams_shown,
    _clashes,
    _refused,
    _alike,
    _sign_lost,
    _occlusion_twice,
    _bands,
    _uneven_pixels,
    _unused,
)
