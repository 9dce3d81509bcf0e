"""The bench in a real browser: what it shows is what the maps say."""

import io

import numpy as np
import pytest
from demo_sets import PROJECT, make_set
from hands import choose
from PIL import Image
from playwright.sync_api import expect

from asking import eventually
from copper_sieve.files import read

READY = "document.querySelector('[data-testid=viewer]')?.dataset.state === 'ready'"
DRAWN = "document.querySelector('canvas[data-drawn]')?.dataset.drawn"


def dome(size: int = 128) -> dict[str, np.ndarray]:
    """A gray square with one round hill in its middle: Y+ normals from the sphere itself."""
    x, y = np.meshgrid(np.linspace(-1, 1, size), np.linspace(1, -1, size))  # y up
    radius = np.hypot(x, y)
    inside = radius < 0.8
    normal = np.dstack([x, y, np.sqrt(np.maximum(0.36, 1 - radius**2))]) * inside[..., None] + [0, 0, 1] * ~inside[..., None]
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return {
        "base_color": np.full((size, size, 3), 128, np.uint8),
        "normal": ((normal * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8),
        "roughness": np.full((size, size), 230, np.uint8),
    }


def seen(page) -> np.ndarray:
    """The viewer as the person sees it, gray 0..1, once it has drawn what it was asked for."""
    page.wait_for_function(READY)
    picture = Image.open(io.BytesIO(page.get_by_test_id("viewer").screenshot(scale="css")))
    return np.asarray(picture.convert("L"), np.float32) / 255


def flanks(picture: np.ndarray, center: float) -> dict[str, float]:
    """Mean light on the hill's four flanks; ``center`` is its middle as a share of the width."""
    rows, columns = picture.shape
    r, c, d, s = rows // 2, int(columns * center), rows // 5, rows // 30
    at = {"up": (r - d, c), "down": (r + d, c), "left": (r, c - d), "right": (r, c + d)}
    return {side: float(picture[y - s : y + s, x - s : x + s].mean()) for side, (y, x) in at.items()}


def drawn_anew(page, change) -> None:
    """Do something and wait for the picture that it asks for."""
    before = page.evaluate(DRAWN)
    change()
    page.wait_for_function(f"before => ({DRAWN}) !== before", arg=before)


@pytest.fixture()
def lit(page, server):
    made = make_set(server, "Dome", dome(), green="up")
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.keyboard.press("l")
    page.wait_for_function(DRAWN)
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "plane"))
    return page


def lamp_from(page, side: str) -> None:
    box = page.get_by_role("slider", name="Lamp").bounding_box()
    dx, dy = {"up": (0, -30), "down": (0, 30), "left": (-30, 0), "right": (30, 0)}[side]
    page.mouse.move(box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy)
    drawn_anew(page, lambda: (page.mouse.down(), page.mouse.up()))


def test_the_flank_that_faces_the_lamp_is_bright_and_green_misread_turns_it_over(lit):
    for side, other in (("left", "right"), ("right", "left"), ("up", "down")):
        lamp_from(lit, side)
        light = flanks(seen(lit), 0.5)
        assert light[side] > light[other] + 0.1, side
    drawn_anew(lit, lambda: lit.keyboard.press("c"))
    divide = lit.get_by_role("slider", name="Divide")
    expect(divide).to_have_attribute("aria-valuenow", "50")
    for key, sign in (("Home", -1), ("End", 1)):
        divide.focus()
        drawn_anew(lit, lambda key=key: lit.keyboard.press(key))
        light = flanks(seen(lit), 0.5)
        assert (light["up"] - light["down"]) * sign > 0.1  # all of it misread, then all of it as it is
    lamp_from(lit, "down")
    drawn_anew(lit, lambda: lit.keyboard.press("t"))  # the light test brings its own lamp, from above
    expect(lit.get_by_role("img", name="Light comes from here")).to_be_visible()
    expect(lit.get_by_label("Clay")).to_be_checked()
    assert int(divide.get_attribute("aria-valuenow")) == 50


