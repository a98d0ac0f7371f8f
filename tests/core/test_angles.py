"""Angles at nodes and turns of sections."""

from __future__ import annotations

import numpy as np
import pytest

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.angles import node_angles, rolls
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting

from ..conftest import SURFACES
from ..known import approx, known
from .structures import structure

TUBE = find("CHS 88.9 × 4")


def test_node_angles_close_a_full_turn_on_a_plane():
    net = lay(SURFACES["flat sheet"](), "triangles", (6, 4))
    ways = node_angles(
        from_net(net, TUBE, TUBE, "centre", 0.0, Meeting(gap=0.0)), np.arange(len(net.edges))
    )
    assert len(ways.node) == 2 * len(net.edges)
    assert np.abs([ways.elevation, ways.twist]).max() < 1e-9
    for v in np.unique(ways.node):
        mine, plan = ways.member[ways.node == v], ways.plan[ways.node == v]
        assert plan[0] == pytest.approx(0)
        assert mine[0] == mine.min()
        assert (np.diff(plan) > 0.1).all()
        assert plan[-1] < 2 * np.pi


@known(
    "a bar on a rafter that runs on",
    "plan 0°, 90° and 180°, elevation of the bar, twist of the arc",
)
def test_what_runs_on_leaves_a_node_both_ways():
    """A rafter runs through the node along x; a bar rises from it across, at 3 in 4."""
    slope = np.arctan2(3, 4)
    up = np.array([0.0, -3, 4]) / 5
    one = structure(
        [(-2, 0, 0), (0, 0, 0), (2, 0, 0), (0, 4, 3)],
        [{"path": [0, 1, 2]}, {"path": [1, 3], "up": up}],
    )
    ways = node_angles(one, np.array([0, 1]))
    here = ways.node == 1
    assert ways.member[here].tolist() == [0, 1, 0]
    assert ways.plan[here] == approx([0, np.pi / 2, np.pi], abs=1e-12)
    assert ways.elevation[here] == approx([0, slope, 0], abs=1e-12)
    assert ways.twist[here] == approx([0, 0, 0], abs=1e-12)
    other_first = node_angles(one, np.array([1, 0]))
    assert other_first.member[other_first.node == 1].tolist() == [1, 0, 0]


@known("a post along a node's normal", "plan 0°, elevation 90°, twist from the first bar")
@pytest.mark.parametrize("turn", [0.0, 0.5, -2.0])
def test_a_post_along_the_normal_has_no_say_in_the_plan(turn):
    up = (np.cos(turn), np.sin(turn), 0.0)
    post = {"path": [0, 3], "up": up}
    one = structure(
        [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)], [post, {"path": [0, 1]}, {"path": [0, 2]}]
    )
    ways = node_angles(one, np.arange(3))
    here = ways.node == 0
    assert ways.member[here].tolist() == [1, 0, 2]
    assert ways.plan[here] == approx([0, 0, np.pi / 2], abs=1e-12)
    assert ways.elevation[here] == approx([0, np.pi / 2, 0], abs=1e-9)
    assert ways.twist[here] == approx([0, turn, 0], abs=1e-12)
    # At its far end it is alone, and nothing is counted.
    (far,) = np.flatnonzero(ways.node == 3)
    assert (ways.plan[far], ways.twist[far]) == (0, 0)


@known("an arch's feet", "leave along their tangents, upright for half a circle")
def test_arcs_leave_along_their_tangents():
    arch = structure([(-2, 0, 0), (2, 0, 0)], [{"path": [0, 1], "bulge": (0, 0, 2)}])
    assert node_angles(arch, np.array([0])).elevation == approx(np.full(2, np.pi / 2), abs=1e-9)
    flat = structure([(-2, 0, 0), (2, 0, 0)], [{"path": [0, 1], "up": (0, 1, 0)}])
    assert rolls(flat) == approx([-np.pi / 2], abs=1e-12)
