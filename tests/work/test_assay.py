"""The assay of whole sets, and what one click mends."""

import numpy as np
import pytest

from copper_sieve.core.checks.fixes import mended
from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.core.derive import normal_from_height, occlusion_from_height
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.recipe import Cache, Evaluation, Recipe
from copper_sieve.demo.materials import MATERIALS, DemoFile, _noise
from copper_sieve.files import encode
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.sets import assay_set


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
    return {f.id: f.grade for _, f in assay_set(Evaluation(recipe, None, load, Cache(1 << 30)))}


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


HEIGHT = np.clip(0.5 + 0.3 * _noise(128, 5, 6), 0, 1)
NORMAL = normal_from_height(HEIGHT, 0.05)
OCCLUSION = occlusion_from_height(HEIGHT, 0.05)


def code(values: np.ndarray) -> np.ndarray:
    return (np.clip(values, 0, 1) * 255 + 0.5).astype(np.uint8)


SOUND = {
    "base_color": encode_srgb_codes(np.float32(0.3) * (1 + 0.2 * _noise(128, 6, 20)[..., None] * np.float32([1, 0.8, 0.6]))),
    "normal": code(NORMAL * 0.5 + 0.5),
    "height": code(HEIGHT),
    "roughness": code(0.55 + 0.1 * _noise(128, 7, 24)),
}
MENDED = {  # finding: the file that has the fault, and what it is called
    "normal-mirrored": ("felt_normal.png", code(NORMAL * [-1, 1, 1] * 0.5 + 0.5)),
    "axes-swapped": ("felt_normal.png", code(NORMAL[..., [1, 0, 2]] * 0.5 + 0.5)),
    "normal-length": ("felt_normal.png", code(NORMAL * [0.7, 0.7, 0.7] * 0.5 + 0.5)),
    "normal-black": ("felt_normal.png", code((NORMAL * 0.5 + 0.5) * (np.arange(128) < 90)[:, None, None])),
    "height-against-normal": ("felt_height.png", code(1 - HEIGHT)),
    "light-in-color": (
        "felt_basecolor.png",
        encode_srgb_codes(np.float32(0.5) * OCCLUSION[..., None] ** 3 * np.ones(3, np.float32)),
    ),
}


@pytest.mark.parametrize("id", MENDED)
def test_one_click_mends_what_was_found(id):
    name, codes = MENDED[id]
    files = {f"felt_{key.replace('_', '')}.png": (key, values) for key, values in SOUND.items()}
    files |= {"felt_ao.png": ("occlusion", code(OCCLUSION)), name: (files[name][0], codes)}
    recipe, contents = a_set([DemoFile(name, key, values) for name, (key, values) in files.items()], 0.05)
    if id == "normal-mirrored":  # the slopes alone say Y−; only a person who knows that it is Y+ can say that x is mirrored
        recipe = mended(recipe, "green-misread")
    assert id in assayed(recipe, contents)
    after = mended(recipe, id)
    assert after != recipe and id not in assayed(after, contents)


def test_a_file_named_for_gloss_and_read_as_roughness_is_told_and_read_as_named():
    base = DemoFile("felt_basecolor.png", "base_color", SOUND["base_color"])
    recipe, contents = a_set([base, DemoFile("felt_gloss.png", "gloss", SOUND["roughness"])], 0.05)
    wrong = mended(recipe, "mirror-like")
    assert "shine-contradicts" in assayed(wrong, contents)
    assert mended(wrong, "shine-contradicts") == recipe


def test_occlusion_taken_out_of_a_color_gives_the_color_back():
    shaded = encode_srgb_codes((np.float32(0.4) * OCCLUSION)[..., None] * np.ones(3, np.float32))
    files = [DemoFile("felt_basecolor.png", "base_color", shaded), DemoFile("felt_ao.png", "occlusion", code(OCCLUSION))]
    recipe, contents = a_set(files, 0.05)
    load = lambda source: load_codes(source, lambda sha256: contents[sha256])  # noqa: E731
    found = Evaluation(mended(recipe, "light-in-color"), None, load, Cache(1 << 28)).master("base_color")
    assert found is not None and np.abs(found - 0.4).max() < 0.012
