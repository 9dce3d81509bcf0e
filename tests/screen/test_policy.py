"""The screen works under its own security policy: every place and window is drawn, nothing is refused, strangers are."""

import pytest
from demo_sets import PROJECT
from playwright.sync_api import expect


@pytest.fixture()
def strict(browser, address):
    """A page as a person has it, and everything that its browser refused or that went wrong."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    page, said = context.new_page(), []
    page.set_default_timeout(30_000)
    page.on("console", lambda message: said.append(message.text) if message.type == "error" else None)
    page.on("pageerror", lambda problem: said.append(str(problem)))
    yield page, said
    context.close()


def test_every_place_and_window_is_drawn(strict, server):
    page, said = strict
    first = server.get(f"/projects/{PROJECT}/sets").json()[0]["id"]
    for place, seen in (("tray", "Tray"), ("intake", "Intake"), ("routing", "Routing"), ("delivery", "Delivery")):
        page.goto(f"/p/{PROJECT}/{place}")
        expect(page.get_by_role("link", name=seen).first).to_be_visible()
    page.goto(f"/p/{PROJECT}/bench/{first}")
    expect(page.locator("canvas").first).to_be_visible()
    page.keyboard.press("?")
    keys = page.get_by_role("dialog")
    expect(keys).to_be_visible()
    assert keys.bounding_box()["width"] > 200
    page.keyboard.press("Escape")
    expect(keys).to_have_count(0)
    page.get_by_role("slider").first.focus()
    page.keyboard.press("ArrowRight")
    assert said == []


def test_a_script_or_style_from_elsewhere_is_refused(strict):
    page, said = strict
    page.goto(f"/p/{PROJECT}/tray")
    expect(page.get_by_role("link", name="Tray").first).to_be_visible()
    page.locator("body").evaluate(
        """body => {
            const script = document.createElement("script"); script.textContent = "window.broken = 1"; body.append(script);
            const style = document.createElement("style"); style.textContent = "body { color: rgb(1, 2, 3) }"; body.append(style);
            const image = document.createElement("img"); image.src = "http://127.0.0.2:9/x.png"; body.append(image);
        }"""
    )
    assert page.locator("body").evaluate("body => window.broken === undefined && getComputedStyle(body).color !== 'rgb(1, 2, 3)'")
    assert len([text for text in said if "Content Security Policy" in text]) >= 3
