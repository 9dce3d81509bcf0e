"""Likeness: values that a person states for a few spots go to whatever looks like them, and lie between them elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..bands import NEVER, Cancel, run_rows
from ..color import oklab_from_linear
from ..filters import gaussian
from ..operation import Operation, Part
from ..params import Params
from ..raster import Edge, Edges, FloatArray, Rgb, as_rgb, edges_of
from .pick_fit import Pick, places_of
from .picks import FIRST_ROUGHNESS_BY_PICKS, PICK_FIT, ByPicks

__all__ = ["OPERATIONS", "LikenessFit", "fit_likeness", "likeness_features", "roughness_by_likeness"]

_SIZES = (0.004, 0.02)  # feature sizes at which colors are compared: a pick reads the mean of that much around it
_NEAR = 1.0  # deviations of the picture within which spots are alike
_LEAST_SPREAD = 0.15  # of the largest feature's: below it a feature is noise and must not be blown up
_LEAST = 1e-4  # of OKLab
_OF_A_STROKE = 4  # points that a brushed spot is held by: every one of them costs at every texel
_AT_ONCE, _LEAST_AT_ONCE = 1 << 16, 256  # of texels times picks, and of texels: what stays in the cache
_UNASKED = 0.65  # roughness where nobody has picked: that of most surfaces


@dataclass(frozen=True)
class LikenessFit:
    """What picks come to: ``points`` (points, features) in deviations, their ``values``, how many picks each ``counts`` as.

    ``scale`` (features,) is what features are divided by, and ``varied`` how many of them tell anything apart; ``residuals``
    are how far each point is off.
    """

    points: FloatArray
    values: FloatArray
    counts: FloatArray
    scale: FloatArray
    varied: float
    residuals: tuple[float, ...]

    @property
    def worst(self) -> float:
        """How far the worst pick is off."""
        return max(map(abs, self.residuals), default=0.0)

    def doubt(self, features: FloatArray) -> FloatArray:
        """How unlike each texel is to every pick, (H, W): 0 as one of them, near 1 where nothing like it was picked."""
        if not len(self.values):
            return np.ones(features.shape[:2], np.float32)
        here = features / self.scale
        apart = np.min([np.square(here - point).sum(-1) for point in self.points], 0)
        return (1 - np.exp(-0.5 * apart / (self.varied * _NEAR * _NEAR))).astype(np.float32)


def likeness_features(color: Rgb, edges: Edges | Edge) -> FloatArray:
    """What spots are told apart by: OKLab of (H, W, 3) linear color, softened to two sizes, (H, W, 6).

    Examples
    --------
    >>> likeness_features(np.zeros((4, 6, 3), np.float32), "wrap").shape
    (4, 6, 6)
    """
    lab, edges = oklab_from_linear(as_rgb(color, "color")), edges_of(edges)
    soft = [gaussian(np.ascontiguousarray(lab[..., k]), size / np.pi, edges) for size in _SIZES for k in range(3)]
    return np.stack(soft, -1)


def fit_likeness(features: FloatArray, picks: Sequence[Pick], tiles: Sequence[int] = ()) -> LikenessFit:
    """Where picks lie among the features of the working size; of ``tiles`` that lie one below the other, each is on its own.

    Examples
    --------
    >>> half = np.zeros((16, 16, 3), np.float32)
    >>> half[:, 8:] = 0.5
    >>> fit = fit_likeness(likeness_features(half, "wrap"), (Pick(x=0.1, y=0.5, value=0.2), Pick(x=0.9, y=0.5, value=0.8)))
    >>> max(abs(off) for off in fit.residuals) < 0.1
    True
    """
    rows, columns, count = features.shape
    spread = features.reshape(-1, count).std(0)
    scale = np.maximum(spread, max(_LEAST_SPREAD * float(spread.max()), _LEAST)).astype(np.float32)
    varied = max(float(np.square(spread / scale).sum()), 1.0)
    at = places_of(picks, rows, columns, tiles)
    points = np.array([features[place] / scale for place in at], np.float32).reshape(len(picks), count)
    kept, counts = _telling(points, picks)
    points, values = points[kept], np.array([picks[k].value for k in kept], np.float32)
    fit = LikenessFit(points, values, counts, scale, varied, ())
    found = roughness_by_likeness(np.ascontiguousarray((points * scale)[None]), fit)[0] if len(picks) else values
    return replace(fit, residuals=tuple(float(off) for off in found - values))


def _telling(points: FloatArray, picks: Sequence[Pick]) -> tuple[list[int], FloatArray]:
    """Which picks to hold texels against, and how many each stands for: of a brushed spot the few that are least alike."""
    strokes: dict[int, list[int]] = {}
    kept = [(k, 1) for k, pick in enumerate(picks) if pick.stroke is None]
    for k, pick in enumerate(picks):
        if pick.stroke is not None:
            strokes.setdefault(pick.stroke, []).append(k)
    for own in strokes.values():
        chosen, apart = [own[0]], np.square(points[own] - points[own[0]]).sum(-1)
        nearest = np.zeros(len(own), int)
        while len(chosen) < _OF_A_STROKE and apart.max() > 0:
            chosen.append(own[int(apart.argmax())])
            here = np.square(points[own] - points[chosen[-1]]).sum(-1)
            nearest[here < apart] = len(chosen) - 1
            apart = np.minimum(apart, here)
        kept += zip(chosen, np.bincount(nearest, minlength=len(chosen)).tolist())
    kept.sort()
    return [k for k, _ in kept], np.array([count for _, count in kept], np.float32)


def _settle(
    first: int,
    last: int,
    features: FloatArray,
    weights: FloatArray,
    offsets: FloatArray,
    values: FloatArray,
    out: FloatArray,
) -> None:
    """Softmax of each pick's nearness; the square of the features themselves is the same for all picks and drops out."""
    texels, into = features[first:last].reshape(-1, features.shape[2]), out[first:last].reshape(-1)
    step = max(_LEAST_AT_ONCE, _AT_ONCE // len(values))
    for at in range(0, len(texels), step):
        near = weights @ texels[at : at + step].T
        near += offsets[:, None]
        near -= near.max(0)
        np.exp(near, out=near)
        into[at : at + step] = (values @ near) / near.sum(0)


def roughness_by_likeness(
    features: FloatArray, fit: LikenessFit, *, params: Params | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Roughness (H, W) as the picks state it, each texel by how near its color is to theirs; one usual value without picks.

    Convention: perceptual roughness, 0..1; it never leaves the range of the picked values.

    References
    ----------
    Kernel regression: Nadaraya 1964, Watson 1964.
    Examples
    --------
    >>> half = np.zeros((16, 16, 3), np.float32)
    >>> half[:, 8:] = 0.5
    >>> features = likeness_features(half, "wrap")
    >>> wet, dry = Pick(x=0.25, y=0.5, value=0.1), Pick(x=0.75, y=0.5, value=0.9)
    >>> found = roughness_by_likeness(features, fit_likeness(features, (wet, dry)))
    >>> float(found[8, 3]) < 0.2, float(found[8, 12]) > 0.8
    (True, True)
    """
    rows, columns = features.shape[:2]
    if not len(fit.values):
        return np.full((rows, columns), _UNASKED, np.float32)
    near = 1 / (fit.varied * _NEAR * _NEAR)
    weights = (fit.points / fit.scale * np.float32(near)).astype(np.float32)
    offsets = (np.log(fit.counts) - 0.5 * near * (fit.points**2).sum(1)).astype(np.float32)
    out = np.empty((rows, columns), np.float32)
    run_rows(_settle, rows, columns, cancel, np.ascontiguousarray(features), weights, offsets, fit.values, out)
    return out


_FEATURES = Part("likeness features/1", likeness_features, ("color",), facts=("edges",))
_FIT = Part(f"{PICK_FIT} of roughness/2", fit_likeness, (_FEATURES,), ("picks",), facts=("tiles",), is_measured=True)
OPERATIONS = (
    Operation(
        "roughness_by_picks",
        FIRST_ROUGHNESS_BY_PICKS.title,
        roughness_by_likeness,
        ByPicks,
        slots=FIRST_ROUGHNESS_BY_PICKS.slots,
        outputs=("roughness",),
        of=(_FEATURES, _FIT),
        effort=18,
        number=2,
        older=(FIRST_ROUGHNESS_BY_PICKS,),
    ),
)
