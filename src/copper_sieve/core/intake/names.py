"""What a file's name says: the set it belongs to and the map it holds."""

from __future__ import annotations

import re
import tomllib
import unicodedata
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import resources
from typing import Any, NamedTuple

from ..convert.normals import Green
from ..primaries import PRIMARIES, Primaries
from ..quantities import quantity

__all__ = [
    "NOT_HELD",
    "NameReading",
    "channel_words",
    "folded",
    "is_beyond",
    "is_either_color",
    "kind_in_color",
    "level_of",
    "packed_reads",
    "read_name",
    "tile_of",
    "tileless",
    "weak_endings",
    "without_suffix",
    "words_of_thing",
]

_PARTS = re.compile(r"\d+(?:[kK]|[bB]it|[xX]\d+)?(?![a-zA-Z])|\d+|[A-Z]+(?![a-z])|[A-Z]?[a-z]+|[^\W\d_]+")
_BESIDE = re.compile(r"^(\d{1,5}(x\d{3,5})?|\d{1,2}k|\d{1,2}bit)$", re.IGNORECASE)  # sizes, versions, depths, tile numbers
_NUMBER = re.compile(r"^\d{1,3}$")  # tells one thing of a name from another, unlike a size
_SIZE = re.compile(r"^(\d{1,2}k|\d{1,2}bit|\d{3,5}x\d{3,5}|256|512|\d{4,5})$")
_TILE = re.compile(r"[._](1\d{3})(?=[._]|$)")  # UDIM numbers, 1001 to 1999, between separators
_UDIM = re.compile(r"[\s._-]?udim[\s._-]?(1\d{3})(?!\d)", re.IGNORECASE)
_GRID = re.compile(r"[\s._-]u(\d{1,2})[\s._-]?v(\d{1,3})(?![a-zA-Z0-9])", re.IGNORECASE)  # u1_v1 is the first tile, 1001
_FORMAT = re.compile(r"\.([a-z]{3,5}|jp2|j2k|cr2|cr3|rw2)$", re.IGNORECASE)
_LEVEL = re.compile(r"[\s._-]lod[\s._-]?(\d{1,2})(?!\d)", re.IGNORECASE)
_PER_ROW = 10  # tiles of a row of UDIM numbers
_WAYS: tuple[Green, ...] = ("up", "down")
_CONFIDENCE_BY_LENGTH = {1: 0.5, 2: 0.8, 3: 0.9}  # letters in the word; one letter alone never settles it
_LONG_WORD = 0.97
_NOT_AT_THE_END = 0.7
_ALSO_A_WORD = 0.5
NOT_HELD = "not_held"  # a map that there is in the trade and that no master here can hold
_LONGEST_TAIL = 4  # parts that together are one word
_PAIR_OF_THE_STANDARD = {"roughness": "G", "metallic": "B"}  # glTF 2.0, 3.9.2


@dataclass(frozen=True)
class NameReading:
    """``kind`` is None when the name says nothing; ``stem`` is what is left for the set's name.

    ``green`` is which way green points as far as the name of a normal map says so, ``primaries`` what a name says of colors,
    ``alpha`` what lies in the alpha of a color or normal map by a word for both.
    """

    kind: str | None
    confidence: float
    word: str
    stem: str
    green: Green | None = None
    primaries: Primaries | None = None
    alpha: str | None = None


@lru_cache
def _table() -> dict[str, Any]:
    return tomllib.loads((resources.files("copper_sieve.core.intake") / "words.toml").read_text("utf-8"))


@lru_cache
def _words() -> dict[str, str]:
    table = _table()
    own = {f"own_{key}": group for key, group in table["own"].items()}
    told = {**table["kinds"], **own, NOT_HELD: table["not_held"]["words"]}
    words = {word.replace(" ", ""): kind for kind, group in told.items() for word in group}
    return words | {word: f"packed:{word}" for word in table["packed"]}


@lru_cache
def _kind_of(word: str) -> str | None:
    """What a whole word in small letters names, packed files among it."""
    bare = (word, *(word.removesuffix(end) for end in _table()["ending"]["words"] if word.endswith(end)))
    found = next((_words()[one] for one in bare if one in _words()), None)
    found = found or next((f"packed:{one}" for one in bare if len(channel_words(one)) > 1), None)
    found = found or _kind_of_more(word)
    return found or next((both[0] for one in bare if (both := _with_alpha(one)) is not None), None)


