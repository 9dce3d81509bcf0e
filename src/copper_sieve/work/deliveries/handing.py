"""The hand-over note of what was planned or delivered."""

from __future__ import annotations

import hashlib
from pathlib import Path

from ...core.plan import Plan, PlannedFile, as_planned
from ...core.recipe import Recipe, rise_known
from ...core.target import Handed, Note, Target, hand_over
from ...files import write_bytes

__all__ = ["note_of", "write_notes"]


def note_of(plan: Plan, target: Target, recipe: Recipe) -> Note:
    """What whoever wires the plan's files has to know; files that are left out are not mentioned."""
    facts = recipe.facts
    written = [file for file in plan.files if file.is_written]
    handed = Handed(
        names={file.role: file.name for file in written},
        set_name=plan.set,
        rise=facts.rise,
        rise_known=rise_known(facts),
        tile_size=facts.tile_size,
        has_holes=plan.has_holes,
        emissive_strength=facts.emissive_strength,
        fills={file.role: _fills(file) for file in written},
    )
    return hand_over(as_planned(target, plan), handed)


def _fills(file: PlannedFile) -> tuple[str, ...]:
    return tuple(said for channel in file.channels if (said := channel.fill_said) is not None)


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
