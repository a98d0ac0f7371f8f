"""Clauses of chapter Lattice together: demos, zones, marks, files, and the words for what cannot be done."""

from __future__ import annotations

import io
import re

import ezdxf
import numpy as np
import pytest

from leanlattice.clauses.guide import GUIDE
from leanlattice.clauses.registry import CLAUSE_TYPES
from leanlattice.core.geometry.nets import MARKS, Net
from leanlattice.core.geometry.polygons import areas
from leanlattice.core.shaping.brought import ReadProblem
from leanlattice.exchange.guide import sample_file
from leanlattice.exchange.readers import open_brought
from leanlattice.exchange.wire import geometry
from leanlattice.statement.document import read_statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..conftest import DEMO
from ..core.test_nets import assert_sound
from .test_shape_clauses import clauses, outcomes

BOX = ("box", {"along_x": 6, "along_y": 4, "height": 5})
DIAGRID = ("pattern", {"pattern": "diagrid", "density": "module", "module": 1})
QUADS = ("pattern", {"pattern": "quads", "density": "module", "module": 0.5})
SHEET = (
    "saddle",
    {"first": [0, 0, 0], "second": [6, 0, 0], "third": [6, 4, 0], "fourth": [0, 4, 0]},
)


def made(*rows):
    """What the last clause made."""
    found = list(outcomes(clauses(*rows), open_file=sample_file).values())
    assert found[-1].status == "done", found[-1].error
    return found[-1]


def middle_heights(net):
    return np.add.reduceat(net.vertices[net.corners, 2], net.offsets[:-1]) / np.diff(net.offsets)


def demo_nets(name):
    statement = read_statement((DEMO / f"{name}.json").read_bytes())

    def open_file(wanted, digest, file):
        return open_brought(wanted, file, statement.files[digest].bytes())

    found = {o.id: o for o in evaluate(statement, ResultCache(), open_file=open_file)}
    assert {o.status for o in found.values()} == {"done"}, [
        o.error for o in found.values() if o.error
    ]
    return {k: o.result for k, o in found.items() if isinstance(o.result, Net)}


OWN = [
    (
        "draw",
        {"curves": [["line", [[0, 0.5], [1, 0.5]]], ["line", [[0.5, 0], [0.6, 0.5], [0.5, 1]]]]},
    )
]
LAID = {
    "own-module": (OWN, {"bay": "given", "bays_across": 9, "bays_along": 8}),
    "geodesic": ([], {"frequency": 4}),
    "foam": ([], {"width": 1.6}),
    "equal-mesh": ([], {"length": 0.8, "start": (0, 0, 3)}),
}


@pytest.mark.parametrize("kind", LAID)
@pytest.mark.parametrize(
    "shape", ["loft", "revolve", "combine", "import", "cut-plan", "openings", "torus", "dome"]
)
def test_every_other_pattern_lies_on_every_kind_of_shape(kind, shape):
    drawn, values = LAID[kind]
    last = list(
        outcomes(
            clauses(*GUIDE[shape].sample, *drawn, (kind, values)), open_file=sample_file
        ).values()
    )[-1]
    if (
        last.status == "failed"
    ):  # seen from one middle a torus or a block with wings lies over itself
        assert kind == "geodesic", last.error
        assert last.error_value == "solid"
        return
    assert_sound(last.result)
    gap = np.abs(last.result.vertices - last.result.surface.points(last.result.uv)).max()
    assert gap < 1e-6 * np.ptp(last.result.vertices, axis=0).max()


def test_the_tower_thins_upward_in_steps_and_stands_open_on_the_ground():
    nets = demo_nets("lamp-tower")
    net = nets["lowest"]
    assert len(net.loops) >= 1
    assert net.vertices[net.loop_vertices, 2].max() < 28
    size, z = areas(net.vertices, net.corners, net.offsets), middle_heights(net)
    walls = [
        np.median(size[(z > low) & (z < high)]) for low, high in ((0.5, 3.5), (5, 11), (13, 19))
    ]
    assert walls[1] == pytest.approx(4 * walls[0], rel=0.05)
    assert walls[2] == pytest.approx(4 * walls[1], rel=0.05)


def test_the_roof_of_the_gallery_is_woven():
    woven = demo_nets("tide-gallery")["laths"]
    assert b"bandTriangles" in geometry("k", woven)


def test_the_other_demos_have_their_nets():
    assert demo_nets("spray-wall")["frames"].cell_count > 500
    assert demo_nets("reed-canopy")


