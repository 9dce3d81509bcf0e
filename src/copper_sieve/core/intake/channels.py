"""What a single gray plane most looks like, and so which channel of a packed file is which."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations
from types import MappingProxyType

import numpy as np

from ..quantities import quantity
from ..raster import FloatArray

__all__ = ["Guess", "Plane", "are_unrelated", "guess_gray", "guess_packed", "looks_packed", "measure_plane"]

_END = 0.06  # of the range: nearer to black or white than this is as good as there
_FEW_LEVELS = 4  # a mask has few; shades of anything have many
_LEVELS_SHARE = 0.98
_SUREST = 0.85  # pixels alone never say more than that
_UNRELATED = 0.6  # channels of a color picture correlate more than this, those of a packed file less
_UNRELATED_BESIDE_ONE_VALUE = 0.995  # two channels of shades beside one that is all black or white are no color picture
_MEANS_APART = 0.25
_VARIED = 0.004  # one 8-bit step; under it a channel is one value
_USUAL_ORDERS: Mapping[tuple[str, ...], float] = {
    ("occlusion", "roughness", "metallic"): 1.0,
    ("metallic", "roughness", "occlusion"): 0.8,
}
_OTHER_ORDER = 0.6


@dataclass(frozen=True)
class Plane:
    """Statistics of one channel on its stored 0..1 scale. ``levels`` is how many codes hold 98 % of the texels."""

    mean: float
    spread: float
    dark: float  # share as good as black
    bright: float  # share as good as white
    skew: float
    high: float  # 95th percentile
    levels: int
    dark_rim: float  # share as good as black of the outermost rows and columns

    @property
    def settled(self) -> float:
        return self.dark + self.bright

    @property
    def is_mask(self) -> bool:
        return self.levels <= _FEW_LEVELS


@dataclass(frozen=True)
class Guess:
    """What planes were taken for, by letter; ``confidence`` is the share of the best reading among all."""

    reads: dict[str, str]
    confidence: float
    because: str


def measure_plane(values: FloatArray) -> Plane:
    """Measure (H, W) float32, 0..1; a few ten thousand texels are plenty."""
    flat = values.ravel()
    mean, spread = float(flat.mean()), float(flat.std())
    skew = float((((flat - mean) / spread) ** 3).mean()) if spread > 1e-6 else 0.0
    counts = np.sort(np.bincount((flat.clip(0, 1) * 255 + 0.5).astype(np.uint8), minlength=256))[::-1]
    levels = int(np.searchsorted(np.cumsum(counts), _LEVELS_SHARE * flat.size)) + 1
    dark, bright = float((flat < _END).mean()), float((flat > 1 - _END).mean())
    rim = np.concatenate([values[0], values[-1], values[:, 0], values[:, -1]])
    return Plane(mean, spread, dark, bright, skew, float(np.percentile(flat, 95)), levels, float((rim < _END).mean()))


def _ramp(value: float, none: float, full: float) -> float:
    return min(max((value - none) / (full - none), 0.0), 1.0)


def _metallic(p: Plane) -> float:
    """Almost all of it is 0 or 1; shades near white are rather occlusion."""
    return _ramp(p.settled, 0.7, 0.95) * (1.0 if p.is_mask or p.dark > p.bright else 0.6)


def _occlusion(p: Plane) -> float:
    """Open, so white, almost everywhere; shades towards dark, never a mask."""
    white = _ramp(p.high, 0.8, 0.95) * _ramp(p.mean, 0.5, 0.75) * (1 - _ramp(p.dark, 0.1, 0.4))
    return white * (0.35 if p.is_mask else 1.0) * (1.0 if p.skew < 0.2 else 0.3)


def _roughness(p: Plane) -> float:
    """In between: neither black nor white."""
    return max(_ramp(1 - p.settled, 0.15, 0.6), 0.05)


_LIKENESS: Mapping[str, Callable[[Plane], float]] = MappingProxyType(
    {"occlusion": _occlusion, "roughness": _roughness, "metallic": _metallic}
)


def guess_packed(planes: Sequence[Plane]) -> Guess:
    """Which of R, G and B is occlusion, roughness and metallic: the order that fits best, each weighed by its habit."""
    orders = list(permutations(_LIKENESS))
    fits = [
        _USUAL_ORDERS.get(order, _OTHER_ORDER) * float(np.prod([_LIKENESS[key](p) + 0.01 for key, p in zip(order, planes)]))
        for order in orders
    ]
    best = int(np.argmax(fits))
    says = ", ".join(f"{letter} {_says(key, p)}" for letter, key, p in zip("RGB", orders[best], planes))
    return Guess(dict(zip("RGB", orders[best])), min(_SUREST, fits[best] / sum(fits)), f"its channels differ: {says}")


def _says(key: str, p: Plane) -> str:
    if key == "metallic":
        return f"is black or white on {p.settled:.0%}"
    return f"has a mean of {p.mean:.2f}" if key == "roughness" else f"is mostly white ({p.mean:.2f})"


def looks_packed(values: FloatArray, planes: Sequence[Plane]) -> bool:
    """Whether the channels of (H, W, 3) are three unrelated grays rather than one color picture.

    ``planes`` are theirs, in their order; an alpha behind them tells nothing of it and is not looked at.
    """
    planes = planes[: values.shape[2]]
    told = any(_occlusion(p) > 0.5 or _metallic(p) > 0.8 for p in planes)
    if not told or max(p.mean for p in planes) - min(p.mean for p in planes) < _MEANS_APART:
        return False
    return are_unrelated(values, planes)


def are_unrelated(values: FloatArray, planes: Sequence[Plane]) -> bool:
    """Whether none of the channels of (H, W, 3) follows another, as all do in a picture of a lit thing."""
    varied = [k for k, p in enumerate(planes[: values.shape[2]]) if p.spread > _VARIED]
    if not varied:
        return False
    related = np.abs(np.corrcoef(values.reshape(-1, values.shape[2])[:, varied].T)) if len(varied) > 1 else np.zeros((1, 1))
    strongest = max((float(related[a, b]) for a in range(len(varied)) for b in range(a)), default=0.0)
    one_value = any(p.spread <= _VARIED and p.settled > 0.97 for p in planes[: values.shape[2]])
    return strongest < (_UNRELATED_BESIDE_ONE_VALUE if one_value else _UNRELATED)


def guess_gray(plane: Plane) -> Guess:
    """What one gray picture without a telling name may be. Only clear occlusion is said with confidence."""
    if plane.spread < 1e-6:
        return Guess({}, 0.0, f"the same value everywhere ({plane.mean:.2f})")
    if _occlusion(plane) > 0.8 and plane.skew < -0.5 and plane.mean > 0.75:
        return Guess({"L": "occlusion"}, 0.65, f"mostly white ({plane.mean:.2f}) and dark in few places")
    if plane.settled > 0.85:
        return Guess({"L": "metallic" if plane.dark > 0.5 else "opacity"}, 0.4, "black and white with hardly any gray")
    key = "height" if plane.spread > 0.12 else "roughness"
    return Guess({"L": key}, 0.35, f"shades of gray that may be {quantity(key).title.lower()}")
