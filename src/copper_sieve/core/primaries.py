"""Which red, green and blue a color is told in, and the way to those of Rec. 709, which sRGB has."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from types import MappingProxyType
from typing import Literal, NamedTuple

import numpy as np

from .raster import FloatArray, Rgb

__all__ = ["PRIMARIES", "Primaries", "acescg_from_rec709", "primaries_of", "rec709_from", "to_rec709"]

Primaries = Literal["rec709", "acescg", "aces2065", "p3", "rec2020"]


class PrimarySet(NamedTuple):
    """What it is called, and x and y of its red, green, blue and white in CIE 1931."""

    title: str
    chromaticities: tuple[float, ...]


_D65, _D60 = (0.3127, 0.3290), (0.32168, 0.33767)
PRIMARIES = MappingProxyType[Primaries, PrimarySet](
    {
        "rec709": PrimarySet("Rec. 709", (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, *_D65)),  # ITU-R BT.709-6, item 1.3
        "acescg": PrimarySet("ACEScg", (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, *_D60)),  # AP1, Academy S-2014-004
        "aces2065": PrimarySet("ACES 2065-1", (0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, *_D60)),  # AP0, SMPTE ST 2065-1
        "p3": PrimarySet("Display P3", (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, *_D65)),  # SMPTE EG 432-1, white of sRGB
        "rec2020": PrimarySet("Rec. 2020", (0.708, 0.292, 0.170, 0.797, 0.131, 0.046, *_D65)),  # ITU-R BT.2020-2, table 3
    }
)
_SAME = 2e-3  # headers round

# Linear Rec. 709 (D65) to ACEScg (AP1, D60), adapted by Bradford's cone response: Academy TB-2014-004, S-2014-004
_ACESCG_REC709 = np.array(
    [
        [0.6130974024, 0.3395231462, 0.0473794514],
        [0.0701937225, 0.9163538791, 0.0134523985],
        [0.0206155929, 0.1095697729, 0.8698146342],
    ]
)
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def acescg_from_rec709(linear: Rgb) -> FloatArray:
    """Linear light (..., 3) from Rec. 709 to ACEScg; white stays white.

    Examples
    --------
    >>> acescg_from_rec709(np.ones((1, 3), np.float32)).round(6).tolist()
    [[1.0, 1.0, 1.0]]
    """
    return (linear @ _ACESCG_REC709.T.astype(np.float32)).astype(np.float32)


def rec709_from(linear: Rgb, primaries: Primaries) -> FloatArray:
    """Linear light (..., 3) in these primaries to Rec. 709, white moved by Bradford's cone response.

    Colors outside of Rec. 709 come out below 0 or above 1.

    Examples
    --------
    >>> rec709_from(np.array([[1, 1, 1], [0, 1, 0]], np.float32), "p3").round(3)
    array([[ 1.   ,  1.   ,  1.   ],
           [-0.225,  1.042, -0.079]], dtype=float32)
    """
    return (linear @ _to_rec709(primaries).T.astype(np.float32)).astype(np.float32)


def primaries_of(chromaticities: Sequence[float]) -> Primaries | None:
    """The primaries that a file's header names by x and y of red, green, blue and white; None for any others.

    Examples
    --------
    >>> primaries_of((0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.3217, 0.3377))
    'acescg'
    """
    told = np.asarray(chromaticities, np.float64)
    for key, row in PRIMARIES.items():
        if told.shape == (8,) and np.abs(told - row.chromaticities).max() <= _SAME:
            return key
    return None


def to_rec709(chromaticities: Sequence[float]) -> np.ndarray:
    """The matrix (3, 3) from linear light in primaries told by x and y of red, green, blue and white.

    Raises numpy.linalg.LinAlgError where they span no colors, ZeroDivisionError where a y is 0.

    Examples
    --------
    >>> bool(np.allclose(to_rec709(PRIMARIES["rec709"].chromaticities), np.eye(3)))
    True
    """
    return np.linalg.inv(_to_d65(PRIMARIES["rec709"].chromaticities)) @ _to_d65(chromaticities)


@lru_cache
def _to_rec709(primaries: Primaries) -> np.ndarray:
    if primaries == "acescg":
        return np.linalg.inv(_ACESCG_REC709)  # what was written by it comes back as it was
    return to_rec709(PRIMARIES[primaries].chromaticities)


def _to_d65(chromaticities: Sequence[float]) -> np.ndarray:
    """Linear light in these primaries to XYZ under D65 (SMPTE RP 177), white adapted."""
    xy = np.reshape(chromaticities, (4, 2))
    if not xy[:, 1].all():
        raise ZeroDivisionError
    xyz = np.column_stack([xy[:, 0], xy[:, 1], 1 - xy.sum(1)]) / xy[:, 1:]
    columns = xyz[:3].T
    plain = columns * np.linalg.solve(columns, xyz[3])
    d65 = np.array([_D65[0] / _D65[1], 1, (1 - sum(_D65)) / _D65[1]])
    cones = (_BRADFORD @ d65) / (_BRADFORD @ xyz[3])
    return np.linalg.inv(_BRADFORD) @ np.diag(cones) @ _BRADFORD @ plain
