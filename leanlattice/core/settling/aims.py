"""What a settling net works towards, as data, and the terms of an equilibrium it makes of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import MARKS, Net
from ..naming.numbering import bands, narrowest_bands
from ..nets.borders import loops_by_size
from ..nets.fans import following, preceding
from ..nets.strands import strands_of
from ..results import Result, result_type
from ..shaping.facets import facets
from .cells import CellAreas, Film, FlatCells, RightAngles
from .shapes import ShapeCloseness
from .terms import SHORT, Closeness, Densities, FairStrands, Forces, Lengths, Term

__all__ = ["AIMS", "EDGE_AIMS", "Aim", "AimError"]

Array = NDArray[np.float64]
Rows = NDArray[np.int64]


class AimError(ValueError):
    """A net has nothing of what an aim is for, in a sentence; ``value`` names the field."""

    def __init__(self, text: str, value: str) -> None:
        super().__init__(text)
        self.value = value


@result_type("Aim", "aim", serves=True)
@dataclass(frozen=True, eq=False)
class Aim(Result):
    """An aim of a net's equilibrium.

    Parameters
    ----------
    aim : an entry of ``AIMS``
    over : the edges it is for: ``all``, ``inner`` ones, those of the ``border``, of the ``outer``
        one or of ``holes``, or a mark
    strength : in kN/m, the force for a metre off
    density, force, tension : in kN/m, kN and kN/m, of aims that are forces themselves
    length, least, most : in metres
    share : of the lengths before
    kinds : of lengths at most
    tolerance : within which lengths before are made one, in metres
    """

    aim: str
    over: str = "all"
    strength: float = 100.0
    density: float = 1.0
    force: float = 1.0
    tension: float = 1.0
    length: float = 1.0
    least: float = 0.0
    most: float = np.inf
    share: float = 1.0
    kinds: int = 1
    tolerance: float = 0.0

    def term(self, net: Net, held: NDArray[np.bool_]) -> tuple[Term, Rows]:
        """The aim as a term, and which edges (m,) its rows are, where they are edges.

        Edges whose ends (V, 3) are ``held`` in all directions aim for nothing. Raises
        ``AimError`` where the net has nothing of what the aim is for.
        """
        edges = np.zeros(0, np.int64)
        if self.aim in EDGE_AIMS:
            edges = self._edges(net)
            edges = edges[~held[net.edges[edges]].all(axis=(1, 2))]
            if not len(edges):
                raise AimError(
                    "The net has no such edges that are free to move; mark some, or let all aim so.",
                    "over",
                )
        return AIMS[self.aim](net, self, edges), edges

    def _edges(self, net: Net) -> Rows:
        over = self.over
        if over == "all":
            return np.arange(len(net.edges))
        if over in ("inner", "border"):
            return np.flatnonzero(net.border == (over == "border"))
        if over in ("outer", "holes"):
            loops = loops_by_size(net)
            chosen = loops[:1] if over == "outer" else loops[1:]
            vertices = np.concatenate([*chosen, np.zeros(0, np.int64)])
            return np.flatnonzero(net.border & np.isin(net.edges, vertices).all(axis=1))
        marks = net.marks if net.marks is not None else np.zeros(len(net.edges), np.int32)
        return np.flatnonzero(marks == MARKS.index(over))


def _density(net: Net, aim: Aim, edges: Rows) -> Term:
    return Densities(net.edges[edges], len(net.vertices), np.full(len(edges), aim.density))


def _force(net: Net, aim: Aim, edges: Rows) -> Term:
    short = SHORT * float(np.median(net.edge_lengths))
    strength = np.full(len(edges), aim.force)
    return Forces(net.edges[edges], len(net.vertices), strength, short)


def _lengths(
    wanted: Callable[[Aim, Array], tuple[Array | float, Array | float]], name: str
) -> Callable[[Net, Aim, Rows], Term]:
    def build(net: Net, aim: Aim, edges: Rows) -> Term:
        least, most = (
            np.broadcast_to(bound, len(edges)).astype(float)
            for bound in wanted(aim, net.edge_lengths[edges])
        )
        strength = np.full(len(edges), aim.strength)
        return Lengths(net.edges[edges], len(net.vertices), strength, least, most, name=name)

    return build


def _alike(
    grouped: Callable[[Aim, Array], NDArray[np.int32]], name: str
) -> Callable[[Net, Aim, Rows], Term]:
    """Edges drawn to the mean of the group of lengths that theirs is in."""

    def build(net: Net, aim: Aim, edges: Rows) -> Term:
        today = net.edge_lengths[edges]
        strength = np.full(len(edges), aim.strength)
        group = grouped(aim, today)
        ends, count = net.edges[edges], len(net.vertices)
        return Lengths(ends, count, strength, today, today, group, name)

    return build


def _fair(net: Net, aim: Aim, edges: Rows) -> Term:
    partner = strands_of(net).partner
    ends = np.flatnonzero(partner > np.arange(len(partner)))
    before, after = net.edges.ravel()[ends ^ 1], net.edges.ravel()[partner[ends] ^ 1]
    triples = np.column_stack([before, net.edges.ravel()[ends], after])
    if not len(triples):
        raise AimError(
            "No edges of this net run on through a node, so that there are no strands to be fair.",
            "aim",
        )
    return FairStrands(triples, len(net.vertices), aim.strength)


def _right(net: Net, aim: Aim, edges: Rows) -> Term:
    corners = np.column_stack(
        [net.corners[preceding(net)], net.corners, net.corners[following(net)]]
    )
    quads = np.repeat(np.diff(net.offsets) == 4, np.diff(net.offsets))
    if not quads.any():
        raise AimError("The net has no cells of four corners to be made right-angled.", "aim")
    return RightAngles(corners[quads], net.vertices, aim.strength)


def _flat(net: Net, aim: Aim, edges: Rows) -> Term:
    return FlatCells(net.corners, net.offsets, len(net.vertices), aim.strength)


def _areas(net: Net, aim: Aim, edges: Rows) -> Term:
    return CellAreas(net.corners, net.offsets, len(net.vertices), aim.strength)


def _film(net: Net, aim: Aim, edges: Rows) -> Term:
    return Film(net.vertices, net.corners, net.offsets, aim.tension)


def _close(net: Net, aim: Aim, edges: Rows) -> Term:
    count = len(net.vertices)
    return Closeness(np.arange(count), count, aim.strength, net.vertices)


def _skin(net: Net, aim: Aim, edges: Rows) -> Term:
    return ShapeCloseness(facets(net.surface).mesh, len(net.vertices), aim.strength)


AIMS: dict[str, Callable[[Net, Aim, Rows], Term]] = {
    "density": _density,
    "force": _force,
    "length": _lengths(lambda aim, today: (aim.length, aim.length), "one length"),
    "today": _lengths(
        lambda aim, today: (today * aim.share, today * aim.share), "lengths as they were"
    ),
    "equal": _alike(lambda aim, today: np.zeros(len(today), np.int32), "equal lengths"),
    "few": _alike(lambda aim, today: narrowest_bands(today, aim.kinds), "few lengths"),
    "merged": _alike(lambda aim, today: bands(today, aim.tolerance), "merged lengths"),
    "between": _lengths(lambda aim, today: (aim.least, aim.most), "lengths within bounds"),
    "flat": _flat,
    "fair": _fair,
    "areas": _areas,
    "film": _film,
    "close": _close,
    "skin": _skin,
    "right": _right,
}
"""What a net can work towards."""
EDGE_AIMS = ("density", "force", "length", "today", "equal", "few", "merged", "between")
