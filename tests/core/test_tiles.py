"""Sets in tiles: what touches is seen across the border, statistics are of all tiles, and what a tile lacks is left out."""

from dataclasses import replace

import numpy as np
import pytest
from test_every_derivation import CASES, NAMES, RISE, evaluated, evaluation_of, stored, the_files

from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import RecipeInvalid, UnknownKey
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.prepare.moves import Mirror
from copper_sieve.core.raster import Edges
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, TileFile, node_ref, with_step
from copper_sieve.core.tiles import Layout

SIZE = 128
AROUND = (1001, 1002, 1003, 1011, 1012, 1013, 1021, 1022, 1023)  # 1012 is touched on all sides
# What is left of a transform's far ends, and of a solve that sees a sixteenth of the width beyond the border.
OFF = {"height_from_normal": 0.08, "albedo_from_photo": 0.02, "height_by_picks": 0.04, "height_from_color": 0.04}
OFF |= {"metallic_by_picks": 0.02, "opacity_by_picks": 0.02}


def in_tiles(op, params, files_of, tiles=AROUND, size=SIZE, longer=None) -> Evaluation:
    """A recipe of one node over tiles whose files ``files_of`` gives; edges are mirrored, as those of an atlas."""
    if "picks" in params:
        params = {**params, "picks": [{**pick, "tile": 1012} for pick in params["picks"]]}
    plain = evaluation_of(op, params, the_files(size))
    sources = {}
    for name, source in plain.recipe.sources.items():
        rest = {
            tile: TileFile(sha256=f"{tile:064x}", name=f"{tile} {source.name}", width=size, height=size, depth=32)
            for tile in tiles[1:]
        }
        first = {"sha256": f"{tiles[0]:064x}", "name": f"{tiles[0]} {source.name}", "tile": tiles[0], "beside": rest}
        sources[name] = source.model_copy(update=first)
    facts = plain.recipe.facts.model_copy(update={"edges": Edges(x="mirror", y="mirror")})
    recipe = Recipe.model_validate(plain.recipe.model_copy(update={"sources": sources, "facts": facts}).model_dump(by_alias=True))

    def load(source):
        tile, _, name = source.name.partition(" ")
        return stored(source.model_copy(update={"name": name}), files_of(int(tile)))

    return Evaluation(recipe, longer, load, Cache(1 << 30))


def made(evaluation: Evaluation, op: str) -> np.ndarray:
    outputs = OPERATIONS[op].outputs
    return evaluation.value(node_ref("n", outputs[0]) if len(outputs) > 1 else node_ref("n"), evaluation.size)


@pytest.mark.parametrize(("op", "params"), CASES, ids=NAMES)
def test_a_tile_among_its_likes_is_made_as_if_it_repeated(op, params):
    """Nine times one repeating picture: the middle one sees what a repeating picture sees of itself."""
    if "noise" in OPERATIONS[op].params.model_fields:
        params = {**params, "noise": 0}
    middle = made(in_tiles(op, params, lambda tile: the_files(SIZE)).at(1012), op)
    whole = evaluated(op, params, the_files(SIZE))
    assert middle.shape == whole.shape
    span = max(float(np.ptp(whole)), 0.2)
    assert float(np.sqrt(np.mean(np.square(middle - whole)))) <= OFF.get(op, 0.012) * span


def halves(tile: int) -> dict[str, np.ndarray]:
    """A picture twice as wide as a tile, in two tiles."""
    left = slice(0, SIZE) if tile == 1001 else slice(SIZE, None)
    return {key: np.ascontiguousarray(values[:SIZE, left]) for key, values in the_files(2 * SIZE).items()}


@pytest.mark.parametrize("op", ["occlusion_from_height", "height_from_color"])
def test_no_line_shows_where_tiles_touch(op):
    whole = in_tiles(op, {}, halves, (1001, 1002))
    left, right = (made(whole.at(tile), op) for tile in (1001, 1002))
    inside = np.abs(np.diff(np.concatenate([left, right], 1), axis=1)).reshape(SIZE, 2 * SIZE - 1, -1).mean((0, 2))
    joint = inside[SIZE - 1]
    assert joint <= 1.5 * np.median(inside)
    alone = [made(in_tiles(op, {}, lambda _, tile=tile: halves(tile), (1001,)).at(1001), op) for tile in (1001, 1002)]
    assert np.abs(alone[0][:, -1] - alone[1][:, 0]).mean() > 1.5 * joint  # it would have shown


def test_normals_at_a_joint_are_those_of_the_whole():
    whole = in_tiles("normal_from_height", {}, halves, (1001, 1002))
    made_of_tiles = np.concatenate([made(whole.at(tile), "normal_from_height") for tile in (1001, 1002)], 1)
    wide = np.concatenate([halves(tile)["height"] for tile in (1001, 1002)], 1)
    np.testing.assert_allclose(made_of_tiles, normal_from_height(wide, RISE / 2, "mirror"), atol=1e-6)


