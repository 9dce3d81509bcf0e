"""The other places in a real browser."""

import re

import numpy as np
import pytest
from demo_sets import PROJECT, make_set
from hands import choose
from playwright.sync_api import expect

from copper_sieve.core.target import read_target
from copper_sieve.files import encode
from copper_sieve.targets import shipped_targets
from core.test_target import THIRD

TRAY = "Search the sets"  # it is there with the sets


@pytest.fixture()
def third_target():
    target = read_target(THIRD)
    shipped_targets()[target.key] = target
    yield target
    del shipped_targets()[target.key]


def test_the_board_is_right_for_a_target_only_a_table_knows(page, third_target):
    page.goto(f"/p/{PROJECT}/routing?target={third_target.key}")
    expect(page.get_by_role("heading", name=third_target.title)).to_be_visible()
    holes = page.get_by_role("table").locator("button[aria-pressed]")
    expect(holes).to_have_count(10)  # four, three and three channels
    gloss = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Roughness")).locator("button[aria-pressed]")
    expect(gloss).to_have_accessible_name("Data, R: Gloss")
    expect(page.get_by_role("button", name="Data, A: always 0.5")).to_have_text("0.50")
    expect(
        page.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Normal")).locator("button[aria-pressed]").first
    ).to_have_accessible_name("Normal in two channels, R: Normal, y, green down")
    gloss.click()
    detail = page.get_by_role("complementary", name="Hole")
    expect(detail).to_contain_text("inverted")
    page.keyboard.press("Shift+ArrowRight")
    expect(detail).to_contain_text("Metallic, inverted")
    page.wait_for_function("[...document.querySelectorAll('aside img')].every((i) => i.complete && i.naturalWidth > 0)")


_WATCH_PLACES = """() => {
  window.most = 0;
  new MutationObserver(() => { most = Math.max(most, document.querySelectorAll('main').length); })
    .observe(document.body, { subtree: true, childList: true });
}"""


def test_the_tray_stays_while_its_first_set_is_selected(page, server, project):
    key = project("steady tray", "gltf")
    made = make_set(server, "steady", {"base_color": np.full((64, 64, 3), (90, 60, 40), np.uint8)}, project=key)
    page.goto(f"/p/{key}/tray")
    page.get_by_label(f"Select {made['name']}").wait_for()
    page.wait_for_function("document.querySelector('[data-set] img')?.naturalWidth > 0")
    page.wait_for_load_state("networkidle")
    page.evaluate(_WATCH_PLACES)
    page.get_by_label(f"Select {made['name']}").click()
    expect(page.get_by_text("1 set selected")).to_be_visible()
    assert page.evaluate("most") == 1


