"""What several meshes say of the files that came along, together."""

import pytest

from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.intake import FileEntry, plan_set, with_values
from copper_sieve.core.intake.materials import Hearing, PictureBeside, Reading, called_after, readings_of
from copper_sieve.core.mesh.arranging import MeshOffer, wearings_of


def use(name: str, slot: str, material: str, folder: str = "") -> PictureBeside:
    return PictureBeside(name, folder, Reading((slot,), material, material or "hat"))


def test_a_file_is_read_by_every_slot_that_names_it():
    arm = [use("ARM.png", "map_Pr:g", "felt"), use("arm.png", "map_Pm:b", "felt")]
    ((reading, set_name), other) = readings_of([Hearing("arm.png", "", "arm"), Hearing("x.png", "", "x")], arm)
    assert (reading.slots, reading.material, set_name) == (("map_Pr:g", "map_Pm:b"), "felt", "felt")
    assert other == (None, "x")


def test_of_several_files_of_one_name_the_one_counts_that_lies_where_the_material_says():
    files = [Hearing("c.png", "iron", "c"), Hearing("c.png", "Wood", "c")]
    found = readings_of(files, [use("c.png", "map_Kd", "oak", "wood")])
    assert [reading is not None for reading, _ in found] == [False, True]
    twice = readings_of([*files, files[1]], [use("c.png", "map_Kd", "oak", "wood")])
    assert [reading for reading, _ in twice] == [None] * 3  # which of the two is meant, nobody says


def test_what_several_materials_share_keeps_its_own_set():
    shared = [use("c.png", "map_Kd", "A"), use("c.png", "map_Kd", "")]
    ((reading, set_name),) = readings_of([Hearing("c.png", "", "atlas")], shared)
    assert (reading.material, reading.called, set_name, reading.slots) == ("", "atlas", "atlas", ("map_Kd",))


@pytest.mark.parametrize(
    "numbers, kept, undone",
    [((0.5, 0.5), {"base_color": {"red": 0.5}}, ""), ((0.5, 1), {}, "each of its materials multiplies it by other numbers")],
)
def test_a_shared_file_is_corrected_where_all_its_materials_agree(numbers, kept, undone):
    corrections = [{"base_color": {"red": number}} if number != 1 else {} for number in numbers]
    shared = [PictureBeside("c.png", "", Reading(("map",), name, name, False, made)) for name, made in zip("AB", corrections)]
    ((reading, _),) = readings_of([Hearing("c.png", "", "atlas")], shared)
    assert (reading.corrections, reading.undone) == (kept, undone)


def test_the_rest_of_a_set_goes_along_unless_the_set_parts():
    files = [Hearing(f"a_{k}.png", "", "a") for k in "chn"]
    together = [use("a_c.png", "map_Kd", "M"), use("a_n.png", "norm", "M")]
    assert [name for _, name in readings_of(files, together)] == ["M", "M", "M"]
    parted = [use("a_c.png", "map_Kd", "M"), use("a_n.png", "norm", "N")]
    assert [name for _, name in readings_of(files, parted)] == ["M", "a", "N"]


def test_materials_whose_names_tell_nothing_are_called_by_their_meshes_and_worn_by_them():
    offers = [MeshOffer("hat", 9, (("Material.001", 9),)), MeshOffer("shoe", 9, (("Material.001", 4), ("Felt", 5), ("", 3)))]
    called = [called_after(name, "shoe", is_only=False) for name in ("Material.001", "Felt", "")]
    assert called == ["shoe Material.001", "Felt", "shoe"]
    found = wearings_of(offers, ["hat", *called])
    assert [(one.set_name, one.low, one.material) for one in found.sets] == [
        ("hat", 0, 0), ("shoe Material.001", 1, 0), ("Felt", 1, 1), ("shoe", 1, 2)
    ]  # fmt: skip
    assert [one.set_name for one in wearings_of(offers).sets] == ["hat", "shoe Material.001", "Felt", "shoe 3"]


def test_a_value_takes_the_place_of_a_guess_and_never_of_a_file():
    color = FileEntry("a" * 64, "felt_diffuse.png", 8, 8, 8, {"RGB": "diffuse"})
    shine = FileEntry("b" * 64, "felt_specular.png", 8, 8, 8, {"RGB": "specular"})
    values = {"roughness": (0.3,), "metallic": (1.0,), "base_color": (1, 1, 1), "emissive": (0.5, 0, 0)}
    told = with_values(plan_set([color, shine]), values)
    assert {key for key, ref in told.masters.items() if ref == f"node:one_{key}"} == {"roughness", "emissive"}
    for wrong in ({"roughness": (1, 1, 1)}, {"gloss": (1,)}, {"base_color": ()}):
        with pytest.raises(RecipeInvalid):
            with_values(told, wrong)


def test_meshes_of_one_name_in_several_folders_are_of_several_assets():
    def sets_of(*meshes: MeshOffer) -> list[tuple]:
        return [(one.set_name, one.low, one.high) for one in wearings_of(meshes).sets]

    def mesh(name: str, folder: str, triangles: int, material: str = "") -> MeshOffer:
        return MeshOffer(name, triangles, ((material, triangles),), folder=folder)

    chair, table = mesh("model", "lib/Chair", 100), mesh("model", "lib/Table", 900)
    assert sets_of(chair, table) == [("model Chair", 0, ()), ("model Table", 1, ())]
    assert sets_of(mesh("pin", "low", 10), mesh("pin", "high", 900)) == [("pin", 0, (1,))]  # the folders say what they are for
    assert sets_of(mesh("pin", "Lowland game", 10), mesh("pin", "Lowland game", 900)) == [("pin", 0, (1,))]
    both = [mesh(f"seat_{role}", f"lib/{asset}", 10 + 900 * (role == "high")) for asset in "AB" for role in ("low", "high")]
    assert sets_of(*both) == [("seat A", 0, (1,)), ("seat B", 2, (3,))]
    split = [mesh("seat", f"lib/{asset}/{role}", 10 + 900 * (role == "high")) for asset in "AB" for role in ("low", "high")]
    assert sets_of(*split) == [("seat A", 0, (1,)), ("seat B", 2, (3,))]
    assert sets_of(mesh("seat_low", "game", 10), mesh("seat_high", "sculpts", 900)) == [("seat", 0, (1,))]
