"""How each operation is computed: it asks its step for inputs, for measures at the working size and for shared stages."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ..color import GrayName
from ..convert.baked_occlusion import ShadedColor, color_with_occlusion, color_without_occlusion
from ..convert.blending import BlendNormals, blend_normals
from ..convert.mixing import Mix, MixNormals, mixed, mixed_normals
from ..convert.workflow import MetallicFromSpecular, MetallicMaps, metallic_from_specular
from ..derive import (
    Constant,
    HeightFromColor,
    HeightFromNormal,
    NormalFromColor,
    NormalFromHeight,
    OcclusionFromHeight,
    RoughnessFromColor,
    constant_map,
    height_from_color,
    normal_from_height,
    occlusion_from_height,
)
from ..derive.albedo import AlbedoFromPhoto, albedo_from_photo
from ..derive.curvature import CurvatureFromNormal, leaning, shape_curvature
from ..derive.gray_height import HeightFromGray, height_from_gray
from ..derive.height import gray_spectrum, measure_height, shaded_spectrum, shape_height, spread_of, with_shading
from ..derive.integration import SlopeSpectra, height_from_slopes, slope_spectra
from ..derive.masks import (
    BledColor,
    GlowByRange,
    MaskByRange,
    MaskFromColor,
    Threshold,
    bled_color,
    glow_by_range,
    mask_by_range,
    mask_from_color,
    thresholded,
)
from ..derive.picks import (
    PLAIN,
    ByPicks,
    GlowByPicks,
    HeightByPicks,
    MaskByPicks,
    PickFit,
    Spectra,
    color_spectra,
    fit_picks,
    height_by_picks,
    mask_by_picks,
    pick_features,
    roughness_by_picks,
)
from ..derive.roughness import measure_roughness, roughness_signals, shape_roughness
from ..filters import Spectrum, resize
from ..raster import FloatArray, Size

if TYPE_CHECKING:
    from .evaluation import Step

_SHADE_RISE, _SHADE_FINEST = 0.05, 0.01  # of the relief a photo's own shade is guessed from; finer is grain, not shade


def _waves(step: Step, gray: GrayName, size: Size) -> Spectrum:
    def transform() -> Spectrum:
        return gray_spectrum(step.input("color", size), gray, step.facts.edges, cancel=step.cancel)

    return step.stage("waves/1", size, transform, reads=("color",), by=gray)


def _relief(step: Step, params: HeightFromColor, size: Size) -> Spectrum:
    """What height is read from: a gray, and the lamp's light and shade as far as they are asked for."""
    plain = _waves(step, params.gray, size)
    if params.shading == 0:
        return plain

    def along(size: Size) -> Spectrum:
        def transform() -> Spectrum:
            return shaded_spectrum(step.input("color", size), params.gray, params.light, step.facts.edges)

        return step.stage("along light/1", size, transform, reads=("color",), by=(params.gray, params.light))

    def spreads() -> tuple[float, float]:
        return spread_of(_waves(step, params.gray, step.working), params), spread_of(along(step.working), params)

    measured = step.stage("spreads/1", step.working, spreads, reads=("color",), by=(params.gray, params.light, params.detail))
    return with_shading(plain, along(size), params.shading, measured)


def height(step: Step, params: HeightFromColor) -> FloatArray:
    scale = step.stage(
        "height scale/1",
        step.working,
        lambda: measure_height(_relief(step, params, step.working), params),
        reads=("color",),
        by=(params.gray, params.detail, params.shading, params.light),
    )
    return shape_height(_relief(step, params, step.size), params, scale, cancel=step.cancel)


def height_of_gray(step: Step, params: HeightFromGray) -> FloatArray:
    return height_from_gray(step.input("gray", step.size), step.facts.edges, params=params)


def normal_of_color(step: Step, params: NormalFromColor) -> FloatArray:
    facts = step.facts
    return normal_from_height(height(step, params.of_color), facts.rise, facts.edges, params=params.of_relief, cancel=step.cancel)


def roughness(step: Step, params: RoughnessFromColor) -> FloatArray:
    def signals(size: Size) -> Any:
        def split() -> Any:
            return roughness_signals(_waves(step, params.gray, size))

        return step.stage("roughness signals/1", size, split, reads=("color",), by=params.gray)

    scale = step.stage(
        "roughness scale/1",
        step.working,
        lambda: measure_roughness(signals(step.working), params),
        reads=("color",),
        by=(params.gray, params.detail, params.invert),
    )
    return shape_roughness(signals(step.size), params, scale, cancel=step.cancel)


def normal(step: Step, params: NormalFromHeight) -> FloatArray:
    height, facts = step.input("height", step.size), step.facts
    return normal_from_height(height, facts.rise, facts.edges, params=params, cancel=step.cancel)


def occlusion(step: Step, params: OcclusionFromHeight) -> FloatArray:
    height, facts = step.input("height", step.size), step.facts
    return occlusion_from_height(height, facts.rise, facts.edges, params=params, cancel=step.cancel)


def metallic(step: Step, params: MetallicFromSpecular) -> MetallicMaps:
    diffuse, specular = step.input("diffuse", step.size), step.input("specular", step.size)
    return metallic_from_specular(diffuse, specular, params.reflectance, cancel=step.cancel)


def unshaded(step: Step, params: ShadedColor) -> FloatArray:
    return color_without_occlusion(step.input("color", step.size), step.input("occlusion", step.size), params.amount)


def shaded(step: Step, params: ShadedColor) -> FloatArray:
    return color_with_occlusion(step.input("own_color", step.size), step.input("occlusion", step.size), params.amount)


