"""The terminal, end to end."""

import json
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from asking import zipped
from copper_sieve.cli import app
from copper_sieve.core.convert import which_green
from copper_sieve.core.derive import normal_from_height
from copper_sieve.files import encode, read, write
from copper_sieve.files.meshes import obj_document
from real_files import REAL
from shapes import gltf_apart, gltf_with_pictures, torus

run = CliRunner().invoke


def photo(size: int = 64) -> np.ndarray:
    return np.random.default_rng(3).integers(0, 255, (size, size, 3)).astype(np.uint8)


@pytest.mark.skipif(not REAL.is_dir(), reason="the real photographs are not beside this checkout")
def test_a_real_photo_makes_three_files_that_hold_up(tmp_path):
    source = next(p for p in sorted(REAL.glob("*/*.jpg")))
    done = run(app, ["make", str(source), "--target", "engine-orm-down", "--out", str(tmp_path / "out"), "--json"])
    assert done.exit_code == 0, done.output
    answer = json.loads(done.stdout)
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == sorted(f["path"] for f in answer["files"])
    codes = {f["role"]: read(tmp_path / "out" / f["path"]).codes for f in answer["files"]}
    assert (codes["base_color"] == read(source).codes).all()
    assert which_green(codes["normal"]).answer == "down"
    z = codes["normal"][..., 2] / 127.5 - 1
    assert 9 < np.degrees(np.arccos(np.clip(z, 0, 1))).mean() < 15  # as real surfaces lean
    assert (codes["orm"][..., 1] / 255).std() > 0.04 and (codes["orm"][..., 2] == 0).all()
    steep = ["make", str(source), "--target", "engine-orm-down", "--out", str(tmp_path / "steep"), "--set", "rise=0.02"]
    assert run(app, steep).exit_code == 0
    occlusion = read(next((tmp_path / "steep").glob("*_ORM.*"))).codes[..., 0] / 255
    fine = occlusion - cv2.GaussianBlur(occlusion, (0, 0), 1.0)
    assert occlusion.std() > 0.04 and fine.std() < 0.5 * occlusion.std()  # shape, not speckle


