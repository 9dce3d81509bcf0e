"""Ambient occlusion of a height field: cosine-weighted visibility, slice by slice."""

from __future__ import annotations

from collections.abc import Callable

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, RELAXED, Cancel, run_rows
from ..filters import gaussian, padded
from ..operation import Operation, master
from ..params import Params, control
from ..raster import Edge, Edges, FloatArray, Gray, Joined, as_gray, edges_of

__all__ = ["OPERATIONS", "OcclusionFromHeight", "first_occlusion_from_height", "occlusion_from_height"]

_GROWTH = 1.15  # of the sample distance from step to step
_CHUNK = 512  # columns at once: what the inner loops touch then stays in the first cache
_AT_ONCE = 2  # whole-texel samples per pass over a horizon
_STEEP = ((0.1, 4), (0.06, 2))  # from which rise, how many times the directions: walls are seen in narrow angles
_MOST_DIRECTIONS = 48
_SMOOTH_REACH = 8  # texels within which samples lie between texels; farther out they are whole texels


class OcclusionFromHeight(Params):
    """How far each texel looks around."""

    reach: float = control(0.08, "Reach", "% of width", 0.005, 0.5, "How far away a hill can still shade.", scale=100)
    darkness: float = control(1.0, "Darkness", "×", 0, 3, "1 is what the surface says; more is an artist's choice.")
    finest: float = control(0.0, "Finest detail", "% of width", 0, 0.02, "Smaller pits do not shade.", example=0.01, scale=100)
    directions: int = Field(
        default=12,
        ge=4,
        le=_MOST_DIRECTIONS,
        title="Directions",
        description="More is smoother and slower. A rise of 6 % and more takes more by itself.",
        json_schema_extra={"unit": "slices"},
    )


def _distances(reach_px: float) -> np.ndarray:
    """Sample distances in texels: 1, 2, 3, ... while steps are short, then growing by ``_GROWTH``."""
    found, at = [], 1.0
    while at < reach_px:
        found.append(at)
        at = max(at + 1, at * _GROWTH)
    found.append(max(reach_px, 1.0))
    far = sum(distance > _SMOOTH_REACH for distance in found)
    return np.array(found + found[-1:] * (-far % _AT_ONCE))  # looking twice changes nothing, and far ones go by twos


