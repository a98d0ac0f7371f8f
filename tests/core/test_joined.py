"""Structures that go on, and nodes made one: what keeps its number, what goes, and how it meets."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.meshes import Mesh
from leanlattice.core.geometry.meshsurface import mesh_surface
from leanlattice.core.geometry.nets import build_net
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.appended import appended
from leanlattice.core.structure.arms import arms_of
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.joined import joined, nearest_nodes
from leanlattice.core.structure.joints import with_joints
from leanlattice.core.structure.meetings import MEETINGS, Meeting
from leanlattice.core.structure.names import names_of_structure

from ..conftest import roof, surfaces
from ..known import held_to, known
from . import structures

TUBE, EDGE = find("CHS 88.9 × 4"), find("CHS 139.7 × 5")
WELDED, BALLS = Meeting("welded"), Meeting("ball", 0.005, "each", 0.06)


def sheet(x, nx, ny):
    """Squares of a metre from ``x`` on, in the plane of x and y."""
    points = np.array([(x + i, j, 0.0) for i in range(nx + 1) for j in range(ny + 1)], float)
    a = np.array([i * (ny + 1) + j for i in range(nx) for j in range(ny)])
    corners = np.column_stack([a, a + ny + 1, a + ny + 2, a + 1]).ravel().astype(np.int32)
    offsets = np.arange(0, len(corners) + 1, 4, dtype=np.int32)
    surface = mesh_surface(Mesh(points, corners, offsets))
    return build_net(surface, points, surface.uv, corners, offsets)


def framed(net, meeting, source, border=TUBE):
    return from_net(net, TUBE, border, "centre", 0.0, meeting, source=source)


def of_members(structure, rows):
    """What is told of some members: places of their ends, set-backs, masses and sections."""
    first, last = structure.offsets[:-1], structure.offsets[1:] - 1
    told = [structure.axis_places[first], structure.axis_places[last], structure.set_back]
    names = np.array([structure.sections[k].name for k in structure.section_of])
    return np.column_stack([*told, structure.masses])[rows], names[rows].tolist()


@given(surfaces(), surfaces(), st.sampled_from([WELDED, BALLS]))
def test_what_was_there_keeps_its_numbers_and_all_that_is_told_of_it(first, second, meeting):
    base = framed(lay(first, "quads", (4, 3)), WELDED, "a", EDGE)
    more = framed(lay(second, "triangles", (3, 4)), meeting, "b")
    both = appended(base, more)
    nodes, members = len(base.places), base.count
    assert both.since == (nodes, members)
    assert both.count == members + more.count
    for structure, rows in ((base, slice(None, members)), (more, slice(members, None))):
        (mine, names), (now, named) = of_members(structure, slice(None)), of_members(both, rows)
        held_to(mine - now, 1e-9)
        assert names == named
    assert (both.nodes_on("a", np.arange(nodes)) == np.arange(nodes)).all()
    there = np.arange(len(more.places))
    assert (both.nodes_on("b", there) == there + nodes).all()
    alone, together = (names_of_structure(s) for s in (base, both))
    assert together.every_node[:nodes] == alone.every_node
    assert together.every_member[:members] == alone.every_member
    assert len(set(together.every_member)) == both.count
    # What it was told of its members is what it would find of them itself.
    anew = replace(both)
    for name in ("lengths", "square_back", "mean_lengths", "masses"):
        held_to(getattr(both, name) - getattr(anew, name), 1e-9)
    for name in ("far", "mean", "axis", "whole"):
        mine, own = getattr(both.cut_backs, name), getattr(anew.cut_backs, name)
        assert np.allclose(mine, own, atol=1e-9, equal_nan=True)


@known(
    "two sheets of squares joined along a side",
    "nodes, members and masses of the one sheet of both",
)
@pytest.mark.parametrize("meeting", [WELDED, BALLS, Meeting("hub", 0.01), Meeting(gap=0.02)])
def test_two_that_are_joined_are_as_the_whole(meeting):
    both = appended(framed(sheet(0, 3, 4), meeting, "a"), framed(sheet(3, 2, 4), meeting, "b"))
    done = joined(both, 0.001)
    whole = framed(sheet(0, 5, 4), meeting, "c")
    # Five nodes of the side, and the four members along it, stood there twice.
    assert (done.nodes, done.short, done.doubled) == (5, 0, 4)
    made = done.structure
    assert len(made.places) == len(whole.places)
    assert made.count == whole.count
    # Members along the side are of the border still, those of one sheet are not.
    inner = made.role != 1
    held_to(np.sort(made.masses).sum() - np.sort(whole.masses).sum(), 0.5)
    assert np.count_nonzero(inner) == np.count_nonzero(whole.role != 1) - 4
    held_to(np.sort(made.radius) - np.sort(whole.radius), 1e-9)
    side = made.nodes_on("b", np.arange(5))
    assert (side == made.nodes_on("a", np.arange(15, 20))).all()
    assert {MEETINGS[k] for k in made.meeting} <= {meeting.way, "apart"}


def test_members_meet_anew_only_where_nodes_were_joined():
    base = framed(lay(roof(), "quads", (5, 4)), WELDED, "a")
    moved = structures.structure(
        [base.places[0] + [0, 0, 0.004], base.places[0] + [0, 0, 2]],
        [{"path": [0, 1], "up": (1, 0, 0), "role": "column", "section": "CHS 168.3 × 6.3"}],
    )
    column = with_joints(moved, arms_of(moved), WELDED)
    made = joined(appended(base, column), 0.01).structure
    touched = (made.ends == 0).any(axis=1)
    assert np.array_equal(made.set_back[: base.count][~touched[:-1]], base.set_back[~touched[:-1]])
    # Both edges stop at the side of the column, which goes before them.
    assert (made.set_back[: base.count][made.ends[: base.count] == 0] > 0.07).all()
    assert made.cuts.end.tolist() == sorted(made.cuts.end.tolist())


def test_what_shrinks_and_what_runs_on():
    bent = structures.structure(
        [(0, 0, 0), (1, 0, 0), (1.004, 0, 0), (2, 0, 0), (0, 1, 0)],
        [{"path": [0, 1, 2, 3]}, {"path": [1, 2]}, {"path": [0, 4]}],
    )
    done = joined(bent, 0.01)
    assert (done.nodes, done.short, done.doubled) == (1, 1, 0)
    made = done.structure
    assert made.path.tolist() == [0, 1, 2, 0, 3]
    held_to(made.lengths - [2, 1], 1e-12)
    assert made.up.shape == (3, 3)
    held_to(nearest_nodes(bent) - 0.004, 1e-12)
    assert joined(bent, 0.001).structure is bent
    assert nearest_nodes(structures.structure([(0, 0, 0)], [{"path": [0, 0]}])) == np.inf
