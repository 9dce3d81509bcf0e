"""Two normals in one: the detail of one on the form of the other."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..derive.params import Params, control
from ..errors import ShapeMismatch
from ..raster import FloatArray
from .normals import renormalized

__all__ = ["BlendNormals", "blend_normals"]

_NEAR_FLAT = 1e-5


class BlendNormals(Params):
    """How the detail comes in."""

    amount: float = control(1.0, "Amount", "%", 0, 1, "How much of the detail comes in.", scale=100)
    way: Literal["turned", "summed"] = Field(
        default="turned",
        title="Way",
        description="Turned lays the detail onto the form; summed adds the slopes, as adding the heights would.",
        json_schema_extra={"titles": ["Turned onto the form", "Slopes summed"]},
    )


def blend_normals(
    base: FloatArray, detail: FloatArray, amount: float = 1.0, *, way: Literal["turned", "summed"] = "turned"
) -> FloatArray:
    """Detail normals on base normals; either leaves the other alone where it is flat, and both commute with turning green.

    Parameters
    ----------
    base, detail : (..., 3) float32 vectors, any length
    amount : 0..1, scales the detail's slopes
    Returns
    -------
    normal : (..., 3) float32, unit length
    Raises
    ------
    ShapeMismatch : shapes differ
    References
    ----------
    Turned: reoriented normal mapping, Barré-Brisebois & Hill 2012, z clamped at 0. Summed: partial derivatives add,
    so it equals the normal of the summed heights.
    """
    if base.shape != detail.shape:
        raise ShapeMismatch(f"base and detail must have one shape (got {base.shape} and {detail.shape}).")
    b, d = renormalized(base), renormalized(detail)
    slopes = d[..., :2] * np.float32(amount)
    if way == "summed":
        xy = b[..., :2] * d[..., 2:] + slopes * b[..., 2:]
        return renormalized(np.concatenate([xy, b[..., 2:] * d[..., 2:]], -1))
    d = renormalized(np.concatenate([slopes, d[..., 2:]], -1))
    t = b + np.array([0, 0, 1], np.float32)
    u = d * np.array([-1, -1, 1], np.float32)
    dot = np.einsum("...i,...i->...", t, u)[..., None]
    turned = t * (dot / np.maximum(t[..., 2:], _NEAR_FLAT)) - u
    turned[..., 2] = np.maximum(turned[..., 2], 0)
    return renormalized(turned)
