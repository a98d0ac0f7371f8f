"""Columns that branch: how many, what they bear, and how they share it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.branching import branching, trees
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure

from ..conftest import roof
from ..known import held_to, known
from . import structures

TRUNK, BRANCH = find("CHS 168.3 × 6.3"), find("CHS 88.9 × 4")
WELDED = Meeting("welded")


def level(places):
    """Feet on a level of −4 m."""
    return places * [1, 1, 0] - [0, 0, 4.0]


def sheet(n, m):
    return np.array([(i, j, 0.2 * i) for i in range(n) for j in range(m)], float)


@known(
    "trees over n × m heads", "each head borne once; n m branches, and 2 more for each fork parted"
)
@pytest.mark.parametrize("trunks", [1, 2, 4])
def test_every_head_is_borne_once(trunks):
    heads = sheet(8, 4)
    once = trees(heads, trunks, 0.5, 1, level)
    held_to([len(once.trunks) - trunks, len(once.branches) - 32], 0)
    twice = trees(heads, trunks, 0.5, 2, level)
    held_to(len(twice.branches) - (32 + 2 * trunks), 0)
    for made in (once, twice):
        tips = [tuple(p) for p in np.round(made.branches[:, 1], 9)]
        assert all(tips.count(tuple(np.round(h, 9))) == 1 for h in heads)


@known("a trunk below two heads", "its fork at its share of the way, branches alike")
def test_a_trunk_forks_where_it_is_to():
    made = trees(np.array([[-2.0, 0, 2], [2, 0, 2]]), 1, 0.25, 1, level)
    held_to(made.trunks[0] - [[0, 0, -4], [0, 0, -2.5]], 1e-12)
    held_to(
        np.linalg.norm(made.branches[:, 1] - made.branches[:, 0], axis=1) - np.hypot(2, 4.5), 1e-12
    )


@given(st.integers(0, 10**6), st.integers(1, 5), st.integers(1, 3), st.floats(0.1, 0.9))
def test_trees_are_whole_however_heads_lie(seed, count, levels, fork):
    heads = np.random.default_rng(seed).uniform(-5, 5, (12, 3)) + [0, 0, 6]
    made = trees(heads, count, fork, levels, level)
    assert 1 <= len(made.trunks) <= count
    starts = {tuple(p) for p in np.round(made.branches[:, 0], 9)}
    ends = {tuple(p) for p in np.round(made.branches[:, 1], 9)}
    # Each branch goes on from a trunk or a branch, and each fork bears something.
    forks = {tuple(p) for p in np.round(made.trunks[:, 1], 9)}
    assert starts <= forks | ends
    assert forks <= starts
    assert {tuple(p) for p in np.round(heads, 9)} <= ends
    again = trees(heads, count, fork, levels, level)
    assert (again.branches == made.branches).all()


def test_a_roof_on_trees_keeps_its_names_and_weighs_what_is_listed():
    net = lay(roof(), "quads", (6, 5))
    base = from_net(net, BRANCH, BRANCH, "centre", 0.0, WELDED, source="a")
    nodes = np.arange(0, len(base.places), 3)
    made = branching(base, trees(base.places[nodes], 3, 0.5, 2, level), TRUNK, BRANCH, WELDED)
    assert made.foot.sum() == 3
    assert made.since == (len(base.places), base.count)
    before, after = names_of_structure(base), names_of_structure(made)
    assert after.every_member[: base.count] == before.every_member
    assert set(nodes.tolist()) <= set(made.ends[base.count :].ravel().tolist())
    structures.weighs_what_is_listed(made)
