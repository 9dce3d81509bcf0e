"""The exact list of files before anything is written, with what stops it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from ...core.color import srgb_from_linear
from ...core.findings import Finding, finding
from ...core.intake.facts import seams_of
from ...core.intake.names import tile_of
from ...core.quantities import quantity
from ...core.raster import Size
from ...core.recipe import OPERATIONS, Evaluation, Recipe, Source, choices, origin_of
from ...core.target import DOCUMENTS, FORMATS, Document, Target, TargetFile, Token, feeds, file_size, memory_bytes
from ...core.target.encode import Feed, fill_value
from ...core.target.model import Letter
from ...core.target.naming import file_name, refused
from ..assaying import sizes, undetermined

__all__ = ["Plan", "PlannedChannel", "PlannedFile", "as_planned", "plan_delivery"]

UNWANTED = "left out by you"
_FIRST_TILE = 1001
_NOTHING_WHEN_FLAT = ("opacity", "emissive", "occlusion", "height", "curvature", "reflectance")  # the same as none at all
_UNASKED = (
    "op:height_from_normal",
    "op:height_from_color",
    "op:normal_from_height",
    "op:occlusion_from_height",
    "op:roughness_from_color",
    "op:curvature_from_normal",
)
_EMPTY_PX = 64  # an area average of a map that is not empty is not empty either


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True)


class PlannedChannel(_Value):
    """What one channel carries: a master, a constant that somebody set, or a fill, with the code it then has everywhere.

    ``why`` says what the set lacks that a fill stands for; ``derive`` is the origin of that master that one press takes.
    """

    letter: str
    quantity: str | None
    title: str
    component: str
    invert: bool
    constant: float | None
    content: Literal["master", "constant", "fill"] = "master"
    master: str | None = None
    value: str | None = None
    why: str | None = None
    derive: str | None = None

    @property
    def fill(self) -> str | None:
        """The sentence on a fill, None for what is none."""
        return None if self.content != "fill" else f"{self.letter}: {self.value} everywhere, {self.why}"


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
    has_holes: bool = False

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
    lacking = {key: why for key in target.masters() if (why := _lack(evaluation, key)) is not None}
    naming = _Naming(target, set_name, project, _tile(recipe))
    files = [_image(target, file, recipe, lacking, size, naming) for file in target.files]
    files = [_unwanted(file) if file.role in unwanted else file for file in files]
    written = {file.role for file in files if file.left_out is None}
    documents = [_document(document, written, size, naming) for document in target.documents]
    files += [_unwanted(file) if file.role in unwanted else file for file in documents]
    findings = (
        *_missing(target, files, recipe),
        *_written_flat(target, files),
        *_rise_stated(evaluation, target, files),
        *_seams_shown(evaluation, target, files),
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
        has_holes="opacity" in recipe.masters and _lack(evaluation, "opacity") is None,
    )


def _lack(evaluation: Evaluation, key: str) -> str | None:
    """What a set lacks where a master is not there, or where a given one is the same as none; None where it has one."""
    recipe, title = evaluation.recipe, quantity(key).title.lower()
    origin = origin_of(recipe, key)
    if origin == "absent":
        return f"the set has no {title}"
    if origin != "given" or key not in _NOTHING_WHEN_FLAT:
        return None
    values = _small(evaluation).master(key)
    is_nothing = values is not None and bool(np.all(values == quantity(key).absent_value()))
    return f"its {title} is flat, as if it had none" if is_nothing else None


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


def _image(target: Target, file: TargetFile, recipe: Recipe, lacking: dict[str, str], size: Size, naming: _Naming) -> PlannedFile:
    routed = feeds(target, file)
    channels = [_channel(file, letter, routed[letter], recipe, lacking) for letter in file.channels]
    is_stopped = any(channel.fill == "stop" for channel in file.channels.values())  # then what is missing is told as a stop
    is_flat = not is_stopped and {c.content for c in channels if c.quantity is not None} == {"fill"}
    left_out = " and ".join(dict.fromkeys(c.why for c in channels if c.why)) if is_flat and not file.required else None
    for channel in file.channels.values():
        if channel.fill == "leave-out" and channel.masters and origin_of(recipe, channel.masters[0]) == "absent":
            left_out = f"the set has no {quantity(channel.masters[0]).title.lower()}"
    if file.may_lack_fourth and channels[-1].content == "fill":
        channels.pop()
    written = with_letters(file, "".join(c.letter for c in channels))
    own = file_size(target, file, size)
    memory = memory_bytes(written, own)
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
        green=target.green if "normal" in file.masters() else None,
        channels=tuple(channels),
        memory_plain=memory.plain,
        memory_block=memory.block,
    )


def _channel(file: TargetFile, letter: Letter, feed: Feed, recipe: Recipe, lacking: dict[str, str]) -> PlannedChannel:
    channel = file.channels[letter]
    lead = channel.masters[0] if channel.masters else None
    why = lacking.get(lead) if lead is not None else None
    is_set = lead is not None and origin_of(recipe, lead) == "constant"
    row = PlannedChannel(
        letter=letter,
        quantity=channel.quantity,
        title=channel.row.title if channel.row else "constant",
        component=channel.component,
        invert=channel.invert,
        constant=channel.constant,
        content="constant" if lead is None or is_set else "fill" if why else "master",
        master=lead,
    )
    if why is None or lead is None:
        return row
    value = _code(file, letter, fill_value(channel, feed))
    return row.model_copy(update={"value": value, "why": why, "derive": _derivable(recipe, lead)})


def _derivable(recipe: Recipe, master: str) -> str | None:
    """The origin that derives an absent master without asking anything, where there is one that works in this set."""
    if origin_of(recipe, master) != "absent":
        return None
    works = {choice.key for choice in choices(recipe, master)}
    return next((key for key in _UNASKED if key in works and master in OPERATIONS[key[3:]].makes), None)


def _code(file: TargetFile, letter: str, value: float) -> str:
    """A value on the file's scale of 0..1 as the file stores it."""
    on_curve = float(srgb_from_linear(np.array([[value]], np.float32))[0, 0]) if file.color == "srgb" and letter != "A" else value
    return f"{on_curve:.4g}" if file.sample == "float" else str(int(min(max(on_curve, 0), 1) * (2**file.depth - 1) + 0.5))


