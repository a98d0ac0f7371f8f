"""Cuts of ends that reach past the next bend, or past each other."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.sections import find
from leanlattice.core.structure.cut_backs import cut_backs, outlines_of
from leanlattice.core.structure.cuts import Cuts
from leanlattice.core.structure.overrun import held_past_bends, overrun
from leanlattice.core.structure.solids import member_solids

from ..known import approx, held_to, known
from . import structures

LATH = "GL24h 140x60"
HALF = np.hypot(0.07, 0.03)


def cut_lath(angle, turn, bend, first=0.5, section=LATH):
    """A lath whose first end is cut by a plane ``angle`` off square, leaning to where ``turn``
    points in its section (0 across), and which bends in plan after ``first`` metres."""
    c, s = np.cos(bend), np.sin(bend)
    places = [(0, 0, 0), (first, 0, 0), (first + c, s, 0)]
    made = structures.structure(places, [{"path": [0, 1, 2], "section": section}])
    lean = np.array([0.0, np.cos(turn), np.sin(turn)])
    normal = np.sin(angle) * lean - np.cos(angle) * np.array([1.0, 0.0, 0.0])
    return replace(made, cuts=Cuts(np.array([0], np.int32), normal[None], np.zeros(1)))


@known(
    "a lath 140 × 60 mm cut 80° off square, which bends by 10° after 0.5 m",
    "the cut reaches 0.07 tan 80° + √(0.07² + 0.03²) tan 5° − 0.5 m past the bend",
)
def test_a_cut_along_a_lath_reaches_past_its_bend():
    past = overrun(cut_lath(np.radians(80), 0.0, np.radians(10)))
    assert np.isneginf(past[0, 1])
    wanted = 0.07 * np.tan(np.radians(80)) + HALF * np.tan(np.radians(5)) - 0.5
    held_to(past[0, 0] - wanted, 1e-9)


@given(
    st.floats(0, 1.4),
    st.floats(-3, 3),
    st.floats(-0.6, 0.6),
    st.sampled_from([LATH, "CHS 88.9 × 4", "SHS 100 × 5"]),
)
def test_where_all_of_a_section_is_there(angle, turn, bend, section):
    made = cut_lath(angle, turn, bend, section=section)
    whole = made.cut_backs.whole[0]
    ring = find(section).shape.outline(48)[0]
    # The plane passes the axis at the end: a place (y, z) lies tan(angle) times its lean behind it.
    behind = np.tan(angle) * (ring @ [np.cos(turn), np.sin(turn)])
    slack = 0.003 * np.tan(angle) * 0.05 + 1e-9 if "CHS" in section else 1e-9
    assert behind.max() <= whole + 1e-9
    assert whole <= behind.max() + slack
    assert np.isnan(made.cut_backs.whole[1])


def test_a_member_held_back_further_than_to_its_bend_is_told():
    made = replace(cut_lath(1.3, 0.0, 0.2), cuts=Cuts.none(), set_back=np.array([[0.6, 0.1]]))
    assert held_past_bends(made)[0] == approx([0.6 - 0.5, 0.1 - 1.0])
    assert np.isneginf(held_past_bends(cut_lath(1.3, 0.0, 0.2))[0, 0]), "planes cut it"
    straight = replace(tube(1.0), set_back=np.array([[2.0, 2.0]]))
    assert np.isneginf(held_past_bends(straight)).all()


def tube(length, *planes, section="CHS 88.9 × 4"):
    """A straight member along x whose ends are cut by planes: the end, and a direction out of the
    member."""
    made = structures.structure([(0, 0, 0), (length, 0, 0)], [{"path": [0, 1], "section": section}])
    normal = np.array([n for _, n in planes], float).reshape(-1, 3)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    ends = np.array([end for end, _ in planes], np.int32)
    return replace(made, cuts=Cuts(ends, normal, np.zeros(len(planes))))


@known("a tube of 88.9 mm, 0.08 m long, cut at 45° on one side", "two radii, less its length")
def test_cuts_of_a_short_tube_that_cross():
    same_side = tube(0.08, (0, (-1, 1, 0)), (1, (1, 1, 0)))
    held_to(overrun(same_side)[0] - (0.0889 - 0.08), 1e-9)
    # Parallel cuts leave as much at every place.
    held_to(overrun(tube(0.08, (0, (-1, 1, 0)), (1, (1, -1, 0))))[0] + 0.08, 1e-9)


@given(
    st.lists(st.tuples(st.floats(-1.2, 1.2), st.floats(-1.2, 1.2)), min_size=2, max_size=4),
    st.sampled_from([LATH, "SHS 100 × 5", "CHS 88.9 × 4"]),
    st.integers(0, 1),
)
def test_cuts_pass_each_other_where_nothing_is_left_between(slopes, section, first):
    half = len(slopes) // 2
    planes = [(0, (-1, y, z)) for y, z in slopes[:half]]
    planes += [(1, (1, y, z)) for y, z in slopes[half:]]
    length = 0.3
    made = tube(length, *planes, section=section)
    ring = find(section).shape.outline(96)[0]
    # Across x and up z, widths run along y: a plane (∓1, y, z) takes what lies along (y, z).
    side = np.cross([0.0, 0.0, 1.0], [1.0, 0.0, 0.0])
    flat = ring[:, :1] * side[1:] + ring[:, 1:] * np.array([0.0, 1.0])
    taken = [
        np.max([flat @ n[1:] for e, n in planes if e == end], axis=0, initial=-np.inf)
        for end in (0, 1)
    ]
    wanted = (taken[0] + taken[1]).max() - length
    found = overrun(made)[0].max()
    assert found == pytest.approx(wanted, abs=2e-4) or (np.isneginf(found) and wanted <= 2e-4)


def test_ends_that_no_plane_cuts_overrun_nothing():
    plain = structures.structure([(0, 0, 0), (1, 0, 0)], [{"path": [0, 1], "section": LATH}])
    assert np.isneginf(overrun(plain)).all()
    one = tube(0.02, (0, (-1, 0.5, 0)))
    assert overrun(one)[0, 0] == approx(0.0889 / 2 * 0.5 - 0.02)
    assert np.isneginf(overrun(tube(1.0, (0, (-1, 0.5, 0))))).all()


def test_the_second_of_two_planes_counts_where_it_takes_more():
    made = cut_lath(1.0, 0.0, 0.1)
    steeper = cut_lath(1.4, np.pi / 2, 0.1).cuts.normal
    normals = np.vstack([made.cuts.normal, steeper])
    both = replace(made, cuts=Cuts(np.zeros(2, np.int32), normals, np.zeros(2)))
    alone = replace(made, cuts=Cuts(np.zeros(1, np.int32), steeper, np.zeros(1)))
    expected = max(made.cut_backs.whole[0], alone.cut_backs.whole[0])
    assert both.cut_backs.whole[0] == approx(expected)


@pytest.mark.parametrize("count", [1, 3])
def test_nothing_is_cut_of_nothing(count):
    none = cut_backs(
        Cuts.none(),
        np.tile([1.0, 0, 0], (count, 1)),
        np.tile([0, 0, 1.0], (count, 1)),
        np.zeros(count, np.int32),
        np.ones(count),
        outlines_of((find(LATH),)),
    )
    assert np.isnan(none.whole).all()


@known(
    "square bar b, L long on its axis, cut at both ends by slopes t that cross",
    "b t (L / 2 t + b / 2)²",
)
@given(st.floats(0.02, 0.09), st.floats(1.0, 3.0))
def test_what_crossing_cuts_leave_is_cut_out_of_the_whole(length, slope):
    bar = structures.structure(
        [(0, 0, 0), (length, 0, 0)], [{"path": [0, 1], "section": "Timber 100 × 100"}]
    )
    normals = np.array([[-1.0, 0.0, slope], [1.0, 0.0, slope]]) / np.hypot(1.0, slope)
    cut = replace(bar, cuts=Cuts(np.arange(2, dtype=np.int32), normals, np.zeros(2)))
    assert overrun(cut).max() == pytest.approx(0.1 * slope - length)
    ((_, vertices, triangles),) = member_solids(cut)
    p = vertices[triangles]
    volume = np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6
    wanted = 0.1 * slope * (length / (2 * slope) + 0.05) ** 2
    held_to(volume / wanted - 1, 1e-9)
    assert (vertices @ normals.T - [0, length * normals[1, 0]]).max() < 1e-9
