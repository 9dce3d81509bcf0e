"""Detail by size: one lightness map seen as a spectrum of feature sizes, each with its weight.

A feature of size *s* (a share of the width) is what a Gaussian of sigma = s / pi begins to remove. The map is split
between nine sizes, half an octave and more apart; because Gaussians separate by axis, the whole weighted sum is one
product of two thin matrices, and a moved weight costs one inverse transform.
"""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from ..filters import Spectrum, gaussian_transfer
from ..raster import FloatArray

__all__ = ["HANDLES", "Weight", "detail_transfer", "weighted_detail"]

Weight = Annotated[float, Field(ge=0, le=2)]
HANDLES = (0.25, 0.06, 0.015, 0.004, 0.001)  # feature sizes a person sets weights for, shares of the width
_SPLITS = np.geomspace(HANDLES[0], HANDLES[-1], 10)


def _band_weights(weights: tuple[float, ...]) -> np.ndarray:
    """Weight per band: linear between the handles over the logarithm of size; the ends go on level."""
    centers = np.sqrt(_SPLITS[:-1] * _SPLITS[1:])
    handles = np.log(HANDLES)
    return np.interp(-np.log(centers), -handles, weights)


def detail_transfer(frequencies: tuple[np.ndarray, np.ndarray], weights: tuple[float, ...]) -> FloatArray:
    """Transfer function of the weighted sum of bands, shape (rows, columns).

    Broader than the first handle is lighting and has weight 0; finer than the last goes with the last.
    Examples
    --------
    >>> none = detail_transfer((np.fft.rfftfreq(8, 1 / 8), np.fft.fftfreq(8, 1 / 8)), (0.0,) * 5)
    >>> none.shape, float(np.abs(none).max())
    ((8, 5), 0.0)
    """
    fx, fy = frequencies
    sigmas = _SPLITS / np.pi
    across = np.stack([gaussian_transfer(fx, s) for s in sigmas])
    along = np.stack([gaussian_transfer(fy, s) for s in sigmas])
    bands = _band_weights(weights)
    # sum of w_k (G_{k+1} - G_k), then w_last (1 - G_last), gathered by Gaussian
    factors = np.concatenate([[-bands[0]], bands[:-1] - bands[1:], [bands[-1] - weights[-1]]])
    gathered = (along * factors[:, None]).T @ across
    gathered += weights[-1]
    return gathered.astype(np.float32)


def weighted_detail(lightness: Spectrum, weights: tuple[float, ...]) -> FloatArray:
    """Sum of the bands of ``lightness`` times their weights, (H, W), about zero.

    Examples
    --------
    >>> from ..filters import spectrum
    >>> from ..raster import Edges
    >>> plain = spectrum(np.full((8, 8), 0.3, np.float32), Edges())
    >>> float(np.abs(weighted_detail(plain, (1.0,) * 5)).max()) < 1e-6  # without structure there is no detail
    True
    """
    return lightness.filtered(detail_transfer(lightness.frequencies(), weights))
