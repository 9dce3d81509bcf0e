"""Checks over the sets of a project: what does not fit together though each is right by itself."""

from __future__ import annotations

import math
from collections.abc import Collection
from statistics import median

from ..errors import RecipeInvalid
from ..findings import Finding, finding
from ..raster import MAX_SIDE
from ..recipe import Recipe, SizeRequest, with_size

__all__ = ["MOST_APART", "density", "density_finding", "with_density"]

MOST_APART = 1.5  # times; from here on one of two neighbors looks blurred, or wastes memory


def density(recipe: Recipe) -> float | None:
    """Texels a meter, along the width; None while nobody has said how wide the tile is.

    Examples
    --------
    >>> from ..recipe import Facts
    >>> density(Recipe(facts=Facts(width=1024, height=1024, tile_size=2))), density(Recipe(facts=Facts(width=8, height=8)))
    (512.0, None)
    """
    facts = recipe.facts
    return None if facts.tile_size is None else facts.width / facts.tile_size


def _usual(others: Collection[Recipe]) -> float | None:
    known = [found for recipe in others if (found := density(recipe)) is not None]
    return median(known) if known else None


def _matching(recipe: Recipe, wanted: float) -> int:
    """The longer side, a power of two, that comes nearest to a density."""
    now, longer = density(recipe), max(recipe.facts.width, recipe.facts.height)
    assert now is not None
    return 1 << max(0, min(round(math.log2(longer * wanted / now)), int(math.log2(MAX_SIDE))))


def density_finding(recipe: Recipe, others: Collection[Recipe]) -> Finding | None:
    """What is said of a set whose texels are much larger or smaller than those of the others of its project.

    Compared is with the median of the others whose width is known; within ``MOST_APART`` nothing is said.
    """
    own, usual = density(recipe), _usual(others)
    if own is None or usual is None or max(own / usual, usual / own) <= MOST_APART:
        return None
    numbers = {"own": f"{own:.4g}", "usual": f"{usual:.4g}", "times": max(own / usual, usual / own)}
    return finding("density-differs", **numbers, longer=_matching(recipe, usual))


def with_density(recipe: Recipe, others: Collection[Recipe]) -> Recipe:
    """The recipe at the size that ``density_finding`` proposes. Raises RecipeInvalid where there is nothing to match."""
    usual = _usual(others)
    if density(recipe) is None or usual is None:
        raise RecipeInvalid("how wide the tile is must be known, of this set and of another of its project.")
    facts = recipe.facts
    told = SizeRequest(longer=_matching(recipe, usual), sampling=facts.sampling, keep_shine=facts.keep_shine)
    return with_size(recipe, told)
