"""Where a master may come from: only what works is offered, nothing given is lost, and nothing runs in a circle."""

import numpy as np
import pytest

from copper_sieve.core.convert.baked_occlusion import color_with_occlusion
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.derive.albedo import AlbedoFromPhoto, albedo_from_photo
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.recipe import (
    Cache,
    Evaluation,
    Facts,
    Recipe,
    Settings,
    Source,
    choices,
    fit_of,
    guess_in,
    how_made,
    maps_made,
    mask_choices,
    needs,
    settings_of,
    source_ref,
    with_mask,
    with_origin,
    with_settings,
    with_value,
)
from copper_sieve.core.recipe.settings import Derivation
from copper_sieve.demo.materials import _noise
from copper_sieve.targets import shipped_target
from copper_sieve.work import plan_delivery
from copper_sieve.work.sets import derived_anew

HEIGHT = np.clip(0.5 + 0.25 * _noise(64, 3, 5), 0, 1)
RISE = 0.07
FILES = {
    "photo": np.clip(0.3 + 0.1 * _noise(64, 4, 9), 0, 1)[..., None] * np.ones(3, np.float32),
    "normal": normal_from_height(HEIGHT, RISE) * 0.5 + 0.5,
    "height": np.clip(0.5 + 0.25 * _noise(64, 9, 5), 0, 1),
}


def told(recipe: Recipe, values: dict[str, str]) -> Recipe:
    for path, text in values.items():
        recipe = with_value(recipe, path, text)
    return recipe


def a_recipe(*keys: str) -> Recipe:
    sources = {
        f"s{k}": Source(sha256=str(k) * 64, name=f"{key}.png", width=64, height=64, depth=32, reads={"RGB": key})
        for k, key in enumerate(keys)
    }
    masters = {"base_color" if key == "photo" else key: source_ref(f"s{k}", key) for k, key in enumerate(keys)}
    return Recipe(facts=Facts(width=64, height=64), sources=sources, masters=masters)


def evaluated(recipe: Recipe) -> Evaluation:
    return Evaluation(recipe, None, lambda source: FILES[source.name[:-4]].astype(np.float32), Cache(1 << 28))


def keys(recipe: Recipe, master: str) -> set[str]:
    return {choice.key for choice in choices(recipe, master)}


def test_only_what_works_is_offered():
    both = a_recipe("photo", "normal")
    assert keys(both, "height") >= {"op:height_from_color", "op:height_by_picks", "op:height_from_normal", "one-value", "absent"}
    assert "op:normal_from_height" not in keys(both, "normal")  # there is no height yet
    alone = a_recipe("normal")
    assert not {"op:height_from_color", "op:height_by_picks"} & keys(alone, "height")
    assert "source:s0:photo" in keys(both, "base_color") and "op:albedo_from_photo" in keys(both, "base_color")


def test_a_circle_is_not_offered_and_is_refused():
    recipe = with_origin(a_recipe("normal"), "height", "op:height_from_normal")
    assert "op:normal_from_height" not in keys(recipe, "normal")
    with pytest.raises(RecipeInvalid):
        with_origin(recipe, "normal", "op:normal_from_height")


def test_a_given_map_comes_back_and_a_derivation_keeps_its_parameters():
    recipe = with_origin(a_recipe("photo", "normal"), "height", "op:height_from_color")
    recipe = with_value(recipe, "height.contrast", "1.7")
    other = with_origin(recipe, "height", "one-value")
    assert with_origin(other, "height", "op:height_from_color").nodes["height_from_color"].params["contrast"] == 1.7
    derived = with_origin(recipe, "normal", "op:normal_from_height")
    assert with_origin(derived, "normal", "source:s1:normal").masters == recipe.masters


def test_a_height_from_normals_brings_its_rise_and_leans_as_they_do():
    recipe = derived_anew(evaluated(a_recipe("normal")), "height", "op:height_from_normal")
    found = evaluated(recipe).master("height")
    given = evaluated(recipe).master("normal")
    again = normal_from_height(found, recipe.facts.rise)
    assert np.degrees(np.arccos(np.clip((again * given).sum(-1), -1, 1))).mean() < 2


