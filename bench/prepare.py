"""`python -m bench.prepare [SHEET.png]`: made-up and real photos that do not repeat, made to; and what preparing costs.

For each: the tile, how its copies fit, how much the line shows (mean, 95th percentile, worst stretch). With a file name every
tile is drawn twice each way. Costs are shares of a plain Gaussian of the same run: σ 1 % at 2048² for a repeat, σ 1.6 % at 512²
for a spot.
"""

import resource
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np

from bench.photos import SURFACES, photo_of
from copper_sieve.core.color import encode_srgb_codes, linear_from_srgb_codes, srgb_from_linear
from copper_sieve.core.convert.strokes import Brushed, brushed
from copper_sieve.core.prepare.joining import joined
from copper_sieve.core.prepare.pieces import laid
from copper_sieve.core.prepare.piecing import pieced
from copper_sieve.core.prepare.said import step_said
from copper_sieve.core.prepare.spots import places_for, without_spots
from copper_sieve.core.prepare.straighten import Straighten, straightened
from copper_sieve.core.prepare.tile import DECIDED_PX, Asked, decided
from copper_sieve.core.prepare.variant import Variant, varied
from copper_sieve.core.raster import Edges
from copper_sieve.files import encode, read

REAL = Path(__file__).parents[2] / "shared" / "real"
CELL, ACROSS, ROUNDS = 300, 5, 5
ASLANT = ((0.12, 0.1), (0.9, 0.04), (0.97, 0.95), (0.05, 0.85))


def pictures() -> Iterator[tuple[str, np.ndarray]]:
    """Codes of every photo, cut so that it holds no whole repeat."""
    for name in SURFACES:
        yield name, np.ascontiguousarray(photo_of(name).codes[:780, :780, :3])
    for place, share in (("photo_with_height/rockwall.jpg", 1.0), ("ufo_metal02_Yplus/metal02.png", 0.77)):
        if (REAL / place).is_file():
            codes = read(REAL / place).codes[..., :3]
            rows, columns = (round(side * share) for side in codes.shape[:2])
            yield Path(place).stem, np.ascontiguousarray(codes[:rows, :columns])


def small(codes: np.ndarray) -> np.ndarray:
    linear = linear_from_srgb_codes(codes)
    scale = DECIDED_PX / max(codes.shape[:2])
    return cv2.resize(linear, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)


def seconds(work: Callable[[], object]) -> float:
    """The shortest of some rounds, the first left out."""
    work()
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def costs() -> None:
    gravel = photo_of("Gravel").codes[..., :3]
    photo = linear_from_srgb_codes(np.ascontiguousarray(gravel[:780, :780]))
    large, tiny = (cv2.resize(photo, (side, side), interpolation=cv2.INTER_CUBIC).clip(0, 1) for side in (2048, 512))
    decision = seconds(lambda: decided({"color": tiny}))
    print(f"decision: {decision:.2f} s")
    repeat = decided({"color": tiny})
    gray = np.ascontiguousarray(large[..., 0])
    for kind, values in (("color", large), ("scalar", gray)):
        plain = seconds(lambda values=values: cv2.GaussianBlur(values, (0, 0), 0.01 * 2048))
        ratio = seconds(lambda values=values, kind=kind: joined(values, repeat, kind)) / plain
        print(f"repeat at 2048², {kind}: {ratio:.1f} × a Gaussian of σ 1 % ({plain * 1000:.0f} ms)")
    evened = decided({"color": tiny}, Asked(evens=True))
    plain = seconds(lambda: cv2.GaussianBlur(large, (0, 0), 0.01 * 2048))
    ratio = seconds(lambda: joined(large, evened, "color")) / plain
    print(f"repeat at 2048², color, its light evened first: {ratio:.1f} × a Gaussian of σ 1 %")
    plain = seconds(lambda: cv2.GaussianBlur(large, (0, 0), 0.01 * 2048))
    ratio = seconds(lambda: varied(large, Variant(), "color", wraps=(True, True))) / plain
    print(f"variant at 2048², color, blended: {ratio:.1f} × a Gaussian of σ 1 %")
    repeating = joined(tiny, repeat, "color")
    pieces = pieced({"color": repeating}, 1, 4)
    ratio = seconds(lambda: laid(large, pieces, "color")) / plain
    print(f"variant at 2048², color, in pieces: {ratio:.1f} × a Gaussian of σ 1 %")
    print(f"pieces decided: {seconds(lambda: pieced({'color': repeating}, 1, 4)):.2f} s; {pieces.seen}")
    encoded = srgb_from_linear(tiny)
    plain = seconds(lambda: cv2.GaussianBlur(encoded, (0, 0), 0.016 * 512))
    spot = places_for([encoded], (0.5, 0.5, 0.03, 0.03))[0]
    found, filled = (
        seconds(lambda: places_for([encoded], (0.5, 0.5, 0.03, 0.03))),
        seconds(lambda: without_spots(tiny, [spot], "color")),
    )
    print(f"spot at 512²: found {found / plain:.1f}, filled {filled / plain:.1f} × a Gaussian of σ 1.6 %")
    step = Straighten(points=ASLANT)
    plain = seconds(lambda: cv2.GaussianBlur(large, (0, 0), 0.01 * 2048))
    straight = seconds(lambda: straightened(large, step, "color"))
    print(f"straightened at 2048², color: {straight / plain:.1f} × a Gaussian of σ 1 %")
    line = Brushed(points=((0.2, 0.3), (0.5, 0.6), (0.8, 0.4)), radius=0.04)
    gray = np.ascontiguousarray(large[::2, ::2, 0])
    drawn, copied = seconds(lambda: brushed(gray, [line], Edges())), seconds(gray.copy)
    print(f"stroke at 1024²: {drawn * 1000:.0f} ms; copying the map takes {copied * 1000:.1f} ms")
    print(f"most memory so far: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MiB")


