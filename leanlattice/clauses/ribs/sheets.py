"""Ribs on sheets."""

from __future__ import annotations

import numpy as np

from ...core.flat.sheets import Sheets, set_out_rows
from ...core.ribs.parts import Ribs, rib_parts
from ..base import Figure, Made, Notice, Take, Work, number
from ..make import OnSheets
from .common import counted

__all__ = ["SetOutRibs"]


class SetOutRibs(OnSheets):
    kind = "rib-sheets"
    title = "Set ribs out on sheets"
    summary = "Every rib as a flat part with its label and its partners' at the slots, in rows on sheets."
    sentence = (
        "**Set out** the ribs on sheets of {width} × {height}, {spacing} apart and {margin} from the sheet's edge."
    )
    takes = (Take(name="ribs", type="Ribs", label="Ribs"),)

    width: float = number(2500.0, "mm", 100.0, 30000.0, 10.0, "Sheet length")
    height: float = number(1250.0, "mm", 100.0, 30000.0, 10.0, "Sheet width")
    spacing: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Spacing", "Least distance between parts")

    def make(self, work: Work) -> Made:
        ribs: Ribs = work.inputs["ribs"]
        stock = self.stock()
        parts, without = rib_parts(ribs)
        layout = set_out_rows(parts, stock, work.progress)
        on = layout.sheet >= 0
        figures = {
            "parts": Figure("Flat parts", int(on.sum())),
            "sheets": Figure("Sheets", layout.sheet_count),
            "used": Figure("Sheet used", float(layout.used().mean() * 100) if on.any() else 0.0, "%", 0),
            "cut_length": Figure("Cutting length", sum(p.cut_length for p in parts) / 1000, "m", 1),
        }
        warnings = []
        off = [parts[k].label for k in np.flatnonzero(~on)]
        if off:
            which = counted(len(off), "rib is", "ribs are")
            warnings.append(Notice(f"{which} larger than a sheet of {self.width:g} × {self.height:g} mm less its margin and left "
                                   f"out: {', '.join(off[:6])}. A larger sheet works.", value="width"))  # fmt: skip
        if without:
            which = counted(len(without), "rib has", "ribs have")
            names = ", ".join(parts[k].label for k in without[:6])
            warnings.append(Notice(f"{which} no room for all names; they carry those that fit: {names}."))
        return Made(Sheets(ribs, layout, np.arange(len(parts), dtype=np.int32)), figures, warnings)
