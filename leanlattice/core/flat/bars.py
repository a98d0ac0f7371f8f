"""Cutting members from stock bars."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result, result_type
from ..structure.names import names_of_structure
from ..structure.structure import Structure

__all__ = ["BarPlan", "plan_bars"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@result_type("BarPlan", "bars")
@dataclass(frozen=True, eq=False)
class BarPlan(Result):
    """Which bar each member (M,) is cut from, −1 where it is longer than a bar, and where on it it
    starts (m).

    ``section_of_bar`` (bars,) tells the section of a bar; ``stock`` and ``kerf`` in metres.
    """

    structure: Structure
    stock: float
    kerf: float
    bar: Index
    start: Array
    section_of_bar: Index

    def used(self) -> float:
        """Share of all bars' length that becomes members."""
        on = self.bar >= 0
        total = self.stock * len(self.section_of_bar)
        return float(self.structure.cut_lengths[on].sum() / total) if total else 0.0


MILLIMETRE = 1e-3
MOST_TRIED = 400
"""How many of the members still to be cut are tried for one bar."""


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


def plan_bars(structure: Structure, stock: float, kerf: float) -> BarPlan:
    """Bar after bar, section by section: the longest member left, and with it those that fill the
    bar best.

    Minimum bin slack (Gupta and Ho, 1999), each bar filled by subset sums to the millimetre.
    ``kerf`` is lost between neighbours on a bar. Members without length are left out like those too
    long.
    """
    number = names_of_structure(structure).member
    lengths = structure.cut_lengths
    bar, start = np.full(len(lengths), -1, np.int32), np.zeros(len(lengths))
    sections: list[int] = []
    room = int(np.floor((stock + kerf) / MILLIMETRE + 1e-6))
    for s in range(len(structure.sections)):
        mine = np.flatnonzero((structure.section_of == s) & (lengths > 0) & (lengths <= stock))
        queue = mine[np.lexsort((number[mine], -lengths[mine]))]
        while queue.size:
            tried = queue[:MOST_TRIED]
            sizes = np.ceil((lengths[tried] + kerf) / MILLIMETRE - 1e-6).astype(np.int32)
            taken = _fullest(np.minimum(sizes, room), room)
            on = tried[taken]
            bar[on] = len(sections)
            start[on] = np.concatenate([[0.0], np.cumsum(lengths[on] + kerf)[:-1]])
            sections.append(s)
            queue = np.concatenate([tried[~taken], queue[MOST_TRIED:]])
    return BarPlan(structure, stock, kerf, bar, start, np.array(sections, np.int32))
