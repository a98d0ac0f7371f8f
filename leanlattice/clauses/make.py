"""Chapter Make: labels, types and stock bars."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..core.flat.bars import BarPlan, plan_bars
from ..core.naming.labelled import Labelled, name_all
from ..core.panels.panels import Panels
from ..core.structure.structure import Structure
from .base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    headline,
    number,
)
from .panels import in_each_other

__all__ = ["CutBars", "Label"]


class Label(Clause):
    kind = "label"
    chapter = "Make"
    title = "Label and sort into types"
    summary = "Names that follow position, and types of members and panels that are equal within a tolerance."
    sentence = (
        "**Label** nodes, members and panels {series}, equal within {tolerance} being of one type."
    )
    takes = (
        Take(name="frame", types=("Structure",), label="Structure"),
        Take(name="panels", types=("Panels",), label="Panels", optional=True),
    )
    gives = "Labelled"

    series: Literal["", "A", "B", "C", "D"] = choice(
        "",
        {"": "without a series letter"} | {s: f"in series {s}" for s in "ABCD"},
        "Series",
        "A letter before all names, for a second structure in the same statement",
    )
    tolerance: float = number(1.0, "mm", 0.01, 200.0, 0.1, "Tolerance")

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["frame"]
        panels: Panels | None = work.inputs.get("panels")
        if panels is not None and set(panels.sources).isdisjoint(structure.sources):
            raise ClauseError(
                "The panels and the structure lie on different nets; choose both from the same one."
            )
        labelled = name_all(structure, panels, self.series, self.tolerance / 1000)
        figures = {
            "member_types": headline("Member types", int(labelled.member_type.max())),
            "tolerance": Figure("Equal within", self.tolerance, "mm", 2),
        }
        if panels:
            figures["panel_types"] = headline("Panel types", int(labelled.panel_type.max()))
        return Made(labelled, figures, in_each_other(panels, structure, "panels") if panels else [])


class CutBars(Clause):
    kind = "bars"
    chapter = "Make"
    title = "Cut members from stock bars"
    summary = "Which member is cut from which bar, so that little is left over."
    sentence = "**Cut** the members from bars of {stock}, losing {kerf} at each cut."
    takes = (Take(name="labelled", types=("Labelled",), label="Labels"),)
    gives = "BarPlan"
    drawn = False

    stock: float = number(12.0, "m", 0.1, 100.0, 0.1, "Stock length")
    kerf: float = number(
        4.0, "mm", 0.0, 50.0, 0.5, "Kerf", "What the saw takes away between two members"
    )

    def make(self, work: Work) -> Made:
        labelled: Labelled = work.inputs["labelled"]
        plan = plan_bars(labelled, self.stock, self.kerf / 1000)
        figures = {
            "bars": headline("Stock bars", len(plan.section_of_bar)),
            "bars_used": headline("Bar used", plan.used() * 100, "%", 0),
        }
        return Made(plan, figures, self._too_long(plan))

    def _too_long(self, plan: BarPlan) -> list[Notice]:
        lengths = plan.labelled.structure.cut_lengths
        long = np.flatnonzero(lengths > plan.stock)
        if not long.size:
            return []
        worst = int(long[np.argmax(lengths[long])])
        text = (
            f"{long.size} member{'s are' if long.size > 1 else ' is'} longer than a bar of {plan.stock:g} m, the "
            f"longest {plan.labelled.member_labels[worst]} with {lengths[worst]:.2f} m; longer bars or more "
            "bays would work."
        )
        return [Notice(text, "member", tuple(map(int, long[:2000])), value="stock")]
