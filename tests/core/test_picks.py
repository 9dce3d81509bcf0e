"""Picks: met, turned round where dark is high, silent where they contradict, brushed, and the same at any size."""

import numpy as np
import pytest

from copper_sieve.core.bands import NEVER
from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive.alike import OPERATIONS as MASKS
from copper_sieve.core.derive.alike import alike_features, fit_alike, mask_alike
from copper_sieve.core.derive.likeness import fit_likeness, likeness_features, roughness_by_likeness
from copper_sieve.core.derive.pick_fit import (
    _PULLS,
    PLAIN,
    Pick,
    _best,
    _is_turned,
    color_spectra,
    fit_picks,
    pick_features,
    picked,
)
from copper_sieve.core.derive.picks import MaskByPicks, height_by_picks, mask_by_picks
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


def brushed(mask: np.ndarray, at: Pick, stroke: int, count: int = 12) -> list[Pick]:
    """A spot brushed about ``at``, along texels of ``mask``."""
    rows = np.argwhere(mask)
    near = rows[np.argsort(np.hypot(rows[:, 0] - at.y * N, rows[:, 1] - at.x * N))[: 4 * count : 4]]
    return [Pick(x=(x + 0.5) / N, y=(y + 0.5) / N, value=at.value, stroke=stroke) for y, x in near]


def test_brushed_spots_tell_more_than_clicks_in_them():
    lit = 0.3 - 0.1 * RELIEF + 0.05 * _noise(N, 9, 40)  # dark is high, under grain that a click may land on
    spectra = color_spectra((np.clip(lit, 0.01, 1)[..., None] * np.ones(3)).astype(np.float32), "wrap")
    found, near = pick_features(spectra), []
    regions = ((np.quantile(RELIEF, 0.9) < RELIEF, 0.9), (np.quantile(RELIEF, 0.1) > RELIEF, 0.1))
    for seed in range(8):
        clicks = [spot(mask, value, seed) for mask, value in regions]
        strokes = [brushed(mask, at, k) for k, ((mask, _), at) in enumerate(zip(regions, clicks))]
        fits = (fit_picks(found, picks, PLAIN["height"]) for picks in (clicks, [*strokes[0], *strokes[1]]))
        near.append([slope_correlation(height_by_picks(spectra, fit), RELIEF) for fit in fits])
    clicked, told = np.median(near, 0)
    assert told > clicked + 0.02, (told, clicked)


def test_how_hard_a_fit_is_pulled_is_told_by_whole_spots_left_out():
    random = np.random.default_rng(3)
    matrix, said, pulls = random.normal(size=(9, 4)), random.normal(size=9), np.array([0.05, 1, 1, 6])
    owners = np.array([0, 1, 1, 1, 2, 3, 3, 4, 4])

    def solution(rows: np.ndarray, pull: float) -> np.ndarray:
        part = matrix[rows]
        return np.linalg.solve(part.T @ part + np.diag(pull * pulls), part.T @ said[rows])

    def missed(pull: float) -> float:
        ways = [np.abs(said[owners == k] - matrix[owners == k] @ solution(owners != k, pull)) for k in range(5)]
        return float(np.concatenate(ways).mean())

    best = min(_PULLS, key=missed)
    np.testing.assert_allclose(_best(matrix, said, pulls, owners), solution(owners >= 0, best), atol=1e-9)


@pytest.mark.parametrize(("spots", "is_turned"), [(range(24), True), ([0] * 12 + [1] * 12, False)])
def test_texels_of_one_stroke_are_no_evidence_of_each_other(spots, is_turned):
    wanted = np.repeat([0.9, 0.1], 12)
    witness = np.repeat([-0.4, 0.4], 12)  # what was called high is darker, by less than the picture spreads
    assert _is_turned(wanted, witness, np.array(spots), 1.0, 1.2) is is_turned


