"""Bakes of a mesh whose UV lie in UDIM tiles: what each shows, and which are baked for a set."""

from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.bake import BakePlan, bake
from copper_sieve.core.bake.entering import tiles_of_bake
from copper_sieve.core.errors import MeshInvalid, RecipeInvalid
from copper_sieve.core.mesh.made import joined
from copper_sieve.core.recipe import Facts, MeshRef, Recipe, Source, Worn
from shapes import TILED_FROM, tiled, torus, torus_at


@pytest.mark.parametrize("tile", [1001, 1002])
def test_a_tile_shows_what_of_the_mesh_lies_in_it(tile):
    low, size = tiled(torus(64, 32)), 32
    baked = bake(low, low, BakePlan(("position",), size=size), tile=tile)
    made = baked.maps["position"]
    v, u = 1 - (np.indices((size, size)) + 0.5) / size
    v = v if tile == 1001 else (v - TILED_FROM) / (1 - 2 * TILED_FROM)
    at = torus_at((tile - 1001 + 1 - u) / 2, v)
    low_end, high_end = np.array(made.low), np.array(made.high)
    inside = slice(3, -3)  # without rows that a border touches alone
    np.testing.assert_allclose((made.values * (high_end - low_end) + low_end)[inside], at[inside], atol=0.01)
    assert baked.covered[inside].all() and baked.covered.all() == (tile == 1001)


def test_a_tile_that_nothing_lies_in_is_refused():
    with pytest.raises(MeshInvalid, match="nothing of the low mesh lies in the picture"):
        bake(tiled(torus(8, 6)), None, BakePlan(("position",), size=16), tile=1004)


def test_a_set_in_tiles_is_not_baked_to_a_mesh_whose_uv_reach_over_a_border():
    flat = Recipe(facts=Facts(width=8, height=8))
    file = Source(sha256="0" * 64, name="a.png", width=8, height=8, reads={"RGB": "base_color"})
    in_tiles = flat.model_copy(update={"sources": {"color": file.model_copy(update={"tile": 1001})}})
    over = replace(torus(8, 6), uv=torus(8, 6).uv * np.float32(1.5))
    assert tiles_of_bake(flat, over) == () and tiles_of_bake(in_tiles, tiled(torus(8, 6))) == (1001, 1002)
    assert tiles_of_bake(flat.model_copy(update={"sources": {"color": file}}), tiled(torus(8, 6))) == ()  # one picture for all
    copies = joined([torus(8, 6), replace(torus(8, 6), uv=torus(8, 6).uv + np.float32([1, 0]))])
    mesh = MeshRef(sha256="0" * 64, name="a.obj", print="1" * 64, triangles=9)
    told = {is_told: flat.model_copy(update={"worn": Worn(low=mesh, is_in_tiles=is_told)}) for is_told in (None, True, False)}
    assert tiles_of_bake(told[None], copies) == () and tiles_of_bake(told[True], copies) == (1001, 1002)
    assert tiles_of_bake(told[False], tiled(torus(8, 6))) == ()
    with pytest.raises(RecipeInvalid, match="reaches over a border"):
        tiles_of_bake(in_tiles, over)
