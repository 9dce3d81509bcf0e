"""Curvature from normals: how fast they turn, at one or several scales."""

from __future__ import annotations

import numpy as np

from ..bands import NEVER, Cancel
from ..convert.normals import renormalized
from ..filters import gaussian, padded
from ..raster import Edge, Edges, FloatArray, as_rgb, edges_of
from .params import Params, control

__all__ = ["CurvatureFromNormal", "curvature_from_normal", "mean_curvature"]

FINEST = 1 / 128  # of the width: below it an 8- or 16-bit height only shows its own steps
_OCTAVES = 3


class CurvatureFromNormal(Params):
    """Which edges count, and how much."""

    scale: float = control(
        0.012, "Width of edges", "% of width", FINEST, 0.1, "How broad an edge or a fold must be to count.", scale=100
    )
    spread: float = control(0.3, "Broader too", "%", 0, 1, "How much edges twice and four times as broad add.", scale=100)
    strength: float = control(1.0, "Strength", "×", 0, 4, "How soon an edge is fully bright.")


def mean_curvature(normal: FloatArray, scale: float, edges: Edges | Edge = "wrap") -> FloatArray:
    """Mean curvature in units of 1/width, convex positive.

    Parameters
    ----------
    normal : (H, W, 3) float32, Y+
    scale : share of the width; normals are smoothed by a Gaussian whose standard deviation is a third of it
    References
    ----------
    ½ (∂nx/∂x − ∂ny/∂row): half the divergence of the unit normal, rows growing downwards (do Carmo 1976, 3-3).
    """
    edges = edges_of(edges)
    unit = renormalized(as_rgb(normal, "normal"))
    width = unit.shape[1]
    x, y = (gaussian(np.ascontiguousarray(unit[..., k]), scale / 3, edges) for k in (0, 1))
    x, y = padded(x, 1, 1, edges), padded(y, 1, 1, edges)
    across = (x[1:-1, 2:] - x[1:-1, :-2]) / 2
    along = (y[2:, 1:-1] - y[:-2, 1:-1]) / 2
    return ((across - along) * np.float32(width / 2)).astype(np.float32)


def curvature_from_normal(
    normal: FloatArray, edges: Edges | Edge = "wrap", *, params: CurvatureFromNormal | None = None, cancel: Cancel = NEVER
) -> FloatArray:
    """Edges bright, folds dark, flat at 0: (H, W) float32 in −1..1.

    Curvature times the scale is the angle by which the surface turns over that length; one radian at strength 1 is full.
    """
    params = params or CurvatureFromNormal()
    total, weight = None, 0.0
    for octave in range(_OCTAVES):
        cancel.check()
        scale, share = params.scale * 2**octave, 1.0 if octave == 0 else params.spread / octave
        if share > 0:
            turned = mean_curvature(normal, scale, edges) * np.float32(scale * share)
            total, weight = (turned if total is None else total + turned), weight + share
    assert total is not None  # the first octave always counts
    return np.clip(total * np.float32(params.strength / weight), -1, 1).astype(np.float32)
