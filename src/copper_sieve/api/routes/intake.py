"""Originals and intake: what a dropped file is, and the sets that files become."""

from __future__ import annotations

import hashlib
import io
import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import IO

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.errors import FileTooLarge, SieveError, UnknownKey
from ...core.intake import FileEntry, plan_set
from ...core.intake.content import smaller
from ...core.intake.looks import look_at, reads_for
from ...core.quantities import SOURCE_KINDS
from ...core.raster import eight_bit
from ...core.target import legal_name
from ...files import encode, read_bytes
from ...store import sets
from ...store.originals import keep_original, original_bytes
from ...work.looking import Looked, look_at_bytes, look_into_zip
from ..models import FileLook, IntakeRequest, TextureSet
from ..state import AppState, State
from .projects import set_answer

__all__ = ["router"]

router = APIRouter()
_MAX_BYTES = 1 << 30
_IN_MEMORY = 8 << 20
_THUMBNAIL_PX = 96


@router.post("/archives", openapi_extra={"requestBody": {"content": {"application/zip": {}}}})
async def keep_archive(state: State, request: Request, name: str = Query(min_length=1)) -> list[FileLook]:
    """Take a zip's bytes as the body, keep every picture in it, say what each is."""
    async with _received(request, name) as received:
        return await run_in_threadpool(_keep_archive, state, received.content, name)


@router.post("/originals", openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}})
async def keep(state: State, request: Request, name: str = Query(min_length=1)) -> FileLook:
    """Take one file's bytes as the body, keep them as they came, say what they are."""
    async with _received(request, name) as received:
        return await run_in_threadpool(_keep, state, received.content, name, received.sha256, received.bytes)


@dataclass(frozen=True)
class _Received:
    """A body as it came: in memory while it is small, else in a file that goes with the request."""

    content: IO[bytes]
    sha256: str
    bytes: int


@asynccontextmanager
async def _received(request: Request, name: str) -> AsyncIterator[_Received]:
    digest, size = hashlib.sha256(), 0
    with tempfile.SpooledTemporaryFile(_IN_MEMORY) as content:
        async for chunk in request.stream():
            size += len(chunk)
            if size > _MAX_BYTES:
                raise FileTooLarge(f"{name}: is over {_MAX_BYTES >> 20} MB. Drop a smaller file.")
            digest.update(chunk)
            content.write(chunk)
        content.seek(0)
        yield _Received(content, digest.hexdigest(), size)


def _keep_archive(state: AppState, content: IO[bytes], name: str) -> list[FileLook]:
    looks = []
    for looked, inside in look_into_zip(content.read(), name):
        if looked.header is not None:
            with state.pool.connection() as conn:
                kept = io.BytesIO(inside)
                keep_original(conn, sha256=looked.sha256, name=looked.name, size_bytes=len(inside), content=kept)
        looks.append(_answer(looked))
    return looks


def _keep(state: AppState, content: IO[bytes], name: str, sha256: str, size: int) -> FileLook:
    looked = look_at_bytes(content.read(), name)
    if looked.header is not None:
        content.seek(0)
        with state.pool.connection() as conn:
            keep_original(conn, sha256=sha256, name=name, size_bytes=size, content=content)
    return _answer(looked)


def _answer(looked: Looked) -> FileLook:
    row = FileLook(
        sha256=looked.sha256,
        name=looked.name,
        set_name=looked.set_stem,
        bytes=looked.bytes,
        readable=looked.header is not None,
        findings=list(looked.findings),
    )
    if looked.header is None or looked.look is None:
        return row
    picture, look, green = looked.header, looked.look, looked.look.green
    return row.model_copy(
        update={
            "width": picture.width,
            "height": picture.height,
            "depth": picture.depth,
            "letters": picture.letters,
            "kind": look.kind,
            "confidence": look.confidence,
            "because": list(look.because),
            "reads": look.reads,
            "green": green.answer if green else None,
            "green_confidence": green.confidence if green else None,
            "green_reason": green.reason if green else None,
            "tiles": look.tiles,
        }
    )


@router.get("/originals/{sha256}/thumbnail")
def thumbnail(state: State, sha256: str) -> Response:
    """A small PNG of the file as it is stored."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    codes = smaller(read_bytes(content, "original.tga").codes, _THUMBNAIL_PX)
    codes = eight_bit(codes)
    opaque = codes[..., :3] if codes.ndim == 3 and codes.shape[2] == 4 else codes
    return Response(encode(opaque, "png"), media_type="image/png", headers={"cache-control": "max-age=31536000, immutable"})


@router.post("/projects/{project}/sets", status_code=201)
def take_in(state: State, project: str, request: IntakeRequest) -> TextureSet:
    """Make a set from files that were kept and agreed to; what is missing is derived."""
    with state.pool.connection() as conn:
        box = sets.project_named(conn, project)
        entries = []
        for entry in request.entries:
            if entry.kind not in (*SOURCE_KINDS, "packed"):
                raise UnknownKey("kind", entry.kind, [*SOURCE_KINDS, "packed"])
            picture = read_bytes(original_bytes(conn, entry.sha256), entry.name)
            look = look_at(entry.name, picture.codes)
            reads = entry.reads or (look.reads if look.kind == entry.kind else reads_for(entry.kind, picture.codes))
            if not reads:
                raise SieveError(f"{entry.name}: say what its channels hold before it is taken in as {entry.kind}.")
            size = (picture.width, picture.height, picture.depth)
            entries.append(FileEntry(entry.sha256, entry.name, *size, reads, entry.green, look.tiles))
        recipe = plan_set(entries)
        set_id = sets.create_set(conn, project_id=box["id"], name=legal_name(request.name), recipe=recipe)
        return set_answer(sets.get_set(conn, set_id))