def test_detail_is_laid_onto_a_given_normal():
    recipe = with_origin(a_recipe("photo", "normal"), "height", "op:height_from_color")
    recipe = with_origin(recipe, "normal", "op:blend_normals")
    flat = recipe.model_copy(
        update={
            "nodes": {
                **recipe.nodes,
                "blend_normals": recipe.nodes["blend_normals"].model_copy(update={"params": {"amount": 0.0}}),
            }
        }
    )
    given = evaluated(a_recipe("photo", "normal")).master("normal")
    np.testing.assert_allclose(evaluated(flat).master("normal"), given, atol=1e-4)
    assert np.abs(evaluated(recipe).master("normal") - given).max() > 0.02


@pytest.mark.parametrize("way", ["turned", "summed"])
@pytest.mark.parametrize("height", ["op:height_from_color", "op:height_by_picks", "op:height_from_normal", "source:s2:height"])
def test_detail_of_any_origin_keeps_the_form_that_was_given(way, height):
    """At a fifth of the detail the given slopes are all there; the way between the vectors left 0.89 of them."""
    recipe = with_origin(a_recipe("photo", "normal", "height"), "height", height)
    given = evaluated(recipe).master("normal")
    for detail in ("op:normal_from_height", "op:normal_from_color"):
        assert f"mix:{detail}" in keys(recipe, "normal"), detail
        mixed = told(with_origin(recipe, "normal", f"mix:{detail}"), {"normal.amount": "0.2", "normal.way": way})
        found = evaluated(mixed).master("normal")
        slopes, before = (values[..., :2] / values[..., 2:] for values in (found, given))
        kept = float((slopes * before).sum() / (before * before).sum())
        assert kept > 0.97, (detail, kept)
        none = evaluated(with_value(mixed, "normal.amount", "0")).master("normal")
        np.testing.assert_allclose(none, given / np.linalg.norm(given, axis=-1, keepdims=True), atol=1e-5)
        assert np.abs(found - given).max() > 1e-3
        other = evaluated(with_value(mixed, "normal.way", "turned" if way == "summed" else "summed")).master("normal")
        assert np.abs(found - other).max() > 1e-6  # the way acts, too
    assert "mixed_normals" not in {node.op for node in mixed.nodes.values()}


def test_detail_comes_in_where_a_mask_is_white():
    recipe = with_origin(a_recipe("photo", "normal"), "opacity", "op:opacity_by_range")
    recipe = with_origin(recipe, "normal", "mix:op:normal_from_color")
    given, everywhere = evaluated(a_recipe("photo", "normal")).master("normal"), evaluated(recipe).master("normal")
    limited = with_mask(recipe, "normal", "master:opacity")
    mask, found = evaluated(limited).master("opacity"), evaluated(limited).master("normal")
    unit = given / np.linalg.norm(given, axis=-1, keepdims=True)
    np.testing.assert_allclose(found[mask == 0], unit[mask == 0], atol=1e-5)
    np.testing.assert_allclose(found[mask == 1], everywhere[mask == 1], atol=1e-5)


def test_every_master_by_picks_is_finite_and_in_its_range():
    recipe = a_recipe("photo")
    for master in ("height", "roughness", "metallic", "opacity", "emissive"):
        chosen = with_origin(recipe, master, f"op:{master}_by_picks")
        values = evaluated(chosen).master(master)
        assert values is not None and np.isfinite(values).all() and 0 <= values.min() and values.max() <= 1


def test_broad_light_is_taken_out_of_a_photo_and_nothing_else():
    x = np.linspace(0, 2 * np.pi, 128, endpoint=False)
    lamp = (1 + 0.5 * np.sin(x))[None, :].repeat(128, 0).astype(np.float32)
    color = np.float32([0.3, 0.2, 0.1]) * (1 + 0.2 * _noise(128, 9, 30)[..., None])
    photo = color_with_occlusion(color.astype(np.float32), lamp / 1.5)
    even = albedo_from_photo(photo, params=AlbedoFromPhoto(evenness=1.0, breadth=0.2))
    columns = even.mean((0, 2))
    assert np.ptp(columns) / columns.mean() < 0.2 * np.ptp(photo.mean((0, 2))) / photo.mean()
    np.testing.assert_allclose(even.mean(), photo.mean(), rtol=0.05)
    same = albedo_from_photo(photo, params=AlbedoFromPhoto(evenness=0))
    np.testing.assert_array_equal(same, photo)


