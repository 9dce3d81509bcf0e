"""A file taken for one that a target names: how each of its channels is to be read."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import TargetInvalid
from ..quantities import quantity
from .formats import FORMATS
from .model import Channel, Target, TargetFile, Token

__all__ = ["NamedFile", "Reading", "name_pattern", "offered", "reading_of"]

_PATTERNS = {"set": r"(?P<set>.+)", "size": r"\d+(?:x\d+)?", "project": ".+?", "tile": r"\d{4}"}
_LEAST_FILES = 2  # one file that is named as a target names it may be so by chance


def name_pattern(target: Target, file: TargetFile) -> re.Pattern[str]:
    """What a file's name without its ending looks like when the target names it; the group ``set`` is the set's name.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> name_pattern(target, target.files[0]).fullmatch("Felt_BC")["set"]
    'Felt'
    """

    def part(part: str | Token) -> str:
        if isinstance(part, str):
            return re.escape(part)
        known = {**_PATTERNS, "map": re.escape(file.word), "target": re.escape(target.key)}
        return known[part.part]

    return re.compile("".join(part(p) for p in file.name), re.IGNORECASE)


@dataclass(frozen=True)
class NamedFile:
    """A file's name, and how many channels it has."""

    name: str
    channels: int


def offered(targets: Sequence[Target], files: Sequence[NamedFile]) -> list[tuple[Target, dict[str, tuple[str, TargetFile]]]]:
    """Targets that name at least two files of one set so, with as many channels and the same ending: set and file by name.

    Of each set only those that explain most of its files are kept; the targets with most files come first.
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> files = [NamedFile("Felt_BC.tga", 3), NamedFile("Felt_ORM.tga", 3)]
    >>> [(target.key, sorted(found)) for target, found in offered([shipped_target("engine-orm-down")], files)]
    [('engine-orm-down', ['Felt_BC.tga', 'Felt_ORM.tga'])]
    """
    rows = [(target, _explained(target, files)) for target in targets]
    most: Counter[str] = Counter()
    for _, found in rows:
        most |= Counter(set_name for set_name, _ in found.values())  # the larger of both, set by set
    kept = []
    for target, found in rows:
        counts = Counter(set_name for set_name, _ in found.values())
        best = {name: row for name, row in found.items() if counts[row[0]] == most[row[0]]}
        if best:
            kept.append((target, best))
    return sorted(kept, key=lambda row: -len(row[1]))


def _explained(target: Target, files: Sequence[NamedFile]) -> dict[str, tuple[str, TargetFile]]:
    patterns = sorted(((name_pattern(target, file), file) for file in target.files), key=lambda row: -len(row[0].pattern))
    found: dict[str, tuple[str, TargetFile]] = {}
    for named in files:
        stem, _, ending = named.name.rpartition(".")
        for pattern, file in patterns:
            hit = pattern.fullmatch(stem)
            counts = (len(file.channels), 3) if file.may_lack_fourth else (len(file.channels),)
            fits = named.channels in counts and FORMATS[file.format].suffix == f".{ending.lower()}"
            if hit is not None and fits and _is_readable(target, file):
                found[named.name] = (hit.groupdict().get("set") or "unnamed", file)
                break
    counts = Counter(set_name for set_name, _ in found.values())
    return {name: row for name, row in found.items() if counts[row[0]] >= _LEAST_FILES}


def _is_readable(target: Target, file: TargetFile) -> bool:
    try:
        return bool(reading_of(target, file).reads)
    except TargetInvalid:
        return False


@dataclass(frozen=True)
class Reading:
    """As a recipe's source has it: quantity by channels, the stored values of its ends, and which way green points."""

    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None


def reading_of(target: Target, file: TargetFile) -> Reading:
    """Read the table of one file backwards. Raises TargetInvalid where a channel cannot be read by itself.

    Convention: constants and luminances say nothing of a master and are left unread.
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> reading_of(target, target.files[2]).reads
    {'R': 'occlusion', 'G': 'roughness', 'B': 'metallic'}
    """
    channels: dict[str, Channel] = {
        letter: c for letter, c in file.channels.items() if c.quantity is not None and c.component != "luminance"
    }
    reads: dict[str, str] = {}
    spans: dict[str, tuple[float, float]] = {}
    whole = _whole(channels)
    if whole is not None:
        letters, key = whole
        reads[letters] = key
        channels = {letter: c for letter, c in channels.items() if letter not in letters}
    for letter, channel in channels.items():
        if channel.component != "v":
            raise TargetInvalid(f"{letter} of {file.title} holds one part of {channel.quantity}, which cannot be read alone.")
        assert channel.quantity is not None
        if file.color == "srgb" and letter != "A" and quantity(channel.quantity).color == "data":
            raise TargetInvalid(f"{letter} of {file.title} holds a gray with a color's curve, which cannot be read alone.")
        reads[letter] = channel.quantity
        low, high = channel.range
        span = (high, low) if channel.invert else (low, high)
        spans |= {letter: span} if span != (0, 1) else {}
    return Reading(reads, spans, target.green if "normal" in reads.values() else None)


def _whole(channels: dict[str, Channel]) -> tuple[str, str] | None:
    """Letters and quantity of a color, or of vectors, that R, G and B (or two of four channels) hold together."""
    keys = {letter: c.quantity for letter, c in channels.items()}
    parts = {letter: c.component for letter, c in channels.items()}
    for letters, components in (("RGB", "rgb"), ("RGB", "xyz"), ("GRB", "xyz"), ("RG", "xy"), ("AG", "xy")):
        held = {keys.get(letter) for letter in letters}
        if len(held) == 1 and [parts.get(letter) for letter in letters] == list(components):
            key = held.pop()
            return None if key is None else (letters, key)
    return None
