"""Take docs/screenshots/ anew from the demo: `.venv/bin/python scripts/screenshots.py ADDRESS`."""

import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from playwright.sync_api import Locator, Page, sync_playwright
from scipy.spatial import cKDTree

from copper_sieve.demo.materials import MATERIALS
from copper_sieve.demo.meshes import button
from copper_sieve.files import encode
from copper_sieve.files.meshes import glb_of

BROWSER = f"{sys.prefix}/bin/chromium"  # as ./check puts it there
FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
CHROMIUM = ["--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]
READY = "document.querySelector('[data-testid=viewer]')?.dataset.state === 'ready'"
DRAWN = "document.querySelector('canvas[data-drawn]')?.dataset.drawn"
IMAGES = """[...document.images].length >= {least} && [...document.images].every((image) => {{
  const box = image.getBoundingClientRect();
  return image.complete || box.bottom < 0 || box.top > innerHeight;  // what is out of sight may wait
}})"""

AT_REST = "() => !/Comparing…|· computing|looking…/.test(document.body.innerText)"  # nothing is still on its way


def shoot(page: Page, name: str, least_images: int = 0) -> None:
    page.wait_for_function(IMAGES.format(least=least_images))
    page.wait_for_function(AT_REST)
    page.screenshot(path=FOLDER / f"{name}.png")


def choose(choice: Locator, key: str) -> None:
    choice.click()
    choice.page.get_by_role("listbox").locator(f'[data-key="{key}"]').click()


def drawn_anew(page: Page, change) -> None:
    before = page.evaluate(DRAWN)
    change()
    page.wait_for_function(f"before => ({DRAWN}) && ({DRAWN}) !== before", arg=before)
    page.wait_for_function(READY)


def intake(page: Page) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for material in MATERIALS:
            if material.name in ("Gilt brocade", "Hammered gong"):
                for file in material.files(512):
                    renamed = file.name.replace("Gilt", "Spare").replace("Hammered", "Spare")
                    (folder / renamed).write_bytes(encode(file.codes, file.format))
        (folder / "scrap 7.png").write_bytes(encode(np.random.default_rng(1).integers(90, 170, (64, 64)).astype(np.uint8), "png"))
        page.get_by_label("Choose files").set_input_files(sorted(folder.iterdir()))
        page.get_by_role("heading", name="8 files").wait_for()
        page.wait_for_function("!document.querySelector('progress')")
        shoot(page, "intake", 8)
        page.get_by_role("row", name="Spare brocade_normal.png").focus()
        with page.expect_response(lambda answer: "/light?" in answer.url) as strip:  # a background, so no image element tells
            page.keyboard.press("Enter")
        strip.value.finished()
        shoot(page, "intake-light", 11)
        page.get_by_role("row", name="Spare gong_RMA.tga").focus()
        page.keyboard.press("Enter")
        shoot(page, "intake-channels", 11)


def picks(page: Page) -> None:
    """Grained leather's height by two high and two low picks, its history, then back to where it was."""
    codes = next(m for m in MATERIALS if m.name == "Grained leather").files(256)[0].codes
    light = cv2.GaussianBlur(codes.astype(np.float32).mean(-1), (0, 0), 1.5)[:, 140:240]
    spots = {"High": [], "Low": []}
    for word in spots:
        for half in (slice(20, 120), slice(130, 230)):
            row, column = np.unravel_index(light[half].argmax() if word == "High" else light[half].argmin(), light[half].shape)
            spots[word].append(((column + 140.5) / 256, (row + half.start + 0.5) / 256))
    choose(page.get_by_label("Where Height comes from"), "op:height_by_picks")
    page.get_by_role("button", name="High 0").wait_for()
    box = page.get_by_test_id("viewer").bounding_box()
    side = 0.94 * min(box["width"], box["height"])
    left, top = (box["width"] - side) / 2, (box["height"] - side) / 2
    for word, places in spots.items():
        page.get_by_role("button", name=f"{word} 0").click()
        page.wait_for_function(READY)
        for count, (x, y) in enumerate(places, 1):
            page.get_by_role("img", name="Picture of Height").click(position={"x": left + x * side, "y": top + y * side})
            page.get_by_role("button", name=f"{word} {count}").wait_for()
            page.wait_for_function(READY)
    page.get_by_label("Histogram").check()
    page.get_by_role("button", name="History").click()
    page.get_by_text("picks 3 → 4").wait_for()  # every step is kept, with its own rise
    page.wait_for_load_state("networkidle")
    page.wait_for_function(READY)
    shoot(page, "bench-picks", 5)
    page.get_by_role("list", name="Versions").get_by_role("button", name="Go there").last.click()
    page.get_by_role("button", name="High 2").wait_for(state="detached")


def cracked(size: int) -> np.ndarray:
    """Made-up cracked leather that does not repeat, with a blot of ink at 64 %, 30 %."""
    rng = np.random.default_rng(9)
    y, x = np.mgrid[0:size, 0:size] / size
    wobble = [cv2.GaussianBlur(rng.normal(0, 1, (size, size)), (0, 0), size / 40) * 0.25 for _ in range(2)]
    near, which = cKDTree(rng.random((170, 2))).query(np.stack([x + wobble[0], y + wobble[1]], -1), 2)
    shades = rng.uniform(0.75, 1.05, 170)[which[..., 0]]
    seam = np.clip((near[..., 1] - near[..., 0]) * 60, 0, 1)
    grain = cv2.GaussianBlur(rng.normal(0, 1, (size, size)), (0, 0), 1.2) * 0.05
    light = (0.25 + 0.75 * seam) * shades + grain
    color = np.clip(light[..., None] * [140, 84, 52], 0, 255)
    color[np.hypot(x - 0.64, y - 0.3) < 0.016] = (24, 30, 70)
    return color.astype(np.uint8)


def prepare(page: Page) -> None:
    """A made-up photo of leather: its blot taken out, then made to repeat, with the line; left as it was."""
    lineage = page.get_by_role("region", name="Lineage")
    with tempfile.TemporaryDirectory() as name:
        (Path(name) / "Cracked leather_photo.png").write_bytes(encode(cracked(700), "png"))
        page.get_by_label("Choose files").set_input_files(Path(name) / "Cracked leather_photo.png")
        page.get_by_role("button", name="Take in 1 set").click()
        page.wait_for_function(READY)
        lineage.get_by_role("button", name="Prepare the pictures").click()
        lineage.get_by_role("button", name="Take out spots").click()
        page.wait_for_function(READY)
        box = page.get_by_test_id("spots-over").bounding_box()
        page.mouse.click(box["x"] + 0.64 * box["width"], box["y"] + 0.3 * box["height"])
        lineage.get_by_text("Spot 1").wait_for()
        lineage.get_by_role("button", name="Make it repeat").click()
        lineage.get_by_role("radio", name="Picture and line").click()
        page.get_by_test_id("repeat-line").wait_for()
        page.wait_for_load_state("networkidle")
        page.wait_for_function(READY)
        shoot(page, "bench-prepare", 5)
        page.keyboard.press("1")
        page.get_by_role("button", name="Take Cracked leather off the tray").click()
        page.get_by_role("link", name="Cracked leather").wait_for(state="detached")


def brush(page: Page) -> None:
    """Worn places drawn on the color of satin; left as it was."""
    page.get_by_role("link", name="Quilted satin").click()
    page.wait_for_function(READY)
    lineage = page.get_by_role("region", name="Lineage")
    lineage.get_by_role("button", name="Base color").click()
    lineage.get_by_role("button", name="Brush").click()
    page.wait_for_function(READY)
    box = page.get_by_role("application", name="Draw on base color").bounding_box()
    for line in (((0.08, 0.25), (0.35, 0.4), (0.6, 0.3)), ((0.45, 0.75), (0.75, 0.62), (0.97, 0.7))):
        places = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in line]
        page.mouse.move(*places[0])
        page.mouse.down()
        for place in places[1:]:
            page.mouse.move(*place, steps=6)
        page.mouse.up()
        page.wait_for_load_state("networkidle")
    page.wait_for_function(READY)
    shoot(page, "bench-brush", 5)
    for _ in range(2):
        lineage.get_by_role("button", name="Undo").click()
        page.wait_for_load_state("networkidle")
    lineage.get_by_role("button", name="Brush").click()
    page.keyboard.press("1")


