"""What each kind of material document can wire, as a table: targets are checked against it and documents are written by it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

__all__ = ["DOCUMENTS", "DocumentKind", "Need"]


@dataclass(frozen=True)
class Need:
    """What one input reads: all components of a ``quantity``; ``letters`` and ``color`` where the standard leaves no choice."""

    quantity: str
    letters: str | None = None
    color: str | None = None


@dataclass(frozen=True)
class DocumentKind:
    """``is_fixed`` kinds take channels as their standard lays them, and can neither invert nor stretch them."""

    key: str
    suffix: str
    says: str
    inputs: Mapping[str, tuple[Need, ...]]
    formats: tuple[str, ...]
    is_fixed: bool
    green: str | None = "up"  # None where it can turn green over by itself
    shows: bool = False  # holds what wears the images: the set's mesh, or a plane
    holds_tiles: bool = False  # names a set in tiles by one pattern; else there is one document for each tile


_GLTF = {
    "baseColorTexture": (Need("base_color", "RGB", "srgb"),),
    "metallicRoughnessTexture": (Need("roughness", "G", "data"), Need("metallic", "B", "data")),
    "occlusionTexture": (Need("occlusion", "R", "data"),),
    "normalTexture": (Need("normal", "RGB", "data"),),
    "emissiveTexture": (Need("emissive", "RGB", "srgb"),),
    "specularColorTexture": (Need("reflectance", "RGB", "srgb"),),
    "clearcoatTexture": (Need("own_coat", "R", "data"),),
    "clearcoatRoughnessTexture": (Need("own_coat_roughness", "G", "data"),),
    "transmissionTexture": (Need("own_transmission", "R", "data"),),
}
_OPENPBR = {
    "base_color": (Need("base_color"),),
    "base_metalness": (Need("metallic"),),
    "specular_roughness": (Need("roughness"),),
    "specular_ior": (Need("reflectance"),),
    "emission_color": (Need("emissive"),),
    "geometry_opacity": (Need("opacity"),),
    "geometry_normal": (Need("normal"),),
    "displacement": (Need("height"),),
    "coat_weight": (Need("own_coat"),),
    "coat_roughness": (Need("own_coat_roughness"),),
    "fuzz_weight": (Need("own_sheen"),),
    "fuzz_roughness": (Need("own_sheen_roughness"),),
    "subsurface_weight": (Need("own_subsurface"),),
    "transmission_weight": (Need("own_transmission"),),
    "thin_film_weight": (Need("own_iridescence"),),
    "specular_roughness_anisotropy": (Need("own_anisotropy"),),
}
_PREVIEW = {
    "diffuseColor": (Need("base_color"),),
    "metallic": (Need("metallic"),),
    "roughness": (Need("roughness"),),
    "opacity": (Need("opacity"),),
    "normal": (Need("normal"),),
    "occlusion": (Need("occlusion"),),
    "displacement": (Need("height"),),
    "emissiveColor": (Need("emissive"),),
    "clearcoat": (Need("own_coat"),),
    "clearcoatRoughness": (Need("own_coat_roughness"),),
}
_MTL = {
    "map_Kd": (Need("base_color", color="srgb"),),
    "map_d": (Need("opacity"),),
    "map_Pr": (Need("roughness"),),
    "map_Pm": (Need("metallic"),),
    "map_Ps": (Need("own_sheen"),),
    "map_Ke": (Need("emissive", color="srgb"),),
    "norm": (Need("normal"),),
    "disp": (Need("height"),),
}
_WEB, _OFFLINE = ("png", "jpeg"), ("png", "exr", "exr-tiled", "tga", "jpeg")
_PLAIN = ("png", "jpeg", "tga")
_ROWS = (
    DocumentKind("gltf", ".gltf", "Shows {} images on {}", _GLTF, _WEB, is_fixed=True, shows=True),
    DocumentKind("glb", ".glb", "Holds {} images and {} that shows them", _GLTF, _WEB, is_fixed=True, shows=True),
    DocumentKind(
        "materialx", ".mtlx", "Wires {} images", _OPENPBR, (*_OFFLINE, "tiff"), is_fixed=False, green=None, holds_tiles=True
    ),
    DocumentKind("usd", ".usda", "Shows {} images on {}", _PREVIEW, _OFFLINE, is_fixed=False, shows=True, holds_tiles=True),
    DocumentKind("obj", ".obj", "Holds {1}, in the material of {0} images", _MTL, _PLAIN, is_fixed=True, shows=True),
    DocumentKind("mtl", ".mtl", "Names {} images for the OBJ", _MTL, _PLAIN, is_fixed=True),
)
DOCUMENTS = MappingProxyType({row.key: row for row in _ROWS})
