"""Settings of sets under names that people gave them, shared by all projects."""

from __future__ import annotations

from psycopg.types.json import Jsonb

from ..core.recipe import Settings
from .database import Database
from .statements import statements

__all__ = ["forget_saved", "keep_saved", "list_saved"]

_SQL = statements("saved_settings")


def list_saved(conn: Database) -> dict[str, Settings]:
    """All of them by name, the one that was changed last first."""
    return {row["name"]: Settings.model_validate(row["settings"]) for row in conn.execute(_SQL["list_saved"])}


def keep_saved(conn: Database, name: str, settings: Settings) -> None:
    """Keep settings, or put them in place of those of that name."""
    kept = Jsonb(settings.model_dump(mode="json", by_alias=True))
    conn.execute(_SQL["keep_saved"], {"name": name, "settings": kept})


def forget_saved(conn: Database, name: str) -> None:
    """Forget settings; nothing happens where there are none of that name."""
    conn.execute(_SQL["forget_saved"], {"name": name})
