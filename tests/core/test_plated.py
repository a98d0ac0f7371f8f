"""Ends on plates: where they are cut, by hand, and why some are not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.faults import Fault
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import Meeting, meeting_number
from leanlattice.core.structure.plated import blame_moved, plated_ends

from ..known import held_to, known
from .structures import running_through, star_of

THICK, GAP = 0.02, 0.03
LEVEL = Meeting("plated", thickness=THICK, gap=GAP)
SQUARE = replace(LEVEL, level=False)


def on_foot(plan, elevation, meeting=LEVEL, section="CHS 88.9 × 4"):
    """Members (degrees) from a foot at the origin that meet there as a ``meeting`` has it."""
    made = star_of(plan, elevation, meeting, section=section)
    foot = np.arange(len(made.places)) == 0
    made = replace(made, foot=foot)
    return with_joints(made, arms_of(made), meeting)


@known("a member on a plate at its foot", "(t + gap) / sin e along its axis")
@pytest.mark.parametrize("elevation", [90, 60, 30, -45])
def test_a_foot_is_cut_a_plate_and_its_gap_above_its_node(elevation):
    made = on_foot([20], [elevation])
    high = (THICK + GAP) / np.sin(np.radians(abs(elevation)))
    held_to(made.axis_back[0, 0] - high, 1e-9)
    ends = plated_ends(made)
    assert ends.normal[0] == pytest.approx([0, 0, -np.sign(elevation)])
    # Square to it a plate is as far along the axis as it is thick, however that leans.
    held_to(on_foot([20], [elevation], SQUARE).set_back[0, 0] - (THICK + GAP), 1e-9)


@known("two members that are bolted by plates", "faces 2 t + gap apart, half-way between the axes")
@pytest.mark.parametrize("angle", [180, 135, 90, 60])
def test_bolted_members_have_a_plate_each_half_way_between_them(angle):
    made = star_of([0, angle], [0, 0], LEVEL)
    ends = plated_ends(made)
    ends = ends.some(ends.is_pair)
    assert ends.node.tolist() == [0, 0]
    held_to(ends.normal[0] + ends.normal[1], 1e-12)
    held_to(-ends.level - (THICK + GAP / 2), 1e-12)
    sine = -np.einsum("ij,ij->i", ends.normal, ends.away)
    held_to(sine - np.sin(np.radians(angle / 2)), 1e-12)
    held_to(made.axis_back[:, 0] - (THICK + GAP / 2) / sine, 1e-9)


def test_two_members_at_a_foot_share_a_plate_and_a_mitre():
    made = on_foot([0, 180], [60, 60])
    ends = plated_ends(made)
    here = ends.node == 0
    assert here.sum() == 2
    assert not ends.is_pair.any()
    held_to(ends.normal[here] - [0, 0, -1], 1e-12)
    # The mitre between both stands upright over their foot.
    mitre = made.cuts.normal[np.abs(made.cuts.normal[:, 2]) < 0.5]
    assert len(mitre) == 2
    held_to(np.abs(mitre) - [1, 0, 0], 1e-12)


@known("equal tubes on one plate", "h = (2 r √(1 + k²) + 10 mm) / 2 k, k = cot e · sin(180° / n)")
@pytest.mark.parametrize(("count", "elevation"), [(3, 60), (4, 75), (6, 45)])
def test_three_or_more_stand_apart_on_a_plate_that_lies_higher(count, elevation):
    turns = np.arange(count) * 360 / count
    ends = plated_ends(on_foot(turns, [elevation] * count))
    ends = ends.some(ends.node == 0)
    k = np.sin(np.pi / count) / np.tan(np.radians(elevation))
    high = (0.0889 * np.hypot(1, k) + 0.01) / (2 * k)
    held_to(ends.raised - max(high - THICK - GAP, 0.0), 1e-9)
    held_to(-ends.level - max(high, THICK + GAP), 1e-9)


def test_flat_ones_are_apart_on_a_plate_where_it_is():
    ends = plated_ends(on_foot([0, 120, 240], [16] * 3, section="CHS 21.3 × 2.3"))
    assert (ends.node == 0).sum() == 3
    held_to(ends.raised, 1e-12)


@pytest.mark.parametrize(
    ("made", "fault"),
    [
        (star_of([0, 120, 240], [60] * 3, LEVEL), Fault.MANY),
        (on_foot([0, 20, 180], [60] * 3), Fault.CLOSE),
        (on_foot([0, 120, 240], [60, 60, -60]), Fault.STEEP),
        (on_foot([0], [10]), Fault.STEEP),
        (on_foot([0, 90], [60, -60]), Fault.STEEP),
        (star_of([0, 20], [0, 0], LEVEL), Fault.CLOSE),
        (star_of([0, 90], [0, 0], Meeting("welded")), Fault.OTHER),
    ],
)
def test_why_a_node_has_no_plate(made, fault):
    ends = plated_ends(made)
    assert ends.fault[0] == fault
    assert 0 not in ends.node
    # What can have none is welded, and not held back for one.
    assert made.meeting[0] == meeting_number("welded")
    welded = with_joints(made, arms_of(made), Meeting("welded"))
    assert made.set_back[:, 0] == pytest.approx(welded.set_back[:, 0])


def test_where_a_member_passes_there_is_no_plate():
    made = running_through()
    met = with_joints(made, arms_of(made), LEVEL)
    assert plated_ends(met).fault[0] == Fault.PASSES


def test_members_that_are_cut_otherwise_by_now_are_told():
    made = star_of([0, 180], [0, 0], LEVEL)
    ends = plated_ends(made)
    blame_moved(made, ends)
    assert not ends.fault[0]
    moved = replace(made, set_back=made.set_back + 0.01)
    blame_moved(moved, ends)
    assert ends.fault[0] == Fault.MOVED


@given(
    plan=st.floats(20, 340),
    rise=st.floats(-60, 60),
    section=st.sampled_from(["CHS 88.9 × 4", "RHS 120 × 60 × 5", "IPE 120", "L 100 × 75 × 8"]),
    thick=st.floats(0.005, 0.05),
)
def test_any_two_members_stop_clear_of_both_plates(plan, rise, section, thick):
    made = star_of([0, plan], [0, rise], replace(LEVEL, thickness=thick), section=section)
    ends = plated_ends(made)
    assume(ends.fault[0] == 0)
    # No place of an end lies beyond its plate's face, and the foremost lies on it.
    shape = made.sections[0].shape
    corners = np.vstack([outer for outer, _ in shape.pieces(360)])
    up = made.end_frames[1][:, 0]
    for k in range(2):
        side = np.cross(up[k], ends.away[k])
        square = ends.off[k] + corners @ np.stack([side, up[k]])
        along = (ends.level[k] - square @ ends.normal[k]) / (ends.normal[k] @ ends.away[k])
        assert made.set_back[k, 0] == pytest.approx(along.min(), abs=1e-5)
