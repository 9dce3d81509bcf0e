"""The versions of a set: what each step did, and going back to any of them."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter

from ...core.recipe import Recipe, Ways, changes, ways_of, with_ways
from ...store import sets
from ..models import TextureSet, Version, VersionName, VersionRequest, WaysRequest
from ..state import State
from .projects import set_answer

__all__ = ["router"]

router = APIRouter()


@router.get("/sets/{set_id}/versions")
def versions(state: State, set_id: UUID) -> list[Version]:
    with state.pool.connection() as conn:
        return [Version(**row) for row in sets.list_versions(conn, set_id)]


@router.get("/sets/{set_id}/versions/{version}")
def version(state: State, set_id: UUID, version: int) -> Recipe:
    with state.pool.connection() as conn:
        return sets.version_recipe(conn, set_id, version)


@router.put("/sets/{set_id}/versions/{version}/name", status_code=204)
def name(state: State, set_id: UUID, version: int, request: VersionName) -> None:
    with state.pool.connection() as conn:
        sets.name_version(conn, set_id, version, request.name or None)


@router.get("/sets/{set_id}/ways")
def ways(state: State, set_id: UUID) -> Ways:
    """How this set is made, to keep as a file or to give to another set."""
    with state.pool.connection() as conn:
        return ways_of(sets.get_set(conn, set_id)["recipe"])


@router.post("/sets/{set_id}/ways")
def take_ways(state: State, set_id: UUID, request: WaysRequest) -> TextureSet:
    """Make this set as another was made, as one step of its history; given maps stay."""
    with state.pool.connection() as conn:
        before = sets.get_set(conn, set_id)["recipe"]
        recipe, _ = with_ways(before, request.ways)
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=recipe, note=changes(before, recipe))
        return set_answer(sets.get_set(conn, set_id))


@router.post("/sets/{set_id}/head")
def go_to(state: State, set_id: UUID, request: VersionRequest) -> TextureSet:
    """Go to any version; the way back stays open."""
    with state.pool.connection() as conn:
        sets.move_to(conn, set_id, expects=request.expects, version=request.version)
        return set_answer(sets.get_set(conn, set_id))
