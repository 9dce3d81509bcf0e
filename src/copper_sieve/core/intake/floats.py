"""Files of floats that hold more than 0 to 1: vectors with their signs, and heights in a unit of their own."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

import numpy as np

from ..raster import FloatArray

__all__ = ["SIGNED", "as_shares", "height_span", "on_span", "plane_of", "signed_vectors", "spans_of"]

SIGNED = (-1.0, 1.0)  # the stored values that mean the ends of a direction's range
_VECTORS = ("normal", "object_normal")
_LOOK_PX = 512
_BELOW = -0.02  # a component that means a direction, and no noise about 0
_SEEN_BELOW = 0.01  # of the texels, from which on vectors are said to have their signs
_LENGTH, _MOST = 0.1, 0.9  # how far from 1 vectors may be, and how many of them must be so near; those of length 0 apart
_RINGING = 0.05  # of the highest: heights that go beyond an end by less than that were resampled


def signed_vectors(codes: np.ndarray, *, are_normals: bool = False) -> Literal["RGB", "RG"] | None:
    """Which channels of (H, W, C) codes hold vectors as they are, -1 to 1, and not as shares of that; None where none do.

    Two of them, where the third is 0 everywhere, are x and y of vectors whose z is not stored. Of what is known to be normals
    the length tells alone: a level surface has no other sign than +.

    Examples
    --------
    >>> signed_vectors(np.float32([[[-0.6, 0.0, 0.8], [0.6, 0.0, 0.8]]])), signed_vectors(np.float32([[[0.5, 0.5, 1.0]]]))
    ('RGB', None)
    """
    if codes.dtype.kind != "f" or codes.ndim != 3 or codes.shape[2] < 3:
        return None
    step = max(1, max(codes.shape[:2]) // _LOOK_PX)
    vectors = codes[::step, ::step, :3].astype(np.float64).clip(-1e3, 1e3)
    length = np.linalg.norm(vectors, axis=2)
    has_signs = float((vectors[..., :2].min(2) < _BELOW).mean()) >= _SEEN_BELOW
    if not has_signs and not are_normals:
        return None
    if has_signs and not vectors[..., 2].any():
        return "RG" if length.max() <= 1 + _LENGTH else None
    there = length[length > _LENGTH]
    return "RGB" if len(there) and float((np.abs(there - 1) < _LENGTH).mean()) >= _MOST else None


def height_span(codes: np.ndarray) -> tuple[float, float] | None:
    """Stored values (H, W) that a height of 0 and of 1 mean, where a file of floats goes beyond these; None where it does not.

    Heights on both sides of 0 keep 0 in the middle, which is the surface itself; a few below it, as resampling leaves, do not
    make two sides.

    Examples
    --------
    >>> height_span(np.float32([[-0.5, 2.0]])), height_span(np.float32([[500.0, 800.0]])), height_span(np.float32([[0.2, 0.9]]))
    ((-2.0, 2.0), (500.0, 800.0), None)
    """
    if codes.dtype.kind != "f" or not codes.size:
        return None
    low, high = float(codes.min()), float(codes.max())
    most = max(-low, high)
    if low == high or (low >= -_RINGING * high and high <= 1 + _RINGING):
        return None
    return (-most, most) if min(-low, high) > _RINGING * most else (low, high)


def on_span(values: FloatArray, span: tuple[float, float]) -> FloatArray:
    """Stored values as shares of a span, the way a source is read.

    Examples
    --------
    >>> on_span(np.float32([-1.0, 0.0, 1.0]), SIGNED).tolist()
    [0.0, 0.5, 1.0]
    """
    low, high = span
    return ((values - np.float32(low)) / np.float32(high - low)).astype(np.float32)


def as_shares(codes: np.ndarray, signed: str | None) -> np.ndarray:
    """Codes in which vectors with their signs, in the channels that ``signed_vectors`` found, are stored as others have them.

    Examples
    --------
    >>> as_shares(np.float32([[[-1.0, 0.0, 0.0]]]), "RGB").tolist()
    [[[0.0, 0.5, 0.5]]]
    """
    if signed is None:
        return codes
    shares = codes.astype(np.float32)
    shares[..., : len(signed)] = on_span(shares[..., : len(signed)], SIGNED)
    return shares


def spans_of(codes: np.ndarray, reads: Mapping[str, str], signed: str | None) -> dict[str, tuple[float, float]]:
    """By channels, the stored values that mean the ends of what they are read as, where floats have others than 0 and 1.

    Examples
    --------
    >>> spans_of(np.float32([[-0.5, 2.0]]), {"L": "height"}, None)
    {'L': (-2.0, 2.0)}
    """
    found = {letters: SIGNED for letters, key in reads.items() if signed is not None and key in _VECTORS}
    for letters, key in reads.items() if codes.dtype.kind == "f" else ():
        span = height_span(plane_of(codes, letters)) if key in ("height", "curvature") else None
        if span is not None:
            found[letters] = span
    return found


def plane_of(codes: np.ndarray, letters: str) -> np.ndarray:
    """The channel of (H, W[, C]) codes that a gray is read from by its letter; of a color in full, all three.

    Examples
    --------
    >>> plane_of(np.uint8([[[1, 2, 3]]]), "G").tolist()
    [[2]]
    """
    if codes.ndim == 2:
        return codes
    at = codes.shape[2] - 1 if letters == "A" else "RGB".find(letters)
    return codes[..., at] if at >= 0 and len(letters) == 1 else codes[..., : 3 if codes.shape[2] > 2 else 1]
