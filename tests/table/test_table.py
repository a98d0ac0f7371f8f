"""The cutting table: what it reads, refuses, plans and does, from DXF files alone."""

from __future__ import annotations

import contextlib
import io
import json
import socket
import subprocess
import sys
import threading
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.exchange.dxf import sheet_dxf
from leanlattice.exchange.readers import open_brought
from leanlattice.exchange.subjects import subjects_of
from leanlattice.statement.document import read_statement
from leanlattice.statement.evaluate import ResultCache, evaluate
from leanlattice.table.machine import LIFE, Machine
from leanlattice.table.planning import planned
from leanlattice.table.reading import faults_of, read_sheet_file

from ..known import known

DEMO = Path(__file__).parents[2] / "demo"
SQUARE = [(100, 100), (300, 100), (300, 250), (100, 250)]
HOLE = [(150, 140), (210, 140), (210, 200), (150, 200)]


def drawing(*lines, sheet=(1000, 600), units=4, tool=None, extra=None):
    """A sheet as a file: lines are (layer, points, closed)."""
    made = ezdxf.new("R2010", units=units)
    space = made.modelspace()
    if sheet:
        w, h = sheet
        space.add_lwpolyline(
            [(0, 0), (w, 0), (w, h), (0, h)], close=True, dxfattribs={"layer": "SHEET"}
        )
    for layer, points, closed in lines:
        space.add_lwpolyline(points, close=closed, dxfattribs={"layer": layer})
    if tool is not None:
        made.header.custom_vars.append("TOOL_MM", str(tool))
    if extra:
        extra(space)
    text = io.StringIO()
    made.write(text)
    return text.getvalue().encode()


GOOD = (
    ("CUT_OUTER", SQUARE, True),
    ("CUT_INNER", HOLE, True),
    ("MARK", [(230, 120), (280, 130)], False),
)


class Clock:
    def __init__(self):
        self.now = 0.0

    def __call__(self):
        return self.now


def refused(content, tool=3.0):
    machine = Machine(Clock())
    machine.tool = tool
    answer = machine.load("sheet", content)
    assert isinstance(answer, list), "it was taken"
    return answer


def slot(width):
    return [
        (100, 100),
        (300, 100),
        (300, 250),
        (200 + width, 250),
        (200 + width, 180),
        (200, 180),
        (200, 250),
        (100, 250),
    ]


@pytest.mark.parametrize(
    ("lines", "words", "place"),
    [
        ([("CUT_OUTER", SQUARE, False)], "is open", (100, 100)),
        ([GOOD[0], ("CUT_INNER", HOLE, False)], "CUT_INNER is open", (150, 140)),
        ([("CUT_OUTER", [(0, 0), (200, 100), (200, 0), (0, 100)], True)], "crosses itself", (100, 50)),
        ([*GOOD, ("CUT_OUTER", [(250, 200), (400, 200), (400, 400), (250, 400)], True)], "cross or touch", (300, 200)),
        ([("CUT_OUTER", [(x + 750, y) for x, y in SQUARE], True)], "off the sheet", (1050, 100)),
        ([GOOD[0], ("CUT_INNER", [(x + 400, y) for x, y in HOLE], True)], "lies in no part", (550, 140)),
        ([("CUT_OUTER", slot(2.0), True)], "smaller than the tool of 3 mm", (201, 215)),
        ([GOOD[0], ("CUT_INNER", [(150, 140), (152, 140), (152, 142), (150, 142)], True)], "smaller than the tool", (151, 141)),
        ([GOOD[0], ("CUT_OUTER", [(x + 202, y) for x, y in SQUARE], True)], "nearer to each other", (301, 175)),
    ],
)  # fmt: skip
def test_a_sheet_that_cannot_be_cut_is_refused_with_the_place(lines, words, place):
    faults = refused(drawing(*lines))
    found = [f for f in faults if words in f.text]
    assert found, [f.text for f in faults]
    assert min(np.hypot(f.x - place[0], f.y - place[1]) for f in found) < 80
    assert f"({found[0].x:.1f}, {found[0].y:.1f}) mm" in found[0].text


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"no drawing at all", "no DXF"),
        (b"", "no DXF"),
        (drawing(*GOOD, units=1), "not in millimetres"),
        (drawing(*GOOD, sheet=None), "no outline on layer SHEET"),
        (drawing(("MARK", SQUARE, False)), "nothing to cut"),
        (drawing(*GOOD, extra=lambda s: s.add_circle((200, 200), 5, dxfattribs={"layer": "CUT_INNER"})), "CIRCLE on CUT_INNER"),
        (drawing(*GOOD, tool=6), "drawn for a tool 6 mm wide"),
        (drawing(*GOOD, tool="wide"), "must be a number"),
    ],
)  # fmt: skip
def test_a_file_it_can_make_nothing_of_is_refused_in_words(content, words):
    assert words in refused(content)[0].text


