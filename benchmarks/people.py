"""What people feel, in the real interface: the time from a drag to its picture, and from opening to a picture."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from pathlib import Path

import httpx
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

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


def redraw(page: Page, frames: int = 15) -> float:
    """Median milliseconds in which the view draws what it shows once more, from a little nearer."""
    script = """
      const done = arguments[1], canvas = document.querySelector("canvas"), taken = [];
      const once = (left) => {
        if (!left) return done(taken);
        const deltaY = left % 2 ? 2 : -2, started = performance.now();
        canvas.dispatchEvent(new WheelEvent("wheel", { deltaY, bubbles: true, cancelable: true }));
        requestAnimationFrame(() => requestAnimationFrame(() => {
          taken.push(performance.now() - started);
          once(left - 1);
        }));
      };
      once(arguments[0]);
    """
    return statistics.median(page.browser.execute_async_script(script, frames))


def drag_to_picture(drags: int = 6) -> tuple[list[float], float]:
    """Milliseconds from each preview sent during drags of a profile point to the frame that shows
    it, and those in which an unchanged scene is drawn."""

    def measure(page: Page) -> tuple[list[float], float]:
        still = redraw(page)
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
        return taken, still

    found: tuple[list[float], float] = _with_boat_hall(measure)
    return found


LOOP = {"curves": [["loop", [[-8, -4], [7, -5], [10, 3], [1, 6], [-9, 4]]]]}
ARC = {"curves": [["arc", [[0, 4], [2.828, 2.828], [4, 0]]]], "plane": "front"}
CIRCLE = {"curves": [["circle", [[0, 0], [1, 0]]]]}
SPINE = {"curves": [["spline", [[0, 0], [5, 4], [11, 2], [15, 6]]]]}
DRAGGED: dict[str, tuple[list[tuple[str, dict]], int, str]] = {  # type: ignore[type-arg]
    "loft": ([("loft", {})], 0, "profiles-1-2"),
    "sphere": ([("ball", {})], 0, "radius"),
    "extruded outline": ([("draw", LOOP), ("extrude", {"taper": 5})], 1, "height"),
    "revolved profile": ([("draw", ARC), ("revolve", {})], 0, "curves-1"),
    "swept tube": ([("draw", CIRCLE), ("draw", SPINE), ("sweep", {})], 1, "curves-2"),
    "spanned boundary": ([("draw", LOOP), ("span", {})], 1, "heights-0"),
    "cage": ([("cage", {})], 0, "cage-5"),
    "canopy of 3 columns": ([("draw", LOOP), ("canopy", {"columns": "placed"})], 1, "sites-0"),
    "slab with funnels, as a body": ([("draw", {}), ("funnels", {})], 1, "sites-0"),
    "hyperbolic paraboloid": ([("saddle", {})], 0, "second"),
    "thickened vault": ([("barrel", {}), ("thicken", {})], 0, "rise"),
    "union of box and ball": (
        [("ball", {"solid": "body"}), ("box", {}), ("combine", {})],
        1,
        "height",
    ),
    "part of a vault beyond a plane": (
        [("barrel", {}), ("cut-plane", {"azimuth": 30, "rise": 40})],
        1,
        "through",
    ),
    "vault in a control box": ([("barrel", {}), ("bend", {})], 1, "moves-9"),
}
"""Clauses of a statement, which of them is dragged, and by which handle."""
CELLS = {"pattern": "diagrid", "bays_across": 28, "bays_along": 34}
NETS: dict[str, tuple[list[tuple[str, dict]], int, str]] = {  # type: ignore[type-arg]
    "pull point on 2,000 cells": (
        [("barrel", {"length": 16}), ("pull", {"points": [[0, 0, 3.5]]}), ("pattern", CELLS)],
        1,
        "points-0",
    ),
    "density about 2,000 cells": (
        [("barrel", {"length": 16}), ("pattern", CELLS)],
        1,
        '[data-value="bays_across"]',
    ),
}
"""The same for nets; a number in the sentence is dragged where there is no handle."""
RIBS: dict[str, tuple[list[tuple[str, dict]], int, str]] = {  # type: ignore[type-arg]
    "spacing of a waffle of 60 ribs": (
        [("ball", {"radius": 3, "solid": "body"}),
         ("waffle", {"by": "spacing", "spacing_first": 0.22, "spacing_second": 0.19}), ("rib-sheets", {})],
        1, '[data-value="spacing_first"]',
    ),
}  # fmt: skip
"""The same for ribs, which are set out on sheets meanwhile."""


def drag_shapes(
    only: str = "", dragged: dict[str, tuple[list[tuple[str, dict]], int, str]] = DRAGGED
) -> dict[str, list[float]]:  # type: ignore[type-arg]
    """Milliseconds from each preview of a drag to its picture, by what is dragged."""
    out = {}
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data")
        try:
            with chromium() as browser:
                page = Page(browser, server.url)
                for name, (rows, which, handle) in dragged.items():
                    if only in name:
                        out[name] = _drag_one(page, rows, which, handle)
        finally:
            server.stop()
    return out


def _drag_one(page: Page, rows: list[tuple[str, dict]], which: int, handle: str) -> list[float]:  # type: ignore[type-arg]
    clauses = [
        {"id": f"c{i}", "kind": kind, "values": values} for i, (kind, values) in enumerate(rows)
    ]
    body = {"format": "lean-lattice-statement", "version": 1, "name": "Bench", "clauses": clauses}
    made = httpx.post(
        f"{page.url}/api/projects/import", files={"file": ("a.json", json.dumps(body))}
    ).json()
    page.open(f"/p/{made['id']}")
    page.ready()
    page.find(f'[data-clause="c{which}"] strong').click()
    where = handle if handle.startswith("[") else f'[data-handle="{handle}"]'
    page.find(where)
    time.sleep(0.5)
    page.browser.execute_script("performance.clearMeasures()")
    for k in range(4):
        chain = ActionChains(page.browser, duration=30).click_and_hold(page.find(where))
        for step in range(10):
            chain = chain.move_by_offset(3 if k % 2 else -3, 3 if k % 2 else -3).pause(
                0.02 * (step % 3)
            )
        chain.release().perform()
        page.ready()
    taken: list[float] = page.browser.execute_script(
        "return performance.getEntriesByName('drag to picture').map(e => e.duration)"
    )
    return taken


def contact_sheet(pictures: int = 24) -> float:
    """Seconds until a contact sheet of so many scattered patterns of 500 cells is complete, begun cold."""
    rows = [{"id": "a", "kind": "barrel", "values": {"length": 16}},
            {"id": "b", "kind": "pattern", "values": {"pattern": "voronoi", "bays_across": 20, "bays_along": 25}}]  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data")
        try:
            with chromium() as browser:
                page = Page(browser, server.url)
                body = {
                    "format": "lean-lattice-statement",
                    "version": 1,
                    "name": "Bench",
                    "clauses": rows,
                }
                made = httpx.post(
                    f"{page.url}/api/projects/import", files={"file": ("a.json", json.dumps(body))}
                ).json()
                page.open(f"/p/{made['id']}")
                page.ready()
                page.click("Contact sheet", "a")
                page.wait(lambda: len(page.find_all("fieldset input")) > 2)
                for k in (1, 2):  # up to which seed, and how many pictures
                    field = page.find_all("fieldset input")[k]
                    field.send_keys(Keys.CONTROL, "a")
                    field.send_keys(str(pictures), Keys.TAB)
                started = time.perf_counter()
                page.click("Make the sheet", "button")
                page.wait(
                    lambda: (
                        page.find('[data-testid="contact-sheet"]').get_attribute("data-done")
                        == "true"
                    ),
                    120,
                )
                taken = time.perf_counter() - started
                assert len(page.find_all("[data-setting]")) == pictures
                return taken
        finally:
            server.stop()


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