def test_a_server_that_is_away_takes_nothing_off_the_screen(page, server):
    made = make_set(server, "waits", {"base_color": np.full((64, 64, 3), (90, 60, 40), np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("region", name="Viewer").wait_for()
    page.route("**/api/**", lambda route: route.abort())
    away = page.get_by_role("alert").filter(has_text="Start it again")
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of this set").fill("goes on")
    page.keyboard.press("Enter")
    expect(away).to_be_visible()
    expect(page.get_by_role("region", name="Viewer")).to_be_visible()
    page.unroute("**/api/**")
    expect(away).to_be_hidden()
    expect(page.get_by_role("region", name="Viewer")).to_be_visible()


def test_a_machine_without_a_network_is_no_reason_to_wait(page, server, project):
    """The server is on the same machine: what its wireless does is all the same."""
    key = project("unplugged machine", "gltf")
    made = make_set(server, "unplugged", {"base_color": np.full((64, 64, 3), (40, 60, 90), np.uint8)}, project=key)
    page.goto(f"/p/{key}/tray")
    page.get_by_label(f"Select {made['name']}").wait_for()
    page.evaluate("dispatchEvent(new Event('offline'))")
    page.get_by_role("button", name=f"Take {made['name']} off the tray").click(force=True)
    expect(page.get_by_text(f"{made['name']} was taken off the tray")).to_be_visible()
    assert not server.get(f"/projects/{key}/sets").json()


def test_intake_is_corrected_by_keyboard_and_says_what_it_cannot_take(page, server, tmp_path):
    rng = np.random.default_rng(8)
    (tmp_path / "gown_basecolor.png").write_bytes(encode(rng.integers(0, 255, (64, 64, 3)).astype(np.uint8), "png"))
    (tmp_path / "gown_normal.png").write_bytes(encode(np.full((64, 64, 3), (128, 128, 255), np.uint8), "png"))
    (tmp_path / "gown_x7.png").write_bytes(encode(rng.integers(0, 255, (64, 64)).astype(np.uint8), "png"))
    (tmp_path / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n cut")
    page.goto(f"/p/{PROJECT}/intake")
    page.get_by_label("Choose files").set_input_files(sorted(tmp_path.iterdir()))
    expect(page.get_by_role("heading", name="4 files, 1 set")).to_be_visible()
    expect(page.get_by_text("2 files will not be taken in")).to_be_visible()
    expect(page.get_by_role("row", name="broken.png")).to_contain_text("not read")
    normal = page.get_by_role("row", name="gown_normal.png")
    normal.focus()
    page.keyboard.press("g")
    expect(page.get_by_label("Green of gown_normal.png")).to_have_attribute("data-key", "down")
    choose(page.get_by_label("What gown_x7.png is"), "roughness")
    page.get_by_label("Set of gown_x7.png").fill("gown")
    page.get_by_role("row", name="gown_basecolor.png").focus()
    page.keyboard.press("Delete")
    expect(page.get_by_text("2 files will not be taken in")).to_be_visible()
    page.get_by_role("button", name="Take back gown_basecolor.png").click()
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="gown")).to_be_visible()
    made = next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["name"] == "gown")
    read_as = {s["name"]: (s["reads"], s["green"]) for s in made["recipe"]["sources"].values()}
    assert read_as["gown_normal.png"] == ({"RGB": "normal"}, "down")
    assert read_as["gown_x7.png"] == ({"L": "roughness"}, None) and len(read_as) == 3


def test_keys_theme_assay_and_a_new_project(page):
    page.goto("/")
    expect(page.get_by_label(TRAY)).to_be_visible()
    for key, place in enumerate(("tray", "intake", "bench", "routing", "delivery"), 1):
        page.keyboard.press(str(key))
        page.wait_for_url(f"**/{place}*")
    page.go_back()  # to the routing of one set: the strip speaks of it, and not of a stop elsewhere
    expect(page.get_by_role("contentinfo")).not_to_contain_text("looking")
    expect(page.get_by_role("contentinfo")).not_to_contain_text("Chunky knit")
    page.keyboard.press("1")
    expect(page.get_by_role("contentinfo")).to_contain_text("Chunky knit: The set has no base color")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.keyboard.press("a")
    expect(page.get_by_role("dialog")).to_contain_text("Chunky knit")
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.get_by_label("Find in the list").fill("dark panels")
    expect(page.get_by_role("dialog", name="Keys")).not_to_contain_text("Undo")
    page.get_by_role("radio", name="Words").click()
    page.get_by_label("Find in the list").fill("seam")
    expect(page.get_by_role("definition")).to_contain_text("jumps over its border")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="The Salt Heron").click()
    page.get_by_role("menuitem", name="New project").click()
    page.get_by_label("Its name").fill("the salt heron · wardrobe")
    page.get_by_role("button", name="Make project").click()
    expect(page.get_by_role("alert")).to_contain_text("There is a project called The Salt Heron · wardrobe already")
    page.get_by_label("Its name").fill("Été à la cour")
    page.get_by_role("button", name="Make project").click()
    expect(page.get_by_role("button", name="Été à la cour")).to_be_visible()
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="No sets yet")).to_be_visible()
    page.go_back()
    page.wait_for_url("**/p/ete-a-la-cour/intake")


def test_a_project_is_renamed_put_away_put_back_and_deleted(page, server):
    server.post("/projects", json={"title": "Répétition"})
    page.goto("/p/repetition/tray")
    page.get_by_role("button", name="Répétition").click()
    page.get_by_role("menuitem", name="Rename this project").click()
    page.get_by_label("Its name").fill("Générale")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Générale").click()
    page.get_by_role("menuitem", name="Put this project away").click()
    page.wait_for_url(lambda url: url.endswith("/tray") and "repetition" not in url)
    page.goto("/")
    page.wait_for_url(lambda url: url.endswith("/tray") and "repetition" not in url)
    page.locator("header").get_by_role("button").first.click()
    expect(page.get_by_role("menuitem", name="Générale", exact=True)).to_have_count(0)
    page.get_by_role("menuitem", name="Put Générale back").click()
    page.wait_for_url("**/p/repetition/tray")
    page.wait_for_function("localStorage.getItem('last project') === 'repetition'")  # kept once it is drawn, not before
    page.goto("/")
    page.wait_for_url("**/p/repetition/tray")  # the one of last time
    server.put("/projects/repetition", json={"is_away": True})
    page.goto(f"/p/{PROJECT}/tray")
    page.locator("header").get_by_role("button").first.click()
    page.get_by_role("menuitem", name="Delete Générale for good").click()
    expect(page.get_by_role("alertdialog")).to_contain_text("It holds no sets. What was delivered stays in its folders.")
    page.get_by_role("button", name="Delete for good").click()
    expect(page.get_by_role("alertdialog")).to_have_count(0)
    assert "repetition" not in [one["name"] for one in server.get("/projects").json()]


