"""Originals and intake: what a dropped file is, and the sets that files become."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import asdict
from pathlib import PurePath
from typing import IO, Any
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.bands import Cancel
from ...core.errors import Cancelled, SieveError, UnknownKey
from ...core.intake import (
    Arranged,
    Candidate,
    FileEntry,
    SetReading,
    SourceProfile,
    arranged,
    grown,
    matched,
    plan_set,
    read_by_set,
    readings_by_set,
    with_values,
)
from ...core.intake.first_look import first_look
from ...core.intake.looks import look_at, reads_for
from ...core.intake.materials import Hearing, PictureBeside, Reading, readings_of
from ...core.mesh.pairing import role_of
from ...core.quantities import SOURCE_KINDS, is_known
from ...core.recipe import Recipe, TileFile
from ...core.target import legal_name
from ...files import Picture, names_inside, read_bytes
from ...files.archives import MAX_UNPACKED_BYTES
from ...files.meshes import is_of_meshes
from ...store import projects, sets
from ...store.database import Database
from ...store.originals import original_bytes, original_header
from ...store.profiles import list_profiles, profile_named
from ...work.intake.grouping import quality
from ...work.intake.keeping import keep_looked
from ...work.intake.looking import (
    Looked,
    is_by_layers,
    look_at_bytes,
    look_by_material,
    look_into_layers,
    look_into_mesh,
    look_into_zip,
)
from ...work.meshes import meshes_in_zip
from ...work.saved_sets import MOST_BYTES, SETS_ENDINGS, SETS_FILE, names_of_sets
from ..answers import changed_set, set_answer
from ..models.intake import (
    ArchiveLook,
    ArrangedRow,
    ArrangeRequest,
    FileLook,
    FirstLook,
    FirstLookRequest,
    GrowRequest,
    HeardRow,
    HearingRequest,
    IntakeEntry,
    IntakeRequest,
    IntakeTile,
    MaterialReading,
    MaterialTold,
    MisfitRow,
    RivalRow,
    SetReadingRow,
    ToldReading,
)
from ..models.sets import TextureSet
from ..received import RAW_BODY, received
from ..state import AppState, State
from .meshes import keep_mesh

__all__ = ["look_answer", "profiles_for", "router"]

router = APIRouter()
_LONGEST_NOTE = 400


@router.post("/archives", openapi_extra=RAW_BODY)
async def keep_archive(
    state: State, request: Request, name: str = Query(min_length=1), profile: str | None = None
) -> ArchiveLook:
    """Take a zip's bytes as the body, keep every picture and mesh in it, say what each is."""
    most = MOST_BYTES if name.lower().endswith(SETS_ENDINGS) else MAX_UNPACKED_BYTES
    async with received(request, name, most) as content:
        return await run_in_threadpool(_keep_archive, state, content, name, profile)


@router.post("/originals", openapi_extra=RAW_BODY)
async def keep(
    state: State, request: Request, name: str = Query(min_length=1), folder: str = "", profile: str | None = None
) -> FileLook:
    """Take one file's bytes as the body, keep them as they came, say what they are."""
    async with received(request, name) as content:
        return await run_in_threadpool(_keep, state, content, name, folder, profile)


@router.post("/originals/{sha256}/layers")
def keep_layers(
    state: State, sha256: str, name: str = Query(min_length=1), folder: str = "", profile: str | None = None
) -> list[FileLook]:
    """Keep every layer of a kept file as a file of its own, and say what each is; one that cannot be read says so."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    looks = []
    for looked, inside in look_into_layers(content, name, folder, known_profile(state, profile)):
        keep_looked(state.pool, looked, io.BytesIO(inside))
        looks.append(look_answer(looked).model_copy(update={"layer_of": f"{sha256} {name}"}))
    return looks


@router.post("/originals/{sha256}/material")
def look_as_told(state: State, sha256: str, told: MaterialTold) -> FileLook:
    """What a kept file is by the word of a mesh's material that reads it."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return look_answer(look_by_material(content, told.name, _reading(told.reading), told.folder))


