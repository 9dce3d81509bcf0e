"""What can be found on a mesh: how grave it is, and its sentence."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal

__all__ = ["MESH_FIXES", "MESH_SENTENCES"]

MESH_SENTENCES: Mapping[str, tuple[Literal["stop", "look", "note"], str]] = MappingProxyType(
    {
        "mesh-unreadable": ("stop", "{why}"),
        "mesh-no-uv": ("stop", "{file} has no UV: no picture can lie on it. Unfold it, or make a quick UV here."),
        "mesh-uv-empty": (
            "stop",
            "{file}: its UV all lie on one point or line, so no picture can lie on it. Unfold it, or make a quick UV here.",
        ),
        "mesh-uv-broken": ("stop", "{file}: {count} corners have a UV that is no number. Unfold it anew."),
        "mesh-material-no-uv": (
            "stop",
            "{file}: {material} has no UV, other materials have. Unfold it too, or leave its part out.",
        ),
        "mesh-uv-outside": (
            "look",
            "{file}: {share:.1%} of its UV lies outside of the picture{tiles}. {says}",
        ),
        "mesh-no-uv-area": (
            "look",
            "{file}: {count} faces have an area in space and none in UV: they show one texel stretched. Unfold them.",
        ),
        "mesh-no-area": (
            "look",
            "{file}: {count} faces have no area (two corners are one point, or all lie on a line). Merge points by distance.",
        ),
        "mesh-overlap": (
            "look",
            "{file}: {count} pairs of faces of {material} lie on each other in UV, {share:.1%} of what is covered. What is"
            " baked there"
            " is right for one of them alone. Move them apart, or leave it if they shall share.",
        ),
        "mesh-overlap-mirrored": (
            "note",
            "{file}: {count} pairs of faces of {material} share their UV as mirrored copies, {share:.1%} of what is covered."
            " Only"
            " the copies that are not mirrored are baked from.",
        ),
        "mesh-mirrored": ("note", "{file}: {count} of {islands} islands lie mirrored in UV; their tangents say so."),
        "mesh-margin": (
            "look",
            "{file}: two islands are {gap:.1f} texels apart at {size} px, where {least} keep them from running into each"
            " other two"
            " sizes down. Move them apart.",
        ),
        "mesh-stretch": (
            "look",
            "{file}: one face in a hundred is stretched {ratio:.1f} × or more, longer one way than the other. Unfold it more"
            " evenly.",
        ),
        "mesh-density": (
            "look",
            "{file}: {material} has texels {times:.1f} × denser in some places than in others. Scale its islands alike.",
        ),
        "mesh-turned": (
            "note",
            "{file}: {count} islands stand aslant in UV, by up to {angle:.0f}°. Straight edges show steps there; turn them"
            " upright.",
        ),
        "mesh-hard-edges": (
            "look",
            "{file}: {count} hard edges lie within an island. A map cannot hold both sides: split the UV along them, or make"
            " them"
            " smooth.",
        ),
        "mesh-scale": ("note", "{file}: {part} is scaled by {scale}; it is applied here. Apply it before you unfold."),
        "mesh-scale-uneven": (
            "look",
            "{file}: {part} is scaled unevenly, by {scale}: UV made before are stretched so. It is applied here; unfold anew"
            " after.",
        ),
        "mesh-scale-negative": (
            "look",
            "{file}: {part} is mirrored by its scale ({scale}); its faces were turned over so that they look outward.",
        ),
        "mesh-polygons": (
            "look",
            "{file}: {quads} of its faces have four corners, {more} have more{bent}. It was triangulated here, and another"
            " program may"
            " do so otherwise: bring it triangulated.",
        ),
        "mesh-tangents-given": ("note", "{file}: its tangents are those of the common standard, within {degrees:.2f}°."),
        "mesh-tangents-differ": (
            "look",
            "{file}: its tangents differ from the common standard by up to {degrees:.1f}°{signs}. A map baked here looks"
            " bent with"
            " them: take ours (mesh tangents).",
        ),
        "mesh-open": ("note", "{file} is open: {count} edges have one face. Thickness cannot be baked there."),
        "mesh-crowded": ("look", "{file}: {count} edges have three faces or more. Take the inner ones out."),
        "mesh-winding": ("look", "{file}: at {count} edges the faces turn against each other. Make them look outward alike."),
        "mesh-inside-out": ("look", "{file}: {which} look inward. Turn them over."),
        "mesh-up": ("note", "{file}: {axis} is up, as {why}.{lies}"),
        "mesh-no-material": (
            "note",
            "{file}: {count} faces have no named material. One name for each texture set tells which maps go where.",
        ),
        "mesh-second-uv": ("look", "{file}: its second UV {why}. Light baked into it would be wrong there."),
        "mesh-uv-laid": (
            "note",
            "{file}: its UV {how}, as a material of it lays its pictures on them.",
        ),
        "mesh-file-missing": ("look", "{file} names {name}, which does not lie beside it. Bring it along."),
        "mesh-file-outside": ("look", "{file} names {name}, which lies outside of its folder and is not read."),
        "mesh-unpaired": ("look", "{name} has no partner: {why}. It is left out of the bake."),
        "mesh-cage-counts": (
            "stop",
            "{file}: the cage has {cage} {what}, the low mesh {low}. Make the cage from the low mesh as it is now.",
        ),
        "mesh-cage-differs": (
            "look",
            "{file}: the cage has other {what} than the low mesh at {count} places. Make it anew from the low mesh.",
        ),
        "mesh-missed": (
            "look",
            "{missed:.2%} of the rays from {file} met no high mesh. Where, the map of misses shows; a larger offset or a"
            " cage helps.",
        ),
        "mesh-missed-most": (
            "stop",
            "{missed:.0%} of the rays from {file} met no high mesh: the two do not lie in one place, or the offset is too small.",
        ),
        "mesh-outside-cage": (
            "look",
            "{share:.1%} of the high mesh over {file} stands out of the cage, where no ray sees it. Take a larger offset, or a"
            " cage that encloses it.",
        ),
        "mesh-map-left-out": ("note", "{map} was not baked: {why}."),
        "mesh-hard-without-cage": (
            "note",
            "{file} has hard edges: rays start from a cage {offset:.4g} above it, so that no edge is left open.",
        ),
        "mesh-quick-uv": ("note", "{file}: its UV were made quickly, by the machine. Take them for trials, not into production."),
    }
)

MESH_FIXES: Mapping[str, str] = MappingProxyType(
    {
        **dict.fromkeys(("mesh-no-uv", "mesh-uv-empty", "mesh-uv-broken"), "Make a quick UV"),
        "mesh-polygons": "Triangulate it",
        **dict.fromkeys(("mesh-scale", "mesh-scale-uneven", "mesh-scale-negative"), "Apply the scale"),
        "mesh-tangents-differ": "Make them anew",
        "mesh-inside-out": "Turn it over",
    }
)
