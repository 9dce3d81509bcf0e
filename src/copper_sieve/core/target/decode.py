"""A target's files back to masters: the same table, read the other way."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..color import linear_from_srgb, linear_from_srgb_codes
from ..errors import ShapeMismatch
from ..primaries import rec709_from
from ..quantities import quantity
from ..raster import FloatArray, unit_values
from ..vectors import rebuild_z
from .computed import masters_from
from .encode import feeds
from .model import CHANNEL_LETTERS, Target, TargetFile

__all__ = ["decode", "decode_file"]


def _linear(codes: np.ndarray) -> FloatArray:
    if codes.dtype.kind == "f":
        return linear_from_srgb(codes.astype(np.float32))
    return linear_from_srgb_codes(codes)


def decode_file(target: Target, file: TargetFile, codes: np.ndarray) -> dict[tuple[str, int], FloatArray]:
    """Planes (H, W) by (quantity, component) that one file carries: masters, and what is computed from several.

    Raises ShapeMismatch when its channels are not the table's.
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> planes = decode_file(target, target.files[2], np.uint8([[[255, 51, 0]]]))
    >>> {key: float(plane[0, 0].round(2)) for (key, _), plane in planes.items()}
    {'occlusion': 1.0, 'roughness': 0.20000000298023224, 'metallic': 0.0}
    """
    wanted = CHANNEL_LETTERS[tuple(file.channels)]
    found = 1 if codes.ndim == 2 else codes.shape[2]
    letters = list(file.channels)[:3] if file.may_lack_fourth and found == 3 else list(file.channels)
    if found != len(letters):
        raise ShapeMismatch(f"{file.role} of {target.key} must have {wanted} channels, {''.join(file.channels)} (got {found}).")
    planes: dict[tuple[str, int], FloatArray] = {}
    routed = feeds(target, file)
    for k, letter in enumerate(letters):
        feed = routed[letter]
        if feed.source is None or feed.component < 0:
            continue
        channel = codes if codes.ndim == 2 else np.ascontiguousarray(codes[..., k])
        unit = _linear(channel) if file.color == "srgb" and letter != "A" else unit_values(channel)
        planes[feed.source, feed.component] = (unit - np.float32(feed.shift)) / np.float32(feed.gain)
    return _in_rec709(planes) if file.primaries == "acescg" else planes


def _in_rec709(planes: dict[tuple[str, int], FloatArray]) -> dict[tuple[str, int], FloatArray]:
    for key in {key for key, _ in planes if quantity(key).color == "srgb"}:
        color = rec709_from(np.stack([planes[key, k] for k in range(3)], -1), "acescg")
        planes |= {(key, k): np.ascontiguousarray(color[..., k]) for k in range(3)}
    return planes


def decode(target: Target, files: Mapping[str, np.ndarray]) -> dict[str, FloatArray]:
    """Masters carried by the files of a target.

    Parameters
    ----------
    files : codes by role; roles that are missing are left out of the answer
    Raises
    ------
    ShapeMismatch : a file's channel count is not the table's
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> masters = decode(shipped_target("engine-orm-down"), {"orm": np.uint8([[[255, 51, 0]]])})
    >>> sorted(masters)
    ['metallic', 'occlusion', 'roughness']
    """
    planes: dict[tuple[str, int], FloatArray] = {}
    for file in target.files:
        if file.role in files:
            for place, plane in decode_file(target, file, files[file.role]).items():
                planes.setdefault(place, plane)
    masters: dict[str, FloatArray] = {}
    for key in dict.fromkeys(key for key, _ in planes):
        row = quantity(key)
        parts = [planes.get((key, k)) for k in range(row.channels)]
        if key == "normal" and parts[2] is None and parts[0] is not None and parts[1] is not None:
            parts[2] = rebuild_z(parts[0], parts[1])
        whole = [part for part in parts if part is not None]
        if len(whole) == row.channels:
            masters[key] = whole[0] if row.channels == 1 else np.stack(whole, -1)
    return masters_from(masters)
