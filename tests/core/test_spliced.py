"""Members in lengths: as long together as before, none too long, and spliced where others are not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.geometry.drawing import path_of
from leanlattice.core.geometry.lines import line_of
from leanlattice.core.geometry.paths import Frame2, PlaneCurve
from leanlattice.core.geometry.surfaces import dome
from leanlattice.core.nets.strands import families_of
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.builders.along_lines import along_lines
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.crossings import crossings_of
from leanlattice.core.structure.meetings import MEETINGS, Meeting
from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.spliced import splice_places, spliced, turns_taken

from ..conftest import surfaces
from ..known import approx, held_to, known
from . import structures
from .test_joined import sheet

LATH = find("GL24h 140x60")
X, Y, Z = np.eye(3)


def beam(kind, at, section="GL24h 140x240"):
    line = line_of(PlaneCurve(path_of(kind, at), Frame2(np.zeros(3), X, Z)), 0.001)
    return along_lines([line], find(section), "arch", Meeting("welded"), 0.001)


def parts(structure, **values):
    every = np.ones(structure.count, bool)
    given = {"longest": 6.0, "lap": 0.0, "clear": 0.15} | values
    return spliced(structure, every, **given)


@given(
    st.lists(st.floats(0.05, 7.0), min_size=1, max_size=30),
    st.floats(1.0, 9.0),
    st.floats(0.0, 0.5),
    st.booleans(),
)
def test_no_piece_is_too_long_and_splices_keep_clear(steps, longest, clear, second):
    stops = np.concatenate([[0.0], np.cumsum(steps)])
    places = splice_places(stops, longest, clear, second)
    pieces = np.diff(np.concatenate([[0.0], places, stops[-1:]]))
    assert (pieces > 0).all()
    assert pieces.max() <= longest * (1 + 1e-6) + 1e-6
    # Not many more than are needed.
    assert len(pieces) <= 2 * np.ceil(stops[-1] / longest) + 1
    if min(steps) > 2 * clear and longest > 2 * max(steps) + 2 * clear:
        assert np.abs(places[:, None] - stops).min(initial=np.inf) >= clear - 1e-9


@known("Beam of 21 m in pieces of 6 m", "4 butted; 6 m long with laps of 0.75 m: 21 / 4 + 0.75")
def test_pieces_of_a_beam():
    base = beam("line", [[0, 0], [21, 0]])
    butted = parts(base, staggered=False).structure
    assert butted.cut_lengths == approx([5.25] * 4, rel=1e-9)
    lapped = parts(base, staggered=False, lap=0.75).structure
    assert lapped.cut_lengths == approx([5.625, 6.0, 6.0, 5.625], rel=1e-9)
    # A slant gives to one piece what it takes of the other.
    assert lapped.masses.sum() == approx(base.masses.sum(), rel=1e-9)
    assert MEETINGS[lapped.meeting[-1]] == "scarf"


@pytest.mark.parametrize("lap", [0.0, 0.6])
def test_pieces_of_an_arch_fill_it_and_are_as_heavy_as_listed(lap):
    base = beam("arc", [[-9, 0], [0, 4], [9, 0]])
    done = parts(base, longest=7.0, lap=lap)
    made = done.structure
    assert made.lengths.sum() == pytest.approx(base.lengths.sum(), rel=1e-9)
    assert made.cut_lengths.max() <= 7.0 + 0.05
    structures.weighs_what_is_listed(made)
    held_to(made.masses.sum() / base.masses.sum() - 1, 1e-9)
    # A slant would not stay within an arc.
    assert done.butted == (done.splices if lap else 0)
    names = names_of_structure(made)
    assert names.every_member[0] == names_of_structure(base).every_member[0]


@given(surfaces(), st.floats(0.8, 4.0), st.sampled_from([0.0, 0.2]))
def test_structures_of_nets_in_lengths(surface, longest, lap):
    net = lay(surface, "quads", (6, 5))
    base = from_net(net, LATH, LATH, "centre", 0.0, Meeting("welded"), source="net")
    made = parts(base, longest=longest, lap=lap).structure
    nodes = len(base.places)
    held_to(made.lengths.sum() - base.lengths.sum(), 1e-9 * base.lengths.sum())
    is_piece = np.arange(made.count) >= base.count
    is_piece[: base.count] = base.cut_lengths > longest + 1e-9
    assert (made.lengths[is_piece] <= longest - lap + 1e-6).all()
    assert (made.lengths[~is_piece] == base.lengths[~is_piece[: base.count]]).all()
    # Where they met before, members end as they did.
    for member, end in np.argwhere(base.ends < nodes).tolist():
        last = member if end == 0 else _last_piece(made, base, member)
        held_to(made.set_back[last, end] - base.set_back[member, end], 1e-9)


def _last_piece(made, base, member):
    """The piece that a member's last end belongs to."""
    node = base.ends[member, 1]
    axis = base.axis_places[base.offsets[member + 1] - 1] - base.middles[member]
    ends = np.flatnonzero(made.ends[:, 1] == node)
    ways = made.axis_places[made.offsets[1:][ends] - 1] - made.middles[ends]
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    return ends[np.argmax(ways @ axis / np.linalg.norm(axis))]


def test_laths_beside_each_other_take_turns():
    net = sheet(0.0, 5, 4)
    base = from_net(
        net, LATH, LATH, "centre", 0.0, Meeting("apart"), through=families_of(net).passing_ends(0)
    )
    second = turns_taken(base)
    # Inner lines of the sheet run one way; along the other way there are single edges.
    long = np.flatnonzero(np.diff(base.offsets) > 2)
    order = long[np.argsort(base.middles[long] @ [1.0, 10.0, 0.0])]
    assert len(order) >= 3
    turns = second[order]
    assert (turns[1:] != turns[:-1]).all()


@known("Laths of 140 × 60 mm that cross at 90° on levels 60 mm apart", "contact over 0.14² m²")
@pytest.mark.parametrize(
    ("thickness", "kind"), [(0.06, "contact"), (0.05, "notch"), (0.1, "block")]
)
def test_crossings_on_levels(thickness, kind):
    members = [
        {"path": [0, 1, 2], "section": LATH.name, "offset": (0, 0, thickness / 2)},
        {"path": [3, 1, 4], "section": LATH.name, "offset": (0, 0, -thickness / 2)},
    ]
    places = [(-1, 0, 0), (0, 0, 0), (1, 0, 0), (0, -1, 0), (0, 1, 0)]
    found = crossings_of(structures.structure(places, members, normals=[(0, 0, 1.0)] * 5))
    assert found.kind.tolist() == [kind]
    assert (found.node.tolist(), found.over.tolist(), found.under.tolist()) == ([1], [0], [1])
    assert found.clear[0] == approx(thickness - 0.06, abs=1e-12)
    assert found.area[0] == approx(0.14**2, rel=1e-12)
    assert found.angle[0] == approx(np.pi / 2, rel=1e-12)


def test_members_that_meet_in_one_level_do_not_cross():
    net = lay(dome(12.0, 3.0, np.zeros(3)), "quads", (4, 4))
    base = from_net(net, LATH, LATH, "top", 0.0, Meeting("welded"))
    assert len(crossings_of(base).node) == 0
