"""The clause that makes plates with folded arms at the nodes of a structure."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np

from ..core.bolts import BOLT_HOLES
from ..core.flat.fold_angles import with_angles
from ..core.flat.node_plates import NodePlates, node_plates
from ..core.structure.faults import Fault
from ..core.structure.plate_arms import ArmJoint, plate_arms
from ..core.structure.structure import Structure
from .at_nodes import MOVED, Why, none_made, without_part
from .base import (
    Clause,
    ClauseError,
    Figure,
    Made,
    Notice,
    Take,
    Work,
    choice,
    count,
    counted,
    headline,
    number,
)
from .catalogue import ANGLE_WORDS, SHEET_WORDS
from .said import mm

__all__ = ["MakeNodePlates"]

MOST = 5000
"""Plates that can be worked with."""
WHY = {
    Fault.OTHER: Why(
        "members that are not held back for folded plates, as they can be where they are framed"
    ),
    Fault.PASSES: Why("members that pass; only where all end can a plate hold them"),
    Fault.BENT: Why("members that are bent where they end; arms are straight"),
    Fault.CLOSE: Why("members less than 8° apart in plan, with no room for two arms"),
    Fault.STEEP: Why(
        "a member steeper than arms may be folded; a sharper fold, where it is framed, would do"
    ),
    Fault.MOVED: Why(MOVED),
    Fault.NARROW: Why("arms too narrow for their bolts or thickness", "bolt"),
    Fault.LONG: Why(
        "arms that would reach beyond the middle of their members; longer members, or arms that "
        "enter by less, would do",
        "enters",
    ),
}


class MakeNodePlates(Clause):
    kind = "node-plates"
    chapter = "Make"
    title = "Make node plates"
    summary = "A plate at each node, its arms folded onto the axes of members, slotted or bolted."
    sentence = (
        "**Make** folded plates at nodes of {material}, their arms {joint}[joint=slots| that they "
        "enter by {enters}][joint=bolts| {bolts} {bolt} through each]¦, angles of folds {angles}; "
        "those alike within {tolerance} are of one kind, {cut}."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "NodePlates"

    material: str = choice("steel", SHEET_WORDS, "Material")
    joint: Literal["slots", "bolts"] = choice(
        "slots", {"slots": "welded into slots", "bolts": "with"}, "Joint"
    )
    angles: Literal["listed", "written"] = choice("listed", ANGLE_WORDS, "Angles of folds")
    enters: float = number(80.0, "mm", 5.0, 1000.0, 5.0, "Depth of slots")
    bolts: int = count(2, 1, 8, "Bolts", words=("bolt", "bolts"))
    bolt: str = choice("M16", {name: name for name in BOLT_HOLES}, "Size of bolts")
    tolerance: float = number(1.0, "mm", 0.01, 50.0, 0.1, "Tolerance of kinds")
    cut: Literal["own", "alike"] = choice(
        "own",
        {"own": "each cut to its own members", "alike": "and cut alike"},
        "Cut",
        "What is cut alike has the mean angles, folds and lengths of its kind; joints take up what "
        "its arms are off their members",
    )

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        joint = self._joint()
        arms = plate_arms(structure, joint)
        told = without_part(structure, arms.fault, "plate", self._why())
        if not arms.count:
            raise ClauseError(none_made(told, "plate"), told[0].value if told else None)
        if arms.count > MOST:
            raise ClauseError(
                f"There would be {arms.count:,} plates; at most {MOST:,} can be made."
            )
        tolerance, is_alike = self.tolerance / 1000, self.cut == "alike"
        plates = node_plates(structure, joint, self.material, tolerance, is_alike, work.progress)
        if self.angles == "written":
            plates = replace(plates, parts=with_angles(plates.parts, plates.folds, work.progress))
        return Made(plates, self._figures(plates), [*told, *self._too_far_off(plates)])

    def _too_far_off(self, plates: NodePlates) -> list[Notice]:
        """What is said where arms of plates cut alike are off their members by more than bolts can
        move in their holes."""
        if not plates.joint.bolts:
            return []
        play = BOLT_HOLES[self.bolt] - float(self.bolt.removeprefix("M"))
        off = plates.off * 1000
        far = np.unique(plates.arms.plate[off > play])
        if not len(far):
            return []
        have = counted(len(far), "node plate cut alike has", "node plates cut alike have")
        text = (
            f"{have} arms up to {mm(off.max(), '.1f')} off their members, and bolts of {self.bolt} "
            f"can move by {mm(play)} in their holes; a smaller tolerance of kinds would work."
        )
        x, y, z = plates.structure.places[plates.arms.nodes[plates.arms.plate[off.argmax()]]]
        return [Notice(text, "plate", tuple(map(int, far[:2000])), (x, y, z), "tolerance")]

    def _joint(self) -> ArmJoint:
        if self.joint == "slots":
            return ArmJoint(self.enters / 1000)
        return ArmJoint(self.enters / 1000, self.bolts, BOLT_HOLES[self.bolt] / 1000)

    def _why(self) -> dict[Fault, Why]:
        """Why nodes have no plate; where bolts are at fault, with the width that they need."""
        if self.joint == "slots":
            return WHY
        least = (
            f"{mm(self._joint().least_width * 1000, '.1f')} wide or more works, or smaller bolts"
        )
        text, value = WHY[Fault.NARROW]
        return WHY | {Fault.NARROW: Why(f"{text}; {least}", value)}

    def _figures(self, plates: NodePlates) -> dict[str, Figure]:
        arms, turns = plates.arms, np.abs(plates.folds.turns)
        figures = {
            "node_plates": headline("Node plates", plates.count),
            "plate_kinds": headline("Kinds of plates", int(plates.kind_of.max())),
            "plate_mass": headline("Mass of plates", float(plates.masses.sum()), "kg", 0),
            "plate_fold": headline("Largest fold", float(turns.max(initial=0.0)), "°", 1),
            "plate_arms": Figure("Arms", len(arms.plate)),
            "plate_area": Figure("Plate area", sum(p.area for p in plates.parts) / 1e6, "m²", 2),
            "tolerance": Figure("Equal within", self.tolerance, "mm", 2),
        }
        if plates.is_alike:
            most = float(plates.off.max() * 1000)
            figures["plate_off"] = Figure("Most arms are off", most, "mm", 2)
        if len(arms.stood):
            figures["plate_stood"] = Figure("Members that stand on plates", len(arms.stood))
        return figures
