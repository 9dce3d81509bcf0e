"""The assay of a set: its given masters, measured at the working size."""

from __future__ import annotations

import numpy as np

from ..core.checks import Finding, finding
from ..core.checks.maps import Assayed, assay
from ..core.quantities import MASTERS
from ..core.recipe import Evaluation, Recipe, origin_of

__all__ = ["assay_maps", "assay_set"]


def _standing(recipe: Recipe) -> list[Finding]:
    """What the recipe alone says, without looking at a texel."""
    found = [finding("no-base-color")] if origin_of(recipe, "base_color") == "absent" else []
    photos = any("photo" in source.reads.values() for source in recipe.sources.values())
    return [*found, *([finding("no-origin")] if photos and not recipe.facts.origin else [])]


_LOOKED_AT_PX = 512


def _normal_lengths(evaluation: Evaluation) -> np.ndarray:
    """Lengths of the stored normals, every so many texels."""
    stored = evaluation.stored(evaluation.recipe.masters["normal"])
    step = max(1, max(stored.shape[:2]) // _LOOKED_AT_PX)
    return np.linalg.norm(stored[::step, ::step], axis=-1)


def assay_set(evaluation: Evaluation) -> list[Finding]:
    """All findings on a set that is to be delivered."""
    return [*_standing(evaluation.recipe), *assay_maps(evaluation)]


def assay_maps(evaluation: Evaluation) -> list[Finding]:
    """Findings on the given masters of a set, at the evaluation's working size."""
    recipe, size = evaluation.recipe, evaluation.working
    given = {key: recipe.masters[key] for key in MASTERS if origin_of(recipe, key) == "given"}
    masters = {key: evaluation.value(ref, size) for key, ref in given.items()}
    sources = {key: recipe.sources[ref.split(":")[1]].name for key, ref in given.items()}
    metallic = recipe.masters.get("metallic")
    metal_share = float(evaluation.value(metallic, size).mean()) if metallic is not None else 0.0
    lengths = _normal_lengths(evaluation) if "normal" in given else None
    assayed = Assayed(masters, sources, lengths, metal_share, recipe.facts.rise, recipe.facts.edges)
    return assay(assayed)
