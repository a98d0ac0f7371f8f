"""How ribs in two sets go into each other, stand, and are lightened: clauses that take ribs and give
them anew."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ...core.ribs.lapping import Feet, Lapping, Openings, Rods
from ...core.ribs.laps import Slots
from ...core.ribs.lightened import through
from ...core.ribs.parts import Ribs
from ..base import Clause, ClauseError, Made, Remedy, Take, Work, choice, number, places
from ..shape.common import Place, checked_points
from ..shape.drawn import Curves
from .working import ribs_worked

__all__ = ["RibFeet", "RibOpenings", "RibRods", "RibSlots"]

Array = NDArray[np.float64]
RIBS = Take(name="ribs", types=("Ribs",), label="Ribs")
ALONG = Take(name="curves", types=("Curves",), label="Curves", optional=True, asked=True)


class AmendedRibs(Clause):
    """Base of clauses that say how ribs in two sets go together, and work them out anew."""

    chapter = "Frame"
    takes: ClassVar[tuple[Take, ...]] = (RIBS,)
    gives = "Ribs"
    amends = "ribs"

    @abstractmethod
    def amended(self, lapping: Lapping, work: Work) -> Lapping:
        """What they are worked out of from now on; raises ``ClauseError``."""

    def make(self, work: Work) -> Made:
        ribs: Ribs = work.inputs["ribs"]
        if ribs.whole is not None:
            raise ClauseError(
                "These ribs are spliced already; put this above the clause that splices them."
            )
        if ribs.lapping is None:
            raise ClauseError(
                "These are slices, which do not go into each other; ribs in two sets, as those of "
                "a waffle, would work."
            )
        lapping = self.amended(ribs.lapping, work)
        return ribs_worked(self, lapping, ribs.material, ribs.body, work)


class RibSlots(AmendedRibs):
    kind = "rib-slots"
    title = "Slots of ribs"
    summary = "How ribs of two sets are slotted: from which side, with how much to spare, and how corners are cleared."
    sentence = (
        "**Slot** the ribs with {clearance} to spare, {above} slotted from above {turn} over {share} "
        "of the common length¦, their corners {corners}[corners=diagonal| by a tool {tool} across]"
        "[corners=across| by a tool {tool} across][corners=along| by a tool {tool} across], entries "
        "{entry}[entry=chamfered| by {chamfer}], at least {wall} from ends and each other."
    )
    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {
        "slot": ("clearance", "share", "tool", "chamfer", "wall")
    }

    clearance: float = number(
        0.2,
        "mm",
        -2.0,
        50.0,
        0.05,
        "Clearance",
        "Below 0 plates are pressed in; by more than 0.5 mm they cannot be",
    )
    above: Literal["first", "second"] = choice(
        "first", {"first": "the first set", "second": "the second set"}, "Slotted from above"
    )
    turn: Literal["fixed", "needed"] = choice(
        "fixed",
        {"fixed": "everywhere", "needed": "but where that would lock"},
        "Where",
        "Where ribs would lock, the other can be slotted from above at that crossing alone.",
    )
    share: float = number(50.0, "%", 5.0, 95.0, 1.0, "Share")
    corners: Literal["sharp", "diagonal", "across", "along"] = choice(
        "diagonal",
        {
            "sharp": "left as the tool leaves them",
            "diagonal": "cleared diagonally",
            "across": "cleared across",
            "along": "cleared along",
        },
        "Relief",
        "The round cut that clears a slot's inner corners",
    )
    tool: float = number(6.0, "mm", 0.1, 100.0, 0.5, "Tool diameter")
    entry: Literal["square", "chamfered"] = choice(
        "square", {"square": "square", "chamfered": "chamfered"}, "Entries"
    )
    chamfer: float = number(
        3.0, "mm", 0.1, 200.0, 0.5, "Chamfer", "At 45° on both sides of a slot's open end"
    )
    wall: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Least wall")

    def amended(self, lapping: Lapping, work: Work) -> Lapping:
        cleared = self.corners if self.corners != "sharp" else "diagonal"
        relief = 0.0 if self.corners == "sharp" else self.tool / 2000
        chamfer = self.chamfer / 1000 if self.entry == "chamfered" else 0.0
        slots = Slots(
            self.clearance / 1000,
            self.share / 100,
            relief,
            cleared,
            self.wall / 1000,
            chamfer,
            self.turn == "needed",
        )
        return replace(lapping, slots=slots, above=0 if self.above == "first" else 1)


class RibFeet(AmendedRibs):
    kind = "rib-feet"
    title = "Feet and upper edges of ribs"
    summary = (
        "Ribs on feet that reach the ground, and upper edges that stand proud or are cut back."
    )
    sentence = (
        "**Stand** the ribs {feet}[feet=feet| {foot} wide, {inset} in from their ends, down to "
        "{ground}], their upper edges {proud} proud."
    )
    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {"rib": ("foot", "inset")}

    feet: Literal["feet", "none"] = choice(
        "feet", {"feet": "on feet", "none": "without feet"}, "Feet"
    )
    foot: float = number(120.0, "mm", 5.0, 5000.0, 5.0, "Width of a foot")
    inset: float = number(50.0, "mm", 0.0, 10000.0, 5.0, "Feet set in")
    ground: float = number(0.0, "m", -1000.0, 10000.0, 0.05, "Ground")
    proud: float = number(
        0.0,
        "mm",
        -2000.0,
        2000.0,
        1.0,
        "Proud",
        "Above the body's surface; below 0 they are cut back",
    )

    def amended(self, lapping: Lapping, work: Work) -> Lapping:
        feet = Feet(self.foot / 1000, self.inset / 1000, self.ground)
        return replace(lapping, feet=feet if self.feet == "feet" else None, proud=self.proud / 1000)


class RibOpenings(AmendedRibs):
    kind = "rib-openings"
    title = "Openings in ribs"
    summary = "Ribs that are lighter for openings, which keep away from edges, slots and rods."
    sentence = (
        "**Open** the ribs inside, {border} from edges and slots, corners rounded by {radius}."
    )
    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {"rib": ("border", "radius")}

    border: float = number(80.0, "mm", 1.0, 5000.0, 1.0, "Border")
    radius: float = number(30.0, "mm", 1.0, 1000.0, 1.0, "Radius")

    def amended(self, lapping: Lapping, work: Work) -> Lapping:
        return replace(lapping, openings=Openings(self.border / 1000, self.radius / 1000))


class RibRods(AmendedRibs):
    kind = "rib-rods"
    title = "Rods through ribs"
    summary = "Holes for rods square to a set of ribs, or for cables along drawn curves."
    sentence = (
        "**Run** rods or cables {rod} across {way}[way=first| at {holes}][way=second| at {holes}]¦, "
        "their holes {wall} from edges and slots."
    )
    takes: ClassVar[tuple[Take, ...]] = (RIBS, ALONG)
    sketches: ClassVar[Mapping[str, tuple[str, ...]]] = {"rib": ("rod",)}

    rod: float = number(12.0, "mm", 0.5, 500.0, 0.5, "Rod diameter")
    way: Literal["first", "second", "drawn"] = choice(
        "first",
        {
            "first": "square through the first set",
            "second": "square through the second set",
            "drawn": "along drawn curves through both",
        },
        "Way",
        "Curves are chosen in the clause's menu.",
    )
    holes: list[Place] = places(
        lambda: [(0.0, 0.0, 1.0)],
        "Rods",
        "Each runs square to the ribs through its place; drag them.",
    )
    wall: float = number(12.0, "mm", 0.0, 1000.0, 1.0, "Least wall")

    def amended(self, lapping: Lapping, work: Work) -> Lapping:
        of = {"first": 0, "second": 1}.get(self.way)
        paths = (
            self._along(work.inputs.get("curves"))
            if of is None
            else self._straight(lapping.sets[of].normals)
        )
        rods = Rods(self.rod / 2000, tuple(paths), of, self.wall / 1000)
        return replace(lapping, rods=(*lapping.rods, rods))

    def _along(self, curves: Curves | None) -> list[Array]:
        """Curves as ways (k, 3) of straight pieces."""
        if curves is None:
            drawn = Remedy("Run them along the curves above", {}, takes={"curves": ("draw",)})
            raise ClauseError.of("no curves for cables", {}, "way", remedies=(drawn,))
        out = []
        for curve in curves.curves:
            line = curve.polyline(max(curve.path.size * 1e-4, 1e-6))
            out.append(np.vstack([line, line[:1]]) if curve.path.closed else line)
        return out

    def _straight(self, normals: Array) -> list[Array]:
        """Ways (2, 3) square to planes of those normals (k, 3), one through each place."""
        if not len(normals):
            raise ClauseError(
                "There are no plane ribs in that set; the other may hold rods, or cables along drawn "
                "curves run through both.",
                "way",
            )
        if np.abs(normals @ normals[0]).min() < 1 - 1e-6:
            raise ClauseError(
                "These ribs do not stand parallel, so that no straight rod goes through them; the "
                "other set may, or cables along drawn curves.",
                "way",
            )
        held = checked_points(self.holes, 1, 200, "rods", "holes")
        return [through(place, normals[0]) for place in held]
