"""What each picture format can hold, as a table: targets are checked against it and files are written by it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

__all__ = ["DEPTHS", "FORMATS", "Depth", "Format", "depth_in", "depth_said"]

Depth = tuple[Literal[8, 16, 32], Literal["uint", "float"]]  # bits of a channel, and what they are


@dataclass(frozen=True)
class Format:
    """``depths`` are (bits, sample). Picture editors show ``alpha_shows`` formats as see-through; ``largest`` is a side in px."""

    key: str
    suffix: str
    depths: tuple[Depth, ...]
    channels: tuple[int, ...]
    largest: int
    alpha_shows: bool = False
    lossy: bool = False
    layered: bool = False  # may hold several pictures by name

    @property
    def says(self) -> str:
        """What it holds, for a person."""
        depths, channels = [depth_said(*depth) for depth in self.depths], [str(count) for count in self.channels]
        return f"{_either(depths)}, in {_either(channels)} channels"


def depth_said(bits: int, sample: str) -> str:
    """A depth as people call it.

    >>> depth_said(16, "float"), depth_said(16, "uint")
    ('half float', '16 bit')
    """
    return {16: "half float", 32: "float"}[bits] if sample == "float" else f"{bits} bit"


def _either(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


_UINT: tuple[Depth, ...] = ((8, "uint"), (16, "uint"))
_FLOAT: tuple[Depth, ...] = ((16, "float"), (32, "float"))
_ROWS = (
    Format("png", ".png", _UINT, (1, 2, 3, 4), (1 << 31) - 1, alpha_shows=True),
    Format("tga", ".tga", ((8, "uint"),), (1, 3, 4), (1 << 16) - 1),
    Format("tiff", ".tif", (*_UINT, *_FLOAT), (1, 2, 3, 4), (1 << 31) - 1, layered=True),
    Format("exr", ".exr", _FLOAT, (1, 3, 4), (1 << 31) - 1, layered=True),
    Format("exr-tiled", ".exr", _FLOAT, (1, 3, 4), (1 << 31) - 1),  # in tiles, with every smaller copy, as renderers stream them
    Format("jpeg", ".jpg", ((8, "uint"),), (1, 3), (1 << 16) - 1, lossy=True),
)
FORMATS = MappingProxyType({row.key: row for row in _ROWS})

# Where a format lacks a depth: what it takes instead, best first. Half floats tell all codes of 8 bits apart, not all of 16.
_INSTEAD: Mapping[Depth, tuple[Depth, ...]] = MappingProxyType(
    {
        (8, "uint"): ((16, "float"), (32, "float")),
        (16, "uint"): ((32, "float"), (8, "uint")),
        (16, "float"): ((16, "uint"), (8, "uint")),
        (32, "float"): ((16, "uint"), (8, "uint")),
    }
)
DEPTHS = tuple(_INSTEAD)


def depth_in(format: str, stored: Depth) -> Depth:
    """The depth that codes of ``stored`` take in a format: their own, else the nearest that it has.

    Examples
    --------
    >>> depth_in("png", (8, "uint")), depth_in("exr", (16, "uint")), depth_in("png", (32, "float"))
    ((8, 'uint'), (32, 'float'), (16, 'uint'))
    """
    return next(depth for depth in (stored, *_INSTEAD[stored]) if depth in FORMATS[format].depths)
