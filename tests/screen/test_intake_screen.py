"""Intake in a real browser: channels by hand, a source remembered, the light test, rivals, undo, and thousands of files."""

import io
import re
import zipfile

import numpy as np
from demo_sets import PROJECT, make_set
from hands import choose, pick
from PIL import Image
from playwright.sync_api import expect
from psd_tools import PSDImage
from test_bench import DRAWN, seen

from copper_sieve.core.target.naming import name_of_copy
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode, read_bytes

INTAKE = f"/p/{PROJECT}/intake"
GRAY = np.random.default_rng(20).integers(60, 190, (48, 48)).astype(np.uint8)
COLOR = np.random.default_rng(21).integers(30, 220, (48, 48, 3)).astype(np.uint8)


def give(page, folder, files: dict[str, np.ndarray]) -> None:
    for name, codes in files.items():
        (folder / name).write_bytes(encode(codes, name.rpartition(".")[2]))
    page.get_by_label("Choose files").set_input_files([folder / name for name in files])
    patience = 30_000 + 300 * len(files)  # reading each takes its time where others work too
    expect(page.locator("tr[data-file]")).to_have_count(min(200, len(files)), timeout=patience)
    page.wait_for_function("!document.querySelector('progress')", timeout=patience)


def document(**told: np.ndarray) -> bytes:
    """A layered document of gray or color pictures, the last on top."""
    drawn, kept = PSDImage.new("RGB", (48, 48)), io.BytesIO()
    for name, codes in told.items():
        drawn.create_pixel_layer(Image.fromarray(codes).convert("RGBA"), name=name)
    drawn.save(kept)
    return kept.getvalue()


def made(server, name: str) -> dict:
    return next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["name"] == name)


def reads(server, name: str) -> dict[str, tuple]:
    return {s["name"]: (s["reads"], s["spans"], s["green"]) for s in made(server, name)["recipe"]["sources"].values()}


def test_channels_are_named_by_hand_and_one_is_turned_over(page, server, tmp_path):
    page.goto(INTAKE)
    give(page, tmp_path, {"cuff_basecolor.png": COLOR, "cuff_x.png": np.dstack([GRAY, GRAY[::-1], GRAY.T])})
    page.get_by_role("row", name="cuff_x.png").focus()
    page.keyboard.press("c")
    page.keyboard.press("Enter")
    for letter, kind in (("R", "roughness"), ("B", "occlusion")):
        choose(page.get_by_label(f"What {letter} holds"), kind)
    page.get_by_label("inverted").first.check()
    page.get_by_label("Set of cuff_x.png").fill("cuff")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="cuff")).to_be_visible()
    assert reads(server, "cuff")["cuff_x.png"] == ({"R": "roughness", "B": "occlusion"}, {"R": [1, 0]}, None)


def test_a_file_is_read_as_a_target_names_it_and_saved_as_grays(page, tmp_path):
    page.goto(INTAKE)
    give(page, tmp_path, {"belt 4711.png": np.dstack([GRAY, GRAY[::-1], GRAY.T])})
    page.get_by_role("row", name="belt 4711.png").focus()
    page.keyboard.press("Enter")
    pick(page, "Read it as the file of a target", "Occlusion · roughness · metallic — Game engine, O·R·M packed, Y−")
    expect(page.get_by_label("What R holds")).to_have_attribute("data-key", "occlusion")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the channels as grays").click()
    assert saved.value.suggested_filename.endswith(".zip")


