"""The assay of whole sets, and what one click mends."""

import numpy as np
import pytest

from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.recipe import Cache, Evaluation, Recipe, mended
from copper_sieve.demo.materials import MATERIALS, DemoFile
from copper_sieve.files import encode
from copper_sieve.work.assaying import assay_set
from copper_sieve.work.grouping import recipe_for
from copper_sieve.work.looking import load_codes, look_at_bytes


def a_set(files: list[DemoFile], rise: float) -> tuple[Recipe, dict[str, bytes]]:
    contents, looked = {}, []
    for file in files:
        content = encode(file.codes, file.format)
        looked.append(look_at_bytes(content, file.name))
        contents[looked[-1].sha256] = content
    recipe, findings = recipe_for(looked, rise=rise, origin="made for a test")
    assert recipe is not None, findings
    return recipe, contents


def assayed(recipe: Recipe, contents: dict[str, bytes]) -> dict[str, str]:
    """Grades by id."""
    load = lambda source: load_codes(source, lambda sha256: contents[sha256])  # noqa: E731
    return {f.id: f.grade for f in assay_set(Evaluation(recipe, None, load, Cache(1 << 30)))}


@pytest.mark.parametrize("material", MATERIALS, ids=lambda m: m.name)
def test_the_demo_has_no_fault_but_the_one_it_is_there_for(material):
    found = {id for id, grade in assayed(*a_set(material.files(512), material.rise)).items() if grade != "note"}
    assert found == ({"no-base-color"} if material.name == "Chunky knit" else set())


def test_green_said_wrong_is_found_and_mended_and_mending_twice_is_turning_back():
    material = next(m for m in MATERIALS if m.name == "Gilt brocade")
    recipe, contents = a_set(material.files(512), material.rise)
    wrong = mended(recipe, "green-misread")
    assert "green-misread" in assayed(wrong, contents)
    right = mended(wrong, "green-misread")
    assert right == recipe and "green-misread" not in assayed(right, contents)


def test_a_gloss_map_taken_for_roughness_is_found_and_read_as_gloss():
    codes = np.random.default_rng(2).integers(10, 50, (64, 64)).astype(np.uint8)
    base = np.random.default_rng(3).integers(60, 200, (64, 64, 3)).astype(np.uint8)
    files = [DemoFile("silk_basecolor.png", "base_color", base), DemoFile("silk_rough.png", "roughness", codes)]
    recipe, contents = a_set(files, 0.02)
    assert "mirror-like" in assayed(recipe, contents)
    assert "mirror-like" not in assayed(mended(recipe, "mirror-like"), contents)
    with pytest.raises(RecipeInvalid, match="no fix"):
        mended(recipe, "one-value")
