"""Meshes and bakes as the screen sees them."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from pydantic import Field

from ...core.baked_maps import MapName
from ...core.findings import Finding
from ...core.recipe import Worn
from .base import Incoming, Outgoing

__all__ = [
    "AloneMesh",
    "BakeAnswer",
    "BakeRequest",
    "BakeableMap",
    "MapCorrections",
    "MasterValues",
    "MeshLook",
    "PictureBesideRow",
    "ValuesRow",
    "MaterialReading",
    "MeshMaterial",
    "OfferedMaterial",
    "OfferedMesh",
    "TrialPicture",
    "WearRequest",
    "WearingEntry",
    "WearingRow",
    "WearingsAnswer",
    "WearingsRequest",
]


MapCorrections = dict[str, dict[str, float]]  # by what a file is read as, what is told to correct it
MasterValues = dict[str, list[float]]  # by master: one number, or a color in linear light


class MeshMaterial(Outgoing):
    """One material of a mesh; it has a picture of its own. ``triangles`` are those that wear it: not of high parts."""

    name: str
    triangles: int


class MaterialReading(Outgoing):
    """How a material reads a picture."""

    slots: list[str] = Field(description="By the words of the mesh's format")
    material: str
    called: str = Field(description="What the material's set is called")
    is_cut: bool
    corrections: MapCorrections = Field(description="What the material makes of the maps that it reads")
    undone: str = Field(description="What else it does, in words")


class PictureBesideRow(Outgoing):
    """A picture in a file of its own that a material of a mesh reads."""

    name: str
    folder: str = Field(description="The last one of its path, empty where it has none")
    reading: MaterialReading


class ValuesRow(Outgoing):
    """What a material has one value for and no picture."""

    material: str
    called: str
    values: MasterValues


class BakeableMap(Outgoing):
    """A map that can be baked, and what it needs beside the low mesh."""

    map: MapName
    title: str
    needs_high: bool
    needs_closed: bool


class MeshLook(Outgoing):
    """What is in a mesh, and everything that was found on it."""

    sha256: str
    name: str
    print: str = Field(description="Tells its shape: equal where nothing of it changed")
    stem: str = Field(description="Its name without the word that says what it is for")
    role: Literal["low", "high", "cage"] | None = Field(description="What its name says it is for")
    triangles: int
    size: float = Field(description="Diagonal of its box, in its own units")
    parts: list[str]
    pictures: int = Field(default=0, description="Pictures inside of it that its materials read")
    folder: str = Field(default="", description="The path of folders in the zip that it came in")
    beside: list[PictureBesideRow] = Field(default=[], description="Pictures in files of their own that its materials read")
    values: list[ValuesRow] = []
    materials: list[MeshMaterial]
    has_uv: bool
    tiles: list[int] = Field(description="UDIM tiles that its UV lie in; none where they do not")
    are_copies: bool = Field(description="What lies in other tiles lies on what is in the first, moved by whole tiles")
    px: int = Field(description="Size of the maps that its margins were judged at")
    open_edges: int = Field(description="0 for a closed mesh, which has an inside")
    is_both: bool = Field(description="Parts of it say that they are low, others that they are high")
    findings: list[Finding]
    fixes: dict[str, str] = Field(description="By the finding's id, what one press does about it")


class OfferedMesh(Incoming):
    """A mesh as it was read, and what a person says that it is for; None: as its name says."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=1024)
    print: str = Field(pattern=r"^[0-9a-f]{64}$")
    triangles: int = Field(ge=1)
    materials: list[OfferedMaterial] = Field(max_length=1000)
    parts: list[str] = Field(default=[], max_length=20_000)
    role: Literal["low", "high", "cage"] | None = None
    folder: str = Field(default="", max_length=4096, description="The path of folders that it came in")


class OfferedMaterial(Incoming):
    name: str
    triangles: int = Field(ge=0)


class WearRequest(Incoming):
    """Meshes, and the names of sets that are about to be made beside those of the project."""

    meshes: list[OfferedMesh] = Field(max_length=500)
    sets: list[str] = Field(default=[], max_length=20_000)


class WearingRow(Outgoing):
    """One set and the meshes that it is for; ``is_new`` where the set is made for them."""

    set_name: str
    is_new: bool
    worn: Worn


class AloneMesh(Outgoing):
    name: str
    why: str


class WearingsAnswer(Outgoing):
    sets: list[WearingRow]
    alone: list[AloneMesh]


class WearingEntry(Incoming):
    """A set by its name, made where there is none, and the mesh that wears it."""

    set_name: str = Field(min_length=1, max_length=200)
    worn: Worn
    values: MasterValues = Field(default={}, description="What its material has one value for, for a set that is made anew")


class WearingsRequest(Incoming):
    sets: list[WearingEntry] = Field(min_length=1, max_length=500)
    size: int = Field(default=2048, ge=8, le=8192, description="Longer side in px of sets that are new")


class BakeRequest(Incoming):
    """What is baked for a set from the meshes that its recipe names; ``maps`` left out: all that it asks for."""

    maps: list[MapName] | None = Field(default=None, min_length=1, max_length=8)
    is_trial: bool = Field(default=False, description="A small trial alone, which changes nothing")


class TrialPicture(Outgoing):
    map: str
    title: str
    sha256: str


class BakeAnswer(Outgoing):
    """A bake: how far it is, its trial, what was found."""

    id: UUID
    state: Literal["waiting", "running", "done", "cancelled", "failed"]
    size: int
    is_trial: bool
    share: float
    doing: str
    trial: list[TrialPicture]
    findings: list[Finding]
    problem: str | None
