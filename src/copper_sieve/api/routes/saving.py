"""What is saved as a file without a target: one map, or whole sets to be taken in again."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from typing import IO, Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from ...core.errors import SieveError
from ...core.target import legal_name
from ...core.target.lone import STORED, writings_of
from ...store import projects, sets
from ...store.originals import original_bytes, original_headers
from ...work.deliveries.lone import lone_file, lone_work
from ...work.reformatting import Called, NewFormat, as_zip, remade
from ...work.saved_sets import MOST_BYTES, SETS_ENDINGS, read_sets, write_sets
from ..answers import set_answer
from ..models.sets import TextureSet, WritingRow, Writings
from ..models.targets import ReformatRequest, ReformattedFile
from ..received import RAW_BODY, received
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()


@router.get("/sets/{set_id}/writings")
def list_writings(state: State, set_id: UUID, head: int, master: str) -> Writings:
    """What a map can be written as, how that can be stored, and how long it takes; ``head`` only names the answer."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
    work = lone_work(state.evaluation(recipe, None).at(recipe.tiles[0] if recipe.tiles else None), master)
    return Writings(
        ways=[WritingRow(key=way.key, title=way.title) for way in writings_of(master, recipe.masters)],
        stored=[WritingRow(key=key, title=how.title) for key, how in STORED.items()],
        seconds=state.deliverer.seconds(work),
    )


@router.get("/sets/{set_id}/map", response_class=Response)
def save_map(state: State, set_id: UUID, master: str, way: str, stored: str, tile: int | None = None) -> Response:
    """One map as a file, at the set's own size; in a set of tiles that of one tile."""
    with state.pool.connection() as conn:
        row = sets.get_set(conn, set_id)
    name, content = lone_file(state.evaluation(row.recipe, None).at(tile), row.name, master, way, stored)
    return Response(content, media_type="application/octet-stream", headers=_called(name))


def _called(name: str) -> dict[str, str]:
    return {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}


@router.get("/projects/{project}/saved-sets", response_class=Response)
def save_sets(state: State, project: str, chosen: Annotated[Sequence[UUID], Query(alias="set")] = ()) -> StreamingResponse:
    """Sets of a project as one zip that can be taken in again anywhere; all of them where none is named."""
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        rows = [row for row in sets.list_sets(conn, box.id) if not chosen or row.id in chosen]
    if not rows:
        raise SieveError("There is no set to save: take one in first, or choose others.")
    one, several = SETS_ENDINGS
    name = rows[0].name + one if len(rows) == 1 else legal_name(box.title) + several

    def pieces() -> Iterator[bytes]:
        with state.pool.connection() as conn:
            yield from write_sets(conn, [(row.name, row.recipe) for row in rows])

    return StreamingResponse(pieces(), media_type="application/zip", headers=_called(name))


@router.post("/reformatted", response_class=Response)
def reformat(state: State, told: ReformatRequest) -> StreamingResponse:
    """Kept files in another format or size as one zip, each where it lay and under its name."""
    stored = None if told.stored is None else (told.stored.depth, told.stored.sample)
    format = NewFormat(told.format, stored, told.longest_px, told.sampling)
    with state.pool.connection() as conn:
        kept = original_headers(conn, [file.sha256 for file in told.files])
    gone = [file.name for file in told.files if file.sha256 not in kept]
    if gone:
        raise SieveError(f"{', '.join(gone)} is not kept here any more. Drop it again.")
    files = [Called(_place(file), partial(_kept, state, file.sha256), file.reads or None) for file in told.files]
    return StreamingResponse(as_zip(remade(files, format)), media_type="application/zip", headers=_called(f"{format.key}.zip"))


def _place(file: ReformattedFile) -> str:
    """Below wherever the zip is unpacked, and nowhere else."""
    return "/".join(part for part in f"{file.folder}/{file.name}".split("/") if part not in ("", ".", ".."))


def _kept(state: AppState, sha256: str) -> bytes:
    with state.pool.connection() as conn:
        return original_bytes(conn, sha256)


@router.post("/projects/{project}/saved-sets", status_code=201, openapi_extra=RAW_BODY)
async def take_saved_sets(state: State, request: Request, project: str, name: str = Query(min_length=1)) -> list[TextureSet]:
    """Take the bytes of such a zip as the body, and every set in it in: all, or none."""
    async with received(request, name, MOST_BYTES) as content:
        return await run_in_threadpool(_take, state, project, content, name)


def _take(state: AppState, project: str, content: IO[bytes], name: str) -> list[TextureSet]:
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        made = read_sets(conn, box.id, content, name)
        return [set_answer(sets.get_set(conn, one)) for one in made]
