"""Picks: met, turned round where dark is high, silent where they contradict, and the same at any size."""

import numpy as np
import pytest

from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive.pick_fit import PLAIN, Pick, color_spectra, fit_picks, pick_features
from copper_sieve.core.derive.picks import height_by_picks, mask_by_picks
from copper_sieve.core.filters import resize
from copper_sieve.core.raster import Size
from copper_sieve.demo.materials import _noise

N = 128
RELIEF, SPOTS = _noise(N, 3, 5), _noise(N, 4, 3)
HUES = np.where(SPOTS[..., None] > 0, np.float32([0.75, 0.55, 0.2]), np.float32([0.15, 0.2, 0.35]))


def spot(mask: np.ndarray, value: float, seed: int) -> Pick:
    rows = np.argwhere(mask)
    y, x = rows[np.random.default_rng(seed).integers(len(rows))]
    return Pick(x=(x + 0.5) / N, y=(y + 0.5) / N, value=value)


def slope_correlation(a: np.ndarray, b: np.ndarray) -> float:
    first, second = (np.concatenate([part.ravel() for part in np.gradient(v)]) for v in (a, b))
    return float(np.corrcoef(first, second)[0, 1])


def test_doubt_is_least_where_something_like_it_was_picked():
    dotted, y, x = np.zeros((64, 64, 3), np.float32), *np.mgrid[:64, :64]
    red, blue = ((np.hypot(x - at[0], y - at[1]) < 5) for at in ((16, 16), (48, 44)))
    dotted[red], dotted[blue] = (0.5, 0.05, 0.05), (0.05, 0.05, 0.5)
    found = pick_features(color_spectra(dotted, "wrap"))
    picks = (Pick(x=0.25, y=0.25, value=0.9), Pick(x=0.75, y=0.1, value=0.1))
    doubt = fit_picks(found, picks, PLAIN["height"]).doubt(found)
    assert doubt.shape == (64, 64) and 0 <= doubt.min() and doubt.max() <= 1
    assert doubt[16, 16] < 0.01 > doubt[6, 48] and doubt[44, 48] > 0.5
    assert (fit_picks(found, (), PLAIN["height"]).doubt(found) == 1).all()


def test_without_picks_light_is_high():
    picture = np.clip(0.3 + 0.1 * RELIEF, 0, 1)[..., None] * np.ones(3, np.float32)
    spectra = color_spectra(picture.astype(np.float32), "wrap")
    height = height_by_picks(spectra, fit_picks(pick_features(spectra), (), PLAIN["height"]))
    assert slope_correlation(height, RELIEF) > 0.7


@pytest.mark.parametrize("seed", range(6))
def test_one_high_and_one_low_turn_a_picture_whose_dark_is_high(seed):
    picture = np.clip(0.3 - 0.1 * RELIEF, 0.01, 1)[..., None] * np.ones(3, np.float32)
    spectra = color_spectra(picture.astype(np.float32), "wrap")
    picks = (spot(np.quantile(RELIEF, 0.95) < RELIEF, 0.9, seed), spot(np.quantile(RELIEF, 0.05) > RELIEF, 0.1, seed))
    fit = fit_picks(pick_features(spectra), picks, PLAIN["height"])
    assert slope_correlation(height_by_picks(spectra, fit), RELIEF) > 0.7
    assert max(map(abs, fit.residuals)) < 0.05


def test_metal_is_told_from_cloth_by_two_picks_each():
    picture = (HUES * (1 + 0.1 * RELIEF[..., None])).clip(0, 1).astype(np.float32)
    spectra = color_spectra(picture, "wrap")
    far = np.abs(SPOTS) > 0.5 * np.abs(SPOTS).max()
    picks = [spot((SPOTS > 0) & far, 1.0, k) for k in range(2)] + [spot((SPOTS < 0) & far, 0.0, k) for k in range(2)]
    mask = mask_by_picks(spectra, fit_picks(pick_features(spectra), picks, PLAIN["mask"]))
    assert float(((mask > 0.5) == (SPOTS > 0)).mean()) > 0.93


def test_picks_that_contradict_each_other_are_missed_and_say_so():
    picture = (HUES * (1 + 0.1 * RELIEF[..., None])).clip(0, 1).astype(np.float32)
    place = spot(SPOTS > 0.2, 1.0, 1)
    fit = fit_picks(
        pick_features(color_spectra(picture, "wrap")), (place, place.model_copy(update={"value": 0.0})), PLAIN["mask"]
    )
    assert sorted(abs(r) for r in fit.residuals)[0] > 0.3


def test_a_flat_picture_gives_a_flat_height():
    flat = linear_from_srgb_codes(np.full((32, 32, 3), 90, np.uint8))
    spectra = color_spectra(flat, "wrap")
    fit = fit_picks(pick_features(spectra), (Pick(x=0.5, y=0.5, value=0.9),), PLAIN["height"])
    height = height_by_picks(spectra, fit)
    assert np.isfinite(height).all() and float(np.ptp(height)) < 1e-3


def test_the_same_fit_at_another_size_gives_the_same_map():
    big = np.clip(0.3 + 0.1 * _noise(256, 3, 5, octaves=2), 0, 1)[..., None] * np.ones(3, np.float32)
    small = resize(big.astype(np.float32), Size(N, N), "wrap")
    fit = fit_picks(pick_features(color_spectra(small, "wrap")), (Pick(x=0.3, y=0.4, value=0.9),), PLAIN["height"])
    at = {n: height_by_picks(color_spectra(p.astype(np.float32), "wrap"), fit) for n, p in ((N, small), (256, big))}
    assert float(np.sqrt(np.mean((resize(at[256], Size(N, N), "wrap") - at[N]) ** 2))) < 0.02
