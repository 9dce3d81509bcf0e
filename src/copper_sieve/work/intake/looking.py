"""From files on disk, in zips or in memory to looks. One bad file never stops the others, and none is passed over silently."""

from __future__ import annotations

import hashlib
import logging
from collections import deque
from collections.abc import Callable, Collection, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from itertools import islice
from pathlib import Path
from typing import IO

import numpy as np

from ...core.bands import CORES
from ...core.checks.files import CHECKS, SeenFile
from ...core.errors import SieveError
from ...core.findings import Finding, finding
from ...core.intake import Look, SourceProfile, look_at
from ...core.intake.by_material import by_material
from ...core.intake.content import smaller
from ...core.intake.floats import on_span
from ...core.intake.folders import called_after_folder
from ...core.intake.materials import Reading
from ...core.intake.names import read_name
from ...core.primaries import Primaries
from ...core.quantities import quantity
from ...core.recipe import Source
from ...core.target import legal_name
from ...files import Header, Picture, is_beside, is_zip, layer_names, layers, members, named, read_bytes
from ...files.foreign import is_foreign_mesh, lies_beside
from ...files.meshes import GltfPicture, gltf_pictures, is_of_meshes
from ...files.profile import color_codes, profile_problem

__all__ = [
    "Gathered",
    "Looked",
    "expand",
    "gather",
    "is_picture_name",
    "load_codes",
    "look_at_bytes",
    "look_at_inside",
    "look_by_material",
    "look_at_path",
    "is_by_layers",
    "is_zip_file",
    "look_into_layers",
    "look_into_mesh",
    "look_into_zip",
    "passed_over",
    "speakable",
]

_log = logging.getLogger(__name__)
_SAMPLE_PX = 256
_RAW_SUFFIXES = {".dng", ".nef", ".cr2", ".cr3", ".arw", ".raf", ".rw2", ".orf", ".pef", ".srw"}
_PLAIN_SUFFIXES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".tga", ".bmp", ".webp", ".exr", ".dds", ".heic", ".heif", ".avif"}
_SELDOM_SUFFIXES = {".jxl", ".jp2", ".j2k", ".pgm", ".ppm", ".pfm", ".pnm", ".sgi", ".hdr"}
_PICTURE_SUFFIXES = _PLAIN_SUFFIXES | _SELDOM_SUFFIXES | _RAW_SUFFIXES | {".psd", ".psb", ".zip"}
_NO_PICTURES = {".txt", ".md", ".json", ".xml", ".html", ".toml", ".csv", ".pdf", ".ini", ".log"}
_LOOKED_AHEAD = 2 * CORES  # files that may lie decoded in memory at a time


@dataclass(frozen=True)
class Looked:
    """One file as read: ``header`` and ``look`` are None when it could not be. ``folder`` is the path that it came by.

    ``sample`` is a small copy of normals and heights, which can tell more about each other than alone. ``is_passed_over`` is of
    a file that could not be read and is not missed: it holds no picture, nor is it called as one. ``is_foreign_mesh`` is of a
    mesh in a format that is not read, which is not missed beside one that is.
    """

    name: str
    sha256: str
    bytes: int
    header: Header | None
    look: Look | None
    findings: tuple[Finding, ...]
    folder: str = ""
    sample: np.ndarray | None = None
    layers: tuple[str, ...] = ()
    is_passed_over: bool = False
    is_foreign_mesh: bool = False

    @property
    def set_stem(self) -> str:
        """The set's name by this file alone: what its name has beside the map's, else its folder."""
        stem = self.look.stem if self.look is not None else ""
        return legal_name(stem or called_after_folder(self.folder) or "unnamed")


def look_at_bytes(
    content: bytes, name: str, *, folder: str = "", profile: SourceProfile | None = None, primaries: Primaries | None = None
) -> Looked:
    """Read and recognize one file. Whatever goes wrong becomes a finding of grade ``stop`` on that file, never an exception.

    ``primaries`` are those of the document that it was a layer of.
    """
    name = speakable(name)
    try:
        return _looked(content, name, folder, profile, primaries=primaries)
    except Exception as problem:
        return _refused(name, content, problem, folder)


def look_at_path(path: Path, folder: str = "", profile: SourceProfile | None = None) -> tuple[Looked, bytes]:
    """The same of a file on disk, with its bytes; one that cannot be opened becomes a finding too."""
    try:
        content = path.read_bytes()
    except (OSError, MemoryError) as problem:
        return _refused(speakable(path.name), b"", problem, folder), b""
    return look_at_bytes(content, path.name, folder=folder, profile=profile), content


def speakable(name: str) -> str:
    """A file's name as text that can be shown and stored everywhere: what is no letter in it becomes a mark."""
    return name.encode("utf-8", "surrogateescape").decode("utf-8", "replace").replace("\0", "\ufffd")


