"""The real interface in headless Chromium: drop a photo, take the defaults, deliver, unzip."""

import io
import zipfile

import numpy as np
from playwright.sync_api import expect
from typer.testing import CliRunner

from copper_sieve.cli import app
from copper_sieve.files import encode


def test_drop_take_in_move_undo_deliver_unzip(page, tmp_path):
    codes = np.random.default_rng(9).integers(0, 255, (128, 128, 3)).astype(np.uint8)
    photo = tmp_path / "drap à fleurs.png"
    photo.write_bytes(encode(codes, "png"))
    (tmp_path / "notes.png").write_text("no picture")
    page.goto("/")
    page.get_by_role("link", name="Intake").click()
    page.get_by_label("Choose files").set_input_files([photo, tmp_path / "notes.png"])
    expect(page.get_by_label("What drap à fleurs.png is")).to_have_attribute("data-key", "photo")
    expect(page.get_by_text("not read")).to_be_visible()
    page.get_by_role("button", name="Take in 1 set").click()

    expect(page.get_by_role("heading", name="drap à fleurs")).to_be_visible()
    expect(page.get_by_test_id("viewer")).to_have_attribute("data-state", "ready")
    picture = "() => document.querySelector('[data-testid=viewer] canvas').toDataURL()"
    before = page.evaluate(picture)
    page.get_by_role("slider", name="Contrast").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.wait_for_function(f"before => ({picture})() !== before", arg=before)
    page.get_by_role("button", name="Undo").click()
    page.wait_for_function(f"before => ({picture})() === before", arg=before)

    page.get_by_role("link", name="Delivery").click()
    expect(page.get_by_role("checkbox", name="drap à fleurs", exact=True)).to_be_checked()  # the set in hand goes along
    page.get_by_role("button", name="Targets: none").click()
    page.get_by_role("checkbox", name="Game engine, O·R·M").check()
    page.get_by_role("button", name="Deliver 3 files").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download zip").click()
    archive = zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes()))

    out = tmp_path / "out"
    done = CliRunner().invoke(app, ["make", str(photo), "--target", "engine-orm-down", "--out", str(out)])
    assert done.exit_code == 0
    assert {path.name: path.read_bytes() for path in out.iterdir()} == {
        name.split("/")[-1]: archive.read(name) for name in archive.namelist() if "hand-over" not in name
    }


def tab_to(page, name: str) -> None:
    """Go on by Tab until what has the focus is called ``name``."""
    said = """() => {
      const e = document.activeElement;
      return e.getAttribute('aria-label') ?? e.closest('label')?.textContent ?? e.textContent;
    }"""
    for _ in range(80):
        page.keyboard.press("Tab")
        if (page.evaluate(said) or "").strip().startswith(name):
            return
    raise AssertionError(f"Tab never came to {name}")


def test_the_same_by_keyboard_alone(page, tmp_path):
    photo = tmp_path / "serge.png"
    photo.write_bytes(encode(np.random.default_rng(10).integers(0, 255, (64, 96, 3)).astype(np.uint8), "png"))
    page.goto("/")
    expect(page.get_by_role("heading", name="sets")).to_be_visible()
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Intake")).to_be_visible()
    with page.expect_file_chooser() as chooser:
        tab_to(page, "Choose files")
        page.keyboard.press("Enter")
    chooser.value.set_files(photo)
    expect(page.get_by_role("row", name="serge.png")).to_be_visible()
    expect(page.get_by_role("button", name="Take in 1 set")).to_be_enabled()
    tab_to(page, "Take in 1 set")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="serge")).to_be_visible()
    expect(page.get_by_role("slider", name="Contrast")).to_be_visible()
    tab_to(page, "Contrast")
    page.keyboard.press("End")
    expect(page.get_by_role("textbox", name="Contrast, number")).to_have_value("3.00")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("textbox", name="Contrast, number")).to_have_value("1.00")
    page.keyboard.press("5")
    expect(page.get_by_role("checkbox", name="serge", exact=True)).to_be_checked()
    tab_to(page, "Targets: none")
    page.keyboard.press("Enter")
    tab_to(page, "glTF")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Deliver 5 files")).to_be_enabled()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("Written and read back equal")).to_be_visible()
    before = page.get_by_role("region", name="Delivered before")
    expect(before.get_by_role("row", name="serge")).to_contain_text("delivered")
