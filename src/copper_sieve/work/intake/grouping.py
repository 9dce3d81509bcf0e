"""From looks to sets: which files belong together, which of two that hold the same map is taken, and the first recipe."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from ...core.checks.files import Relation, left_to
from ...core.convert.normal_faults import against_height
from ...core.findings import Finding, finding
from ...core.intake import FileEntry, plan_set
from ...core.intake.names import level_of, tile_of
from ...core.quantities import quantity
from ...core.raster import unit_values
from ...core.recipe import Recipe
from ...core.target import legal_name
from .looking import Looked

__all__ = ["Claim", "claims_of", "entry_for", "quality", "recipe_for", "sets_of"]

_LOSSY = ("jpeg", "dds", "webp")
_SAME_NORMALS = 2 / 255  # mean difference of small copies under which two maps are one


def entry_for(looked: Looked) -> FileEntry | None:
    """How a recognized file enters a set by default, or None when it waits for a person's word."""
    if looked.header is None or looked.look is None or not looked.look.reads:
        return None
    header, look = looked.header, looked.look
    green = look.green.answer if look.green is not None and look.green.answer != "unsure" else None
    size = (header.width, header.height, header.depth)
    return FileEntry(looked.sha256, looked.name, *size, look.reads, green, look.tiles, look.spans)


def sets_of(looked: Iterable[Looked]) -> dict[str, list[Looked]]:
    """Files by the set their names belong to, however they are spelled; those that could not be read belong to none.

    Tiles of one set become sets of their own, and so do maps of one name from several folders when they compete.
    """
    groups: dict[str, list[Looked]] = {}
    spelled: dict[str, str] = {}
    readable = [file for file in looked if file.look is not None]
    for file in readable:
        stem = _joined(file, readable) or file.set_stem
        groups.setdefault(spelled.setdefault(_folded(stem), stem), []).append(file)
    if len(groups) > 1 and "unnamed" in groups:  # files named by their map alone join the only other set
        others = [stem for stem in groups if stem != "unnamed"]
        if len(others) == 1:
            groups[others[0]] += groups.pop("unnamed")
    return dict(part for name, files in groups.items() for part in _parted(name, files))


def _joined(file: Looked, others: Sequence[Looked]) -> str | None:
    """The set that a map known by its picture alone belongs to: its name begins with the set's, and the size is the same.

    The screen does the same as files arrive (``web/src/screens/intake/rows.ts``).
    """
    if file.look is None or file.header is None or file.look.is_named or file.look.kind == "photo":
        return None
    own, size = _folded(Path(file.name).stem), (file.header.width, file.header.height)
    fitting = [
        other.set_stem
        for other in others
        if other.look is not None
        and other.look.is_named
        and other.header is not None
        and (other.header.width, other.header.height) == size
        and own.startswith(_folded(other.set_stem) + " ")
    ]
    return max(fitting, key=len, default=None)


def _folded(name: str) -> str:
    return re.sub(r"[\s_.\-]+", " ", name).casefold()


def _parted(name: str, files: list[Looked]) -> Iterable[tuple[str, list[Looked]]]:
    """A group as it is, or one group for each tile or folder when these hold the same maps."""
    for part_of in (lambda file: str(tile_of(file.name) or ""), _level, lambda file: file.folder):
        parts: dict[str, list[Looked]] = {}
        for file in files:
            parts.setdefault(part_of(file), []).append(file)
        kinds = [{key for file in part if file.look for key in file.look.reads.values()} for part in parts.values()]
        if len(parts) > 1 and any(a & b for k, a in enumerate(kinds) for b in kinds[:k]):
            return [(legal_name(f"{name} {part}".strip()), inside) for part, inside in parts.items()]
    return [(name, files)]


def _level(file: Looked) -> str:
    level = level_of(file.name)
    return "" if level is None else f"LOD{level}"


