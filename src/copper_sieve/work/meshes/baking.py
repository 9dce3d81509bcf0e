"""A bake from files to files: one set of maps for each material of the low mesh."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from ...core.bake import BakePlan, bake
from ...core.bake.baking import Baked, BakedMap
from ...core.baked_maps import MapName
from ...core.bands import NEVER, Cancel
from ...core.checks.mesh import SeenMesh, uv_findings
from ...core.checks.mesh_pairs import cage_findings, pair_findings
from ...core.errors import MeshInvalid
from ...core.findings import Finding
from ...core.mesh.made import high_of, low_of, only
from ...core.mesh.pairing import print_of
from ...core.mesh.shape import Shape
from ...core.target.naming import legal_name
from ...files import encode
from ...files.encoding import write_bytes
from ...files.meshes import read_mesh
from .casting import caster_for, parted_for

__all__ = ["BakeJob", "BakedFile", "bake_to_files", "codes_of"]

_VECTORS: tuple[MapName, ...] = ("normal", "object_normal")
_BYTES: tuple[MapName, ...] = ("id",)


@dataclass(frozen=True)
class BakeJob:
    """What is baked: files, what of them, and where to.

    Parameters
    ----------
    offset : how far above the low mesh rays start, in units of the mesh, or with % of its box's diagonal; None: found
    """

    low: Path
    high: Path | None
    out: Path
    plan: BakePlan
    cage: Path | None = None
    offset: str | None = None
    replaces: bool = False


@dataclass(frozen=True)
class BakedFile:
    """One file that a bake wrote."""

    path: Path
    map: str
    size: int
    depth: int
    missed: float
    range: tuple[Any, Any] | None

    def row(self) -> dict[str, Any]:
        """As the terminal's JSON has it."""
        told = {"path": str(self.path), "map": self.map, "width": self.size, "height": self.size, "depth": self.depth}
        return {**told, "missed": round(self.missed, 6), "range": None if self.range is None else list(self.range)}


def bake_to_files(
    job: BakeJob, *, cancel: Cancel = NEVER, progress: Callable[[float], None] = lambda share: None
) -> tuple[list[BakedFile], list[Finding]]:
    """Bake, and write 16-bit PNG files (ID: 8 bits) with a map of misses and a ``_bake.json`` that says how.

    Files are written once all maps of a material are made, each under a temporary name and renamed.

    Raises
    ------
    MeshInvalid : a mesh cannot be read or baked to, the cage is none of it, or a file is there already
    """
    low = low_of(read_mesh(job.low).shape)
    high = None if job.high is None else high_of(read_mesh(job.high).shape)
    plan, found = job.plan, [one for one in uv_findings(SeenMesh(job.low.name, low)) if one.grade == "stop"]
    if found:
        return [], found
    if job.cage is not None:
        cage = read_mesh(job.cage).shape
        found += cage_findings(job.cage.name, low, cage)
        if any(one.grade == "stop" for one in found):
            return [], found
        plan = replace(plan, cage=cage)
    plan = replace(plan, offset=_length(job.offset, low))
    if high is not None:
        found += pair_findings([*low.parts, *high.parts])
    giver = high or low
    caster = caster_for(giver, cancel=cancel)
    files: list[BakedFile] = []
    told: list[dict[str, Any]] = []
    parts = list(_by_material(low, plan, job.low.stem))
    job.out.mkdir(parents=True, exist_ok=True)
    for number, (name, part, own) in enumerate(parts):
        _refuse_present(job, name, own)

        def tell(share: float, number: int = number) -> None:
            progress((number + share) / len(parts))

        parted = parted_for(part, high, cancel=cancel)
        baked = bake(part, high, own, caster, parted=parted, cancel=cancel, progress=tell)
        found += baked.findings
        cancel.check()
        files += _written(job.out, name, own, baked)
        told.append({"name": name, "offset": baked.offset, "caster": baked.caster, "missed": baked.missed_share})
    if files:
        manifest = {
            "low": {"file": job.low.name, "print": print_of(low)},
            "high": None if high is None or job.high is None else {"file": job.high.name, "print": print_of(high)},
            "cage": None if job.cage is None else job.cage.name,
            "tangents": "Y+; common standard (Mikkelsen 2008); normals and tangents interpolated, not brought to length 1",
            "samples": plan.samples,
            "rays": plan.rays,
            "seed": plan.seed,
            "bakes": told,
            "files": [{**one.row(), "path": one.path.name} for one in files],
        }
        write_bytes(
            job.out / f"{legal_name(job.low.stem)}_bake.json",
            (json.dumps(manifest, indent=2, ensure_ascii=False) + "\n").encode(),
        )
    return files, found


def _length(text: str | None, low: Shape) -> float | None:
    """A length in units of the mesh, or with % of the diagonal of its box. Raises MeshInvalid."""
    if text is None:
        return None
    try:
        is_share = text.strip().endswith("%")
        value = float(text.strip().rstrip("%"))
    except ValueError as problem:
        raise MeshInvalid(f"an offset is a length as 0.02, or a share of the box as 2% (got {text!r}).") from problem
    if not value > 0 or not np.isfinite(value):
        raise MeshInvalid(f"an offset must be more than 0 (got {text!r}).")
    return value / 100 * low.size if is_share else value


def _by_material(low: Shape, plan: BakePlan, stem: str) -> Iterator[tuple[str, Shape, BakePlan]]:
    """The low mesh parted by material, as each has a picture of its own; with the names that files begin with."""
    used = [k for k in range(len(low.materials)) if (low.material == k).any()]
    if len(used) == 1:
        yield legal_name(stem), low, plan
        return
    for k in used:
        which = low.material == k
        cage = None if plan.cage is None else only(plan.cage, which)
        yield legal_name(f"{stem}_{low.materials[k] or f'material {k}'}"), only(low, which), replace(plan, cage=cage)


def _path(out: Path, name: str, map: str) -> Path:
    return out / f"{name}_{map}.png"


def _refuse_present(job: BakeJob, name: str, plan: BakePlan) -> None:
    there = [path.name for map in plan.maps if (path := _path(job.out, name, map)).exists()]
    if there and not job.replaces:
        raise MeshInvalid(f"{there[0]} is there already. Name another folder, or say --replace.")


def _written(out: Path, name: str, plan: BakePlan, baked: Baked) -> list[BakedFile]:
    files = []
    for map, made in baked.maps.items():
        codes = codes_of(map, made)
        path = _path(out, name, map)
        write_bytes(path, encode(codes, "png"))
        span = None if made.low is None else (made.low, made.high)
        files.append(BakedFile(path, map, plan.size, codes.itemsize * 8, baked.missed_share, span))
    if baked.missed.any():
        write_bytes(_path(out, name, "missed"), encode((baked.missed * np.uint8(255)).astype(np.uint8), "png"))
        files.append(BakedFile(_path(out, name, "missed"), "missed", plan.size, 8, baked.missed_share, None))
    return files


def codes_of(map: MapName, made: BakedMap) -> np.ndarray:
    """A baked map as the codes of its file: 16 bits, 8 of what are marks."""
    values = made.values * 0.5 + 0.5 if map in _VECTORS else made.values
    top, kind = (255, np.uint8) if map in _BYTES else (65535, np.uint16)
    return np.clip(values * top + 0.5, 0, top).astype(kind)
