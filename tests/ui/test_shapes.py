"""Coming to a form, in the real interface: drawing, tracing, cages, handles, control boxes, files and shading."""

from __future__ import annotations

import io
import time

import numpy as np
import pytest
import trimesh
from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from leanlattice.clauses.guide import GUIDE

from .test_stories import drag, new_project, values

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui shapes")]


def figure(page, name):
    return float(page.figure(name).split()[0].replace(",", ""))


def text(page, clause):
    return page.find(f'[data-clause="{clause}"]').text.replace("\u202f", " ")


def on_sheet(page, *places, keys=()):
    """Clicks places of the sheet, counted in pixels from its middle."""
    sheet = page.find('[data-testid="sheet"]')
    for dx, dy in places:
        ActionChains(page.browser, duration=40).move_to_element_with_offset(
            sheet, dx, dy
        ).click().perform()
        time.sleep(0.15)
    for key in keys:
        page.browser.find_element(By.TAG_NAME, "body").send_keys(key)


def sheet_drag(page, element, dx, dy):
    ActionChains(page.browser, duration=60).move_to_element(
        element
    ).click_and_hold().move_by_offset(dx // 2, dy // 2).move_by_offset(
        dx - dx // 2, dy - dy // 2
    ).pause(0.2).release().perform()


def add(page, title):
    page.click("Add a clause", "button")
    search = page.find('input[aria-label="Search the guide"]')
    search.send_keys(title)
    page.click(title)
    page.wait(lambda: not page.find_all("[data-guide]"))


def test_an_outline_is_drawn_extruded_and_dragged(page):
    new_project(page, "Drawn")
    page.click("Trace", "a")
    page.click("Draw curves", "button")
    page.click("Polygon", "button")
    on_sheet(page, (-167, 117), (167, 115), (168, -84))
    on_sheet(page, (-167, -84), keys=[Keys.ENTER])
    page.wait(lambda: len(values(page, "draw-1")["curves"]) == 1)
    kind, points = values(page, "draw-1")["curves"][0]
    assert kind == "polygon"
    assert len(points) == 4
    steps = np.array(points) / 0.5
    assert np.abs(steps - np.round(steps)).max() < 1e-6, "points are caught by the grid"
    assert points[0][1] == points[1][1], "and by directions"

    page.click("Move points", "button")
    before = points[2]
    sheet_drag(page, page.find('[data-point="0-2"]'), 60, -40)
    page.wait(lambda: values(page, "draw-1")["curves"][0][1][2] != before)

    page.click("Line", "button")
    for x, y in (("1", "2"), ("4", "6")):
        for axis, text in (("x", x), ("y", y)):
            field = page.find(f'input[aria-label="Next point {axis}"]')
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text, Keys.TAB)
        page.click("Place point", "button")
    page.click("Finish", "button")
    page.wait(lambda: len(values(page, "draw-1")["curves"]) == 2)
    assert values(page, "draw-1")["curves"][1] == ["line", [[1, 2], [4, 6]]], "typed exactly"
    page.click("Undo", "button")
    page.wait(lambda: len(values(page, "draw-1")["curves"]) == 1)

    page.click("Workbench", "a")
    add(page, "Extrude")
    page.ready()
    volume = figure(page, "volume")
    assert volume > 1
    drag(page, page.find('[data-handle="height"]'), 0, -50)
    page.wait(lambda: figure(page, "volume") > volume * 1.05)
    page.find('[data-value="taper"]').send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    page.wait(lambda: values(page, "extrude-1").get("taper") == 2)


def test_a_picture_is_straightened_scaled_and_traced(page, tmp_path):
    new_project(page, "Traced")
    page.click("Trace", "a")
    page.click("Lay a picture under", "button")
    Image.fromarray(np.tile(np.linspace(40, 220, 800).astype(np.uint8), (600, 1))).save(
        tmp_path / "front.jpg"
    )
    page.find('[data-file="file"]').send_keys(str(tmp_path / "front.jpg"))
    page.wait(lambda: values(page, "underlay-1")["file"][1] == "front.jpg")
    page.ready()
    time.sleep(1)
    sheet_drag(page, page.find('[data-mark="corners-0"] circle'), 60, 40)
    page.wait(lambda: values(page, "underlay-1")["corners"][0][0] > 0.03)
    page.ready()
    page.click("Known length", "button")
    page.wait(lambda: page.find_all('[data-mark="known-1"]'))
    time.sleep(2)  # the straightened picture comes, and the sheet is fitted to it
    sheet_drag(page, page.find('[data-mark="known-1"] circle'), -120, 0)
    page.wait(lambda: values(page, "underlay-1")["known"][1][0] < 0.9)
    add(page, "Draw curves")
    page.find('[data-clause="draw-1"]').click()
    shown = page.wait(lambda: page.find('[data-testid="underlay"]'))
    assert float(shown.get_attribute("opacity")) == pytest.approx(0.5)
    assert float(shown.get_attribute("width")) > 50
    loaded = page.browser.execute_script(
        "return fetch(arguments[0].getAttribute('href')).then(r => r.status)", shown
    )
    assert loaded == 200
    page.click("Closed curve", "button")
    on_sheet(page, (-90, 60), (90, 62), (0, -80), keys=[Keys.ENTER])
    page.wait(lambda: values(page, "draw-1").get("curves", [[0]])[-1][0] == "loop")


