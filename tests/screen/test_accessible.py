"""Every place by the accessibility checker, with things on it, in light and in dark."""

from pathlib import Path

import numpy as np
import pytest
from demo_sets import PROJECT, make_set
from test_bench import READY

from asking import ended
from copper_sieve.files import encode

AXE = (Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
FOUND = """axe.run(document, { resultTypes: ['violations'] })
  .then(({ violations }) => violations.map((one) => [one.impact, one.id, one.nodes[0].html]))"""
IS_WIDE = """[...document.querySelectorAll('header, main, footer')]
  .some((one) => one.getBoundingClientRect().right > innerWidth)"""
CUT = """[...document.querySelectorAll('section.scrolled')]
  .filter((one) => one.scrollWidth > one.clientWidth).map((one) => one.ariaLabel)"""
GRAY = (np.indices((64, 64))[1] * 4).astype(np.uint8)
COLOR = np.full((64, 64, 3), (120, 90, 60), np.uint8)


def serious(page) -> list:
    page.evaluate(AXE)
    return [row for row in page.evaluate(FOUND) if row[0] in ("serious", "critical")]


def with_files(page, folder) -> None:
    for name, codes in {"cord_basecolor.png": COLOR, "cord_x.png": np.dstack([GRAY] * 3), "notes.png": None}.items():
        (folder / name).write_bytes(b"no picture" if codes is None else encode(codes, "png"))
    page.get_by_label("Choose files").set_input_files(sorted(folder.iterdir()))
    page.get_by_role("heading", name="3 files").wait_for()
    page.get_by_role("row", name="cord_basecolor.png").focus()
    page.keyboard.press("Enter")
    page.get_by_role("row", name="cord_basecolor.png, opened").wait_for()
    page.get_by_role("row", name="cord_x.png").focus()
    page.keyboard.press("c")
    page.keyboard.press("Enter")  # one row is open at a time
    page.get_by_role("row", name="cord_x.png, opened").wait_for()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_place_has_anything_serious(page, server, tmp_path, theme):
    long = f"Reached {theme} by a name that is as long as the names of files of a large production are"
    made = make_set(server, long, {"base_color": COLOR, "height": GRAY})
    found = {}

    def look(place: str) -> None:
        found[place] = serious(page) + (["wider than the window"] if page.evaluate(IS_WIDE) else []) + page.evaluate(CUT)

    page.goto(f"/p/{PROJECT}/tray")
    page.get_by_label("Search the sets").fill(made["name"])
    page.get_by_role("link", name=made["name"]).wait_for()
    if theme == "dark":
        page.keyboard.press("d")
    look("tray")
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    for name in ("The whole set", "History"):
        page.get_by_role("button", name=name).click()
    page.get_by_role("list", name="Versions").wait_for()
    look("bench")
    page.keyboard.press("?")
    page.get_by_role("dialog").wait_for()
    look("help")
    page.keyboard.press("Escape")
    page.keyboard.press("a")
    page.get_by_role("heading", name="Assay").wait_for()
    look("assay")
    page.goto(f"/p/{PROJECT}/routing/{made['id']}")
    page.get_by_role("grid").or_(page.get_by_role("table")).first.wait_for()
    look("routing")
    body = {"sets": [made["id"]], "targets": ["engine-loose-down"]}
    ended(server, server.post(f"/projects/{PROJECT}/deliveries", json=body).json(), "/deliveries")
    server.put(f"/projects/{PROJECT}", json={"delivers_changes": True})
    page.goto(f"/p/{PROJECT}/delivery?set={made['id']}")
    page.get_by_role("region", name="Delivered before").wait_for()
    page.get_by_text("By itself: delivers every change").wait_for()
    page.get_by_label("glTF 2.0").check()
    page.get_by_label("Where files for glTF 2.0 go").wait_for()
    look("delivery")
    server.put(f"/projects/{PROJECT}", json={"delivers_changes": False})
    page.goto(f"/p/{PROJECT}/intake")
    with_files(page, tmp_path)
    look("intake")
    assert not any(found.values()), found
