"""Solids in the real interface: made, found by label, weighed, listed, delivered, seen apart."""

import pytest
from selenium.webdriver.common.keys import Keys

from .test_frames import add
from .test_stories import new_project, set_value

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
    page.choose("material", "limestone")
    page.wait(lambda: page.figure("heaviest") == "15.60 t")
    find = page.find("#find")
    find.send_keys("k2", Keys.ENTER)
    page.wait(lambda: page.find('[data-testid="picked"] h3').text == "K2")
    page.wait(lambda: "limestone" in page.find('[data-testid="picked"]').text)
    page.click("In the schedule", "a")
    page.wait(lambda: len(page.find_all('[role="table"] [role="row"][aria-selected]')) == 2)
    assert page.find('[role="row"][aria-selected="true"] [role="cell"]').text == "K2"
    page.click("Deliver", "a")
    page.click("Write the pack", "button")
    page.wait(lambda: page.find_all('[data-testid="pack"]'), 60)
    told = page.find('[data-testid="pack"]').text
    assert "checks passed" in told
    assert "solids of a material as listed" in told
    assert "bodies.csv" in told


def test_a_dome_is_laid_in_courses_seen_apart_and_checked(page):
    new_project(
        page, "Cold Store", {"id": "dome", "kind": "dome", "values": {"span": 8, "rise": 4}}
    )
    added = add(page, "Lay courses of blocks", "blocks")
    page.wait(lambda: page.figure("solid_types") == "13")
    before = page.figure("solids")
    set_value(page, added, "courses", "8")
    page.wait(lambda: page.figure("solids") != before)
    page.wait(lambda: page.figure("solid_types") == "9")
    # Seen apart course by course, coloured by them.
    page.choose("shown-apart", "apart in groups")
    page.find('input[aria-label="How far apart"]').send_keys(Keys.END)
    page.choose("colour-by", "group of solids")
    page.wait(lambda: "course 8" in page.find('[data-testid="legend"]').text)
    page.choose("shown-apart", "put together")
    page.wait(lambda: not page.find_all('input[aria-label="How far apart"]'))
    # Joints without room are told, and going back mends it.
    set_value(page, added, "joint", "500")
    page.wait(lambda: "leave nothing of a block" in page.find(f'[data-clause="{added}"]').text)
    page.click("Undo", "button")
    page.wait(lambda: page.figure("solid_types") == "9")
    checked = add(page, "Check solids", "check-solids")
    set_value(page, checked, "heaviest", "300")
    page.wait(lambda: "heavier than 300 kg" in page.find(f'[data-clause="{checked}"]').text)


def test_cells_are_deepened_and_panels_given_sheets(page):
    vault = {"id": "vault", "kind": "barrel", "values": {"span": 6, "rise": 2, "length": 8}}
    net = {"id": "net", "kind": "pattern", "values": {"pattern": "quads"}}
    new_project(page, "Cover", vault, net, {"id": "panes", "kind": "panels"})
    given = add(page, "Give panels a sheet", "give-sheet")
    set_value(page, given, "share", "50")
    page.wait(lambda: "given this sheet 192" in page.find(f'[data-clause="{given}"]').text)
    page.choose("colour-by", "sheets of panels")
    page.wait(lambda: "3 mm aluminium" in page.find('[data-testid="legend"]').text)
    deep = add(page, "Deepen cells", "deepen")
    page.wait(lambda: page.figure("solids") == "384")
    page.choose("form", "about openings", f'[data-clause="{deep}"]')
    page.wait(lambda: "% of the cell" in page.find(f'[data-clause="{deep}"]').text)
    page.press(f'[data-clause="{deep}"] [data-value="made_as"]')
    page.click("all cells as one shell")
    page.wait(lambda: page.figure("solids") == "1")
