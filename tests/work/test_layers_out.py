"""Maps handed on as the named layers of one file: written, read back, proved, and taken in again as what they were."""

import numpy as np
import pytest
from pydantic import ValidationError

from copper_sieve.core.recipe import Cache, Evaluation, Recipe, with_origin
from copper_sieve.core.target import Target, read_target, write_target
from copper_sieve.core.vectors import renormalized
from copper_sieve.files import encode, layer_names
from copper_sieve.targets import shipped_target
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.deliveries.handing import note_of
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes, look_into_layers
from copper_sieve.work.proofs import balls, prove_file

N = 48
rng = np.random.default_rng(8)
WAVES = rng.normal(0, 1, (N, N, 3)).astype(np.float32) * 0.2 + np.float32([0, 0, 1])
FILES = {
    "basecolor": rng.integers(30, 220, (N, N, 3)).astype(np.uint8),
    "roughness": rng.integers(60, 190, (N, N)).astype(np.uint8),
    "normal": ((renormalized(WAVES) * 0.5 + 0.5) * 255).astype(np.uint8),
}
CONTENT = {f"wall_{key}.png": encode(codes, "png") for key, codes in FILES.items()}


def evaluation() -> Evaluation:
    looked = [look_at_bytes(content, name) for name, content in CONTENT.items()]
    held = {one.sha256: CONTENT[one.name] for one in looked}
    recipe, findings = recipe_for(looked)
    assert isinstance(recipe, Recipe), findings
    return Evaluation(recipe, None, lambda source: load_codes(source, held.__getitem__), Cache(1 << 26))


def layered(form: str, **changes) -> Target:
    """The target of loose files, all of them in one file; changes go to the first file alone."""
    kept = {"tiff": {"depth": 16, "sample": "uint"}, "exr": {"depth": 16, "sample": "float"}}[form]
    base = shipped_target("engine-loose-down")
    files = [f.model_dump() | {"format": form, "dither": False, "layer_of": "maps", **kept} for f in base.files]
    files[0] |= changes
    return Target.model_validate(base.model_dump(by_alias=True) | {"key": "mine", "files": files, "documents": []})


@pytest.mark.parametrize("format", ["tiff", "exr"])
def test_maps_lie_in_one_file_by_their_words_and_are_known_again(format, tmp_path):
    target, whole = layered(format), evaluation()
    plan = plan_delivery(whole, target, "wall")
    assert "name-clash" not in {f.id for f in plan.findings} and not plan.stops
    report = deliver(whole, target, plan, tmp_path / "out")
    (path,) = (tmp_path / "out").iterdir()
    written = [f for f in plan.files if f.is_written]
    assert {f.name for f in written} == {path.name} == {f.name for f in report.files if f.state == "written"}
    assert sum(f.bytes for f in report.files) == path.stat().st_size
    assert sorted(layer_names(path.read_bytes())) == sorted(str(f.layer) for f in written)
    for file in written:
        assert prove_file(whole, target, plan, file.role, tmp_path / "out").is_right, file.role
    assert len(balls(whole, target, plan, tmp_path / "out")[0].lamps) == 3
    again = {
        kind for looked, _ in look_into_layers(path.read_bytes(), path.name) if looked.look for kind in looked.look.reads.values()
    }
    assert {"base_color", "roughness", "normal"} <= again
    assert path.read_bytes() == (deliver(whole, target, plan, tmp_path / "b"), tmp_path / "b" / path.name)[1].read_bytes()


def test_a_layer_that_is_off_is_found_by_the_proof(tmp_path):
    target, whole = layered("tiff"), evaluation()
    plan = plan_delivery(whole, target, "wall")
    deliver(whole, target, plan, tmp_path / "out")
    roughness = next(f.role for f in plan.files if "roughness" in {c.quantity for c in f.channels})
    other = evaluation()
    other.recipe = with_origin(other.recipe, "roughness", "op:roughness_from_color")
    assert not prove_file(other, target, plan, roughness, tmp_path / "out").is_right


def test_the_note_says_which_layer_a_map_is():
    target, whole = layered("exr"), evaluation()
    text = note_of(plan_delivery(whole, target, "wall"), target, whole.recipe).markdown()
    assert text.count(", its layer ") == sum(f.is_written for f in plan_delivery(whole, target, "wall").files)


@pytest.mark.parametrize(
    "changes",
    [{"format": "png"}, {"format": "exr", "sample": "float"}, {"size_share": 0.5}, {"word": ""}],
    ids=["a format of one picture", "two formats in one file", "two sizes in one file", "no name"],
)
def test_layers_that_cannot_lie_in_one_file_are_refused(changes):
    with pytest.raises(ValidationError, match="layer"):
        layered("tiff", **changes)


def test_a_layer_is_kept_in_the_table():
    target = layered("tiff")
    assert read_target(write_target(target)) == target
