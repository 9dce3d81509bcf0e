"""Preparing a set's pictures: steps are data; what has to be looked at first is asked here, and becomes one."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter

from ...core.prepare.decision import Repeat
from ...core.prepare.spots import Spot
from ...core.prepare.tile import Asked
from ...core.prepare.variant import Variant
from ...core.recipe import Recipe, check_recipe, repeat_for, spots_for, steps_by_pattern, variant_for, with_steps
from ..answers import changed_set
from ..models.preparing import PatternRequest, RepeatRequest, SpotRequest, StepsDraft, StepsWrite, VariantRequest
from ..models.sets import TextureSet
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.put("/sets/{set_id}/steps")
def write_steps(state: State, set_id: UUID, request: StepsWrite) -> TextureSet:
    """Let a set's pictures go through other steps, as one step of its history."""
    return changed_set(state, set_id, request.expects, lambda recipe: with_steps(recipe, request.steps))


@router.post("/prepared")
def prepare(request: StepsDraft) -> Recipe:
    """A recipe with other steps, its size, edges and rise as they are then; nothing is kept."""
    check_recipe(request.recipe)
    return with_steps(request.recipe, request.steps)


@router.post("/repeats")
def decide_repeat(state: State, request: RepeatRequest) -> Repeat:
    """Decide how a recipe's pictures are made to repeat; nothing is kept."""
    check_recipe(request.recipe)
    told = request.model_dump(include={"x", "y", "sides", "overlap", "period", "is_quick", "is_square", "evens"})
    return repeat_for(state.evaluation(request.recipe, None), Asked(**told, guide=request.guide), request.at)


@router.post("/patterns")
def follow_pattern(state: State, request: PatternRequest) -> Recipe:
    """A recipe that repeats by its pictures' own pattern, turned straight first where it has to be; nothing is kept."""
    check_recipe(request.recipe)
    return with_steps(request.recipe, steps_by_pattern(state.evaluation(request.recipe, None), request.at))


@router.post("/variants")
def decide_variant(state: State, request: VariantRequest) -> Variant:
    """Decide which pieces make another picture of a recipe's; nothing is kept."""
    check_recipe(request.recipe)
    return variant_for(state.evaluation(request.recipe, None), request.seed, request.cells, request.at)


@router.post("/spots")
def find_places(state: State, request: SpotRequest) -> list[Spot]:
    """The places that a spot is best filled from, the best first; nothing is kept."""
    check_recipe(request.recipe)
    spot = (request.x, request.y, request.across, request.down)
    told = {"path": request.path, "brush": request.brush}
    return spots_for(state.evaluation(request.recipe, None), spot, request.at, **told)
