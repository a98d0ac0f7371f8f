"""What people do, in the real interface."""

from __future__ import annotations

import json
import re
import time
import zipfile
from itertools import islice

import numpy as np
import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from leanlattice.exchange.check import findings_of
from leanlattice.exchange.dxf import read_sheet
from leanlattice.statement.document import FORMAT_VERSION, ClauseEntry, Statement
from leanlattice.statement.edits import SetValue
from leanlattice.store.store import Store

from .. import patient
from ..api.test_pool import memory_of_a_worker
from ..conftest import demo
from .browser import Page, Server, chromium

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui stories")]


def drag(page, element, dx, dy):
    ActionChains(page.browser, duration=60).click_and_hold(element).move_by_offset(
        dx // 2, dy // 2
    ).move_by_offset(dx - dx // 2, dy - dy // 2).pause(0.3).release().perform()


def statement(page):
    project = page.browser.current_url.split("/p/")[1].split("/")[0].split("?")[0]
    return project, patient.get(f"{page.url}/api/projects/{project}/statement").json()["statement"]


def values(page, clause):
    return next(c["values"] for c in statement(page)[1]["clauses"] if c["id"] == clause)


def new_project(page, name, *clauses, wait=True):
    body = {
        "format": "lean-lattice-statement",
        "version": FORMAT_VERSION,
        "name": name,
        "clauses": list(clauses),
    }
    return imported(page, body, bool(clauses) and wait)


def imported(page, body, wait=True):
    """The id of a project of a statement, which is opened."""
    made = patient.post(
        f"{page.url}/api/projects/import", files={"file": ("a.json", json.dumps(body))}
    ).json()
    page.open(f"/p/{made['id']}")
    if wait:
        page.ready()
    return made["id"]


def set_value(page, clause, value, text):
    """Types a value of a clause into the field that opens on it."""
    page.browser.execute_script(
        f"document.querySelector('[data-clause={clause}]').scrollIntoView()"
    )
    page.find(f'[data-clause="{clause}"] [data-value="{value}"]').click()
    typed = page.find(f'[data-clause="{clause}"] input')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys(text, Keys.ENTER)


def set_dimension(page, name, text):
    """Types what a named dimension is."""
    page.find(f'[data-value="{name}"]').click()
    typed = page.find(f'input[aria-label="Dimension {name}"]')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys(text, Keys.ENTER)


@pytest.mark.timeout(900)
def test_the_whole_story_from_a_profile_to_a_checked_pack(page, downloads, tmp_path):
    # Of wide bays, as what is told here is as true of a small one.
    hall = demo("boat-hall").model_dump()
    next(d for d in hall["dimensions"] if d["name"] == "bay")["value"] = 3.2
    imported(page, hall | {"name": "Boat Hall of wide bays"})
    page.pictures()
    before_mass, before = page.figure("mass"), values(page, "hall")["profiles"][1][2]

    drag(page, page.find('[data-handle="profiles-1-2"]'), 0, -60)
    page.wait(lambda: page.figure("mass") != before_mass)
    # The point was dragged upward,
    page.wait(lambda: values(page, "hall")["profiles"][1][2][2] > before[2] + 0.5)
    after = values(page, "hall")["profiles"][1][2]
    assert after[1] == pytest.approx(before[1], abs=0.02), "and stayed in its profile's plane"

    page.ready()
    first = page.figure("members")
    bay = page.find('[data-value="module"]')
    drag(page, bay, 40, 0)
    page.wait(lambda: page.figure("members") != first)
    # Dragging a value that is a dimension's name drags the dimension.
    page.wait(lambda: statement(page)[1]["dimensions"][0]["value"] > 3.25)
    page.ready()
    fewer = page.figure("members")

    page.click("Undo", "button")
    page.wait(lambda: page.figure("members") == first)
    page.browser.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "z")
    page.wait(lambda: page.figure("mass") == before_mass)
    page.browser.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, Keys.SHIFT, "z")
    page.wait(lambda: page.figure("mass") != before_mass)
    page.click("Redo", "button")
    page.wait(lambda: page.figure("members") == fewer)
    set_dimension(page, "bay", "4")
    page.wait(lambda: page.figure("members") != fewer)
    page.ready()
    fewer = page.figure("members")

    label = pick_in_view(page)
    page.click("In the schedule", "a")
    row = page.find('[role="row"][aria-selected="true"]')
    page.wait(lambda: label in row.text)

    page.click("Deliver", "a")
    page.click("Write the pack", "button")
    link = page.wait(lambda: page.find('[data-testid="pack"] a'), 400)
    assert re.search(r"All \d+ checks passed", page.find('[data-testid="pack"]').text)
    link.click()
    archive = page.wait(lambda: next(iter(downloads.glob("boat-hall*.zip"))), 30)
    time.sleep(0.5)
    with zipfile.ZipFile(archive) as z:
        z.extractall(tmp_path)
    assert all(f.passed for f in islice(findings_of(tmp_path), 2)), "as it was checked"
    assert len((tmp_path / "members.csv").read_text().splitlines()) - 1 == int(
        fewer.replace(",", "")
    )
    assert read_sheet(tmp_path / "sheets" / "sheet-01.dxf").outer


