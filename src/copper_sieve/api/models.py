"""What goes out is a noun; what comes in says its purpose and takes nothing else."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from ..core.convert.corrections import CorrectionKind
from ..core.convert.transforms import GeometryStep
from ..core.findings import Finding
from ..core.plan import Plan
from ..core.recipe import Recipe, Settings, SizeRequest
from ..core.target import Target

__all__ = [
    "AssayRow", "ChannelDifference", "Delivery", "FileLook", "FileReading", "FixRequest",
    "FolderRow", "Health", "IntakeEntry", "IntakeRequest", "LinkRequest", "MaskRequest", "MasterRow", "MixedNode", "MoveRequest",
    "NamesRequest", "Offer", "OfferedFile", "OfferedReading", "OffersRequest",
    "OperationRow", "OriginChoice", "OriginRequest", "PlanRequest", "PreviewRequest", "ProbeAnswer", "ProbeRequest",
    "ProfileLesson", "ProfileMatch", "Project", "ProjectRequest", "QuantityRow", "RecipeWrite", "RefreshRequest", "Region",
    "ResizeRequest", "SeamRow", "SettingsRequest", "StartRequest", "StepRequest",
    "TargetCopy", "TargetRow", "TargetWrite", "TextureSet", "Unwanted", "Version", "VersionName", "VersionRequest",
]  # fmt: skip


class _In(BaseModel):
    """What is sent to us: unknown names are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class _Out(BaseModel):
    """What we send: every field is there."""

    model_config = ConfigDict(from_attributes=True, json_schema_serialization_defaults_required=True)


class Health(_Out):
    status: Literal["ok", "database-gone"]
    version: str
    database: str
    deliveries: str


class Project(_Out):
    name: str
    title: str
    usual: list[str] = Field(description="Keys of the targets that it usually delivers to, in their order")


class UsualRequest(_In):
    usual: list[str] = Field(max_length=100)


class DestinationRequest(_In):
    """Where the files of a target go: below a named folder of the server."""

    root: str = Field(description="Name of a folder that the server was started with")
    below: str = Field(default="", max_length=400, description="A path in that folder, its parts with slashes between them")
    each: list[Literal["project", "set", "target"]] = Field(
        default=["set"], max_length=3, description="What gets a folder of its own there, from the outermost"
    )


class ProjectDestinations(_Out):
    roots: list[str] = Field(description="Names of the folders that this server may deliver into")
    targets: dict[str, DestinationRequest] = Field(description="By the keys of the targets that have one")


class ProjectRequest(_In):
    title: str = Field(min_length=1, max_length=120)


class MixedNode(_Out):
    node: str
    op: str
    number: int


class GivenMap(_Out):
    """The file that a master is given by, or that a mix makes it of: which source, what it is read as, what corrects it."""

    source: str
    file: str
    held: str
    correction: CorrectionKind


class CorrectionRow(_Out):
    """The corrections that a kind of given map can have."""

    kind: CorrectionKind
    params: dict[str, Any] = Field(description="JSON Schema of the parameters, with units, ranges and defaults")


class MasterRow(_Out):
    """One master of a set as the screen lists it."""

    key: str
    title: str
    plain: str
    origin: Literal["given", "derived", "constant", "absent"]
    parent: str | None
    source: str | None
    given: GivenMap | None
    node: str | None
    op: str | None
    number: int | None = Field(default=None, description="Which way of its operation makes it")
    mixed: list[MixedNode] = Field(default=[], description="Where it is a mix: the steps that have controls of their own")
    low: float = Field(description="Natural range, from")
    high: float
    usual: list[float] | None = Field(description="Where the mean of most materials lies")
    absent: list[float] = Field(description="What stands for it where nobody gave one")
    targets: list[str] = Field(description="Keys of the targets that carry it")


class TextureSet(_Out):
    id: UUID
    name: str
    head: int
    recipe: Recipe
    before: Recipe | None
    can_undo: bool
    can_redo: bool
    masters: list[MasterRow]
    tiles: list[int] = Field(default=[], description="UDIM numbers, in order; none for a set that is not in tiles")


class FileLook(_Out):
    """What one dropped file is."""

    sha256: str
    name: str
    set_name: str
    folder: str = ""
    bytes: int
    readable: bool
    width: int | None = None
    height: int | None = None
    depth: Literal[8, 16, 32] | None = None
    letters: str | None = None
    kind: str = "unknown"
    confidence: float = 0
    because: list[str] = []
    reads: dict[str, str] = {}
    green: Literal["up", "down", "unsure"] | None = None
    green_confidence: float | None = None
    green_reason: str | None = None
    tiles: tuple[bool, bool] = (True, True)
    spans: dict[str, tuple[float, float]] = {}
    guesses: list[str] = Field(default=[], description="What a picture of unknown kind may be, the likeliest first")
    is_named: bool = Field(default=True, description="Whether its name says the map; else its set's name is all of the file's")
    profile: str | None = Field(default=None, description="The source profile it was read by")
    is_constant: bool = Field(default=False, description="The same value everywhere, which fits any size")
    quality: list[int] = Field(default=[], description="Sorts the best of several files of one map first")
    place: str | None = Field(default=None, description="Where it lies in a linked folder")
    layers: list[str] = Field(default=[], description="What the pictures in it are called, where it holds several")
    is_by_layers: bool = Field(default=False, description="Its layers are called as maps are, so they are meant")
    layer_of: str | None = Field(default=None, description="The file it is a layer of: hash and name")
    findings: list[Finding] = []


