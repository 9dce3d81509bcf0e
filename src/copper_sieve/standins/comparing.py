"""Channel by channel: what a file holds against what it must hold for these masters."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from .loading import File, read_codes, unit_of
from .meanings import srgb, wanted

__all__ = ["ChannelOff", "channels_off", "faults"]

_BAND_ROWS = 256
_SUFFIXES = {
    "png": (".png",),
    "tga": (".tga",),
    "tiff": (".tif", ".tiff"),
    "exr": (".exr",),
    "exr-tiled": (".exr",),
    "jpeg": (".jpg", ".jpeg"),
}
_DEPTHS = {"uint8": "8", "uint16": "16", "float16": "half", "float32": "float"}
_LOSSY_STEPS, _LOSSY_MEAN = 255, 3.0  # JPEG at a quality of 95 keeps within this on average, another channel does not
_ROUNDING = 0.01  # of a step, for arithmetic in single precision
_LETTERS = {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}


@dataclass(frozen=True)
class ChannelOff:
    """How far a channel is from what it must hold: ``largest`` and ``mean`` on the file's scale of 0..1, and in its steps."""

    letter: str
    meaning: str
    largest: float
    mean: float
    steps: float
    allowed: float  # largest, in steps; of a lossy file the mean, as its largest depends on the picture
    is_lossy: bool = False

    @property
    def is_right(self) -> bool:
        return (self.mean * _LOSSY_STEPS if self.is_lossy else self.steps) <= self.allowed


def faults(file: File, path: Path) -> list[str]:
    """What is wrong with how a file is stored, before its numbers are looked at; empty when nothing is."""
    form = file.stored.removesuffix("half").removesuffix("float").rstrip("0123456789")
    if path.suffix.lower() not in _SUFFIXES[form]:
        return [f"{path.name} is not {form}"]
    codes = read_codes(path, file.layer)
    found = []
    if codes.shape[2] not in file.counts:
        found.append(f"{path.name} has {codes.shape[2]} channels instead of {len(file.channels)}")
    if _DEPTHS.get(str(codes.dtype)) != file.stored.removeprefix(form):
        found.append(f"{path.name} is stored as {codes.dtype} instead of {file.stored.removeprefix(form)}")
    if form == "exr-tiled" and not _has_smaller_copies(path):
        found.append(f"{path.name} is not in tiles with all its smaller copies")
    if form == "png":
        with path.open("rb") as content:
            says_color = b"sRGB" in content.read(60)
        if says_color != (file.use == "srgb"):
            found.append(f"{path.name} says {'color' if says_color else 'nothing of color'} and is {file.use}")
    return found


def _has_smaller_copies(path: Path) -> bool:
    import OpenEXR  # loads slowly and is seldom needed

    tiles = OpenEXR.File(str(path), header_only=True).header().get("tiles")
    return tiles is not None and tiles.mode == OpenEXR.LevelMode.MIPMAP_LEVELS


def channels_off(file: File, path: Path, masters: Mapping[str, np.ndarray]) -> list[ChannelOff]:
    """How far each channel is off for these masters, all of the file's size; what is missing counts as absent.

    A stored channel may be off by half a step, a dithered one by a whole; a float's step is what tells two floats apart there.
    Raises OSError, and ValueError where the file has other channels or another size.
    """
    codes = read_codes(path, file.layer)
    if codes.shape[2] not in file.counts:
        raise ValueError(f"{path.name} has {codes.shape[2]} channels instead of {len(file.channels)}")
    height, width = codes.shape[:2]
    for values in masters.values():
        if values.shape[:2] != (height, width):
            raise ValueError(f"{path.name} is {width} × {height} px, its masters {values.shape[1]} × {values.shape[0]}")
    letters = _LETTERS[codes.shape[2]]
    return [_off(file, k, letters[k], codes[..., k], masters) for k in range(codes.shape[2])]


def _off(file: File, k: int, letter: str, codes: np.ndarray, masters: Mapping[str, np.ndarray]) -> ChannelOff:
    channel, height = file.channels[k], len(codes)
    largest = total = steps = 0.0
    for top in range(0, height, _BAND_ROWS):
        band = slice(top, top + _BAND_ROWS)
        here = {key: values[band] for key, values in masters.items()}
        number = wanted(channel.meaning, here, is_acescg=file.use == "acescg")
        number = 1 - number if channel.inverted else number
        number = channel.low + number * (channel.high - channel.low)
        number = srgb(number) if file.is_curved(k) else number
        if codes.dtype.kind == "u":
            number, step = np.clip(number, 0, 1), 1 / np.iinfo(codes.dtype).max
        else:
            step = np.spacing(np.abs(number).astype(codes.dtype)).astype(np.float64)
        off = np.abs(unit_of(codes[band]).astype(np.float64) - number)
        largest, steps = max(largest, float(off.max())), max(steps, float((off / step).max()))
        total += float(off.sum())
    is_lossy = file.stored.startswith("jpeg")
    allowed = _LOSSY_MEAN if is_lossy else 1.0 if file.is_dithered else 0.5
    return ChannelOff(letter, channel.meaning, largest, total / codes.size, steps, allowed + _ROUNDING, is_lossy)
