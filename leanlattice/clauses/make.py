"""Chapter Make: names, types and stock bars."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np

from ..core.flat.bars import BarPlan, plan_bars
from ..core.structure.names import names_of_structure
from ..core.structure.structure import Structure
from .base import (
    TO_COME,
    Clause,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    headline,
    number,
)
from .catalogue import SERIES
from .frame.common import structure_figures
from .said import metres

__all__ = ["CutBars", "Name"]


class Name(Clause):
    kind = "name"
    chapter = "Make"
    title = "Name and sort into types"
    summary = "The series of a structure's names, and how much members of one type may differ."
    sentence = (
        "**Name** nodes and members {series}, those equal within {tolerance} being of one type."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "Structure"
    keeps_numbers = True

    series: Literal["kept", "", "A", "B", "C", "D"] = choice(
        "kept", {"kept": "as they are"} | SERIES, "Series", "A letter before all names"
    )
    tolerance: float = number(1.0, "mm", 0.01, 200.0, 0.1, "Tolerance")

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        series = structure.series if self.series == "kept" else self.series
        named = replace(structure, series=series, tolerance=self.tolerance / 1000)
        figures = {
            "member_types": TO_COME,
            "tolerance": Figure("Equal within", self.tolerance, "mm", 2),
        }
        return Made(named, figures | structure_figures(named), later=partial(_types, named))


def _types(
    structure: Structure, check: Callable[[], None]
) -> tuple[dict[str, Figure], list[Notice]]:
    """How many types there are; to tell what members are alike takes longer than a hand waits."""
    types = int(names_of_structure(structure).member_type.max())
    return {"member_types": headline("Member types", types)}, []


class CutBars(Clause):
    kind = "bars"
    chapter = "Make"
    title = "Cut members from stock bars"
    summary = "Which member is cut from which bar, so that little is left over."
    sentence = (
        "**Cut** the members from bars of {stock}[lengths=two,three| or {second}][lengths=three| or "
        "{third}], {lengths}¦, losing {kerf} at each cut and keeping offcuts of {offcut} or more, "
        "{search}."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "BarPlan"
    drawn = False

    stock: float = number(12.0, "m", 0.1, 100.0, 0.1, "Stock length")
    lengths: Literal["one", "two", "three"] = choice(
        "one",
        {"one": "of one length", "two": "of two lengths", "three": "of three lengths"},
        "Lengths",
    )
    second: float = number(6.0, "m", 0.1, 100.0, 0.1, "Second stock length")
    third: float = number(8.0, "m", 0.1, 100.0, 0.1, "Third stock length")
    kerf: float = number(
        4.0, "mm", 0.0, 50.0, 0.5, "Kerf", "What the saw takes away between two members"
    )

    offcut: float = number(
        1.0, "m", 0.0, 100.0, 0.1, "Least offcut", "Shorter ones are thrown away"
    )
    search: Literal["first", "best"] = choice(
        "first",
        {"first": "bar after bar", "best": "searched for as little as can be"},
        "Search",
        "A search takes some seconds where members are of many lengths",
    )

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        every = (self.stock, self.second, self.third)
        stocks = every[: ("one", "two", "three").index(self.lengths) + 1]
        plan = plan_bars(structure, stocks, self.kerf / 1000, self.search == "best")
        kept = plan.offcuts[plan.offcuts >= max(self.offcut, 1e-9)]
        bought = float(plan.lengths.sum())
        figures = {
            "bars": headline("Stock bars", len(plan.section_of_bar)),
            "bars_used": headline("Bar used", plan.used() * 100, "%", 0),
            "bought": Figure("Length of bars", bought, "m", 1),
            "least": Figure("No plan takes less than", plan.bound, "m", 1),
            "kept": Figure("Offcuts kept", len(kept)),
            "kept_length": Figure("Length of offcuts kept", float(kept.sum()), "m", 1),
        }
        return Made(plan, figures, self._too_long(plan))

    def _too_long(self, plan: BarPlan) -> list[Notice]:
        lengths = plan.structure.cut_lengths
        long = np.flatnonzero(lengths > plan.longest)
        if not long.size:
            return []
        worst = int(long[np.argmax(lengths[long])])
        label = names_of_structure(plan.structure).members(np.array([worst]))[0]
        text = (
            f"{long.size} member{'s are' if long.size > 1 else ' is'} longer than a bar of "
            f"{metres(plan.longest)}, the "
            f"longest {label} with {metres(lengths[worst], '.2f')}; longer bars or more "
            "bays would work."
        )
        which = tuple(map(int, long[:2000]))
        return [Notice(text, "member", which, value="stock", input="structure")]
