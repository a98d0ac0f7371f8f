"""Lintels over openings in courses."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.solids.lintels import NoBearing, with_lintels

from .test_courses import hemisphere, laid


def door(wide, high):
    """What tells of places whether they are in a door of the hemisphere towards y below 0."""
    return lambda places: (
        (np.abs(places[:, 0]) < wide / 2) & (places[:, 2] < high) & (places[:, 1] < 0)
    )


def covered(run, course):
    """How often each step of a course is in a block."""
    out = np.zeros(run.steps, int)
    for k in np.flatnonzero((run.course <= course) & (run.upto >= course)):
        np.add.at(out, np.arange(run.first[k], run.last[k]) % run.steps, 1)
    return out


@settings(max_examples=15)
@given(st.floats(0.6, 4.0), st.floats(0.5, 4.5), st.floats(0.0, 1.0))
def test_a_lintel_rests_on_both_sides_and_courses_stay_whole(wide, high, bearing):
    laying, run, _ = laid(hemisphere(), courses=8, blocks=32, key=True)
    joined, (lintel,) = with_lintels(laying, run, door(wide, high), bearing)
    for course in range(8):
        assert (covered(joined, course) == 1).all()
    assert lintel.width >= 2 * bearing + 0.9 * min(wide, 2 * np.sqrt(36 - high**2))
    wider = (joined.upto > joined.course) | (joined.last - joined.first > run.steps // 32)
    # Where one block is wide enough, it is the lintel.
    assert wider.sum() <= 1
    top = laying.levels[lintel.upto + 1]
    assert np.sin(np.pi / 2 * top) * 6 > high - 0.35


def test_no_lintel_where_nothing_is_open_or_nothing_is_above():
    laying, run, _ = laid(hemisphere(), courses=4, blocks=12, key=True)
    assert with_lintels(laying, run, door(0.0, 1.0), 0.2) == (run, [])
    assert with_lintels(laying, run, door(1.0, 9.0), 0.2)[1] == []


def test_an_opening_all_round_has_no_lintel():
    laying, run, _ = laid(hemisphere(), courses=4, blocks=12, key=True)
    with pytest.raises(NoBearing):
        with_lintels(laying, run, lambda places: places[:, 2] < 1, 0.2)


def test_a_passage_has_a_lintel_at_both_its_ends():
    laying, run, _ = laid(hemisphere(), courses=8, blocks=32, key=True)
    joined, lintels = with_lintels(
        laying, run, lambda places: (np.abs(places[:, 0]) < 0.9) & (places[:, 2] < 1.5), 0.2
    )
    assert len(lintels) == 2
    assert {int(np.sign(lintel.top[1])) for lintel in lintels} == {-1, 1}
    for course in range(8):
        assert (covered(joined, course) == 1).all()
    # A passage along x goes through where courses begin and end.
    _, lintels = with_lintels(
        laying, run, lambda places: (np.abs(places[:, 1]) < 0.9) & (places[:, 2] < 1.5), 0.2
    )
    assert len(lintels) == 2
    assert max(lintel.width for lintel in lintels) < 4


def test_lintels_that_meet_become_one():
    laying, run, _ = laid(hemisphere(), courses=8, blocks=32, key=True)
    run, (low,) = with_lintels(laying, run, door(1.5, 1.9), 0.2)
    above = door(1.2, 3.0)
    run, (high,) = with_lintels(laying, run, above, 0.2)
    for course in range(8):
        assert (covered(run, course) == 1).all()
    run, (both,) = with_lintels(laying, run, door(1.2, 2.6), 0.2)
    for course in range(8):
        assert (covered(run, course) == 1).all()
    assert both.course <= low.upto
    assert both.upto >= high.course
