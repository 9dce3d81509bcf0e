"""Jobs of practitioners, from what they have to what they need, by as few moves as were promised.

A move is a click, a drop, a drag, a typed value or a key that acts. Only roles and labels are used; delivered files are read.
"""

import numpy as np
from demo_sets import make_set
from hands import choose, pick
from jobs import delivered, done, open_at, take_in_and_deliver
from playwright.sync_api import expect

from asking import eventually
from copper_sieve.core.derive import normal_from_height
from copper_sieve.demo.materials import _noise
from copper_sieve.files import read

N = 64
HEIGHT = np.clip(0.5 + 0.25 * _noise(N, 4, 5), 0, 1)
COLOR = (np.stack([0.2 + 0.5 * HEIGHT, 0.2 + 0.4 * HEIGHT, 0.15 + 0.3 * HEIGHT], -1) * 255).astype(np.uint8)
GRAY = (HEIGHT * 255).astype(np.uint8)
HOLES = np.where(HEIGHT > 0.5, 255, 0).astype(np.uint8)
UP = ((normal_from_height(HEIGHT, 0.08) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
METAL = np.where(HEIGHT > 0.55, 255, 0).astype(np.uint8)


def test_a_photo_to_an_engines_set(page, server, data, project):
    key = project("photo", "engine-orm-down")
    hands = open_at(page, key)
    hands.drop({"drap à fleurs.png": COLOR})
    take_in_and_deliver(hands)
    files = delivered(server, data, key)
    assert set(files) == {f"drap à fleurs_{word}.tga" for word in ("BC", "N", "ORM")}
    assert hands.moves <= 3


def test_a_perforated_set_with_its_holes_in_alpha(page, server, data, project):
    key = project("perforated", "gltf")
    hands = open_at(page, key)
    hands.drop({"lattice_basecolor.png": COLOR, "lattice_opacity.png": HOLES})
    take_in_and_deliver(hands)
    color = next(path for name, path in delivered(server, data, key).items() if "basecolor" in name.lower())
    assert set(np.unique(read(color).codes[..., 3])) == {0, 255}
    assert hands.moves <= 3


def test_a_suppliers_set_to_the_other_green_with_gloss_in_alpha(page, server, data, project):
    key = project("supplier", "arch-gloss-alpha")
    hands = open_at(page, key)
    hands.drop({"serge_albedo.png": COLOR, "serge_gloss.png": GRAY, "serge_normal.png": UP})
    take_in_and_deliver(hands)
    normal = read(next(path for name, path in delivered(server, data, key).items() if "normal" in name)).codes
    np.testing.assert_array_equal(normal[..., 3], GRAY)
    assert int(np.abs(normal[..., 1].astype(int) - (255 - UP[..., 1])).max()) <= 1
    assert hands.moves <= 3


def test_a_film_set_from_a_metallic_one(page, server, data, project):
    key = project("film", "film-specular")
    hands = open_at(page, key)
    hands.drop({"gong_basecolor.png": COLOR, "gong_metallic.png": METAL, "gong_roughness.png": GRAY, "gong_normal.png": UP})
    take_in_and_deliver(hands)
    names = delivered(server, data, key)
    assert any("spec" in name.lower() for name in names) and all(name.endswith(".exr") for name in names)
    assert hands.moves <= 3


def test_one_map_changes_and_only_its_file_is_written(page, server, data, project):
    key = project("change", "engine-loose-down")
    hands = open_at(page, key)
    hands.drop({"felt_basecolor.png": COLOR})
    take_in_and_deliver(hands)
    before = {name: path.stat().st_mtime_ns for name, path in delivered(server, data, key).items()}
    page.get_by_role("link", name="Tray").click()
    page.get_by_role("link", name="felt").click()
    page.get_by_role("button", name="Roughness").first.click()
    mean = page.get_by_role("textbox", name="Mean, number")
    expect(mean).to_be_visible()
    hands.moves = 0  # the set is in hand
    hands.type(mean, "0.9")
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_enabled()
    hands.press("Control+Enter")
    expect(page.get_by_role("button", name="Nothing to write")).to_be_visible()
    after = {name: path.stat().st_mtime_ns for name, path in delivered(server, data, key).items()}
    assert [name for name in after if after[name] != before.get(name)] == ["felt_roughness.png"]
    assert hands.moves <= 2
    page.get_by_role("link", name="Routing").click()
    page.goto(page.url.split("?")[0] + "?target=engine-loose-down")
    expect(page.get_by_role("button", name="Nothing to write")).to_be_visible()  # the same agreement as on the bench


def test_thirty_sets_to_three_targets(page, server, data, project):
    key = project("thirty", "engine-orm-down", "engine-loose-down", "gltf")
    hands = open_at(page, key)
    hands.drop({f"cloth {k:02}_basecolor.png": np.roll(COLOR, k, 0) for k in range(30)})
    take_in_and_deliver(hands)
    names = delivered(server, data, key)
    assert sum(name.startswith("cloth ") for name in names) == len(names) >= 30 * 3 * 3
    assert hands.moves <= 4


def test_files_go_into_the_set_that_they_are_dropped_on(page, server, project):
    key = project("into")
    hands = open_at(page, key)
    hands.drop({"sash_basecolor.png": COLOR})
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("heading", name="sash")).to_be_visible()
    hands.drop({"whatever_metallic.png": METAL}, page.get_by_test_id("viewer"))
    expect(page.get_by_text("Added to sash: whatever_metallic.png")).to_be_visible()
    page.get_by_role("link", name="Tray").click()
    hands.drop({"another_roughness.png": GRAY}, page.get_by_role("link", name="sash"))
    expect(page.get_by_text("Added to sash: another_roughness.png")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    assert {m["key"] for m in made["masters"] if m["origin"] == "given"} == {"base_color", "metallic", "roughness"}


def test_a_second_map_of_a_kind_waits_for_a_word_and_is_added_or_replaces(page, server, project):
    key = project("second")
    hands = open_at(page, key, "intake")
    hands.drop({"sash_basecolor.png": COLOR, "sash_roughness.png": GRAY})
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("heading", name="sash")).to_be_visible()
    hands.drop({"sash_roughness.png": 255 - GRAY}, page.get_by_test_id("viewer"))
    expect(page.get_by_text("sash is there already, with roughness of its own")).to_be_visible()
    expect(page.get_by_role("button", name="Take in 0 sets")).to_be_disabled()
    page.get_by_role("link", name="Tray").click()
    page.get_by_role("link", name="Intake").click()  # its table is kept
    hands.click(page.get_by_role("button", name="Replace in sash"))
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("heading", name="sash")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    assert len(made["recipe"]["sources"]) == 2
    before = server.get(f"/sets/{made['id']}/versions").json()
    assert before[0]["note"].startswith("Replaced by sash_roughness.png")


def test_a_pair_dropped_apart_is_one_and_a_photo_on_it_is_asked_about(page, server, project):
    key = project("pair")
    hands = open_at(page, key)
    hands.drop({"clasp_diffuse.png": COLOR, "clasp_gloss.png": GRAY})
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("heading", name="clasp")).to_be_visible()
    hands.drop({"clasp_specular.png": np.stack([METAL] * 3, -1)}, page.get_by_test_id("viewer"))
    expect(page.get_by_text("Added to clasp: clasp_specular.png")).to_be_visible()
    expect(page.get_by_text("from diffuse and specular").first).to_be_visible()

    hands.drop({"salle.jpeg": COLOR[::-1]}, page.get_by_test_id("viewer"))
    expect(page.get_by_text("clasp is there already, with base color of its own")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    parted = {row["key"] for row in made["masters"] if row["op"] == "metallic_from_specular"}
    assert parted == {"base_color", "metallic", "reflectance"}


def test_a_name_is_typed_once_for_all_files_of_a_set(page, server, project):
    key = project("name")
    hands = open_at(page, key, "intake")
    hands.drop({"a_basecolor.png": COLOR, "a_roughness.png": GRAY, "a_normal.png": UP})
    hands.type(page.get_by_label("Name of the set a"), "Étoffe")
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    expect(page.get_by_role("heading", name="Étoffe")).to_be_visible()
    (made,) = server.get(f"/projects/{key}/sets").json()
    assert (made["name"], len(made["recipe"]["sources"])) == ("Étoffe", 3)


def test_what_waits_holds_nothing_else_up(page, server, data, project):
    key = project("waits", "engine-orm-down")
    hands = open_at(page, key)
    hands.drop({"knit_roughness.png": GRAY, "knit_normal.png": UP})
    button = page.get_by_role("button", name="Take in and deliver")
    expect(button).to_be_enabled()
    hands.click(button)
    expect(page.get_by_text("1 file waits for base color")).to_be_visible()  # the plan is opened, as something waits
    hands.click(page.get_by_role("button", name="Deliver 2 files"))
    done(page)
    assert set(delivered(server, data, key)) == {"knit_N.tga", "knit_ORM.tga"}


def test_a_packed_file_in_the_wrong_order_is_read_right(page, server, data, project):
    key = project("order", "engine-loose-down")
    hands = open_at(page, key)
    packed = np.dstack([METAL, GRAY, 255 - GRAY])  # metallic, roughness, occlusion, under a name that says otherwise
    hands.drop({"gong_basecolor.png": COLOR, "gong_ORM.png": packed})
    menu = page.get_by_role("row", name="gong_ORM.png").get_by_role("button", name="Read it as the file of a target")
    hands.click(menu)
    hands.click(page.get_by_role("menuitem", name="Metallic · roughness · occlusion — Game engine, M·R·A packed, Y−"))
    take_in_and_deliver(hands)
    metallic = next(path for name, path in delivered(server, data, key).items() if "metallic" in name)
    np.testing.assert_array_equal(read(metallic).codes, METAL)
    assert hands.moves <= 4


def test_an_own_packing_from_a_shipped_target(page, server, data, project):
    key = project("packing")
    made = make_set(server, "Gong", {"base_color": COLOR, "normal": UP, "roughness": GRAY, "metallic": METAL}, project=key)
    hands = open_at(page, key, f"bench/{made['id']}")
    hands.press("4")
    hands.click(page.get_by_role("combobox", name="Target"))
    hands.click(page.get_by_role("option", name="Game engine, M·R·A packed, Y−"))
    expect(page.get_by_role("combobox", name="Target")).to_contain_text("M·R·A packed")  # the board of before is gone
    hands.click(page.get_by_role("radio", name="TIFF"))
    hands.type(page.get_by_label("Longest side of every file in px"), "32")
    hands.click(page.get_by_role("radio", name="Short", exact=True))
    expect(page.get_by_text("◆ Your own")).to_be_visible()
    hands.press("Control+Enter")
    done(page)
    files = delivered(server, data, key)
    assert set(files) == {f"{made['name']}_{word}.tif" for word in ("BC", "N", "MRA")}
    assert {read(path).codes.shape[:2] for path in files.values()} == {(32, 32)}
    assert hands.moves <= 7
    for row in server.get("/targets").json():
        if row["is_own"]:
            server.delete(f"/targets/{row['target']['key']}")


def test_two_targets_at_once_by_settings_that_were_saved_before(page, server, data, project):
    """Both encodings of small tiles; normals of edges alone with a little noise, at a rise of 4 %."""
    key = project("two")
    before = make_set(server, "Before", {"base_color": COLOR}, project=key)
    recipe = before["recipe"]
    relief = {"keeps": "edges", "noise": 0.1}
    recipe["nodes"]["normal"]["params"] = {**recipe["nodes"]["normal"]["params"], **relief}
    recipe["facts"] |= {"rise": 0.04, "rise_from": "told"}
    server.put(f"/sets/{before['id']}/recipe", json={"expects": before["head"], "recipe": recipe}).raise_for_status()
    page.goto(f"/p/{key}/bench/{before['id']}")
    page.get_by_role("button", name="The whole set").click()
    page.get_by_label("Name to save these settings under").fill("Edges 4 %")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("It is offered for sets that it fits.")).to_be_visible()

    hands = open_at(page, key)
    hands.drop({"tuile.png": COLOR})
    hands.click(page.get_by_role("combobox", name="Usual targets"))
    hands.click(page.get_by_role("option", name="Small tiles, two RGBA data files"))
    hands.click(page.get_by_role("option", name="Small tiles, no alpha in data files"))
    hands.click(page.get_by_role("button", name="Take in 1 set"))
    hands.click(page.get_by_role("group", name="Saved settings that fit").get_by_role("button", name="Edges 4 %"))
    expect(page.get_by_role("group", name="Saved settings that fit")).to_be_hidden()
    hands.press("Control+Enter")
    done(page)
    folder = data / "screen" / "deliveries" / server.get(f"/projects/{key}/deliveries").json()[0]["folder"]
    assert {path.parent.name for path in folder.glob("*/*/*.png")} == {"small-tiles", "small-tiles-rgb"}
    made = next(row["recipe"] for row in server.get(f"/projects/{key}/sets").json() if row["name"] == "tuile")
    assert made["facts"]["rise"] == 0.04 and made["nodes"]["normal"]["params"].items() >= relief.items()
    assert hands.moves <= 8
    server.delete("/settings/Edges 4 %")


