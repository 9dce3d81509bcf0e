"""What holds for every operation, read off its declaration: a new one is tried here without a line of its own.

The same at two sizes, carried along by a roll, sensible on senseless input, and left at once when nobody waits for it.
"""

from functools import lru_cache
from typing import Any, Literal, get_args, get_origin

import numpy as np
import pytest

from copper_sieve.core.bands import Cancel
from copper_sieve.core.convert.workflow import specular_from_metallic
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import Cancelled
from copper_sieve.core.filters import gaussian, resize
from copper_sieve.core.operation import Operation, Slot
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.quantities import quantity
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Node, Recipe, Source, node_ref, source_ref

SMALL, LARGE, RISE = 256, 1024, 0.03
# A hole's edge, a color range and a cut are steep by nature: what two sizes agree on is where they lie.
STEEP = {"metallic_by_range": 0.03, "emissive_by_range": 0.03, "opacity_by_range": 0.03, "color_bled": 0.04}


def other_choices(annotation: Any, default: Any) -> list[Any]:
    if annotation is bool:
        return [not default]
    return [word for word in get_args(annotation) if word != default] if get_origin(annotation) is Literal else []


def cases_of(operation: Operation) -> list[dict[str, Any]]:
    """The defaults; every example; and rounds in which each choice is another than its default until all have been taken."""
    fields = operation.params.model_fields
    others = {name: found for name, f in fields.items() if (found := other_choices(f.annotation, f.default))}
    rounds = max(map(len, others.values()), default=0)
    examples = {name: f.examples[0] for name, f in fields.items() if f.examples}
    turned = [{name: found[k % len(found)] for name, found in others.items()} | examples for k in range(rounds)]
    return [{}, *([examples] if examples else []), *turned]


CASES = [(key, params) for key, operation in OPERATIONS.items() if operation.slots for params in cases_of(operation)]
NAMES = [f"{key} {params}" for key, params in CASES]
ONCE = [(key, params) for key, params in CASES if not params]


