"""One file never stops another: whatever is wrong with it, or with us, is a row of its own."""

import io
import json
import logging
import os
import zipfile

import numpy as np
import pytest
import tifffile
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.errors import TargetInvalid, UnknownKey
from copper_sieve.core.target import read_target
from copper_sieve.files import encode
from copper_sieve.work.folders import Folders
from copper_sieve.work.intake import looking
from copper_sieve.work.intake.looking import look_at_bytes, look_into_zip, speakable

rng = np.random.default_rng(8)
COLOR = encode(rng.integers(0, 255, (32, 32, 3)).astype(np.uint8), "png")


def leaf(px: int = 64) -> np.ndarray:
    """A green picture cut out by its alpha."""
    y, x = np.mgrid[:px, :px] / px - 0.5
    green = np.dstack([60 + 80 * (x + 0.5), 120 + 90 * (y + 0.5), 40 + 20 * np.sin(30 * x)]) + rng.normal(0, 6, (px, px, 3))
    return np.dstack([green, np.where(np.hypot(x, y) < 0.4, 255, 0)]).clip(0, 255).astype(np.uint8)


def four_grays(px: int = 64) -> np.ndarray:
    """Metallic, occlusion, a detail mask and smoothness, as packed files of four channels hold them."""
    y, x = np.mgrid[:px, :px] / px
    metal = np.where(np.sin(20 * x) > 0.6, 255, 0)
    open_ = 255 - 60 * (np.sin(33 * y) > 0.9)
    return np.dstack([metal, open_, np.zeros((px, px)), 120 + 60 * np.sin(9 * x * y)]).astype(np.uint8)


@pytest.mark.parametrize("codes", [leaf(), four_grays(), four_grays()[..., [1, 0, 3, 2]], np.zeros((9, 9, 4), np.uint8)])
@pytest.mark.parametrize("name", ["weald.png", "weald_BaseColor.png", "weald_packed.png", "weald_RMA.png"])
def test_pictures_of_four_channels_are_judged(codes, name):
    looked = look_at_bytes(encode(codes, "png"), name)
    assert looked.look is not None and "our-fault" not in {found.id for found in looked.findings}


def test_a_cut_out_and_a_pack_of_four_are_seen_for_what_they_are():
    cut = look_at_bytes(encode(leaf(), "png"), "weald.png").look
    assert cut is not None and (cut.kind, cut.reads) == ("photo", {"RGB": "photo", "A": "opacity"})
    packed = look_at_bytes(encode(four_grays(), "png"), "weald.png").look
    assert packed is not None and packed.kind == "packed"


def test_a_fault_of_ours_is_one_files_row_and_the_terminal_says_whose_it_is(tmp_path, monkeypatch, caplog):
    def stumbling(name, codes, profile=None):
        if name.startswith("bad"):
            raise IndexError("boolean index did not match")
        return look_at(name, codes, profile)

    look_at = looking.look_at
    monkeypatch.setattr(looking, "look_at", stumbling)
    for name in ("bad_normal.png", "good_basecolor.png"):
        (tmp_path / name).write_bytes(COLOR)
    with caplog.at_level(logging.ERROR):
        done = CliRunner().invoke(app, ["look", str(tmp_path), "--json"])
    rows = {row["path"].rpartition("/")[2]: row for row in json.loads(done.stdout)["files"]}
    assert rows["good_basecolor.png"]["kind"] == "base_color"
    assert [f["id"] for f in rows["bad_normal.png"]["findings"]] == ["our-fault"]
    assert done.exit_code == 3 and "IndexError" in caplog.text


