"""Where a surface bends, as a mask: edges that wear, folds that hold dirt."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..operation import Operation, master
from ..params import Params, choice, control
from ..raster import Gray

__all__ = ["OPERATIONS", "BendsMask", "bends_mask"]


class BendsMask(Params):
    """Which way it must bend to count, and how much."""

    side: Literal["edges", "folds"] = choice(
        "edges", "Where", "Edges stand out and wear first; folds lie in and hold dirt.", ["on edges", "in folds"]
    )
    start: float = control(0.1, "From", "", 0, 1, "How sharply it must bend to count at all; 1 is the sharpest there is.")
    softness: float = control(0.3, "Softness", "", 0.01, 1, "How much sharper it must bend to count in full.")


def bends_mask(curvature: Gray, *, params: BendsMask | None = None) -> Gray:
    """A mask (H, W) from 0 to 1, of curvature from −1 to 1.

    Examples
    --------
    >>> bends_mask(np.float32([[0, 1, -1]])).tolist()
    [[0.0, 1.0, 0.0]]
    """
    params = params or BendsMask()
    bend = curvature if params.side == "edges" else -curvature
    share = np.clip((bend - np.float32(params.start)) / np.float32(params.softness), 0, 1)
    return share * share * (3 - 2 * share)


OPERATIONS = (Operation("bends_mask", "edges or folds", bends_mask, BendsMask, slots=(master("curvature"),), outputs=()),)
