"""Checks on the masters of a set, measured at the working size. Each says what it measured, never what it guesses.

A check is a function from an :class:`Assayed` set to :class:`Marked` findings. It runs on given masters; what the program
derives, and normals that it baked, are right by their own tests.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import cv2
import numpy as np

from ..color import luminance, oklab_from_linear
from ..convert.green import which_green
from ..convert.normal_faults import HeightVerdict, against_height, is_swapped
from ..filters import gaussian
from ..findings import Finding, finding
from ..intake.workflow import HALF_METAL, is_half_metal
from ..quantities import quantity
from ..raster import Edges, FloatArray, Vectors
from ..recipe import Evaluation, origin_of
from ..vectors import is_black

__all__ = ["CHECKS", "LEAST_CLOSING", "Assayed", "Marked", "assay", "assay_maps", "mark", "undetermined"]

_LENGTH_OFF, _LENGTH_SHARE = 0.1, 0.02  # a vector is off from there; up to this share is padding and compression
_BLACK_SHARE, _SHORTEST = 0.002, 1e-6
_FACING_AWAY = 0.3  # mean z under this is no tangent-space map read the right way
_TOO_DARK, _TOO_BRIGHT, _RANGE_SHARE = 0.012, 0.90, 0.25  # linear luminance no dry non-metal goes beyond
_TOO_VIVID = 0.26  # OKLab chroma; the strongest dyes stay under
_MIRROR_LIKE = 0.18  # mean roughness of a non-metal under which it is wet or polished, or a gloss map misread
_ALIKE = 0.55  # correlation of color's broad light and shade with occlusion or height
_BROAD = 0.03  # of the width: what is broader counts as light and shade
LEAST_CLOSING = 1.5  # times that slopes told over a mesh's normals close better: none of eight right bakes came near
_LEAST_LEAN = 1e-3  # spread of normals under which they say nothing of a height
_UNDETERMINED_SHARE = 0.005  # below it is a rim here and there
_LOOKED_AT_PX = 512
_PLACES = 8  # a place is one of 8 × 8 patches, with those beside it that are marked half as densely


@dataclass(frozen=True)
class Marked:
    """A finding, and the texels it is about: (H, W) bool, or None where it is about the whole."""

    finding: Finding
    mask: np.ndarray | None = None


def mark(found: Finding, mask: np.ndarray | None) -> Marked:
    """Give a finding its place: the patch where ``mask`` is densest, with its neighbors."""
    if mask is None or not mask.any():
        return Marked(found)
    dense = cv2.resize(mask.astype(np.float32), (_PLACES, _PLACES), interpolation=cv2.INTER_AREA)
    row, column = np.unravel_index(int(dense.argmax()), dense.shape)
    _, labels = cv2.connectedComponents((dense >= dense.max() / 2).astype(np.uint8), connectivity=4)
    rows, columns = np.nonzero(labels == labels[row, column])
    where = (columns.min() / _PLACES, rows.min() / _PLACES, (columns.max() + 1) / _PLACES, (rows.max() + 1) / _PLACES)
    return Marked(found.model_copy(update={"where": tuple(float(v) for v in where)}), mask)


@dataclass(frozen=True)
class Assayed:
    """What checks see: given masters (arrays of one size), who gave them, and what was said of them."""

    masters: Mapping[str, FloatArray]
    sources: Mapping[str, str]  # file name by master
    stored_normal: Vectors | None  # (H, W, 3), the given normals as they are stored: resizing would have mended them
    metal_share: float  # mean of metallic, whatever its origin
    edges: Edges
    is_worn: bool = False  # by a mesh, so that slopes are told over its normals


def _normal_lengths(a: Assayed) -> Iterator[Marked]:
    if a.stored_normal is None:
        return
    lengths = np.linalg.norm(a.stored_normal, axis=-1)
    off = (np.abs(lengths - 1) > _LENGTH_OFF) & ~is_black(a.stored_normal)
    share = float(off.mean())
    if share > _LENGTH_SHARE:
        mean = float(lengths[~is_black(a.stored_normal)].mean())
        yield mark(finding("normal-length", master="normal", file=a.sources["normal"], share=share, mean=mean), off)


def _normal_black(a: Assayed) -> Iterator[Marked]:
    if a.stored_normal is None:
        return
    black = is_black(a.stored_normal)
    if (share := float(black.mean())) > _BLACK_SHARE:
        yield mark(finding("normal-black", master="normal", file=a.sources["normal"], share=share), black)


def _normal_facing(a: Assayed) -> Iterator[Marked]:
    if a.stored_normal is None or (black := is_black(a.stored_normal)).all():
        return
    facing = a.stored_normal[..., 2] / np.maximum(np.linalg.norm(a.stored_normal, axis=-1), _SHORTEST)
    if (z := float(facing[~black].mean())) < _FACING_AWAY:
        away = a.stored_normal[..., 2] < 0
        yield mark(finding("normal-facing-away", master="normal", file=a.sources["normal"], z=z), away)


def _normal_axes(a: Assayed) -> Iterator[Marked]:
    """Masters are Y+; what the slopes, or a height beside them, say against the way the file is read now."""
    if "normal" not in a.masters:
        return
    normal, file = a.masters["normal"], a.sources["normal"]
    if is_swapped(normal):
        yield Marked(finding("axes-swapped", master="normal", file=file))
        return
    beside = _beside_height(a)
    files = {"height": a.sources.get("height", ""), "normal": file}
    if beside is not None and beside.verdict == "inverted":
        worst = min(beside.across, beside.down)
        yield mark(finding("height-against-normal", master="height", **files, correlation=worst), _steep(normal))
        return
    if beside is not None and beside.verdict == "mirrored":  # without the height it would look like green turned
        yield mark(finding("normal-mirrored", master="normal", **files, correlation=beside.across), _steep(normal))
        return
    found = which_green(normal)
    better = max(found.ratio_up / max(found.ratio_down, 1e-6), 1.0)
    is_told = found.answer == "down" and (not a.is_worn or better >= LEAST_CLOSING)
    if is_told or (beside is not None and beside.verdict == "green"):
        numbers = {"file": file, "better": better, "confidence": found.confidence}
        yield mark(finding("green-misread", master="normal", **numbers), _steep(normal))


def _beside_height(a: Assayed) -> HeightVerdict | None:
    if "height" not in a.masters or float(a.masters["normal"][..., :2].std()) < _LEAST_LEAN:
        return None
    return against_height(a.masters["normal"], np.ascontiguousarray(a.masters["height"]))


def _steep(normal: Vectors) -> np.ndarray:
    """The tenth of the texels that lean most: where a light shows best which way."""
    lean = 1 - normal[..., 2]
    return lean >= np.percentile(lean, 90)


def _metal_between(a: Assayed) -> Iterator[Marked]:
    if "metallic" in a.masters:
        between = is_half_metal(a.masters["metallic"])
        share = float(between.mean())
        if share > HALF_METAL:
            yield mark(finding("metal-between", master="metallic", file=a.sources["metallic"], share=share), between)


def _mirror_like(a: Assayed) -> Iterator[Marked]:
    if "roughness" in a.masters and a.metal_share < 0.1:
        values = a.masters["roughness"]
        mean = float(values.mean())
        if mean < _MIRROR_LIKE:
            found = finding("mirror-like", master="roughness", file=a.sources["roughness"], mean=mean)
            yield mark(found, values < _MIRROR_LIKE)


def _color_range(a: Assayed) -> Iterator[Marked]:
    if "base_color" not in a.masters or a.metal_share > 0.5:
        return
    color = np.ascontiguousarray(a.masters["base_color"])
    light = luminance(color)
    chroma = np.hypot(*np.moveaxis(oklab_from_linear(color)[..., 1:], -1, 0))
    masks = {"color-dark": light < _TOO_DARK, "color-bright": light > _TOO_BRIGHT, "color-vivid": chroma > _TOO_VIVID}
    for id, mask in masks.items():
        share = float(mask.mean())
        if share > _RANGE_SHARE:
            yield mark(finding(id, master="base_color", file=a.sources["base_color"], share=share), mask)


def _light_in_color(a: Assayed) -> Iterator[Marked]:
    """Shade of the color that goes along with occlusion: light and shade are in the picture, and would count twice."""
    if "base_color" not in a.masters or "occlusion" not in a.masters:
        return
    light = gaussian(luminance(np.ascontiguousarray(a.masters["base_color"])), _BROAD / np.pi, a.edges)
    shade = gaussian(np.ascontiguousarray(a.masters["occlusion"]), _BROAD / np.pi, a.edges)
    if min(float(light.std()), float(shade.std())) < 0.01:
        return
    alike = float(np.corrcoef(light.ravel(), shade.ravel())[0, 1])
    if alike > _ALIKE:
        numbers = {"file": a.sources["base_color"], "occlusion": a.sources["occlusion"], "correlation": alike}
        yield mark(finding("light-in-color", master="base_color", **numbers), shade < np.percentile(shade, 10))


def _same_picture(a: Assayed) -> Iterator[Marked]:
    """One picture in several roles: a gray copied into every channel, or one file taken for another."""
    grays = {key: values for key, values in a.masters.items() if values.ndim == 2 and float(values.std()) > 1e-3}
    seen: list[str] = []
    for key, values in grays.items():
        twin = next((other for other in seen if np.array_equal(grays[other], values)), None)
        if twin is None:
            seen.append(key)
        else:
            numbers = {"first": quantity(twin).title, "second": quantity(key).title}
            yield Marked(finding("same-picture", master=key, **numbers, file=a.sources[key]))


def _one_value(a: Assayed) -> Iterator[Marked]:
    for key, values in a.masters.items():
        flat = values.reshape(-1, values.shape[2] if values.ndim == 3 else 1)
        if key != "id" and len(flat) > 1 and (flat == flat[0]).all():  # one part is one color
            said = " ".join(f"{v:.2f}" for v in flat[0])
            yield Marked(finding("one-value", master=key, file=a.sources[key], title=quantity(key).title, value=said))


CHECKS: tuple[Callable[[Assayed], Iterator[Marked]], ...] = (
    _normal_lengths,
    _normal_black,
    _normal_facing,
    _normal_axes,
    _metal_between,
    _mirror_like,
    _color_range,
    _light_in_color,
    _same_picture,
    _one_value,
)


def assay(assayed: Assayed) -> list[Marked]:
    """All findings of all checks, each with the texels it is about."""
    return [found for check in CHECKS for found in check(assayed)]


def assay_maps(evaluation: Evaluation) -> list[Marked]:
    """Findings on the maps of a set, at the evaluation's working size, with the texels they are about."""
    recipe, size = evaluation.recipe, evaluation.working
    given = {key: recipe.masters[key] for key in recipe.keys if origin_of(recipe, key) == "given"}
    if "normal" in given and recipe.sources[given["normal"].name].baked is not None:
        del given["normal"]  # right by its own tests, and its slopes, told over the mesh's, need not close
    metallic = recipe.masters.get("metallic")
    return [
        *undetermined(evaluation),
        *assay(
            Assayed(
                masters={key: evaluation.value(ref, size) for key, ref in given.items()},
                sources={key: recipe.sources[ref.name].name for key, ref in given.items()},
                stored_normal=_stored_normal(evaluation) if "normal" in given else None,
                metal_share=float(evaluation.value(metallic, size).mean()) if metallic is not None else 0.0,
                edges=recipe.facts.edges,
                is_worn=recipe.worn is not None,
            )
        ),
    ]


def _stored_normal(evaluation: Evaluation) -> Vectors:
    """The stored normals, every so many texels."""
    stored = evaluation.stored(evaluation.recipe.masters["normal"])
    step = max(1, max(stored.shape[:2]) // _LOOKED_AT_PX)
    return stored[::step, ::step]


def undetermined(evaluation: Evaluation) -> list[Marked]:
    """Where diffuse and specular color leave open what is metal."""
    names = [name for name, node in evaluation.recipe.nodes.items() if node.op == "metallic_from_specular"]
    masks = [evaluation.several(name, evaluation.working).undetermined for name in names]
    return [
        mark(finding("workflow-undetermined", master="metallic", share=float(mask.mean()), count=int(mask.sum())), mask)
        for mask in masks
        if mask.mean() > _UNDETERMINED_SHARE
    ]
