"""Twelve surfaces with known maps, and the photo a camera would take of each: what the first look is judged on.

Nothing here is used by the product. Every surface is made by numbers alone, so that its height, roughness and albedo are known.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.spatial import KDTree

from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.core.derive import normal_from_height, occlusion_from_height
from copper_sieve.core.filters import gaussian
from copper_sieve.core.raster import Edges

__all__ = ["SURFACES", "Photo", "Surface", "photo_of"]

SIZE = 1024
_LAMP = np.float32([-0.45, 0.5, 0.74])  # from the upper left, as a low sun behind clouds
_SKY = 0.6  # of the light; the rest is the lamp's
_NOISE = 0.004  # of a sensor, standard deviation in linear light at mid gray


@dataclass(frozen=True)
class Surface:
    """What is there: linear albedo (H, W, 3), height, roughness and metallic (H, W), and how far the height rises."""

    albedo: np.ndarray
    height: np.ndarray
    rise: float
    roughness: np.ndarray
    metallic: float = 0.0


@dataclass(frozen=True)
class Photo:
    """What a camera sees of it: sRGB codes, and the light that lay on it (H, W), about 1."""

    codes: np.ndarray
    light: np.ndarray
    surface: Surface


def _grid(size: int) -> tuple[np.ndarray, np.ndarray]:
    at = (np.arange(size, dtype=np.float32) + 0.5) / size
    return np.meshgrid(at, at)


def _noise(size: int, seed: int, width: float, stretch: float = 1.0) -> np.ndarray:
    """Wrapping noise of unit deviation whose features are ``width`` wide, and ``stretch`` times as long across."""
    white = np.random.default_rng(seed).standard_normal((size, size)).astype(np.float32)
    f = np.fft.fftfreq(size).astype(np.float32)
    fx, fy = np.fft.rfftfreq(size).astype(np.float32) * stretch, f[:, None]
    spectrum = np.fft.rfft2(white) * np.exp(-2 * (np.pi * width / np.pi * size) ** 2 * (fx**2 + fy**2) / 2)
    out = np.fft.irfft2(spectrum, (size, size)).astype(np.float32)
    return out / out.std()


def _rough(size: int, seed: int, widest: float, octaves: int = 6) -> np.ndarray:
    """Noise of every size from ``widest`` down, each half as strong."""
    out = sum(0.55**k * _noise(size, seed + k, widest / 2**k) for k in range(octaves))
    return out / out.std()


def _tint(*srgb: float) -> np.ndarray:
    return (np.float32(srgb) ** 2.2).astype(np.float32)


def _mix(low: np.ndarray, high: np.ndarray, share: np.ndarray) -> np.ndarray:
    return low + (high - low) * share[..., None]


def _cells(size: int, seed: int, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Distances to the nearest and the second nearest of random points, and which the nearest is."""
    points = np.random.default_rng(seed).random((count, 2))
    x, y = _grid(size)
    found, which = KDTree(points, boxsize=1.0).query(np.stack([x, y], -1).reshape(-1, 2), k=2, workers=-1)
    found = found.reshape(size, size, 2).astype(np.float32)
    return found[..., 0], found[..., 1], which[:, 0].reshape(size, size)


def _masonry(size: int, across: int, down: int, joint: float, bond: float = 0.5) -> tuple[np.ndarray, np.ndarray]:
    """Distance from the nearest joint's middle as a share of the width, bent a little, and which stone it is."""
    x, y = _grid(size)
    x = x + 0.002 * _noise(size, 90, 0.05)
    y = y + 0.002 * _noise(size, 91, 0.05)
    row = np.floor(y * down)
    shifted = x * across + bond * (row % 2)
    u, v = shifted % 1, (y * down) % 1
    away = np.minimum(np.minimum(u, 1 - u) / across, np.minimum(v, 1 - v) / down)
    return (away - joint / 2).astype(np.float32), ((row % down) * across + np.floor(shifted) % across).astype(int)


