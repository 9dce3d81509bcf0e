"""Take docs/screenshots/ anew from the demo: `.venv/bin/python scripts/screenshots.py ADDRESS`."""

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
CHROMIUM = ["--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]
READY = "document.querySelector('[data-testid=viewer]')?.dataset.state === 'ready'"
DRAWN = "document.querySelector('canvas[data-drawn]')?.dataset.drawn"
IMAGES = "[...document.images].length >= {least} && [...document.images].every((i) => i.complete)"


def shoot(page: Page, name: str, least_images: int = 0) -> None:
    page.wait_for_function(IMAGES.format(least=least_images))
    page.screenshot(path=FOLDER / f"{name}.png")


def drawn_anew(page: Page, change) -> None:
    before = page.evaluate(DRAWN)
    change()
    page.wait_for_function(f"before => ({DRAWN}) && ({DRAWN}) !== before", arg=before)
    page.wait_for_function(READY)


def intake(page: Page) -> None:
    with tempfile.TemporaryDirectory() as name:
        for material in MATERIALS[:1]:
            for file in material.files(256):
                (Path(name) / file.name.replace("Quilted satin", "Spare satin")).write_bytes(encode(file.codes, "png"))
        (Path(name) / "notes for the wardrobe.png").write_text("Ask for the second act's lace.")
        page.get_by_label("Choose files").set_input_files(sorted(Path(name).iterdir()))
        page.get_by_role("heading", name="6 files").wait_for()
        shoot(page, "intake", 4)


def main(address: str) -> None:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", chromium_sandbox=False, args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
        page.set_default_timeout(60_000)
        page.goto("/")
        shoot(page, "tray", 5)
        page.get_by_role("link", name="Grained leather").click()
        page.wait_for_function(READY)
        page.mouse.move(700, 380)
        page.get_by_role("status", name="Texel").wait_for()
        shoot(page, "bench-flat", 5)
        page.keyboard.press("1")
        page.get_by_role("link", name="Quilted satin").click()
        page.wait_for_function(READY)
        drawn_anew(page, lambda: page.keyboard.press("v"))
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
        drawn_anew(page, lambda: page.get_by_role("combobox", name="Light").select_option("indoor"))
        drawn_anew(page, lambda: page.get_by_label("Body").select_option("cushion"))
        shoot(page, "bench-dark", 5)
        page.keyboard.press("d")
        page.keyboard.press("4")
        page.get_by_role("button", name="Normal, G").click()
        shoot(page, "routing", 5)
        page.keyboard.press("2")
        intake(page)
        page.keyboard.press("5")
        for name in ("Quilted satin", "Chunky knit", "Game engine, O·R·M", "glTF"):
            page.get_by_role("checkbox", name=name).check()
        page.get_by_role("button", name="Deliver", exact=True).click()
        page.get_by_role("link", name="Download zip").wait_for()
        shoot(page, "delivery")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
