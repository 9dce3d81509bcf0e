"""From a folder of files to sets: grouping, rivals, tiles, strangers, and what each leaves to say."""

import io
import json
import zipfile
from pathlib import Path

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.derive import normal_from_height
from copper_sieve.demo.materials import _noise
from copper_sieve.files import encode, read
from copper_sieve.work.intake.grouping import claims_of, recipe_for, sets_of
from copper_sieve.work.intake.looking import expand, gather

HEIGHT = np.clip(0.5 + 0.25 * _noise(128, 8, 6), 0, 1)
NORMAL = ((normal_from_height(HEIGHT, 0.08) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
DOWN = NORMAL * np.uint8([1, 0, 1]) + (255 - NORMAL) * np.uint8([0, 1, 0])
GRAY = (HEIGHT * 255).astype(np.uint8)
COLOR = np.random.default_rng(5).integers(30, 220, (128, 128, 3)).astype(np.uint8)


def laid_out(folder: Path, files: dict[str, np.ndarray | bytes]) -> list:
    for name, content in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content if isinstance(content, bytes) else encode(content, path.suffix[1:]))
    return list(gather(expand([folder])))


def grouped(folder: Path, files: dict[str, np.ndarray | bytes]) -> dict[str, set[str]]:
    return {name: {f.name for f in inside} for name, inside in sets_of(g.looked for g in laid_out(folder, files)).items()}


def test_spelling_does_not_part_a_set(tmp_path):
    files = {"Gilt Braid_basecolor.png": COLOR, "gilt_braid-Normal.png": NORMAL, "gilt.braid.ROUGH.tga": GRAY}
    assert grouped(tmp_path, files) == {"Gilt Braid": set(files)}


def test_two_libraries_and_a_folder_per_material_stay_apart(tmp_path):
    files = {"a/felt/basecolor.png": COLOR, "a/felt/normal.png": NORMAL, "b/tulle/basecolor.png": COLOR, "b/wool_NRM.png": NORMAL}
    assert grouped(tmp_path, files) == {
        "felt": {"basecolor.png", "normal.png"}, "tulle": {"basecolor.png"}, "wool": {"wool_NRM.png"},
    }  # fmt: skip


def recipe_of(folder: Path, files: dict[str, np.ndarray | bytes]):
    return recipe_for(g.looked for g in laid_out(folder, files))


def test_tiles_of_one_name_are_one_set(tmp_path):
    files = {"satin_basecolor.1001.png": COLOR, "satin_basecolor.1012.png": 255 - COLOR, "satin_normal.1001.png": NORMAL}
    assert set(grouped(tmp_path, files)) == {"satin"}
    recipe, findings = recipe_of(tmp_path, {"satin_grain.png": GRAY})
    assert recipe is not None and recipe.tiles == (1001, 1012) and not findings
    tiles = {source.name: source.tiles for source in recipe.sources.values()}
    assert tiles == {"satin_basecolor.1001.png": (1001, 1012), "satin_normal.1001.png": (1001,)}
    assert recipe.facts.edges.x == recipe.facts.edges.y == "mirror"  # an atlas does not repeat


def test_one_number_alone_is_no_tile(tmp_path):
    recipe, _ = recipe_of(tmp_path, {"satin_basecolor_1024.png": COLOR, "satin_normal_1024.png": NORMAL})
    assert recipe is not None and recipe.tiles == ()


def test_a_tile_that_is_there_twice_is_told(tmp_path):
    files = {"satin_basecolor.1001.png": COLOR, "satin_basecolor.1002.png": 255 - COLOR, "old/satin_basecolor.1002.png": COLOR}
    looked = [g.looked for g in laid_out(tmp_path, {f"all/{name}": content for name, content in files.items()})]
    recipe, findings = recipe_for(looked)
    assert recipe is not None and recipe.tiles == (1001, 1002)
    assert [f.id for f in findings] == ["copy-left-out"]


def test_a_number_beyond_the_tiles_makes_a_file_of_its_own(tmp_path):
    files = {"satin_basecolor.1001.png": COLOR, "satin_basecolor.1002.png": COLOR, "satin_basecolor.2001.png": 255 - COLOR}
    assert grouped(tmp_path, files) == {"satin": set(files)}
    recipe, findings = recipe_of(tmp_path, {})
    assert recipe is None and [f.id for f in findings] == ["rival-maps"]


def test_three_normals_the_same_one_twice_and_a_worse_one(tmp_path):
    files = {"felt_basecolor.png": COLOR, "felt_normal_gl.png": NORMAL, "felt_normal_dx.png": DOWN}
    files["felt_nrm.jpg"] = cv2.imencode(".jpg", NORMAL[::2, ::2, ::-1])[1].tobytes()
    looked = [g.looked for g in laid_out(tmp_path, files)]
    claims = {c.file.name: (c.relation, bool(c.entry.reads)) for c in claims_of(looked)}
    kept = {name for name, (_, gives) in claims.items() if gives}
    assert len(kept & {"felt_normal_gl.png", "felt_normal_dx.png"}) == 1 and "felt_nrm.jpg" not in kept
    recipe, findings = recipe_for(looked)
    assert recipe is not None and {f.id for f in findings} == {"copy-left-out", "worse-left-out"}


def test_a_height_settles_a_green_that_the_map_leaves_open(tmp_path):
    """A separable surface: its slopes close either way, but its height rises one way only."""
    x, y = np.meshgrid(np.arange(128), np.arange(128))
    height = (0.5 + 0.2 * np.sin(x / 128 * 2 * np.pi * 5) + 0.2 * np.cos(y / 128 * 2 * np.pi * 4)).astype(np.float32)
    normal = ((normal_from_height(height, 0.08) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    normal[..., 1] = 255 - normal[..., 1]
    looked = [
        g.looked for g in laid_out(tmp_path, {"rib_normal.png": normal, "rib_height.png": (height * 65535).astype(np.uint16)})
    ]
    assert all(file.look.green is None or file.look.green.answer == "unsure" for file in looked if file.look)
    recipe, _ = recipe_for(looked)
    assert recipe is not None
    assert {s.green for s in recipe.sources.values() if "normal" in s.reads.values()} == {"down"}


def looked_at(path: Path) -> tuple[int, dict[str, list[str]], list[dict]]:
    """Exit status, ids of findings by file or set, and the sets."""
    done = CliRunner().invoke(app, ["look", str(path), "--json"])
    answer = json.loads(done.stdout)
    found = {row["path"].rpartition("/")[2]: [f["id"] for f in row["findings"]] for row in answer["files"]}
    found |= {row["name"]: [f["id"] for f in row["findings"]] for row in answer["sets"]}
    return done.exit_code, found, answer["sets"]


LIES = {
    "a TGA that is a PNG.tga": (encode(COLOR, "png"), None),
    "felt_normal.png": (cv2.imencode(".jpg", NORMAL[..., ::-1])[1].tobytes(), "lossy-normal"),
    "felt_ORM.png": (encode(np.repeat(GRAY[..., None], 3, 2), "png"), "same-channels"),
    "felt_rough.png": (encode(np.repeat(GRAY[..., None], 3, 2), "png"), "gray-as-color"),
    "notes.txt": (b"dear colleague", "not-a-picture"),
    "felt.mtlx": (b"<materialx/>", "not-a-picture"),
    "felt.usdc": (b"PXR-USDC", "not-a-picture"),
    "felt_MRA.png": (encode(np.dstack([0 * GRAY, GRAY, 0 * GRAY]), "png"), "channel-empty"),
}


@pytest.mark.parametrize("name", LIES)
def test_each_file_that_lies_has_a_row_that_says_so(tmp_path, name):
    content, wanted = LIES[name]
    (tmp_path / name).write_bytes(content)
    status, found, _ = looked_at(tmp_path)
    assert status == 0 and (wanted is None or wanted in found[name]), found


def test_a_file_that_is_named_and_holds_no_picture_is_a_stop(tmp_path):
    (tmp_path / "felt.usdc").write_bytes(b"PXR-USDC")
    status, found, _ = looked_at(tmp_path / "felt.usdc")
    assert status == 1 and found["felt.usdc"] == ["unreadable"]


def test_vectors_too_short_are_measured(tmp_path):
    short = ((NORMAL.astype(float) - 127.5) * 0.6 + 127.5).round().astype(np.uint8)
    laid_out(tmp_path, {"felt_basecolor.png": COLOR, "felt_normal.png": short})
    assert "normal-length" in looked_at(tmp_path)[1]["felt"]


def test_a_constant_of_another_size_is_no_mismatch_but_another_shape_is(tmp_path):
    flat, tall = np.full((16, 16), 255, np.uint8), GRAY[:, :64]
    laid_out(
        tmp_path, {"felt_basecolor.png": COLOR, "felt_metallic.png": flat, "felt_rough.png": tall, "felt_ao.png": GRAY[::2, ::2]}
    )
    done = CliRunner().invoke(app, ["make", str(tmp_path), "--target", "gltf", "--out", str(tmp_path / "out"), "--json"])
    found = [
        (f["id"], f["numbers"]["file"]) for f in json.loads(done.stdout)["findings"] if "size" in f["id"] or "aspect" in f["id"]
    ]
    assert sorted(found) == [("aspect-differs", "felt_rough.png"), ("size-differs", "felt_ao.png")]


def test_a_zip_keeps_its_folders_apart_and_refuses_a_zip_within(tmp_path):
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("../../felt/normal.png", encode(NORMAL, "png"))
        archive.writestr("tulle/basecolor.png", encode(COLOR, "png"))
        archive.writestr("inner.zip", b"PK\x05\x06" + bytes(18))
    (tmp_path / "delivery.zip").write_bytes(packed.getvalue())
    status, found, sets = looked_at(tmp_path)
    assert status == 1 and found["inner.zip"] == ["unreadable"]
    assert {row["name"] for row in sets} == {"felt", "tulle"}


def test_a_link_to_nothing_is_told_and_stops_no_other(tmp_path):
    (tmp_path / "felt_normal.png").symlink_to(tmp_path / "gone.png")
    (tmp_path / "felt_basecolor.png").write_bytes(encode(COLOR, "png"))
    status, found, sets = looked_at(tmp_path)
    assert status == 1 and found["felt_normal.png"] == ["unreadable"]
    assert [row["name"] for row in sets] == ["felt"]


def test_thousands_of_files_are_all_looked_at(tmp_path):
    small = encode(GRAY[:8, :8], "png")
    for k in range(1200):
        (tmp_path / f"scrap{k}_rough.png").write_bytes(small)
    assert len(sets_of(g.looked for g in gather(expand([tmp_path])))) == 1200


def test_originals_are_never_touched(tmp_path):
    laid_out(tmp_path, {"felt_basecolor.png": COLOR, "felt_normal.png": DOWN})
    before = {p: p.read_bytes() for p in tmp_path.iterdir()}
    looked_at(tmp_path)
    assert {p: p.read_bytes() for p in tmp_path.iterdir()} == before
    assert read(tmp_path / "felt_normal.png").codes.shape == (128, 128, 3)