@pytest.mark.parametrize(
    ("zone", "share"),
    [
        ({"where": "facing", "facing": "up"}, 24 / 148), ({"where": "facing", "facing": "sideways"}, 100 / 148),
        ({"where": "height", "low": 0, "high": 2.5}, 74 / 148), ({"where": "size", "module": 0.1}, 1.0),
    ],
)  # fmt: skip
def test_zones_of_a_box_are_left_out_or_kept(zone, share):
    whole = made(BOX, QUADS).result
    total = areas(whole.vertices, whole.corners, whole.offsets).sum()
    assert total == pytest.approx(148)
    if share < 1:
        kept = made(BOX, QUADS, ("leave-out", {**zone, "keep": "others"})).result
        rest = made(BOX, QUADS, ("leave-out", zone)).result
        assert areas(kept.vertices, kept.corners, kept.offsets).sum() == pytest.approx(
            share * total
        )
        assert kept.cell_count + rest.cell_count == whole.cell_count
    fine = made(BOX, QUADS, ("refine", zone))
    assert fine.figures["refined"].value == pytest.approx(share * whole.cell_count)
    assert not fine.result.loops


def test_members_appear_below_in_steps_from_one_setting():
    net = made(BOX, QUADS, ("refine", {"where": "steps", "times": 2})).result
    size, z = areas(net.vertices, net.corners, net.offsets), middle_heights(net)
    low, high = net.vertices[:, 2].min(), net.vertices[:, 2].max()
    z = (z - low) / (high - low)
    steps = [np.median(size[(z > a) & (z < b)]) for a, b in ((0.02, 0.3), (0.4, 0.6), (0.75, 0.98))]
    assert steps[1] / steps[0] == pytest.approx(4)
    assert steps[2] / steps[1] == pytest.approx(4)
    six = ("pattern", {"pattern": "quads", "bays_across": 3, "bays_along": 2})
    assert (
        made(
            SHEET, six, ("refine", {"where": "size", "module": 0.1, "way": "joined"})
        ).result.cell_count
        == 6 * 5
    )
    spokes = made(SHEET, six, ("refine", {"where": "size", "module": 0.1, "way": "spokes"})).result
    assert set(np.diff(spokes.offsets)) == {3}


def test_marks_choose_sections_and_panels():
    rows = [("dome", {}), ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 5}),
            ("mark-edges", {"which": "ribs"}), ("mark-edges", {"which": "strands", "every": 2, "mark": "third"}),
            ("mark-cells", {"where": "border"})]  # fmt: skip
    net = made(*rows).result
    assert (net.marks == MARKS.index("main")).any()
    frame = made(*rows, ("frame", {"marks": "marked"})).result
    for mark, section in ((1, "CHS 168.3 × 6.3"), (3, "CHS 88.9 × 4")):
        names = {frame.sections[s].name for s in frame.section_of[net.marks == mark]}
        assert names == {section}
    alike = made(*rows, ("frame", {})).result
    assert len(alike.sections) == 2
    assert len(geometry("k", frame)) > len(geometry("k", alike))
    panels = made(*rows, ("panels", {"cells": "main"})).result
    assert set(panels.cell) == set(np.flatnonzero(net.cell_marks == 1)) == set(range(16))
    assert set(made(*rows, ("panels", {"cells": "others"})).result.cell) == set(range(16, 80))


@pytest.mark.parametrize(
    ("which", "count"),
    [
        ("border", 20),
        ("side", 4),
        ("share", round(0.2 * 58)),
        ("rings", 6 * 3),
        ("ribs", 4 * 5),
        ("diagonals", 0),
        ("longer", 0),
        ("steep", 0),
        ("places", 1),
    ],
)
def test_edges_are_told_apart_by_how_they_run(which, count):
    rows = [SHEET, ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 4})]
    outcome = made(*rows, ("mark-edges", {"which": which}))
    assert int((outcome.result.marks == 1).sum()) == count
    assert bool(outcome.warnings) == (count == 0)


def test_a_side_of_the_border_is_what_lies_that_way():
    rows = [SHEET, ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 4})]
    net = made(*rows).result
    middles = net.vertices[net.edges].mean(axis=1)
    for azimuth, axis, sign in ((0, 0, 1), (90, 1, 1), (180, 0, -1), (280, 1, -1)):
        marked = (
            made(*rows, ("mark-edges", {"which": "side", "azimuth": azimuth})).result.marks == 1
        )
        outer = (sign * middles[:, axis]).max()
        assert marked.tolist() == (sign * middles[:, axis] > outer - 1e-6).tolist()
    # A round border has no corners: the quarter about the way, one run.
    round_net = made(
        ("dome", {}), ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 4})
    )
    for azimuth in (0, 90, 200):
        way = np.array([np.cos(np.radians(azimuth)), np.sin(np.radians(azimuth))])
        clause = ("mark-edges", {"which": "side", "azimuth": azimuth})
        dome = made(
            ("dome", {}),
            ("pattern", {"pattern": "quads", "bays_across": 16, "bays_along": 4}),
            clause,
        )
        chosen = dome.result.marks == 1
        assert chosen.sum() in (3, 4)
        at = round_net.result.vertices[round_net.result.edges[chosen]].mean(axis=1)[:, :2]
        assert (at @ way > 0.7 * np.linalg.norm(at, axis=1)).all()


