"""Pictures of surroundings that the sets of a project are lit by on the screen."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from ..core.errors import UnknownKey
from .database import Database, rows_of
from .statements import statements

__all__ = ["EnvironmentRow", "environment_light", "forget_environment", "keep_environment", "list_environments"]

_SQL = statements("environments")


@dataclass(frozen=True)
class EnvironmentRow:
    """One picture, as small as it is kept. ``is_bounded`` where its brightest light was cut at white."""

    id: UUID
    name: str
    width: int
    height: int
    is_bounded: bool


def list_environments(conn: Database, project_id: UUID) -> list[EnvironmentRow]:
    """Of one project, in the order they came."""
    return list(rows_of(conn, EnvironmentRow, _SQL["list_environments"], {"project_id": project_id}))


def keep_environment(
    conn: Database, project_id: UUID, *, name: str, width: int, height: int, is_bounded: bool, light: bytes
) -> EnvironmentRow:
    """Keep one; ``light`` is half-float RGBA, row by row."""
    told = {"project_id": project_id, "name": name, "width": width, "height": height, "is_bounded": is_bounded, "light": light}
    row = conn.execute(_SQL["keep_environment"], told).fetchone()
    assert row is not None  # an insert that does not fail answers
    return EnvironmentRow(row["id"], name, width, height, is_bounded)


def environment_light(conn: Database, environment_id: UUID) -> tuple[int, int, bytes]:
    """Width, height and half-float RGBA. Raises UnknownKey."""
    row = conn.execute(_SQL["environment_light"], {"id": environment_id}, binary=True).fetchone()
    if row is None:
        raise UnknownKey("environment", str(environment_id), ["the id of a picture of this project's surroundings"])
    return row["width"], row["height"], bytes(row["light"])


def forget_environment(conn: Database, environment_id: UUID) -> None:
    """Forget one; nothing happens where there is none of that id."""
    conn.execute(_SQL["forget_environment"], {"id": environment_id})