def pick_in_view(page):
    """Clicks about the middle of the view until something is picked; its label."""
    view = page.find('[data-testid="view"]')
    for dx, dy in ((0, 0), (15, 60), (-40, 40), (60, -20), (0, 120)):
        ActionChains(page.browser).move_to_element_with_offset(view, dx, dy).click().perform()
        time.sleep(0.3)
        if page.find_all('[data-testid="picked"]'):
            return page.find('[data-testid="picked"] h3').text
    raise AssertionError("nothing could be picked")


def test_nothing_is_loaded_from_elsewhere_and_nothing_fails(server):
    with chromium(logs_requests=True) as browser:
        _loads_all_from_its_server(Page(browser, server.url))


def _loads_all_from_its_server(page):
    page.open("/")
    page.open_project("Ferry Shelter")
    for screen in ("Schedules", "Sheets", "Deliver", "Workbench"):
        page.click(screen, "a")
        time.sleep(0.7)
    requests, failed = {}, []
    for entry in page.browser.get_log("performance"):
        message = json.loads(entry["message"])["message"]
        p = message["params"]
        if message["method"] == "Network.requestWillBeSent":
            requests[p["requestId"]] = p["request"]["url"]
        elif message["method"] == "Network.loadingFailed" and not p.get("canceled"):
            failed.append((p["requestId"], p["errorText"]))
        elif message["method"] == "Network.responseReceived" and p["response"]["status"] >= 400:
            failed.append((p["requestId"], p["response"]["status"]))
    assert len(requests) > 8
    assert {u.split("/")[2] for u in requests.values() if u.startswith(("http", "ws"))} == {
        page.url.split("/")[2]
    }
    # What the browser began for itself, before its log, is nothing that the pages asked for.
    assert not [(requests[name], why) for name, why in failed if name in requests]
    fonts = page.browser.execute_script(
        "return [...document.fonts].filter(f => f.status === 'loaded').map(f => f.family)"
    )
    assert {"Source Serif 4 Variable", "Source Sans 3 Variable"} <= {f.strip('"') for f in fonts}


def test_a_statement_is_written_from_nothing(page):
    new_project(page, "From nothing")
    page.word("Add a clause", "button")
    empty = len(page.find('[data-testid="view"]').screenshot_as_png)
    for title in (
        "Dome",
        "Lay a pattern",
        "Frame the net",
        "Panel the cells",
        "Name and sort into types",
    ):
        page.click("Add a clause", "button")
        page.wait(
            lambda t=title: next(e for e in page.find_all("[data-guide]") if e.text.startswith(t))
        ).click()
        page.wait(lambda t=title: page.find_all(f'section[aria-label="{t}"]'))
    page.ready()
    assert int(page.figure("members").replace(",", "")) > 200, "bays of the size of the dome"
    page.choose("density", "number of bays")
    page.wait(lambda: int(page.figure("members").replace(",", "")) > 500)
    page.ready()
    page.pictures()
    assert len(page.find('[data-testid="view"]').screenshot_as_png) > 3 * empty, (
        "there is something to see"
    )

    page.choose("pattern", "quads")
    page.wait(lambda: page.figure("members") == "768")
    field = page.find('[data-value="bays_across"]')
    field.send_keys(Keys.ARROW_UP)
    page.wait(lambda: page.find('[data-value="bays_across"]').text.startswith("17"))
    field = page.find('[data-value="bays_across"]')
    field.click()
    typed = page.find('input[aria-label="Bays across"]')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys("2", Keys.ENTER)
    alert = page.wait(
        lambda: next(e for e in page.find_all('[role="alert"]') if "do not close a ring" in e.text)
    )
    assert "give 3 or more" in alert.text
    assert "Waits for" in page.find('section[aria-label="Frame the net"]').text
    page.click("Undo", "button")
    page.wait(lambda: not page.find_all('section [role="alert"]'))

    page.find('section[aria-label="Frame the net"] [data-value="border"]').click()
    page.find('input[aria-label^="Find a section"]').send_keys("shs 100", Keys.ENTER)
    page.wait(lambda: "SHS 100" in page.find('section[aria-label="Frame the net"]').text)
    page.ready()


