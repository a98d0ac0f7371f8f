# ruff: noqa: E501
"""The interface can be read and reached: sizes, contrast, keyboard, files it gives."""

from __future__ import annotations

import csv
import io
import re
import time
import zipfile

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui reading")]

SCREENS = ["", "/schedules", "/sheets", "/deliver"]

# Every piece of text with its size, its colour and the colours behind it.
TEXTS = """
const out = [];
const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
for (let node = walk.nextNode(); node; node = walk.nextNode()) {
  const text = node.textContent.trim(), element = node.parentElement;
  if (!text || !element || element.closest('script, style, svg, .sr-only, :disabled, [aria-disabled]')) continue;
  const box = element.getBoundingClientRect();
  if (!box.width || !box.height) continue;
  let opacity = 1; const behind = [];
  for (let e = element; e; e = e.parentElement) {
    opacity *= Number(getComputedStyle(e).opacity);
    behind.push(getComputedStyle(e).backgroundColor);
  }
  if (opacity < 0.9) continue;
  const style = getComputedStyle(element);
  out.push([text.slice(0, 40), parseFloat(style.fontSize), style.color, behind]);
}
const canvas = document.createElement('canvas').getContext('2d', {willReadFrequently: true});
canvas.canvas.width = canvas.canvas.height = 1;
const rgba = c => { canvas.clearRect(0,0,1,1); canvas.fillStyle = c; canvas.fillRect(0,0,1,1); return [...canvas.getImageData(0,0,1,1).data]; };
return out.map(([t, s, c, b]) => [t, s, rgba(c), b.map(rgba)]);
"""


def luminance(rgb):
    parts = [c / 255 for c in rgb[:3]]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(colour, layers):
    """Contrast ratio of WCAG 2.2 over the layers behind, the nearest first."""
    behind = [247, 241, 227]
    for layer in reversed(layers):
        share = layer[3] / 255
        behind = [share * a + (1 - share) * b for a, b in zip(layer[:3], behind, strict=True)]
    one, two = sorted((luminance(colour), luminance(behind)), reverse=True)
    return (one + 0.05) / (two + 0.05)


@pytest.mark.parametrize("screen", SCREENS)
def test_text_is_large_and_strong_enough(page, screen):
    page.open_project("Ferry Shelter")
    project = page.browser.current_url.split("/p/")[1].split("/")[0]
    page.open(f"/p/{project}{screen}")
    page.ready_or_loaded()
    texts = page.browser.execute_script(TEXTS)
    assert len(texts) > 15
    assert not [t for t in texts if t[1] < 12], "text under 12 px"
    weak = [(t[0], round(contrast(t[2], t[3]), 2)) for t in texts if contrast(t[2], t[3]) < 4.5]
    assert not weak, "contrast under 4.5 : 1"
    unnamed = page.browser.execute_script(
        "return [...document.querySelectorAll('button, a, input')].filter(e => e.getClientRects().length && "
        "!(e.innerText || e.ariaLabel || e.title || e.labels?.length || e.querySelector('img'))).map(e => e.outerHTML)"
    )
    assert not unnamed, "something to press has no name"