def test_taking_many_in_says_how_far_it_is_and_can_be_stopped(page, server, tmp_path):
    page.goto(INTAKE)
    give(page, tmp_path, {f"button{k}_basecolor.png": COLOR for k in range(3)})
    held = []
    page.route(
        "**/api/projects/*/sets", lambda route: held.append(route) if route.request.method == "POST" else route.continue_()
    )
    page.get_by_role("button", name="Take in 3 sets").click()
    expect(page.get_by_role("status").filter(has_text="Taking in 1 of 3")).to_be_visible()
    assert page.locator("tr[data-file]").first.evaluate("row => !!row.closest('[inert]')")  # a word would come too late
    page.get_by_role("button", name="Stop", exact=True).click()
    held.pop().continue_()
    expect(page.get_by_role("button", name="Take in 2 sets")).to_be_enabled()  # the others are still here
    assert held == [] and made(server, "button0")["masters"]
    page.get_by_role("button", name="Take in 2 sets").click()
    page.get_by_role("link", name="Tray").click()
    held.pop().continue_()
    page.unroute("**/api/projects/*/sets")
    expect(page.get_by_role("status").filter(has_text="2 sets are taken in")).to_be_visible()  # whoever left is not led away
    expect(page).to_have_url(re.compile("/tray$"))


def test_the_lit_view_is_made_ready_while_the_table_is_read(page, tmp_path):
    page.goto(INTAKE)
    page.evaluate("localStorage.setItem('look of the bench', 'pair')")
    page.reload()
    asked = []
    page.on("request", lambda one: asked.append(one.post_data_json) if one.url.endswith("/previews") else None)
    give(page, tmp_path, {"spangle_photo.png": COLOR})
    page.wait_for_function("performance.getEntriesByType('resource').some(({ name }) => name.includes('LitStage'))")
    page.get_by_role("button", name="Take in 1 set").click()
    page.wait_for_function(DRAWN)
    picture = seen(page)
    rows, columns = picture.shape
    lit = picture[rows * 2 // 5 : rows * 3 // 5, columns * 7 // 10 : columns * 4 // 5]
    assert lit.std() > 0.03 and lit.mean() > 0.1  # the photo's grain, not the plain body that was made ready
    pictures = [(one["wanted"], one["size"]) for one in asked]
    assert set(pictures[:2]) == {("height", 512), ("lit", 256)} and len(set(pictures)) == len(pictures)  # each once


def test_a_set_is_looked_at_before_it_is_taken_in_and_is_there_at_once(page, server, tmp_path):
    page.goto(INTAKE)
    with page.expect_response("**/api/previews"):
        give(page, tmp_path, {"hem_photo.png": COLOR})
    assert not any(one["name"] == "hem" for one in server.get(f"/projects/{PROJECT}/sets").json())
    held = []
    page.route("**/api/previews", lambda route: held.append(route))  # whatever is asked for now never comes
    page.get_by_role("button", name="Take in 1 set").click()
    page.wait_for_function("""() => {
      const picture = document.querySelector('[data-testid=viewer] canvas[role=img]');
      const row = picture?.width && picture.getContext('2d').getImageData(0, picture.height / 2, picture.width, 1);
      return row && new Set(row.data).size > 20;
    }""")
    assert made(server, "hem")["recipe"]["facts"]["rise_from"] == "fitted"


def test_a_source_is_remembered_and_its_next_delivery_needs_no_word(page, server, tmp_path):
    page.goto(INTAKE)
    give(page, tmp_path, {"hem-a.qx.png": GRAY, "hem-a.qy.png": 255 - GRAY})
    held = []
    page.route("**/api/arrangements", lambda route: held.append(route))
    for name, key in (("hem-a.qx.png", "l"), ("hem-a.qy.png", "h")):
        page.get_by_role("row", name=name).focus()
        page.keyboard.press(key)
        page.get_by_label(f"Set of {name}").fill("hem-a")
    page.get_by_label("Name of this source").fill("Hemmer")
    page.get_by_role("button", name="Save as source").click()  # while it is still asked where the files go
    held.pop().continue_()
    page.unroute("**/api/arrangements")
    expect(page.get_by_text("2 endings learned")).to_be_visible()
    page.reload()
    give(page, tmp_path, {"hem-b.qx.png": GRAY.T.copy(), "hem-b.qy.png": GRAY[::-1].copy()})
    expect(page.get_by_label("Source", exact=True)).to_have_attribute("data-key", "Hemmer")
    expect(page.get_by_label("What hem-b.qx.png is")).to_have_attribute("data-key", "gloss")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="hem-b")).to_be_visible()
    assert reads(server, "hem-b")["hem-b.qx.png"][0] == {"L": "gloss"}
    server.delete("/profiles/Hemmer")