def _per_cell(which: np.ndarray, seed: int) -> np.ndarray:
    return np.random.default_rng(seed).standard_normal(int(which.max()) + 1).astype(np.float32)[which]


def gravel(size: int) -> Surface:
    first, second, which = _cells(size, 1, 900)
    stone = np.clip((second - first) / 0.02, 0, 1) ** 0.5
    height = np.clip(0.15 + 0.6 * stone + 0.08 * _per_cell(which, 2) + 0.02 * _rough(size, 3, 0.02), 0, 1)
    tone = np.clip(0.5 + 0.28 * _per_cell(which, 4) + 0.06 * _rough(size, 5, 0.02), 0, 1)
    albedo = _mix(_tint(0.33, 0.29, 0.25), _tint(0.68, 0.64, 0.58), tone)
    return Surface(albedo * (0.55 + 0.45 * stone)[..., None], height, 0.03, np.clip(0.82 + 0.05 * _rough(size, 6, 0.02), 0, 1))


def _brick(size: int, mortar: np.ndarray) -> Surface:
    away, which = _masonry(size, 4, 10, 0.012)
    face = np.clip(away / 0.004, 0, 1)
    face = face * face * (3 - 2 * face)
    grain = _rough(size, 11, 0.02)
    height = np.clip(0.15 + face * (0.65 + 0.04 * _per_cell(which, 12)) + 0.03 * grain, 0, 1)
    tone = np.clip(0.5 + 0.25 * _per_cell(which, 13) + 0.12 * grain, 0, 1)
    albedo = _mix(mortar * (1 + 0.1 * grain[..., None]), _mix(_tint(0.42, 0.2, 0.15), _tint(0.66, 0.36, 0.27), tone), face)
    return Surface(np.clip(albedo, 0, 1), height, 0.016, np.clip(0.86 - 0.08 * face + 0.03 * grain, 0, 1))


def brick_dark(size: int) -> Surface:
    return _brick(size, _tint(0.26, 0.24, 0.22))


def brick_light(size: int) -> Surface:
    return _brick(size, _tint(0.8, 0.78, 0.74))


def planks(size: int) -> Surface:
    away, which = _masonry(size, 6, 1, 0.006)
    face = np.clip(away / 0.004, 0, 1)
    grain = 0.7 * _noise(size, 21, 0.002, 25) + 0.7 * _noise(size, 22, 0.008, 10)
    grain = grain.T  # along the planks
    height = np.clip(0.2 + face * 0.6 + 0.03 * grain, 0, 1)
    tone = np.clip(0.5 + 0.22 * _per_cell(which, 23) + 0.16 * grain, 0, 1)
    albedo = _mix(_tint(0.12, 0.09, 0.07) + 0 * tone[..., None], _mix(_tint(0.42, 0.3, 0.2), _tint(0.68, 0.53, 0.38), tone), face)
    return Surface(albedo, height, 0.01, np.clip(0.6 - 0.06 * grain, 0, 1))


def weave(size: int) -> Surface:
    x, y = _grid(size)
    count = 48
    over = (np.floor(x * count) + np.floor(y * count)) % 2
    warp, weft = np.abs(np.sin(np.pi * x * count)), np.abs(np.sin(np.pi * y * count))
    height = np.where(over > 0, 0.25 + 0.6 * warp**0.6, 0.15 + 0.6 * weft**0.6) + 0.04 * _noise(size, 31, 0.004)
    tone = np.where(over > 0, 0.55, 0.45) + 0.1 * _noise(size, 32, 0.03)
    albedo = _mix(_tint(0.24, 0.3, 0.42), _tint(0.42, 0.5, 0.62), np.clip(tone, 0, 1))
    return Surface(albedo * (0.6 + 0.4 * height)[..., None], np.clip(height, 0, 1), 0.006, np.clip(0.85 - 0.1 * height, 0, 1))


