"""What a file's name says: the set it belongs to and the map it holds."""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Any

from ..convert.normals import Green

__all__ = ["NameReading", "kind_in_color", "packed_reads", "read_name", "tile_of", "without_suffix"]

_PARTS = re.compile(r"\d+(?:[kK]|[bB]it|[xX]\d+)?(?![a-zA-Z])|\d+|[A-Z]+(?![a-z])|[A-Z]?[a-z]+|[^\W\d_]+")
_BESIDE = re.compile(r"^(\d{1,5}(x\d{3,5})?|\d{1,2}k|\d{1,2}bit)$", re.IGNORECASE)  # sizes, versions, depths, tile numbers
_TILE = re.compile(r"[._](1\d{3})(?=[._]|$)")  # UDIM numbers, 1001 to 1999, between separators
_WAYS: tuple[Green, ...] = ("up", "down")
_CONFIDENCE_BY_LENGTH = {1: 0.5, 2: 0.8, 3: 0.9}  # letters in the word; one letter alone never settles it
_LONG_WORD = 0.97


@dataclass(frozen=True)
class NameReading:
    """``kind`` is None when the name says nothing; ``stem`` is what is left for the set's name.

    ``green`` is which way green points as far as the name of a normal map says so.
    """

    kind: str | None
    confidence: float
    word: str
    stem: str
    green: Green | None = None


@lru_cache
def _table() -> dict[str, Any]:
    return tomllib.loads((resources.files("copper_sieve.core.intake") / "words.toml").read_text("utf-8"))


@lru_cache
def _words() -> dict[str, str]:
    table = _table()
    words = {word.replace(" ", ""): kind for kind, group in table["kinds"].items() for word in group}
    return words | {word: f"packed:{word}" for word in table["packed"]}


def packed_reads(word: str) -> dict[str, str]:
    """Channels of a packed file by the word that names it; {} where that word leaves them open."""
    channels = _table()["packed"][word]
    return dict(zip("RGB", channels, strict=True)) if isinstance(channels, list) else dict(channels)


def kind_in_color(word: str) -> str | None:
    """The kind that ``word`` names when the picture is in color, where that is another than usual."""
    return _table()["in_color"].get(word.lower())


def _peeled(parts: list[re.Match[str]]) -> tuple[list[re.Match[str]], Green | None]:
    """``parts`` without what may stand after the word for the map, and which way green points if that was said."""
    green: Green | None = None
    ways: dict[str, Green] = {word: way for way in _WAYS for word in _table()["green"][way]}
    kept = list(parts)
    while kept:
        one, two = ("".join(part.group() for part in kept[-count:]).lower() for count in (1, 2))
        count = 2 if two in ways or two in _table()["after"]["words"] else 1  # "sRGB" comes in two parts
        word = two if count == 2 else one
        is_version = word == "v" and len(kept) < len(parts)
        if word not in ways and word not in _table()["after"]["words"] and not _BESIDE.match(word) and not is_version:
            break
        green = ways[word] if word in ways else green
        del kept[-count:]
    return kept, green


def read_name(file_name: str) -> NameReading:
    """Read a file name without its folder.

    Examples
    --------
    >>> read_name("gilt brocade_Roughness_2k.png")
    NameReading(kind='roughness', confidence=0.97, word='Roughness', stem='gilt brocade', green=None)
    """
    stem = without_suffix(file_name)
    everything = list(_PARTS.finditer(stem))
    peeled, green = _peeled(everything)
    for parts in (everything, peeled):  # a word may end in one that would be peeled off
        for count in (4, 3, 2, 1):  # the longest word that the name ends in
            tail = parts[-count:]
            word = "".join(part.group() for part in tail).lower()
            kind = _words().get(word, _words().get(word.removesuffix("map"))) if len(parts) >= count else None
            is_lone = count == len(parts) and len(word) <= 2
            if kind is None or is_lone:
                continue
            rest = stem[: tail[0].start()].rstrip(" _-.")
            confidence = _CONFIDENCE_BY_LENGTH.get(len(word), _LONG_WORD)
            green = green if kind == "normal" else None
            return NameReading(kind, confidence, stem[tail[0].start() : tail[-1].end()], rest, green)
    return NameReading(None, 0.0, "", stem)


def without_suffix(file_name: str) -> str:
    """A file's name without its format."""
    return re.sub(r"\.[A-Za-z]{3,5}$", "", file_name)


def tile_of(file_name: str) -> int | None:
    """The UDIM number that a name carries, if any; whether it is one, siblings with other numbers must say.

    Examples
    --------
    >>> tile_of("satin_BaseColor.1002.exr"), tile_of("tweed_2048.png")
    (1002, None)
    """
    found = _TILE.search(without_suffix(file_name))
    return int(found.group(1)) if found and found.group(1) > "1000" else None
