"""From one target's files to another's, and from a supplier's specular set to a metallic one."""

import json
import zipfile

import numpy as np
import pytest
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.convert import which_green
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode, read

run = CliRunner().invoke


@pytest.fixture()
def brocade(tmp_path):
    """The demo's brocade as its supplier sends it: diffuse, specular, gloss, green down."""
    folder = tmp_path / "supplier"
    folder.mkdir()
    for file in next(m for m in MATERIALS if m.name == "Gilt brocade").files(256):
        (folder / file.name).write_bytes(encode(file.codes, file.format))
    return folder


def made(folder, target, out) -> dict:
    done = run(app, ["make", str(folder), "--target", target, "--out", str(out), "--json"])
    assert done.exit_code == 0, done.output
    return json.loads(done.stdout)


def test_a_specular_set_becomes_a_metallic_one(brocade, tmp_path):
    answer = made(brocade, "engine-orm-down", tmp_path / "out")
    assert {answer["masters"][k] for k in ("base_color", "metallic", "reflectance")} == {"derived"}
    assert "workflow-undetermined" not in {f["id"] for f in answer["findings"]}
    orm = read(tmp_path / "out" / "Gilt brocade_ORM.tga").codes
    diffuse = read(brocade / "Gilt brocade_diffuse.png").codes
    metal = diffuse.max(-1) == 0
    assert 0.1 < metal.mean() < 0.6
    assert (orm[..., 2][metal] >= 250).all() and (orm[..., 2][~metal] <= 5).all()
    gloss = read(brocade / "Gilt brocade_gloss.png").codes
    assert (orm[..., 1] == 255 - gloss).all()
    normal = read(tmp_path / "out" / "Gilt brocade_N.tga").codes
    assert (normal == read(brocade / "Gilt brocade_normal.png").codes).all()  # down already: not a bit is touched


def test_files_go_from_target_to_target_and_back(brocade, tmp_path):
    made(brocade, "engine-specular-up", tmp_path / "specular")
    normal = read(tmp_path / "specular" / "Gilt brocade_normal.png").codes
    assert which_green(normal).answer == "up"
    there = ["convert", str(tmp_path / "specular"), "--from", "engine-specular-up", "--to", "engine-orm-down"]
    done = run(app, [*there, "--out", str(tmp_path / "orm"), "--json"])
    assert done.exit_code == 0, done.output
    assert json.loads(done.stdout)["set"] == "Gilt brocade"
    back = ["convert", str(tmp_path / "orm"), "--from", "engine-orm-down", "--to", "engine-specular-up"]
    assert run(app, [*back, "--out", str(tmp_path / "again")]).exit_code == 0
    for name in ("diffuse", "specular", "normal"):
        first, again = (read(tmp_path / f / f"Gilt brocade_{name}.png").codes for f in ("specular", "again"))
        off = np.abs(first.astype(int) - again.astype(int))
        assert off.max() <= 4 and off.mean() < 0.5, name


def test_a_set_in_tiles_stays_one(tmp_path):
    rng = np.random.default_rng(4)
    for tile in (1001, 1012):
        color, packed = (rng.integers(0, 255, (32, 32, 3)).astype(np.uint8) for _ in range(2))
        for name, codes in ((f"Mantel_basecolor.{tile}.png", color), (f"Mantel_orm_{tile}.png", packed)):
            (tmp_path / name).write_bytes(encode(codes, "png"))
    there = ["convert", str(tmp_path), "--from", "gltf", "--to", "engine-orm-down", "--out", str(tmp_path / "out"), "--json"]
    done = run(app, there)
    assert done.exit_code == 0, done.output
    assert json.loads(done.stdout)["set"] == "Mantel"
    for tile in (1001, 1012):
        assert (
            read(tmp_path / "out" / f"Mantel_BC.{tile}.tga").codes == read(tmp_path / f"Mantel_basecolor.{tile}.png").codes
        ).all()
        assert (read(tmp_path / "out" / f"Mantel_ORM.{tile}.tga").codes == read(tmp_path / f"Mantel_orm_{tile}.png").codes).all()


def test_packed_data_goes_through_untouched(tmp_path):
    rng = np.random.default_rng(11)
    (tmp_path / "in").mkdir()
    for word, least in (("BC", 0), ("N", (0, 0, 200)), ("ORM", 0)):
        (tmp_path / "in" / f"Moiré 2_{word}.tga").write_bytes(
            encode(rng.integers(least, 256, (32, 48, 3)).astype(np.uint8), "tga")
        )
    (tmp_path / "in" / "readme.png").write_bytes(encode(np.zeros((4, 4), np.uint8), "png"))
    order = [
        "convert",
        str(tmp_path / "in"),
        "--from",
        "engine-orm-down",
        "--to",
        "gltf",
        "--out",
        str(tmp_path / "out"),
        "--json",
    ]
    done = run(app, [*order, "--out", str(tmp_path / "out")])
    answer = json.loads(done.stdout)
    assert done.exit_code == 0 and answer["findings"][0]["id"] == "not-of-target"
    assert "normal-length" in {f["id"] for f in answer["findings"]}  # what is wrong with the maps is said
    (tmp_path / "in" / "readme.png").unlink()
    alone = json.loads(run(app, [*order, "--out", str(tmp_path / "alone")]).stdout)
    assert "not-of-target" not in {f["id"] for f in alone["findings"]}
    orm = read(tmp_path / "out" / "Moiré 2_orm.png").codes
    assert (orm == read(tmp_path / "in" / "Moiré 2_ORM.tga").codes).all()
    turned = read(tmp_path / "out" / "Moiré 2_normal.png").codes
    given = read(tmp_path / "in" / "Moiré 2_N.tga").codes
    assert (turned[..., 1] == 255 - given[..., 1]).all() and (turned[..., ::2] == given[..., ::2]).all()


def test_names_that_the_target_does_not_use_are_wrong_use(tmp_path):
    (tmp_path / "x.png").write_bytes(encode(np.zeros((4, 4), np.uint8), "png"))
    done = run(app, ["convert", str(tmp_path), "--from", "gltf", "--to", "engine-orm-down", "--out", str(tmp_path / "out")])
    assert done.exit_code == 2 and "SET_basecolor.png" in done.output


def test_a_zip_is_as_good_as_its_files(brocade, tmp_path):
    with zipfile.ZipFile(tmp_path / "delivery.zip", "w") as archive:
        for path in sorted(brocade.iterdir()):
            archive.write(path, f"brocade/{path.name}")
    made(brocade, "gltf", tmp_path / "from files")
    made(tmp_path / "delivery.zip", "gltf", tmp_path / "from zip")
    for path in (tmp_path / "from files").iterdir():
        assert (tmp_path / "from zip" / path.name).read_bytes() == path.read_bytes()
