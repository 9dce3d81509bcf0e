"""Folders on the server: what lies in them, and sets that follow their files."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from uuid import UUID

from fastapi import APIRouter

from ...core.errors import SieveError
from ...core.intake import FileEntry, grown
from ...core.recipe import Recipe
from ...files import read_bytes
from ...store import sets
from ...store.originals import keep_original
from ...work.intake.grouping import entry_for
from ...work.intake.looking import look_at_path
from ..answers import set_answer
from ..models.intake import FileLook, FolderRow, LinkRequest
from ..models.sets import RefreshRequest, TextureSet
from ..state import AppState, State
from .intake import keep_looked, look_answer, profiles_for

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
        keep_looked(state, file.looked, io.BytesIO(file.content))
        looks.append(look_answer(file.looked).model_copy(update={"place": file.place}))
    return looks


@router.get("/projects/{project}/changed")
def changed_sets(state: State, project: str) -> list[UUID]:
    """Sets whose linked files hold other bytes now, or got company; cheap enough to be asked every few seconds."""
    with state.pool.connection() as conn:
        rows = sets.list_sets(conn, sets.project_named(conn, project).id)
    return [row.id for row in rows if state.folders.changed(row.recipe) or state.folders.added(row.recipe)]


@router.post("/sets/{set_id}/refresh")
def refresh(state: State, set_id: UUID, request: RefreshRequest) -> TextureSet:
    """Take the newer files of a set that is linked to a folder, and those added beside them, as one step of its history."""
    with state.pool.connection() as conn:
        recipe: Recipe = sets.get_set(conn, set_id).recipe
        sources = dict(recipe.sources)
        for file in state.folders.changed(recipe):
            content = file.path.read_bytes()
            header = read_bytes(content, file.path.name).header
            now = hashlib.sha256(content).hexdigest()
            keep_original(conn, sha256=now, name=file.path.name, size_bytes=len(content), content=io.BytesIO(content))
            newer = {"sha256": now, "width": header.width, "height": header.height, "depth": header.depth}
            sources[file.source] = sources[file.source].with_file(file.tile, newer)
        newer = recipe.model_copy(update={"sources": sources})
        added = state.folders.added(recipe)
        entries = [entry for place in added if (entry := _entry_of(state, place)) is not None]
        if sources == recipe.sources and added and not entries:
            names = ", ".join(place.rpartition("/")[2] for place in added)
            raise SieveError(f"{names}: no map can be read of it. Save it again, or move it out of the folder.")
        newer = grown(newer, entries, replace=False) if entries else newer
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=newer, note="Newer files taken")
        return set_answer(sets.get_set(conn, set_id))


def _entry_of(state: AppState, place: str) -> FileEntry | None:
    """A file that was added to a folder, kept; None where nothing can be read of it."""
    looked, content = look_at_path(state.folders.path_of(place))
    entry = entry_for(looked)
    if entry is None:
        return None
    keep_looked(state, looked, io.BytesIO(content))
    return replace(entry, place=place)
