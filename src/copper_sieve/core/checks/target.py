"""Checks on a target's own table: what it says that nobody can mean. The set does not matter to them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..findings import Finding, finding
from ..quantities import quantity
from ..target import FORMATS, Target, TargetFile

__all__ = ["CHECKS", "Tabled"]


@dataclass(frozen=True)
class Tabled:
    """What a check of a target sees: the table, and the names of its files that are written, by role."""

    target: Target
    names: dict[str, str]

    @property
    def files(self) -> list[TargetFile]:
        return [file for file in self.target.files if file.role in self.names]


def _turned_twice(seen: Tabled) -> Iterator[Finding]:
    """Channels that are inverted by their convention and once more by a switch or a range that runs down."""
    for file in seen.files:
        for letter, channel in file.channels.items():
            row = channel.row
            is_green = channel.quantity == "normal" and channel.component == "y" and seen.target.green == "down"
            turns = (row is not None and row.complement, is_green, channel.invert, channel.range[0] > channel.range[1])
            if sum(turns) > 1:
                what = "green" if is_green else quantity(channel.quantity or "").title.lower()
                yield finding("turned-twice", file=file.title, letter=letter, what=what)


def _signed_as_color(seen: Tabled) -> Iterator[Finding]:
    """Signed quantities on the curve of colors."""
    for file in seen.files:
        carried = [c for letter, c in file.channels.items() if c.row is not None and c.row.low < 0 and letter != "A"]
        if file.color == "srgb" and carried:
            yield finding("signed-as-color", file=file.title, what=quantity(carried[0].quantity or "").title.lower())


def _data_in_alpha(seen: Tabled) -> Iterator[Finding]:
    """Files whose alpha is no opacity, in a format that picture editors show as see-through."""
    for file in seen.files:
        alpha = file.channels.get("A")
        if alpha is not None and alpha.quantity not in (None, "opacity") and FORMATS[file.format].alpha_shows:
            yield finding("data-in-alpha", file=seen.names[file.role])


CHECKS: tuple[Callable[[Tabled], Iterator[Finding]], ...] = (_turned_twice, _signed_as_color, _data_in_alpha)
