"""Packs of statements other than the demo: several frames, no panels, only a shape, closed shapes, every border."""

from __future__ import annotations

import csv
import itertools
import json
import re

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.polygons import areas, best_planes, vector_areas
from leanlattice.core.geometry.triangulation import polygon_triangles
from leanlattice.exchange.check import check_pack
from leanlattice.exchange.dxf import read_sheet, read_wireframe
from leanlattice.exchange.ifc import element_names
from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..conftest import ring
from ..known import known


def pack_of(folder, *clauses, wanted=None):
    statement = Statement(name="Pack", clauses=[ClauseEntry(**c) for c in clauses])
    outcomes = list(evaluate(statement, ResultCache()))
    assert all(o.status == "done" for o in outcomes), [o.error for o in outcomes]
    return write_pack(folder, statement, outcomes, wanted).findings


def clause(kind, clause_id=None, on=None, **values):
    return {"id": clause_id or kind, "kind": kind, "on": on or {}, "values": values}


def files(folder):
    return {str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file()}


def table(folder, name):
    with (folder / f"{name}.csv").open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def test_two_frames_in_one_statement_keep_their_names_apart(tmp_path):
    findings = pack_of(
        tmp_path,
        clause("dome", span=6, rise=2),
        clause("pattern", "net", bays_across=8, bays_along=3),
        clause("frame", "f1"), clause("panels", "p1", joint=12), clause("name", "l1"), clause("set-out", "s1"),
        clause("loft"),
        clause("pattern", "net2", bays_across=4, bays_along=5, pattern="quads"),
        clause("frame", "f2", inner="Timber 60 × 160", series="B"), clause("panels", "p2", joint=40, series="B"),
        clause("set-out", "s2"), clause("bars"),
    )  # fmt: skip
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    members = table(tmp_path, "members")
    assert {m["label"][0] for m in members} == {"M", "E", "B"}
    assert {m["section"] for m in members if m["label"].startswith("BM")} == {"Timber 60 × 160"}
    assert len(read_wireframe(tmp_path / "wireframe.dxf")[0]) == len(members)
    assert len(table(tmp_path, "parts")) == len(table(tmp_path, "panels"))
    sheets = sorted(p.name for p in (tmp_path / "sheets").glob("*.dxf"))
    assert sheets == [f"sheet-{k + 1:02d}.dxf" for k in range(len(sheets))]
    # Bars were asked for the second frame only.
    assert {r["member"] for r in table(tmp_path, "bars")} == {
        m["label"] for m in members if m["label"].startswith("B")
    }


def test_panels_without_a_structure_are_cut_and_put_in_models(tmp_path):
    clauses = [clause("dome", span=6), clause("pattern", bays_across=6, bays_along=3)]
    findings = pack_of(tmp_path, *clauses, clause("panels", joint=12), clause("set-out"))
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    assert "panels against their nodes" in {f.check for f in findings}
    rows = table(tmp_path, "panels")
    assert {r["corners"] for r in rows} == {""}
    assert {r["label"] for r in rows} == {r["label"] for r in table(tmp_path, "parts")}
    assert {r["label"] for r in rows} == set(element_names(tmp_path / "model.ifc"))
    # With the structure they stand on there are corners, and none may be missing.
    framed = tmp_path / "framed"
    pack_of(framed, *clauses, clause("frame"), clause("panels", joint=12))
    text = (framed / "panels.csv").read_text(encoding="utf-8")
    row = table(framed, "panels")[0]
    (framed / "panels.csv").write_text(text.replace(row["corners"], "", 1), encoding="utf-8")
    found = {f.check: f.passed for f in check_pack(framed)}
    assert not found["panels against their nodes"]


