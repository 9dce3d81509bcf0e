"""Projects, sets, and the append-only history of their recipes."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb
from pydantic import ValidationError

from ..core.errors import RecipeInvalid, SieveError, UnknownKey
from ..core.recipe import Recipe, check_reads, check_recipe
from .database import Database

__all__ = [
    "HeadMoved",
    "NameTaken",
    "create_project",
    "create_set",
    "get_set",
    "list_projects",
    "list_sets",
    "list_versions",
    "move_head",
    "move_to",
    "name_version",
    "project_named",
    "remove_set",
    "version_recipe",
    "write_recipe",
]


class HeadMoved(SieveError):
    """Somebody else, or another tab, changed the set since it was read."""

    code = "head-moved"


class NameTaken(SieveError):
    """A set of that name is in the project already."""

    code = "name-taken"


def list_projects(conn: Database) -> list[dict[str, Any]]:
    return conn.execute("SELECT id, name, title FROM project ORDER BY created").fetchall()


def create_project(conn: Database, *, name: str, title: str) -> dict[str, Any]:
    """Make a project, or return the one of that name and title. Raises NameTaken where another title has the name."""
    conn.execute("INSERT INTO project (name, title) VALUES (%s, %s) ON CONFLICT DO NOTHING", (name, title))
    found = project_named(conn, name)
    if found["title"] != title:
        raise NameTaken(f"{title!r} would be kept as {name}, as {found['title']!r} is. Give it another title.", name=name)
    return found


def project_named(conn: Database, name: str) -> dict[str, Any]:
    """Raises UnknownKey with the names there are."""
    row = conn.execute("SELECT id, name, title FROM project WHERE name = %s", (name,)).fetchone()
    if row is None:
        raise UnknownKey("project", name, [p["name"] for p in list_projects(conn)])
    return row


_SET = """
    SELECT s.id, s.name, s.head, v.recipe, v.parent,
           (SELECT max(n.id) FROM recipe_version n WHERE n.parent = v.id) AS next,
           (SELECT p.recipe FROM recipe_version p WHERE p.id = v.parent) AS before
      FROM texture_set s JOIN recipe_version v ON v.id = s.head
