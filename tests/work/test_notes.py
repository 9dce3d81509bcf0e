"""Every claim of a hand-over note, followed into the files it is about: all targets × all demo sets."""

import json

import cv2
import numpy as np
import OpenEXR
import pytest
import tifffile
from PIL import Image

from copper_sieve.core.intake.facts import with_measured_rise
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, node_ref
from copper_sieve.core.target import Claim, NamedFile, Note, Target, offered, write_target
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import Plan, deliver, plan_delivery
from copper_sieve.work.deliveries.handing import note_of
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes

PX, TILE = 64, 0.5
READ = {"up": 1, "down": -1}


def a_set(material, **facts) -> Evaluation:
    contents, looked = {}, []
    for file in material.files(PX):
        content = encode(file.codes, file.format)
        looked.append(look_at_bytes(content, file.name))
        contents[looked[-1].sha256] = content
    recipe, _ = recipe_for(looked, **facts)
    return Evaluation(recipe, None, lambda source: load_codes(source, contents.__getitem__), Cache(1 << 28))


SETS = {material.name: a_set(material, rise=material.rise, tile_size=TILE) for material in MATERIALS}


def read(path) -> np.ndarray:
    """By other people's libraries, (H, W, C)."""
    if path.suffix == ".exr":
        found = np.asarray(next(iter(OpenEXR.File(str(path)).channels().values())).pixels)
    elif path.suffix in (".tif", ".tiff"):
        found = tifffile.imread(path)
    elif path.suffix == ".png" and path.read_bytes()[24] == 16:
        found = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        found = found if found.ndim == 2 else cv2.cvtColor(found, cv2.COLOR_BGR2RGB)
    else:
        found = np.asarray(Image.open(path))
    return found if found.ndim == 3 else found[..., None]


def unit(codes: np.ndarray) -> np.ndarray:
    return codes / (np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1)


def channel(codes: np.ndarray, letter: str) -> np.ndarray:
    return codes[..., {"L": 0, "R": 0, "G": 1, "B": 2, "A": -1}[letter]].astype(np.float64)


def held(claim: Claim, evaluation: Evaluation, path) -> bool:
    """Whether a claim is true of the file."""
    codes, says = read(path), claim.numbers
    if claim.id == "color":
        return path.suffix != ".png" or (b"sRGB" in path.read_bytes()[:60]) == (says["color"] == "srgb")
    if claim.id == "primaries":
        return OpenEXR.File(str(path), header_only=True).header()["chromaticities"][:2] == pytest.approx((0.713, 0.293), abs=1e-3)
    if claim.id == "green":
        wanted = evaluation.master("normal")[..., 1] * READ[says["green"]]
        slopes = channel(unit(codes), "G") * 2 - 1
        return slopes.shape != wanted.shape or wanted.std() < 1e-3 or np.corrcoef(slopes.ravel(), wanted.ravel())[0, 1] > 0.98
    if claim.id == "unit-range":
        return bool(codes.min() >= 0 and codes.max() <= 1 and codes[..., 2].mean() > 0.5)
    if claim.id == "channel":
        return says["letter"] == "A" or says["letter"] in {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}[codes.shape[2]]
    if claim.id == "always":
        return bool(np.ptp(channel(codes, says["letter"])) == 0)
    if claim.id == "reflectance":
        given = evaluation.master("reflectance")
        usual, plane = float(says["usual"]), channel(codes, says["letter"])
        is_usual = given is None or np.allclose(given, 0.04, atol=1e-4)
        return bool(np.allclose(plane, usual, atol=1 if codes.dtype.kind == "u" else 1e-2)) if is_usual else True
    if claim.id == "meters":
        height, facts = evaluation.master("height"), evaluation.recipe.facts
        wanted = (height - 0.5) * facts.rise * facts.tile_size
        return bool(
            np.allclose(codes[..., 0], wanted, atol=2e-5) and says["low"] - 1e-6 <= codes.min() <= codes.max() <= says["high"]
        )
    if claim.id == "share":
        return bool(unit(codes).min() >= 0 and unit(codes).max() <= 1)
    if claim.id == "tiled":
        return "tiles" in OpenEXR.File(str(path), header_only=True).header()
    if claim.id == "holes":
        return bool(unit(channel(codes, says["letter"])).min() < 0.5 < unit(channel(codes, says["letter"])).max())
    assert claim.id == "no-holes"
    return codes.shape[2] not in (2, 4) or bool((unit(channel(codes, "A")) == 1).all())


