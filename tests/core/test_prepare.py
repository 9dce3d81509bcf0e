"""Preparing pictures: repeats that are not seen, and all maps alike."""

import cv2
import numpy as np
import pytest
from bench.photos import SURFACES, photo_of
from bench.prepare import small

from copper_sieve.core.color import encode_srgb_codes, linear_from_srgb_codes, srgb_from_linear
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.filters import resize
from copper_sieve.core.prepare.decision import Cut, Guide, Repeat, Stroke
from copper_sieve.core.prepare.joining import evened, joined, mask_at, size_joined
from copper_sieve.core.prepare.lattice import HAS_LATTICE, IS_RANDOM, lattice_of
from copper_sieve.core.prepare.piecing import pieced
from copper_sieve.core.prepare.said import step_said
from copper_sieve.core.prepare.tile import Asked, decided
from copper_sieve.core.prepare.variant import Variant, varied
from copper_sieve.core.raster import Edges, Size
from copper_sieve.core.vectors import renormalized
from copper_sieve.demo.materials import _noise

RANDOM, STRUCTURED = ("Gravel", "Plaster", "Stone"), ("Brick, dark joints", "Glazed tiles", "Quilted cloth")
N = 256


def photo(name: str, size: int = N) -> np.ndarray:
    """A crop of a made-up photo that holds no whole repeat, in linear light."""
    codes = np.ascontiguousarray(photo_of(name).codes[:768, :768, :3])
    return resize(linear_from_srgb_codes(codes), Size(size, size), "mirror")


def codes(linear: np.ndarray) -> np.ndarray:
    return encode_srgb_codes(linear, np.uint8).astype(float)


@pytest.fixture(scope="module", params=[*RANDOM, *STRUCTURED])
def made(request) -> tuple[str, np.ndarray, Repeat]:
    picture = photo(request.param)
    return request.param, picture, decided({"color": picture})


@pytest.mark.parametrize("name", SURFACES)
def test_the_line_is_hardly_seen(name):
    repeat = decided({"color": small(np.ascontiguousarray(photo_of(name).codes[:780, :780, :3]))})
    seen = repeat.seen
    assert seen.mean <= 1.05 and seen.most <= 1.15
    assert seen.worst <= (1.5 if repeat.structure < IS_RANDOM else 2.5)


def test_the_line_of_a_small_picture_is_hardly_seen(made):
    name, _, repeat = made
    assert repeat.seen.mean < 1.12 and repeat.seen.most < 1.2
    assert repeat.seen.worst < (1.6 if name in RANDOM else 2.5)


def test_structure_tells_patterns_from_chance(made):
    name, _, repeat = made
    assert repeat.structure < IS_RANDOM if name in RANDOM else repeat.structure > HAS_LATTICE


def test_the_tile_goes_on_past_its_border_as_inside(made):
    _, picture, repeat = made
    tile = srgb_from_linear(joined(picture, repeat, "color"))
    assert tile.shape[1::-1] == (size_joined(Size(N, N), repeat).width, size_joined(Size(N, N), repeat).height)
    for axis in (0, 1):
        jumps = np.abs(tile - np.roll(tile, 1, axis)).mean(-1)
        border = jumps.take(0, axis).mean()
        assert border < 1.25 * np.percentile(jumps.mean(1 - axis), 95)


def test_contrast_stays_round_the_line(made):
    name, picture, repeat = made
    if name not in RANDOM:
        return
    tile, inner = srgb_from_linear(joined(picture, repeat, "color"))[..., 1], srgb_from_linear(picture)[..., 1]
    overlap = round(repeat.x.overlap * tile.shape[1])
    for sigma in (1, 2, 4):
        band = [part - cv2.GaussianBlur(part, (0, 0), sigma) for part in (tile, inner)]
        assert 0.7 < band[0][:, :overlap].var() / band[1].var() < 1.3


def test_tones_stay_as_they_were(made):
    name, picture, repeat = made
    if name == "Plaster" or name not in RANDOM:
        return  # light that fell from a side is evened there, and with it the tones
    whole = evened(picture, repeat.even, "color")
    tile, before = (srgb_from_linear(part).mean(-1).ravel() for part in (joined(picture, repeat, "color"), whole))
    steps = np.linspace(0, 1, 513)
    assert np.abs(np.quantile(tile, steps) - np.quantile(before, steps)).mean() < 0.06 * before.std()


