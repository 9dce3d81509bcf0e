"""What one click mends: a finding's id to the next recipe. Undone like any other step."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

from ..errors import RecipeInvalid
from ..findings import FINDINGS
from ..intake.workflow import with_specular_color, with_specular_level
from ..recipe.model import Recipe, Source
from ..recipe.origins import ONE_VALUE, with_origin
from ..recipe.refs import master_ref, node_ref, source_ref
from ..recipe.steps import new_node, older_ways, updated, with_params

__all__ = ["FIXES", "LIGHT_IS_HIGH", "left", "mended"]

# Ways from a color to a height by which what is light stands up, each with the parameter that turns it over.
LIGHT_IS_HIGH = MappingProxyType({"height_from_color": "invert", "height_from_grooves": "are_light"})


def _source_of(recipe: Recipe, master: str) -> tuple[str, Source]:
    found = recipe.source_of(master)
    if found is None:
        raise RecipeInvalid(f"{master} does not come from a file, so there is nothing to mend.", master=master)
    return found


def _with_source(recipe: Recipe, name: str, source: Source) -> Recipe:
    return recipe.model_copy(update={"sources": {**recipe.sources, name: source}})


def _turn_green(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "normal")
    return _with_source(recipe, name, source.model_copy(update={"green": "up" if source.green == "down" else "down"}))


def _turn_red(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "normal")
    return _with_source(recipe, name, source.model_copy(update={"red": "left" if source.red == "right" else "right"}))


def _exchange_axes(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "normal")
    turned = {"RGB": "GRB", "GRB": "RGB"}
    reads = {turned[letters] if key == "normal" else letters: key for letters, key in source.reads.items()}
    return _with_source(recipe, name, source.model_copy(update={"reads": reads}))


def _unit_length(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "normal")
    return _with_source(recipe, name, source.model_copy(update={"unit_length": True}))


def _black_is_flat(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "normal")
    return _with_source(recipe, name, source.model_copy(update={"black_is_flat": True}))


def _as_level(recipe: Recipe, master: str) -> Recipe:
    return with_specular_level(recipe).with_answer("specular-as-level")


def _as_specular_color(recipe: Recipe, master: str) -> Recipe:
    return with_specular_color(recipe)


def _smooth_steps(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "height")
    return _with_source(recipe, name, source.model_copy(update={"smooth_steps": True}))


def _turn_height(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "height")
    letters = source.letters_of("height")
    low, high = source.spans.get(letters, (0.0, 1.0))
    return _with_source(recipe, name, source.model_copy(update={"spans": {**source.spans, letters: (high, low)}}))


def _read_as_gloss(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, "roughness")
    now, then = ("gloss", "roughness") if "gloss" in source.reads.values() else ("roughness", "gloss")
    return _read_as(recipe, name, now, then)


def _read_as(recipe: Recipe, name: str, now: str, then: str) -> Recipe:
    """The recipe with what source ``name`` holds as ``now`` read as ``then``, wherever it is used."""
    source = recipe.sources[name]
    reads = {letters: then if key == now else key for letters, key in source.reads.items()}
    changed = _with_source(recipe, name, source.model_copy(update={"reads": reads}))
    before, after = source_ref(name, now), source_ref(name, then)
    masters = {key: after if ref == before else ref for key, ref in recipe.masters.items()}
    return changed.model_copy(update={"masters": masters})


def _resize(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, master)
    return _with_source(recipe, name, source.model_copy(update={"fit": "stretch"}))


def _crop(recipe: Recipe, master: str) -> Recipe:
    name, source = _source_of(recipe, master)
    return _with_source(recipe, name, source.model_copy(update={"fit": "crop"}))


def _make_grooves(recipe: Recipe, master: str) -> Recipe:
    """Read light lines as grooves, instead of as ridges."""
    made = recipe.node_of("height")
    if made is None or made[1].op not in LIGHT_IS_HIGH:
        raise RecipeInvalid("the height is not read from a color, so no line of one is a groove.", master="height")
    grooved = with_origin(recipe, "height", "op:height_from_grooves")
    name, node = grooved.node_of("height") or made
    return with_params(grooved, name, {**node.params, LIGHT_IS_HIGH[node.op]: True})


def _only_color(recipe: Recipe, master: str) -> Recipe:
    """Let what the height was read from be color alone, of a surface that is flat."""
    made = recipe.node_of("height")
    if made is None or made[1].op not in LIGHT_IS_HIGH:
        raise RecipeInvalid("the height is not read from a color.", master="height")
    return with_origin(recipe, "height", ONE_VALUE)


def _as_photographed(recipe: Recipe, master: str) -> Recipe:
    """Let the photo be the base color as it is; that its light is uneven is known then."""
    made = recipe.node_of("base_color")
    if made is None or made[1].op != "albedo_from_photo":
        raise RecipeInvalid("the base color is no evened photo.", master="base_color")
    return with_origin(recipe, "base_color", made[1].inputs["photo"]).with_answer("uneven-light")


def _even_out(recipe: Recipe, master: str) -> Recipe:
    """Take the uneven light out of the photo that is the base color."""
    return with_origin(recipe, "base_color", "op:albedo_from_photo").with_answer("light-evened")


def _turn_roughness(recipe: Recipe, master: str) -> Recipe:
    made = recipe.node_of("roughness")
    if made is None or made[1].op != "roughness_from_color":
        raise RecipeInvalid("the roughness is not read from a color.", master="roughness")
    name, node = made
    return with_params(recipe, name, {**node.params, "invert": not node.params.get("invert", False)})


def _take_occlusion_out(recipe: Recipe, master: str) -> Recipe:
    """Read the color as one that has occlusion in it, and let a node take that out."""
    name, source = _source_of(recipe, "base_color")
    now = recipe.masters["base_color"].part
    reads = {letters: "shaded_color" if key == now else key for letters, key in source.reads.items()}
    changed = _with_source(recipe, name, source.model_copy(update={"reads": reads}))
    inputs = {"color": source_ref(name, "shaded_color"), "occlusion": master_ref("occlusion")}
    return changed.model_copy(
        update={
            "nodes": {**recipe.nodes, "unshade": new_node("color_without_occlusion", inputs)},
            "masters": {**recipe.masters, "base_color": node_ref("unshade")},
        }
    )


def _leave_out(recipe: Recipe, master: str) -> Recipe:
    if master not in recipe.masters:
        raise RecipeInvalid(f"{master} is not in the set, so it cannot be left out.", master=master)
    return recipe.model_copy(update={"masters": {key: ref for key, ref in recipe.masters.items() if key != master}})


def _update(recipe: Recipe, master: str) -> Recipe:
    made = recipe.node_of(master)
    if made is None or made[0] not in older_ways(recipe):
        raise RecipeInvalid(f"{master} is not made by an older way, so there is nothing to update.", master=master)
    return updated(recipe, made[0])


# What the recipe alone is enough for; measuring a rise and taking newer files need the pixels and the folder.
FIXES: Mapping[str, Callable[[Recipe, str], Recipe]] = MappingProxyType(
    {
        "green-misread": _turn_green,
        "normal-mirrored": _turn_red,
        "axes-swapped": _exchange_axes,
        "normal-length": _unit_length,
        "normal-black": _black_is_flat,
        "half-metal": _as_level,
        "specular-as-level": _as_specular_color,
        "height-against-normal": _turn_height,
        "mirror-like": _read_as_gloss,
        "shine-contradicts": _read_as_gloss,
        "light-in-color": _take_occlusion_out,
        "size-differs": _resize,
        "aspect-differs": _crop,
        "same-picture": _leave_out,
        "light-lines": _make_grooves,
        "relief-or-color": _only_color,
        "light-evened": _as_photographed,
        "uneven-light": _even_out,
        "roughness-guessed": _turn_roughness,
        "older-way": _update,
        "stepped-height": _smooth_steps,
    }
)


def mended(recipe: Recipe, finding_id: str, master: str = "") -> Recipe:
    """The recipe after the fix of a finding about ``master``. Raises RecipeInvalid when there is no fix, or nothing to mend."""
    if finding_id not in FIXES:
        raise RecipeInvalid(f"there is no fix for {finding_id!r}; there are fixes for {', '.join(FIXES)}.")
    done = FIXES[finding_id](recipe, master)
    return done.with_answer(finding_id) if FINDINGS[finding_id].leave is not None else done


def left(recipe: Recipe, finding_id: str) -> Recipe:
    """The recipe in which a question is answered by leaving all as it is. Raises RecipeInvalid for what is no question."""
    if finding_id not in FINDINGS or FINDINGS[finding_id].leave is None:
        asked = (key for key, row in FINDINGS.items() if row.leave is not None)
        raise RecipeInvalid(f"{finding_id!r} is no question; there are {', '.join(asked)}.")
    return recipe.with_answer(finding_id)