def test_a_cage_is_changed_face_by_face_and_lifted(page):
    new_project(page, "Cage", {"id": "c", "kind": "cage", "values": {}})
    page.click("Trace", "a")
    faces = lambda: len(values(page, "c")["cage"][1])  # noqa: E731
    middle = lambda css: page.find(css)  # noqa: E731
    page.click("Split", "button")
    edge = middle('[data-edge="0-1"]')
    ActionChains(page.browser).move_to_element(edge).click().perform()
    page.wait(lambda: faces() == 8)
    page.click("Draw out an edge", "button")
    sheet_drag(page, page.find('[data-edge="2-3"]'), 0, 70)
    page.wait(lambda: faces() == 9)
    page.click("Delete a face", "button")
    ActionChains(page.browser).move_to_element(page.find('[data-face="0"]')).click().perform()
    page.wait(lambda: faces() == 8)
    page.click("Undo", "button")
    page.wait(lambda: faces() == 9)
    page.click("Crease", "button")
    ActionChains(page.browser).move_to_element(page.find('[data-edge="5-6"]')).click().perform()
    page.wait(lambda: len(values(page, "c")["cage"][2]) == 1)
    page.click("Move points", "button")
    before = values(page, "c")["cage"][0][0]
    sheet_drag(page, page.find('rect[data-point="0"]'), -40, 30)
    page.wait(lambda: values(page, "c")["cage"][0][0] != before)

    page.click("Workbench", "a")
    page.ready()
    height = values(page, "c")["cage"][0][5][2]
    handle = page.find('[data-handle="cage-5"]')
    handle.send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: values(page, "c")["cage"][0][5][2] == pytest.approx(height + 0.1))


def test_columns_are_scattered_placed_and_dragged(page):
    new_project(page, "Reeds", {"id": "o", "kind": "draw", "values": {"curves": [["rectangle", [[-9, -6], [9, 6]]]]}},
                {"id": "c", "kind": "canopy", "values": {}}, {"id": "f", "kind": "faces", "values": {}})  # fmt: skip
    cells = page.find('[data-clause="f"]')
    assert "Border loops 4" in cells.text
    field = page.find('[data-value="posts"]')
    field.send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    page.wait(lambda: "Border loops 6" in page.find('[data-clause="f"]').text)
    page.choose("columns", "columns placed by hand")
    page.wait(lambda: "Border loops 3" in page.find('[data-clause="f"]').text)
    drag(page, page.find('[data-handle="sites-0"]'), -30, 10)
    page.wait(lambda: values(page, "c").get("sites", [[-4]])[0][0] != -4)
    page.find('[data-value="sites"]').click()
    page.click("Add a place", "button")
    page.wait(lambda: len(values(page, "c")["sites"]) == 3)


def test_lines_become_regions_a_band_and_circles_become_columns(page):
    lines = {
        "curves": [
            ["rectangle", [[-6, -4], [6, 4]]],
            ["line", [[-7, 0], [7, 0]]],
            ["line", [[0, -5], [0, 5]]],
        ]
    }
    new_project(page, "Paving", {"id": "lines", "kind": "draw", "values": lines})
    add(page, "Regions between lines")
    page.wait(lambda: page.figure("closed").startswith("4"))
    assert page.figure("enclosed").startswith("96.00")
    page.find('[data-value="least"]').click()
    typed = page.find('[data-clause="regions-1"] input')
    typed.send_keys(Keys.CONTROL, "a")
    typed.send_keys("25", Keys.ENTER)
    page.wait(lambda: page.find_all('[data-clause="regions-1"] [role="alert"]'))
    page.click("Undo", "button")
    page.wait(lambda: page.figure("closed").startswith("4"))

    new_project(
        page,
        "Path",
        {"id": "way", "kind": "draw", "values": {"curves": [["line", [[0, 0], [8, 0]]]]}},
    )
    add(page, "Band about curves")
    page.wait(lambda: page.figure("enclosed").startswith("3.20"))
    page.choose("ends", "round")
    page.wait(lambda: page.figure("enclosed").startswith("3.33"))

    new_project(
        page,
        "Columns",
        {"id": "o", "kind": "draw", "values": {"curves": [["rectangle", [[-9, -6], [9, 6]]]]}},
    )
    add(page, "Circles at places")
    page.wait(lambda: page.figure("closed").startswith("5"))
    page.choose("where", "of one's own")
    page.wait(lambda: page.figure("closed").startswith("2"))
    drag(page, page.find('[data-handle="sites-0"]'), -30, 10)
    page.wait(lambda: values(page, "circles-1").get("sites", [[-2]])[0][0] != -2)
    page.choose("graded", "at the lowest")
    page.find('[data-handle="sites-1"]').send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: page.figure("largest") == "1.000 m")


