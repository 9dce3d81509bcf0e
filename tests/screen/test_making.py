"""Where masters come from, as a person chooses it in the browser: mixes and their masks, kinds of material, one color."""

import re

import numpy as np
from demo_sets import PROJECT, make_set
from hands import choose
from playwright.sync_api import expect
from test_bench import READY

from asking import eventually
from copper_sieve.files import encode

TWO = np.zeros((64, 64, 3), np.uint8)
TWO[:, :32], TWO[:, 32:] = (190, 150, 60), (30, 60, 70)


def open_set(page, made, master: str) -> None:
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.get_by_role("region", name="Lineage").get_by_role("button", name=master).first.click()


def recipe_of(server, made) -> dict:
    return server.get(f"/sets/{made['id']}").json()["recipe"]


def steps_of(server, made) -> list[str]:
    return [version["note"] for version in server.get(f"/sets/{made['id']}/versions").json()]


def test_a_given_map_is_mixed_with_a_derived_one_under_a_mask_and_undone(page, server):
    gray = np.full((64, 64), 120, np.uint8)
    made = make_set(server, "Mixed", {"base_color": TWO, "roughness": gray, "metallic": TWO[..., 0]})
    open_set(page, made, "Roughness")
    choose(page.get_by_label("Where Roughness comes from"), "mix:op:roughness_from_color")
    choose(page.get_by_label("Mask of the other Roughness"), "master:metallic")
    page.wait_for_function(READY)
    expect(page.get_by_label("Mask of the other Roughness")).to_have_attribute("data-key", "master:metallic")
    expect(page.get_by_role("slider", name="Amount")).to_be_visible()
    expect(page.get_by_role("slider", name="Spread")).to_be_visible()  # of what is mixed in
    node = recipe_of(server, made)["nodes"]["mix_roughness"]
    assert node["inputs"]["mask"] == "master:metallic" and node["inputs"]["own"].startswith("source:")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Mask of the other Roughness")).to_have_attribute("data-key", "everywhere")


def test_a_kind_of_material_starts_every_derivation_in_one_step_and_the_account_tells(page, server):
    made = make_set(server, "Moor", {"photo": TWO})
    open_set(page, made, "The whole set")
    choose(page.get_by_label("Start as a kind of material"), "bare-metal")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.wait_for_function(READY)
    recipe = recipe_of(server, made)
    assert recipe["nodes"]["one_metallic"]["params"]["value"] == 1 and recipe["facts"]["rise_from"] == "fitted"
    assert steps_of(server, made)[0] == "started as bare metal"
    told = server.get(f"/sets/{made['id']}/account").text
    assert "## Metallic (constant)" in told and "started as bare metal" in told


def test_light_joints_are_asked_about_and_one_press_makes_them_grooves(page, server):
    joints = np.full((64, 64, 3), 70, np.uint8) + np.random.default_rng(5).integers(0, 9, (64, 64, 3)).astype(np.uint8)
    joints[::16] = joints[:, ::16] = 210
    made = make_set(server, "Tesserae", {"photo": joints})
    open_set(page, made, "Height")
    question = page.get_by_role("group", name="Question")
    expect(question).to_contain_text("Are they grooves?")
    expect(question.locator("img")).to_have_count(2)
    page.wait_for_function("[...document.querySelectorAll('[aria-label=Question] img')].every((i) => i.naturalWidth > 0)")
    before = recipe_of(server, made)
    question.get_by_role("button", name="They are grooves").click()
    expect(question).to_be_hidden()
    after = recipe_of(server, made)
    name = after["masters"]["height"].removeprefix("node:")
    assert (after["nodes"][name]["op"], after["nodes"][name]["params"]) == ("height_from_grooves", {"are_light": True})
    assert after["facts"]["rise_from"] == "fitted"
    page.get_by_role("button", name="Undo").click()
    question.get_by_role("button", name="They stand up").click()
    expect(question).to_be_hidden()
    assert recipe_of(server, made)["nodes"] == before["nodes"]
    page.reload()  # the answer stays with the set
    expect(page.get_by_role("region", name="Lineage")).to_be_visible()
    page.wait_for_function(READY)
    expect(question).to_be_hidden()
    page.keyboard.press("i")
    eventually(lambda: recipe_of(server, made)["nodes"]["height"]["params"].get("invert"))


