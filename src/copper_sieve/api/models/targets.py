"""Target tables."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...core.raster import Sampling
from ...core.target import Target
from .base import Incoming, Outgoing

__all__ = [
    "DepthRow",
    "FormatRow",
    "NameMatch",
    "NearestDepth",
    "ReformatRequest",
    "ReformattedFile",
    "StoredAs",
    "TargetCopy",
    "TargetRow",
    "TargetWrite",
]


class DepthRow(Outgoing):
    depth: Literal[8, 16, 32]
    sample: Literal["uint", "float"]


class NearestDepth(Outgoing):
    """What becomes of a depth in a format: its own, where it has that."""

    stored: DepthRow
    held: DepthRow


class FormatRow(Outgoing):
    """A format that files are written in: the depths and counts of channels that it holds."""

    key: Literal["png", "tga", "tiff", "exr", "exr-tiled", "jpeg"]
    depths: list[DepthRow]
    nearest: list[NearestDepth]
    channels: list[int]
    is_layered: bool


class StoredAs(Incoming):
    depth: Literal[8, 16, 32]
    sample: Literal["uint", "float"]


class ReformattedFile(Incoming):
    """A kept file, where it lay, and what its channels hold where that is known."""

    sha256: str
    name: str = Field(min_length=1)
    folder: str = ""
    reads: dict[str, str] = {}


class ReformatRequest(Incoming):
    """Files to write in another format or size; without a depth each keeps its own, or has the nearest."""

    files: list[ReformattedFile] = Field(min_length=1)
    format: str
    stored: StoredAs | None = None
    longest_px: int | None = Field(default=None, ge=1, description="Of the longer side; what is larger is made smaller")
    sampling: Sampling = Field(default="smooth", description="Averaged; or nearest, as pixel art, by whole steps alone")


class TargetRow(Outgoing):
    target: Target
    is_own: bool = Field(description="Whether it may be changed; the shipped ones are copied first")


class TargetCopy(Incoming):
    copy_of: str
    title: str = Field(default="", max_length=120)


class NameMatch(Outgoing):
    """What a target's own names make of a file's: whose it is and which file; both None where it fits none."""

    name: str
    set: str | None
    role: str | None


class TargetWrite(Incoming):
    expects: str = Field(description="The version that was changed")
    target: Target
