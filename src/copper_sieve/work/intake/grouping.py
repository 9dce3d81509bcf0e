"""From looks to sets: which files belong together, which of two that hold the same map is taken, and the first recipe."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ...core.checks.files import left_to
from ...core.convert.normal_faults import against_height
from ...core.findings import Finding, finding
from ...core.intake import Arranged, Candidate, FileEntry, Relation, arranged, plan_set, readings_by_set
from ...core.raster import unit_values
from ...core.recipe import Recipe, TileFile
from ...core.target import legal_name
from .looking import Gathered, Looked

__all__ = ["Claim", "read_by_sets", "candidate_of", "claims_of", "entry_for", "quality", "recipe_for", "sets_of", "spared"]

_LOSSY = ("jpeg", "dds", "webp")


def entry_for(looked: Looked) -> FileEntry | None:
    """How a recognized file enters a set by default, or None when it waits for a person's word."""
    if looked.header is None or looked.look is None or not looked.look.reads:
        return None
    header, look = looked.header, looked.look
    green = look.green.answer if look.green is not None and look.green.answer != "unsure" else None
    size = (header.width, header.height, header.depth)
    told = (look.reads, green, look.tiles, look.spans, look.corrections)
    return FileEntry(looked.sha256, looked.name, *size, *told, primaries=look.primaries)


def candidate_of(looked: Looked) -> Candidate | None:
    """A file as it is arranged among others, None where it could not be read."""
    if looked.header is None or looked.look is None:
        return None
    return Candidate(
        sha256=looked.sha256,
        name=looked.name,
        set_name=looked.set_stem,
        width=looked.header.width,
        height=looked.header.height,
        kind=looked.look.kind,
        reads=looked.look.reads,
        folder=looked.folder,
        confidence=looked.look.confidence,
        quality=quality(looked),
        is_named=looked.look.is_named,
        is_constant=looked.look.content.is_constant,
        sample=looked.sample,
        letters=looked.header.letters,
    )


def read_by_sets(gathered: Sequence[Gathered]) -> list[Gathered]:
    """Files as they are read when the others of their sets have told what they are."""
    candidates = {k: one for k, file in enumerate(gathered) if (one := candidate_of(file.looked)) is not None}
    numbers = list(candidates)
    files = list(gathered)
    for place, said in readings_by_set(list(candidates.values())).items():
        file = files[numbers[place]]
        assert file.looked.look is not None
        told = {
            "stem": said.set_name,
            "kind": said.kind,
            "reads": dict(said.reads),
            "confidence": said.confidence,
            "because": (said.because,),
        }
        found = tuple(one for one in file.looked.findings if one.id != "unknown-kind")
        files[numbers[place]] = replace(file, looked=replace(file.looked, look=replace(file.looked.look, **told), findings=found))
    return files


def sets_of(looked: Iterable[Looked]) -> dict[str, list[Looked]]:
    """Files by the set they belong to; those that could not be read belong to none."""
    files = [(file, candidate) for file in looked if (candidate := candidate_of(file)) is not None]
    groups: dict[str, list[Looked]] = {}
    for (file, _), row in zip(files, arranged([candidate for _, candidate in files])):
        groups.setdefault(legal_name(row.set_name), []).append(file)
    return groups


@dataclass(frozen=True)
class Claim:
    """One usable file of a set: what is left for it to give, and the file it lost the rest to, if any."""

    file: Looked
    entry: FileEntry
    lost: tuple[str, ...]
    lost_to: Looked | None
    relation: Relation | None


def quality(file: Looked) -> tuple[int, ...]:
    """Better files first: lossless, one map rather than several, deep, large."""
    assert file.header is not None and file.look is not None
    header = file.header
    return int(header.format in _LOSSY), len(file.look.reads), -header.depth, -header.width * header.height


def claims_of(files: Sequence[Looked]) -> list[Claim]:
    """Every map's file of one set, best first; what a better one holds already is taken from the others, tiles are together."""
    usable = [(file, entry) for file in files if (entry := entry_for(file)) is not None]
    rows = arranged([c for file, _ in usable if (c := candidate_of(file)) is not None], are_one_set=True)
    claims = [
        Claim(
            file, _left(entry, row, usable, rows), row.lost, None if row.lost_to is None else usable[row.lost_to][0], row.relation
        )
        for (file, entry), row in zip(usable, rows)
        if row.head is None
    ]
    return sorted(claims, key=lambda claim: (*quality(claim.file), -_confidence(claim.file), claim.file.name))


def spared(groups: Iterable[Sequence[Looked]]) -> set[int]:
    """Files, by their ``id``, of which a set takes nothing, as a better file of the same picture or map is there."""
    claims = (claim for files in groups for claim in claims_of(files))
    return {id(claim.file) for claim in claims if not claim.entry.reads and claim.relation in ("copy", "worse")}


def _confidence(file: Looked) -> float:
    return file.look.confidence if file.look is not None else 0.0


def _left(entry: FileEntry, row: Arranged, usable: Sequence[tuple[Looked, FileEntry]], rows: Sequence[Arranged]) -> FileEntry:
    """What is left of an entry for its file to give, with the other tiles of its map."""
    own = next(k for k, other in enumerate(rows) if other is row)
    beside = {other.tile: tile_file(usable[k][1]) for k, other in enumerate(rows) if other.head == own and other.tile is not None}
    sides = [usable[k][1].green for k, other in enumerate(rows) if other.head == own]
    told = entry.green or next((green for green in sides if green is not None), None)
    spans = {letters: span for letters, span in entry.spans.items() if letters in row.reads}
    return replace(entry, reads=dict(row.reads), spans=spans, tile=row.tile, beside=beside, green=told)


def tile_file(entry: FileEntry) -> TileFile:
    """The file of an entry as that of one more tile."""
    return TileFile(**{name: getattr(entry, name) for name in TileFile.model_fields})


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
    return left_to(claim.relation or "rival", claim.file.name, better.name, claim.lost)


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
