"""Metallic and specular workflows, both ways, in linear light."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..errors import ShapeMismatch
from ..operation import Operation, read_as
from ..params import Params, control
from ..raster import FloatArray, Gray, Rgb, as_gray, as_rgb

__all__ = [
    "OPERATIONS",
    "MetallicFromSpecular",
    "MetallicMaps",
    "SpecularMaps",
    "metallic_from_specular",
    "specular_from_metallic",
]

USUAL_REFLECTANCE = 0.04  # of most non-metals seen head-on: an index of refraction of 1.5
_CLEAR = 0.05  # |base − F0·t| from which on a texel's two readings cannot be mixed up
_CLEAR_PER_F0 = 1.25
_AT_F0 = 4e-5  # a few 16-bit steps: specular this near to F0 is F0
_NEUTRAL = 0.004  # channels of a non-metal's specular differ by less, one 8-bit sRGB step at F0 and a bit
_NO_WORSE = 1e-6  # squared residual by which "no metal" may be the worse reading and still be preferred


class MetallicFromSpecular(Params):
    """What is known of the set beforehand."""

    reflectance: float = control(
        USUAL_REFLECTANCE, "Reflectance", "%", 0.005, 0.16, "What the non-metals of this set mirror, seen head-on.", scale=100
    )


@dataclass(frozen=True)
class SpecularMaps:
    """Diffuse and specular color, each (H, W, 3) float32, linear light. Also unpacks in that order."""

    diffuse: Rgb
    specular: Rgb

    def __iter__(self) -> Iterator[FloatArray]:
        return iter((self.diffuse, self.specular))


@dataclass(frozen=True)
class MetallicMaps:
    """Base color (H, W, 3), metallic and reflectance (H, W), and where the files did not determine them (H, W) bool.

    Also unpacks in that order.
    """

    base_color: Rgb
    metallic: Gray
    reflectance: FloatArray
    undetermined: np.ndarray

    def __iter__(self) -> Iterator[np.ndarray]:
        return iter((self.base_color, self.metallic, self.reflectance, self.undetermined))


def specular_from_metallic(base_color: Rgb, metallic: Gray, reflectance: FloatArray | float = USUAL_REFLECTANCE) -> SpecularMaps:
    """Split a metallic set into diffuse and specular color.

    Parameters
    ----------
    base_color : (..., 3) float32, linear light, 0..1
    metallic : (...) float32, 0..1
    reflectance : (...) or one number, F0 of the non-metal part
    References
    ----------
    diffuse = base · (1 − m), specular = F0 · (1 − m) + base · m: glTF 2.0, appendix B.2, solved for the two colors.
    Examples
    --------
    >>> gold = np.array([[[1.0, 0.75, 0.25]]], np.float32)
    >>> specular_from_metallic(gold, np.ones((1, 1), np.float32)).specular[0, 0].tolist()
    [1.0, 0.75, 0.25]
    """
    rest = (1 - np.asarray(metallic, np.float32))[..., None]
    f0 = np.asarray(reflectance, np.float32)
    f0 = f0[..., None] if f0.ndim else f0
    diffuse = base_color * rest
    return SpecularMaps(diffuse, (base_color - diffuse + f0 * rest).astype(np.float32))


@numba.njit(nogil=True, cache=True)
def _misfit(t, f0, d, s):
    """Sum over the channels of the squared residual of F0·t² − S·t + d, S = d + s."""
    total = 0.0
    for c in range(3):
        residual = f0 * t * t - (d[c] + s[c]) * t + d[c]
        total += residual * residual
    return total


@numba.njit(nogil=True, cache=True)
def _settle(t, f0, d, s):
    """Two Gauss-Newton steps towards the t that fits all three channels, within 0..1."""
    for _ in range(2):
        down, up = 0.0, 0.0
        for c in range(3):
            sum_c = d[c] + s[c]
            slope = 2 * f0 * t - sum_c
            up += slope * (f0 * t * t - sum_c * t + d[c])
            down += slope * slope
        if down > 1e-20:
            t = min(max(t - up / down, 0.0), 1.0)
    return t


@numba.njit(nogil=True, cache=True)
def _solve_rows(first, last, diffuse, specular, f0_map, base, metallic, reflectance, undetermined):
    for row in range(first, last):
        for i in range(diffuse.shape[1]):
            d, s, f0 = diffuse[row, i], specular[row, i], float(f0_map[row, i])
            low, high = min(s[0], s[1], s[2]), max(s[0], s[1], s[2])
            largest, k, clearest = 0.0, 0.0, 0.0
            lead = 0
            for c in range(3):
                sum_c = float(d[c]) + float(s[c])
                k_c = np.sqrt(max(0.0, sum_c * sum_c - 4 * f0 * d[c]))
                clearest = max(clearest, k_c)
                if sum_c > largest:
                    largest, k, lead = sum_c, k_c, c
            own_f0 = f0
            if high <= f0 + _AT_F0:  # too little to mirror for any metal
                t = 1.0
                own_f0 = (float(s[0]) + float(s[1]) + float(s[2])) / 3 if high < f0 - _AT_F0 else f0
                undetermined[row, i] = high - low > _NEUTRAL
            else:
                t = min(2 * d[lead] / max(largest + k, 1e-12), 1.0)
                t = _settle(t, f0, d, s)
                doubtful = clearest < max(_CLEAR, _CLEAR_PER_F0 * f0)
                undetermined[row, i] = doubtful
                if doubtful:
                    other = _settle(min((largest + k) / max(2 * f0, 1e-12), 1.0), f0, d, s)
                    if _misfit(other, f0, d, s) < _misfit(t, f0, d, s):
                        t = other
                    if _misfit(1.0, f0, d, s) <= _misfit(t, f0, d, s) + _NO_WORSE:
                        t = 1.0
            metallic[row, i], reflectance[row, i] = 1 - t, own_f0
            for c in range(3):
                base[row, i, c] = min(max(d[c] + s[c] - own_f0 * t, 0.0), 1.0)


def metallic_from_specular(
    diffuse: Rgb,
    specular: Rgb,
    reflectance: FloatArray | float = USUAL_REFLECTANCE,
    *,
    cancel: Cancel = NEVER,
) -> MetallicMaps:
    """Find the metallic set that a diffuse and a specular color were split from.

    With t = 1 − metallic, S = diffuse + specular and F0 the non-metal's reflectance, every channel says
    F0·t² − S·t + diffuse = 0. The smaller root of the brightest channel is the start, least squares over the three
    channels the answer. A texel is undetermined where base color and F0·t are too near to be told apart, or where a
    non-metal's specular is tinted; there "no metal" is preferred when it fits as well.

    Parameters
    ----------
    diffuse, specular : (H, W, 3) float32, linear light, 0..1
    reflectance : (H, W) or one number, F0 expected of non-metals; where specular is below it and neutral, that is it
    Raises
    ------
    ShapeMismatch : shapes differ or are not (H, W, 3)
    Examples
    --------
    >>> dull = np.full((1, 1, 3), 0.5, np.float32)
    >>> found = metallic_from_specular(dull, np.full((1, 1, 3), 0.04, np.float32))
    >>> float(found.metallic[0, 0]), bool(found.undetermined[0, 0])
    (0.0, False)
    """
    diffuse, specular = as_rgb(diffuse, "diffuse"), as_rgb(specular, "specular")
    if diffuse.shape != specular.shape:
        raise ShapeMismatch(f"diffuse and specular must have one size (got {diffuse.shape[:2]} and {specular.shape[:2]}).")
    shape = diffuse.shape[:2]
    f0 = np.broadcast_to(np.asarray(reflectance, np.float32), shape)
    f0 = as_gray(f0, "reflectance")
    found = MetallicMaps(
        np.empty_like(diffuse), np.empty(shape, np.float32), np.empty(shape, np.float32), np.empty(shape, np.bool_)
    )
    run_rows(_solve_rows, *shape, cancel, diffuse, specular, f0, *found)
    return found


def _split(diffuse: Rgb, specular: Rgb, *, params: MetallicFromSpecular, cancel: Cancel) -> MetallicMaps:
    return metallic_from_specular(diffuse, specular, params.reflectance, cancel=cancel)


OPERATIONS = (
    Operation(
        "metallic_from_specular",
        "from diffuse and specular",
        _split,
        MetallicFromSpecular,
        slots=(read_as("diffuse"), read_as("specular")),
        outputs=("base_color", "metallic", "reflectance"),
        effort=4,
    ),
)
