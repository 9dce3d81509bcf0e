"""One geometry for a whole set: every source is moved alike as it is read, and the set's facts follow."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..errors import RecipeInvalid, ShapeMismatch
from ..filters import resize
from ..prepare.decision import Kind
from ..prepare.steps import NOWHERE, Between, GeometryStep, applied, counts_texels, edges_after, size_after
from ..quantities import quantity
from ..raster import MAX_SIDE, Edges, Sampling, Size
from ..value import Value
from .model import Facts, Fit, Frame, Recipe

__all__ = ["SizeRequest", "fitted", "kind_of", "placed", "with_size", "with_step", "with_steps"]


class SizeRequest(Value):
    """A new size of the set. The longer side in px keeps the shape; two sides may change it."""

    longer: int = Field(ge=1, le=MAX_SIDE)
    sampling: Sampling = "smooth"
    keep_shine: bool = False


def fitted(values: np.ndarray, fit: Fit | None, frame: Frame | None, facts: Facts) -> np.ndarray:
    """A source's array cropped around its middle to the shape of the set's files, where that was asked for."""
    if fit != "crop":
        return values
    whole, (rows, columns) = frame or facts, values.shape[:2]
    wide, high = min(columns, round(rows * whole.width / whole.height)), min(rows, round(columns * whole.height / whole.width))
    left, top = (columns - max(wide, 1)) // 2, (rows - max(high, 1)) // 2
    return np.ascontiguousarray(values[top : top + max(high, 1), left : left + max(wide, 1)])


def kind_of(key: str) -> Kind:
    """How maps of a quantity are joined and filled where a set is made to repeat, or loses a spot.

    Examples
    --------
    >>> kind_of("photo"), kind_of("emissive"), kind_of("normal"), kind_of("gloss"), kind_of("curvature"), kind_of("metallic")
    ('color', 'light', 'normal', 'scalar', 'signed', 'mask')
    """
    row = quantity(key)
    if row.master in _KINDS:
        return _KINDS[row.master]
    if row.color == "srgb":
        return "color"
    if row.channels == 3:
        return "mask"  # vectors of an object: moved, never mixed
    return "signed" if row.low < 0 else "scalar"


_KINDS: Mapping[str | None, Kind] = MappingProxyType(
    {"emissive": "light", "normal": "normal", "height": "height", "metallic": "mask", "opacity": "mask"}
)


def placed(
    values: np.ndarray,
    frame: Frame | None,
    sampling: Sampling,
    kind: Kind,
    *,
    between: Between = NOWHERE,
    cancel: Cancel = NEVER,
) -> np.ndarray:
    """A source's array at its own size, moved by the set's geometry.

    Steps that count texels need the size they were written for, so a map of another size is brought to it first.
    """
    if frame is None or not frame.steps:
        return values
    whole = Size(frame.width, frame.height)
    if values.shape[:2] != (whole.height, whole.width) and counts_texels(frame.steps):
        values = resize(values, whole, frame.edges, sampling)
    told = {"is_sharp": sampling == "nearest", "between": between, "cancel": cancel}
    return applied(values, frame.steps, kind, frame.edges, **told)


def _frame(recipe: Recipe) -> Frame:
    facts = recipe.facts
    return recipe.frame or Frame(width=facts.width, height=facts.height, edges=facts.edges)


def with_step(recipe: Recipe, step: GeometryStep) -> Recipe:
    """The recipe with one more step of geometry. Raises RecipeInvalid as ``with_steps`` does."""
    return with_steps(recipe, (*_frame(recipe).steps, step))


def with_steps(recipe: Recipe, steps: Sequence[GeometryStep]) -> Recipe:
    """The recipe whose files go through these steps. Raises RecipeInvalid when a crop does not fit, and for a set in tiles.

    ``rise`` and ``tile_size`` are shares and length of the width, so they follow a change of the width; an axis that is cropped
    no longer tiles, one that was made to repeat does.
    """
    if recipe.tiles:
        raise RecipeInvalid("a set in tiles belongs to a mesh: cropped, turned or moved, its tiles would no longer fit it.")
    frame, facts = _frame(recipe), recipe.facts
    whole = Size(frame.width, frame.height)
    try:
        before, after = size_after(whole, frame.steps), size_after(whole, steps)
    except ShapeMismatch as problem:
        raise RecipeInvalid(problem.message) from problem
    scale = max(facts.width, facts.height) / max(before.width, before.height)
    told, now = edges_after(frame.edges, frame.steps, whole), edges_after(frame.edges, steps, whole)
    edges = Edges(x=now.x if now.x != told.x else facts.edges.x, y=now.y if now.y != told.y else facts.edges.y)
    wider = after.width / before.width
    rise = facts.rise / wider
    if rise > 1:
        raise RecipeInvalid(
            f"cropped so narrow, the surface would rise {rise * 100:.3g} % of its width; at most 100 % is possible. Crop less."
        )
    changed = facts.model_copy(
        update={
            "width": max(1, round(after.width * scale)),
            "height": max(1, round(after.height * scale)),
            "edges": edges,
            "rise": rise,
            "tile_size": None if facts.tile_size is None else facts.tile_size * wider,
        }
    )
    return recipe.model_copy(update={"facts": changed, "frame": frame.model_copy(update={"steps": tuple(steps)})})


def with_size(recipe: Recipe, request: SizeRequest) -> Recipe:
    """The recipe at another size; sources stay as they are, so going back loses nothing."""
    facts = recipe.facts
    scale = request.longer / max(facts.width, facts.height)
    changed = facts.model_copy(
        update={
            "width": max(1, round(facts.width * scale)),
            "height": max(1, round(facts.height * scale)),
            "sampling": request.sampling,
            "keep_shine": request.keep_shine,
        }
    )
    return recipe if changed == facts else recipe.model_copy(update={"facts": changed, "frame": _frame(recipe)})
