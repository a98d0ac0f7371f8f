"""Members that run on through nodes of plain nets one way, while others end at them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.nets.strands import families_of
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import PASSAGE, arms_of, set_backs
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import role_number
from leanlattice.core.structure.solids import member_solids
from leanlattice.core.structure.welding import weld_cuts

from ..conftest import SURFACES
from ..known import approx, held_to, known
from . import structures

TUBE, BOX = find("CHS 60.3 × 4"), find("RHS 120 × 60 × 5")
EDGES = role_number("edge")


def running(net, family, section=TUBE, meeting=None, set_out="centre", roll=0.0):
    ends = families_of(net).passing_ends(family)
    meeting = meeting or Meeting(gap=0.005)
    return from_net(net, section, section, set_out, roll, meeting, through=ends)


@known(
    "members through a flat sheet of n × m squares",
    "one way n − 1 bars that run through and n (m − 1) between them, the other way turned",
)
@pytest.mark.parametrize(("n", "m"), [(5, 3), (3, 5)])
def test_bars_run_through_one_way_and_end_at_these_the_other(n, m):
    net = lay(SURFACES["flat sheet"](), "quads", (n, m))
    families = families_of(net)
    assert families.count == 2
    found = []
    for family in (0, 1):
        made = running(net, family)
        inner = made.role != EDGES
        entries = np.diff(made.offsets)[inner]
        through = entries > 2
        found.append((int(through.sum()), int((~through).sum())))
        # Each runs from border to border in a straight line, and all lie in the net.
        assert set(entries[through]) <= {n + 1, m + 1}
        assert np.abs(made.offset).max() == 0
        arms = arms_of(made, joined=True)
        passing = np.bincount(arms.node, arms.end == PASSAGE)
        assert passing.max() == 1
    assert sorted(found) == sorted([(n - 1, (m - 1) * n), (m - 1, (n - 1) * m)])


def kinked(bend, aside, section="CHS 114.3 × 5"):
    """A bar through a node at which it bends by ``bend``, and another that ends there and lies
    ``aside`` of the middle of its inner angle, both in degrees."""
    half = np.radians(bend) / 2
    to = np.radians(aside)
    left, right = (-np.cos(half), np.sin(half), 0.0), (np.cos(half), np.sin(half), 0.0)
    bars = [
        {"section": section, "path": [0, 1, 2], "up": (0, 0, 1)},
        {"section": "CHS 60.3 × 4", "path": [1, 3], "up": (0, 0, 1)},
    ]
    return structures.structure([left, (0, 0, 0), right, (np.sin(to), np.cos(to), 0.0)], bars)


@known(
    "an end within the bend of a bar that passes",
    "stops a gap off the nearer leg: (g + r₂ + r₁ cos θ) / sin θ",
)
@pytest.mark.parametrize("bend", [0.0, 12.0, 30.0])
@pytest.mark.parametrize("aside", [0.0, 7.0, 25.0])
def test_an_end_stops_at_the_leg_it_leans_to(bend, aside):
    made = kinked(bend, aside)
    back = set_backs(made, arms_of(made, joined=True), 0.01)[1, 0]
    angle = np.radians(90 - aside - bend / 2)
    wanted = (0.01 + 0.1143 / 2 + 0.0603 / 2 * np.cos(angle)) / np.sin(angle)
    assert back == approx(wanted, rel=1e-9)
    # Across the bend it stays off the corner, which reaches further than the side.
    outside = kinked(bend, 180.0)
    across = set_backs(outside, arms_of(outside, joined=True), 0.01)[1, 0]
    assert across == approx(0.01 + 0.1143 / 2 / np.cos(np.radians(bend) / 2), rel=1e-9)


@known("a weld within the bend of a bar that passes", "a plane along either leg, its radius off")
@pytest.mark.parametrize("bend", [8.0, 30.0])
def test_a_weld_lies_along_both_legs_of_a_bend(bend):
    bent = kinked(bend, 0.0)
    made = with_joints(bent, arms_of(bent, joined=True), Meeting("welded"))
    assert made.cuts.end.tolist() == [2, 2]
    legs = np.array([bent.places[0], bent.places[2]])
    along = np.abs(made.cuts.normal @ legs.T)
    assert sorted(along.argmin(axis=1).tolist()) == [0, 1]
    held_to(along.min(axis=1), 1e-12)
    held_to(made.cuts.level + 0.1143 / 2, 1e-12)
    straight = kinked(0.0, 20.0)
    assert weld_cuts(straight, arms_of(straight, joined=True))[0].count == 1


def shared_with_passing(structure):
    """Volumes (m³) that bars share with those that pass where they end."""
    import manifold3d

    def solid(vertices, triangles):
        return manifold3d.Manifold(
            manifold3d.Mesh(vertices.astype(np.float32), triangles.astype(np.uint32))
        )

    solids = {m: solid(v, t) for m, v, t in member_solids(structure, 16)}
    arms = arms_of(structure, joined=True)
    for node in np.unique(arms.node[arms.end == PASSAGE]).tolist():
        here = arms.member[arms.start[node] : arms.start[node + 1]].tolist()
        ends = arms.end[arms.start[node] : arms.start[node + 1]].tolist()
        (passing,) = (m for m, end in zip(here, ends, strict=True) if end == PASSAGE)
        for m in set(here) - {passing}:
            yield (solids[m] ^ solids[passing]).volume()


@pytest.mark.parametrize(("name", "pattern"), [("dome", "triangles"), ("roof", "diagrid")])
@settings(max_examples=6, deadline=None)
@given(
    section=st.sampled_from([TUBE, BOX]),
    family=st.integers(0, 2),
    gap=st.floats(1e-4, 0.03),
    roll=st.floats(-0.3, 0.3),
)
def test_what_ends_at_a_bar_that_bends_does_not_run_into_it(
    name, pattern, section, family, gap, roll
):
    net = lay(SURFACES[name](), pattern, (8, 6))
    made = running(net, family, section, Meeting(gap=gap), "top", roll)
    shared = list(shared_with_passing(made))
    assert len(shared) > 20
    assert max(shared) < 1e-9


def test_what_bends_too_far_does_not_run_through():
    net = lay(SURFACES["flat sheet"](), "quads", (4, 4))
    # Every other row is moved: rows across stay straight, those along turn by 90° at each vertex.
    rows = np.unique(np.round(net.vertices[:, 1], 6), return_inverse=True)[1]
    pitch = np.ptp(net.vertices[:, 1]) / 4
    moved = net.vertices + np.where(rows[:, None] % 2 == 1, [pitch, 0.0, 0.0], 0.0)
    bent = replace(net, vertices=moved)
    families = families_of(bent)
    through = families.passing_ends(0) >= 0
    a, b = bent.edges.T
    along = np.abs(moved[b, 1] - moved[a, 1]) > 1e-9
    assert not through.reshape(-1, 2)[along].any()
    assert through.reshape(-1, 2)[~along & ~bent.border].any()


def test_a_ring_comes_back_to_where_it_begins_and_ends_there_as_others_do():
    made = running(lay(SURFACES["tube"](), "quads", (16, 5)), 1)
    rings = made.ends[:, 0] == made.ends[:, 1]
    assert np.count_nonzero(rings) == 4
    assert (np.diff(made.offsets)[rings] == 17).all()
    assert made.set_back[rings] == approx(made.set_back[rings][:, ::-1], rel=0.1)
    others = made.set_back[~rings & (made.role != EDGES)]
    assert made.set_back[rings].min() < others.max()
