"""Many sets and several targets from the terminal; and whether what lies there still is what was delivered."""

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.recipe import settings_of
from copper_sieve.files import encode, read, write
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import look_at_bytes

run = CliRunner().invoke
COLOR = np.random.default_rng(4).integers(30, 220, (48, 48, 3)).astype(np.uint8)


@pytest.fixture()
def three(tmp_path) -> Path:
    folder = tmp_path / "in"
    folder.mkdir()
    for k, name in enumerate(("felt", "lace", "tweed à carreaux")):
        (folder / f"{name}_basecolor.png").write_bytes(encode(np.roll(COLOR, k, 0), "png"))
    return folder


def made(three: Path, out: Path, *more: str):
    targets = [part for key in ("engine-orm-down", "gltf") for part in ("--target", key)]
    return run(app, ["make", str(three), *targets, "--out", str(out), "--manifest", *more])


def test_each_set_for_each_target_has_a_folder_and_there_is_one_manifest(three, tmp_path):
    out = tmp_path / "out"
    done = made(three, out, "--json")
    assert done.exit_code == 0, done.output
    answer = json.loads(done.stdout)
    assert {(row["set"], row["target"]) for row in answer["deliveries"]} == {
        (name, key) for name in ("felt", "lace", "tweed à carreaux") for key in ("engine-orm-down", "gltf")
    }
    there = {str(path.relative_to(out)) for path in out.rglob("*") if path.is_file()}
    assert there == {file["path"] for file in answer["files"]} | {"manifest.json"}
    assert "felt/gltf/felt_basecolor.png" in there


def test_a_level_with_one_member_is_left_out(three, tmp_path):
    one_target = run(app, ["make", str(three), "--target", "gltf", "--out", str(tmp_path / "a")])
    assert one_target.exit_code == 0 and (tmp_path / "a" / "lace" / "lace_basecolor.png").is_file()
    one_set = made(three / "felt_basecolor.png", tmp_path / "b")
    assert one_set.exit_code == 0 and (tmp_path / "b" / "gltf" / "felt_basecolor.png").is_file()
    assert "felt, gltf: " in one_set.stdout
    assert run(app, ["make", str(three), "--target", "gltf", "--out", str(tmp_path / "c"), "--name", "x"]).exit_code == 2


def test_settings_saved_on_the_bench_hold_for_every_set(three, tmp_path):
    looked = look_at_bytes(encode(COLOR, "png"), "felt_basecolor.png")
    recipe, _ = recipe_for([looked])
    saved = settings_of(recipe).model_dump(mode="json", by_alias=True)
    saved["masters"]["roughness"]["params"] = {"mean": 0.9, "spread": 0.0}
    (tmp_path / "dull.json").write_text(json.dumps(saved))
    done = made(three, tmp_path / "out", "--recipe", str(tmp_path / "dull.json"))
    assert done.exit_code == 0, done.output
    for name in ("felt", "lace"):
        orm = read(tmp_path / "out" / name / "engine-orm-down" / f"{name}_ORM.tga").codes
        assert np.unique(orm[..., 1]).tolist() == [230]
    (tmp_path / "broken.json").write_text("{")
    assert made(three, tmp_path / "out", "--recipe", str(tmp_path / "broken.json")).exit_code == 2


def test_verify_says_what_is_not_as_it_was_delivered(three, tmp_path):
    out = tmp_path / "out"
    made(three, out)
    assert run(app, ["verify", str(out)]).exit_code == 0
    assert run(app, ["verify", str(out / "felt" / "gltf")]).exit_code == 0  # either level
    (out / "felt" / "gltf" / "felt_normal.png").write_bytes(b"painted over")
    (out / "lace" / "gltf" / "lace_normal.png").unlink()
    done = run(app, ["verify", str(out), "--json"])
    wrong = {row["path"]: row["why"] for row in json.loads(done.stdout)["files"] if not row["right"]}
    assert done.exit_code == 1
    assert wrong == {"felt/gltf/felt_normal.png": "was changed since", "lace/gltf/lace_normal.png": "is gone"}
    assert run(app, ["verify", str(out / "lace" / "engine-orm-down")]).exit_code == 0
    assert run(app, ["verify", str(three)]).exit_code == 2


def test_prove_says_what_the_target_would_not_read(three, tmp_path):
    out = tmp_path / "out"
    made(three, out)
    for key in ("gltf", "engine-orm-down"):
        assert run(app, ["prove", str(out), "--target", key]).exit_code == 0
    normal = out / "felt" / "gltf" / "felt_normal.png"
    normal.write_bytes(encode(read(normal).codes[..., 0], "png"))  # one channel instead of three
    done = run(app, ["prove", str(out), "--target", "gltf", "--json"])
    wrong = [row["path"] for row in json.loads(done.stdout)["files"] if not row["right"]]
    assert done.exit_code == 1 and wrong == ["felt/gltf/felt_normal.png"]
    assert run(app, ["prove", str(three), "--target", "small-tiles"]).exit_code == 2


def test_one_target_is_converted_to_several(three, tmp_path):
    made(three, tmp_path / "out")
    files = [str(path) for path in (tmp_path / "out").glob("*/engine-orm-down/*.tga")]
    args = ["convert", *files, "--from", "engine-orm-down", "--to", "gltf", "--to", "engine-loose-down", "--out"]
    done = run(app, [*args, str(tmp_path / "again"), "--manifest"])
    assert done.exit_code == 0, done.output
    assert (tmp_path / "again" / "lace" / "engine-loose-down" / "lace_roughness.png").is_file()
    assert run(app, ["verify", str(tmp_path / "again")]).exit_code == 0


def test_prove_finds_normals_that_were_turned_over_in_the_tile_they_were(tmp_path):
    height = np.tile(np.sin(np.linspace(0, 6 * np.pi, 96, dtype=np.float32)), (96, 1))
    height = height * height.T / 2 + 0.5
    normal = np.round((normal_from_height(height, rise=0.05) * 0.5 + 0.5) * 255).astype(np.uint8)
    (tmp_path / "in").mkdir()
    for tile in (1001, 1002):
        write(tmp_path / "in" / f"hull_normal.{tile}.png", normal, format="png")
        write(tmp_path / "in" / f"hull_basecolor.{tile}.png", np.uint8(np.stack([height] * 3, -1) * 200), format="png")
    out = tmp_path / "out"
    assert run(app, ["make", str(tmp_path / "in"), "--target", "engine-orm-down", "--out", str(out)]).exit_code == 0
    asked = ["prove", str(out), "--target", "engine-orm-down", "--json"]
    assert run(app, asked).exit_code == 0
    turned = next(out.glob("*_N.1002.*"))
    codes = read(turned).codes.copy()
    codes[..., 1] = 255 - codes[..., 1]
    write(turned, codes, format="tga")
    done = run(app, asked)
    wrong = {row["path"]: row["why"] for row in json.loads(done.stdout)["files"] if not row["right"]}
    assert done.exit_code == 1 and list(wrong) == [turned.name] and "green flipped" in wrong[turned.name]
