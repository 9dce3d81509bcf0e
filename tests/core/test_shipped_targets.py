"""Every shipped target against what is written down of it by hand, and every wrong table against that."""

import ast
import tempfile
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from copper_sieve.core.errors import TargetInvalid
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source, source_ref
from copper_sieve.core.target import FORMATS, Handed, Target, decode, encode_file, file_size, hand_over, read_target
from copper_sieve.files import encode
from copper_sieve.standins import TABLES, channels_off
from copper_sieve.standins import faults as storing_faults
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import plan_delivery

OWN = ("detail_weight", "wetness", "coat", "coat_roughness", "transmission", "sheen")
SCALARS = ("opacity", "metallic", "roughness", "height", "occlusion", *(f"own_{name}" for name in OWN))


def probe(width: int = 24, height: int = 16, seed: int = 4) -> dict[str, np.ndarray]:
    """One asymmetric set: no map like another, no channel like its complement, normals that lean more one way."""
    rng = np.random.default_rng(seed)
    lean = rng.normal(size=(height, width, 3)) * [0.4, 0.3, 0] + [0.25, 0.35, 1]
    masters = {key: (0.1 + 0.05 * k + 0.3 * rng.random((height, width))).astype(np.float32) for k, key in enumerate(SCALARS)}
    masters |= {key: rng.random((height, width, 3)).astype(np.float32) * [0.9, 0.6, 0.3] for key in ("base_color", "emissive")}
    masters["reflectance"] = (0.16 * rng.random((height, width))).astype(np.float32)
    masters["normal"] = lean / np.linalg.norm(lean, axis=-1, keepdims=True)
    return {key: values.astype(np.float32) for key, values in masters.items()}


PROBE = probe()
SOURCES = Path(__file__).parents[2] / "src/copper_sieve"


def faults(target: Target, masters: dict[str, np.ndarray] = PROBE) -> list[str]:
    """What the stand-in of that key finds wrong with a target's files, read from disk."""
    rows, columns = masters["roughness"].shape
    found = []
    with tempfile.TemporaryDirectory() as folder:
        for file in target.files:
            table = TABLES[target.key].files[file.role]
            path = Path(folder) / f"{file.role}{FORMATS[file.format].suffix}"
            path.write_bytes(encode(encode_file(target, file, masters, Size(columns, rows)), file.format, color=file.color))
            wrong = storing_faults(table, path)
            found += wrong
            if not any("channels" in fault for fault in wrong):
                off = channels_off(table, path, masters)
                found += [f"{file.role} {c.letter} is off by {c.steps:.2f} steps" for c in off if not c.is_right]
    return found


def test_the_stand_ins_know_every_target_and_nothing_of_our_tables():
    assert set(TABLES) == set(shipped_targets())
    for path in (SOURCES / "standins").glob("*.py"):
        tree = ast.parse(path.read_text("utf-8"))
        modules = [(n.level, n.module or "") for n in ast.walk(tree) if isinstance(n, ast.ImportFrom)]
        modules += [(0, alias.name) for n in ast.walk(tree) if isinstance(n, ast.Import) for alias in n.names]
        assert not any(level > 1 or "copper_sieve" in module or "toml" in module for level, module in modules), path


@pytest.mark.parametrize("key", shipped_targets())
def test_every_file_is_within_half_a_step_of_what_the_stand_in_expects(key):
    target = shipped_target(key)
    assert {file.role for file in target.files} == set(TABLES[key].files)
    assert faults(target) == []


