"""Sets: their masters, recipes, history and what is found on them."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from ...core.baked_maps import MapName
from ...core.convert.corrections import CorrectionKind
from ...core.findings import Finding
from ...core.prepare.steps import GeometryStep
from ...core.recipe import Recipe, Settings, SizeRequest
from .base import Incoming, Outgoing
from .controls import Control

__all__ = [
    "AssayRow",
    "BakedMap",
    "CopyRequest",
    "CorrectionRow",
    "DensityRow",
    "FixRequest",
    "GivenMap",
    "MaskRequest",
    "MasterRow",
    "MixedNode",
    "MixPart",
    "MoveRequest",
    "OperationRow",
    "OriginChoice",
    "OriginRequest",
    "PreparedStep",
    "Origins",
    "RecipeWrite",
    "RefreshRequest",
    "RemovedSet",
    "RenameRequest",
    "ResizeRequest",
    "SeamRow",
    "FittingSettings",
    "SavedSettings",
    "SettingsRequest",
    "StartRequest",
    "StepRequest",
    "TextureSet",
    "WritingRow",
    "Writings",
    "Version",
    "VersionName",
    "VersionRequest",
]


MixPart = Literal["under", "in", "mask"]


class MixedNode(Outgoing):
    """A step that has a part in a mix: what lies under it, what is mixed in, or the mask that limits it."""

    node: str
    op: str
    number: int
    part: MixPart


class BakedMap(Outgoing):
    """What a given map was baked from, and whether that is still so."""

    map: MapName
    missed: float = Field(description="Share of the covered texels whose rays met nothing")
    missed_map: str | None = Field(description="The picture that shows where, by its sha256")
    missed_in_tiles: dict[int, str] = Field(description="Those of a set in tiles, by tile")
    stale: list[str] = Field(description="What has changed since; empty where it is true of the mesh")


class GivenMap(Outgoing):
    """The file that a master is given by, or that a mix makes it of: which source, what it is read as, what corrects it."""

    source: str
    file: str
    held: str
    correction: CorrectionKind
    baked: BakedMap | None = None


class CorrectionRow(Outgoing):
    """The corrections that a kind of given map can have."""

    kind: CorrectionKind
    params: list[Control]


class MasterRow(Outgoing):
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


class PreparedStep(Outgoing):
    """One step of the list that a set's pictures go through, in words, and how much its line or its borders show."""

    kind: Literal["crop", "turn", "mirror", "offset", "straighten", "spots", "repeat", "variant"]
    said: str
    is_on: bool
    seen: str | None = None


class TextureSet(Outgoing):
    id: UUID
    name: str
    head: int
    recipe: Recipe
    before: Recipe | None
    can_undo: bool
    can_redo: bool
    masters: list[MasterRow]
    steps: list[PreparedStep] = Field(default=[], description="What its pictures go through as they are read, in order")
    tiles: list[int] = Field(default=[], description="UDIM numbers, in order; none for a set that is not in tiles")
    held: dict[str, str] = Field(default={}, description="Readings that its files give already, each with what they are of")


class RenameRequest(Incoming):
    name: str = Field(min_length=1, max_length=200)


class CopyRequest(Incoming):
    name: str | None = Field(
        default=None, min_length=1, max_length=200, description="None: as the set, with the next free number where it is taken"
    )
    project: str | None = Field(default=None, description="The name of the project that it goes into; None: where the set is")


class RemovedSet(Outgoing):
    """A set that was taken off the tray; it can be put back for as long as the project lives."""

    id: UUID
    name: str
    removed: datetime


class RecipeWrite(Incoming):
    expects: int
    recipe: Recipe
    note: str = ""


class AssayRow(Outgoing):
    """One finding, and what its fix would do, when there is one; of a question, what leaving all as it is is called."""

    finding: Finding
    fix: str | None
    leave: str | None = None
    tile: int | None = Field(default=None, description="The first tile that it was found on, of a set in tiles")


class DensityRow(AssayRow):
    """What is found of one set beside the others of its project."""

    set: UUID


class FixRequest(Incoming):
    expects: int
    finding: str
    master: str | None = None
    leave: bool = Field(default=False, description="Answer the question by leaving all as it is")


class StartRequest(Incoming):
    expects: int
    start: str
    master: str | None = Field(default=None, description="The one master that starts so; left out: all that are derived")


class MaskRequest(Incoming):
    expects: int
    master: str
    mask: str


class SeamRow(Outgoing):
    """Jumps over the borders of a map, in jumps beside them: about 1 repeats."""

    master: str
    title: str
    across: float
    down: float


class RefreshRequest(Incoming):
    expects: int


class MoveRequest(Incoming):
    expects: int
    move: GeometryStep


class ResizeRequest(Incoming):
    expects: int
    size: SizeRequest


class Version(Outgoing):
    """One step of a set's history."""

    id: int
    parent: int | None
    note: str
    name: str | None
    created: datetime
    is_head: bool


class VersionName(Incoming):
    name: str | None = Field(max_length=80)


class VersionRequest(Incoming):
    expects: int
    version: int


class SavedSettings(Outgoing):
    """How sets are made, under a name."""

    name: str
    settings: Settings


class FittingSettings(SavedSettings):
    """Saved settings that a set can be made by."""

    changes: list[str] = Field(description="Keys of the masters that would change")


class SettingsRequest(Incoming):
    expects: int
    settings: Settings


class OriginChoice(Outgoing):
    """One way a set can come by a master."""

    key: str
    title: str
    is_now: bool


class WritingRow(Outgoing):
    key: str
    title: str


class Writings(Outgoing):
    """What one map can be written as, the plain way first, and how that can be stored."""

    ways: list[WritingRow]
    stored: list[WritingRow]
    seconds: float = Field(description="How long the file of one tile takes, by how long deliveries took here")


class Origins(Outgoing):
    """Every way a set can come by a master, and by the titles of those that do not work yet what they lack."""

    choices: list[OriginChoice]
    needs: dict[str, str]


class OriginRequest(Incoming):
    expects: int
    master: str
    origin: str


class StepRequest(Incoming):
    expects: int
    step: Literal["undo", "redo"]


class OperationRow(Outgoing):
    """One way of an operation; ``was`` is what it is called where there is a newer one."""

    key: str
    number: int
    was: str
    title: str
    makes: list[str]
    params: list[Control]
