"""The board of holes as a person edits it: the first change makes a copy, and the copy is what is delivered."""

import re
import zipfile

import httpx
import numpy as np
import pytest
from demo_sets import PROJECT
from hands import choose, pick
from playwright.sync_api import expect

from asking import ended
from copper_sieve.files import encode, layer_names, read
from copper_sieve.targets import shipped_target


@pytest.fixture()
def board(page, server):
    page.goto(f"/p/{PROJECT}/routing?target=engine-orm-down")
    expect(page.get_by_text("Shipped: the first change makes a copy")).to_be_visible()
    yield page
    for row in server.get("/targets").json():
        if row["is_own"]:
            server.delete(f"/targets/{row['target']['key']}")


def own(server: httpx.Client) -> dict:
    return next(row["target"] for row in server.get("/targets").json() if row["is_own"])


def test_a_click_on_an_empty_hole_routes_a_master_there_in_a_copy(board, server):
    board.get_by_role("button", name="Feed Occlusion · roughness · metallic, B from Height").click()
    expect(board.get_by_text("Your own, version 2")).to_be_visible()
    orm = next(file for file in own(server)["files"] if file["role"] == "orm")
    assert orm["channels"]["B"]["quantity"] == "height" and orm["channels"]["G"]["quantity"] == "roughness"
    board.get_by_label("Inverted").click()
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    choose(board.get_by_label("Fed from"), "constant")
    expect(board.get_by_text("Your own, version 4")).to_be_visible()
    board.get_by_label("Constant", exact=True).fill("0.25")
    board.get_by_label("Constant", exact=True).press("Enter")
    expect(board.get_by_text("Your own, version 5")).to_be_visible()
    assert next(file for file in own(server)["files"] if file["role"] == "orm")["channels"]["B"]["constant"] == 0.25


def test_the_keyboard_alone_walks_feeds_and_turns_over(board, server):
    board.get_by_role("button", name="Base color, R:").focus()
    for key in ("ArrowRight",) * 7:
        board.keyboard.press(key)
    board.keyboard.press("ArrowDown")
    focused = board.evaluate("document.activeElement.getAttribute('aria-label')")
    assert focused.startswith("Feed Occlusion · roughness · metallic, G from Opacity"), focused
    board.keyboard.press("Enter")
    expect(board.get_by_text("Your own, version 2")).to_be_visible()
    board.get_by_role("button", name="Occlusion · roughness · metallic, G: Opacity").focus()
    board.keyboard.press("i")
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    channel = next(file for file in own(server)["files"] if file["role"] == "orm")["channels"]["G"]
    assert (channel["quantity"], channel["invert"]) == ("opacity", True)


def test_a_file_is_named_for_every_set_and_keeps_to_a_size(board, server):
    board.get_by_role("button", name="Normal, R:").click()
    panel = board.get_by_role("region", name="File Normal")
    panel.get_by_text("Size, padding, rounding").click()
    panel.get_by_label("Longest side in px").fill("32")
    panel.get_by_label("Longest side in px").press("Enter")
    expect(board.get_by_text("32 × 32")).to_be_visible()
    choose(panel.get_by_label("Color or data"), "acescg")
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    normal = own(server)["files"][1]
    assert (normal["size_cap"], normal["color"], normal["primaries"]) == (32, "linear", "acescg")
    board.get_by_text("Normal for the other").click()
    expect(board.get_by_text("Lace trim_N.tga", exact=True)).to_be_visible()