def test_statistics_are_taken_over_all_tiles():
    def dim(tile):
        return {key: values * (1.0 if tile == 1001 else 0.1) for key, values in the_files(SIZE).items()}

    both = in_tiles("height_from_color", {}, dim, (1001, 1015))
    strong, weak = (made(both.at(tile), "height_from_color") for tile in (1001, 1015))
    alone = made(in_tiles("height_from_color", {}, lambda _: dim(1015), (1015,)).at(1015), "height_from_color")
    assert float(weak.std()) < 0.6 * float(strong.std())  # the weak one stays weak beside the strong
    assert float(alone.std()) > 0.9 * float(strong.std())  # by itself it is stretched as far


def test_heights_from_normals_share_one_scale():
    def calm(tile):
        files = the_files(SIZE)
        return files if tile == 1001 else files | {"normal": files["normal"] * np.float32([0.3, 0.3, 1])}

    both = in_tiles("height_from_normal", {}, calm, (1001, 1015))
    steep, gentle = (made(both.at(tile), "height_from_normal") for tile in (1001, 1015))
    assert np.ptp(steep) == pytest.approx(1, abs=0.1)
    assert np.ptp(gentle) == pytest.approx(0.3, abs=0.1)


def test_another_tile_changed_changes_what_is_kept():
    """The same cache serves two sets that differ in a neighbor alone."""
    cache = Cache(1 << 30)
    plain = replace(in_tiles("occlusion_from_height", {}, lambda tile: the_files(SIZE)), cache=cache)
    before = made(plain.at(1012), "occlusion_from_height")
    low = {key: np.zeros_like(values) for key, values in the_files(SIZE).items()}
    other = in_tiles("occlusion_from_height", {}, lambda tile: low if tile == 1011 else the_files(SIZE))
    source = other.recipe.sources["height"]
    files = {**source.beside, 1011: source.beside[1011].model_copy(update={"sha256": "f" * 64})}
    sources = {**other.recipe.sources, "height": source.model_copy(update={"beside": files})}
    other = replace(other, cache=cache, recipe=other.recipe.model_copy(update={"sources": sources}))
    after = made(other.at(1012), "occlusion_from_height")
    assert np.abs(after - before)[:, :4].max() > 0.01
    np.testing.assert_array_equal(made(replace(other, cache=Cache(1 << 30)).at(1012), "occlusion_from_height"), after)


def test_what_tiles_see_of_each_other_outlasts_the_maps_that_it_is_of(monkeypatch):
    """In a cache that holds two of nine tiles, each file is read for itself, and once more for those that touch it at most."""
    monkeypatch.setattr("copper_sieve.core.recipe.cache._SMALL", 0)
    whole, loads = in_tiles("occlusion_from_height", {}, lambda tile: the_files(SIZE)), []

    def load(source):
        loads.append(source.name)
        return whole.load(source)

    tight = replace(whole, load=load, cache=Cache(4 * SIZE * SIZE * 6))
    for tile in AROUND:
        np.testing.assert_array_equal(
            made(tight.at(tile), "occlusion_from_height"), made(whole.at(tile), "occlusion_from_height")
        )
    assert max(map(loads.count, loads)) <= 2


def test_a_tile_without_a_file_lacks_what_is_made_of_it():
    whole = in_tiles("normal_from_height", {}, lambda tile: the_files(SIZE), (1001, 1002))
    height = whole.recipe.sources["height"].model_copy(update={"beside": {}})
    recipe = whole.recipe.model_copy(
        update={"sources": {**whole.recipe.sources, "height": height}, "masters": {"normal": node_ref("n")}}
    )
    assert recipe.tiles == (1001, 1002)
    assert "normal" in recipe.at(1001).masters
    assert recipe.at(1002).masters == {} and recipe.at(1002).nodes == {}


def test_what_a_set_in_tiles_refuses():
    whole = in_tiles("normal_from_height", {}, lambda tile: the_files(SIZE), (1001, 1002))
    with pytest.raises(UnknownKey, match="1001, 1002"):
        whole.at(1003)
    with pytest.raises(RecipeInvalid, match="fit"):
        with_step(whole.recipe, Mirror(axis="x"))


def test_tiles_lie_as_their_numbers_say():
    found = Layout.of([1001, 1002, 1012, 1021])
    assert (found.columns, found.rows) == (2, 3)
    assert found.at == {1001: (0, 2), 1002: (1, 2), 1012: (1, 1), 1021: (0, 0)}
