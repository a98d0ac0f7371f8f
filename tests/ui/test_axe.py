"""What axe-core, which ships with the interface's tools, finds wrong with how screens are told to those
who do not see them: nothing."""

from __future__ import annotations

from pathlib import Path

import pytest

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
ASK = """
const done = arguments[0];
axe.run().then(found => done(found.violations.map(wrong =>
  [wrong.id, wrong.help, ...wrong.nodes.slice(0, 3).map(node => node.html.slice(0, 160))].join("\\n"))));
"""
SCREENS = ["Workbench", "Trace", "Contact sheet", "Schedules", "Sheets", "Deliver"]


def found(page):
    page.browser.execute_script(AXE.read_text(encoding="utf-8"))
    return page.browser.execute_async_script(ASK)


@pytest.mark.parametrize("path", ["/", "/new"])
def test_nothing_is_wrong_with_what_one_begins_with(page, path):
    page.open(path)
    page.wait(lambda: len(page.find_all("main img")) > 5)
    assert found(page) == []


def test_nothing_is_wrong_with_the_screens_of_a_project(page):
    page.open_project("Gull Porch")
    wrong = {}
    for screen in SCREENS:
        page.click(screen, "a")
        page.ready_or_loaded()
        wrong[screen] = found(page)
    page.click("Workbench", "a")
    page.click("Add a clause", "button")
    page.wait(lambda: page.find_all("[data-guide]"))
    wrong["guide"] = found(page)
    page.find('input[aria-label="Search the guide"]').send_keys("\ue00c")
    page.press('[data-clause] button[aria-label^="More for"]')
    page.click("Explain …")
    page.wait(lambda: page.find('[role="dialog"] table'))
    wrong["explained"] = found(page)
    assert {screen: told for screen, told in wrong.items() if told} == {}
