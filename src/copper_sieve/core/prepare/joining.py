"""A decision put into effect: one map of a set made to repeat, at whatever size it comes."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..color import linear_from_srgb, srgb_from_linear
from ..raster import FloatArray, Size, floats
from ..vectors import renormalized
from .blurring import soft
from .bridging import bridge
from .decision import BANDS, Join, Kind, Repeat
from .light import Terms, light_of

__all__ = [
    "coded",
    "evened",
    "joined",
    "levelled",
    "mask_at",
    "normals_of",
    "one_axis",
    "size_joined",
    "sizes_of_detail",
    "slopes_of",
]

_FINEST = 512  # of the tile's width is the finest size of detail
# sizes of detail that are parted where the rest is met along the line: more would show large things through each other, fewer
# would part the slopes of normals from each other
_MET_SIZES: dict[Kind, int] = {"color": 3, "light": 3, "height": 3, "scalar": 3, "signed": 3, "normal": 4, "mask": 0}
_SHARE_OF_OVERLAP = 6  # a size of detail is parted from the rest while it is narrower than this part of the overlap
_SOFTER = 0.8  # the mask of a size of detail is softened by so much of that size
_SOFTER_SLOPES = 1.1  # where slopes are met, which are those of one surface only where they go over softly
_PURE = 2.0  # sizes of detail from the ends of the overlap within which a copy comes pure
_LEAST_KEPT = 0.5  # of the spread; full restoring shows the line
_FLATTEST_Z = 0.1


def size_joined(size: Size, repeat: Repeat) -> Size:
    """The tile's size of a picture of ``size``.

    Examples
    --------
    >>> from .decision import Cut, Seen
    >>> join = Join(side=0.5, overlap=0.25, cut=Cut(rows=1, columns=1, runs=(1,)))
    >>> size_joined(Size(64, 32), Repeat(x=join, seen=Seen(mean=1, most=1, worst=1), fit=0, structure=0))
    Size(width=32, height=32)
    """
    return Size(
        *(side if join is None else _side(side, join) for side, join in ((size.width, repeat.x), (size.height, repeat.y)))
    )


def _side(side: int, join: Join) -> int:
    return min(max(1, round(side * join.side)), side)


def sizes_of_detail(unit: int) -> list[float]:
    """The sizes that detail is parted by, in texels, of a tile ``unit`` texels wide.

    Examples
    --------
    >>> sizes_of_detail(1024)[:3]
    [2.0, 4.0, 8.0]
    """
    return [unit * 2.0**k / _FINEST for k in range(BANDS)]


def slopes_of(normal: FloatArray) -> FloatArray:
    """Slopes (H, W, 2) of normals.

    Examples
    --------
    >>> slopes_of(np.float32([[[0, 0.6, 0.8]]])).round(2).tolist()
    [[[0.0, 0.75]]]
    """
    return normal[..., :2] / np.maximum(normal[..., 2:], np.float32(_FLATTEST_Z))


def normals_of(slopes: FloatArray) -> FloatArray:
    """Normals (H, W, 3) of slopes.

    Examples
    --------
    >>> normals_of(np.float32([[[0, 0.75]]])).round(2).tolist()
    [[[0.0, 0.6000000238418579, 0.800000011920929]]]
    """
    return renormalized(np.concatenate([slopes, np.ones_like(slopes[..., :1])], -1))


def joined(
    values: FloatArray, repeat: Repeat, kind: Kind, *, wraps: tuple[bool, bool] = (False, False), cancel: Cancel = NEVER
) -> FloatArray:
    """One map of a set as the tile that was decided.

    Parameters
    ----------
    values : (H, W) or (H, W, 3) float32; colors in linear light, normals as vectors
    wraps : whether the picture repeats across and down as it comes
    Returns
    -------
    tile : of ``size_joined``, which repeats along every axis that was decided
    References
    ----------
    Bands: Burt & Adelson 1983. Spread given back: after Heitz & Neyret 2018.
    Examples
    --------
    >>> from .decision import Cut, Seen
    >>> cut = Cut(rows=1, columns=4, runs=(0, 2, 2))
    >>> once = Repeat(x=Join(side=0.5, overlap=1.0, cut=cut), seen=Seen(mean=1, most=1, worst=1), fit=0, structure=0)
    >>> joined(np.float32([[0, 0, 0, 0, 1, 1, 1, 1]]), once, "mask").tolist()
    [[1.0, 1.0, 0.0, 0.0]]
    """
    across, down = wraps
    unit = values.shape[1] if repeat.x is None else _side(values.shape[1], repeat.x)
    values = coded(evened(values, repeat.even, kind), kind)
    if repeat.x is not None:
        values, across = one_axis(values, repeat.x, kind, unit, down, cancel=cancel), True
    if repeat.y is not None:
        values = one_axis(values, repeat.y, kind, unit, across, axis=0, cancel=cancel)
    return uncoded(values, kind)


def evened(values: FloatArray, even: Terms | None, kind: Kind) -> FloatArray:
    """Colors in linear light without the light that lay on them; every other map as it is.

    Examples
    --------
    >>> lit = np.exp(np.float32([[0.5, -0.5]]))[..., None].repeat(3, -1)
    >>> evened(lit, (-2.0, 0, 0, 0, 0), "color").ravel().round(3).tolist()
    [1.0, 1.0, 1.0, 1.0, 1.0, 1.0]
    """
    if even is None or kind != "color":
        return values
    return values / light_of(even, Size(values.shape[1], values.shape[0]))[..., None]


def one_axis(
    values: FloatArray, join: Join, kind: Kind, unit: int, wraps: bool, *, axis: int = 1, cancel: Cancel = NEVER
) -> FloatArray:
    """A coded map joined across (``axis`` 1) or down (0), of a tile ``unit`` wide; ``wraps``: whether the other axis goes on.

    Examples
    --------
    >>> from .decision import Cut
    >>> picture = np.tile(np.float32([[0, 1, 2, 3]]), (4, 4))  # it repeats already
    >>> join = Join(side=0.5, overlap=0.25, cut=Cut(rows=1, columns=1, runs=(1,)))
    >>> one_axis(picture, join, "height", 8, wraps=True)[0].round().tolist()
    [0.0, 1.0, 2.0, 3.0, 0.0, 1.0, 2.0, 3.0]
    """
    cancel.check()
    side = _side(values.shape[axis], join)
    overlap = min(max(1, round(side * join.overlap)), side, values.shape[axis] - side)
    values = levelled(values, join, kind, side, axis)
    out = values[:, :side].copy() if axis else values[:side].copy()
    if overlap < 1:
        return out
    sharp = mask_at(join, Size(overlap, values.shape[1 - axis]), wraps)
    parted = sizes_of_detail(unit) if join.rest == "blended" and kind != "mask" else sizes_of_detail(unit)[: _MET_SIZES[kind]]
    sigmas = [sigma for sigma in parted if sigma < overlap / _SHARE_OF_OVERLAP]
    pad = int(np.ceil(3 * max(sigmas, default=0.0)))
    copies = [_strip(values, at, overlap, pad, wraps, axis) for at in (0, side)]
    inside = (slice(pad if wraps else 0, None if not wraps or not pad else -pad), slice(pad, pad + overlap))
    if kind == "mask":
        first, second = (copy[inside] for copy in copies)
        met = first + (second - first) * _over(sharp, values.ndim)
    else:
        met = _mixed(copies, inside, sharp, sigmas, join, kind, wraps, cancel)
    if axis:
        out[:, :overlap] = met
    else:
        out[:overlap] = met.swapaxes(0, 1)
    return out


def levelled(values: FloatArray, join: Join, kind: Kind, side: int, axis: int = 1) -> FloatArray:
    """The picture, coded as it is joined, without the slope of light or level that makes the two copies differ.

    Examples
    --------
    >>> from .decision import Cut
    >>> join = Join(side=0.5, overlap=0.25, cut=Cut(rows=1, columns=1, runs=(1,)), level=(1.0,))
    >>> levelled(np.zeros((1, 4), np.float32), join, "height", side=2).tolist()
    [[0.75, 0.25, -0.25, -0.75]]
    """
    told = join.light if kind in ("color", "light") else join.level if kind == "height" else ()
    if not told:
        return values
    along, across = values.shape[axis], values.shape[1 - axis]
    at = (np.arange(across) + 0.5) / across * len(told) - 0.5
    differs = np.interp(at, np.arange(len(told)), told).astype(np.float32)
    away = ((np.arange(along, dtype=np.float32) + 0.5 - along / 2) / side).astype(np.float32)
    by_row, by_column = (differs, away) if axis else (away, differs)
    if kind == "height":
        return values - np.outer(by_row, by_column)
    linear = values.copy() if kind == "light" else linear_from_srgb(values)
    run_rows(_brighten, len(linear), linear[0].size, NEVER, linear, by_row, by_column)
    return linear if kind == "light" else srgb_from_linear(linear, out=linear)


def _brighten(first: int, last: int, linear: FloatArray, by_row: FloatArray, by_column: FloatArray) -> None:
    _multiply(linear[first:last], np.exp(-np.outer(by_row[first:last], by_column)))


@numba.njit(nogil=True, cache=True)
def _multiply(colors, factor):
    for y in range(factor.shape[0]):
        for x in range(factor.shape[1]):
            for k in range(colors.shape[2]):
                colors[y, x, k] *= factor[y, x]


def mask_at(join: Join, size: Size, wraps: bool) -> FloatArray:
    """How much of the second copy shows where the copies overlap, (H, W), its edge one texel wide; at any size.

    Examples
    --------
    >>> from .decision import Cut
    >>> from .decision import Cut
    >>> join = Join(side=0.5, overlap=0.5, cut=Cut(rows=1, columns=4, runs=(0, 2, 2)))
    >>> mask_at(join, Size(8, 2), False)[0].tolist()
    [1.0, 1.0, 1.0, 1.0, 0.0, 0.0, 0.0, 0.0]
    """
    is_second = join.cut.is_second.astype(np.uint8)
    rows, columns = is_second.shape
    border = min(rows, 64)
    tall = cv2.copyMakeBorder(is_second, border, border, 0, 0, cv2.BORDER_WRAP if wraps else cv2.BORDER_REPLICATE)
    wide = np.concatenate([np.ones((len(tall), 1), np.uint8), tall, np.zeros((len(tall), 1), np.uint8)], 1)
    inner, outer = (cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) for mask in (wide, 1 - wide))
    distance = np.where(wide > 0, inner - 0.5, 0.5 - outer).astype(np.float32)
    scale = size.width / columns
    step_x, step_y = columns / size.width, rows / size.height
    x = ((np.arange(size.width) + 0.5) * step_x - 0.5 + 1).astype(np.float32)
    y = ((np.arange(size.height) + 0.5) * step_y - 0.5 + border).astype(np.float32)
    grown = cv2.remap(distance, *np.meshgrid(x, y), interpolation=cv2.INTER_LINEAR)
    return np.clip(grown * np.float32(scale) + np.float32(0.5), 0, 1).astype(np.float32)


def _strip(values: FloatArray, at: int, overlap: int, pad: int, wraps: bool, axis: int) -> FloatArray:
    """Columns, or rows turned to columns, ``at`` to ``at + overlap``, and as much around them as detail needs."""
    side = values.shape[axis]
    left, right = max(0, at - pad), min(side, at + overlap + pad)
    strip = np.ascontiguousarray(values[:, left:right] if axis else values[left:right].swapaxes(0, 1))
    before, after = pad - (at - left), pad - (right - at - overlap)
    strip = cv2.copyMakeBorder(strip, 0, 0, before, after, cv2.BORDER_REFLECT)
    return floats(cv2.copyMakeBorder(strip, pad, pad, 0, 0, cv2.BORDER_WRAP) if wraps and pad else strip)


def _mixed(
    copies: list[FloatArray],
    inside: tuple[slice, slice],
    sharp: FloatArray,
    sigmas: list[float],
    join: Join,
    kind: Kind,
    wraps: bool,
    cancel: Cancel,
) -> FloatArray:
    """The two copies met size by size of detail: fine detail along the line, the rest as the join says."""
    alike = join.alike.get(kind) or join.alike.get("color")
    softer = _SOFTER_SLOPES if kind == "normal" and join.rest == "met" else _SOFTER
    rows, overlap = sharp.shape
    columns = np.arange(overlap, dtype=np.float32) + 0.5
    ends = np.minimum(columns, overlap - columns)
    rest = [np.atleast_3d(copy[inside]) for copy in copies]
    out, shown = np.zeros(rest[0].shape, np.float32), sharp
    for k, sigma in enumerate(sigmas):
        cancel.check()
        broad = [np.atleast_3d(soft(copy, sigma)[inside]) for copy in copies]
        softened = _softened(sharp, softer * sigma, wraps)
        pure = np.clip(ends / np.float32(_PURE * sigma), 0, 1)
        both = np.float32(-1 if not k or alike is None else 2 * min(max(alike[k], 0.0), 1.0))
        run_rows(_add_band, rows, overlap, cancel, *rest, *broad, sharp, softened, pure, both, out)
        rest, shown = broad, sharp + (softened - sharp) * pure
    apart = rest[1] - rest[0]
    if join.rest == "blended":
        share = (np.float32(0.5) * (1 + np.cos(np.pi * columns / overlap))).astype(np.float32)
        out += rest[0] + apart * share[:, None]
    else:
        spread = bridge(apart, join.cut.is_second, wraps)
        out += rest[0] + apart * shown[..., None] + spread * (np.float32(0.5) - shown)[..., None]
    return out.reshape(copies[0][inside].shape)


@numba.njit(nogil=True, cache=True)
def _add_band(first, last, fine_a, fine_b, broad_a, broad_b, sharp, softened, pure, both, out):
    """Add one size of detail of two copies; ``both`` is twice how alike they are, or negative where no spread is given back."""
    for y in range(first, last):
        for x in range(sharp.shape[1]):
            mask = sharp[y, x] + (softened[y, x] - sharp[y, x]) * pure[x]
            given_back = np.float32(1)
            if both >= 0:
                other = np.float32(1) - mask
                kept = mask * mask + other * other + both * mask * other
                given_back = max(kept, np.float32(_LEAST_KEPT)) ** np.float32(0.25)
            for k in range(out.shape[2]):
                one = fine_a[y, x, k] - broad_a[y, x, k]
                two = fine_b[y, x, k] - broad_b[y, x, k]
                out[y, x, k] += (one + (two - one) * mask) / given_back


def _softened(mask: FloatArray, sigma: float, wraps: bool) -> FloatArray:
    pad = int(np.ceil(3 * sigma))
    grown = cv2.copyMakeBorder(mask, pad, pad, 0, 0, cv2.BORDER_WRAP if wraps else cv2.BORDER_REFLECT)
    grown = cv2.copyMakeBorder(grown, 0, 0, pad, pad, cv2.BORDER_REPLICATE)
    return soft(floats(grown), sigma)[pad:-pad, pad:-pad]


def _over(share: FloatArray, ndim: int) -> FloatArray:
    return share[..., None] if ndim == 3 else share


def coded(values: FloatArray, kind: Kind) -> FloatArray:
    """A map as it is joined: colors as they are stored, normals by their slopes, others as they are.

    Examples
    --------
    >>> coded(np.float32([[[0, 0.6, 0.8]]]), "normal").round(2).tolist()
    [[[0.0, 0.75]]]
    """
    return _CODING[kind][0](values)


def uncoded(values: FloatArray, kind: Kind) -> FloatArray:
    """The inverse of ``coded``, within the range of the kind.

    Examples
    --------
    >>> uncoded(coded(np.float32([[[0, 0.6, 0.8]]]), "normal"), "normal").round(2).tolist()
    [[[0.0, 0.6000000238418579, 0.800000011920929]]]
    """
    return _CODING[kind][1](values)


def _same(values: FloatArray) -> FloatArray:
    return values


_CODING: dict[Kind, tuple[Callable[[FloatArray], FloatArray], Callable[[FloatArray], FloatArray]]] = {
    "color": (srgb_from_linear, lambda met: linear_from_srgb(met)),
    "light": (_same, lambda met: np.maximum(met, 0)),
    "height": (_same, lambda met: np.clip(met, 0, 1)),
    "scalar": (_same, lambda met: np.clip(met, 0, 1)),
    "signed": (_same, lambda met: np.clip(met, -1, 1)),
    "normal": (slopes_of, normals_of),
    "mask": (_same, _same),
}
