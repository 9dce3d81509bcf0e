"""Steps of preparing as a whole set goes through them: every map obeys, and only what changes is made anew."""

from dataclasses import replace

import numpy as np
import pytest
from test_geometry import a_recipe, evaluated
from test_prepare import a_pattern, photo

from copper_sieve.core.convert.strokes import Brushed
from copper_sieve.core.convert.touches import Touch
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.filters import resize
from copper_sieve.core.prepare import steps
from copper_sieve.core.prepare.decision import Repeat
from copper_sieve.core.prepare.piecing import pieced
from copper_sieve.core.prepare.said import step_said
from copper_sieve.core.prepare.spots import Spot, Spots, without_spots
from copper_sieve.core.prepare.straighten import Straighten, straightened
from copper_sieve.core.prepare.tile import Asked
from copper_sieve.core.prepare.variant import Variant
from copper_sieve.core.raster import Edges
from copper_sieve.core.recipe import Recipe, repeat_for, spots_for, steps_by_pattern, variant_for, with_repeat, with_steps
from copper_sieve.demo.materials import _noise


def a_set(size: int = 320) -> tuple[Recipe, dict[str, np.ndarray]]:
    height = (0.5 + 0.15 * _noise(size + 90, 6, 7))[:size, :size].astype(np.float32)
    maps = {"height": height, "roughness": (1 - height)[::2, ::2].copy()}
    return a_recipe(maps, rise=0.02, tile_size=1.0, edges=Edges(x="mirror", y="mirror"))[0], maps


def test_a_set_follows_the_pattern_of_its_pictures():
    height = 0.5 + 0.1 * a_pattern(58, 47, 1.2, 0.1, 3, 320)
    recipe = a_recipe({"height": height.clip(0, 1)}, edges=Edges(x="mirror", y="mirror"))[0]
    files = {"height": height.clip(0, 1)}
    turn, repeat = steps_by_pattern(evaluated(recipe, files), 0)
    assert isinstance(turn, Straighten) and isinstance(repeat, Repeat)
    made = with_steps(recipe, [turn, repeat])
    times = [side / period for side, period in zip(repeat.tile, repeat.period)]
    np.testing.assert_allclose(times, np.round(times), atol=0.03)
    assert min(times) > 3.9 and repeat.seen.mean < 1.1
    tile = evaluated(made, files).master("height")
    turns = np.arctan2(turn.points[1][1] - turn.points[0][1], turn.points[1][0] - turn.points[0][0])
    assert np.degrees(turns) == pytest.approx(1.2, abs=0.1)
    step = round(tile.shape[1] / times[0])
    assert np.corrcoef(np.roll(tile, step, 1).ravel(), tile.ravel())[0, 1] > 0.85  # one step on it is itself
    with pytest.raises(RecipeInvalid, match="no pattern was found"):
        steps_by_pattern(evaluated(*a_set()), 0)


def test_what_pieces_cannot_be_made_of_says_why():
    for picture, why in ((np.full((128, 128, 3), 0.4, np.float32), "one color"), (photo("Gravel", 48), "too few")):
        with pytest.raises(RecipeInvalid, match=why):
            pieced({"color": picture}, 1, 4)
    recipe, maps = a_set(128)
    with pytest.raises(RecipeInvalid, match="Make it repeat first"):
        variant_for(evaluated(recipe, maps), 1, 4, 0)
    repeating = with_repeat(evaluated(recipe, maps))
    made = variant_for(evaluated(repeating, maps), 1, 3, 1)
    both = with_steps(repeating, [*repeating.frame.steps, made])
    assert (both.facts.edges.x, both.facts.edges.y) == ("wrap", "wrap")
    assert "3 pieces across, their borders" in step_said(made)
    alone = with_steps(repeating, [made])
    assert alone.facts.edges == recipe.facts.edges  # pieces repeat where the picture does


def test_what_is_painted_stays_and_the_step_says_how_far_the_tile_moved():
    recipe, maps = a_set()
    stroke = Brushed(points=((0.5, 0.5),), radius=0.1)
    painted = with_repeat(evaluated(recipe, maps)).model_copy(update={"touches": {"height": Touch(strokes=(stroke,))}})
    first = painted.frame.steps[0]
    again = with_repeat(evaluated(painted, maps), Asked(sides=(0.6, None)))
    step = again.frame.steps[0]
    assert again.touches == painted.touches and step.painted_at == first.tile
    assert f"up to {abs(first.x.side - step.x.side) * 100:.1f} % of the picture elsewhere" in step_said(step)
    assert "elsewhere" not in step_said(first)


