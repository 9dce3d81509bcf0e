"""Facts of a set that its files say together: how far its height rises, and where its maps repeat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..color import srgb_from_linear
from ..convert.rise import MeasuredRise, measured_rise
from ..derive.tilt import USUAL_TILT, rise_for_tilt
from ..filters import resize
from ..quantities import quantity
from ..raster import Gray, Size
from ..recipe import Evaluation, Recipe, master_ref, origin_of
from .content import seams

__all__ = ["Seam", "heights_of", "rise_said", "seams_of", "with_fitted_rise", "with_known_rise", "with_measured_rise"]

_MEASURED_PX = 2048  # longer side: more would say the same


@dataclass(frozen=True)
class Seam:
    """How much more a given map jumps over its borders, left to right and top to bottom, than beside them."""

    master: str
    across: float
    down: float


def seams_of(evaluation: Evaluation) -> list[Seam]:
    """The seam of every given map as it lies now, the worst first."""
    recipe, found = evaluation.recipe, []
    for key in recipe.masters:
        if origin_of(recipe, key) != "given":
            continue
        values = evaluation.stored(recipe.masters[key])
        row = quantity(key)
        stored = (
            srgb_from_linear(values) if row.color == "srgb" else (values - np.float32(row.low)) / np.float32(row.high - row.low)
        )
        across, down = seams(stored)  # as files have them, which is how intake saw them
        found.append(Seam(key, round(across, 2), round(down, 2)))
    return sorted(found, key=lambda seam: -max(seam.across, seam.down))


def rise_said(evaluation: Evaluation) -> MeasuredRise | None:
    """What a given height and given normals say of the rise; None where they are not both there."""
    recipe = evaluation.recipe
    if any(origin_of(recipe, key) != "given" for key in ("height", "normal")):
        return None
    normal, height = (evaluation.stored(recipe.masters[key]) for key in ("normal", "height"))
    rows, columns = min(normal.shape[:2], height.shape[:2])
    scale = min(1.0, _MEASURED_PX / max(rows, columns))
    size = Size(max(1, round(columns * scale)), max(1, round(rows * scale)))
    edges = recipe.facts.edges
    return measured_rise(resize(normal, size, edges), resize(height, size, edges), edges)


def with_measured_rise(evaluation: Evaluation) -> Recipe:
    """The recipe with the rise that its files say, where nobody has told it and they agree; else as it is."""
    recipe = evaluation.recipe
    said = rise_said(evaluation) if recipe.facts.rise_from != "told" else None
    if said is None or not said.is_believed:
        return recipe
    facts = {"rise": said.rise, "rise_from": "measured", "rise_fit": round(min(said.fit, 1.0), 4)}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=facts)})


def heights_of(evaluation: Evaluation) -> list[Gray]:
    """The height at the working size, of every tile that has one; none where it is absent."""
    ref = master_ref("height")
    return [one.value(ref, one.working) for one in evaluation.each if one.has(ref)]


def with_fitted_rise(evaluation: Evaluation, tilt: float = USUAL_TILT) -> Recipe:
    """The recipe with the rise at which its height leans by ``tilt`` degrees on average; as it is where there is no height.

    It is limited, so that nothing grows steeper than surfaces are, and a nearly plain picture stays nearly flat.
    """
    recipe = evaluation.recipe
    heights = heights_of(evaluation)
    if not heights:
        return recipe
    rise = min(rise_for_tilt(height, tilt, recipe.facts.edges) for height in heights)
    facts = {"rise": rise, "rise_from": "fitted", "rise_fit": None}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=facts)})


def with_known_rise(evaluation: Evaluation) -> Recipe:
    """The recipe with the rise that its files say; of a derived height that nobody has told, the one that leans as usual."""
    recipe = evaluation.recipe
    if recipe.facts.rise_from == "assumed" and origin_of(recipe, "height") not in ("given", "absent"):
        return with_fitted_rise(evaluation)
    return with_measured_rise(evaluation)
