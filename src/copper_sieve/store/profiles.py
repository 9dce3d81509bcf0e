"""Source profiles, one per name, shared by all projects."""

from __future__ import annotations

from psycopg.types.json import Jsonb

from ..core.errors import UnknownKey
from ..core.intake import SourceProfile
from .database import Database
from .statements import statements

__all__ = ["forget_profile", "keep_profile", "list_profiles", "profile_named"]

_SQL = statements("profiles")


def list_profiles(conn: Database) -> list[SourceProfile]:
    """All of them, the one that was changed last first."""
    return [SourceProfile.model_validate(row["profile"]) for row in conn.execute(_SQL["list_profiles"])]


def profile_named(conn: Database, name: str) -> SourceProfile:
    """Raises UnknownKey with the names there are."""
    row = conn.execute(_SQL["profile_named"], {"name": name}).fetchone()
    if row is None:
        raise UnknownKey("source profile", name, [profile.name for profile in list_profiles(conn)])
    return SourceProfile.model_validate(row["profile"])


def keep_profile(conn: Database, profile: SourceProfile) -> None:
    """Keep a profile, or put it in place of the one of its name."""
    kept = Jsonb(profile.model_dump(mode="json", by_alias=True))
    conn.execute(_SQL["keep_profile"], {"name": profile.name, "profile": kept})


def forget_profile(conn: Database, name: str) -> None:
    """Forget a profile; nothing happens where there is none of that name."""
    conn.execute(_SQL["forget_profile"], {"name": name})
