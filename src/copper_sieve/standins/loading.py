"""Files from disk to what an engine knows of the surface, by other people's libraries."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import Literal

import cv2
import numpy as np
import tifffile
from PIL import Image

from .meanings import linear, maps_of

__all__ = ["Channel", "File", "Table", "read_codes", "seen"]

Image.MAX_IMAGE_PIXELS = None  # delivered files; their size was chosen by a person


@dataclass(frozen=True)
class Channel:
    """``low``..``high`` is where the file keeps 0..1; ``inverted`` turns the number over first."""

    meaning: str
    inverted: bool = False
    low: float = 0.0
    high: float = 1.0


@dataclass(frozen=True)
class File:
    """How a file is stored (``png8``, ``exrhalf``), what its color is, and what its channels hold in order."""

    stored: str
    use: Literal["srgb", "linear", "acescg", "data"]
    channels: tuple[Channel, ...]
    is_dithered: bool = False
    layer: str = ""  # which of a layered file's pictures it is; "" for a file of its own

    @property
    def counts(self) -> tuple[int, ...]:
        """How many channels it may have: an alpha that only cuts holes may stay away, as without one nothing is cut."""
        fourth = self.channels[3] if len(self.channels) == 4 else None
        may_lack = fourth is not None and (fourth.meaning, fourth.inverted, fourth.low, fourth.high) == (
            "opacity",
            False,
            0.0,
            1.0,
        )
        return (4, 3) if may_lack else (len(self.channels),)

    def is_curved(self, k: int) -> bool:
        """Whether channel ``k`` stands on the sRGB curve: colors do, alpha never."""
        return self.use == "srgb" and k != 3


@dataclass(frozen=True)
class Table:
    """One stand-in: how it shades, and its files by role."""

    model: Literal["metallic", "specular", "classic"]
    files: Mapping[str, File]


def read_codes(path: Path, layer: str = "") -> np.ndarray:
    """(H, W, C) codes as the file, or its layer of that name, has them: uint8, uint16, float16 or float32.

    Raises ValueError where there is no such picture.
    """
    try:
        found = _layer(path, layer) if layer else _decoded(path)
    except Exception as problem:  # every library has errors of its own
        raise ValueError(f"{path.name} is no picture that can be read ({problem})") from problem
    if found.ndim not in (2, 3):
        raise ValueError(f"{path.name} is no picture that can be read")
    return found if found.ndim == 3 else found[..., None]


def _layer(path: Path, layer: str) -> np.ndarray:
    if path.suffix.lower() in (".tif", ".tiff"):
        with tifffile.TiffFile(path) as tiff:
            pages = {page.aspage().tags.valueof(285): page for page in tiff.pages}
            return np.asarray(pages[layer].asarray())
    import OpenEXR  # loads slowly and is seldom needed

    with OpenEXR.File(str(path)) as file:
        parts = {part.name(): part for part in file.parts}
        return np.array(next(iter(parts[layer].channels.values())).pixels)


def _decoded(path: Path) -> np.ndarray:
    suffix = path.suffix.lower()
    if suffix in (".tif", ".tiff"):
        found = np.asarray(tifffile.imread(path))
    elif suffix == ".exr":
        import OpenEXR  # loads slowly and is seldom needed

        found = np.asarray(next(iter(OpenEXR.File(str(path)).channels().values())).pixels)
    elif suffix == ".png" and is_deep_png(path):
        found = np.asarray(cv2.imdecode(np.fromfile(path, np.uint8), cv2.IMREAD_UNCHANGED))
        found = found[..., {3: [2, 1, 0], 4: [2, 1, 0, 3]}[found.shape[2]]] if found.ndim == 3 else found
    else:
        found = np.asarray(Image.open(path))
    return found


def is_deep_png(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(25)[24] == 16


def unit_of(codes: np.ndarray) -> np.ndarray:
    """Codes over their largest, floats as they are."""
    return codes.astype(np.float32) / np.float32(np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1)


def _light_of(codes: np.ndarray) -> np.ndarray:
    """Linear light of codes on the sRGB curve."""
    if codes.dtype.kind == "f":
        return linear(codes.astype(np.float32)).astype(np.float32)
    every = np.arange(np.iinfo(codes.dtype).max + 1, dtype=codes.dtype)
    return linear(unit_of(every)).astype(np.float32)[codes]


def seen(table: Table, paths: Mapping[str, Path], layers: Mapping[str, str] = MappingProxyType({})) -> dict[str, np.ndarray]:
    """What the engine knows of the surface from these files by role: maps by name, colors linear, normals unit and green up.

    ``layers`` names the picture of a layered file that is meant, by role.
    Files of different sizes are brought to the largest by nearest texel, as a sampler without filter would.
    Raises ValueError where a file is no picture.
    """
    codes = {role: read_codes(path, layers.get(role, "")) for role, path in paths.items()}
    height, width = (max(found.shape[k] for found in codes.values()) for k in (0, 1))
    planes: dict[str, np.ndarray] = {}
    for role, found in codes.items():
        rows, columns = (np.arange(n) * found.shape[k] // n for k, n in enumerate((height, width)))
        found = found if found.shape[:2] == (height, width) else found[rows[:, None], columns]
        planes |= _planes(table.files[role], found)
    return {key: np.asarray(values, np.float32) for key, values in maps_of(planes).items()}


def _planes(file: File, codes: np.ndarray) -> dict[str, np.ndarray]:
    planes = {}
    for k, channel in enumerate(file.channels[: codes.shape[2]]):
        unit = _light_of(codes[..., k]) if file.is_curved(k) else unit_of(codes[..., k])
        unit = (unit - np.float32(channel.low)) / np.float32(channel.high - channel.low)
        planes[channel.meaning] = 1 - unit if channel.inverted else unit
    return _in_rec709(planes) if file.use == "acescg" else planes


def _in_rec709(planes: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    """AP1 primaries to Rec. 709 with the white moved by Bradford's method."""
    rows = ((1.70505, -0.62179, -0.08326), (-0.13026, 1.14080, -0.01055), (-0.02400, -0.12897, 1.15297))
    for word in {meaning.split()[0] for meaning in planes if meaning.endswith((" r", " g", " b"))}:
        parts = [planes[f"{word} {part}"] for part in "rgb"]
        for part, row in zip("rgb", rows, strict=True):
            planes[f"{word} {part}"] = sum(np.float32(weight) * plane for weight, plane in zip(row, parts, strict=True))  # type: ignore[assignment]
    return planes