def test_the_light_test_shows_both_readings_and_a_click_decides(page, tmp_path):
    files = next(m for m in MATERIALS if m.name == "Gilt brocade").files(128)
    page.goto(INTAKE)
    give(page, tmp_path, {f.name.replace("Gilt", "Test"): f.codes for f in files})
    row = page.get_by_role("row", name="Test brocade_normal.png", exact=True)
    expect(page.get_by_label("Green of Test brocade_normal.png")).to_have_attribute("data-key", "down")
    row.focus()
    page.keyboard.press("Enter")
    readings = page.get_by_role("radiogroup", name="Light test of Test brocade_normal.png")
    expect(readings.get_by_role("radio", name="Read as Y−")).to_be_checked()
    readings.get_by_role("radio", name="Read as Y+").click()
    expect(page.get_by_label("Green of Test brocade_normal.png")).to_have_attribute("data-key", "up")
    page.get_by_role("heading", name="4 files, 1 set").click()
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Green of Test brocade_normal.png")).to_have_attribute("data-key", "down")


def test_a_file_that_is_stored_worse_steps_back(page, server, tmp_path):
    page.goto(INTAKE)
    give(page, tmp_path, {"sash_basecolor.png": COLOR, "sash_rough.png": GRAY, "sash_gloss.png": GRAY[::2, ::2].copy()})
    expect(page.get_by_role("row", name="sash_gloss.png")).to_contain_text("sash_rough.png holds it too and is stored better")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="sash")).to_be_visible()
    assert set(reads(server, "sash")) == {"sash_basecolor.png", "sash_rough.png"}


def test_hundreds_of_files_leave_the_screen_usable(page, tmp_path):
    """More rows than are drawn at first: all are counted, the rest is shown when asked for, a key still answers."""
    page.goto(INTAKE)
    give(page, tmp_path, {f"scrap{k}_rough.png": np.roll(GRAY[:8, :8], k, 0) + np.uint8(k % 50) for k in range(240)})
    expect(page.get_by_role("heading", name="240 files, 240 sets")).to_be_visible()
    page.get_by_role("button", name="Show more of 240 rows").click()
    expect(page.locator("tr[data-file]")).to_have_count(240)
    page.locator("tr[data-file]").first.focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator("tr[data-file]").nth(1)).to_be_focused()


def test_a_chosen_folder_brings_each_asset_that_lies_in_it(page, tmp_path):
    for asset, codes in (("Felt", COLOR), ("Loden vert", COLOR[::-1])):
        folder = tmp_path / "cloaks" / asset / "maps"
        folder.mkdir(parents=True)
        (folder / "albedo.png").write_bytes(encode(codes, "png"))
        (folder / ".DS_Store").write_bytes(b"kept by the system")
    page.goto(INTAKE)
    page.get_by_label("Choose a folder").set_input_files(tmp_path / "cloaks")
    expect(page.locator("tr[data-file]")).to_have_count(2)
    for asset in ("Felt", "Loden vert"):
        expect(page.get_by_label(f"Name of the set {asset}")).to_have_value(asset)


def test_a_linked_folder_is_followed_without_a_reload(page, server, data):
    folder = data / "linked" / "Ruche"
    folder.mkdir()
    (folder / "ruche_basecolor.png").write_bytes(encode(COLOR, "png"))
    page.goto(INTAKE)
    choose(page.get_by_label("A folder on the server"), "Ruche (1)")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="ruche")).to_be_visible()
    lineage = page.get_by_role("region", name="Lineage")
    expect(lineage.get_by_text("was changed in its folder")).to_have_count(0)
    (folder / "ruche_basecolor.png").write_bytes(encode(255 - COLOR, "png"))
    expect(lineage.get_by_text("was changed in its folder")).to_be_visible()
    lineage.get_by_role("button", name="Take the newer files").click()
    expect(lineage.get_by_text("was changed in its folder")).to_have_count(0)
    texel = server.post("/probes", json={"recipe": made(server, "ruche")["recipe"], "x": 0, "y": 0, "size": 48}).json()
    assert texel["codes"]["base_color"] == "#" + (255 - COLOR[0, 0]).tobytes().hex().upper()


