"""One set for one target: the exact list of files before anything is written. What is to be said of it, the checks say."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Literal

import numpy as np

from .color import srgb_from_linear
from .findings import Finding
from .intake.names import tile_of
from .operations import OPERATIONS
from .quantities import quantity
from .raster import Size
from .recipe import Evaluation, Recipe, guess_in, origin_of, works
from .target import DOCUMENTS, FORMATS, Document, Target, TargetFile, Token, feeds, file_size, memory_bytes
from .target.encode import Feed, fill_value
from .target.model import Channel, Letter
from .target.naming import file_name
from .tiles import FIRST_TILE
from .value import Told

__all__ = ["DiskState", "Plan", "PlannedChannel", "PlannedFile", "as_planned", "held_back", "in_short", "planned", "Written"]

LeftOut = Literal["unwanted", "nothing", "lacking", "waits"]
# Why a file is left out: a person says so, nothing of the set would be in it, its table says not to without that map, or
# somebody has to do something first.
_WHY = MappingProxyType({"unwanted": "left out by you", "nothing": "{lacks}", "lacking": "{lacks}", "waits": "{lacks}"})
TILE_PATTERN = "<UDIM>"  # as MaterialX and USD have it
_NOTHING_WHEN_FLAT = ("opacity", "emissive", "occlusion", "height", "curvature", "reflectance")  # the same as none at all
_UNASKED = (
    "op:height_from_normal",
    "op:height_from_color",
    "op:normal_from_height",
    "op:occlusion_from_height",
    "op:roughness_from_color",
    "op:curvature_from_normal",
)
_SHORT_PX = 64  # an area average of a map that is not empty is not empty either


class PlannedChannel(Channel):
    """A target's channel, and what it carries of this set: a master, a constant that somebody set, or a fill.

    ``value`` is the code that a fill has everywhere and ``why`` what the set lacks that it stands for; ``derive`` is the origin
    of that master that one press takes.
    """

    letter: str
    title: str
    content: Literal["master", "constant", "fill"] = "master"
    master: str | None = None
    value: str | None = None
    why: str | None = None
    derive: str | None = None

    @property
    def fill_said(self) -> str | None:
        """The sentence on a fill, None for what is none."""
        return None if self.content != "fill" else f"{self.letter}: {self.value} everywhere, {self.why}"


# Against the folder it goes to: not there, made otherwise by now, equal to the byte, changed by somebody else since we wrote
# it, or there though we never wrote it.
DiskState = Literal["new", "changed", "same", "by-hand", "foreign"]


class Written(Told):
    """What an earlier delivery wrote under a name."""

    sha256: str
    bytes: int
    key: str | None = None


class PlannedFile(Told):
    """One file that will be written, or is left out (``left_out``) and ``why``.

    In a set of tiles every ``tile`` has its own; ``pattern`` is the name with <UDIM> in place of the number.
    Layers of one layered file all have its name; ``layer`` is what each is called in it. ``guesses`` says which of its maps are
    guessed, or rest on what is. ``disk`` is how it stands against the folder it goes to, ``there`` what an earlier delivery wrote
    in its place, ``answer`` what is done where that was changed.
    """

    role: str
    title: str
    name: str
    tile: int | None = None
    pattern: str | None = None
    kind: Literal["image", "document"]
    left_out: LeftOut | None
    why: str | None = None
    width: int
    height: int
    depth: int
    format: str
    color: str
    green: Literal["up", "down"] | None
    channels: tuple[PlannedChannel, ...]
    memory_plain: int
    memory_block: int
    layer: str | None = None
    guesses: tuple[str, ...] = ()
    key: str | None = None
    disk: DiskState | None = None
    there: Written | None = None
    answer: Literal["keep", "beside", "replace"] | None = None

    @property
    def is_written(self) -> bool:
        return self.left_out is None

    @property
    def asks(self) -> bool:
        """Whether something lies in its place that is not ours to touch, and nobody has said what to do."""
        return self.is_written and self.disk in ("by-hand", "foreign") and self.answer is None

    @property
    def goes(self) -> bool:
        """Whether it is written now: it belongs to the set, and what lies there is not the same or may be replaced."""
        is_free = self.disk not in ("by-hand", "foreign") or self.answer == "replace"
        return self.is_written and self.disk != "same" and is_free


class Plan(Told):
    """One set for one target.

    ``folder`` is the one of an earlier delivery that it goes on in; ``gone`` are files in it, by name, that the set has no more.
    ``place`` is where its files go below a named folder, as ``ROOT/path``; None is the delivery's own folder.
    ``worn_by`` is the mesh that documents show it on; ``is_padded`` says that maps go on beyond that mesh's islands.
    ``seconds`` is about how long writing what goes will take, where somebody asked.
    """

    target: str
    target_title: str
    set: str
    width: int
    height: int
    files: tuple[PlannedFile, ...]
    findings: tuple[Finding, ...]
    has_holes: bool = False
    folder: str | None = None
    place: str | None = None
    gone: dict[str, Written] = {}
    worn_by: str | None = None
    is_padded: bool = False
    seconds: float | None = None

    @property
    def waits(self) -> tuple[PlannedFile, ...]:
        """Files that somebody has to do something for first; the others can go without them."""
        return tuple(file for file in self.files if file.left_out == "waits")

    @property
    def stops(self) -> bool:
        """Whether nothing can go, and something waits."""
        return bool(self.waits) and not any(file.is_written for file in self.files if file.kind == "image")

    @property
    def tiles(self) -> tuple[int, ...]:
        """UDIM numbers of the tiles that it has files of, in order."""
        return tuple(dict.fromkeys(file.tile for file in self.files if file.tile is not None))

    def of(self, tile: int | None) -> Plan:
        """The plan of one tile, with what is for all of them."""
        return self.model_copy(update={"files": tuple(file for file in self.files if file.tile in (None, tile))})


def planned(evaluation: Evaluation, target: Target, set_name: str, *, project: str = "", unwanted: Collection[str] = ()) -> Plan:
    """The files of one set for one target at the evaluation's size, without findings. Computes 64 px copies of given masters.

    Parameters
    ----------
    unwanted : roles of files and documents that the person leaves out of this delivery
    """
    naming = _Naming(target, set_name, project, None if evaluation.recipe.tiles else _named_tile(evaluation.recipe))
    each = {one.tile: _images(one, target, replace(naming, number=one.tile), unwanted) for one in evaluation.each}
    written = {file.role for files in each.values() for file in files if file.is_written}
    files: list[PlannedFile] = []
    for one in evaluation.each:
        own = [d for d in target.documents if one.tile is not None and not DOCUMENTS[d.kind].holds_tiles]
        names = replace(naming, number=one.tile)
        roles = {file.role for file in each[one.tile] if file.is_written}
        files += [*each[one.tile], *(_document(d, roles, evaluation.size, names, _wearing(one)) for d in own)]
    whole = [d for d in target.documents if not evaluation.recipe.tiles or DOCUMENTS[d.kind].holds_tiles]
    files += [_document(d, written, evaluation.size, naming, _wearing(evaluation)) for d in whole]
    files = [_left_out(f, "unwanted") if f.role in unwanted and f.kind == "document" else f for f in files]
    return Plan(
        target=target.key,
        target_title=target.title,
        set=set_name,
        width=evaluation.size.width,
        height=evaluation.size.height,
        files=tuple(files),
        findings=(),
        has_holes=any("opacity" in one.recipe.masters and _lack(one, "opacity") is None for one in evaluation.each),
        worn_by=_wearing(evaluation.at(None)),
        is_padded=evaluation.at(None).nearest(Size(_SHORT_PX, _SHORT_PX)) is not None,
    )


def _wearing(evaluation: Evaluation) -> str | None:
    """The mesh that wears the set, or one of its tiles, by its file; which part, where it has other materials too."""
    worn = evaluation.worn
    if worn is None or not evaluation.is_worn:
        return None
    is_part = bool(worn.called) and evaluation.meshes is not None and not evaluation.meshes.is_whole(worn)
    return f"the part “{worn.called}” of {worn.low.name}" if is_part else worn.low.name


def _images(evaluation: Evaluation, target: Target, naming: _Naming, unwanted: Collection[str]) -> list[PlannedFile]:
    """The images of a set, or of one of its tiles."""
    recipe, size = evaluation.recipe, evaluation.size
    lacking = {key: why for key in target.masters() if (why := _lack(evaluation, key)) is not None}
    images = [(file, _image(target, file, recipe, lacking, size, naming)) for file in target.files]
    files = [image for file, image in images if not (file.seldom and image.left_out == "nothing")]
    return [_left_out(file, "unwanted") if file.role in unwanted else file for file in files]


def in_short(evaluation: Evaluation) -> Evaluation:
    """The same set at the size that planning looks at."""
    longer = min(_SHORT_PX, max(evaluation.size.width, evaluation.size.height))
    return evaluation.sized(longer)


def _lack(evaluation: Evaluation, key: str) -> str | None:
    """What a set lacks where a master is not there, or where a given one is the same as none; None where it has one."""
    recipe, title = evaluation.recipe, quantity(key).title.lower()
    origin = origin_of(recipe, key)
    if origin == "absent":
        return f"the set has no {title}"
    if origin != "given" or key not in _NOTHING_WHEN_FLAT:
        return None
    values = in_short(evaluation).master(key)
    is_nothing = values is not None and bool(np.all(values == quantity(key).absent_value()))
    return f"its {title} is flat, as if it had none" if is_nothing else None


def held_back(plan: Plan, why: Mapping[tuple[str, int | None], str]) -> Plan:
    """The plan in which these of its files, by role and tile, wait; what says ``why``."""

    def state(file: PlannedFile) -> PlannedFile:
        said = why.get((file.role, file.tile))
        return file if said is None or not file.is_written else _left_out(file, "waits", said)

    return plan.model_copy(update={"files": tuple(map(state, plan.files))})


def _left_out(file: PlannedFile, state: LeftOut, lacks: str = "") -> PlannedFile:
    return file.model_copy(update={"left_out": state, "why": _WHY[state].format(lacks=lacks)})


@dataclass(frozen=True)
class _Naming:
    """What every name of one plan is filled in with. ``named`` is a UDIM number that a set without tiles came with."""

    target: Target
    set_name: str
    project: str
    named: str | None
    number: int | None = None

    def of(self, parts: tuple[str | Token, ...], suffix: str, word: str, size: Size) -> tuple[str, str | None]:
        """A file's name; and the pattern of its name, where it is that of one tile."""
        told = {"target": self.target, "set_name": self.set_name, "project": self.project, "size": _size_word(size)}
        if self.number is None:
            takes = any(isinstance(part, Token) and part.part == "tile" for part in parts)
            return file_name(parts, suffix=suffix, word=word, tile=(self.named or "") if takes else "", **told), None
        name, pattern = (file_name(parts, suffix=suffix, word=word, tile=t, **told) for t in (str(self.number), TILE_PATTERN))
        return name, pattern


