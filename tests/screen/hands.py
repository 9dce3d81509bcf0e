"""What hands do on the screen that takes more than one call."""

from playwright.sync_api import Locator, Page


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
