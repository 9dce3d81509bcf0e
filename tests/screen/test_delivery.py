"""A delivery narrowed down by hand: fewer files, a smaller size, and what was chosen last time."""

import re

import numpy as np
from demo_sets import PROJECT, make_set
from hands import choose
from playwright.sync_api import expect

from asking import eventually
from copper_sieve.files import encode, read


def test_files_are_left_out_by_hand_the_size_is_chosen_and_both_are_remembered(page, server, data):
    rng = np.random.default_rng(12)
    made = make_set(server, "Bare é", {"roughness": rng.integers(0, 256, (128, 128)).astype(np.uint8)})
    page.goto(f"/p/{PROJECT}/delivery")
    expect(page.get_by_label(made["name"])).to_be_checked()  # it was never delivered
    page.get_by_role("button", name="Sets: none").click()
    page.get_by_role("button", name="Targets: all").click()
    expect(page.get_by_label("glTF 2.0")).to_be_checked()
    page.get_by_role("button", name="Targets: none").click()
    page.get_by_label(made["name"]).check()
    page.get_by_label("Game engine, five loose files, Y−").check()
    expect(page.get_by_text("1 file waits for base color")).to_be_visible()
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_enabled()  # the rest can go
    page.get_by_label(f"Every file of {made['name']} for").uncheck()
    expect(page.get_by_text("left out by you")).to_have_count(2)  # the others hold nothing
    page.get_by_label(f"Write {made['name']}_roughness.png").check()
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_visible()
    choose(page.get_by_label("Size of this delivery"), "64")
    expect(page.get_by_role("row", name="roughness").get_by_text("64 × 64")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_visible()
    expect(page.get_by_label("Size of this delivery")).to_have_attribute("data-key", "64")
    page.get_by_role("button", name="Deliver 1 file").click()
    page.get_by_role("link", name="Download zip").wait_for()
    run = server.get(f"/projects/{PROJECT}/deliveries").json()[0]
    written = list((data / "screen" / "deliveries" / run["folder"] / made["name"] / "engine-loose-down").iterdir())
    assert [path.name for path in written] == [f"{made['name']}_roughness.png"] and read(written[0]).codes.shape == (64, 64)
    page.get_by_role("button", name="Proof", exact=True).click()
    expect(page.get_by_text("✓ The one channel holds")).to_be_visible()


def test_fills_are_named_and_derived_with_one_press(page, server):
    rng = np.random.default_rng(13)
    made = make_set(server, "Fill", {"base_color": rng.integers(0, 256, (64, 64, 3)).astype(np.uint8)})
    recipe = made["recipe"]
    masters = {key: ref for key, ref in recipe["masters"].items() if key != "roughness"}
    changed = {"expects": made["head"], "recipe": {**recipe, "masters": masters}}
    assert server.put(f"/sets/{made['id']}/recipe", json=changed).status_code == 200
    page.goto(f"/p/{PROJECT}/delivery")
    page.get_by_role("button", name="Sets: none").click()
    page.get_by_role("button", name="Targets: none").click()
    page.get_by_label(made["name"]).check()
    page.get_by_label("Game engine, O·R·M packed, Y−").check()
    expect(page.get_by_text("G: 153 everywhere, the set has no roughness.")).to_be_visible()
    expect(page.get_by_text("B: 0 everywhere, the set has no metallic.")).to_be_visible()
    page.get_by_role("button", name="Derive it").click()
    expect(page.get_by_text("G: 153 everywhere")).to_have_count(0)
    eventually(lambda: "roughness" in server.get(f"/sets/{made['id']}").json()["recipe"]["masters"])


def test_a_target_is_sent_below_a_named_folder_and_again_goes_there(page, server, data):
    rng = np.random.default_rng(14)
    made = make_set(server, "Sent", {"roughness": rng.integers(0, 256, (64, 64)).astype(np.uint8)})
    page.goto(f"/p/{PROJECT}/delivery?set={made['id']}")
    page.get_by_role("button", name="Targets: none").click()
    title = "Game engine, five loose files, Y−"
    page.get_by_label(title, exact=True).check()
    choose(page.get_by_label(f"Where files for {title} go"), "/shelf")
    page.get_by_label("Path in shelf").fill("Art/Étoffe")
    page.get_by_label("Path in shelf").press("Enter")
    expect(page.get_by_text(f"shelf / Art / Étoffe / {made['name']}")).to_be_visible()
    page.get_by_role("button", name="Deliver 1 file").click()
    expect(page.get_by_text(f"read back equal, in shelf / Art / Étoffe / {made['name']}")).to_be_visible()
    assert len(list((data / "shelf" / "Art" / "Étoffe" / made["name"]).iterdir())) == 1
    expect(page.get_by_role("button", name="Nothing to write")).to_be_visible()
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("button", name=f"Copy path of shelf/Art/Étoffe/{made['name']}").first.click()
    expect(page.get_by_text("Copied", exact=True).first).to_be_visible()
    assert page.evaluate("navigator.clipboard.readText()") == str(data / "shelf" / "Art" / "Étoffe" / made["name"])
    choose(page.get_by_label(f"Where files for {title} go"), "the delivery’s own folder")
    expect(page.get_by_role("button", name="Deliver 1 file")).to_be_visible()


def test_a_linked_file_that_is_saved_again_comes_to_its_target_by_itself(page, server, data):
    project = server.post("/projects", json={"title": "Kept up"}).json()["name"]
    server.put(f"/projects/{project}/usual", json={"usual": ["engine-loose-down"]})
    picture = data / "linked" / "kept up" / "kept up_basecolor.png"
    picture.parent.mkdir(exist_ok=True)
    picture.write_bytes(encode(np.full((32, 32, 3), 40, np.uint8), "png"))
    look = server.post("/folders/looks", json={"place": "0/kept up"}).json()[0]
    entry = {key: look[key] for key in ("sha256", "name", "kind", "place")}
    made = server.post(f"/projects/{project}/sets", json={"name": "kept up", "entries": [entry]}).json()
    page.goto(f"/p/{project}/bench/{made['id']}")
    page.get_by_role("button", name=re.compile(r"Deliver \d")).click()
    expect(page.get_by_text("Written and read back equal")).to_be_visible()
    run = server.get(f"/projects/{project}/deliveries").json()[0]
    folder = data / "screen" / "deliveries" / run["folder"] / "kept up" / "engine-loose-down"
    (written,) = (path for path in folder.iterdir() if "color" in path.name.casefold())
    page.get_by_label("every change").click()
    expect(page.get_by_label("every change")).to_be_checked()
    picture.write_bytes(encode(np.full((32, 32, 3), 200, np.uint8), "png"))
    page.get_by_role("button", name="Always take them").click()
    expect(page.get_by_text("Delivered again")).to_be_visible()
    assert (read(written).codes == 200).all()
    expect(page.get_by_role("button", name="Nothing to write")).to_be_visible()  # the bench has heard of it
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()  # and what was undone does not come again
    picture.write_bytes(encode(np.full((32, 32, 3), 90, np.uint8), "png"))
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    eventually(lambda: (read(written).codes == 90).all())
    page.get_by_role("button", name="Kept up ▾").click()
    for what in ("Take newer files of linked folders", "Deliver again after every change"):
        expect(page.get_by_role("menuitemcheckbox", name=what)).to_be_checked()
    page.get_by_role("menuitemcheckbox", name="Take newer files of linked folders").click()
    page.get_by_label("every change").click()
    own = ("takes_newer", "delivers_changes")
    eventually(lambda: not any(row[key] for row in server.get("/projects").json() if row["name"] == project for key in own))
    expect(page.get_by_text("Delivered again")).to_have_count(0)
