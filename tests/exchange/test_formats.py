"""Drawings, building model, exact shapes and stock bars, read back by other means than they were written."""

from __future__ import annotations

import ast
import os
import re
import subprocess
import sys
import zlib

import ifcopenshell
import ifcopenshell.geom
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.bars import plan_bars
from leanlattice.core.geometry.exact import spline_points, spline_surface
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.panels.names import names_of_panels
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure
from leanlattice.exchange.drawings import scale_for, write_drawings
from leanlattice.exchange.ifc import write_ifc
from leanlattice.exchange.material import Material, tables_of
from leanlattice.exchange.step import exact_form, write_step
from leanlattice.exchange.subjects import subjects_of
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..conftest import SURFACES, demo, roof
from ..known import approx, held_to, known


def structure_and_panels(name):
    """What files are written of, of a demo: its structure first, then its panels."""
    found = subjects_of(evaluate(demo(name), ResultCache()))
    return [s for kind in ("Structure", "Panels") for s in found if s.type == kind and s.head]


@pytest.fixture(scope="module")
def named():
    return structure_and_panels("ferry-shelter")


def labels_of(subjects):
    """Labels of nodes, of members and of panels."""
    structure, panels = subjects
    names = names_of_structure(structure.result)
    return names.every_node, names.every_member, names_of_panels(panels.result).every_panel


@known("exact form of a loft", "the loft itself, at random places")
@pytest.mark.parametrize("name", ["roof", "swapped roof", "tube", "flat sheet"])
def test_the_exact_form_is_the_loft_itself(name):
    surface = SURFACES[name]()
    uv = np.random.default_rng(5).random((300, 2))
    away = np.abs(spline_points(spline_surface(surface), uv) - surface.points(uv))
    held_to(away / np.ptp(surface.grid(9, 9).reshape(-1, 3), axis=0).max(), 1e-10)


def face_of(path):
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.STEPControl import STEPControl_Reader
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()
    face = TopExp_Explorer(reader.OneShape(), TopAbs_ShapeEnum.TopAbs_FACE).Current()
    cast = getattr(TopoDS, "Face_s", None) or TopoDS.Face
    return cast(face), BRepAdaptor_Surface(cast(face))


def area_of(face):
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    found = GProp_GProps()
    (getattr(BRepGProp, "SurfaceProperties_s", None) or BRepGProp.SurfaceProperties)(face, found)
    return found.Mass() / 1e6


@known("STEP of a loft and a cap", "points and area as read back by another kernel")
def test_step_carries_lofts_and_caps_exactly(tmp_path):
    surface = roof()
    write_step(tmp_path / "loft.step", [("loft", exact_form(surface))])
    face, adaptor = face_of(tmp_path / "loft.step")
    for u, v in np.random.default_rng(6).random((40, 2)):
        p = adaptor.Value(u, v)
        assert np.array([p.X(), p.Y(), p.Z()]) / 1000 == approx(
            surface.points(np.array([[u, v]]))[0], abs=1e-7
        )
    assert area_of(face) == approx(surface.area, rel=1e-4)
    cap = dome(10, 3, np.array([1.0, 2.0, 3.0]))
    write_step(tmp_path / "cap.step", [("cap", exact_form(cap))])
    assert area_of(face_of(tmp_path / "cap.step")[0]) == approx(
        2 * np.pi * cap.radius * 3, rel=1e-6
    )


def solid_volume(path):
    """Volume (m³) and number of faces of the one solid in a file."""
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.STEPControl import STEPControl_Reader
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer

    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()
    solid = reader.OneShape()
    assert solid.ShapeType() == TopAbs_ShapeEnum.TopAbs_SOLID
    found, count = GProp_GProps(), 0
    measure = getattr(BRepGProp, "VolumeProperties_s", None) or BRepGProp.VolumeProperties
    measure(solid, found, 1e-6)
    faces = TopExp_Explorer(solid, TopAbs_ShapeEnum.TopAbs_FACE)
    while faces.More():
        count += 1
        faces.Next()
    return found.Mass() / 1e9, count


