"""Projects: what they are called, what they do by themselves, and how they go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from ..core.errors import NameTaken, UnknownKey
from .database import Database, rows_of
from .statements import statements

__all__ = [
    "ProjectRow",
    "ProjectWeight",
    "create_project",
    "delete_project",
    "list_projects",
    "project_named",
    "put_project_away",
    "set_keeping_up",
    "set_title",
    "set_usual",
    "weigh_project",
]

_SQL = statements("projects")


@dataclass(frozen=True)
class ProjectRow:
    """A project; ``name`` is its part of an address, ``usual`` the keys of the targets that it usually delivers to.

    One that ``is_away`` keeps all that is in it, and is listed apart. One that ``takes_newer`` takes newer files of linked
    folders by itself, one that ``delivers_changes`` delivers again by itself what changed.
    """

    id: UUID
    name: str
    title: str
    usual: list[str]
    is_away: bool
    takes_newer: bool
    delivers_changes: bool


def list_projects(conn: Database) -> list[ProjectRow]:
    """All projects, the oldest first."""
    return rows_of(conn, ProjectRow, _SQL["list_projects"]).fetchall()


def create_project(conn: Database, *, name: str, title: str) -> ProjectRow:
    """Make a project, or return the one of that title. Raises NameTaken where another title has the name."""
    conn.execute(_SQL["make_project"], {"name": name, "title": title})
    titled = conn.execute(_SQL["project_titled"], {"title": title}).fetchone()
    found = project_named(conn, name if titled is None else titled["name"])
    if found.title != title:
        raise NameTaken(f"{title!r} would be kept as {name}, as {found.title!r} is. Give it another title.", name=name)
    return found


def project_named(conn: Database, name: str) -> ProjectRow:
    """Raises UnknownKey with the names there are."""
    row = rows_of(conn, ProjectRow, _SQL["project_named"], {"name": name}).fetchone()
    if row is None:
        raise UnknownKey("project", name, [project.name for project in list_projects(conn)])
    return row


def set_title(conn: Database, project_id: UUID, title: str) -> None:
    """Call a project otherwise; its address stays. The title of another is refused by a rule of the schema."""
    conn.execute(_SQL["set_title"], {"project_id": project_id, "title": title})


def put_project_away(conn: Database, project_id: UUID, *, is_away: bool) -> None:
    """Put a project away, with all that is in it, or back."""
    conn.execute(_SQL["put_project_away"], {"project_id": project_id, "is_away": is_away})


def set_keeping_up(conn: Database, project_id: UUID, *, takes_newer: bool | None, delivers_changes: bool | None) -> None:
    """Say what a project does by itself; None leaves it as it is."""
    told = {"project_id": project_id, "takes_newer": takes_newer, "delivers_changes": delivers_changes}
    conn.execute(_SQL["set_keeping_up"], told)


@dataclass(frozen=True)
class ProjectWeight:
    """How many sets a project has or had, and what its files take that no other project names."""

    sets: int
    bytes: int


def weigh_project(conn: Database, project_id: UUID) -> ProjectWeight:
    """What goes when a project is deleted."""
    told = {"project_id": project_id}
    count = conn.execute(_SQL["count_all_sets"], told).fetchone()
    assert count is not None
    return ProjectWeight(count["sets"], sum(row["size_bytes"] for row in conn.execute(_SQL["own_files"], told)))


def delete_project(conn: Database, project_id: UUID) -> None:
    """Delete a project for good: its sets and their history, what is known of its deliveries, files that no other project names.

    What was delivered stays where it lies.
    """
    told = {"project_id": project_id}
    files = [row["sha256"] for row in conn.execute(_SQL["own_files"], told)]
    for step in ("lose_heads", "delete_versions", "delete_sets", "delete_deliveries", "delete_project"):
        conn.execute(_SQL[step], told)
    conn.execute(_SQL["delete_files"], {"sha256s": files})


def set_usual(conn: Database, project_id: UUID, usual: Sequence[str]) -> None:
    """Remember which targets a project usually delivers to, in their order."""
    conn.execute(_SQL["set_usual"], {"project_id": project_id, "usual": list(usual)})