# An empty folder, as the window is told of it: files are promised, and none is there.
EMPTY_DROP = """() => {
  const event = new DragEvent('drop', { bubbles: true, cancelable: true });
  Object.defineProperty(event, 'dataTransfer', { value: { types: ['Files'], items: [] } });
  document.body.dispatchEvent(event);
}"""


def test_rivals_and_an_empty_drop_are_said_and_nothing_is_lost(page, server, tmp_path):
    rng = np.random.default_rng(12)
    for name in ("cape_albedo.png", "cape_basecolor.png"):
        (tmp_path / name).write_bytes(encode(rng.integers(0, 255, (32, 32, 3)).astype(np.uint8), "png"))
    page.goto(f"/p/{PROJECT}/intake")
    expect(page.get_by_role("heading", name="Intake")).to_be_visible()
    page.evaluate(EMPTY_DROP)
    expect(page.get_by_role("alert")).to_contain_text("Nothing was dropped")
    page.get_by_label("Choose files").set_input_files(sorted(tmp_path.iterdir()))
    expect(page.get_by_text("cape: two files hold the same map")).to_be_visible()
    expect(page.get_by_role("button", name="Take in 0 sets")).to_be_disabled()
    page.get_by_role("button", name="Leave out cape_albedo.png").click()
    page.get_by_role("button", name="Take in 1 set").click()
    expect(page.get_by_role("heading", name="cape")).to_be_visible()

    page.keyboard.press("1")
    page.get_by_label("Search the sets").fill("cape")  # among all that other tests made it is out of sight
    page.get_by_role("button", name="Take cape off the tray").click()
    expect(page.get_by_role("link", name="cape")).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("link", name="cape")).to_be_visible()


def test_help_comes_to_the_keyboard_as_to_the_pointer(page, server):
    made = make_set(server, "Helped", {"height": np.eye(32, dtype=np.uint8) * 255})
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="The whole set").press("Enter")
    page.get_by_text("Edges", exact=True).focus()
    expect(page.get_by_role("tooltip")).to_contain_text("repeats across and down")
    choice = page.get_by_label("Sampling")
    choice.press("Enter")
    expect(page.get_by_role("listbox")).to_be_visible()
    page.keyboard.type("pix")  # the first letters find the option
    expect(page.get_by_role("option", name="Pixel")).to_be_focused()
    page.keyboard.press("Enter")
    expect(choice).to_have_text(re.compile("^Pixel"))
    expect(choice).to_be_focused()


def test_a_hole_says_what_storing_costs(page, server):
    deep = np.arange(32 * 32, dtype=np.uint16).reshape(32, 32) * 60
    made = make_set(server, "Deep roughness", {"roughness": deep})
    page.goto(f"/p/{PROJECT}/routing/{made['id']}?target=engine-orm-down")
    page.get_by_role("button", name="Occlusion · roughness · metallic, G: Roughness").click()
    detail = page.get_by_role("complementary", name="Hole")
    expect(detail).to_contain_text("Difference from its source")
    expect(detail.get_by_role("img", name="Difference")).to_be_visible()


def test_a_set_takes_the_ways_of_another_and_a_wrong_file_is_refused(page, server, tmp_path):
    first = make_set(server, "Ways from", {"base_color": np.full((32, 32, 3), 120, np.uint8)})
    recipe = first["recipe"]
    recipe["nodes"]["roughness"]["params"] = {"mean": 0.83}
    server.put(f"/sets/{first['id']}/recipe", json={"expects": first["head"], "recipe": recipe}).raise_for_status()
    second = make_set(server, "Ways to", {"base_color": np.full((32, 32, 3), 60, np.uint8)})
    page.goto(f"/p/{PROJECT}/bench/{second['id']}")
    page.get_by_role("button", name="The whole set").click()
    choose(page.get_by_label("Use settings"), first["name"])
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()  # what is below moves when they are there
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("list", name="Versions").get_by_role("listitem").first).to_contain_text("Roughness: mean")
    (tmp_path / "no settings.json").write_text("dear colleague")
    page.get_by_label("Use the settings of a file").set_input_files(tmp_path / "no settings.json")
    expect(page.get_by_role("alert")).to_contain_text("is no JSON")
    made = next(s for s in server.get(f"/projects/{PROJECT}/sets").json() if s["id"] == second["id"])
    assert made["recipe"]["nodes"]["roughness"]["params"]["mean"] == 0.83


