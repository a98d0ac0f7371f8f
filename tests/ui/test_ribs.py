"""The rib route in the real interface: a body becomes a waffle, its proof, and its sheets."""

from __future__ import annotations

import io
import time

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.keys import Keys

from .. import patient
from .test_stories import drag, new_project, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui ribs")]
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
    page.find('[data-guide="set-out"]').click()
    page.wait(lambda: int(page.figure("sheets")) >= 1)
    page.click("Sheets", "a")
    page.wait(lambda: "on this sheet" in page.find("aside").get_attribute("aria-label").lower())
    page.wait(lambda: any(label in page.find("aside").text for label in ("A1", "B1", "A3", "B2")))
    page.click("Schedules", "a")
    page.click("Ribs", "button")
    page.wait(lambda: len(page.find_all('[role="row"]')) >= 9)
    table = patient.get(f"{page.url}/api/projects/{project}/schedules/ribs").json()
    assert [c["name"] for c in table[0]["columns"]] == [
        "label", "set", "thickness_mm", "radius_m", "slots", "area_m2", "outline_length_mm",
    ]  # fmt: skip


def test_ribs_too_long_for_a_sheet_are_spliced_from_their_warning(page):
    """The warning offers the joints; how long lengths may be is changed in the sentence, and taken
    back."""
    box = {"id": "box", "kind": "box", "values": {"along_x": 6, "along_y": 1.5, "height": 0.5}}
    sheets = {"id": "sheets", "kind": "set-out", "values": {}}
    new_project(page, "Long ribs", box, RIBS, sheets)
    assert page.figure("ribs") == "7"
    warning = page.wait(
        lambda: next(e for e in page.find_all("section") if "larger than a sheet" in e.text)
    )
    assert "or to splice them" in warning.text
    page.click("Splice ribs longer than 2460 mm", "button")
    page.wait(lambda: page.find_all('section[aria-label="Splice long ribs"]'))
    page.ready()
    page.wait(lambda: page.figure("ribs") == "15")
    assert page.figure("splices") == "8"
    assert not any("larger than a sheet" in e.text for e in page.find_all("section"))
    page.wait(lambda: page.figure("overlap").startswith("0.000"))
    page.click("Schedules", "a")
    page.click("Ribs", "button")
    page.wait(lambda: any(r.text.startswith("A2-3") for r in page.find_all('[role="row"]')))
    page.click("Workbench", "a")
    page.find('[data-value="longest"]').click()
    typed = page.find('input[aria-label="Longest length"]')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys("1800", Keys.ENTER)
    page.wait(lambda: page.figure("ribs") == "19")
    page.click("Undo", "button")
    page.wait(lambda: page.figure("ribs") == "15")


def slide(page, label, share):
    """Puts a slider at a share of its range, as a hand would."""
    page.browser.execute_script(
        """const slider = document.querySelector(`input[aria-label="${arguments[0]}"]`);
        Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(slider, arguments[1] * slider.max);
        slider.dispatchEvent(new Event('input', { bubbles: true }));""",
        label, share,
    )  # fmt: skip
    page.pictures()


# Grey levels by which two pictures differ that show the same.
SAME = 0.05


def picture(page):
    """The view's pixels as a small grey picture."""
    page.fine_picture()
    png = page.find('[data-testid="view"] canvas').screenshot_as_png
    return np.asarray(Image.open(io.BytesIO(png)).convert("L").resize((160, 120)), float)


def test_ribs_are_dragged_one_by_one(page):
    places = {
        "places_first": [[0, -0.3, 0], [0, 0.1, 0]],
        "places_second": [[-0.2, 0, 0], [0.3, 0, 0]],
    }
    own = RIBS | {"values": {"by": "places"} | places}
    new_project(page, "One by one", BALL, own)
    assert page.figure("ribs") == "4"
    page.find('[data-clause="ribs"]').click()
    page.click("Along y", "button")
    handle = page.find('[data-handle="places_second-1"]')
    drag(page, handle, -50, 0)
    page.wait(lambda: abs(values(page, "ribs")["places_second"][1][0] - 0.3) > 0.02)
    moved = values(page, "ribs")
    assert moved["places_second"][0] == [-0.2, 0, 0], "the others stay"
    assert page.figure("ribs") == "4"
    page.click("Undo", "button")
    page.wait(lambda: values(page, "ribs")["places_second"][1] == [0.3, 0, 0])


