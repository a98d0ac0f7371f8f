"""Cuts of ends that reach past the next bend."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.sections import find
from leanlattice.core.structure.cuts import Cuts, cut_backs, outlines_of
from leanlattice.core.structure.past_bends import past_bends

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
    past = past_bends(cut_lath(np.radians(80), 0.0, np.radians(10)))
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


def test_what_does_not_bend_or_is_not_cut_reaches_past_nothing():
    made = cut_lath(1.3, 0.0, 0.2)
    assert np.isneginf(past_bends(replace(made, cuts=Cuts.none()))).all()
    straight = structures.structure([(0, 0, 0), (1, 0, 0)], [{"path": [0, 1], "section": LATH}])
    assert np.isneginf(past_bends(replace(straight, cuts=made.cuts))).all()


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
