"""Splitting a file into named grays and putting it together again, as the terminal does it."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.errors import ShapeMismatch, SieveError
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import Picture, encode, read
from copper_sieve.work.intake.splitting import together, unpacked

LETTERS = {2: "LA", 3: "RGB", 4: "RGBA"}


@given(st.integers(0, 2**32 - 1), st.sampled_from([2, 3, 4]), st.sampled_from([np.uint8, np.uint16]), st.integers(1, 7))
@settings(max_examples=60, deadline=None)
def test_packing_what_was_unpacked_gives_the_same_codes(seed, count, depth, side):
    codes = np.random.default_rng(seed).integers(0, np.iinfo(depth).max, (side, side + 1, count), endpoint=True).astype(depth)
    picture = Picture(codes, "png", 8 if depth is np.uint8 else 16, "uint")
    words = {letter: f"map {letter}" for letter in LETTERS[count]}
    planes = unpacked(picture, "any.png", words)
    np.testing.assert_array_equal(together({letter: planes[word] for letter, word in words.items()}), codes)


def gong(folder) -> tuple:
    files = next(m for m in MATERIALS if m.name == "Hammered gong").files(64)
    packed = next(f for f in files if f.kind == "packed")
    path = folder / packed.name
    path.write_bytes(encode(packed.codes, "tga"))
    return path, packed.codes


def run(*words: object) -> tuple[int, str]:
    done = CliRunner().invoke(app, [str(word) for word in words])
    return done.exit_code, done.output


def test_the_gong_is_split_by_its_name_and_packed_into_the_identical_file(tmp_path):
    path, codes = gong(tmp_path)
    done = CliRunner().invoke(app, ["unpack", str(path), "--out", str(tmp_path / "grays"), "--json"])
    rows = {row["channel"]: row for row in json.loads(done.stdout)["files"]}
    assert {letter: row["word"] for letter, row in rows.items()} == {"R": "roughness", "G": "metallic", "B": "occlusion"}
    np.testing.assert_array_equal(read(rows["B"]["path"]).codes, codes[..., 2])
    parts = [part for letter, row in rows.items() for part in ("--channel", f"{letter}={row['path']}")]
    assert run("pack", tmp_path / "again.tga", *parts)[0] == 0
    assert (tmp_path / "again.tga").read_bytes() == path.read_bytes()


def test_a_wrong_order_is_put_right_in_one_line(tmp_path):
    path, codes = gong(tmp_path)
    order = [part for pair in ("R=B", "G=R", "B=G") for part in ("--channel", f"{pair[0]}={path}:{pair[2]}")]
    assert run("pack", tmp_path / "gong_ORM.tga", *order)[0] == 0
    np.testing.assert_array_equal(read(tmp_path / "gong_ORM.tga").codes, codes[..., [2, 0, 1]])


def test_a_file_is_split_as_a_target_has_it(tmp_path):
    path, codes = gong(tmp_path)
    assert run("unpack", path, "--as", "engine-orm-down:orm", "--out", tmp_path)[0] == 0
    np.testing.assert_array_equal(read(tmp_path / f"{path.stem}_occlusion.png").codes, codes[..., 0])


WRONG = {
    "an unknown target": ("--as", "nowhere:orm"),
    "an unknown role": ("--as", "gltf:nothing"),
    "no word": ("--channel", "R"),
}


@pytest.mark.parametrize("case", WRONG)
def test_wrong_use_writes_nothing(tmp_path, case):
    path, _ = gong(tmp_path)
    status, said = run("unpack", path, "--out", tmp_path / "out", *WRONG[case])
    assert status == 2 and said.count("\n") == 1 and not (tmp_path / "out").exists()


def test_what_cannot_be_one_file_is_refused_with_the_reason():
    gray = np.zeros((4, 4), np.uint8)
    with pytest.raises(ShapeMismatch, match="R 4 × 4 px uint8"):
        together({"R": gray, "G": gray[:2], "B": gray})
    with pytest.raises(ShapeMismatch, match="RGBA"):
        together({"R": gray, "A": gray})
    with pytest.raises(SieveError, match="two channels"):
        unpacked(Picture(np.zeros((2, 2, 3), np.uint8), "png", 8, "uint"), "x.png", {"R": "same", "G": "same"})


def test_an_existing_file_is_kept_unless_told(tmp_path):
    path, _ = gong(tmp_path)
    parts = [part for letter in "RGB" for part in ("--channel", f"{letter}={path}:{letter}")]
    before = path.read_bytes()
    with pytest.raises(SieveError, match="--replace"):
        CliRunner().invoke(app, ["pack", str(path), *parts], catch_exceptions=False)
    assert path.read_bytes() == before