def with_letters(file: TargetFile, letters: str) -> TargetFile:
    """The file with only these of its channels, as it is written."""
    if "".join(file.channels) == letters or not letters:
        return file
    return file.model_copy(update={"channels": {letter: file.channels[letter] for letter in letters}})  # type: ignore[index]


def as_planned(target: Target, plan: Plan) -> Target:
    """The target as its files are written by this plan, without the fourth channels that nothing feeds."""
    letters = {file.role: "".join(channel.letter for channel in file.channels) for file in plan.files if file.kind == "image"}
    return target.model_copy(update={"files": tuple(with_letters(f, letters.get(f.role, "")) for f in target.files)})


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


def _written_flat(target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """Files that hold nothing of the set and are written all the same."""
    reasons = {file.role: file.required for file in target.files if file.required}
    flat = [f for f in files if f.role in reasons and f.left_out is None and all(c.content == "fill" for c in f.channels)]
    return tuple(
        finding("written-flat", file=f.name, why=next(c.why for c in f.channels if c.why), reason=reasons[f.role]) for f in flat
    )


def _rise_stated(evaluation: Evaluation, target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """An assumed rise that a note or a document would state."""
    recipe, facts = evaluation.recipe, evaluation.recipe.facts
    written = {f.role for f in files if f.left_out is None}
    carries = any(file.role in written and "height" in file.masters() for file in target.files)
    documents = [d for d in target.documents if d.role in written and any("displacement" in slot for slot in d.inputs)]
    if facts.rise_from != "assumed" or not carries or (target.height.use in ("none", "blending") and not documents):
        return ()
    ref = recipe.masters["height"]
    file = recipe.sources[ref.split(":")[1]].name if ref.startswith("source:") else quantity("height").title
    where = f"{target.title} is told so" if not documents else "its document would state it"
    return (finding("rise-assumed", master="height", file=file, rise=f"{facts.rise * 100:g} %", where=where),)


def _seams_shown(evaluation: Evaluation, target: Target, files: list[PlannedFile]) -> tuple[Finding, ...]:
    """A set that does not repeat, for a target that repeats it."""
    facts = evaluation.recipe.facts
    axes = [says for axis, says in ((facts.edges.x, "across"), (facts.edges.y, "down")) if axis == "mirror"]
    if not axes or not (target.repeats or facts.tile_size is not None):
        return ()
    where = f"{target.title} lays it out again and again" if target.repeats else "the note says how wide one tile is"
    worst = next(iter(seams_of(evaluation)), None)
    title, seam = (quantity(worst.master).title.lower(), max(worst.across, worst.down)) if worst else ("it", 0.0)
    return (finding("does-not-repeat", axes=" and ".join(axes), title=title, seam=seam, where=where),)


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
    """Files in the set that nothing is made of, each with what stands in its place or what it lacks."""
    refs = [*recipe.masters.values(), *(ref for node in recipe.nodes.values() for ref in node.inputs.values())]
    read = {ref.split(":")[1] for ref in refs if ref.startswith("source:")}
    return tuple(
        finding("source-unused", file=source.name, why=_why_unused(recipe, source))
        for name, source in recipe.sources.items()
        if name not in read
    )


def _why_unused(recipe: Recipe, source: Source) -> str:
    key = next(iter(source.reads.values()))
    master = quantity(key).master or ("base_color" if key in ("diffuse", "shaded_color") else None)
    given = {held for other in recipe.sources.values() for held in other.reads.values()}
    if key == "specular" and "diffuse" not in given:
        return "a specular color needs a diffuse map beside it"
    if master is None or master not in recipe.masters:
        return f"{quantity(master or key).title.lower()} was left out of the set"
    origin, made = origin_of(recipe, master), recipe.node_of(master)
    title = quantity(master).title.lower()
    if origin == "given":
        other = recipe.sources[recipe.masters[master].split(":")[1]]
        return f"{title} is taken from {other.name}"
    return f"{title} is {'one value' if origin == 'constant' or made is None else OPERATIONS[made[1].op].title} instead"


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
