"""Any order of presses: whatever is offered can be chosen, holds together, can be stored, told and computed."""

import numpy as np
import pytest

from copper_sieve.core.convert.strokes import Brushed
from copper_sieve.core.convert.touches import Touch
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.quantities import quantity
from copper_sieve.core.recipe import (
    Cache,
    Evaluation,
    Facts,
    Recipe,
    SizeRequest,
    Source,
    account_of,
    changes,
    check_recipe,
    choices,
    mask_choices,
    settings_of,
    source_ref,
    starts,
    with_mask,
    with_origin,
    with_settings,
    with_size,
    with_start,
)
from copper_sieve.demo.materials import _noise

PX, STEPS, WALKS = 32, 8, 12
HEIGHT = np.clip(0.5 + 0.25 * _noise(PX, 3, 5), 0, 1).astype(np.float32)
FILES = {
    "photo": (np.clip(0.35 + 0.15 * _noise(PX, 4, 9), 0, 1)[..., None] * np.float32([1, 0.8, 0.5])).astype(np.float32),
    "normal": normal_from_height(HEIGHT, 0.05) * 0.5 + 0.5,
    "height": HEIGHT,
    "roughness": np.clip(0.6 + 0.1 * _noise(PX, 6, 2), 0, 1).astype(np.float32),
    "curvature": np.clip(0.5 + 0.2 * _noise(PX, 5, 4), 0, 1).astype(np.float32),
    "specular": np.full((PX, PX, 3), 0.2, np.float32),
    "diffuse": np.full((PX, PX, 3), 0.3, np.float32),
    "gloss": np.clip(0.4 + 0.1 * _noise(PX, 6, 7), 0, 1).astype(np.float32),
    "own_dirt": np.clip(0.5 + 0.3 * _noise(PX, 2, 3), 0, 1).astype(np.float32),
}
BEGINNINGS = {
    "a photo": ("photo",),
    "a photo with normals": ("photo", "normal"),
    "a height alone": ("height",),
    "a supplier's set": ("photo", "normal", "height", "roughness", "own_dirt"),
    "specular and gloss": ("diffuse", "specular", "gloss", "normal"),
    "what a bake leaves": ("normal", "curvature"),
    "nothing": (),
}


def beginning(*kinds: str) -> Recipe:
    sources = {
        kind: Source(
            sha256=f"{k:064x}",
            name=kind,
            width=PX,
            height=PX,
            depth=32,
            reads={"RGB" if FILES[kind].ndim == 3 else "L": kind},
        )
        for k, kind in enumerate(kinds)
    }
    bare = Recipe(facts=Facts(width=PX, height=PX), sources=sources)
    masters = {kind: source_ref(kind, kind) for kind in kinds if kind in bare.keys}
    masters |= {"base_color": source_ref("photo", "photo")} if "photo" in kinds else {}
    return bare.model_copy(update={"masters": masters})


def evaluated(recipe: Recipe) -> Evaluation:
    return Evaluation(recipe, None, lambda source: FILES[source.name], Cache(1 << 26))


def pressed(recipe: Recipe, rng: np.random.Generator) -> tuple[Recipe, str]:
    """The recipe after one press that the screen offers, and what was pressed."""
    master = str(rng.choice(recipe.keys))
    match int(rng.integers(8)):
        case 0:
            key = str(rng.choice(list(starts())))
            try:
                return with_start(recipe, key), f"start {key}"
            except RecipeInvalid:  # which says that nothing is derived
                return recipe, "no start"
        case 1:
            px = int(rng.choice([16, 32, 64]))
            return with_size(recipe, SizeRequest(longer=px)), f"size {px}"
        case 2 if quantity(master).channels == 1 and master in recipe.masters:
            stroke = Brushed(points=((0.2, 0.3), (0.7, 0.6)), radius=0.1, value=0.9)
            return recipe.model_copy(update={"touches": {**recipe.touches, master: Touch(strokes=(stroke,))}}), f"brush {master}"
        case 3 | 4 if masked := [key for key in recipe.masters if mask_choices(recipe, key)]:
            master = str(rng.choice(masked))
            key = str(rng.choice([choice.key for choice in mask_choices(recipe, master)]))
            after = with_mask(recipe, master, key)
            assert [choice.key for choice in mask_choices(after, master) if choice.is_now] == [key]
            return after, f"mask {master} {key}"
        case _:
            key = str(rng.choice([choice.key for choice in choices(recipe, master)]))
            after = with_origin(recipe, master, key)
            assert [choice.key for choice in choices(after, master) if choice.is_now] == [key], (master, key)
            return after, f"{master} from {key}"


def assert_sound(recipe: Recipe, did: list[str]) -> None:
    """It can be stored, checked, told and computed, and its settings are its own."""
    assert Recipe.model_validate_json(recipe.model_dump_json(by_alias=True)) == recipe, did
    check_recipe(recipe)
    seen = evaluated(recipe)
    for key in recipe.masters:
        try:
            values, what = seen.master(key), quantity(key)
        except RecipeInvalid as problem:
            assert "needed but absent" in problem.message and any("from absent" in press for press in did), did
            continue
        assert values is not None and values.shape[:2] == (recipe.facts.height, recipe.facts.width), (key, did)
        assert values.ndim == (2 if what.channels == 1 else 3), (key, did)
        assert np.isfinite(values).all(), (key, did)
        assert what.low - 1e-4 <= values.min() and values.max() <= what.high + 1e-4, (
            key,
            float(values.min()),
            float(values.max()),
            did,
        )
        assert account_of(recipe, key), (key, did)
    kept = settings_of(recipe)
    assert settings_of(with_settings(recipe, kept)[0]) == kept, did


@pytest.mark.parametrize("begin", BEGINNINGS)
def test_whatever_is_offered_can_be_had_in_any_order(begin):
    for seed in range(WALKS):
        rng = np.random.default_rng(seed)
        recipe, did = beginning(*BEGINNINGS[begin]), [f"{begin}, walk {seed}"]
        for _ in range(STEPS):
            before = recipe
            recipe, press = pressed(recipe, rng)
            did.append(press)
            is_told = changes(before, recipe) != "nothing"
            assert is_told == (before != recipe) or press.startswith("start"), did  # a start writes out what holds by itself
        assert_sound(recipe, did)
