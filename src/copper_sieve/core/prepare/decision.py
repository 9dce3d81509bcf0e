"""How a picture is made to repeat, as data: decided once for all maps of a set, kept with it, and the same at every size."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from ..value import Value
from .light import MOST
from .step import Step

__all__ = ["BANDS", "Cut", "Guide", "Join", "Kind", "Repeat", "Seen", "Stroke"]

BANDS = 5  # sizes of detail, from 1/512 of the tile's width, each twice the one before
_LONGEST = 4096  # texels of a cut's side
Share = Annotated[float, Field(ge=0, le=1)]
Term = Annotated[float, Field(ge=-MOST, le=MOST)]
# How the maps of a set are joined: colors as they are stored, light as it adds up and without a limit, grays within their range
# (0..1, signed −1..1), normals by their slopes; what only says yes or no is cut.
Kind = Literal["color", "light", "height", "scalar", "signed", "normal", "mask"]


class Cut(Value):
    """Which of two copies lies where they overlap: row by row, lengths of what the first shows and the second shows, in turn."""

    rows: int = Field(ge=1, le=_LONGEST)
    columns: int = Field(ge=1, le=_LONGEST)
    runs: tuple[Annotated[int, Field(ge=0)], ...] = Field(max_length=1 << 17)

    @model_validator(mode="after")
    def _whole(self) -> Cut:
        if sum(self.runs) != self.rows * self.columns:
            raise ValueError(f"the runs of a cut must fill {self.rows} × {self.columns} texels (got {sum(self.runs)})")
        return self

    @classmethod
    def of(cls, is_second: np.ndarray) -> Cut:
        """A (rows, columns) mask of the second copy as runs.

        Examples
        --------
        >>> Cut.of(np.array([[False, True], [True, True]])).runs
        (1, 3)
        """
        flat = is_second.ravel()
        at = np.flatnonzero(np.diff(flat)) + 1
        ends = np.concatenate([[0] if flat[0] else [], at, [flat.size]]).astype(int)
        return cls(rows=is_second.shape[0], columns=is_second.shape[1], runs=tuple(np.diff(ends, prepend=0).tolist()))

    @property
    def is_second(self) -> np.ndarray:
        """The (rows, columns) mask."""
        values = np.arange(len(self.runs)) % 2 == 1
        return np.repeat(values, self.runs).reshape(self.rows, self.columns)


class Join(Value):
    """One axis: the picture lies over itself, one tile on, and changes from the one copy to the other along a line.

    Where the axis goes across, ``cut`` has a row for each of the picture; where it goes down, for each of its columns.
    ``light`` and ``level`` are how much brighter (in log light) and higher the copies differ along the line; they are evened out
    over the whole picture. ``alike`` says for each kind of map how alike the copies are, size by size of detail: -1..1.
    ``rest`` says how what is broader than detail goes over: met along the line, or, as it was done before, blended over all of
    the overlap, where large unlike things show through each other.
    """

    side: float = Field(gt=0, le=1, description="Of the tile, as a share of the picture's")
    overlap: float = Field(gt=0, le=1, description="As a share of the tile's side")
    cut: Cut
    light: tuple[float, ...] = Field(default=(), max_length=256)
    level: tuple[float, ...] = Field(default=(), max_length=256)
    rest: Literal["blended", "met"] = "blended"
    alike: dict[Kind, Annotated[tuple[float, ...], Field(min_length=BANDS, max_length=BANDS)]] = {}


class Seen(Value):
    """How much the line shows: differences across it over those at the same places within the two copies."""

    mean: float
    most: float = Field(description="The 95th percentile")
    worst: float = Field(description="Of stretches of 16 texels at 512 px")


class Stroke(Value):
    """A painted line: points in shares of the picture's width and height, and how far it reaches, as a share of the width."""

    points: tuple[tuple[float, float], ...] = Field(min_length=1, max_length=2000)
    radius: float = Field(gt=0, le=0.5)


class Guide(Value):
    """What is painted to lead the line: what it must keep whole of the picture, and where it had better not run."""

    keep: tuple[Stroke, ...] = Field(default=(), max_length=200)
    avoid: tuple[Stroke, ...] = Field(default=(), max_length=200)


class Repeat(Step):
    """Make the picture repeat: nothing is used twice or made up, and the tile is smaller than the picture.

    ``fit`` is how unlike the copies are where they overlap (0 is equal, 1 as unlike as any two places), the worse axis;
    ``structure`` how much the picture follows a pattern (under 0.18 it is random, from 0.25 it has a lattice).
    """

    kind: Literal["repeat"] = "repeat"
    x: Join | None = None
    y: Join | None = None
    seen: Seen
    fit: float = Field(ge=0)
    structure: float = Field(ge=0)
    is_quick: bool = Field(default=False, description="The line was only sketched, while a control moved")
    sides: tuple[Share | None, Share | None] = Field(default=(None, None), description="Of the tile, as typed; None: fitted")
    overlap: Share | None = Field(default=None, description="As typed; None: fitted")
    is_square: bool = Field(default=False, description="As many texels across as down, wherever the copies fit best so")
    evens: bool | None = Field(default=None, description="Whether its light is evened first, as said; None: where it stands out")
    even: tuple[Term, Term, Term, Term, Term] | None = Field(default=None, description="The light taken out of colors first")
    guide: Guide = Guide()
    period: tuple[Share | None, Share | None] = Field(
        default=(None, None), description="One step of the picture's pattern across and down, where it was looked for and found"
    )
    painted_at: tuple[Share, Share] | None = Field(
        default=None, description="The tile's sides when what lies over it was painted, where it was decided anew since"
    )

    @property
    def tile(self) -> tuple[float, float]:
        """The tile's sides as shares of the picture's."""
        return (1.0 if self.x is None else self.x.side, 1.0 if self.y is None else self.y.side)

    @model_validator(mode="after")
    def _does_something(self) -> Repeat:
        if self.x is None and self.y is None:
            raise ValueError("a picture is made to repeat across, down or both")
        return self