class QuantityRow(_Out):
    key: str
    title: str
    plain: str
    master: str = Field(description="The master it becomes, itself when it is one or is made of several")
    channels: int


class OfferedRow(_In):
    """A file that could be read, as it stands: what of it decides where it goes."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str
    set_name: str
    is_set_told: bool = Field(default=False, description="Whether a person said the set's name")
    folder: str = ""
    kind: str = "unknown"
    reads: dict[str, str] = Field(default={}, description="Empty where nothing of it is taken")
    confidence: float = 0
    width: int = Field(ge=1)
    height: int = Field(ge=1)
    quality: list[int] = []
    is_named: bool = True
    is_constant: bool = False
    is_fitted: bool = Field(default=False, description="Whether somebody said how it fits its set's shape")


class ArrangeRequest(_In):
    files: list[OfferedRow] = Field(max_length=20_000)


class RivalRow(_Out):
    """The better file that gives some of a file's maps."""

    name: str
    keys: list[str]
    relation: Literal["copy", "worse", "rival"]


class MisfitRow(_Out):
    """How a file differs from its set, whose size this is."""

    differs: Literal["size", "shape"]
    width: int
    height: int


class ArrangedRow(_Out):
    """Where one file goes. ``head`` counts the files that were sent: the one of the first tile of the same map."""

    set_name: str
    reads: dict[str, str] = Field(description="What is left for it to give")
    rival: RivalRow | None
    misfit: MisfitRow | None
    tile: int | None
    head: int | None


class IntakeTile(_In):
    """The file of one more tile of a map."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str
    place: str | None = None


class IntakeEntry(_In):
    """One file as the person agreed to it."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str
    kind: str
    reads: dict[str, str] | None = Field(default=None, description="Channels by letter; left out: from the kind")
    spans: dict[str, tuple[float, float]] = {}
    green: Literal["up", "down"] | None = None
    tiles: tuple[bool, bool] | None = Field(default=None, description="Left out: looked at anew")
    fit: Literal["crop", "stretch"] | None = Field(default=None, description="How it is brought to the set's shape")
    place: str | None = None
    tile: int | None = Field(default=None, description="Its UDIM number in a set of tiles")
    beside: dict[int, IntakeTile] = Field(default={}, description="The files of the map's other tiles by their numbers")


class FolderRow(_Out):
    place: str
    pictures: int


class LinkRequest(_In):
    place: str
    profile: str | None = None


class ProfileLesson(_In):
    """Sets as a person agreed to them, to learn their source's ways from."""

    sets: list[list[IntakeEntry]] = Field(min_length=1)


class NamesRequest(_In):
    names: list[str] = Field(min_length=1, max_length=5000)


class ProfileMatch(_Out):
    profile: str
    names: list[str] = Field(description="The files of its group, those among them too that it does not know")


class OfferedFile(_In):
    """A file as it is read now."""

    name: str
    channels: int = Field(ge=1, le=4)
    reads: dict[str, str] = {}
    spans: dict[str, tuple[float, float]] = {}
    green: Literal["up", "down"] | None = None


class OffersRequest(_In):
    files: list[OfferedFile] = Field(max_length=5000)


class OfferedReading(_Out):
    """How a target's table reads one file."""

    name: str
    set: str
    title: str
    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None = Field(description="As it is read now where its slopes told; else as the target has it")
    is_change: bool


class Offer(_Out):
    """Files that look like a target's own."""

    target: str
    title: str
    files: list[OfferedReading]
    changes: int = Field(description="How many of them would be read otherwise than now")


class FileReading(_Out):
    """A file of a target read backwards."""

    key: str
    target: str
    role: str
    title: str
    channels: int
    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None


class IntakeRequest(_In):
    name: str = Field(min_length=1)
    entries: list[IntakeEntry] = Field(min_length=1)


class GrowRequest(_In):
    """More files for a set: beside what it has, or in its place."""

    expects: int
    entries: list[IntakeEntry] = Field(min_length=1)
    way: Literal["add", "replace"]


class RenameRequest(_In):
    name: str = Field(min_length=1, max_length=200)


class RemovedSet(_Out):
    """A set that was taken off the tray; it can be put back for as long as the project lives."""

    id: UUID
    name: str
    removed: datetime


class RecipeWrite(_In):
    expects: int
    recipe: Recipe
    note: str = ""


class AssayRow(_Out):
    """One finding, and what its fix would do, when there is one."""

    finding: Finding
    fix: str | None
    tile: int | None = Field(default=None, description="The first tile that it was found on, of a set in tiles")


