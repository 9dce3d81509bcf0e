"""Take docs/screenshots/ anew from the demo: `.venv/bin/python scripts/screenshots.py ADDRESS`."""

import sys
import tempfile
from pathlib import Path, PurePath

import cv2
import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, sync_playwright
from psd_tools import PSDImage

from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
CHROMIUM = ["--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]
READY = "document.querySelector('[data-testid=viewer]')?.dataset.state === 'ready'"
DRAWN = "document.querySelector('canvas[data-drawn]')?.dataset.drawn"
IMAGES = """[...document.images].length >= {least} && [...document.images].every((image) => {{
  const box = image.getBoundingClientRect();
  return image.complete || box.bottom < 0 || box.top > innerHeight;  // what is out of sight may wait
}})"""


def shoot(page: Page, name: str, least_images: int = 0) -> None:
    page.wait_for_function(IMAGES.format(least=least_images))
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


def place(page: Page) -> None:
    """A made-up supplier's delivery with two faults, on the bench with the place of one."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for file in next(m for m in MATERIALS if m.name == "Quilted satin").files(512):
            codes = file.codes
            if file.kind == "normal":
                down, across = np.mgrid[0:512, 0:512] / 512
                fade = (1 - 0.5 * np.clip(3 - 9 * np.hypot(down - 0.35, across - 0.7), 0, 1))[..., None]
                codes = ((codes.astype(float) - 127.5) * fade + 127.5).round().astype(np.uint8)
            (folder / file.name.replace("Quilted", "Returned")).write_bytes(encode(codes, file.format))
        page.get_by_label("Choose files").set_input_files(sorted(folder.iterdir()))
        page.get_by_role("button", name="Take in 1 set").click()
        page.wait_for_function(READY)
        page.get_by_role("region", name="Lineage").get_by_role("button", name="Show where").first.click()
        page.wait_for_function("document.querySelector('canvas[data-marked=true]')")
        page.get_by_role("button", name="The whole set").click()
        page.get_by_text("Measuring the seams").wait_for(state="detached")
        shoot(page, "bench-place", 5)
        page.keyboard.press("1")
        page.get_by_role("button", name="Take Returned satin off the tray").click()
        page.get_by_role("link", name="Returned satin").wait_for(state="detached")


def given(page: Page) -> None:
    """A made-up layered document in Intake, and on the bench its normals, twice as strong as they came."""
    with tempfile.TemporaryDirectory() as name:
        path, document = Path(name) / "Painted satin.psd", PSDImage.new("RGB", (512, 512))
        for file in next(m for m in MATERIALS if m.name == "Quilted satin").files(512):
            codes = file.codes if file.codes.dtype == np.uint8 else (file.codes // 257).astype(np.uint8)
            layer = PurePath(file.name).stem.rpartition("_")[2]
            document.create_pixel_layer(Image.fromarray(codes).convert("RGBA"), name=layer)
        document.save(path)
        page.get_by_label("Choose files").set_input_files(path)
        page.get_by_role("button", name="Take in 1 set").wait_for()
        page.wait_for_function("!document.querySelector('progress')")
        shoot(page, "intake-layers", 5)
        page.get_by_role("button", name="Take in 1 set").click()
        page.wait_for_function(READY)
        page.get_by_role("button", name="Normal given").click()
        page.get_by_role("button", name="Corrections").click()
        strength = page.get_by_label("Strength, number")
        strength.fill("2")
        strength.press("Enter")
        strength.blur()
        page.get_by_role("button", name="Corrections (1)").wait_for()
        page.wait_for_load_state("networkidle")
        page.keyboard.press("c")
        page.wait_for_function(READY)
        shoot(page, "bench-corrections", 5)
        page.keyboard.press("c")
        page.keyboard.press("1")
        page.get_by_role("button", name="Take Painted satin off the tray").click()
        page.get_by_role("link", name="Painted satin").wait_for(state="detached")


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
    """The gong on a ground before balls of metal; the bench is left as it was."""
    page.get_by_role("button", name="Scene").click()
    drawn_anew(page, lambda: choose(page.get_by_label("Body"), "ball"))
    drawn_anew(page, lambda: page.get_by_label("Ground", exact=True).check())
    drawn_anew(page, lambda: choose(page.get_by_label("Balls to compare shine with"), "metal"))
    shoot(page, "bench-scene", 5)
    drawn_anew(page, lambda: page.get_by_label("Ground", exact=True).uncheck())
    drawn_anew(page, lambda: choose(page.get_by_label("Balls to compare shine with"), "none"))
    page.get_by_role("button", name="Scene").click()


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
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", chromium_sandbox=False, args=CHROMIUM)
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
        place(page)
        page.keyboard.press("2")
        given(page)
        page.keyboard.press("2")
        tiles(page)
        page.keyboard.press("2")
        question(page)
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
