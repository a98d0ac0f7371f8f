"""Lines of what there is, projected or brought, and members along them by their layers."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.structure.roles import ROLE_NAMES
from leanlattice.exchange.lines import lines_dxf
from leanlattice.exchange.readers import open_brought
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..known import approx, known
from .test_lattice_clauses import made

BARREL = [("barrel", {}), ("pattern", {"pattern": "quads", "bays_across": 12, "bays_along": 4})]
SHED = """layer,x1_mm,y1_mm,z1_mm,x2_mm,y2_mm,z2_mm
COLUMN_CHS 139.7 × 5,0,0,0,0,0,3000
COLUMN_CHS 139.7 × 5,5000,0,0,5000,0,3000
IPE 200,0,0,3000,5000,0,3000
Bracing,0,0,0,5000,0,3000
"""


def of(content, *rows, name="shed.csv"):
    """What the last of the ``rows`` makes after lines were brought from a file."""
    entries = [ClauseEntry(id="c0", kind="bring-lines", values={"file": ["0" * 64, name]})]
    entries += [ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows, 1)]
    opened = lambda wanted, digest, file: open_brought(wanted, file, content)  # noqa: E731
    return list(evaluate(Statement(clauses=entries), ResultCache(), open_file=opened))[-1]


@known("Strands of a barrel of radius R as arcs", "one arc each, R φ long")
def test_strands_become_arcs():
    lines = made(*BARREL, ("lines-of", {"what": "second", "bend": "arcs", "off": 1})).result
    span, rise = 12.0, 2.4
    net = made(*BARREL).result
    span, rise = np.ptp(net.vertices[:, 0]), np.ptp(net.vertices[:, 2])
    radius = (span**2 / 4 + rise**2) / (2 * rise)
    for line in lines.lines:
        assert len(line.bulge) == 1
        assert line.length == approx(2 * radius * np.arcsin(span / 2 / radius), rel=1e-9)


@pytest.mark.parametrize(
    ("what", "lines", "closed"), [("edges", 112, 0), ("first", 13, 0), ("border", 1, 1)]
)
def test_lines_of_a_net(what, lines, closed):
    found = made(*BARREL, ("lines-of", {"what": what}))
    assert len(found.result.lines) == lines
    assert found.figures["closed"].value == closed


def test_edges_of_a_box_and_axes_of_members_are_lines():
    rows = [("box", {"along_x": 3, "along_y": 2, "height": 1}), ("lines-of", {"what": "sharp"})]
    entries = [ClauseEntry(id=k, kind=k, values=v) for k, v in rows]
    entries[-1] = ClauseEntry(id="of", kind="lines-of", values=rows[-1][1], on={"shape": ["box"]})
    *_, found = evaluate(Statement(clauses=entries), ResultCache())
    assert (
        sorted(round(line.length, 9) for line in found.result.lines) == [1] * 4 + [2] * 4 + [3] * 4
    )
    framed = [*BARREL, ("frame", {})]
    base = made(*framed).result
    entries = [ClauseEntry(id=k, kind=k, values=v) for k, v in framed]
    on = {"structure": ["frame"]}
    entries.append(ClauseEntry(id="of", kind="lines-of", values={"what": "axes"}, on=on))
    *_, found = evaluate(Statement(clauses=entries), ResultCache())
    assert [line.length for line in found.result.lines] == pytest.approx(base.lengths.tolist())
    assert set(found.result.layers) == {"GRID", "EDGE"}


def test_layers_say_what_members_are():
    found = of(SHED.encode(), ("frame-curves", {"by_layer": "named", "role": "arch"}))
    structure = found.result
    roles = [ROLE_NAMES[k] for k in structure.role]
    assert roles == ["column", "column", "arch", "arch"]
    names = [structure.sections[k].name for k in structure.section_of]
    assert names == ["CHS 139.7 × 5", "CHS 139.7 × 5", "IPE 200", "CHS 139.7 × 5"]
    assert structure.lengths[:3].tolist() == pytest.approx([3, 3, 5])
    alone = of(SHED.encode(), ("frame-curves", {"layer": "bracing", "role": "brace"}))
    assert alone.result.count == 1
    assert alone.result.lengths[0] == pytest.approx(np.hypot(5, 3))
    missed = of(SHED.encode(), ("frame-curves", {"layer": "beams"}))
    assert missed.status == "failed"
    assert "“IPE 200”" in missed.error


def test_lines_come_back_from_a_drawing_as_they_were():
    arcs = made(*BARREL, ("lines-of", {"what": "second", "bend": "arcs"})).result
    edges = made(*BARREL, ("lines-of", {"what": "first"})).result
    for lines in (arcs, edges):
        back = of(lines_dxf(lines).encode(), name="a.dxf").result
        assert sum(line.length for line in back.lines) == pytest.approx(
            sum(line.length for line in lines.lines), rel=1e-9
        )
        every = np.vstack([line.places for line in back.lines])
        for line in lines.lines:
            near = np.linalg.norm(every[:, None] - line.places, axis=2).min(axis=0)
            assert near.max() < 1e-6


def test_polylines_with_arcs_circles_and_smooth_curves_are_read():
    import io

    import ezdxf

    document = ezdxf.new()
    document.header["$INSUNITS"] = 6
    space = document.modelspace()
    tilted = {"extrusion": (0, 1, 0), "layer": "RIB"}
    space.add_lwpolyline([(0, 0, 1), (2, 0, 0), (2, 3, 0)], format="xyb", dxfattribs=tilted)
    space.add_circle((1, 2, 3), 2.0)
    space.add_spline([(0, 0, 0), (1, 1, 0), (2, 0, 1)])
    space.add_polyline3d([(0, 0, 0), (1, 0, 0), (1, 1, 1)])
    out = io.StringIO()
    document.write(out)
    lines = of(out.getvalue().encode(), name="a.dxf").result
    assert lines.layers[0] == "RIB"
    rib, ring, smooth, bent = lines.lines
    # Half a circle of radius 1 and a straight leg of 3, upright on a plane across y.
    assert rib.length == pytest.approx(np.pi + 3)
    assert np.ptp(rib.places[:, 1]) < 1e-12
    assert ring.closed
    assert ring.length == pytest.approx(4 * np.pi)
    assert smooth.length > np.sqrt(5)
    assert bent.length == pytest.approx(1 + np.sqrt(2))


@pytest.mark.parametrize(
    ("content", "name", "told"),
    [
        (b"label,x,y,z\na,0,0,0\n", "a.csv", "no lines"),
        (b"start,end\na,b\n", "a.csv", "no node has that label"),
        (b"x1,y1,z1,x2,y2,z2\n0,0,0,1,nan,0\n", "a.csv", "not a number"),
        (b"x1,y1,z1,x2,y2,z2\n0,0,0,1e12,0,0\n", "a.csv", "no building"),
        (b"x1,y1,z1,x2,y2,z2\n0,0,0,0,0,0\n", "a.csv", "0 m large"),
        (b"garbage", "a.dxf", "cannot be read as a drawing"),
    ],
)
def test_files_without_lines_are_refused_in_words(content, name, told):
    found = of(content, name=name)
    assert found.status == "failed"
    assert told in found.error
