"""What jobs of practitioners are done with on the screen: hands that count their moves, and what came out."""

import base64
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, expect

from copper_sieve.files import encode

DROP = """([element, files]) => {
  const held = new DataTransfer();
  for (const [name, content] of files)
    held.items.add(new File([Uint8Array.from(atob(content), (c) => c.charCodeAt(0))], name));
  const at = element ?? document.body;
  for (const kind of ['dragenter', 'dragover', 'drop'])
    at.dispatchEvent(new DragEvent(kind, { dataTransfer: held, bubbles: true, cancelable: true }));
}"""


class Hands:
    """Does things on the screen and counts them."""

    def __init__(self, page: Page) -> None:
        self.page, self.moves = page, 0

    def drop(self, files: dict[str, np.ndarray | bytes], on: Locator | None = None) -> None:
        self.moves += 1
        whole = {name: c if isinstance(c, bytes) else encode(c, name.rpartition(".")[2]) for name, c in files.items()}
        content = [[name, base64.b64encode(held).decode()] for name, held in whole.items()]
        self.page.evaluate(DROP, [on.element_handle() if on else None, content])

    def click(self, what: Locator) -> None:
        self.moves += 1
        what.click()

    def press(self, key: str) -> None:
        self.moves += 1
        self.page.keyboard.press(key)

    def type(self, field: Locator, text: str) -> None:
        self.moves += 1
        field.fill(text)
        field.blur()


def open_at(page: Page, project: str, place: str = "tray") -> Hands:
    page.goto(f"/p/{project}/{place}")
    page.get_by_role("navigation", name="Places").wait_for()
    page.wait_for_load_state("networkidle")
    return Hands(page)


def done(page: Page) -> None:
    expect(page.get_by_text("Written and read back equal").first).to_be_visible(timeout=120_000)  # ninety folders in one


def delivered(server, data, project: str) -> dict[str, Path]:
    """Files of the project's last delivery by their names, notes apart."""
    run = server.get(f"/projects/{project}/deliveries").json()[0]
    folder = data / "screen" / "deliveries" / run["folder"]
    return {path.name: path for path in folder.glob("*/*/*")}


def take_in_and_deliver(hands: Hands) -> None:
    button = hands.page.get_by_role("button", name="Take in and deliver")
    expect(button).to_be_enabled()
    hands.click(button)
    done(hands.page)
