"""Height from color: lightness seen as relief, detail by detail."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, RELAXED, Cancel, run_rows
from ..color import GRAYS, GrayName, gray_of
from ..filters import Spectrum, blur_transfer, guided, spectrum
from ..operation import Operation, Part, master
from ..params import Params, choice, control
from ..raster import Edge, Edges, FloatArray, Rgb, as_rgb, edges_of
from .detail import HANDLES, Weight, weighted_detail
from .shape_from_shading import relief_along_light

__all__ = [
    "FIRST_SCALE",
    "HEIGHT_SCALE",
    "OPERATIONS",
    "RELIEF",
    "UNDER_LAMP",
    "NEARLY_PLAIN",
    "WAVES",
    "Contrast",
    "HeightFromColor",
    "HeightScale",
    "first_height_from_color",
    "gray_spectrum",
    "height_from_color",
    "hues_in_relief",
    "measure_height",
    "relief_contrast",
    "shape_height",
    "shaded_spectrum",
    "spreads_of",
    "with_shading",
]

KEPT_SHARE = 0.998  # of texels that stay inside 0..1 at contrast 1; the rest meets the soft knee
BULK_SHARE = 0.95  # of texels that are no pores, seams or veins
_KNEE = 0.85
NEARLY_PLAIN = 0.015  # of lightness: relief of less contrast is not stretched to the whole height
_LEAST = 1e-4  # of lightness: flatter than any 8-bit picture can say
_SMOOTHING_TOLERANCE = 0.06
_HUE_SIZES = (0.01, 0.1)  # shares of the width between which detail is compared
_DARKEST = 0.02  # linear, added before the logarithm: darker is mostly noise
_LEAST_HUE = 0.03  # of the logarithm, standard deviation: less is a sensor's


class HeightFromColor(Params):
    """How a gray of the color becomes height."""

    detail: tuple[Weight, Weight, Weight, Weight, Weight] = Field(
        default=(0.0, 0.7, 1.0, 0.6, 0.25),
        title="Detail by size",
        description="How much features of each size rise. The broadest are mostly lighting.",
        json_schema_extra={"unit": "×", "sizes": list(HANDLES)},
    )
    contrast: float = control(1.0, "Contrast", "×", 0, 3, "Spreads the values of the map; the rise stays.")
    offset: float = control(0.0, "Offset", "%", -0.5, 0.5, "Lifts or lowers the whole map.", scale=100)
    smoothing: float = control(0.002, "Smoothing", "% of width", 0, 0.02, "Calms small bumps, keeps edges.", scale=100)
    invert: bool = Field(default=False, title="Dark is high", description="Turns hills into pits.")
    gray: GrayName = choice("lightness", "Gray", "What of the color is seen as relief.", GRAYS.values(), more=True)
    shading: float = control(
        0.0,
        "From light and shade",
        "%",
        0,
        1,
        "Slopes read from a lamp baked in, instead of light is high.",
        example=0.6,
        scale=100,
        more=True,
    )
    light: float = control(135.0, "The lamp stands", "°", 0, 360, "Counterclockwise from the right: 90 is above.", more=True)


class HeightScale(Params):
    """What was measured of the whole picture at the working size, so that every size agrees."""

    mean: float
    reach: float


def gray_spectrum(color: Rgb, edges: Edges | Edge, *, gray: GrayName, cancel: Cancel = NEVER) -> Spectrum:
    """Spectrum of one gray of (H, W, 3) linear color.

    Examples
    --------
    >>> gray_spectrum(np.zeros((4, 6, 3), np.float32), "wrap", gray="lightness").size
    Size(width=6, height=4)
    """
    return spectrum(gray_of(color, gray, cancel=cancel), edges)


def shaded_spectrum(color: Rgb, edges: Edges | Edge, *, gray: GrayName, light: float) -> Spectrum:
    """Spectrum of the relief that a lamp at ``light`` degrees would show as one gray of (H, W, 3) linear color.

    Examples
    --------
    >>> plain = shaded_spectrum(np.full((8, 8, 3), 0.5, np.float32), "wrap", gray="lightness", light=135)
    >>> float(np.abs(plain.values).max()) < 1e-3  # no shading, no relief
    True
    """
    return spectrum(relief_along_light(gray_of(color, gray), light, edges), edges)


def with_shading(plain: Spectrum, shaded: Spectrum | None, spreads: tuple[float, float] | None, *, shading: float) -> Spectrum:
    """The two mixed by ``shading``, each brought to the ``spreads`` measured at the working size; the plain one at 0.

    Examples
    --------
    >>> plain = gray_spectrum(np.zeros((4, 4, 3), np.float32), "wrap", gray="lightness")
    >>> with_shading(plain, None, None, shading=0.0) is plain
    True
    """
    if shaded is None or spreads is None:
        return plain
    first, second = ((1 - shading) / max(spreads[0], _LEAST), shading / max(spreads[1], _LEAST))
    return Spectrum(plain.values * np.float32(first) + shaded.values * np.float32(second), plain.size, plain.edges)


def spreads_of(plain: Spectrum, shaded: Spectrum, *, detail: tuple[float, ...]) -> tuple[float, float]:
    """Standard deviations of the weighted detail of both, for ``with_shading``.

    Examples
    --------
    >>> plain = gray_spectrum(np.full((8, 8, 3), 0.5, np.float32), "wrap", gray="lightness")
    >>> [round(spread, 3) for spread in spreads_of(plain, plain, detail=(1.0,) * 5)]
    [0.0, 0.0]
    """
    first, second = (float(weighted_detail(waves, detail).std()) for waves in (plain, shaded))
    return first, second


def measure_height(lightness: Spectrum, *, detail: tuple[float, ...], least: float = NEARLY_PLAIN) -> HeightScale:
    """Mean of the weighted detail, and the distance from it that holds ``KEPT_SHARE`` of the texels, ``least`` at least.

    Examples
    --------
    >>> plain = gray_spectrum(np.full((8, 8, 3), 0.5, np.float32), "wrap", gray="lightness")
    >>> round(measure_height(plain, detail=(1.0,) * 5).mean, 3)
    0.0
    """
    relief = weighted_detail(lightness, detail)
    mean = float(relief.mean())
    kept = int(KEPT_SHARE * (relief.size - 1))
    reach = float(np.partition(np.abs(relief - np.float32(mean)).ravel(), kept)[kept])
    return HeightScale(mean=mean, reach=max(reach, least))


@dataclass(frozen=True)
class Contrast:
    """How far the lightness of detail lies from its mean: in ``KEPT_SHARE`` of the texels, and in ``BULK_SHARE``."""

    reach: float
    bulk: float


def relief_contrast(color: Rgb, edges: Edges | Edge = "wrap") -> Contrast:
    """How much lightness the detail of (H, W, 3) linear color spans: as a whole, and without the few places that stand out.

    Examples
    --------
    >>> plain = np.full((64, 64, 3), 0.5, np.float32)
    >>> round(relief_contrast(plain).reach, 3)
    0.0
    >>> plain[::32, ::32] = 0.1  # a few pores
    >>> pores = relief_contrast(plain)
    >>> pores.reach > 5 * pores.bulk
    True
    """
    lightness = gray_spectrum(as_rgb(color, "color"), edges, gray="lightness")
    relief = weighted_detail(lightness, HeightFromColor().detail)
    spans = np.abs(relief - relief.mean()).ravel()
    kept, bulk = (int(share * (spans.size - 1)) for share in (KEPT_SHARE, BULK_SHARE))
    parted = np.partition(spans, (bulk, kept))
    return Contrast(reach=float(parted[kept]), bulk=float(parted[bulk]))


def hues_in_relief(color: Rgb, edges: Edges | Edge = "wrap") -> float:
    """How much of the detail of (H, W, 3) linear color is no shade of one color, 0..1: light and shade scale red, green and blue
    alike, paint and rust do not.

    Examples
    --------
    >>> stripes = np.where(np.arange(64) % 16 < 8, 0.2, 0.6)[None, :, None] * np.ones((64, 1, 3))
    >>> rust, shade = np.array([1, 0.4, 0.2]), np.array([0.3, 0.4, 0.5])
    >>> round(hues_in_relief((stripes * shade).astype(np.float32)), 1)
    0.0
    >>> hues_in_relief(np.where(stripes > 0.4, rust, shade).astype(np.float32)) > 0.5
    True
    """
    logs = np.log(np.maximum(as_rgb(color, "color"), 0) + np.float32(_DARKEST))
    waves = [spectrum(np.ascontiguousarray(logs[..., k]), edges) for k in range(3)]
    fine, broad = (blur_transfer(waves[0].frequencies(), size / np.pi) for size in _HUE_SIZES)
    detail = np.stack([wave.filtered(fine - broad) for wave in waves], -1)
    whole = float(np.square(detail).mean())
    unlike = whole - float(np.square(detail.mean(-1)).mean())
    return unlike / whole if unlike > _LEAST_HUE**2 else 0.0


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _settle(first, last, relief, mean, gain, offset, knee):
    rest = np.float32(1) - knee
    half, zero, one = np.float32(0.5), np.float32(0), np.float32(1)
    for row in range(first, last):
        for i in range(relief.shape[1]):
            t = (relief[row, i] - mean) * gain
            a = abs(t)
            if a > knee:
                over = (a - knee) / rest
                over = knee + rest * over / (one + over)
                t = over if t > 0 else -over
            relief[row, i] = min(max(half + half * t + offset, zero), one)


def shape_height(lightness: Spectrum, scale: HeightScale, *, params: HeightFromColor, cancel: Cancel = NEVER) -> FloatArray:
    """Height (H, W), 0..1 about 0.5, from a spectrum and what was measured at the working size.

    Examples
    --------
    >>> plain = gray_spectrum(np.full((8, 8, 3), 0.5, np.float32), "wrap", gray="lightness")
    >>> params = HeightFromColor()
    >>> scale = measure_height(plain, detail=params.detail)
    >>> shape_height(plain, scale, params=params).round(2).max()
    np.float32(0.5)
    """
    relief = weighted_detail(lightness, params.detail)
    cancel.check()
    gain = (-1 if params.invert else 1) * params.contrast / scale.reach
    numbers = (np.float32(scale.mean), np.float32(gain), np.float32(params.offset), np.float32(_KNEE))
    run_rows(_settle, relief.shape[0], relief.shape[1], cancel, relief, *numbers)
    return guided(relief, params.smoothing, _SMOOTHING_TOLERANCE, lightness.edges)


def height_from_color(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: HeightFromColor | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Read a picture as relief: bands of a gray, OKLab lightness by default, weighted by size.

    Convention: light is high unless ``invert``, or as the lamp says as far as ``shading``; 0.5 is the mean. A picture of less
    contrast than ``NEARLY_PLAIN`` fills that much less of the height. Sizes are shares of the width, so the same picture at
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
    OKLab: Ottosson 2020. Guided filter: He, Sun & Tang 2010.
    Examples
    --------
    >>> gray = np.full((8, 8, 3), 0.2, np.float32)
    >>> bool(np.allclose(height_from_color(gray), 0.5, atol=0.01))  # a flat picture is a flat surface
    True
    """
    return _height(color, edges, params or HeightFromColor(), NEARLY_PLAIN, cancel)


