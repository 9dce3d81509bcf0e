"""Masks from color: a gray with a threshold, or whatever lies near one color; and colors that bleed under holes."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Annotated

import cv2
import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel
from ..color import GRAYS, GrayName, gray_of, linear_from_srgb_codes, oklab_from_linear
from ..filters import padded
from ..operation import Operation, Slot, given, master
from ..params import Params, choice, control
from ..raster import Edge, Edges, FloatArray, Gray, Rgb, as_gray, as_rgb, edges_of, floats
from .split import reaching_border

__all__ = [
    "OPERATIONS",
    "BledColor",
    "GlowByRange",
    "MaskByRange",
    "MaskFromColor",
    "Threshold",
    "bled",
    "bled_color",
    "glow_by_range",
    "mask_by_range",
    "mask_from_color",
    "thresholded",
]

Hex = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]
_LEAST_SOFTNESS = 1e-3
_SOFT_EDGE = 5  # texels


class Threshold(Params):
    """Where a gray is cut, and how softly."""

    threshold: float = control(0.5, "Threshold", "%", 0, 1, "Lighter than this is solid.", scale=100)
    softness: float = control(1.0, "Softness", "%", 0.0, 1, "100 % leaves the gray as it is, 0 % cuts it sharply.", scale=100)
    invert: bool = Field(default=False, title="Dark is solid", description="Inverts the result: dark texels are solid.")


class MaskFromColor(Threshold):
    """Which gray of the color is cut."""

    gray: GrayName = choice("lightness", "Gray", "What of the color is taken.", GRAYS.values())
    softness: float = control(0.1, "Softness", "%", 0.0, 1, "0 % cuts sharply, 100 % leaves the gray as it is.", scale=100)


class MaskByRange(Params):
    """All that is near one color."""

    color: Hex = Field(
        default="#808080", title="Color", description="What is near this color is meant.", json_schema_extra={"pick": True}
    )
    tolerance: float = control(0.12, "Tolerance", "OKLab", 0, 0.6, "How far from the color still counts.")
    softness: float = control(0.06, "Softness", "OKLab", 0, 0.4, "How gradually it ends.")
    lightness: float = control(0.5, "Lightness weight", "%", 0, 1, "At 0 % only hue and saturation are compared.", scale=100)
    cleanup: float = control(
        0.0, "Clean up", "% of width", 0, 0.05, "Specks and pinholes smaller than this go.", example=0.01, scale=100
    )
    invert: bool = Field(default=False, title="All but this", description="Means everything else instead.")


def _gain() -> float:
    return control(1.0, "Gain", "×", 0, 8, "How bright what glows is, against its color.")


class GlowByRange(MaskByRange):
    """What is near one color glows."""

    gain: float = _gain()


class MaskByPickedRange(MaskByRange):
    """All that is near the color that was picked."""

    color: Hex | None = Field(  # type: ignore[assignment]  # the older way always has one
        default=None,
        title="Color",
        description="What is near this color is meant.",
        examples=["#808080"],
        json_schema_extra={"pick": True},
    )


class OpacityByPickedRange(MaskByPickedRange):
    """What is near the color that was picked is solid, or a hole."""

    around: bool = Field(
        default=False,
        title="Only from the border",
        description="Only what goes on to the border of the picture counts: the same color inside a thing does not.",
    )


class GlowByPickedRange(MaskByPickedRange):
    """What is near the color that was picked glows."""

    gain: float = _gain()


class BledColor(Params):
    """How color goes on under holes."""

    solid: float = control(0.9, "Solid from", "%", 0.05, 1, "Texels less solid than this take their neighbor's color.", scale=100)
    reach: float = control(0.1, "Reach", "% of width", 0.002, 1, "How far color bleeds into the holes.", scale=100)


def thresholded(gray: Gray, *, params: Threshold | None = None) -> FloatArray:
    """Cut a gray, (H, W) 0..1 to 0..1; at threshold ½ and softness 1 it is the gray itself.

    Examples
    --------
    >>> thresholded(np.float32([0.2, 0.8]), params=Threshold(softness=0)).tolist()
    [0.0, 1.0]
    """
    params = params or Threshold()
    softness = np.float32(max(params.softness, _LEAST_SOFTNESS))
    mask = np.clip((gray - np.float32(params.threshold)) / softness + np.float32(0.5), 0, 1)
    return 1 - mask if params.invert else mask


def mask_from_color(color: Rgb, *, params: MaskFromColor | None = None, cancel: Cancel = NEVER) -> FloatArray:
    """Cut a gray of a (H, W, 3) linear color: 1 solid .. 0 hole, (H, W).

    Examples
    --------
    >>> mask_from_color(np.ones((1, 1, 3), np.float32)).tolist()
    [[1.0]]
    """
    params = params or MaskFromColor()
    return thresholded(gray_of(as_rgb(color, "color"), params.gray, cancel=cancel), params=params)


def mask_by_range(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: MaskByRange | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """1 where a (H, W, 3) linear color is near ``params.color`` in OKLab, (H, W), 0..1, cleaned by opening and closing.

    Examples
    --------
    >>> white = np.ones((1, 1, 3), np.float32)
    >>> mask_by_range(white, params=MaskByRange(color="#ffffff")).tolist()
    [[1.0]]
    """
    params = params or MaskByRange()
    lab = oklab_from_linear(as_rgb(color, "color"))
    cancel.check()
    wanted = oklab_from_linear(linear_from_srgb_codes(np.frombuffer(bytes.fromhex(params.color[1:]), np.uint8)))
    apart = lab - wanted
    square = np.float32(params.lightness) ** 2 * apart[..., 0] ** 2 + apart[..., 1] ** 2 + apart[..., 2] ** 2
    softness = np.float32(max(params.softness, _LEAST_SOFTNESS))
    mask = np.clip((np.float32(params.tolerance) - np.sqrt(square)) / softness + np.float32(0.5), 0, 1)
    mask = _cleaned(mask, params.cleanup, edges_of(edges))
    return 1 - mask if params.invert else mask


def glow_by_range(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: GlowByRange | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """The color where it is in range, black elsewhere, times the gain; (H, W, 3), linear light.

    Examples
    --------
    >>> lamp = np.zeros((4, 4, 3), np.float32)
    >>> lamp[1, 1] = 0.9
    >>> glow_by_range(lamp, params=GlowByRange(color="#f3f3f3", cleanup=0))[..., 0].round(1).max()
    np.float32(0.9)
    """
    params = params or GlowByRange()
    return color * mask_by_range(color, edges, params=params, cancel=cancel)[..., None] * np.float32(params.gain)


def _cleaned(mask: Gray, size: float, edges: Edges) -> FloatArray:
    """Opened, then closed, by a disk ``size`` (a share of the width) across."""
    radius = min(round(size * edges.width(mask.shape[1]) / 2), min(mask.shape) // 2)
    if radius < 1:
        return mask
    disk = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
    margin = 4 * radius  # four passes, each sees one radius far
    grown = padded(mask, margin, margin, edges)
    grown = cv2.morphologyEx(cv2.morphologyEx(grown, cv2.MORPH_OPEN, disk), cv2.MORPH_CLOSE, disk)
    return floats(np.ascontiguousarray(grown[margin:-margin, margin:-margin]))


def bled_color(color: Rgb, opacity: Gray, edges: Edges | Edge = "wrap", *, params: BledColor | None = None) -> FloatArray:
    """Let color bleed outwards under the holes, so that no fringe shows where a renderer filters the edge.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light
    opacity : (H, W) float32, 1 solid .. 0 hole
    Returns
    -------
    color : (H, W, 3) float32; untouched where solid, else the nearest solid texel's as far as ``reach``; the color
        itself when nothing is solid
    Examples
    --------
    >>> color = np.float32([[[0.2, 0.4, 0.6], [0, 0, 0]]])
    >>> bled_color(color, np.float32([[1, 0]]), params=BledColor(reach=1.0)).round(1)[0, 1].tolist()
    [0.20000000298023224, 0.4000000059604645, 0.6000000238418579]
    """
    params = params or BledColor()
    color, opacity = as_rgb(color, "color"), as_gray(opacity, "opacity")
    return bled(color, opacity >= np.float32(params.solid), params.reach * edges_of(edges).width(opacity.shape[1]), edges)


def bled(values: FloatArray, is_solid: np.ndarray, reach: float, edges: Edges | Edge = "wrap") -> FloatArray:
    """Values (H, W[, C]) that go on from the nearest solid texel as far as ``reach`` texels; themselves when none is solid.

    Examples
    --------
    >>> bled(np.float32([[0.2, 0.9]]), np.array([[True, False]]), reach=1).round(1).tolist()
    [[0.20000000298023224, 0.20000000298023224]]
    """
    edges = edges_of(edges)
    if is_solid.all() or not is_solid.any():
        return values
    height, width = is_solid.shape
    margin = int(min(np.ceil(reach), max(height, width) / 2)) + 1
    grown = padded((~is_solid).astype(np.uint8), margin, margin, edges)
    distance, found = cv2.distanceTransformWithLabels(grown, cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL)
    label = np.asarray(found, np.int32)
    rows = padded(np.repeat(np.arange(height, dtype=np.int32)[:, None], width, 1), margin, margin, edges)
    columns = padded(np.repeat(np.arange(width, dtype=np.int32)[None], height, 0), margin, margin, edges)
    at = np.zeros((int(label.max()) + 1, 2), np.int32)  # label of each solid texel → its place
    solid_grown = grown == 0
    at[label[solid_grown]] = np.stack([rows[solid_grown], columns[solid_grown]], -1)
    inner = (slice(margin, margin + height), slice(margin, margin + width))
    is_taken = ~is_solid & (distance[inner] <= reach)
    nearest = at[label[inner][is_taken]]
    out = values.copy()
    out[is_taken] = values[nearest[:, 0], nearest[:, 1]]
    return out


def _once_picked(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: MaskByPickedRange, unasked: float, cancel: Cancel = NEVER
) -> FloatArray:
    """The mask; one value where no color was picked yet."""
    if params.color is None:
        return np.full(color.shape[:2], unasked, np.float32)
    return mask_by_range(color, edges, params=params, cancel=cancel)


def _opacity_once_picked(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: OpacityByPickedRange, cancel: Cancel = NEVER
) -> FloatArray:
    mask = _once_picked(color, edges, params=params, unasked=1.0, cancel=cancel)
    if params.color is None or not params.around:
        return mask
    cancel.check()
    return 1 - _at_border(1 - mask) if params.invert else _at_border(mask)


def _at_border(mask: FloatArray) -> FloatArray:
    """What of a mask goes on to the border of the picture, with its soft edge."""
    reached = reaching_border(mask >= np.float32(0.5)).astype(np.uint8)
    return floats(mask * cv2.dilate(reached, np.ones((_SOFT_EDGE, _SOFT_EDGE), np.uint8)))


def _glow_once_picked(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: GlowByPickedRange, cancel: Cancel = NEVER
) -> FloatArray:
    mask = _once_picked(color, edges, params=params, unasked=0.0, cancel=cancel)
    return color * mask[..., None] * np.float32(params.gain)


_BY_RANGE = "from color, near one color"
_OWN_COLOR = given("own_color", "base_color")
_COLOR = master("color", "base_color")


def _near_one(output: str, slot: Slot, unasked: float) -> Operation:
    """What is near one color, as ``output``: it begins with a color that somebody picks, and began with a gray."""
    first = Operation(
        f"{output}_by_range",
        _BY_RANGE,
        mask_by_range,
        MaskByRange,
        slots=(slot,),
        outputs=(output,),
        facts=("edges",),
        effort=2,
        was="the way that begins with gray, until a color is picked",
    )
    make = partial(_once_picked, unasked=unasked)
    return replace(first, make=make, params=MaskByPickedRange, number=2, was="", older=(first,))


def _glow_near_one() -> Operation:
    newer = _near_one("emissive", _COLOR, 0.0)
    older = tuple(replace(way, make=glow_by_range, params=GlowByRange) for way in newer.older if isinstance(way, Operation))
    return replace(newer, make=_glow_once_picked, params=GlowByPickedRange, older=older)


OPERATIONS = (
    _near_one("metallic", _COLOR, 0.0),
    _glow_near_one(),
    replace(_near_one("opacity", _OWN_COLOR, 1.0), make=_opacity_once_picked, params=OpacityByPickedRange),
    Operation(
        "opacity_from_color",
        "from color, cut",
        mask_from_color,
        MaskFromColor,
        slots=(_OWN_COLOR,),
        outputs=("opacity",),
        effort=5,
    ),
    Operation(
        "opacity_cut",
        "given, cut at a threshold",
        thresholded,
        Threshold,
        slots=(given("own_opacity", "opacity"),),
        outputs=("opacity",),
    ),
    Operation(
        "color_bled",
        "given, bled under holes",
        bled_color,
        BledColor,
        slots=(_OWN_COLOR, master("opacity")),
        outputs=("base_color",),
        facts=("edges",),
        effort=10,
    ),
)
