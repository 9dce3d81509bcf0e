"""A key stands for a file's bytes: where these would be others the key must be another, or a change would not be written."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from copper_sieve.core.convert.noise import AddedNoise
from copper_sieve.core.convert.strokes import Brushed
from copper_sieve.core.convert.touches import Touch
from copper_sieve.core.plan import Written
from copper_sieve.core.prepare.straighten import Straighten
from copper_sieve.core.raster import Edges
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, with_origin, with_step, with_value
from copper_sieve.core.target import Target
from copper_sieve.files import encode
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.deliveries.again import compared, keyed
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes

N = 48
rng = np.random.default_rng(6)
COLOR = rng.integers(30, 220, (N, N, 3)).astype(np.uint8)
HOLES = np.where(np.hypot(*np.mgrid[-1 : 1 : N * 1j, -1 : 1 : N * 1j]) < 0.6, 255, 0).astype(np.uint8)


def held(color: np.ndarray = COLOR) -> Evaluation:
    contents = {"felt_basecolor.png": encode(color, "png"), "felt_opacity.png": encode(HOLES, "png")}
    looked = [look_at_bytes(content, name) for name, content in contents.items()]
    by_hash = {one.sha256: contents[one.name] for one in looked}
    recipe, findings = recipe_for(looked)
    assert isinstance(recipe, Recipe), findings
    return Evaluation(recipe, None, lambda source: load_codes(source, by_hash.__getitem__), Cache(1 << 26))


def with_facts(**changed: Any):
    def change(evaluation: Evaluation) -> Evaluation:
        facts = evaluation.recipe.facts.model_copy(update=changed)
        return evaluation.of(evaluation.recipe.model_copy(update={"facts": facts}))

    return change


def with_recipe(change_recipe):
    return lambda evaluation: evaluation.of(change_recipe(evaluation.recipe))


LINE = Brushed(points=((0.1, 0.5), (0.9, 0.5)), radius=0.1)
CHANGES = {
    "another picture": lambda evaluation: held(255 - COLOR),
    "a parameter": with_recipe(lambda recipe: with_value(recipe, "roughness.mean", "0.9")),
    "a parameter far below": with_recipe(lambda recipe: with_value(recipe, "height.contrast", "2")),
    "another origin": with_recipe(lambda recipe: with_origin(recipe, "metallic", "one-value")),
    "the rise": with_facts(rise=0.2),
    "the edges": with_facts(edges=Edges(x="mirror", y="mirror")),
    "the width of the tile": with_facts(tile_size=2.0),
    "the strength of what glows": with_facts(emissive_strength=3.0),
    "a smaller size": lambda evaluation: evaluation.sized(N // 2),
    "pixel art": lambda evaluation: with_facts(sampling="nearest")(evaluation).sized(N // 2),
    "a stroke": with_recipe(lambda recipe: recipe.model_copy(update={"touches": {"roughness": Touch(strokes=(LINE,))}})),
    "noise far below": with_recipe(lambda recipe: recipe.model_copy(update={"touches": {"height": Touch(noise=AddedNoise())}})),
    "a step of all pictures": with_recipe(lambda recipe: with_step(recipe, Straighten(bulge=0.1))),
    "nothing": lambda evaluation: evaluation,
}


def written(evaluation: Evaluation, target: Target, folder: Path) -> dict[str, tuple[str | None, str | None]]:
    """Key and hash of every file by its role."""
    plan = keyed(evaluation, target, plan_delivery(evaluation, target, "felt"))
    report = deliver(evaluation, target, plan, folder)
    keys = {file.role: file.key for file in plan.files if file.is_written}
    return {file.role: (keys[file.role], file.sha256) for file in report.files if file.state == "written"}


@pytest.mark.parametrize("key", ["engine-orm-down", "gltf", "materialx", "film-specular", "small-tiles", "usd"])
@pytest.mark.parametrize("change", CHANGES)
def test_other_bytes_have_another_key(change, key, tmp_path):
    target = next((t for k, t in shipped_targets().items() if k == key or any(d.kind == key for d in t.documents)), None)
    assert target is not None
    before, after = held(), CHANGES[change](held())
    one, other = written(before, target, tmp_path / "a"), written(after, target, tmp_path / "b")
    for role in one.keys() & other.keys():
        if one[role][1] != other[role][1]:
            assert one[role][0] != other[role][0], f"{role} would not be written again"
    if change == "nothing":
        assert one == other


TABLES = {
    "the green": lambda table: table | {"green": "up"},
    "a depth": lambda table: table | {"files": [f | {"format": "png", "depth": 16, "dither": False} for f in table["files"]]},
    "the padding": lambda table: table | {"files": [f | {"padding": 9} for f in table["files"]]},
    "a cap of the size": lambda table: table | {"files": [f | {"size_cap": N // 2} for f in table["files"]]},
    "an inverted channel": lambda table: table | {"files": [inverted(f) for f in table["files"]]},
}


def inverted(file: dict[str, Any]) -> dict[str, Any]:
    channels = {letter: c | {"invert": c.get("quantity") == "roughness"} for letter, c in file["channels"].items()}
    return file | {"channels": channels}


@pytest.mark.parametrize("change", TABLES)
def test_another_table_has_other_keys_where_it_has_other_bytes(change, tmp_path):
    base = shipped_target("engine-orm-down")
    other = Target.model_validate(TABLES[change](base.model_dump(mode="json", by_alias=True)))
    one, two = written(held(), base, tmp_path / "a"), written(held(), other, tmp_path / "b")
    differing = {role for role in one.keys() & two.keys() if one[role][1] != two[role][1]}
    assert differing and all(one[role][0] != two[role][0] for role in differing)


def test_a_title_or_a_note_writes_nothing_anew(tmp_path):
    base = shipped_target("engine-orm-down")
    other = base.model_copy(update={"title": "Another word for it", "notes": "and a note"})
    assert written(held(), base, tmp_path / "a") == written(held(), other, tmp_path / "b")


def test_a_file_without_a_key_from_an_older_manifest_is_written_again(tmp_path):
    target, evaluation = shipped_target("engine-orm-down"), held()
    plan = keyed(evaluation, target, plan_delivery(evaluation, target, "felt"))
    report = deliver(evaluation, target, plan, tmp_path / "out")
    there = {f.name: {"sha256": f.sha256, "bytes": f.bytes, "key": None} for f in report.files if f.sha256}
    lying = {name: Written(**row) for name, row in there.items()}
    hashes = {tmp_path / "out" / f.name: f.sha256 for f in report.files}
    found = compared(plan, lying, tmp_path / "out", lambda path: str(hashes[path]), {})
    assert {file.disk for file in found.files if file.is_written} == {"changed"}
