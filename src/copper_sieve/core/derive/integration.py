"""Height from normal: the surface whose slopes come nearest to those of the normals, in one solve over all frequencies."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import Field
from scipy import fft

from ..bands import CORES, NEVER, Cancel
from ..filters import STENCILS, StencilName
from ..operation import Operation, Part, master
from ..params import Params
from ..raster import Edge, Edges, FloatArray, Gray, Joined, Vectors, as_rgb, edges_of
from ..vectors import renormalized

__all__ = [
    "OPERATIONS",
    "HeightFromNormal",
    "IntegratedHeight",
    "SlopeSpectra",
    "height_from_normal",
    "height_from_slopes",
    "slope_spectra",
]

Response = Callable[[np.ndarray], np.ndarray]  # of a filter, by radians per texel
_DEAD = 1e-6  # |T|² over |ω|² under which a difference filter is blind to a frequency
_LEVEL = 1e-12  # a surface whose highest point is no more above its lowest is level
_STEEPEST = 0.02  # z below which a slope is no longer trusted


class HeightFromNormal(Params):
    """How the slopes were taken."""

    filter: StencilName = Field(
        default="central",
        title="Filter",
        description="The difference that the normals were made with; central is right for most.",
        json_schema_extra={"titles": [stencil.title for stencil in STENCILS.values()]},
    )
    level: bool = Field(
        default=True, title="Level", description="Take out an overall tilt, which 8-bit files have for no reason but rounding."
    )


@dataclass(frozen=True)
class IntegratedHeight:
    """``height`` (H, W) float32 from 0 to 1, and the ``rise`` that this spans as a share of the width. Unpacks in that order."""

    height: Gray
    rise: float

    def __iter__(self) -> Iterator[FloatArray | float]:
        return iter((self.height, self.rise))


@dataclass(frozen=True)
class SlopeSpectra:
    """Slopes p (to the right) and q (downwards) of a surface of ``shape``, transformed as their ``edges`` ask."""

    p: np.ndarray
    q: np.ndarray
    edges: Edges
    shape: tuple[int, int]


def height_from_normal(
    normal: Vectors,
    edges: Edges | Edge = "wrap",
    *,
    params: HeightFromNormal | None = None,
    cancel: Cancel = NEVER,
) -> IntegratedHeight:
    """Integrate normals.

    Convention: Y+ vectors, any length; p = −nx/nz, q = ny/nz per texel, rows growing downwards. Wrapping axes have no mean slope.

    Parameters
    ----------
    normal : (H, W, 3) float32
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    References
    ----------
    Frankot & Chellappa 1988, with the transfer function T of the difference filter in place of the frequency:
    H = (T̄x·P + T̄y·Q) / (|Tx|² + |Ty|²). Mirrored axes: half-sample symmetric, DST-II for the slope along the axis, DCT-II else.
    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (4, 4, 3))
    >>> height, rise = height_from_normal(flat)
    >>> float(height[0, 0]), rise
    (0.5, 0.0)
    """
    params = params or HeightFromNormal()
    spectra = slope_spectra(normal, edges, level=params.level)
    cancel.check()
    return height_from_slopes(spectra, params, cancel=cancel)


def slope_spectra(normal: Vectors, edges: Edges | Edge, *, level: bool) -> SlopeSpectra:
    """What of an integration stays when the filter changes: slopes of (H, W, 3) normals, without their mean where ``level``.

    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> slope_spectra(flat, "wrap", level=True).shape
    (8, 8)
    """
    edges, unit = edges_of(edges), renormalized(as_rgb(normal, "normal"))
    z = np.maximum(unit[..., 2], _STEEPEST).astype(np.float64)
    p, q = -unit[..., 0] / z, unit[..., 1] / z
    if level:
        p, q = p - p.mean(), q - q.mean()
    return SlopeSpectra(_forward(p, edges, slope_along=1), _forward(q, edges, slope_along=0), edges, (p.shape[0], p.shape[1]))


def height_from_slopes(spectra: SlopeSpectra, params: HeightFromNormal, *, cancel: Cancel = NEVER) -> IntegratedHeight:
    """The surface nearest to these slopes, as the filter of ``params`` would have taken them.

    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> surface = height_from_slopes(slope_spectra(flat, "wrap", level=True), HeightFromNormal())
    >>> surface.height.max(), surface.rise
    (np.float32(0.5), 0.0)
    """
    surface = _solve(spectra, params.filter)
    cancel.check()
    low, high = _extent(surface)
    return IntegratedHeight(_scaled(surface, (low, high)), (high - low) / surface.shape[1] if high - low >= _LEVEL else 0.0)


def _extent(surface: np.ndarray) -> tuple[float, float]:
    return float(surface.min()), float(surface.max())


def _scaled(surface: np.ndarray, extent: tuple[float, float]) -> FloatArray:
    """A surface from 0 at the lowest to 1 at the highest; ½ everywhere where it is level."""
    low, high = extent
    if high - low < _LEVEL:
        return np.full(surface.shape, 0.5, np.float32)
    return ((surface - low) / (high - low)).astype(np.float32)


def _solve(slopes: SlopeSpectra, stencil: StencilName) -> np.ndarray:
    (rows, columns), edges = slopes.shape, slopes.edges
    halved = _wrapping(edges)[-1] if _wrapping(edges) else None  # the axis of which a real transform keeps one half
    omega_x, omega_y = _frequencies(columns, edges.x, halved == 1), _frequencies(rows, edges.y, halved == 0)
    along, beside = _transfer(stencil)
    tx, ty = (along(omega_x), beside(omega_x)), (along(omega_y), beside(omega_y))
    square = np.outer(ty[1] ** 2, tx[0] ** 2) + np.outer(ty[0] ** 2, tx[1] ** 2)
    alive = square > _DEAD * (omega_y[:, None] ** 2 + omega_x[None, :] ** 2)
    inverse = np.where(alive, 1 / np.where(alive, square, 1), 0)
    # of a wrapping axis the slope's factor is i·T, of a mirrored one −T between sine and cosine
    spectrum = slopes.p * (np.outer(ty[1], tx[0]) * (-1j if edges.x == "wrap" else -1))
    spectrum = spectrum + slopes.q * (np.outer(ty[0], tx[1]) * (-1j if edges.y == "wrap" else -1))
    return _backward(spectrum * inverse, edges, (rows, columns))


def _wrapping(edges: Edges) -> list[int]:
    return [axis for axis, edge in ((0, edges.y), (1, edges.x)) if edge == "wrap"]


def _frequencies(count: int, edge: Edge, is_halved: bool) -> np.ndarray:
    """Radians per texel: those of a Fourier transform, of the half of one, or of a cosine transform."""
    if edge == "mirror":
        return np.pi * np.arange(count) / count
    return 2 * np.pi * (fft.rfftfreq(count) if is_halved else fft.fftfreq(count))


def _transfer(name: StencilName) -> tuple[Response, Response]:
    """The filter's response along the slope (an odd sum of sines) and beside it (an even sum of cosines)."""
    stencil = STENCILS[name]
    middle = len(stencil.derivative) // 2
    steps = np.arange(1, middle + 1)
    odd, even = (np.array(taps[middle + 1 :]) for taps in (stencil.derivative, stencil.smooth))

    def along(omega: np.ndarray) -> np.ndarray:
        return np.sin(np.outer(omega, steps)) @ (2 * odd)

    def beside(omega: np.ndarray) -> np.ndarray:
        return stencil.smooth[middle] + np.cos(np.outer(omega, steps)) @ (2 * even)

    return along, beside


