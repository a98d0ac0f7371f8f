"""Better arrangements looked for: other orders of parts and other turns, as long as one lets it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .nesting import EIGHTHS, Nest, nest_by, score
from .sheets import Kept, Layout

__all__ = ["nest_better"]

Index = NDArray[np.int64]


@dataclass
class _Search:
    """Orders of parts, their turns (−1 for the best) and the choice of turns, the one gone on from
    with its score, and the best layout."""

    made: Nest
    kept: Kept | None
    order: Index
    turn: Index
    choice: int
    at: tuple[int, float, float]
    best: Layout
    better: Callable[[Layout], None]

    def tries(self, order: Index, turn: Index, choice: int) -> None:
        """Goes on from a layout that is no worse, and tells of one that is better."""
        layout = nest_by(self.made, choice, self.kept, order, turn, self.at)
        if layout is None or score(layout) > self.at:
            return
        found = score(layout)
        better = found < self.at
        self.order, self.turn, self.choice, self.at = order, turn, choice, found
        if better:
            self.best = replace(layout, cutting=self.best.cutting)
            self.better(self.best)


def nest_better(
    made: Nest,
    start: Layout,
    goes_on: Callable[[], bool],
    better: Callable[[Layout], None],
    seed: int = 1,
) -> Layout:
    """Looks for better arrangements of what ``made`` holds than ``start`` while ``goes_on``: other
    orders of parts and turns, by a ``seed``, of which those that do no worse are gone on from
    (local search on the order of placement, see Gomes and Oliveira, 2002); ``better`` hears of each
    better one. Pinned parts stay."""
    rng = np.random.default_rng(seed)
    kept = Kept.of(start, start.pinned) if start.pinned.any() else None
    count = len(made.parts)
    free, start = np.full(count, -1), replace(start, made=made)
    order = np.lexsort((start.shift[:, 0], start.sheet))
    search = _Search(made, kept, order, free, 0, score(start), start, better)
    for first in (made.size, made.length, made.length * made.size):
        for choice in range(len(made.choices)):
            if goes_on():
                search.tries(np.lexsort((np.arange(count), -first)), free, choice)
    while count > 1 and goes_on():
        order, turn = search.order.copy(), search.turn.copy()
        for _ in range(rng.integers(1, 4)):
            a, b = rng.integers(0, count, 2)
            if rng.random() < 0.5:
                order[[a, b]] = order[[b, a]]
            else:
                order = np.insert(np.delete(order, a), b, order[a])
        if rng.random() < 0.3:
            turn[rng.integers(0, count)] = rng.integers(-1, len(EIGHTHS))
        search.tries(order, turn, search.choice)
    return search.best
