"""Source profiles, one per name, shared by all projects."""

from __future__ import annotations

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from ..core.intake import SourceProfile
from .database import Database

__all__ = ["forget_profile", "keep_profile", "list_profiles", "profile_named"]


def list_profiles(conn: Database) -> list[SourceProfile]:
    rows = conn.execute("SELECT profile FROM source_profile ORDER BY changed DESC")
    return [SourceProfile.model_validate(row["profile"]) for row in rows]


def profile_named(conn: Database, name: str) -> SourceProfile:
    """Raises UnknownKey with the names there are."""
    row = conn.execute("SELECT profile FROM source_profile WHERE name = %s", (name,)).fetchone()
    if row is None:
        raise UnknownKey("source profile", name, [profile.name for profile in list_profiles(conn)])
    return SourceProfile.model_validate(row["profile"])


def keep_profile(conn: Database, profile: SourceProfile) -> None:
    """Keep a profile, or put it in place of the one of its name."""
    conn.execute(
        """INSERT INTO source_profile (name, profile) VALUES (%s, %s)
           ON CONFLICT (name) DO UPDATE SET profile = excluded.profile, changed = now()""",
        (profile.name, Jsonb(profile.model_dump(mode="json", by_alias=True))),
    )


def forget_profile(conn: Database, name: str) -> None:
    conn.execute("DELETE FROM source_profile WHERE name = %s", (name,))