PLATE = [["rectangle", [[0, 0], [4, 3]]], ["circle", [[2, 1.5], [2.5, 1.5]]]]
SOLIDS = {
    "ball": ([("ball", {"solid": "body"})], 36 * np.pi, 1),
    "cylinder turned": ([("cylinder", {"solid": "body"}), ("turn", {"angle": 33})], 54 * np.pi, 3),
    "box": ([("box", {})], 144.0, 6),
    "ring": ([("torus", {"solid": "body"})], 22.5 * np.pi**2, 1),
    "plate with a hole and round corners": (
        [("draw", {"curves": PLATE}), ("extrude", {"ends": "capped", "height": 0.5, "rounding": 0.4})],
        0.5 * (12 - (4 - np.pi) * 0.16 - np.pi / 4),
        None,
    ),
    "thick dome": (
        [("dome", {"span": 10, "rise": 5}), ("thicken", {"thickness": 0.25, "side": "inside"})],
        2 / 3 * np.pi * (125 - 4.75**3),
        3,
    ),
}  # fmt: skip


def shape_of(rows):
    entries = [ClauseEntry(id=f"c{i}", kind=k, values=v) for i, (k, v) in enumerate(rows)]
    return list(evaluate(Statement(clauses=entries), ResultCache()))[-1].result


@known("STEP of bodies", "one solid each; volume as another kernel measures it")
@pytest.mark.parametrize("name", SOLIDS)
def test_step_carries_bodies_as_solids(tmp_path, name):
    rows, volume, count = SOLIDS[name]
    write_step(tmp_path / "body.step", [("body", exact_form(shape_of(rows)))])
    found, faces = solid_volume(tmp_path / "body.step")
    assert found == approx(volume, rel=1e-5)
    assert count is None or faces == count


@pytest.mark.parametrize(
    "change", [("hollow", {"wall": 0.3}), ("cut-plane", {}), ("bend", {"moves": [[0, 0, 1]]})]
)
def test_bodies_of_triangles_have_no_exact_form(change):
    assert exact_form(shape_of([("ball", {"solid": "body"}), change])) is None


@known("IFC members", "middle, length, height and width as another kernel builds them")
def test_the_building_model_has_real_members_where_they_are(tmp_path, named):
    write_ifc(tmp_path / "model.ifc", Material("Ferry Shelter", named))
    model = ifcopenshell.open(str(tmp_path / "model.ifc"))
    structure, panels = (subject.result for subject in named)
    _, members, plates = labels_of(named)
    elements = {e.Name: e for e in model.by_type("IfcElement")}
    assert set(elements) == {*members, *plates}
    assert len(model.by_type("IfcPlate")) == panels.count
    assert {e.is_a() for e in elements.values()} == {"IfcMember", "IfcBeam", "IfcPlate"}
    assert len({e.GlobalId for e in elements.values()}) == len(elements)
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    for m in (0, 40, structure.count - 1):
        shape = ifcopenshell.geom.create_shape(settings, elements[members[m]])
        points = np.array(shape.geometry.verts).reshape(-1, 3)
        start, end = structure.axis_places[2 * m : 2 * m + 2]
        axis, up = (end - start) / np.linalg.norm(end - start), structure.up[m]
        middle = (start + end) / 2 - np.diff(structure.set_back[m]) / 2 * axis
        assert (points.min(axis=0) + points.max(axis=0)) / 2 == approx(middle, abs=0.02)
        assert np.ptp(points @ axis) == approx(structure.cut_lengths[m], abs=1e-6)
        section = structure.sections[structure.section_of[m]]
        assert np.ptp(points @ up) == approx(section.shape.height, abs=1e-6)
        assert np.ptp(points @ np.cross(up, axis)) == approx(section.shape.width, abs=1e-6)
    assert {m.Name for m in model.by_type("IfcMaterial")} == {"GL24h", "plywood"}
    assert len(model.by_type("IfcBuilding")) == 1


