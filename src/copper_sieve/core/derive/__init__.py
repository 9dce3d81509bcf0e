"""One module per derivation: pure functions from masters to a master."""

from .constant import Constant, constant_map
from .curvature import CurvatureFromNormal, curvature_from_normal
from .grooves import HeightFromGrooves, height_from_grooves
from .height import HeightFromColor, height_from_color
from .integration import HeightFromNormal, height_from_normal
from .normal import NormalFromColor, NormalFromHeight, normal_from_height
from .occlusion import OcclusionFromHeight, occlusion_from_height
from .roughness import RoughnessFromColor, roughness_from_color

__all__ = [
    "Constant",
    "CurvatureFromNormal",
    "HeightFromColor",
    "HeightFromGrooves",
    "HeightFromNormal",
    "NormalFromColor",
    "NormalFromHeight",
    "OcclusionFromHeight",
    "RoughnessFromColor",
    "constant_map",
    "curvature_from_normal",
    "height_from_color",
    "height_from_grooves",
    "height_from_normal",
    "normal_from_height",
    "occlusion_from_height",
    "roughness_from_color",
]
