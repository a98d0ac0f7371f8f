"""Machine files: what stands in them, line by line, and how they are told."""

from __future__ import annotations

from xml.etree import ElementTree

import numpy as np
import pytest

from leanlattice.core.sections import find
from leanlattice.core.working.faces import faces_of
from leanlattice.exchange.btlx import Cut, Hole, Pocket, TimberPart, write_btlx
from leanlattice.exchange.checks.machine_files import steel_files, timber_parts
from leanlattice.exchange.checks.pack_files import Pack, PackError
from leanlattice.exchange.dstv import SteelPiece, WorkedFace, write_nc
from leanlattice.exchange.pack import write_pack
from leanlattice.statement.document import ClauseEntry, Statement
from leanlattice.statement.evaluate import ResultCache, evaluate

from ..known import held_to, known


def head_of(name, tmp_path):
    """The values of the head of a steel piece of a section."""
    section = find(name)
    corners = np.array([[0.0, 0], [1, 0], [1, 1], [0, 1]])
    none = np.zeros((0, 3))
    faces = [
        WorkedFace(face, (corners * [1500, 1000 * face.width],), none)
        for face in faces_of(section.shape)
    ]
    folder = tmp_path / "machine"
    folder.mkdir(exist_ok=True)
    write_nc(
        folder / "T1.nc1", SteelPiece("Boat Hall", "T1", ["M1", "M2"], section, 1500.0, faces, [])
    )
    return steel_files(Pack(tmp_path))["T1.nc1"]


@known("heads of steel pieces", "sizes, mass and paint per metre of EN 10365 and EN 10210-2")
@pytest.mark.parametrize(
    ("name", "code", "sizes", "mass", "paint"),
    [
        ("IPE 120", "I", [120, 64, 6.3, 4.4, 7], 10.4, 0.487),
        ("HEA 200", "I", [190, 200, 10, 6.5, 18], 42.3, 1.167),
        ("UPE 100", "U", [100, 55, 7.5, 4.5, 10], 9.82, 0.411),
        ("CHS 88.9 × 4", "RO", [88.9, 88.9, 4, 4, 0], 8.38, 0.279),
        ("RHS 120 × 60 × 4", "M", [120, 60, 4, 4, 0], 10.7, 0.36),
        ("L 100 × 75 × 8", "L", [100, 75, 8, 8, 10], 10.6, 0.35),
        ("Flat 100 × 10", "B", [100, 10, 0, 10, 0], 7.85, 0.22),
        ("Round 30", "RU", [30, 30, 0, 0, 0], 5.55, 0.0942),
    ],
)
def test_heads_of_steel_pieces(name, code, sizes, mass, paint, tmp_path):
    piece = head_of(name, tmp_path)
    assert piece.head[:8] == ["Boat Hall", "-", "-", "T1", "S355", "2", piece.head[6], code]
    assert piece.length == 1500
    held_to(np.array([piece.number(line) for line in range(9, 14)]) - sizes, 1e-9)
    assert piece.number(14) == pytest.approx(mass, rel=0.01)
    assert piece.number(15) == pytest.approx(paint, rel=0.02)
    assert piece.members == ["M1", "M2"]
    assert [letter for letter, _ in piece.rings] == [f.letter for f in faces_of(find(name).shape)]


@known("a lath cut at 30° and notched", "planes, floor and hole where they were put, to 1 µm")
def test_timber_parts_are_read_as_they_were_written(tmp_path):
    turn = np.radians(30)
    ends = [
        Cut(0, np.array([-np.cos(turn), np.sin(turn), 0]), 0.05),
        Cut(1, np.array([1.0, 0, 0]), 2.0),
    ]
    floor = np.array([[0.8, -0.04, 0.02], [1.0, -0.04, 0.02], [1.0, 0.04, 0.02], [0.8, 0.04, 0.02]])
    frame = np.array([[0, 1.0, 0], [-1, 0, 0], [0, 0, 1]])
    part = TimberPart(
        label="T1", members=["L1"], material="GL24h", mass=4.2, size=np.array([2.0, 0.06, 0.08]),
        origin=np.array([5.0, 6, 7]), frame=frame, cuts=ends,
        pockets=[Pocket("notch for L2", floor, np.array([0, 0, 1.0]), 0.01)],
        holes=[Hole(np.array([1.9, 0, 0]), np.array([0, 1.0, 0]), 0.013)],
    )  # fmt: skip
    folder = tmp_path / "machine"
    folder.mkdir()
    write_btlx(folder / "laths.btlx", "Tide Gallery", [part])
    found = timber_parts(Pack(tmp_path))["laths.btlx", "T1"]
    held_to(found.size - [2000, 60, 80], 1e-9)
    start, end = found.saws
    held_to(start.normal - ends[0].normal, 1e-8)
    held_to(start.place @ start.normal - 50, 1e-3)
    held_to(end.place - [2000, -40, 30], 1e-9)
    (notch,) = found.clearings
    held_to(np.sort(notch.floor, axis=0) - np.sort(1000 * floor, axis=0), 1e-3)
    held_to(notch.normal - [0, 0, 1], 1e-8)
    (hole,) = found.holes
    held_to(hole.place[[0, 2]] - [1900, 0], 1e-3)
    assert (hole.diameter, abs(hole.normal[1])) == (13.0, pytest.approx(1.0))
    # The box begins at the upper corner of its front: x leads along world y, its width to −x.
    held_to(found.stands[0] - [5040, 6000, 7030], 1e-3)
    root = ElementTree.parse(folder / "laths.btlx").getroot()
    angles = {e.text for e in root.iter() if e.tag.endswith(("Angle", "Inclination")) and e.text}
    assert angles <= {"90.000", "0.000"}


