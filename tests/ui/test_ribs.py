"""The rib route in the real interface: a body becomes a waffle, its proof, and its sheets."""

from __future__ import annotations

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from .test_stories import new_project, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui")]
BALL = {"id": "ball", "kind": "ball", "values": {"radius": 0.6, "solid": "body"}}
RIBS = {"id": "ribs", "kind": "waffle", "values": {"number_first": 4, "number_second": 3}}


def test_a_body_becomes_ribs_that_are_proved_and_set_out_on_sheets(page):
    project = new_project(page, "Ribbed", BALL, RIBS)
    assert page.figure("ribs") == "7"
    page.wait(lambda: page.figure("overlap").startswith("0.000"))
    assert float(page.figure("gap").split()[0]) < 0.1
    before = page.figure("crossings")
    page.find('[data-value="number_first"]').send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    page.wait(lambda: values(page, "ribs")["number_first"] == 6)
    page.wait(lambda: page.figure("ribs") == "9" and page.figure("crossings") != before)
    page.click("Add a clause", "button")
    page.find('[data-guide="rib-sheets"]').click()
    page.wait(lambda: int(page.figure("sheets")) >= 1)
    page.click("Sheets", "a")
    page.wait(lambda: "on this sheet" in page.find("aside").get_attribute("aria-label").lower())
    page.wait(lambda: any(label in page.find("aside").text for label in ("A1", "B1", "A3", "B2")))
    page.click("Schedules", "a")
    page.click("Ribs", "button")
    page.wait(lambda: len(page.find_all('[role="row"]')) >= 9)
    table = httpx.get(f"{page.url}/api/projects/{project}/schedules/ribs").json()
    assert [c["name"] for c in table[0]["columns"]] == [
        "label", "set", "thickness_mm", "slots", "area_m2", "outline_length_mm",
    ]  # fmt: skip