def test_of_two_quick_choices_of_usual_targets_the_last_one_stands(page, server, project):
    """However long the first takes on its way, the second is not kept before it."""
    key = project("quick")
    held = []
    page.route("**/usual", lambda route: held.append(route))
    open_at(page, key).drop({"tuile.png": COLOR})
    page.get_by_role("combobox", name="Usual targets").click()
    page.get_by_role("option", name="Small tiles, two RGBA data files").click()
    page.get_by_role("option", name="Small tiles, no alpha in data files").click()
    chips = page.get_by_role("group", name="Usual targets")
    expect(chips.get_by_role("button", name="Do not deliver to")).to_have_count(2)

    def is_kept() -> bool:
        while held:
            held.pop().continue_()  # of those on their way the newest first
        page.title()  # what the page asks for comes meanwhile
        usual = next(row["usual"] for row in server.get("/projects").json() if row["name"] == key)
        return usual == ["small-tiles", "small-tiles-rgb"]

    eventually(is_kept)


def test_many_sets_are_found_selected_delivered_and_taken_off_as_one(page, server, data, project):
    key = project("many", "engine-loose-down")
    hands = open_at(page, key)
    hands.drop({f"{name}_basecolor.png": np.roll(COLOR, k, 1) for k, name in enumerate(("red felt", "blue felt", "lace", "net"))})
    hands.click(page.get_by_role("button", name="Take in 4 sets"))
    expect(page.get_by_text("4 sets selected")).to_be_visible()  # side by side, to do the same with all
    page.get_by_role("link", name="Intake").click()
    page.get_by_role("link", name="Tray").click()
    expect(page.get_by_label("Select lace")).not_to_be_checked()
    page.get_by_label("Search the sets").fill("felt")
    expect(page.get_by_role("heading", name="2 of 4 sets")).to_be_visible()
    page.get_by_label("Search the sets").blur()
    page.keyboard.press("Control+a")
    page.get_by_role("button", name="Deliver 2 sets").click()
    done(page)
    assert {name.split("_")[0] for name in delivered(server, data, key)} == {"red felt", "blue felt"}
    page.get_by_role("link", name="Tray").click()
    page.get_by_label("Search the sets").fill("")
    page.get_by_role("button", name="Filter").click()
    page.get_by_role("menuitem", name="Not delivered as it is").click()
    expect(page.get_by_role("heading", name="2 of 4 sets")).to_be_visible()
    page.get_by_label("Select lace").click()
    page.get_by_label("Select net").click(modifiers=["Shift"])
    page.keyboard.press("Delete")
    expect(page.get_by_text("2 sets were taken off the tray")).to_be_visible()
    assert len(server.get(f"/projects/{key}/sets").json()) == 2
    page.get_by_role("button", name="Put them back").click()
    expect(page.get_by_role("heading", name="2 of 4 sets")).to_be_visible()


