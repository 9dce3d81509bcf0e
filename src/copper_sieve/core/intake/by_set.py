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
_SURE_OF_DIFFUSE, _SURE_OF_ONLY, _SURE_OF_ROW = 0.8, 0.7, 0.6
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
    """What files are, by their number, that the others of their set tell.

    The color is “slate.png” or “slate_c.png” beside “slate_n.png”: its whole name is the set's, whatever the words in it
    (“metal.png” beside “metal_n.png”), or it and a letter that says something only so. In a folder of maps called by nothing but
    what they are (“norm.png”, “spec.png”) it is the only other picture. The maps beside it are of its folder and shape, belong to
    a finished material, and none is a color. A file whose name says “color” is diffuse beside a specular in color. Pictures
    called by letters in a row, from a on, are each of their own, the d and the e of them too. What a person said stands.

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
    return _namesakes(files, sets) | _diffuse(files, sets) | _only_pictures(files) | _in_a_row(files)


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


Sets = Mapping[tuple[str, str], Sequence[Candidate]]  # files that are named for a set, by its name and their folder


def _namesakes(files: Sequence[Candidate], sets: Sets) -> dict[int, SetReading]:
    """Files whose name is that of a set, or that and a weak letter."""
    found = {}
    for k, file in enumerate(files):
        for name, gives, ending in _may_be(file):
            others = [one for one in sets.get((name, file.folder), []) if one is not file and _is_in_name(one)]
            if any(_is_alike(file, other) for other in others) and _lacks(others, gives):
                says = f"its name says “{ending}” after that of its set" if ending else "it is named like its set alone"
                found[k] = _reading(file, others, gives, says, _SURE[not ending])
                break
    return found


def _may_be(file: Candidate) -> Iterator[tuple[str, str, str]]:
    """Sets that the file may be of, by their names, what it gives them then, and the letter that its name has besides."""
    if file.is_kind_told or file.is_set_told or (file.kind != "photo" and file.letters.endswith("A")):
        return  # an alpha that nobody has looked at may be holes, which would be lost
    whole = folded(without_suffix(file.name))
    if file.kind not in _COLORS - {"photo"}:
        yield whole, "color", ""
    stem, _, letter = whole.rpartition(" ")
    gives = weak_endings().get(letter)
    if gives is not None and not file.is_named:
        yield stem, gives, letter


def _diffuse(files: Sequence[Candidate], sets: Sets) -> dict[int, SetReading]:
    """Colors whose names leave the workflow open, beside a specular in color."""
    found = {}
    for k, file in enumerate(files):
        specular = _specular_beside(file, sets.get((folded(file.set_name), file.folder), []))
        if specular is not None:
            reads = {letters: "diffuse" if key == "base_color" else key for letters, key in file.reads.items()}
            why = f"its name says a color, and {specular.name} is a specular in color: diffuse"
            found[k] = SetReading(file.set_name, "diffuse", reads, why, _SURE_OF_DIFFUSE)
    return found


def _specular_beside(file: Candidate, others: Sequence[Candidate]) -> Candidate | None:
    """The specular in color that makes the file diffuse, which its own name leaves open."""
    maps = frozenset[str]().union(*(other.maps for other in others))
    if file.kind != "base_color" or file.is_kind_told or not file.is_named or {"metallic", "diffuse"} & maps:
        return None
    if not is_either_color(file.name):
        return None
    return next((other for other in others if other.reads.get("RGB") == "specular"), None)


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


def _only_pictures(files: Sequence[Candidate]) -> dict[int, SetReading]:
    """The one picture of a folder that its name says nothing of, however it is called, beside maps called after the folder."""
    folders: dict[str, list[int]] = {}
    for k, file in enumerate(files):
        if file.folder:  # loose files are called after what they come with
            folders.setdefault(file.folder, []).append(k)
    found = {}
    for members in folders.values():
        maps = [files[k] for k in members if files[k].is_named and files[k].reads and not _is_in_name(files[k])]
        pictures = [k for k in members if not files[k].is_named and _may_be_picture(files[k])]
        if len({without_suffix(files[k].name) for k in pictures}) != 1 or not _lacks(maps, "color"):
            continue
        for k in pictures:
            if any(_is_alike(files[k], other) for other in maps):
                found[k] = _reading(files[k], maps, "color", "it is the only other picture", _SURE_OF_ONLY)
    return found


def _is_in_name(file: Candidate) -> bool:
    """Whether a file's set is called as its own name says, and not after its folder."""
    return folded(file.set_name) in folded(without_suffix(file.name))


def _may_be_picture(file: Candidate) -> bool:
    is_told = file.is_kind_told or file.is_set_told
    return not is_told and (file.kind == "photo" or (file.kind == "unknown" and file.letters == "RGB"))


def _lacks(others: Sequence[Candidate], gives: str) -> bool:
    """Whether these are of a finished material that has no such map."""
    maps = frozenset[str]().union(*(file.maps for file in others))
    return bool(maps & _FINISHED) and not maps & (_COLORS if gives == "color" else {gives})


def _is_alike(file: Candidate, other: Candidate) -> bool:
    """Whether both are of one shape."""
    return abs(file.width * other.height - other.width * file.height) <= max(other.width, other.height, file.width, file.height)


def _reading(file: Candidate, others: Sequence[Candidate], gives: str, says: str, confidence: float) -> SetReading:
    """A specular in color beside it makes a color diffuse."""
    is_diffuse = any(other.reads.get("RGB") == "specular" for other in others)
    kind = {"color": "diffuse" if is_diffuse else "base_color"}.get(gives, gives)
    is_photo = file.kind == "photo" and gives == "color"  # whose alpha is the set's opacity
    read = file.reads if is_photo else {"RGB" if file.letters.startswith("RGB") else "L": kind}
    reads = {letters: kind if key == "photo" else key for letters, key in read.items()}
    beside = next(other.name for other in others if other.maps & _FINISHED)
    return SetReading(others[0].set_name, kind, reads, f"{says}, beside {beside}: the set's {gives}", confidence)
