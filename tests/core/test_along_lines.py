"""Members along lines: where they meet, and nodes put into members that are there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.along_lines import along_lines
from leanlattice.core.structure.inserted import (
    inserted,
    landed_near,
    nearest_members,
    reached,
    runs_of_entries,
)
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure

from ..known import approx, held_to, known
from . import structures

X, Y, Z = np.eye(3)
UPRIGHT, PLAN = Frame2(np.zeros(3), X, Z), Frame2(np.zeros(3), X, Y)
TUBE, WELDED, APART = find("RHS 120x80x5"), Meeting("welded"), Meeting("apart", 0.01)
BRACED = [
    ("arc", [[0, 0], [5, 3], [10, 0]]),
    ("line", [[0, 0], [10, 0]]),
    ("line", [[5, 0], [5, 3]]),
    ("line", [[0, 1], [10, 1]]),
]


def drawn(items, frame=UPRIGHT):
    return [line_of(PlaneCurve(path_of(kind, at), frame), 0.005) for kind, at in items]


def made_of(items, parts=False, meeting=WELDED, **more):
    return along_lines(drawn(items), TUBE, "arch", meeting, 0.001, parts, **more)


@known("an arch, a tie, a post and a rail across them", "9 nodes; 4 members all along, 12 in parts")
def test_lines_meet_where_they_end_or_cross():
    along, parts = made_of(BRACED), made_of(BRACED, True)
    held_to(np.subtract((len(along.places), along.count), (9, 4)), 0)
    held_to(np.subtract((len(parts.places), parts.count), (9, 12)), 0)
    assert parts.lengths.sum() == approx(along.lengths.sum(), rel=1e-12)
    crown = np.argmax(along.places[:, 2])
    assert along.valence[crown] == 3
    foot = np.argmin(np.linalg.norm(along.places, axis=1))
    assert along.valence[foot] == 2
    # Where the rail crosses the arch and the post.
    assert along.valence[along.path[along.offsets[3] :]].tolist() == [1, 4, 4, 4, 1]


def test_axes_keep_to_their_lines():
    made = made_of(BRACED)
    arch = made.axis_places[: made.offsets[1]]
    centre = np.array([5, 0, 3 - 17 / 3])
    held_to(np.linalg.norm(arch - centre, axis=1) - 17 / 3, 1e-6)
    held_to(np.einsum("ij,ij->i", made.up, made.chords), 1e-9)


@pytest.mark.parametrize("parts", [False, True])
@pytest.mark.parametrize("way", ["welded", "apart"])
def test_solids_are_closed_and_weigh_what_is_listed(parts, way):
    made = along_lines(
        drawn(BRACED), find("CHS 114.3 × 5"), "arch", Meeting(way, 0.01), 0.001, parts
    )
    structures.weighs_what_is_listed(made)


def test_lines_beside_each_other_meet_at_their_ends_alone():
    beside = [("line", [[0, 0], [4, 0]]), ("line", [[1, 0.0005], [3, 0.0005]])]
    made = made_of(beside)
    assert np.diff(made.offsets).tolist() == [4, 2]
    apart = made_of([("line", [[0, 0], [4, 0]]), ("line", [[0, 0.2], [4, 0.2]])])
    assert len(apart.places) == 4


@given(
    st.lists(st.tuples(st.integers(0, 3), st.integers(1, 96)), max_size=6, unique=True),
    st.booleans(),
)
def test_nodes_put_into_members_leave_all_else_as_it_was(wanted, parts):
    base = made_of(BRACED, parts)
    member = np.array([m for m, _ in wanted], np.int32)
    run = np.array([share / 97 for _, share in wanted]) * base.lengths[member]
    more = inserted(base, member, run)
    assert len(more.places) == len(base.places) + len(member)
    held_to(more.lengths - base.lengths, 1e-8)
    held_to(more.masses - base.masses, 1e-5)
    held_to(np.einsum("ij,ij->i", more.up, more.chords), 1e-9)
    # Each is in its member, at its place along it.
    runs = runs_of_entries(more)
    for k, (m, wanted_run) in enumerate(zip(member, run, strict=True)):
        entries = np.flatnonzero(more.path == len(base.places) + k)
        assert more.member_of_entry[entries].tolist() == [m]
        assert runs[entries[0]] == pytest.approx(wanted_run, abs=1e-7)
    near, away = nearest_members(base, more.places[len(base.places) :])
    assert (away < 1e-6).all()
    if not parts:
        assert np.allclose(base.lengths[near], base.lengths[member]) or len(member) == 0


def test_places_on_nodes_on_members_and_beside_all():
    base = made_of(BRACED)
    at = np.array([[5, 0, 3.0004], [3, 0, 0.0], [3, 0, 0.0004], [3, 2, 0.0], [2, 0, 0]])
    more, onto = reached(base, at, 0.001)
    assert np.linalg.norm(base.places[onto[0]] - [5, 0, 3]) < 1e-9
    assert onto[1] == onto[2] >= len(base.places)
    assert onto[3] == -1
    assert len(more.places) == len(base.places) + 2
    held_to(more.places[onto[[1, 4]]] - at[[1, 4]], 1e-9)


def test_what_lands_within_a_member_stops_at_its_side_and_renames_nothing():
    base = made_of(BRACED[:2])
    post = along_lines(
        drawn([("line", [[2, 0], [2, 5]]), ("line", [[6, -3], [6, 0]])]),
        TUBE,
        "strut",
        APART,
        0.001,
    )
    made = landed_near(base, post, 0.001)
    assert made.since == (len(base.places), base.count)
    assert made.count == base.count + 2
    assert made.lengths[: base.count] == pytest.approx(base.lengths)
    held_to(made.set_back[: base.count] - base.set_back, 1e-12)
    # RHS of 120 mm height: what ends on it stands back by half of it and the gap.
    held_to(made.set_back[base.count, 0] - 0.07, 1e-9)
    held_to(made.set_back[base.count + 1] - [0.0, 0.07], 1e-9)
    before, after = names_of_structure(base), names_of_structure(made)
    assert after.every_node[: len(base.places)] == before.every_node
    assert after.every_member[: base.count] == before.every_member
    assert len(set(after.every_node)) == len(made.places)
