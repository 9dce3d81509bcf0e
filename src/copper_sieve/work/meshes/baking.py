"""A bake from files to files: one set of maps for each material of the low mesh."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from ...core.bake import BakePlan
from ...core.bands import NEVER, Cancel
from ...core.checks.mesh import SeenMesh, uv_findings
from ...core.checks.mesh_pairs import cage_findings, pair_findings
from ...core.errors import MeshInvalid
from ...core.findings import Finding
from ...core.mesh.made import high_of, low_of, only
from ...core.mesh.pairing import print_of
from ...core.mesh.shape import Shape
from ...core.mesh.udim import are_copies, tiles_of
from ...core.target.naming import legal_name
from ...files.encoding import write_bytes
from ...files.meshes import read_mesh
from .casting import caster_for, parted_for
from .pictures import Bodies, Outcome, Picture, bake_pictures

__all__ = ["BakeJob", "BakedFile", "bake_to_files"]


@dataclass(frozen=True)
class BakeJob:
    """What is baked: files, what of them, and where to.

    Parameters
    ----------
    offset : how far above the low mesh rays start, in units of the mesh, or with % of its box's diagonal; None: found
    is_in_tiles : whether each UDIM tile that UV lie in has a picture; None: unless they are copies of the first
    """

    low: Path
    high: Path | None
    out: Path
    plan: BakePlan
    cage: Path | None = None
    offset: str | None = None
    replaces: bool = False
    is_in_tiles: bool | None = None


@dataclass(frozen=True)
class BakedFile:
    """One file that a bake wrote."""

    path: Path
    map: str
    size: int
    depth: int
    missed: float
    range: tuple[Any, Any] | None
    tile: int | None = None

    def row(self) -> dict[str, Any]:
        """As the terminal's JSON has it."""
        told = {"path": str(self.path), "map": self.map, "width": self.size, "height": self.size, "depth": self.depth}
        told |= {"missed": round(self.missed, 6), "range": None if self.range is None else list(self.range)}
        return told if self.tile is None else {**told, "tile": self.tile}


def bake_to_files(
    job: BakeJob, *, cancel: Cancel = NEVER, progress: Callable[[float], None] = lambda share: None
) -> tuple[list[BakedFile], list[Finding]]:
    """Bake, and write 16-bit PNG files (ID: 8 bits) with a map of misses and a ``_bake.json`` that says how.

    A mesh whose UV lie in several tiles is baked to each, with its number in the names. Files are written once all maps of a
    material are made, each under a temporary name and renamed.

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
        is_in_tiles = not are_copies(part) if job.is_in_tiles is None else job.is_in_tiles
        tiles = tiles_of(part) if is_in_tiles else ()
        tiles = tiles if len(tiles) > 1 else ()
        _refuse_present(job, name, own, tiles)

        def tell(share: float, number: int = number) -> None:
            progress((number + share) / len(parts))

        pictures: list[Picture] = []
        bodies = Bodies(part, high, caster, parted_for(part, high, cancel=cancel))
        outcome = bake_pictures(bodies, own, pictures.append, tiles=tiles, cancel=cancel, progress=tell)
        found += outcome.findings
        cancel.check()
        files += [_written(job.out, name, picture, outcome) for picture in pictures]
        told.append({"name": name, "offset": outcome.offset, "caster": outcome.caster, "missed": outcome.missed_share})
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


def _path(out: Path, name: str, map: str, tile: int | None) -> Path:
    return out / (f"{name}_{map}.png" if tile is None else f"{name}_{map}.{tile}.png")


def _refuse_present(job: BakeJob, name: str, plan: BakePlan, tiles: Sequence[int]) -> None:
    paths = (_path(job.out, name, map, tile) for map in plan.maps for tile in tiles or (None,))
    there = next((path.name for path in paths if path.exists()), None)
    if there is not None and not job.replaces:
        raise MeshInvalid(f"{there} is there already. Name another folder, or say --replace.")


def _written(out: Path, name: str, picture: Picture, outcome: Outcome) -> BakedFile:
    path = _path(out, name, picture.map, picture.tile)
    write_bytes(path, picture.content)
    low, high = (end if len(end) > 1 else end[0] if end else None for end in picture.ends)
    span = None if low is None else (low, high)
    return BakedFile(path, picture.map, len(picture.codes), picture.depth, outcome.missed_share, span, picture.tile)