def tiles(page: Page) -> None:
    """A made-up leather in four tiles, laid out, with the height that is derived across them."""
    color = next(m for m in MATERIALS if m.name == "Grained leather").files(1024)[0].codes
    with tempfile.TemporaryDirectory() as name:
        for number, (row, column) in {1001: (1, 0), 1002: (1, 1), 1011: (0, 0), 1012: (0, 1)}.items():
            part = color[row * 512 : (row + 1) * 512, column * 512 : (column + 1) * 512]
            (Path(name) / f"Saddle_basecolor.{number}.png").write_bytes(encode(np.ascontiguousarray(part), "png"))
        page.get_by_label("Choose files").set_input_files(sorted(Path(name).iterdir()))
        page.get_by_role("button", name="Take in 1 set").click()
        page.get_by_role("heading", name="Saddle").wait_for()
        page.get_by_label("Tile", exact=True).wait_for()
        page.wait_for_load_state("networkidle")
        page.wait_for_function(READY)
        shoot(page, "bench-tiles", 5)
        page.keyboard.press("1")
        page.get_by_role("button", name="Take Saddle off the tray").click()
        page.get_by_role("link", name="Saddle").wait_for(state="detached")


def question(page: Page) -> None:
    """A made-up panel of sequins with light seams: do they stand up, or are they grooves?"""
    side, pitch = 512, 64
    rng = np.random.default_rng(2)
    at = np.arange(side) % pitch < 6
    shades = np.kron(rng.uniform(0.35, 0.55, (side // pitch,) * 2), np.ones((pitch, pitch)))
    grain = cv2.GaussianBlur(rng.normal(0, 1, (side, side)), (0, 0), 1.2) * 0.06
    light = np.where(at[:, None] | at[None, :], 0.85, shades) + grain
    color = cv2.GaussianBlur(np.clip(light[..., None] * [0.75, 0.5, 0.42] * 255, 0, 255).astype(np.uint8), (0, 0), 1)
    with tempfile.TemporaryDirectory() as name:
        (Path(name) / "Sequin panel_photo.png").write_bytes(encode(color, "png"))
        page.get_by_label("Choose files").set_input_files(Path(name) / "Sequin panel_photo.png")
        page.get_by_role("button", name="Take in 1 set").click()
        page.get_by_role("group", name="Question").wait_for()
        page.wait_for_function(READY)
        page.wait_for_load_state("networkidle")
        shoot(page, "bench-question", 5)
        page.keyboard.press("1")
        page.get_by_role("button", name="Take Sequin panel off the tray").click()
        page.get_by_role("link", name="Sequin panel").wait_for(state="detached")


def scene(page: Page) -> None:
    """The gong's metal on a button of the wardrobe, checked, before balls of metal; the bench is left as it was."""
    page.get_by_role("button", name="Scene").click()
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "ball"))
    mesh = {"name": "button_low.glb", "mimeType": "model/gltf-binary", "buffer": glb_of(button(high=False))}
    drawn_anew(page, lambda: page.get_by_label("Own mesh: OBJ, PLY, STL, GLB or glTF").set_input_files(mesh))
    page.mouse.move(900, 450)
    page.mouse.down()
    page.mouse.move(860, 455, steps=4)
    page.mouse.up()
    drawn_anew(page, lambda: page.get_by_label("Ground", exact=True).check())
    drawn_anew(page, lambda: choose(page.get_by_label("Balls to compare shine with"), "metal"))
    shoot(page, "bench-scene", 5)
    drawn_anew(page, lambda: page.get_by_label("Ground", exact=True).uncheck())
    drawn_anew(page, lambda: choose(page.get_by_label("Balls to compare shine with"), "none"))
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "ball"))
    page.get_by_role("button", name="Scene").click()


