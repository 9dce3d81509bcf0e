"""File quantities that no gain and shift of one master makes, and the way back."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np

from ..convert.baked_occlusion import color_with_occlusion, color_without_occlusion
from ..convert.scales import SCALES
from ..convert.workflow import metallic_from_specular, specular_from_metallic
from ..quantities import quantity
from ..raster import FloatArray

__all__ = ["computed_from", "masters_from"]


def computed_from(masters: Mapping[str, FloatArray], wanted: Collection[str | None]) -> dict[str, FloatArray]:
    """Those of ``wanted`` that are computed and whose leading master is there. Other absent masters take their absent value.

    Examples
    --------
    >>> computed_from({"roughness": np.float32([[0.5]])}, ["roughness_squared"])
    {'roughness_squared': array([[0.25]], dtype=float32)}
    """
    found: dict[str, FloatArray] = {}
    for key in wanted:
        row = None if key is None else quantity(key)
        if row is not None and row.scale is not None and row.made_of[0] in masters:
            found[row.key] = SCALES[row.scale].to_file(masters[row.made_of[0]])
    if "base_color" not in masters:
        return found
    base = masters["base_color"]

    def get(key: str) -> FloatArray:
        return masters.get(key, np.broadcast_to(quantity(key).absent_value(), base.shape[:2]))

    if {"diffuse", "specular"} & set(wanted):
        diffuse, specular = specular_from_metallic(base, get("metallic"), get("reflectance"))
        found |= {key: values for key, values in (("diffuse", diffuse), ("specular", specular)) if key in wanted}
    if "shaded_color" in wanted:
        found["shaded_color"] = color_with_occlusion(base, get("occlusion"))
    return found


def masters_from(decoded: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """Decoded quantities as masters: computed ones are undone, as far as what came along allows.

    Examples
    --------
    >>> masters_from({"roughness_squared": np.float32([[0.25]])})
    {'roughness': array([[0.5]], dtype=float32)}
    """
    masters = {key: values for key, values in decoded.items() if not quantity(key).is_computed}
    for key, values in decoded.items():
        row = quantity(key)
        if row.scale is not None:
            masters.setdefault(row.made_of[0], SCALES[row.scale].to_master(values))
    if "diffuse" in decoded and "specular" in decoded:
        base_color, metallic, reflectance, _ = metallic_from_specular(decoded["diffuse"], decoded["specular"])
        masters |= {"base_color": base_color, "metallic": metallic, "reflectance": reflectance}
    elif "diffuse" in decoded:  # without its specular, what scatters is all the color there is
        masters["base_color"] = decoded["diffuse"]
    if "shaded_color" in decoded:
        shaded = decoded["shaded_color"]
        masters["base_color"] = color_without_occlusion(shaded, masters["occlusion"]) if "occlusion" in masters else shaded
    return masters