def menu(page, clause, entry):
    page.find(f'section[aria-label="{clause}"] button[aria-label^="More for"]').click()
    page.wait(
        lambda: next(e for e in page.find_all('[role="menuitem"]') if e.text == entry)
    ).click()


def test_clauses_are_switched_duplicated_moved_and_removed(page):
    project = new_project(
        page, "Order", {"id": "cap", "kind": "dome"}, {"id": "net", "kind": "pattern"}
    )

    def order():
        return [
            c["id"]
            for c in patient.get(f"{page.url}/api/projects/{project}/statement").json()[
                "statement"
            ]["clauses"]
        ]

    menu(page, "Lay a pattern", "Duplicate")
    page.wait(lambda: order() == ["cap", "net", "pattern-1"])
    page.wait(lambda: len(page.find_all('section[aria-label="Lay a pattern"]')) == 2)
    menu(page, "Dome", "Switch off")
    page.wait(lambda: "no shape above" in page.find('section[aria-label="Lay a pattern"]').text)
    menu(page, "Dome", "Switch on")
    page.wait(lambda: "no shape above" not in page.find('section[aria-label="Lay a pattern"]').text)
    menu(page, "Dome", "Move down")
    page.wait(lambda: order() == ["net", "cap", "pattern-1"])
    page.wait(
        lambda: "no shape above" in page.find_all('section[aria-label="Lay a pattern"]')[0].text
    )
    menu(page, "Lay a pattern", "Remove")
    page.wait(lambda: order() == ["cap", "pattern-1"])
    page.click("Undo", "button")
    page.wait(lambda: order() == ["net", "cap", "pattern-1"])


