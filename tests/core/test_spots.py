"""Spots: filled with what could be there, round, oval or brushed, and bit-equal beside them."""

import numpy as np
import pytest
from test_prepare import RANDOM, STRUCTURED, photo

from copper_sieve.core.color import srgb_from_linear
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.filters import resize
from copper_sieve.core.prepare.spots import Spot, places_for, without_spots
from copper_sieve.core.raster import Size


def spotted(name: str) -> tuple[np.ndarray, np.ndarray, list[Spot]]:
    """A photo, the same with six spots on it, and the spots."""
    picture, rng = photo(name, 384), np.random.default_rng(5)
    y, x = np.mgrid[:384, :384] / 384
    spots, holed = [], picture.copy()
    for at in rng.uniform(0.15, 0.85, (9, 2)):
        if all(np.hypot(*(at - (s.x, s.y))) > 0.16 for s in spots):
            spots.append(Spot(x=at[0], y=at[1], across=0.03, down=0.03, from_x=0, from_y=0))
            holed[np.hypot(x - at[0], y - at[1]) < 0.03] = (0.9, 0.1, 0.7)
    return picture, holed, spots


def test_spots_are_filled_with_what_could_be_there():
    steepness = []
    for name in (*RANDOM, *STRUCTURED):
        picture, holed, spots = spotted(name)
        found = [places_for([srgb_from_linear(holed)], (s.x, s.y, s.across, s.down), spots)[0] for s in spots]
        taken = without_spots(holed, found, "color")
        steep = [np.hypot(*np.gradient(srgb_from_linear(part).mean(-1))) for part in (taken, picture)]
        y, x = np.mgrid[:384, :384] / 384
        away = np.min([np.hypot(x - s.x, y - s.y) for s in spots], 0)
        inside, outside = away < 0.03, away > 0.03 + 2 / 512 + 2 / 384
        steepness.append(steep[0][inside].mean() / steep[1][inside].mean())
        assert (taken[outside] == holed[outside]).all()
        assert (np.abs(taken[inside] - (0.9, 0.1, 0.7)).sum(-1) > 0.3).mean() > 0.98  # nothing of the spot is left
    assert 0.85 < np.mean(steepness) < 1.1


def test_a_spot_wraps_where_the_picture_repeats():
    tile = photo("Gravel")
    at = Spot(x=0.0, y=0.5, across=0.05, down=0.05, from_x=0.4, from_y=0.1)
    changed = [(without_spots(tile, [at], "color", wraps=(w, w)) != tile).any(-1).any(0) for w in (True, False)]
    assert changed[0][-5:].all() and changed[0][:5].all()
    assert not changed[1][-5:].any() and changed[1][:5].all()


def test_a_scratch_is_brushed_and_filled_along_its_whole_length():
    picture = photo("Gravel", 384)
    y, x = np.mgrid[:384, :384] / 384
    away = np.abs((y - 0.3) - 0.25 * (x - 0.3)) / np.hypot(1, 0.25)
    scratched = picture.copy()
    is_scratch = (away < 0.006) & (x > 0.3) & (x < 0.7)
    scratched[is_scratch] = (0.9, 0.1, 0.7)
    told = {"path": ((-0.21, -0.0525), (0.0, 0.0), (0.21, 0.0525)), "brush": 0.012}
    found = places_for([srgb_from_linear(scratched)], (0.5, 0.35, 0.222, 0.065), **told)
    taken = without_spots(scratched, found[:1], "color")
    assert (np.abs(taken[is_scratch] - (0.9, 0.1, 0.7)).sum(-1) > 0.3).mean() > 0.98
    assert (taken[away > 0.012 + 2 / 512 + 2 / 384] == scratched[away > 0.012 + 2 / 512 + 2 / 384]).all()
    large = without_spots(np.repeat(np.repeat(scratched, 2, 0), 2, 1), found[:1], "color")
    assert np.abs(resize(large, Size(384, 384), "mirror") - taken).mean() < 0.004
    with pytest.raises(RecipeInvalid, match="50% of the width"):
        places_for([picture], (0.5, 0.5, 0.3, 0.1), **told)


def test_a_spot_too_large_or_without_a_place_says_so():
    with pytest.raises(RecipeInvalid, match="20% of the width"):
        places_for([photo("Gravel")], (0.5, 0.5, 0.2, 0.1))
    with pytest.raises(RecipeInvalid, match="no other place"):
        everywhere = [
            Spot(x=x, y=y, across=0.1, down=0.1, from_x=0, from_y=0)
            for x in np.arange(0, 1.1, 0.1)
            for y in np.arange(0, 1.1, 0.1)
        ]
        places_for([photo("Gravel")], (0.5, 0.5, 0.05, 0.05), everywhere)
