"""Parallel slices of a body."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...core.ribs.lightened import drilled
from ...core.ribs.parts import Ribs
from ...core.ribs.planes import evenly, parallel
from ..base import ClauseError, Made, Notice, Work, choice, number, places
from ..shape.common import SHAPE, Place, body_needed, checked_points
from .common import UP, Family, RibClause, counted, extent_along, thickness_value

__all__ = ["Slices"]


class Slices(RibClause):
    kind = "slices"
    title = "Slices"
    summary = "Parallel slices of a body along any axis, stacked or apart, with holes for rods."
    sentence = (
        "**Slice** the body in {material}, {thickness} thick, along {azimuth} in plan and {rise} up, {way}[way=spaced| every "
        "{spacing}], {rods}[rods=at| {rod} across through {holes}, {wall} from edges]. Pieces under {least} are left out, "
        "and necks under {neck} are told."
    )
    takes = (SHAPE,)

    thickness: float = thickness_value("Thickness")
    azimuth: float = number(0.0, "°", -360.0, 360.0, 5.0, "Direction in plan")
    rise: float = number(90.0, "°", -90.0, 90.0, 5.0, "Rise", "90° slices it level by level")
    way: Literal["stacked", "spaced"] = choice("stacked", {"stacked": "stacked", "spaced": "apart,"}, "Way")
    spacing: float = number(0.1, "m", 0.001, 100.0, 0.01, "Spacing")
    rods: Literal["none", "at"] = choice("none", {"none": "without rods", "at": "with rods"}, "Rods")
    rod: float = number(10.0, "mm", 0.5, 500.0, 0.5, "Rod diameter")
    holes: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Rods", "Each runs along the axis through its place; drag them."
    )
    wall: float = number(15.0, "mm", 0.0, 1000.0, 1.0, "Least wall")

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "ribs are cut")
        a, r = np.radians(self.azimuth), np.radians(self.rise)
        axis = np.array([np.cos(a) * np.cos(r), np.sin(a) * np.cos(r), np.sin(r)])
        low, high = extent_along(body, axis)
        step = self.thickness / 1000 if self.way == "stacked" else self.spacing
        if step < self.thickness / 1000 - 1e-9:
            raise ClauseError(
                f"Slices {self.thickness:g} mm thick cannot stand {self.spacing * 1000:g} mm apart, middle to middle; "
                f"{self.thickness:g} mm or more works.", "spacing",
            )  # fmt: skip
        up = UP if abs(axis[2]) < 0.99 else np.array([0.0, 1.0, 0.0])
        family = Family(parallel(axis, up, evenly(low, high, None, step)), "A", self.thickness / 1000,
                         "thickness" if self.way == "stacked" else "spacing")  # fmt: skip
        cut = self.cut(body, family, work)
        ribs, warnings = cut.ribs, self.told(cut, family.value)
        if self.rods == "at":
            at = checked_points(self.holes, 1, 200, "rods", "holes")
            ribs, thin = drilled(ribs, [np.stack([p, p + axis]) for p in at], self.rod / 2000, self.wall / 1000)
            if thin:
                which = counted(len(thin), "hole is", "holes are")
                warnings.append(Notice(f"{which} left out for want of {self.wall:g} mm to an edge: {', '.join(thin[:6])}.",
                                       value="wall"))  # fmt: skip
        return self.made(Ribs(tuple(ribs), (), self.material, ("A",)), body, warnings)
