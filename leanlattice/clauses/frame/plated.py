"""The clause that cuts ends of members for plates on which they stand or that are bolted."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.structure.changed import meeting_otherwise, nodes_of
from ...core.structure.faults import Fault
from ...core.structure.meetings import Meeting
from ...core.structure.names import names_of_structure
from ...core.structure.plated import PlatedEnds, plated_ends
from ...core.structure.structure import Structure
from ..at_nodes import Why, without_part
from ..base import ClauseError, Made, Notice, Work, choice, headline, number
from ..said import mm
from .chosen import CHOSEN, WHICH, ChosenClause, Which
from .common import structure_figures, told_of

__all__ = ["StandOnPlates"]

Flags = NDArray[np.bool_]
WHY = {
    Fault.PASSES: Why("a member that passes; only where all end can a plate hold them"),
    Fault.MANY: Why("more than two members, which only a foot can hold on a plate"),
    Fault.CLOSE: Why("two members less than 30° apart, which no plane between them parts"),
    Fault.STEEP: Why(
        "a member less than 15° off its plate; one that is square to it, or feet on both sides, "
        "would work",
        "lie",
    ),
}
LOWEST = 1e-3
"""Metres above the lowest node within which others are as low."""
NONE = {
    "feet": "None of them ends at a foot; only what columns stand on is one. Plates where one "
    "ends alone, or other members, would work.",
    "low": "None of them ends where they are lowest; plates where one ends alone would work.",
    "alone": "None of them ends alone; plates at feet, or other members, would work.",
    "pairs": "Nowhere do just two of them meet; plates at feet, or other members, would work.",
}


class StandOnPlates(ChosenClause):
    kind = "plate-ends"
    title = "Stand ends on plates"
    summary = "Ends cut for base plates at feet, or for end plates by which two are bolted."
    sentence = (
        "**Stand** " + CHOSEN + " on plates {at}, {thickness} thick"
        "[at=feet,low,alone|, {lie}, {gap} above what is below them][at=pairs|, {gap} apart]."
    )
    keeps_numbers = True

    which: Which = choice("all", WHICH, "Which members")
    at: Literal["feet", "low", "alone", "pairs"] = choice(
        "feet",
        {
            "feet": "at their feet",
            "low": "at their lowest nodes",
            "alone": "where one ends alone",
            "pairs": "where two meet",
        },
        "Where plates are",
        "Their lowest nodes are feet from here on",
    )
    thickness: float = number(20.0, "mm", 1.0, 200.0, 1.0, "Thickness of plates")
    lie: Literal["level", "square"] = choice(
        "level", {"level": "level", "square": "square to the member"}, "How plates lie"
    )
    gap: float = number(
        0.0,
        "mm",
        0.0,
        500.0,
        5.0,
        "Gap",
        "Below plates for grout, or between two for a packing",
    )

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        nodes = self._nodes(base, self.members(work))
        if not nodes.any():
            raise ClauseError(NONE[self.at], "at")
        stands = replace(base, foot=base.foot | nodes) if self.at == "low" else base
        made = meeting_otherwise(stands, nodes, self._meeting())
        ends = plated_ends(made)
        fault = np.where(nodes, ends.fault, 0).astype(np.int32)
        figures = {"plated": headline("Nodes on plates", int((nodes & (fault == 0)).sum()))}
        told = without_part(made, fault, "plate", WHY) + _raised(made, ends)
        return Made(made, figures | structure_figures(made), told + told_of(made, base))

    def _nodes(self, base: Structure, meant: Flags) -> Flags:
        """Which nodes (N,) are to have plates."""
        several = np.bincount(base.ends.ravel(), minlength=len(base.places))
        if self.at == "feet":
            return nodes_of(base, meant) & base.foot & (several > 0)
        if self.at == "low":
            here = nodes_of(base, meant) & (several > 0)
            high = base.places[:, 2]
            return here & (high < high[here].min(initial=np.inf) + LOWEST)
        if self.at == "alone":
            return nodes_of(base, meant) & ~base.foot & (base.valence == 1)
        own = np.bincount(base.ends[meant].ravel(), minlength=len(base.places))
        return (own == 2) & (several == 2) & (base.valence == 2) & ~base.foot

    def _meeting(self) -> Meeting:
        return Meeting(
            way="plated",
            thickness=self.thickness / 1000,
            gap=self.gap / 1000,
            level=self.lie == "level",
        )


def _raised(structure: Structure, ends: PlatedEnds) -> list[Notice]:
    """What is told of plates that lie higher for members to stand apart on them."""
    nodes = np.unique(ends.node[ends.raised > 0])
    if not len(nodes):
        return []
    worst = int(np.argmax(ends.raised))
    (label,) = names_of_structure(structure).nodes(ends.node[worst : worst + 1])
    high, several = ends.raised[worst] * 1000, int(ends.several[worst])
    text = (
        f"{len(nodes)} plate{'s lie' if len(nodes) > 1 else ' lies'} above feet for members to "
        f"stand apart, that at {label} with {several} of them by {mm(high, '.0f')}; feet lower by "
        "as "
        "much, thinner members or flatter ones would have it where feet are now."
    )
    x, y, z = structure.places[ends.node[worst]].tolist()
    return [Notice(text, "node", tuple(map(int, nodes)), (x, y, z))]