def test_an_uneven_photo_is_evened_and_one_press_takes_it_as_photographed(page, server):
    rng = np.random.default_rng(8)
    light = np.linspace(1, 0.3, 128)[None, :, None]
    photo = ((0.5 + 0.1 * rng.standard_normal((128, 128, 3))).clip(0, 1) * light * 255).astype(np.uint8)
    made = make_set(server, "Limewash", {"photo": photo})
    assert made["recipe"]["masters"]["base_color"] == "node:albedo_from_photo"
    open_set(page, made, "Height")
    question = page.get_by_role("group", name="Question")
    expect(question).to_contain_text("was evened out")
    question.get_by_role("button", name="As photographed").click()
    expect(question).to_be_hidden()
    assert recipe_of(server, made)["masters"]["base_color"] == "source:s1:photo"


def test_which_spot_is_shinier_is_asked_beside_the_roughness_and_its_mean_has_names(page, server):
    made = make_set(server, "Puddles", {"photo": np.dstack([TWO[..., 0]] * 3)})
    open_set(page, made, "Roughness")
    question = page.get_by_role("group", name="Question")
    expect(question).to_contain_text("Which spot is shinier?")
    page.wait_for_function("[...document.querySelectorAll('[aria-label=Question] img')].every((i) => i.naturalWidth > 0)")
    question.get_by_role("button", name="The dark one").click()
    expect(question).to_be_hidden()
    page.get_by_role("button", name="Wet").click()
    expect(page.get_by_role("textbox", name="Mean, number")).to_have_value("0.100")
    eventually(lambda: recipe_of(server, made)["nodes"]["roughness"]["params"] == {"invert": True, "mean": 0.1})


def test_a_tilt_that_is_typed_sets_the_rise_which_is_kept(page, server):
    made = make_set(server, "Krepp", {"photo": np.random.default_rng(6).integers(0, 255, (64, 64, 3)).astype(np.uint8)})
    open_set(page, made, "Height")
    tilt = page.get_by_role("textbox", name="Mean tilt, number")
    expect(tilt).to_have_value(re.compile(r"1[12]\.\d\d"))
    before = recipe_of(server, made)["facts"]["rise"]
    tilt.fill("20")
    tilt.press("Enter")
    eventually(lambda: recipe_of(server, made)["facts"]["rise_from"] == "told")
    assert 1.5 < recipe_of(server, made)["facts"]["rise"] / before < 2.2
    expect(tilt).to_have_value(re.compile(r"(19\.9|20\.[01])\d"))


def test_metal_is_what_is_near_one_color_clicked_on_the_picture(page, server):
    made = make_set(server, "Gilt", {"base_color": TWO})
    open_set(page, made, "Base color")
    choose(page.get_by_label("Where Metallic comes from"), "op:metallic_by_range")  # the next click says which color
    expect(page.get_by_role("button", name="From the picture")).to_have_attribute("aria-pressed", "true")
    page.wait_for_function(READY)
    box = page.get_by_test_id("viewer").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2 - 120, box["y"] + box["height"] / 2)  # the gilt half, on the left
    expect(page.get_by_label("Color", exact=True)).to_have_value("#be963c")
    eventually(lambda: recipe_of(server, made)["nodes"]["metallic_by_range"]["params"].get("color", "").lower() == "#be963c")
    ask = {"view": "test", "seq": 1, "recipe": recipe_of(server, made), "wanted": "metallic", "size": 64}
    metallic = np.frombuffer(server.post("/previews", json=ask).content, np.uint8).reshape(64, 64, 4)[..., 0]
    assert (metallic[:, :32] == 255).all() and (metallic[:, 32:] == 0).all()


