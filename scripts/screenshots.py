"""Take docs/screenshots/ anew from the demo: `.venv/bin/python scripts/screenshots.py ADDRESS`."""

import sys
from pathlib import Path

from playwright.sync_api import sync_playwright

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
address = sys.argv[1]

with sync_playwright() as play:
    browser = play.chromium.launch(executable_path="/usr/bin/chromium", chromium_sandbox=False)
    page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
    page.goto("/")
    page.wait_for_function("[...document.images].length > 5 && [...document.images].every(i => i.complete)")
    page.screenshot(path=FOLDER / "tray.png")
    page.get_by_role("link", name="Grained leather").click()
    page.locator(".viewer[data-state=ready]").wait_for()
    page.screenshot(path=FOLDER / "bench.png")
    page.get_by_role("link", name="Delivery").click()
    for name in ("Quilted satin", "Chunky knit", "Game engine", "glTF"):
        page.get_by_role("checkbox", name=name).check()
    page.get_by_role("button", name="Deliver").click()
    page.get_by_role("link", name="Download zip").wait_for()
    page.screenshot(path=FOLDER / "delivery.png")
    browser.close()
