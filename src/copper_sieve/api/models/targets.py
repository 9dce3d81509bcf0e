"""Target tables."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...core.target import Target
from .base import Incoming, Outgoing

__all__ = ["DepthRow", "FormatRow", "NameMatch", "TargetCopy", "TargetRow", "TargetWrite"]


class DepthRow(Outgoing):
    depth: Literal[8, 16, 32]
    sample: Literal["uint", "float"]


class FormatRow(Outgoing):
    """A format that files are written in: the depths and counts of channels that it holds."""

    key: Literal["png", "tga", "tiff", "exr", "exr-tiled", "jpeg"]
    depths: list[DepthRow]
    channels: list[int]
    is_layered: bool


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
