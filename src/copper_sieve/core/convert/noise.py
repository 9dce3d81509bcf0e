"""Noise that repeats without a seam and is the same at every size: grain, clouds, cells."""

from __future__ import annotations

from typing import Literal

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel, run_rows
from ..params import Params, choice, control
from ..raster import FloatArray, Size
from ..tiles import MAX_TILES, TILES_PER_ROW, place_of
from ..vectors import renormalized
from .blending import blend_normals

__all__ = ["AddedNoise", "leaning_with_noise", "noise_of", "with_noise"]

_OCTAVES = 4
_LEAST_CELLS = 1
# What brings each kind to a deviation of ¼ about its middle, found over many seeds at 1024².
_GRAIN, _CLOUD, _CELL = 1.16, 1.15, 1.32
# How many texels high noise of each kind is, for each that its grains lie apart, so that its slopes deviate by its amount.
_GRAIN_HIGH, _CLOUD_HIGH, _CELL_HIGH = 1.39, 0.72, 1.09
_FADES = 0.75  # texels a cell from which it is seen in part, and twice that in full: smaller ones would only flicker


class AddedNoise(Params):
    """Noise that is laid over a map."""

    kind: Literal["grain", "cloud", "cell"] = choice("cloud", "Kind", "What the noise looks like.", ["Grain", "Clouds", "Cells"])
    amount: float = control(0.03, "Amount", "%", 0, 0.5, "2 to 3 % is seen, 20 % is plainly too much.", example=0.2, scale=100)
    size: float = control(0.05, "Size", "% of width", 0.001, 1, "How far apart its grains, clouds or cells lie.", scale=100)
    way: Literal["add", "multiply", "overlay", "lighter", "darker"] = choice(
        "add", "Way", "How it meets the map.", ["Added about its middle", "Multiplied", "Overlaid", "Only lighter", "Only darker"]
    )
    is_over_tiles: bool = Field(
        default=False, title="On over the tiles", description="One noise that goes on from tile to tile, not the same in each."
    )
    seed: int = Field(default=1, ge=0, le=1 << 30, title="Seed", description="Another number is another noise of its kind.")


@numba.njit(nogil=True, cache=True)
def _hashed(x, y, seed):
    """A whole number for a lattice point, alike whatever the size."""
    h = np.uint32(
        np.uint32(x) * np.uint32(374761393) + np.uint32(y) * np.uint32(668265263) + np.uint32(seed) * np.uint32(2246822519)
    )
    h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(1274126177))
    h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(2246822519))
    return np.uint32(h ^ (h >> np.uint32(16)))


@numba.njit(nogil=True, cache=True)
def _unit(h):
    return np.float32(h) * np.float32(1.0 / 4294967296.0)


@numba.njit(nogil=True, cache=True)
def _smooth(t):
    return t * t * t * (t * (t * 6 - 15) + 10)


@numba.njit(nogil=True, cache=True)
def _sloped(cx, cy, fx, fy, period, seed):
    """A lattice point's slope taken to a place beside it (gradient noise)."""
    angle = _unit(_hashed(cx % period[0], cy % period[1], seed)) * np.float32(6.2831853)
    return np.cos(angle) * fx + np.sin(angle) * fy


@numba.njit(nogil=True, cache=True)
def _gradient(first, last, out, margin, cells, origin, period, seed, weight):
    rows, columns = out.shape[0] - 2 * margin, out.shape[1] - 2 * margin
    for y in range(first, last):
        v = (y - margin + 0.5) / rows * cells[1]
        cy = int(np.floor(v))
        fy = np.float32(v - cy)
        cy += origin[1]
        for x in range(out.shape[1]):
            u = (x - margin + 0.5) / columns * cells[0]
            cx = int(np.floor(u))
            fx = np.float32(u - cx)
            cx += origin[0]
            tx, ty = _smooth(fx), _smooth(fy)
            top = _sloped(cx, cy, fx, fy, period, seed)
            top += (_sloped(cx + 1, cy, fx - 1, fy, period, seed) - top) * tx
            low = _sloped(cx, cy + 1, fx, fy - 1, period, seed)
            low += (_sloped(cx + 1, cy + 1, fx - 1, fy - 1, period, seed) - low) * tx
            out[y, x] += weight * (top + (low - top) * ty)


@numba.njit(nogil=True, cache=True)
def _cells(first, last, out, margin, cells, origin, period, seed, weight):
    rows, columns = out.shape[0] - 2 * margin, out.shape[1] - 2 * margin
    for y in range(first, last):
        v = (y - margin + 0.5) / rows * cells[1]
        cy = int(np.floor(v))
        for x in range(out.shape[1]):
            u = (x - margin + 0.5) / columns * cells[0]
            cx = int(np.floor(u))
            nearest = np.float32(9)
            for j in range(cy - 1, cy + 2):
                for i in range(cx - 1, cx + 2):
                    column, row = (i + origin[0]) % period[0], (j + origin[1]) % period[1]
                    px = i + _unit(_hashed(column, row, seed)) - u
                    py = j + _unit(_hashed(column, row, seed + 7919)) - v
                    nearest = min(nearest, np.float32(px * px + py * py))
            out[y, x] += weight * (np.sqrt(nearest) - np.float32(0.43))