def test_a_file_is_added_named_by_chips_and_dropped_again(board, server):
    pick(board, "Add a file", "Height")
    expect(board.get_by_text("Your own, version 2")).to_be_visible()
    added = own(server)["files"][-1]
    assert (added["word"], added["format"], added["name"]) == ("H", "tga", own(server)["files"][0]["name"])
    board.get_by_role("button", name="Height, L:").click()
    panel = board.get_by_role("region", name="File Height")
    panel.get_by_label("Add text to the name").fill(" tall")
    panel.get_by_label("Add text to the name").press("Enter")
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    expect(board.get_by_text("Quilted satin_H tall.tga", exact=True)).to_be_visible()
    panel.get_by_label("Depth").click()
    expect(board.get_by_role("option")).to_have_text([re.compile("8 bit")])  # TGA holds no other
    board.keyboard.press("Escape")
    choose(panel.get_by_label("Format"), "png")
    expect(board.get_by_text("Quilted satin_H tall.png", exact=True)).to_be_visible()
    panel.get_by_role("button", name="Drop this file").click()
    expect(board.get_by_role("button", name="Height, L:")).to_have_count(0)
    assert [file["role"] for file in own(server)["files"]] == ["base_color", "normal", "orm", "emissive"]


def test_a_target_comes_back_from_its_file_under_another_title(board, server):
    text = server.get("/targets/engine-orm-down/file").text.replace("Game engine, O·R·M packed, Y−", "Wardrobe, packed")
    field = board.get_by_label("Target from a file")
    field.set_input_files({"name": "wardrobe.toml", "mimeType": "application/toml", "buffer": text.encode()})
    expect(board.get_by_label("Title of the target")).to_have_value("Wardrobe, packed")
    field.set_input_files({"name": "twin.toml", "mimeType": "application/toml", "buffer": text.encode()})
    expect(board.get_by_role("alert").filter(has_text="no two look alike")).to_be_visible()
    board.get_by_role("button", name="Remove").click()
    expect(board.get_by_text("Shipped: the first change makes a copy")).to_be_visible()


def test_a_file_packed_in_another_order_comes_in_by_the_board_and_goes_out_right(board, server, data, tmp_path):
    rng = np.random.default_rng(8)
    height, width = 40, 56
    rough, metal, occlusion = (rng.integers(0, 256, (height, width)).astype(np.uint8) for _ in range(3))
    color, lean = (
        rng.integers(0, 256, (height, width, 3)).astype(np.uint8),
        np.full((height, width, 3), (140, 100, 250), np.uint8),
    )
    board.get_by_role("button", name="Feed Occlusion · roughness · metallic, R from Roughness").click()  # theirs holds R·M·O
    expect(board.get_by_text("Your own, version 2")).to_be_visible()
    board.get_by_role("button", name="Feed Occlusion · roughness · metallic, G from Metallic").click()
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    board.get_by_role("button", name="Feed Occlusion · roughness · metallic, B from Ambient occlusion").click()
    expect(board.get_by_text("Your own, version 4")).to_be_visible()
    board.get_by_role("radio", name="Files in").click()
    theirs = {"BC": color, "N": lean, "ORM": np.dstack([rough, metal, occlusion]), "notes": rough}
    for word, codes in theirs.items():
        (tmp_path / f"Çelik_{word}.tga").write_bytes(encode(codes, "tga"))
    board.get_by_label("Choose this target’s files").set_input_files(sorted(tmp_path.iterdir()))
    expect(board.get_by_label("Name of the set")).to_have_value("Çelik")
    expect(board.get_by_role("img", name="Metallic from Occlusion · roughness · metallic, G")).to_be_visible()
    choose(board.get_by_label("Which file Çelik_notes.tga is"), "emissive")
    expect(board.get_by_text("Çelik_notes.tga has 1 channel; this file of the target has 3.")).to_be_visible()
    board.get_by_role("button", name="Take in").click()
    board.wait_for_url("**/bench/**")
    made = next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["name"] == "Çelik")
    target = shipped_target("engine-orm-down")
    run = server.post(f"/projects/{PROJECT}/deliveries", json={"sets": [made["id"]], "targets": [target.key]}).json()
    run = ended(server, run, "/deliveries")
    folder = data / "screen" / "deliveries" / run["folder"] / "Çelik" / target.key
    assert (read(folder / "Çelik_ORM.tga").codes == np.dstack([occlusion, rough, metal])).all()
    assert (read(folder / "Çelik_N.tga").codes == lean).all() and (read(folder / "Çelik_BC.tga").codes == color).all()


