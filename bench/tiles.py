"""`python -m bench.tiles`: what a tile of a set costs against a set of its own, in time and in memory, delivered whole."""

import tempfile
import time
import tracemalloc
from pathlib import Path

import numpy as np

from copper_sieve.core.recipe import Cache, Evaluation
from copper_sieve.demo.materials import _noise
from copper_sieve.files import encode
from copper_sieve.targets import shipped_target
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes

PX = 2048
REPEATS = 3
APART = (1001, 1003, 1005, 1007)  # none touches another
TOGETHER = (1001, 1002, 1011, 1012)  # each touches all of the others
DOZEN = (*range(1001, 1007), *range(1011, 1017))  # two rows of a character
NEED = 48  # bytes a texel that all maps of one tile take
TARGET = "engine-orm-down"


def set_of(tiles: tuple[int, ...], px: int, cache_bytes: int) -> Evaluation:
    """A set of color alone: height, normal, occlusion and roughness are derived."""
    light = 0.2 + 0.6 * np.clip(0.5 + 0.25 * _noise(px, 16, 6), 0, 1)
    codes = (np.stack([light, light * 0.9, light * 0.7], -1) * 255).astype(np.uint8)
    contents = {f"coat_basecolor.{tile}.png": encode(np.roll(codes, 37 * k, 0), "png") for k, tile in enumerate(tiles)}
    looked = [look_at_bytes(content, name) for name, content in contents.items()]
    held = {one.sha256: contents[one.name] for one in looked}
    recipe, _ = recipe_for(looked)
    assert recipe is not None
    return Evaluation(recipe, None, lambda source: load_codes(source, held.__getitem__), Cache(cache_bytes))


def delivered(evaluation: Evaluation) -> None:
    with tempfile.TemporaryDirectory() as folder:
        target = shipped_target(TARGET)
        deliver(evaluation, target, plan_delivery(evaluation, target, "coat"), Path(folder) / "out")


def seconds(tiles: tuple[int, ...], px: int, cache_bytes: int = 4 << 30, repeats: int = REPEATS) -> float:
    taken = []
    for _ in range(repeats):
        evaluation = set_of(tiles, px, cache_bytes)
        start = time.perf_counter()
        delivered(evaluation)
        taken.append(time.perf_counter() - start)
    return sorted(taken)[repeats // 2]


def peak(tiles: tuple[int, ...], px: int) -> float:
    """Most bytes held at a time, with a cache that holds no more than one tile needs."""
    evaluation = set_of(tiles, px, NEED * px * px)
    tracemalloc.start()
    delivered(evaluation)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return most


def main(px: int = PX) -> None:
    seconds((1001,), 256)  # compiled
    single, most = seconds((1001,), px), peak((1001,), px)
    print(f"a set of one color at {px}² to {TARGET}: {single:.2f} s, at most {most / 2**20:.0f} MB")
    for name, tiles in (("that lie apart", APART), ("that touch", TOGETHER)):
        each = seconds(tiles, px) / len(tiles) / single
        held = peak(tiles, px) / most
        print(f"{len(tiles)} tiles {name}: {each:.2f} × a set of its own per tile, at most {held:.2f} × its memory")
    each = seconds(DOZEN, px, 5 * NEED * px * px, 1) / len(DOZEN) / single
    print(f"{len(DOZEN)} tiles that touch, in a cache that holds five: {each:.2f} × a set of its own per tile")


if __name__ == "__main__":
    main()
