"""Linear filters that honor the edges: a spectrum for wide ones, difference stencils for slopes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal

import cv2
import numba
import numpy as np
from numpy.typing import NDArray
from scipy import fft

from .bands import CORES, NEVER, RELAXED, run_rows
from .raster import Edge, Edges, FloatArray, Sampling, Size, edges_of, floats

__all__ = [
    "STENCILS",
    "Spectrum",
    "StencilName",
    "blur_transfer",
    "gaussian",
    "gaussian_reach",
    "guided",
    "padded",
    "resize",
    "spectrum",
]

StencilName = Literal["central", "sobel3", "scharr3", "scharr5"]


@dataclass(frozen=True)
class Stencil:
    """A separable difference: derivative taps across, smoothing taps along. Slopes come out per texel."""

    title: str
    derivative: Sequence[float]
    smooth: Sequence[float]


STENCILS = MappingProxyType(
    {
        "central": Stencil("Central difference", (-0.5, 0, 0.5), (0, 1, 0)),
        "sobel3": Stencil("Sobel 3×3", (-0.5, 0, 0.5), (0.25, 0.5, 0.25)),
        "scharr3": Stencil("Scharr 3×3", (-0.5, 0, 0.5), (3 / 16, 10 / 16, 3 / 16)),
        # Scharr 2000, optimal 5-tap pair; the printed taps have four digits, so both are scaled to sum exactly
        "scharr5": Stencil(
            "Scharr 5×5",
            (-21.27 / 256, -85.46 / 256, 0, 85.46 / 256, 21.27 / 256),
            (5.96 / 256, 61.81 / 256, 120.46 / 256, 61.81 / 256, 5.96 / 256),
        ),
    }
)

_LARGE = 1 << 20  # texels: under it a size with a large prime costs nothing to speak of
_GROWN_AT_MOST = 0.1
_NARROWEST = 1.5  # texels: a narrower one is cut off in frequency
_NOTHING_LEFT = 6  # standard deviations from where a Gaussian is 1e-8
_BORDER = {"wrap": cv2.BORDER_WRAP, "mirror": cv2.BORDER_REFLECT}


def padded(values: NDArray[Any], x: int, y: int, edges: Edges | Edge) -> FloatArray:
    """Grow (H, W[, C]) by ``x`` columns and ``y`` rows on each side as the edges say; any amount."""
    edges = edges_of(edges)
    if edges.x == edges.y:
        return floats(cv2.copyMakeBorder(values, y, y, x, x, _BORDER[edges.x]))
    wide = cv2.copyMakeBorder(values, 0, 0, x, x, _BORDER[edges.x])
    return floats(cv2.copyMakeBorder(wide, y, y, 0, 0, _BORDER[edges.y]))


@dataclass(frozen=True)
class Spectrum:
    """Frequencies of a gray map: Fourier along wrapping axes, cosine (DCT-II) along mirrored ones.

    So a filter that is even in frequency acts on the map as its edges continue it, without padding.
    """

    values: np.ndarray
    size: Size
    edges: Edges

    def frequencies(self) -> tuple[np.ndarray, np.ndarray]:
        """Frequencies per axis in cycles per *width of the map*, shapes (columns,) and (rows,)."""
        width, height, unit = self.size.width, self.size.height, self.edges.width(self.size.width)
        fx = fft.rfftfreq(width) if self.edges.x == "wrap" else np.arange(width) / (2 * width)
        if self.edges.y == "mirror":
            fy = np.arange(height) / (2 * height)
        else:  # the half axis of the real transform is x when x wraps, else y
            fy = fft.fftfreq(height) if self.edges.x == "wrap" else fft.rfftfreq(height)
        return fx * unit, fy * unit

    def filtered(self, transfer: np.ndarray) -> FloatArray:
        """Return the map whose frequencies are multiplied by ``transfer``, shape (rows, columns)."""
        return _back(self.values * transfer, self.size, self.edges)


def spectrum(values: FloatArray, edges: Edges | Edge) -> Spectrum:
    """Transform a (H, W) float32 map."""
    edges = edges_of(edges)
    height, width = values.shape
    match edges.x, edges.y:
        case "wrap", "wrap":
            transformed = fft.rfft2(values, workers=CORES)
        case "mirror", "mirror":
            transformed = fft.dctn(values, type=2, workers=CORES)
        case "wrap", _:
            transformed = fft.rfft(fft.dct(values, type=2, axis=0, workers=CORES), axis=1, workers=CORES)
        case _:
            transformed = fft.rfft(fft.dct(values, type=2, axis=1, workers=CORES), axis=0, workers=CORES)
    return Spectrum(np.asarray(transformed), Size(width, height), edges)


def _back(values: np.ndarray, size: Size, edges: Edges) -> FloatArray:
    """The map of the values of a spectrum, which are used up."""
    match edges.x, edges.y:
        case "wrap", "wrap":
            return np.asarray(fft.irfft2(values, s=(size.height, size.width), workers=CORES, overwrite_x=True))
        case "mirror", "mirror":
            return np.asarray(fft.idctn(values, type=2, workers=CORES, overwrite_x=True))
        case "wrap", _:
            rows = fft.irfft(values, n=size.width, axis=1, workers=CORES)
            return np.asarray(fft.idct(rows, type=2, axis=0, workers=CORES))
        case _:
            columns = fft.irfft(values, n=size.height, axis=0, workers=CORES)
            return np.asarray(fft.idct(columns, type=2, axis=1, workers=CORES))


def gaussian_transfer(frequency: np.ndarray, sigma: float) -> np.ndarray:
    """Fourier transform of a Gaussian of standard deviation ``sigma``, in the reciprocal unit of ``frequency``."""
    return np.exp(-2 * (np.pi * sigma * frequency) ** 2)


def blur_transfer(frequencies: tuple[np.ndarray, np.ndarray], sigma: float) -> FloatArray:
    """``gaussian_transfer`` over both axes, shape (rows, columns).

    Examples
    --------
    >>> blur_transfer((np.zeros(3), np.zeros(2)), 0.1)
    array([[1., 1., 1.],
           [1., 1., 1.]], dtype=float32)
    """
    across, along = (gaussian_transfer(frequency, sigma) for frequency in frequencies)
    both = np.empty((along.size, across.size), np.float32)
    return np.multiply(along[:, None], across, out=both, casting="same_kind")


def gaussian_reach(texels: float) -> int | None:
    """How far a Gaussian of a standard deviation in texels reaches; None where it is so narrow that it rings all over the map.

    Examples
    --------
    >>> gaussian_reach(2.0), gaussian_reach(0.5)
    (12, None)
    """
    return math.ceil(_NOTHING_LEFT * texels) if texels >= _NARROWEST else None


def _spare(count: int, reach: int) -> int:
    """Texels to grow an axis by on each side so that it transforms fast; 0 where it does, or where that takes too many.

    Examples
    --------
    >>> _spare(2048, 9), _spare(2039, 9), _spare(2039, 900)
    (0, 20, 0)
    """
    if fft.next_fast_len(count) == count:
        return 0
    most = int((1 + _GROWN_AT_MOST) * count)
    sizes = range(count + 2 * reach, most, 2)
    fast = next((size for size in sizes if fft.next_fast_len(size) == size), count)
    return (fast - count) // 2


def gaussian(values: FloatArray, sigma: float, edges: Edges | Edge) -> FloatArray:
    """Blur (H, W) by a Gaussian; ``sigma`` is a share of the map's width."""
    if sigma <= 0:
        return values
    edges, (height, width) = edges_of(edges), values.shape
    reach = gaussian_reach(sigma * edges.width(width)) if values.size >= _LARGE else None
    x, y = (0, 0) if reach is None else (_spare(width, reach), _spare(height, reach))
    if x or y:
        grown = padded(values, x, y, edges)
        around = Edges(x="wrap" if x else edges.x, y="wrap" if y else edges.y)  # whatever comes after what was grown is too far
        share = sigma * edges.width(width) / grown.shape[1]
        return np.ascontiguousarray(gaussian(grown, share, around)[y : y + height, x : x + width])
    spread = spectrum(values, edges)
    spread.values[...] *= blur_transfer(spread.frequencies(), sigma)
    return _back(spread.values, spread.size, spread.edges)


