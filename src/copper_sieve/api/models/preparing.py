"""What is asked about preparing a set's pictures."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ...core.prepare.decision import Guide
from ...core.prepare.spots import Path
from ...core.prepare.steps import GeometryStep
from ...core.recipe import Recipe
from .base import Incoming

__all__ = ["PatternRequest", "RepeatRequest", "SpotRequest", "StepsDraft", "StepsWrite", "VariantRequest"]

Steps = Annotated[list[GeometryStep], Field(max_length=200)]
Share = Annotated[float, Field(ge=0, le=1)]
Side = Annotated[float, Field(ge=0.05, le=0.98)]


class StepsWrite(Incoming):
    """The steps that a set's pictures go through from now on, in order."""

    expects: int
    steps: Steps


class StepsDraft(Incoming):
    """A recipe, and the steps that its pictures should go through instead of its own."""

    recipe: Recipe
    steps: Steps


class RepeatRequest(Incoming):
    """A recipe whose pictures should repeat after its first ``at`` steps; sides and overlap in shares, None to be fitted."""

    recipe: Recipe
    at: int = Field(ge=0)
    x: bool = True
    y: bool = True
    sides: tuple[Side | None, Side | None] = (None, None)
    overlap: Side | None = None
    guide: Guide = Guide()
    period: tuple[Share | None, Share | None] = (None, None)
    is_square: bool = False
    evens: bool | None = Field(default=None, description="Whether the light of colors is evened first; None: where it stands out")
    is_quick: bool = Field(default=False, description="A line that is found in a moment, while a control moves")


class PatternRequest(Incoming):
    """A recipe whose pictures should repeat by their own pattern after its first ``at`` steps."""

    recipe: Recipe
    at: int = Field(ge=0)


class VariantRequest(Incoming):
    """A recipe of whose pictures, as they are after its first ``at`` steps, another one is made out of pieces."""

    recipe: Recipe
    at: int = Field(ge=0)
    seed: int = Field(ge=1, le=1 << 30)
    cells: int = Field(ge=2, le=12)


class SpotRequest(Incoming):
    """A spot of a recipe's pictures as they are after its first ``at`` steps, in shares; its radii are shares of the width."""

    recipe: Recipe
    at: int = Field(ge=0)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    across: float = Field(gt=0, le=1)
    down: float = Field(gt=0, le=1)
    path: Path = Field(default=(), max_length=200, description="From its middle on, what a brushed one is drawn through")
    brush: float = Field(default=0, ge=0, le=0.05, description="Radius of the brush; 0 for an oval")
