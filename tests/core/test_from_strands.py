"""Structures along the strands of woven and reciprocal nets."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from leanlattice.core.nets.reciprocal import reciprocal
from leanlattice.core.nets.strands import woven
from leanlattice.core.patterns.lay import lay
from leanlattice.core.sections import find
from leanlattice.core.structure.arms import PASSAGE, arms_of, links_of
from leanlattice.core.structure.builders.from_net import from_net
from leanlattice.core.structure.meetings import Meeting
from leanlattice.core.structure.names import names_of_structure
from leanlattice.core.structure.roles import role_number

from ..conftest import SURFACES
from ..known import approx, held_to, known

LATH, RIM = find("Timber 120 × 40"), find("Timber 160 × 60")
LATHS, EDGES = role_number("lath"), role_number("edge")


def weave_of(name, pattern, bays, way, thickness=0.04):
    return woven(lay(SURFACES[name](), pattern, bays), way, 0.12, thickness).net


@known(
    "laths over a flat sheet of n × m squares",
    "n + m − 2 members, a link of a thickness a crossing",
)
def test_a_lath_is_one_member_from_border_to_border():
    net = weave_of("flat sheet", "quads", (6, 4), "alternate")
    made = from_net(net, LATH, RIM, "centre", 0.0, Meeting(gap=0.0))
    laths = made.role == LATHS
    assert np.count_nonzero(laths) == (6 - 1) + (4 - 1)
    assert np.count_nonzero(made.role == EDGES) == np.count_nonzero(net.border)
    arms = arms_of(made)
    crossings = (6 - 1) * (4 - 1)
    inner = np.isin(arms.member, np.flatnonzero(laths)) & (arms.end == PASSAGE)
    assert np.count_nonzero(inner) == 2 * crossings
    # The two at a crossing pass each other, a thickness apart along the normal.
    ways = links_of(arms).way
    assert len(ways) == crossings
    assert np.linalg.norm(ways, axis=1) == approx(np.full(crossings, 0.04), abs=1e-12)
    held_to(np.abs(ways[:, :2]).max(), 1e-12)
    # Over and under in turns along each lath.
    for m in np.flatnonzero(laths):
        level = made.offset[made.offsets[m] + 1 : made.offsets[m + 1] - 1, 2]
        assert (np.diff(np.sign(level)) != 0).all()


@known(
    "laths on levels over a flat sheet",
    "straight: the sum of their edges long, axes parallel to the sheet",
)
def test_laths_on_levels_stay_on_them():
    net = weave_of("flat sheet", "quads", (5, 7), "levels")
    made = from_net(net, LATH, RIM, "top", 0.0, Meeting(gap=0.0))
    laths = np.flatnonzero(made.role == LATHS)
    places = made.axis_places
    for m in laths:
        z = places[made.offsets[m] : made.offsets[m + 1], 2]
        held_to(np.ptp(z), 1e-12)
        assert abs(abs(z[0] + LATH.shape.height / 2) - 0.02) < 1e-12
    runs = [
        np.ptp(net.vertices[made.path[made.offsets[m] : made.offsets[m + 1]]], axis=0).max()
        for m in laths
    ]
    assert made.lengths[laths] == approx(np.array(runs), rel=1e-12)


@pytest.mark.parametrize("name", ["roof", "tube", "dome"])
def test_every_edge_is_of_one_member_and_heights_are_square_to_axes(name):
    net = weave_of(name, "quads", (6, 8), "alternate")
    made = from_net(net, LATH, RIM, "bottom", 0.3, Meeting(gap=0.005))
    start = made.first_entry
    pairs = np.sort(np.column_stack([made.path[start], made.path[start + 1]]), axis=1)
    assert len(pairs) == len(net.edges)
    assert (np.unique(pairs, axis=0) == np.unique(net.edges, axis=0)).all()
    assert np.abs(np.einsum("ij,ij->i", made.up, made.chords)).max() < 1e-3
    assert np.linalg.norm(made.up, axis=1) == pytest.approx(1)
    named = names_of_structure(made)
    assert len(set(named.every_member)) == made.count
    assert {label[0] for label in named.every_member} <= {"L", "E"}


@known(
    "reciprocal bars", "one member an edge of the net, stopped at the sides of those they rest on"
)
def test_a_reciprocal_bar_is_one_member_that_stops_at_the_side_of_another():
    net = lay(SURFACES["flat sheet"](), "quads", (6, 4))
    turned = reciprocal(net, np.radians(12.0)).net
    bar = find("Timber 60 × 100")
    made = from_net(turned, bar, RIM, "centre", 0.0, Meeting(gap=0.0))
    bars = made.role == LATHS
    assert np.count_nonzero(bars) == np.count_nonzero(~net.border)
    cut = from_net(replace(turned, weave=None), bar, RIM, "centre", 0.0, Meeting(gap=0.0))
    assert np.count_nonzero(bars) < np.count_nonzero(cut.role != EDGES) / 2
    arms = arms_of(made)
    found = [np.arange(a, b) for a, b in zip(arms.start[:-1], arms.start[1:], strict=True)]
    resting = [h for h in found if len(h) == 2 and np.count_nonzero(arms.end[h] == PASSAGE) == 1]
    assert len(resting) > 30
    for here in resting:
        (end,) = here[arms.end[here] != PASSAGE]
        (passage,) = here[arms.end[here] == PASSAGE]
        cosine = abs(float(arms.away[end] @ arms.away[passage]))
        sine = np.sqrt(1 - cosine**2)
        back = made.set_back[arms.member[end], arms.end[end]]
        half = bar.shape.width / 2
        assert back == approx((half + half * cosine) / sine, rel=1e-9)


def test_a_hoop_is_one_member_that_comes_back_to_where_it_begins():
    net = weave_of("tube", "quads", (8, 6), "levels")
    made = from_net(net, LATH, RIM, "centre", 0.0, Meeting(gap=0.0))
    hoops = made.ends[:, 0] == made.ends[:, 1]
    assert np.count_nonzero(hoops) > 0
    assert (np.diff(made.offsets)[hoops] == np.diff(made.offsets)[hoops][0]).all()
