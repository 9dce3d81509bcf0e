"""From files on disk or in memory to looks, sets and a first recipe. One bad file never stops the others."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..core.checks import Finding, finding
from ..core.errors import SieveError
from ..core.intake import FileEntry, Look, look_at, plan_set
from ..core.intake.names import read_name
from ..core.intake.plan import RivalMaps
from ..core.quantities import quantity
from ..core.recipe import Recipe, Source
from ..core.target import legal_name
from ..files import Picture, is_zip, members, read_bytes
from ..files.profile import color_codes

__all__ = [
    "Gathered",
    "Looked",
    "entry_for",
    "expand",
    "gather",
    "load_codes",
    "look_at_bytes",
    "look_into_zip",
    "recipe_for",
    "sets_of",
]

_UNNAMED = "unnamed"
_Y = {"up": "Y+", "down": "Y−"}


@dataclass(frozen=True)
class Looked:
    """One file as read: ``picture`` and ``look`` are None when it could not be."""

    name: str
    sha256: str
    bytes: int
    picture: Picture | None
    look: Look | None
    findings: tuple[Finding, ...]

    @property
    def set_stem(self) -> str:
        """Stem that groups files into sets."""
        return legal_name(self.look.stem) if self.look is not None and self.look.stem else _UNNAMED


def look_at_bytes(content: bytes, name: str) -> Looked:
    """Read and recognize one file; an unreadable one becomes a finding of grade ``stop``."""
    sha256 = hashlib.sha256(content).hexdigest()
    try:
        picture = read_bytes(content, name)
    except SieveError as problem:
        return _unreadable(name, content, problem)
    look = look_at(name, picture.codes)
    return Looked(name, sha256, len(content), picture, look, tuple(_findings(name, picture, look)))


def _unreadable(name: str, content: bytes, problem: SieveError) -> Looked:
    found = finding("unreadable", file=name, why=problem.message)
    return Looked(name, hashlib.sha256(content).hexdigest(), len(content), None, None, (found,))


def _findings(name: str, picture: Picture, look: Look) -> Iterable[Finding]:
    if legal_name(look.stem) != look.stem and look.stem:
        yield finding("name-changed", name=legal_name(look.stem), given=repr(look.stem))
    if look.kind == "unknown":
        yield finding("unknown-kind", file=name)
    elif not look.reads:
        yield finding("no-channel-table", file=name, kind=look.kind)
    if look.green is not None and look.green.answer == "unsure":
        yield finding("green-unsure", file=name, why=look.green.reason)
    said = read_name(name).green
    if look.green is not None and said is not None and look.green.answer not in ("unsure", said):
        yield finding("green-contradicts", file=name, said=_Y[said], found=_Y[look.green.answer])
    if max(picture.width, picture.height) < 8:
        yield finding("too-small", file=name, width=picture.width, height=picture.height)
    if look.kind in ("base_color", "photo", "diffuse") and look.content.alpha == "gray":
        yield finding("alpha-unclear", file=name)
    colors = {quantity(key).color for key in look.reads.values()}
    if picture.profile is not None and colors == {"data"}:
        yield finding("profile-on-data", file=name)
    for note in picture.notes:
        if note != "palette":
            yield finding("broken-values", file=name, why=note)


@dataclass(frozen=True)
class Gathered:
    """One file of the input: how to call it, what it is, and its bytes on demand."""

    label: str
    looked: Looked
    content: Callable[[], bytes]


def gather(paths: Iterable[Path]) -> Iterable[Gathered]:
    """Look at every file, those inside of zips too."""
    for path in paths:
        content = path.read_bytes()
        if is_zip(content):
            yield from _unzipped(content, path)
        else:
            yield Gathered(str(path), look_at_bytes(content, path.name), path.read_bytes)


def _unzipped(content: bytes, path: Path) -> Iterable[Gathered]:
    for looked, inside in look_into_zip(content, path.name):
        yield Gathered(f"{path}/{looked.name}", looked, lambda inside=inside: inside)


def look_into_zip(content: bytes, name: str) -> Iterable[tuple[Looked, bytes]]:
    """Every file of a zip with its bytes; one that cannot be unpacked, and a damaged zip, become findings."""
    try:
        for member in members(content, name):
            if member.problem is None:
                yield look_at_bytes(member.content, member.name), member.content
            else:
                yield _unreadable(member.name, member.content, member.problem), b""
    except SieveError as problem:
        yield _unreadable(name, content, problem), b""


def expand(paths: Iterable[Path]) -> list[Path]:
    """Files named, and the pictures and zips inside folders named (not deeper), in the order of their names."""
    found: list[Path] = []
    for path in paths:
        found.extend(sorted(p for p in path.iterdir() if _is_picture(p)) if path.is_dir() else [path])
    return found


_PICTURE_SUFFIXES = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".tga", ".bmp", ".webp", ".exr", ".dds", ".zip"}


def _is_picture(path: Path) -> bool:
    return path.is_file() and path.suffix.lower() in _PICTURE_SUFFIXES


def entry_for(looked: Looked) -> FileEntry | None:
    """How a recognized file enters a set by default, or None when it waits for a person's word."""
    if looked.picture is None or looked.look is None or not looked.look.reads:
        return None
    picture, look = looked.picture, looked.look
    green = look.green.answer if look.green is not None and look.green.answer != "unsure" else None
    return FileEntry(looked.sha256, looked.name, picture.width, picture.height, picture.depth, look.reads, green, look.tiles)


def sets_of(looked: Iterable[Looked]) -> dict[str, list[Looked]]:
    """Files by the set their names belong to; those that could not be read belong to none."""
    groups: dict[str, list[Looked]] = {}
    for file in looked:
        if file.look is not None:
            groups.setdefault(file.set_stem, []).append(file)
    if len(groups) > 1 and _UNNAMED in groups:  # files named by their map alone join the only other set
        others = [stem for stem in groups if stem != _UNNAMED]
        if len(others) == 1:
            groups[others[0]] += groups.pop(_UNNAMED)
    return groups


def recipe_for(files: Iterable[Looked], **facts: Any) -> tuple[Recipe | None, list[Finding]]:
    """First recipe of one set's files; None with findings of grade ``stop`` when there is none."""
    files = list(files)
    entries = [entry for file in files if (entry := entry_for(file)) is not None]
    if not entries:
        return None, [finding("nothing-usable", count=len(files))]
    try:
        return plan_set(entries, **facts), []
    except RivalMaps as problem:
        return None, [finding("rival-maps", why=problem.message, **problem.facts)]


def load_codes(source: Source, content: Callable[[str], bytes]) -> np.ndarray:
    """Codes of a source, upright and in sRGB if colored; ``content`` gives the bytes of a sha256."""
    picture = read_bytes(content(source.sha256), source.name)
    colored = any(quantity(key).color == "srgb" for key in source.reads.values())
    return color_codes(picture, source.name, is_color=colored)
