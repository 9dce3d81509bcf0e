"""A set as a person works on it: where a master comes from, what is found wrong, and what one press does about it."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterator
from itertools import chain

from ..core.checks import photo as of_photo
from ..core.checks import recipe as of_recipe
from ..core.checks import tiles
from ..core.checks.fixes import LIGHT_IS_HIGH, mended
from ..core.checks.maps import assay_maps
from ..core.checks.project import with_density
from ..core.derive import HeightFromNormal, height_from_normal
from ..core.errors import RecipeInvalid
from ..core.findings import Finding
from ..core.intake.facts import lamp_of, with_fitted_rise, with_measured_rise
from ..core.intake.first_look import with_calm_detail, with_own_split
from ..core.recipe import Evaluation, Recipe, master_ref, origin_of, starts, with_origin, with_repeat, with_start
from ..core.recipe.steps import with_params

__all__ = ["assay_set", "derived_anew", "fixed", "picked_anew", "started", "with_rise_measured"]

_LEAST_RISE = 1e-4
_SHADED = 0.7  # of slopes by the lamp: the rest is by tones, which say more where a flank is dark all over
_LIT_DETAIL = (0.0, 0.3, 1.0, 0.8, 0.4)  # slopes add up over a distance: broad tones would become hills


def derived_anew(evaluation: Evaluation, master: str, origin: str) -> Recipe:
    """The evaluation's recipe with ``master`` from ``origin``.

    A height integrated from normals brings its own rise: the set takes it, so that what is derived from the height leans as
    the normals do. Another derived height gets the rise at which it leans as usual, where nobody has told one. An opacity from
    the color starts from the picture's own split. Raises RecipeInvalid when that cannot be.
    """
    recipe = with_origin(evaluation.recipe, master, origin)
    if master == "opacity":
        return with_own_split(evaluation.of(recipe), origin.removeprefix("op:"))
    if origin != "op:height_from_normal":
        is_relief = master == "height" and origin.startswith("op:") and _is_untold(recipe)
        return with_fitted_rise(evaluation.of(recipe)) if is_relief else recipe
    normals = [one.value(master_ref("normal"), one.working) for one in evaluation.each if one.has(master_ref("normal"))]
    rise = max(height_from_normal(n, recipe.facts.edges, params=HeightFromNormal()).rise for n in normals)
    if rise < _LEAST_RISE:
        raise RecipeInvalid("the normals are flat, so there is no height in them.", master=master)
    if rise > 1:
        raise RecipeInvalid(
            f"the normals rise {rise * 100:.3g} % of the width, and at most 100 % is possible. They may be scaled wrongly.",
            master=master,
        )
    told = {"rise": rise, "rise_from": "told", "rise_fit": None}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=told)})


def picked_anew(evaluation: Evaluation, before: Recipe) -> Recipe:
    """The evaluation's recipe; where the picks of its height are others than ``before`` and nobody has told a rise, with the rise
    at which what they make of it leans as usual.

    A fitted rise that came of the same picks is the one of ``before``: who edits on at once may not know it yet.
    """
    recipe = evaluation.recipe
    made, was = recipe.node_of("height"), before.node_of("height")
    if made is None or was is None or "picks" not in made[1].params or not _is_untold(recipe):
        return recipe
    if made[1].params["picks"] != was[1].params.get("picks"):
        return with_fitted_rise(evaluation)
    facts = recipe.facts.model_copy(update={"rise": before.facts.rise})
    is_same = recipe.facts.rise_from == before.facts.rise_from == "fitted"
    return recipe.model_copy(update={"facts": facts}) if is_same else recipe


def _is_untold(recipe: Recipe) -> bool:
    return recipe.facts.rise_from in ("assumed", "fitted", "baked")  # a baked one is that of the baked height alone


def started(evaluation: Evaluation, key: str, only: str | None = None) -> Recipe:
    """The evaluation's recipe started as a kind of material, or its master ``only``; a derived relief leans as that kind does.

    Raises UnknownKey, or RecipeInvalid where there is nothing to start from.
    """
    recipe = with_calm_detail(evaluation.of(with_start(evaluation.recipe, key, only)))
    if only not in (None, "height") or origin_of(recipe, "height") in ("given", "absent"):
        return recipe
    return with_fitted_rise(evaluation.of(recipe), starts()[key].tilt)


def assay_set(evaluation: Evaluation) -> list[tuple[int | None, Finding]]:
    """All findings on a set, of its recipe and of its maps, each with the first tile that it was found on, if it has tiles; none
    that the eye has answered. Looked for once: a recipe names its files by what is in them, so that it finds the same again.
    """
    recipe = hashlib.sha256(evaluation.recipe.model_dump_json().encode()).hexdigest()
    return list(evaluation.cache.kept(f"found on {recipe}", lambda: tuple(_found(evaluation)), evaluation.cancel))


def _found(evaluation: Evaluation) -> list[tuple[int | None, Finding]]:
    of_all = ((None, found) for check in tiles.CHECKS for found in check(evaluation))
    of_each = ((one.tile, found) for one in evaluation.each for found in _assayed(one))
    settled = evaluation.recipe.answered
    return tiles.said_once(row for row in chain(of_all, of_each) if row[1].id not in settled)


def _assayed(evaluation: Evaluation) -> Iterator[Finding]:
    yield from (found for check in (*of_recipe.CHECKS, *of_photo.CHECKS) for found in check(evaluation))
    yield from (marked.finding for marked in assay_maps(evaluation))


def fixed(evaluation: Evaluation, finding_id: str, master: str, others: Callable[[], Collection[Recipe]]) -> Recipe:
    """The recipe after the fix of a finding about ``master``; ``others`` gives the other sets of its project.

    Raises RecipeInvalid where there is nothing to mend.
    """
    if finding_id == "density-differs":
        return with_density(evaluation.recipe, others())
    if finding_id == "rise-measurable":
        return with_rise_measured(evaluation)
    if finding_id == "does-not-repeat":
        return with_repeat(evaluation)
    if finding_id == "plain-ground":
        return derived_anew(evaluation, "opacity", "op:opacity_by_range")
    if finding_id == "lit-from-a-side":
        return _by_its_lamp(evaluation).with_answer(finding_id)
    recipe = mended(evaluation.recipe, finding_id, master)
    is_other_relief = recipe.masters.get("height") != evaluation.recipe.masters.get("height")
    return with_fitted_rise(evaluation.of(recipe)) if is_other_relief and _is_untold(recipe) else recipe


def _by_its_lamp(evaluation: Evaluation) -> Recipe:
    """The recipe whose height is read from the light and shade of the lamp that its color shows."""
    recipe, color = evaluation.recipe, master_ref("base_color")
    lamps = (lamp_of(one) for one in evaluation.each if one.has(color))
    lamp = next((lamp for lamp in lamps if lamp is not None), None)
    made = recipe.node_of("height")
    if lamp is None or made is None or made[1].op not in LIGHT_IS_HIGH:
        raise RecipeInvalid("no lamp shows in the color that the height is read from.", master="height")
    if made[1].op != "height_from_color":
        recipe = with_origin(recipe, "height", "op:height_from_color")
    name, node = recipe.node_of("height") or made
    told = {"detail": _LIT_DETAIL, **node.params, "shading": _SHADED, "light": lamp}
    recipe = with_calm_detail(evaluation.of(with_params(recipe, name, told)))
    return with_fitted_rise(evaluation.of(recipe)) if _is_untold(recipe) else recipe


def with_rise_measured(evaluation: Evaluation) -> Recipe:
    """The recipe with the rise that its normals say of its height, whatever was told. Raises RecipeInvalid where they do not."""
    facts = evaluation.recipe.facts.model_copy(update={"rise_from": "assumed", "rise_fit": None})
    asked = evaluation.of(evaluation.recipe.model_copy(update={"facts": facts}))
    recipe = with_measured_rise(asked)
    if recipe.facts.rise_from != "measured":
        raise RecipeInvalid("the rise cannot be measured: it takes a height and normals from files that fit each other.")
    return recipe
