"""What the pixels say when the name says nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from ..raster import unit_values
from ..vectors import is_black
from .channels import Plane, are_unrelated, looks_packed, measure_plane

__all__ = ["TILING", "Content", "NormalForm", "measure_content", "seams", "smaller"]

NormalForm = Literal["tangent", "object", "two-channel"]

TILING = 2.2  # a border jump up to this many times the inner one counts as tiling
_LOOK_PX = 256  # longer side of the copy that is measured
_LOOSELY, _BRIGHTER_THAN_WHITE = 0.02, 1.5  # of a picture of the surroundings
_SUMMED = 1e30  # sums over every texel of a picture still fit a float32
_FEWER = 2  # statistics of single channels need a quarter of these texels
_ALPHA_SETTLED, _CUT_OUT_SHARE = 0.06, 0.6
_SEAM_LINES = 48  # rows and columns that are followed from border to border
_STRONGEST = 3  # the third strongest jump inside: a few edges alike are a pattern, one alone is none
_STRONGEST_COUNTS = 0.55
_FLAT_JUMP = 1e-3  # of the range: less than any 8-bit step
_SAME = 2 / 255  # channels closer than this are one gray, as JPEG saves it
_NORMAL_BLUE = 0.7
_NORMAL_NEUTRAL = 0.2  # how far mean red and green of a tangent-space map stray from the middle
_UNIT_WITHIN = 0.12
_MOST_BLACK = 0.9
_OBJECT_UNIT_SHARE, _OBJECT_BACK_SHARE, _OBJECT_SPREAD = 0.85, 0.05, 0.12
_ONE_VALUE_SPREAD = 0.02  # JPEG cannot keep a channel quite at one value
_LEAST_SLOPES = 0.008  # spread of red and green from which a map without blue may be x and y


@dataclass(frozen=True)
class Content:
    """Plain statistics of a picture, on its stored 0..1 scale."""

    is_gray: bool
    is_constant: bool
    mean: tuple[float, ...]
    low: float
    high: float
    unit_share: float  # share of texels whose 2v − 1 has a length near 1; of normals, of those that are not black
    normal_form: NormalForm | None  # a normal map by its pixels, and of which form
    looks_packed: bool
    are_channels_apart: bool  # R, G and B are unrelated pictures, whatever they may hold
    planes: tuple[Plane, ...]  # one per channel, alpha among them
    is_around: bool  # light of the whole sphere: twice as wide as high, and brighter than white
    seam: tuple[float, float]  # jump across the left-right and top-bottom border over the jump inside; about 1 tiles
    alpha: Literal["none", "constant", "cut-out", "gray"]  # cut-out: most of it is fully there or fully gone

    @property
    def looks_normal(self) -> bool:
        return self.normal_form == "tangent"

    @property
    def is_blue_violet(self) -> bool:
        """As normal maps are, whatever length their vectors have."""
        return len(self.planes) > 2 and _is_violet([plane.mean for plane in self.planes])


def measure_content(codes: np.ndarray) -> Content:
    """Measure (H, W[, C]) codes of any depth. Floats beyond ±1e30, as damaged files hold them, count as that."""
    if codes.dtype.kind == "f" and max(float(codes.max()), -float(codes.min())) > _SUMMED:
        codes = np.clip(codes, -_SUMMED, _SUMMED)
    height, width = codes.shape[:2]
    has_alpha = codes.ndim == 3 and codes.shape[2] in (2, 4)
    color = codes[..., : codes.shape[2] - has_alpha] if codes.ndim == 3 else codes
    step = max(1, max(height, width) // _LOOK_PX)
    small = unit_values(np.ascontiguousarray(color[::step, ::step]))
    small = small[..., None] if small.ndim == 2 else small
    is_gray = small.shape[2] < 3 or float(np.abs(small - small[..., :1]).max()) <= _SAME * 4
    alpha = codes[..., -1] if has_alpha else None
    shown = small if alpha is None else np.dstack([small, unit_values(np.ascontiguousarray(alpha[::step, ::step]))])
    fewer = np.ascontiguousarray(shown[::_FEWER, ::_FEWER]) if min(shown.shape[:2]) > _LOOK_PX // 2 else shown
    planes = tuple(measure_plane(fewer[..., k]) for k in range(fewer.shape[2]))
    unit_share, form = (0.0, None) if is_gray else _normal_form(small, planes)
    return Content(
        is_gray=is_gray,
        is_constant=bool((small == small[:1, :1]).all()) and bool((color == color[:1, :1]).all()),  # the small look first
        mean=tuple(round(p.mean, 4) for p in planes[: small.shape[2]]),
        low=float(small.min()),
        high=float(small.max()),
        unit_share=unit_share,
        normal_form=form,
        looks_packed=not is_gray and form is None and looks_packed(small, planes),
        are_channels_apart=not is_gray and form is None and are_unrelated(small, planes),
        planes=planes,
        is_around=abs(width / height / 2 - 1) < _LOOSELY and float(small.max()) > _BRIGHTER_THAN_WHITE,
        seam=seams(color),
        alpha=_alpha_kind(alpha),
    )


def _normal_form(small: np.ndarray, planes: tuple[Plane, ...]) -> tuple[float, NormalForm | None]:
    """Share of vectors of unit length in (H, W, 3), and what kind of normal map that makes it."""
    vectors = small * 2 - 1
    is_unit, black = np.abs(np.linalg.norm(vectors, axis=-1) - 1) < _UNIT_WITHIN, is_black(vectors)
    if 0 < float(black.mean()) < _MOST_BLACK:  # where nothing of the surface lies
        kept = small[~black].mean(0)
        unit_share = float(is_unit[~black].mean())
        if _is_violet(kept) and unit_share > 0.5:
            return unit_share, "tangent"
    unit_share = float(is_unit.mean())
    if _is_violet([p.mean for p in planes]) and unit_share > 0.5:
        return unit_share, "tangent"
    backwards = float((vectors[..., 2] < -0.1).mean())
    spread = all(p.spread > _OBJECT_SPREAD for p in planes[:3])
    if unit_share > _OBJECT_UNIT_SHARE and backwards > _OBJECT_BACK_SHARE and spread:
        return unit_share, "object"
    with np.errstate(over="ignore"):  # of a damaged file's floats
        slopes = vectors[..., 0] ** 2 + vectors[..., 1] ** 2
    leaning = all(p.spread > _LEAST_SLOPES for p in planes[:2]) and float((slopes > 1.02).mean()) < 0.01
    is_left = planes[2].spread < _ONE_VALUE_SPREAD and any(abs(planes[2].mean - value) < 0.03 for value in (0, 0.5, 1))
    if _is_neutral([p.mean for p in planes]) and leaning and is_left:
        return unit_share, "two-channel"
    return unit_share, None


def _is_neutral(means: Sequence[float] | np.ndarray) -> bool:
    return all(abs(mean - 0.5) < _NORMAL_NEUTRAL for mean in means[:2])


def _is_violet(means: Sequence[float] | np.ndarray) -> bool:
    return _is_neutral(means) and means[2] > _NORMAL_BLUE


def _alpha_kind(alpha: np.ndarray | None) -> Literal["none", "constant", "cut-out", "gray"]:
    if alpha is None:
        return "none"
    if (alpha == alpha[0, 0]).all():
        return "constant"
    values = unit_values(np.ascontiguousarray(alpha))
    settled = float(((values < _ALPHA_SETTLED) | (values > 1 - _ALPHA_SETTLED)).mean())
    return "cut-out" if settled >= _CUT_OUT_SHARE else "gray"


def seams(color: np.ndarray) -> tuple[float, float]:
    """Of (H, W[, C]) codes, or floats of 0..1, across and down: how much larger the jump over the border is than jumps inside,
    those beside it, and the strongest anywhere.

    The strongest count for a little over half, so that a pattern whose own edge lies on the border still tiles.
    """
    if min(color.shape[:2]) < 16:
        return 1.0, 1.0
    rows, columns = (max(1, n // _SEAM_LINES) for n in color.shape[:2])
    across, down = color[::rows], color[:, ::columns].swapaxes(0, 1)
    return _seam(unit_values(np.ascontiguousarray(across))), _seam(unit_values(np.ascontiguousarray(down)))


def _seam(values: np.ndarray) -> float:
    """The seam between the last and the first column of (N, W) or (N, W, C)."""
    jumps = np.abs(np.diff(values, axis=1)).reshape(len(values), values.shape[1] - 1, -1).mean((0, 2))
    over = float(np.abs(values[:, 0] - values[:, -1]).mean())
    beside, strongest = (jumps[0] + jumps[-1]) / 2, float(np.partition(jumps, -_STRONGEST)[-_STRONGEST])
    return over / max(float(beside), _STRONGEST_COUNTS * float(strongest), _FLAT_JUMP)


def smaller(codes: np.ndarray, longer_px: int) -> np.ndarray:
    """A copy whose longer side is at most ``longer_px``, averaged over area; for thumbnails."""
    height, width = codes.shape[:2]
    scale = longer_px / max(height, width)
    if scale >= 1:
        return codes
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    return cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
