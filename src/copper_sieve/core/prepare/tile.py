"""Deciding how a picture is made to repeat: how large the tile is, how its copies are evened, and how much the line shows."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from scipy import ndimage

from ..bands import NEVER, Cancel
from ..color import linear_from_srgb
from ..errors import RecipeInvalid
from ..filters import gaussian
from ..raster import Edges, FloatArray, Size, floats
from .blurring import soft
from .coded_maps import Coded
from .cutting import graph_cut, painted, quick_cut
from .decision import Cut, Guide, Join, Kind, Repeat, Seen
from .joining import coded, evened, levelled, one_axis, sizes_of_detail
from .lattice import IS_RANDOM, structure_of
from .light import Terms, light_across, light_terms
from .seams import STRETCH, seen_of

__all__ = ["DECIDED_PX", "Asked", "decided"]

DECIDED_PX = 512  # the longer side at which everything is decided
_BROAD = 0.06  # of the width: broader tones do not say whether copies fit
_SIDES = (0.5, 1 / 1.12)  # the smallest tile and the largest, of the picture
_OTHERS = ((0.72, 0.78), (0.82, 0.855), (0.78, 0.82))  # where the first line shows
_SHOWS = Seen(mean=1.05, most=1.15, worst=1.6)  # from where on a line is looked for again
_NOTHING_FITS, _FITS_AS_WELL = 0.8, 0.05  # of how unlike copies are: from where on they do not fit, and what is no difference
_FIT_OVERLAP = 0.3  # of the tile, at most
_LARGE_IS_BETTER = 0.5
_REFINE = 2  # texels
_BENDS = 0.3  # of log light
_RAMP_ALONG, _RAMP_KEPT = 0.08, 64
_DARKEST = 1e-3
_ONE_HUE = 0.12  # of log light, between its three colors
_LEAST_TOLD = 0.2  # of a row: where less of it tells how its copies differ, less is believed of it
_PLAIN = 0.004  # spread of a picture that is one color
_LEAST_OVERLAP = 4  # texels
_NOTHING = 1e-9
_SMALLEST_SIDE = 32


@dataclass(frozen=True)
class Asked:
    """What a person asks for: which axes, the tile's sides and overlap as shares where they are typed, and what they painted.

    A square tile has as many texels across as down. ``evens`` says whether its light is evened first; None: where light that
    falls off around a middle stands out from the material's own tones. A quick line is for a control that moves: found in a
    moment, its worst places are worse.
    """

    x: bool = True
    y: bool = True
    sides: tuple[float | None, float | None] = (None, None)
    overlap: float | None = None
    guide: Guide = field(default_factory=Guide)
    period: tuple[float | None, float | None] = (None, None)
    is_quick: bool = False
    is_square: bool = False
    evens: bool | None = None


def decided(
    maps: Mapping[Kind, FloatArray],
    asked: Asked | None = None,
    *,
    wraps: tuple[bool, bool] = (False, False),
    whole: Size | None = None,
    cancel: Cancel = NEVER,
) -> Repeat:
    """Decide how a picture is made to repeat.

    Parameters
    ----------
    maps : what is decided by, all of one size, best with the longer side at ``DECIDED_PX``
    wraps : whether the picture repeats across and down already; such an axis is left alone
    whole : the picture's own size, of which a square tile is square to the texel; None: that of ``maps``
    Returns
    -------
    repeat : the decision, the same for every map and size
    Raises
    ------
    RecipeInvalid : the picture is one color, too small, or repeats already, or no axis is asked for
    References
    ----------
    Graph cut: Kwatra et al. 2003. Quick line: Efros & Freeman 2001.
    Examples
    --------
    >>> rng = np.random.default_rng(1)
    >>> sand = rng.random((64, 64, 3)).astype(np.float32)
    >>> found = decided({"color": np.tile(sand, (2, 2, 1))[:100, :96]})
    >>> round(found.x.side * 96), round(found.y.side * 100)
    (64, 64)
    """
    asked = asked or Asked()
    told = asked.sides
    is_x, is_y = asked.x and not wraps[0], asked.y and not wraps[1]
    stage = Coded({kind: coded(values, kind) for kind, values in maps.items()})
    _refuse(stage, is_x or is_y)
    even = _light(maps, asked, wraps)
    if even is not None:
        stage = Coded({kind: coded(evened(values, even, kind), kind) for kind, values in maps.items()})
    first, found, whole = stage, dict[str, _Axis](), whole or Size(*stage.shape[::-1])
    if asked.is_square and is_x and is_y:
        asked = replace(asked, sides=_square(stage, asked, whole, cancel))
    if is_x:
        found["x"] = _best_axis(stage, asked, 0, stage.shape[1], wraps[1], cancel)
        stage = found["x"].tile
    if is_y:
        found["y"] = _best_axis(stage.turned(), asked, 1, stage.shape[1], wraps[0] or is_x, cancel)
    fit = max(axis.fit for axis in found.values())
    structure = structure_of(first.planes["color"], fit) if "color" in maps else max(0.0, 1 - fit)
    joins = {name: axis.join for name, axis in found.items()}
    for name, px, decided_px, side in zip("xy", (whole.width, whole.height), first.shape[::-1], asked.sides):
        if name in joins and side is None and structure < IS_RANDOM:  # a pattern is followed as it is
            at = _easily_transformed(joins[name].side * px, px / decided_px / 2)
            joins[name] = joins[name].model_copy(update={"side": at / px})
    return Repeat(
        x=joins.get("x"),
        y=joins.get("y"),
        seen=Seen(**{name: round(max(getattr(axis.seen, name) for axis in found.values()), 3) for name in Seen.model_fields}),
        fit=round(fit, 4),
        structure=round(structure, 4),
        is_quick=asked.is_quick,
        sides=told,
        overlap=asked.overlap,
        guide=asked.guide,
        period=asked.period,
        is_square=asked.is_square,
        evens=asked.evens,
        even=even,
    )


def _light(maps: Mapping[Kind, FloatArray], asked: Asked, wraps: tuple[bool, bool]) -> Terms | None:
    """The light that is taken out first, where that is asked for or it stands out."""
    if "color" not in maps or asked.evens is False:
        return None
    edges = Edges(x="wrap" if wraps[0] else "mirror", y="wrap" if wraps[1] else "mirror")
    photo = maps["color"]
    terms = light_terms(photo, edges)
    if asked.evens:
        return terms
    bends = (abs(terms[2]) + abs(terms[3])) / 4  # from the middle to a border; a slope alone is evened as the copies are
    return terms if bends > _BENDS and light_across(photo, edges).stands_out else None


def _square(maps: Coded, asked: Asked, whole: Size, cancel: Cancel) -> tuple[float, float]:
    """The sides of a square tile as shares of the picture: as typed, else where the copies across and down fit best."""
    rows, columns = maps.shape
    x, y = asked.sides
    if x is not None or y is not None:
        side = columns * x if x is not None else rows * (y or 0)
    else:
        across, down = ((part, _Detail.of(part)) for part in (maps.features(), maps.turned().features()))
        side = _fitted_side((across, down), min(rows, columns), _SIDES, cancel)
    px = min(round(side * whole.width / columns), round(_SIDES[1] * min(whole.width, whole.height)))
    return px / whole.width, px / whole.height


def _easily_transformed(side: float, within: float) -> int:
    """The number of texels near a side whose largest prime factor is the smallest: what filters the tile takes far longer at
    others, and a side is known no better.

    Examples
    --------
    >>> _easily_transformed(2458, 4), _easily_transformed(2458, 0)
    (2457, 2458)
    """
    near = range(math.ceil(side - within), math.floor(side + within) + 1)
    return min(near, key=lambda count: (_largest_prime(count), abs(count - side)), default=round(side))


def _largest_prime(count: int) -> int:
    factor, largest = 2, 1
    while factor * factor <= count:
        if count % factor:
            factor += 1
        else:
            count, largest = count // factor, factor
    return max(largest, count)


def _refuse(maps: Coded, is_any: bool) -> None:
    rows, columns = maps.shape
    if not is_any:
        raise RecipeInvalid(
            "this set repeats already, as far as it was asked to. Say under Edges that it ends, or choose an axis."
        )
    if min(rows, columns) < _SMALLEST_SIDE:
        raise RecipeInvalid(f"{columns} × {rows} px are too few to find a tile in: {_SMALLEST_SIDE} px each way are the least.")
    if max(float(values.std((0, 1)).max()) for values in maps.planes.values()) < _PLAIN:
        raise RecipeInvalid("the picture is one color, so it repeats as it is. Say under Edges that it repeats.")


@dataclass(frozen=True)
class _Axis:
    """One axis decided: the join, how unlike its copies are, how much the line shows, and the maps joined by it."""

    join: Join
    fit: float
    seen: Seen
    tile: Coded


@dataclass(frozen=True)
class _Detail:
    """Features without what is broad, rows moved to the front so that columns lie together, and their mean variance."""

    columns: FloatArray
    variance: float

    @classmethod
    def of(cls, features: FloatArray) -> _Detail:
        planes = (np.ascontiguousarray(plane) for plane in np.moveaxis(features, -1, 0))
        fine = np.stack([plane - gaussian(plane, _BROAD, "mirror") for plane in planes], -1)
        return cls(np.ascontiguousarray(fine.swapaxes(0, 1)), max(float(fine.var((0, 1)).mean()), _NOTHING))

    def unlike(self, side: int) -> float:
        """How unlike the copies one tile on are where they overlap: 0 equal, 1 as any two places."""
        overlap = min(len(self.columns) - side, int(_FIT_OVERLAP * side))
        apart = (self.columns[side : side + overlap] - self.columns[:overlap]).ravel()
        return float(apart @ apart) / max(apart.size, 1) / (2 * self.variance)


def _fitted_side(axes: Sequence[tuple[FloatArray, _Detail]], columns: int, sides: tuple[float, float], cancel: Cancel) -> int:
    """The tile's side at which its copies fit best along all ``axes``, from the smallest to the largest share of ``columns``.

    Larger ones come first among equals. Of each axis its features and what is fine of them.
    """
    coarse, wide, (smallest, largest) = [_Detail.of(_half(features)) for features, _ in axes], columns // 2, sides

    def cost(side: int) -> float:
        return sum(one.unlike(side) for one in coarse) / len(coarse) + _LARGE_IS_BETTER * max(0.0, 1 - side / (largest * wide))

    best = 2 * min(_between(smallest * wide, largest * wide), key=cost)
    cancel.check()
    near = _between(max(best - _REFINE, smallest * columns), min(best + _REFINE, largest * columns))
    return min(near, key=lambda side: sum(fine.unlike(side) for _, fine in axes))


def _between(low: float, high: float) -> range:
    """The whole numbers from ``low`` to ``high``, or the next above where there is none."""
    first = int(np.ceil(low))
    return range(first, max(first, int(high)) + 1)


def _half(features: FloatArray) -> FloatArray:
    rows, columns = features.shape[:2]
    planes = (np.ascontiguousarray(plane) for plane in np.moveaxis(features, -1, 0))  # a resize takes four channels at most
    return np.stack([floats(cv2.resize(plane, (columns // 2, rows // 2), interpolation=cv2.INTER_AREA)) for plane in planes], -1)


def _best_axis(maps: Coded, asked: Asked, axis: int, unit: int, wraps: bool, cancel: Cancel) -> _Axis:
    """The decision along columns; where the line shows, with other tiles too, and of them the one whose line shows least.

    A tile that follows the picture's pattern gives way only to one that follows it as well.
    """
    columns, told, features = maps.shape[1], asked.sides[axis], maps.features()
    detail = _Detail.of(features)

    def with_side(side: int) -> _Axis:
        return _axis(maps, asked, axis, side, detail.unlike(side), unit, wraps, cancel)

    if told is not None:
        return with_side(min(max(round(told * columns), _LEAST_OVERLAP), columns - _LEAST_OVERLAP))
    fitted = [(features, detail)]
    first = best = with_side(_fitted_side(fitted, columns, _SIDES, cancel))
    for sides in _OTHERS if asked.overlap is None and not asked.is_quick else ():
        if _shown(best) <= 1:
            break
        if not sides[0] <= first.join.side <= sides[1]:
            side = _fitted_side(fitted, columns, sides, cancel)
            if first.fit >= _NOTHING_FITS or detail.unlike(side) <= first.fit + _FITS_AS_WELL:
                best = min(best, with_side(side), key=_shown)
    return best


def _shown(found: _Axis) -> float:
    """How much a line shows, by the worst way of telling: over 1 it is looked for again."""
    return max(getattr(found.seen, name) / most for name, most in _SHOWS.model_dump().items())


def _axis(maps: Coded, asked: Asked, axis: int, side: int, fit: float, unit: int, wraps: bool, cancel: Cancel) -> _Axis:
    """The decision along columns for a tile of one side, whose copies are as unlike as ``fit``.

    ``unit`` is the tile's width, which sizes of detail are shares of, where this is not across.
    """
    (rows, columns), told = maps.shape, asked.sides[axis]
    wanted = round(side * (_FIT_OVERLAP if asked.overlap is None else asked.overlap))
    overlap = max(_LEAST_OVERLAP, min(columns - side, wanted, side))
    unit = side if axis == 0 else unit
    join = Join(
        side=told if asked.is_square and told is not None else side / columns,
        overlap=overlap / side,
        cut=Cut(rows=1, columns=1, runs=(1,)),
        rest="met",
        light=_light_ramp(maps.planes["color"], side, overlap, wraps) if "color" in maps.planes else (),
        level=_ramp(_apart(maps.planes["height"], side, overlap), None, wraps) if "height" in maps.planes else (),
    )
    evened = maps.each(lambda values, kind: levelled(values, join, kind, side))
    copies = evened.features()
    first, second = copies[:, :overlap], copies[:, side : side + overlap]
    avoid, bound = painted(asked.guide, axis, (rows, columns), side, overlap)
    cancel.check()
    cut = (quick_cut if asked.is_quick else graph_cut)(first, second, avoid, bound, wraps)
    alike = {kind: _alike(values, side, overlap, unit) for kind, values in evened.planes.items()}
    join = join.model_copy(update={"cut": Cut.of(cut), "alike": alike})
    tile = maps.each(lambda values, kind: one_axis(values, join, kind, unit, wraps, cancel=cancel))
    looked_at = next(iter(evened.planes))
    return _Axis(join, fit, _seen(evened.planes[looked_at], tile.planes[looked_at], cut, side), _back(tile, axis))


def _back(tile: Coded, axis: int) -> Coded:
    return tile.turned() if axis else tile


def _apart(values: np.ndarray, side: int, overlap: int) -> np.ndarray:
    """How much the second copy lies over the first."""
    return values[:, side : side + overlap] - values[:, :overlap]


def _light_ramp(color: FloatArray, side: int, overlap: int, wraps: bool) -> tuple[float, ...]:
    """How much brighter the second copy is, row by row, told by places of one hue: others are of another stuff."""
    apart = _apart(np.log(np.maximum(linear_from_srgb(color), np.float32(_DARKEST))), side, overlap)
    light = apart.mean(-1)
    return _ramp(light, np.square(apart - light[..., None]).mean(-1) < _ONE_HUE**2, wraps)


def _ramp(apart: np.ndarray, is_told: np.ndarray | None, wraps: bool) -> tuple[float, ...]:
    """How much the second copy lies over the first, row by row and smoothed along, by where ``is_told``.

    Medians, so that no large thing that is in one copy alone sways it; rows of which little is told go by their neighbors.
    """
    rows = len(apart)
    told = np.ones(apart.shape, bool) if is_told is None else is_told
    share = told.mean(1) + _NOTHING
    middles = np.ma.median(np.ma.masked_array(apart, ~told), axis=1).filled(0.0)
    along, mode = _RAMP_ALONG * rows, "wrap" if wraps else "nearest"
    middles = ndimage.median_filter(middles, 2 * round(along) + 1, mode=mode)
    smooth, weight = (ndimage.gaussian_filter1d(part, along, mode=mode) for part in (middles * share, share))
    smooth = smooth / weight * np.minimum(weight / _LEAST_TOLD, 1)
    kept = min(_RAMP_KEPT, rows)
    at = (np.arange(kept) + 0.5) / kept * rows - 0.5
    return tuple(round(float(v), 5) for v in np.interp(at, np.arange(rows), smooth))


def _alike(values: FloatArray, side: int, overlap: int, unit: int) -> tuple[float, ...]:
    """How the copies correlate, size by size of detail."""
    found, rest = [], values
    for sigma in sizes_of_detail(unit):
        broad = soft(rest, sigma)
        band = rest - broad
        first, second = band[:, :overlap], band[:, side : side + overlap]
        first, second = first - first.mean((0, 1)), second - second.mean((0, 1))
        spread = float(first.std() * second.std())
        found.append(round(float((first * second).mean()) / spread, 4) if spread > _NOTHING else 1.0)
        rest = broad
    return tuple(min(max(v, -1.0), 1.0) for v in found)


def _seen(picture: FloatArray, tile: FloatArray, cut: np.ndarray, side: int) -> Seen:
    """How much the line shows of the tile: what differs across it over what differs there within the two copies."""
    overlap = cut.shape[1]
    copies = [np.atleast_3d(picture)[:, at : at + overlap] for at in (0, side)]
    met = np.atleast_3d(tile)[:, :overlap]
    across, within, place = [], [], []
    for axis in (0, 1):
        is_line = np.diff(cut, axis=axis)
        rows = np.nonzero(is_line)[0]
        across.append(np.abs(np.diff(met, axis=axis)).mean(-1)[is_line])
        within.append(sum(np.abs(np.diff(copy, axis=axis)).mean(-1)[is_line] for copy in copies) / 2)
        place.append(rows)
    over, inside, at = (np.concatenate(part) for part in (across, within, place))
    return seen_of(over, inside, at // STRETCH)
