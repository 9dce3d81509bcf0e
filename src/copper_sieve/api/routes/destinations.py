"""Where the files of a project's targets go."""

from __future__ import annotations

from fastapi import APIRouter

from ...store import destinations, projects
from ...store.database import Database
from ...work.deliveries.destinations import Destination
from ...work.targets import known_target
from ..models.projects import DestinationRequest, ProjectDestinations
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()


@router.get("/projects/{project}/destinations")
def list_all(state: State, project: str) -> ProjectDestinations:
    """The named folders of this server, and where targets of a project go; the others go into each delivery's own folder."""
    with state.pool.connection() as conn:
        return _answer(state, conn, project)


@router.put("/projects/{project}/destinations/{target}")
def keep(state: State, project: str, target: str, request: DestinationRequest) -> ProjectDestinations:
    """Say where the files of a target go from now on. What lies elsewhere stays there."""
    wanted = state.destinations.checked(Destination(request.root, request.below, tuple(dict.fromkeys(request.each))))
    with state.pool.connection() as conn:
        known_target(conn, target)
        box = projects.project_named(conn, project)
        destinations.keep_destination(conn, box.id, target, root=wanted.root, below=wanted.below, each=wanted.each)
        return _answer(state, conn, project)


@router.delete("/projects/{project}/destinations/{target}")
def forget(state: State, project: str, target: str) -> ProjectDestinations:
    """From now on the files of a target go into each delivery's own folder."""
    with state.pool.connection() as conn:
        destinations.forget_destination(conn, projects.project_named(conn, project).id, target)
        return _answer(state, conn, project)


def _answer(state: AppState, conn: Database, project: str) -> ProjectDestinations:
    rows = destinations.list_destinations(conn, projects.project_named(conn, project).id)
    told = {key: DestinationRequest(root=row.root, below=row.below, each=row.each) for key, row in rows.items()}  # type: ignore[arg-type]
    return ProjectDestinations(roots=list(state.destinations.roots), targets=told)
