"""`reformat`: pictures in another format or size, under their names."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import SieveError
from ..core.findings import Finding, finding
from ..core.target import FORMATS
from ..core.target.formats import Depth, depth_said
from ..files import Member, members, write_bytes
from ..work.intake.looking import is_picture_name, is_zip_file
from ..work.reformatting import Called, NewFormat, ReadAs, Remade, remade
from .inputs import Inputs, paths_of
from .say import STOPPED, WRONG_USE, Json, fail, print_json
from .told import grade_code, tell

__all__ = ["reformat"]


def reformat(
    inputs: Inputs,
    to: Annotated[str, typer.Option(help=f"The format to write: {', '.join(FORMATS)}")],
    out: Annotated[Path, typer.Option(help="Folder to write into; what lies in folders keeps its place in them")],
    depth: Annotated[str | None, typer.Option(help="8, 16, half or float; default: each file's, or the nearest")] = None,
    longest: Annotated[int | None, typer.Option(help="Make smaller what is larger, to so many pixels on its longer side")] = None,
    pixel_art: Annotated[bool, typer.Option("--pixel-art", help="Make smaller by whole steps alone: texels stay sharp")] = False,
    read_as: Annotated[str | None, typer.Option("--as", help="color or data; default: as name and pixels say")] = None,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Write pictures in another format or size, each under its own name. Values stay; what a format cannot hold is told."""
    format, kind = _format(to, depth, longest, pixel_art), _kind(read_as)
    findings: list[Finding] = []
    files = list(_called(inputs, findings))
    _refuse_taken([out / format.path(file.path) for file in files], paths_of(inputs), replace)
    rows: list[dict[str, Any]] = []
    for made in remade(files, format, kind):
        if not isinstance(made, Remade):
            findings.append(made)
            continue
        findings += made.findings
        path = out / made.path
        path.parent.mkdir(parents=True, exist_ok=True)
        write_bytes(path, made.content)
        told = {"depth": depth_said(*made.depth), "size": [made.size.width, made.size.height], "read_as": made.read_as}
        rows.append({"source": made.source, "path": made.path, **told})
        if not as_json:
            print(path)
    if as_json:
        print_json({"format": to, "files": rows, "findings": [found.model_dump() for found in findings]})
    else:
        tell(findings)
    raise typer.Exit(grade_code(findings))


_DEPTHS: dict[str, Depth] = {"8": (8, "uint"), "16": (16, "uint"), "half": (16, "float"), "float": (32, "float")}


def _format(key: str, depth: str | None, longest_px: int | None, pixel_art: bool) -> NewFormat:
    if depth is not None and depth not in _DEPTHS:
        raise fail(f"--depth takes one of {', '.join(_DEPTHS)} (got {depth!r}).", WRONG_USE)
    try:
        return NewFormat(key, None if depth is None else _DEPTHS[depth], longest_px, "nearest" if pixel_art else "smooth")
    except SieveError as problem:
        raise fail(problem.message, WRONG_USE) from problem


def _kind(told: str | None) -> ReadAs | None:
    if told not in (None, "color", "data"):
        raise fail(f"--as takes color or data (got {told!r}).", WRONG_USE)
    return told


def _called(inputs: list[Path], findings: list[Finding]) -> Iterator[Called]:
    """Every picture by its path below the folder or zip that was named, of several with that one's name; what is no picture is
    told."""
    several = sum(path.is_dir() or is_zip_file(path) for path in inputs) > 1
    for given in inputs:
        above = Path(_folder_of(given) if several else "")
        for path in paths_of([given]):
            place = above / (path.relative_to(given) if given.is_dir() else path.name)
            if is_zip_file(path):
                yield from _inside(path, above if path == given else place.with_suffix(""), findings)
            elif is_picture_name(path.name):
                yield Called(place.as_posix(), path.read_bytes)
            else:
                findings.append(finding("not-a-picture", file=path.name, why="it is no picture."))


def _folder_of(given: Path) -> str:
    """What the pictures of a folder or a zip lie below, where there are several; nothing for a picture."""
    whole = given.resolve()
    return whole.name if given.is_dir() else whole.stem if is_zip_file(given) else ""


def _inside(path: Path, above: Path, findings: list[Finding]) -> Iterator[Called]:
    """Every picture of a zip, which is unpacked when it is its turn."""
    try:
        with path.open("rb") as content:
            inside = list(members(content, path.name, lambda name: False))
    except (SieveError, OSError) as problem:
        findings.append(finding("unreadable", file=path.name, why=getattr(problem, "message", str(problem))))
        return
    for member in inside:
        if is_picture_name(member.name):
            yield Called((above / member.folder / member.name).as_posix(), partial(_unpacked, path, member))
        else:
            findings.append(finding("not-a-picture", file=member.name, why="it is no picture."))


def _unpacked(path: Path, wanted: Member) -> bytes:
    with path.open("rb") as content:
        inside = members(content, path.name, lambda name: name == wanted.name)
        found = next(one for one in inside if (one.folder, one.name) == (wanted.folder, wanted.name))
    if found.problem is not None:
        raise found.problem
    return found.content


def _refuse_taken(paths: list[Path], read: list[Path], replace: bool) -> None:
    """Before anything is written: what is read is never written over, what is there only where that was said."""
    originals = {path.resolve() for path in read}
    own = [str(path) for path in paths if path.resolve() in originals]
    if own:
        raise fail(f"{_first(own)} would be written over, and is what is read. Choose another folder.", STOPPED)
    there = [str(path) for path in paths if path.exists()]
    if there and not replace:
        raise fail(f"{_first(there)} would be replaced. Choose another folder, or say --replace.", STOPPED)


_NAMED = 4


def _first(names: list[str]) -> str:
    rest = len(names) - _NAMED
    return ", ".join(names[:_NAMED]) + (f" and {rest} more" if rest > 0 else "")
