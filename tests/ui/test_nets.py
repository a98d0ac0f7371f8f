"""Laying and changing nets, in the real interface: pull points, changes, colours, contact sheets."""

from __future__ import annotations

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.support.ui import Select

from .test_stories import drag, new_project, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui nets")]
VAULT = {"id": "vault", "kind": "barrel", "values": {"length": 12}}


def test_a_pull_point_is_dragged_and_a_net_is_changed_and_coloured(page):
    net = {
        "id": "net",
        "kind": "pattern",
        "values": {"pattern": "hexagons", "bays_across": 10, "bays_along": 12},
    }
    new_project(
        page,
        "Pulled",
        VAULT,
        {"id": "pull", "kind": "pull", "values": {"points": [[0, 0, 3.5]]}},
        net,
    )
    before = page.figure("smallest_cell")
    page.find('[data-clause="pull"] strong').click()
    drag(page, page.find('[data-handle="points-0"]'), 60, 30)
    page.wait(lambda: values(page, "pull")["points"] != [[0, 0, 3.5]])
    page.wait(lambda: page.figure("smallest_cell") != before)
    cells = page.figure("cells")
    page.click("Add a clause", "button")
    page.find('[data-guide="dual"]').click()
    page.wait(lambda: page.figure("cells") != cells)
    page.choose("colour-by", "cell area")
    page.wait(lambda: "Cell area" in page.find('[data-testid="legend"]').text)
    page.find('[data-figure="sharpest"] button').click()
    page.click("Undo", "button")
    page.wait(lambda: page.figure("cells") == cells)


def test_a_contact_sheet_tries_two_values_and_one_is_kept(page):
    net = {
        "id": "net",
        "kind": "pattern",
        "values": {"pattern": "voronoi", "bays_across": 5, "bays_along": 6},
    }
    new_project(page, "Sheet", VAULT, net)
    page.click("Contact sheet", "a")
    page.click("A second value", "button")
    choices = page.find_all("select")
    assert choices[0].get_attribute("value") == "net/seed"
    Select(choices[1]).select_by_value("net/bays_across")
    page.click("Make the sheet", "button")
    page.wait(
        lambda: page.find('[data-testid="contact-sheet"]').get_attribute("data-done") == "true", 60
    )
    cards = page.find_all("[data-setting]")
    assert len(cards) >= 24
    assert all(c.find_elements("css selector", "img") for c in cards)
    assert values(page, "net")["bays_across"] == 5, "nothing changes until one is kept"
    seed, bays = map(int, cards[-1].get_attribute("data-setting").split(","))
    keep = cards[-1].find_element("css selector", "button")
    ActionChains(page.browser).scroll_to_element(keep).perform()
    keep.click()
    page.wait(
        lambda: (
            values(page, "net").get("seed") == seed and values(page, "net")["bays_across"] == bays
        )
    )


def test_a_box_is_wrapped_thinned_and_marked_and_a_wireframe_is_brought(page, tmp_path):
    box = {"id": "box", "kind": "box", "values": {"along_x": 6, "along_y": 4, "height": 5}}
    net = {"id": "net", "kind": "pattern", "values": {"density": "module", "module": 1}}
    new_project(page, "Wrapped", box, net)
    assert "Border loops 0" in page.find('[data-clause="net"]').text
    all_round = page.figure("cells")

    def add(kind):
        page.click("Add a clause", "button")
        page.find(f'[data-guide="{kind}"]').click()
        page.wait(lambda: page.find_all(f'[aria-label="{TITLES[kind]}"]'))

    add("leave-out")
    page.wait(lambda: page.figure("cells") != all_round)
    assert "Left out 58" in page.find(f'[aria-label="{TITLES["leave-out"]}"]').text, (
        "nothing faces the ground"
    )
    add("mark-edges")
    page.wait(lambda: "main" in page.find('[data-testid="legend"]').text)
    add("weave")
    page.wait(lambda: page.find_all('[data-figure="crossings"]'))
    page.click("Undo", "button")
    page.click("Undo", "button")
    page.wait(lambda: not page.find_all('[data-testid="legend"]'))

    (tmp_path / "grid.obj").write_text("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 1\nl 1 2 3 4 1\nl 1 3\n")
    new_project(page, "Brought", {"id": "wires", "kind": "wireframe", "values": {}})
    page.wait(lambda: "No file is chosen" in page.find('[data-clause="wires"]').text)
    page.find('[data-file="file"]').send_keys(str(tmp_path / "grid.obj"))
    page.wait(lambda: page.find_all('[data-figure="cells"]') and page.figure("cells") == "2")
    assert "taken as metres" in page.find('[data-clause="wires"]').text


TITLES = {"leave-out": "Leave cells out", "mark-edges": "Mark edges", "weave": "Weave the strands"}
