"""Sets as one file: their recipes and every file that these name, to keep, to move to another computer or to hand on."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path, PurePath, PurePosixPath
from typing import IO, Any
from uuid import UUID

from pydantic import ValidationError

from ..core.errors import NotAnImage, SieveError
from ..core.recipe import Recipe
from ..core.target import legal_name
from ..core.target.naming import name_of_copy
from ..files import read_bytes
from ..files.archives import Pipe, members
from ..store import sets
from ..store.database import Database
from ..store.originals import keep_original, original_chunks, original_headers

__all__ = ["MOST_BYTES", "SETS_ENDINGS", "SETS_FILE", "SavedSets", "names_of_sets", "open_sets", "read_sets", "write_sets"]

SETS_FILE, SETS_ENDINGS = "sets.json", (".set.zip", ".sets.zip")
_SCHEMA = 1
_MOST_BYTES = 256 << 20  # of what says which sets there are: strokes and decisions of thousands of them
_MOST_FILES, MOST_BYTES = 100_000, 64 << 30  # in one zip: whole libraries
_DAMAGED = (zipfile.BadZipFile, zlib.error, OSError, ValueError, RuntimeError, NotImplementedError, EOFError)
_EARLIEST = (1980, 1, 1, 0, 0, 0)  # the date of every file in it: same sets, same bytes


@dataclass(frozen=True)
class _Named:
    """A file that a recipe names; one that is not ``needed`` only shows where a bake met nothing."""

    sha256: str
    name: str
    is_mesh: bool = False
    is_needed: bool = True


def _named(recipe: Recipe) -> Iterator[_Named]:
    for source in recipe.sources.values():
        yield from (_Named(file.sha256, file.name) for file in source.files)
        baked = source.baked
        missed = () if baked is None else (baked.missed_map, *baked.missed_in_tiles.values())
        yield from (_Named(sha256, f"missed, {source.name}", is_needed=False) for sha256 in missed if sha256)
    for mesh in () if recipe.worn is None else recipe.worn.meshes:
        yield _Named(mesh.sha256, mesh.name, is_mesh=True)


def write_sets(conn: Database, rows: Sequence[tuple[str, Recipe]]) -> Iterator[bytes]:
    """A zip of sets, by name and recipe: ``sets.json``, and each file once, in a folder called as the first set that names it;
    ``files`` says where, by hash.

    Pictures lie in it as they came. Where they lay on this computer is left out, and so are steps that led to a recipe.
    """
    pipe, paths = Pipe(), _paths(rows)
    kept = original_headers(conn, list(paths))
    paths = {sha256: path for sha256, path in paths.items() if sha256 in kept}
    told = [{"name": name, "recipe": _anywhere(recipe).model_dump(mode="json", by_alias=True)} for name, recipe in rows]
    with zipfile.ZipFile(pipe, "w", allowZip64=True) as archive:  # type: ignore[arg-type]
        whole = {"schema": _SCHEMA, "files": paths, "sets": told}
        archive.writestr(zipfile.ZipInfo(SETS_FILE, _EARLIEST), json.dumps(whole, ensure_ascii=False))
        yield pipe.take()
        for sha256, path in paths.items():
            with archive.open(zipfile.ZipInfo(path, _EARLIEST), "w", force_zip64=True) as file:
                for chunk in original_chunks(conn, sha256):
                    file.write(chunk)
                    yield pipe.take()
            yield pipe.take()
    yield pipe.take()


def _anywhere(recipe: Recipe) -> Recipe:
    """A recipe whose files lie nowhere: folders of one computer are none of another's."""
    sources = {}
    for ref, source in recipe.sources.items():
        beside = {tile: file.model_copy(update={"place": None}) for tile, file in source.beside.items()}
        sources[ref] = source.model_copy(update={"place": None, "beside": beside})
    return recipe.model_copy(update={"sources": sources})


def _paths(rows: Sequence[tuple[str, Recipe]]) -> dict[str, str]:
    """Where each file lies in the zip, by its hash: two of one name are told apart by a number."""
    paths: dict[str, str] = {}
    taken = {SETS_FILE}
    for set_name, recipe in rows:
        folder = legal_name(set_name)
        for file in _named(recipe):
            if file.sha256 in paths:
                continue
            own = PurePath(legal_name(PurePath(file.name).name))
            path, number = f"{folder}/{own}", 2
            while path.casefold() in taken:
                path, number = f"{folder}/{own.stem} ({number}){own.suffix}", number + 1
            taken.add(path.casefold())
            paths[file.sha256] = path
    return paths


def names_of_sets(content: IO[bytes], name: str) -> list[str]:
    """What the sets in a zip are called; none where it is no zip of sets. Raises NotAnImage for one that cannot be read."""
    told = _told(content, name)
    return [] if told is None else [row[0] for row in told[0]]


