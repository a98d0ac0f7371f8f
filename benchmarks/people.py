"""What people feel, in the real interface: the time from a drag to its picture, and from opening to a picture."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from selenium.webdriver import ActionChains

from tests.ui.browser import Page, Server, chromium


def _with_boat_hall(measure):  # type: ignore[no-untyped-def]
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data")
        try:
            with chromium() as browser:
                page = Page(browser, server.url)
                page.open_project("Boat Hall")
                page.pictures()
                return measure(page)
        finally:
            server.stop()


def drag_to_picture(drags: int = 6) -> list[float]:
    """Milliseconds from each preview sent during drags of a profile point to the frame that shows it."""

    def measure(page: Page) -> list[float]:
        for k in range(drags):
            handle = page.find('[data-handle="profiles-1-2"]')
            chain = ActionChains(page.browser, duration=30).click_and_hold(handle)
            for step in range(12):
                chain = chain.move_by_offset(0, (-3 if k % 2 else 3)).pause(0.02 * (step % 3))
            chain.release().perform()
            page.ready()
        taken: list[float] = page.browser.execute_script(
            "return performance.getEntriesByName('drag to picture').map(e => e.duration)"
        )
        return taken

    found: list[float] = _with_boat_hall(measure)
    return found


def open_to_picture() -> float:
    """Milliseconds from following the link to a project until its members are drawn."""

    def measure(page: Page) -> float:
        time.sleep(2)
        page.open("/")
        page.find('[data-project="Boat Hall"] a')
        script = """
          const done = arguments[0], started = performance.now();
          document.querySelector('[data-project="Boat Hall"] a').click();
          const look = () => document.querySelector('[data-figure="members"]')
            ? requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - started)))
            : setTimeout(look, 5);
          look();
        """
        return float(page.browser.execute_async_script(script))

    found: float = _with_boat_hall(measure)
    return found
