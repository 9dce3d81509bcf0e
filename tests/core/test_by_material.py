"""What a material says of a picture goes; where it says nothing that we know, nobody guesses."""

import numpy as np
import pytest

from copper_sieve.core.intake.by_material import by_material
from copper_sieve.core.intake.looks import look_at
from copper_sieve.core.intake.materials import Reading

LEAN = np.zeros((16, 16, 3), np.uint8) + np.uint8([128, 128, 255])
HOLED = np.dstack([LEAN, np.where(np.arange(256).reshape(16, 16) % 3, 255, 0)]).astype(np.uint8)

GLASS = {"G": "roughness", "B": "metallic", "R": "own_transmission"}


@pytest.mark.parametrize(
    "slots, is_cut, kind, reads",
    [
        (("baseColorTexture",), False, "base_color", {"RGB": "base_color"}),
        (("baseColorTexture",), True, "base_color", {"RGB": "base_color", "A": "opacity"}),
        (("metallicRoughnessTexture",), True, "packed", {"G": "roughness", "B": "metallic"}),
        (("specularGlossinessTexture",), False, "packed", {"RGB": "specular", "A": "gloss"}),
        (("normalTexture", "clearcoatNormalTexture"), False, "normal", {"RGB": "normal"}),
        (("sheenColorTexture",), False, "unknown", {}),
        (("clearcoatTexture", "clearcoatRoughnessTexture"), False, "packed", {"R": "own_coat", "G": "own_coat_roughness"}),
        (("metallicRoughnessTexture", "transmissionTexture"), False, "packed", GLASS),
    ],
)
def test_a_slot_settles_what_a_picture_is(slots, is_cut, kind, reads):
    told = by_material(look_at("roughness.png", HOLED), Reading(slots, "felt", "felt", is_cut))
    assert (told.kind, told.reads, told.stem) == (kind, reads, "felt")
    assert (told.green is not None and told.green.answer == "up") == (kind == "normal")


@pytest.mark.parametrize(
    "name, slots, kind, reads",
    [
        ("texture 4.png", ("map_Kd",), "base_color", {"RGB": "base_color", "A": "opacity"}),
        ("crate_roughness.png", ("map_Kd",), "roughness", {"RGB": "roughness"}),  # the name goes before a word used for much
        ("texture 4.png", ("map_Pr:g", "map_Pm:b"), "packed", {"G": "roughness", "B": "metallic"}),
        ("crate_roughness.png", ("map_d:m",), "packed", {"A": "opacity"}),
        ("texture 4.png", ("map_Pr:l",), "roughness", {"RGB": "roughness"}),
        ("texture 4.png", ("map_Bump",), "normal", {"RGB": "normal"}),
        ("texture 4.png", ("map_Ka",), "normal", {"RGB": "normal"}),  # a word that says nothing: by the pixels
    ],
)
def test_a_word_of_mtl_says_what_the_name_of_a_picture_does_not(name, slots, kind, reads):
    told = by_material(look_at(name, HOLED), Reading(slots, "felt", "felt"))
    assert (told.kind, told.reads, told.stem) == (kind, reads, "felt")


def test_a_bump_of_grays_is_a_height_and_what_has_no_name_is_called_by_its_mesh():
    grays = np.random.default_rng(3).integers(0, 255, (32, 32)).astype(np.uint8)
    told = by_material(look_at("texture 9.png", grays), Reading(("map_Bump",), "", "crate"))
    assert (told.kind, told.reads, told.stem, told.green) == ("height", {"L": "height"}, "crate", None)


def test_what_its_material_makes_of_a_picture_is_kept_for_the_maps_that_are_read_and_the_rest_is_told():
    corrections = {"roughness": {"times": 0.5}, "opacity": {"times": 0.25}}
    reading = Reading(("metallicRoughnessTexture",), "felt", "felt", False, corrections, "it turns the UV")
    told = by_material(look_at("a.png", LEAN), reading)
    done = "the mesh’s material “felt” reads it so, and multiplies roughness by 0.5, kept as a correction"
    assert told.corrections == {"roughness": {"times": 0.5}}
    assert told.because == (f"{done}; not done here: it turns the UV",)


@pytest.mark.parametrize("slots, reads", [(("occlusionTexture",), {"L": "occlusion"}), (("metallicRoughnessTexture",), {})])
def test_one_channel_stands_for_all_three_and_holds_no_two_maps(slots, reads):
    told = by_material(look_at("m.png", LEAN[..., 0]), Reading(slots, "felt", "felt"))
    assert told.reads == reads and told.kind == (reads.get("L") or "unknown")


def test_what_is_none_of_the_maps_has_no_span_of_one():
    look = look_at("felt_normal.exr", LEAN.astype(np.float32) / 255 * 2 - 1)
    assert look.spans == {"RGB": (-1, 1)}
    told = by_material(look, Reading(("sheenColorTexture",), "felt", "felt"))
    assert (told.kind, told.reads, told.spans) == ("unknown", {}, {})
