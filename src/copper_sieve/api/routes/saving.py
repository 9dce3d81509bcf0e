"""One map of a set saved as a file, without a target."""

from __future__ import annotations

from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Response

from ...core.target.lone import STORED, writings_of
from ...store import sets
from ...work.deliveries.lone import lone_file
from ..models.sets import WritingRow, Writings
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/sets/{set_id}/writings")
def list_writings(state: State, set_id: UUID, head: int, master: str) -> Writings:
    """What a map can be written as, and how that can be stored; ``head`` only names the answer."""
    with state.pool.connection() as conn:
        known = sets.get_set(conn, set_id).recipe.masters
    return Writings(
        ways=[WritingRow(key=way.key, title=way.title) for way in writings_of(master, known)],
        stored=[WritingRow(key=key, title=how.title) for key, how in STORED.items()],
    )


@router.get("/sets/{set_id}/map", response_class=Response)
def save_map(state: State, set_id: UUID, master: str, way: str, stored: str, tile: int | None = None) -> Response:
    """One map as a file, at the set's own size; in a set of tiles that of one tile."""
    with state.pool.connection() as conn:
        row = sets.get_set(conn, set_id)
    name, content = lone_file(state.evaluation(row.recipe, None).at(tile), row.name, master, way, stored)
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(content, media_type="application/octet-stream", headers=headers)
