"""The assay of a set: its given masters, measured at the working size."""

from __future__ import annotations

import numpy as np

from ..core.checks.maps import Assayed, Marked, assay, mark
from ..core.derive.picks import PLAIN, ByPicks
from ..core.findings import Finding, finding
from ..core.intake.facts import rise_said
from ..core.intake.names import read_name
from ..core.quantities import quantity
from ..core.recipe import OPERATIONS, Evaluation, Recipe, origin_of, source_ref
from ..core.recipe.computing import pick_fit
from ..core.recipe.evaluation import Step

__all__ = ["assay_maps", "assay_set", "rise_findings", "sizes", "undetermined"]


def _standing(recipe: Recipe) -> list[Finding]:
    """What the recipe alone says, without looking at a texel."""
    found = [finding("no-base-color")] if origin_of(recipe, "base_color") == "absent" else []
    photos = any("photo" in source.reads.values() for source in recipe.sources.values())
    found += [finding("no-origin")] if photos and not recipe.facts.origin else []
    levels = [
        s.name for s in recipe.sources.values() if s.reads.get("L") == "specular_level" and read_name(s.name).kind == "specular"
    ]
    found += [finding("gray-specular", master="reflectance", file=name) for name in levels]
    return [*found, *_shine_named(recipe)]


_MISSED = 0.2  # a pick that is missed by more was contradicted


def _picks(evaluation: Evaluation) -> list[Finding]:
    found = []
    for key in evaluation.recipe.masters:
        made = evaluation.recipe.node_of(key)
        params = OPERATIONS[made[1].op].params(**made[1].params) if made is not None else None
        if made is None or not isinstance(params, ByPicks) or not params.picks:
            continue
        fit = pick_fit(Step(evaluation, made[1], evaluation.working), params, key if key in PLAIN else "mask")
        worst = max(map(abs, fit.residuals))
        if worst > _MISSED:
            found.append(finding("picks-contradict", master=key, title=quantity(key).title, worst=worst))
    return found


_TURNED = {"roughness": "gloss", "gloss": "roughness"}


def _shine_named(recipe: Recipe) -> list[Finding]:
    """Files named for gloss and read as roughness, or the other way round."""
    rows = [(source.name, read_name(source.name).kind, set(source.reads.values())) for source in recipe.sources.values()]
    return [
        finding("shine-contradicts", master="roughness", file=name, named=named, read=_TURNED[named])
        for name, named, read in rows
        if named in _TURNED and _TURNED[named] in read
    ]


_LOOKED_AT_PX = 512


def _normal_lengths(evaluation: Evaluation) -> np.ndarray:
    """Lengths of the stored normals, every so many texels."""
    stored = evaluation.stored(evaluation.recipe.masters["normal"])
    step = max(1, max(stored.shape[:2]) // _LOOKED_AT_PX)
    return np.linalg.norm(stored[::step, ::step], axis=-1)


def sizes(evaluation: Evaluation) -> list[Finding]:
    """Sources of another size than the set's files came at, where nobody has said how they fit; one value fits any."""
    recipe, found = evaluation.recipe, []
    whole = recipe.frame or recipe.facts
    for name, source in recipe.sources.items():
        is_same = (source.width, source.height) == (whole.width, whole.height)
        if is_same or source.fit is not None or _is_one_value(evaluation, name):
            continue
        numbers = {"file": source.name, "width": source.width, "height": source.height}
        numbers |= {"set_width": whole.width, "set_height": whole.height}
        same_shape = abs(source.width * whole.height - source.height * whole.width) <= max(whole.width, whole.height)
        fed = (key for key, ref in recipe.masters.items() if ref.startswith(f"source:{name}:"))
        found.append(finding("size-differs" if same_shape else "aspect-differs", master=next(fed, None), **numbers))
    return found


def _is_one_value(evaluation: Evaluation, source: str) -> bool:
    keys = evaluation.recipe.sources[source].reads.values()
    stored = [evaluation.stored(source_ref(source, key)) for key in keys]
    return all(bool((values == values[:1, :1]).all()) for values in stored)


def rise_findings(evaluation: Evaluation) -> list[Finding]:
    """What is to be said of a rise that nobody told."""
    recipe = evaluation.recipe
    if recipe.facts.rise_from != "assumed" or origin_of(recipe, "height") != "given":
        return []
    rise, files = f"{recipe.facts.rise * 100:g} %", {key: _file_of(recipe, key) for key in ("height", "normal")}
    said = rise_said(evaluation)
    if said is None:
        where = "what is derived from it leans accordingly"
        return [finding("rise-assumed", master="height", file=files["height"], rise=rise, where=where)]
    if said.is_believed:
        measured = f"{said.rise * 100:.3g} %"
        return [finding("rise-measurable", master="height", **files, rise=rise, measured=measured, fit=said.fit)]
    return [finding("rise-asked", master="height", **files, rise=rise, fit=said.fit)]


def _file_of(recipe: Recipe, master: str) -> str:
    """The name of the file that gives a master, or the master's own."""
    ref = recipe.masters.get(master, "")
    return recipe.sources[ref.split(":")[1]].name if ref.startswith("source:") else quantity(master).title


def assay_set(evaluation: Evaluation) -> list[Finding]:
    """All findings on a set that is to be delivered."""
    return [
        *_standing(evaluation.recipe),
        *rise_findings(evaluation),
        *sizes(evaluation),
        *_picks(evaluation),
        *(marked.finding for marked in assay_maps(evaluation)),
    ]


def assay_maps(evaluation: Evaluation) -> list[Marked]:
    """Findings on the maps of a set, at the evaluation's working size, with the texels they are about."""
    recipe, size = evaluation.recipe, evaluation.working
    given = {key: recipe.masters[key] for key in recipe.keys if origin_of(recipe, key) == "given"}
    masters = {key: evaluation.value(ref, size) for key, ref in given.items()}
    sources = {key: recipe.sources[ref.split(":")[1]].name for key, ref in given.items()}
    metallic = recipe.masters.get("metallic")
    metal_share = float(evaluation.value(metallic, size).mean()) if metallic is not None else 0.0
    lengths = _normal_lengths(evaluation) if "normal" in given else None
    assayed = Assayed(masters, sources, lengths, metal_share, recipe.facts.edges)
    return [*undetermined(evaluation), *assay(assayed)]


_UNDETERMINED_SHARE = 0.005  # below it is a rim here and there


def undetermined(evaluation: Evaluation) -> list[Marked]:
    """Where diffuse and specular color leave open what is metal."""
    names = [name for name, node in evaluation.recipe.nodes.items() if node.op == "metallic_from_specular"]
    masks = [evaluation.several(name, evaluation.working).undetermined for name in names]
    return [
        mark(finding("workflow-undetermined", master="metallic", share=float(mask.mean()), count=int(mask.sum())), mask)
        for mask in masks
        if mask.mean() > _UNDETERMINED_SHARE
    ]
