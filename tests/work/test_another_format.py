"""A folder of pictures in another format, from the terminal: every source has its counterpart, under its name."""

import json

import numpy as np
import pytest
from typer.testing import CliRunner

from asking import zipped
from copper_sieve.cli import app
from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.files import encode, read

rng = np.random.default_rng(12)
COLOR = rng.integers(0, 256, (16, 16, 3)).astype(np.uint8)
GRAY = rng.integers(0, 256, (16, 16)).astype(np.uint8)
DEEP = rng.integers(0, 65536, (16, 16)).astype(np.uint16)


@pytest.fixture()
def folder(tmp_path):
    """Two folders deep, with a name that has accents, dots and spaces, a file that is cut off and one that is no picture."""
    inside = tmp_path / "in" / "Mur é"
    (inside / "haut").mkdir(parents=True)
    (inside / "brick v1.2 color.png").write_bytes(encode(COLOR, "png", color="srgb"))
    (inside / "haut" / "brick_roughness.tga").write_bytes(encode(GRAY, "tga"))
    (inside / "haut" / "brick_height.tif").write_bytes(encode(DEEP, "tiff"))
    (inside / "cut.png").write_bytes(encode(COLOR, "png")[:200])
    (inside / "read me.txt").write_text("the bricks")
    return tmp_path / "in"


def run(*words: object) -> tuple[int, str]:
    done = CliRunner().invoke(app, ["reformat", *(str(word) for word in words)])
    return done.exit_code, done.output


def test_every_picture_has_its_counterpart_and_one_bad_file_stops_no_other(folder, tmp_path):
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    code, said = run(folder, "--to", "exr", "--out", tmp_path / "out")
    assert code == 1
    assert "cut.png: is cut off" in said and "read me.txt was passed over" in said
    made = {str(path.relative_to(tmp_path / "out")): read(path) for path in (tmp_path / "out").rglob("*.*") if path.is_file()}
    assert set(made) == {f"Mur é/{name}.exr" for name in ("brick v1.2 color", "haut/brick_roughness", "haut/brick_height")}
    assert np.array_equal(encode_srgb_codes(made["Mur é/brick v1.2 color.exr"].codes), COLOR)  # in linear light
    assert np.array_equal(np.round(made["Mur é/haut/brick_roughness.exr"].codes * 255), GRAY)  # data are never color-corrected
    assert np.array_equal(np.round(made["Mur é/haut/brick_height.exr"].codes * 65535), DEEP)
    assert {path: path.read_bytes() for path in before} == before


def test_the_way_there_and_back_gives_the_same_codes(folder, tmp_path):
    run(folder, "--to", "exr", "--out", tmp_path / "out")
    assert run(tmp_path / "out", "--to", "png", "--depth", "8", "--out", tmp_path / "back", "--json")[0] == 0
    assert np.array_equal(read(tmp_path / "back" / "Mur é" / "brick v1.2 color.png").codes, COLOR)
    assert np.array_equal(read(tmp_path / "back" / "Mur é" / "haut" / "brick_roughness.png").codes, GRAY)


def test_what_is_read_is_never_written_over_and_what_is_there_only_when_told(folder, tmp_path):
    code, said = run(folder, "--to", "png", "--out", folder, "--replace")
    assert code == 1 and "is what is read" in said
    (tmp_path / "out" / "Mur é").mkdir(parents=True)
    there = tmp_path / "out" / "Mur é" / "cut.png"
    there.write_bytes(b"somebody's")
    code, said = run(folder, "--to", "png", "--out", tmp_path / "out")
    assert code == 1 and "would be replaced" in said and there.read_bytes() == b"somebody's"
    assert [path for path in (tmp_path / "out").rglob("*") if path.is_file()] == [there]
    run(folder, "--to", "png", "--out", tmp_path / "out", "--replace")
    assert (tmp_path / "out" / "Mur é" / "haut" / "brick_height.png").is_file()


def test_pixel_art_keeps_its_texels_or_its_size(tmp_path):
    art = rng.integers(0, 2, (6, 4, 3)).astype(np.uint8) * 255
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "imp.png").write_bytes(encode(art.repeat(4, 0).repeat(4, 1), "png"))
    (tmp_path / "in" / "odd.png").write_bytes(encode(art[:5].repeat(5, 0).repeat(6, 1), "png"))
    code, said = run(tmp_path / "in", "--to", "png", "--longest", "7", "--pixel-art", "--out", tmp_path / "out")
    assert np.array_equal(read(tmp_path / "out" / "imp.png").codes, art)
    assert read(tmp_path / "out" / "odd.png").codes.shape == (25, 24, 3)
    assert code == 0 and "odd.png is 24 × 25 px, and no whole part of that is 7 px or less" in said.replace("\n", " ")


