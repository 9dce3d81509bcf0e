"""Moving and resizing a set: every map at once, one step of its history each."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter

from ...core.recipe import Recipe, with_size, with_step
from ...store import sets
from ..models import MoveRequest, ResizeRequest, TextureSet
from ..state import AppState, State
from .projects import set_answer

__all__ = ["router"]

router = APIRouter()
_SAYS = {"crop": "Cropped", "turn": "Turned", "mirror": "Mirrored", "offset": "Offset"}


@router.post("/sets/{set_id}/moves")
def move(state: State, set_id: UUID, request: MoveRequest) -> TextureSet:
    """Crop, turn, mirror or offset a set."""
    return _written(state, set_id, request.expects, lambda recipe: with_step(recipe, request.move), _SAYS[request.move.kind])


@router.post("/sets/{set_id}/size")
def size(state: State, set_id: UUID, request: ResizeRequest) -> TextureSet:
    """Give a set another size; its sources stay as they are."""
    return _written(state, set_id, request.expects, lambda recipe: with_size(recipe, request.size), "Resized")


def _written(state: AppState, set_id: UUID, expects: int, change, note: str) -> TextureSet:
    with state.pool.connection() as conn:
        recipe: Recipe = change(sets.get_set(conn, set_id)["recipe"])
        sets.write_recipe(conn, set_id, expects=expects, recipe=recipe, note=note)
        return set_answer(sets.get_set(conn, set_id))
