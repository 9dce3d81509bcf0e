"""Which way is green: never wrong, seldom unsure where it can be told, and unsure where nobody can."""

import numpy as np
import pytest
from green_maps import STORED, bumps, known_maps, noise, stored_map, whole_maps, worn_maps

from copper_sieve.core.convert import which_green
from copper_sieve.core.convert.normal_faults import (
    against_height,
    block_period,
    is_swapped,
    telling_patch,
)
from copper_sieve.core.intake import look_at
from copper_sieve.files import read
from real_files import REAL


def test_it_is_never_wrong_and_seldom_unsure():
    maps = list(known_maps((64, 128, 256), range(5)))
    assert len(maps) >= 400
    answers = [(m, which_green(m.codes).answer) for m in maps]
    wrong = [m.name for m, answer in answers if answer not in ("unsure", m.green)]
    assert wrong == []
    telling = [(m, answer) for m, answer in answers if m.tells]
    unsure = [m.name for m, answer in telling if answer == "unsure"]
    assert len(telling) > 150 and len(unsure) <= 0.05 * len(telling), unsure


def real_maps() -> dict[str, tuple[np.ndarray, str]]:
    """The middle of real normal maps beside this checkout, with the way that the whole map tells."""
    found = {}
    for path in sorted(REAL.rglob("*")) if REAL.is_dir() else ():
        if path.suffix not in (".png", ".tga") or not ("normal" in path.name or "_nm." in path.name):
            continue
        codes = read(path).codes[..., :3]
        codes = ((codes.astype(np.uint32) + 128) // 257).astype(np.uint8) if codes.dtype == np.uint16 else codes
        if min(codes.shape[:2]) >= 128 and (answer := which_green(codes).answer) != "unsure":
            found[path.name] = (codes[:512, :512].copy(), answer)
    return found


def test_worn_maps_are_never_read_wrongly_and_seldom_left_open():
    for whole, most in ((whole_maps(range(4)), 0.035), (real_maps(), 0.25)):  # one real map is brushed: nearly one-dimensional
        answers = [(name, green, look_at("s_normal.png", codes).green.answer) for name, codes, green in worn_maps(whole)]
        assert [row for row in answers if row[2] not in ("unsure", row[1])] == []
        unsure = [name for name, _, answer in answers if answer == "unsure"]
        assert len(unsure) <= most * len(answers), unsure


X, Y = np.meshgrid((np.arange(128) + 0.5) / 128, (np.arange(128) + 0.5) / 128)
UNTELLABLE = {
    "flat": (0 * X, 0 * X),
    "one-dimensional": (0.4 * np.cos(40 * X), 0 * X),
    "separable": (0.4 * np.cos(2 * np.pi * 6 * X), 0.4 * np.sin(2 * np.pi * 9 * Y)),
}


@pytest.mark.parametrize("how", STORED)
@pytest.mark.parametrize("surface", UNTELLABLE)
def test_what_nobody_can_tell_is_unsure(surface, how):
    codes, _ = stored_map(*UNTELLABLE[surface], "up", how)
    assert which_green(codes).answer == "unsure"


def a_surface(seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """Height and Y+ normals of one surface, the normals by hand-worked derivatives."""
    rng = np.random.default_rng(seed)
    modes = [(*rng.integers(-9, 10, 2), rng.random() * 6.28) for _ in range(30)]
    waves = [(fx, fy, 2 * np.pi * (fx * X + fy * Y) + u, 1 / max(1, fx * fx + fy * fy)) for fx, fy, u in modes]
    height = sum(a * np.sin(w) for _, _, w, a in waves)
    p, q = sum(a * fx * np.cos(w) for fx, _, w, a in waves), sum(a * fy * np.cos(w) for _, fy, w, a in waves)
    normal = np.stack([-0.2 * p, 0.2 * q, np.ones_like(p)], -1)
    return height.astype(np.float32), (normal / np.linalg.norm(normal, axis=-1, keepdims=True)).astype(np.float32)


HEIGHT, NORMAL = a_surface()
BESIDE_HEIGHT = {
    "agrees": NORMAL,
    "green": NORMAL * [1, -1, 1],
    "mirrored": NORMAL * [-1, 1, 1],
    "inverted": NORMAL * [-1, -1, 1],
    "unsure": np.roll(NORMAL, (37, 51), (0, 1)),
}


@pytest.mark.parametrize("said", BESIDE_HEIGHT)
def test_a_height_tells_a_mirrored_x_and_an_inverted_height_apart(said):
    assert against_height(BESIDE_HEIGHT[said].astype(np.float32), HEIGHT).verdict == said


def test_swapped_axes_are_told_and_only_those():
    assert is_swapped(NORMAL[..., [1, 0, 2]])
    assert not is_swapped(NORMAL)
    for kind in (bumps, noise):
        for seed in range(6):
            p, q = kind(128, np.random.default_rng(seed))
            codes, _ = stored_map(p / p.std() * 0.3, q / p.std() * 0.3, "down", "8 bit")
            assert not is_swapped(codes) and is_swapped(codes[..., [1, 0, 2]])
    for surface in UNTELLABLE.values():
        assert not is_swapped(stored_map(*surface, "up", "8 bit")[0])


def test_traces_of_block_compression_are_found_in_a_lossless_file():
    p, q = noise(128, np.random.default_rng(4))
    codes = {how: stored_map(p / p.std() * 0.3, q / p.std() * 0.3, "up", how)[0] for how in STORED}
    assert {how: block_period(c) for how, c in codes.items()} == {"8 bit": None, "jpeg 60": 8, "block-compressed": 4}


def test_the_telling_patch_is_where_the_surface_is():
    normal = np.zeros((128, 128, 3), np.float32)
    normal[..., 2] = 1
    normal[64:, :64] = NORMAL[64:, :64]
    left, top, right, bottom = telling_patch(normal)
    assert right <= 0.5 and top >= 0.5 and 0 < right - left <= 0.26 and 0 < bottom - top <= 0.26


if __name__ == "__main__":
    for told, whole in (("made-up", whole_maps(range(4))), ("real", real_maps())):
        rows = [(name, green, look_at("s_normal.png", codes).green.answer) for name, codes, green in worn_maps(whole)]
        wrong = sum(answer not in ("unsure", green) for _, green, answer in rows)
        unsure = [name for name, _, answer in rows if answer == "unsure"]
        print(f"{told} worn maps: {len(rows)}, wrong {wrong}, unsure {len(unsure)}: {'; '.join(unsure)}")


@pytest.mark.parametrize("shape", [(1, 1), (1, 40), (40, 1), (2, 3)])
def test_maps_one_texel_thin_are_answered_and_never_accused(shape: tuple[int, int]):
    rng = np.random.default_rng(4)
    normal, height = rng.integers(0, 256, (*shape, 3)).astype(np.uint8), rng.random(shape).astype(np.float32)
    assert which_green(normal).answer == "unsure"
    assert against_height(normal, height).verdict == "unsure"
    assert not is_swapped(normal)
    assert all(0 <= side <= 1 for side in telling_patch(normal))
