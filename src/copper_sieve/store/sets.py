"""Sets, and the append-only history of their recipes."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb
from pydantic import ValidationError

from ..core.errors import NameTaken, RecipeInvalid, SieveError, UnknownKey
from ..core.recipe import Recipe, check_reads, check_recipe
from .database import Database, rows_of
from .originals import original_headers
from .statements import statements

__all__ = [
    "HeadMoved",
    "RemovedRow",
    "SetRow",
    "VersionRow",
    "create_set",
    "get_set",
    "list_heads",
    "list_names",
    "list_removed",
    "list_sets",
    "list_versions",
    "move_head",
    "move_to",
    "name_version",
    "project_of",
    "remove_set",
    "rename_set",
    "sets_of_known_width",
    "undone_files",
    "version_recipe",
    "write_recipe",
]


class HeadMoved(SieveError):
    """Somebody else, or another tab, changed the set since it was read."""

    code = "head-moved"


_SQL = statements("sets")
_SHOWN_VERSIONS = 200


@dataclass(frozen=True)
class SetRow:
    """A set at its head; ``before`` is the recipe one step earlier, ``parent`` and ``next`` the versions around it."""

    id: UUID
    name: str
    head: int
    recipe: Recipe
    parent: int | None
    next: int | None
    before: Recipe | None


@dataclass(frozen=True)
class VersionRow:
    """One step of a set's history, without its recipe."""

    id: int
    parent: int | None
    note: str
    name: str | None
    created: datetime
    is_head: bool


def _set_row(*, recipe: Any, before: Any, **columns: Any) -> SetRow:
    before = None if before is None else Recipe.model_validate(before)
    return SetRow(recipe=Recipe.model_validate(recipe), before=before, **columns)


def list_sets(conn: Database, project_id: UUID) -> list[SetRow]:
    """The sets of a project in the order they came, without those that were put away."""
    return rows_of(conn, _set_row, _SQL["list_sets"], {"project_id": project_id}).fetchall()


def list_heads(conn: Database, project_id: UUID) -> dict[UUID, int]:
    """The head of every set of a project, without the recipes."""
    rows = conn.execute(_SQL["list_heads"], {"project_id": project_id})
    return {row["id"]: row["head"] for row in rows}


def list_names(conn: Database, project_id: UUID) -> dict[str, UUID]:
    """The sets of a project by their names."""
    return {row["name"]: row["id"] for row in conn.execute(_SQL["list_names"], {"project_id": project_id})}


def sets_of_known_width(conn: Database, project_id: UUID) -> dict[UUID, Recipe]:
    """Recipes of the sets of a project of which somebody has said how wide their tile is."""
    rows = conn.execute(_SQL["sets_of_known_width"], {"project_id": project_id})
    return {row["id"]: Recipe.model_validate(row["recipe"]) for row in rows}


def project_of(conn: Database, set_id: UUID) -> UUID:
    """The project that a set is in. Raises UnknownKey."""
    row = conn.execute(_SQL["project_of"], {"set_id": set_id}).fetchone()
    if row is None:
        raise UnknownKey("set", str(set_id), ["a set of this project"])
    return row["project_id"]


def get_set(conn: Database, set_id: UUID) -> SetRow:
    """Raises UnknownKey."""
    row = rows_of(conn, _set_row, _SQL["get_set"], {"set_id": set_id}).fetchone()
    if row is None:
        raise UnknownKey("set", str(set_id), ["a set of this project"])
    return row


def create_set(conn: Database, *, project_id: UUID, name: str, recipe: Recipe, note: str = "taken in") -> UUID:
    """Make a set whose history begins with ``recipe``, and with how it came about. Raises NameTaken."""
    _refuse_taken(conn, project_id, name)
    row = conn.execute(_SQL["make_set"], {"project_id": project_id, "name": name}).fetchone()
    assert row is not None
    _append(conn, row["id"], None, recipe, note)
    return row["id"]


def _append(conn: Database, set_id: UUID, parent: int | None, recipe: Recipe, note: str) -> None:
    """Raises RecipeInvalid for a recipe that could not be computed, or that names files which are not kept."""
    try:
        recipe = Recipe.model_validate(recipe.model_dump(mode="json", by_alias=True))  # a changed copy was not looked at yet
    except ValidationError as problem:
        said = "; ".join(error["msg"].removeprefix("Value error, ") for error in problem.errors())
        raise RecipeInvalid(f"that does not hold together: {said}.") from problem
    check_recipe(recipe)
    _check_kept(conn, recipe)
    kept = Jsonb(recipe.model_dump(mode="json", by_alias=True))
    conn.execute(_SQL["append_version"], {"set_id": set_id, "parent": parent, "recipe": kept, "note": note})


