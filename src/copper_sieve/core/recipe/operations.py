"""The table of operations: each joins a derivation's pure functions to the recipe."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

import numpy as np

from ..convert.blending import BlendNormals, blend_normals
from ..convert.shading import ShadedColor, color_with_occlusion, color_without_occlusion
from ..convert.workflow import MetallicFromSpecular, MetallicMaps, metallic_from_specular
from ..derive import (
    Constant,
    CurvatureFromNormal,
    HeightFromColor,
    HeightFromNormal,
    NormalFromHeight,
    OcclusionFromHeight,
    RoughnessFromColor,
    constant_map,
    height_from_normal,
    normal_from_height,
    occlusion_from_height,
)
from ..derive.albedo import AlbedoFromPhoto, albedo_from_photo
from ..derive.curvature import leaning, shape_curvature
from ..derive.height import lightness_spectrum, measure_height, shape_height
from ..derive.params import Params
from ..derive.picks import (
    PLAIN,
    ByPicks,
    GlowByPicks,
    HeightByPicks,
    MaskByPicks,
    PickFit,
    color_spectra,
    fit_picks,
    height_by_picks,
    mask_by_picks,
    pick_features,
    roughness_by_picks,
)
from ..derive.roughness import measure_roughness, roughness_signals, shape_roughness
from ..filters import Spectrum
from ..raster import FloatArray, Size

if TYPE_CHECKING:
    from .evaluate import Step

__all__ = ["OPERATIONS", "Operation", "pick_fit"]


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


def _lightness(step: Step, size: Size) -> Spectrum:
    def transform() -> Spectrum:
        return lightness_spectrum(step.input("color", size), step.facts.edges, cancel=step.cancel)

    return step.stage("lightness", size, transform)


def _height(step: Step, params: HeightFromColor) -> FloatArray:
    scale = step.stage(
        f"height scale {params.detail}", step.working, lambda: measure_height(_lightness(step, step.working), params)
    )
    return shape_height(_lightness(step, step.size), params, scale, cancel=step.cancel)


def _roughness(step: Step, params: RoughnessFromColor) -> FloatArray:
    def signals(size: Size) -> Any:
        return step.stage("roughness signals", size, lambda: roughness_signals(_lightness(step, size)))

    scale = step.stage(
        f"roughness scale {params.detail} {params.invert}",
        step.working,
        lambda: measure_roughness(signals(step.working), params),
    )
    return shape_roughness(signals(step.size), params, scale, cancel=step.cancel)


def _normal(step: Step, params: NormalFromHeight) -> FloatArray:
    height, facts = step.input("height", step.size), step.facts
    return normal_from_height(height, facts.rise, facts.edges, params=params, cancel=step.cancel)


def _occlusion(step: Step, params: OcclusionFromHeight) -> FloatArray:
    height, facts = step.input("height", step.size), step.facts
    return occlusion_from_height(height, facts.rise, facts.edges, params=params, cancel=step.cancel)


def _metallic(step: Step, params: MetallicFromSpecular) -> MetallicMaps:
    diffuse, specular = step.input("diffuse", step.size), step.input("specular", step.size)
    return metallic_from_specular(diffuse, specular, params.reflectance, cancel=step.cancel)


def _unshaded(step: Step, params: ShadedColor) -> FloatArray:
    return color_without_occlusion(step.input("color", step.size), step.input("occlusion", step.size), params.amount)


def _shaded(step: Step, params: ShadedColor) -> FloatArray:
    return color_with_occlusion(step.input("own_color", step.size), step.input("occlusion", step.size), params.amount)


def _height_of_normal(step: Step, params: HeightFromNormal) -> FloatArray:
    return height_from_normal(step.input("normal", step.size), step.facts.edges, params=params, cancel=step.cancel).height


def _curvature(step: Step, params: CurvatureFromNormal) -> FloatArray:
    normals = step.stage("leaning", step.size, lambda: leaning(step.input("normal", step.size), step.facts.edges))
    return shape_curvature(normals, params)


def _blended(step: Step, params: BlendNormals) -> FloatArray:
    base, detail = step.input("base", step.size), step.input("detail", step.size)
    return blend_normals(base, detail, params.amount, way=params.way, cancel=step.cancel)


def _albedo(step: Step, params: AlbedoFromPhoto) -> FloatArray:
    return albedo_from_photo(step.input("photo", step.size), step.facts.edges, params=params, cancel=step.cancel)


def _spectra(step: Step, size: Size) -> tuple[Spectrum, Spectrum, Spectrum]:
    return step.stage("color spectra", size, lambda: color_spectra(step.input("color", size), step.facts.edges))


def pick_fit(step: Step, params: ByPicks, plain: str) -> PickFit:
    """The fit of a node's picks, at the working size."""
    size = step.working
    features = step.stage("pick features", size, lambda: pick_features(_spectra(step, size)))
    return step.stage(f"picks {plain} {params.picks}", size, lambda: fit_picks(features, params.picks, PLAIN[plain]))