def test_maps_go_out_as_layers_of_one_exr_and_come_back_by_their_names(board, server, data, tmp_path):
    for title in ("Base color", "Normal"):
        board.get_by_role("button", name=f"{title}, R:").click()
        panel = board.get_by_role("region", name=f"File {title}")
        choose(panel.get_by_label("Format"), "exr")
        field = panel.get_by_label("Map word of the layered file")
        expect(field).to_be_enabled()
        field.fill("layers")
        field.press("Enter")
        expect(field).to_have_value("layers")
    expect(board.get_by_text("Quilted satin_layers.exr").first).to_be_visible()
    board.keyboard.press("Control+Enter")
    link = board.get_by_role("link", name="Download zip")
    link.wait_for()
    with board.expect_download() as zipped:
        link.click()
    zipped.value.save_as(tmp_path / "out.zip")
    with zipfile.ZipFile(tmp_path / "out.zip") as archive:
        name = next(one for one in archive.namelist() if one.endswith("layers.exr"))
        (tmp_path / "Ruelle_layers.exr").write_bytes(archive.read(name))
    assert layer_names((tmp_path / "Ruelle_layers.exr").read_bytes()) == ["BC", "N"]
    board.goto(f"/p/{PROJECT}/intake")
    board.get_by_label("Choose files").set_input_files(tmp_path / "Ruelle_layers.exr")
    for word, kind in (("BC", "base_color"), ("N", "normal")):
        expect(board.get_by_label(re.compile(rf"^What \S*{word}\S* is$"))).to_have_attribute("data-key", kind)


def test_a_name_is_put_in_order_and_a_document_comes_and_goes(board, server):
    panel = board.get_by_role("region", name="File Base color")
    panel.get_by_label("Add text to the name").fill("W_")
    panel.get_by_label("Add text to the name").press("Enter")
    expect(board.get_by_text("Quilted satin_BC_W_.tga", exact=True)).to_be_visible()
    panel.get_by_label("Take _ out of the name").last.click()
    for place in (4, 3, 2):
        panel.get_by_label(f"Part {place} of 4: W_").press("ArrowLeft")
        expect(panel.get_by_label(f"Part {place - 1} of 4: W_")).to_be_visible()
    expect(board.get_by_text("W_Quilted satin_BC.tga", exact=True)).to_be_visible()
    board.get_by_role("radio", name="Long map words").click()
    expect(board.get_by_text("W_Quilted satin_basecolor.tga", exact=True)).to_be_visible()
    pick(board, "Add a document", "MaterialX, .mtlx")
    expect(board.get_by_text("MaterialX, .mtlx, 5 inputs wired")).to_be_visible()
    expect(board.get_by_text("Quilted satin.mtlx", exact=True)).to_be_visible()
    assert own(server)["documents"][0]["inputs"]["specular_roughness"] == "orm"
    board.get_by_role("button", name="Leave out MaterialX, .mtlx").click()
    expect(board.get_by_text("Quilted satin.mtlx", exact=True)).to_have_count(0)


def test_the_note_says_what_was_written_and_a_new_title_names_the_folder(board, server):
    board.get_by_text("What the hand-over note says besides").click()
    board.get_by_label("One more step").fill("Switch the sky on.")
    board.get_by_label("One more step").press("Enter")
    expect(board.get_by_label("Step 1", exact=True)).to_have_value("Switch the sky on.")
    field = board.get_by_label("Title of the target")
    field.fill("Wardrobe étude")
    field.press("Enter")
    expect(board.get_by_text("Your own, version 3")).to_be_visible()
    made = own(server)
    assert (made["key"], made["title"], made["steps"]) == ("wardrobe-etude", "Wardrobe étude", ["Switch the sky on."])
    assert [row["target"]["key"] for row in server.get("/targets").json() if row["is_own"]] == ["wardrobe-etude"]
