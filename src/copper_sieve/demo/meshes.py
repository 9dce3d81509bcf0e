"""Low and high meshes of the wardrobe's metal pieces, made by code: a button, a clasp and a buckle, unfolded by formula."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from ..core.mesh.made import joined
from ..core.mesh.shape import Shape

__all__ = ["PIECES", "buckle", "button", "clasp", "lathed", "ring"]

_Profile = Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]
_Surface = Callable[[np.ndarray, np.ndarray], np.ndarray]
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

    def at(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        radius, height = profile(v)
        angle = 2 * np.pi * (u % 1)
        return np.stack([radius * np.sin(angle), height, radius * np.cos(angle)], -1)

    return _surface(at, around, along, relief, has_tips=True)


def ring(path: _Profile, thick: tuple[float, float], around: int, along: int, relief: _Relief | None = None) -> Shape:
    """A closed path (x and z over 0..1) with an oval about it, half so wide and high as ``thick``; its UV a strip.

    Parameters
    ----------
    relief : how far a place (u along the path, v about it, 0 inside and 0.25 on top) stands out along the normal

    Examples
    --------
    >>> ring(lambda u: (np.cos(2 * np.pi * u), np.sin(2 * np.pi * u)), (0.2, 0.1), 8, 4).counts.tolist() == [4] * 32
    True
    """

    def at(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        x, z = path(u % 1)
        step = 1e-4
        ahead, behind = path(u + step), path(u - step)
        dx, dz = ahead[0] - behind[0], ahead[1] - behind[1]
        length = np.hypot(dx, dz)
        angle = 2 * np.pi * (v % 1)
        inward = -thick[0] * np.cos(angle) / length
        return np.stack([x + dz * inward, thick[1] * np.sin(angle), z - dx * inward], -1)

    return _surface(at, around, along, relief, has_tips=False)


def _surface(at: _Surface, around: int, along: int, relief: _Relief | None, *, has_tips: bool) -> Shape:
    """Quads over u and v, 0 to 1 each; where it has tips, v begins and ends in one point of triangles."""
    u, v = np.meshgrid(np.arange(around + 1) / around, np.arange(along + 1) / along)

    def normal(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        step = 1e-4
        v = np.clip(v, 2e-3, 1 - 2e-3) if has_tips else v
        across, up = at(u + step, v) - at(u - step, v), at(u, v + step) - at(u, v - step)
        n = np.cross(across, up)
        return n / np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-12)

    points = at(u, v) if relief is None else at(u, v) + normal(u, v) * relief(u % 1, v)[..., None]
    j, i = np.divmod(np.arange(around * along), around)
    first = j * (around + 1) + i
    quads = np.stack([first, first + 1, first + around + 2, first + around + 1], 1)
    held = np.ones(quads.shape, bool)
    if has_tips:
        held[j == 0, 1], held[j == along - 1, 3] = False, False
    corners = quads[held].astype(np.int32)
    flat = points.reshape(-1, 3).round(9).astype(np.float32)
    uv = np.stack([u, v], -1).reshape(-1, 2) * (1 - 2 * _MARGIN) + _MARGIN
    shape = Shape(flat, corners, held.sum(1).astype(np.int32), uv=uv.astype(np.float32)[corners])
    smooth = shape.shading if relief is not None else normal(u, v).reshape(-1, 3).astype(np.float32)[corners]
    return replace(shape, normals=smooth)


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


def _squared(u: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A buckle's frame: a rectangle so round that it has no corner."""
    x, z = np.cos(2 * np.pi * u), np.sin(2 * np.pi * u)
    out = (x**6 + z**6) ** (-1 / 6)
    return 0.42 * x * out, 0.56 * z * out


def _prong(v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A buckle's prong, thicker where it turns on its bar."""
    return 0.045 * _sine(v) ** 0.3 * (1.25 - 0.5 * v), 0.5 * -np.cos(np.pi * v)


def _beads(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """A row of beads along the top of the frame, between two threads."""
    across = (v - 0.25) / 0.07
    bead = np.sqrt(np.clip(1 - across**2 - (2 * (u * 48 % 1) - 1) ** 2 * 0.9, 0, 1))
    thread = np.exp(-(((np.abs(across) - 1.5) / 0.25) ** 2))
    return _RELIEF * (bead + 0.5 * thread)


def _grooves(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Five rings turned into the thick end of a prong."""
    fade = np.clip((v - 0.1) / 0.05, 0, 1) * np.clip((0.36 - v) / 0.05, 0, 1)
    return 0.35 * _RELIEF * fade * np.cos(2 * np.pi * v * 22)


def button(*, high: bool) -> Shape:
    """A domed button with petals; the high one has about a quarter of a million triangles."""
    return lathed(_disc, 512, 256, _petals) if high else lathed(_disc, 24, 14)


def clasp(*, high: bool) -> Shape:
    """The toggle of a clasp, covered with scales."""
    return lathed(_spindle, 512, 256, _scales) if high else lathed(_spindle, 16, 20)


def buckle(*, high: bool) -> Shape:
    """A buckle of two parts, a beaded frame and the prong that lies over it; each is baked from its own."""
    end = "high" if high else "low"
    thick = (0.07, 0.05)
    frame = ring(_squared, thick, 768, 128, _beads) if high else ring(_squared, thick, 40, 10)
    prong = lathed(_prong, 96, 192, _grooves) if high else lathed(_prong, 12, 16)
    own = replace(_quartered(frame, 0.6), parts=(f"frame_{end}",)), replace(_beside(prong, 0.68), parts=(f"prong_{end}",))
    return joined((own[0], _lying(own[1], 0.14)))


def _quartered(shape: Shape, width: float) -> Shape:
    """A ring whose UV are cut in four, which lie one above the other as wide as told."""
    assert shape.uv is not None
    u, v = ((shape.uv - _MARGIN) / (1 - 2 * _MARGIN)).reshape(-1, 4, 2).transpose(2, 0, 1)  # of each face's four corners
    quarter = np.floor(4 * u.mean(1, keepdims=True))
    row = 0.25 * (quarter + v * (1 - _MARGIN)) + _MARGIN / 8
    return replace(shape, uv=np.stack([_MARGIN / 4 + (4 * u - quarter) * width, row], -1).reshape(-1, 2).astype(np.float32))


def _beside(shape: Shape, left: float) -> Shape:
    """A rod whose UV stand upright to the right of what is there."""
    assert shape.uv is not None
    return replace(shape, uv=shape.uv * np.array([0.2, 0.68], np.float32) + np.array([left, 0.15], np.float32))


def _lying(shape: Shape, height: float) -> Shape:
    """A rod along y, laid along x so high above the ground."""

    def turned(vectors: np.ndarray) -> np.ndarray:
        return np.stack([vectors[:, 1], -vectors[:, 0], vectors[:, 2]], 1)

    assert shape.normals is not None
    return replace(shape, points=turned(shape.points) + np.array([0, height, 0], np.float32), normals=turned(shape.normals))


PIECES: Mapping[str, Callable[..., Shape]] = MappingProxyType({"button": button, "clasp": clasp, "buckle": buckle})
