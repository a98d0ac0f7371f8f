"""The clause that makes nodes of a structure one that are near each other."""

from __future__ import annotations

import numpy as np

from ...core.structure.joined import joined, nearest_nodes
from ...core.structure.structure import Structure
from ..base import Clause, ClauseError, Made, Notice, Remedy, Take, Work, headline, number
from ..said import mm
from .common import structure_figures

__all__ = ["JoinNodes"]

MOST = 2000.0
"""Largest tolerance in mm."""


class JoinNodes(Clause):
    kind = "join-nodes"
    chapter = "Frame"
    title = "Join near nodes"
    summary = "Nodes within a distance of each other become one; members meet anew there."
    sentence = "**Join** all nodes within {tolerance} of each other."
    takes = (Take(name="structure", types=("Structure",), label="Structure"),)
    gives = "Structure"

    tolerance: float = number(
        10.0,
        "mm",
        0.0,
        MOST,
        1.0,
        "Tolerance",
        "The first of them stays where it is; members along others are left out",
    )

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        done = joined(structure, self.tolerance / 1000)
        if not done.structure.count:
            shortest = float(structure.lengths.min()) * 1000
            raise ClauseError(
                f"A tolerance of {mm(self.tolerance)} leaves no member; below "
                f"{mm(shortest, '.0f')}, "
                "the length of the shortest, all would stay.",
                "tolerance",
            )
        figures = {
            "joined": headline("Nodes joined", done.nodes),
            "left_out": headline("Members left out", done.short + done.doubled),
        }
        figures |= structure_figures(done.structure)
        warnings = []
        if not done.nodes:
            warnings.append(self._nothing_near(structure))
        if done.short:
            warnings.append(
                Notice(
                    f"{done.short} members shrank to nothing; a tolerance below their lengths "
                    f"would keep them.",
                    value="tolerance",
                )
            )
        return Made(done.structure, figures, warnings)

    def _nothing_near(self, structure: Structure) -> Notice:
        nearest = float(np.ceil(nearest_nodes(structure) * 1e4)) / 10
        facts = {"tolerance": self.tolerance, "nearest": nearest}
        if nearest > MOST:
            return Notice("No two nodes are near enough to be joined.", value="tolerance")
        remedy = Remedy(f"Join within {mm(nearest)}", {"tolerance": nearest})
        return Notice.coded("no nodes near", facts, value="tolerance", remedies=(remedy,))