def test_normals_of_a_repeat_are_still_those_of_a_surface():
    height = (0.5 + 0.2 * _noise(640, 9, 12))[:384, :384].astype(np.float32)
    codes_of = np.round((normal_from_height(height, 0.03, "mirror") * 0.5 + 0.5) * 255)  # as a file holds them
    normal = renormalized((codes_of / 255 * 2 - 1).astype(np.float32))
    repeat = decided({"color": np.dstack([height] * 3), "height": height, "normal": normal})
    tile = joined(normal, repeat, "normal")

    def curl(of: np.ndarray) -> np.ndarray:
        x, y = of[..., 0] / of[..., 2], of[..., 1] / of[..., 2]
        return np.diff(x, axis=0)[:, :-1] + np.diff(y, axis=1)[:-1]  # y grows upwards, rows downwards

    before, after = np.sqrt(np.square(curl(normal)[4:-4, 4:-4]).mean()), np.square(curl(tile))
    assert np.sqrt(after.mean()) < 1.05 * before
    overlap = round(repeat.x.overlap * tile.shape[1])
    shown = mask_at(repeat.x, Size(overlap, tile.shape[0]), False) > 0.5
    border = cv2.morphologyEx(shown.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3)))
    near = cv2.distanceTransform(1 - border, cv2.DIST_L2, 5) < 6
    assert np.sqrt(after[:, : overlap - 1][near[:-1, :-1]].mean()) < 1.3 * before


def test_an_exact_repeat_comes_back():
    rng = np.random.default_rng(3)
    once = cv2.GaussianBlur(np.tile(rng.random((96, 96, 3)), (3, 3, 1)), (0, 0), 1.5)[96:192, 96:192].astype(np.float32)
    picture = np.tile(once, (2, 2, 1))[:140, :130]
    repeat = decided({"color": picture})
    tile = joined(picture, repeat, "color")
    assert tile.shape[:2] == (96, 96)
    assert np.abs(codes(tile) - codes(picture[:96, :96])).mean() <= 0.5


def test_every_size_shows_the_same():
    large, small = photo("Gravel", 768), photo("Gravel", 384)
    repeat = decided({"color": photo("Gravel", 384)})
    shrunk = cv2.resize(joined(large, repeat, "color"), joined(small, repeat, "color").shape[1::-1], interpolation=cv2.INTER_AREA)
    off = codes(shrunk) - codes(joined(small, repeat, "color"))
    assert np.sqrt(np.square(off).mean()) < 1.5  # small was shrunk before its curve, large after
    assert (joined(large, repeat, "color") == joined(large, Repeat.model_validate_json(repeat.model_dump_json()), "color")).all()


def test_a_cut_is_kept_as_runs_and_comes_back():
    mask = np.random.default_rng(1).random((9, 17)) > 0.4
    assert (Cut.of(mask).is_second == mask).all()
    with pytest.raises(ValueError, match="must fill"):
        Cut(rows=2, columns=2, runs=(3,))


def test_maps_of_a_set_are_cut_alike():
    height = (0.5 + 0.2 * _noise(320, 5, 6))[:N, :N].astype(np.float32)
    normal = normal_from_height(height, 0.03, "mirror")
    color = np.dstack([height, height * 0.8, 1 - height]).astype(np.float32)
    repeat = decided({"color": color, "height": height, "normal": normal})
    tile, leans = joined(height, repeat, "height"), joined(normal, repeat, "normal")
    assert np.abs(np.linalg.norm(leans, axis=-1) - 1).max() < 1e-5
    again = normal_from_height(tile, 0.03 * N / tile.shape[1], Edges())
    assert np.degrees(np.arccos((leans * again).sum(-1).clip(-1, 1))).mean() < 1.5
    holes = (height > 0.6).astype(np.float32)
    assert (
        set(np.unique(joined(holes, repeat, "mask"))) - {0.0, 1.0} == set()
        or (joined(holes, repeat, "mask") % 1 > 0).mean() < 0.02
    )


