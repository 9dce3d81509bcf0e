"""What a file costs in the memory of a graphics card."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import XYZ
from ..raster import Size
from .model import TargetFile

__all__ = ["Memory", "memory_bytes"]

_MIPS = 4 / 3  # a full chain of halved copies adds a third
_BLOCK_BITS = {1: 4, 2: 8, 3: 4, 4: 8}  # the usual block formats (BC4, BC5, BC1, BC7), bits per texel by channel count
_APART_BITS = 8  # of three channels that are kept apart: directions as x and y (BC5), floats (BC6H)


@dataclass(frozen=True)
class Memory:
    """Bytes with mips: ``plain`` uncompressed, ``block`` in the usual block format."""

    plain: int
    block: int


def memory_bytes(file: TargetFile, size: Size) -> Memory:
    """Memory of one file at ``size``: 4 bits a texel in blocks, 8 with a fourth channel, and for directions and floats.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> color = shipped_target("engine-orm-down").files[0]
    >>> memory_bytes(color, Size(1024, 1024))
    Memory(plain=5592405, block=699051)

    Two files of three channels cost in blocks what one of four does:

    >>> packed = color.model_copy(update={"channels": {**color.channels, "A": color.channels["R"]}})
    >>> memory_bytes(packed, Size(1024, 1024)).block
    1398101
    >>> normal = shipped_target("engine-orm-down").files[1]
    >>> memory_bytes(normal, Size(1024, 1024)).block
    1398101
    """
    texels, channels = size.width * size.height, len(file.channels)
    stored = 4 if channels == 3 else channels  # cards hold three channels as four
    bits = _APART_BITS if channels == 3 and (file.sample == "float" or _has_directions(file)) else _BLOCK_BITS[channels]
    return Memory(round(texels * stored * file.depth / 8 * _MIPS), round(texels * bits / 8 * _MIPS))


def _has_directions(file: TargetFile) -> bool:
    return any(row is not None and row.components == XYZ for row in (channel.row for channel in file.channels.values()))
