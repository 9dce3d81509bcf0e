"""A constant in place of a map."""

from __future__ import annotations

import numpy as np
from pydantic import Field

from ..operation import Operation
from ..params import Params
from ..raster import FloatArray, Size

__all__ = ["OPERATIONS", "Constant", "constant_map"]


class Constant(Params):
    """One value, or three for a color or a vector, in the master's own units."""

    value: float | tuple[float, float, float] = Field(default=0.5, title="Value", description="The same everywhere.")


def _constant(*, size: Size, params: Constant) -> FloatArray:
    return constant_map(params.value, size)


def constant_map(value: float | tuple[float, float, float], size: Size) -> FloatArray:
    """Return (H, W) or (H, W, 3) float32 that holds ``value`` exactly, stored once (a read-only broadcast view).

    Examples
    --------
    >>> constant_map(0.25, Size(2, 1)).tolist()
    [[0.25, 0.25]]
    """
    flat = np.asarray(value, np.float32)
    return np.broadcast_to(flat, (size.height, size.width, *flat.shape))


OPERATIONS = (Operation("constant", "constant", _constant, Constant, slots=(), outputs=(), facts=("size",), effort=0),)
