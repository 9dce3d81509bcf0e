"""Transfer curves, luminance and OKLab. Every public function takes any leading shape unless it says (H, W)."""

from __future__ import annotations

from functools import lru_cache
from types import MappingProxyType
from typing import Literal

import numba
import numpy as np

from .bands import NEVER, RELAXED, Cancel, run_rows
from .raster import FloatArray

__all__ = [
    "GRAYS",
    "LUMINANCE_REC709",
    "GrayName",
    "encode_srgb_codes",
    "gray_of",
    "linear_from_srgb",
    "linear_from_srgb_codes",
    "luminance",
    "oklab_from_linear",
    "oklab_lightness",
    "srgb_from_linear",
]

LUMINANCE_REC709 = np.array([0.2126, 0.7152, 0.0722], np.float32)  # ITU-R BT.709-6, item 3.2

# OKLab, Ottosson 2020: linear Rec. 709 -> cone response, and cube roots -> L, a, b
OKLAB_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
OKLAB_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)

# Float curves are read from a table over the float's own bits: the same relative error in every octave.
_LINEAR_KNEE, _SRGB_KNEE = 0.0031308, 0.04045  # IEC 61966-2-1
_MANTISSA_BITS = 11
_SHIFT = 23 - _MANTISSA_BITS
_FIRST = int(np.float32(2.0**-9).view(np.uint32)) >> _SHIFT