def test_parts_fly_to_their_sheets_and_are_put_together_one_by_one(page):
    sheets = {"id": "boards", "kind": "set-out"}
    new_project(page, "Flying", BALL, RIBS, sheets)
    page.wait(lambda: "7 parts" in page.find('[data-testid="flight-step"]').text)
    home = picture(page)
    slide(page, "Parts between their places and their sheets", 1)
    apart = np.abs(picture(page) - home).mean()
    assert apart > 2, "they lie beside the model"
    slide(page, "Parts between their places and their sheets", 0)
    assert np.abs(picture(page) - home).mean() < SAME, "and go back to where they were"
    slide(page, "Parts put together", 0.45)
    words = page.find('[data-testid="flight-step"]').text
    assert words.startswith("4 of 7: A4"), words
    assert np.abs(picture(page) - home).mean() > 1
    slide(page, "Parts put together", 0.6)
    assert "from above" in page.find('[data-testid="flight-step"]').text
    page.click("Put together", "button")
    page.wait(lambda: page.find('[data-testid="flight-step"]').text == "7 parts", 20)
    assert np.abs(picture(page) - home).mean() < SAME


def test_a_still_picture_is_the_same_however_slow_those_before_it_were(page):
    new_project(page, "Slowly", BALL, RIBS)
    home = picture(page)
    slowly = """const [done] = arguments; let left = 12;
      const step = () => {
        const until = performance.now() + 250;
        while (performance.now() < until);
        const view = document.querySelector("[data-picture]");
        view.style.width = left % 2 ? "90%" : "";
        if (left--) requestAnimationFrame(step); else { view.style.width = ""; done(); }
      };
      requestAnimationFrame(step);"""
    page.browser.execute_async_script(slowly)
    assert page.find("[data-picture]").get_attribute("data-picture") == "quick"
    assert np.abs(picture(page) - home).mean() < SAME


def test_parts_are_pinned_on_their_sheet_and_arranged_better_in_the_background(page):
    small = BALL | {"values": {"radius": 0.2, "solid": "body"}}
    new_project(page, "Arranged", small, RIBS | {"values": {"number_first": 6, "number_second": 5}},
                {"id": "boards", "kind": "set-out"})  # fmt: skip
    page.click("Sheets", "a")
    page.wait(lambda: len(page.find_all('[data-testid="sheet-picture"] .PART')) == 11)

    def lies():
        return {v[0]: v[1:] for v in values(page, "boards").get("arrangement", [])}

    part = max(page.find_all('[data-testid="sheet-picture"] .PART'), key=lambda e: e.rect["x"])
    label = part.get_attribute("id")
    drag(page, part, 45, -5)
    page.wait(lambda: [k for k, v in lies().items() if v[4]] == [label])
    page.wait(lambda: page.word("Unpin 1", "button"))
    before = lies()
    page.find('[data-testid="sheet-picture"]').send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.wait(lambda: lies()[label][1] == pytest.approx(before[label][1] + 1, abs=0.01))
    page.click("Turn", "button")
    page.wait(
        lambda: lies()[label][3] % 360 == pytest.approx((before[label][3] + 90) % 360, abs=0.01)
    )
    assert {k: v for k, v in lies().items() if k != label} == {
        k: pytest.approx(v, abs=0.01) for k, v in before.items() if k != label
    }, "the others stay"
    for _ in range(3):
        page.click("Undo", "button")
    page.wait(lambda: not values(page, "boards").get("arrangement"))
    page.click("Arrange better (30 s)", "button")
    page.find('[data-testid="arranging"]')
    time.sleep(3)
    page.click("Take the best now", "button")
    words = page.wait(lambda: page.find('[data-testid="arranged"]').text)
    assert "within outlines" in words or "No better" in words
    if "within outlines" in words:
        page.wait(lambda: len(values(page, "boards")["arrangement"]) == 11)
        page.click("Undo", "button")
        page.wait(lambda: not values(page, "boards").get("arrangement"))