def _height_picked(step: Step, params: HeightByPicks) -> FloatArray:
    return height_by_picks(_spectra(step, step.size), params, pick_fit(step, params, "height"), cancel=step.cancel)


def _roughness_picked(step: Step, params: ByPicks) -> FloatArray:
    return roughness_by_picks(_spectra(step, step.size), params, pick_fit(step, params, "roughness"), cancel=step.cancel)


def _mask_picked(step: Step, params: MaskByPicks) -> FloatArray:
    return mask_by_picks(_spectra(step, step.size), params, pick_fit(step, params, "mask"), cancel=step.cancel)


def _glow_picked(step: Step, params: GlowByPicks) -> FloatArray:
    return step.input("color", step.size) * _mask_picked(step, params)[..., None] * np.float32(params.gain)


def _constant(step: Step, params: Constant) -> FloatArray:
    return constant_map(params.value, step.size)


_BY_PICKS = "from color, by picks"

_ROWS = (
    Operation("height_from_color", "from color", 1, ("color",), ("height",), HeightFromColor, ("edges",), 2, _height),
    Operation("normal_from_height", "from height", 1, ("height",), ("normal",), NormalFromHeight, ("rise", "edges"), 1, _normal),
    Operation(
        "occlusion_from_height",
        "from height",
        1,
        ("height",),
        ("occlusion",),
        OcclusionFromHeight,
        ("rise", "edges"),
        12,
        _occlusion,
    ),
    Operation("roughness_from_color", "from color", 1, ("color",), ("roughness",), RoughnessFromColor, ("edges",), 2, _roughness),
    Operation(
        "metallic_from_specular",
        "from diffuse and specular",
        1,
        ("diffuse", "specular"),
        ("base_color", "metallic", "reflectance"),
        MetallicFromSpecular,
        (),
        2,
        _metallic,
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
        _unshaded,
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
        _shaded,
    ),
    Operation(
        "height_from_normal", "from normal", 1, ("normal",), ("height",), HeightFromNormal, ("edges",), 6, _height_of_normal
    ),
    Operation(
        "curvature_from_normal", "from normal", 1, ("normal",), ("curvature",), CurvatureFromNormal, ("edges",), 2, _curvature
    ),
    Operation("blend_normals", "given, with detail", 1, ("base", "detail"), ("normal",), BlendNormals, (), 1, _blended),
    Operation("albedo_from_photo", "photo, evenly lit", 1, ("photo",), ("base_color",), AlbedoFromPhoto, ("edges",), 2, _albedo),
    Operation("height_by_picks", _BY_PICKS, 1, ("color",), ("height",), HeightByPicks, ("edges",), 3, _height_picked),
    Operation("roughness_by_picks", _BY_PICKS, 1, ("color",), ("roughness",), ByPicks, ("edges",), 3, _roughness_picked),
    Operation("metallic_by_picks", _BY_PICKS, 1, ("color",), ("metallic",), MaskByPicks, ("edges",), 3, _mask_picked),
    Operation("opacity_by_picks", _BY_PICKS, 1, ("color",), ("opacity",), MaskByPicks, ("edges",), 3, _mask_picked),
    Operation("emissive_by_picks", _BY_PICKS, 1, ("color",), ("emissive",), GlowByPicks, ("edges",), 3, _glow_picked),
    Operation("constant", "constant", 1, (), (), Constant, (), 0, _constant),
)
OPERATIONS = MappingProxyType({row.key: row for row in _ROWS})
