"""Curvature from normals: how fast they turn, at one or several scales."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..filters import Spectrum, gaussian_transfer, padded, spectrum
from ..operation import Operation, Part, master
from ..params import Params, control
from ..raster import Edge, Edges, FloatArray, Vectors, as_rgb, edges_of
from ..vectors import renormalized

__all__ = [
    "OPERATIONS",
    "CurvatureFromNormal",
    "Leaning",
    "curvature_from_normal",
    "leaning",
    "mean_curvature",
    "shape_curvature",
]

FINEST = 1 / 128  # of the width: below it an 8- or 16-bit height only shows its own steps
_OCTAVES = 3


class CurvatureFromNormal(Params):
    """Which edges count, and how much."""

    scale: float = control(
        0.012, "Width of edges", "% of width", FINEST, 0.1, "How broad an edge or a fold must be to count.", scale=100
    )
    spread: float = control(0.3, "Broader too", "%", 0, 1, "How much edges twice and four times as broad add.", scale=100)
    strength: float = control(1.0, "Strength", "×", 0, 4, "How soon an edge is fully bright.")


@dataclass(frozen=True)
class Leaning:
    """Spectra of the x and y of unit normals; they depend on no parameter."""

    x: Spectrum
    y: Spectrum


def leaning(normal: Vectors, edges: Edges | Edge = "wrap") -> Leaning:
    """Transform (H, W, 3) normals, Y+, any length.

    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> leaning(flat).x.size
    Size(width=8, height=8)
    """
    unit = renormalized(as_rgb(normal, "normal"))
    x, y = (spectrum(np.ascontiguousarray(unit[..., k]), edges_of(edges)) for k in (0, 1))
    return Leaning(x, y)


def _turning(normals: Leaning, weights: Mapping[float, float]) -> FloatArray:
    """Sum over scales of weight times mean curvature, in 1/width: one smoothing for all, then one difference.

    ½ (∂nx/∂x − ∂ny/∂row) is half the divergence of the unit normal, rows growing downwards (do Carmo 1976, 3-3).
    """
    fx, fy = normals.x.frequencies()
    smoothing = np.zeros((fy.size, fx.size), np.float32)
    for scale, weight in weights.items():
        along, across = (gaussian_transfer(f, scale / 3).astype(np.float32) for f in (fy, fx))
        smoothing += np.outer(np.float32(weight) * along, across)
    edges, width = normals.x.edges, normals.x.edges.width(normals.x.size.width)
    x = padded(normals.x.filtered(smoothing), 1, 0, edges)
    y = padded(normals.y.filtered(smoothing), 0, 1, edges)
    return ((x[:, 2:] - x[:, :-2]) - (y[2:] - y[:-2])) * np.float32(width / 4)


def mean_curvature(normal: Vectors, scale: float, edges: Edges | Edge = "wrap") -> FloatArray:
    """Mean curvature in units of 1/width, convex positive.

    Parameters
    ----------
    normal : (H, W, 3) float32, Y+
    scale : share of the width; normals are smoothed by a Gaussian whose standard deviation is a third of it
    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> float(np.abs(mean_curvature(flat, 0.1)).max())
    0.0
    """
    return _turning(leaning(normal, edges), {scale: 1.0})


def shape_curvature(normals: Leaning, *, params: CurvatureFromNormal) -> FloatArray:
    """Curvature (H, W), −1..1, from what ``leaning`` found.

    Curvature times the scale is the angle by which the surface turns over that length; one radian at strength 1 is full.
    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> float(np.abs(shape_curvature(leaning(flat), params=CurvatureFromNormal())).max())
    0.0
    """
    shares = {params.scale * 2**octave: 1.0 if octave == 0 else params.spread / octave for octave in range(_OCTAVES)}
    whole = sum(shares.values())
    weights = {scale: scale * share * params.strength / whole for scale, share in shares.items() if share > 0}
    return np.clip(_turning(normals, weights), -1, 1).astype(np.float32)


def curvature_from_normal(
    normal: Vectors, edges: Edges | Edge = "wrap", *, params: CurvatureFromNormal | None = None
) -> FloatArray:
    """Edges bright, folds dark, flat at 0: (H, W) float32 in −1..1, from (H, W, 3) normals, Y+. Raises ShapeMismatch.

    Examples
    --------
    >>> flat = np.broadcast_to(np.float32([0, 0, 1]), (8, 8, 3))
    >>> float(np.abs(curvature_from_normal(flat)).max())
    0.0
    """
    return shape_curvature(leaning(normal, edges), params=params or CurvatureFromNormal())


_LEANING = Part("leaning/1", leaning, of=("normal",), facts=("edges",))
OPERATIONS = (
    Operation(
        "curvature_from_normal",
        "from normal",
        shape_curvature,
        CurvatureFromNormal,
        slots=(master("normal"),),
        outputs=("curvature",),
        of=(_LEANING,),
        effort=5,
    ),
)
