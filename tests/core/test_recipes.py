"""A recipe is refused before it is kept when it could not be computed; and no shared part is ever another recipe's."""

import time

import numpy as np
import pytest
from pydantic import ValidationError

from copper_sieve.core.derive import HeightFromColor
from copper_sieve.core.errors import RecipeInvalid
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Node, Recipe, Source, check_recipe, node_ref

SIZE = {"width": 32, "height": 32}
MAPS = {
    key: np.random.default_rng(k).integers(0, 255, (32, 32, 3)).astype(np.uint8)
    for k, key in enumerate(("diffuse", "specular", "base_color", "height"))
}
SOURCES = {key: Source(sha256=f"{k:064x}", name=key, reads={"RGB": key}, **SIZE) for k, key in enumerate(MAPS)}


def recipe(nodes: dict[str, Node], masters: dict[str, str], **facts) -> Recipe:
    return Recipe(facts=Facts(**{**SIZE, **facts}), sources=SOURCES, nodes=nodes, masters=masters)


def computed(one: Recipe, master: str, cache: Cache) -> np.ndarray:
    return Evaluation(one, None, lambda source: MAPS[source.name], cache).master(master)


def split(first: str, second: str) -> Recipe:
    inputs = {"diffuse": f"source:{first}:{first}", "specular": f"source:{second}:{second}"}
    node = Node(op="metallic_from_specular", inputs=inputs)
    return recipe({"n": node}, {"metallic": "node:n:metallic", "base_color": "node:n:base_color"})


def test_exchanged_inputs_get_their_own_pixels():
    straight, turned = split("diffuse", "specular"), split("specular", "diffuse")
    shared = Cache(1 << 30)
    for one in (straight, turned, straight):
        for master in ("metallic", "base_color"):
            np.testing.assert_array_equal(computed(one, master, shared), computed(one, master, Cache(1 << 30)))
    assert not np.array_equal(computed(straight, "base_color", shared), computed(turned, "base_color", shared))


def test_operations_share_what_reads_the_same_and_nothing_else():
    color = "source:base_color:base_color"
    nodes = {
        "h": Node(op="height_from_color", inputs={"color": color}),
        "r": Node(op="roughness_from_color", inputs={"color": color}),
        "other": Node(op="roughness_from_color", inputs={"color": "source:diffuse:diffuse"}),
    }
    one = recipe(nodes, {"height": "node:h", "roughness": "node:r"})
    kept = Keys(1 << 30)
    evaluation = Evaluation(one, None, lambda source: MAPS[source.name], kept)
    for name, transforms in (("h", 1), ("r", 1), ("other", 2)):
        evaluation.value(node_ref(name), evaluation.size)
        assert sum(key.startswith("waves/1") for key in kept.keys) == transforms


class Keys(Cache):
    """A cache that tells what was put into it."""

    def __init__(self, limit_bytes: int) -> None:
        super().__init__(limit_bytes)
        self.keys: list[str] = []

    def put(self, key: str, value) -> None:
        self.keys.append(key)
        super().put(key, value)


def chain(length: int) -> dict[str, Node]:
    """Mixes that each take the one before twice."""
    first = Node(op="constant", params={"value": 0.5})
    rest = {f"n{k}": Node(op="mixed", inputs={"own": f"node:n{k - 1}", "other": f"node:n{k - 1}"}) for k in range(1, length)}
    return {"n0": first, **rest}


def test_a_chain_of_doubly_fed_nodes_costs_no_more_than_its_length():
    began = time.process_time()
    one = recipe(chain(60), {"height": "node:n59"})
    check_recipe(one)
    assert computed(one, "height", Cache(1 << 30)).shape == (32, 32)
    assert time.process_time() - began < 5  # 2 to the power of 60 steps would be another matter
    with pytest.raises(ValidationError, match="one from another"):
        recipe(chain(200), {"height": "node:n199"})
    with pytest.raises(ValidationError, match="at most 500"):
        recipe(chain(501), {})


