"""`python -m bench.deliveries`: what writing costs against other writers, and a delivery against writing its files alone."""

import io
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from itertools import count
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source, source_ref
from copper_sieve.core.target import Target, encode_file
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode
from copper_sieve.files.encoding import write_bytes
from copper_sieve.targets import shipped_target
from copper_sieve.work import Plan, deliver, plan_delivery
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.proofs import prove_file

PX = 4096
FIVE = ("engine-orm-down", "engine-loose-down", "gltf", "engine-smooth-up", "path-specular")


def timed(work: Callable[[], object], repeats: int = 3) -> float:
    """Median seconds."""
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return sorted(taken)[repeats // 2]


def pictures(px: int) -> dict[str, np.ndarray]:
    """A cloth's color of 8 bits and its height of 16, with noise as a camera has it."""
    files = {file.kind: file.codes for file in next(m for m in MATERIALS if m.name == "Quilted satin").files(px)}
    rng = np.random.default_rng(0)
    color = np.clip(files["base_color"].astype(np.int16) + rng.normal(0, 2.5, files["base_color"].shape), 0, 255).astype(np.uint8)
    height = cv2.GaussianBlur(rng.random((px, px), np.float32), (0, 0), px / 100)
    height = (height - height.min()) / np.ptp(height) + 0.002 * rng.random((px, px), np.float32)
    return {"8-bit RGB": color, "16-bit gray": np.clip(height * 65535, 0, 65535).astype(np.uint16)}


def by_pillow(codes: np.ndarray, level: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(codes).save(out, "PNG", compress_level=level)
    return out.getvalue()


def by_opencv(codes: np.ndarray, *options: int) -> bytes:
    return cv2.imencode(".png", codes if codes.ndim == 2 else codes[..., ::-1], options)[1].tobytes()


def writing(px: int = PX) -> None:
    for name, codes in pictures(px).items():
        ours = timed(lambda codes=codes: encode(codes, "png"))
        pillow, opencv = timed(lambda codes=codes: by_pillow(codes, 6), 1), timed(lambda codes=codes: by_opencv(codes))
        fast = min(len(by_pillow(codes, 1)), len(by_opencv(codes, cv2.IMWRITE_PNG_COMPRESSION, 1)))
        size = len(encode(codes, "png"))
        print(
            f"{px}² {name} PNG: {ours:.2f} s, Pillow level 6 takes {pillow / ours:.1f} × (aim 10), OpenCV's default "
            f"{opencv / ours:.1f} × (aim 2.5); our file is {size / fast:.2f} × the smaller at their fast level (aim 1.08)"
        )


def as_png(target: Target) -> Target:
    """The same target in PNG."""
    return target.model_copy(update={"files": tuple(f.model_copy(update={"format": "png"}) for f in target.files)})


def ready(px: int) -> Evaluation:
    """A set whose five masters are given and have been computed."""
    color = pictures(px)["8-bit RGB"]
    normal = np.dstack([cv2.GaussianBlur(color[..., k], (0, 0), 3) for k in range(2)] + [np.full((px, px), 240, np.uint8)])
    codes = {"base_color": color, "normal": normal} | {
        key: np.ascontiguousarray(color[..., k]) for k, key in enumerate(("roughness", "metallic", "occlusion"))
    }
    sources = {
        key: Source(sha256=f"{k:064x}", name=key, width=px, height=px, reads={"RGB" if v.ndim == 3 else "L": key}, green=green)
        for k, (key, v) in enumerate(codes.items())
        for green in ["up" if key == "normal" else None]
    }
    recipe = Recipe(facts=Facts(width=px, height=px), sources=sources, masters={key: source_ref(key, key) for key in sources})
    evaluation = Evaluation(recipe, None, lambda source: codes[source.name], Cache(8 << 30))
    for key in codes:
        evaluation.master(key)
    return evaluation


def alone(evaluation: Evaluation, target: Target, folder: Path) -> None:
    """Encode and write the files of a target, one after another, and nothing else."""
    for file in target.files:
        masters = {key: values for key in file.masters() if (values := evaluation.master(key)) is not None}
        if masters or not file.optional:
            codes = encode_file(target, file, masters, evaluation.size)
            write_bytes(folder / f"{file.role}.bin", encode(codes, file.format, color=file.color))


def delivering(folder: Path, px: int = PX) -> None:
    evaluation, tga = ready(px), shipped_target("engine-orm-down")
    plan = plan_delivery(evaluation, tga, "cloth")
    for name, target, aim in (("PNG", as_png(tga), 1.25), ("TGA", tga, 3.0)):
        plan = plan_delivery(evaluation, target, "cloth")
        places = (folder / f"{name}{k}" for k in count())
        processor = time.process_time()
        whole = timed(partial(_deliver_anew, evaluation, target, plan, places))
        cores = (time.process_time() - processor) / (3 * whole)
        bare = timed(partial(alone, evaluation, target, folder))
        print(
            f"{px}² set to engine-orm-down in {name}: {whole:.2f} s, {whole / bare:.2f} × its files alone (aim {aim}), "
            f"{cores:.1f} cores busy"
        )
    images = [f.role for f in plan.files if f.left_out is None]
    proof = timed(lambda: [prove_file(evaluation, tga, plan, role, folder / "TGA0") for role in images], 1)
    print(f"{px}² proof of those files, every channel: {proof:.1f} s")


def _deliver_anew(evaluation: Evaluation, target: Target, plan: Plan, places: Iterator[Path]) -> None:
    deliver(evaluation, target, plan, next(places))


_PEAK = """
import resource, sys, tempfile
from pathlib import Path
from bench.deliveries import as_png, ready, shipped_target
from copper_sieve.work import Plan, deliver, plan_delivery
px = int(sys.argv[1])
evaluation, target = ready(px), as_png(shipped_target("engine-orm-down"))
plan = plan_delivery(evaluation, target, "cloth")
with tempfile.TemporaryDirectory() as folder:
    deliver(evaluation, target, plan, Path(folder) / "out")
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 / (9 * 4 * px * px))
"""


def memory(px: int = PX) -> None:
    done = subprocess.run([sys.executable, "-c", _PEAK, str(px)], capture_output=True, text=True, check=True)
    print(f"{px}² set to engine-orm-down in PNG: peak memory {float(done.stdout):.1f} × the set in float32, all in (aim 4)")


def from_photo(folder: Path, px: int = 2048) -> None:
    """Five targets against one, each from a photo that nothing was computed of yet; the parts that are one are computed once."""
    content = encode(pictures(px)["8-bit RGB"], "png", color="srgb")
    recipe, _ = recipe_for([look_at_bytes(content, "photo.png")])
    assert recipe is not None

    def run(keys: tuple[str, ...]) -> float:
        cache, start = Cache(4 << 30), time.perf_counter()
        for key in keys:
            evaluation = Evaluation(recipe, None, lambda source: load_codes(source, lambda _: content), cache)
            plan = plan_delivery(evaluation, shipped_target(key), "photo")
            deliver(evaluation, shipped_target(key), plan, folder / f"{len(keys)}" / key)
        return time.perf_counter() - start

    run(FIVE[:1])  # compiles
    one, five = run(FIVE[:1]), run(FIVE)
    print(f"{px}² from one photo: one target {one:.1f} s, five {five / one:.2f} × that (aim 2.5)")


if __name__ == "__main__":
    writing()
    with tempfile.TemporaryDirectory(dir="/tmp") as name:
        delivering(Path(name))
        from_photo(Path(name))
    memory()
