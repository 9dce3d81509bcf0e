"""Evaluate, encode, write, read back. Everything is built in a temporary folder beside its place, then moved."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from functools import partial
from pathlib import Path
from typing import Any, Literal

import numpy as np

from ...core.bake import grown
from ...core.bands import CORES
from ...core.derive.masks import bled
from ...core.errors import SieveError
from ...core.filters import resize
from ...core.mesh.shape import Shape
from ...core.plan import Plan, PlannedFile, Written, as_planned
from ...core.quantities import quantity
from ...core.raster import FloatArray, Size, set_size
from ...core.recipe import Evaluation, Recipe, maps_made, master_ref, origin_of
from ...core.recipe.joining import touching
from ...core.target import DOCUMENTS, Sheet, Target, TargetFile, encode_file, holds_meters, in_meters, wires
from ...core.target.model import MaterialMode
from ...core.value import Told
from ...core.vectors import renormalized
from ...files import NamedPicture, encode, encode_layers, holds, holds_layers, write_bytes
from ...files.documents import write_document
from .again import copy_name

__all__ = [
    "BUILDING_PREFIX",
    "FILE_EFFORT",
    "DeliveredFile",
    "ReadBackFailed",
    "Report",
    "deliver",
    "image_content",
    "masters_for",
    "sweep",
]

BUILDING_PREFIX = ".building-"
_HELD_BYTES = 48  # of a texel, while a set is delivered
_STATED = {"rise", "rise_from", "rise_fit", "edges", "edges_from", "tile_size"}
_SOLID = 0.5  # opacity from which a texel keeps its own color
_MEAN_PX = 64  # a mean is the same at any size
_SAME_REFLECTANCE = 1e-3
_KEPT = {"same": "the same as before", "by-hand": "changed by somebody else: kept", "foreign": "not ours: kept"}
_NOT_MEANT = "{} does not read back as it was meant. Nothing was delivered; please tell us."
FILE_EFFORT = 3  # encode, and write with reading back, in the unit of an operation's effort


class ReadBackFailed(SieveError):
    """What was written does not read back as what was meant: a fault of ours or of the disk."""

    code = "read-back-failed"


class DeliveredFile(Told):
    """One row of the report; a file that was there already, equal to the byte or not ours to touch, is ``kept``."""

    role: str
    name: str
    state: Literal["written", "left-out", "kept"]
    why: str | None = None
    sha256: str | None = None
    bytes: int = 0
    key: str | None = None


class Report(Told):
    """What one set for one target came to; ``facts`` with how each is known, ``fills`` what stands for nothing, ``made`` of what
    the maps are made that no file gives as they are.

    ``lying`` are files of an earlier delivery, by name, that the set has no more and that were left where they are; ``sent_to``
    is where the files lie below a named folder.
    """

    target: str
    set: str
    files: tuple[DeliveredFile, ...]
    facts: dict[str, Any] = {}
    fills: tuple[str, ...] = ()
    made: dict[str, str] = {}
    lying: dict[str, Written] = {}
    sent_to: str | None = None


def effort(evaluation: Evaluation, target: Target, plan: Plan, counted: set[str] | None = None) -> int:
    """Work units that ``deliver`` will count, but for what is ``counted``, to which it is added."""
    images = [file for file in plan.files if file.goes and file.kind == "image"]
    carried = {file.role: file.masters() for file in target.files}
    keys = dict.fromkeys(key for file in images for key in carried[file.role])
    counted = set() if counted is None else counted
    work = {what: units for what, units in evaluation.work(tuple(keys)).items() if what not in counted}
    counted |= set(work)
    return sum(work.values()) + FILE_EFFORT * len(images)


def deliver(
    evaluation: Evaluation,
    target: Target,
    plan: Plan,
    folder: Path,
    *,
    build_in: Path | None = None,
    on_file: Callable[[str, str], None] = lambda name, state: None,
) -> Report:
    """Write the plan's files into ``folder``, which is there in whole or not at all as far as each file goes.

    They are built in a folder below ``build_in``, by default beside it, and moved when all are there.

    Raises Cancelled (nothing is left behind), ReadBackFailed, OSError.
    """
    folder.parent.mkdir(parents=True, exist_ok=True)
    building = Path(tempfile.mkdtemp(prefix=BUILDING_PREFIX, dir=build_in or folder.parent))
    try:
        rows: list[DeliveredFile] = []
        for one in evaluation.each:  # tile by tile, so that no more lies in memory than of one
            with evaluation.cache.passing() if _is_done_with(one) else nullcontext():
                rows += _images(one, target, plan.of(one.tile), (building, folder), on_file)
        documents = [f for f in plan.files if f.kind == "document"]
        places = (building, folder)
        rows += [_one(evaluation.at(f.tile), target, _of_document(plan, f), f, places, on_file) for f in documents]
        evaluation.cancel.check()
        _keep_copies(plan, folder)
        _move(building, folder)
    finally:
        shutil.rmtree(building, ignore_errors=True)
    facts = evaluation.recipe.facts.model_dump(mode="json", include=_STATED)
    fills = tuple(f"{f.name}, {c.fill_said}" for f in plan.files if f.is_written for c in f.channels if c.fill_said)
    written = {f.role for f in plan.files if f.is_written}
    carried = {key for file in target.files if file.role in written for key in file.masters()}
    made_of = {key: how for key, how in maps_made(evaluation.recipe).items() if key in carried}
    told = {"facts": facts, "fills": fills, "made": made_of, "lying": plan.gone, "sent_to": plan.place}
    return Report(target=target.key, set=plan.set, files=tuple(rows), **told)  # type: ignore[arg-type]


def _is_done_with(tile: Evaluation) -> bool:
    """Whether what a tile computed is of no use once it is written: no other touches it, and all together find no room."""
    if tile.tile is None or touching(tile.tile, tile.tiles):
        return False
    size = tile.size
    return len(tile.tiles) * _HELD_BYTES * size.width * size.height > tile.cache.limit_bytes


def _images(
    evaluation: Evaluation, target: Target, plan: Plan, places: tuple[Path, Path], on_file: Callable[[str, str], None]
) -> list[DeliveredFile]:
    """The images of a set, or of one of its tiles."""
    target = as_planned(target, plan)
    _compute(evaluation, target, plan)
    images = [file for file in plan.files if file.kind == "image"]
    jobs = [[file] for file in images if file.layer is None or not file.goes]
    jobs += [[f for f in images if f.name == name and f.layer and f.goes] for name in _layered(images)]
    with ThreadPoolExecutor(CORES + 1, "files") as pool:  # one more, as some of them wait for the disk
        rows = pool.map(lambda files: _written(evaluation, target, plan, files, places, on_file), jobs)
        found = {row.role: row for made in rows for row in made}
    return [found[file.role] for file in images]


def _layered(images: Sequence[PlannedFile]) -> list[str]:
    """Names of the layered files that are written."""
    return list(dict.fromkeys(file.name for file in images if file.layer is not None and file.goes))


def _written(
    evaluation: Evaluation,
    target: Target,
    plan: Plan,
    files: Sequence[PlannedFile],
    places: tuple[Path, Path],
    on_file: Callable[[str, str], None],
) -> list[DeliveredFile]:
    """One image, or several as the layers of one file."""
    if files[0].layer is None or not files[0].goes:
        return [_one(evaluation, target, plan, files[0], places, on_file)]
    name, building = files[0].name, places[0]
    on_file(name, "writing")
    parts = [_layer(evaluation, target, file) for file in files]
    write_bytes(building / name, encode_layers(parts, files[0].format))
    content = (building / name).read_bytes()
    if not holds_layers(content, parts, name):
        raise ReadBackFailed(_NOT_MEANT.format(name))
    on_file(name, "written")
    if evaluation.progress is not None:
        evaluation.progress.advance(FILE_EFFORT * len(files))
    sha256 = hashlib.sha256(content).hexdigest()
    sizes = [len(content), *(0 for _ in files[1:])]  # it is one file, and counted once
    told = {"name": name, "state": "written", "sha256": sha256}
    return [DeliveredFile(role=f.role, key=f.key, bytes=n, **told) for f, n in zip(files, sizes)]  # type: ignore[arg-type]


def _layer(evaluation: Evaluation, target: Target, planned: PlannedFile) -> NamedPicture:
    file = next(f for f in target.files if f.role == planned.role)
    codes = _codes(evaluation, target, file, Size(planned.width, planned.height))
    return NamedPicture(file.word, codes, _tag(file))


def _of_document(plan: Plan, document: PlannedFile) -> Plan:
    """What a document sees of a plan: the files of its tile, or of all tiles those of the first, called by their pattern."""
    if document.tile is not None or not plan.tiles:
        return plan.of(document.tile)
    known: dict[str, PlannedFile] = {}
    for file in plan.files:
        if file.role not in known or (file.is_written and not known[file.role].is_written):
            known[file.role] = file.model_copy(update={"name": file.pattern or file.name})
    return plan.model_copy(update={"files": tuple(known.values())})


def _compute(evaluation: Evaluation, target: Target, plan: Plan) -> None:
    """Every master once, before files that share them are made side by side."""
    written = {file.role for file in plan.files if file.goes}
    for key in dict.fromkeys(key for file in target.files if file.role in written for key in file.masters()):
        evaluation.master(key)


def _one(
    evaluation: Evaluation,
    target: Target,
    plan: Plan,
    planned: PlannedFile,
    places: tuple[Path, Path],
    on_file: Callable[[str, str], None],
) -> DeliveredFile:
    """One file. ``places`` are where files are built, and where those of an earlier delivery lie."""
    if not planned.is_written:
        on_file(planned.name, "left-out")
        return DeliveredFile(role=planned.role, name=planned.name, state="left-out", why=planned.why)
    if not planned.goes:
        on_file(planned.name, "kept")
        lay = planned.there
        told: dict[str, Any] = {} if lay is None else {"sha256": lay.sha256, "bytes": lay.bytes, "key": lay.key}
        state = "left-out" if lay is None else "kept"
        return DeliveredFile(role=planned.role, name=planned.name, state=state, why=_KEPT.get(planned.disk or ""), **told)
    on_file(planned.name, "writing")
    path = places[0] / planned.name
    if planned.kind == "document":
        write_bytes(path, _document(evaluation, target, plan, planned, places))
        content = path.read_bytes()
    else:
        content = _image(evaluation, target, planned, path)
    on_file(planned.name, "written")
    sha256 = hashlib.sha256(content).hexdigest()
    told = {"sha256": sha256, "bytes": len(content), "key": planned.key}
    return DeliveredFile(role=planned.role, name=planned.name, state="written", **told)  # type: ignore[arg-type]


def masters_for(evaluation: Evaluation, target: Target, file: TargetFile, size: Size) -> dict[str, FloatArray]:
    """The masters that a file carries, at its own size, padded and in the lengths it asks for; absent ones are not among them."""
    masters = {key: values for key in file.masters() if (values := evaluation.master(key)) is not None}
    sized = {key: _sized(evaluation, file, key, values, size) for key, values in masters.items()}
    facts = evaluation.recipe.facts
    padded = _beyond_islands(evaluation, _padded(evaluation, file, sized, size), size)
    return in_meters(target, file, padded, facts.rise, facts.tile_size)


def image_content(evaluation: Evaluation, target: Target, file: TargetFile, size: Size) -> tuple[np.ndarray, bytes]:
    """Codes of one file, and the bytes that hold them."""
    codes = _codes(evaluation, target, file, size)
    return codes, encode(codes, file.format, color=_tag(file))


def _tag(file: TargetFile) -> Literal["srgb", "linear", "acescg", "data"]:
    return "acescg" if file.primaries == "acescg" else file.color


def _codes(evaluation: Evaluation, target: Target, file: TargetFile, size: Size) -> np.ndarray:
    masters = masters_for(evaluation, target, file, size)
    deep = {key for key in masters if _knows_more_than_8_bits(evaluation.recipe, key)} if file.dither else set()
    codes = encode_file(target, file, masters, size, deep=deep, cancel=evaluation.cancel)
    evaluation.cancel.check()
    return codes


def _image(evaluation: Evaluation, target: Target, planned: PlannedFile, path: Path) -> bytes:
    """Write one image and hand over what came back from disk."""
    file = next(f for f in target.files if f.role == planned.role)
    codes, content = image_content(evaluation, target, file, Size(planned.width, planned.height))
    evaluation.cancel.check()
    write_bytes(path, content)
    content = path.read_bytes()
    if not holds(content, codes, file.format, planned.name):
        raise ReadBackFailed(_NOT_MEANT.format(planned.name))
    if evaluation.progress is not None:
        evaluation.progress.advance(FILE_EFFORT)
    return content


def _sized(evaluation: Evaluation, file: TargetFile, key: str, values: FloatArray, size: Size) -> FloatArray:
    """A master at the size of a file that has its own."""
    if size == evaluation.size:
        return values
    facts = evaluation.recipe.facts
    sampling = "nearest" if file.pixel_art else facts.sampling
    sized = resize(values, size, facts.edges, sampling)
    return renormalized(sized) if key == "normal" and sampling == "smooth" else sized


def _padded(evaluation: Evaluation, file: TargetFile, masters: dict[str, FloatArray], size: Size) -> dict[str, FloatArray]:
    """Everything but the opacity goes on under holes, by as many texels as the file's padding."""
    opacity = evaluation.master("opacity") if file.padding else None
    if opacity is None:
        return masters
    is_solid = _sized(evaluation, file, "opacity", opacity, size) >= np.float32(_SOLID)
    edges = evaluation.recipe.facts.edges
    return {key: values if key == "opacity" else bled(values, is_solid, file.padding, edges) for key, values in masters.items()}


