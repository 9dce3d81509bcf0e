"""Where each of many files goes: its set, its tile, what a better file holds already, and whether it fits its set.

The terminal and the screen ask the same: files are told as they stand by then, whatever a person has corrected of them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any, Literal

import numpy as np

from ..raster import unit_values
from ..tiles import FIRST_TILE, MAX_TILES
from .candidate import Candidate
from .folders import told_apart
from .names import folded, level_of, tile_of, tileless
from .previews import Shown, previews

__all__ = ["Arranged", "Misfit", "Relation", "arranged"]

# Why a file gives less than it holds: the same picture, one that is stored worse, another one; or one that shows the whole set.
Relation = Literal["copy", "worse", "rival", "preview"]
_SAME_NORMALS = 2 / 255  # mean difference of small copies under which two maps are one
_COLORED = ("base_color", "photo", "diffuse", "shaded_color")


@dataclass(frozen=True)
class Misfit:
    """Another size or shape than its set has."""

    differs: Literal["size", "shape"]
    width: int
    height: int


@dataclass(frozen=True)
class Arranged:
    """Where one file goes. ``lost_to`` and ``head`` count files in the order they were given.

    ``reads`` is what is left for it to give; ``lost`` what it was read as besides, which the file ``lost_to`` gives; ``tile``
    its UDIM number in a set of tiles, and ``head`` the file of the first tile of the same map, None where it is that itself.
    """

    set_name: str
    reads: Mapping[str, str]
    lost: tuple[str, ...] = ()
    lost_to: int | None = None
    relation: Relation | None = None
    misfit: Misfit | None = None
    tile: int | None = None
    head: int | None = None


def arranged(files: Sequence[Candidate], *, are_one_set: bool = False) -> list[Arranged]:
    """Every file's place, in the order they are given; of files that ``are_one_set`` already, its name is left empty.

    Examples
    --------
    >>> names = ["silk_N.1001.png", "silk_N.1002.png", "silk_B.png"]
    >>> kinds = ["normal", "normal", "base_color"]
    >>> files = [Candidate(n, n, "silk", 64, 64, k, {"RGB": k}) for n, k in zip(names, kinds)]
    >>> [(file.tile, file.head) for file in arranged(files)]
    [(1001, None), (1002, 0), (None, None)]
    """
    rows: dict[int, Arranged] = {}
    shown = previews(files)
    for name, members in ({"": list(range(len(files)))} if are_one_set else _sets(files, shown)).items():
        rows |= _of_set(name, {k: files[k] for k in members if k not in shown})
        rows |= {k: _preview(name, files[k], shown[k]) for k in members if k in shown}
    return [rows[k] for k in range(len(files))]


def _preview(name: str, file: Candidate, shown: Shown) -> Arranged:
    return Arranged(name, {}, lost=tuple(file.reads.values()), lost_to=shown.color, relation="preview")


def _sets(files: Sequence[Candidate], shown: Mapping[int, Shown]) -> dict[str, list[int]]:
    """Files by the set that their names belong to, however they are spelled.

    Levels of detail become sets of their own, and so do maps of one name from several folders when they compete.
    """
    groups: dict[str, list[int]] = {}
    spelled: dict[str, str] = {}
    named = _Named(files)
    for k, file in enumerate(files):
        stem = shown[k].set_name if k in shown else named.joined(file) or file.set_name
        groups.setdefault(spelled.setdefault(folded(stem), stem), []).append(k)
    if len(groups) > 1 and "unnamed" in groups:  # files named by their map alone join the only other set
        others = [stem for stem in groups if stem != "unnamed"]
        if len(others) == 1:
            groups[others[0]] += groups.pop("unnamed")
    return dict(part for name, members in groups.items() for part in _parted(name, members, files, shown))


class _Named:
    """Sets that files are named for, to find the one that a file known by its picture alone belongs to."""

    def __init__(self, files: Sequence[Candidate]) -> None:
        known = {(folded(f.set_name), f.set_name, (f.width, f.height)) for f in files if f.is_named and f.reads}
        self._known = sorted(known, key=lambda row: -len(row[0]))

    def joined(self, file: Candidate) -> str | None:
        """The set of its name, or else the one whose name its own begins with, of the same size."""
        if file.is_named or file.is_set_told or file.kind == "photo":
            return None
        own, size = folded(PurePath(file.name).stem), (file.width, file.height)
        longest_first = ((key, stem) for key, stem, of in self._known if own == key or (of == size and own.startswith(key + " ")))
        return next((stem for _, stem in longest_first), None)


def _parted(
    name: str, members: list[int], files: Sequence[Candidate], shown: Mapping[int, Shown]
) -> Iterable[tuple[str, list[int]]]:
    """A group as it is, or one group for each level of detail or folder when these hold the same maps."""
    apart = told_apart({files[k].folder for k in members})
    by: tuple[Callable[[Candidate], str], ...] = (_level, lambda file: apart[file.folder])
    for part_of in by:
        parts: dict[str, list[int]] = {}
        for k in members:
            of = files[shown[k].color] if k in shown else files[k]  # what shows a set goes where its color goes
            parts.setdefault("" if of.is_set_told else part_of(of), []).append(k)
        maps = [[k for k in part if k not in shown] for part in parts.values()]
        kinds = [{(tile_of(files[k].name), key) for k in part for key in files[k].reads.values()} for part in maps]
        if len(parts) > 1 and any(a & b for k, a in enumerate(kinds) for b in kinds[:k]):
            return [(f"{name} {part}".strip(), inside) for part, inside in parts.items()]
    return [(name, members)]


def _level(file: Candidate) -> str:
    level = level_of(file.name)
    return "" if level is None else f"LOD{level}"


def _of_set(name: str, files: Mapping[int, Candidate]) -> dict[int, Arranged]:
    """The places of one set's files: what competes, per tile; what fits; and tiles of one map brought together."""
    usable = {k: file for k, file in files.items() if file.reads}
    tiles = _tiles(usable)
    series: dict[tuple[Any, ...], list[int]] = {}
    for k in sorted(usable, key=lambda k: _best_first(usable[k])):
        series.setdefault((tileless(usable[k].name).casefold(),) if tiles.get(k) else (k,), []).append(k)
    heads: dict[int, int] = {}  # of each file, the one that speaks for it
    twins: dict[int, int] = {}  # files of a tile that a better one of the same name is there for
    for members in series.values():
        first: dict[int | None, int] = {}
        for k in members:
            first.setdefault(tiles.get(k), k)
        head = first[min(first, key=lambda tile: tile or 0)]
        heads |= dict.fromkeys(first.values(), head)
        twins |= {k: first[tiles.get(k)] for k in members if first[tiles.get(k)] != k}
    rows = {k: Arranged(name, {}) for k in files if k not in usable}
    rows |= _claimed(name, {k: file for k, file in usable.items() if heads.get(k) == k})
    for k, better in twins.items():
        rows[k] = _lost(name, usable, k, better, tuple(usable[k].reads.values()))
    for k, head in heads.items():
        if k != head:
            rows[k] = Arranged(name, rows[head].reads, tile=tiles[k], head=head)
        elif tiles.get(k):
            rows[k] = _changed(rows[k], tile=tiles[k])
    misfits = _misfits({k: usable[k] for k in rows if k in usable and rows[k].reads and rows[k].head is None})
    return {k: _changed(row, misfit=misfits.get(k)) for k, row in rows.items()}


