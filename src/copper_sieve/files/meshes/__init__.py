"""Meshes: bytes to shapes and back. One row a format."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType

from ...core.errors import FileTooLarge, MeshInvalid
from ...core.mesh.shape import Shape
from .gltf import gltf_images, read_gltf
from .obj import obj_document, obj_libraries, read_obj
from .ply import ply_document, read_ply
from .stl import read_stl
from .writing import glb_of

__all__ = ["MESH_SUFFIXES", "MeshFile", "glb_of", "mesh_from", "obj_document", "ply_document", "read_mesh"]

MAX_BYTES = 2 << 30


@dataclass(frozen=True)
class MeshFile:
    """A shape as a file gave it, and what the file names that does not lie beside it, or lies outside of its folder."""

    shape: Shape
    missing: tuple[str, ...] = ()
    outside: tuple[str, ...] = ()


@dataclass
class _Beside:
    """What lies beside a file: nothing outside of its folder is read."""

    folder: Path | None  # None: a file by itself has nothing beside it
    outside: list[str]

    def __call__(self, name: str) -> bytes | None:
        path = self.path(name)
        return path.read_bytes() if path is not None and path.is_file() else None

    def path(self, name: str) -> Path | None:
        if self.folder is None:
            return None
        path = (self.folder / name.replace("\\", "/")).resolve()
        if path.is_relative_to(self.folder.resolve()):
            return path
        self.outside.append(name)
        return None


def _obj(content: bytes, near: _Beside) -> tuple[Shape, list[str]]:
    return read_obj(content), obj_libraries(content)


def _gltf(content: bytes, near: _Beside) -> tuple[Shape, list[str]]:
    return read_gltf(content, near), gltf_images(content)


_READERS: Mapping[str, Callable[[bytes, _Beside], tuple[Shape, list[str]]]] = MappingProxyType(
    {
        ".obj": _obj,
        ".ply": lambda content, near: (read_ply(content), []),
        ".stl": lambda content, near: (read_stl(content), []),
        ".gltf": _gltf,
        ".glb": _gltf,
    }
)
MESH_SUFFIXES = tuple(_READERS)


def read_mesh(path: str | Path) -> MeshFile:
    """Read a mesh. What it names beside it is looked for in its own folder only.

    Raises
    ------
    MeshInvalid : it is none that can be read; the message says what was read and what to do
    FileTooLarge : it is larger than 2 GB
    OSError : the file cannot be opened
    """
    path = Path(path)
    _reader_of(path.name)
    if path.stat().st_size > MAX_BYTES:
        raise FileTooLarge(f"{path.name} is larger than {MAX_BYTES >> 30} GB. Bring it in parts.")
    return mesh_from(path.read_bytes(), path.name, path.parent)


def mesh_from(content: bytes, name: str, folder: Path | None = None) -> MeshFile:
    """As ``read_mesh``, of bytes; what they name is looked for in ``folder``, nowhere where that is None."""
    reader, near = _reader_of(name), _Beside(folder, [])
    try:
        shape, named = reader(content, near)
    except MeshInvalid as problem:
        raise MeshInvalid(f"{name}: {problem.message}") from problem
    found = {one: near.path(one) for one in named}
    missing = tuple(one for one, at in found.items() if (at is None and folder is None) or (at is not None and not at.is_file()))
    return MeshFile(shape, missing, tuple(dict.fromkeys(near.outside)))


def _reader_of(name: str) -> Callable[[bytes, _Beside], tuple[Shape, list[str]]]:
    reader = _READERS.get(Path(name).suffix.lower())
    if reader is None:
        raise MeshInvalid(f"{name} is of no format of meshes that is read here: {', '.join(MESH_SUFFIXES)}.")
    return reader