def test_a_typed_tile_and_what_is_painted_are_heeded():
    picture = photo("Stone")
    typed = decided({"color": picture}, Asked(sides=(0.7, None), overlap=0.2, y=False))
    assert round(typed.x.side, 2) == 0.7 and typed.y is None and abs(typed.x.overlap - 0.2) < 0.02
    strip = [(x, 0.5) for x in np.linspace(0.0, 0.12, 5)]
    kept = decided(
        {"color": picture}, Asked(sides=(0.7, None), overlap=0.3, y=False, guide=Guide(keep=(Stroke(points=strip, radius=0.05),)))
    )
    shown = mask_at(kept.x, Size(round(0.3 * 0.7 * N), N), False)
    rows = slice(round(0.46 * N), round(0.54 * N))
    assert shown[rows, round(0.06 * N) : round(0.11 * N)].mean() < 0.05  # what was kept there is the picture's own


@pytest.mark.parametrize("name", ["Gravel", "Glazed tiles"])
def test_a_square_tile_is_square_to_the_texel_and_shows_no_more(name):
    picture = photo(name, 384)[:300]
    whole = Size(2001, 1563)
    made = decided({"color": picture}, Asked(is_square=True), whole=whole)
    tile = size_joined(whole, made)
    assert tile.width == tile.height > 0.5 * whole.height and made.sides == (None, None)
    free = decided({"color": picture}, whole=whole)
    assert made.seen.mean < 1.12 and made.seen.worst < max(2.5, 1.3 * free.seen.worst)
    typed = decided({"color": picture}, Asked(is_square=True, sides=(0.5, None)), whole=whole)
    assert size_joined(whole, typed) == Size(1000, 1000)


def test_light_that_falls_off_is_evened_before_the_copies_meet():
    picture = photo("Plaster", 384)
    y, x = np.mgrid[:384, :384] / 384 - 0.5
    lit = (picture * np.exp(-3.2 * (x * x + y * y))[..., None]).astype(np.float32)
    made, plain = decided({"color": lit}), decided({"color": picture})
    assert made.even is not None and plain.even is None
    assert "its light evened first" in step_said(made)

    def broad(tile: np.ndarray) -> float:
        wide = cv2.GaussianBlur(np.tile(srgb_from_linear(tile).mean(-1), (3, 3)), (0, 0), 20)[200:400, 200:400]
        return float(np.ptp(wide))

    as_it_came = decided({"color": lit}, Asked(evens=False))
    assert as_it_came.even is None and decided({"color": picture}, Asked(evens=True)).even is not None
    bands = [broad(joined(lit, step, "color")) for step in (made, as_it_came)]
    assert bands[0] < 0.5 * bands[1] and bands[0] < 1.5 * broad(joined(picture, plain, "color"))
    height = lit[..., 0].copy()
    assert (joined(height, made, "height") == joined(height, made.model_copy(update={"even": None}), "height")).all()


def test_a_quick_line_closes_and_is_told():
    quick = decided({"color": photo("Gravel")}, Asked(is_quick=True))
    assert quick.is_quick and quick.seen.mean < 1.3
    line = quick.y.cut.is_second.sum(1)
    assert abs(int(line[0]) - int(line[-1])) <= 2


@pytest.mark.parametrize(
    ("picture", "says"),
    [
        (np.full((64, 64, 3), 0.3, np.float32), "one color"),
        (np.random.default_rng(1).random((16, 64, 3)).astype(np.float32), "too few"),
    ],
)
def test_what_cannot_repeat_says_why(picture, says):
    with pytest.raises(RecipeInvalid, match=says):
        decided({"color": picture})
    with pytest.raises(RecipeInvalid, match="repeats already"):
        decided({"color": photo("Stone")}, wraps=(True, True))


def a_pattern(across: float, down: float, degrees: float, noise: float, seed: int, size: int = 512) -> np.ndarray:
    """A random cell repeated by steps of that many texels and turned, (H, W), with noise of so many deviations."""
    rng, angle = np.random.default_rng(seed), np.radians(degrees)
    cell = cv2.GaussianBlur(np.tile(rng.random((24, 24)), (3, 3)), (0, 0), 1)[24:48, 24:48].astype(np.float32)
    y, x = np.mgrid[:size, :size]
    u, v = (np.cos(angle) * x + np.sin(angle) * y) / across, (-np.sin(angle) * x + np.cos(angle) * y) / down
    at = [((part % 1) * 24 + 23.5).astype(np.float32) for part in (u, v)]
    found = cv2.remap(np.tile(cell, (3, 3)), *at, cv2.INTER_LINEAR)
    return ((found - found.mean()) / found.std() + noise * rng.standard_normal(found.shape)).astype(np.float32)


