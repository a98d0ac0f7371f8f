"""Clauses that make one net of another."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import Net, NetError
from ...core.nets.conway import dual, truncated
from ...core.nets.insets import Inset, inset, raised
from ...core.nets.refining import divided_edges
from ...core.nets.thinning import (
    chosen_by_seed,
    eased_on_shape,
    merged_near,
    without_cells,
    without_edges,
    without_vertices,
)
from ..base import ClauseError, Figure, Made, Notice, Work, choice, count, number
from ..by_size import CELL_DEPTHS
from ..said import metres
from ..shape.common import PULLS
from .common import NET, NetClause, check_size, made_net, place_of
from .lay import Pulling

__all__ = [
    "DivideEdges",
    "DualNet",
    "EaseNet",
    "InsetCells",
    "MergeNear",
    "RaiseCells",
    "ThinOut",
    "TruncateNet",
]

Array = NDArray[np.float64]
NO_LENGTH = 1e-3
"""Edges shorter than this (m) cannot be made."""


def _sound(error: NetError, value: str) -> ClauseError:
    return ClauseError(f"{error} A smaller change, or another net, will help.", value)


class TruncateNet(NetClause):
    kind = "truncate"
    title = "Truncate"
    summary = (
        "Joins the middles of edges, round every cell and every vertex, once or several times."
    )
    sentence = "**Truncate** the net {times}, joining the middles of its edges on the shape."
    takes = (NET,)

    times: int = count(1, 1, 6, "Times", words=("time", "times"))

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        for k in range(self.times):
            check_size(net.cell_count + len(net.vertices), "times")
            work.progress(k / self.times)
            net = truncated(net)
        return made_net(net)


class DualNet(NetClause):
    kind = "dual"
    title = "Take the dual"
    summary = "A vertex in the middle of every cell, and a cell about every vertex."
    sentence = "**Take the dual**: cells become vertices and vertices cells."
    takes = (NET,)

    def make(self, work: Work) -> Made:
        return made_net(dual(work.inputs["net"]))


class InsetCells(NetClause):
    kind = "inset"
    title = "Draw cells inward"
    summary = (
        "An opening or panel within every cell, its corners rounded, and a ring of panels about it."
    )
    sentence = (
        "**Draw** every cell inward by {by}[by=share| of {share}][by=distance| of {distance} from its sides][by=height| of {low} "
        "at the foot to {high} at the top], its corners rounded by {radius}, {keep}."
    )
    takes = (NET,)

    by: Literal["share", "distance", "height"] = choice(
        "share",
        {
            "share": "a share",
            "distance": "a distance",
            "height": "a share that changes with height",
        },
        "By",
    )
    share: float = number(30.0, "%", 1.0, 95.0, 1.0, "Share", "Of the way to its middle")
    distance: float = number(0.2, "m", 0.001, 100.0, 0.01, "Distance")
    low: float = number(75.0, "%", 1.0, 95.0, 1.0, "Share at the foot")
    high: float = number(25.0, "%", 1.0, 95.0, 1.0, "Share at the top")
    radius: float = number(
        0.0,
        "m",
        0.0,
        100.0,
        0.01,
        "Radius",
        "Where it does not fit, the largest that does is made.",
    )
    keep: Literal["filled", "open"] = choice(
        "filled", {"filled": "the inner cells kept", "open": "left open"}, "Inner cells"
    )

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        arc = 4 if self.radius >= 0.001 else 0
        check_size(len(net.corners) + net.cell_count, "by")
        share: float | Array | None = self.share / 100 if self.by == "share" else None
        if self.by == "height":
            z = net.cell_means[:, 2]
            t = (z - z.min()) / max(float(np.ptp(z)), 1e-9)
            share = (self.low + t * (self.high - self.low)) / 100
        distance = self.distance if self.by == "distance" else None
        try:
            made = inset(
                net,
                share,
                distance,
                self.radius if arc else 0.0,
                max(arc, 1),
                self.keep == "filled",
            )
        except NetError as error:
            raise _sound(error, "by") from None
        tidied = made.net
        if float(tidied.edge_lengths.min()) < NO_LENGTH:
            # Corners whose rounding found no room at all.
            tidied = merged_near(tidied, NO_LENGTH)[0]
        return made_net(
            tidied,
            {"inner": Figure("Inner cells", int(made.inner.sum()))},
            self._misfits(net, made),
        )

    def _misfits(self, net: Net, made: Inset) -> list[Notice]:
        """What had no room and was made as large as fits."""
        warnings = []
        if len(made.shrunk):
            at = net.vertices[net.corners[net.offsets[made.shrunk[0]]]]
            warnings.append(
                Notice(
                    f"{len(made.shrunk)} cells have no room for {metres(self.distance)} and were "
                    "drawn in by what fits.",
                    at=place_of(at),
                    value="distance",
                )
            )
        if len(made.clamped):
            warnings.append(
                Notice(
                    f"A radius of {metres(self.radius)} does not fit at {len(made.clamped)} "
                    "corners; the largest that does was made.",
                    at=place_of(made.clamped[0]),
                    value="radius",
                )
            )
        return warnings


class RaiseCells(NetClause):
    kind = "raise"
    title = "Raise cells"
    summary = "Pyramids over the cells, or coffers, outside or inside; deeper or flatter near pull points."
    sentence = "**Raise** the middle of every cell by {depth} on its {side}, {form}[form=coffers| with tops {top} of the cell]."
    takes = (NET, PULLS)

    depth: float = number(0.4, "m", 0.001, 100.0, 0.01, "Depth", by_size=CELL_DEPTHS)
    side: Literal["outside", "inside"] = choice(
        "outside", {"outside": "outside", "inside": "inside"}, "Side"
    )
    form: Literal["pyramids", "coffers"] = choice(
        "pyramids", {"pyramids": "as pyramids", "coffers": "as coffers"}, "Form"
    )
    top: float = number(40.0, "%", 5.0, 95.0, 1.0, "Size of the tops")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        check_size(len(net.corners), "depth")
        depth = np.full(net.cell_count, self.depth * (1.0 if self.side == "outside" else -1.0))
        middle = net.cell_means
        pulls: list[Pulling] = work.inputs.get("pulls") or []
        for pull in pulls:
            for line in pull.lines:
                away = np.linalg.norm(middle[:, None] - line[None], axis=2).min(axis=1)
                depth *= 1 + pull.strength * np.exp(-((away / pull.reach) ** 2))
        try:
            made = raised(net, depth, self.top / 100 if self.form == "coffers" else 0.0)
        except NetError as error:
            raise _sound(error, "depth") from None
        return made_net(made, {"deepest": Figure("Deepest", float(np.abs(depth).max()), "m", 3)})


class ThinOut(NetClause):
    kind = "thin"
    title = "Thin out"
    summary = "Takes out a share of the cells, or dissolves edges or vertices, chosen by a seed."
    sentence = "**Thin out** {share} of the {what} by seed {seed}."
    takes = (NET,)

    share: float = number(
        20.0,
        "%",
        0.0,
        95.0,
        1.0,
        "Share",
        "A larger share takes out what a smaller one did, and more.",
    )
    what: Literal["cells", "edges", "vertices"] = choice(
        "cells",
        {
            "cells": "cells, leaving openings",
            "edges": "edges, joining cells",
            "vertices": "vertices, joining cells",
        },
        "What",
    )
    seed: int = count(1, 0, 100_000, "Seed")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        share = self.share / 100
        if self.what == "cells":
            chosen = chosen_by_seed(np.arange(net.cell_count), share, self.seed)
            return made_net(without_cells(net, chosen), {"taken": Figure("Taken out", len(chosen))})
        candidates = (
            np.flatnonzero(~net.border) if self.what == "edges" else np.arange(len(net.vertices))
        )
        chosen = chosen_by_seed(candidates, share, self.seed)
        try:
            made, gone = (without_edges if self.what == "edges" else without_vertices)(net, chosen)
        except NetError as error:
            raise _sound(error, "share") from None
        warnings = []
        if gone < len(chosen):
            warnings.append(
                Notice(
                    f"{len(chosen) - gone} of {len(chosen)} {self.what} stayed, as the net would not be sound without them.",
                    value="share",
                )
            )
        return made_net(made, {"taken": Figure("Taken out", gone)}, warnings)


class DivideEdges(NetClause):
    kind = "divide-edges"
    title = "Divide long edges"
    summary = "New vertices on edges that are too long for a bar or a pane."
    sentence = "**Divide** edges longer than {longest} evenly."
    takes = (NET,)

    longest: float = number(2.0, "m", 0.01, 1000.0, 0.05, "Longest edge")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        more = float(np.ceil(net.edge_lengths / self.longest).sum())
        check_size(int(more / 2), "longest")
        made = divided_edges(net, self.longest)
        return made_net(
            made, {"divided": Figure("Edges divided", int((net.edge_lengths > self.longest).sum()))}
        )


class MergeNear(NetClause):
    kind = "merge"
    title = "Merge near vertices"
    summary = "Short edges shrink to a vertex, so that no member is too short to be made."
    sentence = "**Merge** vertices nearer than {distance} along an edge."
    takes = (NET,)

    distance: float = number(0.2, "m", 0.001, 100.0, 0.01, "Distance")

    def make(self, work: Work) -> Made:
        net: Net = work.inputs["net"]
        try:
            made, gone = merged_near(net, self.distance)
        except NetError as error:
            raise _sound(error, "distance") from None
        if not made.cell_count:
            raise ClauseError(
                f"Nothing is left when vertices nearer than {metres(self.distance)} are merged; "
                "the usual edge measures "
                f"{metres(np.median(net.edge_lengths), '.2f')}.",
                "distance",
            )
        return made_net(made, {"merged": Figure("Vertices merged", gone)})


class EaseNet(NetClause):
    kind = "ease"
    title = "Ease the net"
    summary = "Vertices move to the middle of their neighbours on the shape; the border stays."
    sentence = "**Ease** the net {rounds}."
    takes = (NET,)

    rounds: int = count(5, 1, 200, "Times", words=("time", "times"))

    def make(self, work: Work) -> Made:
        return made_net(eased_on_shape(work.inputs["net"], self.rounds))
