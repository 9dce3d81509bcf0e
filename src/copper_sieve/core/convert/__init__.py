"""One meaning to another."""

from .blending import blend_normals
from .green import WhichGreen, which_green
from .normals import to_green_down, to_green_up
from .workflow import MetallicMaps, SpecularMaps, metallic_from_specular, specular_from_metallic

__all__ = [
    "MetallicMaps",
    "SpecularMaps",
    "WhichGreen",
    "blend_normals",
    "metallic_from_specular",
    "specular_from_metallic",
    "to_green_down",
    "to_green_up",
    "which_green",
]
