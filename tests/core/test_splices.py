"""Long ribs parted into lengths that are joined again."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.together import put_together
from leanlattice.core.ribs.laps import Slots, lapped
from leanlattice.core.ribs.parts import Ribs
from leanlattice.core.ribs.plates import Rib
from leanlattice.core.ribs.splices import Joints, long_side, spliced

from ..known import held_to, known

UP = np.array([0.0, 0.0, 1.0])
JOINTS = Joints(2.4, 1.2, 5, 0.08, 0.0001, 0.003, 0.02, 0.2)


def upright(series, number, at, angle, shape, thickness=0.018):
    """A plate upright through ``at`` along an angle in plan."""
    x = np.array([np.cos(angle), np.sin(angle), 0.0])
    return Rib(series, number, 0, 1, shape, np.array(at, float), x, UP, thickness)


def waffle(length, height, rows, columns):
    long = [
        upright("A", k + 1, (0, y, 0), 0, shapely.box(0, 0, length, height))
        for k, y in enumerate(np.linspace(0.2, 1.0, rows))
    ]
    short = [
        upright("B", k + 1, (x, 0, 0), np.pi / 2, shapely.box(0, 0, 1.2, height))
        for k, x in enumerate(np.linspace(0.3, length - 0.3, columns))
    ]
    laps = lapped(long, short, Slots(0.0002, relief=0.003), UP)
    zones = tuple(tuple(z) for z in laps.zones)
    return Ribs(tuple(laps.ribs), tuple(laps.crossings), "plywood", ("A", "B"), zones)


@known(
    "spliced ribs of any size",
    "lengths fit, overlap by nothing, meet within the gap; as many crossings",
)
@given(
    st.floats(2.5, 14.0), st.floats(0.2, 3.5), st.integers(1, 3), st.integers(2, 9),
    st.integers(2, 9), st.floats(0.0, 0.002), st.sampled_from([0.0, 0.003, 0.008]),
)  # fmt: skip
def test_lengths_fit_go_together_and_lose_nothing_but_gaps(
    length, height, rows, columns, fingers, gap, relief
):
    ribs = waffle(length, height, rows, columns)
    joints = replace(JOINTS, fingers=fingers, gap=gap, relief=relief)
    found = spliced(ribs, joints)
    made = found.ribs
    for rib in made.ribs:
        whole = rib.label.partition("-")[0]
        assert long_side(rib.shape) <= 2.4 + 1e-6 or whole in found.too_long
        assert rib.shape.geom_type == "Polygon"
        assert rib.shape.is_valid
    parts = made.parts.parts
    together = put_together(parts, made.meeting)
    held_to(together.overlap, 1e-3)
    assert together.gap <= max(gap * 1000, 0.1) + 1e-6
    lost = sum(r.shape.area for r in ribs.ribs) - sum(r.shape.area for r in made.ribs)
    outline = 2 * (height + fingers * 0.08)
    assert -1e-9 <= lost <= len(made.splices) * (gap * outline + 20 * fingers * relief**2 + 1e-6)
    # As many crossings of the same ribs, each with the length that has its slot.
    wholes = [made.of_whole[c.first] for c in made.crossings]
    assert wholes == [c.first for c in ribs.crossings]
    for c in made.crossings:
        for end in (c.first, c.second):
            flat = made.ribs[end].flattened(c.place[None])[0]
            held_to(shapely.distance(made.ribs[end].shape, shapely.Point(flat)), 0.02)


def test_fewest_lengths_staggered_and_clear_of_slots():
    ribs = waffle(6.0, 0.6, 3, 8)
    found = spliced(ribs, JOINTS)
    assert not found.too_long
    assert not found.beside
    assert len(found.ribs.ribs) == 3 * 3 + 8, "6 m are three lengths of 2.4 m at most"
    assert [r.label for r in found.ribs.ribs[:4]] == ["A1-1", "A1-2", "A1-3", "A2-1"]
    joints, slots = {}, np.linspace(0.3, 5.7, 8)
    for splice in found.ribs.splices:
        one, two = found.ribs.ribs[splice.first], found.ribs.ribs[splice.second]
        middle = (one.shape.bounds[2] + two.shape.bounds[0]) / 2
        joints.setdefault(one.number, []).append(middle)
        # Half a joint, half a slot, and what is to be clear between them.
        assert np.abs(slots - middle).min() >= 0.04 + 0.009 + 0.02
    for one, two in ((1, 2), (2, 3)):
        apart = np.abs(np.subtract.outer(joints[one], joints[two]))
        assert apart.min() >= 0.2 - 1e-9


def test_a_ring_is_parted_through_its_arms_and_a_wall_both_ways():
    ring = shapely.box(0, 0, 4, 1).difference(shapely.box(0.2, 0.2, 3.8, 0.8))
    one = Ribs((upright("A", 1, (0, 0, 0), 0, ring),), (), "plywood", ("A",))
    found = spliced(one, JOINTS)
    assert len(found.ribs.ribs) == 2, "two halves"
    assert found.through == ["A1"], "which is told"
    left = found.ribs.ribs[0].shape
    assert left.intersection(shapely.box(1.5, 0, 4, 0.2)).area > 0.08, "of which both arms are long"
    assert left.intersection(shapely.box(1.5, 0.8, 4, 1)).area > 0.08
    wall = Ribs((upright("A", 1, (0, 0, 0), 0, shapely.box(0, 0, 4, 2)),), (), "plywood", ("A",))
    found = spliced(wall, JOINTS)
    both = found.ribs
    assert found.through == []
    assert len(both.ribs) == 4
    assert len(both.splices) == 4
    assert len({frozenset((s.first, s.second)) for s in both.splices}) == 4, "each with two others"


def test_where_slots_leave_no_room_it_is_told_and_nothing_is_cut():
    ribs = waffle(6.0, 0.6, 1, 60)
    found = spliced(ribs, JOINTS)
    assert found.too_long == ["A1"]
    assert len(found.ribs.ribs) == 61
    near = spliced(waffle(6.0, 0.6, 2, 8), replace(JOINTS, apart=5.0))
    assert near.beside == ["A2"]


@pytest.mark.parametrize("fingers", [2, 5])
def test_fingers_interlock_and_the_tool_reaches_their_corners(fingers):
    bar = Ribs((upright("A", 1, (0, 0, 0), 0, shapely.box(0, 0, 4, 0.3)),), (), "plywood", ("A",))
    one, two = spliced(bar, replace(JOINTS, fingers=fingers)).ribs.ribs
    assert one.shape.bounds[2] - two.shape.bounds[0] == pytest.approx(0.08, abs=2e-4)
    radius = JOINTS.relief
    for rib, other in ((one, two), (two, one)):
        # What a round tool can reach from outside the plate holds all of the other.
        reached = rib.shape.buffer(radius).buffer(-2 * radius).buffer(radius)
        kept = rib.shape.buffer(radius, quad_segs=64).buffer(-radius, quad_segs=64)
        assert kept.intersection(other.shape).area < 1e-6
        assert reached.area > 0.9 * rib.shape.area


def test_lengths_of_a_rib_go_in_one_after_the_other():
    made = spliced(waffle(6.0, 0.6, 2, 8), JOINTS).ribs
    order = made.assembly.order
    assert sorted(order) == list(range(len(made.ribs)))
    wholes = [made.of_whole[k] for k in order]
    assert len([a for a, b in pairwise(wholes) if a != b]) + 1 == 10
    ways = {}
    for k, way in zip(order, made.assembly.way, strict=True):
        ways.setdefault(made.of_whole[k], []).append(way)
    assert all(np.ptp(np.array(w), axis=0).max() == 0 for w in ways.values())
