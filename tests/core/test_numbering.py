"""Bands of values, and types of things."""

from __future__ import annotations

import itertools

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.core.naming.numbering import bands, type_numbers


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
