"""What a set is before anybody has touched it: even light, no noise in the relief, and a rise that its maps say or deserve."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any

from ..derive.grain import without_noise
from ..derive.grooves import carries_lines
from ..derive.height import HeightFromColor, gray_spectrum
from ..derive.split import background_of, light_split
from ..raster import Edges, Rgb
from ..recipe import Evaluation, Recipe, master_ref, params_of, photo_ref, source_ref, with_origin
from ..recipe.steps import with_params
from .facts import light_of, noise_of, stands_alone, with_known_rise
from .workflow import HALF_METAL, half_metal_of, with_specular_level

__all__ = ["first_look", "with_calm_detail", "with_own_split"]


def first_look(evaluation: Evaluation) -> Recipe:
    """The recipe of a set that was just taken in, with what only its pictures say.

    A specular that cannot be what colors reflect is a level; what stands alone on a plain ground repeats nowhere; a photo whose
    light is uneven is evened out; dark lines that carry it are read as grooves; sizes of its detail that are mostly noise are
    left out of the relief; and the rise is measured on the files, or fitted to a derived height. A set of maps alone keeps them
    all as they are. It is found once for the same recipe.
    """
    recipe = evaluation.recipe.model_dump_json()
    return evaluation.made_once(f"first look {hashlib.sha256(recipe.encode()).hexdigest()}", lambda: _looked(evaluation))


def _looked(evaluation: Evaluation) -> Recipe:
    for change in (_with_levels, _ending_alone, _with_even_light, _with_grooves, with_calm_detail, with_known_rise):
        evaluation = evaluation.of(change(evaluation))
    return evaluation.recipe


def _with_levels(evaluation: Evaluation) -> Recipe:
    """A specular that would make half metal of much of the set says how strong highlights are, as older sets have it."""
    return with_specular_level(evaluation.recipe) if half_metal_of(evaluation) > HALF_METAL else evaluation.recipe


def _ending_alone(evaluation: Evaluation) -> Recipe:
    recipe, photo = evaluation.recipe, photo_ref(evaluation.recipe)
    is_alone = photo is not None and any(stands_alone(one, photo) for one in evaluation.each if one.has(photo))
    return _ending(recipe) if is_alone else recipe


def _ending(recipe: Recipe) -> Recipe:
    """The recipe whose pictures do not repeat, whatever their borders let guess; as it is where somebody has told."""
    if recipe.facts.edges_from == "told":
        return recipe
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"edges": Edges(x="mirror", y="mirror")})})


def _with_even_light(evaluation: Evaluation) -> Recipe:
    """What is lit unevenly does not repeat."""
    recipe, photo = evaluation.recipe, photo_ref(evaluation.recipe)
    lights = [light_of(one, photo) for one in evaluation.each if one.has(photo)] if photo is not None else []
    uneven = next((light for light in lights if light.stands_out), None)
    if uneven is None:
        return recipe
    evened = with_origin(_ending(recipe), "base_color", "op:albedo_from_photo")
    made = evened.node_of("base_color")
    return evened if made is None else with_params(evened, made[0], {**made[1].params, "falloff": uneven.falloff})


def _with_grooves(evaluation: Evaluation) -> Recipe:
    recipe, made = evaluation.recipe, evaluation.recipe.node_of("height")
    if made is None or made[1].op != "height_from_color" or made[1].params:
        return recipe
    color, edges = master_ref("base_color"), recipe.facts.edges
    seen = [gray_spectrum(one.value(color, one.working), edges, gray="lightness") for one in evaluation.each if one.has(color)]
    return with_origin(recipe, "height", "op:height_from_grooves") if seen and all(map(carries_lines, seen)) else recipe


def with_calm_detail(evaluation: Evaluation) -> Recipe:
    """The recipe whose height from color leaves out the sizes of detail that are mostly noise in the photo below it."""
    recipe, made = evaluation.recipe, evaluation.recipe.node_of("height")
    photos = [source_ref(name, "photo") for name, source in recipe.sources.items() if "photo" in source.reads.values()]
    params = None if made is None else params_of(made[1])
    if made is None or not isinstance(params, HeightFromColor) or not photos:
        return recipe
    (name, node), calm = made, tuple(params.detail)
    for one in evaluation.each:
        for photo in filter(one.has, photos):
            calm = without_noise(calm, noise_of(one, photo))
    return recipe if calm == params.detail else with_params(recipe, name, {**node.params, "detail": calm})


def with_own_split(evaluation: Evaluation, op: str) -> Recipe:
    """The recipe whose opacity, just made by ``op``, starts from the picture's own split: its background, or a light and a dark
    group. As it is where the picture has none, or somebody has told a parameter.
    """
    recipe, made = evaluation.recipe, evaluation.recipe.node_of("opacity")
    if made is None or made[1].op != op or made[1].params or op not in _SPLITS:
        return recipe
    name, node = made
    color = node.inputs["own_color"]
    for one in evaluation.each:
        told = _SPLITS[op](one.value(color, one.working)) if one.has(color) else None
        if told is not None:
            return with_params(recipe, name, told)
    return recipe


def _around(color: Rgb) -> dict[str, Any] | None:
    found = background_of(color)
    if found is None:
        return None
    told = {"color": found.color, "tolerance": found.tolerance, "softness": _CRISP, "invert": True}
    return {**told, "around": True} if found.is_around else told


def _between(color: Rgb) -> dict[str, Any] | None:
    found = light_split(color)
    return None if found is None else {"threshold": found.threshold, "softness": _CRISP}


_CRISP = 0.04  # an edge, not a veil
_SPLITS: Mapping[str, Callable[[Rgb], dict[str, Any] | None]] = MappingProxyType(
    {"opacity_by_range": _around, "opacity_from_color": _between}
)
