"""The exact list of files before anything is written, with what stops it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ..core.checks import Finding, finding
from ..core.intake.names import tile_of
from ..core.quantities import quantity
from ..core.raster import Size
from ..core.recipe import Evaluation, Recipe, origin_of
from ..core.target import DOCUMENTS, FORMATS, Document, Target, TargetFile, Token, file_size, memory_bytes
from ..core.target.naming import file_name, refused
from .assaying import sizes, undetermined

__all__ = ["Plan", "PlannedChannel", "PlannedFile", "plan_delivery"]

UNWANTED = "left out by you"
_FIRST_TILE = 1001
_EMPTY_PX = 64  # an area average of a map that is not empty is not empty either


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class PlannedChannel(_Value):
    """What one channel carries."""

    letter: str
    quantity: str | None
    title: str
    component: str
    invert: bool
    constant: float | None


class PlannedFile(_Value):
    """One file that will be written, or is left out and why."""

    role: str
    title: str
    name: str
    kind: Literal["image", "document"]
    left_out: str | None
    width: int
    height: int
    depth: int
    format: str
    color: str
    green: Literal["up", "down"] | None
    channels: tuple[PlannedChannel, ...]
    memory_plain: int
    memory_block: int


class Plan(_Value):
    """One set for one target."""

    target: str
    target_title: str
    set: str
    width: int
    height: int
    files: tuple[PlannedFile, ...]
    findings: tuple[Finding, ...]

    @property
    def stops(self) -> bool:
        return any(f.grade == "stop" for f in self.findings)


def plan_delivery(
    evaluation: Evaluation, target: Target, set_name: str, *, project: str = "", unwanted: Collection[str] = ()
) -> Plan:
    """Plan one set for one target at the evaluation's size. Computes at most 64 px copies of given masters.

    Parameters
    ----------
    unwanted : roles of files and documents that the person leaves out of this delivery
    """
    recipe, size = evaluation.recipe, evaluation.size
    empty = {key for key in target.masters() if _is_empty(evaluation, key)}
    naming = _Naming(target, set_name, project, _tile(recipe))
    files = [_image(target, file, recipe, empty, size, naming) for file in target.files]
    files = [_unwanted(file) if file.role in unwanted else file for file in files]
    written = {file.role for file in files if file.left_out is None}
    documents = [_document(document, written, size, naming) for document in target.documents]
    files += [_unwanted(file) if file.role in unwanted else file for file in documents]
    findings = (
        *_missing(target, files, recipe),
        *_clashes(files),
        *_refused(files),
        *_alike(evaluation, target, files),
        *_turned_twice(target, files),
        *_signs(evaluation, target, files),
        *sizes(evaluation),
        *_lone_diffuse(recipe),
        *_sources_unused(recipe),
        *(marked.finding for marked in undetermined(evaluation)),
        *_data_in_alpha(target, files),
        *_occlusion_twice(target, files, recipe),
        *_bands(target, files, recipe),
        *_unused(target, recipe),
    )
    return Plan(
        target=target.key,
        target_title=target.title,
        set=set_name,
        width=size.width,
        height=size.height,
        files=tuple(files),
        findings=findings,
    )


def _is_empty(evaluation: Evaluation, key: str) -> bool:
    recipe = evaluation.recipe
    origin = origin_of(recipe, key)
    if origin in ("absent", "derived"):
        return origin == "absent"
    values = _small(evaluation).master(key)
    return values is not None and bool(np.all(values == quantity(key).absent_value()))


def _unwanted(file: PlannedFile) -> PlannedFile:
    return file.model_copy(update={"left_out": UNWANTED})


@dataclass(frozen=True)
class _Naming:
    """What every name of one plan is filled in with."""

    target: Target
    set_name: str
    project: str
    tile: str

    def of(self, parts: tuple[str | Token, ...], suffix: str, word: str, size: Size) -> str:
        return file_name(
            parts,
            suffix=suffix,
            word=word,
            size=_size_word(size),
            target=self.target,
            set_name=self.set_name,
            project=self.project,
            tile=self.tile,
        )


def _document(document: Document, written: set[str], size: Size, naming: _Naming) -> PlannedFile:
    wears = sum(role in written for role in set(document.inputs.values()))
    return PlannedFile(
        role=document.role,
        title=DOCUMENTS[document.kind].says.format(wears),
        name=naming.of(document.name, DOCUMENTS[document.kind].suffix, "", size),
        kind="document",
        left_out=None,
        width=0,
        height=0,
        depth=0,
        format=document.kind,
        color="data",
        green=None,
        channels=(),
        memory_plain=0,
        memory_block=0,
    )


def _image(target: Target, file: TargetFile, recipe: Recipe, empty: set[str], size: Size, naming: _Naming) -> PlannedFile:
    carried = file.masters()
    left_out = None
    if file.optional and all(key in empty for key in carried):
        left_out = f"the set has no {' or '.join(quantity(key).title.lower() for key in carried)}"
    for channel in file.channels.values():
        if channel.fill == "leave-out" and channel.masters and origin_of(recipe, channel.masters[0]) == "absent":
            left_out = f"the set has no {quantity(channel.masters[0]).title.lower()}"
    own = file_size(target, file, size)
    memory = memory_bytes(file, own)
    return PlannedFile(
        role=file.role,
        title=file.title,
        name=naming.of(file.name, FORMATS[file.format].suffix, file.word, own),
        kind="image",
        left_out=left_out,
        width=own.width,
        height=own.height,
        depth=file.depth,
        format=file.format,
        color=file.color,
        green=target.green if "normal" in carried else None,
        channels=tuple(
            PlannedChannel(
                letter=letter,
                quantity=channel.quantity,
                title=channel.row.title if channel.row else "constant",
                component=channel.component,
                invert=channel.invert,
                constant=channel.constant,
            )
            for letter, channel in file.channels.items()
        ),
        memory_plain=memory.plain,
        memory_block=memory.block,
    )


def _size_word(size: Size) -> str:
    return str(size.width) if size.width == size.height else f"{size.width}x{size.height}"


def _tile(recipe: Recipe) -> str:
    """The UDIM number that the set's files came with, or that of the first tile."""
    found = (tile_of(source.name) for source in recipe.sources.values())
    return str(next((tile for tile in found if tile is not None), _FIRST_TILE))


