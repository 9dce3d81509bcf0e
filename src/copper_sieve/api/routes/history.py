"""The versions of a set: what each step did, going back to any of them, and steps taken over from elsewhere."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Response

from ...core.recipe import Recipe, Start, starts, told
from ...store import sets
from ...work.sets import started
from ..answers import changed_set, set_answer
from ..models.sets import StartRequest, TextureSet, Version, VersionName, VersionRequest
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/sets/{set_id}/versions")
def versions(state: State, set_id: UUID) -> list[Version]:
    """The newest steps of a set, newest first."""
    with state.pool.connection() as conn:
        return [Version.model_validate(row) for row in sets.list_versions(conn, set_id)]


@router.get("/sets/{set_id}/versions/{version}")
def version(state: State, set_id: UUID, version: int) -> Recipe:
    """The recipe of one step."""
    with state.pool.connection() as conn:
        return sets.version_recipe(conn, set_id, version)


@router.put("/sets/{set_id}/versions/{version}/name", status_code=204)
def name(state: State, set_id: UUID, version: int, request: VersionName) -> None:
    """Name a step, or take its name away."""
    with state.pool.connection() as conn:
        sets.name_version(conn, set_id, version, request.name or None)


@router.get("/starts")
def list_starts() -> list[Start]:
    """Starting points by kind of material."""
    return list(starts().values())


@router.post("/sets/{set_id}/starts")
def take_start(state: State, set_id: UUID, request: StartRequest) -> TextureSet:
    """Let every derivation, or that of one master, start as a kind of material does, as one step of the set's history."""
    start = starts().get(request.start)
    whose = "" if request.master is None else f"{request.master.replace('_', ' ')} "
    note = f"{whose}started as {start.title.lower()}" if start is not None else None

    def change(recipe: Recipe) -> Recipe:
        return started(state.evaluation(recipe, None), request.start, request.master)

    return changed_set(state, set_id, request.expects, change, note)


@router.get("/sets/{set_id}/starts/{start}")
def see_start(state: State, set_id: UUID, start: str) -> Recipe:
    """What a set would be if it started as a kind of material does; nothing is kept."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
    return started(state.evaluation(recipe, None), start)


@router.get("/sets/{set_id}/account", response_class=Response)
def account(state: State, set_id: UUID) -> Response:
    """How each master of a set came to be, and the steps that led here, as Markdown."""
    with state.pool.connection() as conn:
        row = sets.get_set(conn, set_id)
        versions = {version.id: version for version in sets.list_versions(conn, set_id)}
    steps: list[str] = []
    at = versions.get(row.head)
    while at is not None:
        steps.append(at.name or at.note)
        at = versions.get(at.parent) if at.parent is not None else None
    text = told(row.recipe, row.name, [step for step in reversed(steps) if step])
    return Response(text, media_type="text/markdown; charset=utf-8")


@router.post("/sets/{set_id}/head")
def go_to(state: State, set_id: UUID, request: VersionRequest) -> TextureSet:
    """Go to any version; the way back stays open."""
    with state.pool.connection() as conn:
        sets.move_to(conn, set_id, expects=request.expects, version=request.version)
        return set_answer(sets.get_set(conn, set_id))
