"""Pictures of the main views from the demo data: ``python -m tests.ui.shots FOLDER``."""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from selenium.webdriver import ActionChains

from .browser import Page, Server, chromium
from .test_ribs import slide


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data:
        server = Server(Path(data) / "data")
        try:
            with chromium() as browser:
                page = Page(browser, server.url)

                def shot(name: str) -> None:
                    if page.find_all("[data-picture]"):
                        page.fine_picture()
                    time.sleep(1)
                    browser.save_screenshot(str(folder / f"{name}.png"))

                page.open_project("Net Loft")
                page.click("Trace", "a")
                page.wait(lambda: page.find('[data-clause="front"] strong').click() or True)
                page.wait(lambda: page.find('[data-testid="underlay"]'))
                shot("trace")
                page.click("Workbench", "a")
                page.click("Add a clause", "button")
                page.wait(lambda: page.find_all("[data-guide] img"))
                page.find('input[aria-label="Search the guide"]').send_keys("ribs")
                time.sleep(14)  # the pictures are drawn when first asked for
                shot("guide")
                open_all(page)
                page.open_project("Boat Hall")
                shot("workbench")
                view = page.find('[data-testid="view"]')
                page.choose("colour-by", "member length")
                ActionChains(browser).move_to_element_with_offset(view, 20, 60).click().perform()
                page.open_project("Reed Canopy")
                slide(page, "Parts between their places and their sheets", 0.4)
                shot("strips")
                slide(page, "Parts between their places and their sheets", 0)
                browser.execute_script(
                    "document.querySelector('[data-clause=canopy]').scrollIntoView()"
                )
                page.click("Show forces", "button")
                shot("settle")
                page.open_project("Bird Hide")
                shot("ribs")
                slide(page, "Parts between their places and their sheets", 0.55)
                shot("flight")
                page.click("Sheets", "a")
                page.wait(lambda: page.find_all('[data-testid="sheet-picture"] .PART'))
                page.click("Send sheet 1", "button")
                page.wait(lambda: page.find_all('[data-testid="on-table"]'))
                page.click("30 × as fast", "button")
                page.click("300 times as fast")
                page.click("Start the table", "button")
                time.sleep(4)
                page.click("Stop the table", "button")
                shot("table")
                page.click("Clear", "button")
                page.open_project("Marsh Model")
                slide(page, "Parts put together", 0.72)
                shot("assembly")
                page.open_project("Creek Passage")
                shot("spine")
                page.open_project("Ice House")
                page.choose("shown-apart", "apart in groups")
                page.choose("colour-by", "group of solids")
                shot("blocks")
                page.open_project("Landing Stage")
                page.click("Schedules", "a")
                page.click("Stock bars", "button")
                page.wait(lambda: page.find_all('[aria-label="Stock bars, drawn"] button'))
                shot("bars")
                page.open_project("Tide Gallery")
                page.click("Contact sheet", "a")
                page.click("Make the sheet", "button")
                page.wait(
                    lambda: (
                        page.find('[data-testid="contact-sheet"]').get_attribute("data-done")
                        == "true"
                    ),
                    60,
                )
                shot("contact-sheet")
                page.open_project("Boat Hall")
                page.click("Schedules", "a")
                page.wait(lambda: page.find_all('[role="row"]'))
                shot("schedules")
                page.click("Sheets", "a")
                shot("sheets")
                page.click("Deliver", "a")
                page.click("Write the pack", "button")
                page.wait(lambda: page.find('[data-testid="pack"]'), 400)
                shot("deliver")
                page.open("/")
                page.wait(lambda: not cards_without_picture(page))
                shot("projects")
                page.open("/new")
                page.wait(lambda: page.find_all("[data-beginning] img"))
                shot("begin")
        finally:
            server.stop()


def open_all(page: Page) -> None:
    """Opens every project until its card has a picture, which is sent after a quiet while."""
    page.open("/")
    page.wait(lambda: page.find_all("article"))
    while names := cards_without_picture(page):
        page.open_project(names[0])
        time.sleep(5)
        page.open("/")
        page.wait(lambda: page.find_all("article"))


def cards_without_picture(page: Page) -> list[str]:
    """Names of the projects whose cards show no picture."""
    cards = page.find_all("article")
    bare = [card for card in cards if not card.find_elements("css selector", "img")]
    return [str(card.get_attribute("data-project")) for card in bare]


if __name__ == "__main__":
    main(Path(sys.argv[1]))