def test_a_repeat_is_a_step_of_the_whole_set():
    recipe, maps = a_set()
    repeats = with_repeat(evaluated(recipe, maps))
    step, facts = repeats.frame.steps[0], repeats.facts
    assert facts.edges == Edges() and (facts.width, facts.height) == (round(320 * step.x.side), round(320 * step.y.side))
    assert facts.tile_size == pytest.approx(facts.width / 320) and facts.rise * facts.width == pytest.approx(0.02 * 320)
    seen = evaluated(repeats, maps)
    height, roughness = seen.master("height"), seen.master("roughness")
    assert height.shape == roughness.shape == (facts.height, facts.width)
    assert np.corrcoef(height.ravel(), roughness.ravel())[0, 1] < -0.95
    off = with_steps(repeats, [step.model_copy(update={"is_on": False})])
    assert (off.facts.width, off.facts.edges) == (320, Edges(x="mirror", y="mirror"))
    assert (evaluated(off, maps).master("height") == maps["height"]).all()
    assert with_repeat(evaluated(repeats, maps), Asked(x=False)).frame.steps[0].x is None  # decided anew in its place


def test_a_small_view_shows_what_the_whole_would():
    recipe, maps = a_set(640)
    repeats = with_repeat(evaluated(recipe, maps))
    small = replace(evaluated(repeats, maps), longer_px=128)
    whole = resize(evaluated(repeats, maps).master("height"), small.size, Edges())
    assert np.abs(small.master("height") - whole).mean() < 0.01


def test_spots_of_a_repeating_set_are_found_and_kept_as_shares():
    recipe, maps = a_set()
    repeats = with_repeat(evaluated(recipe, maps))
    seen = evaluated(repeats, maps)
    spot = spots_for(seen, (0.02, 0.5, 0.05, 0.05), 1)[0]
    cleaned = with_steps(repeats, [*repeats.frame.steps, Spots(spots=(spot,))])
    changed = evaluated(cleaned, maps).master("height") != seen.master("height")
    assert changed[:, -4:].any() and changed[:, :8].any() and not changed[:, 60:200].any()
    again = spots_for(evaluated(cleaned, maps), (0.02, 0.5, 0.05, 0.05), 1)
    assert len({(round(s.from_x, 3), round(s.from_y, 3)) for s in again}) == len(again) > 2


def test_only_what_changes_is_prepared_anew(monkeypatch):
    """The last of many spots is filled alone, the steps before it are not made again, and it is the same to the bit."""
    recipe, maps = a_set()
    places = [(0.2, 0.3), (0.3, 0.5), (0.32, 0.52), (0.7, 0.4)]
    spots = tuple(Spot(x=x, y=y, across=0.05, down=0.04, from_x=0.1, from_y=0.2) for x, y in places)
    aslant = Straighten(points=((0.02, 0), (1, 0.02), (0.98, 1), (0, 0.98)))
    few, many = (with_steps(recipe, [aslant, Spots(spots=of), Variant()]) for of in (spots[:-1], spots))
    before = evaluated(few, maps)
    before.master("height")
    alone = evaluated(many, maps).master("height")
    filled, count = [], []
    monkeypatch.setattr(steps, "without_spots", lambda *a, **k: filled.append(len(a[1])) or without_spots(*a, **k))
    monkeypatch.setattr(steps, "straightened", lambda *a, **k: count.append(1) or straightened(*a, **k))
    np.testing.assert_array_equal(before.of(many).master("height"), alone)
    assert filled == [1] and not count
    turned = with_steps(recipe, [aslant, Spots(spots=spots), Variant(seed=3)])
    assert (before.of(turned).master("height") != alone).any()
    assert filled == [1] and not count


def test_no_map_loses_what_lies_beyond_its_usual_range():
    """Folds of a curvature are below 0, lamps above 1, and vectors of an object stay of unit length."""
    _, maps = a_set()
    wave = (maps["height"] - 0.5) * 4
    lean = np.dstack([wave, -wave, np.full_like(wave, 0.5)])
    lean /= np.linalg.norm(lean, axis=-1, keepdims=True)
    files = {"curvature": wave.clip(-1, 1), "emissive": np.dstack([wave + 2] * 3), "object_normal": lean * 0.5 + 0.5}
    recipe = a_recipe(files, edges=Edges(x="mirror", y="mirror"))[0]
    spot = Spot(x=0.5, y=0.5, across=0.05, down=0.05, from_x=0.2, from_y=0.1)
    steps = [Straighten(points=((0.02, 0), (1, 0.02), (0.98, 1), (0, 0.98))), Spots(spots=(spot,))]
    made = with_repeat(evaluated(with_steps(recipe, steps), files))
    seen = evaluated(made, files)
    assert seen.master("curvature").min() < -0.7 and seen.master("emissive").max() > 2.3
    assert np.abs(np.linalg.norm(seen.master("object_normal"), axis=-1) - 1).max() < 1e-5


def test_a_guess_that_it_repeats_is_no_reason_not_to_make_it_so():
    recipe, maps = a_set()
    guessed, told = (
        recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"edges": Edges(), "edges_from": how})})
        for how in ("guessed", "told")
    )
    assert with_repeat(evaluated(guessed, maps)).frame.steps[0].x is not None
    with pytest.raises(RecipeInvalid, match="repeats already"):
        with_repeat(evaluated(told, maps))


def test_a_set_without_files_cannot_be_prepared():
    recipe = a_set()[0].model_copy(update={"sources": {}, "masters": {}})
    with pytest.raises(RecipeInvalid, match="no file"):
        repeat_for(evaluated(recipe, {}), Asked())