CASES = {
    "unknown operation": ({"n": Node(op="height_from_dreams")}, {}),
    "newer algorithm": ({"n": Node(op="constant", algorithm=99)}, {}),
    "missing slot": ({"n": Node(op="height_from_color")}, {}),
    "unknown slot": ({"n": Node(op="constant", inputs={"color": "source:diffuse:diffuse"})}, {}),
    "gray where a color goes": ({"n": Node(op="height_from_color", inputs={"color": "source:height:height"})}, {}),
    "color where a gray goes": ({"n": Node(op="normal_from_height", inputs={"height": "source:diffuse:diffuse"})}, {}),
    "color as a height": ({}, {"height": "source:base_color:base_color"}),
    "one value as a color": ({"n": Node(op="constant", params={"value": 0.5})}, {"base_color": "node:n"}),
    "output of one that makes one": ({"n": Node(op="constant")}, {"height": "node:n:height"}),
    "no output of one that makes several": (split("diffuse", "specular").nodes, {"metallic": "node:n"}),
    "output that is not made": (split("diffuse", "specular").nodes, {"metallic": "node:n:roughness"}),
    "parameter out of range": ({"n": Node(op="normal_from_height", inputs={"height": "source:height:height"},
                                          params={"strength": 1e9})}, {}),
    "parameter that is no number": ({"n": Node(op="constant", params={"value": float("nan")})}, {}),
    "mix of a gray and a color": ({"n": Node(op="mixed", inputs={"own": "source:height:height",
                                                                "other": "source:diffuse:diffuse"})}, {"height": "node:n"}),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_what_could_not_be_computed_is_refused_with_a_sentence(case):
    with pytest.raises(RecipeInvalid) as refused:
        check_recipe(recipe(*CASES[case]))
    assert len(refused.value.message) > 20


@pytest.mark.parametrize("name", [" ", "a:b", "Été", ""])
def test_what_no_ref_can_name_is_no_name_of_a_file(name):
    told = Recipe(facts=Facts(**SIZE)).model_dump(mode="json")
    source = {"sha256": "0" * 64, "name": "a.png", "width": 8, "height": 8, "depth": 8, "reads": {"RGB": "base_color"}}
    Recipe.model_validate({**told, "sources": {"s1": source}})
    with pytest.raises(ValidationError, match="small letters, digits and underscores"):
        Recipe.model_validate({**told, "sources": {name: source}})


@pytest.mark.parametrize(
    "facts", [{"width": 10**9}, {"height": 0}, {"rise": float("nan")}, {"rise": 0}, {"rise": 1.01}, {"tile_size": float("inf")},
              {"width": 16384, "height": 16384}, {"emissive_strength": -1}]
)  # fmt: skip
def test_facts_are_finite_and_bounded(facts):
    with pytest.raises(ValidationError):
        Facts(**{**SIZE, **facts})


def test_circles_are_found_wherever_they_close():
    loop = {"a": Node(op="normal_from_height", inputs={"height": "master:height"}),
            "b": Node(op="height_from_normal", inputs={"normal": "node:a"})}  # fmt: skip
    with pytest.raises(ValidationError, match="circle"):
        recipe(loop, {"height": "node:b"})


def test_every_recipe_of_ours_passes():
    assert HeightFromColor in {row.params for row in OPERATIONS.values()}
    for master in ("height", "normal", "occlusion", "roughness"):
        one = recipe({"n": Node(op="height_from_color", inputs={"color": "source:base_color:base_color"}),
                      "m": Node(op="normal_from_height", inputs={"height": "node:n"}),
                      "o": Node(op="occlusion_from_height", inputs={"height": "node:n"}),
                      "r": Node(op="roughness_from_color", inputs={"color": "source:base_color:base_color"})},
                     {"height": "node:n", "normal": "node:m", "occlusion": "node:o", "roughness": "node:r"})  # fmt: skip
        check_recipe(one)
        assert computed(one, master, Cache(1 << 30)) is not None
