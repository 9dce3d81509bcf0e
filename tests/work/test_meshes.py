"""Meshes from files to files: casters that agree, bakes, quick UV, and the terminal's commands."""

import io
import json
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from asking import zipped
from copper_sieve.cli import app
from copper_sieve.core.bake import BakePlan
from copper_sieve.core.bake.bvh import OwnCaster
from copper_sieve.core.bake.cast import blocked, hits
from copper_sieve.core.bake.cover import covered
from copper_sieve.core.bands import Cancel
from copper_sieve.core.errors import Cancelled, MeshInvalid
from copper_sieve.core.intake.materials import Hearing, readings_of
from copper_sieve.core.mesh.made import joined
from copper_sieve.core.mesh.topology import islands_of
from copper_sieve.core.mesh.unfold import margin_of, overlapping, stretch_of, uv_areas
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Cache, MeshRef, Worn
from copper_sieve.core.vectors import renormalized
from copper_sieve.files import read
from copper_sieve.files.meshes import glb_of, obj_document, read_mesh
from copper_sieve.targets import shipped_target
from copper_sieve.work import plan_delivery
from copper_sieve.work.meshes import BakeJob, KeptMeshes, bake_to_files, quick_uv
from copper_sieve.work.meshes.casting import EmbreeCaster, caster_for
from copper_sieve.work.meshes.taking import meshes_in_zip
from shapes import RELIEF, box, sheet, tiled, torus, torus_at
from work.test_every_finding import COLOR, of_set


def run(*arguments: object) -> tuple[int, dict]:
    done = CliRunner().invoke(app, ["mesh", *map(str, arguments)])
    return done.exit_code, json.loads(done.stdout) if "--json" in arguments and done.stdout else {"said": done.output}


@pytest.fixture(scope="module")
def pair(tmp_path_factory) -> tuple[Path, Path]:
    folder = tmp_path_factory.mktemp("a pair") / "für Knöpfe"
    folder.mkdir()
    low = replace(torus(24, 16), parts=("ring_low",), materials=("Messing",))
    high = replace(torus(240, 110, RELIEF), parts=("ring_high",))
    (folder / "ring_low.obj").write_bytes(obj_document(low))
    (folder / "ring_high.glb").write_bytes(glb_of(high))
    return folder / "ring_low.obj", folder / "ring_high.glb"


def test_both_casters_meet_the_same_triangles_at_the_same_places():
    shape, rng = torus(200, 120, RELIEF), np.random.default_rng(1)
    ours, theirs = OwnCaster(shape.at), caster_for(shape)
    assert isinstance(theirs, EmbreeCaster) and (ours.name, theirs.name) == ("own", "embree")
    origins = rng.normal(0, 1.5, (60_000, 3)).astype(np.float32)
    ways = renormalized((rng.normal(0, 0.8, origins.shape) - origins).astype(np.float32))
    reach = rng.uniform(0.2, 6, len(origins)).astype(np.float32)
    a, b = hits(ours, origins, ways, reach), hits(theirs, origins, ways, reach)
    assert ((a.triangle >= 0) == (b.triangle >= 0)).all() and (a.triangle != b.triangle).mean() < 1e-4
    met = a.triangle >= 0
    assert 0.2 < met.mean() < 0.9 and np.abs(a.distance - b.distance)[met].max() <= 1e-6 * shape.size
    assert (blocked(ours, origins, ways, reach) == blocked(theirs, origins, ways, reach)).all()


def test_without_the_library_our_own_casts(monkeypatch):
    monkeypatch.setitem(__import__("sys").modules, "embreex.mesh_construction", None)
    assert caster_for(box()).name == "own"


def test_bake_writes_files_that_say_what_they_hold(pair, tmp_path):
    low, high = pair
    maps = "normal,height,occlusion,id,thickness"
    asked = ("bake", "--low", low, "--high", high, "--size", 128, "--rays", 16, "--out", tmp_path / "o", "--json")
    code, answer = run(*asked, "--maps", maps)
    assert code == 0, answer
    rows = {row["map"]: row for row in answer["files"]}
    assert list(rows) == maps.split(",")
    for name, row in rows.items():
        picture = read(row["path"])
        assert (picture.width, picture.height, picture.depth) == (128, 128, row["depth"]) == (128, 128, 8 if name == "id" else 16)
        assert row["missed"] == 0
    top = rows["height"]["range"][1]
    assert RELIEF < top < 2.5 * RELIEF and rows["height"]["range"][0] == -top
    normal = read(rows["normal"]["path"]).codes / 65535 * 2 - 1
    assert normal[..., 2].mean() > 0.8 and np.abs(np.linalg.norm(normal, axis=-1) - 1).max() < 1e-4
    told = json.loads((tmp_path / "o" / "ring_low_bake.json").read_text())
    assert told["bakes"][0]["caster"] == "embree" and len(told["low"]["print"]) == 64
    assert [one["path"] for one in told["files"]] == [Path(row["path"]).name for row in answer["files"]]
    code, answer = run(*asked)
    assert code == 1 and "is there already" in answer["findings"][0]["text"]
    assert run(*asked, "--replace")[0] == 0


