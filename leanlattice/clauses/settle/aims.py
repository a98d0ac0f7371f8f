"""What a settling net works towards."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ...core.geometry.nets import MARKS, Net
from ...core.nets.borders import loops_by_size
from ...core.nets.fans import following, preceding
from ...core.nets.strands import strands_of
from ...core.results import Result, result_type
from ...core.settling.cells import CellAreas, Film, FlatCells, RightAngles
from ...core.settling.shapes import ShapeCloseness
from ...core.settling.terms import SHORT, Closeness, Densities, FairStrands, Forces, Lengths, Term
from ...core.shaping.facets import facets
from ..base import ClauseError, Made, Work, choice, number
from .holds import SettleClause

__all__ = ["Aim", "AimFor"]

Array = NDArray[np.float64]
Edges = NDArray[np.int64]


@result_type("Aim", "aim", serves=True)
@dataclass(frozen=True, eq=False)
class Aim(Result):
    """An aim as a term of a net's equilibrium, and which edges (m,) its rows are, where they are
    edges."""

    clause: AimFor

    def term(self, net: Net, held: NDArray[np.bool_]) -> tuple[Term, Edges]:
        """Edges whose ends (V, 3) are ``held`` in all directions aim for nothing. Raises
        ``ClauseError`` where the net has nothing of what the aim is for."""
        edges = np.zeros(0, np.int64)
        if self.clause.aim in _EDGE_AIMS:
            edges = self._edges(net)
            edges = edges[~held[net.edges[edges]].all(axis=(1, 2))]
            if not len(edges):
                raise ClauseError(
                    "The net has no such edges that are free to move; mark some, or let all aim so.",
                    "over",
                )
        return _AIMS[self.clause.aim](net, self.clause, edges), edges

    def _edges(self, net: Net) -> Edges:
        over = self.clause.over
        if over == "all":
            return np.arange(len(net.edges))
        if over in ("inner", "border"):
            return np.flatnonzero(net.border == (over == "border"))
        if over in ("outer", "holes"):
            loops = loops_by_size(net)
            of = np.concatenate(
                [*(loops[:1] if over == "outer" else loops[1:]), np.zeros(0, np.int64)]
            )
            return np.flatnonzero(net.border & np.isin(net.edges, of).all(axis=1))
        marks = net.marks if net.marks is not None else np.zeros(len(net.edges), np.int32)
        return np.flatnonzero(marks == MARKS.index(over))


def _density(net: Net, c: AimFor, e: Edges) -> Term:
    return Densities(net.edges[e], len(net.vertices), np.full(len(e), c.density))


def _force(net: Net, c: AimFor, e: Edges) -> Term:
    short = SHORT * float(np.median(net.edge_lengths))
    return Forces(net.edges[e], len(net.vertices), np.full(len(e), c.force), short)


def _lengths(
    wanted: Callable[[AimFor, Array], tuple[Array | float, Array | float]], name: str
) -> Callable[[Net, AimFor, Edges], Term]:
    def build(net: Net, c: AimFor, e: Edges) -> Term:
        least, most = (
            np.broadcast_to(a, len(e)).astype(float) for a in wanted(c, net.edge_lengths[e])
        )
        strength = np.full(len(e), c.strength)
        return Lengths(
            net.edges[e], len(net.vertices), strength, least, most, c.aim == "equal", name
        )

    return build


def _fair(net: Net, c: AimFor, e: Edges) -> Term:
    partner = strands_of(net).partner
    ends = np.flatnonzero(partner > np.arange(len(partner)))
    before, after = net.edges.ravel()[ends ^ 1], net.edges.ravel()[partner[ends] ^ 1]
    triples = np.column_stack([before, net.edges.ravel()[ends], after])
    if not len(triples):
        raise ClauseError(
            "No edges of this net run on through a node, so that there are no strands to be fair.",
            "aim",
        )
    return FairStrands(triples, len(net.vertices), c.strength)


def _right(net: Net, c: AimFor, e: Edges) -> Term:
    corners = np.column_stack(
        [net.corners[preceding(net)], net.corners, net.corners[following(net)]]
    )
    quads = np.repeat(np.diff(net.offsets) == 4, np.diff(net.offsets))
    if not quads.any():
        raise ClauseError("The net has no cells of four corners to be made right-angled.", "aim")
    return RightAngles(corners[quads], net.vertices, c.strength)


def _close(net: Net, c: AimFor, e: Edges) -> Term:
    return Closeness(np.arange(len(net.vertices)), len(net.vertices), c.strength, net.vertices)


def _skin(net: Net, c: AimFor, e: Edges) -> Term:
    return ShapeCloseness(facets(net.surface).mesh, len(net.vertices), c.strength)


_AIMS: dict[str, Callable[[Net, AimFor, Edges], Term]] = {
    "density": _density,
    "force": _force,
    "length": _lengths(lambda c, today: (c.length, c.length), "one length"),
    "today": _lengths(
        lambda c, today: (today * c.share / 100, today * c.share / 100), "lengths as they were"
    ),
    "equal": _lengths(lambda c, today: (today, today), "equal lengths"),
    "between": _lengths(lambda c, today: (c.least, c.most), "lengths within bounds"),
    "flat": lambda net, c, e: FlatCells(net.corners, net.offsets, len(net.vertices), c.strength),
    "fair": _fair,
    "areas": lambda net, c, e: CellAreas(net.corners, net.offsets, len(net.vertices), c.strength),
    "film": lambda net, c, e: Film(net.vertices, net.corners, net.offsets, c.tension),
    "close": _close,
    "skin": _skin,
    "right": _right,
}
_EDGE_AIMS = ("density", "force", "length", "today", "equal", "between")
_PLAIN = ("density", "force", "film")
"""Aims that are forces themselves and need no strength."""
OVER, STRONG = ", over {over}", ", with a strength of {strength}"


class AimFor(SettleClause):
    kind = "aim"
    title = "Aim for"
    summary = "Force densities, edge forces, lengths, flat cells, fair strands, equal areas, a film, right angles, closeness."
    sentence = (
        "**Aim** for {aim}"
        + "".join(
            f"[aim={aim}|{own}{OVER if aim in _EDGE_AIMS else ''}{STRONG if aim not in _PLAIN else ''}]"
            for aim, own in {
                "density": " of {density}",
                "force": " of {force}",
                "length": " of {length}",
                "today": " times {share}",
                "equal": "",
                "between": " {least} and {most}",
                "flat": "",
                "fair": "",
                "areas": "",
                "film": " of {tension}",
                "close": "",
                "skin": "",
                "right": "",
            }.items()
        )
        + "."
    )
    gives = "Aim"

    aim: Literal[
        "density",
        "force",
        "length",
        "today",
        "equal",
        "between",
        "flat",
        "fair",
        "areas",
        "film",
        "close",
        "skin",
        "right",
    ] = choice(
        "density",
        {
            "density": "a force density",
            "force": "an edge force",
            "length": "a length",
            "today": "lengths as they are",
            "equal": "equal lengths",
            "between": "lengths between",
            "flat": "flat cells",
            "fair": "fair strands",
            "areas": "equal cell areas",
            "film": "the smallest area, as a film",
            "close": "staying where it is",
            "skin": "staying close to its shape",
            "right": "right angles",
        },
        "Aim",
    )
    density: float = number(
        2.0, "kN/m", -1e6, 1e6, 0.1, "Force density", "Force over length; below 0 in compression."
    )
    force: float = number(5.0, "kN", -1e6, 1e6, 0.5, "Edge force")
    length: float = number(1.0, "m", 0.001, 1000.0, 0.05, "Length")
    share: float = number(100.0, "%", 1.0, 1000.0, 1.0, "Share", "Of the lengths before")
    least: float = number(0.5, "m", 0.0, 1000.0, 0.05, "Least length")
    most: float = number(2.0, "m", 0.001, 1000.0, 0.05, "Most length")
    tension: float = number(1.0, "kN/m", 0.001, 1e6, 0.1, "Film tension")
    over: Literal["all", "inner", "border", "outer", "holes", "main", "second", "third"] = choice(
        "all",
        {
            "all": "all edges",
            "inner": "inner edges",
            "border": "the borders",
            "outer": "the outer border",
            "holes": "the borders within",
            "main": "edges marked main",
            "second": "edges marked second",
            "third": "edges marked third",
        },
        "Over",
    )
    strength: float = number(
        100.0,
        "kN/m",
        1e-6,
        1e9,
        10.0,
        "Strength",
        "Force for a metre off.",
    )

    def make(self, work: Work) -> Made:
        if self.aim == "between" and self.least > self.most:
            raise ClauseError(
                f"Between {self.least:g} m and {self.most:g} m lies no length; exchange the two.",
                "least",
            )
        return Made(Aim(self))
