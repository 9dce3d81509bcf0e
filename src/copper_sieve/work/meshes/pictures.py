"""Baked maps as pictures: 16 bits, 8 where they hold marks; over all tiles of a set in one range."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

import numpy as np

from ...core.bake import BakePlan, bake
from ...core.bake.baked import Baked, BakedMap
from ...core.bake.cast import Caster
from ...core.bake.parting import Parted
from ...core.baked_maps import MapName
from ...core.bands import NEVER, Cancel
from ...core.findings import Finding
from ...core.mesh.shape import Shape
from ...core.tiles import FIRST_TILE, Layout
from ...files import encode

__all__ = ["Bodies", "Outcome", "Picture", "bake_pictures", "laid_out"]

_VECTORS: tuple[str, ...] = ("normal", "object_normal")
_BYTES: tuple[str, ...] = ("id",)
_MEASURED: tuple[str, ...] = ("height", "curvature", "thickness")  # whose ends are what a bake met


class Bodies(NamedTuple):
    """What is baked to, what from, and what casts: the last two as ``core.bake.bake`` has them."""

    low: Shape
    high: Shape | None
    caster: Caster
    parted: Parted | None


@dataclass(frozen=True)
class Picture:
    """A baked map, of one tile where there are tiles; ``missed`` shows where rays met nothing, in whole white.

    ``ends`` is what stored 0 and 1 mean, in units of the mesh; empty where they mean what they say.
    """

    map: MapName | str
    tile: int | None
    codes: np.ndarray
    ends: tuple[tuple[float, ...], tuple[float, ...]] = ((), ())

    @property
    def depth(self) -> int:
        return self.codes.itemsize * 8

    @cached_property
    def content(self) -> bytes:
        """As a PNG file."""
        return encode(self.codes, "png")

    @cached_property
    def sha256(self) -> str:
        return hashlib.sha256(self.content).hexdigest()


@dataclass
class Outcome:
    """What a bake says of itself beside its pictures."""

    offset: float = 0.0
    caster: str = ""
    covered: int = 0
    missed: int = 0
    findings: list[Finding] = field(default_factory=list)

    @property
    def missed_share(self) -> float:
        """Of the covered texels."""
        return self.missed / max(self.covered, 1)

    def add(self, baked: Baked) -> None:
        self.offset, self.caster = baked.offset, baked.caster
        self.covered += int(baked.covered.sum())
        self.missed += int(baked.missed.sum())
        self.findings += [found for found in baked.findings if found not in self.findings]


def bake_pictures(
    bodies: Bodies,
    plan: BakePlan,
    keep: Callable[[Picture], None],
    *,
    tiles: Sequence[int] = (),
    cancel: Cancel = NEVER,
    progress: Callable[[float], None] = lambda share: None,
) -> Outcome:
    """Bake one picture of each map, or one for each tile, and hand each on once it is made.

    Maps whose ends are measured wait on the disk until the ends of all tiles are known, so that they go on from tile to tile.

    Parameters
    ----------
    tiles : UDIM numbers; none for one picture over UV 0 to 1
    Raises
    ------
    MeshInvalid : as ``core.bake.bake``
    """
    outcome, numbers = Outcome(), tiles or (None,)
    with _waiting() as waiting:
        for k, tile in enumerate(numbers):

            def tell(share: float, k: int = k) -> None:
                progress((k + share) / len(numbers))

            told = {"parted": bodies.parted, "tile": tile, "cancel": cancel, "progress": tell}
            baked = bake(bodies.low, bodies.high, plan, bodies.caster, **told)
            outcome.add(baked)
            for map, made in baked.maps.items():
                if tile is not None and map in _MEASURED:
                    waiting.add(map, tile, made)
                else:
                    keep(_picture(map, tile, made))
            if baked.missed.any():
                keep(Picture("missed", tile, (baked.missed * np.uint8(255)).astype(np.uint8)))
            cancel.check()
        for map, tile, made in waiting.in_common():
            keep(_picture(map, tile, made))
            cancel.check()
    return outcome


class _Waiting:
    """Maps of tiles on the disk, with the ends of each."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._ends: dict[tuple[str, int], tuple[float, float]] = {}

    def add(self, map: str, tile: int, made: BakedMap) -> None:
        assert isinstance(made.low, float) and isinstance(made.high, float)
        self._ends[map, tile] = made.low, made.high
        np.save(self._path(map, tile), made.values)

    def in_common(self) -> Iterator[tuple[str, int, BakedMap]]:
        """Each of them between the farthest ends that a tile of that map has."""
        for (map, tile), own in self._ends.items():
            ends = [ends for (other, _), ends in self._ends.items() if other == map]
            made = BakedMap(np.load(self._path(map, tile)), *own)
            yield map, tile, made.between(min(low for low, _ in ends), max(high for _, high in ends))

    def _path(self, map: str, tile: int) -> Path:
        return self._folder / f"{map}.{tile}.npy"


@contextmanager
def _waiting() -> Generator[_Waiting, None, None]:
    with tempfile.TemporaryDirectory(prefix="copper-sieve-bake-") as folder:
        yield _Waiting(Path(folder))


def _picture(map: str, tile: int | None, made: BakedMap) -> Picture:
    values = made.values * 0.5 + 0.5 if map in _VECTORS else made.values
    top, kind = (255, np.uint8) if map in _BYTES else (65535, np.uint16)
    codes = np.clip(values * top + 0.5, 0, top).astype(kind)
    return Picture(map, tile, codes, (_ends(made.low), _ends(made.high)))


def _ends(value: float | tuple[float, float, float] | None) -> tuple[float, ...]:
    if value is None:
        return ()
    return value if isinstance(value, tuple) else (value,)


def laid_out(pictures: Mapping[int | None, Picture], tiles: Sequence[int]) -> Picture:
    """One map's pictures as one, laid out as the numbers of all ``tiles`` say, black where there is none; itself without any."""
    if not tiles:
        return pictures[None]
    layout = Layout.of(tiles)
    first = next(iter(pictures.values()))
    height, width = first.codes.shape[:2]
    whole = np.zeros((layout.rows * height, layout.columns * width, *first.codes.shape[2:]), first.codes.dtype)
    for tile, picture in pictures.items():
        column, row = layout.at[tile or FIRST_TILE]
        whole[row * height : (row + 1) * height, column * width : (column + 1) * width] = picture.codes
    return Picture(first.map, None, whole, first.ends)