def test_a_targets_own_files_are_read_by_its_table_with_one_press(page, server, tmp_path):
    """Named and built as the M·R·A target does, in an alphabet of pixels that would be read otherwise."""
    page.goto(INTAKE)
    packed = np.dstack([GRAY, GRAY[::-1], GRAY.T])
    give(page, tmp_path, {"tippet_BC.tga": COLOR, "tippet_MRA.tga": packed})
    row = page.get_by_role("row", name="tippet_MRA.tga")
    row.focus()
    page.keyboard.press("r")  # a person takes it for roughness by mistake
    page.get_by_role("button", name="Read them as its files").click()
    expect(row).to_contain_text("R metallic · G roughness · B ambient occlusion")
    expect(page.get_by_role("button", name="Read them as its files")).to_have_count(0)
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="tippet")).to_be_visible()
    assert reads(server, "tippet")["tippet_MRA.tga"][0] == {"R": "metallic", "G": "roughness", "B": "occlusion"}


def test_another_shape_is_cropped_with_one_press_and_another_source_keeps_corrections(page, server, tmp_path):
    taught = [{"sha256": "0" * 64, "name": f"a_{word}.png", "kind": "height", "reads": {"L": "height"}} for word in ("qz", "qw")]
    assert server.put("/profiles/Dyer", json={"sets": [taught]}).is_success
    page.goto(INTAKE)
    give(page, tmp_path, {"stole_basecolor.png": COLOR, "stole_rough.png": np.tile(GRAY, (1, 2)), "stole_qz.png": GRAY.T.copy()})
    row = page.get_by_role("row", name="stole_rough.png")
    row.get_by_role("button", name="Crop it").click()
    expect(row.get_by_role("button", name="Crop it")).to_have_count(0)
    choose(page.get_by_label("Source", exact=True), "Dyer")
    expect(page.get_by_text("1 of your corrections kept")).to_be_visible()
    expect(page.get_by_label("What stole_qz.png is")).to_have_attribute("data-key", "height")
    expect(row.get_by_role("button", name="Crop it")).to_have_count(0)
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="stole")).to_be_visible()
    fits = {s["name"]: s["fit"] for s in made(server, "stole")["recipe"]["sources"].values()}
    assert fits["stole_rough.png"] == "crop" and fits["stole_basecolor.png"] is None
    server.delete("/profiles/Dyer")


def test_a_normal_known_by_its_picture_joins_its_set_and_one_bad_file_stops_nothing(page, server, tmp_path):
    normal = next(f for f in MATERIALS[1].files(48) if f.kind == "normal").codes
    page.goto(INTAKE)
    (tmp_path / "cut.png").write_bytes(encode(COLOR, "png")[:300])
    give(page, tmp_path, {"jabot_nn.png": normal, "jabot_col.png": COLOR})
    page.get_by_label("Choose files").set_input_files([tmp_path / "cut.png"])
    expect(page.get_by_role("row", name="cut.png")).to_contain_text("cut off")
    expect(page.get_by_label("Set of jabot_nn.png")).to_have_value("jabot")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="jabot")).to_be_visible()
    assert set(reads(server, "jabot")) == {"jabot_nn.png", "jabot_col.png"}


