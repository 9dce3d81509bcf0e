"""Maps that most sets have not, and words for two maps in one file: known by name, kept as what they are, never as another."""

import numpy as np
import pytest

from copper_sieve.core.intake import look_at

rng = np.random.default_rng(38)
GRAY = rng.integers(30, 220, (32, 32)).astype(np.uint8)
COLOR = np.dstack([GRAY, 255 - GRAY // 2, GRAY // 3])
LEANING = np.dstack([GRAY // 8 + 112, 128 - GRAY // 8, np.full_like(GRAY, 253)])
CUT = np.where(GRAY > 120, 255, 0).astype(np.uint8)


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("car_paint_ClearCoat.png", "own_coat"),
        ("car_paint_clearcoat_roughness_2k.png", "own_coat_roughness"),
        ("car_paint_CoatRoughness_v02.tif", "own_coat_roughness"),
        ("car_paint_SheenRoughness.png", "own_sheen_roughness"),
        ("car_paint_4K_Fuzz.png", "own_sheen"),
        ("car_paint_SSS.png", "own_subsurface"),
        ("car_paint_translucency.png", "own_translucency"),
        ("car_paint_Transmission.png", "own_transmission"),
        ("car_paint_anisotropy_rotation.png", "own_anisotropy_rotation"),
        ("car_paint_detail_mask.png", "own_detail_mask"),
        ("car_paint_Dust Mask.png", "own_dust_mask"),
        ("car_paint_mask.png", "opacity"),
    ],
)
def test_a_gray_that_most_sets_have_not_is_a_map_of_its_own_in_its_set(name, kind):
    look = look_at(name, GRAY)
    assert (look.kind, look.reads, look.stem.removesuffix("_4K")) == (kind, {"L": kind}, "car_paint")


@pytest.mark.parametrize(
    ("name", "codes", "kind", "stem"),
    [
        ("felt_Diffuse_Color.png", COLOR, "diffuse", "felt"),
        ("felt_EmissionColor_2K.png", COLOR, "emissive", "felt"),
        ("felt_Metallic_Mask.png", GRAY, "metallic", "felt"),
        ("felt_AO_Mask.png", GRAY, "occlusion", "felt"),
        ("felt_RoughnessLevel.png", GRAY, "roughness", "felt"),
        ("felt_SpecularLevel.png", GRAY, "specular_level", "felt"),
        ("felt_Concavity.png", GRAY, "curvature", "felt"),
        ("felt_COL_VAR2_3K.jpg", COLOR, "base_color", "felt"),
        # what names a thing goes on doing so
        ("blue_metal_Color.png", COLOR, "base_color", "blue_metal"),
        ("car_R_Color.png", COLOR, "base_color", "car_R"),
        ("rusty_Metal_Mask.png", GRAY, "opacity", "rusty_Metal"),
        ("blue_Metallic_Color.png", COLOR, "base_color", "blue_Metallic"),
        ("felt_Roughness Old.png", GRAY, "roughness", "felt Old"),
        ("felt_ColorMask.png", GRAY, "own_tint_mask", "felt"),
    ],
)
def test_a_word_that_says_more_of_a_map_is_no_map_of_its_own(name, codes, kind, stem):
    look = look_at(name, codes)
    assert (look.kind, look.stem.removesuffix("_2K").removesuffix("_3K")) == (kind, stem)


@pytest.mark.parametrize(
    ("name", "codes"),
    [
        ("felt_sheenColor.png", COLOR),
        ("felt_sheen.png", COLOR),
        ("felt_bent_normal.png", LEANING),
        ("felt_ClearcoatNormal.png", LEANING),
        ("felt_flow.png", LEANING),
    ],
)
def test_what_no_map_holds_waits_in_its_set_and_is_taken_for_no_other(name, codes):
    look = look_at(name, codes)
    assert (look.kind, look.reads, look.stem) == ("unknown", {}, "felt")
    assert "no map here holds that" in look.because[-1]


def test_a_coat_in_color_with_no_blue_holds_its_roughness_too():
    look = look_at("felt_coat.png", np.dstack([GRAY, 255 - GRAY // 2, np.zeros_like(GRAY)]))
    assert (look.kind, look.reads, look.stem) == ("packed", {"R": "own_coat", "G": "own_coat_roughness"}, "felt")
    assert "as glTF lays a coat" in look.because[-1]


@pytest.mark.parametrize(("codes", "kind"), [(COLOR, "photo"), (GRAY, "unknown")])
def test_a_whole_name_that_is_such_a_word_is_the_name_of_a_thing(codes, kind):
    assert look_at("coat.png", codes).kind == kind


@pytest.mark.parametrize(
    ("name", "alpha", "kind", "reads"),
    [
        ("leaf_AlbedoOpacity.png", CUT, "base_color", {"RGB": "base_color", "A": "opacity"}),
        ("leaf_AlbedoOpacity.png", GRAY, "base_color", {"RGB": "base_color", "A": "opacity"}),
        ("leaf_BaseColor_Alpha.tga", GRAY, "base_color", {"RGB": "base_color", "A": "opacity"}),
        ("leaf_AlbedoSmoothness.png", GRAY, "base_color", {"RGB": "base_color", "A": "gloss"}),
        ("leaf_SpecularSmoothness.png", GRAY, "specular", {"RGB": "specular", "A": "gloss"}),
        ("leaf_DiffuseAO.png", GRAY, "diffuse", {"RGB": "diffuse", "A": "occlusion"}),
    ],
)
def test_a_word_for_two_maps_says_what_the_alpha_holds(name, alpha, kind, reads):
    look = look_at(name, np.dstack([COLOR, alpha]))
    assert (look.kind, look.reads, look.stem) == (kind, reads, "leaf")


def test_a_word_for_two_maps_of_a_file_with_one_is_for_the_one_that_it_holds():
    assert look_at("leaf_AlbedoOpacity.png", COLOR).reads == {"RGB": "base_color"}
    assert look_at("leaf_AlbedoOpacity.png", CUT).reads == {"L": "opacity"}
    full = np.dstack([COLOR, np.full_like(GRAY, 255)])
    assert look_at("leaf_AlbedoOpacity.png", full).reads == {"RGB": "base_color"}  # an alpha that says nothing


def test_normals_with_gloss_by_name_are_not_asked_for_what_their_alpha_is():
    look = look_at("leaf_NormalGloss.png", np.dstack([LEANING, GRAY]))
    assert (look.kind, look.reads, look.is_alpha_open) == ("normal", {"RGB": "normal", "A": "gloss"}, False)
