"""A given map mixed with another of its kind: by amount, by a mask, and in the usual ways."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field, model_validator

from ..errors import ShapeMismatch
from ..operation import Operation, given, mixed_in
from ..operation import mask as limit
from ..params import Params, choice, control
from ..raster import FloatArray, Gray
from ..vectors import renormalized
from .blending import BlendNormals, blended

__all__ = ["OPERATIONS", "Mix", "MixNormals", "mixed", "mixed_normals"]

Way = Literal["replace", "multiply", "overlay", "lighter", "darker", "add"]


class Mix(Params):
    """How the other map is mixed in."""

    amount: float = control(0.5, "Amount", "%", 0, 1, "How much of the other map shows.", scale=100)
    way: Way = choice(
        "replace",
        "Way",
        "How the two meet.",
        ["Instead", "Multiplied", "Overlaid", "The lighter", "The darker", "Added about its middle"],
    )
    invert: bool = Field(
        default=False,
        title="Invert mask",
        description="The other map shows where the mask is black, not white.",
        json_schema_extra={"needs": "mask"},
    )


class MixNormals(Params):
    """As of old: the way between two vectors, which flattens both. Kept for recipes that have it, and no longer offered."""

    amount: float = control(0.5, "Amount", "%", 0, 1, "How much of the other map shows.", scale=100)
    invert: bool = Field(
        default=False,
        title="Invert mask",
        description="The other map shows where the mask is black, not white.",
        json_schema_extra={"needs": "mask"},
    )

    @model_validator(mode="before")
    @classmethod
    def _without_way(cls, content: Any) -> Any:
        return {key: value for key, value in content.items() if key != "way"} if isinstance(content, dict) else content


def mixed(own: FloatArray, other: FloatArray, mask: Gray | None = None, *, params: Mix | None = None) -> FloatArray:
    """Let ``other`` into ``own`` by amount times mask.

    Convention: values as masters hold them; overlay and its kin are meant for 0..1. Vectors go through ``mixed_normals``.

    Parameters
    ----------
    own, other : (H, W) or (H, W, 3) float32
    mask : (H, W) float32, 0..1, or None for everywhere
    Returns
    -------
    mixed : as ``own``; at amount 0 or under a black mask ``own`` itself, bit for bit
    Raises
    ------
    ShapeMismatch : shapes differ
    Examples
    --------
    >>> black, white = np.zeros((1, 1), np.float32), np.ones((1, 1), np.float32)
    >>> mixed(black, white, params=Mix(amount=0.25)).tolist()
    [[0.25]]
    """
    params = params or Mix()
    if own.shape != other.shape or (mask is not None and mask.shape != own.shape[:2]):
        raise ShapeMismatch(f"maps to be mixed must have one shape (got {own.shape} and {other.shape}).")
    share = _share(params, mask, own.ndim)
    return own + (_met(own, other, params.way) - own) * share


def mixed_normals(
    own: FloatArray, other: FloatArray, mask: Gray | None = None, *, params: MixNormals | None = None
) -> FloatArray:
    """As ``mixed`` for (H, W, 3) vectors: the way between them, of unit length.

    Examples
    --------
    >>> flat, tilted = np.float32([[[0, 0, 1]]]), np.float32([[[0.6, 0, 0.8]]])
    >>> mixed_normals(flat, tilted, np.float32([[1]])).round(1).tolist()
    [[[0.30000001192092896, 0.0, 0.8999999761581421]]]
    """
    params = params or MixNormals()
    return renormalized(mixed(own, other, mask, params=Mix(amount=params.amount, invert=params.invert)))


def _share(params: Mix, mask: Gray | None, ndim: int) -> FloatArray | np.float32:
    amount = np.float32(params.amount)
    if mask is None:
        return amount
    share = amount * (1 - mask if params.invert else mask)
    return share[..., None] if ndim == 3 else share


def _met(own: FloatArray, other: FloatArray, way: Way) -> FloatArray:
    match way:
        case "multiply":
            return own * other
        case "overlay":
            return np.where(own < 0.5, 2 * own * other, 1 - 2 * (1 - own) * (1 - other))
        case "lighter":
            return np.maximum(own, other)
        case "darker":
            return np.minimum(own, other)
        case "add":
            return np.clip(own + other - np.float32(0.5), 0, 1)
        case _:
            return other


_NORMALS = (given("own", "normal"), mixed_in("other", "normal"), limit())
OPERATIONS = (
    Operation("mixed", "mixed", mixed, Mix, slots=(given("own"), mixed_in("other"), limit()), outputs=()),
    Operation(
        "mixed_normals",
        "mixed",
        blended,
        BlendNormals,
        slots=_NORMALS,
        outputs=("normal",),
        effort=2,
        number=2,
        older=(
            Operation(
                "mixed_normals",
                "mixed",
                mixed_normals,
                MixNormals,
                slots=_NORMALS,
                outputs=("normal",),
                was="the way between two vectors, which flattens both",
            ),
        ),
    ),
)
