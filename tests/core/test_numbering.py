"""Bands of values, and types of things."""

from __future__ import annotations

import itertools

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.naming.numbering import bands, narrowest_bands, type_numbers

from ..known import held_to, known


@given(st.lists(st.floats(0, 10), min_size=1, max_size=60), st.floats(0.001, 2))
def test_bands_are_few_and_narrow(values, width):
    values = np.array(values)
    band = bands(values, width)
    ends = [(values[band == b].min(), values[band == b].max()) for b in range(band.max() + 1)]
    assert all(high - low <= width for low, high in ends)
    # Starting points of greedy bands lie more than a width apart, so no fewer bands would do.
    assert all(b[0] - a[0] > width for a, b in itertools.pairwise(ends))


def test_types_find_turned_copies_but_not_mirrored_ones():
    sides = np.array([[3.0, 4, 5, 4.5], [5, 4.5, 3, 4], [4, 3, 4.5, 5], [3, 4, 5, 4.6]])
    types, count = type_numbers(np.stack([sides, sides * 1.3], axis=2), 0.01)
    assert types[0] == types[1]
    assert len({types[0], types[2], types[3]}) == count == 3


@known("the narrowest bands of a few lengths", "the smallest width that so few bands can have")
def test_so_many_bands_are_as_narrow_as_can_be():
    values = np.array([1.0, 1.02, 1.05, 1.4, 1.41, 2.0, 2.08])
    found = narrowest_bands(values, 3)
    assert found.tolist() == [0, 0, 0, 1, 1, 2, 2]
    widest = max(np.ptp(values[found == k]) for k in range(3))
    held_to(widest - 0.08, 1e-6)
    assert narrowest_bands(values, 1).tolist() == [0] * 7
    assert narrowest_bands(values, 9).tolist() == list(range(7))
    assert narrowest_bands(np.zeros(0), 3).tolist() == []


@given(st.lists(st.floats(0.1, 9.0), min_size=1, max_size=30), st.integers(1, 8))
def test_no_narrower_bands_are_as_few(values, count):
    values = np.array(values)
    found = narrowest_bands(values, count)
    assert found.max() < count
    widest = max(np.ptp(values[found == k]) for k in np.unique(found))
    if widest > 1e-6:
        assert bands(values, widest * (1 - 1e-6)).max() >= count
