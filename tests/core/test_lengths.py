"""Pieces cut from bars: plans that hold, bounds that are bounds, and known optima."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from leanlattice.core.flat.lengths import cut_from_bars

from ..known import known

KERF = 4


def cut(sizes, stocks, search=True, kerf=KERF):
    sizes, stocks = np.array(sizes, np.int32), np.array(stocks, np.int32)
    found = cut_from_bars(sizes + kerf, stocks + kerf, stocks, search)
    used = np.bincount(found.bar, sizes + kerf, len(found.of)) - kerf
    assert (used <= stocks[found.of]).all()
    assert (used > 0).all()
    total = int(stocks[found.of].sum())
    assert total >= found.bound >= sizes.sum()
    return found, total


@known("the rolls of Gilmore and Gomory: 97, 610, 395, 211 of 45, 36, 31, 14 from 100", "453 bars")
def test_a_known_plan_is_found_and_proven():
    sizes = np.repeat([45, 36, 31, 14], [97, 610, 395, 211])
    found, total = cut(sizes, [100], kerf=0)
    assert total == 453 * 100 == found.bound


def test_pieces_of_which_no_two_fit_a_bar_are_proven_to_need_one_each():
    found, total = cut([7000, 7100, 6500, 6900], [12000])
    assert total == found.bound == 4 * 12000
    # A sum of lengths alone would let one believe in three.
    assert cut([7000, 7100, 6500, 6900], [12000], search=False)[0].bound == 3 * 12000


def test_of_several_lengths_the_shorter_are_taken_where_they_do():
    found, total = cut([5900, 5900, 5900], [6000, 12000], kerf=0)
    assert total == found.bound == 18000
    assert cut([2000] * 4, [8000, 12000], kerf=0)[1] == 8000
    # What a mixed plan needs, neither length alone has.
    _, mixed = cut([7900, 5900, 5900], [6000, 8000], kerf=0)
    assert mixed == 8000 + 6000 + 6000


@settings(max_examples=25)
@given(
    st.lists(st.integers(300, 5990), min_size=1, max_size=40),
    st.lists(st.sampled_from([6000, 8000, 12000]), min_size=1, max_size=3, unique=True),
    st.booleans(),
)
def test_every_plan_holds_and_a_search_makes_none_worse(sizes, stocks, search):
    stocks = sorted(stocks)
    _, total = cut(sizes, stocks, search)
    _, first = cut(sizes, stocks, search=False)
    assert total <= first
    _, again = cut(sizes, stocks, search)
    assert again == total


@known("2,000 members of even lengths from 0.8 to 3.5 m", "within one bar of the bound")
def test_many_pieces_come_within_a_bar_of_the_bound():
    sizes = np.random.default_rng(2).uniform(800, 3500, 2000).astype(int)
    found, total = cut(sizes, [12000], search=False)
    assert total - found.bound <= 12000


@pytest.mark.parametrize("search", [False, True])
def test_nothing_to_cut_takes_no_bars(search):
    found = cut_from_bars(
        *(np.zeros(0, np.int32), np.array([6000], np.int32)), np.array([6000]), search
    )
    assert len(found.of) == 0
    assert found.bound == 0