def texts_of(pdf):
    """All shown strings of a PDF, from its inflated streams."""
    import base64

    raw = pdf.read_bytes()
    out = []
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", raw, re.S):
        body = stream.strip()
        if body.endswith(b"~>"):
            body = base64.a85decode(body.removesuffix(b"~>"))
        try:
            out += re.findall(rb"\(((?:[^()\\]|\\.)*)\) Tj", zlib.decompress(body))
        except zlib.error:
            continue
    return [t.decode("latin-1") for t in out]


def test_drawings_show_every_label_to_scale(tmp_path, named):
    write_drawings(tmp_path / "a.pdf", "Ferry Shelter", named)
    write_drawings(tmp_path / "b.pdf", "Ferry Shelter", named)
    assert (tmp_path / "a.pdf").read_bytes() == (tmp_path / "b.pdf").read_bytes()
    pdf = (tmp_path / "a.pdf").read_bytes()
    assert pdf.startswith(b"%PDF")
    assert len(re.findall(rb"/Type /Page\b", pdf)) >= 5
    written = set(texts_of(tmp_path / "a.pdf"))
    assert set().union(*labels_of(named)) <= written
    assert scale_for(np.array([6.0, 6.0]), 400 * 72 / 25.4, 250 * 72 / 25.4) == 25
    assert scale_for(np.array([29.9, 6.0]), 400 * 72 / 25.4, 250 * 72 / 25.4) == 75


@given(st.floats(1.5, 14), st.floats(0, 20), st.integers(3, 9))
def test_bars_hold_every_member_once_and_few_bars_are_used(stock, kerf, bays):
    net = lay(roof(), "diagrid", (bays, bays + 2))
    sections = (find("CHS 60.3 × 4"), find("CHS 88.9 × 4"))
    structure = from_net(net, *sections, "centre", 0, Meeting(gap=0.01))
    plan = plan_bars(structure, (stock,), kerf / 1000)
    lengths = structure.cut_lengths
    assert ((plan.bar >= 0) == ((lengths > 0) & (lengths <= stock))).all()
    for b in range(len(plan.section_of_bar)):
        on = np.flatnonzero(plan.bar == b)
        on = on[np.argsort(plan.start[on])]
        assert len(on)
        assert set(structure.section_of[on]) == {plan.section_of_bar[b]}
        ends = plan.start[on] + lengths[on]
        assert ends.max() <= stock + 1e-9
        assert (plan.start[on][1:] - ends[:-1] >= kerf / 1000 - 1e-9).all()
    # Any plan that fills each bar at least half, the last of a section aside, needs less than twice the least.
    least = sum(
        (lengths[(plan.bar >= 0) & (structure.section_of == s)] + kerf / 1000).sum()
        / (stock + kerf / 1000)
        for s in (0, 1)
    )
    assert len(plan.section_of_bar) <= 2 * least + 2


@known("stock bars of the demo", "at most 1 % or one bar above what the lengths add up to")
def test_the_demo_wastes_little_of_its_bars():
    """Of short members from long bars: no more than one in a hundred bars, or one, above what the lengths add up to."""
    named = structure_and_panels("boat-hall")
    plan, structure = named[0].bars, named[0].result
    for s in (0, 1):
        used = int((plan.section_of_bar == s).sum())
        least = (structure.cut_lengths[structure.section_of == s] + plan.kerf).sum() / (
            plan.longest + plan.kerf
        )
        assert used <= max(1.01 * least, np.ceil(least) + 1)
    [(_, table)] = tables_of(named, "bars")
    assert sorted(table.columns["member"]) == sorted(labels_of(named)[1])


@pytest.mark.parametrize("seed", ["1", "4"])
def test_classes_of_drawings_have_one_order(seed):
    """Under these two hash seeds the library has them in different orders."""
    code = (
        "import io; from leanlattice.exchange.dxf import new_drawing; text = io.StringIO();"
        "d = new_drawing(4); d.write(text); print([c.dxf.name for c in d.classes])"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        env={**os.environ, "PYTHONHASHSEED": seed},
        capture_output=True,
        text=True,
        check=True,
    )
    names = ast.literal_eval(done.stdout)
    assert "LAYOUT" in names
    assert names == sorted(names)
