"""A specular file is what colors reflect where it can be, and how strong highlights are where it cannot."""

import numpy as np
import pytest

from copper_sieve.core.checks.fixes import left, mended
from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.core.convert import specular_from_metallic
from copper_sieve.core.intake.first_look import first_look
from copper_sieve.core.recipe import Cache, Evaluation, master_ref
from copper_sieve.files import encode
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.sets import assay_set

PX = 64
Y, X = np.mgrid[:PX, :PX] / PX
COLOR = (0.3 + 0.15 * np.sin(2 * np.pi * (3 * X + 2 * Y))[..., None] * np.array([1, 0.8, 0.5])).astype(np.float32)
METAL = (np.sin(2 * np.pi * (2 * X + Y)) > 0.3).astype(np.float32)
STRONG = np.repeat((90 + 60 * np.sin(2 * np.pi * (5 * Y - X)))[..., None], 3, -1).astype(np.uint8)


def taken_in(diffuse: np.ndarray, specular: np.ndarray) -> Evaluation:
    files = {"serge_d.png": encode(diffuse, "png"), "serge_s.png": encode(specular, "png")}
    looked = [look_at_bytes(content, name) for name, content in files.items()]
    content = {one.sha256: files[one.name] for one in looked}
    recipe, _ = recipe_for(looked)
    seen = Evaluation(recipe, None, lambda source: load_codes(source, content.__getitem__), Cache(1 << 28))
    return seen.of(first_look(seen))


def asked(seen: Evaluation) -> set[str]:
    return {found.id for _, found in assay_set(seen)} & {"half-metal", "specular-as-level"}


def test_of_a_set_that_was_split_the_metal_is_found():
    diffuse, specular = specular_from_metallic(COLOR, METAL)
    seen = taken_in(encode_srgb_codes(diffuse), encode_srgb_codes(specular))
    assert np.abs(seen.value(master_ref("metallic"), seen.working) - METAL).mean() < 0.02 and not asked(seen)


@pytest.mark.parametrize("specular", [STRONG, STRONG[..., 0], STRONG + np.uint8([0, 4, 9])], ids=["RGB", "gray", "tinted"])
def test_what_would_make_much_of_the_set_half_metal_is_a_level(specular):
    seen = taken_in(encode_srgb_codes(COLOR), specular)
    assert "metallic" not in seen.recipe.masters and asked(seen) == {"specular-as-level"}
    assert np.abs(seen.value(master_ref("base_color"), seen.working) - COLOR).max() < 0.01
    level = (specular if specular.ndim == 2 else specular[..., 1]) / 255
    assert np.abs(seen.value(master_ref("reflectance"), seen.working) - 0.08 * level).max() < 1e-3


def test_what_its_alpha_holds_stays_as_it_was_told():
    seen = taken_in(encode_srgb_codes(COLOR), STRONG)
    color = mended(seen.recipe, "specular-as-level")
    (name,) = (name for name, source in color.sources.items() if "specular" in source.reads.values())
    told = {"reads": {"RGB": "specular", "A": "gloss"}, "spans": {"A": (1.0, 0.0)}, "corrections": {"gloss": {"offset": 0.1}}}
    packed = color.model_copy(update={"sources": {**color.sources, name: color.sources[name].model_copy(update=told)}})
    level = mended(packed, "half-metal").sources[name]
    assert (level.reads["A"], level.spans, level.corrections) == ("gloss", told["spans"], told["corrections"])


def test_either_answer_is_one_press_and_holds():
    seen = taken_in(encode_srgb_codes(COLOR), STRONG)
    color = seen.of(mended(seen.recipe, "specular-as-level"))
    assert "metallic" in color.recipe.masters and not asked(color)
    assert not asked(seen.of(left(seen.recipe, "specular-as-level")))
    still = color.of(color.recipe.model_copy(update={"answered": ()}))  # a set of older days
    assert asked(still) == {"half-metal"}
    level = still.of(mended(still.recipe, "half-metal"))
    assert level.recipe.masters == seen.recipe.masters and not asked(level)
