"""The clause that works the edges of panels: rounded corners, and holes for what holds them."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..core.panels.edges import APART, BESIDE, Edges
from ..core.panels.outlines import PanelOutlines, outlines_of_panels
from ..core.panels.panels import Panels
from .base import Clause, ClauseError, Figure, Made, Notice, Take, Work, choice, headline, number
from .said import mm
from .twisted import twist_figures

__all__ = ["WorkPanelEdges"]

EXACT = 1e-9
"""What of a least distance numbers may lack that were reckoned."""


class WorkPanelEdges(Clause):
    kind = "panel-edges"
    chapter = "Make"
    title = "Work the edges of panels"
    summary = "Panels with rounded corners, and holes near their edges for what holds them."
    sentence = (
        "**Work** the edges of panels: corners {corners}[corners=round| to {radius}], {holes}"
        "[holes=corners,sides| of {hole}, {rim} from the edges]"
        "[holes=sides| and at most {spacing} apart]."
    )
    takes = (Take(name="panels", types=("Panels",), label="Panels"),)
    gives = "Panels"

    corners: Literal["sharp", "round"] = choice(
        "round", {"sharp": "left sharp", "round": "rounded"}, "Corners"
    )
    radius: float = number(30.0, "mm", 0.1, 2000.0, 1.0, "Radius")
    holes: Literal["none", "corners", "sides"] = choice(
        "none",
        {
            "none": "no holes",
            "corners": "a hole in each corner",
            "sides": "holes along all sides",
        },
        "Holes",
        "Those along sides stand in the corners too, evenly between these",
    )
    hole: float = number(9.0, "mm", 0.5, 500.0, 0.5, "Diameter")
    rim: float = number(
        25.0, "mm", 0.5, 2000.0, 1.0, "Distance from edges", "Of the middle of a hole"
    )
    spacing: float = number(
        300.0, "mm", 1.0, 20_000.0, 10.0, "Spacing", "From middle to middle, at most"
    )

    def make(self, work: Work) -> Made:
        panels: Panels = work.inputs["panels"]
        made = replace(panels, edges=self._edges())
        cut = outlines_of_panels(made)
        bare = np.flatnonzero(cut.left & ~cut.done)
        return Made(made, self._figures(made, cut), self._told(made, bare))

    def _edges(self) -> Edges:
        """What is wanted, in metres; raises ``ClauseError`` where holes are nowhere to be had."""
        radius = self.radius / 1000 if self.corners == "round" else 0.0
        if self.holes == "none":
            return Edges(radius)
        least = BESIDE * self.hole
        if self.rim < least * (1 - EXACT):
            raise ClauseError(
                f"Holes of {mm(self.hole)}, their middles {mm(self.rim)} from edges, leave too "
                f"little beside them; {mm(least, '.4g')}, {BESIDE:g} times as much as they "
                "measure, "
                "or more would work.",
                "rim",
            )
        if self.holes == "corners":
            return Edges(radius, self.hole / 1000, self.rim / 1000)
        if self.spacing / 2 < APART * self.hole * (1 - EXACT):
            # Between two corners there may be twice as many as would be needed, just about.
            raise ClauseError(
                f"Holes of {mm(self.hole)} may come nearer to each other than {APART:g} times as "
                f"much where they stand at most {mm(self.spacing)} apart; "
                f"{mm(2 * APART * self.hole, '.4g')} or more would work.",
                "spacing",
            )
        return Edges(radius, self.hole / 1000, self.rim / 1000, self.spacing / 1000)

    def _figures(self, panels: Panels, cut: PanelOutlines) -> dict[str, Figure]:
        holes = sum(len(own) for own in cut.holes)
        return {
            "panels": headline("Panels", panels.count),
            "worked": headline("Panels worked", int(cut.done.sum())),
            "holes": headline("Holes", holes),
            "area": headline("Panel area", float(panels.areas.sum()), "m²", 1),
            "corner_radius": Figure("Radius of corners", panels.edges.radius * 1000, "mm", 1),
            "mass": Figure("Panel mass", float(panels.masses.sum()), "kg", 0),
        } | twist_figures(panels)

    def _told(self, panels: Panels, bare: NDArray[np.int64]) -> list[Notice]:
        """What is said of panels (k,), by their positions, without room for it."""
        if not bare.size:
            return []
        smallest = int(bare[np.argmin(panels.areas[bare])])
        own = slice(*panels.offsets[smallest : smallest + 2].tolist())
        x, y, z = panels.places[panels.corners[own]].mean(axis=0).tolist()
        return [
            Notice.coded(
                "edges without room",
                {"panels": bare.size, "wanted": self._wanted(), "smaller": self._smaller()},
                of="panel",
                which=tuple(map(int, bare[:2000])),
                at=(x, y, z),
                value="radius" if self.holes == "none" else "rim",
            )
        ]

    def _wanted(self) -> str:
        rounded = f"corners of {mm(self.radius)} radius" if self.corners == "round" else ""
        holes = f"holes of {mm(self.hole)}, {mm(self.rim)} from their edges"
        return " and ".join(filter(None, [rounded, holes if self.holes != "none" else ""]))

    def _smaller(self) -> str:
        rounded = "a smaller radius" if self.corners == "round" else ""
        holes = "smaller holes, or others further from the edges" if self.holes != "none" else ""
        return ", ".join(filter(None, [rounded, holes]))
