"""Derivations at full size against straightforward numpy and scipy versions of the same formula, in one run."""

import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial

import numpy as np
from scipy import ndimage

from copper_sieve.core.color import OKLAB_LAB, OKLAB_LMS
from copper_sieve.core.convert import blend_normals
from copper_sieve.core.derive import (
    OcclusionFromHeight,
    curvature_from_normal,
    height_from_color,
    height_from_normal,
    normal_from_height,
    occlusion_from_height,
    roughness_from_color,
)
from copper_sieve.core.derive.albedo import albedo_from_photo
from copper_sieve.core.derive.detail import HANDLES
from copper_sieve.core.derive.masks import MaskByRange, mask_by_range


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


def plain_normal(height: np.ndarray, rise: float = 0.02) -> np.ndarray:
    across = np.array([[-3, 0, 3], [-10, 0, 10], [-3, 0, 3]]) / 32
    p, q = (-rise * height.shape[1] * ndimage.correlate(height, kernel, mode="wrap") for kernel in (across, across.T))
    n = np.stack([p, -q, np.ones_like(p)], -1)
    return n / np.linalg.norm(n, axis=-1, keepdims=True)


def plain_lightness(color: np.ndarray) -> np.ndarray:
    return np.cbrt(np.maximum(color @ OKLAB_LMS.T, 0)) @ OKLAB_LAB[0]


def plain_blur(spectrum: np.ndarray, sigma: float) -> np.ndarray:
    return np.fft.ifft2(ndimage.fourier_gaussian(spectrum, sigma)).real


def plain_bands(gray: np.ndarray, weights: tuple[float, ...]) -> np.ndarray:
    """Nine bands, each a difference of two Gaussians, weighted and summed."""
    splits, spectrum = np.geomspace(HANDLES[0], HANDLES[-1], 10), np.fft.fft2(gray)
    at = np.interp(-np.log(np.sqrt(splits[:-1] * splits[1:])), -np.log(HANDLES), weights)
    blurs = [plain_blur(spectrum, size / np.pi * gray.shape[1]) for size in splits]
    return sum(w * (fine - broad) for w, broad, fine in zip(at, blurs, blurs[1:])) + weights[-1] * (gray - blurs[-1])


def plain_height_of_color(color: np.ndarray) -> np.ndarray:
    relief = plain_bands(plain_lightness(color), (0.0, 0.7, 1.0, 0.6, 0.25))
    relief -= relief.mean()
    h = np.clip(0.5 + 0.5 * relief / np.quantile(np.abs(relief), 0.998), 0, 1)
    size = 2 * round(0.002 * h.shape[1]) + 1
    mean, square = ndimage.uniform_filter(h, size, mode="wrap"), ndimage.uniform_filter(h * h, size, mode="wrap")
    gain = (square - mean * mean) / (square - mean * mean + 0.06**2)
    return ndimage.uniform_filter(gain, size, mode="wrap") * h + ndimage.uniform_filter(mean - gain * mean, size, mode="wrap")


def plain_roughness(color: np.ndarray) -> np.ndarray:
    gray = plain_lightness(color)
    shade = plain_bands(gray, (0.5, 1.0, 1.0, 0.7, 0.3))
    spectrum = np.fft.fft2(gray)
    fine = np.abs(gray - plain_blur(spectrum, 0.004 / np.pi * gray.shape[1]))
    busy = plain_blur(np.fft.fft2(fine), 0.03 / np.pi * gray.shape[1])
    z = -0.65 * (shade - shade.mean()) / shade.std() + 0.35 * (busy - busy.mean()) / busy.std()
    return np.clip(0.65 + 0.09 * z / z.std(), 0, 1)


def plain_albedo(photo: np.ndarray) -> np.ndarray:
    light = photo @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    lamp = plain_blur(np.fft.fft2(light), 0.12 / np.pi * light.shape[1]) / light.mean()
    even = photo / np.maximum(lamp, 0.02)[..., None] ** 0.8
    return np.clip(even * light.mean() / even.mean(), 0, 1)


def plain_range(color: np.ndarray) -> np.ndarray:
    lab = np.cbrt(np.maximum(color @ OKLAB_LMS.T, 0)) @ OKLAB_LAB.T
    apart = (lab - lab[0, 0]) * [0.5, 1, 1]
    return np.clip((0.12 - np.sqrt((apart**2).sum(-1))) / 0.06 + 0.5, 0, 1)