def _forward(slope: np.ndarray, edges: Edges, *, slope_along: int) -> np.ndarray:
    for axis, edge in ((0, edges.y), (1, edges.x)):
        if edge == "mirror" and axis == slope_along:
            sines = np.asarray(fft.dst(slope, type=2, norm="ortho", axis=axis, workers=CORES))
            slope = np.roll(sines, 1, axis)  # the k-th sine belongs to the k-th cosine, and sines begin at 1
            slope[(slice(None), 0) if axis == 1 else (0, slice(None))] = 0
        elif edge == "mirror":
            slope = np.asarray(fft.dct(slope, type=2, norm="ortho", axis=axis, workers=CORES))
    wrapping = _wrapping(edges)
    return np.asarray(fft.rfftn(slope, axes=wrapping, workers=CORES)) if wrapping else slope


def _backward(spectrum: np.ndarray, edges: Edges, shape: tuple[int, int]) -> np.ndarray:
    wrapping = _wrapping(edges)
    if wrapping:
        spectrum = np.asarray(fft.irfftn(spectrum, s=[shape[axis] for axis in wrapping], axes=wrapping, workers=CORES))
    for axis, edge in ((0, edges.y), (1, edges.x)):
        if edge == "mirror":
            spectrum = np.asarray(fft.idct(spectrum, type=2, norm="ortho", axis=axis, workers=CORES))
    return np.ascontiguousarray(spectrum)


def _surface(spectra: SlopeSpectra, *, filter: StencilName) -> np.ndarray:
    surface = _solve(spectra, filter)
    edges = spectra.edges
    return edges.inside(surface) if isinstance(edges, Joined) else surface


def _widest(extents: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """Tiles share one scale; each lies about its own middle."""
    return min(low for low, _ in extents), max(high for _, high in extents)


def _height_alone(surface: np.ndarray, extent: tuple[float, float], *, params: HeightFromNormal) -> FloatArray:
    return _scaled(surface, extent)


_SLOPES = Part("slopes/1", slope_spectra, of=("normal",), by=("level",), facts=("edges",))
_SURFACE = Part("surface/1", _surface, of=(_SLOPES,), by=("filter",))
_EXTENT = Part("extent/1", _extent, of=(_SURFACE,), merge=_widest)
OPERATIONS = (
    Operation(
        "height_from_normal",
        "from normal",
        _height_alone,
        HeightFromNormal,
        slots=(master("normal"),),
        outputs=("height",),
        of=(_SURFACE, _EXTENT),
        effort=8,
    ),
)
