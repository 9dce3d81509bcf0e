"""A set in tiles in a real browser: taken in as one, looked at tile by tile or laid out, delivered, and proved."""

import numpy as np
from demo_sets import PROJECT
from hands import choose
from playwright.sync_api import expect

from copper_sieve.files import encode

TILES = (1001, 1002, 1011)


def given(folder) -> list:
    rng = np.random.default_rng(30)
    paths = []
    for tile in TILES:
        for kind, codes in {
            "basecolor": rng.integers(30, 220, (64, 64, 3)),
            "roughness": rng.integers(60, 190, (64, 64)),
        }.items():
            if (tile, kind) != (1011, "roughness"):
                paths.append(folder / f"Cape été_{kind}.{tile}.png")
                paths[-1].write_bytes(encode(codes.astype(np.uint8), "png"))
    return paths


def test_tiles_go_from_the_drop_to_the_proof_as_one_set(page, server, tmp_path):
    page.goto(f"/p/{PROJECT}/intake")
    page.get_by_label("Choose files").set_input_files(given(tmp_path))
    expect(page.locator("tr[data-file]")).to_have_count(2)  # a line a map, whatever the number of its tiles
    expect(page.get_by_text("3 tiles: 1001–1002, 1011")).to_be_visible()
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="Cape été")).to_be_visible()
    expect(page.get_by_role("region", name="Lineage").get_by_text("none for 1011")).to_be_visible()
    viewer = page.get_by_test_id("viewer")
    expect(viewer).to_have_attribute("data-state", "ready")
    expect(page.get_by_label("Tile", exact=True)).to_have_attribute("data-key", "all")
    page.get_by_role("button", name="Base color").first.click()
    box = viewer.bounding_box()
    page.mouse.move(box["x"] + 0.4 * box["width"], box["y"] + 0.3 * box["height"])
    expect(page.get_by_role("status", name="Texel")).to_contain_text("1011:")  # it lies above 1001
    choose(page.get_by_label("Tile", exact=True), "1002")
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.5 * box["height"])
    expect(page.get_by_role("status", name="Texel")).to_contain_text("1002:")

    page.get_by_role("link", name="Delivery").click()
    page.get_by_role("button", name="Sets: none").click()
    page.get_by_label("Cape été", exact=True).check()
    page.get_by_role("button", name="Targets: none").click()
    page.get_by_label("Game engine, O·R·M packed, Y−").check()
    expect(page.get_by_text("Tile 1011")).to_be_visible()
    page.get_by_role("button", name="Deliver").click()
    expect(page.get_by_text("Written and read back equal")).to_be_visible()
    page.get_by_role("button", name="Proof", exact=True).click()
    expect(page.get_by_text("channels hold what the masters say")).to_be_visible()
    choose(page.get_by_label("Tile that is proved"), "1011")
    expect(page.get_by_text("channels hold what the masters say")).to_be_visible()
