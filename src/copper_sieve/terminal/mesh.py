"""`mesh`: check meshes, bake maps from one to another, make quick UV, and put tangents of the common standard in."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from ..core.bake import BakePlan
from ..core.baked_maps import BAKED
from ..core.checks.mesh_pairs import pair_findings
from ..core.errors import SieveError
from ..core.findings import finding
from ..core.mesh import tangents as tangents_of
from ..core.mesh.shape import Shape
from ..demo.meshes import PIECES
from ..files.encoding import write_bytes
from ..files.meshes import glb_of, obj_document, ply_document, read_mesh
from ..work.meshes import BakeJob, bake_to_files, check_mesh, mesh_row, quick_uv
from ..work.meshes.unfolding import MAPPINGS
from .say import WRONG_USE, Json, fail, print_json
from .told import grade_code, tell

__all__ = ["mesh"]

mesh = typer.Typer(no_args_is_help=True, help="Check meshes, bake from one to another, make UV and tangents.")
Out = Annotated[Path, typer.Option(help="The file to write: .glb, .obj or .ply")]
_ALSO = {"ao": "occlusion", "ambient_occlusion": "occlusion", "displacement": "height", "world_normal": "object_normal"}
Replace = Annotated[bool, typer.Option("--replace", help="Write over what is there")]


@mesh.command()
def check(
    files: Annotated[list[Path], typer.Argument(help="Meshes: .obj, .ply, .stl, .gltf, .glb")],
    size: Annotated[int, typer.Option(help="Size in px of the maps that they will wear")] = 2048,
    as_json: Json = False,
) -> None:
    """Say what is in each mesh, and everything that was found."""
    rows, found, names = [], [], []
    for path in files:
        shape, own = check_mesh(path, size)
        rows.append(mesh_row(path, shape, own))
        found += own
        if shape is not None:
            names += [part or path.stem for part in shape.parts]
            if not as_json:
                materials = ", ".join(filter(None, shape.materials)) or "none"
                print(f"{path}: {len(shape.triangles):,} triangles, {len(shape.parts)} parts, materials: {materials}")
    alone = pair_findings(names) if len(files) > 1 else []
    if rows and alone:
        rows[-1]["findings"] += [one.model_dump(include={"id", "grade", "text", "numbers", "where"}) for one in alone]
    if as_json:
        print_json({"meshes": rows})
    else:
        tell([*found, *alone])
    raise typer.Exit(grade_code(found))


@mesh.command()
def bake(
    low: Annotated[Path, typer.Option(help="The mesh that maps are baked for; it needs UV")],
    out: Annotated[Path, typer.Option(help="Folder to write to")],
    high: Annotated[Path | None, typer.Option(help="The mesh that they are baked from; without it the low one itself")] = None,
    cage: Annotated[Path | None, typer.Option(help="The low mesh, grown: rays start from it")] = None,
    offset: Annotated[str | None, typer.Option(help="How far above the low mesh rays start: 0.02, or 2% of its box")] = None,
    maps: Annotated[str, typer.Option(help=f"Maps with commas: {', '.join(BAKED)}")] = "normal",
    size: Annotated[int, typer.Option(help="Sides in px")] = 2048,
    samples: Annotated[int, typer.Option(help="Of each texel, each way")] = 1,
    rays: Annotated[int, typer.Option(help="For each texel of occlusion and thickness: 64 to look, 256 to deliver")] = 256,
    seed: Annotated[int, typer.Option(help="Of the rays")] = 0,
    tiles: Annotated[bool | None, typer.Option(help="Each UDIM tile that UV lie in, or 1001 alone; else as they lie")] = None,
    replace: Replace = False,
    as_json: Json = False,
) -> None:
    """Bake maps from a high mesh to a low one."""
    _refuse_missing([path for path in (low, high, cage) if path is not None])
    if cage is not None and offset is not None:
        raise fail("rays start from the cage or an offset above the low mesh: name one of --cage and --offset.", WRONG_USE)
    told = (name.strip().lower().replace("-", "_") for name in maps.split(",") if name.strip())
    wanted = tuple(_ALSO.get(name, name) for name in told)
    try:
        plan = BakePlan(wanted, size=size, samples=samples, rays=rays, seed=seed)  # type: ignore[arg-type]
    except SieveError as problem:
        raise fail(problem.message, WRONG_USE) from problem
    shown = -1

    def progress(share: float) -> None:
        nonlocal shown
        if sys.stderr.isatty() and int(share * 100) > shown:
            shown = int(share * 100)
            print(f"\r{shown} %", end="" if shown < 100 else "\n", file=sys.stderr, flush=True)

    job = BakeJob(low, high, out, plan, cage, offset, replace, tiles)
    try:
        files, found = bake_to_files(job, progress=progress)
    except SieveError as problem:
        if not as_json:
            raise
        files, found = [], [finding("mesh-unreadable", why=problem.message)]
    if as_json:
        rows = [one.model_dump(include={"id", "grade", "text", "numbers"}) for one in found]
        print_json({"files": [one.row() for one in files], "findings": rows})
    else:
        for one in files:
            print(f"{one.path}: {one.map}, {one.size} × {one.size}, {one.depth} bit")
        tell(found)
    raise typer.Exit(grade_code(found))


@mesh.command()
def uv(
    file: Annotated[Path, typer.Argument(help="A mesh")],
    out: Out,
    second: Annotated[bool, typer.Option("--second", help="As the second set, for baked light")] = False,
    way: Annotated[str, typer.Option(help=f"One of {', '.join(MAPPINGS)}")] = "islands",
    replace: Replace = False,
) -> None:
    """Make UV quickly: for trials, and for light; not for production."""
    _refuse_missing([file])
    shape = quick_uv(read_mesh(file).shape, way, second=second)
    _write(out, shape, replace)
    tell([finding("mesh-quick-uv", file=out.name)])


@mesh.command()
def tangents(file: Annotated[Path, typer.Argument(help="A mesh with UV")], out: Out, replace: Replace = False) -> None:
    """Write the mesh with tangents of the common standard inside (.glb alone holds them)."""
    _refuse_missing([file])
    if out.suffix.lower() != ".glb":
        raise fail(f"{out.suffix or 'a file without an ending'} holds no tangents. Write a .glb.", WRONG_USE)
    _write(out, read_mesh(file).shape, replace)


def _write(out: Path, shape: Shape, replace: bool) -> None:
    if out.exists() and not replace:
        raise fail(f"{out} is there already. Name another file, or say --replace.", WRONG_USE)
    match out.suffix.lower():
        case ".glb":
            content = glb_of(shape, tangents_of(shape) if shape.uv is not None else None)
        case ".obj":
            content = obj_document(shape)
        case ".ply":
            content = ply_document(shape)
        case other:
            raise fail(f"meshes are written as .glb, .obj or .ply (got {other or 'no ending'}).", WRONG_USE)
    out.parent.mkdir(parents=True, exist_ok=True)
    write_bytes(out, content)
    print(f"{out}: {len(shape.triangles):,} triangles")


def _refuse_missing(paths: list[Path]) -> None:
    missing = [str(path) for path in paths if not path.is_file()]
    if missing:
        raise fail(f"there is no {', '.join(missing)}. Name files that exist.", WRONG_USE)


@mesh.command()
def demo(
    folder: Annotated[Path, typer.Argument(help="Where the files go; made where it is not there")], replace: Replace = False
) -> None:
    """Write three metal pieces, a button, a clasp and a buckle, each low and high, to try the rest with."""
    folder.mkdir(parents=True, exist_ok=True)
    paths = {folder / f"{name}_{end}.obj": make for name, make in PIECES.items() for end in ("low", "high")}
    there = [path.name for path in paths if path.exists()]
    if there and not replace:
        raise fail(f"{there[0]} is there already. Name another folder, or say --replace.", WRONG_USE)
    for path, make in paths.items():
        write_bytes(path, obj_document(make(high=path.stem.endswith("high"))))
        print(path)