_SIX = """
import resource, time
import cv2
from bench.photos import photo_of
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.recipe import Cache, Evaluation
from copper_sieve.core.recipe.origins import choices, with_origin
from copper_sieve.core.recipe.preparing import with_repeat
def prepared(px):
    codes = cv2.resize(photo_of("Gravel").codes[:780, :780, :3], (px, px), interpolation=cv2.INTER_CUBIC)
    recipe = plan_set([FileEntry("a" * 64, "photo.png", px, px, 8, {"RGB": "photo"})])
    cache, start = Cache(1 << 30), time.perf_counter()
    decided = with_repeat(Evaluation(recipe, None, lambda source: codes, cache))
    recipe = with_origin(decided, "curvature", choices(decided, "curvature")[0].key)
    evaluation = Evaluation(recipe, None, lambda source: codes, cache)
    for key in recipe.masters:
        evaluation.master(key)
    return len(recipe.masters), time.perf_counter() - start
prepared(256)  # compiles
print(*prepared(4096), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


def from_photo() -> None:
    """A photo of 4096² to its maps, made to repeat on the way, all at their full size."""
    done = subprocess.run([sys.executable, "-c", _SIX], capture_output=True, text=True, check=True)
    count, taken, most = done.stdout.split()
    print(f"4096² photo to its {count} maps with a repeat: {float(taken):.1f} s (aim 15), {int(most) / 1e6:.2f} GB (aim 2.5)")


def main(sheet: str | None) -> None:
    cells = []
    for name, codes in pictures():
        picture = small(codes)
        repeat = decided({"color": picture})
        seen = repeat.seen
        print(
            f"{name}: {step_said(repeat)}; fit {repeat.fit:.2f}, structure {repeat.structure:.2f};"
            f" across the line {seen.mean:.2f} / {seen.most:.2f} / {seen.worst:.2f}",
            flush=True,
        )
        if sheet is not None:
            tile = np.tile(encode_srgb_codes(joined(picture, repeat, "color"), np.uint8), (2, 2, 1))
            cells.append(cv2.resize(tile, (CELL, CELL), interpolation=cv2.INTER_AREA))
    if sheet is not None:
        cells += [np.zeros_like(cells[0])] * (-len(cells) % ACROSS)
        rows = [np.hstack(cells[at : at + ACROSS]) for at in range(0, len(cells), ACROSS)]
        Path(sheet).write_bytes(encode(np.ascontiguousarray(np.vstack(rows)), "png", color="srgb"))
    costs()
    from_photo()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else None)
