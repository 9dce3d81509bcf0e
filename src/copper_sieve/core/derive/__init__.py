"""One module per derivation: pure functions from masters to a master."""

from .constant import Constant, constant_map
from .height import HeightFromColor, height_from_color
from .normal import NormalFromHeight, normal_from_height
from .occlusion import OcclusionFromHeight, occlusion_from_height
from .roughness import RoughnessFromColor, roughness_from_color

__all__ = [
    "Constant",
    "HeightFromColor",
    "NormalFromHeight",
    "OcclusionFromHeight",
    "RoughnessFromColor",
    "constant_map",
    "height_from_color",
    "normal_from_height",
    "occlusion_from_height",
    "roughness_from_color",
]