def mutations(target: Target):
    """Every table that differs from ``target`` in one way that matters: what was changed, and the wrong table."""
    table = {**target.model_dump(mode="json", by_alias=True), "documents": []}  # some refuse what they cannot wire by themselves
    yield "green", {**table, "green": {"up": "down", "down": "up"}[target.green]}
    for k, file in enumerate(table["files"]):
        other = {"srgb": "data", "data": "srgb", "linear": "srgb"}[file["color"]]
        yield f"{file['role']} color", with_file(table, k, {**file, "color": other})
        letters = list(file["channels"])
        for letter, channel in file["channels"].items():
            if channel["constant"] is not None:
                continue
            yield f"{file['role']} {letter} invert", with_channel(table, k, letter, {**channel, "invert": not channel["invert"]})
            yield f"{file['role']} {letter} range", with_channel(table, k, letter, {**channel, "range": [0.0, 0.9]})
        for a, b in pairwise(letters):
            if file["channels"][a] != file["channels"][b]:
                swapped = {**file["channels"], a: file["channels"][b], b: file["channels"][a]}
                yield f"{file['role']} {a}{b} swapped", with_file(table, k, {**file, "channels": swapped})


def with_file(table: dict, k: int, file: dict) -> dict:
    return {**table, "files": [file if i == k else old for i, old in enumerate(table["files"])]}


def with_channel(table: dict, k: int, letter: str, channel: dict) -> dict:
    file = table["files"][k]
    return with_file(table, k, {**file, "channels": {**file["channels"], letter: channel}})


@pytest.mark.parametrize("key", shipped_targets())
def test_every_wrong_table_is_noticed(key):
    target = shipped_target(key)
    missed = [what for what, table in mutations(target) if not faults(Target.model_validate(table)) and what not in UNSEEN]
    if not any("normal" in file.masters() for file in target.files):
        missed.remove("green")
    assert missed == []


# Half floats without a curve hold the same whether they are called data or not; no reader is told otherwise by the file.
UNSEEN: set[str] = set()

small = st.integers(1, 40)
sizes = st.tuples(small, small) | st.sampled_from([(1, 1), (1, 512), (511, 3), (257, 255), (512, 512)])
LOSSY = {"gloss-tiff", "classic-shading", "film-specular", "path-specular", "engine-specular-up"}  # metal and color in two halves


@given(st.sampled_from(sorted(set(shipped_targets()) - LOSSY)), sizes, st.sets(st.sampled_from([*SCALARS, "normal", "emissive"])))
@settings(deadline=None, max_examples=80)
def test_what_is_written_reads_back_whatever_is_missing(key, size, missing):
    target = shipped_target(key)
    masters = {k: v for k, v in probe(*size).items() if k not in missing}
    files = {file.role: encode_file(target, file, masters, Size(*size)) for file in target.files}
    again = decode(target, files)
    for master, values in again.items():
        if master in masters:
            atol = 0.02 if master == "normal" else 0.009 if values.ndim == 3 else 0.0021
            np.testing.assert_allclose(values, masters[master], atol=atol)
    repeat = {file.role: encode_file(target, file, again, Size(*size)) for file in target.files}
    halved = ("relief", "shine")  # they hold a part of normals or of emissive alone
    exact = [role for role, codes in files.items() if codes.dtype.kind == "u" and role not in halved]
    assert all(np.abs(repeat[role].astype(int) - files[role].astype(int)).max() <= 1 for role in exact)


@given(st.sampled_from(sorted(LOSSY)), sizes, st.sets(st.sampled_from(["roughness", "height", "occlusion", "normal"])))
@settings(deadline=None, max_examples=30)
def test_bare_metal_beside_the_usual_non_metal_comes_back_from_diffuse_and_specular(key, size, missing):
    target = shipped_target(key)
    masters = {k: v for k, v in probe(*size).items() if k not in missing}
    masters["metallic"] = (masters["metallic"] > np.median(masters["metallic"])).astype(np.float32)
    masters["reflectance"] = np.full_like(masters["metallic"], 0.04)
    masters["base_color"] = 0.1 + 0.8 * masters["base_color"]  # metals darker than non-metals mirror cannot be told from them
    files = {file.role: encode_file(target, file, masters, Size(*size)) for file in target.files}
    again = decode(target, files)
    np.testing.assert_allclose(again["metallic"], masters["metallic"], atol=0.03)
    np.testing.assert_allclose(again["base_color"], masters["base_color"], atol=0.02)
    for file in target.files:
        repeat = encode_file(target, file, again, Size(*size))
        step = 1.0 if repeat.dtype.kind == "u" else 0.004
        assert np.abs(repeat.astype(np.float64) - files[file.role].astype(np.float64)).max() <= step, file.role


