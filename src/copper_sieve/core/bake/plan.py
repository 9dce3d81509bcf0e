"""What is asked of a bake, and what of it can be had from what is there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..baked_maps import BAKED, MapName
from ..errors import RecipeInvalid
from ..mesh.shape import Shape
from ..mesh.topology import edges_of

__all__ = ["BakePlan", "left_out"]

_LARGEST = 8192


@dataclass(frozen=True)
class BakePlan:
    """What a bake makes.

    Parameters
    ----------
    maps : names of ``BAKED``
    size : px of each side
    samples : of each texel each way, 1 to 4, for what is cast from high to low
    rays : for each texel of occlusion and thickness
    offset : how far above the low mesh rays start, in units of the mesh; None: found from the two
    cage : the low mesh grown, as rays start from it; None: rays start along normals
    averaged : without a cage, whether rays start along normals averaged by position; None: where the low mesh has hard edges
    seed : of the rays' directions
    id_by : what a color of the ID map stands for; None: a material, or a part where all are of one
    """

    maps: tuple[MapName, ...] = ("normal",)
    size: int = 2048
    samples: int = 1
    rays: int = 256
    offset: float | None = None
    cage: Shape | None = None
    averaged: bool | None = None
    seed: int = 0
    id_by: Literal["material", "part"] | None = None

    def __post_init__(self) -> None:
        unknown = [name for name in self.maps if name not in BAKED]
        if unknown or not self.maps:
            raise RecipeInvalid(f"maps that can be baked are {', '.join(BAKED)} (got {', '.join(unknown) or 'none'}).")
        for name, low, high in (("size", 8, _LARGEST), ("samples", 1, 4), ("rays", 1, 4096)):
            if not low <= getattr(self, name) <= high:
                raise RecipeInvalid(f"{name} must lie between {low} and {high} (got {getattr(self, name)}).")
        if self.offset is not None and not self.offset > 0:
            raise RecipeInvalid(f"the offset must be more than 0 (got {self.offset:g}).")


def left_out(plan: BakePlan, low: Shape, high: Shape | None) -> dict[MapName, str]:
    """The maps of a plan that cannot be baked from what is there, and why.

    Examples
    --------
    >>> import numpy as np
    >>> flat = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]))
    >>> left_out(BakePlan(("normal", "occlusion")), flat, None)
    {'normal': 'there is no high mesh to bake it from'}
    """
    giver = high or low
    why: dict[MapName, str] = {}
    for name in plan.maps:
        if BAKED[name].needs_high and high is None:
            why[name] = "there is no high mesh to bake it from"
        elif BAKED[name].needs_closed and (count := edges_of(giver).open_count):
            why[name] = f"the mesh is open at {count} edges, so it has no inside"
    return why
