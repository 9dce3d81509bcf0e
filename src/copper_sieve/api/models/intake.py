"""Files on their way into a set."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...core.findings import Finding
from ...core.intake.materials import MOST_PICTURES
from ...core.primaries import Primaries
from ...core.recipe import Recipe
from .base import Incoming, Outgoing
from .meshes import MapCorrections, MasterValues, MaterialReading, MeshLook

__all__ = [
    "ArrangeRequest",
    "ArchiveLook",
    "ArrangedRow",
    "FileLook",
    "FileReading",
    "FirstLook",
    "FirstLookRequest",
    "FolderRow",
    "GrowRequest",
    "HearingRequest",
    "HeardRow",
    "HearingRow",
    "IntakeEntry",
    "IntakeRequest",
    "IntakeTile",
    "LinkRequest",
    "MaterialTold",
    "MisfitRow",
    "NamesRequest",
    "Offer",
    "OfferedFile",
    "OfferedReading",
    "OfferedRow",
    "OffersRequest",
    "ProfileLesson",
    "ProfileMatch",
    "QuantityRow",
    "RivalRow",
    "ToldPicture",
    "ToldReading",
]


class FileLook(Outgoing):
    """What one dropped file is."""

    sha256: str
    name: str
    set_name: str
    folder: str = ""
    bytes: int
    readable: bool
    is_passed_over: bool = Field(default=False, description="It holds no picture, is not called as one, and is not missed")
    is_foreign_mesh: bool = Field(default=False, description="A mesh in a format that is not read, not missed beside one that is")
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
    corrections: MapCorrections = {}
    primaries: Primaries | None = Field(default=None, description="Which its colors are told in, where anything says so")
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


class ToldReading(Incoming):
    """How materials read a file, as it was answered."""

    slots: list[str] = Field(min_length=1, max_length=40)
    material: str
    called: str
    is_cut: bool = False
    corrections: MapCorrections = {}
    undone: str = ""


class MaterialTold(Incoming):
    """How a mesh's material reads a file."""

    name: str = Field(min_length=1)
    folder: str = ""
    reading: ToldReading


class ToldPicture(Incoming):
    """A picture as a look at a mesh names it."""

    name: str
    folder: str
    reading: ToldReading


class HearingRow(Incoming):
    """A file as materials may tell of it, and the set that it belongs to without them."""

    name: str
    folder: str = ""
    set_name: str


class HearingRequest(Incoming):
    files: list[HearingRow] = Field(max_length=20_000)
    pictures: list[ToldPicture] = Field(max_length=500 * MOST_PICTURES)


class HeardRow(Outgoing):
    """How materials read one file together, if any does, and the set that it belongs to then."""

    reading: MaterialReading | None
    set_name: str


class ArchiveLook(Outgoing):
    """What lay in a zip: its pictures, its meshes, and what is wrong with a mesh that could not be read.

    One that saved sets lie in says only what these are called: they are taken in whole.
    """

    files: list[FileLook]
    meshes: list[MeshLook]
    problems: list[str]
    saved: list[str]


class QuantityRow(Outgoing):
    key: str
    title: str
    plain: str
    master: str = Field(description="The master it becomes, itself when it is one or is made of several")
    channels: int


class OfferedRow(Incoming):
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
    letters: str = ""
    is_kind_told: bool = Field(default=False, description="Whether a person said what it is")


class ArrangeRequest(Incoming):
    files: list[OfferedRow] = Field(max_length=20_000)


class RivalRow(Outgoing):
    """The better file that gives some of a file's maps."""

    name: str
    keys: list[str]
    relation: Literal["copy", "worse", "rival", "preview"]


class MisfitRow(Outgoing):
    """How a file differs from its set, whose size this is."""

    differs: Literal["size", "shape"]
    width: int
    height: int


class SetReadingRow(Outgoing):
    """What a file is by the others of its set."""

    set_name: str
    kind: str
    reads: dict[str, str]
    because: str
    confidence: float


class ArrangedRow(Outgoing):
    """Where one file goes. ``head`` counts the files that were sent: the one of the first tile of the same map."""

    set_name: str
    reads: dict[str, str] = Field(description="What is left for it to give")
    rival: RivalRow | None
    misfit: MisfitRow | None
    tile: int | None
    head: int | None
    by_set: SetReadingRow | None


class IntakeTile(Incoming):
    """The file of one more tile of a map."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str
    place: str | None = None


class IntakeEntry(Incoming):
    """One file as the person agreed to it."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str
    kind: str
    reads: dict[str, str] | None = Field(default=None, description="Channels by letter; left out: from the kind")
    spans: dict[str, tuple[float, float]] = {}
    corrections: MapCorrections = {}
    green: Literal["up", "down"] | None = None
    primaries: Primaries | None = Field(default=None, description="Which its colors are told in; None: Rec. 709")
    tiles: tuple[bool, bool] | None = Field(default=None, description="Left out: looked at anew")
    fit: Literal["crop", "stretch"] | None = Field(default=None, description="How it is brought to the set's shape")
    place: str | None = None
    tile: int | None = Field(default=None, description="Its UDIM number in a set of tiles")
    beside: dict[int, IntakeTile] = Field(default={}, description="The files of the map's other tiles by their numbers")


class FolderRow(Outgoing):
    place: str
    pictures: int


class LinkRequest(Incoming):
    place: str
    profile: str | None = None


class ProfileLesson(Incoming):
    """Sets as a person agreed to them, to learn their source's ways from."""

    sets: list[list[IntakeEntry]] = Field(min_length=1)


class NamesRequest(Incoming):
    names: list[str] = Field(min_length=1, max_length=5000)


class ProfileMatch(Outgoing):
    profile: str
    names: list[str] = Field(description="The files of its group, those among them too that it does not know")


class OfferedFile(Incoming):
    """A file as it is read now."""

    name: str
    channels: int = Field(ge=1, le=4)
    reads: dict[str, str] = {}
    spans: dict[str, tuple[float, float]] = {}
    green: Literal["up", "down"] | None = None


class OffersRequest(Incoming):
    files: list[OfferedFile] = Field(max_length=5000)


class OfferedReading(Outgoing):
    """How a target's table reads one file."""

    name: str
    set: str
    title: str
    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None = Field(description="As it is read now where its slopes told; else as the target has it")
    is_change: bool


class Offer(Outgoing):
    """Files that look like a target's own."""

    target: str
    title: str
    files: list[OfferedReading]
    changes: int = Field(description="How many of them would be read otherwise than now")


class FileReading(Outgoing):
    """A file of a target read backwards."""

    key: str
    target: str
    role: str
    title: str
    channels: int
    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None


class IntakeRequest(Incoming):
    name: str = Field(min_length=1)
    entries: list[IntakeEntry] = Field(min_length=1)
    values: MasterValues = Field(default={}, description="What a mesh's material has one value for, where no file gives it")


class FirstLookRequest(IntakeRequest):
    view: str = Field(description="Whose table it is: of its requests the latest wins")
    seq: int


class FirstLook(Outgoing):
    recipe: Recipe = Field(description="What a set of these files starts from")
    tiles: list[int]


class GrowRequest(Incoming):
    """More files for a set: beside what it has, or in its place."""

    expects: int
    entries: list[IntakeEntry] = Field(min_length=1)
    way: Literal["add", "replace"]
