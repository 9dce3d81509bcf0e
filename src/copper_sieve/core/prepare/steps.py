"""The one list of steps that all maps of a set go through as they are read."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Annotated, Any, Protocol

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..raster import Edges, FloatArray, Size
from .decision import Kind, Repeat
from .joining import joined, size_joined
from .moves import Crop, Mirror, Offset, Turn, cropped_size, moved
from .spots import Spots, without_spots
from .straighten import Straighten, size_straightened, straightened
from .variant import Variant, varied

__all__ = [
    "NOWHERE",
    "Between",
    "GeometryStep",
    "active",
    "applied",
    "counts_texels",
    "edges_after",
    "effort_of",
    "is_prepared",
    "size_after",
]

GeometryStep = Annotated[Crop | Turn | Mirror | Offset | Straighten | Spots | Repeat | Variant, Field(discriminator="kind")]
_Sized = Callable[[Size, Any], Size]


def active(steps: Sequence[GeometryStep]) -> tuple[GeometryStep, ...]:
    """The steps that are on.

    Examples
    --------
    >>> active([Mirror(axis="x"), Turn(quarters=1, is_on=False)])
    (Mirror(is_on=True, kind='mirror', axis='x'),)
    """
    return tuple(step for step in steps if step.is_on)


def _same_size(size: Size, step: Any) -> Size:
    return size


def _turned_size(size: Size, step: Turn) -> Size:
    return Size(size.height, size.width) if step.quarters % 2 else size


_SIZES: Mapping[type, _Sized] = MappingProxyType(
    {
        Crop: cropped_size,
        Turn: _turned_size,
        Mirror: _same_size,
        Offset: _same_size,
        Straighten: size_straightened,
        Spots: _same_size,
        Repeat: size_joined,
        Variant: _same_size,
    }
)


_EFFORTS: Mapping[type, int] = MappingProxyType({Straighten: 13, Repeat: 6, Variant: 20})  # a channel; what is missing: 1


def effort_of(steps: Sequence[GeometryStep], channels: int) -> int:
    """Work of ``applied``, in the unit of an operation's effort.

    Examples
    --------
    >>> effort_of([Mirror(axis="x"), Variant()], 3)
    63
    """
    return channels * sum(_EFFORTS.get(type(step), 1) for step in active(steps))


def size_after(size: Size, steps: Sequence[GeometryStep]) -> Size:
    """Size of a map of ``size`` after ``steps``. Raises ShapeMismatch when a crop reaches over the border.

    Examples
    --------
    >>> size_after(Size(64, 32), [Turn(quarters=1)])
    Size(width=32, height=64)
    """
    for step in active(steps):
        size = _SIZES[type(step)](size, step)
    return size


def edges_after(edges: Edges, steps: Sequence[GeometryStep], size: Size) -> Edges:
    """How a map of ``size`` and ``edges`` goes on past its border after ``steps``: a cut ends an axis, a repeat lets it go on.

    Examples
    --------
    >>> edges_after(Edges(), [Crop(left=0, top=0, width=4, height=8)], Size(8, 8))
    Edges(x='mirror', y='wrap')
    """
    for step in active(steps):
        after = _SIZES[type(step)](size, step)
        match step:
            case Turn() if step.quarters % 2:
                edges = Edges(x=edges.y, y=edges.x)
            case Crop():
                x = "mirror" if after.width < size.width else edges.x
                edges = Edges(x=x, y="mirror" if after.height < size.height else edges.y)
            case Straighten():
                edges = Edges(x="mirror", y="mirror")
            case Repeat():
                edges = Edges(x=edges.x if step.x is None else "wrap", y=edges.y if step.y is None else "wrap")
            case Variant(pieces=None):
                edges = Edges()
            case _:
                pass
        size = after
    return edges


def counts_texels(steps: Sequence[GeometryStep]) -> bool:
    """Whether steps need a map of the size that they were written for.

    Examples
    --------
    >>> counts_texels([Mirror(axis="x")]), counts_texels([Offset(right=3)])
    (False, True)
    """
    return any(isinstance(step, Crop | Offset) for step in active(steps))


def is_prepared(steps: Sequence[GeometryStep]) -> bool:
    """Whether steps do more than move texels, so that it pays to do them at a small size where a small one is asked for.

    Examples
    --------
    >>> is_prepared([Mirror(axis="x")]), is_prepared([Spots()])
    (False, True)
    """
    return any(isinstance(step, Straighten | Spots | Repeat | Variant) for step in active(steps))


class Between(Protocol):
    """Where a map is kept as it is after the first of its steps, so that what comes later can change alone."""

    def get(self, steps: tuple[GeometryStep, ...]) -> FloatArray | None:
        """The map after ``steps``, None where it is not there."""
        ...

    def kept(self, steps: tuple[GeometryStep, ...], make: Callable[[], FloatArray]) -> FloatArray:
        """The map after ``steps``, made now where it is not there."""
        ...


class _Nowhere:
    def get(self, steps: tuple[GeometryStep, ...]) -> FloatArray | None:
        return None

    def kept(self, steps: tuple[GeometryStep, ...], make: Callable[[], FloatArray]) -> FloatArray:
        return make()


NOWHERE: Between = _Nowhere()


def applied(
    values: np.ndarray,
    steps: Sequence[GeometryStep],
    kind: Kind,
    edges: Edges,
    *,
    is_sharp: bool = False,
    between: Between = NOWHERE,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """A map after ``steps``, in order.

    Parameters
    ----------
    values : (H, W) or (H, W, C), of the size the steps were written for wherever they count texels
    kind : how it is joined and filled; of normals the vectors are turned along
    edges : how the map goes on past its border as it comes
    is_sharp : no texel is mixed with another, as far as that can be: pixel art
    between : where what each step gives is kept
    Examples
    --------
    >>> applied(np.array([[1, 2], [3, 4]]), [Turn(quarters=1)], "scalar", Edges()).tolist()
    [[2, 4], [1, 3]]
    """
    size = Size(values.shape[1], values.shape[0])
    size_after(size, steps)
    way = _Way(values, "mask" if is_sharp and kind != "normal" else kind, edges, is_sharp, between, cancel)
    return np.ascontiguousarray(way.after(active(steps)))


@dataclass(frozen=True)
class _Way:
    """A map on its way through steps."""

    values: np.ndarray
    kind: Kind
    edges: Edges
    is_sharp: bool
    between: Between
    cancel: Cancel

    def after(self, steps: tuple[GeometryStep, ...]) -> FloatArray:
        self.cancel.check()
        if not steps:
            return self.values
        if not is_prepared(steps[-1:]):
            return self._one(steps)
        return self.between.kept(steps, lambda: self._one(steps))

    def _one(self, steps: tuple[GeometryStep, ...]) -> FloatArray:
        *before, step = steps
        edges = edges_after(self.edges, before, Size(self.values.shape[1], self.values.shape[0]))
        told = {"wraps": (edges.x == "wrap", edges.y == "wrap"), "cancel": self.cancel}
        if isinstance(step, Spots) and len(step.spots) > 1:
            found = self.between.get((*before, step.before_last))
            if found is not None:
                return without_spots(found, step.spots[-1:], self.kind, **told)
        values = self.after(tuple(before))
        match step:
            case Straighten():
                return straightened(values, step, self.kind, is_sharp=self.is_sharp, cancel=self.cancel)
            case Spots():
                return without_spots(values, step.spots, self.kind, **told)
            case Repeat():
                return joined(values, step, self.kind, **told)
            case Variant():
                return varied(values, step, self.kind, **told)
            case _:
                return moved(values, step, is_normal=self.kind == "normal")
