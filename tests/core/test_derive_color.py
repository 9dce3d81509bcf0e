"""Height and roughness from color: edges, sizes, what the parameters promise."""

import numpy as np
import pytest

from copper_sieve.core.derive import HeightFromColor, RoughnessFromColor, height_from_color, roughness_from_color
from copper_sieve.core.filters import gaussian, resize
from copper_sieve.core.raster import Size


def picture(size: int) -> np.ndarray:
    """Nothing finer than 16 cycles per width, so that sizes may be compared."""
    x, y = np.meshgrid(*[(np.arange(size) + 0.5) / size] * 2)
    shade = 0.4 + 0.2 * np.sin(2 * np.pi * 5 * x) * np.sin(2 * np.pi * 3 * y) + 0.1 * np.cos(2 * np.pi * (16 * x + 9 * y))
    return np.stack([shade, shade * 0.8, shade * 0.6], -1).astype(np.float32)


@pytest.mark.parametrize("derive", [height_from_color, roughness_from_color])
def test_rolled_input_gives_rolled_result(derive):
    color = np.random.default_rng(3).random((48, 80, 3)).astype(np.float32)
    rolled = derive(np.roll(color, (9, 31), (0, 1)))
    np.testing.assert_allclose(rolled, np.roll(derive(color), (9, 31), (0, 1)), atol=2e-4)


@pytest.mark.parametrize("derive", [height_from_color, roughness_from_color])
def test_the_same_picture_at_another_size_gives_the_same_map(derive):
    small, large = derive(picture(256)), derive(picture(1024))
    large = resize(large, Size(256, 256), "wrap")
    small, large = gaussian(small, 2 / 256, "wrap"), gaussian(large, 2 / 256, "wrap")
    assert np.sqrt(np.mean((small - large) ** 2)) <= 0.02 * np.ptp(large)


def test_light_is_high_unless_dark_is():
    height = height_from_color(picture(128))
    lightness = picture(128)[..., 0]
    assert np.corrcoef(height.ravel(), lightness.ravel())[0, 1] > 0.9
    turned = height_from_color(picture(128), params=HeightFromColor(invert=True))
    assert np.corrcoef(turned.ravel(), lightness.ravel())[0, 1] < -0.9


def test_roughness_has_the_stated_mean_and_spread():
    rough = roughness_from_color(picture(256), params=RoughnessFromColor(mean=0.4, spread=0.1))
    assert rough.mean() == pytest.approx(0.4, abs=0.02)
    assert rough.std() == pytest.approx(0.1, abs=0.025)