def _document(document: Document, written: set[str], size: Size, naming: _Naming, mesh: str | None) -> PlannedFile:
    wears = sum(role in written for role in set(document.inputs.values()))
    name, pattern = naming.of(document.name, DOCUMENTS[document.kind].suffix, "", size)
    return PlannedFile(
        role=document.role,
        title=DOCUMENTS[document.kind].says.format(wears, mesh or "a plane"),
        name=name,
        tile=naming.number,
        pattern=pattern,
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
    is_nothing = not is_stopped and {c.content for c in channels if c.quantity is not None} == {"fill"}
    lacks = " and ".join(dict.fromkeys(c.why for c in channels if c.why))
    if file.may_lack_fourth and channels[-1].content == "fill":
        channels.pop()
    written = with_letters(file, "".join(c.letter for c in channels))
    own = file_size(target, file, size)
    memory = memory_bytes(written, own)
    lead = target.layers_of(file.layer_of)[0] if file.layer_of else file
    name, pattern = naming.of(lead.name, FORMATS[file.format].suffix, file.layer_of or file.word, own)
    row = PlannedFile(
        role=file.role,
        title=file.title,
        name=name,
        tile=naming.number,
        pattern=pattern,
        kind="image",
        left_out=None,
        width=own.width,
        height=own.height,
        depth=file.depth,
        format=file.format,
        color=file.color,
        green=target.green if "normal" in file.masters() else None,
        channels=tuple(channels),
        memory_plain=memory.plain,
        memory_block=memory.block,
        layer=file.word if file.layer_of else None,
        guesses=tuple(f"{quantity(key).title}: {said}" for key in file.masters() if (said := guess_in(recipe, key)) is not None),
    )
    awaited = _lead_of(file, recipe, "stop")
    if awaited is not None:
        return _left_out(row, "waits", f"waits for {quantity(awaited).title.lower()}")
    needed = _lead_of(file, recipe, "leave-out")
    if needed is not None:
        return _left_out(row, "lacking", f"the set has no {quantity(needed).title.lower()}")
    return _left_out(row, "nothing", lacks) if is_nothing and not file.required else row


def _lead_of(file: TargetFile, recipe: Recipe, fill: Literal["stop", "leave-out"]) -> str | None:
    """The absent master for lack of which the target's table says to do that to the file."""
    for channel in file.channels.values():
        if channel.fill == fill and channel.masters and origin_of(recipe, channel.masters[0]) == "absent":
            return channel.masters[0]
    return None


def _channel(file: TargetFile, letter: Letter, feed: Feed, recipe: Recipe, lacking: dict[str, str]) -> PlannedChannel:
    channel = file.channels[letter]
    lead = channel.masters[0] if channel.masters else None
    why = lacking.get(lead) if lead is not None else None
    is_set = lead is not None and origin_of(recipe, lead) == "constant"
    row = PlannedChannel(
        **channel.model_dump(),
        letter=letter,
        title=channel.row.title if channel.row else "constant",
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
    return next((key for key in _UNASKED if master in OPERATIONS[key[3:]].outputs and works(recipe, master, key)), None)


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


def _named_tile(recipe: Recipe) -> str:
    """The UDIM number that a set's files are named with though it is not in tiles, or that of the first tile."""
    found = (tile_of(source.name) for source in recipe.sources.values())
    return str(next((tile for tile in found if tile is not None), FIRST_TILE))