def _changed(row: Arranged, **changes: Any) -> Arranged:
    return Arranged(**{**vars(row), **changes})


def _best_first(file: Candidate) -> tuple[Any, ...]:
    return file.quality, -file.confidence, file.name


def _tiles(files: Mapping[int, Candidate]) -> dict[int, int]:
    """The UDIM number of each file that carries one, where the set has files of several; a lone number says nothing."""
    found = {k: tile for k, file in files.items() if (tile := tile_of(file.name)) is not None and _is_tile(tile)}
    return found if len(set(found.values())) > 1 else {}


def _is_tile(tile: int) -> bool:
    return FIRST_TILE <= tile < FIRST_TILE + MAX_TILES


def _claimed(name: str, files: Mapping[int, Candidate]) -> dict[int, Arranged]:
    """Best first; what a better one holds already is taken from the others."""
    rows: dict[int, Arranged] = {}
    held: dict[str, int] = {}
    for k in sorted(files, key=lambda k: _best_first(files[k])):
        masters = files[k].masters
        lost = tuple(key for letters, key in files[k].reads.items() if masters[letters] in held)
        better = next((held[master] for master in masters.values() if master in held), None)
        rows[k] = Arranged(name, files[k].reads) if better is None else _lost(name, files, k, better, lost)
        held |= {master: k for letters, master in masters.items() if letters in rows[k].reads}
    return rows


def _lost(name: str, files: Mapping[int, Candidate], k: int, better: int, lost: tuple[str, ...]) -> Arranged:
    reads = {letters: key for letters, key in files[k].reads.items() if key not in lost}
    return Arranged(name, reads, lost=lost, lost_to=better, relation=_relation(files[k], files[better]))


def _relation(file: Candidate, better: Candidate) -> Relation:
    if file.sha256 == better.sha256 or PurePath(file.name).stem == PurePath(better.name).stem:
        return "copy"
    if _are_same_normals(file.sample, better.sample):
        return "copy"
    return "rival" if file.quality == better.quality else "worse"


def _are_same_normals(a: np.ndarray | None, b: np.ndarray | None) -> bool:
    """Whether two small copies are one picture, be it with green the other way."""
    if a is None or b is None or a.shape != b.shape or a.ndim != 3:
        return False
    first, second = unit_values(a[..., :3]), unit_values(b[..., :3])
    turned = np.concatenate([second[..., :1], 1 - second[..., 1:2], second[..., 2:]], -1)
    return min(float(np.abs(first - other).mean()) for other in (second, turned)) < _SAME_NORMALS


def _misfits(files: Mapping[int, Candidate]) -> dict[int, Misfit]:
    """Files of another size or shape than their set, which is its color's, else its largest file's, where nobody said how."""
    colored = [file for file in files.values() if set(_COLORED) & set(file.reads.values())]
    lead = max(colored or files.values(), key=lambda file: file.width * file.height, default=None)
    found = {}
    for k, file in files.items():
        if lead is None or (file.width, file.height) == (lead.width, lead.height) or file.is_fitted or file.is_constant:
            continue
        is_same = abs(file.width * lead.height - file.height * lead.width) <= max(lead.width, lead.height)
        found[k] = Misfit("size" if is_same else "shape", lead.width, lead.height)
    return found
