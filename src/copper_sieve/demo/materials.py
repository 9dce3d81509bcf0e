"""Seven materials of "The Salt Heron". Coordinates run 0..1 over the tile, y downwards; everything wraps."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.spatial import KDTree

from ..core.color import encode_srgb_codes
from ..core.convert import specular_from_metallic, to_green_down
from ..core.derive import normal_from_height, occlusion_from_height

__all__ = ["MATERIALS", "DemoFile", "Material"]


@dataclass(frozen=True)
class DemoFile:
    """One file as a supplier would send it."""

    name: str
    kind: str
    codes: np.ndarray
    format: str = "png"


@dataclass(frozen=True)
class Material:
    """Name, rise of its surface, and the files it comes as."""

    name: str
    rise: float
    files: Callable[[int], list[DemoFile]]


def _grid(size: int) -> tuple[np.ndarray, np.ndarray]:
    at = (np.arange(size, dtype=np.float32) + 0.5) / size
    return np.meshgrid(at, at)


def _noise(size: int, seed: int, cycles: int, octaves: int = 4) -> np.ndarray:
    """Wrapping noise, -1..1 about: random frequencies up to ``cycles`` · 2^octaves per width."""
    rng = np.random.default_rng(seed)
    total = np.zeros((size, size), np.float32)
    for octave in range(octaves):
        count = cycles << octave
        field = np.zeros((size, size // 2 + 1), np.complex64)
        reach = min(count, size // 2 - 1)
        low = reach // 2
        fy = np.fft.fftfreq(size, 1 / size)
        ring = np.hypot(fy[:, None], np.arange(size // 2 + 1)[None, :])
        inside = (ring <= reach) & (ring > low)
        kept = np.argwhere(inside)
        order = np.lexsort((fy[kept[:, 0]], kept[:, 1]))
        phases = rng.random(len(kept))[np.argsort(order)]
        field[inside] = np.exp(2j * np.pi * phases)
        layer = np.fft.irfft2(field, (size, size)).astype(np.float32)
        total += layer / max(float(layer.std()), 1e-9) * 0.5**octave
    return total / 3


def _srgb(color: tuple[float, float, float], shade: np.ndarray) -> np.ndarray:
    """Codes of ``color`` (sRGB) darkened or lightened by ``shade`` (factor in linear light)."""
    linear = np.asarray(color, np.float32) ** 2.2 * shade[..., None]
    return encode_srgb_codes(linear.astype(np.float32))


def _gray(values: np.ndarray, depth: int = 8) -> np.ndarray:
    top = (1 << depth) - 1
    return (np.clip(values, 0, 1) * top + 0.5).astype(np.uint16 if depth == 16 else np.uint8)


def _normal(height: np.ndarray, rise: float) -> np.ndarray:
    return ((normal_from_height(height.astype(np.float32), rise) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)


def _quilt_height(size: int) -> np.ndarray:
    x, y = _grid(size)
    u, v = 6 * (x + y), 6 * (x - y)  # cells of the diagonal seams
    pillow = np.abs(np.sin(np.pi * u) * np.sin(np.pi * v)) ** 0.45
    return np.clip(0.08 + 0.88 * pillow + 0.012 * _noise(size, 11, 24), 0, 1)


def _quilted_satin(size: int) -> list[DemoFile]:
    height = _quilt_height(size)
    x, y = _grid(size)
    seam = np.exp(-((np.minimum(np.abs(np.sin(np.pi * 6 * (x + y))), np.abs(np.sin(np.pi * 6 * (x - y)))) / 0.06) ** 2))
    thread = seam * (0.5 + 0.5 * np.sin(2 * np.pi * 96 * x) > 0.55)
    base = _srgb((0.62, 0.24, 0.33), 1 + 0.12 * _noise(size, 12, 12))
    gold = _srgb((0.80, 0.62, 0.32), np.ones_like(x))
    base = np.where(thread[..., None] > 0.5, gold, base)
    roughness = 0.34 + 0.10 * _noise(size, 13, 16) + 0.25 * seam
    return [
        DemoFile("Quilted satin_basecolor.png", "base_color", base),
        DemoFile("Quilted satin_normal.png", "normal", _normal(height, 0.035)),
        DemoFile("Quilted satin_roughness.png", "roughness", _gray(roughness)),
        DemoFile("Quilted satin_height.png", "height", _gray(height, 16)),
        DemoFile("Quilted satin_ao.png", "occlusion", _gray(occlusion_from_height(height.astype(np.float32), 0.035))),
    ]


def _gilt_brocade(size: int) -> list[DemoFile]:
    """Gilt figures woven into silk, as a supplier with the specular workflow and green down sends it."""
    x, y = _grid(size)
    wave = 0.08 * np.sin(2 * np.pi * 4 * y)
    ogee = np.cos(2 * np.pi * 3 * (x + wave)) * np.cos(2 * np.pi * 2 * y) + 0.55 * np.cos(
        2 * np.pi * 6 * (x - wave) + 2 * np.pi * 4 * y
    )
    figure = np.clip((ogee - 0.30) / 0.10, 0, 1) * (1 - np.clip((ogee - 0.95) / 0.08, 0, 1))
    gilt_thread = 0.5 + 0.5 * np.sin(2 * np.pi * (96 * x + 32 * y))
    silk_thread = 0.5 + 0.5 * np.sin(2 * np.pi * (64 * x - 128 * y))
    height = 0.18 + 0.12 * silk_thread + figure * (0.48 + 0.14 * gilt_thread) + 0.02 * _noise(size, 61, 16)
    gold = np.array([0.91, 0.62, 0.24], np.float32) * (0.92 + 0.08 * gilt_thread[..., None])
    silk = np.array([0.012, 0.105, 0.085], np.float32) * (1 + 0.25 * _noise(size, 62, 10)[..., None])
    metal = (figure > 0.5).astype(np.float32)
    base = np.clip(np.where(metal[..., None] > 0.5, gold, silk), 0, 1).astype(np.float32)
    diffuse, specular = specular_from_metallic(base, metal)
    gloss = 0.45 + 0.30 * metal * gilt_thread + 0.08 * _noise(size, 63, 20)
    green_down = to_green_down(_normal(height, 0.012), green="up")
    return [
        DemoFile("Gilt brocade_diffuse.png", "diffuse", encode_srgb_codes(diffuse)),
        DemoFile("Gilt brocade_specular.png", "specular", encode_srgb_codes(specular)),
        DemoFile("Gilt brocade_gloss.png", "gloss", _gray(gloss)),
        DemoFile("Gilt brocade_normal.png", "normal", green_down),
    ]


def _grained_leather(size: int) -> list[DemoFile]:
    rng = np.random.default_rng(21)
    x, y = _grid(size)
    points = rng.random((420, 2)).astype(np.float32)
    tree = KDTree(points, boxsize=1.0)
    found, _ = tree.query(np.stack([x, y], -1).reshape(-1, 2) % 1.0, k=2, workers=-1)
    nearest = found.reshape(size, size, 2).astype(np.float32)
    crease = np.clip((nearest[..., 1] - nearest[..., 0]) / 0.016, 0, 1)
    grain = crease**0.6 + 0.10 * _noise(size, 22, 40)
    lamp = 1 + 0.28 * np.sin(2 * np.pi * (x - 0.2)) * np.sin(2 * np.pi * (y + 0.1))  # the light of the day, baked in
    shade = (0.30 + 0.75 * grain) * lamp * (1 + 0.10 * _noise(size, 23, 5))
    return [DemoFile("Grained leather.png", "photo", _srgb((0.52, 0.33, 0.21), np.clip(shade, 0.05, 1.9)))]


def _lace_trim(size: int) -> list[DemoFile]:
    x, y = _grid(size)
    ring = np.zeros_like(x)
    for shift in (0.0, 0.5):
        dx, dy = (4 * (x + shift / 4)) % 1 - 0.5, (4 * (y + shift / 4)) % 1 - 0.5
        radius, angle = np.hypot(dx, dy), np.arctan2(dy, dx)
        petal = 0.34 + 0.06 * np.cos(8 * angle)
        ring = np.maximum(ring, np.clip((0.045 - np.abs(radius - petal)) / 0.012, 0, 1))
        ring = np.maximum(ring, np.clip((0.07 - radius) / 0.012, 0, 1))
    net = np.maximum(np.abs(np.sin(np.pi * 32 * (x + y))), np.abs(np.sin(np.pi * 32 * (x - y))))
    opacity = np.maximum(ring, np.clip((net - 0.955) / 0.02, 0, 1))
    twist = 1 + 0.10 * np.sin(2 * np.pi * 128 * (x + y)) + 0.06 * _noise(size, 31, 20)
    return [
        DemoFile("Lace trim_basecolor.png", "base_color", _srgb((0.90, 0.87, 0.79), np.clip(twist, 0, 1.15))),
        DemoFile("Lace trim_opacity.png", "opacity", _gray(opacity)),
    ]


def _gong_height(size: int) -> np.ndarray:
    x, y = _grid(size)
    rng = np.random.default_rng(41)
    height = np.full_like(x, 0.75)
    for cx, cy, radius, depth in zip(
        *rng.random((2, 260)), 0.03 + 0.035 * rng.random(260), 0.15 + 0.3 * rng.random(260), strict=True
    ):
        across, along = (((axis - at + 0.5) % 1 - 0.5) ** 2 for axis, at in ((x[0], cx), (y[:, 0], cy)))
        width = 0.32 * radius * radius
        height -= np.outer(np.exp(-along / width), np.exp(-across / width)).astype(np.float32) * depth * 0.4
    return np.clip(0.5 + (height - height.mean()) * 1.4, 0, 1)


def _hammered_gong(size: int) -> list[DemoFile]:
    height = _gong_height(size)
    tarnish = np.clip(0.5 - 1.2 * (height - 0.5) + 0.45 * _noise(size, 42, 6), 0, 1)
    base = _srgb((0.78, 0.55, 0.30), 1 - 0.45 * tarnish)
    roughness = np.clip(0.22 + 0.35 * tarnish + 0.04 * _noise(size, 43, 60), 0, 1)
    metallic = np.clip(1 - 0.25 * (tarnish > 0.85), 0, 1)
    occlusion = occlusion_from_height(height.astype(np.float32), 0.03)
    packed = np.stack([_gray(roughness), _gray(metallic), _gray(occlusion)], -1)
    return [
        DemoFile("Hammered gong_basecolor.tga", "base_color", base, "tga"),
        DemoFile("Hammered gong_RMA.tga", "packed", packed, "tga"),
        DemoFile("Hammered gong_height.png", "height", _gray(height, 16)),
    ]


def _glow_ribbon(size: int) -> list[DemoFile]:
    x, y = _grid(size)
    weave = 0.5 + 0.25 * np.sin(2 * np.pi * 64 * x) * np.sign(np.sin(2 * np.pi * 32 * y)) + 0.1 * np.sin(2 * np.pi * 64 * y)
    band = np.clip((0.10 - np.abs((2 * x) % 1 - 0.5)) / 0.015, 0, 1)
    spark = band * np.clip(np.sin(2 * np.pi * 6 * y + 2.2 * np.sin(2 * np.pi * 2 * y)) * 3, 0, 1)
    base = _srgb((0.16, 0.22, 0.34), 0.7 + 0.6 * weave)
    glow = encode_srgb_codes((np.array([0.10, 0.75, 0.55], np.float32) * spark[..., None]).astype(np.float32))
    height = np.clip(weave * 0.6 + 0.35 * band, 0, 1)
    return [
        DemoFile("Glow ribbon_basecolor.png", "base_color", base),
        DemoFile("Glow ribbon_emissive.png", "emissive", glow),
        DemoFile("Glow ribbon_height.png", "height", _gray(height, 16)),
    ]


def _chunky_knit(size: int) -> list[DemoFile]:
    x, y = _grid(size)
    column, row = 8 * x, 10 * y
    across = column % 1 - 0.5
    lean = (row + 0.9 * np.abs(across)) % 1  # two plies meet in a V
    ply = np.sqrt(np.clip(1 - (np.abs(across) - 0.24) ** 2 / 0.065, 0, 1)) * np.abs(np.sin(np.pi * lean)) ** 0.6
    fiber = 0.03 * np.sin(2 * np.pi * (40 * lean + 3 * column)) * ply
    return [DemoFile("Chunky knit_height.png", "height", _gray(0.08 + 0.85 * ply + fiber, 16))]


MATERIALS = (
    Material("Quilted satin", 0.035, _quilted_satin),
    Material("Gilt brocade", 0.012, _gilt_brocade),
    Material("Grained leather", 0.012, _grained_leather),
    Material("Lace trim", 0.010, _lace_trim),
    Material("Hammered gong", 0.030, _hammered_gong),
    Material("Glow ribbon", 0.010, _glow_ribbon),
    Material("Chunky knit", 0.050, _chunky_knit),
)