def test_an_address_that_leads_nowhere_says_so_and_leads_on(page):
    page.goto("/p/nowhere/tray")
    expect(page.get_by_role("heading", name="There is no project at “nowhere”")).to_be_visible()
    page.get_by_role("main").get_by_role("link", name="The Salt Heron · wardrobe").click()
    expect(page.get_by_label(TRAY)).to_be_visible()
    page.goto(f"/p/{PROJECT}/attic")
    expect(page.get_by_role("heading", name="There is no such place")).to_be_visible()
    page.get_by_role("main").get_by_role("link", name="tray").click()
    expect(page.get_by_label(TRAY)).to_be_visible()


def test_a_place_that_fails_fails_alone_and_can_be_tried_again(page):
    broken = f"**/api/projects/{PROJECT}/sets"
    page.route(broken, lambda route: route.fulfill(json=[{**row, "masters": None} for row in route.fetch().json()]))
    page.goto(f"/p/{PROJECT}/tray")
    expect(page.get_by_role("heading", name="Tray could not be shown")).to_be_visible()
    page.unroute(broken)
    page.get_by_role("link", name="Intake").click()
    expect(page.get_by_role("button", name="Choose files").first).to_be_visible()
    page.get_by_role("link", name="Tray").click()
    again = page.get_by_role("button", name="Try again")
    again.or_(page.get_by_label(TRAY)).first.wait_for()
    if again.is_visible():
        again.click()
    expect(page.get_by_label(TRAY)).to_be_visible()


def test_what_was_refused_is_not_asked_again(page):
    asked = []
    page.on("request", lambda request: asked.append(request.url) if request.url.endswith("/documents") else None)
    page.route("**/documents", lambda route: route.fulfill(status=404, json={"detail": "no such target"}))
    page.goto(f"/p/{PROJECT}/routing?target=gltf")
    expect(page.get_by_role("button", name="Add a file")).to_be_visible()
    page.wait_for_load_state("networkidle")
    assert len(asked) == 1


def test_a_set_that_cannot_be_looked_at_is_asked_about_once_and_holds_nothing_up(page, server):
    made = make_set(server, "Not looked at", {"base_color": np.full((32, 32, 3), 120, np.uint8)})
    asked = []

    def refuse(route) -> None:
        asked.append(route.request.url)
        route.fulfill(status=404, json={"detail": "no such set"})

    page.route(f"**/sets/{made['id']}/assay*", refuse)
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="The whole set").click()
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("contentinfo").get_by_text("looking…")).to_have_count(0)
    page.get_by_role("link", name="Tray").click()
    expect(page.get_by_label(TRAY)).to_be_visible()
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="The whole set").click()
    page.wait_for_load_state("networkidle")
    assert len(asked) == 1
    page.keyboard.press("a")
    unknown = page.get_by_text("Could not be looked at, so nothing is known of it: Not looked at")
    expect(unknown).to_be_visible()
    page.unroute(f"**/sets/{made['id']}/assay*")
    page.get_by_role("button", name="Look again").click()
    expect(unknown).to_be_hidden()


def test_a_place_that_is_gone_to_by_key_is_where_tab_goes_on(page):
    page.goto(f"/p/{PROJECT}/tray")
    page.get_by_role("heading", name="sets").wait_for()
    page.keyboard.press("2")
    expect(page.get_by_text("Choose files")).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_text("Choose files")).to_be_focused()
    page.keyboard.press("1")  # the button is still there, and hidden
    expect(page.get_by_label(TRAY)).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_label(TRAY)).to_be_focused()


def test_a_key_is_changed_and_found_and_put_back(page):
    page.goto("/")
    expect(page.get_by_label(TRAY)).to_be_visible()
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    page.get_by_label("Find in the list").fill("panels")
    keys.get_by_role("button", name="Light or dark panels: D").click()
    page.keyboard.press("p")
    expect(keys.get_by_role("alert")).to_contain_text("P is in use. Intake: It is a photo.")
    keys.get_by_role("button", name="Light or dark panels: D").click()
    page.keyboard.press("Escape")
    expect(keys).to_be_visible()
    keys.get_by_role("button", name="Light or dark panels: D").click()
    page.keyboard.press("k")
    expect(keys.get_by_role("button", name="Light or dark panels: K")).to_be_visible()
    page.get_by_label("Find in the list").fill("")
    page.keyboard.press("Escape")
    expect(keys).to_be_hidden()
    page.reload()
    expect(page.get_by_label(TRAY)).to_be_visible()
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-theme", "light")
    page.keyboard.press("k")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.keyboard.press("?")
    page.get_by_role("button", name="Put the key back to D: Light or dark panels").click()
    page.keyboard.press("Escape")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-theme", "light")
