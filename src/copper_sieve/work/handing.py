"""The hand-over note of what was planned or delivered."""

from __future__ import annotations

from ..core.recipe import Recipe
from ..core.target import Note, Target, hand_over
from .planning import Plan

__all__ = ["note_of"]


def note_of(plan: Plan, target: Target, recipe: Recipe) -> Note:
    """What whoever wires the plan's files has to know; files that are left out are not mentioned."""
    facts = recipe.facts
    names = {file.role: file.name for file in plan.files if file.left_out is None}
    return hand_over(
        target,
        names,
        set_name=plan.set,
        rise=facts.rise,
        tile_size=facts.tile_size,
        has_holes="opacity" in recipe.masters,
    )
