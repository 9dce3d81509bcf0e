"""A target seen as a board of holes: which master feeds which channel of which file, and how."""

from __future__ import annotations

from typing import Literal

from ..quantities import MASTERS, quantity
from ..value import Told
from .encode import Feed, feeds, fill_value
from .model import Channel, Target, TargetFile, Token

__all__ = ["Board", "BoardFile", "BoardRow", "Hole", "board_of"]


class BoardRow(Told):
    """One master as a row, whether or not a file carries it."""

    key: str
    title: str
    plain: str
    carried: bool


class Hole(Told):
    """One channel. ``feed`` says how its master comes through; a computed one has several, a constant none.

    ``absent`` is what the channel holds, on the file's scale of 0..1, when the set has no such master; None when
    nothing is written then.
    """

    letter: str
    master: str | None
    component: str
    feed: Literal["straight", "inverted", "computed", "constant"]
    low: float
    high: float
    absent: float | None
    meaning: str


class BoardFile(Told):
    """One file's columns and what stands under them."""

    role: str
    title: str
    use: str
    name: tuple[str | Token, ...]
    word: str
    format: str
    depth: int
    color: str
    required: str
    holes: tuple[Hole, ...]


class Board(Told):
    """A whole target: rows are all masters, own scalars it carries among them, columns the channels of its files."""

    key: str
    title: str
    notes: str
    green: Literal["up", "down"]
    rows: tuple[BoardRow, ...]
    files: tuple[BoardFile, ...]


def board_of(target: Target) -> Board:
    """Draw ``target`` from its table alone, so that any target is right.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> board = board_of(shipped_target("engine-orm-down"))
    >>> [(hole.letter, hole.master) for hole in board.files[2].holes]
    [('R', 'occlusion'), ('G', 'roughness'), ('B', 'metallic')]
    """
    carried = target.masters()
    usual = (key for key in MASTERS if not quantity(key).is_seldom)
    keys = dict.fromkeys([*usual, *carried])  # a target may carry scalars of one's own
    rows = [BoardRow(key=k, title=quantity(k).title, plain=quantity(k).plain, carried=k in carried) for k in keys]
    return Board(
        key=target.key,
        title=target.title,
        notes=target.notes,
        green=target.green,
        rows=tuple(rows),
        files=tuple(_file(target, file) for file in target.files),
    )


def _file(target: Target, file: TargetFile) -> BoardFile:
    routed = feeds(target, file)
    holes = tuple(_hole(letter, channel, routed[letter], target) for letter, channel in file.channels.items())
    same = ("role", "title", "use", "name", "word", "format", "depth", "color", "required")
    return BoardFile(**{name: getattr(file, name) for name in same}, holes=holes)


def _hole(letter: str, channel: Channel, feed: Feed, target: Target) -> Hole:
    computed = channel.row is not None and channel.row.is_computed
    way = "constant" if feed.source is None else "computed" if computed else "inverted" if feed.gain < 0 else "straight"
    return Hole(
        letter=letter,
        master=channel.masters[0] if channel.masters else None,
        component=channel.component,
        feed=way,
        low=channel.range[0],
        high=channel.range[1],
        absent=None if channel.fill in ("stop", "leave-out") else fill_value(channel, feed),
        meaning=_meaning(channel, target),
    )


def _meaning(channel: Channel, target: Target) -> str:
    row = channel.row
    if row is None:
        return f"always {channel.constant:g}"
    if row.key == "normal" and channel.component == "y":
        return f"Normal, y, green {target.green}"
    part = "" if channel.component == "v" else f", {channel.component}"
    return f"{row.title}{part}{', inverted' if channel.invert else ''}"