def quilt(size: int) -> Surface:
    x, y = _grid(size)
    u, v = np.abs(np.sin(np.pi * 4 * (x + y))), np.abs(np.sin(np.pi * 4 * (x - y)))
    height = np.clip(0.08 + 0.86 * (u * v) ** 0.4 + 0.01 * _noise(size, 41, 0.004), 0, 1)
    albedo = _mix(_tint(0.4, 0.12, 0.14), _tint(0.56, 0.2, 0.2), np.clip(0.5 + 0.15 * _noise(size, 42, 0.01), 0, 1))
    return Surface(albedo, height, 0.04, np.clip(0.5 + 0.12 * (1 - height), 0, 1))


def brushed(size: int) -> Surface:
    lines = 0.8 * _noise(size, 51, 0.0015, 50) + 0.5 * _noise(size, 52, 0.004, 25)
    height = np.clip(0.5 + 0.12 * lines, 0, 1)
    albedo = _tint(0.77, 0.75, 0.72) * np.clip(1 + 0.05 * lines[..., None], 0, 1.3)
    return Surface(np.clip(albedo, 0, 1).astype(np.float32), height, 0.0015, np.clip(0.3 + 0.05 * lines, 0, 1), 1.0)


def chipped(size: int) -> Surface:
    """A painted sheet with rust where the paint is gone; rust is dull and lies lower."""
    spots = _rough(size, 61, 0.12)
    paint = np.clip((1.1 - spots) / 0.15, 0, 1)
    grain = _rough(size, 62, 0.01)
    height = np.clip(0.3 + 0.45 * paint + (1 - paint) * 0.08 * grain + 0.02 * _noise(size, 63, 0.03), 0, 1)
    rust = _mix(_tint(0.26, 0.13, 0.07), _tint(0.5, 0.27, 0.12), np.clip(0.5 + 0.3 * grain, 0, 1))
    albedo = _mix(rust, _tint(0.3, 0.48, 0.5) * (1 + 0.03 * grain[..., None]), paint)
    return Surface(np.clip(albedo, 0, 1), height, 0.006, np.clip(0.85 - 0.5 * paint + 0.02 * grain, 0, 1))


def wet(size: int) -> Surface:
    """Asphalt with water in its hollows: darker there, and smooth."""
    first, second, which = _cells(size, 71, 4000)
    stone = np.clip((second - first) / 0.008, 0, 1)
    broad = _rough(size, 72, 0.25, 3)
    dry = 0.5 + 0.13 * broad + 0.12 * stone + 0.03 * _per_cell(which, 73)
    water = np.clip((0.46 - dry) / 0.04, 0, 1)
    height = np.clip(np.maximum(dry, 0.44), 0, 1)
    tone = np.clip(0.5 + 0.2 * _per_cell(which, 74), 0, 1)
    albedo = _mix(_tint(0.26, 0.26, 0.27), _tint(0.45, 0.44, 0.43), tone) * (1 - 0.55 * water[..., None])
    return Surface(albedo, height, 0.02, np.clip(0.85 - 0.78 * water + 0.04 * broad, 0, 1))


def plaster(size: int) -> Surface:
    """Nearly plain: hardly any contrast but the sensor's grain."""
    grain = _rough(size, 81, 0.06)
    albedo = _tint(0.82, 0.8, 0.76) * (1 + 0.006 * grain[..., None])
    return Surface(albedo.astype(np.float32), np.clip(0.5 + 0.15 * grain, 0, 1), 0.002, np.clip(0.9 + 0.01 * grain, 0, 1))


def stone(size: int) -> Surface:
    relief = _rough(size, 82, 0.12)
    cracks = np.exp(-((np.abs(_noise(size, 88, 0.1)) / 0.05) ** 2))
    height = np.clip(0.55 + 0.13 * relief - 0.3 * cracks, 0, 1)
    albedo = _mix(_tint(0.4, 0.38, 0.35), _tint(0.66, 0.63, 0.58), np.clip(0.5 + 0.2 * _rough(size, 95, 0.05), 0, 1))
    return Surface(albedo * (1 - 0.35 * cracks[..., None]), height, 0.03, np.clip(0.78 + 0.04 * relief, 0, 1))


