"""Normal maps whose slopes are derivatives worked out by hand, stored in the ways files are stored."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import cv2
import numpy as np
from PIL import Image

Slopes = tuple[np.ndarray, np.ndarray]  # dh/dx and dh/drow, per texel
TAU = 2 * np.pi


def _at(size: int) -> tuple[np.ndarray, np.ndarray]:
    at = (np.arange(size) + 0.5) / size
    return np.meshgrid(at, at)


def bumps(size: int, rng: np.random.Generator) -> Slopes:
    x, y = _at(size)
    p, q = np.zeros_like(x), np.zeros_like(x)
    for cx, cy, radius, rise in zip(*rng.random((2, 25)), rng.uniform(0.03, 0.12, 25), rng.choice([-1, 1], 25)):
        dx, dy = (x - cx + 0.5) % 1 - 0.5, (y - cy + 0.5) % 1 - 0.5
        bell = rise * np.exp(-(dx * dx + dy * dy) / (2 * radius * radius)) / radius
        p, q = p - bell * dx / radius, q - bell * dy / radius
    return p, q


def weave(size: int, rng: np.random.Generator) -> Slopes:
    x, y = _at(size)
    a, b = TAU * rng.integers(3, 9, 2)
    u, v = rng.random(2) * TAU
    return np.cos(a * x + u) * np.sin(b * y + v), b / a * np.sin(a * x + u) * np.cos(b * y + v)


def grooves(size: int, rng: np.random.Generator) -> Slopes:
    """Lines that wander: h = sin(k(x + bend·sin(c·y)))."""
    x, y = _at(size)
    k, c, bend = TAU * rng.integers(5, 12), TAU * rng.integers(2, 4), rng.uniform(0.03, 0.08)
    line = np.cos(k * (x + bend * np.sin(c * y)))
    p, q = line, line * bend * c * np.cos(c * y)
    return (p, q) if rng.random() < 0.5 else (q.T.copy(), p.T.copy())


def noise(size: int, rng: np.random.Generator) -> Slopes:
    x, y = _at(size)
    p, q = np.zeros_like(x), np.zeros_like(x)
    for _ in range(40):
        fx, fy = rng.integers(-12, 13, 2)
        wave = np.cos(TAU * (fx * x + fy * y) + rng.random() * TAU) / max(1.0, float(np.hypot(fx, fy)))
        p, q = p + fx * wave, q + fy * wave
    return p, q


def islands(size: int, rng: np.random.Generator) -> Slopes:
    """Noise inside of round islands, their rim spread outwards as padding, flat between."""
    p, q = noise(size, rng)
    x, y = _at(size)
    inside = np.zeros(x.shape, bool)
    for cx, cy in rng.random((5, 2)):
        inside |= np.hypot(x - cx, y - cy) < rng.uniform(0.1, 0.22)
    near = cv2.distanceTransformWithLabels((~inside).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    distance, label = near
    where = np.zeros(label.max() + 1, int)
    where[label[inside]] = np.flatnonzero(inside)
    padded = [plane.ravel()[where[label]] for plane in (p, q)]
    return tuple(np.where(distance <= size / 32, plane, 0) for plane in padded)  # type: ignore[return-value]


def _block_compressed(codes: np.ndarray) -> np.ndarray:
    out = io.BytesIO()
    Image.fromarray(codes).save(out, "DDS", pixel_format="DXT1")
    return np.asarray(Image.open(io.BytesIO(out.getvalue())).convert("RGB"))


def _jpeg(codes: np.ndarray) -> np.ndarray:
    return cv2.imdecode(cv2.imencode(".jpg", codes, [cv2.IMWRITE_JPEG_QUALITY, 60])[1], cv2.IMREAD_COLOR)


KINDS = (bumps, weave, grooves, noise, islands)
STORED = {"8 bit": lambda c: c, "jpeg 60": _jpeg, "block-compressed": _block_compressed}
STEEPNESS = (0.1, 0.5)  # root mean square of the slopes


@dataclass(frozen=True)
class KnownMap:
    """``codes`` as stored; ``tells`` whether the mixed derivative stands out of the storage noise threefold."""

    name: str
    codes: np.ndarray
    green: str
    tells: bool


def _mixed(normal: np.ndarray) -> np.ndarray:
    p = cv2.GaussianBlur(-normal[..., 0] / np.maximum(normal[..., 2], 0.05), (0, 0), 1)
    return (p[2:] - p[:-2]) / 2


def stored_map(p: np.ndarray, q: np.ndarray, green: str, how: str) -> tuple[np.ndarray, bool]:
    """Codes of the slopes in one way of storing, and whether they tell."""
    normal = np.stack([-p, q if green == "up" else -q, np.ones_like(p)], -1)
    normal = (normal / np.linalg.norm(normal, axis=-1, keepdims=True)).astype(np.float32)
    codes = STORED[how](((normal * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8))
    clean = _mixed(normal)
    lost = _mixed(codes.astype(np.float32) / 127.5 - 1) - clean
    return codes, bool(clean.std() > 3 * lost.std())


def known_maps(sizes: tuple[int, ...], seeds: range) -> Iterator[KnownMap]:
    """Every kind × size × seed × steepness × way of storing, green by turns up and down."""
    for number, (kind, size, seed) in enumerate(product(KINDS, sizes, seeds)):
        p, q = kind(size, np.random.default_rng(1000 * seed + size))
        green = ("up", "down")[number % 2]
        for steep, how in product(STEEPNESS, STORED):
            scale = steep / np.sqrt((p * p + q * q).mean() / 2)
            codes, tells = stored_map(p * scale, q * scale, green, how)
            yield KnownMap(f"{kind.__name__} {size} px, seed {seed}, slopes {steep}, {how}", codes, green, tells)


# ---- what becomes of maps on their way ------------------------------------------------------------------------------


def jpeg_40(codes: np.ndarray) -> np.ndarray:
    return cv2.imdecode(cv2.imencode(".jpg", np.ascontiguousarray(codes), [cv2.IMWRITE_JPEG_QUALITY, 40])[1], cv2.IMREAD_COLOR)


def _vectors(codes: np.ndarray) -> np.ndarray:
    return codes[..., :3].astype(np.float32) / 127.5 - 1


def _codes(vectors: np.ndarray) -> np.ndarray:
    unit = vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-6)
    return ((unit * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)


def halved(codes: np.ndarray) -> np.ndarray:
    return _codes(cv2.resize(_vectors(codes), (codes.shape[1] // 2, codes.shape[0] // 2), interpolation=cv2.INTER_AREA))


def turned(codes: np.ndarray) -> np.ndarray:
    """A quarter turn counterclockwise, of the vectors too."""
    x, y, z = np.moveaxis(np.rot90(_vectors(codes)), -1, 0)
    return _codes(np.stack([-y, x, z], -1))


def cropped(px: int, seed: int):
    def crop(codes: np.ndarray) -> np.ndarray:
        top, left = np.random.default_rng(seed).integers(0, codes.shape[0] - px + 1, 2)
        return codes[top : top + px, left : left + px].copy()

    return crop


def as_islands(codes: np.ndarray) -> np.ndarray:
    """Round islands of a map with their rim spread outwards, flat ground between."""
    rows, columns = codes.shape[:2]
    y, x = np.mgrid[:rows, :columns]
    dice, inside = np.random.default_rng(0), np.zeros((rows, columns), bool)
    for _ in range(6):
        cx, cy = dice.random(2)
        inside |= np.hypot(x / columns - cx, y / rows - cy) < dice.uniform(0.08, 0.2)
    distance, label = cv2.distanceTransformWithLabels((~inside).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    where = np.zeros(label.max() + 1, int)
    where[label[inside]] = np.flatnonzero(inside)
    spread = codes.reshape(-1, 3)[where[label]]
    return np.where((distance <= columns / 32)[..., None], spread, np.array([128, 128, 255], np.uint8)).astype(np.uint8)


WEAR = {
    "jpeg 40": jpeg_40,
    "halved": halved,
    "halved, jpeg 40": lambda codes: jpeg_40(halved(codes)),
    "crop of 64": cropped(64, 0),
    "crop of 96, jpeg 40": lambda codes: jpeg_40(cropped(96, 1)(codes)),
    "crop of 48": cropped(48, 2),
    "islands": as_islands,
    "islands, jpeg 40": lambda codes: jpeg_40(as_islands(codes)),
    "turned": turned,
    "turned, jpeg 40": lambda codes: jpeg_40(turned(codes)),
}


def worn_maps(whole: dict[str, tuple[np.ndarray, str]]) -> Iterator[tuple[str, np.ndarray, str]]:
    """Every map in every kind of wear: name, codes, green."""
    for (name, (codes, green)), (how, wear) in product(whole.items(), WEAR.items()):
        yield f"{name}, {how}", wear(codes), green


def whole_maps(seeds: range, px: int = 256) -> dict[str, tuple[np.ndarray, str]]:
    found = {}
    for kind, seed in product(KINDS, seeds):
        p, q = kind(px, np.random.default_rng(50 + seed))
        green, scale = ("up", "down")[seed % 2], 0.25 / np.sqrt((p * p + q * q).mean() / 2)
        found[f"{kind.__name__} {seed}"] = (stored_map(p * scale, q * scale, green, "8 bit")[0], green)
    return found
