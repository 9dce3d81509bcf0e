"""The hand-over note of what was planned or delivered."""

from __future__ import annotations

import hashlib
from pathlib import Path

from ..core.recipe import Recipe
from ..core.target import Note, Target, hand_over
from ..files import write_bytes
from .planning import Plan

__all__ = ["note_of", "write_notes"]


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
        emissive_strength=facts.emissive_strength,
    )


def write_notes(plan: Plan, target: Target, recipe: Recipe, folder: Path) -> dict[str, str]:
    """The note as Markdown and as a page, beside the folder of the files and not among them, where an engine would import it.

    Returns the sha256 of each by its name.
    """
    note, written = note_of(plan, target, recipe), {}
    for suffix, text in ((".md", note.markdown()), (".html", note.html())):
        name, content = f"{plan.target} hand-over{suffix}", text.encode()
        write_bytes(folder / name, content)
        written[name] = hashlib.sha256(content).hexdigest()
    return written
