"""Each check on a set that has the fault and on the same set without it."""

import numpy as np
import pytest

from copper_sieve.core.checks.maps import Assayed, Marked, assay
from copper_sieve.core.derive import normal_from_height, occlusion_from_height
from copper_sieve.core.findings import FINDINGS
from copper_sieve.core.raster import Edges
from copper_sieve.demo.materials import _noise

SIZE, RISE = 128, 0.05
HEIGHT = np.clip(0.5 + 0.3 * _noise(SIZE, 5, 6), 0, 1)
NORMAL = normal_from_height(HEIGHT, RISE)
OCCLUSION = occlusion_from_height(HEIGHT, RISE)
GRAIN = _noise(SIZE, 7, 24)
COLOR = np.clip(np.array([0.4, 0.25, 0.15], np.float32) * (1 + 0.2 * GRAIN[..., None]), 0, 1).astype(np.float32)
SOUND = {
    "base_color": COLOR,
    "normal": NORMAL,
    "height": HEIGHT,
    "occlusion": OCCLUSION,
    "roughness": np.clip(0.55 + 0.1 * GRAIN, 0, 1).astype(np.float32),
    "metallic": (GRAIN > 0.8).astype(np.float32),
}


def found(**changed) -> dict[str, Marked]:
    """Findings by id on the sound set with some of its masters changed."""
    masters = {key: np.asarray(values, np.float32) for key, values in {**SOUND, **changed}.items()}
    names = {key: f"{key}.png" for key in masters}
    return {
        m.finding.id: m for m in assay(Assayed(masters, names, masters["normal"], float(masters["metallic"].mean()), Edges()))
    }


FAULTS = {
    "normal-length": {"normal": NORMAL * [1, 1, 0.5]},
    "normal-facing-away": {"normal": -NORMAL},
    "normal-black": {"normal": np.where(np.arange(SIZE)[:, None] < SIZE // 2, NORMAL, -1)},
    "green-misread": {"normal": NORMAL * [1, -1, 1]},
    "height-against-normal": {"height": 1 - HEIGHT},
    "normal-mirrored": {"normal": NORMAL * [-1, 1, 1]},
    "axes-swapped": {"normal": NORMAL[..., [1, 0, 2]]},
    "metal-between": {"metallic": np.clip(0.5 + 0.1 * GRAIN, 0, 1)},
    "mirror-like": {"roughness": np.clip(0.1 + 0.02 * GRAIN, 0, 1)},
    "color-dark": {"base_color": COLOR * 0.02},
    "color-bright": {"base_color": 0.95 + 0.05 * COLOR},
    "color-vivid": {"base_color": np.broadcast_to([0.0, 0.0, 1.0], COLOR.shape)},
    "light-in-color": {"base_color": COLOR * OCCLUSION[..., None] ** 2},
    "same-picture": {"metallic": SOUND["roughness"]},
    "one-value": {"roughness": np.full_like(HEIGHT, 0.5)},
}


def test_a_sound_set_is_met_with_silence():
    assert found() == {}


@pytest.mark.parametrize("id", FAULTS)
def test_each_fault_is_found(id):
    assert id in found(**FAULTS[id])


def test_what_is_left_black_is_not_called_inverted_or_too_long():
    black = np.where(np.arange(SIZE)[:, None, None] < SIZE // 4, NORMAL, np.float32([-1, 1, -1]))
    assert set(found(normal=black)) & {"normal-black", "normal-facing-away", "normal-length"} == {"normal-black"}


def test_a_place_is_where_the_fault_is():
    metallic = SOUND["metallic"].copy()
    metallic[:48, 80:] = 0.5
    metallic[48:, :] = np.where(np.arange(SIZE) % 5 == 0, 0.5, metallic[48:, :])
    marked = found(metallic=metallic)["metal-between"]
    left, top, right, bottom = marked.finding.where or (0, 0, 0, 0)
    assert (left, top) == (0.625, 0.0) and right == 1.0 and bottom == 0.375
    assert marked.mask is not None and marked.mask.sum() > 48 * 48


def test_every_sentence_can_be_said():
    for id, row in FINDINGS.items():
        assert row.grade in ("stop", "look", "note") and row.text.strip() and row.text[-1] in ".}?", id
