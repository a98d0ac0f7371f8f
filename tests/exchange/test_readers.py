"""Files brought in: every format read back, and what is damaged, hostile or of another kind refused in words."""

from __future__ import annotations

import io
import struct

import ezdxf
import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from leanlattice.clauses.shape.drawn import Curves
from leanlattice.core.geometry.curvature import vertex_curvatures
from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.meshes import Body
from leanlattice.core.geometry.paths import ArcPiece, Frame2, PlaneCurve
from leanlattice.core.geometry.surfaces import dome, loft
from leanlattice.core.shaping.brought import ReadProblem, repaired
from leanlattice.core.shaping.pathwork import round_corners
from leanlattice.core.shaping.solids import boolean, prism
from leanlattice.exchange.curves import curves_dxf, curves_svg
from leanlattice.exchange.readers import open_brought
from leanlattice.exchange.step import exact_form, write_step
from leanlattice.statement.document import LARGEST_BROUGHT, ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..known import approx, held_to, known

Z = np.array([0, 0, 1.0])
PLAN = Frame2(np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))


def ring(centre, radius, count=96):
    t = np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.column_stack([centre[0] + radius * np.cos(t), centre[1] + radius * np.sin(t), 0 * t])


def part():
    """A block of 2 × 1.5 × 1 m with a round hole of 0.4 m radius."""
    block = prism(np.array([[0, 0, 0], [2, 0, 0], [2, 1.5, 0], [0, 1.5, 0.0]]), [], Z, 0, 1)
    return boolean([block, prism(ring((1, 0.7), 0.4), [], Z, -1, 2)], "difference")


