"""What pixels alone say, on surfaces made here that the recognizer's numbers were not chosen on.

`python tests/core/test_content.py` prints the confusion table.
"""

from collections import Counter
from collections.abc import Iterator
from itertools import permutations

import numpy as np

from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.core.derive import normal_from_height, occlusion_from_height
from copper_sieve.core.intake import look_at
from copper_sieve.demo.materials import _noise

PX = 128
ORDERS = list(permutations(("occlusion", "roughness", "metallic")))


def codes_of(values: np.ndarray) -> np.ndarray:
    return (np.clip(values, 0, 1) * 255 + 0.5).astype(np.uint8)


def a_surface(seed: int) -> dict[str, np.ndarray]:
    """A made-up material: relief, base color, and the grays a set has, metallic from none over patches to all."""
    rng = np.random.default_rng(seed)
    relief, spots, grain = _noise(PX, seed, 6), _noise(PX, seed + 50, 4), _noise(PX, seed + 90, 24)
    height = np.clip(0.5 + 0.28 * relief, 0, 1)
    metallic = [np.zeros_like(height), (spots > 0.3).astype(np.float32), np.ones_like(height) - (spots > 1.2)][seed % 3]
    hue = rng.uniform(0.1, 0.9, 3).astype(np.float32)
    other = rng.uniform(0.1, 0.9, 3).astype(np.float32)
    base = np.where(spots[..., None] > 0.4, other, hue) * (1 + 0.15 * grain[..., None])
    roughness = np.clip(rng.uniform(0.3, 0.7) + 0.12 * grain + 0.1 * spots, 0.08, 0.92)
    return {
        "base_color": base, "height": height, "normal": normal_from_height(height, 0.06),
        "occlusion": occlusion_from_height(height, 0.1), "roughness": roughness, "metallic": metallic,
    }  # fmt: skip


def corpus() -> Iterator[tuple[str, np.ndarray]]:
    """(what it is, codes) of every file of twelve surfaces; packed ones in all six orders."""
    for seed in range(100, 112):
        maps = a_surface(seed)
        x, y, z = (codes_of(maps["normal"][..., k] * 0.5 + 0.5) for k in range(3))
        yield "photo", encode_srgb_codes(np.clip(maps["base_color"], 0, 1).astype(np.float32))
        yield "normal", np.dstack([x, y, z])
        yield "normal", np.dstack([x, y, np.zeros_like(z)])
        yield "occlusion", codes_of(maps["occlusion"])
        yield "height", codes_of(maps["height"])
        yield "roughness", codes_of(maps["roughness"])
        for order in ORDERS:
            yield "packed " + order[0][0] + order[1][0] + order[2][0], np.dstack([codes_of(maps[key]) for key in order])


def answer(codes: np.ndarray) -> str:
    look = look_at("4711.png", codes)
    if look.kind == "packed":
        return "packed " + "".join(key[0] for key in look.reads.values())
    return f"offered {look.guess}" if look.kind == "unknown" and look.guess else look.kind


def test_pixels_alone_are_seldom_taken_for_another_map():
    rows = [(kind, answer(codes)) for kind, codes in corpus()]
    taken_wrongly = [(kind, said) for kind, said in rows if said != kind and not said.startswith(("offered", "unknown"))]
    assert len(taken_wrongly) <= 0.03 * len(rows), Counter(taken_wrongly)
    packed = [kind == said for kind, said in rows if kind.startswith("packed")]
    assert sum(packed) >= 0.9 * len(packed)
    assert all(kind == said for kind, said in rows if kind == "normal")


def test_a_map_in_object_space_is_named_as_such():
    rng = np.random.default_rng(5)
    vectors = rng.normal(size=(6, 6, 3)).repeat(16, 0).repeat(16, 1)
    look = look_at("head_normal.png", codes_of(vectors / np.linalg.norm(vectors, axis=-1, keepdims=True) / 2 + 0.5))
    assert (look.kind, look.reads, look.faults) == ("object_normal", {"RGB": "object_normal"}, ())


def test_a_black_channel_is_not_believed_to_be_occlusion():
    maps = a_surface(101)
    packed = np.dstack([np.zeros((PX, PX), np.uint8), codes_of(maps["roughness"]), codes_of(maps["metallic"])])
    look = look_at("felt_ORM.png", packed)
    assert look.reads == {"G": "roughness", "B": "metallic"} and look.left_unread == (("R", "occlusion"),)


if __name__ == "__main__":
    rows = Counter((kind, answer(codes)) for kind, codes in corpus())
    for (kind, said), count in sorted(rows.items()):
        print(f"{kind:14} read as {said:20} {count}{'' if kind == said else '   <'}")
