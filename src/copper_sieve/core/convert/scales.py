"""Scales that files use for a master: the same fact on another ruler."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from ..raster import FloatArray, Gray

__all__ = ["SCALES", "Scale", "reflectance_of", "refraction_of"]

_LEAST_POWER_LOG2, _POWER_OCTAVES = 1.0, 10.0  # exponents from 2 to 2048
_REFRACTION_SPAN = 2.0  # files hold an index from 1 to 3
_SMALLEST_ALPHA2 = 1e-7


def reflectance_of(refraction: FloatArray | float) -> FloatArray | float:
    """F0 = ((n − 1)/(n + 1))², Fresnel's formula seen head-on, for a surface in air.

    Examples
    --------
    >>> round(reflectance_of(1.5), 6)
    0.04
    """
    root = (refraction - 1) / (refraction + 1)
    return root * root


def refraction_of(reflectance: FloatArray | float) -> FloatArray | float:
    """The index of refraction n ≥ 1 whose ``reflectance_of`` is this; reflectance below 1.

    Examples
    --------
    >>> round(float(refraction_of(0.04)), 3)
    1.5
    """
    root = np.sqrt(reflectance)
    return (1 + root) / (1 - root)


@dataclass(frozen=True)
class Scale:
    """``to_file`` and ``to_master`` undo each other; both take and give float32 arrays, files on 0..1."""

    to_file: Callable[[FloatArray], FloatArray]
    to_master: Callable[[FloatArray], FloatArray]


def _power(roughness: Gray) -> FloatArray:
    """Blinn-Phong's exponent 2/alpha² − 2 as its logarithm, alpha = roughness² (Walter et al. 2007 for the match)."""
    alpha2 = np.maximum(roughness.astype(np.float64) ** 4, _SMALLEST_ALPHA2)
    octaves = np.log2(np.maximum(2 / alpha2 - 2, 2.0**_LEAST_POWER_LOG2)) - _LEAST_POWER_LOG2
    return np.clip(octaves / _POWER_OCTAVES, 0, 1).astype(np.float32)


def _roughness_of_power(stored: FloatArray) -> FloatArray:
    power = np.exp2(_LEAST_POWER_LOG2 + _POWER_OCTAVES * stored.astype(np.float64))
    return ((2 / (power + 2)) ** 0.25).astype(np.float32)


SCALES = MappingProxyType(
    {
        "squared": Scale(np.square, np.sqrt),
        "power": Scale(_power, _roughness_of_power),
        "refraction": Scale(
            lambda f0: np.clip((refraction_of(f0) - 1) / _REFRACTION_SPAN, 0, 1).astype(np.float32),
            lambda stored: np.asarray(reflectance_of(1 + _REFRACTION_SPAN * stored), np.float32),
        ),
    }
)
