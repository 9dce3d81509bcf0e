"""What the others of its set tell of a file, unless anything or anybody says otherwise."""

from dataclasses import replace

import pytest

from copper_sieve.core.intake import Candidate, arranged, read_by_set, readings_by_set

NORMAL = Candidate("n", "slate_nm.png", "slate", 64, 64, "normal", {"RGB": "normal", "A": "height"})
SPECULAR = Candidate("s", "slate_sm.png", "slate", 64, 64, "specular", {"RGB": "specular"})
PHOTO = Candidate("p", "Slate.PNG", "Slate", 128, 128, "photo", {"RGB": "photo", "A": "opacity"}, is_named=False, letters="RGBA")
GRAY = replace(PHOTO, kind="unknown", reads={}, letters="RGB")  # snow: a color picture without color


def said(*files: Candidate) -> dict[str, str]:
    return {letters: key for one in readings_by_set(files).values() for letters, key in one.reads.items()}


def test_it_is_the_color_and_its_alpha_stays_what_it_was():
    assert said(NORMAL, PHOTO) == {"RGB": "base_color", "A": "opacity"}
    assert said(NORMAL, GRAY) == {"RGB": "base_color"}
    assert said(NORMAL, replace(GRAY, letters="L", kind="occlusion", reads={"L": "occlusion"})) == {"L": "base_color"}
    assert said(replace(NORMAL, kind="roughness", reads={"L": "roughness"}), PHOTO)["RGB"] == "base_color"


def test_a_word_for_a_map_is_none_where_it_is_the_whole_name_of_the_set():
    metal = replace(GRAY, name="metal_01.png", set_name="textures", kind="metallic", reads={"RGB": "metallic"}, is_named=True)
    normal = replace(NORMAL, name="Metal_01_nm.png", set_name="Metal_01")
    (found,) = readings_by_set([metal, normal]).values()
    assert (found.set_name, found.reads) == ("Metal_01", {"RGB": "base_color"})
    assert not said(metal, replace(normal, set_name="textures"))  # it is named by its map alone, as the others are
    in_folder = [
        replace(one, name=name, set_name="metal", folder="metal") for one, name in ((metal, "metal.png"), (normal, "n.png"))
    ]
    assert not said(*in_folder)  # a folder of that name


def test_a_letter_that_says_little_is_believed_beside_the_other_maps_of_its_set():
    names = ["slate_c.png", "slate_i.png", "wall09b_c.png"]
    weak = [replace(GRAY, name=name, set_name=name.removesuffix(".png")) for name in names]
    wall = replace(NORMAL, name="wall09b_n.png", set_name="wall09b")
    found = readings_by_set([NORMAL, wall, *weak])
    assert [(one.set_name, one.kind) for one in found.values()] == [
        ("slate", "base_color"),
        ("slate", "emissive"),
        ("wall09b", "base_color"),
    ]
    assert not readings_by_set(weak)  # tile_a, tile_b, tile_c are three tiles
    assert readings_by_set([NORMAL, replace(weak[1], letters="L")])[1].reads == {"L": "emissive"}
    glow = replace(PHOTO, name="slate_i.png", set_name="slate_i")
    assert readings_by_set([NORMAL, glow])[1].reads == {"RGB": "emissive"}  # its alpha is not the set's opacity


def test_beside_a_specular_in_color_it_is_diffuse():
    assert said(SPECULAR, PHOTO)["RGB"] == "diffuse"
    assert said(replace(SPECULAR, reads={"L": "specular"}), PHOTO)["RGB"] == "base_color"


def test_a_color_of_either_workflow_is_diffuse_beside_a_specular_in_color():
    color = Candidate("c", "slate_cc.png", "slate", 64, 64, "base_color", {"RGB": "base_color", "A": "opacity"})
    assert said(color, SPECULAR) == {"RGB": "diffuse", "A": "opacity"}
    metallic = replace(NORMAL, name="slate_m.png", kind="metallic", reads={"L": "metallic"})
    for files in ((color, SPECULAR, metallic), (replace(color, name="slate_albedo.png"), SPECULAR), (color, NORMAL)):
        assert not said(*files)
    assert not said(replace(color, is_kind_told=True), SPECULAR)
    assert not said(color, replace(SPECULAR, reads={"L": "specular"}))  # a level of reflectance