def delivered(evaluation: Evaluation, target: Target, folder) -> tuple[Plan, Note]:
    plan = plan_delivery(evaluation, target, "set")
    if not plan.stops:
        deliver(evaluation, target, plan, folder)
    return plan, note_of(plan, target, evaluation.recipe)


@pytest.mark.parametrize("key", shipped_targets())
def test_what_a_note_says_is_true_of_the_files(key, tmp_path):
    target, followed = shipped_target(key), set()
    for name, evaluation in SETS.items():
        plan, note = delivered(evaluation, target, tmp_path / name)
        if plan.stops:
            continue
        paths = {file.role: tmp_path / name / file.name for file in plan.files if file.left_out is None}
        for claim in note.claims:
            assert held(claim, evaluation, paths[claim.role]), (name, claim)
            followed.add(claim.id)
        said = " ".join(note.steps)
        assert ("it will be solid" in said) + ("is the opacity" in said) == plan.has_holes
        assert all(file.name in said for file in plan.files if file.left_out is None)
        assert not any(file.name in said for file in plan.files if file.left_out is not None)
    assert "color" in followed


def test_displacement_is_in_meters_only_where_the_tile_is_known(tmp_path):
    target = shipped_target("film-specular")
    unknown = a_set(MATERIALS[0], rise=0.03)
    plan, note = delivered(unknown, target, tmp_path / "a")
    path = next(tmp_path / "a" / file.name for file in plan.files if file.role == "height")
    said = next(step for step in note.steps if "moves the surface" in step)
    assert "not known" in said and "numbers are meters" not in said and read(path).min() >= 0
    _, note = delivered(SETS[MATERIALS[0].name], target, tmp_path / "b")
    assert "numbers are meters" in " ".join(note.steps)
    height = read(tmp_path / "b" / path.name)
    assert height.min() < 0 < height.max() <= MATERIALS[0].rise * TILE / 2 + 1e-5


def test_the_rise_of_a_note_says_how_it_is_known(tmp_path):
    satin = a_set(MATERIALS[0])
    assert (satin.recipe.facts.rise, satin.recipe.facts.rise_from) == (0.02, "assumed")
    measured = with_measured_rise(satin)
    assert measured.facts.rise_from == "measured" and measured.facts.rise == pytest.approx(
        MATERIALS[0].rise, rel=0.08
    )  # at 64 px
    assert measured.facts.rise_fit > 0.99
    target = shipped_target("materialx")
    for recipe, wanted, is_found in ((satin.recipe, "assumed", True), (measured, "measured", False)):
        evaluation = Evaluation(recipe, None, satin.load, satin.cache)
        plan = plan_delivery(evaluation, target, "set")
        assert ("rise-assumed" in {finding.id for finding in plan.findings}) == is_found
        assert wanted in " ".join(note_of(plan, target, recipe).steps)
        report = deliver(evaluation, target, plan, tmp_path / wanted)
        assert report.facts["rise_from"] == wanted
        text = (tmp_path / wanted / "set.mtlx").read_text()
        assert 'colorspace="none"' in text and text.count("colorspace=") >= text.count("<tiledimage")


def without(recipe: Recipe, *keys: str) -> Recipe:
    return recipe.model_copy(update={"masters": {k: ref for k, ref in recipe.masters.items() if k not in keys}})


def test_what_holds_nothing_is_not_written_and_fills_are_named(tmp_path):
    satin = SETS[MATERIALS[0].name]
    bare = Evaluation(without(satin.recipe, "height", "roughness", "metallic", "opacity"), None, satin.load, satin.cache)
    level = plan_delivery(bare, shipped_target("level-six"), "set")
    left = {file.role: file.why for file in level.files if file.left_out}
    assert set(left) == {"height", "roughness", "metallic"} and left["height"] == "the set has no height"
    orm = next(f for f in plan_delivery(bare, shipped_target("engine-orm-down"), "set").files if f.role == "orm")
    fills = {c.letter: (c.value, c.why, c.derive) for c in orm.channels if c.content == "fill"}
    assert fills == {
        "G": ("153", "the set has no roughness", "op:roughness_from_color"),
        "B": ("0", "the set has no metallic", None),
    }
    smooth = plan_delivery(bare, shipped_target("engine-smooth-up"), "set")
    assert "A" not in {c.letter for c in next(f for f in smooth.files if f.role == "albedo").channels}
    report = deliver(bare, shipped_target("engine-smooth-up"), smooth, tmp_path / "out")
    assert Image.open(tmp_path / "out" / "set_albedo.png").mode == "RGB"
    assert not any("albedo" in fill for fill in report.fills)