@pytest.mark.parametrize("change", [("mark-edges", {"which": "rings"}), ("ease", {})])
def test_a_pattern_even_in_plan_goes_on_at_the_top_of_a_dome(change):
    """Where all ribs meet the surface has no direction along its rings."""
    found = made(("dome", {}), ("pattern", {"spread": "plan"}), change)
    assert found.status == "done", found.error
    assert np.isfinite(found.result.vertices).all()


def test_a_larger_random_share_holds_what_a_smaller_one_did():
    cells = [made(SHEET, QUADS, ("mark-cells", {"where": "share", "share": s, "seed": 4})).result.cell_marks == 1
             for s in (10, 30)]  # fmt: skip
    count = len(cells[0])
    assert [c.sum() for c in cells] == [round(0.1 * count), round(0.3 * count)]
    assert not (cells[0] & ~cells[1]).any()


@pytest.mark.parametrize(
    ("rows", "value", "words"),
    [
        ([BOX, ("foam", {"width": 0.03})], "width", "would cut about .* m or more works"),
        ([SHEET, ("pattern", {"pattern": "hexagons"}), ("weave", {})], "way", "No two strands of this net cross"),
        ([SHEET, ("pattern", {"pattern": "quads", "bays_across": 1, "bays_along": 1}), ("reciprocal", {})], "by", "No inner node"),
        ([("dome", {}), ("pattern", {}), ("reciprocal", {"angle": 40})], "angle", "reach past each other"),
        ([SHEET, QUADS, ("leave-out", {"where": "height", "low": -9, "high": 9})], "where", "would leave no cell"),
        ([SHEET, QUADS, ("refine", {"where": "near"})], "where", "no pull points above"),
        ([SHEET, QUADS, ("refine", {"where": "region"})], "where", "no closed outline above"),
        ([SHEET, QUADS, ("refine", {"low": 3, "high": 1})], "low", "exchange the two"),
        ([SHEET, QUADS, ("mark-edges", {"which": "strands", "first": 900})], "first", "There are .* strands"),
        ([SHEET, QUADS, ("panels", {"cells": "second"})], "cells", "No cell of the net is marked so"),
        ([BOX, ("pattern", {"spread": "plan"})], "spread", "take its top as a surface first"),
        ([SHEET, ("draw", {"curves": [["line", [[0, 0], [1, 0]]]]}), ("own-module", {})], "bay", "no width or no depth"),
        ([("wireframe", {})], "file", "No file is chosen"),
        ([("wireframe", {"file": ["0" * 64, "a.dxf"], "on": "shape"})], "on", "no shape above"),
        ([("wireframe", {"file": ["0" * 64, "a.dxf"], "unit": "mm"})], "join", "No line is longer"),
    ],
)  # fmt: skip
def test_what_a_lattice_cannot_do_is_said(rows, value, words):
    last = list(outcomes(clauses(*rows), open_file=sample_file).values())[-1]
    assert last.status == ("begun" if "No file is chosen" in words else "failed")
    assert last.error_value == value
    assert re.search(words, last.error), last.error


@pytest.mark.parametrize(
    ("values", "code"),
    [
        ({"density": "module", "module": 50}, "module too large"),
        ({"density": "module", "module": 0.011}, "module too small"),
        ({"bays_across": 2000, "bays_along": 1900}, "too many bays"),
    ],
)
def test_a_pattern_that_does_not_fit_its_shape_is_mended_by_one_click(values, code):
    rows = [("saddle", {}), ("pattern", {"pattern": "quads", **values})]
    failed = list(outcomes(clauses(*rows)).values())[-1]
    assert failed.error_code == code
    (remedy,) = failed.remedies
    rows[1][1].update(remedy.values)
    _, net = outcomes(clauses(*rows)).values()
    assert net.status == "done"
    if code == "module too large":
        assert net.figures["cells"].value >= 1
    else:
        assert net.figures["cells"].value > 50_000


def drawing(unit, closed=False):
    document = ezdxf.new(units=unit)
    space = document.modelspace()
    for x in range(4):
        space.add_line((x * 1000, 0, 0), (x * 1000, 2000, 500 * (x % 2)))
    for y in range(3):
        space.add_polyline3d(
            [(x * 1000, y * 1000, 250 * y * (x % 2)) for x in range(4)], close=closed
        )
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