def noise_of(
    size: Size, noise: AddedNoise, seed: int = 0, *, tile: int | None = None, margin: int = 0, cancel: Cancel = NEVER
) -> FloatArray:
    """Noise (H, W) about 0 with a deviation of about ¼, which goes on past every border.

    ``seed`` is the set's, ``noise.seed`` the noise's own; ``tile`` is the UDIM number of the tile that it lies on, whose
    neighbors it goes on into where it is one noise over all. ``margin`` texels beyond ``size`` are given on every side.

    References
    ----------
    Gradient noise: Perlin 2002. Cells: Worley 1996.
    Examples
    --------
    >>> found = noise_of(Size(64, 64), AddedNoise(size=0.1))
    >>> bool(abs(found.mean()) < 0.1 < found.std() < 0.5)
    True
    """
    across = max(_LEAST_CELLS, round(1 / noise.size))
    down = max(_LEAST_CELLS, round(size.height / size.width / noise.size))
    out = np.zeros((size.height + 2 * margin, size.width + 2 * margin), np.float32)
    is_apart = tile is None or not noise.is_over_tiles
    column, row = (0, 0) if tile is None or is_apart else place_of(tile)
    mixed = (noise.seed * 1_000_003 + seed * 8191) & 0x7FFFFFFF
    octaves = _OCTAVES if noise.kind == "cloud" else 1
    for k in range(octaves):
        cells = (across << k, down << k)
        texels = min(size.width / cells[0], size.height / cells[1])
        seen = min(max(texels / _FADES - 1, 0.0), 1.0)
        if not seen:
            break
        origin = (column * cells[0], -row * cells[1])  # rows of tiles count upwards, rows of texels down
        period = cells if is_apart else (TILES_PER_ROW * cells[0], MAX_TILES // TILES_PER_ROW * cells[1])
        scale = {"grain": _GRAIN, "cloud": _CLOUD * 0.55**k * 0.85, "cell": _CELL}[noise.kind]
        kernel = _cells if noise.kind == "cell" else _gradient
        run_rows(kernel, *out.shape, cancel, out, margin, cells, origin, period, mixed + k, np.float32(scale * seen))
    return out


def with_noise(
    values: FloatArray, noise: AddedNoise, seed: int = 0, *, tile: int | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """A gray map (H, W) with noise on it, not limited to its range; ``seed`` and ``tile`` as for ``noise_of``.

    Examples
    --------
    >>> flat = np.full((32, 32), 0.5, np.float32)
    >>> round(float(with_noise(flat, AddedNoise(amount=0.04)).std()), 2)
    0.01
    """
    if not noise.amount:
        return values
    size = Size(values.shape[1], values.shape[0])
    found = noise_of(size, noise, seed, tile=tile, cancel=cancel) * np.float32(noise.amount)
    match noise.way:
        case "multiply":
            return values * (1 + 2 * found)
        case "overlay":
            other = np.float32(0.5) + found
            return np.where(values < 0.5, 2 * values * other, 1 - 2 * (1 - values) * (1 - other))
        case "lighter":
            return np.maximum(values, values + found)
        case "darker":
            return np.minimum(values, values + found)
        case _:
            return values + found


def leaning_with_noise(
    normal: FloatArray, noise: AddedNoise, seed: int = 0, *, tile: int | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Normals (H, W, 3) of a surface with noise on it: its slopes are added. They deviate by about ``amount``.

    Examples
    --------
    >>> flat = np.zeros((64, 64, 3), np.float32) + np.float32([0, 0, 1])
    >>> found = leaning_with_noise(flat, AddedNoise(amount=0.1, size=0.2))
    >>> bool(0.07 < (found[..., 0] / found[..., 2]).std() < 0.14)
    True
    """
    if not noise.amount:
        return normal
    rows, columns = normal.shape[:2]
    high = {"grain": _GRAIN_HIGH, "cloud": _CLOUD_HIGH, "cell": _CELL_HIGH}[noise.kind]
    height = noise_of(Size(columns, rows), noise, seed, tile=tile, margin=1, cancel=cancel)
    height *= np.float32(noise.amount * high * noise.size * columns)
    across = (height[1:-1, 2:] - height[1:-1, :-2]) / 2
    down = (height[2:, 1:-1] - height[:-2, 1:-1]) / 2
    detail = renormalized(np.stack([-across, down, np.ones_like(across)], -1))
    return blend_normals(normal, detail, way="summed", cancel=cancel)
