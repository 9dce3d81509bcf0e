"""Meshes as they come: by themselves with what lies beside them, or inside a zip."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import IO

from ...core.errors import SieveError
from ...core.intake.folders import joined
from ...files import members, names_inside
from ...files.meshes import MESH_SUFFIXES, MeshFile, is_of_meshes, mesh_from, whole_mesh

__all__ = ["TakenMesh", "meshes_in_zip", "taken"]


@dataclass(frozen=True)
class TakenMesh:
    """A mesh with the bytes that are kept of it, which need no other file; or why it could not be read."""

    name: str
    content: bytes = b""
    read: MeshFile | None = None
    problem: str = ""
    folder: str = ""


def taken(content: bytes, name: str, beside: Mapping[str, bytes]) -> TakenMesh:
    """Read a mesh with what came along. Raises MeshInvalid."""
    return TakenMesh(name, whole_mesh(content, name, beside), mesh_from(content, name, beside))


def meshes_in_zip(content: IO[bytes], name: str) -> Iterator[TakenMesh]:
    """Every mesh of a zip, each with what lies in the same zip; one that cannot be read says so and stops no other.

    A zip that cannot be opened holds none: its pictures say why.
    """
    if not any(_suffix(one) in MESH_SUFFIXES for one in names_inside(content)):
        return
    inside = list(members(content, name, is_of_meshes))  # of pictures, which are looked at elsewhere, the names
    beside = {one.name: one.content for one in inside if one.problem is None}
    for one in inside:
        if _suffix(one.name) not in MESH_SUFFIXES:
            continue
        if one.problem is not None:
            yield TakenMesh(one.name, problem=one.problem.message)
            continue
        near = {**beside, **{two.name: two.content for two in inside if two.folder == one.folder and two.problem is None}}
        try:
            yield _found_at(one.folder, taken(one.content, one.name, near))
        except SieveError as problem:
            yield TakenMesh(one.name, problem=problem.message)


def _found_at(folder: str, mesh: TakenMesh) -> TakenMesh:
    """A mesh that came in a folder: what its materials name lies from there on."""
    assert mesh.read is not None
    beside = tuple(replace(one, folder=joined(folder, one.folder)) for one in mesh.read.beside)
    return replace(mesh, read=replace(mesh.read, beside=beside), folder=folder)


def _suffix(name: str) -> str:
    return PurePosixPath(name).suffix.lower()
