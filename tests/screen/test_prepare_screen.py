"""Pictures prepared in the browser, by real presses and drags: spots out, straight, repeating, and undone."""

import re

import numpy as np
import pytest
from demo_sets import PROJECT, make_set
from hands import flick, middle
from playwright.sync_api import expect
from test_bench import READY
from test_making import recipe_of, steps_of

from asking import eventually
from copper_sieve.core.color import encode_srgb_codes

SPOT = (0.9, 0.1, 0.5)


def gravel() -> np.ndarray:
    """Made-up ground of 256 px that does not repeat, with a spot of another color at 62 %, 38 %."""
    rng = np.random.default_rng(4)
    ground = np.kron(rng.random((64, 64)), np.ones((4, 4))) * 0.3 + 0.1
    color = np.dstack([ground, ground * 0.9, ground * 0.7]).astype(np.float32)
    y, x = np.mgrid[:256, :256] / 256
    color[np.hypot(x - 0.62, y - 0.38) < 0.015] = SPOT
    return encode_srgb_codes(color, np.uint8)


@pytest.fixture
def made(page, server):
    made = make_set(server, "Ground", {"photo": gravel()})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("button", name="Prepare the pictures").click()
    return made


def kinds(server, made) -> list[str]:
    frame = recipe_of(server, made)["frame"]
    return [step["kind"] for step in frame["steps"]] if frame else []


def shown(server, made, key: str) -> np.ndarray:
    ask = {"view": "test", "seq": 1, "recipe": recipe_of(server, made), "wanted": key, "size": 256}
    answer = server.post("/previews", json=ask)
    size = [int(answer.headers[name]) for name in ("x-height", "x-width")]
    return np.frombuffer(answer.content, np.uint8).reshape(*size, 4)


def test_a_click_takes_a_spot_out_of_every_map_and_another_place_can_be_had(page, server, made):
    page.get_by_role("button", name="Take out spots").click()
    over = page.get_by_test_id("spots-over")
    box = over.bounding_box()
    page.mouse.click(box["x"] + 0.62 * box["width"], box["y"] + 0.38 * box["height"])
    expect(page.get_by_text("Spot 1")).to_be_visible()
    color = shown(server, made, "base_color")
    assert np.abs(color[92:104, 153:165, :3].astype(int) - (245, 89, 188)).sum(-1).min() > 60  # nothing is left of it
    first = recipe_of(server, made)["frame"]["steps"][0]["spots"][0]
    page.get_by_role("button", name="Another place for spot 1").click()
    eventually(lambda: recipe_of(server, made)["frame"]["steps"][0]["spots"][0]["from_x"] != first["from_x"])
    page.get_by_role("button", name="Put back spot 1").click()
    expect(page.get_by_text("Spot 1")).to_be_hidden()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Spot 1")).to_be_visible()


def test_a_scratch_is_brushed_away_and_can_be_put_back(page, server, made):
    page.get_by_role("button", name="Take out spots").click()
    page.wait_for_function(READY)
    page.get_by_role("button", name="Brush", exact=True).click()
    box = page.get_by_role("application", name="Brush over spots").bounding_box()
    page.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 0.4 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.6 * box["width"], box["y"] + 0.45 * box["height"], steps=8)
    page.mouse.up()
    expect(page.get_by_text("brushed")).to_be_visible()
    (spot,) = recipe_of(server, made)["frame"]["steps"][0]["spots"]
    assert len(spot["path"]) > 2 and spot["brush"] == pytest.approx(0.02) and 0.16 < spot["across"] < 0.18
    page.get_by_role("button", name="Put back spot 1").click()
    eventually(lambda: recipe_of(server, made)["frame"]["steps"][0]["spots"] == [])