def plain_occlusion(height: np.ndarray, rise: float = 0.02, reach: float = 0.08, slices: int = 12) -> np.ndarray:
    """The brute form: in every slice, every texel as far as the reach, interpolated, both ways."""
    size = height.shape[1]
    h = height.astype(np.float64) * rise * size
    gx, gy = (np.roll(h, -1, 1) - np.roll(h, 1, 1)) / 2, (np.roll(h, -1, 0) - np.roll(h, 1, 0)) / 2
    length = np.sqrt(gx * gx + gy * gy + 1)
    rows, columns = np.indices(h.shape)
    total = np.zeros_like(h)
    for k in range(slices):
        across, along = np.cos(np.pi * (k + 0.5) / slices), np.sin(np.pi * (k + 0.5) / slices)
        horizons = []
        for sign in (1, -1):
            steepest = np.full_like(h, -np.inf)
            for distance in range(1, int(reach * size) + 1):
                at = [rows + sign * along * distance, columns + sign * across * distance]
                there = ndimage.map_coordinates(h, at, order=1, mode="grid-wrap")
                np.maximum(steepest, (there - h) / distance, out=steepest)
            horizons.append(np.pi / 2 - np.arctan(steepest))
        lean = np.arctan(-(gx * across + gy * along))
        share = np.hypot(1, gx * across + gy * along) / length
        for sign, horizon in zip((1, -1), horizons):
            end = np.clip(sign * horizon, lean - np.pi / 2, lean + np.pi / 2)
            total += share * 0.25 * (-np.cos(2 * end - lean) + np.cos(lean) + 2 * end * np.sin(lean))
    return total / slices


def once(work: Callable[..., object], *arguments: object) -> float:
    start = time.perf_counter()
    work(*arguments)
    return time.perf_counter() - start


def derivations(px: int = 4096) -> None:
    """One run each after a small one that compiles; then occlusion, and all six maps of one photo in a process of their own."""
    gray = ndimage.zoom(np.random.default_rng(7).random((px // 8, px // 8), np.float32), 8, order=1)
    color = np.stack([gray, gray**2, np.sqrt(gray)], -1).astype(np.float32)
    normal = normal_from_height(gray, 0.02)
    detail = np.roll(normal, 17, 0)
    near = MaskByRange(color="#806040")
    rows = (
        ("normal from height", lambda n: normal_from_height(gray[:n, :n], 0.02), lambda: plain_normal(gray)),
        ("height from color", lambda n: height_from_color(color[:n, :n]), lambda: plain_height_of_color(color)),
        ("roughness from color", lambda n: roughness_from_color(color[:n, :n]), lambda: plain_roughness(color)),
        ("albedo from photo", lambda n: albedo_from_photo(color[:n, :n]), lambda: plain_albedo(color)),
        ("metallic near one color", lambda n: mask_by_range(color[:n, :n], "wrap", params=near), lambda: plain_range(color)),
        ("curvature from normal", lambda n: curvature_from_normal(normal[:n, :n]), lambda: plain_curvature(normal)),
        ("normals blended", lambda n: blend_normals(normal[:n, :n], detail[:n, :n]), lambda: plain_blend(normal, detail)),
        ("height from normal", lambda n: height_from_normal(normal[:n, :n]), lambda: plain_height(normal)),
    )
    for name, ours, plain in rows:
        ours(64)
        mine, theirs = once(ours, px), once(plain)
        print(f"{px}² {name}: {mine:.2f} s, {theirs / mine:.1f} × quicker than plain numpy and scipy")
    occlusion(gray)
    six_maps(px)


def occlusion(height: np.ndarray) -> None:
    small = np.ascontiguousarray(height[:512, :512])
    occlusion_from_height(small[:64, :64])
    mine = min(once(lambda: occlusion_from_height(small, 0.02)) for _ in range(3))
    start = time.perf_counter()
    brute = plain_occlusion(small)
    theirs = time.perf_counter() - start
    off = np.sqrt(np.mean((brute - occlusion_from_height(small, 0.02)) ** 2))
    print(f"512² occlusion: {mine:.3f} s, {theirs / mine:.0f} × quicker than the brute form (aim 200), RMSE {off:.4f} (aim 0.01)")
    for reach, aim in ((0.1, 5), (0.5, 9)):
        taken = once(partial(occlusion_from_height, height, 0.02, params=OcclusionFromHeight(reach=reach)))
        print(f"{height.shape[0]}² occlusion at a reach of {reach:.0%}: {taken:.1f} s (aim {aim})")


_SIX = """
import sys, time
import numpy as np
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.recipe import Cache, Evaluation
px = int(sys.argv[1])
codes = np.frombuffer(np.random.default_rng(2).bytes(px * px * 3), np.uint8).reshape(px, px, 3)
recipe = plan_set([FileEntry("a" * 64, "photo.png", px, px, 8, {"RGB": "photo"})])
Evaluation(recipe, 64, lambda source: codes, Cache(1 << 28)).master("occlusion")
start = time.perf_counter()
evaluation = Evaluation(recipe, None, lambda source: codes, Cache(int(sys.argv[2]) << 20))
maps = {key: evaluation.master(key) for key in recipe.masters}
taken = time.perf_counter() - start
peak = next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(len(maps), taken, int(peak) / 1024)
"""


def six_maps(px: int) -> None:
    done = subprocess.run([sys.executable, "-c", _SIX, str(px), "1024"], capture_output=True, text=True, check=True)
    count, taken, peak = done.stdout.split()
    print(f"{px}² photo to its {count} maps: {float(taken):.1f} s (aim 12), peak memory {float(peak) / 1000:.2f} GB (aim 2.5)")
