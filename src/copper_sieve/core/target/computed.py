"""File quantities that are a function of several masters, and the way back."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np

from ..convert.workflow import metallic_from_specular, specular_from_metallic
from ..quantities import quantity
from ..raster import FloatArray

__all__ = ["computed_from", "masters_from"]


def computed_from(masters: Mapping[str, FloatArray], wanted: Collection[str | None]) -> dict[str, FloatArray]:
    """Diffuse and specular, those of them that are wanted; {} without a base color. Absent masters take their absent value."""
    if not {"diffuse", "specular"} & set(wanted) or "base_color" not in masters:
        return {}
    base = masters["base_color"]
    metallic = masters.get("metallic", np.broadcast_to(quantity("metallic").absent_value(), base.shape[:2]))
    reflectance = masters.get("reflectance", quantity("reflectance").absent_value())
    diffuse, specular = specular_from_metallic(base, metallic, reflectance)
    return {key: values for key, values in (("diffuse", diffuse), ("specular", specular)) if key in wanted}


def masters_from(decoded: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """Decoded quantities as masters: diffuse and specular become base color, metallic and reflectance."""
    masters = {key: values for key, values in decoded.items() if key not in ("diffuse", "specular")}
    if "diffuse" in decoded and "specular" in decoded:
        base_color, metallic, reflectance, _ = metallic_from_specular(decoded["diffuse"], decoded["specular"])
        masters |= {"base_color": base_color, "metallic": metallic, "reflectance": reflectance}
    elif "diffuse" in decoded:  # without its specular, what scatters is all the color there is
        masters["base_color"] = decoded["diffuse"]
    return masters