def step_part() -> bytes:
    """The same part written by the exchange package in millimetres."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    axis = gp_Ax2(gp_Pnt(1000, 700, -10), gp_Dir(0, 0, 1))
    cut = BRepAlgoAPI_Cut(
        BRepPrimAPI_MakeBox(2000.0, 1500.0, 1000.0).Shape(),
        BRepPrimAPI_MakeCylinder(axis, 400.0, 2000.0).Shape(),
    )
    writer = STEPControl_Writer()
    writer.Transfer(cut.Shape(), STEPControl_StepModelType.STEPControl_AsIs)
    import tempfile
    from pathlib import Path

    path = Path(tempfile.mkdtemp()) / "part.step"
    writer.Write(str(path))
    return path.read_bytes()


def written(kind: str) -> bytes:
    body = part()
    mesh = trimesh.Trimesh(body.mesh.vertices, body.mesh.triangles, process=False)
    if kind == "dxf":
        document = ezdxf.new("R2010", units=6)
        for t in body.mesh.triangles:
            document.modelspace().add_3dface([tuple(body.mesh.vertices[k]) for k in (*t, t[2])])
        out = io.StringIO()
        document.write(out)
        return out.getvalue().encode()
    if kind == "glb":
        mesh.apply_transform(np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1.0]]))
    data = mesh.export(file_type=kind)
    return data.encode() if isinstance(data, str) else bytes(data)


@pytest.mark.parametrize("kind", ["obj", "stl", "ply", "glb", "dxf"])
def test_meshes_come_back_from_every_format(kind):
    loose = open_brought("mesh", f"part.{kind.upper()}", written(kind))
    assert loose.up == ("y" if kind == "glb" else "")
    vertices = loose.vertices
    if loose.up == "y":
        vertices = np.column_stack([vertices[:, 0], -vertices[:, 2], vertices[:, 1]])
    body, done = repaired(vertices, loose.triangles)
    assert isinstance(body, Body)
    assert body.volume == pytest.approx(part().volume, rel=1e-5)
    assert body.mesh.vertices.min(axis=0) == pytest.approx([0, 0, 0], abs=1e-6)
    assert body.mesh.vertices.max(axis=0) == pytest.approx([2, 1.5, 1], abs=1e-6), (
        "upright, whichever axis the format has"
    )
    assert not done.holes
    assert loose.unit == {"glb": 1.0, "dxf": 1.0}.get(kind, 0.0)


@pytest.mark.parametrize("up", ["file", "y"])
def test_a_format_that_says_which_way_is_up_is_turned_once(up):
    entry = ClauseEntry(id="i", kind="import", values={"file": ["0" * 64, "part.glb"], "up": up})
    content = written("glb")
    made = next(iter(evaluate(
        Statement(clauses=[entry]), ResultCache(), open_file=lambda wanted, digest, name: open_brought(wanted, name, content),
    )))  # fmt: skip
    assert made.result.mesh.extent == pytest.approx([2, 1.5, 1], abs=1e-6)


@known("loft read back from STEP", "itself")
def test_a_loft_comes_back_exact_from_its_own_file(tmp_path):
    arches = [np.array([[-5, y, 0], [0, y, 3 + y / 9], [5, y, 0.0]]) for y in (0.0, 6.0, 12.0)]
    surface = loft(arches)
    write_step(tmp_path / "loft.step", [("loft", exact_form(surface))])
    loose = open_brought("mesh", "loft.step", (tmp_path / "loft.step").read_bytes())
    assert len(loose.faces) == 1
    assert loose.faces[0].area == approx(surface.area, rel=1e-4)


@known("cap read back from STEP", "area and curvature of the cap")
def test_an_imported_cap_bends_as_the_cap_does(tmp_path):
    cap = dome(6.0, 1.8, np.zeros(3))
    write_step(tmp_path / "cap.step", [("cap", exact_form(cap))])
    loose = open_brought("mesh", "cap.step", (tmp_path / "cap.step").read_bytes())
    mesh, _ = repaired(loose.vertices * loose.unit, loose.triangles)
    gauss, mean = vertex_curvatures(mesh).T
    inner = gauss != 0
    tightest = (np.abs(mean) + np.sqrt(np.maximum(mean**2 - gauss, 0)))[inner].max()
    assert 1 / tightest == approx(cap.radius, rel=0.02)


@known("STEP and STL of one part", "agree")
def test_step_and_stl_of_the_same_part_agree():
    step = open_brought("mesh", "part.step", step_part())
    exact, _ = repaired(step.vertices * step.unit, step.triangles)
    stl = open_brought("mesh", "part.stl", written("stl"))
    coarse, _ = repaired(stl.vertices, stl.triangles)
    assert exact.mesh.extent == approx(coarse.mesh.extent, abs=2e-3)
    assert exact.volume == approx(3 - np.pi * 0.16, rel=1e-3)
    assert coarse.volume == approx(exact.volume, rel=1e-3)
    # Every point of the one lies within a thousandth of the size of the other.
    held_to(exact.mesh.search.nearest(coarse.mesh.vertices)[2].max(), 2e-3)
    assert len(step.faces) == 7
    assert sum(f.area for f in step.faces) == approx(
        2 * (3 - np.pi * 0.16) + 2 * (2 + 1.5) + 2 * np.pi * 0.4, rel=5e-5
    ), "faces are kept exact, trimmed by their own outlines"
    wall = max(step.faces, key=lambda f: np.abs(f.curvatures(np.array([[0.5, 0.5]]))).max())
    assert abs(wall.curvatures(np.array([[0.3, 0.5]]))[0, 1]) == approx(1 / 0.8), "1/2r of the hole"


PICTURE = io.BytesIO()
Image.fromarray(np.tile(np.arange(0, 250, 10, dtype=np.uint8), (20, 1))).save(PICTURE, "PNG")


@pytest.mark.parametrize(
    ("wanted", "name", "content", "words"),
    [
        ("mesh", "a.obj", b"", "is empty"),
        ("mesh", "a.exe", b"MZ", "dxf, glb, obj, ply, step, stl, stp are"),
        ("mesh", "a.obj", b"v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "corner that is not a number"),
        ("mesh", "a.obj", b"v 0 0 0\nv 1 0 0\nf 1 2 9\n", "cannot be read as OBJ"),
        ("mesh", "a.obj", b"# nothing\n", "faces|cannot be read"),
        ("mesh", "a.obj", b"v 0 0 0\nv 1e300 0 0\nv 0 1 0\nf 1 2 3\n", "no building"),
        ("mesh", "a.stl", b"\0" * 80 + struct.pack("<I", 4_000_000_000), "4,000,000,000 faces but ends after 0"),
        ("mesh", "a.stl", b"short", "ends before its first face"),
        ("mesh", "a.ply", b"ply\nformat ascii 1.0\nelement vertex 999999999999\nend_header\n", "at most 2,000,000"),
        ("mesh", "a.glb", b"glTF\x02\0\0\0\xff\xff\xff\x7f", "cut off"),
        ("mesh", "a.glb", b"not a glb at all", "does not begin"),
        ("mesh", "a.dxf", b"garbage", "cannot be read as a drawing"),
        ("mesh", "a.step", b"ISO-10303-21;\nHEADER;\n", "cut off"),
        ("mesh", "a.step", b"hello", "does not begin"),
        ("heights", "a.csv", b"1,2\n", "line 1 holds 2 numbers"),
        ("heights", "a.csv", b"1,2,3\n4,five,6\n", "line 2 is “4,five,6”"),
        ("heights", "a.xyz", b"1 2 nan\n", "not a number"),
        ("heights", "a.xyz", b"\xff\xfe\x00", "not text"),
        ("heights", "a.csv", b"# only words\n", "no places"),
        ("picture", "a.png", b"\x89PNG\r\n\x1a\n123", "damaged|not a PNG"),
        ("picture", "a.jpg", b"GIF89a", "not a PNG or JPEG"),
        ("outlines", "a.svg", b"<!DOCTYPE s [<!ENTITY a 'b'><!ENTITY c '&a;&a;'>]><svg>&c;</svg>", "entities"),
        ("outlines", "a.svg", b"<svg", "cannot be read as SVG"),
        ("outlines", "a.svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no curves"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_refused_in_words(wanted, name, content, words):
    with pytest.raises(ReadProblem, match=words):
        open_brought(wanted, name, content)


def test_files_too_large_and_pictures_too_large_are_refused():
    class Long(bytes):
        def __len__(self):
            return LARGEST_BROUGHT + 1

    with pytest.raises(ReadProblem, match="at most 100,000,000"):
        open_brought("mesh", "a.stl", Long(b"x"))
    bomb = io.BytesIO()
    Image.new("1", (9000, 9000)).save(bomb, "PNG")
    with pytest.raises(ReadProblem, match="9,000 × 9,000 pixels"):
        open_brought("picture", "a.png", bomb.getvalue())


@given(st.sampled_from(["obj", "stl", "ply", "glb", "dxf"]), st.data())
def test_damaged_files_give_a_sentence_or_a_mesh(kind, data):
    content = bytearray(CONTENTS.setdefault(kind, written(kind)))
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(content) - 1))
        content[at] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(len(content) // 2, len(content)))
    try:
        loose = open_brought("mesh", f"a.{kind}", bytes(content[:cut]))
    except ReadProblem as problem:
        assert str(problem).endswith(".")
        return
    assert np.isfinite(loose.vertices[loose.triangles]).all()


CONTENTS: dict[str, bytes] = {}


@pytest.mark.parametrize(
    "text",
    [
        "x,y,z\n0,0,1\n1.5,2,3\n",
        "0 0 1\n1.5\t2  3\n",
        "# survey\n0;0;1\n1,5;2;3\n",
        "\ufeff0,0,1,a\n1.5,2,3,b\n",
    ],
)
def test_heights_are_read_however_they_are_parted(text):
    assert open_brought("heights", "a.csv", text.encode()).points == pytest.approx(
        np.array([[0, 0, 1], [1.5, 2, 3]])
    )
    assert open_brought("heights", "a.png", PICTURE.getvalue()).grey.shape == (20, 25)


def drawing() -> Curves:
    paths = [
        round_corners(path_of("rectangle", [[0, 0], [10, 6]]), 1.0).path,
        path_of("circle", [[5, 3], [6, 3]]),
        path_of("loop", [[12, 0], [16, 1], [15, 5], [12, 4]]),
        path_of("arc", [[0, 8], [2, 9], [4, 8]]),
        path_of("line", [[0, 10], [3, 11], [9, 10]]),
    ]
    return Curves(tuple(PlaneCurve(p, PLAN) for p in paths))


@pytest.mark.parametrize("ending", ["svg", "dxf"])
def test_curves_go_and_come_back(ending):
    text = curves_svg(drawing()) if ending == "svg" else curves_dxf(drawing())
    brought = open_brought("outlines", f"a.{ending}", text.encode())
    assert brought.unit == 1e-3
    before = drawing().curves
    if ending == "svg":
        assert [p.closed for p in brought.paths] == [c.path.closed for c in before]
    total = sum(p.length for p in brought.paths) / 1000
    assert total == pytest.approx(sum(c.path.length for c in before), rel=1e-5)
    arcs = sum(isinstance(p, ArcPiece) for path in brought.paths for p in path.pieces)
    assert arcs >= 9, "arcs stay arcs"
    low = np.vstack([p.polygon(1.0) for p in brought.paths]).min(axis=0) / 1000
    lowest = np.vstack([c.path.polygon(1e-3) for c in before]).min(axis=0)
    assert low == pytest.approx(lowest, abs=2e-3), "y stays upward"
