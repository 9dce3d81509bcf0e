"""Meshes among files on disk: what their materials say of the pictures beside them, and the pictures inside of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from ...core.errors import SieveError
from ...core.findings import finding
from ...core.intake.materials import Hearing, PictureBeside, ValuesTold, readings_of
from ...core.mesh.pairing import role_of
from ...core.target import legal_name
from ...files.meshes import BESIDE_SUFFIXES, MESH_SUFFIXES, Materials, read_materials
from .looking import Gathered, Looked, look_at_inside, look_by_material, speakable

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
    meshes = [path for path in paths if path.suffix.lower() in MESH_SUFFIXES]
    own = {speakable(str(path)) for path in paths if meshes and path.suffix.lower() in (*MESH_SUFFIXES, *BESIDE_SUFFIXES)}
    files = [file for file in gathered if file.label not in own]
    told: list[PictureBeside] = []
    values: dict[str, Mapping[str, Sequence[float]]] = {}
    for path in meshes:
        name = speakable(path.name)
        try:
            materials = read_materials(path)
        except (SieveError, OSError) as problem:
            why = problem.message if isinstance(problem, SieveError) else problem.strerror or str(problem)
            refused = finding("mesh-unreadable", why=f"{name}: {why}")
            files.append(Gathered(str(path), Looked(name, "", 0, None, None, (refused,)), path.read_bytes))
            continue
        told += materials.beside
        values |= _values_by_set(role_of(speakable(path.stem))[0], materials.values)
        files += _inside(path, materials)
    return Heard(_as_read(files, told) if told else files, values)


def _inside(path: Path, materials: Materials) -> list[Gathered]:
    looks = [(look_at_inside(picture), picture.content) for picture in materials.pictures]
    return [Gathered(f"{path}/{looked.name}", looked, lambda kept=content: kept) for looked, content in looks]


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
            how = {"folder": looked.folder, "is_cut": reading.is_cut, "multiplied": reading.multiplied}
            again = look_by_material(file.content(), looked.name, reading.slots, reading.material, reading.called, **how)
            changed[k] = replace(file, looked=again)
        elif looked.look is not None and set_name != looked.set_stem:
            changed[k] = replace(file, looked=replace(looked, look=replace(looked.look, stem=set_name)))
    return changed
