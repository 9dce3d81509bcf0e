"""Two normals in one: the detail of one on the form of the other."""

from __future__ import annotations

from typing import Literal

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel, run_rows
from ..errors import ShapeMismatch
from ..operation import Operation, given, mixed_in
from ..operation import mask as limit
from ..params import Params, control
from ..raster import FloatArray, Gray, Vectors

__all__ = ["OPERATIONS", "blended", "BlendNormals", "blend_normals"]

_NEAR_FLAT = 1e-5


class BlendNormals(Params):
    """How the detail comes in."""

    amount: float = control(1.0, "Amount", "%", 0, 1, "How strong the detail is.", scale=100)
    way: Literal["turned", "summed"] = Field(
        default="turned",
        title="Way",
        description="Reoriented: the detail follows the base surface. Slopes added: as if the two heights were added.",
        json_schema_extra={"titles": ["Reoriented to the base", "Slopes added"]},
    )
    invert: bool = Field(
        default=False,
        title="Invert mask",
        description="The detail shows where the mask is black, not white.",
        json_schema_extra={"needs": "mask"},
    )


def blend_normals(
    base: Vectors,
    detail: Vectors,
    amount: float = 1.0,
    *,
    way: Literal["turned", "summed"] = "turned",
    mask: Gray | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """Detail normals on base normals; either leaves the other alone where it is flat, and both commute with turning green.

    Parameters
    ----------
    base, detail : (..., 3) float32 vectors, any length
    amount : 0..1, scales the detail's slopes
    mask : (...), 0..1, scales them texel by texel; None is 1 everywhere
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
    Examples
    --------
    >>> flat, lean = np.float32([[[0, 0, 1]]]), np.float32([[[0.6, 0, 0.8]]])
    >>> blend_normals(flat, lean)[0, 0].round(3).tolist()  # a flat base leaves the detail alone
    [0.6000000238418579, 0.0, 0.800000011920929]
    """
    if base.shape != detail.shape or base.shape[-1:] != (3,):
        raise ShapeMismatch(f"base and detail must have one shape (..., 3) (got {base.shape} and {detail.shape}).")
    rows = [
        np.ascontiguousarray(part, np.float32).reshape(-1, base.shape[-2] if base.ndim > 1 else 1, 3) for part in (base, detail)
    ]
    if mask is not None and mask.shape != base.shape[:-1]:
        raise ShapeMismatch(f"a mask must have the shape of the maps, {base.shape[:-1]} (got {mask.shape}).")
    shares = np.full((1, 1), amount, np.float32) if mask is None else (mask * np.float32(amount)).reshape(rows[0].shape[:2])
    out = np.empty_like(rows[0])
    kernel = _summed if way == "summed" else _turned
    run_rows(kernel, rows[0].shape[0], rows[0].shape[1], cancel, *rows, np.broadcast_to(shares, rows[0].shape[:2]), out)
    return out.reshape(base.shape)


@numba.njit(nogil=True, cache=True)
def _unit(x, y, z):
    """Of length 1; a zero vector is flat."""
    square = x * x + y * y + z * z
    if square < np.float32(1e-24):
        return np.float32(0), np.float32(0), np.float32(1)
    inverse = np.float32(1) / np.sqrt(square)
    return x * inverse, y * inverse, z * inverse


@numba.njit(nogil=True, cache=True)
def _turned(first, last, base, detail, shares, out):
    one, zero = np.float32(1), np.float32(0)
    for row in range(first, last):
        for i in range(base.shape[1]):
            bx, by, bz = _unit(base[row, i, 0], base[row, i, 1], base[row, i, 2])
            dx, dy, dz = _unit(detail[row, i, 0], detail[row, i, 1], detail[row, i, 2])
            amount = shares[row, i]
            dx, dy, dz = _unit(dx * amount, dy * amount, dz)
            tz = bz + one
            along = (-bx * dx - by * dy + tz * dz) / max(tz, np.float32(_NEAR_FLAT))
            x, y, z = bx * along + dx, by * along + dy, max(tz * along - dz, zero)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = _unit(x, y, z)


@numba.njit(nogil=True, cache=True)
def _summed(first, last, base, detail, shares, out):
    for row in range(first, last):
        for i in range(base.shape[1]):
            bx, by, bz = _unit(base[row, i, 0], base[row, i, 1], base[row, i, 2])
            dx, dy, dz = _unit(detail[row, i, 0], detail[row, i, 1], detail[row, i, 2])
            amount = shares[row, i]
            x, y = bx * dz + amount * dx * bz, by * dz + amount * dy * bz
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = _unit(x, y, bz * dz)


def blended(
    base: Vectors,
    detail: Vectors,
    mask: Gray | None = None,
    *,
    params: BlendNormals,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """``blend_normals`` as its parameters say; the mask is inverted where they ask for it.

    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (2, 2, 3))
    >>> blended(flat, flat, params=BlendNormals())[0, 0].tolist()
    [0.0, 0.0, 1.0]
    """
    shares = 1 - mask if mask is not None and params.invert else mask
    return blend_normals(base, detail, params.amount, way=params.way, mask=shares, cancel=cancel)


OPERATIONS = (
    Operation(
        "blend_normals",
        "given, with detail",
        blended,
        BlendNormals,
        slots=(given("base", "normal"), mixed_in("detail", "normal"), limit()),
        outputs=("normal",),
    ),
)