def test_points_of_a_control_box_are_picked_and_moved_together(page):
    new_project(
        page,
        "Bent",
        {"id": "b", "kind": "box", "values": {}},
        {"id": "f", "kind": "bend", "values": {}},
    )
    page.find('[data-clause="f"]').click()
    handles = page.wait(
        lambda: (
            len(page.find_all('[data-handle^="moves-"]')) == 18
            and page.find_all('[data-handle^="moves-"]')
        )
    )
    assert handles
    page.find('[data-value="nx"]').send_keys(Keys.ARROW_DOWN)
    page.wait(lambda: len(page.find_all('[data-handle^="moves-"]')) == 12)
    for name in ("moves-1", "moves-3", "moves-5"):
        ActionChains(page.browser).key_down(Keys.SHIFT).click(
            page.find(f'[data-handle="{name}"]')
        ).key_up(Keys.SHIFT).perform()
    assert [
        h.get_attribute("aria-pressed") for h in page.find_all('[data-handle^="moves-"]')
    ].count("true") == 3
    page.find('[data-handle="moves-3"]').send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: sum(any(d) for d in values(page, "f").get("moves", [])) == 3)
    assert {tuple(d) for d in values(page, "f")["moves"] if any(d)} == {(0, 0, 0.1)}
    page.click("put back", "button")
    page.wait(lambda: "moves" not in values(page, "f"))


NUMBER_HANDLES = {
    "ball": "radius", "ellipsoid": "along_x", "torus": "ring", "cylinder": "height", "barrel": "rise", "cone": "radius",
    "conoid": "rise", "saddle": "second", "box": "along_y turn", "extrude": "height", "revolve": "start sweep",
    "canopy": "height", "funnels": "level depth throat", "thicken": "thickness", "cut-plane": "azimuth rise",
    "move": "dx dy dz", "turn": "angle", "repeat": "dx",
}  # fmt: skip


@pytest.mark.parametrize("kinds", [list(NUMBER_HANDLES)[k::3] for k in range(3)])
def test_numbers_of_shapes_have_handles_that_change_them(page, kinds):
    for kind in kinds:
        new_project(
            page,
            kind,
            *(
                {"id": f"c{k}", "kind": c, "values": v}
                for k, (c, v) in enumerate(GUIDE[kind].sample)
            ),
        )
        last = f"c{len(GUIDE[kind].sample) - 1}"
        page.find(f'[data-clause="{last}"] strong').click()
        for handle in NUMBER_HANDLES[kind].split():
            before = values(page, last).get(handle)
            button = page.find(f'[data-handle="{handle}"]')
            page.wait(lambda button=button: button.is_displayed())
            button.send_keys(Keys.ARROW_DOWN)
            page.wait(
                lambda last=last, handle=handle, before=before: (
                    values(page, last).get(handle) not in (None, before)
                )
            )


def test_an_angle_is_turned_by_hand(page):
    arc = {
        "id": "arc",
        "kind": "draw",
        "values": {"curves": [["arc", [[0, 4], [2.83, 2.83], [4, 0]]]], "plane": "front"},
    }
    new_project(page, "Wedge", arc, {"id": "r", "kind": "revolve", "values": {"sweep": 180}})
    page.find('[data-clause="r"] strong').click()
    whole = figure(page, "area")
    handle = page.find('[data-handle="sweep"]')
    ActionChains(page.browser).drag_and_drop_by_offset(handle, 60, 60).perform()
    page.wait(lambda: values(page, "r")["sweep"] != 180)
    sweep = values(page, "r")["sweep"]
    assert sweep % 5 == 0
    page.wait(lambda: figure(page, "area") == pytest.approx(whole * sweep / 180, rel=2e-3))


