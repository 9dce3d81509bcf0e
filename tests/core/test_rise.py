"""How far a height rises, from its normals: right over filters, sizes, depths and edges; not believed where they do not fit."""

import numpy as np
import pytest

from copper_sieve.core.convert.rise import measured_rise
from copper_sieve.core.derive import NormalFromHeight, normal_from_height
from copper_sieve.core.errors import ShapeMismatch
from copper_sieve.core.raster import Edges

WRAP = Edges(x="wrap", y="wrap")


def hills(rows: int, columns: int) -> np.ndarray:
    y, x = np.mgrid[:rows, :columns] / columns
    tall = rows / columns
    waves = np.sin(2 * np.pi * (3 * x + np.sin(2 * np.pi * y / tall) / 3)) + np.cos(2 * np.pi * 5 * y / tall) * np.sin(
        4 * np.pi * x
    )
    return ((waves - waves.min()) / np.ptp(waves)).astype(np.float32)


@pytest.mark.parametrize("rise", [0.003, 0.035, 0.4, 1.0])
@pytest.mark.parametrize("shape", [(128, 128), (256, 256), (128, 256), (256, 128)])
def test_the_rise_that_made_the_normals_comes_back(rise, shape):
    height = hills(*shape)
    found = measured_rise(normal_from_height(height, rise, WRAP), height, WRAP)
    assert found.is_believed and found.rise == pytest.approx(rise, rel=0.05) and found.fit > 0.98


@pytest.mark.parametrize("filter", ["central", "sobel3", "scharr3", "scharr5"])
def test_whatever_filter_made_them(filter):
    if filter not in NormalFromHeight.model_fields["filter"].annotation.__args__:
        pytest.skip("not a filter of ours")
    height = hills(256, 256)
    normal = normal_from_height(height, 0.05, WRAP, params=NormalFromHeight(filter=filter))
    assert measured_rise(normal, height, WRAP).rise == pytest.approx(0.05, rel=0.05)


def test_eight_bits_of_both_tell_it_still():
    height = hills(256, 256)
    normal = normal_from_height(height, 0.05, WRAP)
    stored = np.round((normal * 0.5 + 0.5) * 255) / 127.5 - 1
    found = measured_rise(stored.astype(np.float32), (np.round(height * 255) / 255).astype(np.float32), WRAP)
    assert found.is_believed and found.rise == pytest.approx(0.05, rel=0.1)


def test_edges_that_do_not_repeat_are_no_slope():
    height = hills(128, 128)[:, :100].copy()
    edges = Edges(x="mirror", y="wrap")
    assert measured_rise(normal_from_height(height, 0.05, edges), height, edges).rise == pytest.approx(0.05, rel=0.05)


def test_files_that_contradict_or_say_nothing_are_not_believed():
    height = hills(128, 128)
    normal = normal_from_height(height, 0.05, WRAP)
    inverted = measured_rise(normal, 1 - height, WRAP)
    assert not inverted.is_believed and inverted.fit < -0.9
    elsewhere = measured_rise(np.roll(normal, (31, 47), (0, 1)), height, WRAP)
    assert not elsewhere.is_believed
    flat = np.full((128, 128), 0.5, np.float32)
    assert not measured_rise(normal, flat, WRAP).is_believed
    assert not measured_rise(normal_from_height(flat, 0.05, WRAP), height, WRAP).is_believed
    assert not measured_rise(normal_from_height(height, 1.0, WRAP, params=NormalFromHeight(strength=3)), height, WRAP).is_believed
    with pytest.raises(ShapeMismatch):
        measured_rise(normal, height[:64], WRAP)