def test_a_picture_named_like_its_set_alone_is_its_color_until_somebody_says_it_is_a_photo(page, server, tmp_path):
    normal = next(f for f in MATERIALS[1].files(48) if f.kind == "normal").codes
    page.goto(INTAKE)
    give(page, tmp_path, {"plastron.png": np.dstack([GRAY] * 3)})
    row, kind = page.get_by_role("row", name="plastron.png"), page.get_by_label("What plastron.png is")
    expect(row).to_contain_text("was left out")
    give(page, tmp_path, {"plastron_nm.png": normal})
    expect(kind).to_have_attribute("data-key", "base_color")
    expect(row).not_to_contain_text("was left out")
    row.focus()
    page.keyboard.press("p")
    expect(kind).to_have_attribute("data-key", "photo")
    page.keyboard.press("Control+z")
    expect(kind).to_have_attribute("data-key", "base_color")
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="plastron")).to_be_visible()
    assert reads(server, "plastron")["plastron.png"][0] == {"RGB": "base_color"}


def test_a_layered_document_comes_in_by_its_layers_or_as_it_was_seen(page, server, tmp_path):
    colored, gray = np.roll(COLOR, 3, 1), np.dstack([GRAY] * 3)
    (tmp_path / "moiré.psd").write_bytes(document(roughness=gray, basecolor=colored))
    page.goto(INTAKE)
    page.get_by_label("Choose files").set_input_files(tmp_path / "moiré.psd")
    expect(page.get_by_role("button", name="Take in 1 set")).to_be_visible()
    expect(page.get_by_label("What moiré_roughness.tif is")).to_have_attribute("data-key", "roughness")
    taken = page.get_by_label("What of moiré.psd is taken")
    choose(taken, "merged")
    expect(page.get_by_label("What moiré_roughness.tif is")).to_have_count(0)
    choose(taken, "layers")
    expect(page.get_by_label("What moiré_roughness.tif is")).to_be_visible()
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="moiré")).to_be_visible()
    recipe = made(server, "moiré")["recipe"]
    assert sorted(source["name"] for source in recipe["sources"].values()) == ["moiré_basecolor.tif", "moiré_roughness.tif"]
    texel = server.post("/probes", json={"recipe": recipe, "x": 0, "y": 0, "size": 48}).json()
    assert texel["codes"]["base_color"] == "#" + colored[0, 0].tobytes().hex().upper()


def test_a_picture_of_the_surroundings_is_kept_as_light_with_one_press(page, server, tmp_path):
    page.goto(INTAKE)
    sky = np.tile(np.linspace(0, 9, 128, dtype=np.float32)[None, :, None], (64, 1, 3))
    give(page, tmp_path, {"studio.exr": sky})
    row = page.get_by_role("row", name="studio.exr")
    row.get_by_role("button", name="Keep as light for the view").click()
    expect(row).to_contain_text("Left out")
    (kept,) = [one for one in server.get(f"/projects/{PROJECT}/environments").json() if one["name"] == "studio.exr"]
    server.delete(f"/environments/{kept['id']}")


