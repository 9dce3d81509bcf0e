"""`verify` and `prove`: whether files are as they were delivered, and whether a target reads them as its table says."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping
from itertools import groupby
from pathlib import Path
from typing import Annotated

import typer

from ..core.checks.maps import LEAST_CLOSING
from ..core.errors import SieveError
from ..core.findings import Finding
from ..core.recipe import Cache, Evaluation
from ..core.target import Target
from ..standins import Table, faults
from ..work.deliveries.converting import decoded_recipe, expected_names, match_files
from ..work.intake.looking import is_picture_name
from ..work.memory import cache_bytes
from ..work.proofs import table_of
from .inputs import chosen_target
from .places import manifest_above
from .say import DONE, STOPPED, WRONG_USE, Json, fail, print_json
from .told import Told, found_in

__all__ = ["prove", "verify"]

_Tiles = Mapping[int | None, Mapping[str, Path]]
_MISREAD = {"green-misread", "normal-mirrored", "axes-swapped", "normal-facing-away"}  # the table says how normals lean
Folder = Annotated[Path, typer.Argument(help="What was written, or one set or target of it")]


def _existing(folder: Path) -> Path:
    if not folder.is_dir():
        raise fail(f"there is no folder {folder}. Name one that files were delivered into.", WRONG_USE)
    return folder


def _ended(rows: dict[str, str | None], good: str, as_json: bool, told: Told | None = None) -> typer.Exit:
    """Say how each file stands, and how to leave: 1 where one of them is not as it should be."""
    wrong = {place: why for place, why in rows.items() if why is not None}
    if as_json:
        files = [{"path": place, "right": why is None, "why": why} for place, why in rows.items()]
        print_json({"files": files} if told is None else {"files": files, "findings": told.rows()})
    else:
        if told is not None:
            told.say(is_of_several=True)
        for place, why in wrong.items():
            print(f"{place}: {why}")
        print(f"{len(rows) - len(wrong)} of {len(rows)} files {good}")
    return typer.Exit(STOPPED if wrong else DONE)


def verify(folder: Folder, as_json: Json = False) -> None:
    """Say whether files still are what the manifest says was delivered; 1 where one is not."""
    found = manifest_above(_existing(folder))
    if found is None:
        raise fail(f"no manifest speaks of {folder}. Deliver with --manifest to be able to verify later.", WRONG_USE)
    root, known = found
    rows = {place: _why_not_delivered(root / place, sha256) for place, sha256 in known.items()}
    raise _ended(rows, "are as they were delivered", as_json)


def _why_not_delivered(path: Path, sha256: str) -> str | None:
    try:
        with path.open("rb") as file:
            now = hashlib.file_digest(file, "sha256").hexdigest()
    except OSError:
        return "is gone"
    return None if now == sha256 else "was changed since"


def prove(
    folder: Folder,
    target: Annotated[str, typer.Option(help="Key of the target that reads them, see `copper-sieve targets`")],
    as_json: Json = False,
) -> None:
    """Read a target's files as that target does, and hold how they are stored and which way normals lean against its table; 1
    where one is wrong. What else is found on the maps is said.
    """
    chosen = chosen_target(target)
    paths, table = sorted(_pictures(_existing(folder), chosen)), table_of(chosen)[0]
    roles = {path: role for path in paths if (role := _role(chosen, path)) is not None}
    rows = {str(path.relative_to(folder)): _why_not_read(table, role, path) for path, role in roles.items()}
    if not rows:
        raise fail(f"no file below {folder} is named as {chosen.key} names them: {expected_names(chosen)}.", WRONG_USE)
    told = Told()
    for name, tiles in _sets(chosen, roles):
        found = _read_by(chosen, tiles)
        told.add_tiles((row for row in found if not _is_misread(row[1])), name)
        for tile, misread in (row for row in found if _is_misread(row[1])):
            normal = _carrier(chosen, {**tiles.get(None, {}), **tiles.get(tile, {})}, "normal")
            place = str(normal.relative_to(folder))
            why = misread.text.removeprefix(f"{normal.name}: ")  # several tiles may share the file
            rows[place] = rows[place] if why in (rows[place] or "") else "; ".join(filter(None, (rows[place], why)))
    raise _ended(rows, f"are read by {chosen.title} as its table says", as_json, told)


def _pictures(folder: Path, target: Target) -> Iterator[Path]:
    """Pictures below a folder; where folders are named for targets, only those of this one."""
    found = [path for path in folder.rglob("*") if path.is_file() and is_picture_name(path.name)]
    own = [path for path in found if target.key in path.relative_to(folder).parts[:-1]]
    yield from own or found


def _role(target: Target, path: Path) -> str | None:
    """Which of a target's files one is by its name, be it that of a tile."""
    found = match_files(target, [path]).sets.values()
    return next((role for tiles in found for roles in tiles.values() for role in roles), None)


def _sets(target: Target, paths: Iterable[Path]) -> Iterator[tuple[str, _Tiles]]:
    """The sets of every folder: one of the same name in another folder is another delivery."""
    for _, beside in groupby(sorted(paths, key=lambda path: path.parent), key=lambda path: path.parent):
        yield from match_files(target, beside).sets.items()


def _read_by(target: Target, tiles: _Tiles) -> list[tuple[int | None, Finding]]:
    """What the maps show, read as the target reads them; nothing of files that it cannot read, which their rows say."""
    try:
        recipe, load = decoded_recipe(target, tiles)
    except (SieveError, ValueError, OSError):
        return []
    return found_in(Evaluation(recipe, None, load, Cache(cache_bytes())))


def _is_misread(found: Finding) -> bool:
    """Whether normals lean otherwise than the table says; a bake closes badly at its seams, and no file says it is one."""
    return found.id in _MISREAD and found.numbers.get("better", LEAST_CLOSING) >= LEAST_CLOSING


def _carrier(target: Target, files: Mapping[str, Path], master: str) -> Path:
    return next(files[file.role] for file in target.files if file.role in files and master in file.masters())


def _why_not_read(table: Table, role: str, path: Path) -> str | None:
    try:
        wrong = faults(table.files[role], path)
    except (ValueError, OSError) as problem:
        wrong = [str(problem)]
    return "; ".join(why.removeprefix(f"{path.name} ") for why in wrong) or None
