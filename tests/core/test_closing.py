"""Closing by a disc, held against a general-purpose library."""

import cv2
import numpy as np
import pytest

from copper_sieve.core.derive.closing import closed_by_disc


@pytest.mark.parametrize("reach", [1, 2, 3, 5, 8])
@pytest.mark.parametrize("shape", [(64, 41), (90, 300)])
def test_it_is_the_closing_of_the_library_to_the_bit(reach, shape):
    values = np.random.default_rng(reach).normal(0, 1, shape).astype(np.float32)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    inner = slice(2 * reach, -2 * reach)
    np.testing.assert_array_equal(closed_by_disc(values, reach), cv2.morphologyEx(values, cv2.MORPH_CLOSE, disc)[inner, inner])


def test_what_was_closed_stays_so():
    values = np.random.default_rng(3).random((60, 60)).astype(np.float32)
    once = closed_by_disc(values, 3)
    np.testing.assert_array_equal(closed_by_disc(once, 3), once[6:-6, 6:-6])