def test_bad_files_are_named_and_the_rest_goes_on(tmp_path):
    write(tmp_path / "drap à fleurs.png", photo(), format="png")
    (tmp_path / "drap à fleurs_normal.png").write_text("no picture")
    done = run(app, ["make", str(tmp_path), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"])
    answer = json.loads(done.stdout)
    assert done.exit_code == 1 and [f["id"] for f in answer["findings"] if f["grade"] == "stop"] == ["unreadable"]
    assert (tmp_path / "out" / "drap à fleurs_basecolor.png").is_file()


def test_what_is_guessed_and_derived_is_said_once_with_the_sets(tmp_path):
    folder = tmp_path / "in"
    folder.mkdir()
    for name in ("oak", "elm"):
        write(folder / f"{name}_photo.png", photo(), format="png")
    write(folder / "ash_height.png", photo()[..., 0], format="png")
    done = run(app, ["make", str(folder), "--target", "engine-orm-down", "--out", str(tmp_path / "out")])
    assert done.exit_code == 1, done.output  # a color waits in one of the three
    (guess,) = [line for line in done.stderr.splitlines() if "is a guess" in line]
    assert guess.startswith("Note: How roughness follows the color") and guess.endswith("(elm, oak)")
    assert any("2 % of the width is assumed" in line for line in done.stderr.splitlines())
    derived = [line for line in done.stdout.splitlines() if line.startswith("derived")]
    assert derived[0] == "derived: normal, made of the height (its rise of 2 % of the width is assumed)"
    assert derived.count("derived: roughness, guessed from the base color") == 2
    assert derived.count("derived: normal, made of the height (guessed from the base color)") == 2
    note = tmp_path / "note.md"
    alone = ["make", str(folder / "oak_photo.png"), "--target", "gltf", "--out", str(tmp_path / "alone"), "--note", str(note)]
    assert run(app, [*alone, "--manifest"]).exit_code == 0
    assert "Its roughness is guessed from the base color." in note.read_text()
    manifest = json.loads((tmp_path / "alone" / "manifest.json").read_text())
    assert manifest["made"]["roughness"] == "guessed from the base color"
    answer = json.loads(run(app, ["look", str(folder), "--json"]).stdout)
    assert {row["name"]: [f["id"] for f in row["findings"]].count("roughness-guessed") for row in answer["sets"]} == {
        **{"ash": 0, "elm": 1, "oak": 1}
    }


def test_what_stands_in_for_a_map_is_said_once_for_all_tiles(tmp_path):
    for tile in (1001, 1002, 1012):
        write(tmp_path / f"hull_roughness.{tile}.png", photo()[..., 0], format="png")
    done = run(app, ["make", str(tmp_path), "--target", "gltf", "--out", str(tmp_path / "out")])
    filled = [line for line in done.stdout.splitlines() if "filled" in line]
    assert len(filled) == 2 and all(line.endswith("likewise in 2 more of its tiles") for line in filled)
    left = [line for line in done.stdout.splitlines() if "left out" in line]
    assert len(left) == len(set(left)) > 0


def test_two_files_that_claim_one_map_stop(tmp_path):
    write(tmp_path / "silk_basecolor.png", photo(), format="png")
    write(tmp_path / "silk_albedo.png", 255 - photo(), format="png")
    done = run(app, ["make", str(tmp_path), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"])
    assert done.exit_code == 1 and "rival-maps" in [f["id"] for f in json.loads(done.stdout)["findings"]]
    assert not (tmp_path / "out").exists()


def test_wrong_use_is_2_and_foreign_files_are_kept(tmp_path):
    write(tmp_path / "silk.png", photo(), format="png")
    base = ["make", str(tmp_path / "silk.png"), "--out", str(tmp_path / "out"), "--target"]
    assert run(app, [*base, "nowhere"]).exit_code == 2
    assert run(app, [*base, "gltf", "--set", "height.contrst=2"]).exit_code == 2
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "silk_orm.png").write_bytes(encode(photo(8), "png"))
    assert run(app, [*base, "gltf"]).exit_code == 1
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["silk_orm.png"]
    assert run(app, [*base, "gltf", "--replace"]).exit_code == 0
    before = {p.name: p.read_bytes() for p in (tmp_path / "out").iterdir()}
    assert run(app, [*base, "gltf"]).exit_code == 0  # the same bytes are no replacement
    assert before == {p.name: p.read_bytes() for p in (tmp_path / "out").iterdir()}


def test_what_is_made_and_looked_at_says_how_the_rise_is_known(tmp_path):
    """Of a photo it was made with its height, of a height alone it is assumed, of a height with its normals measured."""
    y, x = np.mgrid[:64, :64] / 64 * 2 * np.pi
    height = (0.5 + 0.25 * np.sin(3 * x) + 0.2 * np.cos(5 * y)).astype(np.float32)
    gray = (height * 65535).astype(np.uint16)
    normal = ((normal_from_height(height, 0.06) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    (tmp_path / "in").mkdir()
    write(tmp_path / "in" / "drap_photo.png", photo(), format="png")
    write(tmp_path / "in" / "moire_height.png", gray, format="png")
    write(tmp_path / "in" / "serge_height.png", gray, format="png")
    write(tmp_path / "in" / "serge_normal.png", normal, format="png")
    looked = json.loads(run(app, ["look", str(tmp_path / "in"), "--json"]).stdout)
    states = {row["name"]: row["rise"]["state"] for row in looked["sets"]}
    assert states == {"drap": "told", "moire": "assumed", "serge": "measured"}
    made = run(app, ["make", str(tmp_path / "in"), "--target", "engine-loose-down", "--out", str(tmp_path / "out"), "--json"])
    rises = {row["set"]: row["rise"] for row in json.loads(made.stdout)["deliveries"]}
    assert {name: rise["state"] for name, rise in rises.items()} == states
    assert rises["serge"]["value"] == pytest.approx(0.06, rel=0.03) and rises["serge"]["correlation"] > 0.9
    assert rises["moire"] == {"value": 0.02, "state": "assumed", "correlation": None}


@pytest.mark.parametrize("way", ["folder", "zip"])
def test_meshes_tell_of_the_pictures_beside_them_and_stop_nothing(tmp_path, way):
    """As Intake reads them: by the materials' slots, with values where there is no picture."""
    folder = tmp_path / "in"
    (folder / "maps").mkdir(parents=True)
    images = [{"uri": "maps/0.png"}, {"uri": "maps/1.png"}]
    group = {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}}
    told = {"images": images, "textures": [{"source": 0}, {"source": 1}], "materials": [{"pbrMetallicRoughness": group}]}
    document, buffer = gltf_apart(torus(12, 8), "ring.bin", **told)
    (folder / "Ring.gltf").write_bytes(document)
    (folder / "ring.bin").write_bytes(buffer)
    for k in range(2):
        write(folder / "maps" / f"{k}.png", photo()[:: 1 - 2 * k].copy(), format="png")
    flat = np.full((64, 64, 3), (128, 128, 255), np.uint8)
    inside = {"name": "Peg", "normalTexture": {"index": 0}, "pbrMetallicRoughness": {"roughnessFactor": 0.25}}
    (folder / "peg.gltf").write_bytes(gltf_with_pictures(torus(12, 8), [{"png": encode(flat, "png")}], [inside]))
    (folder / "torn.glb").write_bytes(b"glTF\x02\0\0\0")
    (folder / "Ring.fbx").write_bytes(b"Kaydara")  # not missed, as there is one that is read
    (folder / "scene.work").write_bytes(b"a program of its own")
    if way == "zip":
        packed = {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}
        folder = tmp_path / "in.zip"
        folder.write_bytes(zipped(packed))
    done = run(app, ["make", str(folder), "--target", "engine-orm-down", "--out", str(tmp_path / "out"), "--json"])
    answer = json.loads(done.stdout)
    assert done.exit_code == 1 and [f["id"] for f in answer["findings"] if f["grade"] == "stop"] == ["mesh-unreadable"]
    passed = [f["text"] for f in answer["findings"] if f["id"] == "not-a-picture"]
    assert sorted(text.partition(" was")[0] for text in passed) == ["Ring.fbx", "scene.work"]
    masters = {one["set"]: one["masters"] for one in answer["deliveries"]}
    assert set(masters) == {"Ring", "Peg"}
    assert {masters["Ring"][key] for key in ("base_color", "roughness", "metallic")} == {"given"}
    assert masters["Peg"]["normal"] == "given" and masters["Peg"]["roughness"] == "constant"


def test_a_photo_that_cannot_repeat_is_delivered_as_it_is_and_it_is_said_why(tmp_path):
    write(tmp_path / "Plain_photo.png", np.full((64, 64, 3), (120, 80, 60), np.uint8), format="png")
    asked = ["make", str(tmp_path / "Plain_photo.png"), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"]
    told = {row["id"]: row["text"] for row in json.loads(run(app, [*asked, "--repeat"]).stdout)["findings"]}
    assert "the picture is one color" in told["not-repeated"] and "repeated" not in told
    assert list((tmp_path / "out").glob("*.gltf"))


def test_a_photo_repeats_and_has_variants_that_are_sets_of_their_own(tmp_path):
    ground = np.kron(np.random.default_rng(5).random((40, 40)), np.ones((4, 4))) * 100 + np.linspace(0, 120, 160)
    write(tmp_path / "Ground_photo.png", np.dstack([ground, ground * 0.9, ground * 0.8]).astype(np.uint8), format="png")
    asked = ["make", str(tmp_path / "Ground_photo.png"), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"]
    none = json.loads(run(app, [*asked[:-2], str(tmp_path / "ends"), "--json", "--variants", "1"]).stdout)
    ids = {row["id"] for row in none["findings"]}
    assert "not-varied" in ids and not ids & {"repeated", "not-repeated", "varied"} and (tmp_path / "ends").is_dir()
    done = run(app, [*asked, "--repeat", "--variants", "2"])
    told = {row["id"]: row["text"] for row in json.loads(done.stdout)["findings"]}
    assert done.exit_code == 0 and "made to repeat" in told["repeated"] and "4 pieces across" in told["varied"]
    assert not told.keys() & {"not-repeated", "not-varied"}
    colors = [read(next((tmp_path / "out" / name).rglob("*basecolor*"))).codes for name in ("Ground", "Ground 2", "Ground 3")]
    assert colors[0].shape == colors[1].shape == colors[2].shape
    assert all((a != b).mean() > 0.5 for a, b in ((colors[0], colors[1]), (colors[1], colors[2])))
    again = run(app, [*asked, "--repeat", "--variants", "1", "--replace"])
    assert again.exit_code == 0  # the same seed gives the same maps
    assert (read(next((tmp_path / "out" / "Ground 2").rglob("*basecolor*"))).codes == colors[1]).all()


def test_assets_of_one_layout_are_sets_of_their_own(tmp_path):
    """As libraries come: every asset has a folder, in it a mesh, and its pictures called alike in a folder for them."""
    names = ("albedo.png", "roughness.png")
    for asset, seed in (("Wood chair", 1), ("Stone table", 2)):
        folder = tmp_path / "library" / asset
        (folder / "textures").mkdir(parents=True)
        for k, name in enumerate(names):
            codes = np.random.default_rng(seed + 10 * k).integers(40, 200, (32, 32, 3)).astype(np.uint8)
            write(folder / "textures" / name, codes if k == 0 else codes[..., 0], format="png")
    told = json.loads(run(app, ["look", str(tmp_path / "library"), "--json"]).stdout)["sets"]
    assert [(row["name"], sorted(row["maps"])) for row in told] == [
        ("Stone table", ["base_color", "roughness"]),
        ("Wood chair", ["base_color", "roughness"]),
    ]
    for asset, material in (("Wood chair", "Oak"), ("Stone table", "Slate")):  # and now a mesh in each says what is what
        folder = tmp_path / "library" / asset
        (folder / "model.obj").write_bytes(obj_document(replace(torus(8, 6), materials=(material,)), "model.mtl"))
        (folder / "model.mtl").write_text(f"newmtl {material}\nmap_Kd textures/albedo.png\nmap_Pr textures/roughness.png\n")
    told = json.loads(run(app, ["look", str(tmp_path / "library"), "--json"]).stdout)["sets"]
    paths = {row["name"]: {Path(path).parts[-3] for path in row["maps"].values()} for row in told}
    assert paths == {"Oak": {"Wood chair"}, "Slate": {"Stone table"}}
