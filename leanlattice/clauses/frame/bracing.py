"""The clause that braces the bays of a net."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net
from ...core.nets.turns import NotAlternate, cells_in_turns
from ...core.structure.builders.bracing import braced, four_sided
from ...core.structure.roles import ROLES
from ...core.structure.structure import Structure
from ..base import ClauseError, Figure, Made, Notice, Work, choice, headline, places, section
from ..catalogue import not_made, section_of
from ..shape.common import Place, checked_points
from .common import MEETING, NET, STRUCTURE, MeetingClause

__all__ = ["BraceBays"]

Index = NDArray[np.int32]
ROLE_WORDS = {name: ROLES[name].plural for name in ("brace", "tie", "web", "strut")}


class BraceBays(MeetingClause):
    kind = "brace-bays"
    title = "Brace the bays"
    summary = "Diagonals across the four-sided bays of a framed net: one way, in turns, or crossed."
    sentence = (
        "**Brace** {which}[which=near| {near}] by {role} in {section}, {way}, " + MEETING + "."
    )
    takes = (STRUCTURE, NET.model_copy(update={"beside": True}))
    keeps_numbers = True

    which: Literal["all", "second", "border", "near"] = choice(
        "all",
        {
            "all": "every bay",
            "second": "every second bay",
            "border": "the bays along the border",
            "near": "the bays nearest to",
        },
        "Which bays",
    )
    near: list[Place] = places(
        lambda: [(0.0, 0.0, 3.0)], "Places", "Drag them in the view; Alt drags up and down."
    )
    role: Literal["brace", "tie", "web", "strut"] = choice("tie", ROLE_WORDS, "Role")
    section: str = section("Round 16", "Section")
    way: Literal["rising", "falling", "turns", "both"] = choice(
        "both",
        {
            "rising": "one way",
            "falling": "the other way",
            "turns": "in turns from bay to bay",
            "both": "crossed",
        },
        "Way",
        "Crossed ones share a node in the middle, where one runs on",
    )

    def make(self, work: Work) -> Made:
        base: Structure = work.inputs["structure"]
        net: Net = work.inputs["net"]
        own = section_of(self.section, "section")
        standing = self._standing(base, net, work.key("net"))
        cells = np.intersect1d(self._cells(net), standing).astype(np.int32)
        if not len(cells):
            raise ClauseError(
                "None of these bays has four sides and members round it; every bay would work.",
                "which",
            )
        made = braced(
            base,
            net,
            work.key("net"),
            cells,
            self.way,
            own,
            self.role,
            self.wanted_meeting(),
        )
        out = self.told(made, made, [*not_made(own, "section"), *_not_braced(net)])
        out.figures.update(
            braced_bays=headline("Braced bays", len(cells)),
            diagonals=Figure("Members across them", made.count - base.count),
        )
        return out

    def _standing(self, base: Structure, net: Net, source: str) -> Index:
        """Four-sided bays with nodes at their corners; raises ``ClauseError`` where none has."""
        on = base.nodes_on(source, np.arange(len(net.vertices), dtype=np.int32)) >= 0
        cells = four_sided(net)
        if not len(cells):
            raise ClauseError(
                "No bay of the net has four sides; triangles stand without braces, and quads or a "
                "diagrid would work.",
                "way",
            )
        corners = net.corners[net.offsets[:-1][cells][:, None] + np.arange(4)]
        standing = cells[on[corners[:, 0]] & on[corners].all(axis=1)]
        if not len(standing):
            raise ClauseError(
                "The structure does not stand on this net; choose the net it was framed from.",
                "which",
            )
        return standing

    def _cells(self, net: Net) -> Index:
        """Which cells are meant, whatever their sides."""
        every = np.arange(net.cell_count, dtype=np.int32)
        if self.which == "second":
            try:
                return every[cells_in_turns(net) == 0]
            except NotAlternate as error:
                raise ClauseError(
                    "An odd number of bays goes round a node of the net, and they cannot be taken "
                    "in turns; every bay would work.",
                    "which",
                    error.at,
                ) from None
        if self.which == "border":
            return np.unique(net.edge_cells[net.border].max(axis=1))
        if self.which == "near":
            wanted = checked_points(self.near, 1, 400, "places", "near")
            away = np.linalg.norm(net.cell_means - wanted[:, None], axis=2)
            return np.unique(np.argmin(away, axis=1)).astype(np.int32)
        return every


def _not_braced(net: Net) -> list[Notice]:
    """What is told of bays that have no diagonals."""
    others = net.cell_count - len(four_sided(net))
    if not others:
        return []
    bays = f"{others:,} bays have" if others > 1 else "1 bay has"
    return [Notice(f"{bays} not four sides and {'stay' if others > 1 else 'stays'} as before.")]