def mesh(page: Page) -> None:
    """A button of the wardrobe, baked from its fine mesh, its islands drawn over the map and on it."""
    page.keyboard.press("1")
    page.get_by_role("link", name="Brass button").click()
    page.get_by_role("heading", name="Brass button").wait_for()
    choose(page.get_by_label("Size of the baked maps"), "512")
    page.get_by_label("Height", exact=True).check()
    page.get_by_role("button", name="Bake 4 maps, 512 px").click()
    page.get_by_role("button", name="Normal baked").click(timeout=120_000)
    page.get_by_label("Islands", exact=True).check()
    page.get_by_label("On the mesh too").check()
    page.wait_for_load_state("networkidle")
    page.wait_for_function(READY)
    page.mouse.move(1060, 400)
    page.mouse.down()
    drawn_anew(page, lambda: page.mouse.move(1060, 470, steps=4))
    page.mouse.up()
    page.get_by_role("button", name="Mesh button_low.glb").evaluate(
        "row => { const list = row.closest('section'); list.scrollTop += row.getBoundingClientRect().top - 90; }"
    )
    shoot(page, "bench-mesh", 5)
    page.get_by_label("Islands", exact=True).uncheck()
    for _ in ("baked", "maps", "size"):  # as it was
        with page.expect_response("**/step"):
            page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Normal baked").wait_for(state="detached")
    page.keyboard.press("1")