def _kind_of_more(word: str) -> str | None:
    """The map of a word for one with a word after it that says more of it, as in “metallic mask” and “diffuse color”."""
    table, strong = _table()["more"], {*_table()["anywhere"]["words"], "ao"}
    for end in (*table["of_colors"], *table["of_any"]):
        bare = word.removesuffix(end)
        kind = _words().get(bare) if bare != word and bare in strong else None
        if kind is not None and (end in table["of_any"] or quantity(kind).color == "srgb"):
            return kind
    return None


@lru_cache
def _with_alpha(word: str) -> tuple[str, str] | None:
    """The map of three channels, and what lies in its alpha, of a word for both; None where it is no such word.

    Examples
    --------
    >>> _with_alpha("coloropacity"), _with_alpha("albedo")
    (('base_color', 'opacity'), None)
    """
    table = _table()["with_alpha"]
    ends = {end: _words()[end] for end in table["alpha"] if word.endswith(end)}
    found = ((kind, ends[end]) for end in ends for kind in table["kinds"] if _words().get(word.removesuffix(end)) == kind)
    return next(found, None)


def is_either_color(file_name: str) -> bool:
    """Whether a name says that the file is a color, but not of which workflow.

    Examples
    --------
    >>> is_either_color("slate_cc.png"), is_either_color("slate_basecolor.png")
    (True, False)
    """
    return read_name(file_name).word.lower() in _table()["either_color"]["words"]


def weak_endings() -> dict[str, str]:
    """Letters that end a name, and the map that they are for where other files say that it is one of their set.

    Examples
    --------
    >>> weak_endings()["c"]
    'color'
    """
    return dict(_table()["weak"])


def words_of_thing(name: str) -> tuple[tuple[str, ...], bool]:
    """The words of a name without its format, in small plain letters: without sizes, formats and words for pictures that show a
    material; and whether it had one of these.

    Examples
    --------
    >>> words_of_thing("Felt_07_2K-PNG_Preview2"), words_of_thing("preview")
    ((('felt', '07'), True), ((), True))
    """
    table, words, shows = _table()["previews"], list[str](), False
    was_shown = False
    for part in (part.group().lower() for part in _PARTS.finditer(_plain(unicodedata.normalize("NFC", name)))):
        is_shown = part in table["words"]
        if not (is_shown or part in table["formats"] or _SIZE.match(part) or (was_shown and _NUMBER.match(part))):
            words.append(part)
        shows, was_shown = shows or is_shown, is_shown
    return tuple(words), shows


def is_beyond(kind: str) -> bool:
    """Whether a word is for one of the maps that most sets have not, and that a whole name may as well be for a thing."""
    return kind == NOT_HELD or kind.startswith("own_")


@lru_cache
def channel_words(word: str) -> tuple[str, ...]:
    """What the channels of a packed file hold by its word, in the word's order; () where it is no such word.

    Examples
    --------
    >>> channel_words("metalrough"), channel_words("mro"), channel_words("metal")
    (('metallic', 'roughness'), ('metallic', 'roughness', 'occlusion'), ())
    """
    parts = {text: key for key, group in _table()["packed_parts"].items() for text in group}
    spelled = _spelled(word, parts)
    if len(spelled) > 1:
        return spelled
    letters = {letter: key for key, group in _table()["packed_letters"].items() for letter in group}
    initials = tuple(letters.get(letter, "") for letter in word)
    is_whole = "" not in initials and len(set(initials)) == len(initials) and "metallic" in initials
    return initials if 3 <= len(word) <= 4 and is_whole and {"roughness", "gloss"} & set(initials) else ()


def _spelled(word: str, parts: dict[str, str]) -> tuple[str, ...]:
    """The words that ``word`` consists of, each map once; () where something is left over."""
    if not word:
        return ()
    for text in sorted(parts, key=len, reverse=True):
        if not word.startswith(text):
            continue
        rest = _spelled(word[len(text) :], parts)
        if (rest or len(text) == len(word)) and parts[text] not in rest:
            return (parts[text], *rest)
    return ()


