"""What a file is by the others of its set, where its own name says less: its color, maps by one weak letter, what is diffuse."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import takewhile
from string import ascii_lowercase

from .candidate import Candidate
from .names import folded, is_either_color, weak_endings, without_suffix

__all__ = ["SetReading", "read_by_set", "readings_by_set"]

_COLORS = frozenset({"base_color", "photo", "diffuse", "shaded_color"})
_FINISHED = frozenset({"normal", "roughness", "gloss", "metallic", "specular", "specular_level"})  # not added to a photo
_SURE = {True: 0.75, False: 0.7}  # with the set's whole name, and with one letter more
_SURE_OF_DIFFUSE, _SURE_OF_ROW = 0.8, 0.6
_LETTERED = frozenset({"diffuse", "emissive"})  # maps in color that one letter names, which a row of pictures comes to
_LEAST_IN_A_ROW = 2  # pictures whose letters name no map


@dataclass(frozen=True)
class SetReading:
    """What a file is by its set, of which one, and why."""

    set_name: str
    kind: str
    reads: Mapping[str, str]
    because: str
    confidence: float


def readings_by_set(files: Sequence[Candidate]) -> dict[int, SetReading]:
    """What files are, by their number, that the others of their set tell: the color is “slate.png” or “slate_c.png” beside
    “slate_n.png”.

    Their whole names are the set's, whatever the words in it (“metal.png” beside “metal_n.png”), or it and a letter that says
    something only so. Another file of the same folder that is named for that set, and as wide for its height, says a map that
    belongs to a finished material, and none says a color. A file whose name says “color” is diffuse beside a specular in color.
    Pictures called by letters in a row, from a on, are each of their own, the d and the e of them too. What a person said stands.

    Examples
    --------
    >>> normal = Candidate("1", "slate_n.png", "slate", 64, 64, "normal", {"RGB": "normal"})
    >>> color = Candidate("2", "slate.png", "slate", 64, 64, "photo", {"RGB": "photo"}, is_named=False)
    >>> readings_by_set([normal, color])[1].reads
    {'RGB': 'base_color'}
    """
    sets: dict[tuple[str, str], list[Candidate]] = {}
    for file in files:
        if file.is_named and file.reads:
            sets.setdefault((folded(file.set_name), file.folder), []).append(file)
    found = _in_a_row(files)
    for k, file in enumerate(files):
        if k in found:
            continue
        specular = _specular_beside(file, sets.get((folded(file.set_name), file.folder), []))
        if specular is not None:
            reads = {letters: "diffuse" if key == "base_color" else key for letters, key in file.reads.items()}
            why = f"its name says a color, and {specular.name} is a specular in color: diffuse"
            found[k] = SetReading(file.set_name, "diffuse", reads, why, _SURE_OF_DIFFUSE)
        for name, gives, ending in _may_be(file):
            others = sets.get((name, file.folder), [])
            if any(_is_alike(file, other) for other in others) and _lacks(others, gives):
                found[k] = _reading(file, others, gives, ending)
                break
    return found


def read_by_set(file: Candidate, said: SetReading | None) -> Candidate:
    """The file as it is read then; as it is where nothing is said.

    Examples
    --------
    >>> file = Candidate("2", "slate.png", "slate", 64, 64, "unknown", is_named=False)
    >>> read_by_set(file, SetReading("slate", "base_color", {"RGB": "base_color"}, "", 0.7)).kind
    'base_color'
    """
    if said is None:
        return file
    return replace(file, set_name=said.set_name, kind=said.kind, reads=said.reads, confidence=said.confidence)


def _may_be(file: Candidate) -> Iterator[tuple[str, str, str]]:
    """Sets that the file may be of, by their names, what it gives them then, and the letter that its name has besides."""
    if file.is_kind_told or file.is_set_told:
        return
    whole = folded(without_suffix(file.name))
    if file.kind not in _COLORS - {"photo"}:
        yield whole, "color", ""
    stem, _, letter = whole.rpartition(" ")
    gives = weak_endings().get(letter)
    if gives is not None and not file.is_named:
        yield stem, gives, letter


def _in_a_row(files: Sequence[Candidate]) -> dict[int, SetReading]:
    """Pictures in color called by a letter that would name a map, were they not one of several: tile1d beside tile1a to 1c."""
    rows: dict[tuple[str, str], dict[str, int]] = {}
    for k, file in enumerate(files):
        whole = without_suffix(file.name)
        is_picture = file.kind == "photo" and not file.is_named
        is_lettered = file.is_named and not file.is_kind_told and file.kind in _LETTERED and file.letters.startswith("RGB")
        if whole[-2:-1].isalnum() and (is_picture or (is_lettered and whole == file.set_name + whole[-1])):
            rows.setdefault((whole[:-1], file.folder), {})[whole[-1].lower()] = k
    found = {}
    for row in rows.values():
        run = [row[letter] for letter in takewhile(row.__contains__, ascii_lowercase)]
        others = [files[k].name for k in run if not files[k].is_named]
        if len(others) < _LEAST_IN_A_ROW:
            continue
        for k in (k for k in run if files[k].is_named):
            why = f"{others[0]} and {len(run) - 1} more are called by letters in a row: a picture of its own"
            found[k] = SetReading(without_suffix(files[k].name), "photo", {"RGB": "photo"}, why, _SURE_OF_ROW)
    return found


def _specular_beside(file: Candidate, others: Sequence[Candidate]) -> Candidate | None:
    """The specular in color that makes the file diffuse, which its own name leaves open."""
    maps = frozenset[str]().union(*(other.maps for other in others))
    if file.kind != "base_color" or file.is_kind_told or not file.is_named or {"metallic", "diffuse"} & maps:
        return None
    if not is_either_color(file.name):
        return None
    return next((other for other in others if other.reads.get("RGB") == "specular"), None)


def _lacks(others: Sequence[Candidate], gives: str) -> bool:
    """Whether these are of a finished material that has no such map."""
    maps = frozenset[str]().union(*(file.maps for file in others))
    return bool(maps & _FINISHED) and not maps & (_COLORS if gives == "color" else {gives})


def _is_alike(file: Candidate, other: Candidate) -> bool:
    """Whether both are of one shape."""
    return abs(file.width * other.height - other.width * file.height) <= max(other.width, other.height, file.width, file.height)


def _reading(file: Candidate, others: Sequence[Candidate], gives: str, ending: str) -> SetReading:
    """A specular in color beside it makes a color diffuse."""
    is_diffuse = any(other.reads.get("RGB") == "specular" for other in others)
    kind = {"color": "diffuse" if is_diffuse else "base_color"}.get(gives, gives)
    read = file.reads if file.kind == "photo" else {"RGB" if file.letters.startswith("RGB") else "L": kind}
    reads = {letters: kind if key == "photo" else key for letters, key in read.items()}
    beside = next(other.name for other in others if other.maps & _FINISHED)
    says = f"its name says “{ending}” after that of its set" if ending else "it is named like its set alone"
    return SetReading(others[0].set_name, kind, reads, f"{says}, beside {beside}: the set's {gives}", _SURE[not ending])