def _box(values: FloatArray, radius: int, edges: Edges) -> FloatArray:
    grown = padded(values, radius, radius, edges)
    mean = cv2.boxFilter(grown, -1, (2 * radius + 1, 2 * radius + 1), borderType=cv2.BORDER_REPLICATE)
    return floats(mean[radius:-radius, radius:-radius])


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _fit_lines(first, last, mean, mean_square, tolerance):
    """Leaves the bias in place of the mean, and the gain in place of the mean square."""
    for row in range(first, last):
        for i in range(mean.shape[1]):
            m = mean[row, i]
            variance = max(mean_square[row, i] - m * m, np.float32(0))
            g = variance / (variance + tolerance)
            mean_square[row, i] = g
            mean[row, i] = m - g * m


def guided(values: FloatArray, radius: float, tolerance: float, edges: Edges | Edge) -> FloatArray:
    """Smooth (H, W) but keep edges: the self-guided filter of He, Sun & Tang 2010.

    ``radius`` is a share of the width; differences well under ``tolerance`` (map units) are smoothed away.
    """
    edges = edges_of(edges)
    texels = min(round(radius * edges.width(values.shape[1])), *values.shape)
    if texels < 1:
        return values
    bias, gain = _box(values, texels, edges), _box(values * values, texels, edges)
    run_rows(_fit_lines, *values.shape, NEVER, bias, gain, np.float32(tolerance * tolerance))
    smooth = cv2.multiply(_box(gain, texels, edges), values)
    return floats(cv2.add(smooth, _box(bias, texels, edges), dst=smooth))


def resize(values: FloatArray, size: Size, edges: Edges | Edge, sampling: Sampling = "smooth") -> FloatArray:
    """Resize a master: averaged over area when it shrinks, linear when it grows. Normals need a unit length after.

    ``nearest`` takes the texel under each new center instead, for pixel art.
    """
    height, width = values.shape[:2]
    if (width, height) == (size.width, size.height):
        return values
    if sampling == "nearest":
        return floats(cv2.resize(values, (size.width, size.height), interpolation=cv2.INTER_NEAREST_EXACT))
    if size.width <= width and size.height <= height:
        return floats(cv2.resize(values, (size.width, size.height), interpolation=cv2.INTER_AREA))
    margin = 2  # texels around, so that linear interpolation at the border sees what the edges say
    grown = padded(values, margin, margin, edges)
    step_x, step_y = width / size.width, height / size.height
    x = ((np.arange(size.width) + 0.5) * step_x - 0.5 + margin).astype(np.float32)
    y = ((np.arange(size.height) + 0.5) * step_y - 0.5 + margin).astype(np.float32)
    return floats(cv2.remap(grown, *np.meshgrid(x, y), interpolation=cv2.INTER_LINEAR))