def first_height_from_color(
    color: Rgb, edges: Edges | Edge = "wrap", *, params: HeightFromColor | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """As ``height_from_color``, by the first way, which stretched any contrast to the whole height.

    Parameters
    ----------
    color : (H, W, 3) float32, linear light, 0..1
    Returns
    -------
    height : (H, W) float32, 0..1
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    Examples
    --------
    >>> faint = np.full((8, 8, 3), 0.2, np.float32)
    >>> faint[:, :4] += 0.001
    >>> float(np.ptp(first_height_from_color(faint))) > 3 * float(np.ptp(height_from_color(faint)))
    True
    """
    return _height(color, edges, params or HeightFromColor(), _LEAST, cancel)


def _height(color: Rgb, edges: Edges | Edge, params: HeightFromColor, least: float, cancel: Cancel) -> FloatArray:
    color, edges = as_rgb(color, "color"), edges_of(edges)
    relief = gray_spectrum(color, edges, gray=params.gray, cancel=cancel)
    if params.shading > 0:
        shaded = shaded_spectrum(color, edges, gray=params.gray, light=params.light)
        spreads = spreads_of(relief, shaded, detail=params.detail)
        relief = with_shading(relief, shaded, spreads, shading=params.shading)
    return shape_height(relief, measure_height(relief, detail=params.detail, least=least), params=params, cancel=cancel)


def _is_shaded(params: HeightFromColor) -> bool:
    return params.shading > 0


WAVES = Part("waves/1", gray_spectrum, of=("color",), by=("gray",), facts=("edges",))
UNDER_LAMP = Part("along light/1", shaded_spectrum, ("color",), ("gray", "light"), ("edges",), is_needed=_is_shaded)
_SPREADS = Part("spreads/1", spreads_of, (WAVES, UNDER_LAMP), ("detail",), is_measured=True, is_needed=_is_shaded)
RELIEF = Part("relief/1", with_shading, of=(WAVES, UNDER_LAMP, _SPREADS), by=("shading",), is_kept=False)
HEIGHT_SCALE = Part("height scale/2", measure_height, of=(RELIEF,), by=("detail",), is_measured=True)
FIRST_SCALE = Part("height scale/1", partial(measure_height, least=_LEAST), of=(RELIEF,), by=("detail",), is_measured=True)


def _of_scale(scale: Part, number: int, was: str = "", older: tuple[Operation, ...] = ()) -> Operation:
    return Operation(
        "height_from_color",
        "from color",
        shape_height,
        HeightFromColor,
        slots=(master("color", "base_color"),),
        outputs=("height",),
        of=(RELIEF, scale),
        effort=9,
        number=number,
        was=was,
        older=older,
    )


OPERATIONS = (
    _of_scale(HEIGHT_SCALE, 2, older=(_of_scale(FIRST_SCALE, 1, "the way that stretches any contrast to the whole height"),)),
)