TABLES = (
    b"label,x_m,y_m,z_m\nN1,0,0,0\nN2,1,0,0\nN3,1,1,0.2\nN4,0,1,0\n",
    b"label,section,start,end\nM1,CHS,N1,N2\nM2,CHS,N2,N3\nM3,CHS,N3,N4\nM4,CHS,N4,N1\n",
)
GRID = b"v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 2 0 0\nv 2 1 0\nl 1 2 3 4 1\nl 2 5 6 3\n"


@pytest.mark.parametrize(
    ("name", "content", "more", "cells", "unit"),
    [
        ("lines.dxf", drawing(4), None, 6, 1e-3), ("lines.obj", GRID, None, 2, 0.0),
        ("members.csv", TABLES[1], TABLES[0], 1, 1.0), ("both.csv", TABLES[0] + TABLES[1], None, 1, 1.0),
        ("ends.csv", b"x1;y1;z1;x2;y2;z2\n0;0;0;1;0;0\n1;0;0;0;1;0\n0;1;0;0;0;0\n", None, 1, 0.0),
    ],
)  # fmt: skip
def test_wireframes_are_read_from_every_format(name, content, more, cells, unit):
    assert open_brought("wires", name, content).unit in (unit, 0.0)
    stored = {"a": (name, content), "b": ("other.csv", more)}
    values = {"file": ["a" * 64, name]}
    if more:
        values |= {"tables": "two", "other": ["b" * 64, "other.csv"]}
    found = outcomes(
        clauses(("wireframe", values)),
        open_file=lambda wanted, digest, file: open_brought(wanted, *stored[digest[0]]),
    )
    last = list(found.values())[-1]
    assert last.status == "done", last.error
    assert last.result.cell_count == cells
    assert np.ptp(last.result.vertices, axis=0).max() < 4


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("a.csv", b"1,2,3\n", "no header stands before it"), ("a.csv", b"label,x,y,z\na,0,0,zero\n", "coordinates 0, 0, zero"),
        ("a.csv", b"x,y,z\n0,0,nan\n", "not a number"), ("a.csv", b"\xff\xfe\x00", "not text"),
        ("a.csv", b"x,y,z\n", "neither nodes"), ("a.obj", b"v 0 0 0\nl 1 2\n", "point 2, but 1"),
        ("a.obj", b"v 0 0\n", "no v of an OBJ"), ("a.obj", b"# nothing", "no lines"),
        ("a.dxf", b"rubbish", "cannot be read|holds no lines"), ("a.stl", b"solid", "not of a kind"),
        ("a.csv", b"x1,y1,z1,x2,y2,z2\n0,0,0,1e12,0,0\n", "no building"),
    ],
)  # fmt: skip
def test_wireframes_that_cannot_be_read_say_why(name, content, words):
    with pytest.raises(ReadProblem, match=words):
        open_brought("wires", name, content)


def test_a_member_without_its_nodes_asks_for_their_table():
    wires = open_brought("wires", "m.csv", TABLES[1])
    with pytest.raises(ReadProblem, match="“N1”.*table of nodes"):
        wires.joined()


@pytest.mark.parametrize("height", [3.7, 4.5, 6.1])
def test_a_foam_is_cut_by_a_wall_of_any_height(height):
    """Pieces given away close rings, and parted rings leave pieces to give away, for many
    rounds."""
    net = made(
        ("box", {"along_x": 15, "along_y": 1.0, "height": height, "centre": [0, 0, 0]}),
        ("foam", {"cells": "equal", "width": 1.3, "turn": 25, "tilt": 35, "sliver": 8}),
    ).result
    assert len(net.vertices) - len(net.edges) + net.cell_count == 2


def test_every_new_clause_reads_as_a_sentence():
    for kind in (
        "foam",
        "own-module",
        "wireframe",
        "weave",
        "reciprocal",
        "mark-edges",
        "mark-cells",
        "leave-out",
        "refine",
    ):
        text = CLAUSE_TYPES[kind]().reads()
        assert text.endswith(".")
        assert "{" not in text


def test_bars_on_top_of_each_other_lift_the_net_and_say_so():
    rows = [SHEET, ("pattern", {"pattern": "quads", "bays_across": 6, "bays_along": 6})]
    on_top = {"rest": "top", "angle": 15, "height": 20}
    found = made(*rows, ("reciprocal", on_top))
    assert found.figures["most_rise"].value > 0
    assert found.figures["off_rest"].value < 1
    assert "widest_gap" not in found.figures
    high = made(*rows, ("reciprocal", on_top | {"height": 300}))
    (told,) = [w for w in high.warnings if w.value == "height"]
    assert "Bars 300 mm high" in told.text
    assert told.at is not None
    assert high.figures["most_rise"].value > found.figures["most_rise"].value
