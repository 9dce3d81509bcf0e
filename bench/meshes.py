"""`python -m bench.meshes [memory | FOLDER]`: what baking costs; the most memory; or the demo's pieces baked into FOLDER.

Costs are of one run: rays a second by both casters, and the share of a bake that is rays. For one thread run it on one core
(`taskset -c 0`); exactness is a test (tests/core/test_bake.py).
"""

import resource
import sys
import time
from dataclasses import replace
from pathlib import Path

from copper_sieve.core import bands
from copper_sieve.core.bake import BakePlan, bake
from copper_sieve.core.bake.bvh import OwnCaster
from copper_sieve.core.bake.cast import Caster, Hits
from copper_sieve.core.raster import FloatArray
from copper_sieve.demo.meshes import PIECES
from copper_sieve.files.meshes import glb_of
from copper_sieve.work.meshes import BakeJob, bake_to_files
from copper_sieve.work.meshes.casting import EmbreeCaster

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from shapes import RELIEF, torus

OFFSET = 0.05


class Timed:
    """A caster that adds up what it takes."""

    def __init__(self, caster: Caster) -> None:
        self.name, self.rays, self.seconds, self._caster = caster.name, 0, 0.0, caster

    def run(self, origins: FloatArray, directions: FloatArray, reach: FloatArray, any_hit: bool) -> Hits:
        start = time.perf_counter()
        found = self._caster.run(origins, directions, reach, any_hit)
        self.seconds += time.perf_counter() - start
        self.rays += len(origins)
        return found


def rays(threads: int) -> None:
    """A bake of 500,000 to 768 triangles at 2048², normal alone, by each caster."""
    low, high = torus(24, 16), torus(768, 326, RELIEF)
    for make in (EmbreeCaster, lambda shape: OwnCaster(shape.at)):
        start = time.perf_counter()
        caster = Timed(make(high))
        built = time.perf_counter() - start
        bake(low, high, BakePlan(("normal",), size=64, offset=OFFSET), caster)
        caster.rays, caster.seconds = 0, 0.0
        start = time.perf_counter()
        bake(low, high, BakePlan(("normal",), size=2048, offset=OFFSET), caster)
        whole = time.perf_counter() - start
        print(
            f"{caster.name}, threads: {threads}. 500,736 to 768 triangles at 2048², normal: {whole:.1f} s, tree {built:.1f} s,"
            f" {caster.rays / caster.seconds / 1e6:.1f} million rays a second, {caster.seconds / whole:.0%} rays",
            flush=True,
        )


def memory() -> None:
    """Two million triangles at 4096², normal alone: the most memory that the process takes."""
    low, high = torus(24, 16), torus(1536, 652, RELIEF)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    bake(low, high, BakePlan(("normal",), size=4096, offset=OFFSET), EmbreeCaster(high))
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{len(high.triangles):,} triangles at 4096²: {most:.0f} MiB at most ({before:.0f} with the meshes alone)")


def pieces(folder: Path) -> None:
    """The demo's pieces as files, and baked."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, make in PIECES.items():
        paths = [folder / f"{name}_{side}.glb" for side in ("low", "high")]
        for path, high in zip(paths, (False, True)):
            path.write_bytes(glb_of(replace(make(high=high), parts=(path.stem,), materials=(name,))))
        maps = ("normal", "height", "occlusion", "curvature", "thickness", "position", "object_normal", "id")
        start = time.perf_counter()
        files, found = bake_to_files(BakeJob(*paths, folder, BakePlan(maps, size=1024, rays=64), replaces=True))
        seconds = time.perf_counter() - start
        print(f"{name}: {len(files)} maps in {seconds:.1f} s; {', '.join(one.text for one in found) or 'nothing found'}")


def main(what: str | None) -> None:
    if what == "memory":
        memory()
    elif what is not None:
        pieces(Path(what))
    else:
        rays(bands.CORES)


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else None)
