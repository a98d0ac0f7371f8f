"""Members as machines work them: blanks, faces, notches and slots."""

from __future__ import annotations

from dataclasses import replace

import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from leanlattice.core.sections import FAMILIES, find
from leanlattice.core.structure.congruence import member_types
from leanlattice.core.structure.crossings import crossings_of
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.plate_arms import ArmJoint, plate_arms
from leanlattice.core.working.blanks import blanks_of
from leanlattice.core.working.faces import faces_of, worked_faces
from leanlattice.core.working.machined import LeftOut, Standard, machined
from leanlattice.core.working.notches import notches_of
from leanlattice.core.working.pieces import worked_pieces
from leanlattice.core.working.slots import Slots, no_slots, slots_of

from ..known import held_to, known
from .structures import star_of, structure

LATH = "Timber 140 × 60"
ARMS = Meeting("arms", radius=0.05, thickness=0.01, beyond=0.01, rounding=0.015, fold=0.6)


def laths(angle, apart, rolls=(0.0, 0.0), lean=0.0):
    """Two laths of 4 m (degrees, m) that pass each other in their middles, each ``rolls`` about its
    axis and the upper one rising by ``lean``."""
    turns = np.radians([0.0, angle])
    places, members = [(0.0, 0, 0)], []
    for k, (turn, roll) in enumerate(zip(turns, np.radians(rolls), strict=True)):
        way = np.array([np.cos(turn), np.sin(turn), np.tan(np.radians(lean)) * k])
        side = np.array([-np.sin(turn), np.cos(turn), 0.0])
        up = np.cos(roll) * np.cross(way / np.linalg.norm(way), side) + np.sin(roll) * side
        off = (0, 0, k * apart)
        places += [tuple(-2 * way), tuple(2 * way)]
        path = [len(places) - 2, 0, len(places) - 1]
        members.append({"path": path, "up": up, "section": LATH, "offset": [off] * 3})
    return structure(places, members)


def boxed(made, member, notched):
    """The solid of a straight lath, with or without its notches."""
    blanks, notches = blanks_of(made), notches_of(made)
    size = np.array([blanks.lengths[member], 0.14, 0.06])
    solid = manifold3d.Manifold.cube(tuple(size)).translate((0, -size[1] / 2, -size[2] / 2))
    for k in np.flatnonzero(notches.member == member) if notched else ():
        floor = notches.corners[k] - 1e-7 * notches.normal[k]
        top = floor + (notches.depth[k] + 0.02) * notches.normal[k]
        solid -= manifold3d.Manifold.hull_points(np.vstack([floor, top]))
    frame = np.column_stack([*blanks.frames[member, 0], blanks.origins[member]])
    return solid.transform(frame)


@known("laths that overlap by 10 mm at 60°", "floors 5 mm deep, of b (b + 2 mm) / sin 60° each")
def test_notches_of_two_laths():
    made = laths(60, 0.05)
    notches = notches_of(made)
    held_to(notches.depth - 0.005, 1e-12)
    held_to(np.abs(notches.normal[:, 2]) - 1, 1e-12)
    held_to(notches.corners[:, :, 0].mean(axis=1) - 2.0, 1e-12)
    areas = [shapely.Polygon(ring[:, :2]).area for ring in notches.corners]
    # They reach a millimetre over the laths' sides.
    held_to(np.array(areas) - 0.14 * 0.142 / np.sin(np.radians(60)), 1e-12)
    # The lower one is cut from above and the upper one from below.
    assert np.sign(notches.normal[:, 2]).tolist() == [1.0, -1.0]
    assert notches.other.tolist() == [1, 0]


@settings(max_examples=60, deadline=None)
@given(
    st.floats(25, 90), st.floats(0.045, 0.075), st.tuples(st.floats(-6, 6), st.floats(-6, 6)),
    st.floats(-4, 4),
)  # fmt: skip
def test_notched_laths_share_nothing_and_touch(angle, apart, rolls, lean):
    made = laths(angle, apart, rolls, lean)
    found = crossings_of(made)
    assume(found.clear[0] < -0.001)
    one, other = (boxed(made, m, notched=True) for m in (0, 1))
    assert (one ^ other).volume() < 1e-10
    assert (boxed(made, 0, False) ^ boxed(made, 1, False)).volume() > 0
    # Were they cut less by a tenth of a millimetre each, they would not fit.
    moved = other.translate(tuple(-2e-4 * found.normal[0]))
    assert (one ^ moved).volume() > 0


