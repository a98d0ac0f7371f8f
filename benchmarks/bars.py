"""Members cut from stock bars."""

from __future__ import annotations

import numpy as np

from leanlattice.core.flat.lengths import cut_from_bars

__all__ = ["bought_against_bound"]


def bought_against_bound() -> tuple[float, float]:
    """How much longer, as a share, bars of two lengths for 2,000 members of 300 lengths are than
    the least that no plan can do with less of: bar after bar, and searched for."""
    chance = np.random.default_rng(3)
    lengths = chance.integers(800, 3300, 300)
    needed = np.sort(chance.choice(lengths, 2000))[::-1].astype(np.int32)
    stocks = np.array([6000, 12_000], np.int32)
    totals = []
    for search in (False, True):
        cut = cut_from_bars(needed + 4, stocks + 4, stocks, search)
        totals.append(float(stocks[cut.of].sum()) / cut.bound)
    return totals[0], totals[1]