def test_occlusion_may_be_multiplied_into_a_given_color_and_it_is_told_where_it_would_count_twice():
    recipe = derived_anew(evaluated(a_recipe("photo", "normal")), "height", "op:height_from_normal")
    recipe = with_origin(recipe, "occlusion", "op:occlusion_from_height")
    shaded = with_origin(recipe, "base_color", "op:color_with_occlusion")
    plain, dark = (evaluated(r).master("base_color") for r in (recipe, shaded))
    occlusion = evaluated(shaded).master("occlusion")
    np.testing.assert_allclose(dark, plain * occlusion[..., None], atol=1e-5)
    ids = [{f.id for f in plan_delivery(evaluated(r), shipped_target("gltf"), "tulle").findings} for r in (recipe, shaded)]
    assert "occlusion-twice" not in ids[0] and "occlusion-twice" in ids[1]


def test_a_set_is_made_in_the_ways_of_another_and_keeps_what_was_given():
    first = with_origin(a_recipe("photo"), "height", "op:height_by_picks")
    first = with_origin(first, "normal", "op:normal_from_height")
    first = with_origin(first, "emissive", "one-value")
    first = told(first, {"normal.strength": "1.5", "height.smoothing": "0.004", "rise": "0.06"})
    ways = Settings.model_validate_json(settings_of(first).model_dump_json(by_alias=True))
    made, kept = with_settings(a_recipe("photo"), ways)
    assert kept == [] and made.masters == first.masters and made.facts.rise == 0.06
    assert settings_of(made) == ways
    other, kept = with_settings(a_recipe("normal"), ways)
    assert kept == ["height", "normal"] and other.masters["normal"].startswith("source:")
    fit = fit_of(a_recipe("normal"), ways)
    assert (fit.given, fit.lacking) == (["normal"], ["height"])
    assert fit_of(made, ways).changes == [] and "normal" in fit_of(a_recipe("photo"), ways).changes
    steep = {"height": Derivation(op="height_from_color"), "normal": Derivation(op="normal_from_height", params={"strength": 99})}
    with pytest.raises(RecipeInvalid, match="strength"):
        with_settings(a_recipe("photo"), Settings(rise=0.1, masters=steep))


def test_a_given_map_is_mixed_with_a_derived_one_where_a_mask_says():
    recipe = with_origin(a_recipe("photo", "normal"), "height", "op:height_from_color")
    assert {"mix:op:normal_from_height", "mix:op:normal_from_color"} <= keys(recipe, "normal")
    assert not any(key.startswith("mix:") for key in keys(recipe, "height"))  # nobody gave one
    mix = with_value(with_origin(recipe, "normal", "mix:op:normal_from_height"), "normal.amount", "1")
    given, derived = evaluated(recipe).master("normal"), evaluated(mix).master("normal")
    assert np.abs(given - derived).max() > 0.02
    assert {choice.key for choice in mask_choices(mix, "normal")} == {"everywhere", "master:height", "picks"}
    masked = with_mask(mix, "normal", "master:height")
    mask, found = evaluated(masked).master("height"), evaluated(masked).master("normal")
    ends = {low: mask <= np.quantile(mask, 0.02) if low else mask >= np.quantile(mask, 0.98) for low in (True, False)}
    assert np.abs(found - given)[ends[True]].mean() < np.abs(found - derived)[ends[True]].mean()
    assert np.abs(found - given)[ends[False]].mean() > np.abs(found - derived)[ends[False]].mean()
    assert with_mask(masked, "normal", "everywhere").nodes["mix_normal"].inputs.keys() == {"base", "detail"}
    with pytest.raises(RecipeInvalid):
        with_mask(mix, "height", "everywhere")  # it is no mix


def test_a_mask_that_comes_from_the_mix_itself_is_refused():
    recipe = with_origin(a_recipe("photo", "normal"), "curvature", "op:curvature_from_normal")
    mix = with_origin(recipe, "normal", "mix:op:normal_from_color")
    recipe = with_origin(mix, "height", "op:height_from_normal")
    assert "master:height" not in {choice.key for choice in mask_choices(recipe, "normal")}
    with pytest.raises(RecipeInvalid):
        with_mask(recipe, "normal", "master:height")


