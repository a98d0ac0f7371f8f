"""Structures in the real interface: how their members meet, and how one goes on with another."""

import re

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

from .test_stories import drag, new_project, set_value, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui frames")]


CHOICE = "*[starts-with(@role, 'menuitem') or @role = 'option']"


def vault(k):
    """A vault with its net of quads and a frame of it; each begins where the last one ends."""
    shape = {"span": 6, "length": 8, "rise": 2, "centre": [0, 8 * k, 0]}
    return [
        {"id": f"vault-{k}", "kind": "barrel", "values": shape},
        {"id": f"net-{k}", "kind": "pattern", "values": {"bays_across": 6, "bays_along": 8}},
        {"id": f"frame-{k}", "kind": "frame"},
    ]


def choose(page, clause, value, words):
    page.find(f'[data-clause="{clause}"] [data-value="{value}"]').click()
    page.click(words, CHOICE)


def add(page, words, kind):
    """Adds a clause from the guide and gives its id."""
    page.click("Add a clause", "button")
    page.find('input[aria-label="Search the guide"]').send_keys(words)
    page.click(words)
    page.wait(lambda: page.find_all(f'[data-clause^="{kind}"]'))
    return page.find(f'[data-clause^="{kind}"]').get_attribute("data-clause")


def drag_depth(page, clause, before):
    """Drags the handle of a clause's depth, which was as it comes, and waits for what that did."""
    mass = page.figure("mass")
    page.find(f'[data-clause="{clause}"] [data-value="depth"]').click()
    page.wait(lambda: page.find_all('[data-handle="depth"]'))
    ActionChains(page.browser).send_keys(Keys.ESCAPE).perform()
    drag(page, page.find('[data-handle="depth"]'), 0, 40)
    page.wait(lambda: values(page, clause).get("depth", before) > before + 0.05)
    page.wait(lambda: page.figure("mass") != mass)


def test_members_are_welded_or_held_back_for_bodies_that_fit(page):
    new_project(page, "Vault", *vault(0))
    page.ready()
    assert page.figure("mass").endswith("kg")
    assert not page.find_all('[data-figure="bodies"]')
    choose(page, "frame-0", "meeting", "held back for balls")
    page.wait(lambda: "as large as each node needs" in page.find('[data-clause="frame-0"]').text)
    assert "steel S355" in page.find('[data-clause="frame-0"]').text
    # Balls that are too small for what meets at them are told, with what would fit.
    choose(page, "frame-0", "sizes", "of")
    page.wait(lambda: "meet before they reach" in page.find('[data-clause="frame-0"]').text)
    page.click("Make each as large as it needs", "button")
    page.wait(lambda: "meet before they reach" not in page.find('[data-clause="frame-0"]').text)
    choose(page, "frame-0", "meeting", "welded")
    page.wait(lambda: "radius" not in page.find('[data-clause="frame-0"]').text)
    # Members that run on through nodes are fewer, at the same nodes.
    page.ready()
    members, nodes = int(page.figure("members")), page.figure("nodes")
    choose(page, "frame-0", "through", "running through nodes one way")
    page.wait(lambda: int(page.figure("members")) < members)
    assert page.figure("nodes") == nodes


def test_a_frame_goes_on_with_another_and_near_nodes_are_joined(page):
    rows = [*vault(0), *vault(1), {"id": "join", "kind": "join-nodes"}]
    new_project(page, "Two vaults", *rows)
    page.ready()
    alone = int(page.figure("members"))
    page.wait(lambda: "No two nodes are within" in page.find('[data-clause="join"]').text)
    page.find('[data-clause="frame-1"] button[aria-label^="More"]').click()
    page.click("Frame the net (3)", CHOICE)
    page.wait(lambda: "clause 3" in page.find('[data-clause="frame-1"]').text)
    page.wait(lambda: page.figure("joined") == "7")
    # The six members of the one that lay on those of the other are gone.
    assert int(page.figure("members")) == 2 * alone - 6


def test_a_net_is_doubled_and_its_depth_is_dragged(page):
    shape, net, _ = vault(0)
    net["values"]["pattern"] = "quads"
    new_project(page, "Doubled", shape, net)
    grid = add(page, "Double the net", "double-layer")
    page.wait(lambda: page.find_all('[data-figure="members"]'))
    # 6 × 8 bays: chords above and below, four webs a bay.
    assert int(page.figure("members")) == (6 * 9 + 7 * 8) + (5 * 8 + 6 * 7) + 4 * 48
    # It began with what fits a roof of this size.
    assert values(page, grid)["depth"] == 0.5
    mass = page.figure("mass")
    drag_depth(page, grid, 0.5)
    page.click("Undo", "button")
    page.wait(lambda: page.figure("mass") == mass)
    # Members of each role are told below the sentence.
    own = page.find(f'[data-clause="{grid}"]')
    for more in own.find_elements("css selector", "button[aria-expanded=false]:not([data-more])"):
        if "more" in more.text:
            more.click()
    page.wait(lambda: "Web members 192" in page.find(f'[data-clause="{grid}"]').text)
    choose(page, grid, "arrangement", "under every second bay")
    page.wait(lambda: "Web members 96" in page.find(f'[data-clause="{grid}"]').text)