def test_a_lattice_is_found_to_parts_of_a_texel():
    away = []
    for seed in range(6):
        rng = np.random.default_rng(seed)
        across, down, degrees = rng.uniform(75, 135), rng.uniform(75, 135), rng.uniform(-2, 2)
        found = lattice_of(a_pattern(across, down, degrees, rng.uniform(0, 1), seed)[..., None])
        assert found.across and found.down and not found.is_oblique and abs(found.turned - degrees) < 0.1
        away += [abs(np.hypot(*found.across) - across), abs(np.hypot(*found.down) - down)]
    assert np.median(away) < 0.03 and max(away) < 0.3


@pytest.mark.parametrize("name", RANDOM)
def test_no_lattice_is_seen_where_there_is_none(name):
    assert lattice_of(srgb_from_linear(photo(name, 384))) is None


@pytest.mark.parametrize("name", ["Gravel", "Plaster"])
def test_a_variant_is_another_picture_of_the_same_tones_that_repeats(name):
    picture = photo(name)
    repeat = decided({"color": picture})
    tile = joined(picture, repeat, "color")
    first, again = (varied(tile, Variant(seed=4), "color", wraps=(True, True)) for _ in range(2))
    assert (first == again).all()
    other = varied(tile, Variant(seed=5), "color", wraps=(True, True))
    gray = [srgb_from_linear(part)[..., 1] for part in (tile, first, other)]
    assert all(abs(np.corrcoef(a.ravel(), b.ravel())[0, 1]) < 0.35 for a, b in ((gray[0], gray[1]), (gray[1], gray[2])))
    spread = np.abs(np.sort(gray[0].ravel()) - np.sort(gray[1].ravel())).mean() / gray[0].std()
    assert spread < 0.19 and gray[1].std() == pytest.approx(gray[0].std(), rel=0.15)
    for axis in (0, 1):
        jumps = np.abs(gray[1] - np.roll(gray[1], 1, axis)).mean(1 - axis)
        assert jumps[0] < 1.25 * np.percentile(jumps, 95)


def test_a_variant_of_what_ends_takes_no_place_over_its_border():
    ramp = np.repeat(np.linspace(0, 1, 64, dtype=np.float32)[None], 64, 0)
    cut = varied(ramp, Variant(seed=2), "mask")
    jumps = np.abs(np.diff(cut, axis=1)) > 0.02
    assert jumps.mean() < 4 / 63 + 0.01  # only where one place ends and the next begins: no wrap within one
    metal = (np.random.default_rng(2).random((32, 48)) > 0.5).astype(np.float32)
    assert set(np.unique(varied(metal, Variant(), "mask", wraps=(True, True)))) == {0.0, 1.0}


@pytest.fixture(scope="module")
def in_pieces(made) -> tuple[str, np.ndarray, Variant]:
    """A tile, and a variant out of its pieces."""
    name, picture, repeat = made
    tile = resize(joined(picture, repeat, "color"), Size(N, N), "wrap")
    return name, tile, Variant(seed=3, pieces=pieced({"color": tile}, 3, 4))


