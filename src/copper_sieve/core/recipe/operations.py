"""The table of operations: what each step of a recipe takes, makes and is told."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..convert.baked_occlusion import ShadedColor
from ..convert.blending import BlendNormals
from ..convert.mixing import Mix, MixNormals
from ..convert.workflow import MetallicFromSpecular
from ..derive import (
    Constant,
    CurvatureFromNormal,
    HeightFromColor,
    HeightFromNormal,
    NormalFromColor,
    NormalFromHeight,
    OcclusionFromHeight,
    RoughnessFromColor,
)
from ..derive.albedo import AlbedoFromPhoto
from ..derive.gray_height import HeightFromGray
from ..derive.masks import BledColor, GlowByRange, MaskByRange, MaskFromColor, Threshold
from ..derive.picks import ByPicks, GlowByPicks, HeightByPicks, MaskByPicks
from ..params import Params
from . import computing

if TYPE_CHECKING:
    from .evaluation import Step

__all__ = ["OPERATIONS", "Operation"]


@dataclass(frozen=True)
class Operation:
    """``compute`` gets a Step, which hands it inputs, measures taken at the working size, and shared stages.

    ``makes`` names the masters it makes; with more than one, ``compute`` returns an object with an attribute for each.
    ``facts`` names the set's facts that the result depends on; ``effort`` is its share of the work, for progress.
    """

    key: str
    title: str
    algorithm: int
    inputs: tuple[str, ...]
    makes: tuple[str, ...]
    params: type[Params]
    facts: tuple[str, ...]
    effort: int
    compute: Callable[[Step, Any], Any]


_BY_PICKS, _BY_RANGE = "from color, by picks", "from color, near one color"

_ROWS = (
    Operation("height_from_color", "from color", 1, ("color",), ("height",), HeightFromColor, ("edges",), 2, computing.height),
    Operation(
        "normal_from_height", "from height", 1, ("height",), ("normal",), NormalFromHeight, ("rise", "edges"), 1, computing.normal
    ),
    Operation(
        "occlusion_from_height",
        "from height",
        1,
        ("height",),
        ("occlusion",),
        OcclusionFromHeight,
        ("rise", "edges"),
        12,
        computing.occlusion,
    ),
    Operation(
        "roughness_from_color",
        "from color",
        1,
        ("color",),
        ("roughness",),
        RoughnessFromColor,
        ("edges",),
        2,
        computing.roughness,
    ),
    Operation(
        "metallic_from_specular",
        "from diffuse and specular",
        1,
        ("diffuse", "specular"),
        ("base_color", "metallic", "reflectance"),
        MetallicFromSpecular,
        (),
        2,
        computing.metallic,
    ),
    Operation(
        "color_without_occlusion",
        "from color with occlusion in it",
        1,
        ("color", "occlusion"),
        ("base_color",),
        ShadedColor,
        (),
        1,
        computing.unshaded,
    ),
    Operation(
        "color_with_occlusion",
        "given, with occlusion in it",
        1,
        ("own_color", "occlusion"),
        ("base_color",),
        ShadedColor,
        (),
        1,
        computing.shaded,
    ),
    Operation(
        "height_from_normal",
        "from normal",
        1,
        ("normal",),
        ("height",),
        HeightFromNormal,
        ("edges",),
        6,
        computing.height_of_normal,
    ),
    Operation(
        "curvature_from_normal",
        "from normal",
        1,
        ("normal",),
        ("curvature",),
        CurvatureFromNormal,
        ("edges",),
        2,
        computing.curvature,
    ),
    Operation("blend_normals", "given, with detail", 1, ("base", "detail"), ("normal",), BlendNormals, (), 1, computing.blended),
    Operation(
        "albedo_from_photo", "photo, evenly lit", 1, ("photo",), ("base_color",), AlbedoFromPhoto, ("edges",), 2, computing.albedo
    ),
    Operation("height_by_picks", _BY_PICKS, 1, ("color",), ("height",), HeightByPicks, ("edges",), 3, computing.height_picked),
    Operation("roughness_by_picks", _BY_PICKS, 1, ("color",), ("roughness",), ByPicks, ("edges",), 3, computing.roughness_picked),
    Operation("metallic_by_picks", _BY_PICKS, 1, ("color",), ("metallic",), MaskByPicks, ("edges",), 3, computing.mask_picked),
    Operation("opacity_by_picks", _BY_PICKS, 1, ("color",), ("opacity",), MaskByPicks, ("edges",), 3, computing.mask_picked),
    Operation("emissive_by_picks", _BY_PICKS, 1, ("color",), ("emissive",), GlowByPicks, ("edges",), 3, computing.glow_picked),
    Operation(
        "height_from_gray",
        "from a gray and noise",
        1,
        ("gray",),
        ("height",),
        HeightFromGray,
        ("edges",),
        2,
        computing.height_of_gray,
    ),
    Operation(
        "normal_from_color",
        "straight from color",
        1,
        ("color",),
        ("normal",),
        NormalFromColor,
        ("rise", "edges"),
        3,
        computing.normal_of_color,
    ),
    Operation("metallic_by_range", _BY_RANGE, 1, ("color",), ("metallic",), MaskByRange, ("edges",), 2, computing.in_range),
    Operation("emissive_by_range", _BY_RANGE, 1, ("color",), ("emissive",), GlowByRange, ("edges",), 2, computing.glow_in_range),
    Operation("opacity_by_range", _BY_RANGE, 1, ("own_color",), ("opacity",), MaskByRange, ("edges",), 2, computing.own_in_range),
    Operation(
        "opacity_from_color", "from color, cut", 1, ("own_color",), ("opacity",), MaskFromColor, (), 1, computing.opacity_of_color
    ),
    Operation(
        "opacity_cut", "given, cut at a threshold", 1, ("own_opacity",), ("opacity",), Threshold, (), 1, computing.opacity_cut
    ),
    Operation(
        "color_bled",
        "given, bled under holes",
        1,
        ("own_color", "opacity"),
        ("base_color",),
        BledColor,
        ("edges",),
        2,
        computing.bled,
    ),
    Operation("mixed", "mixed", 1, ("own", "other"), (), Mix, (), 1, computing.mix),
    Operation("mixed_normals", "mixed", 1, ("own", "other"), (), MixNormals, (), 1, computing.mix_normals),
    Operation("constant", "constant", 1, (), (), Constant, (), 0, computing.constant),
)
OPERATIONS = MappingProxyType({row.key: row for row in _ROWS})
