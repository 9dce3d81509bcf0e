"""Meshes: bytes to shapes and back. One row a format."""

from __future__ import annotations

from collections.abc import Callable, Generator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from types import MappingProxyType
from typing import Protocol

from ...core.errors import FileTooLarge, MeshInvalid
from ...core.intake.materials import PictureBeside, ValuesTold
from ...core.mesh.pairing import role_of
from ...core.mesh.shape import Shape
from .gltf import gltf_images, gltf_parts, gltf_whole, read_gltf
from .gltf_materials import GltfPicture, count_of_pictures, gltf_beside, gltf_layings, gltf_pictures, gltf_values
from .mtl import mtl_pictures, mtl_values
from .obj import obj_document, obj_libraries, read_obj
from .ply import ply_document, read_ply
from .stl import read_stl
from .writing import glb_of

__all__ = [
    "BESIDE_SUFFIXES",
    "MESH_SUFFIXES",
    "GltfPicture",
    "Materials",
    "MeshFile",
    "glb_of",
    "is_of_meshes",
    "materials_from",
    "gltf_pictures",
    "mesh_from",
    "obj_document",
    "ply_document",
    "read_materials",
    "read_mesh",
    "whole_mesh",
]

MAX_BYTES = 2 << 30
NOTHING: Mapping[str, bytes] = MappingProxyType({})


@dataclass(frozen=True)
class MeshFile:
    """A shape as a file gave it, and what the file names that does not lie beside it, or lies outside of its folder.

    ``pictures`` counts those inside of it that its materials read; ``beside`` are those in files of their own, and ``values``
    what its materials say without a picture; ``layings`` say what was done to the UV of those that want it.
    """

    shape: Shape
    missing: tuple[str, ...] = ()
    outside: tuple[str, ...] = ()
    pictures: int = 0
    beside: tuple[PictureBeside, ...] = ()
    values: tuple[ValuesTold, ...] = ()
    layings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Materials:
    """What the materials of a mesh say: pictures inside of it and beside it, and values where there is none."""

    pictures: tuple[GltfPicture, ...] = ()
    beside: tuple[PictureBeside, ...] = ()
    values: tuple[ValuesTold, ...] = ()


