"""Height from grooves: how deep thin dark lines of a picture lie under what is around them."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel, in_parts, run_rows
from ..color import GRAYS, GrayName
from ..filters import Spectrum, blur_transfer, padded, resize
from ..operation import Operation, Part, master
from ..params import Params, choice, control
from ..raster import Edge, Edges, FloatArray, Gray, Rgb, Size, as_rgb, edges_of, floats
from .closing import closed_by_disc
from .detail import weighted_detail
from .height import WAVES, gray_spectrum

__all__ = [
    "FINE_RELIEF",
    "GROOVES",
    "GROOVE_SCALE",
    "OPERATIONS",
    "GrooveScale",
    "HeightFromGrooves",
    "carries_lines",
    "fine_relief",
    "groove_depth",
    "height_from_grooves",
    "line_skewness",
    "measure_grooves",
    "shape_grooves",
]

Profile = Literal["sharp", "round"]
_SOFT = 0.004  # feature size that goes before lines are looked for: grain is no groove
_DISC_PX = 8  # radius of the disc that closes a groove; of wider ones a smaller copy is closed
_KEPT_SHARE = 0.995  # of texels that are not as deep as the floor of a groove
_GRAIN, _MOST_GRAIN = 1.5, 0.5  # times the median depth, which is one of faces; as a share of the floor
_LEAST_DEPTH = 0.02  # of lightness: shallower lines stay shallow
_FINE = (0.0, 0.0, 0.6, 1.0, 0.3)  # weights by size of the lightness that is added
_LEAST_FINE = 0.02
_LINES = (0.004, 0.08)  # features that lines are told by
_STANDS_OUT = 0.5  # skewness of thin detail, from which lines carry much of a picture; less is any stone's
_DEEP = 4.0  # times the grain: as deep as joints are against the faces between them
_PLAIN = 1e-3  # of lightness: in less there are no lines


class HeightFromGrooves(Params):
    """Which lines are grooves, and how they go down."""

    width: float = control(
        0.016, "Groove width", "% of width", 0.002, 0.06, "Lines up to twice as wide count as grooves.", scale=100
    )
    are_light: bool = Field(default=False, title="Light lines are grooves", description="By default dark lines are.")
    depth: float = control(1.0, "Depth", "×", 0, 2, "How far grooves go down within the map; the rise stays.")
    profile: Profile = choice("sharp", "Profile", "How a groove goes down from its edge.", ["Sharp", "Round"])
    fine: float = control(0.2, "Fine relief", "%", 0, 1, "Lightness as small bumps, on top.", scale=100)
    gray: GrayName = choice("lightness", "Gray", "What of the color is looked at.", GRAYS.values(), more=True)


class GrooveScale(Params):
    """What was measured of the whole picture at the working size: how deep its grain reads, the floor of the grooves, their mean,
    and the fine relief.
    """

    grain: float
    floor: float
    mean: float
    fine_mean: float
    fine_reach: float


def _softened(lightness: Spectrum) -> FloatArray:
    """The lightness (H, W) without the grain that is no groove."""
    return lightness.filtered(blur_transfer(lightness.frequencies(), _SOFT / np.pi))


def groove_depth(soft: Gray, edges: Edges | Edge = "wrap", *, width: float, are_light: bool) -> Gray:
    """How much darker (H, W) each texel is than the lines around it are wide: its closing by a disc, less itself.

    Convention: 0 is on a face, positive in a groove, in units of the ``soft`` lightness; the mean of discs of ``width`` and of
    twice that, shares of the picture's width.

    References
    ----------
    Closing and its difference to the picture (bottom hat): Serra 1982.
    Examples
    --------
    >>> lines = np.full((64, 64), 0.8, np.float32)
    >>> lines[:, ::32] = 0.2
    >>> depth = groove_depth(lines, width=0.05, are_light=False)
    >>> bool(depth[:, 0].min() > 0.2), bool(depth[:, 16].max() < 0.02)
    (True, True)
    """
    edges = edges_of(edges)
    soft = -soft if are_light else soft
    narrow, wide = in_parts(lambda radius: np.maximum(_closed(soft, radius, edges) - soft, 0), (width, 2 * width))
    return floats((narrow + wide) * np.float32(0.5))


def _closed(values: Gray, radius: float, edges: Edges) -> FloatArray:
    rows, columns = values.shape
    texels = max(1.0, radius * edges.width(columns))
    scale = min(1.0, _DISC_PX / texels)
    small = resize(values, Size(max(1, round(columns * scale)), max(1, round(rows * scale))), edges)
    reach = max(1, round(texels * scale))
    inner = closed_by_disc(padded(small, 2 * reach, 2 * reach, edges), reach)
    return resize(inner, Size(columns, rows), edges)


def line_skewness(lightness: Spectrum) -> float:
    """Whether thin lines are lighter (positive) or darker than what is around them: skewness between 0.4 % and 8 % of the width.

    Examples
    --------
    >>> from ..filters import spectrum
    >>> from ..raster import Edges
    >>> lines = np.full((64, 64), 0.2, np.float32)
    >>> lines[:, ::16] = 0.8
    >>> line_skewness(spectrum(lines, Edges())) > 0.2 > line_skewness(spectrum(1 - lines, Edges()))
    True
    """
    fine, broad = (blur_transfer(lightness.frequencies(), size / np.pi) for size in _LINES)
    band = lightness.filtered(fine - broad)
    band = band - band.mean()
    deviation = float(band.std())
    return float((band**3).mean()) / deviation**3 if deviation > _PLAIN else 0.0


def carries_lines(lightness: Spectrum) -> bool:
    """Whether thin dark lines carry much of a picture, as joints, gaps and seams do: they stand out of the grain, and more than
    light ones.

    Examples
    --------
    >>> from ..filters import spectrum
    >>> from ..raster import Edges
    >>> joints = np.full((128, 128), 0.7, np.float32) + np.random.default_rng(1).normal(0, 0.01, (128, 128)).astype(np.float32)
    >>> joints[::32] = joints[1::32] = 0.2
    >>> carries_lines(spectrum(joints, Edges())), carries_lines(spectrum(1 - joints, Edges()))
    (True, False)
    """
    if line_skewness(lightness) > -_STANDS_OUT:
        return False
    depth = groove_depth(_softened(lightness), lightness.edges, width=HeightFromGrooves().width, are_light=False)
    scale = measure_grooves(depth, fine_relief(lightness))
    return scale.floor > 2 * _LEAST_DEPTH and scale.floor > _DEEP * scale.grain


def fine_relief(lightness: Spectrum) -> Gray:
    """The small bumps (H, W), about zero, that lie on top of grooves and faces.

    Examples
    --------
    >>> from ..filters import spectrum
    >>> from ..raster import Edges
    >>> bool(np.allclose(fine_relief(spectrum(np.full((8, 8), 0.3, np.float32), Edges())), 0, atol=1e-6))
    True
    """
    return weighted_detail(lightness, _FINE)


def measure_grooves(depth: Gray, fine: Gray) -> GrooveScale:
    """The scale of what ``shape_grooves`` shapes.

    Examples
    --------
    >>> plain = np.zeros((8, 8), np.float32)
    >>> measure_grooves(plain, plain).floor
    0.02
    """
    kept = int(_KEPT_SHARE * (depth.size - 1))
    middle = depth.size // 2
    parted = np.partition(depth.ravel(), (middle, kept))
    floor = max(float(parted[kept]), _LEAST_DEPTH)
    grain = min(_GRAIN * float(parted[middle]), _MOST_GRAIN * floor)
    mean = float(fine.mean())
    reach = float(np.partition(np.abs(fine - np.float32(mean)).ravel(), kept)[kept])
    return GrooveScale(
        grain=grain,
        floor=floor,
        mean=float(_share(depth, grain, floor).mean()),
        fine_mean=mean,
        fine_reach=max(reach, _LEAST_FINE),
    )


def _share(depth: Gray, grain: float, floor: float) -> FloatArray:
    """0 on a face, however grainy, 1 on the floor of a groove."""
    return np.clip((depth - np.float32(grain)) * np.float32(1 / (floor - grain)), 0, 1)


def shape_grooves(
    depth: Gray, fine: Gray, scale: GrooveScale, *, params: HeightFromGrooves, cancel: Cancel = NEVER
) -> FloatArray:
    """Height (H, W), 0..1, from the depth of the grooves, the fine relief, and what was measured at the working size.

    Examples
    --------
    >>> plain = np.zeros((8, 8), np.float32)
    >>> shape_grooves(plain, plain, measure_grooves(plain, plain), params=HeightFromGrooves()).round(2).max()
    np.float32(0.5)
    """
    out = np.empty(depth.shape, np.float32)
    run_rows(_shape, *out.shape, cancel, depth, fine, scale, params, out)
    return out


def _shape(
    first: int, last: int, depth: Gray, fine: Gray, scale: GrooveScale, params: HeightFromGrooves, out: FloatArray
) -> None:
    """A few rows at a time: what is done to them one after the other stays in the cache."""
    share = _share(depth[first:last], scale.grain, scale.floor)
    if params.profile == "round":
        share = share * (2 - share)
    height = np.float32(0.5) + (np.float32(scale.mean) - share) * np.float32(0.5 * params.depth)
    if params.fine > 0:
        bumps = fine[first:last] - np.float32(scale.fine_mean)
        height += bumps * np.float32(0.25 * params.fine / scale.fine_reach)
    np.clip(height, 0, 1, out=out[first:last])


def height_from_grooves(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: HeightFromGrooves | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Read thin dark lines of a picture as grooves between calm faces.

    Convention: 0.5 is the mean; faces lie above it, grooves go down. Sizes are shares of the width, so the same picture at
    another size gives the same relief.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light, 0..1
    Returns
    -------
    height : (H, W) float32, 0..1
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    References
    ----------
    OKLab: Ottosson 2020. Bottom hat: Serra 1982.
    Examples
    --------
    >>> gray = np.full((8, 8, 3), 0.2, np.float32)
    >>> bool(np.allclose(height_from_grooves(gray), 0.5, atol=0.01))  # no line, no groove
    True
    """
    params, edges = params or HeightFromGrooves(), edges_of(edges)
    lightness = gray_spectrum(as_rgb(color, "color"), edges, gray=params.gray, cancel=cancel)
    depth = groove_depth(_softened(lightness), edges, width=params.width, are_light=params.are_light)
    fine = fine_relief(lightness)
    return shape_grooves(depth, fine, measure_grooves(depth, fine), params=params, cancel=cancel)


_SOFTENED = Part("softened/1", _softened, of=(WAVES,))
GROOVES = Part("grooves/1", groove_depth, of=(_SOFTENED,), by=("width", "are_light"), facts=("edges",))
FINE_RELIEF = Part("fine relief/1", fine_relief, of=(WAVES,))
GROOVE_SCALE = Part("groove scale/1", measure_grooves, of=(GROOVES, FINE_RELIEF), is_measured=True)
OPERATIONS = (
    Operation(
        "height_from_grooves",
        "from grooves",
        shape_grooves,
        HeightFromGrooves,
        slots=(master("color", "base_color"),),
        outputs=("height",),
        of=(GROOVES, FINE_RELIEF, GROOVE_SCALE),
        effort=13,
    ),
)
