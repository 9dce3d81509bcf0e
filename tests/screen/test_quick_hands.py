"""Drags that are over before the screen has drawn them: what the hand did counts, not what was drawn of it."""

import numpy as np
from demo_sets import PROJECT, make_set
from hands import choose, flick, middle
from playwright.sync_api import expect
from test_bench import READY
from test_making import open_set, recipe_of

from asking import eventually

GRAY = np.full((96, 96), 80, np.uint8)


def prepare(page, step: str) -> None:
    """Begin a step of preparing, and wait until its picture stands."""
    page.get_by_role("button", name="Prepare the pictures").click()
    page.get_by_role("button", name=step).click()
    page.get_by_role("button", name=f"Remove: {STEPS[step]}").wait_for()
    page.wait_for_function(READY)


STEPS = {"Take out spots": "Spots", "Straighten": "Straighten"}


def test_a_slider_and_the_detail_strip_end_where_they_were_let_go(page, server):
    grain = np.random.default_rng(3).integers(0, 255, (96, 96, 3)).astype(np.uint8)
    made = make_set(server, "Quick slider", {"photo": grain})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)

    def kept(name: str):
        return recipe_of(server, made)["nodes"]["height"]["params"].get(name)  # none while it is as at first

    slider = page.get_by_role("slider", name="Contrast")
    x, y = middle(slider)
    flick(slider, (x, y), (x + 20, y), (x + 40, y))
    eventually(lambda: kept("contrast"))
    assert str(kept("contrast")) == slider.get_attribute("aria-valuenow")  # the last place, and none before it
    handle = page.get_by_role("slider", name="Detail by size, 1.5 %")
    x, y = middle(handle)
    flick(handle, (x, y), (x, y + 10), (x, y + 200))
    eventually(lambda: 0 in (kept("detail") or ()))


def test_a_stroke_reaches_to_where_it_was_let_go(page, server):
    made = make_set(server, "Quick stroke", {"roughness": GRAY})
    open_set(page, made, "Roughness")
    page.get_by_role("button", name="Brush").click()
    page.wait_for_function(READY)
    paper = page.get_by_role("application", name="Draw on")
    box = paper.bounding_box()
    flick(paper, *((box["x"] + share * box["width"], box["y"] + 0.5 * box["height"]) for share in (0.2, 0.5, 0.8)))

    def strokes() -> list[dict]:
        return recipe_of(server, made)["touches"].get("roughness", {"strokes": []})["strokes"]

    eventually(strokes)
    assert np.ptp([point[0] for point in strokes()[0]["points"]]) > 0.55


def test_a_spot_is_as_large_as_it_was_drawn_and_a_pick_as_long_as_it_was_brushed(page, server):
    grain = np.kron(np.random.default_rng(5).integers(60, 200, (24, 24, 3)), np.ones((4, 4, 1))).astype(np.uint8)
    made = make_set(server, "Quick spot", {"photo": grain})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    choose(page.get_by_label("Where Height comes from"), "op:height_by_picks")
    page.get_by_role("button", name="Low 0").click()
    page.wait_for_function(READY)
    stage = page.get_by_role("img", name="Picture of Height")
    x, y = middle(stage)
    x += 80  # beside the divide
    flick(stage, (x, y - 60), (x, y), (x, y + 60))

    def picks() -> list[dict]:
        node = recipe_of(server, made)["nodes"].get("height_by_picks", {"params": {}})
        return node["params"].get("picks", [])

    eventually(lambda: len(picks()) > 1)
    prepare(page, "Take out spots")
    over = page.get_by_test_id("spots-over")
    x, y = middle(over)
    width = over.bounding_box()["width"]
    flick(over, (x, y), (x + 0.04 * width, y), (x + 0.08 * width, y + 0.04 * width))

    def spots() -> list[dict]:
        return recipe_of(server, made)["frame"]["steps"][0]["spots"]

    eventually(spots)
    assert abs(spots()[0]["across"] - 0.08) < 0.005


def test_what_is_asked_while_a_spot_is_looked_at_takes_nothing_away(page, server):
    grain = np.random.default_rng(7).integers(60, 200, (96, 96, 3)).astype(np.uint8)
    made = make_set(server, "Many spots", {"photo": grain})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    prepare(page, "Take out spots")
    over = page.get_by_test_id("spots-over")
    held, is_open = [], []
    page.route("**/api/spots", lambda route: route.continue_() if is_open else held.append(route))
    x, y = middle(over)
    for by in (60, 120, 180):
        page.mouse.click(x + by, y - by / 2)
    expect(page.get_by_test_id("spot-waits")).to_have_count(3)
    slider = page.get_by_role("slider", name="Contrast")
    slider.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Tab")
    eventually(lambda: held)
    is_open.append(True)
    held[0].continue_()
    expect(page.get_by_test_id("spot-waits")).to_have_count(0)
    page.wait_for_function(READY)

    def kept() -> tuple:
        recipe = recipe_of(server, made)
        return len(recipe["frame"]["steps"][0]["spots"]), recipe["nodes"]["height"]["params"].get("contrast")

    eventually(lambda: kept()[0] == 3 and kept()[1] is not None)
    assert str(kept()[1]) == slider.get_attribute("aria-valuenow")


def test_a_step_that_was_shown_while_it_moved_is_kept_as_it_was_shown(page, server):
    grain = np.random.default_rng(8).integers(60, 200, (96, 96, 3)).astype(np.uint8)
    made = make_set(server, "Bulging", {"photo": grain})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    prepare(page, "Straighten")
    slider = page.get_by_role("slider", name="Lens bulge")
    slider.focus()
    with page.expect_response("**/api/prepared"):
        page.keyboard.down("ArrowRight")
    page.wait_for_function(READY)
    page.keyboard.up("ArrowRight")
    eventually(lambda: recipe_of(server, made)["frame"]["steps"][0]["bulge"] > 0)
