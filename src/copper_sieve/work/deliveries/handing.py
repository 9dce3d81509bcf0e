"""The hand-over note of what was planned or delivered."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path

from ...core.plan import Plan, PlannedFile, as_planned
from ...core.recipe import Recipe, maps_made, rise_known
from ...core.target import Handed, Note, Target, hand_over
from ...files import write_bytes

__all__ = ["note_of", "write_notes"]


def note_of(plan: Plan, target: Target, recipe: Recipe) -> Note:
    """What whoever wires the plan's files has to know; files that are left out are not mentioned."""
    facts = recipe.facts
    written = [file for file in plan.files if file.is_written]
    handed = Handed(
        names={file.role: file.pattern or file.name for file in written},
        tiles=plan.tiles,
        set_name=plan.set,
        rise=facts.rise,
        rise_known=rise_known(facts),
        tile_size=facts.tile_size,
        has_holes=plan.has_holes,
        worn_by=plan.worn_by,
        is_padded=plan.is_padded,
        emissive_strength=facts.emissive_strength,
        made=maps_made(recipe),
        fills={role: _fills([file for file in written if file.role == role]) for role in {file.role for file in written}},
    )
    return hand_over(as_planned(target, plan), handed)


def _fills(files: Sequence[PlannedFile]) -> tuple[str, ...]:
    """The sentences on fills of one file, or of the same file of all tiles: which tiles, where it is not all."""
    where: dict[str, list[str]] = {}
    for file in files:
        for said in (channel.fill_said for channel in file.channels):
            if said is not None:
                where.setdefault(said, []).append(str(file.tile))
    return tuple(said if len(tiles) == len(files) else f"{said}, in tile {', '.join(tiles)}" for said, tiles in where.items())


def write_notes(plan: Plan, target: Target, recipe: Recipe, folder: Path) -> dict[str, str]:
    """The note as Markdown and as a page, beside the folder of the files and not among them, where an engine would import it.

    Returns the sha256 of each by its name.
    """
    note, written = note_of(plan, target, recipe), {}
    folder.mkdir(parents=True, exist_ok=True)
    for suffix, text in ((".md", note.markdown()), (".html", note.html())):
        name, content = f"{plan.target} hand-over{suffix}", text.encode()
        write_bytes(folder / name, content)
        written[name] = hashlib.sha256(content).hexdigest()
    return written
