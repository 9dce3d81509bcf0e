"""Proof of a delivery on screen, and a set as a target would see it beside the masters."""

import numpy as np
from demo_sets import PROJECT, make_set
from hands import choose
from playwright.sync_api import expect
from test_bench import DRAWN, READY, drawn_anew, seen

NO_METAL = "arch-gloss-alpha"
BRIGHTNESS = """canvas => {
  const { data } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
  let sum = 0;
  for (let k = 0; k < data.length; k += 4) sum += data[k];
  return sum / (data.length / 4);
}"""


def gilt(server, name: str):
    half = np.zeros((64, 64), np.uint8)
    half[:, 16:48] = 255
    color = np.broadcast_to(np.array([220, 160, 60], np.uint8), (64, 64, 3)).copy()
    return make_set(server, name, {"base_color": color, "metallic": half, "roughness": np.full((64, 64), 90, np.uint8)})


def test_a_delivery_is_proved_and_looked_at_on_the_bench(page, server):
    made = gilt(server, "Gilt é half")
    page.goto(f"/p/{PROJECT}/delivery")
    page.get_by_role("button", name="Sets: none").click()
    page.get_by_role("button", name="Targets: none").click()
    page.get_by_label(made["name"]).check()
    page.get_by_label("Architectural renderer, gloss in the normal’s alpha, Y−").check()
    page.get_by_role("button", name="Deliver").click()
    page.get_by_role("link", name="Download zip").wait_for()
    page.get_by_role("button", name="Proof", exact=True).click()
    proof = page.get_by_label(f"Proof of {made['name']} for")
    expect(proof.get_by_role("status")).to_contain_text("✓ All")
    expect(proof).to_contain_text("no channel for metallic")
    difference = proof.get_by_role("img", name="Difference, lamp upper left")
    at_8 = difference.evaluate(BRIGHTNESS)
    choose(proof.get_by_label("Difference times"), "1")
    assert 1 < difference.evaluate(BRIGHTNESS) < 0.5 * at_8
    proof.get_by_role("link", name="Look at both on the Bench").click()
    page.wait_for_function(READY)
    page.wait_for_function(DRAWN)
    expect(page.get_by_label("Compare with")).to_have_attribute("data-key", f"target:{NO_METAL}")
    expect(page.get_by_text("As seen by: Architectural renderer")).to_be_visible()


def test_a_specular_target_looks_the_same_and_one_without_metal_does_not(page, server):
    made = gilt(server, "Gilt half")
    page.goto(f"/p/{PROJECT}/bench/{made['id']}")
    page.wait_for_function(READY)
    page.keyboard.press("l")
    page.wait_for_function(DRAWN)
    drawn_anew(page, lambda: choose(page.get_by_label("Pictures"), "difference"))
    inside = (slice(200, 480), slice(300, 560))

    def differs(target: str) -> float:
        choose(page.get_by_label("Compare with"), f"target:{target}")
        page.wait_for_function(f"document.querySelector('[data-second=\"{target}\"]')")
        page.evaluate("new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
        return float(seen(page)[inside].mean())

    choose(page.get_by_label("Difference times"), "4")
    without_metal, carried = differs(NO_METAL), differs("path-specular")
    assert carried < 0.02 and without_metal > max(0.05, 4 * carried), (carried, without_metal)
    page.get_by_role("radio", name="Flat").click()
    choose(page.get_by_label("Compare with"), "target:path-specular")
    expect(page.get_by_test_id("viewer")).to_contain_text("it sees roughness, diffuse, specular color")
