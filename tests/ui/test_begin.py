"""A stranger's first minutes: what there is to see at once, a beginning, a long statement found one's
way about in, and a warning walked to and mended."""

from __future__ import annotations

import re

from selenium.webdriver import ActionChains, Keys

from .test_stories import drag, new_project


def test_there_is_something_to_see_at_once_and_to_find(page):
    page.open("/")
    page.wait(lambda: len(page.find_all('section[aria-label="Demo"] article')) > 20)
    shown = page.browser.execute_script(
        "return [...document.querySelectorAll('section[aria-label=Demo] article')]"
        ".map(a => [a.dataset.project, a.innerText, a.querySelector('img')?.src ?? ''])"
    )
    assert all("no figures yet" not in text and picture for _, text, picture in shown)
    search = page.find('input[aria-label="Search the projects"]')
    search.send_keys("hall lattice")
    page.wait(lambda: "Boat Hall" in [a.get_attribute("data-project") for a in cards(page)])
    assert len(cards(page)) < 6
    search.send_keys(" nowhere")
    page.wait(lambda: "No project speaks of" in page.find("main").text)


def cards(page):
    return page.find_all("article")


def test_a_beginning_is_live_at_once(page):
    page.open("/")
    page.click("New project", "button")
    page.wait(lambda: len(page.find_all("[data-beginning] img")) >= 12)
    page.find('[data-beginning="dome"]').click()
    page.ready()
    members = int(page.figure("members").replace(",", ""))
    assert members > 100
    span = page.find('[aria-label="Dimension span"]')
    span.send_keys(Keys.ENTER)
    field = page.find('input[aria-label="Dimension span"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("17", Keys.ENTER)
    page.wait(lambda: int(page.figure("members").replace(",", "")) != members)
    # What that did is told beside the figures.
    page.wait(lambda: f"{members:,} →" in page.find('[data-figure="members"]').text)
    # What was done is told, and gone back to.
    page.wait(lambda: page.find('button[title^="Takes back: dimension span"]').is_enabled())
    page.click("History", "button")
    page.wait(lambda: page.find('[data-state="0"]').text.startswith("as it began"))
    page.find('[data-state="0"] button').click()
    page.wait(lambda: int(page.figure("members").replace(",", "")) == members)
    # A clause is explained by what the guide says of it and by what it comes to.
    page.press('[data-clause="bars"] button[aria-label^="More for"]')
    page.click("Explain …")
    said = page.wait(lambda: page.find('[role="dialog"]').text)
    assert "Works on" in said
    assert f"Members {members:,}" in said


def test_a_warning_is_walked_to_and_mended(page):
    frame = {"id": "bars", "kind": "frame", "values": {"meeting": "seats"}}
    new_project(
        page,
        "Walked",
        {"id": "cap", "kind": "dome", "values": {"span": 8, "rise": 2}},
        {"id": "net", "kind": "pattern", "values": {"bays_across": 4, "bays_along": 4}},
        frame,
        {"id": "nodes", "kind": "hubs", "values": {}},
        {"id": "legs", "kind": "columns", "values": {"which": "heights", "low": -1, "high": 0.3}},
        {"id": "names", "kind": "name", "values": {}},
    )
    # Chapters fold to what they come to, and what is looked for is found in folded ones, too.
    page.click("Fold all", "button")
    page.wait(lambda: not page.find_all("[data-clause]"))
    assert "Members" in page.find('section[aria-label="Frame"] h2').text
    find = page.find('input[aria-label="Find in the statement"]')
    find.send_keys("make hubs")
    page.wait(lambda: [c.get_attribute("data-clause") for c in clauses(page)] == ["nodes"])
    find.clear()
    find.send_keys("x", Keys.BACKSPACE)
    page.wait(lambda: not page.find_all("[data-clause]"))
    # From the status line to the clause, and what would mend it.
    page.find("footer").find_element("css selector", 'button[aria-haspopup="dialog"]').click()
    page.click("Make hubs clause 4", "button")
    page.wait(lambda: page.find('[data-clause="nodes"]').is_displayed())
    page.click("Put “Stand on columns” above", "button")
    page.wait(lambda: "warning" not in page.find("footer").text)
    assert [c.get_attribute("data-clause") for c in clauses(page)].index("legs") == 3


def test_a_clause_is_copied_from_one_project_into_another(page):
    ball = {"id": "ball", "kind": "ball", "values": {"radius": 2}}
    new_project(page, "From", ball)
    page.find('[data-clause="ball"] strong').click()
    keys = ActionChains(page.browser)
    keys.key_down(Keys.CONTROL).send_keys("c").key_up(Keys.CONTROL).perform()
    new_project(page, "To", ball)
    page.find('[data-clause="ball"] strong').click()
    keys = ActionChains(page.browser)
    keys.key_down(Keys.CONTROL).send_keys("v").key_up(Keys.CONTROL).perform()
    page.wait(lambda: [c.get_attribute("data-clause") for c in clauses(page)] == ["ball", "ball-1"])
    assert page.find('[data-clause="ball-1"] [data-value="radius"]').text.startswith("2")


def test_a_clause_is_dragged_to_where_it_is_to_stand(page):
    balls = [{"id": f"ball-{k}", "kind": "ball", "values": {"radius": k}} for k in (1, 2, 3)]
    new_project(page, "Dragged", *balls)
    order = lambda: [c.get_attribute("data-clause")[-1] for c in clauses(page)]  # noqa: E731
    first = clauses(page)[0]
    ActionChains(page.browser).drag_and_drop(page.find('[data-grip="2"]'), first).perform()
    page.wait(lambda: order() in (["3", "1", "2"], ["1", "3", "2"]))
    page.click("Undo", "button")
    page.wait(lambda: order() == ["1", "2", "3"])


def clauses(page):
    return page.find_all("[data-clause]")


def test_one_is_shown_round_in_seven_steps_by_keys_alone(page):
    page.open("/new")
    page.find('[data-beginning="round"]').send_keys(Keys.ENTER)
    step = lambda n: page.wait(lambda: page.find_all(f'[data-step="{n}"]'))[0]  # noqa: E731
    button = lambda n: step(n).find_element("css selector", "p button, p a")  # noqa: E731
    button(1).send_keys(Keys.ENTER)
    step(2)
    page.find('[data-value="span"]').send_keys(Keys.ARROW_UP)
    button(3).send_keys(Keys.ENTER)
    # As from the guide, by a module of the size of what is there.
    step(4)
    assert page.find('[data-value="module"]')
    for n in (4, 5):
        button(n).send_keys(Keys.ENTER)
    button(6).send_keys(Keys.ENTER)
    page.wait(lambda: page.find_all('[role="columnheader"]'))
    button(7).send_keys(Keys.ENTER)
    page.wait(lambda: "All seven steps are done" in page.find('[aria-label="Shown round"]').text)
    page.word("Write the pack", "button").send_keys(Keys.ENTER)
    page.wait(lambda: page.find('[data-testid="pack"]'), 200)
    assert re.search(r"All \d+ checks passed", page.find('[data-testid="pack"]').text)
    page.click("Close", "button")
    page.wait(lambda: not page.find_all('[aria-label="Shown round"]'))


def test_a_strangers_path_from_a_beginning_to_a_pack(page):
    page.open("/new")
    page.press('[data-beginning="dome"]')
    page.ready()
    page.pictures()
    # Three drags: in the view, of a dimension, and of a number in a sentence.
    for what, by in (
        ('[data-handle="centre"]', (0, -30)),
        ('[aria-label="Dimension span"]', (40, 0)),
        ('[data-value="thickness"]', (20, 0)),
    ):
        before = page.browser.find_element("tag name", "body").text
        drag(page, page.find(what), *by)
        page.wait(
            lambda before=before: page.browser.find_element("tag name", "body").text != before
        )
        page.ready()
    # Bars before what brings more members are told, walked to and mended.
    for kind in ("bars", "columns"):
        page.click("Add a clause", "button")
        page.press(f'[data-guide="{kind}"]')
        page.wait(lambda kind=kind: page.find_all(f'[data-clause="{kind}-1"]'))
        page.ready()
    page.find("footer").find_element("css selector", 'button[aria-haspopup="dialog"]').click()
    place = lambda: [c.get_attribute("data-clause") for c in clauses(page)]  # noqa: E731
    page.wait(lambda: page.word("Put “Stand on columns” above", "button"))
    page.click("Put “Stand on columns” above", "button")
    page.wait(lambda: place().index("columns-1") < place().index("bars-1"))
    page.ready()
    page.click("Schedules", "a")
    page.click("Stock bars", "button")
    page.wait(lambda: "B1" in page.find("main").text)
    page.click("Deliver", "a")
    page.click("Write the pack", "button")
    page.wait(lambda: page.find('[data-testid="pack"]'), 200)
    assert re.search(r"All \d+ checks passed", page.find('[data-testid="pack"]').text)


def test_the_help_finds_words_and_clauses(page):
    page.open_project("Ferry Shelter")
    page.click("Help", "button")
    search = page.find('input[aria-label="Search the help"]')
    search.send_keys("kerf")
    page.wait(lambda: "Cut members from stock bars" in page.find('[role="dialog"]').text)
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("strand")
    page.wait(lambda: "edges of a net that run on" in page.find('[aria-label="Words"]').text)
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("marzipan")
    page.wait(lambda: "Nothing here speaks of" in page.find('[role="dialog"]').text)