def test_the_cutting_table_runs_a_sheet_stops_and_refuses(page):
    sheets = {"id": "boards", "kind": "set-out", "values": {"spacing": 7}}
    new_project(page, "On the table", BALL, RIBS, sheets)
    page.click("Sheets", "a")
    state = lambda: page.find('[data-testid="table-state"]').text  # noqa: E731
    page.wait(lambda: state() == "ready")
    page.click("Send sheet 1", "button")
    page.wait(lambda: "On the table, sheet 1" in page.find('[data-testid="on-table"]').text)
    page.click("Start the table", "button")
    page.wait(
        lambda: (
            state() == "cutting" and page.find_all('[data-testid="sheet-picture"] .aids polyline')
        )
    )
    page.click("Stop the table", "button")
    page.wait(
        lambda: (
            state() == "waiting"
            and "Stopped by hand" in page.find('[aria-label="Cutting table"]').text
        )
    )
    page.click("Go on", "button")
    page.wait(lambda: state() == "cutting")
    page.click("Let it fail", "button")
    page.click("Its tool is worn")
    page.wait(lambda: "The tool is worn" in page.find('[aria-label="Cutting table"]').text)
    page.click("Change the tool", "button")
    page.click("30 × as fast", "button")
    page.click("300 times as fast")
    page.click("Go on", "button")
    page.wait(lambda: "Cut: On the table, sheet 1" in page.find('[data-testid="last-cut"]').text)
    # A tool as wide as that does not get into the reliefs of the slots.
    tool = page.find('[aria-label="Cutting table"] input')
    tool.send_keys(Keys.CONTROL, "a")
    tool.send_keys("9", Keys.ENTER)
    page.wait(lambda: patient.get(f"{page.url}/api/table").json()["tool"] == 9)
    page.click("Send sheet 1", "button")
    page.wait(
        lambda: (
            "Refused: A detail is smaller than the tool of 9 mm"
            in page.find('[aria-label="Cutting table"]').text
        )
    )
    page.click("Show me", "button")
    page.wait(lambda: page.find_all('[data-testid="sheet-picture"] .aids circle'))
    patient.post(f"{page.url}/api/table", json={"do": "tool", "value": 3})


def test_others_follow_a_spine_cables_are_chosen_and_bends_are_listed(page):
    def curves(name, *points, **more):
        return {
            "id": name,
            "kind": "draw",
            "values": {"curves": [["spline", [list(p) for p in points]]]} | more,
        }

    count = {"number_first": 6, "number_second": 2, "thick_second": 6}
    project = new_project(
        page, "Bent", {"id": "hall", "kind": "box", "values": {"along_x": 3, "along_y": 1.6, "height": 0.6}},
        curves("way", (-1.4, -0.2), (0, 0.15), (1.4, -0.2)), curves("cable", (-1.45, 0.1), (0, 0.1), (1.45, 0.1), plane="front"),
        {"id": "ribs", "kind": "spine-ribs", "on": {"curves": "way"}, "values": count},
        {"id": "cables", "kind": "rib-rods", "values": {}},
        {"id": "boards", "kind": "set-out", "values": {"width": 4000, "height": 2000}},
    )  # fmt: skip
    assert page.figure("ribs") == "8"
    page.choose("run", "following its offsets", '[data-clause="ribs"]')
    page.wait(lambda: values(page, "ribs").get("run") == "following")
    page.ready()
    page.choose("way", "along drawn curves through both", '[data-clause="cables"]')
    page.wait(
        lambda: "There are no curves for the cables yet" in page.find('[data-clause="cables"]').text
    )
    page.click("Run them along the curves above", "button")
    page.wait(lambda: "There are no curves" not in page.find('[data-clause="cables"]').text)
    page.ready()
    assert page.figure("crossings") == "12"
    assert float(page.figure("overlap").split()[0]) < 1
    slide(page, "Parts between their places and their sheets", 1.0)
    page.click("Schedules", "a")
    page.click("Bends", "button")
    page.wait(lambda: len(page.find_all('[role="row"]')) > 10)
    table = patient.get(f"{page.url}/api/projects/{project}/schedules/bends").json()
    names = {c["name"]: c["values"] for c in table[0]["columns"]}
    assert set(names["label"]) == {"B1", "B2"}
    whole = sum(
        to - start
        for label, start, to in zip(names["label"], names["from_mm"], names["to_mm"], strict=True)
        if label == "B1"
    )
    assert 3000 < whole < 3300, "a little longer than the hall"
