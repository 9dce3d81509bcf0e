"""A set in tiles from its files to what is delivered: names, documents, the note, what a tile lacks, and the proof."""

import json
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.core.recipe import Cache, Evaluation, choices
from copper_sieve.files import encode, read, read_bytes
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.deliveries.handing import note_of
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.proofs import balls, prove_file
from copper_sieve.work.sets import assay_set

N = 64
TILES = (1001, 1002, 1011)
rng = np.random.default_rng(3)


def files_of(tile: int) -> dict[str, np.ndarray]:
    color = np.zeros((N, N, 3), np.uint8)
    color[:] = rng.integers(60, 200, 3)
    color[N // 4 : N // 2, tile % 10 * 8 :] //= 2
    return {"basecolor": color, "roughness": color[..., 1]}


CONTENT = {f"coat_{key}.{tile}.png": encode(v, "png") for tile in TILES for key, v in files_of(tile).items()}


def evaluation(content: dict[str, bytes] = CONTENT) -> Evaluation:
    looked = [look_at_bytes(one, name) for name, one in content.items()]
    held = {one.sha256: content[one.name] for one in looked}
    recipe, findings = recipe_for(looked)
    assert recipe is not None, findings
    return Evaluation(recipe, None, lambda source: load_codes(source, held.__getitem__), Cache(1 << 28))


@pytest.mark.parametrize("key", shipped_targets())
def test_every_target_writes_a_file_for_every_tile(key, tmp_path):
    target, whole = shipped_target(key), evaluation()
    plan = plan_delivery(whole, target, "coat")
    report = deliver(whole, target, plan, tmp_path / "out")
    written = {path.name for path in (tmp_path / "out").iterdir()}
    assert written == {file.name for file in report.files if file.state == "written"}
    for file in target.files:
        names = [f.name for f in plan.files if f.role == file.role and f.is_written]
        assert len(set(names)) == len(names) in (0, len(TILES))
        assert all(str(tile) in name for tile, name in zip(TILES, names))
    for tile in TILES:
        for file in plan.of(tile).files:
            if file.kind == "image" and file.is_written:
                assert prove_file(whole.at(tile), target, plan.of(tile), file.role, tmp_path / "out").is_right, file.name


def test_tiles_hold_their_own_maps(tmp_path):
    target, whole = shipped_target("engine-orm-down"), evaluation()
    plan = plan_delivery(whole, target, "coat")
    deliver(whole, target, plan, tmp_path / "out")
    for tile in TILES:
        color = next(f for f in plan.of(tile).files if "base_color" in {c.quantity for c in f.channels})
        given = read_bytes(CONTENT[f"coat_basecolor.{tile}.png"], "given.png").codes
        np.testing.assert_array_equal(read(tmp_path / "out" / color.name).codes[..., :3], given)
    proof, theirs, masters = balls(whole.at(1002), target, plan.of(1002), tmp_path / "out")
    assert proof.is_independent and theirs.pictures.shape == masters.pictures.shape


def test_documents_name_all_tiles_by_one_pattern_or_come_once_a_tile(tmp_path):
    whole = evaluation()
    for key, patterned in {"materialx": True, "usd": True, "gltf": False}.items():
        target = next(t for t in shipped_targets().values() if any(d.kind == key for d in t.documents))
        plan = plan_delivery(whole, target, "coat")
        deliver(whole, target, plan, tmp_path / key)
        documents = [f for f in plan.files if f.kind == "document" and f.format == key]
        texts = [(tmp_path / key / f.name).read_text("utf-8") for f in documents]
        if patterned:
            assert len(texts) == 1 and "<UDIM>" in texts[0].replace("&lt;", "<").replace("&gt;", ">")
            assert not any(str(tile) in texts[0] for tile in TILES)
        else:
            assert len(texts) == len(TILES)
            for tile, text in zip(TILES, texts):
                images = [image["uri"] for image in json.loads(text)["images"]]
                assert images and all(str(tile) in uri for uri in images)


def test_the_note_says_which_tiles_there_are_and_what_the_mark_stands_for():
    whole, target = evaluation(), shipped_target("engine-orm-down")
    note = note_of(plan_delivery(whole, target, "coat"), target, whole.recipe).markdown()
    assert "1001–1002, 1011" in note and "<UDIM>" in note


def test_what_a_tile_lacks_is_told_and_the_rest_goes_on(tmp_path):
    content = {name: one for name, one in CONTENT.items() if name != "coat_basecolor.1011.png"}
    whole, target = evaluation(content), shipped_target("engine-orm-down")
    plan = plan_delivery(whole, target, "coat")
    assert "tile-missing" in {f.id for f in plan.findings} and "tile-missing" in {f.id for _, f in assay_set(whole)}
    lacking = {f.role for f in plan.of(1001).files if f.is_written} - {f.role for f in plan.of(1011).files if f.is_written}
    assert lacking or any(f.grade == "stop" for f in plan.findings)


def test_an_odd_sized_tile_is_told_by_its_name():
    small = encode(files_of(1002)["basecolor"][::2, ::2], "png")
    found = plan_delivery(
        evaluation({**CONTENT, "coat_basecolor.1002.png": small}), shipped_target("engine-orm-down"), "coat"
    ).findings
    assert [f.text for f in found if f.id == "size-differs"] == [
        f"coat_basecolor.1002.png is {N // 2} × {N // 2} px; it is resized to the set's {N} × {N}."
    ]


def test_the_terminal_takes_tiles_as_one_set(tmp_path):
    for name, one in CONTENT.items():
        (tmp_path / name).write_bytes(one)
    out = tmp_path / "out"
    answer = CliRunner().invoke(app, ["make", str(tmp_path), "--target", "engine-orm-down", "--out", str(out), "--json"])
    assert answer.exit_code == 0, answer.output
    names = [Path(file["path"]).name for file in json.loads(answer.output)["files"]]
    assert all(any(f".{tile}." in name for name in names) for tile in TILES)


def test_what_is_found_on_several_tiles_is_said_once():
    bright = {name: encode(np.full((N, N), 250 - k % 3, np.uint8), "png") for k, name in enumerate(CONTENT) if "rough" in name}
    found = [(tile, f.text) for tile, f in assay_set(evaluation({**CONTENT, **bright})) if f.id == "one-value"]
    assert len(found) == 1 and found[0][0] == 1001 and "Likewise in 1002, 1011." in found[0][1]


def test_where_a_map_comes_from_names_all_of_its_tiles():
    (choice,) = (one for one in choices(evaluation().recipe, "roughness") if one.is_now)
    assert choice.title == "given · coat_roughness.<UDIM>.png, 3 tiles"
    (alone,) = (one for one in choices(evaluation().recipe.at(1002), "roughness") if one.is_now)
    assert alone.title == "given · coat_roughness.1002.png"