"""


def _row(row: Any) -> dict[str, Any]:
    before = row["before"]
    return {
        **row,
        "recipe": Recipe.model_validate(row["recipe"]),
        "before": None if before is None else Recipe.model_validate(before),
    }


def list_sets(conn: Database, project_id: UUID) -> list[dict[str, Any]]:
    rows = conn.execute(f"{_SET} WHERE s.project_id = %s AND s.deleted IS NULL ORDER BY s.created, s.name", (project_id,))
    return [_row(row) for row in rows]


def get_set(conn: Database, set_id: UUID) -> dict[str, Any]:
    """Raises UnknownKey."""
    row = conn.execute(f"{_SET} WHERE s.id = %s AND s.deleted IS NULL", (set_id,)).fetchone()
    if row is None:
        raise UnknownKey("set", str(set_id), ["a set of this project"])
    return _row(row)


def create_set(conn: Database, *, project_id: UUID, name: str, recipe: Recipe) -> UUID:
    """Make a set whose history begins with ``recipe``. Raises NameTaken."""
    taken = conn.execute(
        "SELECT 1 FROM texture_set WHERE project_id = %s AND lower(name) = lower(%s) AND deleted IS NULL",
        (project_id, name),
    ).fetchone()
    if taken:
        raise NameTaken(f"there is a set named {name} already. Give this one another name.", name=name)
    row = conn.execute("INSERT INTO texture_set (project_id, name) VALUES (%s, %s) RETURNING id", (project_id, name)).fetchone()
    assert row is not None
    _append(conn, row["id"], None, recipe, "taken in")
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
    conn.execute(
        """WITH made AS (INSERT INTO recipe_version (set_id, parent, recipe, note) VALUES (%s, %s, %s, %s) RETURNING id)
           UPDATE texture_set SET head = (SELECT id FROM made) WHERE id = %s""",
        (set_id, parent, Jsonb(recipe.model_dump(mode="json", by_alias=True)), note, set_id),
    )


def _check_kept(conn: Database, recipe: Recipe) -> None:
    """Every source is a file that was dropped, and has the channels that it is read by."""
    wanted = [source.sha256 for source in recipe.sources.values()]
    rows = conn.execute("SELECT sha256, header FROM original WHERE sha256 = ANY(%s)", (wanted,)).fetchall()
    headers = {row["sha256"]: row["header"] for row in rows}
    missing = sorted(source.name for source in recipe.sources.values() if source.sha256 not in headers)
    if missing:
        told = ", ".join(missing)
        raise RecipeInvalid(f"{told} is not among the files that were dropped. Drop it first.", files=told)
    for source in recipe.sources.values():
        header = headers[source.sha256]
        if header is not None:
            check_reads(source.name, source.reads, header["channels"])


def _expect(conn: Database, set_id: UUID, expects: int) -> dict[str, Any]:
    conn.execute("SELECT 1 FROM texture_set WHERE id = %s FOR UPDATE", (set_id,))
    now = get_set(conn, set_id)
    if now["head"] != expects:
        raise HeadMoved(
            f"{now['name']} was changed elsewhere meanwhile. Look at the newer state, then change it again.", head=now["head"]
        )
    return now


def write_recipe(conn: Database, set_id: UUID, *, expects: int, recipe: Recipe, note: str) -> None:
    """Append a version and make it the head. Raises HeadMoved when the head is not ``expects``."""
    _expect(conn, set_id, expects)
    _append(conn, set_id, expects, recipe, note)


def move_head(conn: Database, set_id: UUID, *, expects: int, step: str) -> None:
    """Undo (to the parent) or redo (to the newest child); without one it stays."""
    now = _expect(conn, set_id, expects)
    to = now["parent"] if step == "undo" else now["next"]
    if to is not None:
        conn.execute("UPDATE texture_set SET head = %s WHERE id = %s", (to, set_id))


_SHOWN_VERSIONS = 200


def list_versions(conn: Database, set_id: UUID) -> list[dict[str, Any]]:
    """The newest versions of a set, newest first, with what each did."""
    return conn.execute(
        """SELECT v.id, v.parent, v.note, v.name, v.created, v.id = s.head AS is_head
             FROM recipe_version v JOIN texture_set s ON s.id = v.set_id
            WHERE v.set_id = %s ORDER BY v.id DESC LIMIT %s""",
        (set_id, _SHOWN_VERSIONS),
    ).fetchall()


def version_recipe(conn: Database, set_id: UUID, version: int) -> Recipe:
    """Raises UnknownKey."""
    row = conn.execute("SELECT recipe FROM recipe_version WHERE set_id = %s AND id = %s", (set_id, version)).fetchone()
    if row is None:
        raise UnknownKey("version", str(version), ["a version of this set"])
    return Recipe.model_validate(row["recipe"])


def move_to(conn: Database, set_id: UUID, *, expects: int, version: int) -> None:
    """Make any version of the set its head; the others stay. Raises HeadMoved, UnknownKey."""
    _expect(conn, set_id, expects)
    version_recipe(conn, set_id, version)
    conn.execute("UPDATE texture_set SET head = %s WHERE id = %s", (version, set_id))


def name_version(conn: Database, set_id: UUID, version: int, name: str | None) -> None:
    """Give a version a name to find it by, or take it away. Raises UnknownKey."""
    version_recipe(conn, set_id, version)
    conn.execute("UPDATE recipe_version SET name = %s WHERE set_id = %s AND id = %s", (name, set_id, version))


def remove_set(conn: Database, set_id: UUID, *, removed: bool) -> None:
    """Put a set away, or bring it back. Nothing is lost. Raises UnknownKey."""
    done = conn.execute("UPDATE texture_set SET deleted = CASE WHEN %s THEN now() END WHERE id = %s", (removed, set_id))
    if done.rowcount == 0:
        raise UnknownKey("set", str(set_id), ["a set of this project"])