def test_a_scalar_of_ones_own_is_a_master_like_any_other():
    recipe = a_recipe("photo", "own_edge_wear")
    assert "own_edge_wear" in recipe.keys and recipe.masters["own_edge_wear"] == "source:s1:own_edge_wear"
    assert keys(recipe, "own_edge_wear") >= {"source:s1:own_edge_wear", "one-value", "absent"}
    with pytest.raises(ValueError):
        a_recipe("photo", "wear")


def test_what_a_derivation_lacks_is_said_until_it_is_there():
    alone = a_recipe("normal")
    assert needs(alone, "occlusion") == {"from height": "height"}
    assert needs(a_recipe("height"), "occlusion") == {}
    assert needs(alone, "base_color") == {}  # nothing makes up for the file that it is reworked from
    offered = {choice.title for choice in choices(alone, "occlusion")}
    assert not offered & set(needs(alone, "occlusion"))


def test_bare_metal_shows_on_the_edges_of_a_baked_mesh_and_dirt_lies_in_its_folds():
    """A given color, mixed with one value where the curvature says; each side is one press, and its softness stays."""
    files = {"base_color": np.full((16, 16, 3), 0.2, np.float32), "curvature": np.linspace(0, 1, 256).reshape(16, 16)}
    sources = {
        key: Source(sha256=f"{k:064x}", name=key, width=16, height=16, depth=32, reads={"RGB" if k == 0 else "L": key})
        for k, key in enumerate(files)
    }
    recipe = Recipe(facts=Facts(width=16, height=16), sources=sources, masters={key: source_ref(key, key) for key in files})
    assert "mix:one-value" in keys(recipe, "base_color") and "mix:one-value" not in keys(recipe, "normal")
    mix = with_value(with_origin(recipe, "base_color", "mix:one-value"), "base_color.amount", "1")
    seen = {}
    for side in ("edges", "folds"):
        worn = with_mask(mix, "base_color", side)
        assert [choice.key for choice in mask_choices(worn, "base_color") if choice.is_now] == [side]
        seen[side] = Evaluation(worn, None, lambda source: files[source.name], Cache(1 << 20)).master("base_color")[..., 0]
    bare, plain = seen["edges"].max(), seen["edges"].min()
    assert bare > plain + 0.1
    assert (seen["edges"][:8] == plain).all() and seen["edges"][15, 15] == bare  # curvature grows from the first row to the last
    assert (seen["folds"][8:] == plain).all() and seen["folds"][0, 0] == bare
    assert "picks" not in [choice.key for choice in mask_choices(mix, "base_color")]  # by its own color it would run in a circle


def test_a_set_of_baked_maps_alone_is_worn_by_a_mask_between_two_values():
    """Brass with dirt in its folds, where no file gives a color: what lies under it, what is mixed in, and where."""
    curvature = np.linspace(0, 1, 256, dtype=np.float32).reshape(16, 16)
    source = Source(sha256="0" * 64, name="c", width=16, height=16, depth=32, reads={"L": "curvature"})
    bare = Recipe(facts=Facts(width=16, height=16), sources={"c": source}, masters={"curvature": source_ref("c", "curvature")})
    assert "mix:one-value" not in keys(bare, "roughness")
    plain = with_value(with_origin(bare, "roughness", "one-value"), "roughness.value", "0.3")
    titles = {choice.key: choice.title for choice in choices(plain, "roughness")}
    assert titles["mix:one-value"] == "one value, mixed with another"
    mix = with_mask(with_origin(plain, "roughness", "mix:one-value"), "roughness", "folds")
    flat = with_origin(with_origin(mix, "metallic", "one-value"), "base_color", "one-value")
    assert {choice.key for choice in mask_choices(flat, "roughness")} == {"everywhere", "edges", "folds"}
    other = mix.nodes["second_roughness"].model_copy(update={"params": {"value": 0.9}})
    worn = mix.model_copy(update={"nodes": {**mix.nodes, "second_roughness": other}})
    seen = Evaluation(worn, None, lambda _: curvature, Cache(1 << 20)).master("roughness")
    assert seen[0, 0] == np.float32(0.9) and (seen[8:] == np.float32(0.3)).all()
    assert [choice.title for choice in choices(worn, "roughness") if choice.is_now] == ["one value, mixed with another"]
    assert with_origin(worn, "roughness", "mix:one-value") == worn  # said again it is what it was
    assert with_origin(worn, "roughness", "one-value").masters["roughness"] == "node:one_roughness"


