"""The viewer in a real browser: ways to compare, what stands around the body, and texels at the set's own size."""

import io
import re
from dataclasses import replace

import numpy as np
import pytest
from demo_sets import PROJECT, make_set
from hands import choose
from PIL import Image
from playwright.sync_api import expect
from test_bench import DRAWN, READY, drawn_anew, seen

from asking import eventually
from copper_sieve.files import encode
from copper_sieve.files.meshes import glb_of
from shapes import box

BOX = "v -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n"


def open_set(page, made) -> None:
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)


def choose_scene(page, label: str, value: str | bool) -> None:
    control = page.get_by_label("Scene").get_by_label(label, exact=True)
    drawn_anew(page, lambda: control.set_checked(value) if isinstance(value, bool) else choose(control, value))


@pytest.fixture(scope="module")
def hatched(kept_page, server):
    page = kept_page
    hatched = (np.indices((64, 64)).sum(0) % 16 < 8).astype(np.uint8) * 255
    lean = np.full((64, 64, 3), (148, 168, 250), np.uint8)  # to the upper right, everywhere
    made = make_set(
        server, "Hatched", {"base_color": np.full((64, 64, 3), 200, np.uint8), "opacity": hatched, "normal": lean}, green="up"
    )
    open_set(page, made)
    page.keyboard.press("l")
    page.wait_for_function(DRAWN)
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "plane"))
    page.get_by_role("button", name="Scene").click()
    return page


@pytest.fixture()
def lit(hatched):
    """A hatched plane in the light. What a test chooses is put back, for whoever comes next."""
    before = chosen(hatched)
    yield hatched
    for label, key in (BEFORE_COMPARING | before).items():
        if chosen(hatched).get(label, key) != key:
            drawn_anew(hatched, lambda label=label, key=key: choose(hatched.get_by_label(label, exact=True), key))
    for on in hatched.get_by_label("Scene", exact=True).get_by_role("checkbox", checked=True).all():
        drawn_anew(hatched, on.click)


BEFORE_COMPARING = {"Compare with": "green", "Difference times": "4"}


def chosen(page) -> dict[str, str]:
    """What every choice of the viewer that is seen stands at."""
    keyed = "all => all.map(one => [one.getAttribute('aria-label'), one.dataset.key])"
    return dict(page.get_by_label("Viewer", exact=True).get_by_role("combobox").evaluate_all(keyed))


def test_two_bodies_side_by_side_and_what_differs(lit):
    drawn_anew(lit, lambda: choose(lit.get_by_label("Pictures"), "beside"))
    beside = seen(lit)
    columns = beside.shape[1]
    middle = slice(beside.shape[0] * 2 // 3, beside.shape[0] - 60)
    assert beside[middle, columns // 4].std() > 0.05 and beside[middle, columns // 2].std() < 0.02
    drawn_anew(lit, lambda: choose(lit.get_by_label("Pictures"), "difference"))
    drawn_anew(lit, lambda: choose(lit.get_by_label("Difference times"), "32"))
    assert seen(lit)[200:500, 300:560].mean() > 0.05  # green misread lights other flanks
    drawn_anew(lit, lambda: choose(lit.get_by_label("Compare with"), "bare"))
    assert seen(lit)[5:40, 480:580].max() < 0.02  # beside the body nothing differs


def test_the_lit_picture_beside_itself_without_a_map_in_other_light_and_displaced(lit):
    drawn_anew(lit, lambda: choose(lit.get_by_label("Pictures"), "difference"))
    inner = (slice(250, 400), slice(250, 330))
    for other in ("without:normal", "without:base_color", "light:overcast"):
        drawn_anew(lit, lambda other=other: choose(lit.get_by_label("Compare with"), other))
        assert seen(lit)[inner].mean() > 0.02, other
    drawn_anew(lit, lambda: choose(lit.get_by_label("Compare with"), "displacement"))
    assert seen(lit)[inner].mean() < 0.01  # a set without height has nothing to be displaced by


def test_a_pair_shows_the_map_beside_the_material_and_points_at_the_same_texel_in_both(page, server):
    height = (np.indices((64, 64))[1] * 4).astype(np.uint8)
    open_set(page, make_set(server, "Paired", {"base_color": np.full((64, 64, 3), 200, np.uint8), "height": height}))
    page.keyboard.press("p")
    page.wait_for_function(DRAWN)
    panes = [page.locator(f"[data-pane={name}]") for name in ("flat", "lit")]
    for pane, other in (panes, panes[::-1]):
        box = pane.bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(other.get_by_test_id("ring")).to_be_visible()
        expect(pane.get_by_test_id("ring")).to_have_count(0)
    page.keyboard.press("f")
    expect(panes[1]).to_have_count(0)
    page.reload()
    page.wait_for_function(READY)
    expect(page.get_by_role("radio", name="Flat")).to_be_checked()  # a person's way to look stays


def test_a_set_that_does_not_repeat_is_shown_on_a_plane(page, server):
    ramp = np.repeat((np.indices((64, 64))[1] * 4).astype(np.uint8)[..., None], 3, axis=-1)
    made = make_set(server, "Cut from a wall", {"base_color": ramp})
    assert made["recipe"]["facts"]["edges"]["x"] == "mirror"
    open_set(page, made)
    page.keyboard.press("l")
    page.wait_for_function(DRAWN)
    expect(page.get_by_label("Body")).to_have_attribute("data-key", "plane")
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "ball"))
    expect(page.get_by_text("does not repeat")).to_be_visible()


