"""Checks on the masters of a set, measured at the working size. Each says what it measured, never what it guesses.

A check is a function from an :class:`Assayed` set to findings. It runs on given masters; what the program derives is right
by its own tests.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from ..color import luminance, oklab_from_linear
from ..convert.green import which_green
from ..derive.normal import normal_from_height
from ..filters import gaussian
from ..quantities import quantity
from ..raster import Edges, FloatArray
from .findings import Finding, finding

__all__ = ["CHECKS", "Assayed", "assay"]

_LENGTH_OFF, _LENGTH_SHARE = 0.1, 0.02  # a vector is off from there; up to this share is padding and compression
_FACING_AWAY = 0.3  # mean z under this is no tangent-space map read the right way
_BETWEEN, _BETWEEN_SHARE = (0.15, 0.85), 0.25  # metal or not: few texels are in between, and those are rims
_TOO_DARK, _TOO_BRIGHT, _RANGE_SHARE = 0.012, 0.90, 0.25  # linear luminance no dry non-metal goes beyond
_TOO_VIVID = 0.26  # OKLab chroma; the strongest dyes stay under
_MIRROR_LIKE = 0.18  # mean roughness of a non-metal under which it is wet or polished, or a gloss map misread
_ALIKE = 0.55  # correlation of color's broad light and shade with occlusion or height
_BROAD = 0.03  # of the width: what is broader counts as light and shade
_AGAINST = -0.25  # correlation of slopes under which height and normals contradict each other


@dataclass(frozen=True)
class Assayed:
    """What checks see: given masters (arrays of one size), who gave them, and what was said of them."""

    masters: Mapping[str, FloatArray]
    sources: Mapping[str, str]  # file name by master
    normal_lengths: FloatArray | None  # of the given normals as they are stored: resizing would have mended them
    metal_share: float  # mean of metallic, whatever its origin
    rise: float
    edges: Edges


def _normal_lengths(a: Assayed) -> Iterator[Finding]:
    if a.normal_lengths is None:
        return
    share = float((np.abs(a.normal_lengths - 1) > _LENGTH_OFF).mean())
    if share > _LENGTH_SHARE:
        yield finding("normal-length", file=a.sources["normal"], share=share, mean=float(a.normal_lengths.mean()))


def _normal_facing(a: Assayed) -> Iterator[Finding]:
    if "normal" in a.masters and (z := float(a.masters["normal"][..., 2].mean())) < _FACING_AWAY:
        yield finding("normal-facing-away", file=a.sources["normal"], z=z)


def _normal_green(a: Assayed) -> Iterator[Finding]:
    """Masters are Y+; if the slopes only close as Y−, what was said of the file is the wrong way round."""
    if "normal" in a.masters:
        found = which_green(a.masters["normal"])
        if found.answer == "down":
            better = found.ratio_up / max(found.ratio_down, 1e-6)
            yield finding("green-misread", file=a.sources["normal"], better=better, confidence=found.confidence)


def _height_against_normal(a: Assayed) -> Iterator[Finding]:
    if "normal" not in a.masters or "height" not in a.masters:
        return
    expected = normal_from_height(np.ascontiguousarray(a.masters["height"]), a.rise, a.edges)
    given = a.masters["normal"]
    if min(float(expected[..., :2].std()), float(given[..., :2].std())) < 1e-3:
        return
    alike = float(np.corrcoef(expected[..., :2].ravel(), given[..., :2].ravel())[0, 1])
    if alike < _AGAINST:
        yield finding("height-against-normal", height=a.sources["height"], normal=a.sources["normal"], correlation=alike)


def _metal_between(a: Assayed) -> Iterator[Finding]:
    if "metallic" in a.masters:
        values = a.masters["metallic"]
        share = float(((values > _BETWEEN[0]) & (values < _BETWEEN[1])).mean())
        if share > _BETWEEN_SHARE:
            yield finding("metal-between", file=a.sources["metallic"], share=share)


def _mirror_like(a: Assayed) -> Iterator[Finding]:
    if "roughness" in a.masters and a.metal_share < 0.1:
        mean = float(a.masters["roughness"].mean())
        if mean < _MIRROR_LIKE:
            yield finding("mirror-like", file=a.sources["roughness"], mean=mean)


def _color_range(a: Assayed) -> Iterator[Finding]:
    if "base_color" not in a.masters or a.metal_share > 0.5:
        return
    color = np.ascontiguousarray(a.masters["base_color"])
    light = luminance(color)
    dark, bright = float((light < _TOO_DARK).mean()), float((light > _TOO_BRIGHT).mean())
    if dark > _RANGE_SHARE:
        yield finding("color-dark", file=a.sources["base_color"], share=dark)
    if bright > _RANGE_SHARE:
        yield finding("color-bright", file=a.sources["base_color"], share=bright)
    chroma = np.hypot(*np.moveaxis(oklab_from_linear(color)[..., 1:], -1, 0))
    vivid = float((chroma > _TOO_VIVID).mean())
    if vivid > _RANGE_SHARE:
        yield finding("color-vivid", file=a.sources["base_color"], share=vivid)


def _light_in_color(a: Assayed) -> Iterator[Finding]:
    """Shade of the color that goes along with occlusion: light and shade are in the picture, and would count twice."""
    if "base_color" not in a.masters or "occlusion" not in a.masters:
        return
    light = gaussian(luminance(np.ascontiguousarray(a.masters["base_color"])), _BROAD / np.pi, a.edges)
    shade = gaussian(np.ascontiguousarray(a.masters["occlusion"]), _BROAD / np.pi, a.edges)
    if min(float(light.std()), float(shade.std())) < 0.01:
        return
    alike = float(np.corrcoef(light.ravel(), shade.ravel())[0, 1])
    if alike > _ALIKE:
        yield finding("light-in-color", file=a.sources["base_color"], occlusion=a.sources["occlusion"], correlation=alike)


def _same_picture(a: Assayed) -> Iterator[Finding]:
    """One picture in several roles: a gray copied into every channel, or one file taken for another."""
    grays = {key: values for key, values in a.masters.items() if values.ndim == 2 and float(values.std()) > 1e-3}
    seen: list[str] = []
    for key, values in grays.items():
        twin = next((other for other in seen if np.array_equal(grays[other], values)), None)
        if twin is None:
            seen.append(key)
        else:
            numbers = {"first": quantity(twin).title, "second": quantity(key).title}
            yield finding("same-picture", **numbers, file=a.sources[key])


def _one_value(a: Assayed) -> Iterator[Finding]:
    for key, values in a.masters.items():
        flat = values.reshape(-1, values.shape[2] if values.ndim == 3 else 1)
        if len(flat) > 1 and (flat == flat[0]).all():
            said = " ".join(f"{v:.2f}" for v in flat[0])
            yield finding("one-value", file=a.sources[key], master=quantity(key).title, value=said)


CHECKS: tuple[Callable[[Assayed], Iterator[Finding]], ...] = (
    _normal_lengths,
    _normal_facing,
    _normal_green,
    _height_against_normal,
    _metal_between,
    _mirror_like,
    _color_range,
    _light_in_color,
    _same_picture,
    _one_value,
)


def assay(assayed: Assayed) -> list[Finding]:
    """All findings of all checks."""
    return [found for check in CHECKS for found in check(assayed)]