def test_each_material_has_maps_of_its_own(tmp_path):
    low = replace(box(), material=np.int32([0, 0, 1, 1, 1, 1]), materials=("brass", "linen"))
    (tmp_path / "clasp.glb").write_bytes(glb_of(low))
    (tmp_path / "cage.glb").write_bytes(glb_of(replace(low, points=low.points * np.float32(1.2))))
    (tmp_path / "high.glb").write_bytes(glb_of(box(1.02)))
    code, answer = run(
        *("bake", "--low", tmp_path / "clasp.glb", "--high", tmp_path / "high.glb", "--cage", tmp_path / "cage.glb"),
        *("--size", 64, "--out", tmp_path / "out", "--json"),
    )
    assert code == 0 and [Path(row["path"]).name for row in answer["files"]] == [
        "clasp_brass_normal.png",
        "clasp_linen_normal.png",
    ]


def test_a_mesh_in_tiles_has_a_picture_in_each_and_heights_that_go_on(tmp_path):
    rising = sheet(lambda u, v: torus_at(u, v, 0.04 * (u % 1)), 256, 64)
    for name, shape in (("low", tiled(torus(32, 16))), ("high", rising)):
        (tmp_path / f"ring_{name}.glb").write_bytes(glb_of(shape))
    sides = "--low", tmp_path / "ring_low.glb", "--high", tmp_path / "ring_high.glb"
    asked = ("bake", *sides, "--maps", "normal,height", "--size", 64, "--out", tmp_path / "out")
    code, answer = run(*asked, "--json")
    assert code == 0, answer
    rows = {Path(row["path"]).name: row for row in answer["files"]}
    assert sorted(rows) == [f"ring_low_{map}.{tile}.png" for map in ("height", "normal") for tile in (1001, 1002)]
    left, right = (rows[f"ring_low_height.{tile}.png"] for tile in (1001, 1002))
    assert left["tile"] == 1001 and left["range"] == right["range"]
    heights = [read(row["path"]).codes / 65535.0 for row in (left, right)]
    assert np.ptp(heights[0]) < 0.75 * np.ptp(heights[1])  # in ends of its own each would fill them
    code, answer = run(*asked, "--json")
    assert code == 1 and "ring_low_normal.1001.png is there already" in answer["findings"][0]["text"]
    code, answer = run(*asked[:-1], tmp_path / "one", "--no-tiles", "--json")
    assert code == 0 and [Path(row["path"]).name for row in answer["files"]] == ["ring_low_normal.png", "ring_low_height.png"]


@pytest.mark.parametrize(("offset", "misses"), [("0.01", True), ("4%", False), ("0.08", False)])
def test_an_offset_is_a_length_or_a_share_of_the_box(pair, tmp_path, offset, misses):
    low, high = pair
    code, answer = run("bake", "--low", low, "--high", high, "--offset", offset, "--size", 64, "--out", tmp_path / "o", "--json")
    maps = [row["map"] for row in answer["files"]]
    assert ("missed" in maps) == misses and code == (1 if misses else 0)
    if misses:
        gone = read(answer["files"][-1]["path"]).codes
        assert (gone > 0).mean() == pytest.approx(answer["files"][0]["missed"], abs=1e-6)


def test_what_is_asked_wrongly_says_what_to_do(pair, tmp_path):
    low, high = pair
    asked = ("bake", "--low", low, "--high", high, "--out", tmp_path / "o")
    assert run(*asked, "--offset", "much", "--json")[1]["findings"][0]["text"].startswith("an offset is a length")
    assert run(*asked, "--maps", "shine")[0] == 2
    assert run(*asked, "--offset", "1", "--cage", low)[0] == 2
    (tmp_path / "bare.obj").write_bytes(obj_document(replace(box(), uv=None)))
    code, answer = run("bake", "--low", tmp_path / "bare.obj", "--out", tmp_path / "o", "--maps", "ao", "--json")
    assert code == 1 and [one["id"] for one in answer["findings"]] == ["mesh-no-uv"]
    (tmp_path / "cage.obj").write_bytes(obj_document(torus(8, 6)))
    code, answer = run(*asked, "--cage", tmp_path / "cage.obj", "--json")
    assert code == 1 and answer == {"files": [], "findings": answer["findings"]}
    assert answer["findings"][0]["id"] == "mesh-cage-counts" and not (tmp_path / "o").exists()