def test_the_only_other_picture_beside_maps_called_after_their_folder_is_the_color():
    norm = replace(NORMAL, name="norm.png", set_name="claw", folder="weapons/claw")
    skin = replace(PHOTO, name="skin.png", set_name="skin", folder="weapons/claw")
    copy = replace(skin, sha256="q", name="skin.dds")
    found = readings_by_set([norm, skin, copy])
    assert [(one.set_name, one.kind) for one in found.values()] == [("claw", "base_color")] * 2
    assert not readings_by_set([norm, skin, replace(skin, name="skin-b.png", set_name="skin-b")])
    assert not readings_by_set([norm, replace(skin, folder="weapons")])
    loose = [replace(norm, folder="", set_name="unnamed"), replace(skin, folder="")]
    assert not readings_by_set(loose) and {row.set_name for row in arranged(loose)} == {"skin"}
    assert not readings_by_set([replace(norm, name="claw_norm.png"), skin])  # a set of its own name: skin may be anything


def test_pictures_called_by_letters_in_a_row_are_each_of_their_own():
    row = [replace(PHOTO, name=f"tile1{letter}.jpg", set_name=f"tile1{letter}") for letter in "abc"]
    d, e = (
        Candidate(kind, f"tile1{letter}.jpg", "tile1", 64, 64, kind, {"RGB": kind}, letters="RGB")
        for letter, kind in (("d", "diffuse"), ("e", "emissive"))
    )
    assert {files.set_name: files.kind for files in readings_by_set([*row, d, e]).values()} == {
        "tile1d": "photo",
        "tile1e": "photo",
    }
    for files in ([*row[:2], d], [*row[:1], d, e], [d, e], [*row, replace(d, is_kind_told=True)]):
        assert not readings_by_set(files)
    apart = [replace(one, name=one.name.replace("tile1", "tile1_")) for one in (*row, d)]
    assert not readings_by_set(apart)


@pytest.mark.parametrize(
    ("what", "files"),
    {
        "the set has a color": (NORMAL, replace(NORMAL, name="slate_d.png", reads={"RGB": "base_color"}), PHOTO),
        "a height alone may be somebody's own, of a photo": (replace(NORMAL, reads={"L": "height"}), PHOTO),
        "nothing is taken of the other": (replace(NORMAL, reads={}), PHOTO),
        "an alpha would be lost": (NORMAL, replace(GRAY, letters="LA")),
        "another folder": (replace(NORMAL, folder="other"), PHOTO),
        "another name": (NORMAL, replace(PHOTO, name="slate_wet.png", set_name="slate_wet")),
        "another shape": (NORMAL, replace(PHOTO, width=200)),
        "a person said that it is a photo": (NORMAL, replace(PHOTO, is_kind_told=True)),
        "a person said whose it is": (NORMAL, replace(PHOTO, is_set_told=True)),
        "its name says what it is": (NORMAL, replace(PHOTO, name="slate_rough.png", kind="roughness", is_named=True)),
    }.items(),
)
def test_it_is_not_said_where(what, files):
    assert not said(*files), what


def test_what_was_left_out_for_want_of_a_name_is_taken_with_its_set():
    files = [NORMAL, GRAY]
    rows = arranged([read_by_set(file, readings_by_set(files).get(k)) for k, file in enumerate(files)])
    assert [row.reads for row in rows] == [NORMAL.reads, {"RGB": "base_color"}] and rows[0].set_name == rows[1].set_name


def test_of_two_sets_one_of_which_begins_like_the_other_each_has_its_own():
    small = replace(PHOTO, name="slate.png", set_name="slate", width=64, height=64)
    wet = [replace(one, name=f"slate_{part}", set_name="slate_wet") for one, part in ((NORMAL, "wet_nm.png"), (small, "wet.png"))]
    files = [NORMAL, small, *wet]
    rows = arranged([read_by_set(file, readings_by_set(files).get(k)) for k, file in enumerate(files)])
    assert [row.set_name for row in rows] == ["slate", "slate", "slate_wet", "slate_wet"] and not any(row.lost for row in rows)
