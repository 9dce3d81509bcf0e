"""Low and high meshes of the wardrobe's metal pieces, made by code: a button and a clasp, unfolded by formula."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

import numpy as np

from ..core.mesh.shape import Shape

__all__ = ["PIECES", "button", "clasp", "lathed"]

_Profile = Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]
_Relief = Callable[[np.ndarray, np.ndarray], np.ndarray]
_RELIEF = 0.022
_MARGIN = 0.04  # of the picture


def lathed(profile: _Profile, around: int, along: int, relief: _Relief | None = None) -> Shape:
    """A profile (radius and height over 0..1) turned about y, of quads, its UV a strip; closed where the radius is 0.

    Parameters
    ----------
    relief : how far a place (u, v) stands out along the normal

    Examples
    --------
    >>> lathed(lambda v: (_sine(v), -np.cos(np.pi * v)), 8, 4).counts.tolist()[7:9]
    [3, 4]
    """
    u, v = np.meshgrid(np.arange(around + 1) / around, np.arange(along + 1) / along)

    def at(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        radius, height = profile(v)
        angle = 2 * np.pi * (u % 1)
        return np.stack([radius * np.sin(angle), height, radius * np.cos(angle)], -1)

    def normal(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        step = 1e-4
        v = np.clip(v, 2e-3, 1 - 2e-3)
        across, up = at(u + step, v) - at(u - step, v), at(u, v + step) - at(u, v - step)
        n = np.cross(across, up)
        return n / np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-12)

    points = at(u, v) if relief is None else at(u, v) + normal(u, v) * relief(u % 1, v)[..., None]
    j, i = np.divmod(np.arange(around * along), around)
    first = j * (around + 1) + i
    quads = np.stack([first, first + 1, first + around + 2, first + around + 1], 1)
    counts = np.where((j == 0) | (j == along - 1), 3, 4).astype(np.int32)
    held = np.ones(quads.shape, bool)  # at either end the profile meets the axis in one point
    held[j == 0, 1], held[j == along - 1, 3] = False, False
    corners = quads[held].astype(np.int32)
    flat = points.reshape(-1, 3).round(9).astype(np.float32)
    uv = np.stack([u, v], -1).reshape(-1, 2) * (1 - 2 * _MARGIN) + _MARGIN
    shape = Shape(flat, corners, counts, uv=uv.astype(np.float32)[corners])
    if relief is None:
        return Shape(flat, corners, shape.counts, uv=shape.uv, normals=normal(u, v).reshape(-1, 3).astype(np.float32)[corners])
    return Shape(flat, corners, shape.counts, uv=shape.uv, normals=shape.shading)


def _sine(v: np.ndarray) -> np.ndarray:
    """Half a wave, 0 at both ends."""
    return np.sin(np.pi * v).round(9)


def _disc(v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A button's profile: under its rim, over it, and into a shallow bowl."""
    a = np.pi * v
    return 0.5 * _sine(v) ** 0.45, -0.12 * np.cos(a) - 0.07 * np.exp(-(((v - 1) / 0.22) ** 2))


def _spindle(v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A clasp's toggle: a waisted rod with round ends."""
    a = np.pi * v
    return 0.16 * _sine(v) ** 0.4 * (1 - 0.35 * np.exp(-(((v - 0.5) / 0.12) ** 2))), -0.7 * np.cos(a) * 0.8


def _petals(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Petals and a corded rim."""
    fade = np.clip((v - 0.55) / 0.1, 0, 1) * np.clip((0.97 - v) / 0.05, 0, 1)
    petals = np.abs(np.sin(6 * 2 * np.pi * u / 2 + 3 * v)) ** 0.7
    cord = np.exp(-(((v - 0.5) / 0.05) ** 2)) * (0.5 + 0.5 * np.sin(2 * np.pi * (36 * u + 8 * v)))
    return _RELIEF * (fade * petals + cord)


def _scales(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Rows of scales, every second one moved by half."""
    fade = np.clip(v / 0.06, 0, 1) * np.clip((1 - v) / 0.06, 0, 1)
    row = np.floor(v * 22)
    across, along = (u * 12 + 0.5 * (row % 2)) % 1 - 0.5, v * 22 - row - 0.5
    return 0.7 * _RELIEF * fade * np.sqrt(np.clip(1 - (2 * across) ** 2 * 0.8 - along**2, 0, 1))


def button(*, high: bool) -> Shape:
    """A domed button with petals; the high one has about a quarter of a million triangles."""
    return lathed(_disc, 512, 256, _petals) if high else lathed(_disc, 24, 14)


def clasp(*, high: bool) -> Shape:
    """The toggle of a clasp, covered with scales."""
    return lathed(_spindle, 512, 256, _scales) if high else lathed(_spindle, 16, 20)


PIECES: Mapping[str, Callable[..., Shape]] = MappingProxyType({"button": button, "clasp": clasp})
