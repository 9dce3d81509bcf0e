"""MTL: the materials of an OBJ, with the pictures that they read and the values where they have none."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import islice
from math import isfinite
from pathlib import PurePosixPath
from types import MappingProxyType

from ...core.intake.folders import joined
from ...core.intake.materials import MOST_PICTURES, PictureBeside, Reading, ValuesTold, called_after

__all__ = ["mtl_pictures", "mtl_values"]

_SLOTS = "map_Kd map_Ks map_Ns map_Ka map_Ke map_d map_Bump map_Pr map_Pm map_Ps norm disp"
_PICTURES = {slot.lower(): slot for slot in _SLOTS.split()} | {"bump": "map_Bump"}
_NUMBERS = {"-o": 3, "-s": 3, "-t": 3}  # options that up to so many numbers follow
_PLAIN = {"-o": 0.0, "-s": 1.0, "-t": 0.0}  # numbers of theirs that leave it as it is
_MOVES = "it moves or scales the UV"
_WORDS = {word: 1 for word in "-blendu -blendv -boost -texres -clamp -bm -imfchan -type -cc".split()} | {"-mm": 2}  # any words

# Word of a value, the word of the picture in its place, and the master that it is.
_VALUES: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "kd": ("map_Kd", "base_color"),
        "ke": ("map_Ke", "emissive"),
        "pr": ("map_Pr", "roughness"),
        "pm": ("map_Pm", "metallic"),
        "d": ("map_d", "opacity"),
    }
)
_OF_NOTHING = {"emissive": (0.0, 0.0, 0.0), "opacity": (1.0,)}  # what every material says that means none


def mtl_pictures(content: bytes, mesh: str) -> list[PictureBeside]:
    """The pictures that the materials read, each once a material, with every word that reads it.

    Examples
    --------
    >>> found = mtl_pictures(b"newmtl felt\\nmap_Kd -s 2 2 1 maps/wool 1.png\\nmap_Pr -imfchan g arm.png", "hat")
    >>> [(one.reading.material, one.folder, one.name, one.reading.slots) for one in found]
    [('felt', 'maps', 'wool 1.png', ('map_Kd',)), ('felt', '', 'arm.png', ('map_Pr:g',))]
    """
    found: dict[tuple[str, str], list[str]] = {}
    moved: set[tuple[str, str]] = set()
    for material, word, rest in _lines(content):
        slot = _PICTURES.get(word)
        path, channel, is_moved = _picture(rest)
        moved |= {(material, path)} if is_moved else set()
        if slot is not None and path:
            found.setdefault((material, path), []).append(f"{slot}:{channel}" if channel else slot)
    is_only = len({material for material, _, _ in _lines(content)}) == 1
    pictures = []
    for (material, where), slots in islice(found.items(), MOST_PICTURES):
        path, called = PurePosixPath(where), called_after(material, mesh, is_only=is_only)
        undone = _MOVES if (material, where) in moved else ""
        reading = Reading(tuple(dict.fromkeys(slots)), material, called, undone=undone)
        pictures.append(PictureBeside(path.name, joined("", path.parent.as_posix()), reading))
    return pictures


def mtl_values(content: bytes, mesh: str) -> list[ValuesTold]:
    """The values of materials where they name no picture; the color is taken for linear light, as its numbers are nowhere
    said to be anything else.

    Examples
    --------
    >>> mtl_values(b"newmtl felt\\nKd 0.2 0.1 0.1\\nPr 0.7\\nPm 0\\nmap_Pm m.png", "hat")
    [ValuesTold(material='felt', called='felt', values={'base_color': (0.2, 0.1, 0.1), 'roughness': (0.7,)})]
    """
    said: dict[str, dict[str, tuple[float, ...]]] = {}
    pictured: set[tuple[str, str | None]] = set()
    for material, word, rest in _lines(content):
        values = said.setdefault(material, {})
        pictured.add((material, _PICTURES.get(word)))
        if word in _VALUES and (numbers := _numbers(rest, 3 if word.startswith("k") else 1)) is not None:
            values[word] = numbers
    told = []
    for material, values in said.items():
        kept = {_VALUES[word][1]: value for word, value in values.items() if (material, _VALUES[word][0]) not in pictured}
        called = called_after(material, mesh, is_only=len(said) == 1)
        told.append(ValuesTold(material, called, {key: value for key, value in kept.items() if value != _OF_NOTHING.get(key)}))
    return [one for one in told if one.values]


def _lines(content: bytes) -> Iterator[tuple[str, str, str]]:
    """Material, word in small letters, and what follows it."""
    material = ""
    for line in content.decode("utf-8", "replace").splitlines():
        word, _, rest = line.strip().partition(" ")
        if "\t" in word:
            word, _, rest = line.strip().partition("\t")
        if word.lower() == "newmtl":
            material = rest.strip()
        elif word and not word.startswith("#"):
            yield material, word.lower(), rest.strip()


def _picture(rest: str) -> tuple[str, str, bool]:
    """The path of a picture after its options, with / between folders, the channel that is meant, and whether the options lay it
    on the UV otherwise than as it is.
    """
    words, channel, is_moved = rest.split(), "", False
    while words and words[0].lower() in (*_NUMBERS, *_WORDS):
        option, words = words[0].lower(), words[1:]
        count = _WORDS.get(option, 0)
        if option == "-imfchan" and words:
            channel = words[0].lower()
        while count < _NUMBERS.get(option, 0) and count < len(words) - 1 and _is_number(words[count]):
            count += 1
        is_moved |= any(float(word) != _PLAIN.get(option) for word in words[:count] if option in _NUMBERS)
        words = words[count:]
    return " ".join(words).strip("\"' ").replace("\\", "/"), channel, is_moved


def _is_number(word: str) -> bool:
    try:
        return isfinite(float(word))
    except ValueError:
        return False


def _numbers(rest: str, count: int) -> tuple[float, ...] | None:
    """So many shares of 1, None where they are none; one number counts for all three."""
    words = rest.split()[:count]
    if not words or not all(map(_is_number, words)):
        return None
    found = tuple(min(max(float(word), 0.0), 1.0) for word in words)
    return found * count if len(found) == 1 else found if len(found) == count else None
