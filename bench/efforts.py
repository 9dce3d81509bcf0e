"""What every operation takes a texel, beside the effort that it declares: `python -m bench.efforts`.

The declared efforts feed the bar of a delivery and what is said of how long it is going to take.
"""

from __future__ import annotations

import time

import cv2
import numpy as np

from copper_sieve.core.convert import specular_from_metallic
from copper_sieve.core.derive import curvature_from_normal, normal_from_height, occlusion_from_height
from copper_sieve.core.operation import Operation, Slot
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Node, Recipe, Source, node_ref, source_ref

from .photos import photo_of

PX, ROUNDS, RISE = 2048, 2, 0.03
FED = {"gray": "opacity", "mask": "occlusion", "mixed": "height", "given": "roughness"}  # where any quantity will do


def maps() -> dict[str, np.ndarray]:
    """A map of each kind, PX² and as its file would hold it, in floats."""
    photo = photo_of("Gravel")
    surface = photo.surface
    color, height, rough, light = (
        cv2.resize(values.astype(np.float32), (PX, PX), interpolation=cv2.INTER_CUBIC).clip(0, 1)
        for values in (surface.albedo, surface.height, surface.roughness, photo.light)
    )
    normal = normal_from_height(height, RISE)
    metallic = (height > 0.7).astype(np.float32)
    diffuse, specular = specular_from_metallic(color, metallic)
    return {
        "base_color": color,
        "photo": color * light[..., None],
        "shaded_color": color * 0.8,
        "height": height,
        "normal": normal,
        "occlusion": occlusion_from_height(height, RISE),
        "opacity": metallic,
        "roughness": rough,
        "curvature": curvature_from_normal(normal),
        "diffuse": diffuse,
        "specular": specular,
    }


def file_for(slot: Slot) -> str:
    return slot.quantity or FED[slot.feed]


def nanoseconds(operation: Operation, files: dict[str, np.ndarray]) -> float:
    """A texel, with its files read; the shortest of some rounds."""
    sources = {
        key: Source(sha256=f"{k:064x}", name=key, width=PX, height=PX, depth=32, reads={"RGB" if v.ndim == 3 else "L": key})
        for k, (key, v) in enumerate(files.items())
    }
    inputs = {slot.key: source_ref(file_for(slot), file_for(slot)) for slot in operation.slots}
    node = Node(op=operation.key, algorithm=operation.number, inputs=inputs, params={})
    recipe = Recipe(facts=Facts(width=PX, height=PX, rise=RISE), sources=sources, nodes={"n": node})
    times = []
    for _ in range(ROUNDS):
        evaluation = Evaluation(recipe, None, lambda source: files[source.name], Cache(4 << 30))
        for ref in inputs.values():
            evaluation.value(ref, evaluation.size)
        began = time.perf_counter()
        evaluation.value(node_ref("n", *operation.outputs[:1] if len(operation.outputs) > 1 else ()), evaluation.size)
        times.append(time.perf_counter() - began)
    return min(times) / PX / PX * 1e9


if __name__ == "__main__":
    files = maps()
    for operation in OPERATIONS.values():
        if operation.slots:
            taken = nanoseconds(operation, files)
            print(f"{operation.key:24} {taken:6.1f} ns a texel, {taken / 10 / operation.effort:.2f} × what it declares")
