"""Whether a specular file says what each color reflects, as the specular workflow has it, or only how strong highlights are."""

from __future__ import annotations

import numpy as np

from ..raster import Gray
from ..recipe import Evaluation, Recipe, Ref, master_ref, source_ref
from .plan import joined

__all__ = ["HALF_METAL", "half_metal_of", "is_half_metal", "is_read_as_level", "with_specular_color", "with_specular_level"]

HALF_METAL = 0.25  # of the texels at most: a surface is metal or not, and what is in between are rims and dust
_BETWEEN = (0.15, 0.85)
_SPLITS = "metallic_from_specular"
_MADE = ("base_color", "metallic", "reflectance")


def is_half_metal(metallic: Gray) -> np.ndarray:
    """Where (H, W) of metallic, 0..1, says neither metal nor none.

    Examples
    --------
    >>> is_half_metal(np.float32([[0, 0.5, 1]])).tolist()
    [[False, True, False]]
    """
    return (metallic > _BETWEEN[0]) & (metallic < _BETWEEN[1])


def half_metal_of(evaluation: Evaluation) -> float:
    """How much of the set would be half metal by its diffuse and specular color, 0..1; 0 where it has not both."""
    recipe = with_specular_color(evaluation.recipe)
    if _split_of(recipe) is None:
        return 0.0
    metallic, shares = master_ref("metallic"), []
    for one in evaluation.of(recipe).each:
        shares.append(float(is_half_metal(one.value(metallic, one.working)).mean()))
    return max(shares)


def is_read_as_level(recipe: Recipe) -> bool:
    """Whether the set has a diffuse map, and a specular beside it that is read as a level."""
    return _file_read_as(recipe, "diffuse") is not None and _file_read_as(recipe, "specular_level") is not None


def with_specular_level(recipe: Recipe) -> Recipe:
    """The recipe in which diffuse is the base color and specular its level; as it is where no metallic set is made of the two."""
    name, specular = _split_of(recipe), _file_read_as(recipe, "specular")
    if name is None or specular is None:
        return recipe
    slots = recipe.nodes[name].inputs
    letters = "G" if "RGB" in recipe.sources[specular].reads else "L"  # a level is stored as it is, so one channel serves
    masters = {key: ref for key, ref in recipe.masters.items() if key not in _MADE}
    masters |= {"base_color": slots["diffuse"], "reflectance": source_ref(specular, "specular_level")}
    nodes = {key: node for key, node in recipe.nodes.items() if key != name}
    return _reading(recipe, specular, {letters: "specular_level"}).model_copy(update={"masters": masters, "nodes": nodes})


def with_specular_color(recipe: Recipe) -> Recipe:
    """The recipe in which a metallic set is made of diffuse and specular; as it is where the specular is not read as a level."""
    specular = _file_read_as(recipe, "specular_level")
    if not is_read_as_level(recipe) or specular is None:
        return recipe
    letters = "RGB" if "G" in recipe.sources[specular].reads else "L"
    recipe = _reading(recipe, specular, {letters: "specular"})
    made = next(iter(joined(recipe.sources)))
    return recipe.model_copy(
        update={"masters": recipe.masters | made.masters, "nodes": {**recipe.nodes, made.name: made.node}},
    )


def _split_of(recipe: Recipe) -> str | None:
    """The step that makes base color, metallic and reflectance of two files, as long as it makes all three."""
    names = {ref.name for key in _MADE if (ref := recipe.masters.get(key)) is not None and ref.kind == "node"}
    name = next(iter(names)) if len(names) == 1 and all(key in recipe.masters for key in _MADE) else ""
    node = recipe.nodes.get(name)
    return name if node is not None and node.op == _SPLITS and all(map(_is_file, node.inputs.values())) else None


def _is_file(ref: Ref) -> bool:
    return ref.kind == "source"


def _file_read_as(recipe: Recipe, key: str) -> str | None:
    return next((name for name, source in recipe.sources.items() if key in source.reads.values()), None)


def _reading(recipe: Recipe, name: str, reads: dict[str, str]) -> Recipe:
    source = recipe.sources[name]
    other = {letters: key for letters, key in source.reads.items() if key not in ("specular", "specular_level")}
    spans = {letters: span for letters, span in source.spans.items() if letters in other}
    corrections = {key: told for key, told in source.corrections.items() if key in other.values()}
    changed = source.model_copy(update={"reads": {**reads, **other}, "spans": spans, "corrections": corrections})
    return recipe.model_copy(update={"sources": {**recipe.sources, name: changed}})
