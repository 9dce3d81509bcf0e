"""A small reference shader: one lamp and an even sky, on a flat square. For swatches and for proofs."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from .quantities import quantity
from .raster import FloatArray, Size, Vectors
from .vectors import renormalized

__all__ = ["shade_relief", "shade_square"]

_LAMP = np.array([-0.5, 0.55, 0.67], np.float32)  # from the upper left
_LAMP_POWER, _SKY = 2.6, 0.35
_VIEW = np.array([0, 0, 1], np.float32)


def shade_square(masters: Mapping[str, FloatArray], size: Size) -> FloatArray:
    """Light a set seen from straight above.

    Parameters
    ----------
    masters : arrays of ``size``; absent ones take their absent value
    Returns
    -------
    color : (H, W, 3) float32, linear light, may pass 1
    References
    ----------
    GGX with Smith's joint visibility and Schlick's Fresnel: glTF 2.0, appendix B.
    """

    def get(key: str) -> np.ndarray:
        return masters[key] if key in masters else quantity(key).absent_value()

    lamp = _LAMP / np.linalg.norm(_LAMP)
    half = lamp + _VIEW
    half = half / np.linalg.norm(half)
    base, metal = get("base_color"), get("metallic")[..., None]
    alpha2 = np.maximum(get("roughness"), 0.05)[..., None] ** 4
    n = renormalized(np.broadcast_to(get("normal"), (size.height, size.width, 3)))
    n_l, n_h, n_v = (np.maximum(n @ v, 1e-4)[..., None] for v in (lamp, half, _VIEW))
    f0 = get("reflectance")[..., None] * (1 - metal) + base * metal
    fresnel = f0 + (1 - f0) * (1 - float(_VIEW @ half)) ** 5
    spread = alpha2 / (np.pi * (n_h * n_h * (alpha2 - 1) + 1) ** 2)
    joint = n_l * np.sqrt(n_v * n_v * (1 - alpha2) + alpha2) + n_v * np.sqrt(n_l * n_l * (1 - alpha2) + alpha2)
    diffuse = base * (1 - metal) * (1 - fresnel) / np.pi
    direct = _LAMP_POWER * n_l * (diffuse + fresnel * spread * 0.5 / np.maximum(joint, 1e-4))
    sky = _SKY * get("occlusion")[..., None] * (base * (1 - metal) + f0)
    lit = (direct * np.float32(1.0) + sky) + get("emissive")
    return np.broadcast_to(lit, (size.height, size.width, 3)).astype(np.float32)


_ABOVE = np.array([0, 0.77, 0.64], np.float32)
_CLAY, _CLAY_SKY = 0.62, 0.12


def shade_relief(normal: Vectors) -> FloatArray:
    """Light (H, W, 3) normals, read as Y+, as clay under a lamp above: flanks that face up the picture must be bright.

    Returns (H, W) float32, linear light.
    """
    facing = np.maximum(renormalized(normal) @ (_ABOVE / np.linalg.norm(_ABOVE)), 0)
    return (_CLAY * (facing * (1 - _CLAY_SKY) + _CLAY_SKY)).astype(np.float32)
