"""A source's profile: learned from one delivery, it settles the next, and leaves strangers alone."""

import numpy as np

from copper_sieve.core.intake import Ending, Taught, learned, look_at, matched

GRAY = np.random.default_rng(1).integers(60, 200, (32, 32)).astype(np.uint8)
FLAT = np.full((32, 32, 3), (128, 128, 255), np.uint8)
DELIVERY = [
    Taught("quilt-a.x7.png", Ending(kind="roughness", reads={"L": "gloss"})),
    Taught("quilt-a.nn.png", Ending(kind="normal", reads={"RGB": "normal"}), "down"),
    Taught("quilt-a.hgt_2k.png", Ending(kind="height", reads={"L": "height"}, spans={"L": (1.0, 0.0)})),
]
PROFILE = learned("Weaver's", [DELIVERY])


def test_endings_are_kept_as_they_are_spelled():
    assert set(PROFILE.endings) == {".x7", ".nn", ".hgt"} and PROFILE.green == "down"


def test_endings_that_begin_alike_are_kept_whole():
    rows = [Taught(f"hem-a.q{letter}.png", Ending(kind="height", reads={"L": "height"})) for letter in "xy"]
    assert set(learned("Hemmer", [rows]).endings) == {".qx", ".qy"}


def test_the_next_delivery_is_read_without_a_question():
    shine = look_at("drape_05.x7.png", GRAY, PROFILE)
    assert (shine.kind, shine.reads, shine.stem) == ("roughness", {"L": "gloss"}, "drape_05")
    assert shine.confidence > 0.9 and "Weaver's" in shine.because[0]
    normal = look_at("drape_05.nn_4k.png", FLAT, PROFILE)
    assert normal.green is not None and normal.green.answer == "down"
    assert look_at("drape_05.hgt.png", GRAY, PROFILE).spans == {"L": (1.0, 0.0)}


def test_what_the_profile_does_not_know_is_read_as_ever():
    assert look_at("drape_05_ao.png", GRAY, PROFILE).kind == "occlusion"


def test_a_drop_is_matched_by_its_endings_and_a_stranger_is_not():
    other = learned("Dyer's", [[Taught("felt_NRM.tga", Ending(kind="normal", reads={"RGB": "normal"}), "up")]])
    drape = ["drape.x7.png", "drape.nn.png", "drape.hgt.png"]
    assert matched([other, PROFILE], drape) == dict.fromkeys(drape, PROFILE)
    assert matched([other, PROFILE], ["lace_basecolor.png", "lace_normal.png"]) == {}
    assert matched([other, PROFILE], ["drape.x7.png", "drape_basecolor.png", "drape_ao.png"]) == {}
    assert matched([], ["drape.x7.png"]) == {}


def test_two_sources_in_one_drop_are_each_known_by_their_own_files():
    rows = [("felt_NRM.tga", "normal"), ("felt_RGH.tga", "roughness"), ("felt_DIF.tga", "base_color")]
    other = learned("Dyer's", [[Taught(name, Ending(kind=kind, reads={"RGB": kind})) for name, kind in rows]])
    drape = ["drape.x7.png", "drape.nn.png", "drape.hgt.png"]
    felt = ["wool_NRM.tga", "wool_RGH.tga", "wool_DIF.tga", "loden_NRM.tga", "loden_RGH.tga"]
    strangers = ["lace_basecolor.png", "lace_rough.png"]
    found = matched([PROFILE, other], [*drape, *strangers, *felt])
    assert found == dict.fromkeys(drape, PROFILE) | dict.fromkeys(felt, other)


def test_a_profile_is_told_when_the_map_itself_says_otherwise():
    """Green down by the profile; the slopes of a real surface, stored green up, only close the other way."""
    x, y = np.meshgrid(np.arange(96), np.arange(96))
    p, q = 0.4 * np.cos(x / 5) * np.sin(y / 4), 0.5 * np.sin(x / 5) * np.cos(y / 4)
    up = np.stack([-p, q, np.ones_like(p)], -1)
    codes = ((up / np.linalg.norm(up, axis=-1, keepdims=True) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    green = look_at("drape.nn.png", codes, PROFILE).green
    assert green is not None and green.answer == "up"