def test_what_is_in_zips_is_written_below_their_names(folder, tmp_path):
    inside = {path.relative_to(folder).as_posix(): path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    (tmp_path / "walls.zip").write_bytes(zipped(inside))
    (tmp_path / "torn.zip").write_bytes(zipped(inside)[:300])
    code, said = run(tmp_path / "walls.zip", "--to", "tga", "--out", tmp_path / "one")
    assert code == 1 and "cut.png: is cut off" in said and "read me.txt was passed over" in said
    assert np.array_equal(read(tmp_path / "one" / "Mur é" / "haut" / "brick_roughness.tga").codes, GRAY)
    code, said = run(tmp_path / "walls.zip", tmp_path / "torn.zip", folder, "--to", "tga", "--out", tmp_path / "both")
    assert "torn.zip: begins as a zip but cannot be opened" in said
    for name in ("walls", "in"):
        assert (tmp_path / "both" / name / "Mur é" / "haut" / "brick_roughness.tga").is_file()


def test_two_files_of_one_name_do_not_become_one(folder, tmp_path):
    (folder / "Mur é" / "haut" / "brick_roughness.png").write_bytes(encode(255 - GRAY, "png"))
    code, said = run(folder, "--to", "tiff", "--out", tmp_path / "out")
    assert code == 1
    assert "brick_roughness.png and Mur é/haut/brick_roughness.tga would both be written as" in said.replace("\n", " ")
    assert np.array_equal(read(tmp_path / "out" / "Mur é" / "haut" / "brick_roughness.tif").codes, 255 - GRAY)


def test_several_folders_stay_apart(tmp_path):
    for name, codes in (("left", GRAY), ("right", 255 - GRAY)):
        (tmp_path / name).mkdir()
        (tmp_path / name / "ao.png").write_bytes(encode(codes, "png"))
    assert run(tmp_path / "left", tmp_path / "right", "--to", "tga", "--out", tmp_path / "out")[0] == 0
    assert np.array_equal(read(tmp_path / "out" / "right" / "ao.tga").codes, 255 - GRAY)


def test_a_link_keeps_the_place_that_it_lies_at(folder, tmp_path):
    (tmp_path / "elsewhere.png").write_bytes(encode(GRAY, "png"))
    (folder / "Mur é" / "linked_ao.png").symlink_to(tmp_path / "elsewhere.png")
    run(folder, "--to", "tga", "--out", tmp_path / "out")
    assert np.array_equal(read(tmp_path / "out" / "Mur é" / "linked_ao.tga").codes, GRAY)


def test_what_is_color_can_be_said(tmp_path):
    (tmp_path / "ramp.png").write_bytes(encode(GRAY, "png"))
    said = json.loads(run(tmp_path, "--to", "exr", "--as", "color", "--out", tmp_path / "out", "--json")[1])
    assert [(row["depth"], row["read_as"]) for row in said["files"]] == [("half float", "color")]
    assert np.array_equal(encode_srgb_codes(read(tmp_path / "out" / "ramp.exr").codes), GRAY)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--to", "bmp"), "bmp"),
        (("--to", "tga", "--depth", "16"), "tga holds 8 bit"),
        (("--to", "png", "--depth", "12"), "--depth takes one of 8, 16, half, float"),
        (("--to", "png", "--as", "paint"), "--as takes color or data"),
    ],
)
def test_what_cannot_be_is_said_before_anything_is_read(folder, tmp_path, words, says):
    code, said = run(folder, *words, "--out", tmp_path / "out")
    assert code == 2 and says in said
    assert not (tmp_path / "out").exists()


def test_what_is_larger_is_averaged_down_by_what_it_is_and_nothing_is_made_larger(folder, tmp_path):
    lean = rng.normal(size=(16, 16, 3)) * [0.3, 0.3, 0] + [0, 0, 1]
    lean /= np.linalg.norm(lean, axis=2, keepdims=True)
    (folder / "brick_normal.png").write_bytes(encode(((lean * 0.5 + 0.5) * 255).round().astype(np.uint8), "png"))
    (folder / "brick_metallic.png").write_bytes(encode(GRAY[:8, :4], "png"))
    level = np.zeros((16, 16, 3), np.float32) + np.float32([0, 0, 1])  # with its signs, though none is below 0
    (folder / "level_normal.exr").write_bytes(encode(level, "exr"))
    assert run(folder / "level_normal.exr", "--to", "exr", "--longest", "8", "--out", tmp_path / "level")[0] == 0
    np.testing.assert_array_equal(read(tmp_path / "level" / "level_normal.exr").codes, level[:8, :8])
    code, said = run(folder, "--to", "png", "--depth", "8", "--longest", "8", "--out", tmp_path / "out", "--json")
    rows = {row["source"]: row["size"] for row in json.loads(said)["files"]}
    assert rows["Mur é/haut/brick_height.tif"] == [8, 8] and rows["brick_metallic.png"] == [4, 8]
    assert "reformat-rounded" in said  # of the deep one that was made shallow, which is more than a mean
    codes = read(tmp_path / "out" / "brick_normal.png").codes
    assert np.abs(np.linalg.norm(codes / 255 * 2 - 1, axis=2) - 1).max() < 0.01
    assert np.array_equal(read(tmp_path / "out" / "brick_metallic.png").codes, GRAY[:8, :4])
    code, said = run(folder, "--to", "png", "--longest", "0", "--out", tmp_path / "none")
    assert code == 2 and "longest side may be 1 to" in said.replace("\n", " ")