def test_holes_ground_and_the_shine_row(lit):
    inner = (slice(250, 400), slice(380, 500))
    cut = seen(lit)[inner].std()
    choose_scene(lit, "What holes do", "solid")
    assert seen(lit)[inner].std() < 0.7 * cut
    before = seen(lit)
    choose_scene(lit, "Balls to compare shine with", "plain")
    row = seen(lit)
    changed = np.abs(row - before) > 0.03
    assert changed[row.shape[0] * 3 // 4 :, 200:480].any() and not changed[: row.shape[0] // 2, :480].any()
    choose_scene(lit, "Ground", True)
    assert lit.get_by_label("Color of the ground").is_visible()
    assert np.abs(seen(lit) - row)[-80:, 300:480].mean() > 0.02


def test_a_bar_of_known_length_stands_by_the_body(lit):
    tick = lit.get_by_label("Scale bar", exact=True)
    expect(tick).to_be_disabled()
    lit.get_by_role("button", name="The whole set").click()
    width = lit.get_by_label("Width of the tile in meters")
    width.fill("0.25")
    width.press("Enter")
    expect(tick).to_be_enabled()
    before = seen(lit)
    choose_scene(lit, "Scale bar", True)
    picture = (slice(80, 540), slice(0, 600))  # between what lies over its corners, and beside the options
    plane = np.flatnonzero((before[picture] > before[70, 50] + 0.1).any(0))
    bar = np.flatnonzero((np.abs(seen(lit) - before) > 0.1)[:, :600].any(0))
    assert (bar[-1] - bar[0]) / (plane[-1] - plane[0]) == pytest.approx(10 / 25, abs=0.01)
    lit.keyboard.press("Control+z")
    expect(tick).to_be_disabled()


def test_a_mesh_of_ones_own_and_a_file_that_is_none(lit):
    field = lit.get_by_label("Own mesh: OBJ, PLY, STL, GLB or glTF")
    drawn_anew(lit, lambda: field.set_input_files({"name": "Éventail 2.obj", "mimeType": "text/plain", "buffer": BOX.encode()}))
    expect(lit.get_by_label("Body")).to_have_attribute("data-key", "own")
    expect(lit.get_by_label("Scene")).to_contain_text("2 triangles")
    expect(lit.get_by_label("Scene")).to_contain_text("1 of its faces have four corners")
    whole = seen(lit)
    drawn_anew(lit, lambda: lit.get_by_role("button", name="Flip faces").click())
    assert np.abs(seen(lit) - whole).mean() < 0.2  # both sides are drawn
    field.set_input_files({"name": "fan.fbx", "mimeType": "text/plain", "buffer": b"?"})
    expect(lit.get_by_label("Scene")).to_contain_text("fan.fbx is of no format of meshes that is read here")


def test_a_mesh_is_checked_worn_by_material_and_shown_over_the_picture(page, server):
    made = make_set(server, "Linen", {"base_color": np.full((64, 64, 3), 200, np.uint8)})
    open_set(page, made)
    page.keyboard.press("p")
    page.wait_for_function(DRAWN)
    page.get_by_role("button", name="Scene").click()
    clasp = replace(box(), material=np.int32([0, 0, 1, 1, 1, 1]), materials=("brass", made["name"].upper()))
    field = page.get_by_label("Own mesh: OBJ, PLY, STL, GLB or glTF")
    field.set_input_files({"name": "clasp.glb", "mimeType": "model/gltf-binary", "buffer": glb_of(clasp)})
    scene = page.get_by_label("Scene", exact=True)
    expect(scene.get_by_label("Which material this set is")).to_contain_text(made["name"].upper())
    expect(scene).to_contain_text("8 triangles")
    expect(scene).to_contain_text("y is up")
    choose(scene.get_by_label("Which material this set is"), "0")
    expect(scene).to_contain_text("4 triangles")
    scene.get_by_label("Borders of islands over the flat picture").check()
    over = page.get_by_role("img", name="Borders of the mesh's islands")
    expect(over).to_have_attribute("data-pieces", "8")  # two squares


def test_a_picture_of_the_surroundings_lights_the_body_and_is_kept_with_the_project(lit, server):
    drawn_anew(lit, lambda: choose(lit.get_by_label("Body"), "ball"))
    choose(lit.get_by_label("What holes do"), "solid")

    def from_above() -> float:
        picture = seen(lit)[:, 260:356]  # a strip down the middle of the ball
        return float(picture[200:260].mean() / picture[500:530].mean())

    assert from_above() > 1.5
    sky = np.zeros((32, 64, 3), np.float32)
    sky[:16], sky[16:] = 0.02, 1.5  # light from below alone, as no situation of ours has it
    brought = {"name": "cour d'été.exr", "mimeType": "image/x-exr", "buffer": encode(sky, "exr")}
    lit.get_by_label("Picture of the surroundings, EXR, HDR or JPEG").set_input_files(brought)
    expect(lit.get_by_label("Light", exact=True)).to_contain_text("cour d'été.exr")
    eventually(lambda: from_above() < 1 / 1.5)
    drawn_anew(lit, lambda: lit.get_by_role("slider", name="Brighten").fill("-4"))
    dark = seen(lit)
    drawn_anew(lit, lambda: lit.get_by_role("slider", name="Brighten").fill("2"))
    assert seen(lit)[200:400, 380:500].mean() > 1.5 * dark[200:400, 380:500].mean()
    lit.get_by_label("Picture of the surroundings, EXR, HDR or JPEG").set_input_files(
        {"name": "square.exr", "mimeType": "image/x-exr", "buffer": encode(sky[:, :32], "exr")}
    )
    expect(lit.get_by_label("Scene", exact=True)).to_contain_text("square.exr: is 32 × 32")
    assert [row["name"] for row in server.get(f"/projects/{PROJECT}/environments").json()] == ["cour d'été.exr"]
    lit.get_by_role("button", name="Take cour d'été.exr out of the project").click()
    expect(lit.get_by_label("Light", exact=True)).to_contain_text("Indoor")


def test_a_kept_picture_is_a_png_of_the_view(lit):
    with lit.expect_download() as download:
        lit.get_by_role("button", name="Keep picture").click()
    assert re.fullmatch(r"Hatched \w+ lit\.png", download.value.suggested_filename)
    kept = np.asarray(Image.open(io.BytesIO(download.value.path().read_bytes())))
    assert kept[..., 3].any() and kept[kept.shape[0] // 2, kept.shape[1] // 2 - 80 : kept.shape[1] // 2 + 80, :3].std() > 5


def test_zoomed_in_the_texels_are_those_of_the_files(page, server):
    size = 1536
    checker = (np.indices((size, size)).sum(0) % 2).astype(np.uint8) * 255
    open_set(
        page,
        make_set(
            server, "Fine", {"base_color": np.full((8, 8, 3), 128, np.uint8).repeat(192, 0).repeat(192, 1), "roughness": checker}
        ),
    )
    page.get_by_role("button", name="Roughness").click()
    page.wait_for_function(READY)
    assert np.ptp(seen(page)[300:340, 400:440]) < 0.3  # at 1024 px two by two texels are one gray
    for _ in range(18):
        page.keyboard.press("+")
    page.wait_for_function(f"document.querySelector('canvas[data-texels]')?.dataset.texels === '{size} × {size}'")
    assert np.ptp(seen(page)[300:340, 400:440]) > 0.9


def test_one_channel_alone(page, server):
    color = np.zeros((32, 32, 3), np.uint8)
    color[..., 0], color[..., 1] = 220, 60
    open_set(page, make_set(server, "Red", {"base_color": color, "roughness": np.full((32, 32), 99, np.uint8)}))
    page.get_by_role("button", name="Base color given").click()
    page.wait_for_function(READY)
    levels = []
    for part in ("0", "1", "2"):
        choose(page.get_by_label("Channel", exact=True), part)
        levels.append(float(seen(page)[300:340, 400:440].mean()))
    np.testing.assert_allclose(levels, [220 / 255, 60 / 255, 0], atol=0.02)


def test_the_picture_is_moved_zoomed_and_picked_by_keyboard(page, server):
    ramp = np.repeat(np.linspace(0, 255, 64).astype(np.uint8)[None], 64, 0)
    made = make_set(server, "Ramped", {"base_color": np.dstack([ramp] * 3)})
    open_set(page, made)
    page.get_by_role("button", name="Base color given").click()
    page.get_by_role("img", name="Picture of Base color").focus()

    def column() -> int:
        return int(re.match(r"\d+", page.get_by_text(re.compile(r"^\d+, \d+$")).inner_text())[0])

    page.keyboard.press("ArrowRight")
    expect(page.get_by_text(re.compile(r"^\d+, \d+$"))).to_be_visible()
    before = column()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    page.wait_for_function("n => parseInt(document.body.innerText.match(/(\\d+), \\d+\\s/)?.[1] ?? '0') > n", arg=before)
    page.keyboard.press("0")
    page.keyboard.press("l")
    page.wait_for_function(DRAWN)
    lit = page.get_by_role("img", name=re.compile(", lit$"))
    drawn_anew(page, lambda: (lit.focus(), page.keyboard.press("ArrowRight")))