def test_a_strutted_bay_is_built_repeated_and_changed_from_its_first_line(page):
    curves = [["arc", [[-8, 0.8], [0, 3], [8, 0.8]]], ["line", [[-8, 0], [8, 0]]]]
    drawn = {"curves": curves, "plane": "front"}
    new_project(page, "Stage", {"id": "lines", "kind": "draw", "values": drawn})
    frame = add(page, "Frame the curves", "frame-curves")
    page.wait(lambda: page.find_all('[data-figure="members"]'))
    assert page.figure("members") == "2"
    struts = add(page, "Put struts between", "struts")
    page.wait(lambda: page.figure("members") == "18")
    page.find(f'[data-clause="{struts}"] [data-value="how_many"]').send_keys(Keys.ARROW_DOWN)
    page.wait(lambda: page.figure("members") == "16")
    # A place is dragged along its line, which stays the same.
    page.find(f'[data-clause="{struts}"] [data-value="lines"]').click()
    page.wait(lambda: page.find_all('[data-handle="lines-1"]'))
    ActionChains(page.browser).send_keys(Keys.ESCAPE).perform()
    drag(page, page.find('[data-handle="lines-1"]'), 40, 0)
    page.wait(lambda: values(page, struts).get("lines", [[0, 0, 3], [0, 0, 0]])[1] != [0, 0, 0])
    page.click("Undo", "button")
    page.wait(lambda: values(page, struts).get("lines", [[0, 0, 3], [0, 0, 0]])[1] == [0, 0, 0])
    bay = add(page, "Repeat the bay", "repeat-bay")
    page.wait(lambda: page.figure("members") == "64")
    assert "stand apart" not in page.find(f'[data-clause="{frame}"]').text
    assert "stand apart" in page.find(f'[data-clause="{bay}"]').text
    choose(page, bay, "way", "mirrored in an upright plane")
    page.wait(lambda: "lie on members" in page.find(f'[data-clause="{bay}"]').text)
    page.click("Undo", "button")
    page.wait(lambda: page.figure("members") == "64")
    # In straight pieces the arches have a node at each bend.
    nodes = int(page.figure("nodes"))
    choose(page, frame, "bend", "in straight pieces")
    page.wait(lambda: int(page.figure("nodes")) > nodes)
    assert page.figure("members") == "64"


def test_trusses_are_put_along_a_net_and_their_depth_is_dragged(page):
    shape, net, _ = vault(0)
    net["values"]["pattern"] = "quads"
    new_project(page, "Trusses", shape, net)
    trusses = add(page, "Put trusses along", "trusses")
    page.wait(lambda: "no curves above" in page.find(f'[data-clause="{trusses}"]').text)
    page.click("Follow the net one way", "button")
    page.wait(lambda: page.find_all('[data-figure="trusses"]'))
    assert page.figure("trusses") == "7"
    # Two chords and sixteen webs each; with posts alone nine of them.
    assert page.figure("members") == str(7 * 18)
    drag_depth(page, trusses, 1.0)
    choose(page, trusses, "webs", "Vierendeel")
    page.wait(lambda: page.figure("members") == str(7 * 11))


def test_a_roof_stands_on_columns_that_branch_and_follow_it(page):
    new_project(page, "Roost", *vault(0))
    columns = add(page, "Stand on columns", "columns")
    page.wait(lambda: page.find_all('[data-figure="columns"]'))
    # They begin under what lies lowest.
    assert int(page.figure("columns")) > 4
    choose(page, columns, "way", "branching from")
    page.wait(lambda: page.find_all('[data-figure="branches"]'))
    members = int(page.figure("members"))
    page.find(f'[data-clause="{columns}"] [data-value="trunks"]').send_keys(Keys.ARROW_DOWN)
    page.wait(lambda: int(page.figure("members")) == members - 1)
    assert page.figure("columns") == "3"
    # Lower ground makes all of them longer.
    longest = float(page.figure("longest_column").split()[0])
    level = page.find(f'[data-clause="{columns}"] [data-value="level"]')
    level.send_keys(Keys.ARROW_DOWN * 5)
    page.wait(lambda: float(page.figure("longest_column").split()[0]) > longest)


