"""Meshes among files on disk: what their materials say of the pictures beside them, and the pictures inside of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path, PurePath

from ...core.errors import SieveError
from ...core.findings import finding
from ...core.intake.folders import joined
from ...core.intake.materials import Hearing, PictureBeside, ValuesTold, readings_of
from ...core.mesh.pairing import role_of
from ...core.target import legal_name
from ...files import Member, members, names_inside
from ...files.meshes import MESH_SUFFIXES, Materials, is_of_meshes, materials_from, read_materials
from .looking import Gathered, Looked, is_zip_file, look_at_inside, look_by_material, passed_over, speakable

__all__ = ["Heard", "hear"]


@dataclass(frozen=True)
class Heard:
    """Files with what meshes say of them, and by set what its material has one value for."""

    files: list[Gathered]
    values: Mapping[str, Mapping[str, Sequence[float]]] = field(default_factory=dict)


def hear(gathered: Sequence[Gathered], paths: Iterable[Path]) -> Heard:
    """Files as the materials of the meshes among ``paths`` read them, with the pictures inside of these.

    A mesh that cannot be read is a finding of its own and stops nothing.
    """
    paths = list(paths)
    meshes = [mesh for path in paths for mesh in _meshes(path)]
    own = {speakable(str(path)) for path in paths if meshes and is_of_meshes(path.name)}
    files = [file for file in gathered if file.label not in own]
    told: list[PictureBeside] = []
    values: dict[str, Mapping[str, Sequence[float]]] = {}
    has_mesh = False
    for mesh in meshes:
        try:
            materials = mesh.read()
        except (SieveError, OSError) as problem:
            files.append(_refused(mesh, problem))
            continue
        has_mesh = True
        told += [replace(one, folder=joined(mesh.folder, one.folder)) for one in materials.beside]
        values |= _values_by_set(role_of(PurePath(mesh.name).stem)[0], materials.values)
        looks = [(look_at_inside(picture), picture.content) for picture in materials.pictures]
        files += [Gathered(f"{mesh.label}/{looked.name}", looked, lambda kept=kept: kept) for looked, kept in looks]
    if has_mesh:
        files = [replace(one, looked=passed_over(one.looked)) if one.looked.is_foreign_mesh else one for one in files]
    return Heard(_as_read(files, told) if told else files, values)


@dataclass(frozen=True)
class _Mesh:
    """A mesh among the files: how to call it, its name, the folders that it came in, and what its materials say on demand."""

    label: str
    name: str
    folder: str
    read: Callable[[], Materials]


def _meshes(path: Path) -> Iterator[_Mesh]:
    """A mesh on disk, or those inside of a zip."""
    if path.suffix.lower() in MESH_SUFFIXES:
        yield _Mesh(str(path), speakable(path.name), speakable(path.parent.as_posix()), partial(read_materials, path))
    inside = _members(path) if is_zip_file(path) else []
    near = {one.name: one.content for one in inside if one.problem is None}
    for one in inside:
        if _is_mesh(one.name):
            yield _Mesh(f"{path}/{one.name}", one.name, one.folder, partial(_of_member, one, near))


def _members(path: Path) -> list[Member]:
    """What is in a zip that holds a mesh; of one that cannot be opened its pictures say why."""
    with path.open("rb") as content, suppress(SieveError):
        if any(_is_mesh(name) for name in names_inside(content)):
            return list(members(content, path.name, is_of_meshes))
    return []


def _of_member(one: Member, near: Mapping[str, bytes]) -> Materials:
    if one.problem is not None:
        raise one.problem
    return materials_from(one.content, one.name, near)


def _is_mesh(name: str) -> bool:
    return PurePath(name).suffix.lower() in MESH_SUFFIXES


def _refused(mesh: _Mesh, problem: SieveError | OSError) -> Gathered:
    why = problem.message if isinstance(problem, SieveError) else problem.strerror or str(problem)
    refused = finding("mesh-unreadable", why=f"{mesh.name}: {why}")
    return Gathered(mesh.label, Looked(mesh.name, "", 0, None, None, (refused,)), bytes)


def _values_by_set(stem: str, told: Sequence[ValuesTold]) -> dict[str, Mapping[str, tuple[float, ...]]]:
    """A mesh of one material is called as it is or as the material."""
    named = {legal_name(one.called): one.values for one in told}
    return named | ({legal_name(stem): told[0].values} if len(told) == 1 else {})


def _as_read(files: Sequence[Gathered], told: Sequence[PictureBeside]) -> list[Gathered]:
    usable = [k for k, file in enumerate(files) if file.looked.look is not None]
    hearings = [Hearing(files[k].looked.name, files[k].looked.folder, files[k].looked.set_stem) for k in usable]
    changed = list(files)
    for k, (reading, set_name) in zip(usable, readings_of(hearings, told)):
        file, looked = files[k], files[k].looked
        if reading is not None:
            changed[k] = replace(file, looked=look_by_material(file.content(), looked.name, reading, looked.folder))
        elif looked.look is not None and set_name != looked.set_stem:
            changed[k] = replace(file, looked=replace(looked, look=replace(looked.look, stem=set_name)))
    return changed
