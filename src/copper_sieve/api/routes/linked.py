"""Folders on the server: what lies in them, and sets that follow their files."""

from __future__ import annotations

import io
from uuid import UUID

from fastapi import APIRouter

from ...store import projects, sets
from ...work.intake.keeping import keep_looked
from ...work.linked import take_newer
from ..answers import set_answer
from ..models.intake import FileLook, FolderRow, LinkRequest
from ..models.sets import RefreshRequest, TextureSet
from ..state import State
from .intake import look_answer, profiles_for

__all__ = ["router"]

router = APIRouter()


@router.get("/folders")
def list_folders(state: State) -> list[FolderRow]:
    """Folders below the server's roots that hold pictures."""
    return [FolderRow(place=place, pictures=count) for place, count in state.folders.listing().items()]


@router.post("/folders/looks")
def look_into(state: State, request: LinkRequest) -> list[FileLook]:
    """Take in every picture of a folder; the sets made of them remember where their files lie."""
    looks = []
    profile_of = profiles_for(state, request.profile, state.folders.names(request.place))
    for file in state.folders.look(request.place, profile_of):
        keep_looked(state.pool, file.looked, io.BytesIO(file.content))
        looks.append(look_answer(file.looked).model_copy(update={"place": file.place}))
    return looks


@router.get("/projects/{project}/changed")
def changed_sets(state: State, project: str) -> list[UUID]:
    """Sets whose linked files hold other bytes now, or got company; cheap enough to be asked every few seconds."""
    with state.pool.connection() as conn:
        rows = sets.list_sets(conn, projects.project_named(conn, project).id)
    return [row.id for row in rows if state.folders.newer(row.recipe)]


@router.post("/sets/{set_id}/refresh")
def refresh(state: State, set_id: UUID, request: RefreshRequest) -> TextureSet:
    """Take the newer files of a set that is linked to a folder, and those added beside them, as one step of its history."""
    take_newer(state.pool, state.folders, set_id, request.expects)
    with state.pool.connection() as conn:
        return set_answer(sets.get_set(conn, set_id))
