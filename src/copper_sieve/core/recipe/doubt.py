"""Where picks leave a map unsure."""

from __future__ import annotations

from ..derive.picks import PICK_FIT
from ..errors import RecipeInvalid
from ..operation import Part
from ..raster import Gray
from .evaluation import Evaluation
from .steps import operation_of

__all__ = ["pick_doubt"]


def pick_doubt(evaluation: Evaluation, master: str) -> Gray:
    """How unsure the picks of a master leave each texel of the working size, (H, W): 0 sure, 1 as without picks.

    Raises RecipeInvalid where the master does not come from picks.
    """
    made = evaluation.recipe.node_of(master)
    parts = () if made is None else operation_of(made[1]).parts
    if made is None or not any(part.key.startswith(PICK_FIT) for part in parts):
        raise RecipeInvalid(f"{master} does not come from picks, so no pick leaves it unsure.", master=master)
    fitted = operation_of(made[1]).measured(PICK_FIT)
    features = next(part for part in fitted.of if isinstance(part, Part))
    name, size = made[0], evaluation.working
    doubt = evaluation.measured(name, PICK_FIT).doubt(evaluation.measured(name, features.key.split("/")[0]))
    at = [*evaluation.tiles].index(evaluation.tile) if evaluation.tile is not None and len(doubt) > size.height else 0
    return doubt[at * size.height : (at + 1) * size.height]  # of tiles, features may lie one below the other
