"""Cutting members from stock bars."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..framing.naming import Labelled

__all__ = ["BarPlan", "plan_bars"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class BarPlan:
    """Which bar each member (M,) is cut from, −1 where it is longer than a bar, and where on it it starts (m).

    ``section_of_bar`` (bars,) tells the section of a bar; ``stock`` and ``kerf`` in metres.
    """

    labelled: Labelled
    stock: float
    kerf: float
    bar: Index
    start: Array
    section_of_bar: Index

    def used(self) -> float:
        """Share of all bars' length that becomes members."""
        on = self.bar >= 0
        total = self.stock * len(self.section_of_bar)
        return float(self.labelled.frame.cut_lengths[on].sum() / total) if total else 0.0


def plan_bars(labelled: Labelled, stock: float, kerf: float) -> BarPlan:
    """Best-fit decreasing, section by section (Johnson, 1974): the longest first, each onto the bar it leaves least of.

    ``kerf`` is lost between neighbours on a bar. Members without length are left out like those too long.
    """
    frame = labelled.frame
    lengths = frame.cut_lengths
    bar, start = np.full(len(lengths), -1, np.int32), np.zeros(len(lengths))
    sections: list[int] = []
    for s in range(len(frame.sections)):
        left = np.zeros(0)
        first = len(sections)
        mine = np.flatnonzero((frame.section_of == s) & (lengths > 0) & (lengths <= stock))
        for m in mine[np.lexsort((labelled.member[mine], -lengths[mine]))]:
            fitting = np.flatnonzero(left >= lengths[m] - 1e-9)
            if fitting.size:
                k = int(fitting[np.argmin(left[fitting])])
            else:
                k, left = len(left), np.append(left, stock)
                sections.append(s)
            bar[m], start[m] = first + k, stock - left[k]
            left[k] -= lengths[m] + kerf
    return BarPlan(labelled, stock, kerf, bar, start, np.array(sections, np.int32))