def packed_reads(word: str) -> dict[str, str]:
    """Channels of a packed file by the word that names it; {} where that word leaves them open."""
    word = word.lower()
    channels = _table()["packed"].get(word, channel_words(word))
    if isinstance(channels, dict):
        return dict(channels)
    if set(channels) == set(_PAIR_OF_THE_STANDARD):
        return {_PAIR_OF_THE_STANDARD[key]: key for key in channels}
    return dict(zip("RGBA", channels))


def kind_in_color(word: str) -> str | None:
    """The kind that ``word`` names when the picture is in color, where that is another than usual."""
    return _table()["in_color"].get(word.lower())


class _Peeled(NamedTuple):
    """How many parts of a name are left as one after the other of what may stand after the word for the map is taken off, all
    of them first; and what was said so of the way that green points, and of primaries.
    """

    lengths: list[int]
    green: Green | None
    primaries: Primaries | None


def _peeled(parts: list[re.Match[str]]) -> _Peeled:
    green: Green | None = None
    primaries: Primaries | None = None
    ways: dict[str, Green] = {word: way for way in _WAYS for word in _table()["green"][way]}
    spaces: dict[str, Primaries] = {word: key for key in PRIMARIES for word in _table()["primaries"].get(key, ())}
    versions, after = _table()["after"]["versions"], {*_table()["after"]["words"], *ways, *spaces}
    kept, lengths = list(parts), [len(parts)]
    while kept:
        one, two = ("".join(part.group() for part in kept[-count:]).lower() for count in (1, 2))
        count = 2 if two in after else 1  # "sRGB" comes in two parts
        word = two if count == 2 else one
        is_version = word in versions and len(kept) < len(parts) and parts[len(kept)].group()[0].isdigit()
        is_grid = word in ("u", "v") and len(kept) < len(parts)
        if word not in after and not _BESIDE.match(word) and not is_version and not is_grid:
            break
        green = ways[word] if word in ways else green
        primaries = spaces[word] if word in spaces else primaries
        del kept[-count:]
        lengths.append(len(kept))
    return _Peeled(lengths, green, primaries)


def _plain(text: str) -> str:
    """Latin letters without their accents, letter for letter, so that places in it are places in ``text``."""
    return "".join(_plain_letter(letter) for letter in text)


@lru_cache(4096)
def _plain_letter(letter: str) -> str:
    base = unicodedata.normalize("NFKD", letter)[0]
    return base if base.isascii() and base.isalpha() else {"ß": "s", "ø": "o", "Ø": "O", "ł": "l", "đ": "d"}.get(letter, letter)


def read_name(file_name: str) -> NameReading:
    """Read a file name without its folder.

    Examples
    --------
    >>> read_name("gilt brocade_Roughness_2k.png")
    NameReading(kind='roughness', confidence=0.97, word='Roughness', stem='gilt brocade', green=None, primaries=None, alpha=None)
    """
    stem = without_suffix(unicodedata.normalize("NFC", file_name))
    everything = list(_PARTS.finditer(_plain(stem)))
    said = _peeled(everything)
    for last in said.lengths:  # a word may end in one that would be peeled off
        for count in range(min(_LONGEST_TAIL, last), 0, -1):  # the longest word that the name ends in
            found = None if _is_version(everything, last - 1) else _named(stem, everything, last - count, last)
            if found is not None:
                return _with_said(found, said)
    last, after = said.lengths[-1], len(everything)
    numbered = next((k for k in range(last, after) if not _NUMBER.match(everything[k].group())), after)
    return _with_said(_elsewhere(stem, everything[:numbered]) or NameReading(None, 0.0, "", stem), said)


def _is_version(parts: list[re.Match[str]], at: int) -> bool:
    """Whether a part is the r of r02, which is the second version and no roughness."""
    beside = parts[at + 1] if at + 1 < len(parts) else None
    is_counted = beside is not None and beside.start() == parts[at].end() and beside.group().startswith("0")
    return parts[at].group().lower() == "r" and is_counted


def _with_said(found: NameReading, said: _Peeled) -> NameReading:
    return replace(found, green=said.green if found.kind == "normal" else None, primaries=said.primaries)