def test_a_required_file_is_written_flat_and_says_why(tmp_path):
    satin = SETS[MATERIALS[0].name]
    bare = Evaluation(without(satin.recipe, "height"), None, satin.load, satin.cache)
    table = shipped_target("level-six").model_dump(mode="json", by_alias=True)
    for file in table["files"]:
        if file["role"] == "height":
            file["required"] = "its ground has six slots and none may stay empty"
    target = Target.model_validate(table)
    assert "required" in write_target(target)
    plan = plan_delivery(bare, target, "set")
    assert "written-flat" in {finding.id for finding in plan.findings}
    report = deliver(bare, target, plan, tmp_path / "out")
    assert any("height" in fill and "32768 everywhere" in fill for fill in report.fills), report.fills
    height = read(tmp_path / "out" / next(f.name for f in plan.files if f.role == "height"))
    assert np.ptp(height) == 0
    assert json.loads(report.model_dump_json())["facts"]["edges_from"] == "guessed"


def test_a_value_that_somebody_set_is_no_fill(tmp_path):
    satin = SETS[MATERIALS[0].name]
    from copper_sieve.core.recipe import with_origin

    said = with_origin(satin.recipe, "metallic", "one-value")
    evaluation = Evaluation(said, None, satin.load, satin.cache)
    plan = plan_delivery(evaluation, shipped_target("engine-loose-down"), "set")
    metallic = next(f for f in plan.files if f.role == "metallic")
    assert metallic.left_out is None and metallic.channels[0].content == "constant"
    assert (metallic.width, metallic.height) == (PX, PX)


def test_a_set_that_does_not_repeat_is_told_where_it_is_repeated():
    satin = SETS[MATERIALS[0].name]
    facts = satin.recipe.facts.model_copy(update={"edges": satin.recipe.facts.edges.model_copy(update={"x": "mirror"})})
    apart = Evaluation(satin.recipe.model_copy(update={"facts": facts}), None, satin.load, satin.cache)
    told = {f.id for f in plan_delivery(apart, shipped_target("small-tiles"), "set").findings}
    assert "does-not-repeat" in told
    assert "does-not-repeat" not in {f.id for f in plan_delivery(satin, shipped_target("small-tiles"), "set").findings}


def test_a_file_that_is_not_used_says_the_true_reason():
    satin = SETS[MATERIALS[0].name]
    name = next(name for name, source in satin.recipe.sources.items() if "roughness" in source.reads.values())
    derived = satin.recipe.model_copy(
        update={"masters": {**satin.recipe.masters, "roughness": node_ref("n")},
                "nodes": {**satin.recipe.nodes, "n": satin.recipe.nodes["n"] if "n" in satin.recipe.nodes else _from_color()}}
    )  # fmt: skip
    evaluation = Evaluation(derived, None, satin.load, satin.cache)
    found = [f for f in plan_delivery(evaluation, shipped_target("gltf"), "set").findings if f.id == "source-unused"]
    assert [f.numbers["file"] for f in found] == [satin.recipe.sources[name].name]
    assert "diffuse" not in found[0].text and "roughness is one value, varied by color instead" in found[0].text


def _from_color():
    from copper_sieve.core.recipe import Node

    return Node(op="roughness_from_color", inputs={"color": "master:base_color"})


@pytest.mark.parametrize("name", [name for name in SETS if name != "Chunky knit"])
def test_our_own_gloss_beside_normals_is_never_taken_for_height_and_its_target_is_offered(name, tmp_path):
    """Shine follows the relief in most of these, up to a correlation of 0.97: what cannot be told is left unread."""
    target = shipped_target("arch-gloss-alpha")
    plan, _ = delivered(SETS[name], target, tmp_path / "out")
    files = [file for file in plan.files if file.left_out is None and file.kind == "image"]
    path = tmp_path / "out" / next(file.name for file in files if file.role == "normal_gloss")
    looked = look_at_bytes(path.read_bytes(), path.name)
    assert looked.look.reads.get("A") in (None, "gloss")
    if "A" not in looked.look.reads and looked.look.content.alpha in ("gray", "cut-out"):
        assert "normal-alpha-open" in {finding.id for finding in looked.findings}
    named = [NamedFile(file.name, read(tmp_path / "out" / file.name).shape[2]) for file in files]
    found = dict((one.key, files) for one, files in offered(list(shipped_targets().values()), named))
    assert found[target.key][path.name][1].channels["A"].quantity == "gloss"