def test_a_close_view_says_that_it_is_sharpened_and_shows_own_texels(page, server):
    stripes = np.tile(np.uint8([0, 255]), (2048, 1024))
    made = make_set(server, "Pinstripe", {"base_color": np.full((2048, 2048, 3), 99, np.uint8), "roughness": stripes})
    held, is_open = [], []

    def hold(route) -> None:
        is_close = route.request.post_data_json["region"] if "region" in route.request.post_data_json else None
        route.continue_() if is_open or not is_close else held.append(route)

    page.route("**/api/previews", hold)
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="Roughness").click()
    page.keyboard.press("f")
    page.wait_for_function(READY)
    stage = page.get_by_role("img", name="Picture of Roughness")
    box = stage.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2 + 5, box["y"] + box["height"] / 2 + 5)
    for _ in range(6):
        page.mouse.wheel(0, -300)
    expect(page.get_by_role("status").filter(has_text="Sharpening to 2048 px…")).to_be_visible()

    def middle() -> np.ndarray:
        rows, columns = (picture := seen(page)).shape
        return picture[rows // 2 - 20 : rows // 2 + 20, columns // 2 - 40 : columns // 2 + 40]

    assert np.ptp(middle()) < 0.1  # stripes are less than a texel of the picture at hand
    expect(page.get_by_role("status", name="Texel")).to_contain_text("read at 1024 px: ")
    assert [int(n) > 1000 for n in page.get_by_role("status", name="Texel").inner_text().split("\n")[0].split(", ")] == [
        True,
        True,
    ]
    is_open.append(True)
    for route in held:
        route.continue_()
    expect(page.get_by_text("Sharpening")).to_be_hidden()
    eventually(lambda: np.ptp(middle()) > 0.9)


def test_one_camera_for_both_pictures_and_every_master_under_the_pointer(page, server):
    ramp = np.linspace(0, 255, 96).astype(np.uint8)[None, :].repeat(96, 0)
    files = {"base_color": np.full((96, 96, 3), (200, 100, 50), np.uint8), "roughness": ramp, "height": ramp.T.copy()}
    made = make_set(server, "Ramps", files)
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="Roughness").click()
    choose(page.get_by_label("Compare with"), "master:height")
    page.keyboard.press("c")
    page.wait_for_function(READY)
    picture = seen(page)
    rows, columns = picture.shape
    assert np.ptp(picture[rows // 2 - 60 : rows // 2 + 60, columns // 3]) < 0.05  # left: roughness, the same down a column
    assert np.ptp(picture[rows // 2 - 60 : rows // 2 + 60, columns * 2 // 3]) > 0.1  # right: height, which is a ramp
    box = page.get_by_test_id("viewer").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2 - 100, box["y"] + box["height"] / 2)
    readout = page.get_by_role("status", name="Texel")
    expect(readout).to_contain_text("#C86432 (0.58 0.13 0.03)")
    expect(readout).not_to_contain_text("Metallic")  # nobody gave one, and none is made up


def test_the_detail_strip_moves_the_map_and_two_tabs_do_not_overwrite_each_other(page, server, browser, address):
    made = make_set(server, "Strip", {"photo": np.random.default_rng(3).integers(0, 255, (96, 96, 3)).astype(np.uint8)})
    url = f"/p/{PROJECT}/bench/{made['id']}"
    page.goto(url)
    other = browser.new_page(base_url=address)
    other.goto(url)
    other.get_by_role("slider", name="Contrast").wait_for()
    page.wait_for_function(READY)
    before = seen(page)
    handle = page.get_by_role("slider", name="Detail by size, 1.5 %")
    box = handle.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"], box["y"] + 200, steps=5)
    page.mouse.up()
    expect(handle).to_have_attribute("aria-valuenow", "0")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.wait_for_function(READY)
    assert np.abs(seen(page) - before).max() > 0.01
    other.get_by_role("slider", name="Contrast").focus()
    other.keyboard.press("ArrowRight")
    expect(other.get_by_role("alert")).to_be_visible()
    kept = server.get(f"/sets/{made['id']}").json()["recipe"]["nodes"]["height"]["params"]
    assert kept["detail"][2] == 0 and "contrast" not in kept
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    other.close()


def test_a_set_is_turned_cropped_and_resized_and_each_is_one_step_of_undo(page, server):
    rows = np.linspace(20, 230, 64).astype(np.uint8)
    base = np.broadcast_to(rows[:, None, None], (64, 96, 3)).copy()
    made = make_set(server, "Placed", {"base_color": base, "roughness": base[..., 0].copy()})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("button", name="The whole set").click()
    says = page.get_by_role("button", name="The whole set")
    page.get_by_role("button", name="Rotate left by 90°").click()
    expect(says).to_contain_text("64 × 96 px, came as 96 × 64, then 1 step")
    page.get_by_label("Crop, height").fill("32")
    page.get_by_role("button", name="Crop", exact=True).click()
    expect(says).to_contain_text("64 × 32 px")
    choose(page.get_by_label("Longer side"), "128")
    expect(says).to_contain_text("128 × 64 px")
    page.get_by_label("License of the pictures").fill("ours")
    page.keyboard.press("Enter")
    expect(page.get_by_label("License of the pictures")).to_have_value("ours")
    for size in ("128 × 64", "64 × 32", "64 × 96", "96 × 64"):
        page.get_by_role("button", name="Undo").click()
        expect(says).to_contain_text(f"{size} px")
    assert len(server.get(f"/sets/{made['id']}/versions").json()) == 5  # a fact typed is kept once: Enter, then the field is left


def test_a_finding_shows_its_place_and_is_mended_with_one_press(page, server):
    files = dome()
    files["normal"] = files["normal"].copy()
    files["normal"][:64] = ((files["normal"][:64].astype(float) - 127.5) * 0.6 + 127.5).astype(np.uint8)
    made = make_set(server, "Faulty", files, green="up")
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    lineage = page.get_by_role("region", name="Lineage")
    expect(lineage.get_by_text("of its vectors are not of length 1")).to_be_visible()
    lineage.get_by_role("button", name="Normal", exact=False).first.click()
    page.wait_for_function(READY)
    before = seen(page)
    lineage.get_by_role("button", name="Show where").first.click()
    page.wait_for_function("document.querySelector('canvas[data-marked=true]')")
    changed = np.abs(seen(page) - before) > 0.03
    middle = len(changed) // 2
    assert changed[20 : middle - 8].mean() > 0.2 and changed[middle + 8 :].mean() < 0.02
    lineage.get_by_role("button", name="Make every vector 1 long").click()
    expect(lineage.get_by_text("of its vectors are not of length 1")).to_have_count(0)


def test_reflectance_is_set_on_any_of_its_three_rulers(page, server):
    made = make_set(server, "Glazed", {"base_color": np.full((32, 32, 3), 90, np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    choose(page.get_by_label("Where Reflectance comes from"), "one-value")
    ruler = page.get_by_label("Refraction, number")
    expect(ruler).to_have_value("1.500")
    ruler.fill("1.333")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Mirrors, number")).to_have_value("2.04")
    expect(page.get_by_label("Level, number")).to_have_value("0.255")
    choose(page.get_by_label("Where Reflectance comes from"), "absent")
    expect(ruler).to_have_count(0)


def test_a_height_by_picks_follows_the_clicks_and_undoes_one_by_one(page, server):
    """Dark is high on this picture: one click on the dark side and one on the light turn the height round."""
    ramp = np.abs(np.linspace(-1, 1, 96))
    base = (60 + 120 * np.broadcast_to(ramp[None, :, None], (96, 96, 3))).astype(np.uint8)  # dark in the middle column
    made = make_set(server, "Picked", {"base_color": base})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    choose(page.get_by_label("Where Height comes from"), "op:height_by_picks")
    expect(page.get_by_role("button", name="High 0")).to_be_visible()
    stage = page.get_by_role("img", name="Picture of Height")
    box = page.get_by_test_id("viewer").bounding_box()
    middle = {"x": box["width"] / 2 + 20, "y": box["height"] * 0.3}  # beside the divide
    side = {"x": box["width"] / 2 + 0.38 * box["height"], "y": box["height"] * 0.3}
    for word, place in (("High", middle), ("Low", side)):
        page.get_by_role("button", name=f"{word} 0").click()
        page.wait_for_function(READY)
        stage.click(position=place)
        expect(page.get_by_role("button", name=f"{word} 1")).to_be_visible()

    def height_at(x: float) -> float:
        recipe = next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["id"] == made["id"])["recipe"]
        return server.post("/probes", json={"recipe": recipe, "x": x, "y": 0.5, "size": 96}).json()["masters"]["height"][0]

    eventually(lambda: height_at(0.5) > height_at(0.88) + 0.3)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Low 0")).to_be_visible()

    corner = page.get_by_test_id("viewer").bounding_box()
    page.mouse.move(corner["x"] + side["x"], corner["y"] + side["y"])
    page.mouse.down()
    page.mouse.move(corner["x"] + side["x"], corner["y"] + box["height"] * 0.7, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="Low 1")).to_be_visible()  # a brushed spot is one

    def said() -> list[dict]:
        recipe = next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["id"] == made["id"])["recipe"]
        node = recipe["masters"]["height"].removeprefix("node:")
        return [p for p in recipe["nodes"][node]["params"]["picks"] if p["value"] < 0.5]

    eventually(lambda: len(said()) > 10)
    assert {p["stroke"] for p in said()} == {0} and max(p["y"] for p in said()) - min(p["y"] for p in said()) > 0.35
    page.wait_for_function(READY)
    assert height_at(0.5) > height_at(0.88) + 0.3
    page.get_by_role("button", name="Remove last").click()
    expect(page.get_by_role("button", name="Low 0")).to_be_visible()
    expect(page.get_by_role("button", name="High 1")).to_be_visible()


def test_two_masters_side_by_side_and_what_differs_between_them(page, server):
    rough, occlusion = (np.full((64, 64), value, np.uint8) for value in (100, 104))
    occlusion[:32] = 100
    files = {"base_color": np.full((64, 64, 3), 90, np.uint8), "roughness": rough, "occlusion": occlusion}
    made = make_set(server, "Differs", files)
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("region", name="Lineage").get_by_role("button", name="Roughness").first.click()
    choose(page.get_by_label("Compare with"), "master:occlusion")
    choose(page.get_by_label("Pictures"), "difference")
    choose(page.get_by_label("Difference times"), "32")
    page.wait_for_function(READY)
    expect(page.get_by_text("Roughness and Ambient occlusion: what differs, × 32")).to_be_visible()
    box = page.get_by_test_id("viewer").bounding_box()
    x, up, down = int(box["width"] / 2), int(box["height"] * 0.3), int(box["height"] * 0.7)
    picture = seen(page)
    assert picture[up, x] == 0 and abs(picture[down, x] - 4 * 32 / 255) < 0.02
    page.get_by_label("Histogram").check()
    expect(page.get_by_label("Histogram", exact=True).last).to_contain_text("mean 0.39")
    choose(page.get_by_label("Pictures"), "beside")
    expect(page.get_by_text("Ambient occlusion", exact=True).last).to_be_visible()


def test_a_step_is_named_compared_with_and_gone_back_to(page, server):
    made = make_set(server, "Stepped", {"base_color": np.full((32, 32, 3), 90, np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    choose(page.get_by_label("Where Emissive comes from"), "one-value")
    page.get_by_role("button", name="History").click()
    rows = page.get_by_role("list", name="Versions").get_by_role("listitem")
    expect(rows).to_have_count(2)
    expect(rows.first).to_contain_text("Emissive constant")
    page.get_by_label("Name of the version taken in").fill("as sent")
    page.keyboard.press("Enter")
    rows.nth(1).get_by_role("button", name="Compare").click()
    expect(page.get_by_label("Compare with")).to_have_attribute("data-key", f"version:{made['head']}")
    rows.nth(1).get_by_role("button", name="Go there").click()
    expect(page.get_by_label("Where Emissive comes from")).to_have_attribute("data-key", "absent")
    assert [v["name"] for v in server.get(f"/sets/{made['id']}/versions").json()] == [None, "as sent"]


def test_a_rise_says_how_it_is_known_and_what_is_out_of_range_is_refused(page, server):
    height = np.clip(np.linspace(0, 255, 64)[None, :] + 40 * np.sin(np.linspace(0, 18, 64))[:, None], 0, 255).astype(np.uint8)
    made = make_set(server, "Ruff", {"base_color": np.full((64, 64, 3), 90, np.uint8), "height": height})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="Height").first.click()
    expect(page.get_by_text("assumed: nobody has told or measured it")).to_be_visible()
    field = page.get_by_label("Rise, number")
    field.fill("140")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("takes 0.01 to 100 % of width")
    assert server.get(f"/sets/{made['id']}").json()["recipe"]["facts"]["rise"] == 0.02
    field.fill("62.5")
    field.press("Enter")
    expect(page.get_by_text("told, not measured", exact=True)).to_be_visible()

    def facts() -> dict:
        return server.get(f"/sets/{made['id']}").json()["recipe"]["facts"]

    eventually(lambda: (facts()["rise"], facts()["rise_from"]) == (0.625, "told"))
    page.get_by_role("button", name="The whole set").click()
    page.get_by_role("button", name="Confirm the edges").click()
    expect(page.get_by_text("Told. Seams: ")).to_be_visible()
    choose(page.get_by_label("The set down"), "wrap")
    eventually(lambda: facts()["edges"] == {"x": "mirror", "y": "wrap"})
    eventually(lambda: (facts()["edges"]["x"], facts()["edges_from"]) == ("mirror", "told"))


def test_a_key_that_is_held_is_one_step_and_a_map_starts_anew_alone(page, server):
    made = make_set(server, "Held", {"base_color": (np.indices((64, 64, 3))[1] * 4).astype(np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("region", name="Lineage").get_by_role("button", name="Roughness").click()
    slider = page.get_by_role("slider", name="Mean", exact=True)
    before, steps = slider.get_attribute("aria-valuetext"), len(server.get(f"/sets/{made['id']}/versions").json())
    slider.focus()
    for _ in range(8):
        page.keyboard.down("ArrowRight")  # again and again without a release, as a held key comes
    page.keyboard.up("ArrowRight")
    expect(slider).not_to_have_attribute("aria-valuetext", before)
    eventually(lambda: len(server.get(f"/sets/{made['id']}/versions").json()) == steps + 1)
    moved = server.get(f"/sets/{made['id']}").json()
    choose(page.get_by_label("Start Roughness as a kind of material"), "plain")
    expect(slider).to_have_attribute("aria-valuetext", before)
    height = moved["recipe"]["nodes"]["height"]
    eventually(lambda: server.get(f"/sets/{made['id']}").json()["head"] != moved["head"])
    assert server.get(f"/sets/{made['id']}").json()["recipe"]["nodes"]["height"] == height


def test_one_map_is_saved_as_a_file_without_a_target(page, server):
    made = make_set(server, "Köper fein", dome(), green="up")
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="Normal").first.click()
    saving = page.get_by_role("region", name="Normal as a file")
    saving.get_by_role("button", name="Save as a file").click()
    choose(saving.get_by_label("What Normal is written as"), "normal-down")
    with page.expect_download() as found:
        saving.get_by_role("button", name="Save", exact=True).click()
    assert found.value.suggested_filename == f"{made['name']}_normal_yminus.png"
    codes = read(found.value.path()).codes
    assert codes.dtype == np.uint16 and np.abs(codes[..., 1] - 65535 * (1 - dome()["normal"][..., 1] / 255.0)).max() < 200
    page.route("**/map?*", lambda route: route.fulfill(status=422, json={"detail": "It has no normal to save."}))
    saving.get_by_role("button", name="Save", exact=True).click()
    expect(saving.get_by_role("alert")).to_have_text("It has no normal to save.")
