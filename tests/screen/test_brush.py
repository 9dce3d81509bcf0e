"""Maps touched up by hand in the browser: strokes, what follows them, and taking them off again."""

import numpy as np
import pytest
from demo_sets import make_set
from playwright.sync_api import expect
from test_bench import READY
from test_making import open_set, recipe_of, steps_of

from asking import eventually

GRAY = np.full((128, 128), 80, np.uint8)


@pytest.fixture
def made(page, server):
    made = make_set(server, "Touched", {"height": GRAY, "roughness": GRAY})
    ask = {"expects": made["head"], "master": "normal", "origin": "op:normal_from_height"}
    assert server.post(f"/sets/{made['id']}/origins", json=ask).status_code == 200
    open_set(page, made, "Roughness")
    return made


def draw(page, *shares: tuple[float, float], label: str = "Draw on") -> None:
    """A stroke by the pointer from share to share of the picture."""
    box = page.get_by_role("application", name=label).bounding_box()
    places = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in shares]
    page.mouse.move(*places[0])
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*place, steps=5)
    page.mouse.up()


def shown(server, made, wanted: str) -> np.ndarray:
    ask = {"view": wanted, "seq": 1, "recipe": recipe_of(server, made), "wanted": wanted, "size": 128}
    return np.frombuffer(server.post("/previews", json=ask).content, np.uint8).reshape(128, 128, 4)


def strokes(server, made, master: str) -> list[dict]:
    return recipe_of(server, made)["touches"].get(master, {"strokes": []})["strokes"]


def test_a_stroke_is_drawn_kept_switched_off_and_undone(page, server, made):
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Brush")).to_have_attribute("aria-pressed", "true")
    page.wait_for_function(READY)
    draw(page, (0.2, 0.5), (0.8, 0.5))
    eventually(lambda: len(strokes(server, made, "roughness")) == 1)
    gray = shown(server, made, "roughness")[..., 0]
    assert gray[64, 64] == 255 and gray[20, 64] == 80
    expect(page.get_by_role("button", name="Roughness given · ")).to_contain_text("painted over")
    assert steps_of(server, made)[0] == "Roughness: paint by hand"
    page.get_by_label("Stroke 1 is on").click()
    eventually(lambda: not strokes(server, made, "roughness")[0]["is_on"])
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    eventually(lambda: not strokes(server, made, "roughness"))


def test_what_is_made_of_a_painted_map_follows_and_alt_erases(page, server, made):
    page.get_by_role("region", name="Lineage").get_by_role("button", name="Height").first.click()
    page.get_by_role("button", name="Brush").click()
    page.get_by_role("radio", name="Raise").click()
    page.wait_for_function(READY)
    draw(page, (0.5, 0.3), (0.5, 0.7))
    eventually(lambda: len(strokes(server, made, "height")) == 1)
    assert strokes(server, made, "height")[0]["way"] == "raise"
    assert np.ptp(shown(server, made, "normal")[64, :, 0].astype(int)) > 20
    page.keyboard.down("Alt")
    draw(page, (0.5, 0.45), (0.5, 0.55))
    page.keyboard.up("Alt")
    eventually(lambda: [stroke["way"] for stroke in strokes(server, made, "height")] == ["raise", "erase"])
    assert shown(server, made, "height")[64, 64, 0] == 80


def noise(server, made) -> dict:
    """Of the roughness; empty where there is none."""
    return (recipe_of(server, made)["touches"].get("roughness") or {}).get("noise") or {}


def test_noise_is_added_by_one_press_and_another_seed_by_another(page, server, made):
    page.get_by_role("button", name="Add noise").click()
    eventually(lambda: noise(server, made).get("kind") == "cloud")
    assert 0 < shown(server, made, "roughness")[..., 0].std() < 6
    seed = noise(server, made)["seed"]
    page.get_by_role("button", name="Another one").click()
    eventually(lambda: noise(server, made).get("seed") != seed)
    page.get_by_role("button", name="No noise").click()
    eventually(lambda: not noise(server, made))
    assert shown(server, made, "roughness")[..., 0].std() == 0


def test_a_gray_of_ones_own_is_made_painted_and_limits_a_mix(page, server, made):
    page.get_by_role("button", name="New gray to paint").click()
    page.get_by_label("Name of the new gray").fill("Edge wear")
    page.get_by_label("Name of the new gray").press("Enter")
    expect(page.get_by_role("button", name="Edge wear", pressed=True)).to_be_visible()
    page.get_by_role("button", name="Brush").click()
    page.wait_for_function(READY)
    draw(page, (0.3, 0.5), (0.7, 0.5))
    eventually(lambda: len(strokes(server, made, "own_edge_wear")) == 1)
    wear = shown(server, made, "own_edge_wear")[..., 0]
    assert wear[64, 64] == 255 and wear[20, 20] == 0