def test_pieces_make_another_picture_whose_borders_are_hardly_seen(in_pieces):
    name, tile, variant = in_pieces
    other = codes(varied(tile, variant, "color"))
    plain = codes(tile)
    assert np.abs(other - plain).mean() > 0.25 * np.abs(np.roll(plain, N // 2, 0) - plain).mean()
    seen = variant.pieces.seen
    assert seen.mean < 1.12 and seen.most < 1.2 and seen.worst < (2.0 if name in RANDOM else 2.5)
    tones = [np.sort(values[..., 1].ravel()) for values in (plain, other)]
    assert np.abs(tones[0] - tones[1]).mean() < 0.2 * plain[..., 1].std()  # nothing that is rare vanishes or spreads
    for axis in (0, 1):
        jumps = np.abs(other - np.roll(other, 1, axis)).mean((1 - axis, 2))
        assert jumps[0] < 1.25 * np.percentile(jumps, 95)  # it repeats as the tile did


def likest(one: np.ndarray, other: np.ndarray) -> float:
    """How two pictures correlate where they are moved over each other so that they do best."""
    grays = [gray - gray.mean() for gray in (srgb_from_linear(values)[..., 1] for values in (one, other))]
    first, second = (np.fft.rfft2(gray / np.sqrt(np.square(gray).sum())) for gray in grays)
    return float(np.fft.irfft2(first * np.conj(second), grays[0].shape).max())


def test_a_pattern_keeps_its_pattern_in_pieces(in_pieces):
    name, tile, variant = in_pieces
    if name in RANDOM:
        return
    blended = varied(tile, Variant(seed=3), "color", wraps=(True, True))
    kept = varied(tile, variant, "color")
    assert likest(kept, tile) > 0.6 > likest(blended, tile)


def test_all_maps_are_cut_alike_into_pieces_and_every_size_shows_the_same(in_pieces):
    _, tile, variant = in_pieces
    shown, (rows, columns) = variant.pieces.shown, tile.shape[:2]
    y, x = np.mgrid[:rows, :columns]
    mask = (tile[..., 1] > np.median(tile[..., 1])).astype(np.float32)
    cut = varied(mask, variant, "mask")
    assert set(np.unique(cut)) == {0.0, 1.0}
    on = np.round(np.array(variant.pieces.places) * (columns, rows)).astype(int)[shown]
    told = mask[(y + on[..., 1]) % rows, (x + on[..., 0]) % columns]
    assert (cut == told).mean() > 0.99  # every texel shows the place that it is told to, but where two meet
    large = varied(np.kron(tile, np.ones((2, 2, 1), np.float32)), variant, "color")
    halved = cv2.resize(large, (columns, rows), interpolation=cv2.INTER_AREA)
    assert np.sqrt(np.square(codes(varied(tile, variant, "color")) - codes(halved)).mean()) < 1
    leaning = normal_from_height(tile[..., 1].copy(), 0.05, Edges())
    assert np.linalg.norm(varied(leaning, variant, "normal"), axis=-1) == pytest.approx(1, abs=1e-5)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_large_unlike_things_do_not_show_through_each_other(seed):
    spots = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal((640, 640)), (0, 0), 14)[64:576, 64:576]
    paint = np.clip(0.5 + (0.6 * spots.std() - spots) / (0.2 * spots.std()), 0, 1).astype(np.float32)  # rust where it is gone
    color = np.float32([0.08, 0.2, 0.22]) * paint[..., None] + np.float32([0.15, 0.03, 0.01]) * (1 - paint[..., None])

    def between(share: np.ndarray) -> float:
        return float(((share > 0.2) & (share < 0.8)).mean())

    repeat = decided({"color": color})
    before = repeat.model_copy(update={axis: getattr(repeat, axis).model_copy(update={"rest": "blended"}) for axis in "xy"})
    tile = joined(paint, repeat, "scalar")
    assert between(tile) < 1.3 * between(paint)
    another = Variant(seed=1, pieces=pieced({"color": joined(color, repeat, "color")}, 1, 4))
    assert between(varied(tile, another, "scalar", wraps=(True, True))) < 1.6 * between(paint)
    assert between(joined(paint, before, "scalar")) > 1.6 * between(
        paint
    )  # as sets that repeated before were made, and are still
    light = joined(color, repeat, "color").max(-1)
    assert abs(np.median(light[:, light.shape[1] // 2 :]) / np.median(light) - 1) < 0.02  # and no slope of light is made up


@pytest.mark.parametrize("name", ["Gravel", "Stone", "Glazed tiles"])
def test_a_tile_has_a_side_that_transforms_fast_where_nobody_typed_one_and_no_pattern_does(name):
    picture, px = photo(name), 16 * N
    exact, large = decided({"color": picture}), decided({"color": picture}, whole=Size(px, px))
    for axis in "xy":
        side, known = (getattr(made, axis).side * px for made in (large, exact))
        assert side == pytest.approx(round(side), abs=1e-6) and abs(side - known) <= 8  # half a texel of what decided
        is_fast = (2 * 3 * 5 * 7 * 11 * 13) ** 12 % round(side) == 0  # no factor over 13
        assert is_fast if name in RANDOM else side == known
    typed = decided({"color": picture}, Asked(sides=(0.6094, None), y=False), whole=Size(px, px))
    assert typed.x is not None and typed.x.side * px == pytest.approx(156 * 16)
