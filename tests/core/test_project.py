"""Sets beside each other: texels a meter, and the size at which they match."""

import pytest

from copper_sieve.core.checks.project import density, density_finding, with_density
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.recipe import Facts, Recipe


def tile(width: int, meters: float | None, height: int | None = None) -> Recipe:
    return Recipe(facts=Facts(width=width, height=height or width, tile_size=meters))


@pytest.mark.parametrize(
    ("own", "others", "longer"),
    [
        (tile(1024, 1), [tile(2048, 1), tile(2048, 1)], 2048),
        (tile(4096, 1), [tile(1024, 2), tile(1024, 2), tile(4096, 1)], 512),
        (tile(1024, 0.5, 2048), [tile(1024, 2)], 512),
        (tile(1000, 1), [tile(1024, 4)], 256),
    ],
)
def test_a_set_that_differs_is_told_and_matched(own, others, longer):
    found = density_finding(own, others)
    assert found is not None and f"At {longer} px it would match" in found.text
    matched = with_density(own, others)
    assert max(matched.facts.width, matched.facts.height) == longer
    assert density_finding(matched, others) is None
    assert matched.facts.width / matched.facts.height == pytest.approx(own.facts.width / own.facts.height, rel=0.01)


def test_nothing_is_said_of_what_is_not_known_or_near():
    assert density(tile(512, None)) is None
    assert density_finding(tile(512, None), [tile(2048, 1)]) is None
    assert density_finding(tile(512, 1), [tile(2048, None)]) is None
    assert density_finding(tile(1024, 1), [tile(1500, 1)]) is None
    with pytest.raises(RecipeInvalid, match="must be known"):
        with_density(tile(512, 1), [tile(2048, None)])