@pytest.mark.parametrize("packing", ["zlib", "lzma"])
@pytest.mark.parametrize("predictor", [False, True])
def test_damaged_compressed_tiffs_are_refused_with_a_sentence(packing, predictor, tmp_path):
    path = tmp_path / "x.tif"
    tifffile.imwrite(path, rng.integers(0, 255, (32, 32, 3)).astype(np.uint8), compression=packing, predictor=predictor)
    whole = path.read_bytes()
    for at in range(300, len(whole) - 8, 97):
        damaged = bytearray(whole)
        damaged[at] ^= 4
        for content in (whole[:at], bytes(damaged)):
            looked = look_at_bytes(content, "x.tif")
            assert "our-fault" not in {found.id for found in looked.findings}
            assert looked.look is not None or looked.findings[0].id == "unreadable"


def test_a_zip_with_one_bad_member_gives_the_others(tmp_path):
    for way in (zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2):
        path = tmp_path / "x.zip"
        with zipfile.ZipFile(path, "w", way) as archive:
            for name in ("a.png", "b.png", "c.png"):
                archive.writestr(name, COLOR)
            middle = archive.getinfo("b.png")
        content = bytearray(path.read_bytes())
        start = middle.header_offset + 30 + len("b.png")
        content[start + 10 : start + 40] = bytes(30)
        rows = {looked.name: looked for looked, _ in look_into_zip(io.BytesIO(content), "x.zip")}
        assert [rows[name].look is not None for name in ("a.png", "b.png", "c.png")] == [True, False, True]
        assert rows["b.png"].findings[0].id == "unreadable" and "Pack it again" in rows["b.png"].findings[0].text


def test_zips_of_unknown_versions_and_unreadable_names_are_told(tmp_path):
    path = tmp_path / "x.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("é.png", COLOR)
    whole = path.read_bytes()
    central = whole.index(b"PK\1\2")
    newer = whole[: central + 6] + b"\xff\0" + whole[central + 8 :]
    odd_name = whole.replace("é".encode(), b"\xff\xfe")
    for content in (newer, odd_name):
        rows = [looked for looked, _ in look_into_zip(io.BytesIO(content), "x.zip")]
        assert len(rows) == 1 and {f.id for f in rows[0].findings} <= {"unreadable"}


def test_names_that_are_no_text_are_shown_and_stop_nothing(tmp_path):
    odd = os.fsencode(tmp_path) + b"/caf\xe9_basecolor.png"
    with open(odd, "wb") as file:
        file.write(COLOR)
    (tmp_path / "good_basecolor.png").write_bytes(COLOR)
    done = CliRunner().invoke(app, ["look", str(tmp_path), "--json"])
    kinds = {row["path"].rpartition("/")[2]: row["kind"] for row in json.loads(done.stdout)["files"]}
    assert kinds == {"caf\ufffd_basecolor.png": "base_color", "good_basecolor.png": "base_color"}
    assert speakable("a\0b") == "a\ufffdb"


def test_links_do_not_lead_out_of_a_linked_folder(tmp_path):
    outside, root = tmp_path / "outside", tmp_path / "root"
    (root / "linen").mkdir(parents=True)
    outside.mkdir()
    (outside / "secret_basecolor.png").write_bytes(COLOR)
    (root / "linen" / "linen_basecolor.png").write_bytes(COLOR)
    (root / "linen" / "linen_normal.png").symlink_to(outside / "secret_basecolor.png")
    (root / "away").symlink_to(outside)
    folders = Folders([root])
    assert folders.listing() == {"0/linen": 1}
    assert [file.looked.name for file in folders.look("0/linen")] == ["linen_basecolor.png"]
    for place in ("²/linen", "x", "", "0/away", "0/linen\0", "0/" + "x" * 5000, "0/../outside", "9"):
        with pytest.raises(UnknownKey):
            folders.path_of(place)


@pytest.mark.parametrize(
    "text", ["x = " + "[" * 5000 + "]" * 5000, "key = \0", "a" + ".a" * 3000 + " = 1", "rise = nan", "x = {" + "a={" * 2000]
)
def test_odd_tables_are_refused(text):
    with pytest.raises(TargetInvalid):
        read_target(text)