def test_heights_funnels_and_sections_are_dragged(page):
    plan = {"id": "o", "kind": "draw", "values": {"curves": [["rectangle", [[-6, -4], [6, 4]]]]}}
    new_project(page, "Spanned", plan, {"id": "s", "kind": "span", "values": {}})
    page.find('[data-clause="s"]').click()
    page.find('[data-handle="heights-0"]').send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: values(page, "s").get("heights", [[0, 0, 3]])[0][2] == pytest.approx(3.1))
    new_project(page, "Funnels", plan, {"id": "f", "kind": "funnels", "values": {}})
    page.find('[data-clause="f"]').click()
    volume = page.figure("volume")
    page.find('[data-handle="sites-1"]').send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda: values(page, "f").get("sites", [0, [2.5]])[1][0] == pytest.approx(2.6))
    page.find('[data-value="throat"]').send_keys(Keys.ARROW_UP)
    page.wait(lambda: page.figure("volume") != volume)
    new_project(page, "Cut", {"id": "b", "kind": "ball", "values": {"solid": "body"}},
                {"id": "c", "kind": "cut-plane", "values": {"through": [0, 0, 3]}})  # fmt: skip
    page.find('[data-clause="c"]').click()
    half = figure(page, "volume")
    page.find('[data-handle="through"]').send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: figure(page, "volume") < half)


def test_a_body_measures_what_it_is_and_says_where_triangles_are_all_there_is(page):
    new_project(
        page, "Float", {"id": "b", "kind": "ball", "values": {"radius": 3, "solid": "body"}}
    )
    page.wait(lambda: page.figure("volume") == "113.10 m³")
    assert page.figure("smallest_radius") == "3.00 m"
    assert not page.find_all('[data-figure="measured_on"]')
    add(page, "Hollow")
    page.wait(lambda: page.figure("measured_on").startswith("its "))


def test_a_model_is_imported_with_its_unit_and_its_repairs_are_told(page, tmp_path):
    mesh = trimesh.creation.icosphere(4, 1500.0)
    mesh.faces = np.vstack([mesh.faces[:-1], mesh.faces[:3]])
    mesh.export(tmp_path / "ball.stl")
    new_project(page, "Imported", {"id": "m", "kind": "import", "values": {}})
    assert "No file is chosen yet" in page.find('[data-clause="m"]').text
    page.find('[data-file="file"]').send_keys(str(tmp_path / "ball.stl"))
    page.wait(lambda: "Repaired" in page.find('[data-clause="m"]').text)
    said = page.find('[data-clause="m"]').text
    assert "3 repeated faces left out; 1 hole closed" in said
    assert "does not say its unit" in said
    page.choose("unit", "millimetres")
    page.wait(lambda: page.figure("extent_x") == "3.00 m")
    assert figure(page, "volume") == pytest.approx(4 / 3 * np.pi * 1.5**3, rel=0.01)
    bad = tmp_path / "bad.obj"
    bad.write_text("v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    page.find('[data-file="file"]').send_keys(str(bad))
    page.wait(lambda: "corner that is not a number" in page.find('[data-clause="m"]').text)
    page.click("Undo", "button")
    page.wait(lambda: page.figure("extent_x") == "3.00 m")


def test_shapes_are_shaded_by_what_people_look_at(page):
    new_project(page, "Shaded", {"id": "t", "kind": "torus", "values": {}})
    seen = set()
    for title, word in (("slope of the shape", "Slope"), ("Gaussian curvature", "1/m²"), ("mean curvature", "1/m"),
                        ("outside and inside", "outside")):  # fmt: skip
        page.choose("colour-by", title)
        legend = page.find('[data-testid="legend"]')
        page.wait(lambda word=word, legend=legend: word in page.find('[data-testid="legend"]').text)
        page.pictures()
        time.sleep(0.6)
        seen.add(hash(page.find('[data-testid="view"]').screenshot_as_png))
    assert len(seen) == 4, "each shading looks otherwise"
    new_project(page, "Sagging", {"id": "o", "kind": "draw", "values": {}},
                {"id": "s", "kind": "span", "values": {"heights": [[0, 0, -1]]}})  # fmt: skip
    assert "Water would stand at 1 low point" in page.find('[data-clause="s"]').text
    page.click("Show me", "button")
    assert page.figure("low_points") == "1"


def test_the_guide_shows_every_shape_with_a_picture(page):
    new_project(page, "Guide")
    page.click("Add a clause", "button")
    page.wait(lambda: len(page.find_all("[data-guide]")) > 45)
    picture = page.find('[data-guide="canopy"] img')
    page.browser.execute_script("arguments[0].scrollIntoView()", picture)
    page.wait(lambda: picture.get_property("naturalWidth") == 288)
    search = page.find('input[aria-label="Search the guide"]')
    search.send_keys("hollow-column")
    page.wait(lambda: len(page.find_all("[data-guide]")) == 1)
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("nonsense")
    page.wait(lambda: "try another word" in page.find('[role="dialog"]').text)
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("conoid", Keys.ENTER)
    page.ready()
    assert page.figure("extent_x") == "10.00 m"
    png = Image.open(io.BytesIO(page.find('[data-testid="view"]').screenshot_as_png))
    assert len(png.convert("RGB").getcolors(1 << 24)) > 100, "the shape is drawn"
