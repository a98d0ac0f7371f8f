"""Letting a net go, in the real interface: it moves, is stopped, goes on, starts over; warnings bring their remedies."""

from __future__ import annotations

import re

import pytest

from .test_stories import new_project, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui settling")]
VAULT = {"id": "vault", "kind": "barrel", "values": {"length": 14}}
BAYS = {
    "id": "net",
    "kind": "pattern",
    "values": {"pattern": "quads", "bays_across": 48, "bays_along": 60},
}
HOLD = {"id": "hold", "kind": "hold", "values": {}}
PUSH = {"id": "push", "kind": "push", "values": {}}
# More length than there is room for, all but rigid: it swings for as long as one lets it.
LONG = {"id": "aim", "kind": "aim", "values": {"aim": "today", "share": 112, "strength": 3000}}
ENDLESS = {"id": "settle", "kind": "settle", "values": {"limit": 1e-6, "steps": 100000}}


def step(page):
    return int(
        re.search(r"Step ([\d,]+)", page.find('[data-testid="moving"]').text)[1].replace(",", "")
    )


def test_a_net_is_watched_stopped_gone_on_with_and_started_over(page):
    new_project(page, "Swing", VAULT, BAYS, HOLD, PUSH, LONG, ENDLESS, wait=False)
    first = step(page)
    view = page.find('[data-testid="view"] canvas')
    before = view.screenshot_as_base64
    # Going on takes as many steps again, and so as long again: long enough to be cancelled.
    page.wait(lambda: step(page) > first + 3000)
    page.wait(lambda: view.screenshot_as_base64 != before)
    assert page.find('[data-testid="residuals"]')
    page.click("Stop here", "button")
    page.ready()
    stopped = values(page, "settle")["steps"]
    assert first < stopped < 100000
    assert page.figure("steps").replace(",", "") == str(stopped)
    assert "is not balanced" in page.find('[data-clause="settle"]').text
    # Going on begins where it stopped, and can be cancelled.
    page.click("Go on", "button")
    assert step(page) >= stopped
    page.click("Cancel", "button")
    page.ready()
    page.click("Undo", "button")
    page.wait(lambda: values(page, "settle")["steps"] == stopped)
    page.ready()
    page.click("Start over", "button")
    assert step(page) < stopped
    page.ready()
    assert page.figure("steps").replace(",", "") == str(stopped)


def test_a_collapse_is_explained_and_mended_with_one_click_and_its_forces_are_seen(page):
    bays = {
        "id": "net",
        "kind": "pattern",
        "values": {"pattern": "quads", "bays_across": 10, "bays_along": 12},
    }
    new_project(page, "Held", VAULT, bays, PUSH, {"id": "settle", "kind": "settle"})
    assert "Nothing is held" in page.find('[data-clause="settle"] [role="alert"]').text
    page.click("Hold the borders", "button")
    page.wait(lambda: page.find_all('[data-clause^="hold"]'))
    page.ready()
    assert not page.find_all('[role="alert"]')
    assert float(page.figure("residual").split("\u202f")[0].split()[0].rstrip("%")) < 0.01
    page.click("Show forces", "button")
    page.wait(lambda: "broken: compression" in page.find('[data-testid="legend"]').text)
    assert page.figure("reaction") == page.figure("load")
    page.click("Hide forces", "button")
    page.click("Undo", "button")
    page.wait(lambda: page.find_all('[data-clause="settle"] [role="alert"]'))
