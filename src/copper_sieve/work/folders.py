"""Folders on the server that sets are linked to: listed, looked into, and watched for files that changed."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ..core.errors import UnknownKey
from ..core.intake import SourceProfile
from ..core.intake.names import read_name
from ..core.quantities import quantity
from ..core.recipe import Recipe, TileFile
from .hashes import Hashes
from .intake.looking import Looked, is_picture_name, look_at_path

__all__ = ["ChangedFile", "Folders", "LinkedFile", "Newer"]


@dataclass(frozen=True)
class LinkedFile:
    """A file of a linked folder: its place as sources remember it, what it is, and its bytes."""

    place: str
    looked: Looked
    content: bytes


@dataclass(frozen=True)
class ChangedFile:
    """A file of a source that was written anew: its own (``tile`` is None), or the one of another tile."""

    source: str
    tile: int | None
    name: str
    path: Path
    sha256: str


@dataclass(frozen=True)
class Newer:
    """What linked folders hold that a set has not yet: files that were ``changed``, and places of those that were ``added``."""

    changed: Sequence[ChangedFile] = ()
    added: Sequence[str] = ()

    def __bool__(self) -> bool:
        return bool(self.changed or self.added)


@dataclass
class Folders:
    """Only what lies below ``roots`` is ever touched, and only read. A *place* is ``NUMBER/path/below/that/root``."""

    roots: Sequence[Path]
    _hashes: Hashes = field(default_factory=Hashes)
    _read: dict[str, tuple[int, dict[str, list[tuple[str, str]]]]] = field(default_factory=dict)

    def listing(self) -> dict[str, int]:
        """Places of folders that hold pictures, with their number; hidden folders and links left out."""
        found: dict[str, int] = {}
        for number, root in enumerate(self.roots):
            whole = root.resolve()
            for folder, inside, names in os.walk(root):
                inside[:] = sorted(name for name in inside if not name.startswith("."))
                count = sum(is_picture_name(name) and _is_inside(whole, Path(folder, name)) for name in names)
                if count:
                    below = Path(folder).relative_to(root).as_posix()
                    found[f"{number}/{below}" if below != "." else f"{number}"] = count
        return found

    def path_of(self, place: str) -> Path:
        """The path of a place. Raises UnknownKey for whatever is not below a root, by name or through a link."""
        number, _, below = place.partition("/")
        if number.isascii() and number.isdigit() and int(number) < len(self.roots):
            root = self.roots[int(number)].resolve()
            try:
                path = (root / below).resolve()
                if path.exists() and path.is_relative_to(root):
                    return path
            except (OSError, ValueError):  # a name no file can have: too long, or with a NUL in it
                pass
        raise UnknownKey("place in a linked folder", place, list(self.listing()))

    def names(self, place: str) -> list[str]:
        """Names of the pictures that lie directly in a folder. Raises UnknownKey."""
        return [path.name for path in self._pictures(place)]

    def look(self, place: str, profile_of: Callable[[str], SourceProfile | None] = lambda name: None) -> Iterator[LinkedFile]:
        """Every picture that lies directly in a folder; links that lead out of its root are passed over."""
        root = self.roots[int(place.partition("/")[0])].resolve()
        folder = self.path_of(place).relative_to(root.parent).as_posix()
        for path in self._pictures(place):
            looked, content = look_at_path(path, folder, profile_of(path.name))
            yield LinkedFile(f"{place}/{looked.name}", looked, content)

    def _pictures(self, place: str) -> list[Path]:
        folder, root = self.path_of(place), self.roots[int(place.partition("/")[0])].resolve()
        return sorted(p for p in folder.iterdir() if p.is_file() and is_picture_name(p.name) and _is_inside(root, p))

    def newer(self, recipe: Recipe) -> Newer:
        """What its folders hold that a recipe has not."""
        return Newer(self.changed(recipe), self.added(recipe))

    def changed(self, recipe: Recipe) -> list[ChangedFile]:
        """Files of a recipe's sources whose linked file holds other bytes now. Gone files are left as they are."""
        found = []
        for source, one in recipe.sources.items():
            for tile, file in ((None, one), *one.beside.items()):
                other = self._other(file)
                if other is not None:
                    found.append(ChangedFile(source, tile, file.name, *other))
        return found

    def added(self, recipe: Recipe) -> list[str]:
        """Places beside the files of a recipe that are called as they are and hold a map that no file gives it yet."""
        if recipe.tiles:  # which tile a file belongs to is asked at intake
            return []
        placed = [source for source in recipe.sources.values() if source.place is not None]
        stems = {read_name(source.name).stem.casefold() for source in placed}
        reads = {read for source in recipe.sources.values() for read in source.reads.values()}
        given = reads | {quantity(read).master for read in reads}
        known = {source.place for source in placed}
        found = []
        for folder in dict.fromkeys(str(source.place).rpartition("/")[0] for source in placed):
            by_stem = self._by_stem(folder)
            for name, kind in (row for stem in stems for row in by_stem.get(stem, ())):
                if f"{folder}/{name}" not in known and kind not in given:
                    found.append(f"{folder}/{name}")
        return found

    def _by_stem(self, place: str) -> dict[str, list[tuple[str, str]]]:
        """Names in a folder that say what they are, and as what, by stem; read anew when a file came or went."""
        try:
            stamp = self.path_of(place).stat().st_mtime_ns
            if place not in self._read or self._read[place][0] != stamp:
                rows: dict[str, list[tuple[str, str]]] = {}
                for name in self.names(place):
                    told = read_name(name)
                    if told.kind is not None:
                        rows.setdefault(told.stem.casefold(), []).append((name, told.kind))
                self._read[place] = stamp, rows
            return self._read[place][1]
        except (UnknownKey, OSError):
            return {}

    def _other(self, file: TileFile) -> tuple[Path, str] | None:
        """Where a file lies that holds other bytes by now, and their hash."""
        if file.place is None:
            return None
        try:
            path = self.path_of(file.place)
            now = self._hashes.of(path)
            return (path, now) if now != file.sha256 else None
        except (UnknownKey, OSError):
            return None


def _is_inside(root: Path, path: Path) -> bool:
    """Whether a file is no link out of a resolved root."""
    return not path.is_symlink() or path.resolve().is_relative_to(root)
