"""Masters to the codes of a target's files."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numba
import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..color import encode_srgb_codes, luminance, srgb_from_linear
from ..primaries import acescg_from_rec709
from ..quantities import quantity
from ..raster import FloatArray, Size
from .computed import computed_from
from .model import Channel, Target, TargetFile

__all__ = ["Feed", "encode_file", "feeds", "fill_value"]

_CODES: dict[tuple[int, str], np.dtype] = {
    (8, "uint"): np.dtype(np.uint8),
    (16, "uint"): np.dtype(np.uint16),
    (16, "float"): np.dtype(np.float16),
    (32, "float"): np.dtype(np.float32),
}


@dataclass(frozen=True)
class Feed:
    """How one component reaches one channel: ``code = value * gain + shift``, on a scale of 0..1.

    ``source`` is a master's key, that of a quantity computed from several masters, or None for a constant.
    """

    source: str | None
    component: int
    gain: float
    shift: float


def feeds(target: Target, file: TargetFile) -> dict[str, Feed]:
    """One Feed per channel letter. The only place where conventions (green, gloss, ranges) become numbers.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> feeds(target, target.files[1])["G"]  # green down
    Feed(source='normal', component=1, gain=-0.5, shift=0.5)
    """
    return {letter: _feed(target, channel) for letter, channel in file.channels.items()}


def _feed(target: Target, channel: Channel) -> Feed:
    row = channel.row
    if row is None:
        return Feed(None, 0, 0.0, float(channel.constant or 0))
    source = row.key if row.is_computed else row.master
    invert = channel.invert ^ row.complement
    if source == "normal" and channel.component == "y" and target.green == "down":
        invert = not invert
    gain, shift = 1 / (row.high - row.low), -row.low / (row.high - row.low)
    if invert:
        gain, shift = -gain, 1 - shift
    low, high = channel.range
    component = -1 if channel.component == "luminance" else row.components.index(channel.component)
    if source == "object_normal" and target.object_up == "z":
        component, sign = _Z_UP[component]
        gain *= sign
    return Feed(source, component, gain * (high - low), low + shift * (high - low))


_Z_UP = ((0, 1.0), (2, -1.0), (1, 1.0))  # x, y and z of a file whose z points up, by components of ours and their sign


def component_of(values: FloatArray, component: int) -> FloatArray:
    """One plane (H, W) of a master; -1 is Rec. 709 luminance.

    Examples
    --------
    >>> component_of(np.float32([[[0.1, 0.2, 0.3]]]), 1).round(1).tolist()
    [[0.20000000298023224]]
    """
    if values.ndim == 2:
        return values
    return luminance(values) if component < 0 else values[..., component]


@numba.njit(nogil=True, cache=True)
def _quantize(first, last, values, gain, shift, top, out):
    half, zero, one = np.float32(0.5), np.float32(0), np.float32(1)
    for row in range(first, last):
        for i in range(values.shape[1]):
            v = min(max(values[row, i] * gain + shift, zero), one)
            out[row, i] = int(v * top + half)


@numba.njit(nogil=True, cache=True)
def _quantize_dithered(first, last, values, gain, shift, top, channel, out):
    """As ``_quantize``, with a threshold that is spread evenly over a step by a hash of the place."""
    zero, one, word = np.float32(0), np.float32(1), np.uint64(0xFFFFFFFF)
    for row in range(first, last):
        for i in range(values.shape[1]):
            mixed = (np.uint64(row) * np.uint64(0x9E3779B1)) ^ (np.uint64(i) * np.uint64(0x85EBCA77))
            mixed = (mixed ^ (np.uint64(channel + 1) * np.uint64(0xC2B2AE3D))) & word
            mixed = ((mixed ^ (mixed >> np.uint64(15))) * np.uint64(0x2C1B3C6D)) & word
            mixed = ((mixed ^ (mixed >> np.uint64(12))) * np.uint64(0x297A2D39)) & word
            mixed ^= mixed >> np.uint64(15)
            v = min(max(values[row, i] * gain + shift, zero), one)
            threshold = np.float32(mixed >> np.uint64(8)) * np.float32(1 / 16777216)
            out[row, i] = min(int(v * top + threshold), int(top))


def _dithered(values: FloatArray, feed: Feed, channel: int, is_color: bool, cancel: Cancel) -> np.ndarray:
    scaled = values if (feed.gain, feed.shift) == (1, 0) else values * np.float32(feed.gain) + np.float32(feed.shift)
    scaled = np.ascontiguousarray(srgb_from_linear(scaled) if is_color else scaled)
    out = np.empty(values.shape, np.uint8)
    run_rows(_quantize_dithered, *values.shape, cancel, scaled, np.float32(1), np.float32(0), np.float32(255), channel, out)
    return out


def _plane(values: FloatArray, feed: Feed, file: TargetFile, is_color: bool, cancel: Cancel) -> np.ndarray:
    dtype = _CODES[file.depth, file.sample]
    straight = feed.gain == 1 and feed.shift == 0
    if file.sample == "float":
        scaled = values if straight else values * np.float32(feed.gain) + np.float32(feed.shift)
        return (srgb_from_linear(scaled) if is_color else scaled).astype(dtype)
    if is_color:
        linear = values if straight else values * np.float32(feed.gain) + np.float32(feed.shift)
        return encode_srgb_codes(linear, file.depth)
    out = np.empty(values.shape, dtype)
    numbers = (np.float32(feed.gain), np.float32(feed.shift), np.float32(np.iinfo(dtype).max))
    run_rows(_quantize, *values.shape, cancel, values, *numbers, out)
    return out


def encode_file(
    target: Target,
    file: TargetFile,
    masters: Mapping[str, FloatArray],
    size: Size,
    *,
    deep: Collection[str] = (),
    cancel: Cancel = NEVER,
) -> np.ndarray:
    """Codes of one file, (H, W) or (H, W, C).

    Parameters
    ----------
    masters : arrays of exactly ``size``; a missing key counts as absent and takes the channel's fill
    deep : keys of masters that know more than 8 bits; they alone are dithered, in files that say so
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> one = np.ones((1, 1), np.float32)
    >>> encode_file(target, target.files[2], {"occlusion": one, "roughness": one * 0.2}, Size(1, 1)).tolist()
    [[[255, 51, 0]]]
    """
    routed = feeds(target, file)
    masters = {**masters, **computed_from(masters, {feed.source for feed in routed.values()})}
    if file.primaries == "acescg":
        masters = {k: acescg_from_rec709(v) if quantity(k).color == "srgb" else v for k, v in masters.items()}
    first = next(iter(routed.values())).source
    whole_color = len(file.channels) == 3 and not file.dither and file.color == "srgb" and _is_plain_color(routed)
    if whole_color and first is not None and first in masters:  # one pass over the three channels
        return _plane(masters[first].reshape(size.height, -1), Feed(None, 0, 1, 0), file, True, cancel).reshape(
            size.height, size.width, 3
        )
    out = np.empty((size.height, size.width, len(file.channels)), _CODES[file.depth, file.sample])
    for k, (letter, channel) in enumerate(file.channels.items()):
        cancel.check()
        feed, is_color = routed[letter], file.color == "srgb" and letter != "A"
        if feed.source is not None and feed.source in masters:
            values = component_of(masters[feed.source], feed.component)
            if file.dither and any(key in deep for key in channel.masters):
                out[..., k] = _dithered(values, feed, k, is_color, cancel)
            else:
                out[..., k] = _plane(values, feed, file, is_color, cancel)
        else:
            value = np.full((1, 1), fill_value(channel, feed), np.float32)
            out[..., k] = _plane(value, Feed(None, 0, 1, 0), file, is_color, cancel)
    return out[..., 0] if len(file.channels) == 1 else out


def _is_plain_color(routed: Mapping[str, Feed]) -> bool:
    return [(f.component, f.gain, f.shift) for f in routed.values()] == [(0, 1, 0), (1, 1, 0), (2, 1, 0)] and (
        len({f.source for f in routed.values()}) == 1
    )


def fill_value(channel: Channel, feed: Feed) -> float:
    """Value on the file's 0..1 scale of a channel whose master is absent, and of a constant.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> packed = target.files[2]
    >>> [fill_value(packed.channels[letter], feed) for letter, feed in feeds(target, packed).items()]
    [1.0, 0.6000000238418579, 0.0]
    """
    if feed.source is None:
        return feed.shift
    if isinstance(channel.fill, float):
        return channel.fill
    absent = np.atleast_1d(quantity(feed.source).absent_value())
    value = float(luminance(absent)) if feed.component < 0 else float(absent[feed.component])
    return value * feed.gain + feed.shift
