"""Clauses that make strands of a net's edges: weaves and reciprocal frames."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ...core.geometry.nets import Net, NetError
from ...core.nets.reciprocal import Reciprocal, reciprocal
from ...core.nets.strands import woven
from ..base import ClauseError, Figure, Made, Notice, Work, choice, headline, number
from ..said import metres, mm
from .common import NET, NetClause, made_net, place_of

__all__ = ["TurnEdges", "WeaveStrands"]


class WeaveStrands(NetClause):
    kind = "weave"
    title = "Weave the strands"
    builds = "woven strands"
    summary = "Edges that run on through nodes become laths that pass over and under each other, or lie in layers."
    sentence = "**Weave** the net's strands, {way}, in laths {width} wide and {thickness} thick."
    takes = (NET,)

    way: Literal["alternate", "levels"] = choice(
        "alternate",
        {"alternate": "over and under in turns", "levels": "each on a level of its own"},
        "Way",
        "Three-way patterns need three levels, or pass in turns.",
    )
    width: float = number(120.0, "mm", 1.0, 5000.0, 5.0, "Width", "Of a lath")
    thickness: float = number(
        40.0,
        "mm",
        0.5,
        2000.0,
        1.0,
        "Thickness",
        "From the middle of one lath to the next at a crossing",
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        made = woven(net, self.way, self.width / 1000, self.thickness / 1000)
        if not made.crossings:
            raise ClauseError(
                "No two strands of this net cross; diagrids, quads and tri-hexagons have strands that do.",
                "way",
            )
        weave = made.net.weave
        assert weave is not None
        inner = ~net.border
        count = len(np.unique(weave.strand[inner]))
        total = np.bincount(weave.strand[inner], net.edge_lengths[inner])
        figures = {
            "strands": headline("Strands", count),
            "crossings": headline("Crossings", made.crossings),
            "levels": Figure("Levels", made.levels),
            "longest_strand": Figure("Longest strand", float(total.max()), "m", 2),
            "strand_length": Figure("All strands", float(total.sum()), "m", 1),
        }
        warnings = []
        if len(made.unsolved):
            text = (
                "strands do not pass in turns, as the ways round to them differ; levels work everywhere."
                if self.way == "alternate"
                else "a strand crosses itself and keeps to no level; passing in turns works."
            )
            warnings.append(
                Notice(
                    f"At {len(made.unsolved)} of {made.crossings} crossings {text}",
                    at=place_of(net.vertices[made.unsolved[0]]),
                    value="way",
                )
            )
        return made_net(made.net, figures, warnings)


MUCH = 0.25
"""Of its size, what a net may be lifted by without a word."""
TOUCHING = 1.0
"""Millimetres by which ends may be off the bars they rest on without a word."""


class TurnEdges(NetClause):
    kind = "reciprocal"
    title = "Make reciprocal"
    builds = "reciprocal"
    summary = (
        "Every edge turned about its middle, so that about each node the edges rest on each other."
    )
    sentence = (
        "**Turn** every edge about its middle to the {hand} {by}[by=angle| {angle}][by=engagement| they engage by {engagement}], "
        "so that each rests {rest} the next, as bars {width} wide[rest=top| and {height} high]."
    )
    takes = (NET,)

    hand: Literal["left", "right"] = choice("left", {"left": "left", "right": "right"}, "Hand")
    by: Literal["angle", "engagement"] = choice(
        "angle", {"angle": "by", "engagement": "until"}, "By"
    )
    angle: float = number(10.0, "°", 0.5, 40.0, 0.5, "Angle")
    engagement: float = number(
        0.3,
        "m",
        0.001,
        100.0,
        0.01,
        "Engagement",
        "How far an end reaches past the bar that rests on it",
    )
    rest: Literal["side", "top"] = choice(
        "side",
        {"side": "against", "top": "on top of"},
        "Rest",
        "Bars on top of each other stay straight and lift the net",
    )
    width: float = number(80.0, "mm", 1.0, 5000.0, 5.0, "Width", "Of the bars, as they are drawn")
    height: float = number(80.0, "mm", 1.0, 5000.0, 5.0, "Height", "Of the bars")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        made = self._reciprocal(net)
        if not len(made.gap):
            raise ClauseError(
                "No inner node of this net has three edges or more, so that nothing can rest on "
                "the next.",
                "by",
            )
        engaged, worst = made.engagement, float(made.gap.max()) * 1000
        turned = np.degrees(np.abs(made.turn[made.turn != 0]))
        figures = {
            "bars": Figure("Bars", int(np.count_nonzero(made.turn))),
            "least_turn": Figure("Smallest turn", float(turned.min()), "°", 1),
            "most_turn": Figure("Largest turn", float(turned.max()), "°", 1),
            "least_engagement": Figure("Smallest engagement", float(engaged.min()), "m", 3),
            "most_engagement": Figure("Largest engagement", float(engaged.max()), "m", 3),
        }
        if self.rest == "side":
            figures["widest_gap"] = Figure("Bars' middle lines apart, at most", worst, "mm", 1)
            return made_net(made.net, figures)
        rise = float(made.rise[np.argmax(np.abs(made.rise))])
        figures["most_rise"] = Figure("Lifted by, at most", rise, "m", 3)
        figures["off_rest"] = Figure("Ends off the bars they rest on, at most", worst, "mm", 1)
        return made_net(made.net, figures, self._piled(net, made, worst))

    def _reciprocal(self, net: Net) -> Reciprocal:
        """The frame; raises ``ClauseError`` where edges reach past each other."""
        hand = 1.0 if self.hand == "left" else -1.0
        start = self.angle if self.by == "angle" else 8.0
        engagement = self.engagement if self.by == "engagement" else None
        on_top = self.rest == "top"
        high = self.height / 1000 if on_top else 0.08
        turn = hand * float(np.radians(start))
        try:
            return reciprocal(net, turn, engagement, self.width / 1000, high, on_top)
        except NetError as error:
            raise ClauseError(
                f"{error} A smaller one, or longer edges, will help.", self.by
            ) from None

    def _piled(self, net: Net, made: Reciprocal, off: float) -> list[Notice]:
        """What is told of bars that lie on each other, of which some are ``off`` (mm) those they
        rest on: where they lift the net far, or do not touch."""
        out = []
        size = float(np.ptp(net.vertices, axis=0).max())
        rise = float(np.abs(made.rise).max())
        if rise > MUCH * size:
            highest = int(np.argmax(np.abs(made.rise)))
            text = (
                f"Bars {mm(self.height)} high that engage by "
                f"{metres(np.median(made.engagement), '.2f')} "
                f"lift the net by up to {metres(rise, '.2f')}; flatter bars, or more engagement, "
                "would lift "
                "it less."
            )
            out.append(Notice(text, at=place_of(made.net.vertices[highest]), value="height"))
        if off > TOUCHING:
            text = (
                f"Some ends are off the bars they rest on, by up to {mm(off, '.0f')}, which "
                "notches or blocks make up for; they are listed with the crossings of what is "
                "framed."
            )
            out.append(Notice(text, value="rest"))
        return out