def waves(size: int, seed: int) -> np.ndarray:
    """Smooth, wrapping, up to 24 cycles a width, about ½."""
    rng = np.random.default_rng(seed)
    field = np.zeros((size, size // 2 + 1), np.complex64)
    for _ in range(12):
        across, along, phase = rng.integers(1, 25), rng.integers(-24, 25), rng.random()
        shift = np.exp(2j * np.pi * (phase + (across + along) / (2 * size)))  # texels are sampled at their centers
        field[along, across] += shift / (3 + np.hypot(across, along))
    total = np.fft.irfft2(field, (size, size)) * size * size
    return (0.5 + 0.1 * total).clip(0, 1).astype(np.float32)


@lru_cache
def the_files(size: int) -> dict[str, np.ndarray]:
    height = waves(size, 1)
    color = np.stack([waves(size, 2), waves(size, 3), height], -1)
    metallic = (waves(size, 4) > 0.5).astype(np.float32)
    diffuse, specular = specular_from_metallic(color, metallic)
    return {
        "base_color": color,
        "photo": color * waves(size, 5)[..., None],
        "shaded_color": color * 0.8,
        "height": height,
        "normal": normal_from_height(height, RISE),
        "occlusion": 0.5 + waves(size, 6) * 0.5,
        "opacity": np.clip((waves(size, 7) - 0.5) * 20 + 0.5, 0, 1),
        "roughness": waves(size, 8),
        "curvature": 2 * waves(size, 9) - 1,
        "diffuse": diffuse,
        "specular": specular,
    }


FED = {"gray": "opacity", "mask": "occlusion", "mixed": "height", "given": "roughness"}  # where any quantity will do


def file_for(slot: Slot) -> str:
    return slot.quantity or FED[slot.feed]


def evaluation_of(op: str, params: dict, files: dict[str, np.ndarray], longer: int | None = None) -> Evaluation:
    """A recipe of one node, fed by files that are read as they are."""
    height, width = files["height"].shape
    sources = {
        key: Source(sha256=f"{k:064x}", name=f"{key}.exr", width=width, height=height, depth=32, reads={letters(v): key})
        for k, (key, v) in enumerate(files.items())
    }
    inputs = {slot.key: source_ref(file_for(slot), file_for(slot)) for slot in OPERATIONS[op].slots}
    node = Node(op=op, algorithm=OPERATIONS[op].number, inputs=inputs, params=params)
    recipe = Recipe(facts=Facts(width=width, height=height, rise=RISE), sources=sources, nodes={"n": node})
    return Evaluation(recipe, longer, lambda source: stored(source, files), Cache(1 << 30))


def evaluated(op: str, params: dict, files: dict[str, np.ndarray], longer: int | None = None) -> np.ndarray:
    """What ``op`` makes of files at their own size or at ``longer`` px, of several outputs the first."""
    evaluation = evaluation_of(op, params, files, longer)
    outputs = OPERATIONS[op].outputs
    ref = node_ref("n", outputs[0]) if len(outputs) > 1 else node_ref("n")
    return evaluation.value(ref, evaluation.size)


def letters(values: np.ndarray) -> str:
    return "RGB" if values.ndim == 3 else "L"


def stored(source: Source, files: dict[str, np.ndarray]) -> np.ndarray:
    key = source.name.removesuffix(".exr")
    return files[key] * 0.5 + 0.5 if key == "normal" else files[key]


@pytest.mark.parametrize(("op", "params"), CASES, ids=NAMES)
def test_the_same_at_two_sizes(op, params):
    small, large = (evaluated(op, params, the_files(LARGE), px) for px in (SMALL, LARGE))
    large = resize(large, Size(SMALL, SMALL), "wrap")
    span = 2.0 if small.min() < -0.01 else max(float(np.ptp(large)), 0.2)
    planes = zip(*(np.atleast_3d(v).transpose(2, 0, 1) for v in (small, large)))
    off = [gaussian(np.ascontiguousarray(a - b), 2 / SMALL, "wrap") for a, b in planes]
    assert float(np.sqrt(np.mean(np.square(off)))) <= STEEP.get(op, 0.02) * span


@pytest.mark.parametrize(("op", "params"), CASES, ids=NAMES)
def test_a_rolled_input_gives_the_rolled_result(op, params):
    size, down, right = 128, 32, 48
    files = the_files(size)
    moved = {key: np.roll(values, (down, right), (0, 1)) for key, values in files.items()}
    if "noise" in OPERATIONS[op].params.model_fields:
        params = {**params, "noise": 0}  # noise lies where it lies, whatever the picture
    rolled = {**params}
    if "picks" in params:
        rolled["picks"] = [{**p, "x": (p["x"] + right / size) % 1, "y": (p["y"] + down / size) % 1} for p in params["picks"]]
    here = np.roll(evaluated(op, params, files), (down, right), (0, 1))
    there = evaluated(op, rolled, moved)
    if op == "color_bled":  # which of two texels equally near is taken may differ
        assert float((np.abs(here - there) > 1e-4).mean()) < 0.01
    else:
        np.testing.assert_allclose(there, here, atol=5e-4)


FLAT = {
    "gray": lambda files: {k: np.full_like(v, 0.5) for k, v in files.items()} | {"normal": flat_normal(files)},
    "black": lambda files: {k: np.zeros_like(v) for k, v in files.items()},  # normals are zero vectors then
    "white": lambda files: {k: np.ones_like(v) for k, v in files.items()} | {"normal": flat_normal(files)},
    "one row": lambda files: {k: np.ascontiguousarray(v[:1]) for k, v in files.items()},
    "one texel": lambda files: {k: np.ascontiguousarray(v[:1, :1]) for k, v in files.items()},
}


def flat_normal(files: dict[str, np.ndarray]) -> np.ndarray:
    return np.broadcast_to(np.float32([0, 0, 1]), files["normal"].shape)


@pytest.mark.parametrize("flat", FLAT)
@pytest.mark.parametrize(("op", "params"), CASES, ids=NAMES)
def test_senseless_input_gives_values_in_range(op, params, flat):
    found = evaluated(op, params, FLAT[flat](the_files(64)))
    assert np.isfinite(found).all()
    row = quantity(next(iter(OPERATIONS[op].outputs), "roughness"))
    top = max(row.high, 8.0) if row.key == "emissive" else row.high
    assert found.min() >= row.low - 1e-5 and found.max() <= top + 1e-5
    if row.key == "normal":
        np.testing.assert_allclose(np.linalg.norm(found, axis=-1), 1, atol=1e-4)


@pytest.mark.parametrize(("op", "params"), ONCE, ids=[key for key, _ in ONCE])
def test_nobody_waits_for_what_was_given_up(op, params):
    evaluation, cancel = evaluation_of(op, params, the_files(64)), Cancel()
    load = evaluation.load

    def given_up(source: Source) -> np.ndarray:
        cancel.cancel()
        return load(source)

    evaluation.load, evaluation.cancel = given_up, cancel
    ref = node_ref("n", OPERATIONS[op].outputs[0]) if len(OPERATIONS[op].outputs) > 1 else node_ref("n")
    with pytest.raises(Cancelled):
        evaluation.value(ref, evaluation.size)
        evaluation.value(node_ref("n"), Size(32, 32))


def test_a_declaration_names_only_what_it_has():
    with pytest.raises(ValueError, match="none of its slots"):
        Operation("odd", "odd", np.add, OPERATIONS["mixed"].params, slots=(), outputs=(), of=("dreams",))