@dataclass(frozen=True)
class Claim:
    """One usable file of a set: what is left for it to give, and the file it lost the rest to, if any."""

    file: Looked
    entry: FileEntry
    lost_to: Looked | None

    @property
    def relation(self) -> Relation | None:
        """Whether the better file is the same picture, is stored better, or is simply another one."""
        if self.lost_to is None:
            return None
        if _is_copy(self.file, self.lost_to):
            return "copy"
        return "rival" if quality(self.file) == quality(self.lost_to) else "worse"


def quality(file: Looked) -> tuple[bool, int, int, int]:
    """Better files first: lossless, one map rather than several, deep, large."""
    assert file.header is not None and file.look is not None
    header = file.header
    return header.format in _LOSSY, len(file.look.reads), -header.depth, -header.width * header.height


def _is_copy(a: Looked, b: Looked) -> bool:
    """The same file, the same name in another format, or the same normals with green the other way."""
    if a.sha256 == b.sha256 or Path(a.name).stem == Path(b.name).stem:
        return True
    if a.sample is None or b.sample is None or a.sample.shape != b.sample.shape or a.sample.ndim != 3:
        return False
    first, second = unit_values(a.sample[..., :3]), unit_values(b.sample[..., :3])
    turned = np.concatenate([second[..., :1], 1 - second[..., 1:2], second[..., 2:]], -1)
    return min(float(np.abs(first - other).mean()) for other in (second, turned)) < _SAME_NORMALS


def claims_of(files: Sequence[Looked]) -> list[Claim]:
    """Every usable file of a set, best first; what a better one holds already is taken from the others."""
    usable = [(file, entry) for file in files if (entry := entry_for(file)) is not None]
    usable.sort(key=lambda pair: (*quality(pair[0]), -pair[0].look.confidence if pair[0].look else 0, pair[0].name))
    held: dict[str, Looked] = {}
    claims = []
    for file, entry in usable:
        left = {letters: key for letters, key in entry.reads.items() if _master(key) not in held}
        lost_to = next((held[_master(key)] for key in entry.reads.values() if _master(key) in held), None)
        held |= {_master(key): file for key in left.values()}
        spans = {letters: span for letters, span in entry.spans.items() if letters in left}
        claims.append(Claim(file, replace(entry, reads=left, spans=spans), lost_to))
    return claims


def _master(key: str) -> str:
    return quantity(key).master or key


def recipe_for(files: Iterable[Looked], **facts: Any) -> tuple[Recipe | None, list[Finding]]:
    """First recipe of one set's files; None with findings of grade ``stop`` when there is none."""
    files = list(files)
    claims = claims_of(files)
    found = [_lost(claim, claim.lost_to) for claim in claims if claim.lost_to is not None]
    entries = [_settled(claim, files) for claim in claims if claim.entry.reads]
    if not entries:
        return None, [*found, finding("nothing-usable", count=len(files))]
    if any(f.grade == "stop" for f in found):
        return None, found
    return plan_set(entries, **facts), found


def _lost(claim: Claim, better: Looked) -> Finding:
    assert claim.file.look is not None
    lost = [key for letters, key in claim.file.look.reads.items() if letters not in claim.entry.reads]
    return left_to(claim.relation or "rival", claim.file.name, better.name, lost)


def _settled(claim: Claim, files: Sequence[Looked]) -> FileEntry:
    """The entry of a normal map whose green its slopes leave open, settled by the height beside it where that tells."""
    file, entry = claim.file, claim.entry
    if entry.green is not None or "normal" not in entry.reads.values() or file.sample is None or file.sample.ndim != 3:
        return entry
    for other in files:
        if other.sample is None or other.look is None or other is file:
            continue
        if list(other.look.reads.items()) in ([("L", "height")], [("RGB", "height")]):
            height = unit_values(other.sample if other.sample.ndim == 2 else other.sample[..., 0])
            said = against_height(file.sample[..., :3], height).verdict
            return replace(entry, green={"agrees": "up", "green": "down"}.get(said))  # type: ignore[arg-type]
    return entry
