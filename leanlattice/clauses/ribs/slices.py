"""Parallel slices of a body."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ...core.ribs.lightened import drilled, through
from ...core.ribs.parts import Ribs
from ...core.ribs.planes import evenly, parallel
from ...core.ribs.plates import Rib
from ..base import ClauseError, Figure, Made, Notice, Remedy, Work, choice, listed, number, places
from ..by_size import SPACINGS
from ..said import metres, mm
from ..shape.common import SHAPE, Place, body_needed, checked_points
from .common import UP, Family, RibClause, counted, extent_along, thickness_value

__all__ = ["Slices"]

Array = NDArray[np.float64]
MOST_RINGS = 2000


class Slices(RibClause):
    kind = "slices"
    title = "Slices"
    builds = "slices"
    summary = "Parallel slices of a body along any axis, stacked or apart, with holes for rods."
    sentence = (
        "**Slice** the body in {material}, {thickness} thick, along {azimuth} in plan and {rise} up, {way}[way=spaced| every "
        "{spacing}, {spacers}][spacers=rings| {ring} across], "
        "{rods}[rods=at| {rod} across through {holes}, {wall} from edges].¦ Pieces under {least} are left out, "
        "and necks under {neck} are told. Labels are {series}."
    )
    takes = (SHAPE,)

    thickness: float = thickness_value("Thickness")
    azimuth: float = number(0.0, "°", -360.0, 360.0, 5.0, "Direction in plan")
    rise: float = number(
        90.0,
        "°",
        -90.0,
        90.0,
        5.0,
        "Tilt",
        "How steep the axis is; at 90° it is sliced level by level",
    )
    way: Literal["stacked", "spaced"] = choice(
        "stacked", {"stacked": "stacked", "spaced": "apart,"}, "Way"
    )
    spacing: float = number(0.1, "m", 0.001, 100.0, 0.01, "Spacing", by_size=SPACINGS)
    spacers: Literal["none", "rings"] = choice(
        "none",
        {"none": "without spacers", "rings": "kept apart by rings on the rods"},
        "Spacers",
        "Rings of the same sheet, as many as fill the gap",
    )
    ring: float = number(60.0, "mm", 1.0, 1000.0, 1.0, "Ring diameter")
    rods: Literal["none", "at"] = choice(
        "none", {"none": "without rods", "at": "with rods"}, "Rods"
    )
    rod: float = number(10.0, "mm", 0.5, 500.0, 0.5, "Rod diameter")
    holes: list[Place] = places(
        lambda: [(0.0, 0.0, 0.0)], "Rods", "Each runs along the axis through its place; drag them."
    )
    wall: float = number(15.0, "mm", 0.0, 1000.0, 1.0, "Least wall")

    def make(self, work: Work) -> Made:
        body = body_needed(work.inputs["shape"], "Slicing works")
        a, r = np.radians(self.azimuth), np.radians(self.rise)
        axis = np.array([np.cos(a) * np.cos(r), np.sin(a) * np.cos(r), np.sin(r)])
        low, high = extent_along(body, axis)
        step = self.thickness / 1000 if self.way == "stacked" else self.spacing
        if step < self.thickness / 1000 - 1e-9:
            raise ClauseError(
                f"Slices {mm(self.thickness)} thick cannot stand {mm(self.spacing * 1000)} apart, "
                "middle to middle; "
                f"{mm(self.thickness)} or more works.",
                "spacing",
            )
        up = UP if abs(axis[2]) < 0.99 else np.array([0.0, 1.0, 0.0])
        family = Family(
            parallel(axis, up, evenly(low, high, None, step)),
            "A",
            self.thickness / 1000,
            "thickness" if self.way == "stacked" else "spacing",
        )
        cut = self.cut(body, family, work)
        ribs, warnings = cut.ribs, self.told(cut, family.value)
        if self.rods == "none":
            if self.way == "spaced" and self.spacers == "rings":
                raise ClauseError(
                    "Rings need rods to sit on; choose “with rods”, or no spacers.", "spacers"
                )
            return self.made(
                Ribs(tuple(ribs), (), self.material, (self.series + "A",)), body, warnings
            )
        at = checked_points(self.holes, 1, 200, "rods", "holes")
        lines = [through(p, axis) for p in at]
        bare = ribs
        ribs, thin = drilled(bare, lines, self.rod / 2000, self.wall / 1000)
        if thin:
            which = counted(len(thin), "hole is", "holes are")
            warnings.append(
                Notice(
                    f"{which} left out for want of {mm(self.wall)} to an edge: {listed(thin, 6)}.",
                    value="wall",
                )
            )
        held = [
            [k for k, (b, d) in enumerate(zip(bare, ribs, strict=True)) if _holed(b, d, line)]
            for line in lines
        ]
        rings = (
            self._rings(ribs, lines, held)
            if self.way == "spaced" and self.spacers == "rings"
            else []
        )
        lengths = [
            float((ribs[k[-1]].origin - ribs[k[0]].origin) @ axis) + self.thickness / 1000
            for k in held
            if k
        ]
        figures = {
            "rods": Figure("Rods", len(lengths)),
            "rod_length": Figure("Rods in all", sum(lengths), "m", 2),
        }
        if rings:
            figures["rings"] = Figure("Rings", len(rings))
        sets = tuple(self.series + s for s in ("AS" if rings else "A"))
        beyond = (*(shapely.Polygon() for _ in ribs), *(r.shape for r in rings))
        return self.made(
            Ribs((*ribs, *rings), (), self.material, sets, beyond=beyond),
            body,
            warnings,
            more=figures,
        )

    def _rings(self, ribs: list[Rib], lines: list[Array], held: list[list[int]]) -> list[Rib]:
        """Rings on rods between neighbouring slices that both have its hole."""
        t, gap = self.thickness / 1000, self.spacing - self.thickness / 1000
        count = round(gap / t)
        if abs(gap - count * t) > 1e-6:
            low, high = (k * t + t for k in (max(int(gap / t), 1), int(gap / t) + 1))
            facts = {"gap": gap * 1000, "ring": self.thickness, "low": low, "high": high}
            remedies = tuple(
                Remedy(f"Space them {metres(s)}", {"spacing": round(s, 6)}) for s in (low, high)
            )
            raise ClauseError.of("gap of no whole rings", facts, "spacing", remedies=remedies)
        if self.ring < 1.5 * self.rod:
            raise ClauseError(
                f"A ring {mm(self.ring)} across is too thin about a rod of {mm(self.rod)}; "
                f"{mm(1.5 * self.rod)} or more works.",
                "ring",
            )
        out: list[Rib] = []
        for line, on in zip(lines, held, strict=True):
            for a, b in itertools.pairwise(on):
                if ribs[b].number != ribs[a].number + 1:
                    continue
                at = shapely.Point(ribs[a].crossed_at(line))
                shape: Any = at.buffer(self.ring / 2000, quad_segs=16).difference(
                    at.buffer(self.rod / 2000, quad_segs=16)
                )
                for n in range(count):
                    origin = ribs[a].origin + ribs[a].normal * (n + 1) * t
                    out.append(
                        replace(
                            ribs[a],
                            series=self.series + "S",
                            number=len(out) + 1,
                            piece=0,
                            pieces=1,
                            shape=shape,
                            origin=origin,
                        )
                    )
        if len(out) > MOST_RINGS:
            raise ClauseError(
                f"That would be {len(out)} rings; at most {MOST_RINGS} can be worked with.", "ring"
            )
        return out


def _holed(before: Rib, after: Rib, line: Array) -> bool:
    at = before.crossed_at(line)
    return bool(
        shapely.contains_xy(before.shape, *at) and not shapely.contains_xy(after.shape, *at)
    )
