"""Crop, turn, mirror and offset a map; normals have their vectors turned as well. Steps are data, so all maps of a set agree."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..errors import ShapeMismatch
from ..raster import Size
from .step import Step

__all__ = ["Crop", "Mirror", "Offset", "Turn", "cropped_size", "moved"]


class Crop(Step):
    """Keep a rectangle, in texels from the upper left."""

    kind: Literal["crop"] = "crop"
    left: int = Field(ge=0)
    top: int = Field(ge=0)
    width: int = Field(ge=1)
    height: int = Field(ge=1)


class Turn(Step):
    """Turn by quarters, counterclockwise as seen."""

    kind: Literal["turn"] = "turn"
    quarters: Literal[1, 2, 3]


class Mirror(Step):
    """``x`` swaps left and right, ``y`` top and bottom."""

    kind: Literal["mirror"] = "mirror"
    axis: Literal["x", "y"]


class Offset(Step):
    """Move right and down by texels; what leaves on one side comes in on the other."""

    kind: Literal["offset"] = "offset"
    right: int = 0
    down: int = 0


_QUARTERS = ((1, 0), (0, 1), (-1, 0), (0, -1))  # cosine and sine of 0, 90, 180 and 270 degrees


def cropped_size(size: Size, step: Crop) -> Size:
    """Size of a crop of ``size``. Raises ShapeMismatch when it reaches over the border.

    Examples
    --------
    >>> cropped_size(Size(64, 32), Crop(left=4, top=0, width=20, height=10))
    Size(width=20, height=10)
    """
    if step.left + step.width > size.width or step.top + step.height > size.height:
        raise ShapeMismatch(
            f"a crop of {step.width} × {step.height} px from {step.left}, {step.top} must lie within"
            f" {size.width} × {size.height} px. Make it smaller, or start it further up or left."
        )
    return Size(step.width, step.height)


def moved(values: np.ndarray, step: Crop | Turn | Mirror | Offset, *, is_normal: bool = False) -> np.ndarray:
    """Crop, turn, mirror or offset (H, W) or (H, W, C); of vectors, x right and y up, x and y are turned along.

    Examples
    --------
    >>> moved(np.array([[1, 2], [3, 4]]), Turn(quarters=1)).tolist()
    [[2, 4], [1, 3]]
    """
    match step:
        case Crop():
            return values[step.top : step.top + step.height, step.left : step.left + step.width]
        case Turn():
            values = np.rot90(values, step.quarters)
            cosine, sine = _QUARTERS[step.quarters]
            return _with_xy(values, ((cosine, -sine), (sine, cosine))) if is_normal else values
        case Mirror(axis="x"):
            values = values[:, ::-1]
            return _with_xy(values, ((-1, 0), (0, 1))) if is_normal else values
        case Mirror():
            values = values[::-1]
            return _with_xy(values, ((1, 0), (0, -1))) if is_normal else values
        case Offset():
            return np.roll(values, (step.down, step.right), (0, 1))


def _with_xy(vectors: np.ndarray, matrix: tuple[tuple[int, int], tuple[int, int]]) -> np.ndarray:
    turned = vectors.copy()
    for k, (right, up) in enumerate(matrix):
        turned[..., k] = right * vectors[..., 0] + up * vectors[..., 1]
    return turned
