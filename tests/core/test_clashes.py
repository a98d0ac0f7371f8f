"""Clashes of members that do not meet, and crowded nodes, against what is counted by hand."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.structure.clashes import clashes_of, crowds_of

from ..known import approx, known
from . import structures

UP = (0.0, 0.0, 1.0)


def two(apart, turn=90.0, section="CHS 88.9 × 4", along=0.0):
    """A member of 4 m along x, and one over it, turned about it by so many degrees."""
    way = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn)), 0.0])
    middle = np.array([along, 0.0, apart])
    places = [(-2, 0, 0), (2, 0, 0), middle - 2 * way, middle + 2 * way]
    members = [{"path": [0, 1], "section": section}, {"path": [2, 3], "section": section}]
    return structures.structure(places, members, normals=[UP] * 4)


@known("Two round members across each other, axes d apart", "d − 2 r between them")
@given(st.floats(0.01, 0.3), st.floats(10, 90), st.floats(0, 0.2))
def test_round_members_that_pass(apart, turn, clear):
    found = clashes_of(two(apart, turn), clear)
    gap = apart - 0.0889
    if gap < clear - 1e-6:
        assert found.members.tolist() == [[0, 1]]
        assert found.apart[0] == approx(gap, abs=1e-9)
        assert np.linalg.norm(found.places[0] - [0, 0, apart / 2]) < 1e-9
    elif gap > clear + 1e-6:
        assert len(found.members) == 0


@pytest.mark.parametrize(("apart", "clear", "gap"), [(0.19, 0, -0.01), (0.21, 0.02, 0.01)])
def test_boxes_are_looked_at_as_solids(apart, clear, gap):
    # Circles about them meet in all of these; boxes are 200 mm high where they pass.
    found = clashes_of(two(apart, section="RHS 200 × 100 × 6.3"), clear)
    assert found.members.tolist() == [[0, 1]]
    assert found.apart[0] == pytest.approx(gap, abs=1e-5)
    assert len(clashes_of(two(0.201, section="RHS 200 × 100 × 6.3"), 0).members) == 0


def test_members_past_each_other_s_ends_do_not_clash():
    # A square end stops where a round one would still reach.
    assert len(clashes_of(two(0.0, 90, along=2.06), 0).members) == 0
    assert len(clashes_of(two(0.0, 90, along=2.03), 0).members) == 1


def test_members_that_share_a_node_meet():
    places = [(0, 0, 0), (2, 0, 0), (2, 0.1, 0)]
    members = [{"path": [0, 1]}, {"path": [0, 2]}]
    assert (
        len(clashes_of(structures.structure(places, members, normals=[UP] * 3), 1.0).members) == 0
    )


def test_bent_members_are_followed_along_their_arcs():
    places = [(-2, 0, 0), (2, 0, 0), (0, -1, 1.0), (0, 1, 1.0), (0, -1, 0.0), (0, 1, 0.0)]
    members = [
        {"path": [0, 1], "bulge": [(0, 0, 1.0)]},
        {"path": [2, 3]},
        {"path": [4, 5]},
    ]
    found = clashes_of(structures.structure(places, members, normals=[UP] * 6), 0.0)
    # It passes its crown and not its chord.
    assert found.members.tolist() == [[0, 1]]


@given(st.lists(st.floats(1, 179), min_size=2, max_size=6))
def test_the_least_angle_of_a_node(degrees):
    turned = np.radians(np.cumsum([0.0, *degrees]))
    ends = np.column_stack([np.cos(turned), np.sin(turned), 0 * turned])
    places = [(0, 0, 0), *map(tuple, ends)]
    members = [{"path": [0, k]} for k in range(1, len(places))]
    crowds = crowds_of(structures.structure(places, members, normals=[UP] * len(places)))
    cosines = ends @ ends.T
    np.fill_diagonal(cosines, -1)
    assert crowds.arms[0] == len(members)
    assert np.cos(crowds.angle[0]) == pytest.approx(cosines.max(), abs=1e-9)
    assert np.isinf(crowds.angle[1:]).all()
