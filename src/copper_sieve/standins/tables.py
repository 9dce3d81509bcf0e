"""What every shipped target's files must hold, written down by hand."""

from __future__ import annotations

from types import MappingProxyType
from typing import Literal

from .loading import Channel, File, Table

__all__ = ["TABLES"]

COLOR, NORMAL_UP, NORMAL_DOWN = ["base r", "base g", "base b"], ["x", "y up", "z"], ["x", "y down", "z"]
GLOW = ["glow r", "glow g", "glow b"]
DIFFUSE, SPECULAR = ["diffuse r", "diffuse g", "diffuse b"], ["specular r", "specular g", "specular b"]
_Rows = dict[str, tuple[str, list[str]]]


def _table(model: Literal["metallic", "specular", "classic"], rows: _Rows) -> Table:
    files = {}
    for role, (form, channels) in rows.items():
        stored, use = form.split()
        files[role] = File(stored, use, tuple(Channel(meaning) for meaning in channels))  # type: ignore[arg-type]
    return Table(model, files)


# target → how it shades, file → (how it is stored, what its channels hold in order)
TABLES = MappingProxyType(
    {
        "gltf": _table(
            "metallic",
            {
                "base_color": ("png8 srgb", [*COLOR, "opacity"]),
                "orm": ("png8 data", ["occlusion", "roughness", "metallic"]),
                "normal": ("png8 data", NORMAL_UP),
                "emissive": ("png8 srgb", GLOW),
                "reflectance": ("png8 srgb", ["reflectance"] * 3),
                "coat": ("png8 data", ["own_coat", "own_coat_roughness", "fixed 0.0"]),
                "transmission": ("png8 data", ["own_transmission"]),
            },
        ),
        "materialx": _table(
            "metallic",
            {
                "base_color": ("png8 srgb", COLOR),
                **{key: ("png16 data", [key]) for key in ("opacity", "metallic", "roughness", "occlusion", "reflectance")},
                **{key: ("png16 data", [f"own_{key}"]) for key in ("coat", "coat_roughness", "transmission", "sheen")},
                "normal": ("png16 data", NORMAL_UP),
                "height": ("exrhalf data", ["height"]),
                "emissive": ("png8 srgb", GLOW),
            },
        ),
        "usd-preview": _table(
            "metallic",
            {
                "base_color": ("png8 srgb", COLOR),
                **{key: ("png8 data", [key]) for key in ("opacity", "metallic", "roughness", "occlusion")},
                **{key: ("png8 data", [f"own_{key}"]) for key in ("coat", "coat_roughness")},
                "normal": ("png8 data", NORMAL_UP),
                "height": ("png16 data", ["height"]),
                "emissive": ("png8 srgb", GLOW),
            },
        ),
        "engine-orm-down": _table(
            "metallic",
            {
                "base_color": ("tga8 srgb", COLOR),
                "normal": ("tga8 data", NORMAL_DOWN),
                "orm": ("tga8 data", ["occlusion", "roughness", "metallic"]),
                "emissive": ("tga8 srgb", GLOW),
            },
        ),
        "engine-mra-down": _table(
            "metallic",
            {
                "base_color": ("tga8 srgb", COLOR),
                "normal": ("tga8 data", NORMAL_DOWN),
                "mra": ("tga8 data", ["metallic", "roughness", "occlusion"]),
                "emissive": ("tga8 srgb", GLOW),
            },
        ),
        "engine-loose-down": _table(
            "metallic",
            {
                "base_color": ("png8 srgb", COLOR),
                "normal": ("png8 data", NORMAL_DOWN),
                **{key: ("png8 data", [key]) for key in ("roughness", "metallic", "occlusion")},
            },
        ),
        "engine-smooth-up": _table(
            "metallic",
            {
                "albedo": ("png8 srgb", [*COLOR, "opacity"]),
                "metallic_alpha": ("png8 data", ["metallic", "metallic", "metallic", "gloss"]),
                "normal": ("png8 data", NORMAL_UP),
                "occlusion": ("png8 data", ["occlusion"]),
                "emissive": ("png8 srgb", GLOW),
            },
        ),
        "engine-fourfold-up": _table(
            "metallic",
            {
                "albedo": ("png8 srgb", [*COLOR, "opacity"]),
                "fourfold": ("png8 data", ["metallic", "occlusion", "own_detail_weight", "gloss"]),
                "normal": ("png8 data", NORMAL_UP),
                "emissive": ("png8 srgb", GLOW),
            },
        ),
        "engine-specular-up": _table(
            "specular",
            {
                "diffuse": ("png8 srgb", [*DIFFUSE, "opacity"]),
                "specular": ("png8 srgb", [*SPECULAR, "gloss"]),
                "normal": ("png8 data", NORMAL_UP),
                "occlusion": ("png8 data", ["occlusion"]),
            },
        ),
        "level-six": _table(
            "metallic",
            {
                "base_color": ("png8 srgb", COLOR),
                "normal": ("png8 data", NORMAL_UP),
                **{key: ("png8 data", [key]) for key in ("roughness", "metallic", "occlusion")},
                "height": ("png16 data", ["height"]),
            },
        ),
        "gloss-tiff": _table(
            "specular",
            {
                "diffuse": ("tiff8 srgb", DIFFUSE),
                "normal": ("tiff8 data", NORMAL_DOWN),
                "gloss": ("tiff8 data", ["gloss"]),
                "occlusion": ("tiff8 data", ["occlusion"]),
                "specular": ("tiff8 srgb", SPECULAR),
            },
        ),
        "small-tiles": _table(
            "metallic",
            {
                "albedo": ("png8 srgb", [*COLOR, "opacity"]),
                "relief": ("png8 data", ["x", "y up", "occlusion", "height"]),
                "shine": ("png8 data", ["reflectance", "gloss", "glow", "own_wetness"]),
            },
        ),
        "small-tiles-rgb": _table(
            "metallic",
            {
                "albedo": ("png8 srgb", [*COLOR, "opacity"]),
                "normal": ("png8 data", NORMAL_UP),
                "shine": ("png8 data", ["gloss", "metallic", "glow"]),
            },
        ),
        "arch-gloss-alpha": _table(
            "metallic",
            {
                "albedo": ("png8 srgb", [*COLOR, "opacity"]),
                "normal_gloss": ("png8 data", [*NORMAL_DOWN, "gloss"]),
                "height": ("png16 data", ["height"]),
            },
        ),
        "film-specular": _table(
            "specular",
            {
                "diffuse": ("exr-tiledhalf linear", DIFFUSE),
                "specular": ("exr-tiledhalf linear", SPECULAR),
                "roughness": ("exr-tiledhalf data", ["roughness"]),
                "normal": ("exr-tiledhalf data", NORMAL_UP),
                "height": ("exr-tiledhalf data", ["height"]),
            },
        ),
        "path-specular": _table(
            "specular",
            {
                "diffuse": ("png8 srgb", DIFFUSE),
                "specular": ("png8 srgb", SPECULAR),
                "roughness": ("png8 data", ["roughness"]),
                "normal": ("png8 data", NORMAL_UP),
            },
        ),
        "classic-shading": _table(
            "classic",
            {
                "diffuse": ("png8 srgb", DIFFUSE),
                "specular": ("png8 srgb", SPECULAR),
                "shine_power": ("png8 data", ["power"]),
                "normal": ("png8 data", NORMAL_UP),
                "height": ("png16 data", ["height"]),
            },
        ),
    }
)
