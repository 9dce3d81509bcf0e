"""What hands do on the screen that takes more than one call."""

from playwright.sync_api import Locator, Page

Place = tuple[float, float]


def choose(choice: Locator, wanted: str) -> None:
    """Open a choice and take the option with this key; a title does where keys are not known beforehand."""
    choice.click()
    listed = choice.page.get_by_role("listbox")
    listed.get_by_role("option").first.wait_for()
    by_key = listed.locator(f'[data-key="{wanted}"]')
    by_key.or_(listed.get_by_role("option", name=wanted, exact=True)).first.click()
    listed.wait_for(state="hidden")


def pick(page: Page, menu: str, title: str) -> None:
    """What a menu does when one of its lines is chosen."""
    page.get_by_role("button", name=menu).click()
    page.get_by_role("menuitem", name=title, exact=True).click()


def flick(target: Locator, start: Place, *places: Place) -> None:
    """Drag from ``start`` over ``places`` and let go before the screen can draw any of it, as on a busy machine."""
    mouse = target.page.mouse
    mouse.move(*start)
    mouse.down()
    target.evaluate(_LED_AND_LET_GO, [*places])
    mouse.up()


# the pointer is held by the element: what it is told counts as the hand's
_LED_AND_LET_GO = """(element, places) => {
  const told = (type, [clientX, clientY]) =>
    element.dispatchEvent(new PointerEvent(type, { pointerId: 1, pointerType: "mouse", bubbles: true, clientX, clientY }));
  for (const place of places) told("pointermove", place);
  told("pointerup", places.at(-1));
}"""


def middle(target: Locator) -> Place:
    """Of an element, on the page, where it is in view then."""
    target.scroll_into_view_if_needed()
    box = target.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