class DensityRow(AssayRow):
    """What is found of one set beside the others of its project."""

    set: UUID


class FixRequest(_In):
    expects: int
    finding: str
    master: str | None = None


class StartRequest(_In):
    expects: int
    start: str


class MaskRequest(_In):
    expects: int
    master: str
    mask: str


class TargetRow(_Out):
    target: Target
    is_own: bool = Field(description="Whether it may be changed; the shipped ones are copied first")


class TargetCopy(_In):
    copy_of: str
    title: str = Field(default="", max_length=120)


class NameMatch(_Out):
    """What a target's own names make of a file's: whose it is and which file; both None where it fits none."""

    name: str
    set: str | None
    role: str | None


class TargetWrite(_In):
    expects: str = Field(description="The version that was changed")
    target: Target


class SeamRow(_Out):
    """Jumps over the borders of a map, in jumps beside them: about 1 repeats."""

    master: str
    title: str
    across: float
    down: float


class RefreshRequest(_In):
    expects: int


class MoveRequest(_In):
    expects: int
    move: GeometryStep


class ResizeRequest(_In):
    expects: int
    size: SizeRequest


class Version(_Out):
    """One step of a set's history."""

    id: int
    parent: int | None
    note: str
    name: str | None
    created: datetime
    is_head: bool


class VersionName(_In):
    name: str | None = Field(max_length=80)


class VersionRequest(_In):
    expects: int
    version: int


class SettingsRequest(_In):
    expects: int
    settings: Settings


class OriginChoice(_Out):
    """One way a set can come by a master."""

    key: str
    title: str
    is_now: bool


class OriginRequest(_In):
    expects: int
    master: str
    origin: str


class StepRequest(_In):
    expects: int
    step: Literal["undo", "redo"]


class OperationRow(_Out):
    """One way of an operation; ``was`` is what it is called where there is a newer one."""

    key: str
    number: int
    was: str
    title: str
    makes: list[str]
    params: dict[str, Any] = Field(description="JSON Schema of the parameters, with units, ranges and defaults")


class Region(_In):
    """A part of a picture, in texels."""

    x: int = Field(ge=0)
    y: int = Field(ge=0)
    width: int = Field(ge=1, le=4096)
    height: int = Field(ge=1, le=4096)

    @property
    def box(self) -> tuple[int, int, int, int]:
        return self.x, self.y, self.width, self.height


TileChoice = int | Literal["all"] | None  # of a set in tiles: one, all laid out as their numbers say; None: the first


class PreviewRequest(_In):
    view: str
    seq: int
    recipe: Recipe
    wanted: str = Field(description="A master's key, or `lit` for the packed answer of the lit view")
    size: int = Field(default=1024, ge=1, le=8192, description="Longer side in px")
    region: Region | None = Field(default=None, description="Only these texels of a master at that size")
    target: str | None = Field(default=None, description="As this target would see it: its files are written and read back")
    tile: TileChoice = None


class ChannelDifference(_Out):
    """Of a channel read back from what it was to hold; None for constants and absent masters."""

    largest: float | None
    mean: float | None
    step: float = Field(description="One code of the file, in the same units")


class ProbeRequest(_In):
    recipe: Recipe
    x: float = Field(ge=0, lt=1, description="Share of the width")
    y: float = Field(ge=0, lt=1, description="Share of the height, from the top")
    size: int = Field(default=1024, ge=1, le=4096)
    tile: TileChoice = None


class ProbeAnswer(_Out):
    x: int
    y: int
    masters: dict[str, list[float]] = Field(description="Decoded: linear light, unit vectors, natural ranges")
    codes: dict[str, str] = Field(description="Colors as sRGB codes, #RRGGBB")
    tile: int | None = Field(default=None, description="The tile that the texel is of; none of the masters where there is none")


class Unwanted(_In):
    """One file of one set for one target that a person leaves out of a delivery."""

    set: UUID
    target: str
    role: str


class Answered(_In):
    """What is done with a file that lies in the place of ours and is not as we left it."""

    set: str
    target: str
    name: str
    answer: Literal["keep", "beside", "replace"]


class PlanRequest(_In):
    sets: list[UUID]
    targets: list[str]
    size: int | None = Field(default=None, ge=1, le=16384, description="Longer side in px; left out: the set's own")
    unwanted: list[Unwanted] = []
    into: Literal["own", "new"] = Field(default="own", description="On in the folder that these went to last, or a new one")
    answers: list[Answered] = []
    remove: list[str] = Field(default=[], description="Places in the folder of files that are ours and no more of the set")


class Delivery(_Out):
    id: UUID
    state: Literal["waiting", "running", "done", "cancelled", "failed"]
    folder: str
    plans: list[Plan]
    done_units: int
    total_units: int
    rows: dict[str, str]
    manifest: dict[str, Any] | None
    problem: str | None
    created: datetime
    heads: dict[str, int] = Field(description="The version of every set that was delivered, by the set's id")
    stale: bool