def _named(stem: str, parts: list[re.Match[str]], first: int, last: int) -> NameReading | None:
    """The map that ``parts[first:last]`` name together, if any; the set's name is what stands before."""
    tail = parts[first:last]
    if len(tail) > 1 and len(tail[0].group()) == 1 and stem[: tail[0].start()][-1:].isalnum():
        return None  # the b of floor09b_c says which floor, and belongs to no “bc”
    word = "".join(part.group() for part in tail).lower()
    kind = _kind_of(word)
    is_whole = first == 0
    if kind is None or (is_whole and (len(word) <= 2 or is_beyond(kind))):
        return None
    confidence = _CONFIDENCE_BY_LENGTH.get(len(word), _LONG_WORD)
    if word in _table()["also_words"]["words"] and not tail[0].group().isupper():
        confidence = _ALSO_A_WORD
    spelled, both = stem[tail[0].start() : tail[-1].end()], _with_alpha(word)
    alpha = both[1] if both is not None and both[0] == kind else None
    return NameReading(kind, confidence, spelled, _set_name(stem[: tail[0].start()]), alpha=alpha)


def _elsewhere(stem: str, parts: list[re.Match[str]]) -> NameReading | None:
    """A long word for a map that stands first, or in the middle: what is around it names the set."""
    for first in range(len(parts)):
        for last in (first + 2, first + 1):
            word = "".join(part.group() for part in parts[first:last]).lower()
            if last > len(parts) or word not in _table()["anywhere"]["words"]:
                continue
            before, after = (
                stem[: parts[first].start()].rstrip(" _-."),
                stem[parts[last - 1].end() : parts[-1].end()].lstrip(" _-."),
            )
            spelled = stem[parts[first].start() : parts[last - 1].end()]
            beside = stem[parts[last - 1].end() : parts[last - 1].end() + 1]
            separator = beside if beside and beside in " _-." else "_"
            name = _set_name(separator.join(part for part in (before, after) if part))
            return NameReading(_kind_of(word), _NOT_AT_THE_END, spelled, name)
    return None


def _set_name(text: str) -> str:
    """What names the set: without the number of a tile or of a level of detail, which its files do not share."""
    for pattern in (_UDIM, _GRID, _LEVEL):
        text = pattern.sub("", text + " ").rstrip(" ") if pattern.search(text) else text
    return text.rstrip(" _-.")


def without_suffix(file_name: str) -> str:
    """A file's name without its format.

    Examples
    --------
    >>> [without_suffix(name) for name in ("slate_albedo.png", "slate_albedo.JP2", "moor.cr3", "slate.1002", "slate.v2")]
    ['slate_albedo', 'slate_albedo', 'moor', 'slate.1002', 'slate.v2']
    """
    return _FORMAT.sub("", file_name)


def tile_of(file_name: str) -> int | None:
    """The UDIM number that a name carries, if any; whether it is one, siblings with other numbers must say.

    Examples
    --------
    >>> [tile_of(name) for name in ("satin_BaseColor.1002.exr", "satin_UDIM1011_N.png", "satin_u2_v1.png", "tweed_2048.png")]
    [1002, 1011, 1002, None]
    """
    name = without_suffix(file_name)
    grid = _GRID.search(name)
    if grid is not None and 1 <= int(grid.group(1)) <= _PER_ROW and int(grid.group(2)) >= 1:
        return 1000 + int(grid.group(1)) + _PER_ROW * (int(grid.group(2)) - 1)
    found = _UDIM.search(name) or _TILE.search(name)
    return int(found.group(1)) if found and found.group(1) > "1000" else None


def tileless(file_name: str) -> str:
    """A file's name without its format and its UDIM number, which the files of one map share.

    Examples
    --------
    >>> tileless("satin_BaseColor.1002.exr"), tileless("satin_u2_v1_N.png")
    ('satin_BaseColor', 'satin_N')
    """
    name = without_suffix(file_name)
    for pattern in (_GRID, _UDIM, _TILE):
        if pattern.search(name):
            return pattern.sub("", name, count=1)
    return name


def folded(name: str) -> str:
    """A set's name however it is spelled: small letters, one space between words.

    Examples
    --------
    >>> folded("Old_Brick-02")
    'old brick 02'
    """
    return re.sub(r"[\s_.\-]+", " ", name).casefold()


def level_of(file_name: str) -> int | None:
    """The level of detail that a name carries, if any.

    Examples
    --------
    >>> level_of("bench_LOD1_N.tga"), level_of("explode_N.tga")
    (1, None)
    """
    found = _LEVEL.search(without_suffix(file_name))
    return int(found.group(1)) if found else None
