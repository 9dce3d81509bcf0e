"""Meshes that sets are looked at on: what is found on them, and what of them the screen draws."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import PurePath
from typing import IO, Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.findings import FINDINGS
from ...core.intake import with_values
from ...core.mesh import Shape
from ...core.mesh.arranging import MeshOffer, wearings_of
from ...core.mesh.made import is_both, triangles_worn
from ...core.mesh.pairing import print_of, role_of
from ...core.mesh.topology import edges_of
from ...core.mesh.udim import are_copies, on_tile, tiles_of
from ...core.raster import Edges
from ...core.recipe import Facts, MeshRef, Recipe, Worn, changes
from ...core.target import legal_name
from ...core.tiles import FIRST_TILE, MAX_TILES
from ...files import read_bytes
from ...files.meshes import MeshFile
from ...store import projects, sets
from ...store.originals import keep_original, original_bytes
from ...work.meshes import TakenMesh, borders, found_on, of_material, taken, worn
from ...work.meshes.marking import marks_of, missed_marks
from ...work.meshes.mending import mended, unfolded
from ..answers import set_answer
from ..headers import FOREVER
from ..models.meshes import (
    AloneMesh,
    MeshLook,
    MeshMaterial,
    PictureBesideRow,
    ValuesRow,
    WearingRow,
    WearingsAnswer,
    WearingsRequest,
    WearRequest,
)
from ..models.sets import TextureSet
from ..received import RAW_BODY, received
from ..state import AppState, State

__all__ = ["keep_mesh", "router"]

router = APIRouter()
Name = Annotated[str, Query(min_length=1, max_length=200)]
Material = Annotated[int, Query(ge=0)]
Tile = Annotated[int | None, Query(ge=FIRST_TILE, lt=FIRST_TILE + MAX_TILES)]
Mapping = Literal["islands", "flat", "box"]
Beside = Annotated[Sequence[str], Query(max_length=100)]
Size = Annotated[int, Query(ge=8, le=16384)]


@router.post("/meshes", status_code=201, openapi_extra=RAW_BODY)
async def look_at_mesh(state: State, request: Request, name: Name, beside: Beside = (), px: Size = 2048) -> MeshLook:
    """Take a mesh's bytes as the body, and say what is in it.

    ``px`` is the size of the maps that it will wear; ``beside`` are files that it names, handed over before: the hash of each
    and its name, parted by a space.
    """
    async with received(request, name) as content:
        return await run_in_threadpool(_look, state, content, name, px, beside)


@router.post("/meshes/beside", status_code=201, openapi_extra=RAW_BODY)
async def keep_beside(state: State, request: Request, name: Name) -> str:
    """Take the bytes of a file that a mesh names as the body; says their hash."""
    async with received(request, name) as content:
        return await run_in_threadpool(_keep, state, content.read(), name)


def _look(state: AppState, content: IO[bytes], name: str, px: int, beside: Sequence[str] = ()) -> MeshLook:
    with state.pool.connection() as conn:
        near = {called: original_bytes(conn, sha256) for sha256, _, called in (one.partition(" ") for one in beside)}
    return keep_mesh(state, taken(content.read(), name, near), px)


def keep_mesh(state: AppState, mesh: TakenMesh, px: int = 2048) -> MeshLook:
    """Keep a mesh that was read, and say what is in it."""
    assert mesh.read is not None
    look = _answer(mesh.read, _keep(state, mesh.content, mesh.name), mesh.name, px)
    return look.model_copy(update={"folder": mesh.folder})


def _keep(state: AppState, content: bytes, name: str) -> str:
    sha256 = hashlib.sha256(content).hexdigest()
    with state.pool.connection() as conn:
        keep_original(conn, sha256=sha256, name=name, size_bytes=len(content), content=io.BytesIO(content))
    return sha256


@router.get("/meshes/{sha256}/look")
def look_again(state: State, sha256: str, name: Name, px: Size = 2048) -> MeshLook:
    """What is in a mesh that was kept. What lay beside it is told when it comes, and not known any more."""
    return _answer(replace(state.meshes.file(sha256, name), missing=()), sha256, name, px)


def _answer(read: MeshFile, sha256: str, name: str, px: int) -> MeshLook:
    shape = read.shape
    found = found_on(name, read, px)
    stem, role = role_of(PurePath(name).stem)
    return MeshLook(
        sha256=sha256,
        name=name,
        print=print_of(shape),
        stem=stem,
        role=role,
        triangles=len(shape.triangles),
        size=shape.size,
        parts=[part for part in shape.parts if part],
        materials=[
            MeshMaterial(name=material, triangles=count) for material, count in zip(shape.materials, triangles_worn(shape))
        ],
        pictures=read.pictures,
        beside=[PictureBesideRow(**asdict(one)) for one in read.beside],
        values=[ValuesRow(**asdict(one)) for one in read.values],
        has_uv=shape.uv is not None,
        tiles=list(tiles_of(shape)),
        are_copies=are_copies(shape),
        px=px,
        open_edges=edges_of(shape).open_count,
        is_both=is_both(shape.parts),
        findings=found,
        fixes={one.id: fix for one in found if (fix := FINDINGS[one.id].fix) is not None},
    )


@router.post("/meshes/{sha256}/mended", status_code=201)
def mend(state: State, sha256: str, name: Name, finding: str, px: Size = 2048) -> MeshLook:
    """Make a mesh without what was found on it, beside the one that came; and say what is in it."""
    made, content = mended(state.meshes.file(sha256, name).shape, name, finding)
    return _look(state, io.BytesIO(content), made, px)


@router.post("/meshes/{sha256}/unfolded", status_code=201)
def unfold(state: State, sha256: str, name: Name, way: Mapping, second: bool = False, px: Size = 2048) -> MeshLook:
    """Make a mesh with UV by the machine, beside the one that came; as its second ones they are for light alone."""
    made, content = unfolded(state.meshes.file(sha256, name).shape, name, way, second=second)
    return _look(state, io.BytesIO(content), made, px)


def _shape(state: AppState, sha256: str, name: str, material: int, tile: int | None = None) -> Shape:
    return on_tile(of_material(state.meshes.file(sha256, name).shape, material), tile)


@router.get("/meshes/{sha256}/worn", response_class=Response)
def worn_mesh(state: State, sha256: str, name: Name, material: Material = 0) -> Response:
    """What wears one of its materials, as a .glb with tangents of the common standard."""
    return Response(worn(_shape(state, sha256, name, material)), media_type="model/gltf-binary", headers=FOREVER)


@router.get("/meshes/{sha256}/borders")
def uv_borders(
    state: State, sha256: str, name: Name, material: Material = 0, tile: Tile = None
) -> list[tuple[float, float, float, float]]:
    """The borders of its islands over the picture, or one tile of it: from and to, in shares from the upper left."""
    return borders(_shape(state, sha256, name, material, tile))


@router.get("/meshes/{sha256}/marks/{kind}", response_class=Response)
def marks(
    state: State,
    sha256: str,
    kind: str,
    name: Name,
    material: Material = 0,
    px: Annotated[int, Query(ge=8, le=2048)] = 1024,
    size: Size = 2048,
    tile: Tile = None,
) -> Response:
    """What is found on a mesh, as a PNG to lay over its picture: overlaps, stretch, hard edges inside an island, margins.

    ``size`` is that of the maps that it will wear, which margins are judged at.
    """
    picture = marks_of(_shape(state, sha256, name, material, tile), kind, px, size)
    return Response(picture, media_type="image/png", headers=FOREVER)


@router.get("/missed/{sha256}", response_class=Response)
def missed(state: State, sha256: str) -> Response:
    """Where the rays of a bake met nothing, as a PNG to lay over the picture."""
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return Response(missed_marks(read_bytes(content, "missed.png").codes), media_type="image/png", headers=FOREVER)


@router.post("/projects/{project}/wearings/plan")
def plan_wearings(state: State, project: str, request: WearRequest) -> WearingsAnswer:
    """Which set each of these meshes belongs to, and what for; what belongs to none says why."""
    with state.pool.connection() as conn:
        there = [row.name for row in sets.list_sets(conn, projects.project_named(conn, project).id)]
    known = {name.casefold() for name in (*there, *request.sets)}
    offers = [
        MeshOffer(
            PurePath(mesh.name).stem,
            mesh.triangles,
            tuple((one.name, one.triangles) for one in mesh.materials),
            mesh.role,
            is_both(mesh.parts),
            mesh.folder,
        )
        for mesh in request.meshes
    ]
    found = wearings_of(offers, [*there, *request.sets])
    refs = [MeshRef(sha256=m.sha256, name=m.name, print=m.print, triangles=m.triangles) for m in request.meshes]
    rows = []
    for one in found.sets:
        high, cage = tuple(refs[k] for k in one.high), None if one.cage is None else refs[one.cage]
        told = Worn(low=refs[one.low], material=one.material, called=one.called, high=high, cage=cage)
        rows.append(WearingRow(set_name=one.set_name, is_new=one.set_name.casefold() not in known, worn=told))
    return WearingsAnswer(sets=rows, alone=[AloneMesh(name=request.meshes[one.mesh].name, why=one.why) for one in found.alone])


@router.post("/projects/{project}/wearings", status_code=201)
def wear(state: State, project: str, request: WearingsRequest) -> list[TextureSet]:
    """Let sets be worn by meshes: those of the names as they are, those that are not there made anew, with no maps yet."""
    made = []
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        there = {row.name.casefold(): row for row in sets.list_sets(conn, box.id)}
        for entry in request.sets:
            name = legal_name(entry.set_name)
            row = there.get(name.casefold())
            if row is None:
                facts = Facts(width=request.size, height=request.size, edges=Edges(x="mirror", y="mirror"), edges_from="told")
                recipe = with_values(Recipe(facts=facts, worn=entry.worn), entry.values)
                set_id = sets.create_set(conn, project_id=box.id, name=name, recipe=recipe)
            else:
                set_id, worn = row.id, entry.worn.told_by(row.recipe.worn)
                recipe = row.recipe.model_copy(update={"worn": worn})
                sets.write_recipe(conn, set_id, expects=row.head, recipe=recipe, note=changes(row.recipe, recipe))
            made.append(set_answer(sets.get_set(conn, set_id)))
    return made
