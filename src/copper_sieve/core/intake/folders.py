"""What the folders tell that files came in: what a set is called after, which files are apart, and where a material points."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection, Iterable, Sequence
from itertools import takewhile

__all__ = ["called_after_folder", "joined", "lies_at", "told_apart"]

_LOOKED_AT = 3  # folders up from the file
_SAYS_NOTHING = frozenset(
    "textures texture tex maps map images image pictures picture materials material mat source sources src export exports output"
    " png jpg jpeg tga tif tiff exr webp res low high".split()
)
_SIZE = re.compile(r"\d+k|\d{2,5}(x\d{2,5})?(px)?")


def _parts(folder: str) -> list[str]:
    return [part for part in folder.replace("\\", "/").split("/") if part not in ("", ".")]


def called_after_folder(folder: str) -> str:
    """What a set is called whose files are named by their maps alone: as the nearest folder that is more than a kind or a size.

    Examples
    --------
    >>> called_after_folder("library/Wood/textures"), called_after_folder("Rock/4K-PNG"), called_after_folder("textures")
    ('Wood', 'Rock', 'textures')
    """
    near = _parts(folder)[: -_LOOKED_AT - 1 : -1]
    return next((part for part in near if not _says_nothing(part)), near[0] if near else "")


def _says_nothing(part: str) -> bool:
    words = re.split(r"[\s_.\-]+", part.casefold())
    return all(word in _SAYS_NOTHING or _SIZE.fullmatch(word) for word in words if word)


def told_apart(folders: Collection[str]) -> dict[str, str]:
    """What each of several folders has that the others have not: without what their paths begin and end with alike.

    Examples
    --------
    >>> told_apart(["library/Wood/textures", "library/Stone/textures"])
    {'library/Wood/textures': 'Wood', 'library/Stone/textures': 'Stone'}
    """
    paths = {folder: _parts(folder) for folder in folders}
    start = _alike(paths.values())
    rest = {folder: path[start:] for folder, path in paths.items()}
    end = _alike([path[::-1] for path in rest.values()])
    return {folder: " ".join(path[: len(path) - end]) for folder, path in rest.items()}


def _alike(paths: Iterable[Sequence[str]]) -> int:
    """With how many parts all of them begin alike."""
    return sum(1 for _ in takewhile(lambda parts: len(set(parts)) == 1, zip(*paths)))


def joined(folder: str, told: str) -> str:
    """Where a path leads that a file in ``folder`` names.

    Examples
    --------
    >>> joined("Wood/meshes", "../textures"), joined("", "maps"), joined("", "")
    ('Wood/textures', 'maps', '')
    """
    path = posixpath.normpath(posixpath.join(folder, *_parts(told)))
    return "" if path == "." else path


def lies_at(folder: str, told: str) -> bool:
    """Whether a folder may be the one that is told: of either path perhaps only the end is known, but not nothing.

    Examples
    --------
    >>> lies_at("library/Wood/maps", "Wood/meshes/../maps"), lies_at("Stone/maps", "Wood/maps"), lies_at("Wood", "")
    (True, False, False)
    """
    paths = (_parts(joined("", path)) for path in (folder, told))
    here, there = ([part.casefold() for part in path if part != ".."][::-1] for path in paths)
    known = min(len(here), len(there))
    return here[:known] == there[:known] and bool(known) == bool(here or there)