def _missing(target: Target, files: list[PlannedFile], recipe: Recipe) -> tuple[Finding, ...]:
    unwanted = {file.role for file in files if file.left_out == UNWANTED}
    wanted = {
        (file.title, channel.masters[0])
        for file in target.files
        if file.role not in unwanted
        for channel in file.channels.values()
        if channel.fill == "stop" and channel.masters and origin_of(recipe, channel.masters[0]) == "absent"
    }
    return tuple(finding("master-missing", file=file, missing=quantity(key).title) for file, key in sorted(wanted))


def _clashes(files: list[PlannedFile]) -> tuple[Finding, ...]:
    seen: dict[str, PlannedFile] = {}
    found = []
    for file in files:
        if file.left_out is not None:
            continue
        folded = file.name.casefold()
        if folded in seen:
            found.append(finding("name-clash", first=seen[folded].title, second=file.title, name=file.name))
        seen[folded] = file
    return tuple(found)


def _refused(files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Names that file systems do not take."""
    named = [(file, refused(file.name)) for file in files if file.left_out is None]
    return tuple(finding("name-refused", file=file.title, name=file.name, why=why) for file, why in named if why is not None)


def _alike(evaluation: Evaluation, target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Files whose channels carry different maps that are one picture; maps of one value are no pictures."""
    written = {f.role for f in files if f.left_out is None}
    small, found = _small(evaluation), []
    for file in target.files:
        keys = {letter: c.masters[0] for letter, c in file.channels.items() if c.row is not None and c.row.channels == 1}
        made = {letter: key for letter, key in keys.items() if origin_of(evaluation.recipe, key) in ("given", "derived")}
        maps = {letter: small.master(key) for letter, key in made.items()} if file.role in written else {}
        drawn = [(letter, values) for letter, values in maps.items() if values is not None and float(np.ptp(values)) > 0]
        for (a, first), (b, second) in combinations(drawn, 2):
            if keys[a] != keys[b] and np.array_equal(first, second):
                said = " and ".join(quantity(keys[letter]).title.lower() for letter in (a, b))
                found.append(finding("channels-alike", file=file.title, letters=f"{a} and {b}", maps=said))
    return tuple(found)


def _turned_twice(target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Channels that are inverted by their convention and once more by a switch or a range that runs down."""
    written = {f.role for f in files if f.left_out is None}
    found = []
    for file in target.files:
        for letter, channel in file.channels.items() if file.role in written else ():
            row = channel.row
            is_green = channel.quantity == "normal" and channel.component == "y" and target.green == "down"
            turns = (row is not None and row.complement, is_green, channel.invert, channel.range[0] > channel.range[1])
            if sum(turns) > 1:
                what = "green" if is_green else quantity(channel.quantity or "").title.lower()
                found.append(finding("turned-twice", file=file.title, letter=letter, what=what))
    return tuple(found)


def _signs(evaluation: Evaluation, target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Signed quantities on a curve, and normals whose z is rebuilt though some of it is negative."""
    written = {f.role for f in files if f.left_out is None}
    found = []
    for file in target.files:
        carried = [c for letter, c in file.channels.items() if c.row is not None and c.row.low < 0 and letter != "A"]
        if file.role in written and file.color == "srgb" and carried:
            found.append(finding("signed-as-color", file=file.title, what=quantity(carried[0].quantity or "").title.lower()))
        parts = {c.component for c in file.channels.values() if c.quantity == "normal"}
        if file.role in written and parts and "z" not in parts:
            normal = _small(evaluation).master("normal")
            share = 0.0 if normal is None else float((normal[..., 2] < 0).mean())
            if share > 0:
                found.append(finding("sign-lost", file=file.title, share=share))
    return tuple(found)


def _small(evaluation: Evaluation) -> Evaluation:
    """The same set at the size that planning looks at."""
    longer = min(_EMPTY_PX, max(evaluation.size.width, evaluation.size.height))
    return Evaluation(evaluation.recipe, longer, evaluation.load, evaluation.cache)


def _sources_unused(recipe: Recipe) -> tuple[Finding, ...]:
    refs = [*recipe.masters.values(), *(ref for node in recipe.nodes.values() for ref in node.inputs.values())]
    read = {ref.split(":")[1] for ref in refs if ref.startswith("source:")}
    return tuple(finding("source-unused", file=source.name) for name, source in recipe.sources.items() if name not in read)


def _data_in_alpha(target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Files whose alpha is no opacity, in a format that picture editors show as see-through."""
    alphas = {f.role: channel for f in target.files for letter, channel in f.channels.items() if letter == "A"}
    data = {role for role, channel in alphas.items() if channel.quantity not in (None, "opacity")}
    return tuple(
        finding("data-in-alpha", file=f.name)
        for f in files
        if f.role in data and f.left_out is None and FORMATS[f.format].alpha_shows
    )


def _occlusion_twice(target: Target, files: list[PlannedFile], recipe: Recipe) -> tuple[Finding, ...]:
    """Files with occlusion in their color, by the target's table or by the recipe, beside one that carries it apart."""
    made = recipe.node_of("base_color")
    in_base = made is not None and made[1].op == "color_with_occlusion"
    colors = {"shaded_color", "base_color", "diffuse"} if in_base else {"shaded_color"}
    written = {f.role for f in files if f.left_out is None}
    carried = {f.title: {c.quantity for c in f.channels.values()} for f in target.files if f.role in written}
    shaded = [title for title, keys in carried.items() if colors & keys]
    apart = [title for title, keys in carried.items() if "occlusion" in keys]
    return tuple(finding("occlusion-twice", file=a, other=b) for a in shaded for b in apart)


_SMOOTH = ("height", "normal")  # quantities whose slopes show the steps of 8 bits


def _bands(target: Target, files: list[PlannedFile], recipe: Recipe) -> tuple[Finding, ...]:
    """Files of 8 bit without dither that round a smooth master given in more."""
    written = {f.role: f.name for f in files if f.left_out is None}
    deep = [
        key
        for key in _SMOOTH
        if origin_of(recipe, key) == "given" and recipe.sources[recipe.masters[key].split(":")[1]].depth > 8
    ]
    return tuple(
        finding("bands-in-8-bit", file=written[f.role], deep=quantity(key).title.lower())
        for f in target.files
        for key in deep
        if f.role in written and f.depth == 8 and not f.dither and key in f.masters()
    )


def _lone_diffuse(recipe: Recipe) -> tuple[Finding, ...]:
    reads = {key for source in recipe.sources.values() for key in source.reads.values()}
    lone = [s.name for s in recipe.sources.values() if "diffuse" in s.reads.values()] if "specular" not in reads else []
    return tuple(finding("specular-missing", file=name) for name in lone)


def _unused(target: Target, recipe: Recipe) -> tuple[Finding, ...]:
    carried = set(target.masters())
    given = [key for key in recipe.masters if key not in carried and origin_of(recipe, key) == "given"]
    return tuple(finding("unused-master", unused=quantity(key).title, target=target.title) for key in given)