def tiles(size: int) -> Surface:
    """Glazed tiles with light grout that lies lower and is dull."""
    away, which = _masonry(size, 6, 6, 0.008, bond=0.0)
    face = np.clip(away / 0.004, 0, 1)
    glaze = _noise(size, 85, 0.03)
    height = np.clip(0.2 + 0.6 * face**0.5 + 0.01 * glaze, 0, 1)
    tone = np.clip(0.5 + 0.16 * _per_cell(which, 86) + 0.08 * glaze, 0, 1)
    color = _mix(_tint(0.08, 0.26, 0.3), _tint(0.2, 0.46, 0.46), tone)
    albedo = _mix(_tint(0.76, 0.74, 0.7) + 0 * tone[..., None], color, face)
    return Surface(albedo, height, 0.008, np.clip(0.88 - 0.7 * face + 0.02 * glaze, 0, 1))


def _even(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return np.ones_like(x)


def _ramp(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return np.exp(0.7 * (0.5 - x) + 0.35 * (0.5 - y))


def _vignette(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return 1.15 - 0.9 * ((x - 0.5) ** 2 + (y - 0.5) ** 2)


def _lamp(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return 0.55 + 0.75 * np.exp(-((x - 0.3) ** 2 + (y - 0.25) ** 2) / 0.18)


# By name: the surface, the light that falls on it unevenly, and how much of it the camera's frame holds (1 repeats).
SURFACES: dict[str, tuple[Callable[[int], Surface], Callable[[np.ndarray, np.ndarray], np.ndarray], float]] = {
    "Gravel": (gravel, _even, 0.8),
    "Brick, dark joints": (brick_dark, _even, 1.0),
    "Brick, light joints": (brick_light, _ramp, 0.9),
    "Planks": (planks, _even, 0.9),
    "Woven cloth": (weave, _vignette, 0.8),
    "Quilted cloth": (quilt, _even, 1.0),
    "Brushed metal": (brushed, _lamp, 0.8),
    "Chipped paint": (chipped, _even, 0.8),
    "Wet asphalt": (wet, _even, 0.8),
    "Plaster": (plaster, _ramp, 0.8),
    "Stone": (stone, _lamp, 0.8),
    "Glazed tiles": (tiles, _ramp, 0.9),
}


@lru_cache(maxsize=4)  # each is made of some twenty megabytes, and asked for again and again
def photo_of(name: str, size: int = SIZE) -> Photo:
    """The photo of one surface, and the maps of what is in its frame."""
    make, falls, frame = SURFACES[name]
    whole = make(size)
    kept = round(size * frame)
    cut = slice((size - kept) // 2, (size - kept) // 2 + kept)
    surface = Surface(
        whole.albedo[cut, cut], whole.height[cut, cut], whole.rise / frame, whole.roughness[cut, cut], whole.metallic
    )
    edges = Edges() if frame == 1 else Edges(x="mirror", y="mirror")
    lean = normal_from_height(surface.height.astype(np.float32), surface.rise, edges)
    shade = _SKY * occlusion_from_height(surface.height.astype(np.float32), surface.rise, edges)
    shade += (1 - _SKY) * np.maximum(lean @ (_LAMP / np.linalg.norm(_LAMP)), 0) / 0.74
    x, y = _grid(kept)
    light = falls(x, y).astype(np.float32)
    light /= light.mean()
    seen = surface.albedo * (1 - 0.6 * surface.metallic) * (shade * light)[..., None]
    glint = (1 - surface.roughness) ** 2 * (0.04 + 0.2 * surface.metallic)  # of the sky above, by how far it leans to it
    seen = seen + (glint * np.clip(0.5 + 2 * gaussian(np.ascontiguousarray(lean[..., 1]), 0.002, edges), 0, 1) * light)[..., None]
    noise = np.random.default_rng(7).standard_normal(seen.shape) * _NOISE * np.sqrt(np.maximum(seen, 0.01) / 0.2)
    return Photo(encode_srgb_codes(np.clip(seen + noise, 0, 1).astype(np.float32)), light, surface)
