"""Values stated for spots go to what looks like them."""

import numpy as np
import pytest

from copper_sieve.core.derive.likeness import fit_likeness, likeness_features, roughness_by_likeness
from copper_sieve.core.derive.pick_fit import Pick
from copper_sieve.core.filters import gaussian

SIZE = 96
RNG = np.random.default_rng(5)
ROUND = gaussian(RNG.standard_normal((SIZE, SIZE)).astype(np.float32), 0.05, "wrap")
WET = ROUND > np.quantile(ROUND, 0.7)
GROUND = np.where(WET[..., None], np.float32([0.05, 0.06, 0.08]), np.float32([0.3, 0.25, 0.2]))
GROUND = (GROUND * (1 + 0.1 * RNG.standard_normal((SIZE, SIZE, 1)))).clip(0, 1).astype(np.float32)
TRUTH = np.where(WET, 0.08, 0.85)


def pick(where: np.ndarray, value: float, seed: int) -> Pick:
    y, x = np.argwhere(where)[np.random.default_rng(seed).integers(where.sum())]
    return Pick(x=(x + 0.5) / SIZE, y=(y + 0.5) / SIZE, value=value)


@pytest.mark.parametrize("seed", range(5))
def test_one_pair_beats_the_best_constant(seed):
    features = likeness_features(GROUND, "wrap")
    made = roughness_by_likeness(features, fit_likeness(features, (pick(WET, 0.08, seed), pick(~WET, 0.85, seed))))
    best = np.abs(TRUTH - np.median(TRUTH)).mean()
    assert np.abs(made - TRUTH).mean() < 0.6 * best


@pytest.mark.parametrize("seed", range(3))
def test_nothing_leaves_the_range_of_what_was_picked(seed):
    features = likeness_features(RNG.random((SIZE, SIZE, 3)).astype(np.float32), "wrap")
    picks = [pick(WET, value, seed + k) for k, value in enumerate((0.3, 0.5, 0.62))]
    made = roughness_by_likeness(features, fit_likeness(features, picks))
    assert 0.3 <= made.min() and made.max() <= 0.6201


def test_without_picks_it_is_one_value_and_one_pick_is_that_value_everywhere():
    features = likeness_features(GROUND, "wrap")
    assert np.ptp(roughness_by_likeness(features, fit_likeness(features, ()))) == 0
    one = roughness_by_likeness(features, fit_likeness(features, (pick(WET, 0.2, 1),)))
    np.testing.assert_allclose(one, 0.2, atol=1e-6)


def test_picks_of_one_color_that_say_different_things_are_off():
    features = likeness_features(GROUND, "wrap")
    fit = fit_likeness(features, (pick(WET, 0.1, 1), pick(WET, 0.9, 2)))
    assert max(map(abs, fit.residuals)) > 0.3


def test_doubt_is_none_at_a_pick_and_whole_where_nothing_like_it_was_picked():
    half = np.zeros((16, 32, 3), np.float32)
    half[:, 16:] = 0.5
    features = likeness_features(half, "mirror")
    doubt = fit_likeness(features, (Pick(x=0.1, y=0.5, value=0.2),)).doubt(features)
    assert doubt[:, :12].max() < 0.05 and doubt[:, 20:].min() > 0.5
    assert (fit_likeness(features, ()).doubt(features) == 1).all()