def test_laths_that_bend_and_turn_about_their_axes_are_in_models_as_they_are_listed(tmp_path):
    findings = pack_of(
        tmp_path,
        clause("loft"),
        clause("pattern", pattern="diagrid", bays_across=6, bays_along=5),
        clause("weave", way="levels"),
        clause("frame", inner="RHS 120 × 60 × 5", set_out="top", roll=10, meeting="apart"),
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    assert "solids of models against schedules" in {f.check for f in findings}


def test_parts_that_differ_are_no_one_type_though_tables_agree(tmp_path):
    """Two types made one, in all tables alike: only the solids tell them apart."""
    findings = pack_of(
        tmp_path,
        clause("dome"),
        clause("pattern", bays_across=8, bays_along=3),
        clause("frame", inner="RHS 120 × 60 × 5", meeting="welded"),
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    assert "members of a type are one part" in {f.check for f in findings}
    kinds, rows = table(tmp_path, "member_types"), table(tmp_path, "members")
    one, other = next(
        (a, b)
        for a, b in itertools.pairwise(kinds)
        if a["section"] == b["section"]
        and abs(float(a["cut_length_mm"]) - float(b["cut_length_mm"])) > 20
    )
    cuts = []
    for row in rows:
        if row["type"] in (one["type"], other["type"]):
            row["type"] = one["type"]
            cuts.append(float(row["cut_length_mm"]))
    one["count"], one["cut_length_mm"] = len(cuts), f"{sum(cuts) / len(cuts):.3f}"
    one["spread_mm"] = f"{max(cuts) - min(cuts):.3f}"
    write(tmp_path, "members", rows)
    write(tmp_path, "member_types", [k for k in kinds if k is not other])
    found = {f.check: f.passed for f in check_pack(tmp_path)}
    assert found["member types against members"]
    assert not found["members of a type are one part"]


def write(folder, name, rows):
    with (folder / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, rows[0].keys(), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


def test_the_same_names_twice_are_found(tmp_path):
    findings = pack_of(
        tmp_path, clause("dome"), clause("pattern", bays_across=6, bays_along=3), clause("frame"),
        clause("frame", "again", inner="Timber 60 × 160"),
    )  # fmt: skip
    wrong = [f for f in findings if not f.passed]
    assert "labels unique and the same everywhere" in {f.check for f in wrong}


def test_panels_that_lean_into_each_other_are_told_and_found(tmp_path):
    def vault(folder, joint):
        panels = clause("panels", thickness=40, joint=joint, seat="raised", height=200)
        return pack_of(
            folder, clause("barrel", span=4, length=4, rise=1.5), clause("swap"),
            clause("pattern", pattern="quads", bays_across=4, bays_along=2), clause("frame"),
            panels, clause("name"), clause("set-out", width=6000, height=6000),
        )  # fmt: skip

    wrong = [f for f in vault(tmp_path / "narrow", 5) if not f.passed]
    assert [f.check for f in wrong] == ["panels put back share nothing"]
    report = json.loads((tmp_path / "narrow" / "report.json").read_text())
    (told,) = [w for c in report["clauses"] if c["kind"] == "panels" for w in c["warnings"]]
    needed = float(re.search(r"of ([\d.]+) mm they are clear", str(told)).group(1))
    assert all(f.passed for f in vault(tmp_path / "wide", needed))


ALWAYS = {"statement.json", "report.json", "checks.json", "manifest.json"}
MODELS = {"model.glb", "model.obj", "model.stl", "model.ifc"}
OF_SHAPE = MODELS | {"shape.step", "solids.csv", "solids.glb"}
OF_NET = {"net_nodes.csv", "net_edges.csv", "net_cells.csv", "wireframe.dxf"}
OF_FRAME = {
    "nodes.csv",
    "members.csv",
    "materials.csv",
    "member_types.csv",
    "node_angles.csv",
    "cuts.csv",
    "wireframe.dxf",
    "drawings.pdf",
}
PATTERN = clause("pattern", bays_across=6, bays_along=3)


@pytest.mark.parametrize(
    ("clauses", "expected"),
    [
        ([], set()),
        ([clause("dome")], OF_SHAPE),
        ([clause("dome"), PATTERN], OF_SHAPE | OF_NET),
        ([clause("dome"), PATTERN, clause("frame"), clause("name")], OF_SHAPE | OF_FRAME),
    ],
)
def test_only_what_there_is_material_for_is_written(tmp_path, clauses, expected):
    findings = pack_of(tmp_path, *clauses)
    assert files(tmp_path) == expected | ALWAYS
    assert [f for f in findings if not f.passed] == []


def test_only_the_groups_asked_for_are_written(tmp_path):
    clauses = [clause(k) for k in ("dome", "pattern", "frame", "name")]
    pack_of(tmp_path, *clauses, wanted={"wireframe.dxf"})
    assert files(tmp_path) == ALWAYS | {"wireframe.dxf"}
    assert all(f.passed for f in check_pack(tmp_path))


def test_single_parts_come_on_request(tmp_path):
    clauses = [clause("dome", span=6), clause("pattern", bays_across=6, bays_along=3)]
    clauses += [clause(k) for k in ("frame", "panels", "set-out")]
    pack_of(tmp_path, *clauses, wanted={"schedules", "sheets", "parts"})
    rows = {r["label"]: r for r in table(tmp_path, "parts")}
    assert {p.stem for p in (tmp_path / "parts").glob("*.dxf")} == set(rows)
    for label, row in rows.items():
        (outline,) = read_sheet(tmp_path / "parts" / f"{label}.dxf").outer
        assert outline.closed
        assert shapely.Polygon(outline.points).length == pytest.approx(
            float(row["cut_length_mm"]), abs=0.01
        )


@pytest.mark.parametrize("border", ["cut", "whole", "past"])
@pytest.mark.parametrize("shape", ["open", "closed", "dome"])
def test_every_border_on_every_kind_of_shape_gives_a_pack_that_passes(tmp_path, shape, border):
    closed = [[[float(c) for c in p] for p in ring(y, r, 6)] for y, r in ((0, 2), (4, 3))]
    shapes = {
        "open": clause("loft"),
        "closed": clause("loft", profiles=closed, closed="closed"),
        "dome": clause("dome", span=8, rise=2.5),
    }
    findings = pack_of(
        tmp_path, shapes[shape], clause("pattern", bays_across=7, bays_along=4, border=border),
        clause("frame", inner="CHS 48.3 × 4", border="CHS 60.3 × 4"), clause("panels", tolerance=4), clause("name"),
        clause("set-out", width=6000, height=3210), clause("bars"),
        wanted={"schedules", "sheets", "wireframe.dxf"},
    )  # fmt: skip
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    drawn = [o for p in (tmp_path / "sheets").glob("*.dxf") for o in read_sheet(p).outer]
    assert len(drawn) == sum(bool(r["sheet"]) for r in table(tmp_path, "parts"))


@pytest.mark.parametrize(
    ("inner", "border", "meeting"),
    [
        ("IPE 80", "UPE 100", "welded"),
        ("L 60 × 40 × 5", "T 100 × 100 × 8 × 10", "apart"),
        ("2UPE 80 × 8", "L 80 × 80 × 8", "welded"),
        ("UPE 80", "HEA 100", "ball"),
    ],
)
def test_open_sections_go_through_to_models_that_agree(tmp_path, inner, border, meeting):
    findings = pack_of(
        tmp_path,
        clause("loft"),
        clause("pattern", bays_across=5, bays_along=4),
        clause("frame", inner=inner, border=border, meeting=meeting, roll=10, radius=120),
        *(clause(kind) for kind in ("panels", "name", "bars")),
        wanted={"schedules", "wireframe.dxf", "model.ifc", "model.glb", "model.obj"},
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    assert {f.check for f in findings} >= {
        "building model against schedules",
        "solids of models against schedules",
    }


@pytest.mark.parametrize(
    ("pattern", "grid"),
    [
        ("quads", {"depth": 0.9, "web": "L 40 × 40 × 4"}),
        ("triangles", {"depth": 0.6, "arrangement": "alternate", "meeting": "ball"}),
        ("quads", {"depth": 0.8, "arrangement": "nodes", "side": "outside", "bottom": "IPE 80"}),
        ("diagrid", {"depth": 0.7, "bays": "thinned", "meeting": "apart"}),
    ],
)
def test_double_layers_are_in_models_as_they_are_listed(tmp_path, pattern, grid):
    findings = pack_of(
        tmp_path,
        clause("barrel", length=9),
        clause("pattern", pattern=pattern, bays_across=6, bays_along=5),
        clause("double-layer", **grid),
        *(clause(kind) for kind in ("panels", "name", "bars")),
        wanted={"schedules", "wireframe.dxf", "model.ifc", "model.glb", "model.obj"},
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    layers = {row["layer"] for row in table(tmp_path, "members")}
    assert layers == {"chord", "web"} | ({"post"} if grid.get("arrangement") == "nodes" else set())


def test_a_roof_on_columns_is_in_models_as_it_is_listed(tmp_path):
    findings = pack_of(
        tmp_path,
        clause("barrel", length=9),
        clause("pattern", pattern="quads", bays_across=6, bays_along=5),
        clause("double-layer", depth=0.9),
        clause("columns", which="heights", section="HEB 140", level=-2.5),
        clause("columns", "trees", which="chance", share=30, way="branching", levels="twice"),
        clause("columns", "leaning", which="chance", share=4, way="leaning", towards=[[0, 4, -9]]),
        *(clause(kind) for kind in ("panels", "name", "bars")),
        wanted={"schedules", "wireframe.dxf", "model.ifc", "model.glb", "model.obj"},
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    members = table(tmp_path, "members")
    assert {row["layer"] for row in members} == {"chord", "web", "column"}
    assert {row["label"][0] for row in members if row["layer"] == "column"} == {"C"}


ARCHES = [["arc", [[-5, 0], [0, 3], [5, 0]]], ["spline", [[-5, 0], [-2, -1], [5, 0]]]]
MODELS = {"schedules", "wireframe.dxf", "model.ifc", "model.glb", "model.obj"}


@pytest.mark.parametrize("bend", ["arcs", "straight"])
@pytest.mark.parametrize("section", ["IPE 160", "CHS 139.7 × 5", "L 80 × 80 × 8", "GL24h 80x200"])
def test_members_along_curves_are_in_models_as_they_are_listed(tmp_path, bend, section):
    findings = pack_of(
        tmp_path,
        clause("draw", curves=ARCHES, plane="front"),
        clause("frame-curves", section=section, bend=bend, roll=20),
        *(clause(kind) for kind in ("name", "bars")),
        wanted=MODELS,
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]


@pytest.mark.parametrize(
    "form",
    [
        {"webs": "warren", "chords": "two", "inclination": 20},
        {"webs": "pratt", "reach": "lens", "bottom": "2UPE 80 × 10", "meeting": "apart"},
        {"webs": "howe", "side": "outside", "meeting": "ball", "through": "between"},
        {"webs": "crossed", "web": "L 40 × 40 × 4"},
        {"webs": "vierendeel", "top": "HEA 100", "web": "SHS 80 × 4", "bottom": "HEA 100"},
    ],
)
def test_trusses_are_in_models_as_they_are_listed(tmp_path, form):
    findings = pack_of(
        tmp_path,
        clause("draw", curves=ARCHES, plane="front"),
        clause("trusses", **form),
        *(clause(kind) for kind in ("name", "bars")),
        wanted=MODELS,
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]


STAGE = [["arc", [[-6, 0.8], [0, 2.5], [6, 0.8]]], ["line", [[-6, 0], [6, 0]]]]


@pytest.mark.parametrize("way", ["along", "mirrored"])
@pytest.mark.parametrize("section", ["CHS 76.1 × 4", "L 60 × 60 × 6"])
def test_bays_with_struts_are_in_models_as_they_are_listed(tmp_path, way, section):
    places = [[0, 0, 2.5], [0, 0, 0]]
    findings = pack_of(
        tmp_path,
        clause("draw", curves=STAGE, plane="front"),
        clause("frame-curves", role="chord"),
        clause("struts", lines=places, how_many=4, section=section, meeting="apart"),
        clause("link", places=[[-6, 0, 0.8], [-6, 0, 0]], role="post"),
        clause("repeat-bay", way=way, dx=12, dy=0, copies=2, centre=[6, 0, 0], azimuth=0),
        *(clause(kind) for kind in ("name", "bars")),
        wanted=MODELS,
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]


convex = st.lists(st.floats(0, 6.2), min_size=3, max_size=9, unique_by=lambda a: round(a, 1)).map(
    sorted
)


@given(st.lists(convex, min_size=1, max_size=8), st.floats(-1, 1), st.floats(-1, 1))
def test_measures_of_polygons_agree_with_planar_geometry(fans, slope_x, slope_y):
    import numpy as np

    flat = [np.column_stack([np.cos(f), np.sin(f)]) * (1 + k) for k, f in enumerate(fans)]
    points = np.vstack([np.column_stack([p, p @ [slope_x, slope_y]]) for p in flat])
    offsets = np.concatenate([[0], np.cumsum([len(p) for p in flat])]).astype(np.int32)
    corners = np.arange(len(points), dtype=np.int32)
    plan = np.array([shapely.Polygon(p).area for p in flat])
    assert vector_areas(points, corners, offsets)[:, 2] == pytest.approx(plan, rel=1e-9, abs=1e-12)
    assert areas(points, corners, offsets) == pytest.approx(
        plan * np.sqrt(1 + slope_x**2 + slope_y**2), rel=1e-9, abs=1e-12
    )
    solid = plan > 1e-3
    _, normals = best_planes(points, corners, offsets)
    expected = np.array([-slope_x, -slope_y, 1]) / np.sqrt(1 + slope_x**2 + slope_y**2)
    assert np.abs(normals[solid] - expected).max(initial=0) < 1e-6
    triangles, owner = polygon_triangles(points, corners, offsets)
    pieces = np.zeros(len(flat))
    three = np.arange(0, 3 * len(triangles) + 1, 3, dtype=np.int32)
    np.add.at(pieces, owner, areas(points, triangles.ravel().astype(np.int32), three))
    assert pieces == pytest.approx(areas(points, corners, offsets), rel=1e-9, abs=1e-12)


BALL = clause("ball", radius=0.3, solid="body")


@known("packs of ribs", "put together from the files; a rib said to stand 4 mm off is found")
@pytest.mark.parametrize("cut", [{}, {"path": "beside", "tool": 3, "tabs": "tabs"}, {"copies": 2}])
def test_a_pack_of_ribs_goes_together_again_from_its_files(tmp_path, cut):
    ribs = clause("waffle", number_first=3, number_second=3)
    stock = clause("sheet-stock", width=700, height=700)
    findings = pack_of(tmp_path, BALL, ribs, stock, clause("set-out", **cut))
    assert [f for f in findings if not f.passed] == []
    rows = (tmp_path / "assembly.csv").read_text().splitlines()
    assert rows[0].startswith("step,label,goes_in,meets,thickness_mm,way_x,way_y,way_z,x_m")
    assert [r.split(",")[1] for r in rows[1:]] == ["A1", "A2", "A3", "B1", "B2", "B3"]
    worst = {f.check: f.worst for f in check_pack(tmp_path)}
    assert worst["ribs put together again share nothing"] < 1
    # A rib said to stand elsewhere is found out from the files alone.
    text = (tmp_path / "assembly.csv").read_text().splitlines()
    fields = text[1].split(",")
    fields[9] = str(float(fields[9]) + 0.004)
    (tmp_path / "assembly.csv").write_text("\n".join([text[0], ",".join(fields), *text[2:]]) + "\n")
    moved = {f.check: f for f in check_pack(tmp_path)}["ribs put together again share nothing"]
    assert not moved.passed
    assert "A1" in moved.where


def test_a_pack_of_bent_ribs_goes_together_again_from_its_files(tmp_path):
    plan = clause(
        "draw",
        "plan",
        curves=[["loop", [[-2, -1], [0, -0.5], [2, -1], [2.2, 0.6], [0, 1], [-2.2, 0.6]]]],
    )
    way = clause("draw", "way", curves=[["spline", [[-2, -0.2], [0, 0.2], [2, -0.2]]]])
    ribs = clause("spine-ribs", number_first=5, number_second=2, run="following", thick_second=6)
    sheets = clause("set-out", width=1500, height=6000)
    findings = pack_of(
        tmp_path,
        plan,
        clause("extrude", "hall", on={"curves": "plan"}, height=0.8),
        way,
        ribs,
        sheets,
    )
    assert [f for f in findings if not f.passed] == []
    bends, ribs = table(tmp_path, "bends"), {r["label"]: r for r in table(tmp_path, "ribs")}
    assert {r["label"] for r in bends} == {r for r in ribs if r.startswith("B")} != set()
    assert all(float(ribs[r["label"]]["radius_m"]) > 0.3 for r in bends)
    assert not any(r["radius_m"] for label, r in ribs.items() if label.startswith("A"))
    for a, b in itertools.pairwise(bends):
        if a["label"] == b["label"]:
            assert float(b["from_mm"]) == float(a["to_mm"])
    names = element_names(tmp_path / "model.ifc")
    assert set(ribs) <= names
    # A piece said to stand elsewhere is found out from the files alone: it is where another goes through.
    shared, row = (
        "ribs put together again share nothing",
        next(r for r in bends if r["piece"] == "9"),
    )
    for r in bends:
        r["x_m"] = str(float(r["x_m"]) + (0.02 if r["label"] == row["label"] else 0.0))
    with (tmp_path / "bends.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(row))
        writer.writeheader()
        writer.writerows(bends)
    moved = {f.check: f for f in check_pack(tmp_path)}[shared]
    assert not moved.passed
    assert row["label"] in moved.where


def test_slices_on_rods_with_rings_between_them(tmp_path):
    slices = clause(
        "slices", azimuth=90, rise=0, way="spaced", spacing=0.054, thickness=18, rods="at",
        holes=[[0, 0, 0.3]], rod=12, spacers="rings", ring=40,
    )  # fmt: skip
    findings = pack_of(
        tmp_path, clause("ball", radius=0.3, centre=[0, 0, 0.3], solid="body"), slices, clause("set-out")
    )  # fmt: skip
    assert [f for f in findings if not f.passed] == []
    # A slice that is called a ring is not looked at, but missed among the slices.
    rows = table(tmp_path, "ribs")
    text = (tmp_path / "ribs.csv").read_text()
    (tmp_path / "ribs.csv").write_text(
        text.replace(f"{rows[3]['label']},A", f"{rows[3]['label']},S")
    )
    assert not all(f.passed for f in check_pack(tmp_path))


def test_ribs_that_do_not_go_together_hold_the_pack_back(tmp_path):
    ribs = clause("waffle", number_first=3, number_second=3)
    tight = clause("rib-slots", clearance=-1.5)
    findings = pack_of(tmp_path, BALL, ribs, tight, clause("set-out"))
    assert {f.check for f in findings if not f.passed} == {
        "ribs put together again share nothing",
        "ribs go in one after the other",
    }
    assert files(tmp_path) == ALWAYS


def test_a_bar_that_comes_back_to_where_it_begins_is_as_it_is_listed(tmp_path):
    """Both of its ends are cut at one node, where corners are near either."""
    findings = pack_of(
        tmp_path,
        clause("ball"),
        clause("pattern", "net", density="module", pattern="triangles"),
        clause("frame", through="first"),
        wanted={"schedules", "model.obj", "model.ifc"},
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    rings = [m for m in table(tmp_path, "members") if m["start"] == m["end"]]
    assert rings


def test_a_pack_of_panels_of_which_none_can_be_made_is_whole_and_tells_each(tmp_path):
    vault = clause("barrel", span=1, rise=0.3, length=1)
    net = clause("pattern", pattern="quads", bays_across=3, bays_along=3)
    findings = pack_of(tmp_path, vault, net, clause("panels", joint=400), wanted={"schedules"})
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    assert "poses.csv" not in files(tmp_path)
    report = json.loads((tmp_path / "report.json").read_text())
    labels = [m["label"] for m in report["not_made"]]
    assert sorted(labels) == sorted(row["label"] for row in table(tmp_path, "panels"))
    kept = [m for m in report["not_made"] if m["label"] != labels[0]]
    (tmp_path / "report.json").write_text(json.dumps(report | {"not_made": kept}))
    failing = {f.check for f in check_pack(tmp_path) if not f.passed}
    assert "tables and drawings that belong together" in failing


def test_bars_planned_before_members_were_changed_are_told_and_missed(tmp_path):
    rows = [clause("barrel"), clause("pattern", bays_across=4, bays_along=3), clause("frame")]
    late = clause("columns", level=-4, places=[[0, 0, 3]])
    findings = pack_of(tmp_path, *rows, clause("bars"), late, wanted={"schedules"})
    assert all(f.passed for f in findings)
    report = json.loads((tmp_path / "report.json").read_text())
    assert [m["what"] for m in report["not_made"]] == ["bars"]
    (tmp_path / "report.json").write_text(json.dumps(report | {"not_made": []}))
    assert "members on stock bars" in {f.check for f in check_pack(tmp_path) if not f.passed}


def test_three_members_stand_apart_on_one_plate(tmp_path):
    lines = [["line", [[0, 0], end]] for end in ([4, 4], [-4, 4], [0.5, 6])]
    findings = pack_of(
        tmp_path,
        clause("draw", curves=lines, plane="front"),
        clause("frame-curves"),
        clause("plate-ends", which="all", at="low"),
        clause("end-plates"),
        clause("set-out"),
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    (row,) = table(tmp_path, "end_plates")
    assert float(row["raised_mm"]) > 100
    near = (tmp_path / "end_plates.csv").read_text().replace(row["raised_mm"], "100.0")
    (tmp_path / "end_plates.csv").write_text(near)
    assert not all(f.passed for f in check_pack(tmp_path) if "manifest" not in f.check)


def test_what_overruns_fails_the_check_and_is_told(tmp_path):
    rows = [
        clause("dome"),
        clause(
            "pattern", "net", pattern="trihexagons", bays_across=12, bays_along=12, spread="plan"
        ),
        clause("weave", width=140, thickness=60),
        clause("frame", inner="GL24h 140x60", border="GL24h 140x60"),
    ]
    findings = pack_of(tmp_path, *rows, wanted={"schedules", "model.obj"})
    (wrong,) = (f for f in findings if not f.passed)
    assert wrong.check == "solids of models against schedules"
    report = json.loads((tmp_path / "report.json").read_text())
    told = next(c["warnings"] for c in report["clauses"] if c["kind"] == "frame")
    assert any("reach past" in text for text in told)


def test_very_short_members_are_held_to_what_rounding_leaves(tmp_path):
    findings = pack_of(
        tmp_path,
        clause("cage"),
        clause("pattern", "net", across=0.6, bays_across=6, bays_along=9, rise=45, turn=90),
        clause("frame"),
        wanted={"schedules"},
    )
    assert min(float(m["length_mm"]) for m in table(tmp_path, "members")) < 2
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]


@pytest.mark.parametrize("joint", ["butt", "scarf"])
@pytest.mark.parametrize("thickness", [40, 60, 80])
def test_woven_laths_in_lengths_are_in_models_as_they_are_listed(tmp_path, joint, thickness):
    findings = pack_of(
        tmp_path,
        clause("barrel", span=8, length=9, rise=1.6),
        clause("pattern", pattern="quads", bays_across=7, bays_along=6),
        clause("weave", thickness=thickness),
        clause("frame", inner="GL24h 140x60", border="GL24h 200x100"),
        clause("splice-members", which="role", role="lath", joint=joint, longest_piece=4),
        *(clause(kind) for kind in ("name", "bars")),
        wanted=MODELS,
    )
    assert all(f.passed for f in findings), [f for f in findings if not f.passed]
    kinds = {row["kind"] for row in table(tmp_path, "crossings")}
    assert {40: "notch", 60: "contact", 80: "block"}[thickness] in kinds
    lengths = [
        float(r["cut_length_mm"]) for r in table(tmp_path, "members") if r["layer"] == "lath"
    ]
    assert max(lengths) <= 4005
