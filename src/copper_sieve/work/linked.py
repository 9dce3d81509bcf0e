"""Sets that follow the files of a folder: the newer ones are taken as one step of a set's history."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from uuid import UUID

from ..core.errors import SieveError
from ..core.intake import FileEntry, grown
from ..files import read_bytes
from ..store import sets
from ..store.database import Pool
from ..store.originals import keep_original
from .folders import Folders, Newer
from .intake.grouping import entry_for
from .intake.keeping import keep_looked
from .intake.looking import look_at_path

__all__ = ["take_newer"]


def take_newer(pool: Pool, folders: Folders, set_id: UUID, expects: int, newer: Newer | None = None) -> None:
    """Take newer files of a set that is linked to a folder, and those added beside them.

    Parameters
    ----------
    expects : the set's head as the person saw it
    newer : which; left out all there are

    Raises
    ------
    SieveError
        where one that changed cannot be read, or nothing can be read of any that was added
    HeadMoved
        where the set has another head by now
    """
    with pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
    newer = newer or folders.newer(recipe)
    sources = dict(recipe.sources)
    for file in newer.changed:
        content = file.path.read_bytes()
        header = read_bytes(content, file.path.name).header
        now = hashlib.sha256(content).hexdigest()
        with pool.connection() as conn:
            keep_original(conn, sha256=now, name=file.path.name, size_bytes=len(content), content=io.BytesIO(content))
        read = {"sha256": now, "width": header.width, "height": header.height, "depth": header.depth}
        sources[file.source] = sources[file.source].with_file(file.tile, read)
    entries = [entry for place in newer.added if (entry := _entry_of(pool, folders, place)) is not None]
    if sources == recipe.sources and newer.added and not entries:
        names = ", ".join(place.rpartition("/")[2] for place in newer.added)
        raise SieveError(f"{names}: no map can be read of it. Save it again, or move it out of the folder.")
    taken = recipe.model_copy(update={"sources": sources})
    taken = grown(taken, entries, replace=False) if entries else taken
    with pool.connection() as conn:
        sets.write_recipe(conn, set_id, expects=expects, recipe=taken, note="Newer files taken")


def _entry_of(pool: Pool, folders: Folders, place: str) -> FileEntry | None:
    """A file that was added to a folder, kept; None where nothing can be read of it."""
    looked, content = look_at_path(folders.path_of(place))
    entry = entry_for(looked)
    if entry is None:
        return None
    keep_looked(pool, looked, io.BytesIO(content))
    return replace(entry, place=place)