SHED = """layer,x1_mm,y1_mm,z1_mm,x2_mm,y2_mm,z2_mm
COLUMN CHS 139.7 × 5,0,0,0,0,0,3000
COLUMN CHS 139.7 × 5,14000,0,0,14000,0,3000
IPE 200,0,0,3000,14000,0,3000
Bracing,0,0,0,14000,0,3000
"""


def test_lines_of_a_file_become_members_by_their_layers_which_are_changed_and_coloured(
    page, tmp_path
):
    (tmp_path / "shed.csv").write_text(SHED)
    new_project(page, "Shed", {"id": "lines", "kind": "bring-lines"}, wait=False)
    page.find('[data-file="file"]').send_keys(str(tmp_path / "shed.csv"))
    page.wait(lambda: page.figure("lines") == "4")
    frame = add(page, "Frame the curves", "frame-curves")
    page.wait(lambda: page.find_all('[data-figure="members"]'))
    mass = page.figure("mass")
    choose(page, frame, "by_layer", "or as their layer is called")
    page.wait(lambda: page.figure("mass") != mass)
    # One layer alone, by its name; a name that is none is told with those there are.
    page.find(f'[data-clause="{frame}"] [data-value="layer"]').click()
    page.browser.switch_to.active_element.send_keys("beams", Keys.ENTER)
    page.wait(lambda: "“IPE 200”" in page.find(f'[data-clause="{frame}"] [role="alert"]').text)
    page.click("Undo", "button")
    page.wait(lambda: page.figure("members") == "4")
    given = add(page, "Give members a section", "give-section")
    choose(page, given, "role", "all columns")
    page.wait(lambda: page.figure("meant") == "2")
    parts = add(page, "Splice members", "splice-members")
    assert "all members" in page.find(f'[data-clause="{parts}"]').text
    page.wait(lambda: int(page.figure("members")) > 4)
    page.click("material", "button")
    page.click("section of members", CHOICE)
    page.wait(lambda: "CHS 114.3 × 5" in page.find('[data-testid="legend"]').text)
    assert "IPE 200" in page.find('[data-testid="legend"]').text
    page.click("section of members", "button")
    page.click("role of members", CHOICE)
    page.wait(lambda: "columns" in page.find('[data-testid="legend"]').text)
    legend = page.find('[data-testid="legend"]').text.split("\n")
    assert legend == ["Role of members", "columns", "arches"]


def test_bars_lie_on_top_of_each_other_and_a_body_is_parted_by_their_net(page):
    new_project(
        page,
        "Weir Roof",
        {"id": "roof", "kind": "loft", "values": {}},
        {
            "id": "net",
            "kind": "pattern",
            "values": {"pattern": "quads", "bays_across": 6, "bays_along": 6},
        },
        {"id": "bars", "kind": "reciprocal", "values": {"angle": 15, "rest": "top", "height": 40}},
        {"id": "laths", "kind": "frame", "values": {"inner": "Timber 80 × 40"}},
    )
    before = page.figure("total_length")
    words = page.find('[data-clause="bars"]')
    assert "on top of the next" in re.sub(r"\s+", " ", words.text)
    set_value(page, "bars", "height", "80")
    page.wait(lambda: page.figure("total_length") != before)
    page.ready()

    new_project(
        page,
        "Weir Shell",
        {"id": "dome", "kind": "dome", "values": {}},
        {
            "id": "net",
            "kind": "pattern",
            "values": {"pattern": "hexagons", "bays_across": 8, "bays_along": 3},
        },
        {"id": "shell", "kind": "thicken", "values": {"thickness": 0.3, "side": "inside"}},
        {"id": "parted", "kind": "part-by-cells", "values": {"joint": 20}},
        {"id": "stones", "kind": "solids", "values": {"material": "limestone"}},
    )
    assert page.figure("solids") == page.figure("cells")
    mass = page.figure("mass")
    set_value(page, "parted", "joint", "60")
    page.wait(lambda: page.figure("mass") != mass)
    page.ready()
    assert page.figure("solids") == page.figure("cells")


def test_stock_bars_are_drawn_to_scale_and_picked_in_the_view(page):
    wanted = {"stock": 12, "second": 6, "lengths": "two", "search": "best"}
    bars = [{"id": "names", "kind": "name"}, {"id": "bars", "kind": "bars", "values": wanted}]
    new_project(page, "Bars", *vault(0), *bars)
    page.click("Schedules", "a")
    page.click("Stock bars", "button")
    pieces = page.wait(lambda: page.find_all('[aria-label="Stock bars, drawn"] button'))
    piece = pieces[0]
    label = piece.get_attribute("aria-label").split(",")[0]
    piece.click()
    page.wait(lambda: piece.get_attribute("aria-pressed") == "true")
    page.click("Show as rows", "button")
    row = page.wait(lambda: page.find('[role="row"][aria-selected="true"]'))
    assert label in row.text.split("\n")
