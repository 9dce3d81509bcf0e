"""Crop, turn, mirror and offset a map; normals have their vectors turned as well. Steps are data, so all maps of a set agree."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..errors import ShapeMismatch
from ..raster import Size
from ..value import Value

__all__ = ["Crop", "GeometryStep", "Mirror", "Offset", "Turn", "moved", "size_after"]


class Crop(Value):
    """Keep a rectangle, in texels from the upper left."""

    kind: Literal["crop"] = "crop"
    left: int = Field(ge=0)
    top: int = Field(ge=0)
    width: int = Field(ge=1)
    height: int = Field(ge=1)


class Turn(Value):
    """Turn by quarters, counterclockwise as seen."""

    kind: Literal["turn"] = "turn"
    quarters: Literal[1, 2, 3]


class Mirror(Value):
    """``x`` swaps left and right, ``y`` top and bottom."""

    kind: Literal["mirror"] = "mirror"
    axis: Literal["x", "y"]


class Offset(Value):
    """Move right and down by texels; what leaves on one side comes in on the other."""

    kind: Literal["offset"] = "offset"
    right: int = 0
    down: int = 0


GeometryStep = Annotated[Crop | Turn | Mirror | Offset, Field(discriminator="kind")]
_QUARTERS = ((1, 0), (0, 1), (-1, 0), (0, -1))  # cosine and sine of 0, 90, 180 and 270 degrees


def size_after(size: Size, steps: Sequence[GeometryStep]) -> Size:
    """Size of a map of ``size`` after ``steps``. Raises ShapeMismatch when a crop reaches over the border.

    Examples
    --------
    >>> size_after(Size(64, 32), [Turn(quarters=1)])
    Size(width=32, height=64)
    """
    for step in steps:
        if isinstance(step, Turn) and step.quarters % 2:
            size = Size(size.height, size.width)
        elif isinstance(step, Crop):
            if step.left + step.width > size.width or step.top + step.height > size.height:
                raise ShapeMismatch(
                    f"a crop of {step.width} × {step.height} px from {step.left}, {step.top} must lie within"
                    f" {size.width} × {size.height} px. Make it smaller, or start it further up or left."
                )
            size = Size(step.width, step.height)
    return size


def moved(values: np.ndarray, steps: Sequence[GeometryStep], *, is_normal: bool = False) -> np.ndarray:
    """Apply ``steps`` in order.

    Parameters
    ----------
    values : (H, W) or (H, W, C), of the size the steps were written for wherever they count texels
    is_normal : the last axis is a vector, x right, y up, and is turned along
    Examples
    --------
    >>> moved(np.array([[1, 2], [3, 4]]), [Turn(quarters=1)]).tolist()
    [[2, 4], [1, 3]]
    """
    size_after(Size(values.shape[1], values.shape[0]), steps)
    for step in steps:
        match step:
            case Crop():
                values = values[step.top : step.top + step.height, step.left : step.left + step.width]
            case Turn():
                values = np.rot90(values, step.quarters)
                cosine, sine = _QUARTERS[step.quarters]
                values = _with_xy(values, ((cosine, -sine), (sine, cosine))) if is_normal else values
            case Mirror(axis="x"):
                values = values[:, ::-1]
                values = _with_xy(values, ((-1, 0), (0, 1))) if is_normal else values
            case Mirror():
                values = values[::-1]
                values = _with_xy(values, ((1, 0), (0, -1))) if is_normal else values
            case Offset():
                values = np.roll(values, (step.down, step.right), (0, 1))
    return np.ascontiguousarray(values)


def _with_xy(vectors: np.ndarray, matrix: tuple[tuple[int, int], tuple[int, int]]) -> np.ndarray:
    turned = vectors.copy()
    for k, (right, up) in enumerate(matrix):
        turned[..., k] = right * vectors[..., 0] + up * vectors[..., 1]
    return turned
