"""Meshes on the screen: taken in, baked and looked at, as somebody would who has never done so."""

from dataclasses import replace

import numpy as np
import pytest
from demo_sets import make_set
from jobs import open_at
from playwright.sync_api import expect
from test_moves import COLOR

from asking import eventually, zipped
from copper_sieve.core.mesh.made import joined
from copper_sieve.files import encode, read_bytes
from copper_sieve.files.meshes import obj_document
from shapes import gltf_apart, gltf_with_pictures, torus

HIGH = obj_document(torus(96, 48, relief=0.02))
LONE = obj_document(torus(24, 12))


def choose(page, label, option):
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=option).click()


def test_from_two_meshes_to_a_set_that_wears_its_baked_maps(page, server, project):
    key = project("a ring", "gltf")
    hands = open_at(page, key, "intake")
    document, buffer = gltf_apart(torus(32, 16), "Ring%20Å.bin")
    hands.drop(
        {
            "Ring Å_low.gltf": document,
            "Ring Å.bin": buffer,
            "Ring Å_high.obj": HIGH,
            "Kette_high.obj": LONE,
            "torn.obj": b"v 0 0 0\nf 1 2 9\n",
        }
    )
    meshes = page.get_by_role("region", name="Meshes")
    expect(meshes.get_by_text("to no set: there is no low mesh called Kette")).to_be_visible()
    expect(meshes.get_by_role("alert")).to_contain_text("torn.obj: from line 2 on")
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    lineage = page.get_by_role("region", name="Lineage")
    expect(lineage.get_by_text("Ring Å_high.obj")).to_be_visible()
    choose(page, "Size of the baked maps", "256 px")
    hands.click(page.get_by_role("button", name="Bake 3 maps, 256 px"))
    expect(lineage.get_by_role("button", name="Normal baked")).to_be_visible()
    expect(lineage.get_by_role("img", name="Trial of Curvature")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    worn = {m["key"] for m in made["masters"] if m["given"] and m["given"]["baked"]}
    assert worn == {"normal", "occlusion", "curvature"} and made["name"] == "Ring Å"

    hands.type(page.get_by_label("How far above the low mesh rays start"), "5")
    expect(
        lineage.get_by_role("button", name="Normal baked before · the offset is 5 % now, and was found by itself")
    ).to_be_visible()
    hands.click(page.get_by_role("button", name="Bake the 3 out of date"))
    expect(lineage.get_by_role("button", name="Normal baked before")).to_be_hidden()


def test_a_mesh_with_its_pictures_becomes_a_set_that_it_wears(page, server, project):
    key = project("a hem", "gltf")
    hands = open_at(page, key, "intake")
    reads = {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}}
    images = [
        {"name": "weave", "png": encode(COLOR, "png")},
        {"name": "sheen", "png": encode(np.ascontiguousarray(COLOR[::-1]), "png")},
    ]
    hem = {"name": "Säume", "pbrMetallicRoughness": reads}
    hands.drop({"hem.gltf": gltf_with_pictures(replace(torus(24, 12), materials=("Säume",)), images, [hem])})
    expect(page.get_by_role("row", name="sheen.png")).to_contain_text("the mesh’s material “Säume” reads it so")
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("button", name="Mesh hem.gltf, 576 triangles")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    assert made["name"] == "Säume" and made["recipe"]["worn"]["low"]["name"] == "hem.gltf"
    given = {m["key"] for m in made["masters"] if m["origin"] == "given"}
    assert given == {"base_color", "roughness", "metallic"}


def test_meshes_whose_materials_have_the_name_that_a_program_gave_are_told_apart(page, server, project):
    key = project("two pieces", "gltf")
    hands = open_at(page, key, "intake")
    given = {"name": "Material.001", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}
    pieces = {name: replace(torus(24, 12), materials=("Material.001",)) for name in ("Knauf", "Öse")}
    pictures = {name: encode(np.ascontiguousarray(np.roll(COLOR, k, 0)), "png") for k, name in enumerate(pieces)}
    hands.drop({f"{name}.gltf": gltf_with_pictures(mesh, [{"png": pictures[name]}], [given]) for name, mesh in pieces.items()})
    expect(page.get_by_role("row", name="Öse_baseColor.png")).to_be_visible()
    hands.click(page.get_by_role("button", name="Take in 2 sets"))
    expect(page.get_by_text("2 sets selected")).to_be_visible()
    made = server.get(f"/projects/{key}/sets").json()
    assert {one["name"]: one["recipe"]["worn"]["low"]["name"] for one in made} == {"Knauf": "Knauf.gltf", "Öse": "Öse.gltf"}


