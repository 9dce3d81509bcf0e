"""A file taken for one that a target names: how each of its channels is to be read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..errors import TargetInvalid
from ..quantities import quantity
from .model import Channel, Target, TargetFile

__all__ = ["Reading", "reading_of"]


@dataclass(frozen=True)
class Reading:
    """As a recipe's source has it: quantity by channels, the stored values of its ends, and which way green points."""

    reads: dict[str, str]
    spans: dict[str, tuple[float, float]]
    green: Literal["up", "down"] | None


def reading_of(target: Target, file: TargetFile) -> Reading:
    """Read the table of one file backwards. Raises TargetInvalid where a channel cannot be read by itself.

    Convention: constants and luminances say nothing of a master and are left unread.
    """
    channels = {letter: c for letter, c in file.channels.items() if c.quantity is not None and c.component != "luminance"}
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