def test_many_sets_are_renamed_sized_and_made_alike_and_each_is_taken_back_as_one(page, server, project):
    key = project("alike")
    made = [
        make_set(server, name, {"base_color": np.roll(COLOR, k, 1)}, project=key) for k, name in enumerate(("Ash", "Oak", "Elm"))
    ]
    first = made[0]
    recipe = first["recipe"]
    rough = recipe["nodes"]["roughness"]
    recipe = {**recipe, "nodes": {**recipe["nodes"], "roughness": {**rough, "params": {**rough["params"], "mean": 0.31}}}}
    server.put(f"/sets/{first['id']}/recipe", json={"expects": first["head"], "recipe": recipe})
    open_at(page, key)

    def now() -> dict[str, dict]:
        return {row["id"]: row for row in server.get(f"/projects/{key}/sets").json()}

    def means() -> list[float]:
        return [now()[one["id"]]["recipe"]["nodes"]["roughness"]["params"].get("mean") for one in made[1:]]

    before = means()
    page.keyboard.press("Control+a")
    choose(page.get_by_label("Make the selected sets like another"), first["id"])
    expect(page.get_by_text(f"2 sets made like {first['name']}.")).to_be_visible()
    assert means() == [0.31, 0.31]
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()
    assert means() == before

    choose(page.get_by_label("Size of the selected sets"), "256")
    expect(page.get_by_text("3 sets brought to 256 px.")).to_be_visible()
    assert {row["recipe"]["facts"]["width"] for row in now().values()} == {256}

    choose(page.get_by_label("Give the selected sets one value"), "roughness")
    page.get_by_label("Roughness of the selected sets").fill("0.6")
    page.get_by_label("Roughness of the selected sets").press("Enter")
    expect(page.get_by_text("3 sets given one roughness of 0.6.")).to_be_visible()
    recipes = [row["recipe"] for row in now().values()]
    assert {recipe["nodes"][recipe["masters"]["roughness"].removeprefix("node:")]["params"]["value"] for recipe in recipes} == {
        0.6
    }
    pick(page, "Rotate or mirror", "↺ Rotate left by 90°")
    expect(page.get_by_text("3 sets rotated.")).to_be_visible()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()

    page.get_by_role("button", name="Rename …").click()
    page.get_by_label("Before").fill("M_")
    expect(page.get_by_text(f"{first['name']} → M_{first['name']}")).to_be_visible()
    page.get_by_role("button", name="Rename 3 sets").click()
    expect(page.get_by_text("3 sets renamed.")).to_be_visible()
    assert {row["name"] for row in now().values()} == {f"M_{one['name']}" for one in made}
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("Taken back.")).to_be_visible()
    assert {row["name"] for row in now().values()} == {one["name"] for one in made}


