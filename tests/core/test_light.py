"""Light that lay on a photo: put on, measured, and taken out again."""

import numpy as np
import pytest

from copper_sieve.core.color import oklab_from_linear
from copper_sieve.core.derive.albedo import AlbedoFromPhoto, albedo_from_photo
from copper_sieve.core.filters import gaussian
from copper_sieve.core.prepare.light import light_across, light_on

SIZE = 128
Y, X = (np.mgrid[:SIZE, :SIZE] + 0.5) / SIZE - 0.5
FALLS = {
    "side": np.exp(-0.9 * X - 0.3 * Y),
    "borders": np.exp(-1.6 * (X**2 + Y**2)),
}


def surface(seed: int = 1) -> np.ndarray:
    """Grain of two colors in tones that are not broad."""
    rng = np.random.default_rng(seed)
    grain = gaussian(rng.standard_normal((SIZE, SIZE)).astype(np.float32), 0.01, "wrap")
    share = np.clip(0.5 + 0.25 * grain / grain.std(), 0, 1)[..., None]
    return (share * np.float32([0.5, 0.35, 0.2]) + (1 - share) * np.float32([0.2, 0.22, 0.25])).astype(np.float32)


def error(found: np.ndarray, truth: np.ndarray) -> float:
    return float(np.abs(found * (truth.mean() / found.mean()) - truth).mean())


@pytest.mark.parametrize("falloff", FALLS)
def test_light_that_was_put_on_is_told_and_taken_out(falloff):
    truth = surface()
    photo = (truth * FALLS[falloff][..., None] / 2).astype(np.float32)
    across = light_across(photo, "mirror")
    ends = float(FALLS[falloff].max() / FALLS[falloff].min())
    assert across.stands_out and across.falloff == falloff and across.ratio == pytest.approx(ends, rel=0.15)
    evened = albedo_from_photo(photo, "mirror", params=AlbedoFromPhoto(falloff=across.falloff))
    assert error(evened, truth) < 0.3 * error(photo, truth)
    assert float(evened.mean()) == pytest.approx(float(photo.mean()), rel=0.02)


def test_the_hue_of_every_texel_stays_unless_the_light_is_tinted():
    photo = (surface() * FALLS["side"][..., None] / 2).astype(np.float32)
    evened = albedo_from_photo(photo, "mirror")
    angles = [np.arctan2(lab[..., 2], lab[..., 1]) for lab in (oklab_from_linear(photo), oklab_from_linear(evened))]
    assert np.abs(np.angle(np.exp(1j * (angles[0] - angles[1])))).max() < 0.01
    warm = (photo * np.exp(np.stack([0.3 * X, 0 * X, -0.3 * X], -1))).astype(np.float32)
    tinted = AlbedoFromPhoto(is_tinted=True)
    errors = [error(albedo_from_photo(warm, "mirror", params=p), surface()) for p in (AlbedoFromPhoto(), tinted)]
    assert errors[1] < 0.7 * errors[0]


def test_what_repeats_still_repeats_when_it_is_evened():
    photo = surface() * (1 + 0.3 * np.sin(2 * np.pi * X))[..., None].astype(np.float32)
    evened, rolled = albedo_from_photo(photo, "wrap"), albedo_from_photo(np.roll(photo, (31, 57), (0, 1)), "wrap")
    np.testing.assert_allclose(np.roll(evened, (31, 57), (0, 1)), rolled, atol=0.02)


def test_boards_of_different_tones_are_no_light():
    tones = np.float32([0.5, 0.46, 0.3, 0.33, 0.2, 0.22])[(np.arange(SIZE) * 6) // SIZE]
    photo = surface() * tones[None, :, None] * 2
    assert not light_across(photo.astype(np.float32), "mirror").stands_out


def two_of(kind: str) -> np.ndarray:
    """One side of the picture of another stuff, behind a ragged line: of another hue, or only lighter."""
    line = gaussian(np.random.default_rng(5).standard_normal((SIZE, SIZE)).astype(np.float32), 0.02, "mirror")
    other = (X + 0.4 * Y + 0.08 * line / line.std() > 0.12)[..., None]
    return np.where(other, np.float32([0.9, 0.3, 0.2] if kind == "hue" else 3.5), 1).astype(np.float32)


@pytest.mark.parametrize("falloff", [None, *FALLS])
@pytest.mark.parametrize("kind", ["hue", "tone"])
def test_two_stuffs_side_by_side_are_no_light_and_are_evened_alike(kind, falloff):
    truth = surface() * two_of(kind)
    light = np.ones((SIZE, SIZE)) if falloff is None else FALLS[falloff]
    photo = (truth * light[..., None] / 2).astype(np.float32)
    across = light_across(photo, "mirror")
    if falloff is None:
        assert across.ratio < 1.15
    else:
        assert (
            across.stands_out and across.falloff == falloff and across.ratio == pytest.approx(light.max() / light.min(), rel=0.15)
        )
        evened = albedo_from_photo(photo, "mirror", params=AlbedoFromPhoto(falloff=across.falloff))
        before = photo / light_on(photo, "mirror", falloff=falloff, stuffs=())
        assert error(evened, truth) < 0.3 * error(photo, truth) and error(evened, truth) < 0.5 * error(before, truth)


def test_light_that_goes_warm_across_is_no_other_stuff():
    photo = (surface() * np.exp(np.stack([0.9 * X, 0.6 * X, 0.3 * X], -1)) / 2).astype(np.float32)
    assert light_across(photo, "mirror").ratio == pytest.approx(np.exp(0.6), rel=0.15)


@pytest.mark.parametrize("times", [0.1, 3.0])
def test_a_brighter_photo_has_the_same_light(times):
    photo = (surface() * FALLS["side"][..., None] / 2).astype(np.float32)
    np.testing.assert_allclose(light_on(photo * np.float32(times), "mirror"), light_on(photo, "mirror"), rtol=2e-3)


def test_less_light_counts_on_a_surface_that_is_calm():
    light = np.exp(0.3 * X)[..., None]
    calm = np.float32([0.4, 0.4, 0.3]) * (1 + 0.05 * (surface() - surface().mean()))
    across = light_across((calm * light).astype(np.float32), "mirror")
    assert across.stands_out and across.ratio == pytest.approx(np.exp(0.3), rel=0.02)
    assert not light_across((surface() * light).astype(np.float32), "mirror").stands_out
    assert not light_across((calm * np.exp(0.15 * X)[..., None]).astype(np.float32), "mirror").stands_out


def test_a_photo_of_one_color_and_a_black_one_stay_as_they_are():
    for value in (0.0, 0.3, 1.0):
        plain = np.full((32, 48, 3), value, np.float32)
        np.testing.assert_allclose(albedo_from_photo(plain, "mirror"), plain, atol=1e-4)
        assert not light_across(plain, "mirror").stands_out


@pytest.mark.parametrize(("kind", "told"), [("tone", 3.5), ("hue", 1.0)])
def test_a_broad_part_of_another_tone_is_told_with_how_much_brighter_it_is(kind, told):
    photo = (surface() * two_of(kind) * FALLS["side"][..., None] / 2).astype(np.float32)
    assert light_across(photo, "mirror").toned == pytest.approx(told, rel=0.1)
    fine = (surface() * (1 + 2 * (np.arange(SIZE) // 4 % 2))[:, None, None] / 3).astype(np.float32)
    assert light_across(fine, "mirror").toned == 1
