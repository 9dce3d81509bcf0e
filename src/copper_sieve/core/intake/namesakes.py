"""Pictures that are called as a set is whose other files are maps by their names: its color."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from .candidate import Candidate
from .names import folded, without_suffix

__all__ = ["Namesake", "as_namesake", "namesakes"]

_COLORS = frozenset({"base_color", "photo", "diffuse", "shaded_color"})
_FINISHED = frozenset({"normal", "roughness", "gloss", "metallic", "specular", "specular_level"})  # not added to a photo
_SURE = 0.75


@dataclass(frozen=True)
class Namesake:
    """What such a picture is, and why."""

    set_name: str
    kind: str
    reads: Mapping[str, str]
    because: str
    confidence: float = _SURE


def namesakes(files: Sequence[Candidate]) -> dict[int, Namesake]:
    """Files, by their number, that are the color of a set by its name alone: “slate.png” beside “slate_normal.png”.

    Their whole names are the set's, whatever the words in it (“metal.png” beside “metal_n.png”). Another file of the same folder
    that is named for that set, and as wide for its height, says a map that belongs to a finished material, and none says a color.
    What a person said stands.

    Examples
    --------
    >>> normal = Candidate("1", "slate_n.png", "slate", 64, 64, "normal", {"RGB": "normal"})
    >>> color = Candidate("2", "slate.png", "slate", 64, 64, "photo", {"RGB": "photo"}, is_named=False)
    >>> namesakes([normal, color])[1].reads
    {'RGB': 'base_color'}
    """
    sets: dict[tuple[str, str], list[Candidate]] = {}
    for file in files:
        if file.is_named and file.reads:
            sets.setdefault((folded(file.set_name), file.folder), []).append(file)
    found = {}
    for k, file in enumerate(files):
        others = sets.get((folded(without_suffix(file.name)), file.folder), [])
        if _is_open(file) and _are_of_a_material(others) and any(_is_alike(file, other) for other in others):
            found[k] = _namesake(file, others)
    return found


def as_namesake(file: Candidate, said: Namesake | None) -> Candidate:
    """The file as it is read then; as it is where nothing is said.

    Examples
    --------
    >>> file = Candidate("2", "slate.png", "slate", 64, 64, "unknown", is_named=False)
    >>> as_namesake(file, Namesake("slate", "base_color", {"RGB": "base_color"}, "")).kind
    'base_color'
    """
    if said is None:
        return file
    return replace(file, set_name=said.set_name, kind=said.kind, reads=said.reads, confidence=said.confidence)


def _is_open(file: Candidate) -> bool:
    """Whether the file may be a color, and nobody has said what it is."""
    is_color = file.kind == "photo" or file.letters.startswith("RGB")
    return is_color and file.kind not in _COLORS - {"photo"} and not (file.is_kind_told or file.is_set_told)


def _are_of_a_material(files: Iterable[Candidate]) -> bool:
    maps = frozenset[str]().union(*(file.maps for file in files))
    return bool(maps & _FINISHED) and not maps & _COLORS


def _is_alike(file: Candidate, other: Candidate) -> bool:
    """Whether both are of one shape."""
    return abs(file.width * other.height - other.width * file.height) <= max(other.width, other.height, file.width, file.height)


def _namesake(file: Candidate, others: Sequence[Candidate]) -> Namesake:
    """A specular in color beside it makes it diffuse."""
    kind = "diffuse" if any(other.reads.get("RGB") == "specular" for other in others) else "base_color"
    read = file.reads if file.kind == "photo" else {"RGB": kind}
    reads = {letters: kind if key == "photo" else key for letters, key in read.items()}
    maps = next(other.name for other in others if other.maps & _FINISHED)
    return Namesake(others[0].set_name, kind, reads, f"it is named like its set alone, beside {maps}: the set's color")
