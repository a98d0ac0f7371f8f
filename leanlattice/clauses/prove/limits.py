"""The clause that checks members and nodes against limits of geometry."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...core.structure.clashes import Clashes, clashes_of, crowds_of
from ...core.structure.names import names_of_structure
from ...core.structure.structure import Structure
from ..base import TO_COME, Clause, Figure, Made, Notice, Work, count, headline, number
from ..frame.common import STRUCTURE
from ..said import metres, mm

__all__ = ["CheckMembers"]

Array = NDArray[np.float64]
MOST_SHOWN = 2000


class CheckMembers(Clause):
    kind = "check-members"
    chapter = "Prove"
    title = "Check members"
    summary = "Clashes of members that do not meet, crowded nodes, members too short or too long."
    sentence = (
        "**Check** that members are {shortest} to {longest} long, that no more than {arms} leave a "
        "node¦, at {angle} or more from each other, that no body there is more than {body} across, "
        "and that members which do not meet are {clear} apart."
    )
    takes = (STRUCTURE,)
    gives = "Structure"
    keeps_numbers = True

    shortest: float = number(0.3, "m", 0.0, 100.0, 0.05, "Shortest", "Between the saw cuts")
    longest: float = number(12.0, "m", 0.01, 1000.0, 0.5, "Longest", "That can be delivered")
    arms: int = count(8, 2, 100, "Arms", "", ("arm", "arms"))
    angle: float = number(20.0, "°", 0.0, 90.0, 1.0, "Angle", "Between two arms of a node")
    body: float = number(
        600.0, "mm", 1.0, 10000.0, 10.0, "Body", "Diameter, or of a plate's circle"
    )
    clear: float = number(0.0, "mm", 0.0, 1000.0, 1.0, "Apart", "0 finds what is in each other")

    def make(self, work: Work) -> Made:
        structure: Structure = work.inputs["structure"]
        lengths, crowds = structure.cut_lengths, crowds_of(structure)
        crowded = np.degrees(crowds.angle)
        figures = {
            "shortest_cut": headline("Shortest between cuts", float(lengths.min()), "m", 3),
            "longest_cut": headline("Longest between cuts", float(lengths.max()), "m", 3),
            "most_arms": headline("Most arms at a node", int(crowds.arms.max())),
            "least_angle": headline("Least angle at a node", float(crowded.min()), "°", 1),
            "clashes": TO_COME,
        }
        if not np.isfinite(crowded).any():
            del figures["least_angle"]
        short, long = lengths < self.shortest, lengths > self.longest
        warnings = _of_members(structure, short, "shorter", self.shortest, "shortest")
        warnings += _of_members(structure, long, "longer", self.longest, "longest")
        many, sharp = crowds.arms > self.arms, crowded < self.angle
        warnings += _of_nodes(structure, many, self._too_many(crowds.arms), "arms")
        warnings += _of_nodes(structure, sharp, self._too_sharp(crowded), "angle")
        large = 2000 * structure.radius > self.body
        warnings += _of_nodes(structure, large, self._too_large(structure.radius), "body")

        def later(check: Callable[[], None]) -> tuple[dict[str, Figure], list[Notice]]:
            found = clashes_of(structure, self.clear / 1000, check)
            told = headline("Clashes", len(found.members))
            return {"clashes": told}, self._of_clashes(structure, found)

        return Made(structure, figures, warnings, later)

    def _too_many(self, arms: NDArray[np.int32]) -> str:
        nodes = int(np.count_nonzero(arms > self.arms))
        return (
            f"At {nodes} {'node' if nodes == 1 else 'nodes'} more than {self.arms} arms meet, "
            f"{int(arms.max())} at most; fewer members there would work."
        )

    def _too_sharp(self, degrees: Array) -> str:
        nodes = int(np.count_nonzero(degrees < self.angle))
        return (
            f"At {nodes} {'node' if nodes == 1 else 'nodes'} two arms are less than "
            f"{self.angle:g}° apart, {degrees.min():.1f}° at least; merging what is near, or "
            "another pattern there, would work."
        )

    def _too_large(self, radius: Array) -> str:
        nodes = int(np.count_nonzero(2000 * radius > self.body))
        return (
            f"{nodes} {'bodies' if nodes > 1 else 'body'} at nodes "
            f"{'are' if nodes > 1 else 'is'} more than {mm(self.body)} across, "
            f"{mm(2000 * radius.max(), '.0f')} the largest; slimmer members, fewer at a node, or "
            "wider "
            "angles between them would need less."
        )

    def _of_clashes(self, structure: Structure, found: Clashes) -> list[Notice]:
        if not len(found.members):
            return []
        one, other = names_of_structure(structure).members(found.members[0])
        apart = float(found.apart[0]) * 1000
        where = (
            f"run {mm(-apart, '.0f')} into each other"
            if apart < 0
            else f"are {mm(apart, '.1f')} apart"
        )
        pairs = f"{len(found.members):,} pairs" if len(found.members) > 1 else "1 pair"
        text = (
            f"{pairs} of members that do not meet come too near each other; {one} and {other} "
            f"{where}. Slimmer sections, or a node where they pass, would work."
        )
        which = tuple(dict.fromkeys(found.members.ravel().tolist()))[:MOST_SHOWN]
        x, y, z = found.places[0].tolist()
        return [Notice(text, "member", which, (x, y, z), "clear")]


def _of_members(
    structure: Structure, wrong: NDArray[np.bool_], than: str, limit: float, value: str
) -> list[Notice]:
    """What is told of members that are ``shorter`` or ``longer`` than a ``limit``, a ``value``."""
    rows = np.flatnonzero(wrong)
    if not rows.size:
        return []
    lengths = structure.cut_lengths[rows]
    worst = rows[int(np.argmin(lengths) if than == "shorter" else np.argmax(lengths))]
    name = names_of_structure(structure).members(np.array([worst]))[0]
    x, y, z = structure.middles[worst].tolist()
    remedy = (
        "merging what is near, or wider bays, would work"
        if than == "shorter"
        else "splicing them would work"
    )
    text = (
        f"{len(rows):,} {'members are' if len(rows) > 1 else 'member is'} {than} than "
        f"{metres(limit)}, "
        f"{name} the most with {metres(structure.cut_lengths[worst], '.3f')}; {remedy}."
    )
    return [Notice(text, "member", tuple(rows[:MOST_SHOWN].tolist()), (x, y, z), value)]


def _of_nodes(
    structure: Structure, wrong: NDArray[np.bool_], text: str, value: str
) -> list[Notice]:
    """What is told of nodes that are ``wrong`` (N,) in a ``value``."""
    rows = np.flatnonzero(wrong)
    if not rows.size:
        return []
    x, y, z = structure.places[rows[0]].tolist()
    return [Notice(text, "node", tuple(rows[:MOST_SHOWN].tolist()), (x, y, z), value)]
