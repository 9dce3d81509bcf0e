"""Pictures that show a material beside its maps are told from maps, and from materials of their own."""

import pytest

from copper_sieve.core.intake import Candidate, arranged

MAPS = {"Color": "base_color", "NormalGL": "normal", "Roughness": "roughness"}


def of_set(name: str, folder: str = "", maps=MAPS) -> list[Candidate]:
    return [
        Candidate(f"{name}{word}", f"{name}_{word}.jpg", name, 64, 64, kind, {"RGB": kind}, folder) for word, kind in maps.items()
    ]


def photo(name: str, folder: str = "", **more) -> Candidate:
    stem = name.rpartition(".")[0]
    return Candidate(f"of {name}", name, stem, 256, 256, "photo", {"RGB": "photo"}, folder, is_named=False, **more)


def rows(*files: Candidate) -> dict[str, tuple[str, str | None]]:
    found = arranged(files)
    return {file.name: (row.set_name, row.relation) for file, row in zip(files, found) if file.kind == "photo"}


@pytest.mark.parametrize(
    "name",
    [
        *("Cloth066_1K-JPG.png", "Cloth066.png", "cloth066.jpg", "Cloth066_Preview.png", "Cloth066_preview2.jpg", "preview.jpg"),
        *("Thumb.png", "Cloth066_Sphere.png", "Cloth066 render 1.png", "cover.jpg"),
        *("Vorschau.jpeg", "Aperçu Cloth066.png", "Cloth066_vista_previa.png"),
    ],
)
def test_a_picture_of_the_sets_name_shows_it(name):
    files = [*of_set("Cloth066_1K-JPG"), photo(name)]
    assert rows(*files) == {name: ("Cloth066_1K-JPG", "preview")}
    (shown,) = (row for row in arranged(files) if row.relation == "preview")
    assert not shown.reads and files[shown.lost_to or 0].kind == "base_color"


def test_a_gray_picture_shows_the_set_only_where_it_is_called_so():
    def gray(name: str) -> Candidate:
        return Candidate(name, name, "Concrete", 256, 256, "unknown", {}, is_named=False)

    found = arranged([*of_set("Concrete"), gray("Concrete_preview.png"), gray("Concrete.png")])
    assert [row.relation for row in found[-2:]] == ["preview", None]


@pytest.mark.parametrize("name", ["Cloth067.png", "brick.jpg", "Cloth066_detail.png", "IMG_2040.jpg"])
def test_another_picture_is_a_material_of_its_own(name):
    assert rows(*of_set("Cloth066_1K"), photo(name)) == {name: (name.rpartition(".")[0], None)}


def test_a_photo_is_the_color_of_a_set_that_has_none():
    bare = of_set("cloth", maps={"NormalGL": "normal", "Roughness": "roughness", "Height": "height"})
    assert rows(*bare, photo("cloth.jpg")) == {"cloth.jpg": ("cloth", None)}


def test_of_two_sets_a_preview_of_neither_name_shows_none_and_folders_keep_apart():
    two = [*of_set("cloth_a", "pack/a"), *of_set("cloth_b", "pack/b")]
    found = rows(*two, photo("preview.png", "pack"), photo("thumb.jpg", "pack/a"), photo("cloth_b.png", "pack"))
    assert found == {
        "preview.png": ("preview", None),
        "thumb.jpg": ("cloth_a", "preview"),
        "cloth_b.png": ("cloth_b", "preview"),
    }
    assert rows(*of_set("cloth", "one"), photo("cloth.png", "two"))["cloth.png"][1] is None


def test_a_person_has_the_last_word():
    assert rows(*of_set("cloth"), photo("cloth_render.png", is_set_told=True)) == {"cloth_render.png": ("cloth_render", None)}


def test_a_picture_of_one_of_two_folders_goes_where_that_set_goes():
    files = [*of_set("cloth", "1K"), *of_set("cloth", "2K"), photo("cloth.png", "2K")]
    found = arranged(files)
    assert found[-1].relation == "preview" and found[-1].set_name == found[3].set_name != found[0].set_name