def _beyond_islands(evaluation: Evaluation, masters: dict[str, FloatArray], size: Size) -> dict[str, FloatArray]:
    """Where a mesh wears the set, everything goes on beyond its islands: smaller copies then mix in nothing foreign."""
    where = evaluation.nearest(size)
    return masters if where is None else {key: grown(values, where) for key, values in masters.items()}


def _knows_more_than_8_bits(recipe: Recipe, master: str) -> bool:
    """Derived masters do; a given one as far as its file does. Noise on what was 8 bit would only lose."""
    source = recipe.source_of(master)
    return origin_of(recipe, master) == "derived" or (source is not None and source[1].depth > 8)


def _document(evaluation: Evaluation, target: Target, plan: Plan, planned: PlannedFile, places: tuple[Path, Path]) -> bytes:
    target = as_planned(target, plan)
    document = next(d for d in target.documents if d.role == planned.role)
    names = {f.role: f.name for f in plan.files if f.is_written and f.kind == "image"}
    opacity = evaluation.master("opacity") if "opacity" in target.masters() else None
    has_holes = opacity is not None and bool(opacity.min() < quantity("opacity").high)
    facts = evaluation.recipe.facts
    width = facts.tile_size or 1.0
    metric = any(holds_meters(target, f, facts.tile_size) and f.role in document.inputs.values() for f in target.files)
    sheet = Sheet(
        name=plan.set,
        aspect=plan.height / plan.width,
        width=width,
        rise=1 / width if metric else facts.rise,  # what the file holds is a length already
        center=0.0 if metric else target.height.center,
        material=target.material if has_holes else MaterialMode(),
        emissive_strength=facts.emissive_strength,
        reflectance=_mean_reflectance(evaluation),
        library=next((f.name for f in plan.files if f.is_written and f.format == "mtl"), None),
    )
    body = _body(evaluation, planned.tile) if DOCUMENTS[document.kind].shows else None
    return write_document(document.kind, sheet, wires(target, document, names), partial(_lying, places), body)