def test_small_details_pass_a_small_enough_tool():
    assert refused(drawing(("CUT_OUTER", slot(2.0), True)))
    assert not isinstance(
        Machine(Clock()).load("sheet", drawing(("CUT_OUTER", slot(3.1), True))), list
    )
    assert not faults_of(read_sheet_file(drawing(("CUT_OUTER", slot(2.0), True))), 1.5)


@given(st.floats(0.5, 12))
def test_the_tool_keeps_beside_outlines_inner_ones_first(tool):
    plan = planned(read_sheet_file(drawing(*GOOD)), tool)
    kinds = [m.kind for m in plan.moves if m.kind != "idle"]
    assert kinds == ["mark", "cut", "cut"]
    inner, outer = (shapely.Polygon(m.way) for m in plan.moves if m.kind == "cut")
    assert inner.area == pytest.approx((60 - tool) ** 2)
    assert outer.exterior.distance(shapely.Polygon(SQUARE)) == pytest.approx(tool / 2, rel=0.01)
    # Every move begins where the one before ended, and the tool comes home.
    for before, after in zip(plan.moves, plan.moves[1:], strict=False):
        assert before.way[-1] == pytest.approx(after.way[0])
    assert plan.moves[-1].way[-1].tolist() == [0, 0]
    cut = plan.totals["cut"]
    assert plan.seconds == pytest.approx(
        3.0 + cut / 50 + plan.totals["mark"] / 120 + plan.totals["idle"] / 400
    )


def test_a_drawn_way_is_followed_as_it_is_and_tabs_slow_it():
    lines = (("CUT_OUTER", SQUARE, True), ("TAB", [(180, 100), (188, 100)], False))
    plan = planned(read_sheet_file(drawing(*lines, tool=3)), 3.0)
    assert plan.totals["cut"] == pytest.approx(700)
    bare = planned(read_sheet_file(drawing(lines[0], tool=3)), 3.0)
    assert plan.seconds - bare.seconds == pytest.approx(8 / 50, rel=0.1)


def test_a_part_in_an_opening_goes_before_the_part_about_it():
    frame = [(10, 10), (500, 10), (500, 400), (10, 400)]
    opening = [(50, 50), (450, 50), (450, 350), (50, 350)]
    file = drawing(
        ("CUT_OUTER", frame, True), ("CUT_INNER", opening, True), ("CUT_OUTER", SQUARE, True)
    )
    cuts = [
        shapely.Polygon(m.way).area
        for m in planned(read_sheet_file(file), 2.0).moves
        if m.kind == "cut"
    ]
    assert cuts == sorted(cuts)
    assert len(cuts) == 3


def test_the_queue_runs_stops_and_goes_on_where_it_was():
    clock = Clock()
    machine = Machine(clock)
    machine.pace = 1.0
    first, second = machine.load("one", drawing(*GOOD)), machine.load("two", drawing(*GOOD))
    assert machine.told()["state"] == "ready"
    machine.start()
    clock.now += 5
    told = machine.told()
    assert (told["state"], told["queue"][0]["done"]) == ("running", 5)
    machine.fail("stop")
    clock.now += 100
    assert machine.told()["says"].startswith("Stopped by hand")
    assert machine.told()["queue"][0]["done"] == 5
    machine.start()
    clock.now += first.plan.seconds
    told = machine.told()
    assert [j["name"] for j in told["finished"]] == ["one"]
    assert told["queue"][0]["done"] == pytest.approx(5)
    clock.now += second.plan.seconds
    assert machine.told()["state"] == "ready"
    assert [j["name"] for j in machine.told()["finished"]] == ["two", "one"]


