"""`python -m bench`: each figure is a ratio to a memory copy of the same array, taken in the same run."""

import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from bench.derivations import derivations
from bench.live import live
from copper_sieve.core.bands import CORES
from copper_sieve.core.color import encode_srgb_codes, linear_from_srgb, linear_from_srgb_codes, srgb_from_linear
from copper_sieve.core.derive import normal_from_height, occlusion_from_height
from copper_sieve.core.recipe import Cache, Evaluation, with_value
from copper_sieve.files import encode, read, write
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import gather, load_codes, look_at_bytes


def seconds(work, repeats: int = 5) -> float:
    """Median of ``repeats`` runs after one that is not counted."""
    work()
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def arrays(px: int = 4096) -> None:
    rng = np.random.default_rng(0)
    height = rng.random((px, px), np.float32)
    gray, rgb = np.empty_like(height), np.empty((px, px, 3), np.float32)
    codes = rng.integers(0, 256, rgb.shape).astype(np.uint8)
    linear, out8 = linear_from_srgb_codes(codes), np.empty_like(codes)
    copy = seconds(lambda: np.copyto(gray, height))
    copy_rgb = seconds(lambda: np.copyto(rgb, linear))
    rows = (
        ("height to normal, touched out", lambda: normal_from_height(height, out=rgb), copy, 12),
        ("height to normal, fresh out", lambda: normal_from_height(height), copy, 12),
        ("sRGB 8 bit decode", lambda: linear_from_srgb_codes(codes, out=rgb), copy_rgb, 8),
        ("sRGB 8 bit encode", lambda: encode_srgb_codes(linear, out=out8), copy_rgb, 8),
        ("sRGB float decode", lambda: linear_from_srgb(linear, out=rgb), copy_rgb, 12),
        ("sRGB float encode", lambda: srgb_from_linear(linear, out=rgb), copy_rgb, 12),
    )
    for name, work, unit, aim in rows:
        print(f"{px}² {name}: {seconds(work) / unit:.1f} × copy (aim {aim})")
    small = height[:1024, :1024].copy()
    print(f"1024² occlusion: {seconds(lambda: occlusion_from_height(small), 3):.2f} s")


def sliders(folder: Path, px: int = 1024, moves: int = 50) -> None:
    """A moved slider as the server sees it, without the network: evaluate at 1024², nothing of this move cached."""
    path = folder / "photo.png"
    write(path, np.random.default_rng(1).integers(0, 256, (px, px, 3)).astype(np.uint8), format="png")
    content = path.read_bytes()
    recipe, _ = recipe_for([look_at_bytes(content, path.name)])
    cache = Cache(2 << 30)
    for master, knob, low, high in (
        ("height", "contrast", 0.5, 2),
        ("normal", "strength", 0.5, 2),
        ("roughness", "mean", 0.3, 0.9),
    ):
        taken = []
        for k in range(moves + 1):
            moved = with_value(recipe, f"{master}.{knob}", str(low + (high - low) * k / moves))
            start = time.perf_counter()
            Evaluation(moved, px, lambda source: load_codes(source, lambda _: content), cache).master(master)
            taken.append((time.perf_counter() - start) * 1000)
        taken = sorted(taken[1:])
        middle, late = taken[moves // 2], taken[int(moves * 0.95)]
        print(f"slider {master} {px}², evaluation alone: median {middle:.0f} ms, p95 {late:.0f} ms over {moves} (aim 100)")


def look(folder: Path, px: int = 2048, count: int = 100) -> None:
    """Say what files are, against plainly decoding them: PNG, TGA and JPEG; normals, packed files and colors."""
    rng = np.random.default_rng(4)
    height = cv2.GaussianBlur(rng.random((px, px), np.float32), (0, 0), 8)
    normal = ((normal_from_height(height, 0.5) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    color = cv2.resize(rng.integers(0, 256, (px // 8, px // 8, 3)).astype(np.uint8), (px, px))
    jpeg = cv2.imencode(".jpg", color)[1].tobytes()
    kinds = [("N.png", encode(normal, "png")), ("ORM.tga", encode(color, "tga")), ("albedo.jpg", jpeg)]
    paths = [folder / f"cloth{k}_{kinds[k % 3][0]}" for k in range(count)]
    for k, path in enumerate(paths):
        path.write_bytes(kinds[k % 3][1])
    with ThreadPoolExecutor(CORES) as pool:
        plain = seconds(lambda: [read(path) for path in paths], 1)
        pooled = seconds(lambda: list(pool.map(lambda path: read(path).header, paths)), 1)
    looked = seconds(lambda: list(gather(paths)), 1)
    print(
        f"look at {count} files of {px}²: {count / looked:.1f} files/s, {looked / plain:.2f} × decoding them one after"
        f" another (aim 1.5), {looked / pooled:.2f} × decoding them on {CORES} threads as look does"
    )


def make(folder: Path, px: int = 2048) -> None:
    path = folder / "large.png"
    write(path, np.random.default_rng(2).integers(0, 256, (px, px, 3)).astype(np.uint8), format="png")
    script = "import copper_sieve.cli as c, resource, sys; b = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\ntry: c.app()\n"
    script += "except SystemExit: pass\nprint(b, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)"
    command = [sys.executable, "-c", script, "make", str(path), "--target", "engine-orm-down", "--out", str(folder / "out")]
    start = time.perf_counter()
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    taken = time.perf_counter() - start
    before, after = map(int, done.stdout.split()[-2:])
    print(
        f"make {px}²: {taken:.1f} s, memory grows by {(after - before) * 1024 / (px * px * 12):.1f} × the float32 photo (aim 8)"
    )


if __name__ == "__main__":
    with tempfile.TemporaryDirectory(dir="/tmp") as name:
        make(Path(name))
        look(Path(name))
        sliders(Path(name))
        live(Path(name))
    derivations()
    arrays()