def files_in(page: Page) -> None:
    """The board read the other way, with the files of a made-up gong."""
    choose(page.get_by_label("Target", exact=True), "engine-mra-down")
    page.get_by_role("radio", name="Files in").click()
    size, rng = 256, np.random.default_rng(3)
    shapes = {m.name: {f.kind: f.codes for f in m.files(size)} for m in MATERIALS if m.name in ("Gilt brocade", "Quilted satin")}
    satin, gilt = shapes["Quilted satin"], shapes["Gilt brocade"]
    packed = np.dstack([gilt["specular"][..., 0], rng.integers(90, 140, (size, size)).astype(np.uint8), satin["normal"][..., 2]])
    with tempfile.TemporaryDirectory() as name:
        for word, codes in (("BC", satin["base_color"]), ("N", satin["normal"]), ("MRA", packed)):
            (Path(name) / f"Bordered satin_{word}.tga").write_bytes(encode(codes, "tga"))
        page.get_by_label("Choose this target’s files").set_input_files(sorted(Path(name).iterdir()))
        page.get_by_role("img", name="Metallic from").wait_for()
        page.wait_for_load_state("networkidle")
        shoot(page, "routing-in", 5)


def proof(page: Page) -> None:
    """A delivery read back: its channels, and the ball as the target sees it."""
    page.locator("aside").get_by_role("checkbox", name="Lace trim").check()
    for name in ("Quilted satin", "Chunky knit", "glTF"):
        page.locator("aside").get_by_role("checkbox", name=name).uncheck()
    page.get_by_role("button", name="Deliver").click()
    page.get_by_role("link", name="Download zip").wait_for()
    page.get_by_role("button", name="Proof", exact=True).click()
    page.get_by_role("img", name="Difference, lamp from behind").wait_for()
    page.get_by_text("channels hold what the masters say").wait_for()
    shoot(page, "delivery-proof")


def main(address: str) -> None:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=BROWSER, chromium_sandbox=False, args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address, bypass_csp=True)
        page.set_default_timeout(60_000)
        page.request.put("/api/projects/the-salt-heron-wardrobe/usual", data={"usual": ["engine-orm-down", "gltf"]})
        page.goto("/")
        shoot(page, "tray", 5)
        page.get_by_role("link", name="Grained leather").click()
        page.wait_for_function(READY)
        page.mouse.move(700, 380)
        page.get_by_role("status", name="Texel").wait_for()
        page.wait_for_function(DRAWN)
        shoot(page, "bench-pair", 5)
        picks(page)
        page.goto("/")
        page.get_by_role("link", name="Quilted satin").click()
        page.wait_for_function(READY)
        drawn_anew(page, lambda: page.keyboard.press("l"))
        drawn_anew(page, lambda: page.keyboard.press("c"))
        shoot(page, "bench-lit", 5)
        page.keyboard.press("1")
        page.get_by_role("link", name="Gilt brocade").click()
        page.wait_for_function(READY)
        drawn_anew(page, lambda: page.keyboard.press("t"))
        shoot(page, "light-test", 5)
        page.get_by_label("Clay").uncheck()
        page.keyboard.press("d")
        page.keyboard.press("1")
        page.get_by_role("link", name="Hammered gong").click()
        page.wait_for_function(READY)
        drawn_anew(page, lambda: page.keyboard.press("c"))
        drawn_anew(page, lambda: choose(page.get_by_role("combobox", name="Light"), "indoor"))
        drawn_anew(page, lambda: choose(page.get_by_label("Body"), "cushion"))
        shoot(page, "bench-dark", 5)
        page.keyboard.press("d")
        scene(page)
        page.keyboard.press("4")
        choose(page.get_by_label("Target", exact=True), "engine-fourfold-up")
        page.get_by_role("button", name="smoothness, A:").click()
        shoot(page, "routing", 5)
        files_in(page)
        page.keyboard.press("2")
        intake(page)
        page.reload()
        prepare(page)
        page.keyboard.press("2")
        tiles(page)
        page.keyboard.press("2")
        question(page)
        page.keyboard.press("2")
        mesh(page)
        brush(page)
        page.keyboard.press("5")
        page.get_by_role("button", name="Sets: none").click()
        for name in ("Quilted satin", "Chunky knit"):
            page.locator("aside").get_by_role("checkbox", name=name).check()
        page.get_by_role("button", name="Deliver").click()
        page.get_by_role("link", name="Download zip").wait_for()
        shoot(page, "delivery")
        proof(page)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
