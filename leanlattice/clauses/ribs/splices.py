"""Ribs too long for a sheet, spliced."""

from __future__ import annotations

from typing import Literal

from ...core.ribs.parts import Ribs
from ...core.ribs.splices import Joints, Spliced, long_side, spliced
from ..base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    count,
    headline,
    listed,
    number,
)
from ..lattice.common import place_of
from ..said import mm
from .common import counted, proof, rib_figures

__all__ = ["SpliceRibs"]


class SpliceRibs(Clause):
    kind = "splice-ribs"
    chapter = "Frame"
    title = "Splice long ribs"
    summary = "Ribs too long for a sheet as lengths with fingers or half-laps between them."
    sentence = (
        "**Splice** ribs longer than {longest} or taller than {tallest}: lengths meet in "
        "{joint}[joint=fingers| of {fingers}], {length} into each other with {gap} between¦, inner "
        "corners {corners}[corners=cleared| by a tool {tool} across], {clear} clear of slots and "
        "{apart} apart from those of the rib beside."
    )
    takes = (Take(name="ribs", types=("Ribs",), label="Ribs"),)
    gives = "Ribs"

    longest: float = number(
        2400.0, "mm", 50.0, 30000.0, 10.0, "Longest length", "That of a sheet less its margins"
    )
    tallest: float = number(
        1200.0,
        "mm",
        50.0,
        30000.0,
        10.0,
        "Greatest height",
        "The width of a sheet less its margins",
    )
    joint: Literal["fingers", "half-lap"] = choice(
        "fingers",
        {"fingers": "fingers", "half-lap": "half-laps"},
        "Joint",
        "Cut square through the plate; a half-lap is one step at half its height.",
    )
    fingers: int = count(
        5, 3, 41, "Fingers", "Fewer where there is no room for a tool between them"
    )
    length: float = number(80.0, "mm", 5.0, 1000.0, 5.0, "Length of a joint")
    gap: float = number(0.1, "mm", 0.0, 10.0, 0.05, "Gap", "Between lengths, for the glue")
    corners: Literal["sharp", "cleared"] = choice(
        "cleared",
        {"sharp": "left as the tool leaves them", "cleared": "cleared"},
        "Corners",
    )
    tool: float = number(6.0, "mm", 0.1, 100.0, 0.5, "Tool diameter")
    clear: float = number(20.0, "mm", 0.0, 1000.0, 5.0, "Clear of slots")
    apart: float = number(
        200.0, "mm", 0.0, 10000.0, 10.0, "Staggered by", "Joints of the rib beside keep this away"
    )

    def make(self, work: Work) -> Made:
        ribs: Ribs = work.inputs["ribs"]
        if ribs.whole is not None:
            raise ClauseError("These ribs are spliced already; splice them once.", "longest")
        for value in ("longest", "tallest"):
            most = getattr(self, value)
            if most < 3 * self.length:
                raise ClauseError(
                    f"Lengths of {mm(most)} leave no room for joints {mm(self.length)} long at "
                    f"both ends; {mm(3 * self.length)} or more works.",
                    value,
                )
        joints = Joints(
            self.longest / 1000,
            self.tallest / 1000,
            self.fingers if self.joint == "fingers" else 2,
            self.length / 1000,
            self.gap / 1000,
            self.tool / 2000 if self.corners == "cleared" else 0.0,
            self.clear / 1000,
            self.apart / 1000,
        )
        found = spliced(ribs, joints, lambda: work.progress(0.5))
        made = found.ribs
        lengths = [r for r in made.ribs if r.splice]
        longest = max((long_side(r.shape) for r in made.ribs), default=0.0)
        figures = rib_figures(made) | {
            "ribs": headline("Ribs and lengths", len(made.ribs)),
            "longest_rib": headline("Longest piece", longest, "m", 2),
            "spliced": Figure("Spliced ribs", sum(r.splice == 1 for r in lengths)),
            "lengths": Figure("Lengths of these", len(lengths)),
            "splices": headline("Joints", len(made.splices)),
            "joint_gap": Figure("Gap of joints", self.gap, "mm", 2),
        }
        if found.through:
            # No solid place was free there, so that the joint is in the arms beside an opening.
            figures["at_openings"] = headline("Ribs parted at openings", len(found.through))
        return Made(
            made,
            figures,
            self._notices(ribs, found),
            lambda check: proof(made, check),
        )

    def _notices(self, ribs: Ribs, found: Spliced) -> list[Notice]:
        out = []
        too_long, beside = found.too_long, found.beside
        if too_long:
            which = counted(len(too_long), "rib finds", "ribs find")
            first = ribs.ribs[ribs.labels.index(too_long[0])]
            out.append(
                Notice(
                    f"{which} no place for a joint and stay too long: {listed(too_long)}. Shorter "
                    "joints, or less clear of slots, may have room.",
                    at=place_of(first.middle),
                    value="clear",
                )
            )
        if beside:
            which = counted(len(beside), "rib has joints", "ribs have joints")
            out.append(
                Notice(
                    f"{which} nearer than {mm(self.apart)} to those of the rib beside: "
                    f"{listed(beside)}.",
                    value="apart",
                )
            )
        return out
