"""Meshes that sets are looked at on: what is found on them, and what of them the screen draws."""

from __future__ import annotations

import hashlib
from typing import IO, Annotated

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from ...core.mesh import Shape
from ...files.meshes import mesh_from
from ...store.originals import keep_original, original_bytes
from ...work.meshes import borders, found_on, of_material, worn
from ..models.meshes import MeshLook, MeshMaterial
from ..received import RAW_BODY, received
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_FOREVER = {"cache-control": "max-age=31536000, immutable"}
Name = Annotated[str, Query(min_length=1, max_length=200)]
Material = Annotated[int, Query(ge=0)]


@router.post("/meshes", status_code=201, openapi_extra=RAW_BODY)
async def look_at_mesh(state: State, request: Request, name: Name, px: Annotated[int, Query(ge=8, le=16384)] = 2048) -> MeshLook:
    """Take a mesh's bytes as the body, and say what is in it; ``px`` is the size of the maps that it will wear."""
    async with received(request, name) as content:
        return await run_in_threadpool(_look, state, content, name, px)


def _look(state: AppState, content: IO[bytes], name: str, px: int) -> MeshLook:
    whole = content.read()
    read = mesh_from(whole, name)
    shape, sha256 = read.shape, hashlib.sha256(whole).hexdigest()
    content.seek(0)
    with state.pool.connection() as conn:
        keep_original(conn, sha256=sha256, name=name, size_bytes=len(whole), content=content)
    counts = shape.counts - 2
    return MeshLook(
        sha256=sha256,
        name=name,
        triangles=len(shape.triangles),
        parts=[part for part in shape.parts if part],
        materials=[
            MeshMaterial(name=material, triangles=int(counts[shape.material == k].sum()))
            for k, material in enumerate(shape.materials)
        ],
        has_uv=shape.uv is not None,
        findings=found_on(name, read, px),
    )


def _shape(state: AppState, sha256: str, name: str, material: int) -> Shape:
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return of_material(mesh_from(content, name).shape, material)


@router.get("/meshes/{sha256}/worn", response_class=Response)
def worn_mesh(state: State, sha256: str, name: Name, material: Material = 0) -> Response:
    """What wears one of its materials, as a .glb with tangents of the common standard."""
    return Response(worn(_shape(state, sha256, name, material)), media_type="model/gltf-binary", headers=_FOREVER)


@router.get("/meshes/{sha256}/borders")
def uv_borders(state: State, sha256: str, name: Name, material: Material = 0) -> list[tuple[float, float, float, float]]:
    """The borders of its islands over the picture: from and to, in shares from the upper left."""
    return borders(_shape(state, sha256, name, material))
