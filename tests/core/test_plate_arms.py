"""Arms of node plates: known answers for stars of members, and any stars."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.faults import Fault
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.plate_arms import ArmJoint, plate_arms

from ..known import approx, held_to, known
from .structures import bent_at_a_node, running_through, star_of

WELDED = ArmJoint(enters=0.08)
MEETING = Meeting(
    "arms", gap=0.0, radius=0.05, thickness=0.01, beyond=0.01, rounding=0.015, fold=np.radians(30)
)
HALF = 0.0889 / 2 + 0.01
"""Half the width of an arm."""


def star(plan, elevation, length=2.0, meeting=MEETING, section="CHS 88.9 × 4"):
    """Members from one node (degrees), held back for its plate."""
    return star_of(plan, elevation, meeting, length, section)


def off_axes(made, arms):
    """How far (n, 2) middles of arms are off the axes where they begin and end on these."""
    ways = made.end_frames[0][arms.member, arms.end]
    entry = np.where(arms.end == 0, made.offsets[arms.member], made.offsets[arms.member + 1] - 1)
    out = []
    for along, at in ((arms.first + arms.slope, arms.start), (arms.reach, arms.stop)):
        every = np.arange(len(arms.plate), dtype=np.int32)
        stands = arms.folded(every, np.column_stack([along, arms.aside]))
        out.append(np.linalg.norm(made.axis_places[entry] + at[:, None] * ways - stands, axis=1))
    return np.stack(out, axis=1)


@known("arms of a node plate", "rounded at (w/2 + r) / tan(γ/2), folded twice onto axes 0.01 mm")
def test_arms_of_an_even_star():
    made = star([0, 90, 180, 270], [-8] * 4)
    arms = plate_arms(made, WELDED)
    assert arms.count == 1
    # Roundings touch at a right angle's half, and folds keep a thickness clear of that.
    first = (HALF + 0.015) / np.tan(np.radians(45)) + 0.01
    slope, sharpest = np.tan(np.radians(8)), np.tan(np.radians(30))
    run = max(first * slope / (sharpest - slope), 4 * MEETING.thickness)
    held_to(arms.first - first, 1e-9)
    held_to(made.set_back[:, 0] - (first + run) / np.cos(np.radians(8)), 1e-9)
    held_to(off_axes(made, arms), 1e-9)
    turned = np.arctan2((first + run) * slope, run)
    held_to(arms.slant + turned, 1e-9)


def test_members_in_a_plane_have_flat_plates():
    arms = plate_arms(star([0, 60, 120, 180, 240, 300], [0] * 6), WELDED)
    assert np.abs(arms.slant).max() == np.abs(arms.elevation).max() == 0
    assert arms.first == approx((HALF + 0.015) / np.tan(np.radians(30)) + 0.01)


@pytest.mark.parametrize(
    ("made", "fault"),
    [
        (star([0, 5, 180], [0, 0, 0]), Fault.CLOSE),
        (star([0, 120, 240], [-30, -30, -30]), Fault.STEEP),
        (star([0, 120, 240], [0, 0, 0], length=0.3), Fault.LONG),
        (star([0], [0]), Fault.FEW),
        (star([0, 90], [80, -80]), Fault.FEW),
        (star([0, 120, 240], [0, 0, 0], meeting=Meeting("apart")), Fault.OTHER),
        (star([0, 120, 240], [0] * 3, meeting=replace(MEETING, beyond=-0.042)), Fault.NARROW),
    ],
)
def test_why_a_node_has_no_plate(made, fault):
    arms = plate_arms(made, WELDED)
    assert arms.count == 0
    assert arms.fault[0] == fault


def test_members_that_run_through_or_are_bent_leave_no_room_for_arms():
    for made, fault in ((running_through(), Fault.PASSES), (bent_at_a_node(), Fault.BENT)):
        met = with_joints(made, arms_of(made), MEETING)
        assert plate_arms(met, WELDED).fault[0] == fault
        # What cannot have a plate is held apart.
        assert met.meeting[0] == 0


def test_a_column_stands_on_its_plate_without_an_arm():
    made = star([0, 120, 240, 0], [-5, -5, -5, -90])
    arms = plate_arms(made, WELDED)
    assert arms.count == 1
    assert len(arms.plate) == 3
    assert arms.stood.tolist() == [3]
    held_to(made.set_back[3, 0] - MEETING.thickness / 2, 1e-9)
    # A leaning one stands on its far edge.
    leaning = star([0, 120, 240, 0], [-5, -5, -5, -60])
    turn = np.radians(60)
    stands = (MEETING.thickness / 2 + HALF * np.cos(turn)) / np.sin(turn)
    held_to(leaning.set_back[3, 0] - stands, 1e-9)


@given(
    gaps=st.lists(st.floats(20, 200), min_size=2, max_size=7),
    elevations=st.lists(st.floats(-20, 20), min_size=7, max_size=7),
    thickness=st.floats(0.004, 0.02),
    rounding=st.floats(0.002, 0.05),
)
def test_any_star_has_a_plate_on_its_axes_or_a_reason(gaps, elevations, thickness, rounding):
    assume(sum(gaps) > 300)
    plan = np.cumsum(gaps) * 360 / sum(gaps)
    meeting = replace(MEETING, thickness=thickness, rounding=rounding)
    made = star(plan, elevations[: len(plan)], length=12.0, meeting=meeting)
    arms = plate_arms(made, WELDED)
    if not arms.count:
        assert arms.fault[0] in (Fault.CLOSE, Fault.STEEP, Fault.LONG)
        return
    assert off_axes(made, arms).max() < 1e-8
    folds = np.degrees(np.abs([arms.slant, arms.elevation - arms.slant]))
    assert folds.max() <= 30 + 1e-6
    assert (arms.run >= 4 * thickness - 1e-12).all()
    assert (arms.start <= arms.set_back + 1e-6).all()


def test_members_of_a_section_are_held_back_alike():
    alike = replace(MEETING, sizes="alike")
    each = star([0, 60, 180, 270], [-10, 0, 0, -4])
    made = star([0, 60, 180, 270], [-10, 0, 0, -4], meeting=alike)
    assert len(np.unique(each.set_back[:, 0])) > 2
    held_to(made.set_back[:, 0] - each.set_back[:, 0].max(), 1e-12)
    assert plate_arms(made, WELDED).count == 1
