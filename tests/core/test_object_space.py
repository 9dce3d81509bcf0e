"""Normals in object space: a quantity of their own, read and written by the axis that points up, never corrected or mixed."""

import numpy as np
import pytest

from copper_sieve.core.quantities import MASTERS, quantity
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Frame, Recipe, Source, choices
from copper_sieve.core.target import Target, decode, encode_file, hand_over
from copper_sieve.core.target.board import board_of
from copper_sieve.core.target.handover import Handed
from copper_sieve.core.vectors import with_y_up
from copper_sieve.targets import shipped_target

rng = np.random.default_rng(4)
BALL = rng.normal(size=(8, 8, 3)).astype(np.float32)
BALL /= np.linalg.norm(BALL, axis=-1, keepdims=True)


def target(up: str) -> Target:
    """A target of one file that holds them."""
    table = shipped_target("gltf").model_dump(mode="json", by_alias=True)
    channels = {letter: {"quantity": "object_normal", "component": axis} for letter, axis in zip("RGB", "xyz")}
    normal = next(file for file in table["files"] if file["role"] == "normal")
    files = [normal | {"channels": channels, "depth": 16, "format": "png"}]
    return Target.model_validate(table | {"object_up": up, "files": files, "documents": []})


@pytest.mark.parametrize("up", ["y", "z"])
def test_they_are_written_by_the_targets_axis_and_come_back(up):
    made = target(up)
    codes = encode_file(made, made.files[0], {"object_normal": BALL}, Size(8, 8))
    stored = codes / 65535 * 2 - 1
    np.testing.assert_allclose(with_y_up(stored) if up == "z" else stored, BALL, atol=1e-4)
    np.testing.assert_allclose(decode(made, {"normal": codes})["object_normal"], BALL, atol=1e-4)


def recipe(**told) -> Recipe:
    source = Source(sha256="0" * 64, name="o.exr", width=8, height=8, depth=32, reads={"RGB": "object_normal"}, **told)
    masters = {"object_normal": "source:o:object_normal"}
    return Recipe(facts=Facts(width=8, height=8), sources={"o": source}, masters=masters)


def made(recipe: Recipe, px: int | None = None) -> np.ndarray:
    found = Evaluation(recipe, px, lambda _: BALL * 0.5 + 0.5, Cache(1 << 24)).master("object_normal")
    assert found is not None
    return found


def test_a_file_is_read_by_its_axis_and_stays_of_unit_length():
    np.testing.assert_allclose(made(recipe()), BALL, atol=1e-6)
    np.testing.assert_allclose(made(recipe(object_up="z")), with_y_up(BALL), atol=1e-6)
    np.testing.assert_allclose(np.linalg.norm(made(recipe(), 4), axis=-1), 1, atol=1e-5)


def test_turning_the_map_turns_no_vector():
    turned = recipe().model_copy(update={"frame": Frame(width=8, height=8, steps=({"kind": "mirror", "axis": "x"},))})
    np.testing.assert_allclose(made(Recipe.model_validate(turned.model_dump(by_alias=True))), BALL[:, ::-1], atol=1e-6)


def test_they_are_listed_only_where_they_are_and_nothing_is_mixed_in():
    assert "object_normal" in MASTERS and quantity("object_normal").is_seldom
    assert "object_normal" not in Recipe(facts=Facts(width=8, height=8)).keys
    assert "object_normal" in recipe().keys
    assert "object_normal" not in [row.key for row in board_of(shipped_target("gltf")).rows]
    assert "object_normal" in [row.key for row in board_of(target("y")).rows]
    assert not [choice.key for choice in choices(recipe(), "object_normal") if choice.key.startswith("mix:")]


def test_the_note_declares_them():
    handed = Handed(set_name="Bust", names={"normal": "Bust_ON.png"}, rise=0.02, tile_size=None)
    assert "object space, z up" in " ".join(hand_over(target("z"), handed).steps)