def test_a_derived_map_takes_one_value_where_a_mask_says_and_shapes_do_not():
    recipe = with_origin(with_origin(a_recipe("photo"), "height", "op:height_from_color"), "roughness", "op:roughness_from_color")
    assert not any(key.startswith("mix:") for key in keys(recipe, "height"))
    with pytest.raises(RecipeInvalid):
        with_origin(recipe, "height", "mix:one-value")
    mix = with_mask(with_origin(recipe, "roughness", "mix:one-value"), "roughness", "master:height")
    plain, mixed, mask = (evaluated(r).master(k) for r, k in ((recipe, "roughness"), (mix, "roughness"), (mix, "height")))
    np.testing.assert_allclose(mixed, plain + (np.float32(0.6) - plain) * mask, atol=1e-6)
    kept = settings_of(mix)
    again, left_out = with_settings(a_recipe("photo"), kept)
    assert left_out == [] and settings_of(again).masters["roughness"] == kept.masters["roughness"]
    given = a_recipe("photo", "roughness")
    assert with_settings(given, kept)[0].masters["roughness"] == given.masters["roughness"]  # what a file gives stays


def test_of_what_a_map_is_made_is_said_down_to_its_files():
    def file(name: str, reads: dict[str, str], digest: str) -> FileEntry:
        return FileEntry(digest * 64, name, 8, 8, 8, reads)

    pair = plan_set([file("iron_diffuse.png", {"RGB": "diffuse"}, "1"), file("iron_specular.png", {"RGB": "specular"}, "2")])
    assert how_made(pair, "metallic") == "made of iron_diffuse.png and iron_specular.png"
    guess = how_made(pair, "height")
    assert guess == "guessed from the base color (made of iron_diffuse.png and iron_specular.png)"
    assert how_made(pair, "occlusion") == f"made of the height ({guess}; its rise of 2 % of the width is assumed)"
    photo = plan_set([file("net.jpeg", {"RGB": "photo"}, "3")])
    holed = with_origin(photo, "opacity", "op:opacity_from_color")
    assert how_made(photo, "base_color") is None and how_made(holed, "opacity") == "guessed from net.jpeg"
    given = plan_set([file("oak_height.png", {"L": "height"}, "4")])
    assert maps_made(given)["normal"] == "made of the height (its rise of 2 % of the width is assumed)"
    told = given.model_copy(update={"facts": given.facts.model_copy(update={"rise_from": "told"})})
    assert maps_made(told)["normal"] == "made of the height" and "height" not in maps_made(told)
    assert how_made(with_origin(photo, "roughness", "one-value"), "roughness") is None


def test_a_planned_file_says_which_of_its_maps_are_guessed():
    recipe = with_origin(a_recipe("photo"), "roughness", "op:roughness_from_color")
    recipe = with_origin(with_origin(recipe, "metallic", "one-value"), "height", "op:height_from_color")
    recipe = with_origin(recipe, "normal", "op:normal_from_height")
    guesses = {f.role: f.guesses for f in plan_delivery(evaluated(recipe), shipped_target("gltf"), "tulle").files}
    assert guesses.pop("orm") == ("Roughness: guessed from the base color",)
    assert guesses.pop("normal") == ("Normal: its height is a guess",)
    assert not any(guesses.values())


def test_what_is_guessed_is_told_of_a_mix_too():
    mixed = with_origin(a_recipe("photo", "normal"), "normal", "mix:op:normal_from_color")
    assert guess_in(mixed, "normal") == "in part guessed from the base color"
    assert "(guessed from the base color)" in str(how_made(mixed, "normal"))
    by_height = with_origin(
        with_origin(a_recipe("photo", "normal"), "height", "op:height_from_color"), "normal", "mix:op:normal_from_height"
    )
    assert guess_in(by_height, "normal") == "its height is a guess"
    where = with_mask(
        with_origin(a_recipe("photo", "normal", "height"), "normal", "mix:op:normal_from_height"), "normal", "picks"
    )
    assert "guessed" not in str(how_made(where, "normal"))  # a mask from a color says where, nothing of what