def _told(content: IO[bytes], name: str) -> tuple[list[tuple[str, Recipe]], dict[str, str]] | None:
    """What a zip says: its sets, and where its files lie by hash. None where it says nothing of sets."""
    try:
        with zipfile.ZipFile(content) as archive:
            row = _list_in(archive)
            if row is None:
                return None
            if row.file_size > _MOST_BYTES:
                raise NotAnImage(f"{name}: says which sets it holds in {row.file_size >> 20} MB, which is not believed.")
            said: Any = json.loads(archive.read(row))
    except _DAMAGED as problem:
        raise NotAnImage(f"{name}: holds sets, but {SETS_FILE} in it cannot be read ({problem}). Save them again.") from problem
    if not isinstance(said, dict) or not isinstance(said.get("sets"), list) or not isinstance(said.get("schema"), int):
        return None  # another program's file of that name
    if said["schema"] > _SCHEMA:
        raise NotAnImage(f"{name}: was saved by a newer version of this program. Take it in there, or bring this one up to date.")
    try:
        above = row.filename.removesuffix(SETS_FILE)
        inside = {str(sha256): f"{above}{path}" for sha256, path in said["files"].items()}
        return [(legal_name(str(row["name"])), Recipe.model_validate(row["recipe"])) for row in said["sets"]], inside
    except (KeyError, TypeError, AttributeError, ValidationError, SieveError) as problem:
        first = str(problem).splitlines()[0]
        raise NotAnImage(f"{name}: a set in it is not as this program writes them ({first}). Save it again.") from problem


def _list_in(archive: zipfile.ZipFile) -> zipfile.ZipInfo | None:
    """What says which sets there are: on top, or below the one folder that packing again puts around it."""
    found = [row for row in archive.infolist() if PurePosixPath(row.filename).name == SETS_FILE]
    return min(found, key=lambda row: row.filename.count("/"), default=None)


def read_sets(conn: Database, project_id: UUID, content: IO[bytes], name: str) -> list[UUID]:
    """Take in every set of a zip, all or none of them; one whose name is taken gets a number. Their history begins here.

    Raises
    ------
    NotAnImage
        where it is no such zip, or a file that a set names is not in it as it was saved
    """
    told = _told(content, name)
    if told is None:
        raise NotAnImage(f"{name}: holds no saved sets. Drop it as pictures.")
    rows = told[0]
    wanted = {file.sha256: file for _, recipe in rows for file in _named(recipe)}
    there = original_headers(conn, list(wanted))
    content.seek(0)
    problems: dict[str, str] = {}
    for member in members(content, name, most=_MOST_FILES, most_bytes=MOST_BYTES):
        sha256 = hashlib.sha256(member.content).hexdigest()
        if member.problem is not None:
            problems[member.name] = str(member.problem)
        if sha256 in wanted and sha256 not in there:
            there[sha256] = _keep(conn, wanted[sha256], member.content)
    missing = sorted({file.name for sha256, file in wanted.items() if file.is_needed and sha256 not in there})
    if missing:
        why = next((problems[one] for one in missing if one in problems), None)
        said = f" ({why})" if why else ""
        raise NotAnImage(f"{name}: {', '.join(missing)} is not in it as it was saved{said}. Nothing was taken in: save it again.")
    made, taken = [], [row.name for row in sets.list_sets(conn, project_id)]
    for own, recipe in rows:
        is_free = own.casefold() not in {one.casefold() for one in taken}
        free = own if is_free else name_of_copy(own, taken)
        taken.append(free)
        made.append(sets.create_set(conn, project_id=project_id, name=free, recipe=recipe, note=f"taken in from {name}"))
    return made


@dataclass(frozen=True)
class SavedSets:
    """A zip of sets on disk: their names and recipes, and where in it each file lies, by hash."""

    path: Path
    rows: Sequence[tuple[str, Recipe]]
    inside: Mapping[str, str]

    def content(self, sha256: str) -> bytes:
        """The bytes of a file. Raises NotAnImage where it is not in the zip as it was saved."""
        try:
            with zipfile.ZipFile(self.path) as archive:
                content = archive.read(self.inside[sha256])
        except (KeyError, *_DAMAGED):
            content = b""
        if hashlib.sha256(content).hexdigest() != sha256:
            names = {file.sha256: file.name for _, recipe in self.rows for file in _named(recipe)}
            raise NotAnImage(f"{self.path.name}: {names.get(sha256, sha256)} is not in it as it was saved. Save it again.")
        return content


def open_sets(path: Path) -> SavedSets:
    """A zip of sets on disk. Raises NotAnImage for what is none, OSError."""
    with path.open("rb") as content:
        told = _told(content, path.name)
    if told is None:
        raise NotAnImage(f"{path.name}: holds no saved sets. Save some on the tray, or name pictures to `make`.")
    return SavedSets(path, *told)


def _keep(conn: Database, file: _Named, content: bytes) -> dict[str, Any] | None:
    """Keep a file of a set; what its reader says of it, where it is a picture. Raises SieveError for one that is none."""
    header = None if file.is_mesh else asdict(read_bytes(content, file.name).header)
    told = {"sha256": file.sha256, "name": file.name, "size_bytes": len(content), "header": header}
    keep_original(conn, **told, content=io.BytesIO(content))
    return header