def test_a_set_saved_as_a_file_is_taken_in_again_with_all_that_was_done_to_it(page, server, tmp_path):
    made = make_set(server, "Saved", {"base_color": np.full((32, 32, 3), 120, np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="The whole set").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the set as a file").click()
    assert download.value.suggested_filename == f"{made['name']}.set.zip"
    download.value.save_as(tmp_path / "saved.set.zip")
    page.get_by_role("link", name="Intake").click()
    page.get_by_label("Choose files").set_input_files(tmp_path / "saved.set.zip")
    expect(page.get_by_role("group", name="saved.set.zip")).to_contain_text(f"holds a saved set: {made['name']}")
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("heading", name=name_of_copy(made["name"], [made["name"]]))).to_be_visible()  # on the bench
    again = server.get(f"/sets/{page.url.rpartition('/')[2]}").json()
    assert again["recipe"] == server.get(f"/sets/{made['id']}").json()["recipe"]
    (tmp_path / "cut.set.zip").write_bytes((tmp_path / "saved.set.zip").read_bytes()[:-30])
    page.get_by_role("link", name="Intake").click()
    page.get_by_label("Choose files").set_input_files(tmp_path / "cut.set.zip")
    expect(page.get_by_role("row", name="cut.set.zip").get_by_text("begins as a zip but cannot be opened")).to_be_visible()


def test_pictures_come_in_another_format_without_becoming_a_set(page, server, tmp_path):
    before = len(server.get(f"/projects/{PROJECT}/sets").json())
    gray = np.random.default_rng(22).integers(60, 190, (128, 128)).astype(np.uint8)
    page.goto(INTAKE)
    give(page, tmp_path, {"kilt_basecolor.png": COLOR, "kilt_height.tga": gray})
    page.get_by_role("button", name="Only another format or size").click()
    page.get_by_role("combobox", name="Format to write").click()
    page.get_by_role("option", name="TIFF").click()
    page.get_by_role("combobox", name="Depth to write").click()
    page.get_by_role("option", name="16 bit").click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Save as one zip").click()
    with zipfile.ZipFile(coming.value.path()) as archive:
        assert sorted(archive.namelist()) == ["kilt_basecolor.tif", "kilt_height.tif"]
        codes = read_bytes(archive.read("kilt_height.tif"), "kilt_height.tif").codes
    assert np.array_equal(codes, gray.astype(np.uint16) * 257)
    page.get_by_role("combobox", name="Longer side to write").click()
    page.get_by_role("option", name="at most 64 px").click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Save as one zip").click()
    with zipfile.ZipFile(coming.value.path()) as archive:
        codes = read_bytes(archive.read("kilt_height.tif"), "kilt_height.tif").codes
    wanted = gray.reshape(64, 2, 64, 2).mean((1, 3)) * 257  # no code of 8 bits between
    assert np.abs(codes - wanted).max() <= 1
    assert len(server.get(f"/projects/{PROJECT}/sets").json()) == before


def test_what_a_library_lays_beside_its_maps_makes_no_set_and_waits_for_nobody(page, server, tmp_path):
    project = server.post("/projects", json={"title": "From a library"}).json()["name"]
    hue = np.linspace(40, 200, 48).astype(np.uint8)
    color = np.dstack([np.tile(hue, (48, 1)), np.tile(hue[:, None], (1, 48)), np.full((48, 48), 90, np.uint8)])
    maps = {"Color": color, "Roughness": GRAY, "Displacement": GRAY[::-1], "Preview": color // 2}
    with zipfile.ZipFile(tmp_path / "Serge021_2K.zip", "w") as archive:
        for word, codes in maps.items():
            archive.writestr(f"Serge021_2K_{word}.png", encode(np.ascontiguousarray(codes), "png"))
        archive.writestr("Serge021.png", encode(color // 3, "png"))
        archive.writestr("Serge021_2K.mtlx", "<materialx/>")
        archive.writestr("license.txt", "free to use")
    page.goto(f"/p/{project}/intake")
    page.get_by_label("Choose files").set_input_files(tmp_path / "Serge021_2K.zip")
    expect(page.get_by_role("heading", name="5 files, 1 set")).to_be_visible()
    expect(page.get_by_text("it shows the material, whose color Serge021_2K_Color.png gives")).to_have_count(2)
    expect(page.get_by_text("2 files are no pictures and stay out: Serge021_2K.mtlx, license.txt")).to_be_visible()
    preview = page.locator("tr", has=page.get_by_role("button", name="Serge021_2K_Preview.png"))
    preview.get_by_role("button", name="Make it a set of its own").click()
    expect(page.get_by_role("heading", name="5 files, 2 sets")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="5 files, 1 set")).to_be_visible()
    page.get_by_role("button", name="Take in 1 set").click()
    page.wait_for_url(re.compile("/bench/"))
    (made,) = server.get(f"/projects/{project}/sets").json()
    assert {row["name"] for row in made["recipe"]["sources"].values()} == {
        f"Serge021_2K_{word}.png" for word in ("Color", "Roughness", "Displacement")
    }
    page.get_by_role("link", name="Intake").click()
    expect(page.get_by_role("heading", name="Intake")).to_be_visible()  # nothing stays behind