def test_a_bake_that_is_stopped_leaves_nothing_behind(pair, tmp_path):
    low, high = pair
    cancel = Cancel()

    def progress(share: float) -> None:
        cancel.cancel()

    with pytest.raises(Cancelled):
        bake_to_files(BakeJob(low, high, tmp_path / "o", BakePlan(size=64)), cancel=cancel, progress=progress)
    assert not list((tmp_path / "o").iterdir())


def test_check_tells_of_every_file_and_of_parts_without_partner(pair, tmp_path):
    low, high = pair
    (tmp_path / "broken.obj").write_text("v 0 0 0\nf 1 2 3\n")
    code, answer = run("check", low, high, tmp_path / "broken.obj", tmp_path / "gone.obj", "--json")
    rows = answer["meshes"]
    assert code == 1 and [row["triangles"] for row in rows] == [768, 52_800, 0, 0]
    assert "gone.obj cannot be read" in rows[3]["findings"][0]["text"]
    assert rows[0]["materials"] == ["Messing"] and rows[0]["parts"] == ["ring_low"]
    assert rows[2]["findings"][0]["id"] == "mesh-unreadable"
    assert all({"id", "grade", "text", "numbers"} <= found.keys() for row in rows for found in row["findings"])
    (tmp_path / "hook_low.glb").write_bytes(glb_of(replace(box(), parts=("hook_low",))))
    rows = run("check", low, high, tmp_path / "hook_low.glb", "--json")[1]["meshes"]
    assert [found["numbers"]["name"] for found in rows[-1]["findings"] if found["id"] == "mesh-unpaired"] == ["hook_low"]


def test_tangents_are_put_into_a_file_and_are_those_of_the_standard(pair, tmp_path):
    code, said = run("tangents", pair[0], "--out", tmp_path / "a b" / "ring.glb")
    assert code == 0, said
    rows = run("check", tmp_path / "a b" / "ring.glb", "--json")[1]["meshes"]
    assert "mesh-tangents-given" in [found["id"] for found in rows[0]["findings"]]
    assert run("tangents", pair[0], "--out", tmp_path / "ring.obj")[0] == 2
    assert run("tangents", pair[0], "--out", tmp_path / "a b" / "ring.glb")[0] == 2


@pytest.mark.parametrize("way", ["islands", "box"])
def test_quick_uv_overlap_nowhere_mirror_nothing_and_stretch_little(way):
    for shape in (replace(torus(24, 12), uv=None), replace(box(), uv=None)):
        made = quick_uv(shape, way)
        assert made.uv.min() >= 0 and made.uv.max() <= 1
        assert (uv_areas(made, made.uv) > 0).all()
        found = stretch_of(made, made.uv)
        assert np.median(found.ratio) < 1.35
        if way == "islands":
            assert not len(overlapping(made, made.uv)) and np.percentile(found.ratio, 99) < 2
            cover, island = covered(made, made.uv, Size(1024, 1024)), islands_of(made, made.uv)
            gap = margin_of(np.where(cover.is_covered, island[np.maximum(cover.triangle, 0)], -1))
            assert gap is None or gap[0] >= 4
        assert (made.at == shape.at).all()
        again = quick_uv(shape, way)
        assert (again.uv == made.uv).all()


def test_charts_are_made_in_a_process_of_their_own_and_their_library_may_be_missing(tmp_path, monkeypatch):
    shape = replace(box(), uv=None)
    quick_uv(shape)
    assert "xatlas" not in sys.modules  # here it would keep every other thread waiting
    (tmp_path / "xatlas.py").write_text("raise ImportError('no such library')")
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    with pytest.raises(MeshInvalid, match="is not installed here"):
        quick_uv(shape)
    (tmp_path / "xatlas.py").write_text("raise MemoryError('no room')")
    with pytest.raises(MeshInvalid, match="could not be unfolded: MemoryError: no room"):
        quick_uv(shape)


def test_a_second_uv_leaves_the_first_alone(tmp_path):
    shape = torus(24, 12)
    (tmp_path / "ring.glb").write_bytes(glb_of(shape))
    code, said = run("uv", tmp_path / "ring.glb", "--out", tmp_path / "lit.glb", "--second")
    assert code == 0 and "made quickly" in said["said"]
    back = read_mesh(tmp_path / "lit.glb").shape
    assert back.second_uv is not None
    np.testing.assert_allclose(*(np.unique(one.uv[one.corners.argsort()].round(5), axis=0) for one in (back, shape)), atol=2e-5)
    rows = run("check", tmp_path / "lit.glb", "--json")[1]["meshes"]
    assert "mesh-second-uv" not in [found["id"] for found in rows[0]["findings"]]


