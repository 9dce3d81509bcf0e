"""Derivations at full size against straightforward numpy and scipy versions of the same formula, in one run."""

import time
from collections.abc import Callable

import numpy as np
from scipy import ndimage

from copper_sieve.core.convert import blend_normals
from copper_sieve.core.derive import curvature_from_normal, height_from_normal, normal_from_height


def plain_curvature(normal: np.ndarray, scale: float = 0.012) -> np.ndarray:
    width, total = normal.shape[1], 0
    for octave, share in ((0, 1.0), (1, 0.3), (2, 0.15)):
        sigma = scale * 2**octave / 3 * width
        x, y = (ndimage.gaussian_filter(normal[..., k], sigma, mode="wrap") for k in (0, 1))
        total = total + share * scale * 2**octave * width / 2 * (np.gradient(x, axis=1) - np.gradient(y, axis=0))
    return np.clip(total / 1.45, -1, 1)


def plain_blend(base: np.ndarray, detail: np.ndarray) -> np.ndarray:
    t = base + np.array([0, 0, 1], np.float32)
    u = detail * np.array([-1, -1, 1], np.float32)
    n = t * ((t * u).sum(-1, keepdims=True) / t[..., 2:]) - u
    return n / np.linalg.norm(n, axis=-1, keepdims=True)


def plain_height(normal: np.ndarray) -> np.ndarray:
    p, q = -normal[..., 0] / normal[..., 2], normal[..., 1] / normal[..., 2]
    tx, ty = np.sin(2 * np.pi * np.fft.fftfreq(p.shape[1])), np.sin(2 * np.pi * np.fft.fftfreq(p.shape[0]))[:, None]
    square = tx * tx + ty * ty
    square[square < 1e-12] = np.inf
    h = np.fft.ifft2(-1j * (tx * np.fft.fft2(p) + ty * np.fft.fft2(q)) / square).real
    return (h - h.min()) / np.ptp(h)


def once(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def derivations(px: int = 4096) -> None:
    """One run each after a small one that compiles."""
    height = ndimage.zoom(np.random.default_rng(7).random((px // 8, px // 8), np.float32), 8, order=1)
    normal = normal_from_height(height, 0.02)
    detail = np.roll(normal, 17, 0)
    rows = (
        ("curvature from normal", lambda: curvature_from_normal(normal), lambda: plain_curvature(normal)),
        ("normals blended", lambda: blend_normals(normal, detail), lambda: plain_blend(normal, detail)),
        ("height from normal", lambda: height_from_normal(normal), lambda: plain_height(normal)),
    )
    blend_normals(normal[:8, :8], detail[:8, :8])
    for name, ours, plain in rows:
        mine, theirs = once(ours), once(plain)
        print(f"{px}² {name}: {mine:.2f} s, {theirs / mine:.1f} × quicker than plain numpy and scipy")
