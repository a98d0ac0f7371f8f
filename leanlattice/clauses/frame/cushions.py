"""The clause that covers cells of a net with cushions of two foils."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np

from ...core.geometry.nets import Net
from ...core.materials import FILMS, MATERIALS
from ...core.solids.cushions import Cushions, Foils, blown
from ...core.solids.solids import Solids
from ..base import (
    TO_COME,
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Work,
    choice,
    counted,
    number,
)
from ..catalogue import SERIES
from ..lattice.common import check_size, place_of
from ..said import mm
from ..solids import figures_of, types_of
from .common import CELLS, NET, CellsWanted, marked_cells

__all__ = ["BlowCushions"]

POINTS = 130
"""Corners of an average cushion, by which too many are refused."""


class BlowCushions(Clause):
    kind = "cushions"
    chapter = "Frame"
    title = "Cover with cushions"
    builds = "cushions"
    summary = "Two foils over each cell with air between, raised to a share of its span."
    sentence = (
        "**Cover** {cells} with cushions of {thickness} {material}, raised to {up} of the span and "
        "hung by {down}¦, held {held} in from the net's edges. Faces are within {within} of the "
        "foils; named {series}, those equal within {alike} being of one type."
    )
    takes = (NET,)
    gives = "Solids"

    cells: CellsWanted = choice("all", CELLS, "Cells")
    thickness: float = number(0.25, "mm", 0.01, 10.0, 0.05, "Thickness of each foil")
    material: str = choice("ETFE", {name: MATERIALS[name].title for name in FILMS}, "Material")
    up: float = number(
        12.0, "%", 0.0, 100.0, 1.0, "Rise", "Of the widest circle about a cell's middle"
    )
    down: float = number(8.0, "%", 0.0, 100.0, 1.0, "Sag", "Of the lower foil, likewise")
    held: float = number(
        60.0, "mm", 0.0, 2000.0, 5.0, "Held in", "From the net to where foils are clamped"
    )
    within: float = number(
        3.0, "mm", 0.1, 500.0, 0.5, "Within", "Faces are flat, and off the foils by no more"
    )
    series: Literal["", "A", "B", "C", "D"] = choice("", SERIES, "Series")
    alike: float = number(
        1.0, "mm", 0.01, 200.0, 0.1, "Tolerance of types", "What cushions of one type may differ by"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        if self.up + self.down == 0:
            raise ClauseError(
                "Between foils that neither rise nor hang there is no air; a rise or a sag above 0 "
                "% works.",
                "up",
            )
        chosen = marked_cells(net, self.cells)
        check_size(int(chosen.sum()) * POINTS // 20, "cells")
        foils = Foils(
            self.up / 100,
            self.down / 100,
            self.held / 1000,
            self.material,
            self.thickness / 1000,
            self.within / 1000,
        )
        found = blown(net, chosen, foils)
        if not found.solids.count:
            raise self._none(net, found)
        solids = replace(found.solids, series=self.series, tolerance=self.alike / 1000)
        figures = self._figures(solids)
        return Made(solids, figures, self._left_out(net, found), partial(types_of, solids))

    def _figures(self, solids: Solids) -> dict[str, Figure]:
        figures = figures_of(solids)
        figures["volume"] = replace(figures["volume"], label="Air")
        figures["rise"] = Figure("Highest cushion", float(solids.sizes[:, 2].max()), "m", 3)
        return figures | {"solid_types": TO_COME}

    def _none(self, net: Net, found: Cushions) -> ClauseError:
        if len(found.without_room):
            return ClauseError(
                f"Held {mm(self.held)} in, nothing is left of any cell; less would work, or "
                "larger cells.",
                "held",
                net.cell_means[found.without_room[0]],
            )
        return ClauseError(
            "Cells are bent in so far that no middle sees its whole border; cells parted into "
            "convex ones would work.",
            "cells",
            net.cell_means[found.bent_in[0]],
        )

    def _left_out(self, net: Net, found: Cushions) -> list[Notice]:
        narrow = (
            f"too narrow for foils held {mm(self.held)} in and left out; less, or larger cells, "
            "would work."
        )
        bent = (
            f"bent in, or of sides too short for foils held {mm(self.held)} in, and left out; less "
            "would work, or cells parted into convex ones."
        )
        told = ((found.without_room, narrow, "held"), (found.bent_in, bent, "held"))
        return [self._told(net, cells.tolist(), *words) for cells, *words in told if len(cells)]

    def _told(self, net: Net, cells: Sequence[int], text: str, value: str) -> Notice:
        count = counted(len(cells), "cell is", "cells are")
        at = place_of(np.asarray(net.cell_means[cells[0]]))
        return Notice(f"{count} {text}", "cell", tuple(cells[:2000]), at, value)