def _decode64(encoded: np.ndarray) -> np.ndarray:
    return np.where(encoded <= _SRGB_KNEE, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def _encode64(linear: np.ndarray) -> np.ndarray:
    return np.where(linear <= _LINEAR_KNEE, linear * 12.92, 1.055 * np.maximum(linear, 0) ** (1 / 2.4) - 0.055)


def _curve_table(power_part: str) -> np.ndarray:
    bits = np.arange(_FIRST, (int(np.float32(1.0).view(np.uint32)) >> _SHIFT) + 2, dtype=np.uint32) << _SHIFT
    at = bits.view(np.float32).astype(np.float64)
    if power_part == "decode":
        return (((at + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return (1.055 * at ** (1 / 2.4) - 0.055).astype(np.float32)


_DECODE_TABLE, _ENCODE_TABLE = _curve_table("decode"), _curve_table("encode")


@numba.njit(nogil=True, cache=True)
def _apply_curve(first, last, values, bits, out, table, knee, slope):
    fraction = np.float32(1.0 / (1 << _SHIFT))
    for row in range(first, last):
        for i in range(values.shape[1]):
            v = values[row, i]
            v = min(max(v, np.float32(0)), np.float32(1))
            if v <= knee:
                out[row, i] = v * slope
            else:
                b = bits[row, i] if v < np.float32(1) else np.uint32(0x3F800000)
                k = (b >> _SHIFT) - _FIRST
                t = np.float32(b & ((1 << _SHIFT) - 1)) * fraction
                out[row, i] = table[k] + t * (table[k + 1] - table[k])


def _as_rows(values: np.ndarray) -> np.ndarray:
    if values.ndim >= 2:
        return values.reshape(values.shape[0], -1)
    return values.reshape(1, -1)


def _curve(values: np.ndarray, table: np.ndarray, knee: float, slope: float, out: np.ndarray | None) -> FloatArray:
    values = np.ascontiguousarray(values, np.float32)
    rows = _as_rows(values)
    out = np.empty_like(values) if out is None else out
    arguments = (rows, rows.view(np.uint32), _as_rows(out), table, np.float32(knee), np.float32(slope))
    run_rows(_apply_curve, rows.shape[0], rows.shape[1], NEVER, *arguments)
    return out


def linear_from_srgb(encoded: np.ndarray, *, out: np.ndarray | None = None) -> FloatArray:
    """Decode sRGB values to linear light, clamped to 0..1.

    Convention: the piecewise curve of IEC 61966-2-1; largest relative error 1.3e-7 plus float32 rounding.
    """
    return _curve(encoded, _DECODE_TABLE, _SRGB_KNEE, 1 / 12.92, out)


def srgb_from_linear(linear: np.ndarray, *, out: np.ndarray | None = None) -> FloatArray:
    """Encode linear light to sRGB values, clamped to 0..1; inverse of ``linear_from_srgb``."""
    return _curve(linear, _ENCODE_TABLE, _LINEAR_KNEE, 12.92, out)


@lru_cache
def _code_table(top: int) -> np.ndarray:
    return _decode64(np.arange(top + 1, dtype=np.float64) / top).astype(np.float32)


@numba.njit(nogil=True, cache=True)
def _look_up(first, last, codes, table, out):
    for row in range(first, last):
        for i in range(codes.shape[1]):
            out[row, i] = table[codes[row, i]]


def linear_from_srgb_codes(codes: np.ndarray, *, out: np.ndarray | None = None) -> FloatArray:
    """Decode uint8 or uint16 sRGB codes to linear light by an exact table."""
    codes = np.ascontiguousarray(codes)
    table = _code_table(int(np.iinfo(codes.dtype).max))
    rows = _as_rows(codes)
    out = np.empty(codes.shape, np.float32) if out is None else out
    run_rows(_look_up, rows.shape[0], rows.shape[1], NEVER, rows, table, _as_rows(out))
    return out


_BUCKETS = 4096  # under one 8-bit code per bucket even at the curve's foot (12.92 * 255 / 4096 = 0.8)


@lru_cache
def _thresholds8() -> tuple[np.ndarray, np.ndarray]:
    halves = _decode64((np.arange(255, dtype=np.float64) + 0.5) / 255)
    steps = np.append(halves, 2.0).astype(np.float32)  # the last is never reached
    first = np.searchsorted(steps, np.arange(_BUCKETS + 1) / np.float32(_BUCKETS), side="right").astype(np.uint8)
    return steps, first


@numba.njit(nogil=True, cache=True)
def _encode8(first_row, last_row, values, steps, first, out):
    scale = np.float32(_BUCKETS)
    for row in range(first_row, last_row):
        for i in range(values.shape[1]):
            v = min(max(values[row, i], np.float32(0)), np.float32(1))
            code = first[int(v * scale)]
            while v >= steps[code]:
                code += 1
            out[row, i] = code


def encode_srgb_codes(linear: np.ndarray, depth: int = 8, *, out: np.ndarray | None = None) -> np.ndarray:
    """Encode linear light as uint8 or uint16 sRGB codes, clamped. 8 bit is exactly rounded (table of thresholds)."""
    linear = np.ascontiguousarray(linear, np.float32)
    if depth == 16:
        return np.round(srgb_from_linear(linear) * 65535).astype(np.uint16)
    steps, first = _thresholds8()
    rows = _as_rows(linear)
    out = np.empty(linear.shape, np.uint8) if out is None else out
    run_rows(_encode8, rows.shape[0], rows.shape[1], NEVER, rows, steps, first, _as_rows(out))
    return out


def luminance(linear: np.ndarray) -> FloatArray:
    """Rec. 709 luminance of (..., 3) linear light, shape (...)."""
    return np.asarray(linear, np.float32) @ LUMINANCE_REC709


def oklab_from_linear(linear: np.ndarray) -> FloatArray:
    """OKLab of (..., 3) linear Rec. 709 light (Ottosson 2020): L 0..1, a and b about -0.4..0.4."""
    cones = np.cbrt(np.asarray(linear, np.float32) @ OKLAB_LMS.T.astype(np.float32))
    return cones @ OKLAB_LAB.T.astype(np.float32)


_TWO_THIRDS = 709921077  # of the bits of 1: with a third of those of x about those of its root
_DARKEST = 1e-36  # stands for 0, whose root is none by steps


@numba.njit(nogil=True, cache=True, fastmath=RELAXED, error_model="numpy")
def _cube_root(x):
    """Of a float32 that is more than 0, to 3e-7 of it: a guess from its bits, then Halley's step twice. The library's takes four
    times as long.
    """
    root = np.uint32(np.float32(x).view(np.uint32) // np.uint32(3) + np.uint32(_TWO_THIRDS)).view(np.float32)
    for _ in range(2):
        cube = root * root * root
        root = root * (cube + x + x) / (cube + cube + x)
    return root


@numba.njit(nogil=True, cache=True, fastmath=RELAXED, error_model="numpy")
def _lightness(first, last, rgb, lms, weights, out):
    for row in range(first, last):
        for i in range(rgb.shape[1]):
            total = np.float32(0)
            for k in range(3):
                x = lms[k, 0] * rgb[row, i, 0] + lms[k, 1] * rgb[row, i, 1] + lms[k, 2] * rgb[row, i, 2]
                total += weights[k] * _cube_root(max(x, np.float32(_DARKEST)))
            out[row, i] = total


def oklab_lightness(linear: np.ndarray, *, cancel: Cancel = NEVER) -> FloatArray:
    """OKLab L of (H, W, 3) linear light, shape (H, W), without the two color axes."""
    linear = np.ascontiguousarray(linear, np.float32)
    out = np.empty(linear.shape[:2], np.float32)
    lms, weights = OKLAB_LMS.astype(np.float32), OKLAB_LAB[0].astype(np.float32)
    run_rows(_lightness, linear.shape[0], linear.shape[1], cancel, linear, lms, weights, out)
    return out


# What may stand for a color where one gray is wanted, with the words for a person.
GRAYS = MappingProxyType(
    {
        "lightness": "Lightness as seen",
        "luminance": "Luminance",
        "red": "Red alone",
        "green": "Green alone",
        "blue": "Blue alone",
    }
)
GrayName = Literal["lightness", "luminance", "red", "green", "blue"]


def gray_of(linear: np.ndarray, which: GrayName, *, cancel: Cancel = NEVER) -> FloatArray:
    """One gray of (H, W, 3) linear light, (H, W), 0..1, in even steps for the eye: OKLab L, or a channel or luminance in sRGB."""
    if which == "lightness":
        return oklab_lightness(linear, cancel=cancel)
    if which == "luminance":
        return srgb_from_linear(luminance(linear))
    return srgb_from_linear(np.ascontiguousarray(linear[..., ("red", "green", "blue").index(which)]))
