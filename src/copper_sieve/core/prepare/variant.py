"""Another picture of the same stuff: pieces of it in another order, or places blended so that tones stay as they are spread."""

from __future__ import annotations

from typing import Literal

import numba
import numpy as np
from pydantic import Field
from scipy import special

from ..bands import NEVER, Cancel, run_rows
from ..raster import FloatArray
from .decision import Kind
from .joining import coded, uncoded
from .pieces import Pieces, laid
from .step import Step

__all__ = ["Variant", "varied"]

_QUANTILES = 1025  # that a spread of tones is known by
_SAMPLES = 1 << 18  # texels that they are taken from
_SPREAD_APART = 1e-7  # tones that lie on each other are told apart by so much, so that each has one place
_SHARPNESS = 3  # power of the tent that a place fades by: higher leaves more of it whole
_LEAST_WEIGHT = 1e-9


class Variant(Step):
    """Make another picture of the same stuff, which repeats.

    With ``pieces``, these are cut where they look alike, and a pattern keeps its pattern. Without, places are blended into each
    other: for what is random and fine, as sand or clay; a pattern would be lost.
    """

    kind: Literal["variant"] = "variant"
    seed: int = Field(default=1, ge=1, le=1 << 30, description="Another number is another picture")
    cells: int = Field(default=4, ge=2, le=12, description="Places across that it is put together from")
    pieces: Pieces | None = Field(default=None, description="As they were decided for this seed; None: places are blended")


def varied(
    values: FloatArray,
    step: Variant,
    kind: Kind,
    *,
    wraps: tuple[bool, bool] = (False, False),
    cancel: Cancel = NEVER,
) -> FloatArray:
    """One map of a set as another picture of the same stuff; the same places for all maps of a set.

    Pieces are laid as they were decided, and repeat where the map does. Without them every cell of a grid shows another place of
    the map and fades into its neighbors, which repeats across and down.

    Parameters
    ----------
    values : (H, W) or (H, W, 3) float32; colors in linear light, normals as vectors
    wraps : whether the map repeats across and down; where it does not, no place that is blended reaches over its border
    References
    ----------
    Histogram-preserving blending: Heitz & Neyret 2018, on decorrelated channels.
    Examples
    --------
    >>> sand = np.random.default_rng(1).random((64, 64)).astype(np.float32)
    >>> other = varied(sand, Variant(seed=3), "scalar")
    >>> bool(abs(other.mean() - sand.mean()) < 0.02 and abs(other.std() - sand.std()) < 0.02 and (other != sand).any())
    True
    """
    if step.pieces is not None:
        return laid(values, step.pieces, kind, cancel=cancel)
    height, width = values.shape[:2]
    across = step.cells
    down = max(2, round(across * height / width))
    starts = _starts(step.seed, (down, across), (height, width), wraps)
    planes = np.ascontiguousarray(np.atleast_3d(coded(values, kind)), np.float32)
    out = np.empty_like(planes)
    if kind == "mask":
        run_rows(_blended, height, width, cancel, planes, starts, out, True)
        return out.reshape(values.shape)
    tones = _Tones(planes)
    run_rows(_blended, height, width, cancel, tones.gaussian(planes), starts, out, False)
    cancel.check()
    out = tones.back(out)
    return uncoded(np.ascontiguousarray(out[..., 0] if values.ndim == 2 else out), kind)


def _starts(seed: int, cells: tuple[int, int], shape: tuple[int, int], wraps: tuple[bool, bool]) -> np.ndarray:
    """Where the place that each cell shows begins, (rows, columns, 2) as y and x in texels; a place is two cells wide."""
    shares = np.random.Generator(np.random.PCG64(seed)).random((*cells, 2))
    room = [side if wrap else side - 2 * side / count for side, wrap, count in zip(shape, wraps[::-1], cells)]
    return np.floor(shares * np.maximum(room, 1)).astype(np.int64)


class _Tones:
    """How the tones of a map are spread, channel by channel once these are decorrelated, so that they are Gaussian meanwhile."""

    def __init__(self, planes: FloatArray):
        flat = planes.reshape(-1, planes.shape[-1])
        some = flat[:: max(1, len(flat) // _SAMPLES)].astype(np.float64)
        self._middle = some.mean(0)
        self._turn = np.linalg.eigh(np.atleast_2d(np.cov(some.T)))[1] if some.shape[1] > 1 else np.eye(1)
        turned = (some - self._middle) @ self._turn
        at = (np.arange(_QUANTILES) + 0.5) / _QUANTILES
        self._gauss = special.ndtri(at)
        self._tones = np.quantile(turned, at, axis=0) + np.arange(_QUANTILES)[:, None] * _SPREAD_APART

    def gaussian(self, planes: FloatArray) -> FloatArray:
        turned = (planes - self._middle.astype(np.float32)) @ self._turn.astype(np.float32)
        for k in range(turned.shape[-1]):
            turned[..., k] = np.interp(turned[..., k], self._tones[:, k], self._gauss)
        return np.ascontiguousarray(turned, np.float32)

    def back(self, planes: FloatArray) -> FloatArray:
        for k in range(planes.shape[-1]):
            planes[..., k] = np.interp(planes[..., k], self._gauss, self._tones[:, k])
        return (planes @ self._turn.T.astype(np.float32) + self._middle.astype(np.float32)).astype(np.float32)


@numba.njit(nogil=True, cache=True)
def _blended(first, last, values, starts, out, is_cut):
    rows, columns, channels = values.shape
    down, across = starts.shape[:2]
    for y in range(first, last):
        v = (y + 0.5) * down / rows
        cy = int(np.floor(v))
        fy = v - cy
        for x in range(columns):
            u = (x + 0.5) * across / columns
            cx = int(np.floor(u))
            fx = u - cx
            power = 0.0
            best = -1.0
            for k in range(channels):
                out[y, x, k] = 0.0
            for j in range(2):
                for i in range(2):
                    # the place of cell (cy + j, cx + i) reaches one cell to either side of the cell's corner
                    cell_y, cell_x = (cy + j) % down, (cx + i) % across
                    weight = ((1 - fx if i == 0 else fx) * (1 - fy if j == 0 else fy)) ** _SHARPNESS
                    here_y = y - int(np.floor((cy + j - 1) * rows / down))
                    here_x = x - int(np.floor((cx + i - 1) * columns / across))
                    from_y = (starts[cell_y, cell_x, 0] + here_y) % rows
                    from_x = (starts[cell_y, cell_x, 1] + here_x) % columns
                    if is_cut:
                        if weight > best:
                            best = weight
                            for k in range(channels):
                                out[y, x, k] = values[from_y, from_x, k]
                    else:
                        power += weight * weight
                        for k in range(channels):
                            out[y, x, k] += np.float32(weight) * values[from_y, from_x, k]
            if not is_cut:
                scale = np.float32(1.0 / np.sqrt(max(power, _LEAST_WEIGHT)))
                for k in range(channels):
                    out[y, x, k] *= scale