def test_it_waits_for_a_sheet_and_for_a_fresh_tool():
    clock = Clock()
    machine = Machine(clock)
    machine.pace = 1.0
    machine.load("one", drawing(*GOOD))
    machine.fail("missing")
    machine.start()
    assert (machine.told()["state"], machine.told()["fault"]) == ("waiting", "missing")
    machine.lay_sheet()
    machine.start()
    machine.worn = LIFE - 100.0
    clock.now += 60
    told = machine.told()
    assert told["fault"] == "worn"
    assert 0 < told["queue"][0]["done"] < told["queue"][0]["seconds"]
    machine.start()
    assert machine.told()["state"] == "waiting", "a worn tool does not begin again"
    assert "clear them first" in machine.change_tool(6.0)
    assert "does not fit" in machine.change_tool(0.0)
    assert machine.change_tool(3.0) == ""
    machine.start()
    assert machine.told()["state"] == "running"
    machine.clear()
    assert machine.told()["state"] == "ready"


SECRET = "only-between-us"


def begun(*folder):
    process = subprocess.Popen(
        [sys.executable, "-m", "leanlattice.table", "0", *map(str, folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
    process.stdin.write(f"{SECRET}\n".encode())
    process.stdin.flush()
    return process, int(process.stdout.readline())


@contextlib.contextmanager
def line_to(port, greeting=f"HELLO {SECRET}"):
    """A line to a table; what it says to lines."""
    with socket.create_connection(("127.0.0.1", port)) as line, line.makefile("rb") as answers:

        def say(text, content=b""):
            line.sendall(f"{text}\n".encode() + content)
            word, _, rest = answers.readline().decode().partition(" ")
            return word, json.loads(rest or "null")

        assert say(greeting)[0] == ("OK" if SECRET in greeting else "NO")
        yield say


@pytest.fixture(scope="module")
def table():
    """The table's own process: its port."""
    process, port = begun()
    yield port
    process.stdin.close()
    assert process.wait(10) is not None
    process.stdout.close()


@pytest.fixture
def device(table):
    with line_to(table) as say:
        yield say


@pytest.mark.parametrize("greeting", ["HELLO", "HELLO nobody", "STATUS", "POST / HTTP/1.1"])
def test_who_does_not_know_the_secret_is_not_served(table, greeting):
    with line_to(table, greeting) as say, contextlib.suppress(ConnectionError):
        assert say("CLEAR") == ("", None), "the line is cut"


def test_it_answers_others_while_it_reads_a_sheet(table, device):
    content = many_parts(30)
    loaded = []

    def load():
        with line_to(table) as say:
            loaded.append(say(f"LOAD many {len(content)}", content))

    loading = threading.Thread(target=load)
    loading.start()
    answered = 0
    while loading.is_alive():
        assert device("STATUS")[0] == "OK"
        answered += not loaded
    loading.join()
    assert loaded[0][0] == "OK"
    assert answered > 5
    assert device("CLEAR")[0] == "OK"


def many_parts(number):
    """A sheet of ``number`` by ``number`` parts with an opening and a mark each."""
    lines = []
    for x in range(number):
        for y in range(number):
            a, b = 30 * x + 5, 30 * y + 5
            for layer, low, high in (("CUT_OUTER", 0, 20), ("CUT_INNER", 6, 14)):
                ring = [(low, low), (high, low), (high, high), (low, high)]
                lines.append((layer, [(a + u, b + v) for u, v in ring], True))
            lines.append(("MARK", [(a + 2, b + 2), (a + 4, b + 4)], False))
    return drawing(*lines, sheet=(30 * number + 10,) * 2)


def test_a_plan_of_many_parts_goes_to_each_once_and_mostly_to_the_next():
    """Of a square grid the shortest way is from each part to the one beside it."""
    plan = planned(read_sheet_file(many_parts(20)), 3.0)
    rings = [shapely.Polygon(m.way) for m in plan.moves if m.kind == "cut"]
    assert len(rings) == plan.starts == 800
    middles = np.array([r.centroid.coords[0] for r in rings])
    assert middles[0::2] == pytest.approx(middles[1::2]), "openings go with their part"
    assert len(np.unique(np.round(middles[1::2]), axis=0)) == 400
    away = np.hypot(*np.diff(middles[1::2], axis=0).T)
    assert np.median(away) == pytest.approx(30)
    assert away.sum() < 1.5 * 399 * 30
    k, x, y = plan.at(plan.ends[10] + 1e-6)
    assert (k, [x, y]) == (11, pytest.approx(plan.moves[11].way[0], abs=1e-3))


@pytest.mark.parametrize("kill", [True, False])
def test_its_queue_outlives_a_power_cut(tmp_path, kill):
    good, (process, port) = drawing(*GOOD), begun(tmp_path)
    with line_to(port) as say:
        for name in ("one", "two"):
            assert say(f"LOAD {name} {len(good)}", good)[0] == "OK"
        assert say("PACE 2")[0] == "OK"
        assert say("START")[1]["state"] == "running"
        assert say("STOP")[1]["queue"][0]["done"] > 0
        before = say("STATUS")[1]["queue"]
        process.kill() if kill else process.stdin.close()
    process.wait(10)
    process, port = begun(tmp_path)
    with line_to(port) as say:
        told = say("STATUS")[1]
        assert [(j["name"], j["done"]) for j in told["queue"]] == [
            (j["name"], pytest.approx(j["done"])) for j in before
        ]
        assert (told["state"], told["fault"]) == ("waiting", "off")
        assert "was off" in told["says"]
        assert say("START")[1]["state"] == "running"
        assert say("CLEAR")[1]["queue"] == []
    process.stdin.close()
    process.wait(10)
    assert not list(tmp_path.glob("*.dxf")), "what is not in the queue is not kept"
    (tmp_path / "state.json").write_text("{", encoding="utf-8")
    process, port = begun(tmp_path)
    with line_to(port) as say:
        assert say("STATUS")[1]["state"] == "ready", "a damaged note is put aside"
    process.kill()
    process.wait()


def test_its_protocol_takes_sheets_and_answers_nonsense(table, device):
    good = drawing(*GOOD)
    assert device("STATUS")[1]["state"] == "ready"
    word, job = device(f"LOAD a%20sheet {len(good)}", good)
    assert (word, job["name"]) == ("OK", "a sheet")
    bad = drawing(("CUT_OUTER", SQUARE, False))
    word, faults = device(f"LOAD bad {len(bad)}", bad)
    assert word == "NO"
    assert "open" in faults[0]["text"]
    assert [m[0] for m in device(f"PATH {job['number']}")[1]].count("cut") == 2
    for nonsense in (
        "DANCE",
        "LOAD",
        "LOAD x y",
        "TOOL",
        "TOOL wide",
        "PATH 99",
        "FAULT fire",
        "PACE",
        "TOOL nan",
        "PACE inf",
        "PACE nan",
        "PATH 1e999",
        f"{'x' * 300}",
    ):
        word, words = device(nonsense)
        assert word == "NO", nonsense
        assert words
    for cut_off in ("LOAD x -1", "LOAD x 999999999999", "x" * 5000):
        with line_to(table) as say:
            assert say(cut_off) == ("", None), cut_off
    assert device("PACE 10000")[0] == "OK"
    assert device("START")[1]["state"] in ("running", "ready")
    assert device("CLEAR")[1]["queue"] == []


@known("the cutting table", "runs every sheet of the rib demos")
@pytest.mark.parametrize(
    "name",
    [
        "bird-hide",
        "wardens-bench",
        "marsh-model",
        "creek-passage",
        "mooring-stone",
        "ferry-shelter",
    ],
)
def test_every_sheet_of_the_demos_is_cut(name):
    statement = read_statement((DEMO / f"{name}.json").read_bytes())

    def open_file(wanted, digest, file):
        return open_brought(wanted, file, statement.files[digest].bytes())

    made = evaluate(statement, ResultCache(), open_file=open_file)
    layouts = [s.result.layout for s in subjects_of(made) if s.type == "Sheets"]
    assert layouts
    for layout in layouts:
        assert (layout.sheet >= 0).all()
        for k in range(layout.sheet_count):
            clock = Clock()
            machine = Machine(clock)
            job = machine.load(name, sheet_dxf(layout, k))
            assert not isinstance(job, list), job
            outlines = sum(
                1 + len(layout.parts[i].inner) for i in np.flatnonzero(layout.sheet == k)
            )
            assert job.told()["starts"] == outlines
            machine.start()
            clock.now += job.plan.seconds
            assert [j["name"] for j in machine.told()["finished"]] == [name]