@known("a polygon of straight pieces in a circle of 10 m", "radius chord / angle, of arcs itself")
def test_blanks_of_what_bends():
    turn = np.radians(np.arange(5) * 4.0)
    ring = 10 * np.column_stack([np.cos(turn), np.sin(turn), 0 * turn])
    chord = 20 * np.sin(np.radians(2.0))
    rise = 10 * (1 - np.cos(np.radians(2.0)))
    middle = [(np.cos(t + np.radians(2)), np.sin(t + np.radians(2)), 0) for t in turn[:-1]]
    made = structure(
        ring,
        [
            {"path": [0, 1, 2, 3, 4], "set_back": (0.1, 0.2)},
            {"path": [0, 1, 2, 3, 4], "bulge": rise * np.array(middle)},
            {"path": [0, 4]},
        ],
    )
    blanks = blanks_of(made)
    held_to(blanks.bend_radii[0] - chord / np.radians(4.0), 1e-9)
    held_to(blanks.bend_radii[1] - 10.0, 1e-9)
    assert np.isnan(blanks.bend_radii[2])
    held_to(blanks.stations[:5] - (np.arange(5) * chord - 0.1), 1e-12)
    held_to(blanks.lengths[0] - (4 * chord - 0.3), 1e-12)
    # Tubes of 89 mm are bent to 10 m by rolls.
    assert machined(made).left_out.tolist() == [LeftOut.NONE] * 3


def test_what_cannot_be_told_says_why():
    made = structure(
        [(0, 0, 0), (3, 0, 0), (3, 2, 0)],
        [
            {"path": [0, 1, 2], "section": LATH},
            {"path": [0, 1], "section": LATH, "set_back": (2.0, 1.5)},
            {"path": [0, 1], "scale": [1.0, 1.4]},
            {"path": [0, 1], "section": "2UPE 100 × 10"},
            {"path": [0, 1], "section": LATH},
        ],
    )
    told = [LeftOut(k) for k in machined(made).left_out]
    assert told == [
        LeftOut.TIGHT,
        LeftOut.NOTHING_LEFT,
        LeftOut.SWELLS,
        LeftOut.SECTION,
        LeftOut.NONE,
    ]
    assert machined(made).told(Standard.BTLX).size == 1


@known("a tube cut at 45°", "skin rolled out ends at R (1 + cos(y / R)) short of its far edge")
def test_the_skin_of_a_mitred_tube():
    made = star_of([0, 90], [0, 0], Meeting("welded"))
    (face,) = worked_faces(made, 0, no_slots())
    radius = 88.9 / 2
    (ring,) = face.rings
    x, y = ring.T
    near = x < 1000
    # Of tubes at a right angle the one along x is longest where the other one is not.
    wanted = radius * (1 + np.sin(y[near] / radius))
    off = [np.abs(x[near] - radius * (1 + s * np.sin(y[near] / radius))).max() for s in (1, -1)]
    held_to(min(off), 5e-3)
    assert wanted.max() == pytest.approx(2 * radius, abs=0.02)
    held_to(y.max() - 2 * np.pi * radius, 1e-9)
    assert shapely.Polygon(ring).exterior.is_ccw


@pytest.mark.parametrize("family", ["RHS 120 × 60 × 5", "IPE 120", "L 100 × 75 × 8", "UPE 100"])
def test_faces_are_seen_from_outside_and_up_from_their_left(family):
    shape = find(family).shape
    for face in faces_of(shape):
        start, way = np.array(face.start), np.array(face.way)
        # Right-handed with the member, which leads away from whom sees the section.
        outward = np.array([-way[1], way[0]])
        middle = start + face.width / 2 * way
        assert outward @ middle > 0
        # Nothing of the section lies beyond a face, but for the flanges beyond a web.
        reach = max(outward @ corner for corner in shape.pieces()[0][0])
        if not (family == "IPE 120" and face.letter == "v"):
            assert reach == pytest.approx(outward @ middle)
        along = face.places(np.array([0.0, face.width]))
        assert np.abs(along).max() <= max(shape.width, shape.height) / 2 + 1e-12


def test_every_family_of_sections_has_faces_or_several_pieces():
    for family in FAMILIES.values():
        shape = next(iter(family.made()), None)
        if shape is not None and not (shape.fills and family.family == "Timber"):
            assert bool(faces_of(shape)) == (len(shape.pieces()) == 1), family


def slotted(turns, section="CHS 88.9 × 4"):
    """Tubes from node to node, and slots at both ends of each turned by such angles (°)."""
    count = len(turns)
    places = [(x, k, 0.0) for k in range(count) for x in (0.0, 2.0)]
    made = structure(
        places, [{"path": [2 * k, 2 * k + 1], "section": section} for k in range(count)]
    )
    ends = np.arange(2 * count, dtype=np.int32)
    angle = np.radians(np.array(turns, float).ravel())
    normal = np.column_stack([np.sin(angle), np.cos(angle)])
    both = np.full(2 * count, 0.01), np.full(2 * count, 0.1)
    cut = np.ones(2 * count, bool)
    return made, Slots(ends, normal, *both, cut, 0.08, np.array([0.03, 0.06]), 0.013)


