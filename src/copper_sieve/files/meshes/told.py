"""What a mesh's own materials say: which pictures beside it they read, and the values where they have no picture."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = ["PictureBeside", "ValuesTold"]


@dataclass(frozen=True)
class PictureBeside:
    """A picture in a file of its own, as one material reads it; ``material`` is empty where it has no name.

    ``slots`` are the words of the mesh's format, with the channel after a colon where one is named; ``is_cut``: its alpha cuts
    holes. ``folder`` is the last one of the path that the material gives, empty where it gives none.
    """

    name: str
    folder: str
    material: str
    slots: tuple[str, ...]
    is_cut: bool = False


@dataclass(frozen=True)
class ValuesTold:
    """The masters that a material has one value for and no picture, in their own units: colors in linear light."""

    material: str
    values: Mapping[str, tuple[float, ...]]
