"""Preparing a set's pictures: what is decided by looking at them, before the decision is a step of its recipe."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ..errors import RecipeInvalid
from ..prepare.decision import Guide, Kind, Repeat
from ..prepare.joining import coded
from ..prepare.pattern import pattern_of
from ..prepare.piecing import pieced
from ..prepare.spots import Path, Spot, Spots, places_for
from ..prepare.steps import GeometryStep, active
from ..prepare.tile import DECIDED_PX, Asked, decided
from ..prepare.variant import Variant
from ..raster import FloatArray, Size
from .evaluation import Evaluation
from .model import Recipe
from .placement import kind_of, with_steps
from .refs import source_ref

__all__ = ["repeat_for", "spots_for", "steps_by_pattern", "steps_of", "variant_for", "with_repeat"]

_BY: tuple[Kind, ...] = ("color", "height", "normal")  # what decisions go by, where the set has it


def steps_of(recipe: Recipe) -> tuple[GeometryStep, ...]:
    """The steps that a set's files go through."""
    return recipe.frame.steps if recipe.frame is not None else ()


def _before(evaluation: Evaluation, steps: Sequence[GeometryStep]) -> Evaluation:
    """The set with these steps alone, at the size that is decided at."""
    recipe = with_steps(evaluation.recipe, steps)
    longer = min(DECIDED_PX, max(recipe.facts.width, recipe.facts.height))
    return replace(evaluation.of(recipe), longer_px=longer)


def _maps(evaluation: Evaluation) -> dict[Kind, FloatArray]:
    """What its files give of each kind that decisions go by; of another kind where there is none of those."""
    found: dict[Kind, FloatArray] = {}
    for name, source in evaluation.recipe.sources.items():
        for key in source.reads.values():
            kind = kind_of(key)
            if kind not in found and (kind in _BY or not found):
                found[kind] = evaluation.value(source_ref(name, key), evaluation.size)
    wanted: dict[Kind, FloatArray] = {kind: found[kind] for kind in _BY if kind in found}
    if not found:
        raise RecipeInvalid("the set has no file to prepare: its maps are made of values alone.")
    return wanted or found


def repeat_for(evaluation: Evaluation, asked: Asked, at: int | None = None) -> Repeat:
    """Decide how a set is made to repeat after its first ``at`` steps, all of them by default. Raises RecipeInvalid."""
    steps = steps_of(evaluation.recipe)
    before, at = steps[:at], len(steps) if at is None else at
    seen = _before(evaluation, before)
    whole = Size(seen.recipe.facts.width, seen.recipe.facts.height)
    wraps = _known_wraps(seen.recipe, before)
    made = decided(_maps(seen), asked, wraps=wraps, whole=whole, cancel=evaluation.cancel)
    now = steps[at] if at < len(steps) else None
    is_painted = any(touch.strokes for touch in evaluation.recipe.touches.values())
    if isinstance(now, Repeat) and is_painted:
        return made.model_copy(update={"painted_at": now.painted_at or now.tile})
    return made


def steps_by_pattern(evaluation: Evaluation, at: int) -> tuple[GeometryStep, ...]:
    """The steps of a set that repeats by its picture's own pattern: turned straight first where it has to be.

    Its repeat is step ``at``, or becomes the one after the first ``at``. Raises RecipeInvalid where there is no pattern.
    """
    steps = steps_of(evaluation.recipe)
    before, now, after = steps[:at], steps[at] if at < len(steps) else None, steps[at + 1 :]
    kind, values = next(iter(_maps(_before(evaluation, before)).items()))
    found = pattern_of(np.atleast_3d(coded(values, kind)))
    if found.turn is not None:
        before = (*before, found.turn)
    changed = with_steps(evaluation.recipe, before if now is None else (*before, now))
    asked = Asked(sides=found.sides, period=found.period, guide=now.guide if isinstance(now, Repeat) else Guide())
    return (*before, repeat_for(evaluation.of(changed), asked, len(before)), *after)


def _known_wraps(recipe: Recipe, steps: Sequence[GeometryStep]) -> tuple[bool, bool]:
    """Along which axes a set is known to repeat: somebody told it, or a step made it so. What was guessed may be made so."""
    edges, is_told = recipe.facts.edges, recipe.facts.edges_from == "told"
    made = [step for step in active(steps) if isinstance(step, Repeat)]
    x, y = any(step.x is not None for step in made), any(step.y is not None for step in made)
    return edges.x == "wrap" and (is_told or x), edges.y == "wrap" and (is_told or y)


def variant_for(evaluation: Evaluation, seed: int, cells: int, at: int) -> Variant:
    """Decide which pieces make another picture of a set after its first ``at`` steps. Raises RecipeInvalid."""
    seen = _before(evaluation, steps_of(evaluation.recipe)[:at])
    edges = seen.recipe.facts.edges
    if (edges.x, edges.y) != ("wrap", "wrap"):
        raise RecipeInvalid(
            "a variant is made of what repeats across and down. Make it repeat first, or say under Edges that it does."
        )
    return Variant(seed=seed, cells=cells, pieces=pieced(_maps(seen), seed, cells, cancel=evaluation.cancel))


def spots_for(
    evaluation: Evaluation, spot: tuple[float, float, float, float], at: int, *, path: Path = (), brush: float = 0
) -> list[Spot]:
    """The places that a spot of step ``at`` is best filled from, the best first.

    ``spot`` is x, y and the radii across and down, in shares, ``path`` and ``brush`` those of a brushed one; the step may be
    there already, and its spots are taken out before. Raises RecipeInvalid where nothing fits.
    """
    steps = steps_of(evaluation.recipe)
    now = steps[at] if at < len(steps) else None
    others = now.spots if isinstance(now, Spots) else ()
    seen = _before(evaluation, steps[:at])
    edges = seen.recipe.facts.edges
    maps = [coded(values, kind) for kind, values in _maps(seen).items()]
    return places_for(maps, spot, others, path=path, brush=brush, wraps=(edges.x == "wrap", edges.y == "wrap"))


def with_repeat(evaluation: Evaluation, asked: Asked | None = None) -> Recipe:
    """The recipe of a set made to repeat, by a decision made now, in the place of the one that it has. Raises RecipeInvalid."""
    steps = list(steps_of(evaluation.recipe))
    at = next(_repeats(steps), len(steps))
    steps[at : at + 1] = [repeat_for(evaluation, asked or Asked(), at)]
    return with_steps(evaluation.recipe, steps)


def _repeats(steps: Sequence[GeometryStep]) -> Iterator[int]:
    return (k for k, step in enumerate(steps) if isinstance(step, Repeat))