def test_profiles_in_exact_numbers(page):
    new_project(page, "Profiles", {"id": "hall", "kind": "loft"})
    page.find('[data-value="profiles"]').click()
    field = page.find('input[aria-label="Profile 1 point 3 z"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("4.75", Keys.ENTER)
    page.wait(lambda: values(page, "hall")["profiles"][0][2][2] == 4.75)
    page.click("Copy half way", "button")
    page.wait(lambda: len(values(page, "hall")["profiles"]) == 4)
    assert values(page, "hall")["profiles"][1][0][1] == pytest.approx(4.5)
    page.click("Move along by", "button")
    page.wait(lambda: values(page, "hall")["profiles"][1][0][1] > 5.4)
    page.find('button[aria-label="Add a point after point 1"]').click()
    page.wait(lambda: len(values(page, "hall")["profiles"][1]) == 6)
    page.click("Remove profile", "button")
    page.wait(lambda: len(values(page, "hall")["profiles"]) == 3)
    page.browser.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    page.ready()
    handle = page.find('[data-handle="profiles-1-2"]')
    before = values(page, "hall")["profiles"][1][2]
    page.browser.execute_script("arguments[0].focus()", handle)
    handle.send_keys(Keys.ARROW_UP)
    page.wait(lambda: values(page, "hall")["profiles"][1][2][2] == pytest.approx(before[2] + 0.1))
    whole = values(page, "hall")["profiles"]
    drag(page, page.find('[data-handle="profiles-2"]'), -60, 40)
    page.wait(lambda: values(page, "hall")["profiles"][2] != whole[2])
    moved = np.array(values(page, "hall")["profiles"][2]) - np.array(whole[2])
    assert np.ptp(moved, axis=0).max() < 0.011, "the whole profile moved as one"
    assert abs(moved[0, 1]) > 0.3


def test_the_dome_has_handles_and_dimensions_have_names(page):
    new_project(
        page,
        "Cap",
        {"id": "cap", "kind": "dome", "values": {"span": 12, "rise": 3}},
        {"id": "net", "kind": "pattern"},
    )
    page.pictures()
    drag(page, page.find('[data-handle="rise"]'), 0, -40)
    page.wait(lambda: values(page, "cap")["rise"] > 3.3)
    drag(page, page.find('[data-handle="span"]'), 40, 0)
    page.wait(lambda: values(page, "cap")["span"] > 12.2)
    page.click("Name a dimension", "button")
    page.find('input[aria-label="Name"]').send_keys("h")
    page.find('input[aria-label="Value"]').send_keys(Keys.CONTROL, "a")
    page.find('input[aria-label="Value"]').send_keys("2.5")
    page.click("Add", "button")
    page.wait(
        lambda: statement(page)[1]["dimensions"] == [{"name": "h", "value": 2.5, "unit": "m"}]
    )
    page.find('[data-value="rise"]').click()
    typed = page.find('input[aria-label="Rise"]')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys("h / 2", Keys.ENTER)
    page.wait(lambda: "= 1.25" in page.find('[data-value="rise"]').text)
    set_dimension(page, "h", "h + 1")
    page.wait(lambda: any("refers to itself" in e.text for e in page.find_all('[role="alert"]')))
    page.click("Undo", "button")
    page.wait(lambda: "= 1.25" in page.find('[data-value="rise"]').text)


def test_view_readouts_schedules_and_sheets_are_linked(page):
    page.open_project("Ferry Shelter")
    page.pictures()
    histogram = page.find('[data-testid="histogram"]')
    ActionChains(page.browser).move_to_element_with_offset(
        histogram, 0, 0
    ).click_and_hold().move_by_offset(90, 0).release().perform()
    page.wait(lambda: "picked" in page.find('[data-testid="picked"]').text)
    count = int(page.find('[data-testid="picked"] h3').text.split()[0])
    assert 0 < count < 168
    page.click("In the schedule", "a")
    page.wait(lambda: page.find_all('[role="row"][aria-selected="true"]'))
    page.find('input[type="checkbox"]').click()
    page.wait(lambda: f"{count} of 168 rows" in page.find("main").text)
    page.click("Panels", "button")
    page.find('input[type="checkbox"]').click()
    page.find('input[aria-label="Filter rows"]').send_keys("P17 ")
    row = page.wait(
        lambda: next(r for r in page.find_all('[role="row"]') if r.text.startswith("P17\n"))
    )
    row.click()
    page.click("Sheets", "a")
    page.wait(lambda: page.find("tr.bg-plum-pale button").text == "P17")
    page.click("Show in the model", "a")
    page.wait(lambda: page.find('[data-testid="picked"] h3').text == "P17")

    find = page.find("#find")
    find.send_keys("n1", Keys.ENTER)
    page.wait(lambda: page.find('[data-testid="picked"] h3').text == "N1")
    assert "valence" in page.find('[data-testid="picked"]').text
    find = page.find("#find")
    find.send_keys("Z9", Keys.ENTER)
    page.word("Nothing is labelled “Z9”.")
    find.send_keys(Keys.ESCAPE)


def test_looks_layers_cut_measure_and_colours(page):
    page.open_project("Ferry Shelter")
    body = page.browser.find_element(By.TAG_NAME, "body")
    view = page.find('[data-testid="view"]')

    def picture():
        page.pictures()
        time.sleep(0.2)
        return view.screenshot_as_png

    seen = [picture()]
    for change in (
        lambda: page.click("Plan", "button"), lambda: page.click("Along x", "button"), lambda: body.send_keys("y"),
        lambda: body.send_keys("l"), lambda: body.send_keys("o"),
    ):  # fmt: skip
        change()
        seen.append(picture())
    page.choose("section-cut", "cut across x")
    seen.append(picture())
    page.click("Shown", "button")
    for layer in ("Nodes", "Shape", "Net", "Panels"):
        page.click(layer, "label")
    body.send_keys(Keys.ESCAPE)
    seen.append(picture())
    page.choose("colour-by", "member length")
    legend = page.find('[data-testid="legend"]').text
    assert "in m" in legend
    assert "0.38" in legend
    seen.append(picture())
    assert len(set(seen)) == len(seen), "every change shows"
    page.click("Measure", "button")
    for dx, dy in ((-190, -60), (-120, -140)):
        ActionChains(page.browser).move_to_element_with_offset(view, dx, dy).click().perform()
        seen.append(picture())
    assert len(set(seen)) == len(seen)
    # What was measured stays, when one looks again too, until it is cleared.
    page.browser.refresh()
    page.ready()
    page.click("Measure", "button")
    page.click("Clear the one that stays", "button")
    page.wait(lambda: "Clear" not in page.find('[data-testid="view"]').text)


def test_a_second_window_follows_and_does_not_overwrite(page):
    project = new_project(page, "Shared", {"id": "cap", "kind": "dome", "values": {"rise": 2}})
    first = page.browser.current_window_handle
    page.browser.switch_to.new_window("window")
    page.open(f"/p/{project}")
    page.ready()
    field = page.find('[data-value="rise"]')
    field.send_keys(Keys.ARROW_UP)
    page.wait(lambda: page.find('[data-value="rise"]').text.startswith("2.05"))
    page.browser.close()
    page.browser.switch_to.window(first)
    page.wait(lambda: page.find('[data-value="rise"]').text.startswith("2.05"))


def test_projects_come_and_go(page, tmp_path):
    page.open("/")
    page.click("New project", "button")
    page.find('[data-beginning="empty"]').click()
    page.wait(lambda: page.word("beginning", "a"))
    page.find('button[title="Rename the project"]').click()
    name = page.find('input[aria-label="Name of the project"]')
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Salt Store", Keys.ENTER)
    page.wait(lambda: "Salt Store" in page.browser.title)
    page.open("/")
    page.find('[data-project="Salt Store"] button[aria-label="More for Salt Store"]').click()
    page.click("Remove")
    page.wait(lambda: not page.find_all('[data-project="Salt Store"]'))
    page.click("Bring it back", "button")
    page.find('[data-project="Salt Store"]')
    (tmp_path / "newer.json").write_text('{"format": "lean-lattice-statement", "version": 12}')
    page.find('input[type="file"]').send_keys(str(tmp_path / "newer.json"))
    page.wait(lambda: "version 12" in page.find('[role="alert"]').text)
    # Cards are drawn without being opened, but for one of which there is nothing to draw.
    page.wait(
        lambda: any(
            image.get_property("naturalWidth") > 100
            for image in page.find_all("[data-project] img")
        ),
        60,
    )
    page.wait(lambda: "not drawn yet" in page.find('[data-project="Salt Store"]').text)


def test_a_server_that_comes_back_is_found_again(page, server):
    page.open_project("Ferry Shelter")
    server.kill()
    page.wait(lambda: "not answering" in page.find("footer").text)
    # What cannot be taken is not shown as if it were.
    page.find('[data-value="rise"]').send_keys(Keys.ARROW_UP)
    page.wait(lambda: "This was not done" in page.find("body").text)
    page.wait(lambda: page.find('[data-value="rise"]').text.startswith("1.8\u202f"))
    server.start()
    page.wait(lambda: page.find_all('[data-testid="ready"]'), 60)
    page.find('[data-value="rise"]').send_keys(Keys.ARROW_UP)
    page.wait(lambda: page.find('[data-value="rise"]').text.startswith("1.85"))
    page.browser.get_log("browser")


def test_a_clause_that_takes_too_much_says_so_and_stops_nothing_else(browser, tmp_path):
    large = {"pattern": "quads", "bays_across": 300, "bays_along": 300}
    route = [("a", "loft", {}), ("b", "pattern", large), ("d", "frame", {}), ("e", "dome", {})]
    most = memory_of_a_worker() + 60_000_000
    server = Server(tmp_path / "data", demo=False, workers=1, worker_memory=most)
    try:
        page = Page(browser, server.url)
        new_project(page, "Heavy", *({"id": i, "kind": k, "values": v} for i, k, v in route))
        told = f"more than {most / 1e9:.1f} GB of memory"
        page.wait(lambda: told in page.find('[data-clause="d"]').text, 90)
        assert "m²" in page.find('[data-clause="e"]').text
        page.click("Try again", "button")
        page.wait(lambda: page.find_all('[data-testid="busy"]'))
        change = {"op": "set", "clause": "b", "name": "bays_along", "value": 3}
        project, base = statement(page)[0], 0
        body = {"edit": change, "base": base}
        assert patient.post(f"{server.url}/api/projects/{project}/edits", json=body).is_success
        page.wait(lambda: page.figure("members") == "2,103", 60)
    finally:
        # A window left open would go on looking for its server, and be heard in the next story.
        browser.get("about:blank")
        browser.get_log("browser")
        server.stop()


def test_a_project_that_cannot_be_read_is_taken_back_to_where_it_can(page, server):
    # What an older program may have let through, written past the server.
    store = Store(server.data)
    entry = ClauseEntry(id="cap", kind="dome")
    project = store.create(Statement(name="Stuck", clauses=[entry]))
    for span in (8, 9):
        head = store.edit(project, SetValue(clause="cap", name="span", value=span)).head
    with store.engine.begin() as connection:
        wrong = '{"op": "dimension", "dimension": {"name": "a", "value": Infinity}}'
        connection.exec_driver_sql("UPDATE edits SET edit = ? WHERE id = ?", (wrong, head))
    page.open(f"/p/{project}")
    page.wait(lambda: len(page.find_all("[data-state]")) == 3)
    assert "cannot be read" in page.find(f'[data-state="{head}"]').text
    page.click("Go back to the last state that can be read", "button")
    page.wait(lambda: values(page, "cap") == {"span": 8})
    page.ready()
    assert page.figure("extent_x") == "8.00 m"
