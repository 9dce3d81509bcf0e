"""Starting points by kind of material, and the account of how a set came to be."""

import pytest

from copper_sieve.core.errors import RecipeInvalid, UnknownKey
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe import Recipe, account_of, starts, told, with_start

KINDS = {"cloth", "leather", "bare-metal", "painted-metal", "ceramic", "ground", "stone", "plaster", "wood", "paper"}


def a_photo() -> Recipe:
    return plan_set([FileEntry(sha256="a" * 64, name="Moor.jpg", width=64, height=64, depth=8, reads={"RGB": "photo"})])


def test_every_kind_sets_three_parameters_and_more_and_no_two_are_alike():
    assert set(starts()) == KINDS | {"plain"}
    made = {key: with_start(a_photo(), key) for key in starts()}
    assert len({recipe.model_dump_json() for recipe in made.values()}) == len(starts())
    for key in KINDS:
        moved = [name for op in starts()[key].params.values() for name in op]
        assert len(moved) >= 3
        for node in made[key].nodes.values():
            OPERATIONS[node.op].params(**node.params)
    assert made["bare-metal"].node_of("metallic")[1].params == {"value": 1.0}


def test_plain_puts_everything_back_and_given_maps_stay():
    recipe = a_photo()
    there_and_back = with_start(with_start(recipe, "ground"), "plain")
    for name, node in recipe.nodes.items():
        if node.op in starts()["plain"].params:
            params = OPERATIONS[node.op].params
            assert params(**there_and_back.nodes[name].params) == params()
    assert with_start(recipe, "cloth").masters == recipe.masters
    with pytest.raises(UnknownKey):
        with_start(recipe, "marzipan")
    with pytest.raises(RecipeInvalid):
        with_start(recipe.model_copy(update={"nodes": {}, "masters": {}}), "cloth")


def test_the_account_names_files_derivations_and_what_was_moved():
    recipe = with_start(a_photo(), "leather")
    assert account_of(recipe, "base_color")[0].startswith("given: RGB of Moor.jpg, 64 × 64, 8 bit, read as photo")
    corrections = {"photo": {"saturation": 0.5, "warmth": 0.2}}
    source = recipe.sources["s1"].model_copy(update={"corrections": corrections})
    mended = recipe.model_copy(update={"sources": {"s1": source}})
    assert "corrected: saturation 0.5 ×, warmth 20 %" in account_of(mended, "base_color")[0]
    assert "contrast 1.1 ×" in account_of(recipe, "height")[0]
    text = told(recipe, "Moor", ["taken in", "started as leather"])
    assert "## Height (derived)" in text and "2. started as leather" in text


def test_one_master_starts_alone_and_plain_puts_it_back():
    recipe = a_photo()
    cloth = with_start(recipe, "cloth", "roughness")
    assert cloth.nodes["roughness"].params != recipe.nodes["roughness"].params
    assert {name: node for name, node in cloth.nodes.items() if name != "roughness"} == {
        name: node for name, node in recipe.nodes.items() if name != "roughness"
    }
    assert cloth.facts == recipe.facts
    assert with_start(cloth, "plain", "roughness").nodes["roughness"].params == {}
    with pytest.raises(RecipeInvalid):
        with_start(recipe, "cloth", "emissive")
