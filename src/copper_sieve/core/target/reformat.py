"""The same picture in another format, or smaller, and what of it that format cannot hold."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from ..color import encode_srgb_codes, linear_from_srgb_codes
from ..vectors import renormalized
from .formats import FORMATS, Depth

__all__ = ["Averaging", "Reformatted", "reformatted", "shrunk", "thinned"]

Averaging = Literal["color", "data", "directions", "labels"]
_TYPES: dict[tuple[int, str], np.dtype] = {
    (8, "uint"): np.dtype(np.uint8),
    (16, "uint"): np.dtype(np.uint16),
    (16, "float"): np.dtype(np.float16),
    (32, "float"): np.dtype(np.float32),
}


@dataclass(frozen=True)
class Reformatted:
    """``codes`` in the new depth. ``cut`` is the share of values outside of what it holds, which were brought to its ends;
    ``is_rounded`` says that other values changed too; ``lost_alpha`` that an alpha which was not full has no place there."""

    codes: np.ndarray
    cut: float
    is_rounded: bool
    lost_alpha: bool


def reformatted(codes: np.ndarray, format: str, depth: Depth, *, is_color: bool = False) -> Reformatted:
    """Codes as another format holds them.

    Codes of whole numbers stand for 0..1, as sRGB where ``is_color`` says so; floats are values, colors in linear light. So a
    data map keeps its values whatever it is stored as, and a color is decoded or encoded on the way between the two.

    Parameters
    ----------
    codes : (H, W) or (H, W, C) uint8, uint16, float16 or float32; C of 2 is gray and alpha, of 4 RGB and alpha

    Examples
    --------
    >>> reformatted(np.uint8([[0, 128, 255]]), "tiff", (16, "uint")).codes.tolist()
    [[0, 32896, 65535]]
    >>> reformatted(np.uint8([[128]]), "exr", (32, "float"), is_color=True).codes.round(3).tolist()
    [[0.2160000056028366]]
    """
    held, lost_alpha = _with_channels(codes, FORMATS[format].channels)
    if held.dtype == _TYPES[depth]:
        return Reformatted(held, 0.0, False, lost_alpha)
    is_color = is_color and (held.dtype.kind == "f") != (depth[1] == "float")  # else no curve is crossed
    with np.errstate(invalid="ignore"):
        values, alpha = _parted(held)
        made = _coded(_valued(values, is_color), depth, is_color)
        made = made if alpha is None else np.concatenate([made, _coded(_valued(alpha, False), depth, False)], axis=2)
        cut = _cut(held, depth)
    return Reformatted(made, cut, not cut and not _is_same(held, made, is_color), lost_alpha)


def shrunk(
    codes: np.ndarray, longest_px: int, averaging: Averaging, *, has_holes: bool = False, has_signs: bool = False
) -> np.ndarray:
    """A picture averaged down until its longer side has ``longest_px``: float32 values, as ``reformatted`` takes them.

    Colors are averaged as light, and where alpha ``has_holes`` each texel counts by how solid it is; directions, which floats
    may hold with their signs (``has_signs``), keep unit length; of labels, which mean nothing between each other, the nearest
    is taken.

    Parameters
    ----------
    codes : (H, W) or (H, W, C) uint8, uint16, float16 or float32, larger than that; C of 2 is gray and alpha, of 4 RGB and alpha

    Examples
    --------
    >>> shrunk(np.uint8([[0, 255], [0, 255]]), 1, "data").tolist()
    [[0.5]]
    >>> float(shrunk(np.uint8([[[0] * 3, [255] * 3]]), 1, "color")[0, 0, 0])  # half of the light
    0.5
    """
    height, width = codes.shape[:2]
    size = tuple(max(1, round(side * longest_px / max(height, width))) for side in (width, height))
    if averaging == "labels":
        return _valued(cv2.resize(codes, size, interpolation=cv2.INTER_NEAREST_EXACT), False)

    def averaged(values: np.ndarray) -> np.ndarray:
        return cv2.resize(values, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], *values.shape[2:])

    seen, alpha = _parted(codes)
    values = _valued(seen, averaging == "color")
    solid = None if alpha is None else _valued(alpha, False)
    if averaging == "directions" and values.ndim == 3:
        mean = averaged(values)
        made = renormalized(mean) if has_signs else renormalized(mean * 2 - 1) / 2 + np.float32(0.5)
    elif averaging == "color" and has_holes and solid is not None:
        weight = averaged(solid)
        made = np.where(weight > 0, averaged(values * solid) / np.maximum(weight, np.finfo(np.float32).tiny), averaged(values))
    else:
        made = averaged(values)
    return made if solid is None else np.concatenate([made, averaged(solid)], axis=2)


def thinned(codes: np.ndarray, longest_px: int) -> np.ndarray | None:
    """Pixel art made smaller: every so many texels, as they are, so that its longer side has at most ``longest_px``.

    Steps are whole and divide both sides, so that no texel is taken twice or passed over; None where there is none.

    Parameters
    ----------
    codes : (H, W) or (H, W, C), larger than that

    Examples
    --------
    >>> thinned(np.uint8([[1, 1, 2, 2], [1, 1, 2, 2]]), 3).tolist(), thinned(np.zeros((5, 7)), 4)
    ([[1, 2]], None)
    """
    height, width = codes.shape[:2]
    common = math.gcd(width, height)
    steps = range(-(-max(width, height) // longest_px), common + 1)
    step = next((step for step in steps if common % step == 0), None)
    return None if step is None else np.ascontiguousarray(codes[step // 2 :: step, step // 2 :: step])


def _with_channels(codes: np.ndarray, counts: tuple[int, ...]) -> tuple[np.ndarray, bool]:
    """Codes with as many channels as a format can have, and whether an alpha that says something went."""
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    if channels in counts:
        return codes, False
    if channels == 2 and 4 in counts:  # gray with alpha, as RGB with it
        return codes[..., [0, 0, 0, 1]], False
    full = np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1
    rest = codes[..., 0] if channels == 2 else codes[..., :3]
    return np.ascontiguousarray(rest), bool((codes[..., -1] != full).any())


def _parted(codes: np.ndarray) -> tuple[np.ndarray, np.ndarray | None]:
    """What is seen, and its alpha."""
    if codes.ndim == 2 or codes.shape[2] % 2:
        return codes, None
    return codes[..., :-1], codes[..., -1:]


def _valued(codes: np.ndarray, is_color: bool) -> np.ndarray:
    """Values in float32: of 0..1, colors in linear light where they are stored as floats."""
    if codes.dtype.kind == "f":
        return codes.astype(np.float32)
    if is_color:
        return linear_from_srgb_codes(codes)
    return codes.astype(np.float32) / np.float32(np.iinfo(codes.dtype).max)


def _coded(values: np.ndarray, depth: Depth, is_color: bool) -> np.ndarray:
    bits, sample = depth
    if sample == "float":
        largest = np.finfo(_TYPES[depth]).max
        return np.clip(values, -largest, largest).astype(_TYPES[depth])
    known = np.nan_to_num(values, nan=0, posinf=1, neginf=0)
    if is_color:
        return encode_srgb_codes(known, bits)
    top = (1 << bits) - 1
    return (np.clip(known, 0, 1).astype(np.float64) * top + 0.5).astype(_TYPES[depth])


def _cut(codes: np.ndarray, depth: Depth) -> float:
    """Share of values that a depth has no place for."""
    if codes.dtype.kind == "u":
        return 0.0
    low, high = (0, 1) if depth[1] == "uint" else (-np.finfo(_TYPES[depth]).max, np.finfo(_TYPES[depth]).max)
    return float(np.mean(~((codes >= low) & (codes <= high))))


def _is_same(codes: np.ndarray, made: np.ndarray, is_color: bool) -> bool:
    """Whether the way back gives what there was."""
    kind: Depth = (codes.dtype.itemsize * 8, "float" if codes.dtype.kind == "f" else "uint")  # type: ignore[assignment]
    values, alpha = _parted(made)
    back = _coded(_valued(values, is_color), kind, is_color)
    if alpha is not None:
        back = np.concatenate([back, _coded(_valued(alpha, False), kind, False)], axis=2)
    return np.array_equal(back, codes)
