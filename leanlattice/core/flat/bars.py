"""Cutting members from stock bars."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..results import Result, result_type
from ..structure.names import names_of_structure
from ..structure.structure import Structure
from .lengths import cut_from_bars

__all__ = ["BarPlan", "plan_bars"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
MILLIMETRE, SAME = 1e-3, 1e-6


@result_type("BarPlan", "bars")
@dataclass(frozen=True, eq=False)
class BarPlan(Result):
    """Which bar each member (M,) is cut from, −1 where it is longer than all, and where on it it
    starts (m).

    Parameters
    ----------
    structure : whose members are cut
    stocks : lengths of bars in metres
    kerf : metres lost between two members
    bar, start : (M,) of the members
    section_of_bar : (bars,) positions in the structure's sections
    stock_of_bar : (bars,) positions in ``stocks``
    bound : metres of bars that no plan can do with less of
    """

    structure: Structure
    stocks: tuple[float, ...]
    kerf: float
    bar: Index
    start: Array
    section_of_bar: Index
    stock_of_bar: Index
    bound: float

    @property
    def longest(self) -> float:
        """The length of the longest bars in metres."""
        return max(self.stocks)

    @property
    def lengths(self) -> Array:
        """Metres (bars,) of each bar."""
        return np.array(self.stocks)[self.stock_of_bar]

    @property
    def order(self) -> NDArray[np.int64]:
        """Members (k,) that are cut, bar after bar, each from its start on."""
        on = np.flatnonzero(self.bar >= 0)
        return on[np.lexsort((self.start[on], self.bar[on]))]

    @property
    def offcuts(self) -> Array:
        """Metres (bars,) left of each bar behind its last member and a cut."""
        ends = np.zeros(len(self.section_of_bar))
        on = self.bar >= 0
        np.maximum.at(ends, self.bar[on], (self.start + self.structure.cut_lengths)[on])
        return np.maximum(self.lengths - ends - self.kerf, 0.0)

    def used(self) -> float:
        """Share of all bars' length that becomes members."""
        on = self.bar >= 0
        total = float(self.lengths.sum())
        return float(self.structure.cut_lengths[on].sum() / total) if total else 0.0


def plan_bars(
    structure: Structure, stocks: tuple[float, ...], kerf: float, search: bool = False
) -> BarPlan:
    """Members cut from bars of lengths ``stocks`` (m), section by section, to the millimetre, as
    ``cut_from_bars`` does.

    ``kerf`` (m) is lost between neighbours on a bar. Members without length are left out like those
    too long. With ``search`` better plans are looked for where the first may not be the best.
    """
    lengths = structure.cut_lengths
    bar, start = np.full(len(lengths), -1, np.int32), np.zeros(len(lengths))
    every = np.array(sorted(set(stocks)))
    rooms, whole = _millimetres(every + kerf), _millimetres(every)
    sections: list[int] = []
    kinds: list[int] = []
    bound = 0.0
    for s in range(len(structure.sections)):
        mine = _of_section(structure, s, float(every[-1]))
        needed = np.minimum(np.ceil((lengths[mine] + kerf) / MILLIMETRE - SAME), rooms[-1])
        cut = cut_from_bars(needed.astype(np.int32), rooms, whole, search)
        bar[mine] = cut.bar + len(sections)
        start[mine] = _starts(cut.bar, lengths[mine] + kerf)
        sections += [s] * len(cut.of)
        kinds += cut.of.tolist()
        bound += cut.bound * MILLIMETRE
    of, stock = np.array(sections, np.int32), np.array(kinds, np.int32)
    return BarPlan(structure, tuple(every.tolist()), kerf, bar, start, of, stock, bound)


def _millimetres(lengths: Array) -> Index:
    """Whole millimetres that lengths in metres hold."""
    return np.floor(lengths / MILLIMETRE + SAME).astype(np.int32)


def _of_section(structure: Structure, section: int, longest: float) -> NDArray[np.int64]:
    """Members of a section that can be cut from a bar, the longest first."""
    lengths, number = structure.cut_lengths, names_of_structure(structure).member
    fits = (structure.section_of == section) & (lengths > 0) & (lengths <= longest)
    mine = np.flatnonzero(fits)
    return mine[np.lexsort((number[mine], -lengths[mine]))]


def _starts(bar: Index, needed: Array) -> Array:
    """Where pieces (n,) start on their bars, one behind the other in their order."""
    order = np.argsort(bar, kind="stable")
    ends = np.cumsum(needed[order])
    first = np.searchsorted(bar[order], bar[order])
    before = np.concatenate([[0.0], ends])
    out = np.zeros(len(bar))
    out[order] = before[:-1] - before[first] if len(bar) else 0.0
    return out