def test_sizes_follow_share_cap_limit_and_powers_of_two():
    text = (SOURCES / "targets/small-tiles.toml").read_text("utf-8")
    target = read_target(text)
    assert file_size(target, target.files[0], Size(96, 48)) == Size(64, 32)
    table = target.model_dump(mode="json", by_alias=True)
    half = Target.model_validate(with_file(table, 0, {**table["files"][0], "size_share": 0.5, "power_of_two": False}))
    assert file_size(half, half.files[0], Size(96, 48)) == Size(48, 24)
    capped = Target.model_validate({**table, "limits": {"largest": 20}})
    assert file_size(capped, capped.files[0], Size(96, 3)) == Size(16, 1)


def test_the_note_says_what_the_table_says():
    target = shipped_target("arch-gloss-alpha")
    names = {"normal_gloss": "lamé_normal.png", "height": "lamé_displacement.png", "albedo": "lamé_albedo.png"}

    def said(changed: Target) -> str:
        return hand_over(changed, Handed(names, "lamé", 0.03, tile_size=0.4, has_holes=True)).markdown()

    text = said(target)
    for part in (
        "Y−",
        "Alpha is data, no transparency",
        "cut-out, at a threshold of 0.5",
        "12 mm",
        "Read it as color",
        "lamé_normal.png",
    ):
        assert part in text, part
    table = target.model_dump(mode="json", by_alias=True)
    changes = {
        "green": {"green": "up"},
        "material": {"material": {"mode": "transparent"}},
        "height": {"height": {"use": "parallax", "center": 0.25}},
        "steps": {"steps": ["Wait for the import."]},
        "looks_wrong": {"looks_wrong": {"It is pink": "a file is missing."}},
    }
    told = {name: said(Target.model_validate({**table, **change})) for name, change in changes.items()}
    assert len({text, *told.values()}) == len(told) + 1
    swapped = with_file(table, 1, {**table["files"][1], "color": "srgb"})
    assert said(Target.model_validate(swapped)) != text
    page = hand_over(target, Handed(names, "a < b", 0.03)).html()
    assert "a &lt; b" in page and "<script" not in page


BROKEN = {  # what is replaced, by what, and what the line that is to blame begins with
    "a depth that the format cannot hold": ('format = "tga"', 'format = "tga"\ndepth = 16', "[[files]]"),
    "a format nobody knows": ('format = "tga"', 'format = "gif"', 'format = "gif"'),
    "an unknown quantity": ('quantity = "occlusion"', 'quantity = "oclusion"', 'R = { quantity = "oclusion"'),
    "more files than it may have": ('green = "down"', 'green = "down"\nlimits = { textures = 2 }', "schema"),
    "a typo in a field": ('use = "emissive input"', 'uze = "emissive input"', "uze = "),
    "no end of a text": ('green = "down"', 'green = "down', 'green = "down'),
}


@pytest.mark.parametrize("case", BROKEN)
def test_a_broken_table_is_refused_with_its_line(case):
    before, after, blamed = BROKEN[case]
    text = (SOURCES / "targets/engine-orm-down.toml").read_text("utf-8").replace(before, after, 1)
    with pytest.raises(TargetInvalid) as refused:
        read_target(text)
    line = next(k for k, line in enumerate(text.splitlines(), 1) if line.startswith(blamed))
    assert f"line {line}," in str(refused.value)


def test_a_table_from_before_files_had_reasons_is_still_read():
    text = (SOURCES / "targets/engine-orm-down.toml").read_text("utf-8")
    older = text.replace('role = "emissive"', 'role = "emissive"\noptional = true')
    assert older != text and read_target(older) == read_target(text)


