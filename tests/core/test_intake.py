"""What a file is, by name and by content, and whether it repeats."""

import numpy as np
import pytest

from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.intake import FileEntry, grown, held, look_at, plan_set
from copper_sieve.core.intake.names import read_name
from copper_sieve.core.recipe import check_recipe, origin_of
from copper_sieve.demo.materials import MATERIALS


@pytest.mark.parametrize(
    ("name", "kind", "stem"),
    [
        ("velours_2K_Roughness.png", "roughness", "velours_2K"),
        ("velours_normal.tga", "normal", "velours"),
        ("Étoffe à fleurs_AO.png", "occlusion", "Étoffe à fleurs"),
        ("satinBaseColor.png", "base_color", "satin"),
        ("satin-nrm-2048.exr", "normal", "satin"),
        ("gown_ORM.tga", "packed:orm", "gown"),
        ("n.png", None, "n"),
        ("holiday in spring.jpg", None, "holiday in spring"),
    ],
)
def test_names_of_the_trade(name, kind, stem):
    reading = read_name(name)
    assert (reading.kind, reading.stem) == (kind, stem)


def test_content_outvotes_a_name_that_lies():
    rng = np.random.default_rng(4)
    blue_violet = np.concatenate([rng.normal(0, 0.2, (64, 64, 2)), np.ones((64, 64, 1))], -1)
    blue_violet /= np.linalg.norm(blue_violet, axis=-1, keepdims=True)
    codes = ((blue_violet * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    lies = look_at("silk_basecolor.png", codes)
    assert lies.confidence <= 0.6 and "normal" in " ".join(lies.because)
    assert look_at("IMG_0231.png", codes).kind == "normal"


def test_every_demo_picture_of_color_repeats_and_a_lit_photo_does_not():
    for material in MATERIALS:
        for file in material.files(256):
            if file.kind in ("base_color", "photo"):
                assert look_at(file.name, file.codes).tiles == (True, True), file.name
    ramp = np.linspace(40, 200, 128).astype(np.uint8)
    grain = np.random.default_rng(5).integers(0, 8, (128, 128)).astype(np.uint8)
    photo = np.repeat((ramp[None, :] + grain)[..., None], 3, -1)
    assert look_at("photo.png", photo).tiles == (False, True)


def test_what_is_cut_out_all_around_stands_alone():
    y, x = np.mgrid[-1:1:64j, -1:1:64j]
    round_one = np.where(np.hypot(x, y) < 0.8, 255, 0).astype(np.uint8)
    strip = np.where(np.abs(y) < 0.8, 255, 0).astype(np.uint8)  # goes on to the left and right
    color = np.full((64, 64, 3), 200, np.uint8)
    assert look_at("sticker_basecolor.png", np.dstack([color, round_one])).tiles == (False, False)
    assert look_at("sticker_opacity.png", round_one).tiles == (False, False)
    assert look_at("fence_basecolor.png", np.dstack([color, strip])).tiles == (True, True)
    assert look_at("sticker_roughness.png", round_one).tiles == (True, True)  # black there is no hole


def test_a_name_settles_green_only_where_the_map_cannot():
    flat = np.full((32, 32, 3), (128, 128, 255), np.uint8)
    assert look_at("silk_NormalDX.png", flat).green.answer == "down"
    assert look_at("silk_normal_gl_2k.png", flat).green.answer == "up"
    assert look_at("silk_normal.png", flat).green.answer == "unsure"
    down = next(m for m in MATERIALS if m.name == "Gilt brocade").files(256)[3].codes
    assert look_at("silk_NormalGL.png", down).green.answer == "down"  # the slopes are the better witness


def test_an_alpha_is_opacity_only_where_it_cuts_out_and_height_beside_a_normal():
    rng = np.random.default_rng(7)
    color = rng.integers(0, 255, (64, 64, 3)).astype(np.uint8)
    holes = np.where(rng.random((64, 64)) < 0.5, 0, 255).astype(np.uint8)
    gray = rng.integers(60, 200, (64, 64)).astype(np.uint8)
    assert look_at("net_basecolor.png", np.dstack([color, holes])).reads == {"RGB": "base_color", "A": "opacity"}
    assert look_at("net_basecolor.png", np.dstack([color, gray])).reads == {"RGB": "base_color"}
    normal = np.full((64, 64, 3), (128, 128, 255), np.uint8)
    flat = look_at("net_normal.png", np.dstack([normal, gray]))
    assert flat.reads == {"RGB": "normal"} and flat.is_alpha_open  # nothing tells what that is


def test_a_color_picture_named_for_what_it_shows_is_no_data_map():
    color = np.random.default_rng(8).integers(0, 255, (64, 64, 3)).astype(np.uint8)
    shows = look_at("metal02.png", color)
    assert (shows.kind, shows.stem) == ("photo", "metal02")
    assert look_at("clasp_metal.png", color).confidence <= 0.6


def more(kind: str, name: str = "felt_more.png", **told) -> FileEntry:
    return FileEntry("e" * 64, name, 8, 8, 8, {"RGB" if kind in ("base_color", "normal") else "L": kind}, **told)


def bare_set():
    """A color whose height, normal, occlusion and roughness are derived."""
    return plan_set([FileEntry("0" * 64, "felt_color.png", 8, 8, 8, {"RGB": "base_color"})])


def test_a_file_for_a_derived_map_gives_it_from_now_on_and_what_follows_stays():
    grown_set = grown(bare_set(), [more("height")], replace=False)
    assert origin_of(grown_set, "height") == "given" and origin_of(grown_set, "normal") == "derived"
    assert "height" not in grown_set.nodes  # the step that made it feeds nothing any more
    check_recipe(grown_set)


def test_a_second_file_of_a_given_map_lies_beside_it_or_takes_its_place():
    beside = grown(bare_set(), [more("base_color")], replace=False)
    assert beside.source_of("base_color")[1].name == "felt_color.png" and len(beside.sources) == 2
    instead = grown(bare_set(), [more("base_color")], replace=True)
    assert [source.name for source in instead.sources.values()] == ["felt_more.png"]
    assert origin_of(instead, "normal") == "derived"


def test_a_packed_file_is_kept_while_any_of_its_maps_is_used():
    packed = FileEntry("1" * 64, "felt_orm.png", 8, 8, 8, {"R": "occlusion", "G": "roughness", "B": "metallic"})
    whole = plan_set([FileEntry("0" * 64, "felt_color.png", 8, 8, 8, {"RGB": "base_color"}), packed])
    instead = grown(whole, [more("roughness")], replace=True)
    assert instead.source_of("roughness")[1].name == "felt_more.png"
    assert instead.source_of("metallic")[1].name == "felt_orm.png"


def test_files_of_which_nothing_is_read_are_refused():
    with pytest.raises(RecipeInvalid, match="Say what"):
        grown(bare_set(), [FileEntry("2" * 64, "felt_x.png", 8, 8, 8, {})], replace=False)


DIFFUSE, SPECULAR = ({"RGB": "diffuse"}, {"RGB": "specular"})


def told(name: str, reads: dict[str, str], digest: str = "d") -> FileEntry:
    return FileEntry(digest * 64, name, 8, 8, 8, reads)


def test_the_second_file_of_a_pair_is_used_when_it_comes_later():
    diffuse, specular = told("iron_diffuse.png", DIFFUSE), told("iron_specular.png", SPECULAR, "5")
    for first, second in ((diffuse, specular), (specular, diffuse)):
        whole = grown(plan_set([first, told("iron_rough.png", {"L": "roughness"}, "7")]), [second], replace=False)
        made = {key: origin_of(whole, key) for key in ("base_color", "metallic", "reflectance", "roughness")}
        assert made == {**dict.fromkeys(("base_color", "metallic", "reflectance"), "derived"), "roughness": "given"}
        assert {whole.masters[key].name for key in ("base_color", "metallic", "reflectance")} == {"split"}
        check_recipe(whole)
    shaded = plan_set([told("oak_color.png", {"RGB": "shaded_color"})])
    assert grown(shaded, [told("oak_ao.png", {"L": "occlusion"}, "a")], replace=False).masters["base_color"].name == "unshade"
    level = grown(bare_set(), [told("felt_specular.png", {"L": "specular"}, "5")], replace=False)
    assert level.masters["reflectance"].part == "specular_level"  # beside a base color, as at intake


def test_a_pair_gives_its_maps_and_a_further_file_asks_before_it_takes_them():
    pair = plan_set([told("iron_diffuse.png", DIFFUSE), told("iron_specular.png", SPECULAR, "5")])
    photo = told("iron_more.png", {"RGB": "photo"}, "9")
    assert held(pair)["photo"] == held(pair)["diffuse"] == "base_color" and held(pair)["specular"] == "specular"
    assert grown(pair, [photo], replace=False).masters == pair.masters
    assert grown(pair, [photo], replace=True).masters["base_color"].part == "photo"
    shinier = told("iron_b_specular.png", SPECULAR, "6")
    assert grown(pair, [shinier], replace=False).nodes["split"] == pair.nodes["split"]
    instead = grown(pair, [shinier], replace=True)
    assert sorted(source.name for source in instead.sources.values()) == ["iron_b_specular.png", "iron_diffuse.png"]
    assert instead.masters == pair.masters
    assert "specular" not in held(plan_set([told("iron_diffuse.png", DIFFUSE)]))  # is waited for


def test_what_is_only_guessed_from_a_file_gives_way():
    guessed = held(bare_set())
    assert "base_color" in guessed and not {"roughness", "height", "normal", "opacity"} & set(guessed)