def _looked(
    content: bytes,
    name: str,
    folder: str,
    profile: SourceProfile | None,
    told: Callable[[Look], Look] = lambda look: look,
    primaries: Primaries | None = None,
) -> Looked:
    """``told`` is what is known of it besides."""
    picture = read_bytes(content, name)
    picture = picture if primaries is None else replace(picture, primaries=primaries)
    look = told(look_at(name, picture.codes, profile))
    look = look if picture.primaries is None else replace(look, primaries=picture.primaries)
    sample = _sample(picture.codes, look) if {"normal", "height"} & set(look.reads.values()) else None
    inside = tuple(layer_names(content))
    seen = _seen(name, picture, look, profile, inside)
    findings = tuple(found for check in CHECKS for found in check(seen))
    return Looked(name, hashlib.sha256(content).hexdigest(), len(content), picture.header, look, findings, folder, sample, inside)


def _sample(codes: np.ndarray, look: Look) -> np.ndarray:
    """A small copy of normals or heights, of floats as shares of what they span."""
    small = smaller(codes, _SAMPLE_PX)
    span = next((span for letters, span in look.spans.items() if look.reads[letters] in ("normal", "height")), None)
    return small if span is None or small.dtype.kind != "f" else on_span(small, span)


def _refused(name: str, content: bytes, problem: Exception, folder: str = "") -> Looked:
    """The row of a file that could not be read, or that we failed at; of the latter the log keeps all there is to know."""
    if isinstance(problem, SieveError):
        found = finding("unreadable", file=name, why=problem.message)
    elif isinstance(problem, FileNotFoundError):
        why = f"{name}: is a link to nothing, or was moved while it was read. Put the file itself there, or take it away."
        found = finding("unreadable", file=name, why=why)
    elif isinstance(problem, OSError):
        found = finding("unreadable", file=name, why=f"{name}: cannot be opened ({problem.strerror or problem}).")
    else:
        _log.error("%s could not be judged", name, exc_info=problem)
        found = finding("our-fault", file=name, why=f"{type(problem).__name__}: {problem}")
    may_be_one = Path(name).suffix.lower() in _PICTURE_SUFFIXES or not content or found.id != "unreadable"
    looked = Looked(name, hashlib.sha256(content).hexdigest(), len(content), None, None, (found,), folder)
    if may_be_one:
        return looked
    return replace(looked, is_passed_over=lies_beside(content, name), is_foreign_mesh=is_foreign_mesh(content, name))


def _seen(name: str, picture: Picture, look: Look, source: SourceProfile | None, layers: tuple[str, ...]) -> SeenFile:
    """The file as its checks see it."""
    return SeenFile(
        name=name,
        look=look,
        codes=picture.codes,
        letters=picture.header.letters,
        format=picture.format,
        has_profile=picture.profile is not None,
        profile_problem=profile_problem(picture),
        notes=picture.notes,
        source=source,
        done=picture.done,
        color_done=picture.color_done,
        is_header_of_primaries=picture.primaries is not None,
        layers=layers,
    )


@dataclass(frozen=True)
class Gathered:
    """One file of the input: how to call it, what it is, and its bytes on demand."""

    label: str
    looked: Looked
    content: Callable[[], bytes]


def gather(paths: Iterable[Path], profile: SourceProfile | None = None, *, by_name: Collection[Path] = ()) -> Iterator[Gathered]:
    """Look at every file, those inside of zips too, in their order and on all cores.

    What holds no picture and is not called as one is passed over, unless somebody gave it ``by_name``.
    """

    def one(path: Path) -> list[Gathered]:
        found = looked_into(path)
        if path in by_name and not is_zip_file(path):
            return found
        return [replace(row, looked=passed_over(row.looked)) if row.looked.is_passed_over else row for row in found]

    def looked_into(path: Path) -> list[Gathered]:
        name, label = speakable(path.name), speakable(str(path))
        if path.suffix.lower() not in _PICTURE_SUFFIXES and not _is_whole_file(path):
            found = finding("not-a-picture", file=name, why="it is no picture.")
            return [Gathered(label, Looked(name, "", 0, None, None, (found,)), path.read_bytes)]
        if is_zip_file(path):
            with path.open("rb") as content:
                inside = look_into_zip(content, name, lambda _: profile, is_of_meshes)
                return [Gathered(f"{label}/{looked.name}", looked, lambda kept=kept: kept) for looked, kept in inside]
        folder = speakable(path.parent.as_posix())
        looked, content = look_at_path(path, folder, profile)
        if is_by_layers(looked):
            inside = look_into_layers(content, name, folder, profile)
            return [Gathered(f"{label}/{layer.name}", layer, lambda kept=kept: kept) for layer, kept in inside]
        return [Gathered(label, looked, path.read_bytes)]

    waiting: deque[Future[list[Gathered]]] = deque()
    rest = iter(paths)
    with ThreadPoolExecutor(CORES, thread_name_prefix="look") as pool:
        waiting.extend(pool.submit(one, path) for path in islice(rest, _LOOKED_AHEAD))
        while waiting:
            yield from waiting.popleft().result()
            waiting.extend(pool.submit(one, path) for path in islice(rest, 1))