class _Beside(Protocol):
    """What lies beside a file."""

    def __call__(self, name: str) -> bytes | None:
        """What is in a file of that name, as the mesh gives it."""
        ...

    def lacks(self, names: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Which of the names are missing, and which lie outside of the folder."""
        ...


@dataclass(frozen=True)
class _InFolder:
    """The files of a folder: nothing outside of it is read."""

    folder: Path

    def __call__(self, name: str) -> bytes | None:
        path = self._path(name)
        return path.read_bytes() if path is not None and path.is_file() else None

    def lacks(self, names: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Which of the names are missing, and which lie outside of the folder."""
        paths = {name: self._path(name) for name in names}
        missing = tuple(name for name, path in paths.items() if path is not None and not path.is_file())
        return missing, tuple(name for name, path in paths.items() if path is None)

    def _path(self, name: str) -> Path | None:
        path = (self.folder / name.replace("\\", "/")).resolve()
        return path if path.is_relative_to(self.folder.resolve()) else None


@dataclass(frozen=True)
class _Brought:
    """Files that came together, by their names without folders."""

    files: Mapping[str, bytes]

    def __call__(self, name: str) -> bytes | None:
        return self.files.get(PurePosixPath(name.replace("\\", "/")).name)

    def lacks(self, names: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Which of the names did not come along."""
        return tuple(dict.fromkeys(name for name in names if self(name) is None)), ()


def _obj(content: bytes, near: _Beside, mesh: str) -> MeshFile:
    shape, names = read_obj(content), obj_libraries(content)
    beside, values = _of_libraries(names, near, mesh)
    return MeshFile(shape, *near.lacks(names), beside=beside, values=values)


def _of_libraries(names: Sequence[str], near: _Beside, mesh: str) -> tuple[tuple[PictureBeside, ...], tuple[ValuesTold, ...]]:
    libraries = [library for name in names if (library := near(name)) is not None]
    pictures = tuple(row for one in libraries for row in mtl_pictures(one, mesh))
    return pictures, tuple(row for one in libraries for row in mtl_values(one, mesh))


def _gltf(content: bytes, near: _Beside, mesh: str) -> MeshFile:
    document, _ = gltf_parts(content)
    layings = gltf_layings(document)
    shape = read_gltf(content, near, layings)
    return MeshFile(
        shape,
        *near.lacks(gltf_images(document)),
        pictures=count_of_pictures(document),
        beside=tuple(gltf_beside(document, mesh)),
        values=tuple(gltf_values(document, mesh)),
        layings=tuple(dict.fromkeys(one.said for one in layings if one is not None and one.said)),
    )


_READERS: Mapping[str, Callable[[bytes, _Beside, str], MeshFile]] = MappingProxyType(
    {
        ".obj": _obj,
        ".ply": lambda content, near, mesh: MeshFile(read_ply(content)),
        ".stl": lambda content, near, mesh: MeshFile(read_stl(content)),
        ".gltf": _gltf,
        ".glb": _gltf,
    }
)
MESH_SUFFIXES = tuple(_READERS)
BESIDE_SUFFIXES = (".bin", ".mtl")  # of files that a mesh names and that are none by themselves


def is_of_meshes(name: str) -> bool:
    """Whether a file is a mesh by its ending, or lies beside one.

    Examples
    --------
    >>> is_of_meshes("a/clasp.GLTF"), is_of_meshes("clasp.bin"), is_of_meshes("clasp.png")
    (True, True, False)
    """
    return PurePosixPath(name).suffix.lower() in (*MESH_SUFFIXES, *BESIDE_SUFFIXES)


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
    return _read(path.read_bytes(), path.name, _InFolder(path.parent))


def read_materials(path: str | Path) -> Materials:
    """What the materials of a mesh say, without its shape. Raises MeshInvalid, OSError."""
    path = Path(path)
    return _materials(path.read_bytes(), path.name, _InFolder(path.parent))


def materials_from(content: bytes, name: str, beside: Mapping[str, bytes] = NOTHING) -> Materials:
    """As ``read_materials``, of bytes and the files that came along."""
    return _materials(content, name, _Brought(beside))


def _materials(content: bytes, name: str, near: _Beside) -> Materials:
    suffix, mesh = PurePosixPath(name).suffix.lower(), role_of(PurePosixPath(name).stem)[0]
    if suffix == ".obj":
        beside, values = _of_libraries(obj_libraries(content), near, mesh)
        return Materials(beside=beside, values=values)
    if suffix not in (".gltf", ".glb"):
        return Materials()
    with _named(name):
        document, _ = gltf_parts(content)
    return Materials(tuple(gltf_pictures(content, mesh)), tuple(gltf_beside(document, mesh)), tuple(gltf_values(document, mesh)))


def mesh_from(content: bytes, name: str, beside: Mapping[str, bytes] = NOTHING) -> MeshFile:
    """As ``read_mesh``, of bytes; what they name is looked for in the files that came along, by their names without folders."""
    return _read(content, name, _Brought(beside))


def whole_mesh(content: bytes, name: str, beside: Mapping[str, bytes]) -> bytes:
    """The same mesh as one file that needs no other: buffers that came along are put into it. Raises MeshInvalid."""
    with _named(name):
        return gltf_whole(content, _Brought(beside)) if Path(name).suffix.lower() == ".gltf" else content


def _read(content: bytes, name: str, near: _Beside) -> MeshFile:
    reader = _reader_of(name)
    with _named(name):
        return reader(content, near, role_of(PurePosixPath(name).stem)[0])


@contextmanager
def _named(name: str) -> Generator[None, None, None]:
    """What is wrong with a file is told with its name."""
    try:
        yield
    except MeshInvalid as problem:
        raise MeshInvalid(f"{name}: {problem.message}") from problem


def _reader_of(name: str) -> Callable[[bytes, _Beside, str], MeshFile]:
    reader = _READERS.get(Path(name).suffix.lower())
    if reader is None:
        raise MeshInvalid(f"{name} is of no format of meshes that is read here: {', '.join(MESH_SUFFIXES)}.")
    return reader
