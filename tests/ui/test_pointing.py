"""What is pointed at lights what it governs; things are shown alone, clauses chosen together, states named, and all sheets
seen at once."""

from __future__ import annotations

import io
import itertools

import pytest
from PIL import Image, ImageChops
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .test_stories import drag, menu, new_project, statement

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui pointing")]

VAULT = [
    {"id": "vault", "kind": "barrel", "values": {"span": 8, "rise": 3, "length": 9}},
    {"id": "net", "kind": "pattern", "values": {"bays_across": 6, "bays_along": 6}},
    {"id": "steel", "kind": "frame", "values": {}},
]


def seen(page):
    """The view as it is drawn now."""
    page.fine_picture()
    return Image.open(io.BytesIO(page.find('[data-testid="view"]').screenshot_as_png)).convert(
        "RGB"
    )


def lilac(picture):
    """How many pixels are in the colour of what is pointed at: red and blue well above green."""
    data = picture.resize((picture.width // 2, picture.height // 2)).getdata()
    return sum(r - g > 40 and b - g > 25 for r, g, b in data)


def point_at(page, element):
    page.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
    ActionChains(page.browser).move_to_element(element).move_by_offset(1, 0).perform()


def clauses(page):
    return statement(page)[1]["clauses"]


def away(page):
    ActionChains(page.browser).move_to_element(page.find("header h1 button")).perform()


def test_values_rows_and_bars_light_what_they_govern_and_are_lit_by_it(page):
    new_project(page, "Lit", *VAULT)
    away(page)
    plain = lilac(seen(page))
    point_at(page, page.find('[data-clause="steel"] [data-value="inner"]'))
    assert lilac(seen(page)) > plain + 300
    away(page)
    assert lilac(seen(page)) < plain + 60
    bar = page.find('[data-testid="histogram"]')
    page.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", bar)
    ActionChains(page.browser).move_to_element_with_offset(
        bar, -bar.size["width"] // 2 + 3, 0
    ).perform()
    assert lilac(seen(page)) > plain + 100
    # A handle is lit by its value.
    point_at(page, page.find('[data-clause="vault"] [data-value="span"]'))
    page.press('[data-clause="vault"]')
    point_at(page, page.find('[data-clause="vault"] [data-value="span"]'))
    page.wait(lambda: page.find_all("[data-handle] [data-lit]"))
    # The other way round: what is picked lights its value, and its place among the others.
    page.find("#find").send_keys("M3", Keys.ENTER)
    page.wait(lambda: page.find_all("[data-governs]"))
    assert [e.text for e in page.find_all("[data-governs]")] == ["CHS 88.9 × 4"]
    assert len(page.find_all('[data-testid="mark of what is picked"]')) == 1
    page.click("Schedules", "a")
    page.ready_or_loaded()
    rows = page.wait(lambda: page.find_all('[role="row"][aria-selected="false"]'))
    away(page)
    before = seen(page)
    point_at(page, rows[2])
    assert ImageChops.difference(before, seen(page)).getbbox()
    assert page.find_all('[data-testid="spark"]')


def test_things_are_shown_alone_and_a_cut_is_dragged(page):
    new_project(page, "Alone", *VAULT)
    away(page)
    whole = seen(page)
    page.find("#find").send_keys("M3", Keys.ENTER)
    page.click("Show alone", "button")
    page.word("Show all again", "button")
    away(page)
    page.click("Fit all", "button")
    alone = seen(page)
    colours = [len(set(p.resize((120, 120)).getdata())) for p in (whole, alone)]
    assert colours[1] < colours[0] / 2
    page.click("Show all again", "button")
    page.find("body").send_keys(Keys.ESCAPE)
    page.choose("section-cut", "cut across y")
    grip = page.find('[data-testid="grip of the cut"]')
    place = grip.text
    assert place.startswith("y 0.00")
    drag(page, grip, 60, -10)
    page.wait(lambda: page.find('[data-testid="grip of the cut"]').text != place)
    grip.send_keys(Keys.ARROW_LEFT)
    grip.send_keys(Keys.ESCAPE)
    page.wait(lambda: not page.find_all('[data-testid="grip of the cut"]'))


def test_clauses_are_chosen_together_bundled_and_switched_as_one(page):
    new_project(page, "Bundles", *VAULT)
    menu(page, "Lay a pattern", "Choose, with others")
    steel = page.find('[data-clause="steel"] p')
    ActionChains(page.browser).key_down(Keys.CONTROL).move_to_element_with_offset(
        steel, steel.size["width"] // 2 - 3, 0
    ).click().key_up(Keys.CONTROL).perform()
    page.word("2 clauses", "span")
    name = page.find('[aria-label="Name of the bundle"]')
    name.send_keys("roof", Keys.ENTER)
    page.wait(lambda: [c.get("bundle") for c in clauses(page)][1:] == ["roof", "roof"])
    assert len(page.find_all('[data-bundle="roof"]')) == 2  # in each chapter it has clauses in
    page.press('[data-bundle="roof"] button:last-child')
    page.wait(lambda: [c["off"] for c in clauses(page)] == [False, True, True])
    page.click("Undo", "button")
    page.wait(lambda: not any(c["off"] for c in clauses(page)))
    page.press('[data-bundle="roof"] button:first-child')
    page.wait(lambda: not page.find_all('[data-clause="net"]'))
    page.press('[data-bundle="roof"] button:first-child')
    page.click("Choose", "button")
    page.click("Remove", "button")
    page.wait(lambda: [c["id"] for c in clauses(page)] == ["vault"])
    page.click("Undo", "button")
    page.wait(lambda: len(clauses(page)) == 3)


def test_a_state_is_named_and_gone_back_to_by_its_picture(page):
    new_project(page, "States", *VAULT)
    page.click("History", "button")
    page.find('[aria-label="Name of where the project stands now"]').send_keys(
        "before the client", Keys.ENTER
    )
    page.find('[data-named="before the client"] img')
    page.find("body").send_keys(Keys.ESCAPE)
    menu(page, "Frame the net", "Remove")
    page.wait(lambda: len(clauses(page)) == 2)
    page.click("History", "button")
    page.press('[data-named="before the client"] button')
    page.wait(lambda: len(clauses(page)) == 3)
    page.click("History", "button")
    page.press('[aria-label="Forget the name before the client"]')
    page.wait(lambda: not page.find_all("[data-named]"))


def test_all_sheets_are_seen_at_once_and_one_is_opened(page):
    sheets = {"width": 1500, "height": 1500}
    new_project(page, "Many", *VAULT, {"id": "glass", "kind": "panels", "values": {}},
                {"id": "cut", "kind": "set-out", "values": sheets})  # fmt: skip
    page.click("Sheets", "a")
    page.click("All sheets", "button")
    cards = page.wait(lambda: page.find_all('[aria-label="All sheets"] li button'))
    assert len(cards) > 3
    page.wait(
        lambda: page.browser.execute_script(
            "return arguments[0].naturalWidth", cards[0].find_element(By.TAG_NAME, "img")
        )
    )
    cards[2].click()
    page.word("Sheet 3 of " + str(len(cards)), "span")
    page.find('[data-testid="sheet-picture"] svg')


def test_a_drawing_begins_empty_and_shows_each_curve_as_it_will_be(page):
    new_project(page, "Drawn")
    page.click("Add a clause", "button")
    page.press('[data-guide="draw"]')
    sheet = page.find('[data-testid="sheet"]')
    assert clauses(page)[0]["values"]["curves"] == []
    page.click("Closed curve", "button")
    pointer = ActionChains(page.browser).move_to_element_with_offset(sheet, -90, 60).click()
    pointer.move_to_element_with_offset(sheet, 90, 60).click()
    pointer.move_to_element_with_offset(sheet, 60, -90).perform()
    # It is closed and round before it is finished.
    drawn = page.wait(
        lambda: page.find_all('[data-testid="sheet"] path[stroke="#7a2e62"][stroke-width="2"]')
    )
    assert drawn[0].get_attribute("d").count("L") > 12
    where = page.find('[data-testid="sheet"] svg line').get_attribute("x1")
    ActionChains(page.browser).click().send_keys(Keys.ENTER).perform()
    page.wait(lambda: clauses(page)[0]["values"]["curves"][0][0] == "loop")
    page.pictures()
    assert page.find('[data-testid="sheet"] svg line').get_attribute("x1") == where


def touch(page, *paths):
    """Fingers that go along ``paths``, each a list of places in the window, at the same time."""
    say = page.browser.execute_cdp_cmd

    def at(step):
        return [{"x": path[step][0], "y": path[step][1], "id": k} for k, path in enumerate(paths)]

    say("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": at(0)})
    for step in range(1, len(paths[0])):
        say("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": at(step)})
    say("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def test_the_model_is_turned_drawn_near_and_picked_by_fingers(page):
    new_project(page, "Touched", *VAULT)
    box = page.find('[data-testid="view"]').rect
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    pictures = [seen(page)]
    touch(page, [(x - 120 + 12 * k, y + 160) for k in range(15)])
    pictures.append(seen(page))
    touch(
        page,
        [(x - 20 - 5 * k, y + 160) for k in range(12)],
        [(x + 20 + 5 * k, y + 160) for k in range(12)],
    )
    pictures.append(seen(page))
    for one, other in itertools.pairwise(pictures):
        assert ImageChops.difference(one, other).getbbox()
    assert not page.find_all('[data-testid="picked"]')
    page.click("Fit all", "button")
    page.fine_picture()
    # Somewhere about the middle there is a member under the finger.
    for dy in range(-60, 61, 3):
        touch(page, [(x + 3, y + dy)])
        if page.find_all('[data-testid="picked"]'):
            break
    page.find('[data-testid="picked"]')