def test_a_value_is_reached_and_changed_by_keyboard_alone(page):
    page.open_project("Ferry Shelter")
    before = page.find('[data-value="span"]').text
    body = page.browser.find_element(By.TAG_NAME, "body")
    body.send_keys(Keys.TAB)
    for _ in range(40):
        focused = page.browser.switch_to.active_element
        if focused.get_attribute("data-value") == "span":
            break
        focused.send_keys(Keys.TAB)
    else:
        raise AssertionError("the span cannot be reached with the Tab key")
    outline = page.browser.execute_script(
        "return getComputedStyle(document.activeElement).outlineStyle"
    )
    assert outline == "solid", "the focus is not seen"
    page.browser.switch_to.active_element.send_keys(Keys.ARROW_UP)
    page.wait(lambda: page.find('[data-value="span"]').text != before)
    page.browser.switch_to.active_element.send_keys(Keys.ENTER)
    field = page.find('input[aria-label="Span"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("6000 mm", Keys.ENTER)
    page.wait(lambda: "= 6" in page.find('[data-value="span"]').text)
    body.send_keys("?")
    page.click("Help", "button")
    page.word("undo · redo")
    page.browser.switch_to.active_element.send_keys(Keys.ESCAPE)


def test_a_schedule_is_sorted_and_saved(page, downloads):
    page.open_project("Ferry Shelter")
    page.click("Schedules", "a")
    page.click("Nodes", "button")
    header = page.wait(
        lambda: next(h for h in page.find_all('[role="columnheader"]') if h.text.startswith("z m"))
    )
    first = lambda: page.find_all('[role="row"]')[1].text.split("\n")  # noqa: E731
    page.wait(lambda: page.find_all('[data-testid="ready"]'), 60)
    page.wait(lambda: first()[0] == "N1")
    for way, least in (("ascending", 0), ("descending", 1.8)):
        header.click()
        page.wait(lambda way=way: header.get_attribute("aria-sort") == way)
        page.wait(lambda least=least: float(first()[3]) == least)
    page.click("Take along", "button")
    page.click("Save as CSV")
    path = page.wait(lambda: next(iter(downloads.glob("*nodes*.csv"))), 20)
    time.sleep(0.3)
    rows = list(csv.DictReader(io.StringIO(path.read_text())))
    assert len(rows) == 61
    heights = [float(r["z_m"]) for r in rows]
    assert heights == sorted(heights, reverse=True), "it is saved as it is shown"
    page.find('[data-value="lacking"]').click()
    page.wait(lambda: page.find('[role="menuitem"] span:first-child[class*="w-44"]'))
    next(e for e in page.find_all('[role="menuitem"]') if e.text.startswith("Stock bars")).click()
    page.wait(lambda: "Cut members from stock bars" in page.find("main").text)


def test_a_schedule_is_told_by_types_and_goes_into_a_workbook(page, downloads):
    page.open_project("Ferry Shelter")
    page.click("Schedules", "a")
    page.click("Members", "button")
    total = lambda: page.find('[data-testid="totals"]').text.split()  # noqa: E731
    page.wait(lambda: len(total()) > 3)
    each = total()
    page.click("By type", "button")
    rows = lambda: page.find_all('[role="row"][tabindex="0"]')  # noqa: E731
    page.wait(lambda: rows() and rows()[0].text.startswith("T"))
    each_header = page.find_all('[role="columnheader"]')
    assert total()[-1] in each, "types come to as much as all of them do"
    page.click("Columns", "button")
    page.press('[role="menuitemcheckbox"]:nth-child(1)')
    page.find("body").send_keys(Keys.ESCAPE)
    page.wait(lambda: page.word("Columns, 1 left out", "button"))
    headers = [h.text for h in page.find_all('[role="columnheader"]')]
    assert headers[:2] == ["type", "number"]
    assert len(headers) == len(each_header) - 1
    page.click("Take along", "button")
    page.click("Save as a workbook, XLSX")
    path = page.wait(lambda: next(iter(downloads.glob("*members*.xlsx"))), 20)
    time.sleep(0.5)
    with zipfile.ZipFile(path) as book:
        sheet = book.read("xl/worksheets/sheet1.xml").decode()
        texts = book.read("xl/sharedStrings.xml").decode()
    assert "cut length in all (mm)" in texts
    assert sheet.count("<row ") == len(rows()) + 2


def test_what_is_seldom_set_stands_behind_a_word(page):
    page.open_project("Bird Hide")
    word = page.find('[data-more="waffle"]')
    waffle = word.find_element("xpath", "ancestor::*[@data-clause]")
    least = lambda: waffle.find_elements("css selector", '[data-value="least"]')  # noqa: E731
    assert not least()
    more = waffle.find_element("css selector", "[data-more]")
    assert re.fullmatch(r"more(, \d+ set)?", more.text)
    more.click()
    page.wait(lambda: least())
    waffle.find_element("css selector", "[data-more]").click()
    page.wait(lambda: not least())


def test_lengths_are_typed_and_read_in_feet_on_dark_paper(page):
    page.open_project("Ferry Shelter")
    value = lambda: page.find('[data-value="span"]').text.replace("\u202f", " ")  # noqa: E731
    metric = value()
    page.find('[data-value="span"]').click()
    field = page.browser.switch_to.active_element
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("24' 6\"", Keys.ENTER)
    page.wait(lambda: value() == "7.4676 m")
    page.click("Feet and inches", "button")
    page.wait(lambda: value() == "24′ 6″")
    page.click("Dark paper", "button")
    paper = lambda: page.browser.execute_script(  # noqa: E731
        "return getComputedStyle(document.body).backgroundColor"
    )
    page.wait(lambda: paper() == "rgb(31, 34, 51)")
    page.browser.refresh()
    page.ready()
    assert value() == "24′ 6″"
    assert paper() == "rgb(31, 34, 51)"
    page.click("Metric lengths", "button")
    page.click("Light paper", "button")
    page.click("Undo", "button")
    page.wait(lambda: value() == metric)


def test_a_view_is_come_back_to_and_a_picture_of_it_is_saved(page, downloads):
    page.open_project("Ferry Shelter")
    page.click("Plan", "button")
    page.fine_picture()
    page.click("Views", "button")
    page.click("Keep this view", "button")
    name = page.find('input[aria-label="Name of View 1"]')
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("From above", Keys.ENTER)
    page.find("body").send_keys(Keys.ESCAPE)
    page.click("Oblique", "button")
    pressed = lambda: page.word("Plan", "button").get_attribute("aria-pressed")  # noqa: E731
    page.wait(lambda: pressed() == "false")
    page.click("Views", "button")
    page.find('button[aria-label="See From above"]').click()
    page.wait(lambda: pressed() == "true")

    def taken(what, ending):
        page.click("Take along", "button")
        page.wait(
            lambda: next(e for e in page.find_all('[role="menuitem"]') if e.text == what)
        ).click()
        return page.wait(lambda: next(iter(downloads.glob(f"Ferry Shelter*.{ending}"))), 60)

    page.fine_picture()
    path = taken("A picture, PNG", "png")
    time.sleep(0.5)
    with Image.open(path) as picture:
        assert picture.width == 2400
        taken_away = np.asarray(picture.convert("RGB").resize((60, 40)), float)
    assert len(np.unique(taken_away.reshape(-1, 3), axis=0)) > 20, "it is not empty"
    view = page.find('[data-testid="view"] [data-picture]')
    assert view.get_attribute("data-picture") == "fine", "the view itself stays as it was"
    canvas = view.find_element("css selector", "canvas").screenshot_as_png
    with Image.open(io.BytesIO(canvas)) as screen:
        seen = np.asarray(screen.convert("RGB").resize((60, 40)), float)
    # Handles and words lie over the screen alone.
    assert np.median(np.abs(taken_away - seen)) < 1.5, "it is as light as the screen"
    lines = taken("Its lines, SVG", "svg").read_text()
    assert lines.count("<path") > 100
    time.sleep(0.5)
    assert taken("The model, glTF", "glb").read_bytes()[:4] == b"glTF"
    page.find('button[aria-label="Forget From above"]').click()
    page.wait(lambda: not page.find_all('button[aria-label="See From above"]'))


def test_a_figure_that_misses_its_target_is_told(page):
    page.open_project("Ferry Shelter")
    longest = lambda: page.find('[data-figure="longest"]')  # noqa: E731
    metres = float(page.figure("longest").split()[0])
    longest().find_element("css selector", "dt button").click()
    most = page.find('form[aria-label^="Target of"] input[name="most"]')
    most.send_keys(str(metres - 0.1), Keys.ENTER)
    page.wait(lambda: "at most" in longest().text)
    most = page.find('form[aria-label^="Target of"] input[name="most"]')
    most.send_keys(Keys.CONTROL, "a")
    most.send_keys(str(metres + 1), Keys.ENTER)
    page.wait(lambda: "at most" not in longest().text)
    page.click("Let go of it", "button")


def test_one_walks_from_member_to_member_by_keys(page):
    page.open_project("Ferry Shelter")
    model = page.find('[aria-label^="The model"]')
    said = lambda: page.find('[data-testid="view"] [aria-live]').get_attribute("textContent")  # noqa: E731
    model.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: said().startswith(("M", "E")))
    first = said()
    assert page.find('[data-testid="picked"] h3').text == first
    model.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: said() not in ("", first))
    model.send_keys(Keys.ARROW_LEFT)
    page.wait(lambda: said() == first)
