"""Seats of round hubs: known answers for pairs of members, and any stars of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.faults import Fault
from leanlattice.core.structure.hub_seats import LEAST_ANGLE, Making, hub_seats
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import Meeting

from ..known import approx, known
from .structures import bent_at_a_node, running_through, star_of, structure

MEETING = Meeting("seats", gap=0.004, radius=0.01)
HALF = 0.0889 / 2
"""Radius of the seat of a tube."""
PLAIN = Making()


def seats_of(plan, elevation, meeting=MEETING, making=PLAIN, **values):
    return hub_seats(star_of(plan, elevation, meeting, **values), making)


@known("radius of a hub for two equal members θ apart", "(ρ + gap / 2) / sin(θ / 2)")
@pytest.mark.parametrize("degrees", [30.0, 60.0, 90.0, 140.0])
def test_two_equal_seats(degrees):
    found = seats_of([0, degrees], [0, 0])
    radius = (HALF + 0.002) / np.sin(np.radians(degrees / 2))
    assert found.radius == approx([radius], rel=1e-9)
    assert found.ends.levels == approx([np.sqrt(radius**2 - HALF**2)] * 2, rel=1e-9)


@known("hub for a large and a small member in line", "a ball that the large one's seat halves")
def test_a_seat_may_be_half_the_ball():
    members = [
        {"path": [0, 1], "section": "CHS 139.7 × 5"},
        {"path": [0, 2], "section": "CHS 42.4 × 4"},
    ]
    made = structure([(0, 0, 0), (2, 0, 0), (-2, 0.1, 0)], members)
    found = hub_seats(with_joints(made, arms_of(made), MEETING), PLAIN)
    assert found.radius == approx([0.1397 / 2 + 0.002], rel=1e-9)


@known("volume of a hub", "4/3 π R³ less a spherical cap each seat and the hollow")
def test_volume_of_a_cross_of_six():
    found = seats_of([0, 90, 180, 270, 0, 0], [0, 0, 0, 0, 90, -90], making=Making(wall=0.005))
    radius = (HALF + 0.002) * np.sqrt(2)
    level = np.sqrt(radius**2 - HALF**2)
    high, air = radius - level, level - 0.005
    caps = 6 * np.pi * high**2 * (3 * radius - high) / 3
    assert found.volumes == approx([4 / 3 * np.pi * (radius**3 - air**3) - caps], rel=1e-9)


def test_sizes_of_hubs():
    crowded = ([0, 40, 180], [0, 0, 0])
    least = seats_of(*crowded).radius[0]
    for sizes, radius, wanted in (
        ("each", 0.05, least),
        ("each", 0.3, 0.3),
        ("alike", 0.05, least),
        ("fixed", 0.25, 0.25),
    ):
        found = seats_of(*crowded, meeting=replace(MEETING, sizes=sizes, radius=radius))
        assert found.radius == approx([wanted], rel=1e-9)
    small = seats_of(*crowded, meeting=replace(MEETING, sizes="fixed", radius=0.06))
    assert small.count == 0
    assert small.fault[0] == Fault.SMALL
    assert small.needed[0] == approx(least, rel=1e-9)


def test_what_leaves_no_room_for_seats():
    for made, fault in ((running_through(), Fault.PASSES), (bent_at_a_node(), Fault.BENT)):
        met = with_joints(made, arms_of(made), MEETING)
        assert hub_seats(met, PLAIN).fault[0] == fault
    assert seats_of([0, 5, 180], [0, 0, 0]).fault[0] == Fault.CLOSE
    held_apart = star_of([0, 120], [0, 0], Meeting("apart"))
    assert hub_seats(held_apart, PLAIN).fault[0] == Fault.OTHER
    made = star_of([0, 120], [0, 0], MEETING)
    moved = replace(made, set_back=made.set_back + 1e-4)
    assert hub_seats(moved, PLAIN).fault[0] == Fault.MOVED


def test_holes_that_meet_or_do_not_fit_are_at_fault():
    cross = ([0, 90, 180, 270], [0] * 4)
    deep = seats_of(*cross, making=Making(0.014, 0.05))
    assert deep.fault[0] == Fault.MET
    large = replace(MEETING, radius=float(deep.needed[0]))
    assert seats_of(*cross, meeting=large, making=Making(0.014, 0.05)).count == 1
    smaller = replace(MEETING, radius=float(deep.needed[0]) * 0.98)
    assert seats_of(*cross, meeting=smaller, making=Making(0.014, 0.05)).count == 0
    assert seats_of(*cross, making=Making(0.08, 0.01)).fault[0] == Fault.NARROW


@given(
    st.lists(st.tuples(st.floats(0, 360), st.floats(-85, 85)), min_size=2, max_size=9),
    st.sampled_from(["CHS 88.9 × 4", "SHS 60 × 4", "RHS 80 × 40 × 4"]),
    st.floats(0.0, 0.02),
)
def test_members_on_their_seats_are_clear_of_each_other(ways, section, gap):
    plan, elevation = np.array(ways).T
    made = star_of(plan, elevation, replace(MEETING, gap=gap), section=section)
    found = hub_seats(made, PLAIN)
    ends = found.ends
    if not found.count:
        assert found.fault[0] in (Fault.CLOSE, Fault.FEW)
        return
    assert found.fault[0] == 0
    for i in range(len(ends.node)):
        for j in range(len(ends.node)):
            if i == j:
                continue
            # The half-angles of both cones are less than their axes are apart, by the gap.
            both = np.arcsin(ends.reach[[i, j]] / found.radius[0]).sum()
            between = np.arccos(np.clip(ends.way[i] @ ends.way[j], -1, 1))
            assert between >= LEAST_ANGLE
            assert (between - both) * found.radius[0] >= min(gap, 0.001) * (1 - 1e-6)
