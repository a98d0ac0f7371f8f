"""Chapter Make: labels, types, flat parts and sheets."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.flat.bars import BarPlan, plan_bars
from ..core.flat.parts import panel_parts
from ..core.flat.sheets import Layout, Sheets
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
    listed,
    number,
)
from .frame import in_each_other
from .sheets import CUT, ON_SHEETS, STOCKS, OnSheets

__all__ = ["CutBars", "Label", "SetOutSheets"]


class Label(Clause):
    kind = "label"
    chapter = "Make"
    title = "Label and sort into types"
    summary = "Names that follow position, and types of members and panels that are equal within a tolerance."
    sentence = (
        "**Label** nodes, members and panels {series}, equal within {tolerance} being of one type."
    )
    takes = (
        Take(name="frame", type="Structure", label="Structure"),
        Take(name="panels", type="Panels", label="Panels", optional=True),
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


class SetOutSheets(OnSheets):
    kind = "sheets"
    title = "Set panels out on sheets"
    summary = "Every panel as a flat part with its names, nested on sheets."
    sentence = "**Set out** {copies} of every panel on sheets of" + ON_SHEETS + CUT
    takes = (Take(name="labelled", type="Labelled", label="Labels"), STOCKS)

    def make(self, work: Work) -> Made:
        labelled: Labelled = work.inputs["labelled"]
        if labelled.panels is None:
            raise ClauseError(
                "There are no panels to set out; add a “Panel the cells” clause before the labels."
            )
        made = panel_parts(
            labelled.panels, labelled.panel_labels, lambda share: work.progress(share / 2)
        )
        layout = self.nested(
            made.parts, replace(work, progress=lambda share: work.progress((1 + share) / 2))
        )
        warnings = self._notices(
            labelled, made.too_small, made.unlabelled, layout, made.part_of_panel
        )
        return Made(
            Sheets(labelled, layout, made.part_of_panel),
            self.figures(layout),
            warnings + self.notices(layout),
        )

    def _notices(
        self,
        labelled: Labelled,
        too_small: list[int],
        unlabelled: list[int],
        layout: Layout,
        part_of: NDArray[np.int32],
    ) -> list[Notice]:
        off = [int(i) for i in np.flatnonzero((part_of >= 0) & (layout.sheet[part_of] < 0))]
        told = (
            (
                too_small,
                f"too small for a joint of {labelled.panels.joint * 1000 if labelled.panels else 0:g} mm and "
                "left out; a narrower joint or fewer bays would work",
                "margin",
            ),
            (
                off,
                f"larger than a sheet of {self.width:g} × {self.height:g} mm less its margin and left out; a larger "
                "sheet or more bays would work",
                "width",
            ),
            (unlabelled, "without room for all their names; they carry those that fit", None),
        )
        out = []
        for which, text, value in told:
            if which:
                names = listed((labelled.panel_labels[i] for i in which), 5)
                one = "is" if len(which) == 1 else "are"
                out.append(
                    Notice(
                        f"{len(which)} panel{'s' if len(which) > 1 else ''} ({names}) {one} {text}.",
                        "panel",
                        tuple(which[:2000]),
                        value=value,
                    )
                )
        return out


class CutBars(Clause):
    kind = "bars"
    chapter = "Make"
    title = "Cut members from stock bars"
    summary = "Which member is cut from which bar, so that little is left over."
    sentence = "**Cut** the members from bars of {stock}, losing {kerf} at each cut."
    takes = (Take(name="labelled", type="Labelled", label="Labels"),)
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
