"""Health, and projects."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import count

from fastapi import APIRouter, Response

from ... import __version__
from ...core.errors import SieveError
from ...core.target import slug
from ...store import projects
from ...store.bakes import is_baking
from ...store.database import answers
from ...store.deliveries import is_delivering
from ...work.targets import known_target
from ..models.projects import Health, Project, ProjectChange, ProjectRequest, ProjectWeight, UsualRequest
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/health", responses={503: {"model": Health, "description": "The database does not answer"}})
def health(state: State, response: Response) -> Health:
    """Whether everything answers; a thread of deliveries that died is started again on the way."""
    is_there = answers(state.pool)
    were_running = state.deliverer.keep_alive()
    response.status_code = 200 if is_there else 503
    return Health(
        status="ok" if is_there else "database-gone",
        version=__version__,
        database="answers" if is_there else "gone, started again by itself",
        deliveries="running" if were_running else "started again",
    )


@router.get("/projects")
def list_projects(state: State) -> list[Project]:
    """All projects, the oldest first."""
    with state.pool.connection() as conn:
        return [Project.model_validate(row) for row in projects.list_projects(conn)]


@router.put("/projects/{project}")
def change_project(state: State, project: str, request: ProjectChange) -> Project:
    """Call a project otherwise, put it away, or back, or say what it does by itself. Its address stays."""
    with state.pool.connection() as conn:
        found = projects.project_named(conn, project)
        if request.title is not None:
            projects.set_title(conn, found.id, request.title)
        if request.is_away is not None:
            projects.put_project_away(conn, found.id, is_away=request.is_away)
        projects.set_keeping_up(conn, found.id, takes_newer=request.takes_newer, delivers_changes=request.delivers_changes)
        return Project.model_validate(projects.project_named(conn, project))


@router.get("/projects/{project}/weight")
def weigh_project(state: State, project: str) -> ProjectWeight:
    """What goes when a project is deleted for good."""
    with state.pool.connection() as conn:
        return ProjectWeight.model_validate(projects.weigh_project(conn, projects.project_named(conn, project).id))


@router.delete("/projects/{project}", status_code=204)
def delete_project(state: State, project: str) -> None:
    """Delete a project that was put away, for good. What was delivered stays where it lies."""
    with state.pool.connection() as conn:
        found = projects.project_named(conn, project)
        if not found.is_away:
            raise SieveError(f"{found.title} is in use. Put it away first, then delete it from the list of those.")
        if is_delivering(conn, found.id) or is_baking(conn, found.id):
            raise SieveError(f"{found.title} is still being delivered or baked. Wait for it, or stop it.")
        projects.delete_project(conn, found.id)


@router.put("/projects/{project}/usual")
def set_usual(state: State, project: str, request: UsualRequest) -> Project:
    """Say which targets a project usually delivers to."""
    with state.pool.connection() as conn:
        for key in request.usual:
            known_target(conn, key)
        projects.set_usual(conn, projects.project_named(conn, project).id, list(dict.fromkeys(request.usual)))
        return Project.model_validate(projects.project_named(conn, project))


@router.post("/projects", status_code=201)
def create_project(state: State, request: ProjectRequest) -> Project:
    """Make a project, or answer the one of that title."""
    with state.pool.connection() as conn:
        name = _address_of(request.title, {row.name: row.title for row in projects.list_projects(conn)})
        return Project.model_validate(projects.create_project(conn, name=name, title=request.title))


def _address_of(title: str, titles: Mapping[str, str]) -> str:
    """A new project's part of an address, with a number where one has it that is called otherwise by now."""
    own = slug(title) or "project"
    names = (own if number == 1 else f"{own}-{number}" for number in count(1))
    return next(name for name in names if name not in titles or slug(titles[name]) == own)