@router.post("/materials/readings")
def read_by_materials(request: HearingRequest) -> list[HeardRow]:
    """How materials that read these pictures read files that came along, and the sets of these then; in the files' order."""
    files = [Hearing(**file.model_dump()) for file in request.files]
    pictures = [PictureBeside(one.name, one.folder, _reading(one.reading)) for one in request.pictures]
    return [
        HeardRow(reading=None if reading is None else MaterialReading(**asdict(reading)), set_name=legal_name(set_name))
        for reading, set_name in readings_of(files, pictures)
    ]


def _reading(told: ToldReading) -> Reading:
    return Reading(**told.model_dump(exclude={"slots"}), slots=tuple(told.slots))


@router.post("/meshes/{sha256}/pictures")
def keep_pictures(state: State, sha256: str, name: str = Query(min_length=1)) -> list[FileLook]:
    """Keep every picture inside of a kept mesh as a file of its own, and say what its material reads it as."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    looks = []
    for looked, inside in look_into_mesh(content, role_of(PurePath(name).stem)[0]):
        keep_looked(state.pool, looked, io.BytesIO(inside))
        looks.append(look_answer(looked))
    return looks


def known_profile(state: AppState, name: str | None) -> SourceProfile | None:
    if name is None:
        return None
    with state.pool.connection() as conn:
        return profile_named(conn, name)


def profiles_for(state: AppState, chosen: str | None, names: Sequence[str]) -> Callable[[str], SourceProfile | None]:
    """The profile of each file by its name: the one that was chosen, else those that know groups of the names."""
    if chosen is not None:
        profile = known_profile(state, chosen)
        return lambda name: profile
    with state.pool.connection() as conn:
        return matched(list_profiles(conn), names).get


def _keep_archive(state: AppState, content: IO[bytes], name: str, profile: str | None) -> ArchiveLook:
    saved = names_of_sets(content, name) if SETS_FILE in names_inside(content) else []
    answer = ArchiveLook(files=[], meshes=[], problems=[], saved=saved)
    if saved:
        return answer
    content.seek(0)
    for looked, inside in look_into_zip(content, name, profiles_for(state, profile, names_inside(content)), is_of_meshes):
        keep_looked(state.pool, looked, io.BytesIO(inside))
        answer.files.append(look_answer(looked))
    for mesh in meshes_in_zip(content, name):
        if mesh.read is None:
            answer.problems.append(mesh.problem)
        else:
            answer.meshes.append(keep_mesh(state, mesh))
    return answer


def _keep(state: AppState, content: IO[bytes], name: str, folder: str, profile: str | None) -> FileLook:
    looked = look_at_bytes(content.read(), name, folder=folder, profile=known_profile(state, profile))
    content.seek(0)
    keep_looked(state.pool, looked, content)
    return look_answer(looked)


def look_answer(looked: Looked) -> FileLook:
    """What a file is, as the screen sees it."""
    row = FileLook(
        sha256=looked.sha256,
        name=looked.name,
        set_name=looked.set_stem,
        folder=looked.folder,
        bytes=looked.bytes,
        readable=looked.header is not None,
        is_passed_over=looked.is_passed_over,
        is_foreign_mesh=looked.is_foreign_mesh,
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
            "spans": look.spans,
            "corrections": {key: dict(told) for key, told in look.corrections.items()},
            "primaries": look.primaries,
            "guesses": list(look.guesses),
            "is_named": look.is_named,
            "is_constant": look.content.is_constant,
            "profile": look.profile,
            "quality": list(quality(looked)),
            "layers": list(looked.layers),
            "is_by_layers": is_by_layers(looked),
        }
    )


@router.post("/arrangements")
def arrange(request: ArrangeRequest) -> list[ArrangedRow]:
    """Where each of these files goes as they stand: set, tile, what a better one gives, whether it fits. In their order."""
    files = [Candidate(**file.model_dump(exclude={"quality"}), quality=tuple(file.quality)) for file in request.files]
    said = readings_by_set(files)
    rows = arranged([read_by_set(file, said.get(k)) for k, file in enumerate(files)])
    return [_arranged_row(row, files, said.get(k)) for k, row in enumerate(rows)]


def _arranged_row(row: Arranged, files: Sequence[Candidate], said: SetReading | None) -> ArrangedRow:
    rival, misfit = None, None
    if row.lost_to is not None and row.relation is not None:
        rival = RivalRow(name=files[row.lost_to].name, keys=list(row.lost), relation=row.relation)
    if row.misfit is not None:
        misfit = MisfitRow(**vars(row.misfit))
    by_set = None if said is None else SetReadingRow(**vars(said))
    place = {"set_name": legal_name(row.set_name), "reads": dict(row.reads), "tile": row.tile, "head": row.head}
    return ArrangedRow(**place, rival=rival, misfit=misfit, by_set=by_set)


@router.post("/first-looks", responses={204: {"description": "A newer request took over"}}, response_model=FirstLook)
def look_first(state: State, request: FirstLookRequest) -> FirstLook | Response:
    """What a set of these files would start from, while a person still reads what they are. No set is made.

    What is computed for it stays in the cache, so that the set is there at once when it is taken in.
    """
    cancel = state.views.begin(request.view, request.seq)
    try:
        recipe = None if cancel is None else _first_recipe(state, request, cancel)
    except Cancelled:
        recipe = None
    return Response(status_code=204) if recipe is None else FirstLook(recipe=recipe, tiles=list(recipe.tiles))


@router.post("/projects/{project}/sets", status_code=201)
def take_in(state: State, project: str, request: IntakeRequest) -> TextureSet:
    """Make a set from files that were kept and agreed to; what is missing is derived."""
    with state.pool.connection() as conn:
        projects.project_named(conn, project)
    recipe = _first_recipe(state, request)
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        set_id = sets.create_set(conn, project_id=box.id, name=legal_name(request.name), recipe=recipe)
        return set_answer(sets.get_set(conn, set_id))


def _first_recipe(state: AppState, request: IntakeRequest, cancel: Cancel | None = None) -> Recipe:
    with state.pool.connection() as conn:
        recipe = with_values(plan_set([_entry(conn, entry) for entry in request.entries]), request.values)
    return first_look(state.evaluation(recipe, None, cancel))


@router.post("/sets/{set_id}/files")
def grow(state: State, set_id: UUID, request: GrowRequest) -> TextureSet:
    """Give a set more files, as one step of its history."""
    with state.pool.connection() as conn:
        entries = [_entry(conn, entry) for entry in request.entries]
    replace, names = request.way == "replace", ", ".join(entry.name for entry in entries)
    note = f"{'Replaced by' if replace else 'Added'} {names}"[:_LONGEST_NOTE]
    return changed_set(state, set_id, request.expects, lambda recipe: grown(recipe, entries, replace=replace), note)


def _entry(conn: Database, entry: IntakeEntry) -> FileEntry:
    """What a person agreed to, with what only the file itself says."""
    if entry.kind != "packed" and not is_known(entry.kind):
        raise UnknownKey("kind", entry.kind, [*SOURCE_KINDS, "packed"])
    header, look = original_header(conn, entry.sha256), None
    if header is None or entry.tiles is None:
        picture = read_bytes(original_bytes(conn, entry.sha256), entry.name)
        header, look = _header(picture), look_at(entry.name, picture.codes)
    known = look.reads if look is not None and look.kind == entry.kind else reads_for(entry.kind, header["channels"])
    reads = entry.reads or known
    if not reads:
        raise SieveError(f"{entry.name}: say what its channels hold before it is taken in as {entry.kind}.")
    tiles = entry.tiles or (look.tiles if look is not None else (True, True))
    size = (header["width"], header["height"], header["depth"])
    beside = {tile: _tile(conn, file) for tile, file in entry.beside.items()}
    told = (entry.spans, entry.corrections, entry.fit, entry.place, entry.tile, beside)
    return FileEntry(entry.sha256, entry.name, *size, reads, entry.green, tiles, *told, entry.primaries)


def _header(picture: Picture) -> dict[str, Any]:
    """Width, height, depth and the like, of a file that was kept before these were kept with it."""
    return asdict(picture.header)


def _tile(conn: Database, file: IntakeTile) -> TileFile:
    header = original_header(conn, file.sha256) or _header(read_bytes(original_bytes(conn, file.sha256), file.name))
    size = {key: header[key] for key in ("width", "height", "depth")}
    return TileFile(sha256=file.sha256, name=file.name, place=file.place, **size)