@pytest.mark.parametrize("way", ["files", "a zip"])
def test_pictures_beside_a_mesh_are_read_as_its_materials_say(page, server, project, way):
    key = project(f"a crate in {way}", "mtl")
    hands = open_at(page, key, "intake")
    lines = ["newmtl Kiste", "map_Kd -s 1 1 1 one.png", "map_Pr -imfchan g two.png", "Pm 1"]
    files = {"one.png": COLOR, "two.png": np.ascontiguousarray(COLOR[::-1])}
    mesh = obj_document(replace(torus(24, 12), materials=("Kiste",)), "crate.mtl")
    dropped = {name: encode(codes, "png") for name, codes in files.items()}
    dropped |= {"crate.obj": mesh, "crate.mtl": "\n".join(lines).encode()}
    held, is_open = [], []
    page.route("**/wearings/plan", lambda route: route.continue_() if is_open else held.append(route))
    hands.drop(dropped if way == "files" else {"crate.zip": zipped(dropped)})
    expect(page.get_by_role("row", name="two.png")).to_contain_text("the mesh’s material “Kiste” reads its channels so")
    expect(page.get_by_role("region", name="Meshes")).to_contain_text("metallic 1.00")
    hands.click(page.get_by_role("button", name="Take in 1 set"))  # before it is known which set the mesh goes to
    is_open.append(True)
    for route in held:
        route.continue_()
    expect(page.get_by_role("button", name="Mesh crate.obj, 576 triangles")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    told = {m["key"]: m["origin"] for m in made["masters"]}
    assert made["name"] == "Kiste" and made["recipe"]["worn"]["called"] == "Kiste"
    assert {key: told[key] for key in ("base_color", "roughness", "metallic")} == {
        "base_color": "given",
        "roughness": "given",
        "metallic": "constant",
    }


def test_a_mesh_dropped_on_the_bench_wears_the_set_and_its_islands_are_drawn(page, server, project):
    key = project("a belt", "gltf")
    made = make_set(server, "Belt", {"base_color": COLOR}, project=key)
    hands = open_at(page, key, f"bench/{made['id']}")
    viewer = page.get_by_role("region", name="Viewer")
    viewer.wait_for()
    page.keyboard.press("p")
    shifted = replace(torus(24, 12), uv=torus(24, 12).uv * np.float32(0.5) + np.float32(0.25))
    hands.drop({"Belt.obj": obj_document(shifted)}, viewer)
    expect(page.get_by_role("combobox", name="Body")).to_contain_text("Own mesh")
    hands.click(page.get_by_role("button", name="Mesh Belt.obj, 576 triangles"))
    hands.click(page.get_by_label("Islands", exact=True))
    borders = page.get_by_role("img", name="Borders of the mesh's islands")
    expect(borders).to_have_attribute("data-pieces", "72")
    sheet = page.locator("canvas[data-drawn]")
    before = sheet.get_attribute("data-drawn")
    hands.click(page.get_by_label("On the mesh too"))
    expect(sheet).not_to_have_attribute("data-drawn", before)
    hands.click(page.get_by_role("button", name="Take Belt.obj away"))
    expect(page.get_by_role("button", name="Mesh none yet")).to_be_visible()
    expect(page.get_by_role("combobox", name="Body")).not_to_contain_text("Own mesh")


def test_the_other_materials_of_a_mesh_are_seen_in_their_own_sets(page, server, project):
    key = project("a cuff", "gltf")
    hands = open_at(page, key, "intake")
    ring = torus(24, 12)
    cuff = replace(ring, materials=("Rot", "Grün"), material=(np.arange(len(ring.counts)) % 24 < 12).astype(np.int32))
    paints = [
        {"name": name, "pbrMetallicRoughness": {"baseColorFactor": [*color, 1], "metallicFactor": 0}}
        for name, color in (("Rot", (0.8, 0, 0)), ("Grün", (0, 0.8, 0)))
    ]
    hands.drop({"cuff.gltf": gltf_with_pictures(cuff, [], paints)})
    hands.click(page.get_by_role("button", name="Take in 2 sets"))
    page.get_by_role("region", name="Viewer").wait_for()
    page.keyboard.press("l")
    page.get_by_role("button", name="Scene").click()
    others = page.get_by_label("Other materials of the mesh")
    expect(others).to_be_checked()
    eventually(lambda: colors_seen(page) == {"red", "green"})
    others.click()
    eventually(lambda: len(colors_seen(page)) == 1)
    others.click()
    page.get_by_label("Clay").click()
    eventually(lambda: not colors_seen(page))


def test_what_only_the_high_mesh_of_one_file_has_is_not_missed(page, server, project):
    key = project("a stud", "gltf")
    hands = open_at(page, key, "intake")
    low, high = (
        replace(torus(24, 12), materials=(name,), parts=(part,)) for name, part in (("Rot", "Niet_low"), ("Fein", "Niet_high"))
    )
    paint = {"name": "Rot", "pbrMetallicRoughness": {"baseColorFactor": [0.8, 0, 0, 1], "metallicFactor": 0}}
    hands.drop({"Niet.gltf": gltf_with_pictures(joined([low, high]), [], [paint, {"name": "Fein"}])})
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    page.get_by_role("region", name="Viewer").wait_for()
    page.keyboard.press("l")
    expect(page.get_by_role("combobox", name="Body")).to_contain_text("Own mesh")
    eventually(lambda: colors_seen(page) == {"red"})


def colors_seen(page) -> set[str]:
    """Which plain colors make up some of the lit picture."""
    shown = page.locator("canvas[data-drawn]").screenshot(scale="css")
    red, green, blue = np.moveaxis(read_bytes(shown, "shown.png").codes[..., :3].astype(int), -1, 0)
    is_seen = {"red": red > 2 * np.maximum(green, blue), "green": green > 2 * np.maximum(red, blue)}
    return {name for name, where in is_seen.items() if where.mean() > 0.01}