@pytest.mark.parametrize(
    "change", [("</BTLx>", ""), (">90.000</Angle>", ">80.000</Angle>"), ("JackRafterCut", "Tenon")]
)
def test_a_file_that_cannot_be_followed_is_named(change, tmp_path):
    part = TimberPart("T1", ["L1"], "C24", 1.0, np.array([1, 0.1, 0.1]), np.zeros(3), np.eye(3))
    folder = tmp_path / "machine"
    folder.mkdir()
    write_btlx(folder / "laths.btlx", "Tide Gallery", [part])
    text = (folder / "laths.btlx").read_text()
    (folder / "laths.btlx").write_text(text.replace(*change))
    with pytest.raises(PackError, match=r"laths\.btlx"):
        timber_parts(Pack(tmp_path))


def written(rows, folder):
    statement = Statement(
        clauses=[ClauseEntry(id=f"c{k}", kind=kind, values=v) for k, (kind, v) in enumerate(rows)]
    )
    outcomes = list(evaluate(statement, ResultCache()))
    assert {o.status for o in outcomes} == {"done"}, [o.error for o in outcomes if o.error]
    return write_pack(folder, statement, outcomes, {"schedules", "machine"})


def test_members_that_machines_cannot_be_told_of_say_why(tmp_path):
    rows = [
        ("barrel", {"span": 5, "rise": 1.4, "length": 4}),
        ("pattern", {"bays_across": 2, "bays_along": 1}),
        ("frame", {"inner": "2UPE 100 × 10", "border": "CHS 88.9 × 4"}),
        ("swell-members", {"which": "role", "role": "edge"}),
    ]
    assert not written(rows, tmp_path).wrong
    told = {row["left_out"] for row in Pack(tmp_path).rows("machine")}
    assert told == {
        "a section of several pieces, or timber that is not rectangular",
        "swells on its way; machines are told of even sections",
    }
    assert not (tmp_path / "machine").exists()


@pytest.mark.parametrize("section", ["IPE 120", "UPE 100", "L 100 × 75 × 8", "T 100 × 80 × 8 × 6"])
@pytest.mark.parametrize("meeting", ["welded", "arms"])
def test_open_sections_are_told_face_by_face(section, meeting, tmp_path):
    rows = [
        ("dome", {"span": 8, "rise": 2}),
        ("pattern", {"pattern": "triangles", "bays_across": 4, "bays_along": 3}),
        ("frame", {"inner": section, "border": section, "meeting": meeting, "roll": 20}),
    ]
    if meeting == "arms":
        rows.append(("node-plates", {"joint": "bolts", "bolt": "M8", "bolts": 1}))
    found = written(rows, tmp_path)
    assert not found.wrong, found.wrong
    assert "steel pieces of machine files as cut" in {f.check for f in found.findings}


def test_slots_across_the_seam_of_a_skin_are_followed(tmp_path):
    rows = [
        ("loft", {}),
        ("pattern", {"pattern": "hexagons", "bays_across": 7, "bays_along": 5, "border": "whole"}),
        (
            "frame",
            {
                "inner": "L 100 × 75 × 8",
                "border": "CHS 88.9 × 4",
                "meeting": "arms",
                "set_out": "top",
                "roll": 90,
                "gap": 2,
                "thickness": 7.5,
                "radius": 50.5,
            },
        ),
        ("node-plates", {}),
        ("set-out", {"width": 8000, "height": 4000}),
    ]
    found = written(rows, tmp_path)
    assert not found.wrong, found.wrong


@pytest.mark.parametrize("further", [[], [("set-out", {"width": 8000, "height": 4000})]])
def test_slots_through_corners_of_tubes_are_followed(further, tmp_path):
    rows = [
        ("loft", {}),
        ("pattern", {"pattern": "quads", "bays_across": 5, "bays_along": 2, "border": "whole"}),
        (
            "frame",
            {
                "inner": "SHS 60 × 4",
                "border": "RHS 120 × 60 × 5",
                "meeting": "arms",
                "set_out": "centre",
                "roll": 90,
                "gap": 6.8,
                "thickness": 19.03,
                "radius": 107,
            },
        ),
        ("node-plates", {}),
        *further,
    ]
    found = written(rows, tmp_path)
    assert not found.wrong, found.wrong


def test_plates_made_before_members_are_named_still_hold_them(tmp_path):
    rows = [
        ("dome", {"span": 8, "rise": 2}),
        ("pattern", {"pattern": "alternating", "bays_across": 4, "bays_along": 3}),
        ("frame", {"inner": "CHS 88.9 × 4", "meeting": "arms"}),
        ("node-plates", {}),
        ("name", {}),
    ]
    assert not written(rows, tmp_path).wrong
    pack = Pack(tmp_path)
    assert (
        sum(int(row["slots"]) for row in pack.rows("machine")) == len(pack.rows("plate_arms")) > 0
    )
