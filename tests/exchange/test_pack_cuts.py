"""Where ends of tubes that swell are met by what cuts them."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from leanlattice.exchange.checks.pack_cuts import _first_beyond

VALUES = st.lists(st.integers(-4, 4), min_size=2, max_size=7)


@given(VALUES, st.integers(0, 2**32 - 1))
def test_lines_are_met_where_values_first_come_to_be_more_than_nothing(first, seed):
    run = np.cumsum(np.random.default_rng(seed).uniform(0.1, 1.0, len(first)))
    # Every line begins before what it meets.
    values = np.array([[-1, *first[1:]], [-3, *first[:0:-1]]], float)
    for line, met in zip(values, _first_beyond(values, run), strict=True):
        assert np.isclose(met, np.interp(0.0, np.maximum.accumulate(line), run))
