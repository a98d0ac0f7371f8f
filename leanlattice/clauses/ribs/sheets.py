"""Ribs on sheets."""

from __future__ import annotations

import numpy as np

from ...core.flat.sheets import Sheets
from ...core.ribs.parts import Ribs
from ..base import Made, Notice, Remedy, Take, Work, listed, number
from ..sheets import CUT, ON_SHEETS, STOCKS, OnSheets
from .common import counted

__all__ = ["SetOutRibs"]


class SetOutRibs(OnSheets):
    kind = "rib-sheets"
    title = "Set ribs out on sheets"
    summary = (
        "Every rib as a flat part with its label and its partners' at the slots, nested on sheets."
    )
    sentence = "**Set out** {copies} of every rib on sheets of" + ON_SHEETS + CUT
    takes = (Take(name="ribs", type="Ribs", label="Ribs"), STOCKS)

    width: float = number(2500.0, "mm", 100.0, 30000.0, 10.0, "Sheet length")
    height: float = number(1250.0, "mm", 100.0, 30000.0, 10.0, "Sheet width")
    spacing: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Spacing", "Least distance between parts")

    def make(self, work: Work) -> Made:
        ribs: Ribs = work.inputs["ribs"]
        parts, without = ribs.parts
        layout = self.nested(parts, work)
        warnings = []
        off = [layout.parts[k].label for k in self.off(layout)]
        if off:
            which = counted(len(off), "rib is", "ribs are")
            room = [side - 2 * self.margin for side in sorted((self.width, self.height))]
            lengths = {"longest": room[1], "tallest": room[0]}
            splice = Remedy(f"Splice ribs longer than {room[1]:g} mm", lengths, "splice-ribs")
            warnings.append(
                Notice(
                    f"{which} larger than a sheet of {self.width:g} × {self.height:g} mm less its margin and left "
                    f"out: {listed(off, 6)}. A larger sheet works"
                    + ("." if ribs.whole else ", or to splice them."),
                    value="width",
                    remedies=() if ribs.whole else (splice,),
                )
            )
        if without:
            which = counted(len(without), "rib has", "ribs have")
            names = listed(parts[k].label for k in without)
            warnings.append(
                Notice(f"{which} no room for all names; they carry those that fit: {names}.")
            )
        sheets = Sheets(ribs, layout, np.arange(len(parts), dtype=np.int32))
        return Made(sheets, self.figures(layout), warnings + self.notices(layout))
