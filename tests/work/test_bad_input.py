"""Odd and broken input in the terminal: a result or one clear finding, the right exit status, and nothing half done."""

import json

import numpy as np
import pytest
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.files import encode, read
from copper_sieve.work.deliveries.delivering import BUILDING_PREFIX

rng = np.random.default_rng(6)


def made(codes: np.ndarray) -> bytes:
    return encode(codes.astype(np.uint16 if codes.max() > 255 else np.uint8), "png")


COLOR = made(rng.integers(0, 255, (48, 48, 3)))
HUGE = COLOR[:16] + (30000).to_bytes(4, "big") * 2 + COLOR[24:200]
CASES = {  # file name: bytes, exit status of make, findings that must be there
    "one texel.png": (made(np.array([[[200, 90, 40]]])), 0, {"too-small"}),
    "gray and alpha_height.png": (made(rng.integers(0, 65535, (40, 24, 2))), 0, set()),
    "text.png": (b"no picture", 1, {"unreadable", "nothing-usable"}),
    "cut.png": (COLOR[: len(COLOR) // 2], 1, {"unreadable", "nothing-usable"}),
    "huge.png": (HUGE, 1, {"unreadable", "nothing-usable"}),
    "nothing in it.png": (b"", 1, {"unreadable", "nothing-usable"}),
    "gray.png": (made(rng.integers(0, 255, (16, 16))), 1, {"unknown-kind", "nothing-usable"}),
    f"{'é' * 110}.png": (COLOR, 0, {"name-changed"}),
    "con.png": (COLOR, 0, {"name-changed"}),
}


@pytest.mark.parametrize("name", CASES)
def test_each_case_ends_as_it_should(tmp_path, name):
    content, status, wanted = CASES[name]
    source = tmp_path / name
    source.write_bytes(content)
    target = tmp_path / "out"
    done = CliRunner().invoke(app, ["make", str(source), "--target", "engine-orm-down", "--out", str(target), "--json"])
    answer = json.loads(done.stdout)
    found = {f["id"] for f in answer["findings"]}
    lacks_color = "height" in name  # a height alone has no base color: the file that needs one waits, the others go
    if lacks_color:
        status, wanted = 1, {"master-missing"}
    assert done.exit_code == status and wanted <= found, (done.exit_code, found)
    assert all(f["text"] and "{" not in f["text"] for f in answer["findings"])
    assert source.read_bytes() == content
    if status == 0 or lacks_color:
        assert {p.name for p in target.iterdir()} == {f["path"] for f in answer["files"]}
        assert all(read(p).width >= 1 for p in target.iterdir())
    else:
        assert not target.exists() and not list(tmp_path.glob(f"{BUILDING_PREFIX}*"))


def test_gray_and_alpha_of_16_bit_is_read_by_its_gray(tmp_path):
    codes = rng.integers(0, 65535, (40, 24, 2)).astype(np.uint16)
    (tmp_path / "drape_height.png").write_bytes(encode(codes, "png"))
    (tmp_path / "drape_basecolor.png").write_bytes(made(rng.integers(0, 255, (40, 24, 3))))
    looked = CliRunner().invoke(app, ["look", str(tmp_path), "--json"])
    rows = {row["kind"]: row for row in json.loads(looked.stdout)["files"]}
    assert (rows["height"]["depth"], rows["height"]["channels"]) == (16, 2)
    done = CliRunner().invoke(app, ["make", str(tmp_path), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"])
    assert done.exit_code == 0 and json.loads(done.stdout)["masters"]["height"] == "given"


def test_an_empty_folder_and_a_missing_file_are_wrong_use(tmp_path):
    for source in (tmp_path, tmp_path / "not there.png"):
        done = CliRunner().invoke(app, ["make", str(source), "--target", "gltf", "--out", str(tmp_path / "out")])
        assert done.exit_code == 2 and done.output.count("\n") == 1
    assert list(tmp_path.iterdir()) == []
