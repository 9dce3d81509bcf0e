"""Another picture of the same stuff, out of pieces of one that repeats: which place a texel shows, as data, put into effect."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Annotated

import cv2
import numba
import numpy as np
from pydantic import Field, model_validator

from ..bands import NEVER, Cancel, run_rows
from ..raster import FloatArray, floats
from ..value import Value
from .blurring import soft
from .decision import BANDS, Kind, Seen
from .joining import coded, sizes_of_detail, uncoded

__all__ = ["MOST_PLACES", "Pieces", "laid"]

MOST_PLACES = 255
_LONGEST, _MOST_RUNS = 4096, 1 << 17  # texels of a side, and how often what is shown changes
_SOFTER = 0.8  # the border of a piece is softened by so much of a size of detail
_BROADEST = 2.0  # times the broadest size of detail: what is left beyond it
_GIVEN_BACK, _LEAST_KEPT = 0.25, 0.5  # of the spread that mixing takes; all of it would show the borders
_NOTHING = 1e-4  # of a piece is none of it
_LARGE, _FINE = 2, 2  # a map so many times as wide as what was decided by has so many sizes of detail laid at its own size

Share = Annotated[float, Field(ge=0, lt=1)]
Box = tuple[int, int, int, int]  # top, left, rows, columns; it may go on past the border
Shares = tuple[tuple[int, Box, FloatArray], ...]  # the number of a place, the box it is shown in, and how much of it where


class Pieces(Value):
    """Which place of a repeating picture each texel shows, decided once for all maps of a set, and the same at every size.

    Row by row, ``runs`` are how many texels in turn show one place, and ``show`` the number of that place. A place is how far
    on in the picture its texels lie, across and down, in shares of its sides. ``alike`` is how alike places are where they
    meet: 0 as any two, 1 equal. ``sizes`` is how many sizes of detail change over more softly the broader they are: with all of
    them, as it was done before, large unlike things show through each other.
    """

    rows: int = Field(ge=1, le=_LONGEST)
    columns: int = Field(ge=1, le=_LONGEST)
    runs: tuple[Annotated[int, Field(ge=1)], ...] = Field(min_length=1, max_length=_MOST_RUNS)
    show: tuple[Annotated[int, Field(ge=0)], ...] = Field(max_length=_MOST_RUNS)
    places: tuple[tuple[Share, Share], ...] = Field(min_length=1, max_length=MOST_PLACES)
    alike: float = Field(ge=0, le=1)
    sizes: int = Field(default=BANDS, gt=_FINE, le=BANDS)
    seen: Seen

    @model_validator(mode="after")
    def _whole(self) -> Pieces:
        if sum(self.runs) != self.rows * self.columns:
            raise ValueError(f"the runs of pieces must fill {self.rows} × {self.columns} texels (got {sum(self.runs)})")
        if len(self.show) != len(self.runs):
            raise ValueError(f"every run shows a place (got {len(self.runs)} runs and {len(self.show)} numbers)")
        if max(self.show) >= len(self.places):
            raise ValueError(f"a run shows one of {len(self.places)} places, counted from 0 (got {max(self.show)})")
        return self

    @property
    def shown(self) -> np.ndarray:
        """The (rows, columns) map of the numbers of places."""
        return _shown((self.rows, self.columns), self.runs, self.show)


def _shown(shape: tuple[int, int], runs: tuple[int, ...], show: tuple[int, ...]) -> np.ndarray:
    return np.repeat(np.array(show, np.uint8), runs).reshape(shape)


def laid(values: FloatArray, pieces: Pieces, kind: Kind, *, cancel: Cancel = NEVER) -> FloatArray:
    """One map of a set put together from pieces; at whatever size it comes.

    Fine detail changes along the border of two pieces, broad detail gradually. What only says yes or no is cut.

    Parameters
    ----------
    values : (H, W) or (H, W, 3) float32, which repeats; colors in linear light, normals as vectors
    References
    ----------
    Bands: Burt & Adelson 1983. Spread given back: after Heitz & Neyret 2018.
    Examples
    --------
    >>> halves = Pieces(rows=1, columns=2, runs=(1, 1), show=(0, 1), places=((0, 0), (0.25, 0)), alike=0,
    ...                 seen=Seen(mean=1, most=1, worst=1))
    >>> laid(np.float32([[1, 0, 0, 0, 0, 1, 1, 1]]).repeat(2, 0), halves, "mask")[0].tolist()
    [1.0, 0.0, 0.0, 0.0, 1.0, 1.0, 1.0, 0.0]
    """
    shape = pieces.rows, pieces.columns
    values, weights = coded(values, kind), _weights(shape, pieces.runs, pieces.show, pieces.alike, pieces.sizes)
    out = np.empty_like(values)
    planes = [(values, out)] if values.ndim == 2 else [(values[..., k], out[..., k]) for k in range(values.shape[-1])]
    for plane, into in planes:  # one by one: each needs four more of its size meanwhile
        into[...] = (_cut if kind == "mask" else _mixed)(np.ascontiguousarray(plane, np.float32), pieces, weights, cancel)
    return uncoded(out, kind)


def _mixed(plane: FloatArray, pieces: Pieces, weights: Sequence[Shares], cancel: Cancel) -> FloatArray:
    """Size by size of detail; what is broad of a map much larger than the one that was decided by, at the size of that."""
    if plane.shape[1] < _LARGE * pieces.columns:
        return _laid_from(0, plane, pieces, weights, cancel)
    fine, rest = list[FloatArray](), plane
    for sigma in sizes_of_detail(plane.shape[1])[:_FINE]:
        cancel.check()
        broad = _softened(rest, sigma)
        fine.append(rest - broad)
        rest = broad
    small = floats(cv2.resize(rest, (pieces.columns, pieces.rows), interpolation=cv2.INTER_AREA))
    fine[-1] += rest - _enlarged(small, plane.shape)
    out = _enlarged(_laid_from(_FINE, small, pieces, weights, cancel), plane.shape)
    for band, shares in zip(fine, weights):
        _add_all(band, shares, pieces, out, cancel)
    return out


def _laid_from(first: int, rest: FloatArray, pieces: Pieces, weights: Sequence[Shares], cancel: Cancel) -> FloatArray:
    """What is left of a map once its ``first`` sizes of detail are parted from it, laid."""
    out = np.zeros_like(rest)
    for sigma, shares in zip(sizes_of_detail(rest.shape[1])[first : pieces.sizes], weights[first:]):
        cancel.check()
        broad = _softened(rest, sigma)
        _add_all(rest - broad, shares, pieces, out, cancel)
        rest = broad
    _add_all(rest, weights[-1], pieces, out, cancel)
    return out


def _enlarged(small: FloatArray, shape: Sequence[int]) -> FloatArray:
    """A smooth map that goes on past its borders, at a larger size."""
    pad, steps = 4, (small.shape[1] / shape[1], small.shape[0] / shape[0])
    grown = cv2.copyMakeBorder(small, pad, pad, pad, pad, cv2.BORDER_WRAP)
    to_small = np.array([[steps[0], 0, steps[0] / 2 - 0.5 + pad], [0, steps[1], steps[1] / 2 - 0.5 + pad]])
    how = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    return floats(cv2.warpAffine(grown, to_small, (shape[1], shape[0]), flags=how, borderMode=cv2.BORDER_REPLICATE))


def _cut(plane: FloatArray, pieces: Pieces, weights: Sequence[Shares], cancel: Cancel) -> FloatArray:
    out, best = np.zeros_like(plane), np.zeros_like(plane)
    for place, box, share in weights[0]:
        at, on = _at(box, pieces, plane.shape), _on(pieces.places[place], plane.shape)
        run_rows(_show_most, at[2], at[3], cancel, plane, share, at, on, box[:2], (pieces.rows, pieces.columns), best, out)
    return out


def _add_all(band: FloatArray, shares: Shares, pieces: Pieces, out: FloatArray, cancel: Cancel) -> None:
    for place, box, share in shares:
        at, on = _at(box, pieces, band.shape), _on(pieces.places[place], band.shape)
        run_rows(_add, at[2], at[3], cancel, band, share, at, on, box[:2], (pieces.rows, pieces.columns), out)


def _at(box: Box, pieces: Pieces, shape: Sequence[int]) -> Box:
    """A box of the map that was decided by as one of a map of ``shape``: all texels that it has a share in."""
    spans = [_grown(*span) for span in ((box[0], box[2], pieces.rows, shape[0]), (box[1], box[3], pieces.columns, shape[1]))]
    (top, rows), (left, columns) = spans
    return top, left, rows, columns


def _grown(first: int, count: int, side: int, wanted: int) -> tuple[int, int]:
    if count == side:
        return 0, wanted
    start, end = np.floor(first * wanted / side), np.ceil((first + count) * wanted / side)
    return int(start), min(int(end - start), wanted)


def _on(place: tuple[float, float], shape: Sequence[int]) -> tuple[int, int]:
    return round(place[1] * shape[0]), round(place[0] * shape[1])


def _softened(plane: FloatArray, sigma: float) -> FloatArray:
    pad = int(np.ceil(3 * sigma))
    grown = floats(cv2.copyMakeBorder(plane, pad, pad, pad, pad, cv2.BORDER_WRAP))
    return np.ascontiguousarray(soft(grown, sigma)[pad:-pad, pad:-pad])


@lru_cache(maxsize=2)  # the maps of a set come one after another
def _weights(
    shape: tuple[int, int], runs: tuple[int, ...], show: tuple[int, ...], alike: float, count: int
) -> tuple[Shares, ...]:
    """How much of each place is shown where, at every size of detail and at what is broader than these."""
    shown, (finest, *sizes) = _shown(shape, runs, show), sizes_of_detail(shape[1])[:count]
    middle = (_shares(shown, size, alike) for size in sizes)
    return (_shares(shown, finest, None), *middle, _shares(shown, _BROADEST * sizes[-1], None))


def _shares(shown: np.ndarray, size: float, alike: float | None) -> Shares:
    """How much of each place is shown where, at one size of detail.

    With ``alike`` the spread that mixing takes is given back in part.
    """
    sigma = _SOFTER * max(size, 1.0)
    pad = int(np.ceil(3 * sigma)) + 1
    whole, squares = np.zeros(shown.shape, np.float32), np.zeros(shown.shape, np.float32)
    found = list[tuple[int, Box, FloatArray]]()
    for place in np.unique(shown):
        box = _box_of(shown == place, pad)
        around = shown[_inside((box[0] - pad, box[1] - pad, box[2] + 2 * pad, box[3] + 2 * pad), shown.shape)]
        share = soft((around == place).astype(np.float32), sigma)[pad:-pad, pad:-pad]
        share = np.where(share < _NOTHING, np.float32(0), share)
        whole[_inside(box, shown.shape)] += share
        squares[_inside(box, shown.shape)] += np.square(share)
        found.append((int(place), box, share))
    spread = 1.0 if alike is None else squares + alike * (np.square(whole) - squares)
    scale = np.maximum(spread, _LEAST_KEPT) ** -_GIVEN_BACK / whole
    return tuple((place, box, floats(share * scale[_inside(box, shown.shape)]).astype(np.float32)) for place, box, share in found)


def _inside(box: Box, shape: Sequence[int]) -> tuple[np.ndarray, ...]:
    """Where a box lies on a map that goes on past its borders."""
    rows, columns = np.arange(box[0], box[0] + box[2]) % shape[0], np.arange(box[1], box[1] + box[3]) % shape[1]
    return np.ix_(rows, columns)


def _box_of(mask: np.ndarray, pad: int) -> Box:
    """The least box that holds a mask and ``pad`` texels around it, on a map that goes on past its borders."""
    (top, rows), (left, columns) = (_span(np.any(mask, 1 - axis), pad) for axis in (0, 1))
    return top, left, rows, columns


def _span(is_there: np.ndarray, pad: int) -> tuple[int, int]:
    at = np.flatnonzero(is_there)
    gaps = np.diff(at, append=at[0] + len(is_there))
    widest = int(np.argmax(gaps))
    first, length = int(at[(widest + 1) % len(at)]), len(is_there) - int(gaps[widest]) + 1
    return (0, len(is_there)) if length + 2 * pad >= len(is_there) else (first - pad, length + 2 * pad)


@numba.njit(nogil=True, cache=True)
def _between(y, side, decided, origin, count):
    """The two rows of a share that row ``y`` of a map lies between, and how far it is from the first."""
    at = (y + 0.5) * decided / side - 0.5 - origin
    here = int(np.floor(at))
    return here % count, (here + 1) % count, np.float32(at - here)


@numba.njit(nogil=True, cache=True)
def _share_at(share, rows, columns):
    """A share between its texels."""
    (up, low, down), (left, right, along) = rows, columns
    upper = share[up, left] + (share[up, right] - share[up, left]) * along
    lower = share[low, left] + (share[low, right] - share[low, left]) * along
    return upper + (lower - upper) * down


@numba.njit(nogil=True, cache=True)
def _add(first, last, band, share, at, on, origin, decided, out):
    rows, columns = band.shape
    for i in range(first, last):
        y, from_y = (at[0] + i) % rows, (at[0] + i + on[0]) % rows
        down = _between(at[0] + i, rows, decided[0], origin[0], share.shape[0])
        for j in range(at[3]):
            here = _share_at(share, down, _between(at[1] + j, columns, decided[1], origin[1], share.shape[1]))
            if here > 0:
                out[y, (at[1] + j) % columns] += here * band[from_y, (at[1] + j + on[1]) % columns]


@numba.njit(nogil=True, cache=True)
def _show_most(first, last, values, share, at, on, origin, decided, best, out):
    rows, columns = values.shape
    for i in range(first, last):
        y, from_y = (at[0] + i) % rows, (at[0] + i + on[0]) % rows
        down = _between(at[0] + i, rows, decided[0], origin[0], share.shape[0])
        for j in range(at[3]):
            here = _share_at(share, down, _between(at[1] + j, columns, decided[1], origin[1], share.shape[1]))
            x = (at[1] + j) % columns
            if here > best[y, x]:
                best[y, x] = here
                out[y, x] = values[from_y, (at[1] + j + on[1]) % columns]
