"""Bakes: maps for a set from the meshes that its recipe names, made behind the screen."""

from __future__ import annotations

from dataclasses import asdict
from uuid import UUID

from fastapi import APIRouter

from ...core.bake.entering import size_of_bake
from ...core.baked_maps import BAKED
from ...core.errors import RecipeInvalid
from ...store import bakes, sets
from ...store.bakes import BakeRow
from ..models.meshes import BakeableMap, BakeAnswer, BakeRequest
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/bakeable")
def bakeable() -> list[BakeableMap]:
    """Every map that can be baked."""
    return [BakeableMap(map=key, **row._asdict()) for key, row in BAKED.items()]


@router.post("/sets/{set_id}/bakes", status_code=202)
def bake(state: State, set_id: UUID, request: BakeRequest) -> BakeAnswer:
    """Begin to bake; a set has one bake at a time."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
        if recipe.worn is None:
            raise RecipeInvalid("no mesh wears this set. Bring a low mesh first.")
        if bakes.going_bakes(conn, set_id):
            raise RecipeInvalid("a bake of this set is under way. Wait for it, or stop it first.")
        worn = recipe.worn if request.maps is None else recipe.worn.model_copy(update={"maps": tuple(request.maps)})
        told = {"set_id": set_id, "worn": worn, "size": size_of_bake(recipe), "is_trial": request.is_trial}
        bake_id = bakes.create_bake(conn, **told)
    state.baker.start(bake_id)
    with state.pool.connection() as conn:
        return _answer(bakes.get_bake(conn, bake_id))


@router.get("/sets/{set_id}/bake")
def latest(state: State, set_id: UUID) -> BakeAnswer | None:
    """The newest bake of a set, nothing where there was none."""
    state.baker.keep_alive()
    with state.pool.connection() as conn:
        row = bakes.latest_bake(conn, set_id)
    return None if row is None else _answer(row)


@router.post("/bakes/{bake_id}/cancel", status_code=202)
def cancel(state: State, bake_id: UUID) -> BakeAnswer:
    """Stop a bake; what it has not put into the set yet is dropped."""
    state.baker.cancel(bake_id)
    with state.pool.connection() as conn:
        return _answer(bakes.get_bake(conn, bake_id))


def _answer(row: BakeRow) -> BakeAnswer:
    return BakeAnswer.model_validate({name: value for name, value in asdict(row).items() if name in BakeAnswer.model_fields})