def _body(evaluation: Evaluation, tile: int | None) -> Shape | None:
    """What of the mesh a document shows: that of its tile, or all of it where it is for all tiles."""
    worn = evaluation.worn
    return evaluation.meshes.shape(worn, tile) if worn is not None and evaluation.meshes and evaluation.is_worn else None


def _lying(places: tuple[Path, Path], name: str) -> bytes:
    """A file that was just built, or that lies there from before."""
    built, before = (place / name for place in places)
    return (built if built.is_file() else before).read_bytes()


def _keep_copies(plan: Plan, folder: Path) -> None:
    """Keep a copy of what is replaced though somebody else changed it."""
    for file in plan.files:
        if file.answer == "replace" and (folder / file.name).is_file():
            shutil.copy2(folder / file.name, folder / copy_name(file.name))


def _mean_reflectance(evaluation: Evaluation) -> float | None:
    """None where it is what standards take for granted."""
    if "reflectance" not in evaluation.recipe.masters:
        return None
    small = set_size(evaluation.size.width, evaluation.size.height, _MEAN_PX)
    mean, usual = float(evaluation.value(master_ref("reflectance"), small).mean()), float(quantity("reflectance").absent_value())
    return None if abs(mean - usual) < _SAME_REFLECTANCE else mean


def _move(building: Path, folder: Path) -> None:
    building.chmod(0o755)
    if not folder.exists():
        os.replace(building, folder)
        return
    for file in sorted(building.iterdir()):
        os.replace(file, folder / file.name)


def sweep(root: Path, interrupted: Iterable[str]) -> None:
    """Remove what a killed server left below ``root``: unfinished files, and the folders of ``interrupted`` deliveries."""
    unfinished = list(root.glob(f"**/{BUILDING_PREFIX}*")) if root.is_dir() else []
    for left in (*unfinished, *(root / folder for folder in interrupted)):
        shutil.rmtree(left, ignore_errors=True)