def height_of_normal(step: Step, params: HeightFromNormal) -> FloatArray:
    def slopes() -> SlopeSpectra:
        return slope_spectra(step.input("normal", step.size), step.facts.edges, level=params.level)

    found = step.stage("slopes/1", step.size, slopes, reads=("normal",), by=params.level)
    return height_from_slopes(found, params, cancel=step.cancel).height


def curvature(step: Step, params: CurvatureFromNormal) -> FloatArray:
    def lean() -> Any:
        return leaning(step.input("normal", step.size), step.facts.edges)

    normals = step.stage("leaning/1", step.size, lean, reads=("normal",))
    return shape_curvature(normals, params)


def blended(step: Step, params: BlendNormals) -> FloatArray:
    base, detail = step.input("base", step.size), step.input("detail", step.size)
    mask = _mask(step)
    shares = 1 - mask if mask is not None and params.invert else mask
    return blend_normals(base, detail, params.amount, way=params.way, mask=shares, cancel=step.cancel)


def albedo(step: Step, params: AlbedoFromPhoto) -> FloatArray:
    edges = step.facts.edges
    shade = resize(_own_shade(step), step.size, edges) if params.lift > 0 else None
    return albedo_from_photo(step.input("photo", step.size), edges, shade, params=params, cancel=step.cancel)


def _own_shade(step: Step) -> FloatArray:
    """Occlusion of the relief that a photo shows, at the working size."""

    def shade() -> FloatArray:
        edges = step.facts.edges
        relief = height_from_color(step.input("photo", step.working), edges=edges, cancel=step.cancel)
        params = OcclusionFromHeight(finest=_SHADE_FINEST)
        return occlusion_from_height(relief, _SHADE_RISE, edges, params=params, cancel=step.cancel)

    return step.stage("own shade/1", step.working, shade, reads=("photo",))


def _spectra(step: Step, size: Size) -> Spectra:
    def transform() -> Spectra:
        return color_spectra(step.input("color", size), step.facts.edges)

    return step.stage("color spectra/1", size, transform, reads=("color",))


def _spectra_of(step: Step, params: ByPicks, size: Size) -> Spectra:
    """Spectra of the three color axes, and of the relief along the light where the picks are told of a lamp."""
    if not isinstance(params, HeightByPicks) or not params.is_lit:
        return _spectra(step, size)

    def along() -> Spectrum:
        return shaded_spectrum(step.input("color", size), "lightness", params.light, step.facts.edges)

    return (*_spectra(step, size), step.stage("along light/1", size, along, reads=("color",), by=("lightness", params.light)))


def pick_fit(step: Step, params: ByPicks, plain: str) -> PickFit:
    """The fit of a node's picks, at the working size."""
    size = step.working
    lamp = params.light if isinstance(params, HeightByPicks) and params.is_lit else None

    def features() -> Any:
        return pick_features(_spectra_of(step, params, size))

    def fit() -> PickFit:
        return fit_picks(step.stage("pick features/1", size, features, reads=("color",), by=lamp), params.picks, PLAIN[plain])

    return step.stage("pick fit/1", size, fit, reads=("color",), by=(plain, lamp, params.picks))


def height_picked(step: Step, params: HeightByPicks) -> FloatArray:
    spectra, fit = _spectra_of(step, params, step.size), pick_fit(step, params, "height")
    return height_by_picks(spectra, params, fit, cancel=step.cancel)


def roughness_picked(step: Step, params: ByPicks) -> FloatArray:
    return roughness_by_picks(_spectra(step, step.size), params, pick_fit(step, params, "roughness"), cancel=step.cancel)


def mask_picked(step: Step, params: MaskByPicks) -> FloatArray:
    return mask_by_picks(_spectra(step, step.size), params, pick_fit(step, params, "mask"), cancel=step.cancel)


def glow_picked(step: Step, params: GlowByPicks) -> FloatArray:
    return step.input("color", step.size) * mask_picked(step, params)[..., None] * np.float32(params.gain)


def constant(step: Step, params: Constant) -> FloatArray:
    return constant_map(params.value, step.size)


def opacity_of_color(step: Step, params: MaskFromColor) -> FloatArray:
    return mask_from_color(step.input("own_color", step.size), params, cancel=step.cancel)


def opacity_cut(step: Step, params: Threshold) -> FloatArray:
    return thresholded(step.input("own_opacity", step.size), params)


def in_range(step: Step, params: MaskByRange) -> FloatArray:
    return mask_by_range(step.input("color", step.size), step.facts.edges, params, cancel=step.cancel)


def own_in_range(step: Step, params: MaskByRange) -> FloatArray:
    return mask_by_range(step.input("own_color", step.size), step.facts.edges, params, cancel=step.cancel)


def glow_in_range(step: Step, params: GlowByRange) -> FloatArray:
    return glow_by_range(step.input("color", step.size), step.facts.edges, params, cancel=step.cancel)


def bled(step: Step, params: BledColor) -> FloatArray:
    color, opacity = step.input("own_color", step.size), step.input("opacity", step.size)
    return bled_color(color, opacity, step.facts.edges, params=params)


def mix(step: Step, params: Mix) -> FloatArray:
    return mixed(step.input("own", step.size), step.input("other", step.size), params, _mask(step))


def mix_normals(step: Step, params: MixNormals) -> FloatArray:
    return mixed_normals(step.input("own", step.size), step.input("other", step.size), params, _mask(step))


def _mask(step: Step) -> FloatArray | None:
    return step.input("mask", step.size) if "mask" in step.node.inputs else None