def pieces_of(turns, section="CHS 88.9 × 4"):
    made, slots = slotted(turns, section)
    return worked_pieces(made, member_types(made), notches_of(made), slots).piece.tolist()


def test_members_with_slots_alike_are_one_piece():
    # Round ones: by the twist from one end to the other, half a turn or seen from either end the
    # same, and the mirror image apart.
    assert pieces_of([(0, 20), (35, 55), (0, 200), (20, 0)]) == [0, 0, 0, 1]
    assert pieces_of([(0, 20), (10, -10), (0, -20)]) == [0, 1, 1]
    # Square ones may be turned by quarters, oblong ones by halves, and neither otherwise.
    square, oblong = "SHS 60 × 4", "RHS 120 × 60 × 5"
    assert pieces_of([(10, 30), (100, 120), (15, 35)], square) == [0, 0, 1]
    assert pieces_of([(10, 30), (100, 120), (190, 210)], oblong) == [0, 1, 0]
    # Seen from the other end, what leaned to the right leans to the left.
    assert pieces_of([(10, 30), (-30, -10), (30, 10)], oblong) == [0, 0, 1]


@known("an arm across a tube", "two slots of its thickness, half round apart; bolts square to it")
def test_slots_in_a_skin():
    made, slots = slotted([(90, 0)])
    (face,) = worked_faces(made, 0, slots)
    radius = 88.9 / 2
    wide = 2 * radius * np.arcsin(5 / radius)
    (ring,) = face.rings
    deep = ring[np.abs(ring[:, 0] - 80) < 1e-9, 1]
    # Across the height: above and below, so that the one below is parted by the seam.
    around, edge = 2 * np.pi * radius, wide / 2
    wanted = [0, edge, around / 2 - edge, around / 2 + edge, around - edge, around]
    held_to(np.sort(deep) - wanted, 1e-9)
    left = shapely.Polygon(ring).area
    held_to(left - (2 * np.pi * radius * 2000 - 4 * 80 * wide), 1e-6)
    at_start = face.holes[face.holes[:, 0] < 1000]
    assert sorted(at_start[:, 0].tolist()) == pytest.approx([30, 30, 60, 60])
    turns = np.sort(at_start[:, 1]) / (np.pi * radius)
    held_to(turns - [0.5, 0.5, 1.5, 1.5], 1e-9)
    assert face.holes[:, 2].tolist() == [13.0] * 8


@pytest.mark.parametrize("section", ["CHS 88.9 × 4", "SHS 100 × 5", "Timber 100 × 160"])
def test_slots_lie_where_arms_enter(section):
    made = star_of([0, 80, 200], [-12, 5, 20], ARMS, section=section)
    joint = ArmJoint(0.08, 2, 0.013)
    arms = plate_arms(made, joint)
    assert arms.count == 1
    slots = slots_of(made, arms, joint)
    assert slots.end.tolist() == sorted(
        2 * m + e for m, e in zip(arms.member, arms.end, strict=True)
    )
    frames = blanks_of(made).frames
    for arm in range(3):
        # Two places of the arm's last piece, to both sides of its middle.
        along = arms.reach[arm] - np.array([0.0, 0.01, 0.0])
        aside = arms.aside[arm] + np.array([0.0, 0.0, 0.02])
        stands = arms.folded(np.full(3, arm), np.column_stack([along, aside]))
        row = slots.of_end(int(arms.member[arm]), int(arms.end[arm]))
        frame = frames[arms.member[arm], arms.end[arm]]
        across = slots.normal[row] @ frame[1:]
        assert np.abs((stands[1:] - stands[0]) @ across).max() < 1e-9
        deep = np.linalg.norm(stands[0] - made.body_middles[0])
        assert slots.depth == pytest.approx(deep - made.set_back[arms.member[arm], 0], abs=2e-3)


def test_a_narrow_arm_in_a_wide_tube_needs_no_slot():
    narrow = replace(ARMS, beyond=-0.02)
    made = star_of([0, 90, 180, 270], [0] * 4, narrow)
    joint = ArmJoint(0.08, 1, 0.013)
    slots = slots_of(made, plate_arms(made, joint), joint)
    assert slots.count == 4
    assert not slots.is_cut.any()
    (face,) = worked_faces(made, 0, slots)
    assert len(face.rings[0]) == 4
    assert len(face.holes) == 2


def test_crossings_know_how_members_pass():
    made = laths(70, 0.07)
    found = crossings_of(made)
    assert (found.over.tolist(), found.under.tolist()) == ([1], [0])
    held = found.normal @ [0, 0, 1.0]
    assert held == pytest.approx([1.0])
    assert found.high[0] == pytest.approx([0.06, 0.06])
    assert made.member_of_entry[found.entry[0]].tolist() == [1, 0]
