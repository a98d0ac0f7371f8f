"""Angles of folds written on flat parts."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.flat.fold_angles import angle_text, with_angles
from leanlattice.core.flat.folds import Folds
from leanlattice.core.flat.lettering import lettered
from leanlattice.core.flat.parts import Part

SQUARE = np.array([[0.0, 0], [300, 0], [300, 200], [0, 200]])


def part(marks=()):
    return Part("ST1", "strip", SQUARE, np.eye(4), "aluminium", 2.0, marks=marks)


def folds(ends, turns, of=None):
    ends = np.array(ends, float) / 1000
    of = np.zeros(len(ends), np.int32) if of is None else np.array(of, np.int32)
    return Folds(of, ends, np.array(turns, float), np.full(len(ends), -1, np.int32))


def written(part, before=0):
    """All that is written on a part, as one figure."""
    return shapely.MultiLineString(list(part.marks[before:]))


def test_an_angle_is_written_beside_its_fold_on_the_side_that_is_folded_last():
    (up,) = with_angles([part()], folds([[(100, 20), (100, 180)]], [12.345]))
    assert len(up.marks) == len(lettered("+12.3", 6.0, np.zeros(2), 0.0)[0])
    box = written(up)
    # The left of a line that leads up; as high as it may be, and read along it.
    assert 90 < box.bounds[0] < box.bounds[2] < 100
    assert box.centroid.y == pytest.approx(100, abs=2)
    assert box.bounds[3] - box.bounds[1] > 2 * (box.bounds[2] - box.bounds[0])
    (down,) = with_angles([part()], folds([[(100, 180), (100, 20)]], [-3.0]))
    assert 100 < written(down).bounds[0] < written(down).bounds[2] < 110


@pytest.mark.parametrize(
    ("turn", "text"), [(12.34, "+12.3"), (-0.06, "-0.1"), (90.0, "+90.0"), (-90.04, "-90.0")]
)
def test_angles_tell_to_which_side(turn, text):
    assert angle_text(turn) == text


def test_what_is_flat_or_has_no_room_has_none_and_stays_as_it_is():
    flat = folds([[(100, 20), (100, 180)]], [0.01])
    assert with_angles([part()], flat)[0].marks == ()
    short = folds([[(1, 1), (1, 3)]], [30.0])
    one = part()
    assert with_angles([one], short)[0].marks == one.marks
    assert with_angles([], folds(np.zeros((0, 2, 2)), [])) == ()


@given(
    st.lists(
        st.tuples(st.floats(20, 280), st.floats(10, 190), st.floats(20, 280), st.floats(10, 190)),
        min_size=1,
        max_size=8,
    )
)
def test_angles_keep_clear_of_outlines_of_names_and_of_each_other(lines):
    name = tuple(lettered("ST1", 40.0, np.array([150.0, 100.0]), 0.0)[0])
    ends = [[(a, b), (c, d)] for a, b, c, d in lines]
    (made,) = with_angles([part(name)], folds(ends, [10.0 + k for k in range(len(ends))]))
    assert made.marks[: len(name)] == name
    new = made.marks[len(name) :]
    for line in new:
        own = shapely.LineString(line)
        assert shapely.Polygon(SQUARE).contains_properly(own)
        for stroke in name:
            assert not own.intersects(shapely.LineString(stroke).envelope)
    # Each kind of text is as many strokes as it takes, and no two share a place.
    counts = [len(lettered(angle_text(10.0 + k), 5.0, np.zeros(2), 0.0)[0]) for k in range(8)]
    assert len(new) <= sum(counts[: len(ends)])


def test_angles_go_to_the_part_they_are_of():
    ends = [[(100, 20), (100, 180)], [(200, 20), (200, 180)]]
    none, both = with_angles([part(), part()], folds(ends, [10, 20], of=[1, 1]))
    assert none.marks == ()
    count = sum(len(lettered(t, 6.0, np.zeros(2), 0.0)[0]) for t in ("+10.0", "+20.0"))
    assert len(both.marks) == count
