"""The table of operations: each joins a derivation's pure functions to the recipe."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..convert.shading import ShadedColor, color_without_occlusion
from ..convert.workflow import MetallicFromSpecular, MetallicMaps, metallic_from_specular
from ..derive import (
    Constant,
    HeightFromColor,
    NormalFromHeight,
    OcclusionFromHeight,
    RoughnessFromColor,
    constant_map,
    normal_from_height,
    occlusion_from_height,
)
from ..derive.height import lightness_spectrum, measure_height, shape_height
from ..derive.params import Params
from ..derive.roughness import measure_roughness, roughness_signals, shape_roughness
from ..filters import Spectrum
from ..raster import FloatArray, Size

if TYPE_CHECKING:
    from .evaluate import Step

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


def _constant(step: Step, params: Constant) -> FloatArray:
    return constant_map(params.value, step.size)


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
    Operation("constant", "constant", 1, (), (), Constant, (), 0, _constant),
)
OPERATIONS = MappingProxyType({row.key: row for row in _ROWS})
