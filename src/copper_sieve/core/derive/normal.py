"""Normal from height: slopes by a difference stencil, scaled by the rise."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

import cv2
import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, RELAXED, Cancel, run_rows
from ..color import GRAYS, GrayName
from ..filters import STENCILS, Spectrum, StencilName, blur_transfer, padded, spectrum
from ..operation import USUAL_REACH, Operation, master
from ..params import Params, choice, control
from ..raster import Edge, Edges, FloatArray, Gray, as_gray, edges_of
from .detail import HANDLES, Weight, detail_transfer
from .gray_height import bumps
from .grooves import FINE_RELIEF, GROOVE_SCALE, GROOVES, GrooveScale, HeightFromGrooves, shape_grooves
from .height import FIRST_SCALE, HEIGHT_SCALE, RELIEF, HeightFromColor, HeightScale, shape_height

__all__ = ["OPERATIONS", "NormalFromColor", "NormalFromHeight", "NormalFromLightness", "normal_from_height"]


_EVEN = (1.0, 1.0, 1.0, 1.0, 1.0)
Keeps = Literal["all", "edges", "raised", "sunken"]
Seen = Literal["lightness", "grooves"]


class NormalFromHeight(Params):
    """How slopes are taken, and of what."""

    strength: float = control(1.0, "Strength", "×", 0, 4, "Steeper or flatter than the rise says.")
    detail: tuple[Weight, Weight, Weight, Weight, Weight] = Field(
        default=_EVEN,
        title="Detail by size",
        description="How steep features of each size are. With all at 1 the height is used as it is.",
        json_schema_extra={"unit": "×", "sizes": list(HANDLES)},
    )
    finest: float = control(0.0, "Finest detail", "% of width", 0, 0.02, "Smaller bumps are left out.", example=0.004, scale=100)
    keeps: Keeps = choice(
        "all",
        "Keep",
        "Which slopes are kept: all, or those of edges alone, so that broad shapes stay flat.",
        ["Everything", "Edges only", "Raised edges only", "Sunken edges only"],
        more=True,
    )
    breadth: float = control(
        0.02,
        "Edge width up to",
        "% of width",
        0.002,
        0.2,
        "Shapes broader than this do not count as edges. Used with edges only.",
        scale=100,
        more=True,
    )
    noise: float = control(0.0, "Noise", "% of rise", 0, 0.3, "A little roughens what is too clean.", scale=100, more=True)
    filter: StencilName = choice(
        "scharr3",
        "Filter",
        "How neighbors are weighed when slopes are taken.",
        [stencil.title for stencil in STENCILS.values()],
        more=True,
    )


class NormalFromLightness(NormalFromHeight):
    """What of the picture leans, and how: the first way, which knew lightness alone and stretched any contrast."""

    gray: GrayName = choice("lightness", "Gray", "What of the color is seen as relief.", GRAYS.values(), more=True)
    detail: tuple[Weight, Weight, Weight, Weight, Weight] = Field(
        default=(0.0, 0.7, 1.0, 0.6, 0.25),
        title="Detail by size",
        description="How steep features of each size are. The broadest are mostly lighting.",
        json_schema_extra={"unit": "×", "sizes": list(HANDLES)},
    )
    soft: float = control(0.002, "Smoothing", "% of width", 0, 0.02, "Calms small bumps, keeps edges.", scale=100)
    invert: bool = Field(default=False, title="Dark is high", description="Turns hills into pits.")
    shading: ClassVar[float] = 0.0  # the relief in between is the plain one

    @property
    def of_color(self) -> HeightFromColor:
        """How the relief in between is made."""
        return HeightFromColor(gray=self.gray, detail=self.detail, smoothing=self.soft, invert=self.invert)

    @property
    def of_relief(self) -> NormalFromHeight:
        """How that relief leans; the sizes have been weighed already."""
        own = {name: getattr(self, name) for name in NormalFromHeight.model_fields if name != "detail"}
        return NormalFromHeight(**own, detail=_EVEN)


class NormalFromColor(NormalFromLightness):
    """What of the picture leans, and how."""

    seen: Seen = choice("lightness", "Read from", "What of the picture is relief.", ["Lightness", "Grooves"])
    width: float = control(
        0.016, "Groove width", "% of width", 0.002, 0.06, "Lines up to twice as wide count. Used with grooves.", scale=100
    )
    are_light: bool = Field(default=False, title="Light lines are grooves", description="Used with grooves; by default dark are.")

    @property
    def of_grooves(self) -> HeightFromGrooves:
        """How the grooves in between are made."""
        return HeightFromGrooves(gray=self.gray, width=self.width, are_light=self.are_light)


def _relief(height: Gray, params: NormalFromHeight, edges: Edges) -> FloatArray:
    """The height whose slopes are wanted: sizes weighed, edges alone, noise on top. Itself by default."""
    kept = height
    if params.finest > 0 or params.keeps != "all" or params.detail != _EVEN:
        waves = spectrum(height, edges)
        fx, fy = waves.frequencies()
        transfer = detail_transfer((fx, fy), tuple(w - 1 for w in params.detail)) + np.float32(1)
        for sigma, is_high in ((params.finest / np.pi, False), (params.breadth / np.pi, True)):
            if sigma > 0 and not (is_high and params.keeps == "all"):
                low = blur_transfer((fx, fy), sigma)
                transfer = transfer * (1 - low if is_high else low)
        kept = waves.filtered(transfer)
    if params.keeps in ("raised", "sunken"):
        kept = np.maximum(kept, 0) if params.keeps == "raised" else np.minimum(kept, 0)
    return kept + bumps(height.shape, 0, edges) * np.float32(params.noise) if params.noise > 0 else kept


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _compact(first, last, h, above, below, middle, outer, scale, wrap_x, out):
    """3×3 stencils in one pass: no slope arrays, no padded copy."""
    width = h.shape[1]
    one = np.float32(1)
    for row in range(first, last):
        up, here, down = h[above[row]], h[row], h[below[row]]
        for i in range(1, width - 1):
            p = middle * (here[i + 1] - here[i - 1])
            p += outer * ((up[i + 1] - up[i - 1]) + (down[i + 1] - down[i - 1]))
            q = middle * (down[i] - up[i]) + outer * ((down[i - 1] - up[i - 1]) + (down[i + 1] - up[i + 1]))
            p, q = -scale * p, scale * q
            inverse = one / np.sqrt(p * p + q * q + one)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = p * inverse, q * inverse, inverse
        for i in (0, width - 1):
            left = i - 1 if i > 0 else (width - 1 if wrap_x else 0)
            right = i + 1 if i < width - 1 else (0 if wrap_x else width - 1)
            p = middle * (here[right] - here[left])
            p += outer * ((up[right] - up[left]) + (down[right] - down[left]))
            q = middle * (down[i] - up[i]) + outer * ((down[left] - up[left]) + (down[right] - up[right]))
            p, q = -scale * p, scale * q
            inverse = one / np.sqrt(p * p + q * q + one)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = p * inverse, q * inverse, inverse


@numba.njit(nogil=True, cache=True, fastmath=RELAXED)
def _from_slopes(first, last, across, along, scale, out):
    one = np.float32(1)
    for row in range(first, last):
        for i in range(across.shape[1]):
            p, q = -scale * across[row, i], scale * along[row, i]
            inverse = one / np.sqrt(p * p + q * q + one)
            out[row, i, 0], out[row, i, 1], out[row, i, 2] = p * inverse, q * inverse, inverse


def neighbors(rows: int, edge: Edge) -> tuple[np.ndarray, np.ndarray]:
    """Index of the row above and below each row, as the edge says.

    Examples
    --------
    >>> [rows.tolist() for rows in neighbors(3, "wrap")]
    [[2, 0, 1], [1, 2, 0]]
    >>> [rows.tolist() for rows in neighbors(3, "mirror")]
    [[0, 0, 1], [1, 2, 2]]
    """
    above, below = np.arange(rows) - 1, np.arange(rows) + 1
    above[0], below[-1] = (rows - 1, 0) if edge == "wrap" else (0, rows - 1)
    return above, below


def _wide(height: Gray, stencil_name: StencilName, scale: float, edges: Edges, cancel: Cancel) -> FloatArray:
    stencil = STENCILS[stencil_name]
    derivative, smooth = np.array(stencil.derivative), np.array(stencil.smooth)
    margin = len(derivative) // 2
    grown = padded(height, margin, margin, edges)
    inner = (slice(margin, -margin), slice(margin, -margin))
    across = cv2.sepFilter2D(grown, cv2.CV_32F, derivative, smooth)[inner]
    cancel.check()
    along = cv2.sepFilter2D(grown, cv2.CV_32F, smooth, derivative)[inner]
    out = np.empty((*height.shape, 3), np.float32)
    run_rows(_from_slopes, *height.shape, cancel, across, along, np.float32(scale), out)
    return out


def normal_from_height(
    height: Gray,
    rise: float = 0.02,
    edges: Edges | Edge = "wrap",
    *,
    params: NormalFromHeight | None = None,
    out: FloatArray | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """Normals of a height field.

    Convention: tangent space, x right, y up (Y+), z out. Rows grow downwards, hence n = (-dh/dx, +dh/drow, 1).

    Parameters
    ----------
    height : (H, W) float32, 0..1 spanning ``rise``
    rise : height range as a share of the width
    out : (H, W, 3) float32 to write into (3×3 filters only), or None
    Returns
    -------
    normal : (H, W, 3) float32, unit length
    Raises
    ------
    ShapeMismatch : not (H, W)
    Notes
    -----
    A rise of 0 or a flat height gives flat normals.
    References
    ----------
    Sobel & Feldman 1968; Scharr 2000 (weights 3, 10, 3 and the 5-tap pair).
    Examples
    --------
    >>> normal_from_height(np.zeros((2, 2), np.float32))[0, 0].round(6).tolist()
    [-0.0, 0.0, 1.0]
    """
    params, edges = params or NormalFromHeight(), edges_of(edges)
    height = _relief(as_gray(height, "height"), params, edges)
    scale = rise * edges.width(height.shape[1]) * params.strength
    stencil = STENCILS[params.filter]
    if len(stencil.smooth) > 3:
        return _wide(height, params.filter, scale, edges, cancel)
    middle, outer = 0.5 * stencil.smooth[1], 0.5 * stencil.smooth[0]
    out = np.empty((*height.shape, 3), np.float32) if out is None else out
    numbers = (np.float32(middle), np.float32(outer), np.float32(scale), edges.x == "wrap")
    run_rows(_compact, *height.shape, cancel, height, *neighbors(height.shape[0], edges.y), *numbers, out)
    return out


def _from_lightness(
    relief: Spectrum, scale: HeightScale, rise: float, edges: Edges, *, params: NormalFromLightness, cancel: Cancel
) -> FloatArray:
    height = shape_height(relief, scale, params=params.of_color, cancel=cancel)
    return normal_from_height(height, rise, edges, params=params.of_relief, cancel=cancel)


def _straight_from_color(
    relief: Spectrum,
    scale: HeightScale,
    depth: Gray | None,
    fine: Gray | None,
    grooves: GrooveScale | None,
    rise: float,
    edges: Edges,
    *,
    params: NormalFromColor,
    cancel: Cancel,
) -> FloatArray:
    if depth is None or fine is None or grooves is None:
        return _from_lightness(relief, scale, rise, edges, params=params, cancel=cancel)
    height = shape_grooves(depth, fine, grooves, params=params.of_grooves, cancel=cancel)
    return normal_from_height(height, rise, edges, params=params.of_relief, cancel=cancel)


def _sees_grooves(params: NormalFromColor) -> bool:
    return params.seen == "grooves"


def _reach(params: NormalFromHeight) -> float:
    """The stencil alone sees two texels, which every neighbor gives."""
    return 0.0 if params.finest == 0 and params.keeps == "all" and params.detail == _EVEN else USUAL_REACH


_COLOR = (master("color", "base_color"),)
OPERATIONS = (
    Operation(
        "normal_from_height",
        "from height",
        normal_from_height,
        NormalFromHeight,
        slots=(master("height"),),
        outputs=("normal",),
        facts=("rise", "edges"),
        reach=_reach,
    ),
    Operation(
        "normal_from_color",
        "straight from color",
        _straight_from_color,
        NormalFromColor,
        slots=_COLOR,
        outputs=("normal",),
        of=(
            RELIEF,
            HEIGHT_SCALE,
            replace(GROOVES, is_needed=_sees_grooves),
            replace(FINE_RELIEF, is_needed=_sees_grooves),
            replace(GROOVE_SCALE, is_needed=_sees_grooves),
        ),
        facts=("rise", "edges"),
        effort=9,
        number=2,
        older=(
            Operation(
                "normal_from_color",
                "straight from color",
                _from_lightness,
                NormalFromLightness,
                slots=_COLOR,
                outputs=("normal",),
                of=(RELIEF, FIRST_SCALE),
                facts=("rise", "edges"),
                effort=9,
                was="the way that stretches any contrast to the whole height",
            ),
        ),
    ),
)