def _check_kept(conn: Database, recipe: Recipe) -> None:
    """Every source is a file that was dropped, and has the channels that it is read by."""
    files = [(source, file) for source in recipe.sources.values() for file in source.files]
    meshes = () if recipe.worn is None else recipe.worn.meshes
    named = [*(file for _, file in files), *meshes]
    headers = original_headers(conn, [one.sha256 for one in named])
    missing = sorted(one.name for one in named if one.sha256 not in headers)
    if missing:
        told = ", ".join(missing)
        raise RecipeInvalid(f"{told} is not among the files that were dropped. Drop it first.", files=told)
    for source, file in files:
        header = headers[file.sha256]
        if header is not None:
            check_reads(file.name, source.reads, header["channels"])


def _expect(conn: Database, set_id: UUID, expects: int) -> SetRow:
    conn.execute(_SQL["hold_set"], {"set_id": set_id})
    now = get_set(conn, set_id)
    if now.head != expects:
        raise HeadMoved(
            f"{now.name} was changed elsewhere meanwhile. Look at the newer state, then change it again.", head=now.head
        )
    return now


def write_recipe(conn: Database, set_id: UUID, *, expects: int, recipe: Recipe, note: str) -> None:
    """Append a version and make it the head. Raises HeadMoved when the head is not ``expects``."""
    _expect(conn, set_id, expects)
    _append(conn, set_id, expects, recipe, note)


def move_head(conn: Database, set_id: UUID, *, expects: int, step: str) -> None:
    """Undo (to the parent) or redo (to the newest child); without one it stays."""
    now = _expect(conn, set_id, expects)
    to = now.parent if step == "undo" else now.next
    if to is not None:
        conn.execute(_SQL["move_head"], {"set_id": set_id, "version": to})


def list_versions(conn: Database, set_id: UUID) -> list[VersionRow]:
    """The newest versions of a set, newest first, with what each did."""
    return rows_of(conn, VersionRow, _SQL["list_versions"], {"set_id": set_id, "most": _SHOWN_VERSIONS}).fetchall()


def version_recipe(conn: Database, set_id: UUID, version: int) -> Recipe:
    """Raises UnknownKey."""
    row = conn.execute(_SQL["version_recipe"], {"set_id": set_id, "version": version}).fetchone()
    if row is None:
        raise UnknownKey("version", str(version), ["a version of this set"])
    return Recipe.model_validate(row["recipe"])


def undone_files(conn: Database, set_id: UUID) -> set[str]:
    """Hashes and places of all files that versions name which somebody has gone back from."""
    rows = [row["sources"] or {} for row in conn.execute(_SQL["undone_sources"], {"set_id": set_id})]
    sources = [one for row in rows for one in row.values()]
    files = [*sources, *(file for one in sources for file in (one.get("beside") or {}).values())]
    return {said for file in files for said in (file.get("sha256"), file.get("place")) if said is not None}


def move_to(conn: Database, set_id: UUID, *, expects: int, version: int) -> None:
    """Make any version of the set its head; the others stay. Raises HeadMoved, UnknownKey."""
    _expect(conn, set_id, expects)
    version_recipe(conn, set_id, version)
    conn.execute(_SQL["move_head"], {"set_id": set_id, "version": version})


def name_version(conn: Database, set_id: UUID, version: int, name: str | None) -> None:
    """Give a version a name to find it by, or take it away. Raises UnknownKey."""
    version_recipe(conn, set_id, version)
    conn.execute(_SQL["name_version"], {"set_id": set_id, "version": version, "name": name})


@dataclass(frozen=True)
class RemovedRow:
    """A set that was put away, and when."""

    id: UUID
    name: str
    removed: datetime


def list_removed(conn: Database, project_id: UUID) -> list[RemovedRow]:
    """The sets of a project that were put away, the last first."""
    return rows_of(conn, RemovedRow, _SQL["list_removed"], {"project_id": project_id}).fetchall()


def rename_set(conn: Database, set_id: UUID, name: str) -> None:
    """Call a set otherwise. Raises NameTaken, UnknownKey."""
    now = get_set(conn, set_id)
    if now.name.lower() != name.lower():
        _refuse_taken(conn, project_of(conn, set_id), name)
    conn.execute(_SQL["rename_set"], {"set_id": set_id, "name": name})


def _refuse_taken(conn: Database, project_id: UUID, name: str) -> None:
    if conn.execute(_SQL["set_is_named"], {"project_id": project_id, "name": name}).fetchone() is not None:
        raise NameTaken(f"there is a set named {name} already. Give this one another name.", name=name)


def remove_set(conn: Database, set_id: UUID, *, removed: bool) -> None:
    """Put a set away, or bring it back. Nothing is lost. Raises UnknownKey, NameTaken where its name was given away meanwhile."""
    if not removed:
        kept = conn.execute(_SQL["name_of_set"], {"set_id": set_id}).fetchone()
        if kept is not None:
            _refuse_taken(conn, kept["project_id"], kept["name"])
    if conn.execute(_SQL["remove_set"], {"set_id": set_id, "removed": removed}).rowcount == 0:
        raise UnknownKey("set", str(set_id), ["a set of this project"])
