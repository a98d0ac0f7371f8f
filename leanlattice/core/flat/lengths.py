"""Pieces cut from bars of one or several lengths, so that as little as can be is bought."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["Cutting", "cut_from_bars"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
MOST_TRIED = 400
"""How many of the pieces still to be cut are tried for one bar."""
MOST_SIZES = 300
"""Different sizes up to which whole plans are looked for by integer programming."""
MOST_ROUNDS = 400
"""Rounds in which patterns are added to what bars may be cut to."""
MOST_NODES = 100
"""Of the search for a whole plan: the same on every machine."""
MOST_SECONDS = 6.0
PRICED = 1e-9
ENOUGH = 1.005
"""Times a bound that a plan is looked for no further from."""


class Cutting(NamedTuple):
    """How pieces (n) are cut: the ``bar`` (n,) of each, which stock (b,) each bar is ``of``, and
    the length that no plan can do with less of, the ``bound``, in the unit of lengths."""

    bar: Index
    of: Index
    bound: float


def cut_from_bars(needed: Index, rooms: Index, stocks: Index, search: bool) -> Cutting:
    """Pieces cut from bars, of which the total length is as small as is found.

    Bar after bar, by minimum bin slack (Gupta and Ho, 1999): the longest piece left, and with it
    those that fill the bar best. Where a better plan is to be searched for, and the bound leaves
    room for one, by patterns: those that the linear relaxation would buy are generated one by one
    (Gilmore and Gomory, 1961), which gives a bound as well (Farley, 1990), and whole numbers of
    them found by branch and bound.

    Parameters
    ----------
    needed : (n,) lengths of pieces in millimetres with what is lost beside each, none more than
        the largest room
    rooms : (s,) lengths of bars with what would be lost beside the last piece
    stocks : (s,) lengths of bars in millimetres, as many as wanted of each
    search : whether to search for a better plan
    """
    if not len(needed):
        return Cutting(np.zeros(0, np.int32), np.zeros(0, np.int32), 0.0)
    best = min(_plans(needed, rooms, stocks), key=lambda plan: stocks[plan[1]].sum())
    bound = float(needed.sum() * (stocks / rooms).min())
    total = float(stocks[best[1]].sum())
    few = len(np.unique(needed)) <= MOST_SIZES
    if search and few and total > _next_total(bound, stocks):
        found, proven = _by_patterns(needed, rooms, stocks, best)
        bound = max(bound, proven)
        if stocks[found[1]].sum() < total:
            best = found
    return Cutting(*best, _next_total(bound, stocks))


def _next_total(bound: float, stocks: Index) -> float:
    """The least length of whole bars that is not below a bound."""
    step = float(np.gcd.reduce(stocks))
    return float(np.ceil(bound / step - 1e-9) * step)


def _plans(needed: Index, rooms: Index, stocks: Index) -> list[tuple[Index, Index]]:
    """Plans that fill bar after bar: from all stocks, and from each alone that every piece fits."""
    every = np.arange(len(stocks), dtype=np.int32)
    fits = [np.array([k], np.int32) for k in every if rooms[k] >= needed.max()]
    kinds = [every, *fits] if len(stocks) > 1 else [every]
    return [_shortened(*_filled(needed, rooms, stocks, kind), needed, rooms) for kind in kinds]


def _filled(needed: Index, rooms: Index, stocks: Index, kinds: Index) -> tuple[Index, Index]:
    """Bar after bar of some kinds of stock, each time the one that is used best."""
    queue = np.argsort(-needed, kind="stable").astype(np.int32)
    of: list[int] = []
    bar = np.zeros(len(needed), np.int32)
    while queue.size:
        # Of many some of all sizes, as long ones alone would leave much of a bar.
        spread = np.unique(np.linspace(0, len(queue) - 1, MOST_TRIED).astype(np.int32))
        tried = queue[spread] if len(queue) > MOST_TRIED else queue
        own = needed[tried]
        best, chosen, kind = -1.0, np.zeros(0, bool), 0
        for k in kinds.tolist():
            if rooms[k] < own[0]:
                continue
            taken = _fullest(np.minimum(own, rooms[k]), int(rooms[k]))
            share = float(own[taken].sum() / stocks[k])
            if share > best + PRICED:
                best, chosen, kind = share, taken, k
        bar[tried[chosen]] = len(of)
        of.append(kind)
        queue = queue[~np.isin(queue, tried[chosen])]
    return bar, np.array(of, np.int32)


def _shortened(bar: Index, of: Index, needed: Index, rooms: Index) -> tuple[Index, Index]:
    """The same pieces on the shortest bars that hold them."""
    used = np.bincount(bar, needed, len(of))
    order = np.argsort(rooms, kind="stable")
    place = np.searchsorted(rooms[order], used - 0.5)
    return bar, order[place].astype(np.int32)


@compiled
def _fullest(sizes: Index, room: int):  # type: ignore[no-untyped-def]
    """The subset of ``sizes`` with the first in it that fills ``room`` best, as a mask.

    Subset sums by dynamic programming: ``by[t]`` is the item whose arrival first made the sum t, so
    that the items behind a sum are found by walking down from it.
    """
    taken = np.zeros(len(sizes), np.bool_)
    taken[0] = True
    left = room - sizes[0]
    by = np.full(left + 1, -1, np.int32)
    by[0] = 0
    best = 0
    for i in range(1, len(sizes)):
        size = sizes[i]
        for total in range(left, size - 1, -1):
            if by[total] < 0 and by[total - size] >= 0:
                by[total] = i
                best = max(best, total)
        if best == left:
            break
    while best > 0:
        taken[by[best]] = True
        best -= sizes[by[best]]
    return taken


def _by_patterns(
    needed: Index, rooms: Index, stocks: Index, start: tuple[Index, Index]
) -> tuple[tuple[Index, Index], float]:
    """A plan of whole numbers of patterns, begun from those of a plan there is, and a bound."""
    sizes, number, demand = np.unique(needed, return_inverse=True, return_counts=True)
    patterns = _Patterns(sizes.astype(np.int32), demand.astype(np.int32), rooms, stocks)
    patterns.add_plan(number.ravel(), *start)
    enough = float(stocks[start[1]].sum()) / ENOUGH
    bound = patterns.generate(enough)
    counts = patterns.whole() if bound < enough else None
    if counts is None:
        return start, bound
    return patterns.plan(counts, number.ravel()), bound


class _Patterns:
    """Patterns that bars may be cut to: how many pieces of each of the ``sizes`` (m,), of which so
    many are in ``demand``, and from which stock."""

    def __init__(self, sizes: Index, demand: Index, rooms: Index, stocks: Index) -> None:
        self.sizes, self.demand, self.rooms, self.stocks = sizes, demand, rooms, stocks
        self.columns: list[Index] = []
        self.of: list[int] = []
        self._known: set[bytes] = set()

    def add(self, column: Index, of: int) -> bool:
        """Adds a pattern; whether it was new."""
        key = column.tobytes() + bytes([of])
        if key in self._known:
            return False
        self._known.add(key)
        self.columns.append(column)
        self.of.append(of)
        return True

    def add_plan(self, number: NDArray[np.integer], bar: Index, of: Index) -> None:
        """Adds the patterns of a plan for pieces of the sizes ``number`` (n,)."""
        counts = np.zeros((len(of), len(self.sizes)), np.int32)
        np.add.at(counts, (bar, number), 1)
        for column, kind in zip(counts, of.tolist(), strict=True):
            self.add(column, kind)

    def generate(self, enough: float) -> float:
        """Adds patterns until none would make the relaxation cheaper, or the bound is ``enough``;
        gives the bound."""
        bound = 0.0
        for _ in range(MOST_ROUNDS):
            price, total = self._relaxed()
            worth, added = 0.0, False
            for k, (room, stock) in enumerate(zip(self.rooms, self.stocks, strict=True)):
                column, value = _dearest(self.sizes, self.demand, price, int(room))
                worth = max(worth, value / float(stock))
                if value > stock * (1 + 1e-7):
                    added |= self.add(column, k)
            bound = max(bound, total / max(worth, 1.0))
            if not added or bound >= enough:
                break
        return bound

    def _matrix(self) -> tuple[Array, Array]:
        lengths = self.stocks[np.array(self.of)].astype(float)
        return np.array(self.columns, float).T, lengths

    def _relaxed(self) -> tuple[Array, float]:
        """What a piece of each size is worth in the relaxation, and what all cost."""
        matrix, lengths = self._matrix()
        found = scipy.optimize.linprog(lengths, -matrix, -self.demand.astype(float), method="highs")
        return np.maximum(-np.asarray(found.ineqlin.marginals), 0.0), float(found.fun or 0.0)

    def whole(self) -> NDArray[np.int64] | None:
        """How many bars of each pattern; ``None`` where nothing is found."""
        matrix, lengths = self._matrix()
        found = scipy.optimize.milp(
            lengths,
            integrality=np.ones(len(lengths), np.int8),
            bounds=scipy.optimize.Bounds(0, np.inf),
            constraints=scipy.optimize.LinearConstraint(matrix, self.demand, np.inf),
            options={"node_limit": MOST_NODES, "time_limit": MOST_SECONDS, "mip_rel_gap": 1e-4},
        )
        return None if found.x is None else np.round(found.x).astype(np.int64)

    def plan(self, counts: NDArray[np.int64], number: NDArray[np.integer]) -> tuple[Index, Index]:
        """The bar of each piece and what bars are of, so many of each pattern; pieces that patterns
        have too many of are left out, and bars that then are empty."""
        order = np.argsort(number, kind="stable")
        left = [own.tolist() for own in np.split(order, np.cumsum(self.demand)[:-1])]
        of: list[int] = []
        bar = np.zeros(len(number), np.int32)
        for column, kind, count in zip(self.columns, self.of, counts.tolist(), strict=True):
            for _ in range(count):
                taken = [
                    left[i].pop()
                    for i in np.flatnonzero(column).tolist()
                    for _ in range(min(int(column[i]), len(left[i])))
                ]
                if taken:
                    bar[taken] = len(of)
                    of.append(kind)
        needed = self.sizes[number]
        return _shortened(bar, np.array(of, np.int32), needed, self.rooms)


def _dearest(sizes: Index, demand: Index, price: Array, room: int) -> tuple[Index, float]:
    """The pattern worth most that fits a bar: how many of each size, no more than are in demand."""
    item, times = [], []
    for i in np.flatnonzero((price > PRICED) & (sizes <= room)).tolist():
        left = min(int(demand[i]), room // int(sizes[i]))
        step = 1
        # One, two, four … of a size at a time: any number is some of these.
        while left > 0:
            item.append(i)
            times.append(min(step, left))
            left -= times[-1]
            step *= 2
    column = np.zeros(len(sizes), np.int32)
    if not item:
        return column, 0.0
    index, count = np.array(item, np.int32), np.array(times, np.int32)
    weights, worth = (sizes[index] * count).astype(np.int32), price[index] * count
    taken, value = _knapsack(weights, worth, room)
    np.add.at(column, index[taken], count[taken])
    return column, float(value)


@compiled
def _knapsack(weights, worth, room):  # type: ignore[no-untyped-def]
    """Which items, of whole weights, are worth most together within a room, as a mask."""
    best = np.zeros(room + 1)
    took = np.zeros((len(weights), room + 1), np.bool_)
    for i in range(len(weights)):
        for total in range(room, weights[i] - 1, -1):
            value = best[total - weights[i]] + worth[i]
            if value > best[total] + 1e-12:
                best[total] = value
                took[i, total] = True
    taken = np.zeros(len(weights), np.bool_)
    left = room
    for i in range(len(weights) - 1, -1, -1):
        if took[i, left]:
            taken[i] = True
            left -= weights[i]
    return taken, best[room]
