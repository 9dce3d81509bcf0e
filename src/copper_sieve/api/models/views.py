"""Pictures and texels of a set."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...core.recipe import Recipe
from .base import Incoming, Outgoing

__all__ = ["ChannelDifference", "PreviewRequest", "ProbeAnswer", "ProbeRequest", "Region", "TileChoice"]


class Region(Incoming):
    """A part of a picture, in texels."""

    x: int = Field(ge=0)
    y: int = Field(ge=0)
    width: int = Field(ge=1, le=4096)
    height: int = Field(ge=1, le=4096)

    @property
    def box(self) -> tuple[int, int, int, int]:
        return self.x, self.y, self.width, self.height


TileChoice = int | Literal["all"] | None  # of a set in tiles: one, all laid out as their numbers say; None: the first


class PreviewRequest(Incoming):
    view: str
    seq: int
    recipe: Recipe
    wanted: str = Field(description="A master's key, or `lit` for the packed answer of the lit view")
    size: int = Field(default=1024, ge=1, le=8192, description="Longer side in px")
    region: Region | None = Field(default=None, description="Only these texels of a master at that size")
    target: str | None = Field(default=None, description="As this target would see it: its files are written and read back")
    tile: TileChoice = None


class ChannelDifference(Outgoing):
    """Of a channel read back from what it was to hold; None for constants and absent masters."""

    largest: float | None
    mean: float | None
    step: float = Field(description="One code of the file, in the same units")


class ProbeRequest(Incoming):
    recipe: Recipe
    x: float = Field(ge=0, lt=1, description="Share of the width")
    y: float = Field(ge=0, lt=1, description="Share of the height, from the top")
    size: int = Field(default=1024, ge=1, le=4096)
    tile: TileChoice = None


class ProbeAnswer(Outgoing):
    x: int = Field(description="Texel of the set's own size")
    y: int
    size: int = Field(description="Longer side in px at which the values were read; a texel there is many of a larger set")
    masters: dict[str, list[float]] = Field(description="Decoded: linear light, unit vectors, natural ranges")
    codes: dict[str, str] = Field(description="Colors as sRGB codes, #RRGGBB")
    tile: int | None = Field(default=None, description="The tile that the texel is of; none of the masters where there is none")
