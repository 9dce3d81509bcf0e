"""Noise of a photo, told from its picture."""

import io

import numpy as np
import pytest
from PIL import Image

from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive.grain import noise_by_size
from copper_sieve.core.filters import gaussian

SIZE = 512


def stones(fine: float) -> np.ndarray:
    """Sharp to ``fine``, as a lens passes it: nothing at the finest waves."""
    rng = np.random.default_rng(3)
    relief = sum(gaussian(rng.standard_normal((SIZE, SIZE)).astype(np.float32), fine * 2**k, "wrap") * 2**k for k in range(5))
    return np.clip(0.35 + 0.1 * relief / relief.std(), 0, 1)[..., None] * np.ones(3, np.float32)


def test_what_a_lens_saw_is_no_noise_and_what_a_sensor_added_is():
    clean = stones(0.002)
    assert noise_by_size(clean)[-1] < 0.1
    rng = np.random.default_rng(4)
    shares = []
    for deviation in (0.005, 0.02, 0.08):
        shares.append(noise_by_size((clean + rng.normal(0, deviation, (SIZE, SIZE, 1))).astype(np.float32).clip(0, 1))[-1])
    assert shares == sorted(shares) and shares[-1] > 0.5


@pytest.mark.parametrize(("quality", "blocks"), [(95, False), (15, True)])
def test_blocks_of_a_jpeg_count(quality, blocks):
    held = io.BytesIO()
    codes = (np.clip(stones(0.004), 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)
    Image.fromarray(codes).save(held, "JPEG", quality=quality)
    photo = linear_from_srgb_codes(np.asarray(Image.open(held)))
    before = noise_by_size(linear_from_srgb_codes(codes))[-1]
    assert (noise_by_size(photo)[-1] > before + 0.3) == blocks


def test_nothing_is_said_of_what_is_too_small():
    assert noise_by_size(np.random.default_rng(1).random((16, 20, 3)).astype(np.float32)) == (0.0,) * 5