def test_a_tray_lies_as_it_was_left_after_a_visit_to_the_bench_and_after_a_reload(page, server, project):
    key = project("left")
    for k in range(50):
        make_set(server, f"bolt-{k:02}", {"base_color": COLOR}, project=key)
    for k in range(10):
        make_set(server, f"wool-{k}", {"base_color": COLOR}, project=key)
    page.goto(f"/p/{key}/tray")
    page.get_by_role("combobox", name="Sort").click()
    page.get_by_role("option", name="By name").click()
    expect(page.get_by_role("link", name="bolt-00")).to_be_in_viewport()
    page.locator("main").evaluate("tray => tray.scrollTo(0, tray.scrollHeight)")
    page.get_by_role("link", name="wool-9").click()
    expect(page.get_by_role("heading", name="wool-9")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("link", name="wool-9")).to_be_in_viewport()
    expect(page.get_by_role("link", name="bolt-00")).to_have_count(0)  # far off, it is not drawn
    page.get_by_label("Search the sets").fill("wool")
    expect(page.get_by_role("link", name="wool-0")).to_be_in_viewport()
    page.reload()
    expect(page.get_by_role("heading", name="10 of 60 sets")).to_be_visible()
    expect(page.get_by_role("combobox", name="Sort")).to_have_attribute("data-key", "name")
    make_set(server, "silk", {"base_color": COLOR}, project=key)
    page.reload()
    expect(page.get_by_role("heading", name="61 sets")).to_be_visible()  # what came since is not hidden
