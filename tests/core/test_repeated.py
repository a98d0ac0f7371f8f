"""Bays repeated: copies that are as their bay, mirror images, and what they share."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.along_lines import along_lines
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.repeated import Move, moved, repeated
from leanlattice.core.structure.solids import member_solids

from ..known import held_to, known
from . import structures

X, Y, Z = np.eye(3)
MIRROR = Move(np.diag([1.0, -1.0, 1.0]), np.zeros(3))
ANGLE = "L 80 × 80 × 8"


def bay(section=ANGLE, meeting=Meeting("welded")):
    """An arch with a tie and two posts, across y."""
    items = [
        ("arc", [[0, 0], [3, 2], [6, 0]]),
        ("line", [[0, 0], [6, 0]]),
        ("line", [[2, 0], [2, 1.5]]),
        ("line", [[6, 0], [8, 1]]),
    ]
    frame = Frame2(Y, X, Z)
    lines = [line_of(PlaneCurve(path_of(kind, at), frame), 0.005) for kind, at in items]
    return along_lines(lines, find(section), "chord", meeting, 0.001, roll=0.3)


def solids(structure):
    return {m: (v, t) for m, v, t in member_solids(structure)}


@known("a bay mirrored", "every corner of every solid in its mirror image, sections included")
@pytest.mark.parametrize("section", [ANGLE, "IPE 160", "UPE 100", "CHS 88.9 × 4"])
def test_a_mirror_image_is_one_to_the_last_corner(section):
    own = bay(section)
    image = moved(own, MIRROR)
    for m, (vertices, _) in solids(image).items():
        wanted = MIRROR.places(solids(own)[m][0])
        away, _ = cKDTree(vertices).query(wanted)
        # Corners of a polygon lie elsewhere on its circle.
        held_to(away, 0.03 if "CHS" in section else 1e-6)
    assert image.mirrored.all()
    held_to(image.masses - own.masses, 1e-9)
    structures.weighs_what_is_listed(image)


@given(st.floats(-3, 3), st.tuples(*[st.floats(-9, 9)] * 3), st.booleans())
def test_a_copy_is_as_its_bay(turn, shift, mirrors):
    own = bay()
    matrix = Rotation.from_rotvec([0, 0, turn]).as_matrix() @ np.diag([1, -1 if mirrors else 1, 1])
    copy = moved(own, Move(matrix, np.array(shift)))
    held_to(copy.lengths - own.lengths, 1e-9)
    held_to(copy.masses - own.masses, 1e-7)
    held_to(np.einsum("ij,ij->i", copy.up, copy.chords), 1e-9)
    ends = own.set_back[:, ::-1] if mirrors else own.set_back
    held_to(copy.set_back - ends, 1e-9)
    far = own.cut_backs.far.reshape(-1, 2)
    wanted = far[:, ::-1] if mirrors else far
    assert np.allclose(copy.cut_backs.far.reshape(-1, 2), wanted, atol=1e-9, equal_nan=True)


@known("three bays in a row, which share a node", "3 n members, nodes less those shared")
def test_bays_share_nodes_and_members_meet_anew_there():
    own = bay()
    step = np.array([8.0, 0, 1.0])
    made = repeated(own, [Move(np.eye(3), k * step) for k in (1, 2)], 0.001)
    whole = made.structure
    held_to(
        np.subtract((whole.count, len(whole.places)), (3 * own.count, 3 * len(own.places) - 2)), 0
    )
    assert (made.shared, made.doubled) == (2, 0)
    assert whole.since == (len(own.places), own.count)
    assert whole.copy_of.tolist() == [*range(own.count)] * 3
    seam = int(np.argmin(np.linalg.norm(whole.places - [8, 1, 1], axis=1)))
    assert whole.valence[seam] == 3
    before, after = names_of_structure(own), names_of_structure(whole)
    assert after.every_member[: own.count] == before.every_member
    assert len(set(after.every_member)) == whole.count
    structures.weighs_what_is_listed(whole)


def test_members_on_the_mirror_are_there_once():
    own = bay()
    # The whole bay lies in the plane that it is mirrored in, its arch as well.
    through = Move(np.diag([1.0, -1.0, 1.0]), np.array([0, 2.0, 0]))
    made = repeated(own, [through], 0.001)
    assert made.doubled == made.structure.count == own.count
    assert not made.structure.mirrored.any()