def test_one_press_makes_it_repeat_and_the_line_can_be_led(page, server, made):
    page.get_by_role("button", name="Make it repeat").click()
    expect(page.get_by_role("radio", name="3 × 3, as it repeats")).to_be_checked()
    recipe = recipe_of(server, made)
    assert recipe["facts"]["edges"] == {"x": "wrap", "y": "wrap"} and recipe["facts"]["width"] < 256
    height = shown(server, made, "height")[..., 0].astype(int)
    assert np.abs(height[:, 0] - height[:, -1]).mean() < 1.2 * np.abs(np.diff(height, axis=1)).mean(0).max()
    page.get_by_role("radio", name="Picture and line").click()
    expect(page.get_by_test_id("repeat-line")).to_be_visible()
    page.get_by_role("button", name="Avoid").click()
    page.wait_for_function(READY)
    box = page.get_by_role("application", name="Paint where the line had better not run").bounding_box()
    page.mouse.move(box["x"] + 0.05 * box["width"], box["y"] + 0.4 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.08 * box["width"], box["y"] + 0.6 * box["height"], steps=6)
    page.mouse.up()
    eventually(lambda: len(recipe_of(server, made)["frame"]["steps"][0]["guide"]["avoid"]) == 1)
    expect(page.get_by_role("button", name="Wipe")).to_be_enabled()
    page.get_by_label("Tile across").fill("70")
    page.get_by_label("Tile across").press("Enter")
    eventually(lambda: abs(recipe_of(server, made)["frame"]["steps"][0]["x"]["side"] - 0.7) < 0.01)
    assert len(recipe_of(server, made)["frame"]["steps"][0]["guide"]["avoid"]) == 1  # what was painted stays
    page.get_by_label("Square").click()
    eventually(lambda: recipe_of(server, made)["frame"]["steps"][0]["is_square"])
    facts = recipe_of(server, made)["facts"]
    assert facts["width"] == facts["height"] < 256
    page.get_by_role("button", name="Make it 256 px").click()
    eventually(lambda: recipe_of(server, made)["facts"]["height"] == 256)
    expect(page.get_by_text("256 × 256 px", exact=True)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    page.get_by_label("Repeat is on").click()
    eventually(lambda: recipe_of(server, made)["facts"]["width"] == 256)


def test_points_are_dragged_and_moved_by_keys_and_the_repeat_behind_is_found_anew(page, server, made):
    page.get_by_role("button", name="Make it repeat").click()
    eventually(lambda: kinds(server, made) == ["repeat"])
    before = recipe_of(server, made)["frame"]["steps"][0]
    page.get_by_role("button", name="Straighten", exact=True).click()
    eventually(lambda: kinds(server, made) == ["straighten", "repeat"])
    points = page.get_by_test_id("straighten-points")
    points.wait_for()  # the server knows of the step before the screen does
    page.wait_for_function(READY)
    box, corner = points.bounding_box(), page.get_by_role("slider", name="Upper left")
    lower = [box["y"] + share * box["height"] for share in (0.05, 0.1)]
    across = [box["x"] + share * box["width"] for share in (0.1, 0.2)]
    flick(corner, middle(corner), *zip(across, lower, strict=True))

    def corner_at() -> list[float]:
        return recipe_of(server, made)["frame"]["steps"][0]["points"][0]

    eventually(lambda: np.allclose(corner_at(), (0.2, 0.1), atol=0.02))
    eventually(lambda: recipe_of(server, made)["frame"]["steps"][1]["x"]["cut"] != before["x"]["cut"])
    now = corner_at()
    corner.focus()
    page.keyboard.press("ArrowRight")
    eventually(lambda: corner_at()[0] > now[0])
    assert "straightened" in steps_of(server, made)[0]


def test_what_cannot_be_made_to_repeat_says_why_and_stays(page, server):
    made = make_set(server, "Plain sheet", {"photo": np.full((64, 64, 3), 120, np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("button", name="Prepare the pictures").click()
    page.get_by_role("button", name="Make it repeat").click()
    expect(page.get_by_text(re.compile("the picture is one color"))).to_be_visible()
    assert kinds(server, made) == []


def test_a_pattern_is_followed_and_its_repeats_are_counted(page, server):
    rng = np.random.default_rng(8)
    cell = np.kron(rng.random((10, 8)), np.ones((4, 4)))
    wall = np.tile(cell, (8, 9))[:256, :256] * 0.5 + 0.2 + 0.05 * rng.random((256, 256))
    made = make_set(server, "Wall of cells", {"photo": encode_srgb_codes(np.dstack([wall] * 3).astype(np.float32), np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("button", name="Prepare the pictures").click()
    page.get_by_role("button", name="Make it repeat").click()
    page.get_by_role("button", name="Follow it").click()
    times = page.get_by_label("Repeats of the pattern across")
    expect(times).to_have_value("7")
    times.fill("3")
    times.press("Enter")
    eventually(lambda: recipe_of(server, made)["facts"]["width"] == 96)
    assert "of its pattern's repeats" in steps_of(server, made)[0]


def test_a_variant_is_one_press_and_another_seed_another_picture(page, server, made):
    page.get_by_role("button", name="Make it repeat").click()
    page.get_by_role("button", name="Make a variant").click()
    eventually(lambda: kinds(server, made) == ["repeat", "variant"])

    def variant() -> dict:
        return recipe_of(server, made)["frame"]["steps"][1]

    first, pieces = shown(server, made, "base_color"), variant()["pieces"]
    expect(page.get_by_text(re.compile(r"mean \d\.\d\d, worst stretch"))).to_be_visible()
    page.get_by_role("button", name="Another one").click()
    eventually(lambda: variant()["seed"] == 2)
    assert variant()["pieces"] != pieces
    assert (shown(server, made, "base_color") != first).mean() > 0.5
    page.get_by_role("button", name="Keep as a set").click()
    expect(page.get_by_role("link", name=f"{made['name']} 2")).to_be_visible()
    page.get_by_role("radio", name="Places, blended").click()
    eventually(lambda: variant()["pieces"] is None)
    page.get_by_role("radio", name="Pieces, cut").click()
    eventually(lambda: variant()["pieces"] is not None)
    page.get_by_label("Variant is on").click()
    eventually(lambda: not variant()["is_on"])
    page.get_by_label("Variant is on").click()
    eventually(lambda: variant()["is_on"])
    pieces = variant()["pieces"]
    page.get_by_label("Repeat is on").click()  # the picture that pieces are taken from is another one
    eventually(lambda: variant()["pieces"] != pieces)
    page.get_by_role("button", name="Undo").click()
    eventually(lambda: variant()["pieces"] == pieces)
    page.get_by_role("button", name="The whole set").click()
    page.get_by_role("button", name="Duplicate").click()
    page.get_by_role("link", name=f"{made['name']} 3").click()
    expect(page.get_by_role("heading", name=f"{made['name']} 3")).to_be_visible()
    rows = {row["name"]: row for row in server.get(f"/projects/{PROJECT}/sets").json()}
    own, kept, copy = (rows[made["name"] + end]["recipe"]["frame"]["steps"] for end in ("", " 2", " 3"))
    assert own == copy and kept[1]["seed"] == 2