def test_roughness_hears_every_texel_of_a_brushed_spot_at_the_cost_of_a_few():
    two = np.zeros((64, 64, 3), np.float32)
    two[32:] = 0.4, 0.2, 0.1
    features = likeness_features(two, "wrap")
    at = Pick(x=0.5, y=0.25, value=0.2)
    said = [Pick(x=x, y=at.y, value=at.value, stroke=0) for x in np.linspace(0.1, 0.6, 12)]
    said.append(Pick(x=0.5, y=0.75, value=0.8))
    each = fit_likeness(features, [pick.model_copy(update={"stroke": None}) for pick in said])
    fit = fit_likeness(features, said)
    assert len(fit.values) == 2 and fit.counts.tolist() == [12, 1]
    np.testing.assert_allclose(roughness_by_likeness(features, fit), roughness_by_likeness(features, each), atol=1e-5)
    varied = features + np.random.default_rng(1).normal(0, 0.02, features.shape).astype(np.float32)
    assert len(fit_likeness(varied, said).values) == 5 and fit_likeness(varied, said).counts.sum() == 13


@pytest.mark.parametrize("value", [0.1, 0.9])
@pytest.mark.parametrize("strokes", [1, 3])
def test_one_word_alone_leaves_the_middle_and_raises_what_is_like_it(value, strokes):
    """Before a low spot is shown, nothing is drowned by the high one; picks of one word contradict nothing either."""
    spectra = color_spectra(linear_from_srgb_codes((255 * HUES * (0.9 + 0.1 * RELIEF[..., None])).astype(np.uint8)), "wrap")
    found, plain = pick_features(spectra), PLAIN["height"]
    mask = SPOTS > 0.2
    told = [pick for k in range(strokes) for pick in brushed(mask, spot(mask, value, k), k)]
    fit, before = fit_picks(found, told, plain, waits=True), picked(spectra, fit_picks(found, (), plain))
    now = picked(spectra, fit)
    low, high = np.quantile(height_by_picks(spectra, fit), (0.2, 0.8))
    assert abs(float(now.mean()) - 0.5) < 0.02 and low < 0.35 and high > 0.65
    toward = (now - before)[mask].mean() * np.sign(value - 0.5)
    assert toward > 0.1 and fit.worst == 0 and fit.is_waiting
    other = brushed(SPOTS < -0.2, spot(SPOTS < -0.2, 1 - value, 0), 9)
    heard, first = (fit_picks(found, [*told, *other], plain, waits=waits) for waits in (True, False))
    assert heard.weights == first.weights and not heard.is_waiting  # with the other word it is as it was, but for the middle


@pytest.mark.parametrize("value", [0.1, 0.9])
def test_few_spots_say_little_of_the_middle(value):
    """One bright and one dark spot of gray gravel: most of it was cut off at one end."""
    gravel = np.clip(0.35 + 0.12 * RELIEF - 0.3 * (SPOTS < -0.6), 0.02, 1)[..., None] * np.float32([1, 0.97, 0.92])
    spectra = color_spectra(gravel.astype(np.float32), "wrap")
    found, mask = pick_features(spectra), np.quantile(RELIEF, 0.95) < RELIEF
    few = [spot(mask, value, 1), spot(SPOTS < -0.6, 1 - value, 2)]
    many = [spot(*told, seed) for seed in range(20) for told in ((mask, value), (SPOTS < -0.6, 1 - value))]
    for picks, share in ((few, 0.2), (many, 5 / 6)):
        heard, first = (fit_picks(found, picks, PLAIN["height"], waits=waits) for waits in (True, False))
        assert heard.offset - 0.5 == pytest.approx(share * (first.offset - 0.5)) and heard.weights == first.weights
    assert 0.4 < float(height_by_picks(spectra, fit_picks(found, few, PLAIN["height"], waits=True)).mean()) < 0.6


BY_PICKS = {one.key: one for one in MASKS}


def mask_of(name: str, color: np.ndarray, picks: list[Pick], grown: int = 1) -> np.ndarray:
    """What a mask's operation makes, at ``grown`` times the size that the picks are read at."""
    fit = fit_alike(alike_features(color_spectra(color, "wrap")), picks)
    assert fit.worst < 0.01
    large = alike_features(color_spectra(np.repeat(np.repeat(color, grown, 0), grown, 1), "wrap"))
    return BY_PICKS[name].make(large, fit, params=MaskByPicks(), cancel=NEVER)[::grown, ::grown]


