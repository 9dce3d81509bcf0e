"""A number of an operation stands for its formula and its defaults: neither changes under a recipe that names it."""

import json
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.core.checks.fixes import mended
from copper_sieve.core.checks.recipe import CHECKS
from copper_sieve.core.convert import blend_normals
from copper_sieve.core.convert.mixing import mixed_normals
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.operations import OPERATIONS, operation_at
from copper_sieve.core.recipe import (
    Cache,
    Evaluation,
    Facts,
    Node,
    Recipe,
    Source,
    account_of,
    changes,
    older_ways,
    settings_of,
    with_settings,
)

DEFAULTS = json.loads((Path(__file__).parents[1] / "data" / "defaults.json").read_text())
SIDE = 32
HEIGHTS = np.random.default_rng(1).random((2, SIDE, SIDE)).astype(np.float32)
NORMALS = [normal_from_height(height, 0.1) for height in HEIGHTS]


def test_no_default_changes_without_a_number():
    """Where this fails, count the number up, keep the old way among ``older``, and add the new one's defaults to the file."""
    now = {f"{way.key}/{way.number}": way.params().model_dump(mode="json") for o in OPERATIONS.values() for way in o.ways}
    assert now == DEFAULTS


def an_older_recipe(algorithm: int = 1) -> Recipe:
    """Normals mixed with others, in a recipe that says nothing of how much."""
    sources = {
        name: Source(sha256=f"{k:064x}", name=name, width=SIDE, height=SIDE, depth=32, reads={"RGB": "normal"}, green="up")
        for k, name in enumerate(("a", "b"))
    }
    inputs = {"own": "source:a:normal", "other": "source:b:normal"}
    node = Node(op="mixed_normals", algorithm=algorithm, inputs=inputs)
    return Recipe(facts=Facts(width=SIDE, height=SIDE), sources=sources, nodes={"m": node}, masters={"normal": "node:m"})


def evaluated(recipe: Recipe) -> Evaluation:
    maps = {name: values * 0.5 + 0.5 for name, values in zip(("a", "b"), NORMALS)}
    return Evaluation(recipe, None, lambda source: maps[source.name], Cache(1 << 26))


def test_an_older_number_is_computed_as_it_was_with_its_own_defaults():
    found = evaluated(an_older_recipe()).master("normal")
    np.testing.assert_allclose(found, mixed_normals(*NORMALS), atol=1e-5)
    newest = evaluated(an_older_recipe(algorithm=2)).master("normal")
    np.testing.assert_allclose(newest, blend_normals(*NORMALS), atol=1e-5)
    assert np.abs(found - newest).max() > 0.05


def test_an_older_way_is_called_so_and_updated_by_one_press():
    before = an_older_recipe()
    (told,) = [f for check in CHECKS for f in check(evaluated(before)) if f.id == "older-way"]
    assert told.master == "normal" and "the way between two vectors" in told.text
    assert "by an older way" in account_of(before, "normal")[0]
    after = mended(before, "older-way", "normal")
    assert after.nodes["m"].algorithm == 2 and after.nodes["m"].params["amount"] == 0.5  # what the old default said is kept
    assert older_ways(after) == {} and changes(before, after) == "Normal made by the newest way"
    np.testing.assert_allclose(evaluated(after).master("normal"), blend_normals(*NORMALS, 0.5), atol=1e-5)
    with pytest.raises(RecipeInvalid, match="nothing to update"):
        mended(after, "older-way", "normal")


def test_ways_taken_over_keep_their_number():
    ways = settings_of(an_older_recipe())
    assert ways.masters["normal"].algorithm == 1
    recipe, kept = with_settings(an_older_recipe(algorithm=2), ways)
    assert kept == [] and recipe.nodes["m"].algorithm == 1


@pytest.mark.parametrize("number", [0, 3])
def test_a_number_that_never_was_is_refused(number):
    with pytest.raises(RecipeInvalid, match=f"2 ways of mixed_normals \\(got number {number}\\)"):
        operation_at("mixed_normals", number)
