"""Deciding which pieces of a picture that repeats make another one: where each comes from, and where it is cut."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from scipy import fft, ndimage

from ..bands import CORES, NEVER, Cancel
from ..errors import RecipeInvalid
from ..raster import FloatArray, floats
from .coded_maps import Coded
from .cutting import cheapest_cut
from .decision import Kind, Seen
from .joining import coded
from .pieces import MOST_PLACES, Pieces, laid
from .seams import STRETCH, seen_of

__all__ = ["pieced"]

_REACH, _CORE = 0.85, 0.3  # of a cell, from its middle: how far a piece reaches at most, and what is surely its own
_JITTER = 0.15  # of a cell
_NEW = 0.1  # of the width: a place is another one from so far
_NEAR = 0.04  # of the width: places nearer than that are one choice
_CHOICE, _WORSE = 6, 1.15  # so many places that fit best, none much worse, of which the seed takes one
_USED = 0.3  # how much worse a place fits that is shown already, so that what is rare does not vanish
_AGAIN = 0.15  # how much worse than usual the best new place has to fit for one to be taken that is shown next to it already
_SEARCHED_PX = 256
_REFINED = 3  # texels to either side of a cut that was found at half the size
_LEAST_SIDE = 64
_SIZES = 3  # of detail that borders are softer for, the broader they are
_PLAIN = 0.004  # spread of a picture that is one color
_OTHER, _OWN = 1, 2  # what is bound of a box: to what lies there, and to the piece


def pieced(maps: Mapping[Kind, FloatArray], seed: int, cells: int, *, cancel: Cancel = NEVER) -> Pieces:
    """Decide which pieces of a picture that repeats make another one.

    Piece after piece is laid over what is there, one for each cell of a grid: from a place that fits around the cell, and cut
    where both look alike. A pattern keeps its pattern, since what fits is a whole number of its repeats on.

    Parameters
    ----------
    maps : what is decided by, all of one size, which repeat across and down, best with the longer side at ``DECIDED_PX``
    seed : another number is another picture
    cells : pieces across
    Raises
    ------
    RecipeInvalid : the picture is one color or too small
    References
    ----------
    Patches by graph cut: Kwatra et al. 2003; places by fast Fourier transform: Soler et al. 2002.
    Examples
    --------
    >>> sand = np.random.default_rng(1).random((64, 64, 3)).astype(np.float32)
    >>> found = pieced({"color": sand}, 1, 2)
    >>> len(found.places) > 2, found == pieced({"color": sand}, 1, 2)
    (True, True)
    """
    stage = Coded({kind: coded(values, kind) for kind, values in maps.items()})
    _refuse(stage)
    features = stage.features()
    rows, columns = features.shape[:2]
    counts = _cells(cells, (rows, columns))
    rng = np.random.Generator(np.random.PCG64(seed))
    search, canvas, unlike = _Search.of(features), _Canvas.of(features), list[float]()
    for cell in rng.permutation(counts[0] * counts[1]).tolist():
        cancel.check()
        middle = np.add(divmod(cell, counts[1]), 0.5 + rng.uniform(-_JITTER, _JITTER, 2)) / counts
        box = _Box.round(middle, counts, (rows, columns))
        place, error = search.place(canvas, box, float(np.median(unlike)) if unlike else np.inf, rng)
        if place not in canvas.places:
            unlike.append(error)
        canvas.lay(box, place)
    kept, shown = np.unique(canvas.shown, return_inverse=True)
    starts = np.concatenate([[0], np.flatnonzero(np.diff(shown.ravel())) + 1])
    made = Pieces(
        rows=rows,
        columns=columns,
        runs=tuple(np.diff(starts, append=shown.size).tolist()),
        show=tuple(shown.ravel()[starts].tolist()),
        places=tuple((canvas.places[k][1] / columns, canvas.places[k][0] / rows) for k in kept),
        alike=round(min(max(1 - float(np.mean(unlike)), 0.0), 1.0), 4),
        sizes=_SIZES,
        seen=Seen(mean=1, most=1, worst=1),
    )
    return made.model_copy(update={"seen": _seen(maps, made)})


def _cells(across: int, shape: tuple[int, int]) -> tuple[int, int]:
    """Cells down and across, about as high as wide."""
    most = MOST_PLACES - 1
    return min(max(2, round(across * shape[0] / shape[1])), most // across), across


def _refuse(maps: Coded) -> None:
    rows, columns = maps.shape
    if min(rows, columns) < _LEAST_SIDE:
        raise RecipeInvalid(f"{columns} × {rows} px are too few for pieces: {_LEAST_SIDE} px each way are the least.")
    if max(float(values.std((0, 1)).max()) for values in maps.planes.values()) < _PLAIN:
        raise RecipeInvalid("the picture is one color, so every piece of it looks the same.")


@dataclass(frozen=True)
class _Box:
    """Where a piece may lie: rows and columns of a map that goes on past its borders, and what of them is bound."""

    rows: np.ndarray
    columns: np.ndarray
    bound: np.ndarray
    shape: tuple[int, int]

    @classmethod
    def round(cls, middle: np.ndarray, counts: tuple[int, int], shape: tuple[int, int]) -> _Box:
        spans, away = [], []
        for at, count, side in zip(middle, counts, shape):
            half = min(_REACH / count, 0.5) * side
            span = np.arange(int(at * side - half), int(at * side + half))
            away.append(np.abs(span + 0.5 - at * side) / (side / count))
            spans.append(span % side)
        bound = np.where(np.maximum(away[0][:, None], away[1]) < _CORE, _OWN, 0)
        bound[[0, -1]] = bound[:, [0, -1]] = _OTHER
        return cls(spans[0], spans[1], bound, shape)

    def at(self, on: tuple[int, int] = (0, 0)) -> tuple[np.ndarray, ...]:
        """As an index, moved ``on`` by rows and columns."""
        return np.ix_((self.rows + on[0]) % self.shape[0], (self.columns + on[1]) % self.shape[1])


@dataclass
class _Canvas:
    """What is laid so far: which place each texel shows, what is seen there, and how often each texel of the picture is shown."""

    features: FloatArray
    shown: np.ndarray
    now: FloatArray
    used: FloatArray
    places: list[tuple[int, int]]

    @classmethod
    def of(cls, features: FloatArray) -> _Canvas:
        shape = features.shape[:2]
        return cls(features, np.zeros(shape, np.uint8), features.copy(), np.zeros(shape, np.float32), [(0, 0)])

    def lay(self, box: _Box, place: tuple[int, int]) -> None:
        here, there = box.at(), box.at(place)
        other = self.features[there]
        cut = _cut(self.now[here], other, box.bound)
        shown, now = self.shown[here], self.now[here]
        for old in np.unique(shown[cut]):
            if old:
                self.used[box.at(self.places[old])] -= cut & (shown == old)
        self.used[there] += cut
        shown[cut], now[cut] = len(self.places), other[cut]
        self.shown[here], self.now[here] = shown, now
        self.places.append(place)


def _cut(first: FloatArray, second: FloatArray, bound: np.ndarray) -> np.ndarray:
    """The cheapest cut, found at half the size and then anew along it."""
    rows, columns = bound.shape
    half = (max(rows // 2, 1), max(columns // 2, 1))
    few = cv2.resize(bound.astype(np.uint8), half[::-1], interpolation=cv2.INTER_NEAREST).astype(int)
    few[[0, -1]] = few[:, [0, -1]] = _OTHER
    rough = cheapest_cut(_smaller(first, half), _smaller(second, half), few)
    rough = cv2.resize(rough.astype(np.uint8), (columns, rows), interpolation=cv2.INTER_NEAREST) > 0
    own = ndimage.binary_erosion(rough, iterations=_REFINED)
    near = ndimage.binary_dilation(rough, iterations=_REFINED)
    return cheapest_cut(first, second, np.where(bound, bound, np.where(own, _OWN, np.where(near, 0, _OTHER))))


def _smaller(planes: FloatArray, shape: tuple[int, int]) -> FloatArray:
    each = (np.ascontiguousarray(plane) for plane in np.moveaxis(planes, -1, 0))
    return np.stack([floats(cv2.resize(plane, shape[::-1], interpolation=cv2.INTER_AREA)) for plane in each], -1)


def _spectrum(planes: FloatArray) -> np.ndarray:
    return np.asarray(fft.rfft2(planes, axes=(0, 1), workers=CORES))


def _back(spectrum: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    return np.asarray(fft.irfft2(spectrum, shape))


@dataclass(frozen=True)
class _Search:
    """The picture as places are looked for: smaller, its spectra, and its variance."""

    features: FloatArray
    shape: tuple[int, int]
    spectra: np.ndarray
    squares: np.ndarray
    variance: float

    @classmethod
    def of(cls, features: FloatArray) -> _Search:
        times = max(1, round(max(features.shape[:2]) / _SEARCHED_PX))
        shape = (features.shape[0] // times, features.shape[1] // times)
        small = _smaller(features, shape)
        spectra = _spectrum(small)
        squares = _spectrum(np.square(small).sum(-1))
        return cls(
            features,
            shape,
            spectra,
            squares,
            max(float(features.var((0, 1)).sum()), 1e-9),
        )

    def place(self, canvas: _Canvas, box: _Box, usual: float, rng: np.random.Generator) -> tuple[tuple[int, int], float]:
        """A place that fits around a box, as rows and columns on, and how unlike it is: 0 equal, 1 as any two places.

        What is shown there already fits best of all, and makes nothing new: it is taken where all else fits much worse than is
        ``usual``, so that a pattern is not broken.
        """
        unlike = self._unlike(canvas, box)
        cost = unlike + _USED * self._used(canvas, box)
        again = np.zeros(self.shape, bool)
        for number in np.unique(canvas.shown[box.at()]):
            again |= self._is_near(canvas.places[number], _NEW)
        cost[again] += usual + _AGAIN
        down, across = (side / small for side, small in zip(box.shape, self.shape))
        found: list[tuple[float, float, tuple[int, int]]] = []
        while len(found) < _CHOICE:
            y, x = np.unravel_index(int(np.argmin(cost)), self.shape)
            if found and cost[y, x] > found[0][0] * _WORSE:
                break
            found.append((float(cost[y, x]), float(unlike[y, x]), (round(y * down), round(x * across))))
            cost[self._is_near(found[-1][2], _NEAR)] = np.inf
        _, error, place = found[int(rng.integers(len(found)))]
        return self._to_the_texel(canvas, box, place), error

    def _unlike(self, canvas: _Canvas, box: _Box) -> np.ndarray:
        ring = np.zeros(box.shape, np.float32)
        ring[box.at()] = box.bound == 0
        ring, now = _smaller(ring[..., None], self.shape), _smaller(canvas.now, self.shape)
        mask = np.conj(_spectrum(ring[..., 0]))
        masked = np.conj(_spectrum(now * ring))
        apart = _back(mask * self.squares - 2 * (masked * self.spectra).sum(-1), self.shape)
        apart += float((np.square(now) * ring).sum())
        return apart / (max(float(ring.sum()), 1.0) * 2 * self.variance)

    def _used(self, canvas: _Canvas, box: _Box) -> np.ndarray:
        """How often what a piece shows for sure is shown already, on average."""
        core = np.zeros(box.shape, np.float32)
        core[box.at()] = box.bound == _OWN
        core, used = (_smaller(plane[..., None], self.shape)[..., 0] for plane in (core, canvas.used))
        times = _back(np.conj(_spectrum(core)) * _spectrum(used), self.shape)
        return times / max(float(core.sum()), 1.0)

    def _is_near(self, place: tuple[int, int], share: float) -> np.ndarray:
        """Which places lie nearer to one than a share of the width."""
        away = []
        for one, small, side in zip(place, self.shape, self.features.shape):
            away.append((np.arange(small) - one * small / side + small / 2) % small - small / 2)
        return np.hypot(away[0][:, None], away[1]) < share * self.shape[1]

    def _to_the_texel(self, canvas: _Canvas, box: _Box, place: tuple[int, int]) -> tuple[int, int]:
        now, free = canvas.now[box.at()], box.bound == 0
        reach = round(box.shape[1] / self.shape[1])
        near = [(place[0] + y, place[1] + x) for y in range(-reach + 1, reach) for x in range(-reach + 1, reach)]
        best = min(near, key=lambda one: float(np.square(now - self.features[box.at(one)])[free].sum()))
        return best[0] % box.shape[0], best[1] % box.shape[1]


def _seen(maps: Mapping[Kind, FloatArray], pieces: Pieces) -> Seen:
    """How much the borders of pieces show."""
    kind, values = next(iter(maps.items()))
    picture, made = (np.atleast_3d(coded(plane, kind)) for plane in (values, laid(values, pieces, kind)))
    shown, (rows, columns) = pieces.shown, (pieces.rows, pieces.columns)
    on = np.round(np.array(pieces.places)[:, ::-1] * (rows, columns)).astype(int)
    across, within, stretch = [], [], []
    for axis in (0, 1):
        y, x = np.nonzero(shown != np.roll(shown, -1, axis))
        step = (1, 0) if axis == 0 else (0, 1)
        there = ((y + step[0]) % rows, (x + step[1]) % columns)
        across.append(np.abs(made[y, x] - made[there]).mean(-1))
        copies = (on[shown[y, x]], on[shown[there]])
        within.append(sum(_step_in(picture, y + copy[:, 0], x + copy[:, 1], step) for copy in copies) / 2)
        stretch.append((y // STRETCH) * (columns // STRETCH + 1) + x // STRETCH)
    return seen_of(*(np.concatenate(part) for part in (across, within, stretch)))


def _step_in(picture: FloatArray, y: np.ndarray, x: np.ndarray, step: Sequence[int]) -> np.ndarray:
    rows, columns = picture.shape[:2]
    here, there = picture[y % rows, x % columns], picture[(y + step[0]) % rows, (x + step[1]) % columns]
    return np.abs(here - there).mean(-1)
