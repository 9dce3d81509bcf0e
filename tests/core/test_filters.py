"""A wide blur is the plain one, whatever the size: sizes that transform slowly are grown for it."""

import numpy as np
import pytest
from scipy import ndimage

from copper_sieve.core.filters import gaussian
from copper_sieve.core.raster import Edges

MODES = {"wrap": "wrap", "mirror": "reflect"}


@pytest.mark.parametrize("shape", [(1031, 1031), (1031, 1024), (1024, 1031), (90, 150)])
@pytest.mark.parametrize(
    "edges", [Edges(), Edges(x="mirror", y="mirror"), Edges(x="wrap", y="mirror"), Edges(x="mirror", y="wrap")]
)
def test_a_gaussian_is_the_plain_one_at_every_size(shape, edges):
    values = np.random.default_rng(4).random(shape, dtype=np.float32)
    texels = 2.5
    plain = ndimage.gaussian_filter(values.astype(np.float64), texels, mode=[MODES[edges.y], MODES[edges.x]], truncate=8)
    np.testing.assert_allclose(gaussian(values, texels / shape[1], edges), plain, atol=4e-6)
