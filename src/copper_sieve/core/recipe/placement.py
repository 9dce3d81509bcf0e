"""One geometry for a whole set: every source is moved alike as it is read, and the set's facts follow."""

from __future__ import annotations

import numpy as np
from pydantic import Field

from ..convert.transforms import Crop, GeometryStep, Offset, Turn, moved, size_after
from ..errors import RecipeInvalid, ShapeMismatch
from ..filters import resize
from ..raster import MAX_SIDE, Edges, Sampling, Size
from ..value import Value
from .model import Facts, Fit, Frame, Recipe

__all__ = ["SizeRequest", "fitted", "placed", "with_size", "with_step"]


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


def placed(values: np.ndarray, frame: Frame | None, sampling: Sampling, *, is_normal: bool) -> np.ndarray:
    """A source's array at its own size, moved by the set's geometry.

    Steps that count texels need the size they were written for, so a map of another size is brought to it first.
    """
    if frame is None or not frame.steps:
        return values
    whole = Size(frame.width, frame.height)
    if values.shape[:2] != (whole.height, whole.width) and any(isinstance(s, Crop | Offset) for s in frame.steps):
        values = resize(values, whole, frame.edges, sampling)
    return moved(values, frame.steps, is_normal=is_normal)


def _frame(recipe: Recipe) -> Frame:
    facts = recipe.facts
    return recipe.frame or Frame(width=facts.width, height=facts.height, edges=facts.edges)


def with_step(recipe: Recipe, step: GeometryStep) -> Recipe:
    """The recipe with one more step of geometry. Raises RecipeInvalid when a crop does not fit, and for a set in tiles.

    ``rise`` and ``tile_size`` are shares and length of the width, so they follow a change of the width; an axis that is
    cropped no longer tiles.
    """
    if recipe.tiles:
        raise RecipeInvalid("a set in tiles belongs to a mesh: cropped, turned or moved, its tiles would no longer fit it.")
    frame, facts = _frame(recipe), recipe.facts
    before = size_after(Size(frame.width, frame.height), frame.steps)
    try:
        after = size_after(before, [step])
    except ShapeMismatch as problem:
        raise RecipeInvalid(problem.message) from problem
    edges = facts.edges
    if isinstance(step, Turn) and step.quarters % 2:
        edges = Edges(x=edges.y, y=edges.x)
        width, height = facts.height, facts.width
    else:
        width, height = round(facts.width * after.width / before.width), round(facts.height * after.height / before.height)
    if isinstance(step, Crop):
        edges = Edges(
            x="mirror" if after.width < before.width else edges.x, y="mirror" if after.height < before.height else edges.y
        )
    wider = after.width / before.width
    rise = facts.rise / wider
    if rise > 1:
        raise RecipeInvalid(
            f"cropped so narrow, the surface would rise {rise * 100:.3g} % of its width; at most 100 % is possible. Crop less."
        )
    changed = facts.model_copy(
        update={
            "width": max(1, width),
            "height": max(1, height),
            "edges": edges,
            "rise": rise,
            "tile_size": None if facts.tile_size is None else facts.tile_size * wider,
        }
    )
    return recipe.model_copy(update={"facts": changed, "frame": frame.model_copy(update={"steps": (*frame.steps, step)})})


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
    return recipe.model_copy(update={"facts": changed, "frame": _frame(recipe)})
