"""Pictures of surroundings that the sets of a project are lit by on the screen."""

from __future__ import annotations

import io
from typing import IO
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...store import environments, projects
from ...store.originals import original_bytes
from ...work.environments import surrounding_of
from ..headers import FOREVER
from ..models.projects import Environment
from ..received import RAW_BODY, received
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()


@router.get("/projects/{project}/environments")
def every_environment(state: State, project: str) -> list[Environment]:
    """In the order they came."""
    with state.pool.connection() as conn:
        rows = environments.list_environments(conn, projects.project_named(conn, project).id)
    return [Environment.model_validate(row) for row in rows]


@router.post("/projects/{project}/environments", status_code=201, openapi_extra=RAW_BODY)
async def keep(state: State, request: Request, project: str, name: str = Query(min_length=1, max_length=200)) -> Environment:
    """Take an equirectangular picture's bytes as the body, and keep it small as light for this project."""
    async with received(request, name) as content:
        return await run_in_threadpool(_keep, state, content, project, name)


def _keep(state: AppState, content: IO[bytes], project: str, name: str) -> Environment:
    made = surrounding_of(content.read(), name)
    height, width = made.light.shape[:2]
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        row = environments.keep_environment(
            conn, box.id, name=name, width=width, height=height, is_bounded=made.is_bounded, light=made.light.tobytes()
        )
    return Environment.model_validate(row)


@router.post("/projects/{project}/environments/{sha256}", status_code=201)
def keep_original_as_one(state: State, project: str, sha256: str, name: str = Query(min_length=1, max_length=200)) -> Environment:
    """The same of a file that was kept before."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return _keep(state, io.BytesIO(content), project, name)


@router.get("/environments/{environment_id}/light", response_class=Response)
def light(state: State, environment_id: UUID) -> Response:
    """Half-float RGBA in linear light, row by row from the top; width and height in the headers."""
    with state.pool.connection() as conn:
        width, height, body = environments.environment_light(conn, environment_id)
    headers = {"x-width": str(width), "x-height": str(height), **FOREVER}
    return Response(body, media_type="application/octet-stream", headers=headers)


@router.delete("/environments/{environment_id}", status_code=204)
def forget(state: State, environment_id: UUID) -> None:
    """Take a picture of the surroundings out of its project."""
    with state.pool.connection() as conn:
        environments.forget_environment(conn, environment_id)