def test_a_flat_piece_is_mapped_from_its_wide_side():
    points = np.float32([[0, 0, 0], [2, 0, 0], [2, 0, 1], [0, 0, 1]])
    shape = replace(box(), points=points, corners=np.int32([0, 3, 2, 1]), counts=np.int32([4]), uv=None, normals=None)
    shape = replace(shape, material=np.zeros(1, np.int32), part=np.zeros(1, np.int32))
    made = quick_uv(shape, "flat")
    assert made.uv.max(0).tolist() == [1, 0.5] and (uv_areas(made, made.uv) > 0).all()
    with pytest.raises(MeshInvalid, match="nothing to unfold"):
        quick_uv(replace(shape, points=points * 0), "flat")
    with pytest.raises(MeshInvalid, match="a mapping is one of"):
        quick_uv(shape, "globe")


def test_baked_maps_are_one_set_when_they_are_taken_in(tmp_path):
    (tmp_path / "ball.glb").write_bytes(glb_of(torus(24, 16)))
    maps = "object_normal,occlusion,curvature"
    assert (
        run("bake", "--low", tmp_path / "ball.glb", "--maps", maps, "--size", 64, "--rays", 4, "--out", tmp_path / "o", "--json")[
            0
        ]
        == 0
    )
    done = CliRunner().invoke(app, ["look", *map(str, sorted((tmp_path / "o").glob("*.png"))), "--json"])
    (found,) = json.loads(done.stdout)["sets"]
    assert found["maps"].keys() == {"object_normal", "occlusion", "curvature"}


def test_the_demo_pieces_are_written_once_and_can_be_baked(tmp_path):
    first = CliRunner().invoke(app, ["mesh", "demo", str(tmp_path)])
    assert first.exit_code == 0 and len(list(tmp_path.glob("*.obj"))) == 6
    again = CliRunner().invoke(app, ["mesh", "demo", str(tmp_path)])
    assert again.exit_code == 2 and "there already" in again.output
    sides = [str(tmp_path / f"clasp_{end}.obj") for end in ("low", "high")]
    code, told = run("bake", "--low", sides[0], "--high", sides[1], "--size", 64, "--out", tmp_path / "out", "--json")
    assert code == 0 and told["files"][0]["map"] == "normal" and told["files"][0]["missed"] == 0


def test_a_mesh_of_a_zip_says_where_in_it_its_pictures_lie():
    mtl = b"newmtl %s\nmap_Kd textures/albedo.png\n"
    files = {}
    for asset, material in (("chair", "Oak"), ("table", "Slate")):
        files[f"lib/{asset}/model.obj"] = obj_document(replace(torus(8, 6), materials=(material,)), "model.mtl")
        files[f"lib/{asset}/model.mtl"] = mtl % material.encode()
    told = [one.read.beside[0] for one in meshes_in_zip(io.BytesIO(zipped(files)), "lib.zip")]
    assert [(one.folder, one.reading.material) for one in told] == [
        ("lib/chair/textures", "Oak"),
        ("lib/table/textures", "Slate"),
    ]
    files = [Hearing("albedo.png", place, "albedo") for place in ("lib/table/textures", "LIB/chair/textures", "textures")]
    readings = [reading and reading.called for reading, _ in readings_of(files[:2], told)]
    assert readings == ["Slate", "Oak"]
    assert all(reading is None for reading, _ in readings_of(files, told))  # the last may be either


def test_a_document_says_which_part_of_a_mesh_it_carries():
    both = joined([replace(box(), materials=("brass",)), replace(box(2.0), materials=("horn",))])
    kept = KeptMeshes(lambda sha256: glb_of(both if sha256 == "0" * 64 else box()), Cache(1 << 20))

    def said(sha256: str, called: str) -> list[str]:
        low = MeshRef(sha256=sha256, name="knob.glb", print=sha256, triangles=24)
        seen = of_set(
            base_color=COLOR, change=lambda made: made.model_copy(update={"worn": Worn(low=low, called=called)}), meshes=kept
        )
        planned = plan_delivery(seen, shipped_target("gltf"), "knob")
        return [file.title for file in planned.files if file.kind == "document"]

    assert all("the part “brass” of knob.glb" in title for title in said("0" * 64, "brass"))
    assert all("knob.glb" in title and "part" not in title for title in said("1" * 64, "brass"))
