"""Changing where a master comes from, with the facts that follow from it."""

from __future__ import annotations

from ..core.derive import HeightFromNormal, height_from_normal
from ..core.errors import RecipeInvalid
from ..core.recipe import Evaluation, Recipe, with_origin

__all__ = ["derived_anew"]

_LEAST_RISE = 1e-4


def derived_anew(evaluation: Evaluation, master: str, origin: str) -> Recipe:
    """The evaluation's recipe with ``master`` from ``origin``.

    A height integrated from normals brings its own rise: the set takes it, so that what is derived from the height leans as
    the normals do. Raises RecipeInvalid when that cannot be.
    """
    recipe = with_origin(evaluation.recipe, master, origin)
    if origin != "op:height_from_normal":
        return recipe
    normal = evaluation.value("master:normal", evaluation.working)
    rise = height_from_normal(normal, recipe.facts.edges, params=HeightFromNormal()).rise
    if rise < _LEAST_RISE:
        raise RecipeInvalid("the normals are flat, so there is no height in them.", master=master)
    if rise > 1:
        raise RecipeInvalid(
            f"the normals rise {rise * 100:.3g} % of the width, and at most 100 % is possible. They may be scaled wrongly.",
            master=master,
        )
    told = {"rise": rise, "rise_from": "told", "rise_fit": None}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=told)})
