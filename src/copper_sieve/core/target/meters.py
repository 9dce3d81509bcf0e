"""Heights in meters, for receiving sides that move the surface by what the file says."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..raster import FloatArray
from .model import Target, TargetFile

__all__ = ["holds_meters", "in_meters", "meters_of"]


def holds_meters(target: Target, file: TargetFile, tile_size: float | None) -> bool:
    """Whether a file's heights are meters: its target takes them so, it is of floats, and the tile's width is known.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> holds_meters(target, target.files[0], 2.0)
    False
    """
    wants = target.height.stored == "meters" and file.sample == "float" and "height" in file.masters()
    return wants and tile_size is not None


def meters_of(target: Target, value: float, rise: float, tile_size: float) -> float:
    """How far a height of 0..1 lies over the surface, in meters.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("film-specular")
    >>> target.height.center, meters_of(target, 1.0, rise=0.02, tile_size=2.0)
    (0.5, 0.02)
    """
    return (value - target.height.center) * rise * tile_size


def in_meters(
    target: Target, file: TargetFile, masters: Mapping[str, FloatArray], rise: float, tile_size: float | None
) -> dict[str, FloatArray]:
    """The masters of a file with the height in meters from the surface where the file holds such; else as they are.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> in_meters(target, target.files[0], {"height": np.float32([[1]])}, 0.02, None)["height"].tolist()
    [[1.0]]
    """
    if "height" not in masters or tile_size is None or not holds_meters(target, file, tile_size):
        return dict(masters)
    scale = np.float32(rise * tile_size)
    return {**masters, "height": (masters["height"] - np.float32(target.height.center)) * scale}
