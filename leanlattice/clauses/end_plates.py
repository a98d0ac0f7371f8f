"""The clause that makes the plates on which ends of members stand or by which they are bolted."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..core.bolts import BOLT_HOLES
from ..core.flat.end_plates import Boring, EndPlates, end_plates, least_beyond
from ..core.panels.edges import APART
from ..core.structure.faults import Fault
from ..core.structure.plated import plated_ends
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
    headline,
    listed,
    number,
)
from .catalogue import SHEET_WORDS
from .frame.plated import WHY as NOT_PLATED
from .said import mm

__all__ = ["MakeEndPlates"]

MOST = 5000
"""Ends that can have plates."""


class MakeEndPlates(Clause):
    kind = "end-plates"
    chapter = "Make"
    title = "Make end plates"
    summary = "Base plates under feet and end plates of bolted members, outlined, bored and marked."
    sentence = (
        "**Make** plates at ends of {material}, {outline}, reaching {beyond} beyond members, with "
        "{bolts} for {bolt}¦; those alike within {tolerance} are of one kind."
    )
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "EndPlates"

    material: str = choice("steel", SHEET_WORDS, "Material")
    outline: Literal["rectangle", "round"] = choice(
        "rectangle", {"rectangle": "rectangular", "round": "round"}, "Outline"
    )
    beyond: float = number(
        60.0, "mm", 5.0, 1000.0, 5.0, "Beyond members", "Holes are in the middle of it"
    )
    bolts: Literal["4", "6", "8", "12"] = choice(
        "4", {n: f"{n} holes" for n in ("4", "6", "8", "12")}, "Holes"
    )
    bolt: str = choice("M16", {name: name for name in BOLT_HOLES}, "Size of bolts")
    tolerance: float = number(1.0, "mm", 0.01, 50.0, 0.1, "Tolerance of kinds")

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        boring = self._boring()
        count = len(plated_ends(structure).node)
        if count > MOST:
            raise ClauseError(f"There would be {count:,} plates; at most {MOST:,} can be made.")
        made = end_plates(structure, boring, self.material, self.tolerance / 1000, work.progress)
        told = without_part(structure, made.ends.fault, "plate", self._why(boring))
        if not made.count:
            raise ClauseError(none_made(told, "plate"), told[0].value if told else None)
        return Made(made, self._figures(made), told + _overlapping(made))

    def _boring(self) -> Boring:
        hole = BOLT_HOLES[self.bolt]
        least = least_beyond(hole)
        if self.beyond < least - 1e-9:
            raise ClauseError(
                f"{mm(self.beyond)} beyond members has no room for {self.bolt}; {mm(least, '.1f')} "
                "or "
                "more works, or smaller bolts.",
                "beyond",
            )
        return Boring(self.outline == "round", self.beyond / 1000, int(self.bolts), hole / 1000)

    def _why(self, boring: Boring) -> dict[Fault, Why]:
        """Why nodes have no plates."""
        own = {
            Fault.OTHER: Why(
                "members that are not cut for plates; “Stand ends on plates” before this does it"
            ),
            Fault.NARROW: Why(
                f"holes less than {mm(APART * boring.hole * 1000, '.1f')} apart; fewer, or smaller "
                "bolts, would do",
                "bolts",
            ),
            Fault.MOVED: Why(MOVED),
        }
        # What would work there is set by another clause.
        return {fault: Why(why.text) for fault, why in NOT_PLATED.items()} | own

    def _figures(self, made: EndPlates) -> dict[str, Figure]:
        pairs = int(made.ends.is_pair[made.first].sum())
        return {
            "end_plates": headline("End plates", made.count),
            "end_plate_kinds": headline("Kinds of end plates", int(made.solids.type_of.max())),
            "end_plate_mass": headline("Mass of end plates", float(made.masses.sum()), "kg", 0),
            "end_plate_largest": headline("Longest end plate", float(made.sizes.max()), "mm", 0),
            "base_plates": Figure("Plates under members", made.count - pairs),
            "bolted_plates": Figure("Plates bolted to each other", pairs),
            "end_plate_holes": Figure("Holes", made.count * made.boring.bolts),
            "tolerance": Figure("Equal within", self.tolerance, "mm", 2),
        }


def _overlapping(made: EndPlates) -> list[Notice]:
    """What is told of plates that run into others."""
    which = made.overlapping
    if not len(which):
        return []
    labels = listed([made.labels[k] for k in which.tolist()], 6)
    text = (
        f"{len(which)} plates run into others: {labels}. Less beyond members, or feet that are "
        "farther apart, would work."
    )
    x, y, z = made.structure.places[made.nodes[which[0]]].tolist()
    nodes = tuple(map(int, np.unique(made.nodes[which])))
    return [Notice(text, "node", nodes, (x, y, z), "beyond", input="structure")]
