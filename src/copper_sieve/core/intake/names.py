"""What a file's name says: the set it belongs to and the map it holds."""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

__all__ = ["NameReading", "packed_reads", "read_name"]

_PARTS = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+[a-z]*|[^\W\d_]+")
_SIZE = re.compile(r"^(64|\d{3,5}(x\d{3,5})?|\d{1,2}k|8bit|16bit)$", re.IGNORECASE)
_CONFIDENCE_BY_LENGTH = {1: 0.5, 2: 0.8, 3: 0.9}  # letters in the word; one letter alone never settles it
_LONG_WORD = 0.97


@dataclass(frozen=True)
class NameReading:
    """``kind`` is None when the name says nothing; ``stem`` is what is left for the set's name."""

    kind: str | None
    confidence: float
    word: str
    stem: str


@lru_cache
def _words() -> dict[str, str]:
    table = tomllib.loads((resources.files("copper_sieve.core.intake") / "words.toml").read_text("utf-8"))
    words = {word.replace(" ", ""): kind for kind, group in table["kinds"].items() for word in group}
    return words | {word: f"packed:{word}" for word in table["packed"]}


@lru_cache
def packed_reads(word: str) -> dict[str, str]:
    """Channels of a packed file by the word that names it."""
    table = tomllib.loads((resources.files("copper_sieve.core.intake") / "words.toml").read_text("utf-8"))
    return dict(zip("RGB", table["packed"][word], strict=True))


def read_name(file_name: str) -> NameReading:
    """Read a file name without its folder.

    Examples
    --------
    >>> read_name("gilt brocade_Roughness_2k.png")
    NameReading(kind='roughness', confidence=0.97, word='Roughness', stem='gilt brocade')
    """
    stem = re.sub(r"\.[A-Za-z]{3,5}$", "", file_name)
    parts = [(m.group(), m.start(), m.end()) for m in _PARTS.finditer(stem)]
    while parts and (_SIZE.match(parts[-1][0])):
        parts.pop()
    for count in (3, 2, 1):  # the longest word that the name ends in
        if len(parts) < count:
            continue
        tail = parts[-count:]
        word = "".join(text for text, _, _ in tail).lower()
        kind = _words().get(word)
        lone_letter = len(word) == 1 and count == len(parts)
        if kind is not None and not lone_letter:
            rest = stem[: tail[0][1]].rstrip(" _-.") or ""
            confidence = _CONFIDENCE_BY_LENGTH.get(len(word), _LONG_WORD)
            return NameReading(kind, confidence, stem[tail[0][1] : tail[-1][2]], rest)
    return NameReading(None, 0.0, "", stem)
