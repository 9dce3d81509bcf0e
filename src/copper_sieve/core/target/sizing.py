"""The size each file of a target is written at."""

from __future__ import annotations

from ..raster import Size
from .model import Target, TargetFile

__all__ = ["file_size"]


def file_size(target: Target, file: TargetFile, size: Size) -> Size:
    """Size of one file of a set of ``size``: its share, its cap and the target's limit, then down to powers of two if wanted.

    Both sides shrink together; a side never goes below 1.
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> half = target.files[0].model_copy(update={"size_share": 0.5})
    >>> file_size(target, half, Size(2048, 1024))
    Size(width=1024, height=512)
    """
    longest = max(size.width, size.height)
    caps = [longest * file.size_share, file.size_cap or longest, target.limits.largest or longest]
    scale = min(1.0, min(caps) / longest)
    sides = [max(1, round(side * scale)) for side in (size.width, size.height)]
    if file.power_of_two:
        sides = [1 << (side.bit_length() - 1) for side in sides]
    return Size(*sides)