def plan_of(target: Target, codes: dict[str, np.ndarray], name: str = "tulle", suffix: str = ".png"):
    sources = {
        key: Source(sha256=f"{k:064x}", name=f"{key}{suffix}", width=8, height=8, reads={"RGB" if v.ndim == 3 else "L": key})
        for k, (key, v) in enumerate(codes.items())
    }
    recipe = Recipe(facts=Facts(width=8, height=8), sources=sources, masters={key: source_ref(key, key) for key in sources})
    return plan_delivery(Evaluation(recipe, None, lambda source: codes[source.name.split(".")[0]], Cache(1 << 24)), target, name)


def test_what_is_turned_twice_or_loses_its_sign_is_found():
    target = shipped_target("engine-smooth-up")
    codes = {"base_color": np.full((8, 8, 3), 90, np.uint8), "normal": np.full((8, 8, 3), (128, 128, 255), np.uint8)}
    codes["roughness"] = np.full((8, 8), 90, np.uint8)
    table = target.model_dump(mode="json", by_alias=True)
    at = {file["role"]: k for k, file in enumerate(table["files"])}
    assert not {"turned-twice", "signed-as-color", "sign-lost"} & {f.id for f in plan_of(target, codes).findings}

    def found(table: dict, codes=codes) -> dict:
        return {f.id: f.text for f in plan_of(Target.model_validate(table), codes).findings}

    smooth = table["files"][at["metallic_alpha"]]["channels"]["A"]
    twice = with_channel(table, at["metallic_alpha"], "A", {**smooth, "invert": True})
    assert "A: gloss is inverted twice" in found(twice)["turned-twice"]
    down = {**table, "green": "down"}
    green = table["files"][at["normal"]]["channels"]["G"]
    assert "green" in found(with_channel(down, at["normal"], "G", {**green, "range": [1, 0]}))["turned-twice"]
    assert (
        "mid gray" in found(with_file(table, at["normal"], {**table["files"][at["normal"]], "color": "srgb"}))["signed-as-color"]
    )
    two = {**table["files"][at["normal"]]["channels"], "B": {"constant": 1}}
    flipped = codes | {
        "normal": np.dstack([np.full((8, 8), 128, np.uint8)] * 2 + [np.arange(64, dtype=np.uint8).reshape(8, 8) * 4])
    }
    without_z = with_file(table, at["normal"], {**table["files"][at["normal"]], "channels": two})
    assert "sign-lost" not in found(without_z) and "50.0%" in found(without_z, flipped)["sign-lost"]


def test_a_tile_number_comes_from_the_files_or_is_the_first():
    table = shipped_target("gltf").model_dump(mode="json", by_alias=True)
    named = with_file(table, 0, {**table["files"][0], "name": [{"part": "set"}, ".", {"part": "tile"}]})
    target, color = Target.model_validate(named), {"base_color": np.zeros((8, 8, 3), np.uint8)}
    assert plan_of(target, color).files[0].name == "tulle.1001.png"
    assert plan_of(target, color, suffix=".1012.png").files[0].name == "tulle.1012.png"


def test_names_that_cannot_be_and_channels_that_are_one_picture_are_found():
    target = shipped_target("engine-orm-down")
    gray = np.arange(64, dtype=np.uint8).reshape(8, 8)
    codes = {"base_color": np.dstack([gray] * 3), "roughness": gray, "metallic": gray, "occlusion": gray[::-1].copy()}
    found = {f.id: f for f in plan_of(target, codes).findings}
    assert "G and B" in found["channels-alike"].text and "name-refused" not in found
    assert "channels-alike" not in {f.id for f in plan_of(target, codes | {"metallic": 255 - gray}).findings}
    table = target.model_dump(mode="json", by_alias=True)
    for name, text in (
        (["a/b"], "'/'"),
        ([{"part": "project"}], "is empty"),
        (["con"], "reserved"),
        ([{"part": "set"}, "x" * 240], "bytes"),
    ):
        wrong = Target.model_validate(with_file(table, 0, {**table["files"][0], "name": name}))
        stops = [f for f in plan_of(wrong, codes, "long tulle name").findings if f.id == "name-refused"]
        assert stops and stops[0].grade == "stop" and text in stops[0].text
