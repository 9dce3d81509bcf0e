"""What storing costs: a channel read back by its own table, beside what it was to hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..color import srgb_from_linear
from ..raster import FloatArray, Size, unit_values
from .computed import computed_from
from .decode import decode_file
from .encode import component_of, encode_file, feeds
from .model import Target, TargetFile

__all__ = ["StoredChannel", "stored_channel"]


_ROUNDING = 1e-3  # of a step


@dataclass(frozen=True)
class StoredChannel:
    """``codes`` of one channel, and how far off they are: in the quantity's own units, of sRGB colors as they are stored.

    ``difference`` is None for constants and for masters the set lacks; ``step`` is one code of the file in the same units.
    """

    codes: np.ndarray
    difference: FloatArray | None
    step: float

    @property
    def largest(self) -> float | None:
        return None if self.difference is None else float(self.difference.max())

    @property
    def mean(self) -> float | None:
        return None if self.difference is None else float(self.difference.mean())


def stored_channel(target: Target, file: TargetFile, letter: str, masters: Mapping[str, FloatArray], size: Size) -> StoredChannel:
    """Encode one file and compare one of its channels with its source.

    Parameters
    ----------
    masters : arrays of exactly ``size``
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> rough = np.full((1, 1), 0.501, np.float32)
    >>> stored = stored_channel(target, target.files[2], "G", {"roughness": rough}, Size(1, 1))
    >>> stored.codes.tolist(), round(stored.largest, 4)
    ([[128]], 0.001)
    """
    masters = {key: np.ascontiguousarray(values) for key, values in masters.items()}
    codes = encode_file(target, file, masters, size)
    at = [*map(str, file.channels)].index(letter)
    plane = np.ascontiguousarray(codes if codes.ndim == 2 else codes[..., at])
    feed = feeds(target, file)[letter]
    top = 1.0 if file.sample == "float" else float(np.iinfo(codes.dtype).max)
    step = abs(1 / (feed.gain * top)) if feed.gain else 0.0
    known = {**masters, **computed_from(masters, {feed.source})}
    if feed.source is None or feed.component < 0 or feed.source not in known:
        return StoredChannel(plane, None, step)
    wanted = component_of(known[feed.source], feed.component)
    if file.color == "srgb" and letter != "A":
        on_curve = srgb_from_linear(np.clip(wanted * np.float32(feed.gain) + np.float32(feed.shift), 0, 1))
        off = np.abs(unit_values(plane) - on_curve)
        off[off < _ROUNDING / top] = 0
        return StoredChannel(plane, off, 1 / top)
    found = decode_file(target, file, codes)[feed.source, feed.component]
    off = np.abs(found - wanted)
    if file.sample == "uint":
        off[off < _ROUNDING * step] = 0  # what float32 loses on the way there and back is no difference of the file
    return StoredChannel(plane, off, step)
