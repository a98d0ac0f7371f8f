"""Solids of a material, in the real interface: made, found by label, weighed, listed, delivered."""

import pytest
from selenium.webdriver.common.keys import Keys

from .test_stories import new_project

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui solids")]

BODIES = [
    {"id": "box", "kind": "box", "values": {"along_x": 2, "along_y": 3, "height": 1}},
    {"id": "ball", "kind": "ball", "values": {"radius": 1, "solid": "body", "centre": [6, 0, 1]}},
    {"id": "all", "kind": "combine"},
]


def test_pieces_of_a_body_become_solids_that_are_found_weighed_and_delivered(page):
    new_project(page, "Stones", *BODIES, {"id": "stones", "kind": "solids"})
    assert page.figure("solids") == "2"
    assert page.figure("heaviest") == "15.00 t"
    # Another material weighs more at once.
    page.find('[data-value="material"]').click()
    page.click("limestone")
    page.wait(lambda: page.figure("heaviest") == "15.60 t")
    find = page.find("#find")
    find.send_keys("k2", Keys.ENTER)
    page.wait(lambda: page.find('[data-testid="picked"] h3').text == "K2")
    page.wait(lambda: "limestone" in page.find('[data-testid="picked"]').text)
    page.click("In the schedule", "a")
    page.wait(lambda: len(page.find_all('[role="table"] [role="row"]')) == 3)
    assert page.find('[role="row"][aria-selected="true"] [role="cell"]').text == "K2"
    page.click("Deliver", "a")
    page.click("Write the pack", "button")
    page.wait(lambda: page.find_all('[data-testid="pack"]'), 60)
    told = page.find('[data-testid="pack"]').text
    assert "checks passed" in told
    assert "solids of a material as listed" in told
    assert "bodies.csv" in told