def _samples(reach_px: float, directions: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Offsets (slices, steps, 2) int, fractions (slices, steps, 2), 1 / distance (slices, steps), axes (slices, 2)."""
    angles = (np.arange(directions) + 0.5) * np.pi / directions
    axes = np.stack([np.cos(angles), np.sin(angles)], -1)
    distances = _distances(reach_px)
    at = axes[:, None, :] * distances[None, :, None]
    far = distances > _SMOOTH_REACH
    at[:, far] = np.round(at[:, far])
    whole = np.floor(at).astype(np.int64)
    fraction = (at - whole).astype(np.float32)
    return whole, fraction, (1 / np.hypot(at[..., 0], at[..., 1])).astype(np.float32), axes.astype(np.float32)


@numba.njit(nogil=True, cache=True, fastmath=RELAXED, inline="always")
def _angle_from_zenith(t):
    """pi/2 - arctan(t), by a polynomial of degree 11 on 0..1 (largest error 2e-6 rad)."""
    a = abs(t)
    low = min(a, np.float32(1)) / max(a, np.float32(1))
    s = low * low
    p = np.float32(-0.0117212)
    p = p * s + np.float32(0.05265332)
    p = p * s - np.float32(0.11643287)
    p = p * s + np.float32(0.19354346)
    p = p * s - np.float32(0.33262347)
    p = p * s + np.float32(0.99997726)
    angle = p * low
    if a > np.float32(1):
        angle = np.float32(np.pi / 2) - angle
    return np.float32(np.pi / 2) - (angle if t >= 0 else -angle)


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _raise_between(horizon, h, row, column, here, fx, fy, scale):
    """Lift each texel's horizon to the sample at (row + fy, column + fx), between four texels."""
    width = horizon.shape[0]
    one = np.float32(1)
    top, top_next = h[row, column : column + width], h[row, column + 1 : column + 1 + width]
    low, low_next = h[row + 1, column : column + width], h[row + 1, column + 1 : column + 1 + width]
    a, b, c, d = (one - fx) * (one - fy), fx * (one - fy), (one - fx) * fy, fx * fy
    for i in range(width):
        sample = a * top[i] + b * top_next[i] + c * low[i] + d * low_next[i]
        horizon[i] = max(horizon[i], (sample - here[i]) * scale)


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _raise_two(horizon, h, row, column, other_row, other_column, lift, other_lift, here):
    """Lift each texel's horizon to two samples, each on a texel."""
    width = horizon.shape[0]
    first, second = h[row, column : column + width], h[other_row, other_column : other_column + width]
    for i in range(width):
        at = here[i]
        horizon[i] = max(horizon[i], max((first[i] - at) * lift, (second[i] - at) * other_lift))


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _visibility(first, last, h, margin_x, margin_y, whole, fraction, lifts, near, axes, scale, darkness, out):
    """``near`` steps of every slice lie between texels, the rest on them."""
    slices, steps = lifts.shape
    one, two, zero, quarter, half = np.float32(1), np.float32(2), np.float32(0), np.float32(0.25), np.float32(0.5)
    for start in range(0, out.shape[1], _CHUNK):
        width = min(_CHUNK, out.shape[1] - start)
        ahead, behind, total = np.empty(width, np.float32), np.empty(width, np.float32), np.empty(width, np.float32)
        slope_x, slope_y = np.empty(width, np.float32), np.empty(width, np.float32)
        c = margin_x + start
        for row in range(first, last):
            r = row + margin_y
            here, right, left = h[r, c : c + width], h[r, c + 1 : c + 1 + width], h[r, c - 1 : c - 1 + width]
            down, up = h[r + 1, c : c + width], h[r - 1, c : c + width]
            for i in range(width):
                slope_x[i] = (right[i] - left[i]) * half * scale
                slope_y[i] = (down[i] - up[i]) * half * scale
                total[i] = 0
            for s in range(slices):
                ax, ay = axes[s, 0], axes[s, 1]
                for i in range(width):  # the surface itself is the first horizon
                    tilt = slope_x[i] * ax + slope_y[i] * ay
                    ahead[i], behind[i] = tilt, -tilt
                for k in range(near):
                    wx, wy, fx, fy = whole[s, k, 0], whole[s, k, 1], fraction[s, k, 0], fraction[s, k, 1]
                    _raise_between(ahead, h, r + wy, c + wx, here, fx, fy, lifts[s, k])
                    bx, by = (one - fx if fx > 0 else fx), (one - fy if fy > 0 else fy)
                    ox, oy = (1 if fx > 0 else 0), (1 if fy > 0 else 0)
                    _raise_between(behind, h, r - wy - oy, c - wx - ox, here, bx, by, lifts[s, k])
                for k in range(near, steps, _AT_ONCE):
                    wx, wy, ox, oy = whole[s, k, 0], whole[s, k, 1], whole[s, k + 1, 0], whole[s, k + 1, 1]
                    _raise_two(ahead, h, r + wy, c + wx, r + oy, c + ox, lifts[s, k], lifts[s, k + 1], here)
                    _raise_two(behind, h, r - wy, c - wx, r - oy, c - ox, lifts[s, k], lifts[s, k + 1], here)
                for i in range(width):
                    # projected normal (nx, nz) in the slice; Jimenez 2016, eq. 10, with cos and sin of 2h from tangents
                    inverse_length = one / np.sqrt(slope_x[i] * slope_x[i] + slope_y[i] * slope_y[i] + one)
                    nx, nz = -(slope_x[i] * ax + slope_y[i] * ay) * inverse_length, inverse_length
                    t2, t1 = ahead[i], behind[i]
                    u2, u1 = one / (one + t2 * t2), one / (one + t1 * t1)
                    open2 = nz - (t2 * t2 - one) * u2 * nz - two * t2 * u2 * nx + two * _angle_from_zenith(t2) * nx
                    open1 = nz - (t1 * t1 - one) * u1 * nz + two * t1 * u1 * nx - two * _angle_from_zenith(t1) * nx
                    total[i] += quarter * (open1 + open2)
            for i in range(width):
                open_share = min(max(total[i] / np.float32(slices), zero), one)
                out[row, start + i] = open_share if darkness == one else open_share**darkness


def occlusion_from_height(
    height: Gray,
    rise: float = 0.02,
    edges: Edges | Edge = "wrap",
    *,
    params: OcclusionFromHeight | None = None,
    beside: bool = False,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """Share of the sky each texel sees, weighted by the cosine to its normal.

    Convention: 1 open, 0 closed; light from the whole hemisphere above; hills farther than ``reach`` do not count. Where the
    relief is steep, more directions are looked in than ``params`` say.

    Parameters
    ----------
    height : (H, W) float32, 0..1 spanning ``rise`` (a share of the width)
    beside : whether ``Joined`` edges give what lies beside the tile as well, and not the tile alone
    Returns
    -------
    occlusion : (H, W) float32, 0..1; of a tile's own height and width where its edges are ``Joined``
    Raises
    ------
    ShapeMismatch : not (H, W)
    References
    ----------
    Slice integral with projected normal: Jimenez, Wu, Pesce & Jarabo 2016, Practical Realtime Strategies for Accurate
    Indirect Occlusion. Against a brute-force integral of the same slices the RMS error stays under 0.01
    (tests/core/test_occlusion.py).
    Examples
    --------
    >>> flat = np.full((8, 8), 0.5, np.float32)
    >>> bool(np.allclose(occlusion_from_height(flat), 1, atol=1e-4))  # nothing stands in the way
    True
    """
    params = params or OcclusionFromHeight()
    times = next((times for least, times in _STEEP if rise >= least), 1)
    directions = max(params.directions, min(params.directions * times, _MOST_DIRECTIONS))
    return _seen(height, rise, edges, params, directions, beside, cancel)


def first_occlusion_from_height(
    height: Gray,
    rise: float = 0.02,
    edges: Edges | Edge = "wrap",
    *,
    params: OcclusionFromHeight | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """As ``occlusion_from_height``, by the first way: in as many directions on steep walls as elsewhere.

    Parameters
    ----------
    height : (H, W) float32, 0..1 spanning ``rise`` (a share of the width)
    Returns
    -------
    occlusion : (H, W) float32, 0..1
    Raises
    ------
    ShapeMismatch : not (H, W)
    Examples
    --------
    >>> pit = np.full((16, 16), 0.5, np.float32)
    >>> pit[4:8, 4:8] = 0.4
    >>> first, now = first_occlusion_from_height(pit, 0.05), occlusion_from_height(pit, 0.05)
    >>> bool((first == now).all())  # so gentle a relief is seen as it was
    True
    """
    params = params or OcclusionFromHeight()
    return _seen(height, rise, edges, params, params.directions, False, cancel)


def _seen(
    height: Gray,
    rise: float,
    edges: Edges | Edge,
    params: OcclusionFromHeight,
    directions: int,
    beside: bool,
    cancel: Cancel,
) -> FloatArray:
    edges = edges_of(edges)
    height = gaussian(as_gray(height, "height"), params.finest / np.pi, edges)
    width = edges.width(height.shape[1])
    whole, fraction, inverse, axes = _samples(params.reach * width, directions)
    margin_x, margin_y = int(np.abs(whole[..., 0]).max()) + 2, int(np.abs(whole[..., 1]).max()) + 2
    own = edges if isinstance(edges, Joined) and not beside else Joined()
    more_x, more_y = max(0, margin_x - min(own.left, own.right)), max(0, margin_y - min(own.top, own.bottom))
    grown = np.ascontiguousarray(padded(height, more_x, more_y, edges))
    out = np.empty_like(own.inside(height))
    scale, darkness = np.float32(rise * width), np.float32(params.darkness)
    near = int((_distances(params.reach * width) <= _SMOOTH_REACH).sum())
    table = (whole, fraction, inverse * scale, near, axes)
    run_rows(_visibility, *out.shape, cancel, grown, own.left + more_x, own.top + more_y, *table, scale, darkness, out)
    return out


def _number(make: Callable[..., FloatArray], number: int, was: str = "", older: tuple[Operation, ...] = ()) -> Operation:
    return Operation(
        "occlusion_from_height",
        "from height",
        make,
        OcclusionFromHeight,
        slots=(master("height"),),
        outputs=("occlusion",),
        facts=("rise", "edges"),
        effort=23,
        number=number,
        was=was,
        older=older,
        reach=lambda params: params.reach,
    )


_FIRST = _number(first_occlusion_from_height, 1, "the way that looks in as few directions on steep walls as elsewhere")
OPERATIONS = (_number(occlusion_from_height, 2, older=(_FIRST,)),)