def passed_over(looked: Looked) -> Looked:
    """A file that could not be read, as one that is not missed: what libraries lay beside their maps is no fault of anybody's."""
    said = looked.findings[0].text.removeprefix(f"{looked.name}: ")
    return replace(looked, findings=(finding("not-a-picture", file=looked.name, why=f"it {said}"),))


def is_zip_file(path: Path) -> bool:
    """Whether a file on disk begins as a zip does."""
    try:
        with path.open("rb") as file:
            return is_zip(file.read(4))
    except OSError:
        return False


def is_picture_name(name: str) -> bool:
    """Whether a file's ending is one that pictures have."""
    return Path(name).suffix.lower() in _PICTURE_SUFFIXES - {".zip"} and not name.startswith(".")


def _is_whole_file(path: Path) -> bool:
    """Files without a known ending are read when they might be pictures: a wrong ending is told by their first bytes."""
    return path.suffix.lower() not in _NO_PICTURES and not is_of_meshes(path.name)


def look_into_zip(
    content: IO[bytes],
    name: str,
    profile_of: Callable[[str], SourceProfile | None] = lambda name: None,
    passes_over: Callable[[str], bool] = lambda name: False,
) -> Iterator[tuple[Looked, bytes]]:
    """Every file of a zip with its bytes; one that cannot be unpacked, and a damaged zip, become findings.

    Parameters
    ----------
    profile_of : the source's profile of a file by its name; a zip may hold files of several sources
    passes_over : files that are looked at elsewhere
    """
    try:
        for member in members(content, name, lambda one: not passes_over(one)):
            if passes_over(member.name):
                continue
            if member.problem is None:
                profile = profile_of(speakable(member.name))
                yield look_at_bytes(member.content, member.name, folder=member.folder, profile=profile), member.content
            else:
                yield _refused(speakable(member.name), member.content, member.problem, member.folder), b""
    except Exception as problem:
        content.seek(0)
        sha256 = hashlib.file_digest(content, "sha256").hexdigest()  # type: ignore[arg-type]  # it has all that is asked of one
        yield replace(_refused(speakable(name), b"", problem), sha256=sha256, bytes=content.tell()), b""


def look_into_layers(
    content: bytes, name: str, folder: str = "", profile: SourceProfile | None = None
) -> Iterator[tuple[Looked, bytes]]:
    """Every layer of a file that holds several, as a file of its own named after it; one that cannot be read is a finding."""
    try:
        for layer in layers(content, name):
            called = named(name, layer.name)
            if layer.picture is not None:
                alone, told = layer.content, layer.picture.primaries
                yield look_at_bytes(alone, called, folder=folder, profile=profile, primaries=told), alone
            elif layer.problem is not None:
                yield _refused(speakable(called), b"", layer.problem, folder), b""
    except Exception as problem:
        yield _refused(speakable(name), content, problem, folder), b""


def look_into_mesh(content: bytes, stem: str) -> Iterator[tuple[Looked, bytes]]:
    """Every picture inside of a glTF document as a file of its own, named and read as its material says, with its bytes.

    ``stem`` is what the mesh is called, and its set where the material's name tells nothing.
    """
    for picture in gltf_pictures(content, stem):
        looked = look_at_inside(picture)
        yield looked, picture.content if looked.header is not None else b""


def look_at_inside(picture: GltfPicture) -> Looked:
    """A picture inside of a mesh."""
    return look_by_material(picture.content, picture.name, picture.reading, picture.reading.called)


def look_by_material(content: bytes, name: str, reading: Reading, folder: str = "") -> Looked:
    """``look_at_bytes`` of a picture that a mesh's material reads."""
    name = speakable(name)
    try:
        return _looked(content, name, folder, None, partial(by_material, reading=reading))
    except Exception as problem:
        return _refused(name, content, problem, folder)


def is_by_layers(looked: Looked) -> bool:
    """Whether the layers of a file are maps by their names, so that they are meant and not the merged picture.

    One that is called as a map is enough; short words such as N tell only where every layer has one.
    """
    short = [_is_map(f"{looked.name}_{layer}.tif") for layer in looked.layers]
    return any(_is_map(f"{layer}.tif") for layer in looked.layers) or (len(short) > 1 and all(short))


def _is_map(name: str) -> bool:
    return read_name(name).kind not in (None, "photo")


def expand(paths: Iterable[Path]) -> list[Path]:
    """Files named, and all files inside folders named, however deep, in the order of their names, without what no one meant.

    A link to nothing is one of them, for it to be told.
    """
    found: list[Path] = []
    for path in paths:
        inside = (p for p in path.rglob("*") if (p.is_file() or not p.exists()) and not is_beside(p.relative_to(path)))
        found.extend(sorted(inside) if path.is_dir() else [path])
    return found


def load_codes(source: Source, content: Callable[[str], bytes]) -> np.ndarray:
    """Codes of a source, upright and in sRGB if colored; ``content`` gives the bytes of a sha256."""
    picture = read_bytes(content(source.sha256), source.name)
    colored = any(quantity(key).color == "srgb" for key in source.reads.values())
    return color_codes(picture) if colored else picture.codes