def test_a_map_of_ones_own_is_named_in_intake_and_stands_on_the_bench(page, server, tmp_path):
    (tmp_path / "Felt_basecolor.png").write_bytes(encode(TWO, "png"))
    (tmp_path / "Felt_worn places.png").write_bytes(encode(TWO[..., 0], "png"))
    page.goto(f"/p/{PROJECT}/intake")
    page.get_by_label("Choose files").set_input_files(sorted(tmp_path.iterdir()))
    row = page.get_by_role("row", name="Felt_worn places.png")
    choose(row.get_by_label("What Felt_worn places.png is"), "own")
    name = row.get_by_label("What the map in Felt_worn places.png is called")
    name.fill("Edge wear")
    name.press("Enter")
    row.get_by_label("Set of Felt_worn places.png").fill("Felt")
    page.get_by_role("row", name="Felt_basecolor.png").get_by_label("Set of Felt_basecolor.png").fill("Felt")
    with page.expect_response(lambda answer: answer.url.endswith("/sets") and answer.request.method == "POST") as taken:
        page.get_by_role("button", name="Take in 1 set").click()
    made = taken.value.json()
    assert made["recipe"]["masters"]["own_edge_wear"].startswith("source:")
    open_set(page, made, "Edge wear")
    expect(page.get_by_role("img", name="Picture of Edge wear")).to_be_visible()


def test_a_given_map_is_corrected_and_comes_back_as_it_came(page, server):
    gentle = (128 + 6 * np.sin(np.linspace(0, 6.28, 96))[:, None] * np.ones(96)).astype(np.uint8)
    made = make_set(server, "Mended", {"base_color": np.full((96, 96, 3), 90, np.uint8), "height": gentle})

    def source() -> dict:
        recipe = server.get(f"/sets/{made['id']}").json()["recipe"]
        return next(source for source in recipe["sources"].values() if "height" in source["reads"].values())

    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.get_by_role("button", name="Smooth its steps").click()
    expect(page.get_by_role("button", name="Smooth its steps")).to_have_count(0)
    page.get_by_role("button", name="Height given").click()
    corrections = page.get_by_role("region", name="Corrections of Height")
    expect(corrections.get_by_label("Smooth the steps")).to_be_checked()
    contrast = corrections.get_by_label("Contrast, number")
    contrast.fill("1.5")
    contrast.press("Enter")
    choose(corrections.get_by_label("How Height is resized"), "nearest")
    expect(corrections.get_by_role("button", name="Corrections (3)")).to_be_visible()
    eventually(lambda: source()["sampling"] == "nearest")
    assert source()["corrections"] == {"height": {"contrast": 1.5}} and source()["smooth_steps"]
    corrections.get_by_role("button", name="As it came").click()
    expect(corrections.get_by_role("button", name="Corrections", exact=True)).to_be_visible()
    eventually(lambda: (source()["sampling"], source()["corrections"], source()["smooth_steps"]) == (None, {}, False))


def test_one_color_everywhere_is_typed_by_its_code_and_mixed_with_another(page, server):
    made = make_set(server, "Enamel", {"roughness": np.full((64, 64), 120, np.uint8)})
    open_set(page, made, "Roughness")
    choose(page.get_by_label("Where Base color comes from"), "one-value")
    code = page.get_by_label("Value, code")
    code.fill("#C08040")
    code.press("Enter")

    def values() -> dict[str, list[float]]:
        return {
            name: node["params"]["value"] for name, node in recipe_of(server, made)["nodes"].items() if node["op"] == "constant"
        }

    linear = [((step / 255 + 0.055) / 1.055) ** 2.4 for step in (0xC0, 0x80, 0x40)]
    eventually(lambda: np.allclose(values()["one_base_color"], linear, atol=1e-6))
    code.fill("teal")
    code.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="“teal” is no color")).to_be_visible()
    choose(page.get_by_label("Where Base color comes from"), "mix:one-value")
    expect(page.get_by_text("Under it: one value")).to_be_visible()
    page.get_by_label("Value, code").nth(1).fill("123")
    page.get_by_label("Value, code").nth(1).press("Enter")
    eventually(lambda: np.allclose(values()["second_base_color"][2], ((0x33 / 255 + 0.055) / 1.055) ** 2.4, atol=1e-6))
    assert np.allclose(values()["one_base_color"], linear, atol=1e-6)  # each keeps its own
