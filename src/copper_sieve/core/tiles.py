"""UDIM: a set in tiles, numbered from 1001, ten to a row, rows upwards."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

__all__ = ["FIRST_TILE", "MAX_TILES", "TILES_PER_ROW", "Layout", "beside", "place_of", "runs"]

FIRST_TILE = 1001
MAX_TILES = 100  # numbers 1001 to 1100, ten rows
TILES_PER_ROW = 10


def place_of(tile: int) -> tuple[int, int]:
    """Column and row of a tile, both from 0, rows upwards.

    Examples
    --------
    >>> place_of(1001), place_of(1012)
    ((0, 0), (1, 1))
    """
    row, column = divmod(tile - FIRST_TILE, TILES_PER_ROW)
    return column, row


def runs(tiles: Iterable[int]) -> str:
    """Numbers in words, those that follow each other as a run.

    Examples
    --------
    >>> runs([1001, 1002, 1003, 1011])
    '1001–1003, 1011'
    """
    found: list[list[int]] = []
    for tile in tiles:
        if found and tile == found[-1][-1] + 1:
            found[-1].append(tile)
        else:
            found.append([tile])
    return ", ".join(str(run[0]) if len(run) == 1 else f"{run[0]}–{run[-1]}" for run in found)


def beside(tile: int, right: int, down: int) -> int | None:
    """The number of the tile so many columns to the right and rows down (negative: left, up); None where there can be none.

    Examples
    --------
    >>> beside(1001, 1, 0), beside(1011, 0, 1), beside(1010, 1, 0), beside(1001, 0, 1)
    (1002, 1001, None, None)
    """
    column, row = place_of(tile)
    column, row = column + right, row - down
    return FIRST_TILE + row * TILES_PER_ROW + column if 0 <= column < TILES_PER_ROW and row >= 0 else None


@dataclass(frozen=True)
class Layout:
    """Tiles laid out as their numbers say, in as few ``columns`` and ``rows`` as hold them; ``at`` counts from the upper left."""

    columns: int
    rows: int
    at: dict[int, tuple[int, int]]

    def under(self, x: float, y: float) -> tuple[int | None, float, float]:
        """The tile at shares of the whole width and height, None where there is none, and the shares of its own.

        Examples
        --------
        >>> Layout.of([1001, 1002]).under(0.75, 0.25)
        (1002, 0.5, 0.25)
        """
        column, row = int(x * self.columns), int(y * self.rows)
        tile = next((tile for tile, place in self.at.items() if place == (column, row)), None)
        return tile, x * self.columns - column, y * self.rows - row

    @classmethod
    def of(cls, tiles: Iterable[int]) -> Layout:
        """Raises ValueError without any tile.

        Examples
        --------
        >>> Layout.of([1002, 1012]).at
        {1002: (0, 1), 1012: (0, 0)}
        """
        places = {tile: place_of(tile) for tile in tiles}
        left, right = (pick(column for column, _ in places.values()) for pick in (min, max))
        low, high = (pick(row for _, row in places.values()) for pick in (min, max))
        at = {tile: (column - left, high - row) for tile, (column, row) in places.items()}
        return cls(right - left + 1, high - low + 1, at)
