"""Targets: the shipped ones to read and to copy, people's own to change."""

from __future__ import annotations

from collections.abc import Collection
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.errors import NameTaken, TargetInvalid
from ...core.target import FORMATS, Board, Document, Target, board_of, offered_documents, read_target, slug, write_target
from ...core.target.formats import DEPTHS, Depth, depth_in
from ...store.database import Database
from ...store.sets import HeadMoved
from ...store.targets import forget_target, keep_target, list_own_targets, lock_targets, own_target, used_keys
from ...targets import shipped_targets
from ...work.deliveries.converting import match_files
from ...work.targets import known_target
from ..models.targets import DepthRow, FormatRow, NameMatch, TargetCopy, TargetRow, TargetWrite
from ..received import RAW_BODY, received
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_MAX_TOML_BYTES = 1 << 20


@router.get("/targets")
def list_targets(state: State) -> list[TargetRow]:
    """People's own first, then the shipped ones."""
    with state.pool.connection() as conn:
        own = list_own_targets(conn)
    rows = [(target, True) for target in own] + [(target, False) for target in shipped_targets().values()]
    return [TargetRow(target=target, is_own=is_own) for target, is_own in rows]


@router.get("/targets/{key}/board")
def board(state: State, key: str) -> Board:
    """The target as its board of holes."""
    with state.pool.connection() as conn:
        return board_of(known_target(conn, key))


@router.get("/targets/{key}/matches")
def matches(state: State, key: str, name: Annotated[list[str], Query()]) -> list[NameMatch]:
    """Files told apart by the names that the target would give them."""
    with state.pool.connection() as conn:
        matched = match_files(known_target(conn, key), map(Path, name))
    found = {
        path.name: (set_name, role)
        for set_name, tiles in matched.sets.items()
        for roles in tiles.values()
        for role, path in roles.items()
    }
    rows = [(one, *found.get(one, (None, None))) for one in name]
    return [NameMatch(name=one, set=set_name, role=role) for one, set_name, role in rows]


@router.get("/targets/{key}/documents")
def documents(state: State, key: str) -> list[Document]:
    """Material documents that the target could write besides, wired to the files that can feed them."""
    with state.pool.connection() as conn:
        return list(offered_documents(known_target(conn, key)))


@router.get("/targets/{key}/file", response_class=Response)
def as_file(state: State, key: str) -> Response:
    """The target as one TOML file, to keep or to give away."""
    with state.pool.connection() as conn:
        text = write_target(known_target(conn, key))
    headers = {"content-disposition": f'attachment; filename="{key}.toml"'}
    return Response(text, media_type="application/toml; charset=utf-8", headers=headers)


@router.get("/formats")
def list_formats() -> list[FormatRow]:
    """The formats that files are written in, and what each can hold."""
    return [
        FormatRow.model_validate(
            {
                "key": row.key,
                "depths": [_depth(depth) for depth in row.depths],
                "nearest": [{"stored": _depth(one), "held": _depth(depth_in(row.key, one))} for one in DEPTHS],
                "channels": row.channels,
                "is_layered": row.layered,
            }
        )
        for row in FORMATS.values()
    ]


def _depth(depth: Depth) -> DepthRow:
    return DepthRow(depth=depth[0], sample=depth[1])


@router.post("/targets", status_code=201)
def copy(state: State, request: TargetCopy) -> Target:
    """A copy of any target under a title of its own; the copy can be changed."""
    with state.pool.connection() as conn:
        lock_targets(conn)
        source = known_target(conn, request.copy_of)
        title = request.title or _free_title(f"{source.title}, own", _titles(conn))
        return _kept(conn, source.model_copy(update={"key": _free_key(conn, title), "title": title, "version": "1"}))


@router.post("/targets/import", status_code=201, openapi_extra=RAW_BODY)
async def take_file(state: State, request: Request) -> Target:
    """Take in a target from the bytes of its TOML file; it gets a key of its own where its key is taken."""
    async with received(request, "The target", _MAX_TOML_BYTES) as content:
        return await run_in_threadpool(_taken, state, content.read())


def _taken(state: AppState, content: bytes) -> Target:
    try:
        target = read_target(content.decode("utf-8-sig"))
    except UnicodeDecodeError as problem:
        raise TargetInvalid("that file is no UTF-8 text. A target is one TOML file, as “Keep as file” writes it.") from problem
    with state.pool.connection() as conn:
        lock_targets(conn)
        return _kept(conn, target.model_copy(update={"key": _free_key(conn, target.key)}))


@router.put("/targets/{key}")
def change(state: State, key: str, request: TargetWrite) -> Target:
    """Put a changed table in place of an own target's. Its version counts up, its date is today, its key follows its title."""
    with state.pool.connection() as conn:
        lock_targets(conn)
        before = own_target(conn, key)
        if before.version != request.expects:
            raise HeadMoved(f"{before.title} was changed elsewhere meanwhile; it is at version {before.version} now.")
        version = str(int(before.version) + 1) if before.version.isdecimal() else f"{before.version}+"
        if request.target.title != before.title:  # its folder of files is called by its key, which follows its title
            key = _free_key(conn, request.target.title)
            forget_target(conn, before.key)
        return _kept(conn, request.target.model_copy(update={"key": key, "version": version}))


@router.delete("/targets/{key}", status_code=204)
def remove(state: State, key: str) -> None:
    """Take an own target off the list. Deliveries made with it keep it."""
    with state.pool.connection() as conn:
        own_target(conn, key)
        forget_target(conn, key)


def _kept(conn: Database, target: Target) -> Target:
    """The target with today's date, checked and kept. Raises NameTaken where another one has its title."""
    others = _titles(conn, but=target.key)
    if target.title.strip().casefold() in others:
        raise NameTaken(f"There is a target called {target.title!r} already. Choose another title: no two look alike.")
    dated = target.model_copy(update={"changed": datetime.now(UTC).date().isoformat()})
    try:
        checked = Target.model_validate(dated.model_dump(mode="json", by_alias=True))
    except ValueError as problem:
        raise TargetInvalid(f"that target does not hold together: {problem}") from problem
    keep_target(conn, checked)
    return checked


def _titles(conn: Database, but: str = "") -> set[str]:
    every = [*shipped_targets().values(), *list_own_targets(conn)]
    return {target.title.strip().casefold() for target in every if target.key != but}


def _free_title(title: str, taken: Collection[str]) -> str:
    titles = (title if n == 1 else f"{title} {n}" for n in range(1, len(taken) + 2))
    return next(t for t in titles if t.casefold() not in taken)


def _free_key(conn: Database, title: str) -> str:
    stem = slug(title) or "own"
    taken = {*shipped_targets(), *used_keys(conn)}
    return next(key for key in (stem, *(f"{stem}-{n}" for n in range(2, len(taken) + 3))) if key not in taken)
