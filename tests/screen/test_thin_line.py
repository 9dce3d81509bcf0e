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
    expect(page.get_by_label("What drap à fleurs.png is")).to_have_value("photo")
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
    page.get_by_role("checkbox", name="drap à fleurs").check()
    page.get_by_role("checkbox", name="Game engine").check()
    expect(page.get_by_role("heading", name="3 files")).to_be_visible()
    page.get_by_role("button", name="Deliver").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download zip").click()
    archive = zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes()))

    out = tmp_path / "out"
    done = CliRunner().invoke(app, ["make", str(photo), "--target", "engine-orm-down", "--out", str(out)])
    assert done.exit_code == 0
    assert {path.name: path.read_bytes() for path in out.iterdir()} == {
        name.split("/")[-1]: archive.read(name) for name in archive.namelist()
    }
