"""Arrays with a meaning, and the way their edges join."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from .errors import ShapeMismatch
from .value import Value

__all__ = [
    "MAX_SIDE",
    "MAX_TEXELS",
    "Edge",
    "Edges",
    "Joined",
    "FloatArray",
    "Sampling",
    "Size",
    "as_gray",
    "as_rgb",
    "edges_of",
    "eight_bit",
    "floats",
    "is_multiple",
    "set_size",
    "unit_values",
]

MAX_SIDE = 16384
MAX_TEXELS = 1 << 27  # 16384 × 8192: 1.6 GB as float32 RGB, what one job may hold
FloatArray = NDArray[np.floating[Any]]  # float32 in every master, C order, row 0 at the top, no gamma
Gray = FloatArray  # (H, W)
Rgb = FloatArray  # (H, W, 3), linear light
Vectors = FloatArray  # (H, W, 3), x right, y up, z out of the surface, unit length
Edge = Literal["wrap", "mirror"]
Sampling = Literal["smooth", "nearest"]  # nearest keeps pixel art crisp: every texel is one of the source's


class Edges(Value):
    """How a map goes on past its border, per axis: ``wrap`` for tiles, ``mirror`` for what does not tile."""

    x: Edge = "wrap"
    y: Edge = "wrap"

    def width(self, columns: int) -> int:
        """The width that shares of a width are taken of, of an array that has so many columns."""
        return columns


class Joined(Edges):
    """The edges of a tile whose array holds texels of the tiles that touch it as well: so many on each side."""

    left: int = 0
    right: int = 0
    top: int = 0
    bottom: int = 0

    def width(self, columns: int) -> int:
        """The tile's own width."""
        return columns - self.left - self.right

    def inside(self, values: FloatArray) -> FloatArray:
        """What of (H, W[, C]) is the tile itself."""
        rows, columns = values.shape[:2]
        return np.ascontiguousarray(values[self.top : rows - self.bottom, self.left : columns - self.right])


def floats(values: NDArray[Any]) -> FloatArray:
    """The same array, said to be of floats: OpenCV answers in the type it was given, which its own types do not tell."""
    return values


def edges_of(edges: Edges | Edge) -> Edges:
    """Accept one word for both axes."""
    return Edges(x=edges, y=edges) if isinstance(edges, str) else edges


def _checked(values: np.ndarray, name: str, dims: int) -> np.ndarray:
    array = np.ascontiguousarray(values, dtype=np.float32)
    if array.ndim != dims or (dims == 3 and array.shape[2] != 3) or 0 in array.shape:
        wanted = "(H, W)" if dims == 2 else "(H, W, 3)"
        raise ShapeMismatch(f"{name} must have shape {wanted} with at least one texel (got {np.shape(values)}).")
    return array


def as_gray(values: np.ndarray, name: str) -> FloatArray:
    """Return ``values`` as float32 (H, W), copying only if needed; ShapeMismatch otherwise."""
    return _checked(values, name, 2)


def as_rgb(values: np.ndarray, name: str) -> FloatArray:
    """Return ``values`` as float32 (H, W, 3), copying only if needed; ShapeMismatch otherwise."""
    return _checked(values, name, 3)


def unit_values(codes: np.ndarray) -> FloatArray:
    """Codes as float32: integers over their largest code, floats as they are.

    Examples
    --------
    >>> unit_values(np.array([0, 255], np.uint8)).tolist()
    [0.0, 1.0]
    """
    if codes.dtype.kind == "f":
        return codes.astype(np.float32)
    return codes.astype(np.float32) / np.float32(np.iinfo(codes.dtype).max)


def eight_bit(codes: np.ndarray) -> np.ndarray:
    """Codes of any depth as the nearest uint8 codes; floats from 0..1, clipped. For looking at, not for files.

    Examples
    --------
    >>> eight_bit(np.array([0, 128, 129, 65535], np.uint16))
    array([  0,   0,   1, 255], dtype=uint8)
    """
    if codes.dtype.kind == "f":
        return (codes.clip(0, 1) * np.float32(255) + np.float32(0.5)).astype(np.uint8)
    if codes.dtype.itemsize == 2:
        return ((codes.astype(np.uint32) * 255 + 32767) // 65535).astype(np.uint8)
    return codes


@dataclass(frozen=True)
class Size:
    """Width and height in texels."""

    width: int
    height: int


def is_multiple(one: int, other: int) -> bool:
    """Whether the larger of two sides is a whole multiple of the smaller, so that pixel art keeps every texel.

    Examples
    --------
    >>> is_multiple(48, 96), is_multiple(96, 64)
    (True, False)
    """
    return max(one, other) % min(one, other) == 0


def set_size(width: int, height: int, longer: int | None) -> Size:
    """Scale ``width`` x ``height`` so that the longer side is ``longer`` px; None keeps the size."""
    if longer is None or longer == max(width, height):
        return Size(width, height)
    scale = longer / max(width, height)
    return Size(max(1, round(width * scale)), max(1, round(height * scale)))
