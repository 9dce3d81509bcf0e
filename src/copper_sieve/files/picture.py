"""A file's pixels as they were stored, and what its header says about them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..core.errors import FileTooLarge
from ..core.primaries import Primaries
from ..core.raster import MAX_SIDE, MAX_TEXELS

__all__ = ["DIMMED", "UNDIMMED", "Header", "Picture", "check_size", "from_bgr", "from_samples", "is_dimmed", "undimmed"]

_LARGEST_HALF = np.float32(65504)


@dataclass(frozen=True)
class Header:
    """What is said of a picture beside its pixels."""

    width: int
    height: int
    channels: int
    format: str
    depth: Literal[8, 16, 32]
    sample: Literal["uint", "float"]

    @property
    def letters(self) -> str:
        """Which channels there are: L gray, RGB color, A alpha."""
        return {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}[self.channels]


@dataclass(frozen=True)
class Picture:
    """``codes`` is (H, W) or (H, W, C), C in R, G, B, A order (gray + alpha: 2), uint8, uint16 or float32.

    ``notes`` say what was broken and mended, ``done`` what reading it took that nobody asked for, ``color_done`` what more it
    takes where it is read as color. ``primaries`` are those that its header names, where it holds light and names any that are
    known.
    """

    codes: np.ndarray
    format: str
    depth: Literal[8, 16, 32]
    sample: Literal["uint", "float"]
    profile: bytes | None = None
    notes: tuple[str, ...] = ()
    done: str = ""
    primaries: Primaries | None = None
    color_done: str = ""

    @property
    def width(self) -> int:
        return self.codes.shape[1]

    @property
    def height(self) -> int:
        return self.codes.shape[0]

    @property
    def channels(self) -> int:
        return 1 if self.codes.ndim == 2 else self.codes.shape[2]

    @property
    def header(self) -> Header:
        """The same without the pixels, to keep when they are let go."""
        return Header(self.width, self.height, self.channels, self.format, self.depth, self.sample)


def check_size(name: str, width: int, height: int) -> None:
    """Refuse a picture before it is unpacked. Raises FileTooLarge with the sizes read and allowed."""
    if max(width, height) > MAX_SIDE or width * height > MAX_TEXELS:
        raise FileTooLarge(
            f"{name}: its header says {width} × {height} px; at most {MAX_SIDE} px a side and {MAX_TEXELS >> 20} million"
            " texels are read. Make it smaller, or check that the file is whole.",
            width=width,
            height=height,
        )


def from_bgr(codes: np.ndarray) -> np.ndarray:
    if codes.ndim == 2:
        return codes
    order = {3: [2, 1, 0], 4: [2, 1, 0, 3]}[codes.shape[2]]
    return codes[..., order]


def from_samples(codes: np.ndarray, key: str, depth: int, sample: str, profile: bytes | None) -> Picture:
    if codes.ndim == 3 and codes.shape[2] == 1:
        codes = codes[..., 0]
    if codes.ndim not in (2, 3) or (codes.ndim == 3 and codes.shape[2] not in (2, 3, 4)):
        raise ValueError(f"unexpected shape {codes.shape}")
    notes: tuple[str, ...] = ()
    if sample == "float":
        codes = codes.astype(np.float32)
        broken = int(codes.size - np.count_nonzero(np.abs(codes) <= _LARGEST_HALF))
        if broken:
            codes = np.nan_to_num(codes, nan=0.0).clip(-_LARGEST_HALF, _LARGEST_HALF)
            notes = (
                f"{broken} values are no numbers, or beyond what half floats hold, and are read as 0 or ± {_LARGEST_HALF:g}",
            )
    return Picture(np.ascontiguousarray(codes), key, depth, sample, profile, notes)  # type: ignore[arg-type]


# OpenEXR takes colors to be dimmed by their alpha and has no word for those that are not; ours are whole, and say so.
UNDIMMED = ("alpha", "unassociated")
DIMMED = "stores colors dimmed by their alpha, which is taken out"
_ROUNDED = 1.002  # half floats, a product of two of them


def is_dimmed(codes: np.ndarray) -> bool:
    """Whether no color of (H, W, 4) is brighter than its alpha, so that all may have been multiplied by it."""
    alpha = codes[..., 3:]
    return bool((codes[..., :3] <= (alpha * np.float32(_ROUNDED) if codes.dtype.kind == "f" else alpha)).all())


def undimmed(codes: np.ndarray) -> np.ndarray:
    """Colors (H, W, 4) as they were before they were multiplied by their alpha; black where that is 0.

    Examples
    --------
    >>> undimmed(np.array([[[32, 64, 0, 128], [0, 0, 0, 0]]], np.uint8)).tolist()
    [[[64, 128, 0, 128], [0, 0, 0, 0]]]
    """
    full = np.float32(np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1)
    alpha = codes[..., 3:].astype(np.float32)
    colors = codes[..., :3] * np.where(alpha > 0, full / np.maximum(alpha, np.finfo(np.float32).tiny), 0)
    colors = colors if codes.dtype.kind == "f" else np.rint(colors.clip(0, full))
    return np.concatenate([colors.astype(codes.dtype), codes[..., 3:]], axis=2)
