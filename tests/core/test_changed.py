"""Members changed later are as if they had been made so; what is left out was never there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.sections.graded import sizes_between
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.changed import turned, with_sections, without
from leanlattice.core.structure.chosen import Chosen, cells_beside
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.roles import role_number

from ..conftest import surfaces
from ..known import approx, held_to, known
from . import structures
from .test_joined import sheet

TUBE, BOX = find("CHS 88.9 × 4"), find("RHS 200 × 100 × 6.3")
EDGE = find("CHS 139.7 × 5")
MEETINGS = st.sampled_from(
    [Meeting("welded"), Meeting("apart", 0.01), Meeting("ball", 0.005, "each", 0.06)]
)


def same(one, other, within=1e-9):
    """Two structures whose members lie, stand, end and weigh alike."""
    assert [one.sections[k].name for k in one.section_of] == [
        other.sections[k].name for k in other.section_of
    ]
    assert (one.path == other.path).all()
    held_to(one.axis_places - other.axis_places, within)
    held_to(one.up - other.up, within)
    held_to(one.set_back - other.set_back, within)
    held_to(one.masses - other.masses, 1e-6)


@given(surfaces(), st.sampled_from(["top", "centre", "bottom"]), MEETINGS)
def test_a_section_given_later_is_as_one_given_at_once(surface, set_out, meeting):
    net = lay(surface, "triangles", (4, 3))
    base = from_net(net, TUBE, EDGE, set_out, 0.0, meeting, source="net")
    wanted = from_net(net, BOX, EDGE, set_out, 0.0, meeting, source="net")
    grid = Chosen("role", role="grid").members(base)
    made = with_sections(base, (BOX,), np.where(grid, 0, -1).astype(np.int32))
    same(made, wanted)
    back = with_sections(made, (TUBE,), np.where(grid, 0, -1).astype(np.int32))
    same(back, base)


@given(surfaces(), st.floats(-3, 3), MEETINGS)
def test_members_turned_later_are_as_those_turned_at_once(surface, angle, meeting):
    net = lay(surface, "quads", (4, 3))
    base = from_net(net, BOX, BOX, "top", 0.0, meeting, source="net")
    wanted = from_net(net, BOX, BOX, "top", angle, meeting, source="net")
    every = np.ones(base.count, bool)
    same(turned(base, every, base.up, angle), wanted, 1e-8)


@given(surfaces(), MEETINGS, st.data())
def test_what_is_left_is_as_if_the_rest_had_never_been(surface, meeting, data):
    net = lay(surface, "triangles", (4, 3))
    base = from_net(net, BOX, EDGE, "centre", 0.0, meeting, source="net")
    gone = np.zeros(base.count, bool)
    gone[sorted(data.draw(st.sets(st.integers(1, base.count - 1))))] = True
    left, kept = without(base, gone)
    assert left.count == base.count - int(gone.sum())
    assert len(left.places) == int(kept.sum()) == len(np.unique(left.path))
    held_to(left.axis_places - base.axis_places[~gone[base.member_of_entry]], 0)
    number = np.arange(len(net.vertices), dtype=np.int32)
    assert (left.nodes_on("net", number)[kept] == np.arange(kept.sum())).all()
    assert (left.nodes_on("net", number)[~kept] == -1).all()
    # At nodes where nothing went, ends are where they were.
    touched = np.isin(base.ends[~gone], base.path[gone[base.member_of_entry]])
    held_to((left.set_back - base.set_back[~gone])[~touched], 1e-12)
    # Shorter set-backs at most: fewer members crowd each node.
    if meeting.way == "apart":
        assert (left.set_back <= base.set_back[~gone] + 1e-9).all()


def test_straight_members_stand_one_way_all_along():
    base = structures.structure(
        [(0, 0, 0), (2, 0, 0), (5, 0, 0)], [{"path": [0, 1, 2], "section": "RHS 200 × 100 × 6.3"}]
    )
    towards = np.array([[0.0, 1.0, 1.0], [0.0, 3.0, 1.0]])
    made = turned(base, np.ones(1, bool), towards, 0.0)
    held_to(made.up[0] - made.up[1], 0)
    structures.weighs_what_is_listed(made)


@known("Largest cell beside each member of a sheet of rectangles", "its area")
def test_cells_beside():
    net = sheet(0.0, 3, 2)
    stretched = np.where(net.vertices[:, 0] > 1.5, net.vertices[:, 0] * 2 - 1, net.vertices[:, 0])
    vertices = np.column_stack([stretched, net.vertices[:, 1:]])
    wide = type(net)(**{**vars(sheet(0.0, 3, 2)), "vertices": vertices})
    base = from_net(wide, TUBE, EDGE, "centre", 0.0, Meeting("apart"), source="net")
    beside = cells_beside(base, wide, "net")
    # Columns of cells are 1, 2 and 2 metres wide.
    middle = base.middles[:, 0]
    assert beside == approx(np.where(middle < 0.9, 1.0, 2.0), rel=1e-12)
    assert np.isnan(cells_beside(base, wide, "another")).all()


@pytest.mark.parametrize("which", ["length", "heights", "around"])
def test_members_between_two_limits(which):
    net = sheet(0.0, 4, 4)
    net = type(net)(**{**vars(net), "vertices": net.vertices * [1.0, 1.0, 0] + [0, 0, 2.0]})
    base = from_net(net, TUBE, EDGE, "centre", 0.0, Meeting("apart"), source="net")
    place = np.array([[0.0, 0.0, 2.0]])
    chosen = Chosen(which, low=1.0, high=2.0, places=place)
    values = {
        "length": np.ones(base.count),
        "heights": np.full(base.count, 2.0),
        "around": np.linalg.norm(base.middles - place, axis=1),
    }[which]
    assert (chosen.members(base) == ((values >= 1.0) & (values <= 2.0))).all()


def test_the_last_members_and_edges_are_meant():
    base = from_net(sheet(0.0, 2, 2), TUBE, EDGE, "centre", 0.0, Meeting("apart"))
    assert Chosen("last").members(base).all()
    of_edge = Chosen("section", section=EDGE.name).members(base)
    assert (of_edge == (base.role == role_number("edge"))).all()
    assert of_edge.sum() == 8


@given(st.integers(2, 12))
def test_sizes_grow_from_the_thinnest_to_the_thickest(steps):
    thin, thick = find("CHS 60.3 × 4 S235"), find("CHS 219.1 × 8 S235")
    sizes = sizes_between(thin, thick, steps)
    assert sizes[0] == thin
    assert sizes[-1] == thick
    assert 2 <= len(sizes) <= steps
    assert (np.diff([s.mass for s in sizes]) > 0).all()
    assert {s.material.name for s in sizes} == {"S235"}
    with pytest.raises(ValueError, match="families"):
        sizes_between(find("CHS 60.3 × 4"), BOX, 3)