@pytest.mark.parametrize("brush", [False, True])
@pytest.mark.parametrize("grown", [1, 2])
def test_a_mask_of_one_word_is_what_looks_like_it(brush, grown):
    """“Metal” said once made metal of most of a picture; now it is what has that color, lighter or darker, at any size."""
    color = (HUES * (0.85 + 0.15 * RELIEF[..., None])).clip(0.02, 1).astype(np.float32)
    gold, blue = SPOTS > 0.3, SPOTS < -0.3
    said = brushed(gold, spot(gold, 1.0, 4), 0) if brush else [spot(gold, 1.0, 4)]
    metal = mask_of("metallic_by_picks", color, said, grown)
    assert metal[gold].mean() > 0.9 and metal[blue].max() < 0.05
    hole = [pick.model_copy(update={"value": 0.0}) for pick in said]
    np.testing.assert_array_equal(mask_of("opacity_by_picks", color, hole, grown), 1 - metal)
    assert (mask_of("metallic_by_picks", color, hole, grown) == 0).all()  # nothing is metal that was not said to be
    assert (mask_of("opacity_by_picks", color, said, grown) == 1).all()
    both = [*said, spot(blue, 0.0, 5)]
    drawn = mask_of("metallic_by_picks", color, both, grown)
    assert drawn[gold].mean() > 0.98 and drawn[blue].mean() < 0.02


def test_a_mask_of_both_words_goes_by_the_nearer_and_forgives_slips_of_a_stroke():
    color = (HUES * (0.85 + 0.15 * RELIEF[..., None])).clip(0.02, 1).astype(np.float32)
    gold, blue = SPOTS > 0.3, SPOTS < -0.3
    features = alike_features(color_spectra(color, "wrap"))
    strokes = [brushed(gold, spot(gold, 1.0, 4), 0), brushed(blue, spot(blue, 0.0, 5), 1)]
    slipped = [strokes[0][-1].model_copy(update={"x": strokes[1][0].x, "y": strokes[1][0].y}), *strokes[0][:-1], *strokes[1]]
    for said in ([*strokes[0], *strokes[1]], slipped):
        fit = fit_alike(features, said)
        mask = mask_alike(features, fit, 0.35)
        assert mask[gold].mean() > 0.98 and mask[blue].mean() < 0.02
        assert fit.worst < 0.01
    both = [said[0], said[0].model_copy(update={"value": 0.0, "stroke": None})]
    assert fit_alike(features, both).worst > 0.3  # of two clicks on one spot, one must be wrong


def test_doubt_of_a_mask_is_what_nothing_was_said_of():
    color = (HUES * (0.85 + 0.15 * RELIEF[..., None])).clip(0.02, 1).astype(np.float32)
    features = alike_features(color_spectra(color, "wrap"))
    doubt = fit_alike(features, [spot(SPOTS > 0.3, 1.0, 4)]).doubt(features)
    assert doubt[SPOTS > 0.3].mean() < 0.2 < 0.8 < doubt[SPOTS < -0.3].mean()
    assert (fit_alike(features, ()).doubt(features) == 1).all()


def test_a_mask_of_one_word_holds_over_an_area_wider_than_any_detail():
    halves = np.full((N, N, 3), (0.3, 0.05, 0.02), np.float32)
    halves[:, N // 2 :] = 0.05, 0.1, 0.3
    mask = mask_of("metallic_by_picks", halves, [Pick(x=0.25, y=0.5, value=1)])
    assert mask[:, 2 : N // 2 - 2].min() > 0.95 and mask[:, N // 2 + 2 : -2].max() < 0.05
    plain = mask_of("metallic_by_picks", np.full((16, 16, 3), 0.2, np.float32), [Pick(x=0.5, y=0.5, value=1)])
    assert (plain == 1).all()
