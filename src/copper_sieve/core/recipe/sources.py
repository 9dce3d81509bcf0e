"""A source's codes to the quantities it is read as."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..color import LUMINANCE_REC709, linear_from_srgb_codes
from ..convert.scales import SCALES
from ..errors import RecipeInvalid, ShapeMismatch
from ..primaries import rec709_from
from ..quantities import quantity
from ..raster import FloatArray, Vectors, unit_values
from ..vectors import is_black, rebuild_z, renormalized, with_y_up
from .model import Source

__all__ = ["check_reads", "read_quantity"]

_LETTERS_NEED = {"A": (2, 4), "RG": (3, 4), "GRB": (3, 4), "AG": (4,)}  # channels that a file must have; others any file serves


def check_reads(name: str, reads: Mapping[Any, str], channels: int) -> None:
    """Refuse channels that a file does not have. Raises RecipeInvalid that says which, and what the file has."""
    for letters, key in reads.items():
        counts = (3, 4) if quantity(key).color == "data" and quantity(key).channels == 3 and letters == "RGB" else (1, 2, 3, 4)
        if channels not in _LETTERS_NEED.get(letters, counts):
            has = {1: "one gray channel", 2: "gray and alpha", 3: "R, G and B", 4: "R, G, B and A"}[channels]
            raise RecipeInvalid(
                f"{name} has {has}, so {letters} of it cannot be read as {quantity(key).title.lower()}.", file=name
            )


def _group(codes: np.ndarray, letters: str, name: str) -> np.ndarray:
    """The channels named by ``letters``; a gray file serves as any of R, G, B and RGB."""
    if letters in ("RG", "AG", "GRB"):
        return np.stack([_group(codes, letter, name) for letter in letters], -1)
    if codes.ndim == 2:
        if letters == "A":
            raise ShapeMismatch(f"{name} has no alpha channel. Choose another channel for that map.")
        return codes
    count = codes.shape[2]
    if letters == "A":
        if count not in (2, 4):
            raise ShapeMismatch(f"{name} has {count} channels and no alpha. Choose another channel for that map.")
        return codes[..., -1]
    if count == 2:
        return codes[..., 0]
    return codes[..., :3] if letters in ("RGB", "L") else codes[..., "RGB".index(letters)]


def read_quantity(source: Source, codes: np.ndarray, key: str) -> FloatArray:
    """Decode the channels of ``source`` that are read as ``key`` into its master's form, at the file's own size.

    Convention: color files of integer codes are sRGB, float files are linear; data is never curved. Colors in other primaries
    than Rec. 709 are brought to these, and what lies outside of them is cut at 0. A gray wanted from a color is its Rec. 709
    luminance in linear light, unless all three channels agree.
    """
    letters = source.letters_of(key)
    row, (low, high) = quantity(key), source.spans.get(letters, (0.0, 1.0))
    group = np.ascontiguousarray(_group(codes, letters, source.name))
    if row.color == "srgb":
        values = linear_from_srgb_codes(group) if group.dtype.kind == "u" else group.astype(np.float32)
        if source.primaries != "rec709" and values.ndim == 3:
            values = rec709_from(values, source.primaries)
        np.maximum(values, 0, out=values)
        return values if values.ndim == 3 else np.repeat(values[..., None], 3, axis=2)
    if row.channels == 3:
        if group.ndim == 2:
            raise ShapeMismatch(f"{source.name} is gray; a {row.title.lower()} map needs three channels.")
        vectors = unit_values(group)
        if (low, high) != (0, 1):
            vectors = (vectors - np.float32(low)) / np.float32(high - low)
        vectors *= np.float32(row.high - row.low)
        vectors += np.float32(row.low)
        if vectors.shape[2] == 2:
            vectors = np.concatenate([vectors, rebuild_z(vectors[..., 0], vectors[..., 1])[..., None]], -1)
        if key == "object_normal":
            return with_y_up(vectors) if source.object_up == "z" else vectors
        return _upright(vectors, source) if key == "normal" else vectors
    gray = _gray(group)
    if (low, high) != (0, 1):
        gray = ((gray - np.float32(low)) / np.float32(high - low)).clip(0, 1)
    if row.complement:
        gray = 1 - gray
    if row.scale is not None:
        return SCALES[row.scale].to_master(gray)
    return gray * np.float32(row.high - row.low) + np.float32(row.low) if (row.low, row.high) != (0, 1) else gray


def _upright(vectors: Vectors, source: Source) -> FloatArray:
    """Normals as the master has them: x right, y up; black ones flat, and of length 1, where that was asked for."""
    if source.black_is_flat:
        vectors[is_black(vectors)] = (0, 0, 1)
    if source.green == "down":
        vectors[..., 1] *= -1
    if source.red == "left":
        vectors[..., 0] *= -1
    return renormalized(vectors) if source.unit_length else vectors


def _gray(group: np.ndarray) -> FloatArray:
    if group.ndim == 2:
        return unit_values(group)
    if np.array_equal(group[..., 0], group[..., 1]) and np.array_equal(group[..., 0], group[..., 2]):
        return unit_values(np.ascontiguousarray(group[..., 0]))
    linear = linear_from_srgb_codes(group) if group.dtype.kind == "u" else group.astype(np.float32)
    return linear @ LUMINANCE_REC709
