"""Ends of members that stand on plates: at feet and where one ends alone on a plate that lies level
or square to it, and where two are bolted on two plates that face each other.

A plate at a foot holds all that ends there. Two members are parted by the plane half-way between
them, square to a₂ − a₁ of the unit directions a in which they lead away; where they are bolted the
plates lie along it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from .arms import PASSAGE, Arms, arms_of
from .cuts import CUT, LEVEL, NORMAL, PLANES, Cuts
from .faults import Fault, any_of, blame
from .meetings import meeting_number
from .structure import Structure
from .welding import weld_cuts

__all__ = ["PlatedEnds", "blame_moved", "plated", "plated_ends"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]

LEAST_RISE = float(np.sin(np.radians(15.0)))
"""Sine of the angle between an axis and its plate; less would make the end longer than it helps."""
SQUARE = 1e-10
"""By which the cosine to an axis may be less than 1 for a plane to be square to it."""
ROOM = 1e-6
"""Metres by which members may be held back otherwise than for their plates."""
UPWARD = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class PlatedEnds:
    """Ends (n,) of members that stand on plates, node by node.

    Parameters
    ----------
    node, member, end : (n,) where they are, and which end of the member
    away : (n, 3) unit directions in which they lead into their members
    off : (n, 3) metres from their nodes to where their axes end
    normal : (n, 3) unit directions from ends into their plates
    level : (n,) metres along these from where axes end to the faces that members stand on
    is_pair : (n,) whether the node's other end stands on a plate of its own that faces this one's
    fault : (N,) of all nodes of the structure
    """

    node: Index
    member: Index
    end: Index
    away: Array
    off: Array
    normal: Array
    level: Array
    is_pair: Flags
    fault: Index

    def some(self, which: Flags) -> PlatedEnds:
        """Some of them."""
        names = ("node", "member", "end", "away", "off", "normal", "level", "is_pair")
        return replace(self, **{name: getattr(self, name)[which] for name in names})

    @cached_property
    def ends(self) -> Index:
        """Twice the number (n,) of the member of each, plus 1 for its last end."""
        return (2 * self.member + self.end).astype(np.int32)

    @cached_property
    def partner(self) -> Index:
        """The other of two ends at a node (n,), −1 where there is none."""
        out = np.full(len(self.node), -1, np.int32)
        first = np.flatnonzero(self.node[:-1] == self.node[1:])
        out[first], out[first + 1] = first + 1, first
        return out

    @cached_property
    def half_way(self) -> tuple[Array, Array]:
        """Of ends with a partner, unit directions (n, 3) to the plane half-way between both, and
        how far (n,) along these it is from where their axes end; 0 of others."""
        at = np.flatnonzero(self.partner >= 0)
        other = self.partner[at]
        normal, level = np.zeros_like(self.away), np.zeros(len(self.node))
        normal[at] = unit(self.away[other] - self.away[at])
        level[at] = _along(normal[at], self.off[other] - self.off[at]) / 2
        return normal, level


def plated_ends(structure: Structure) -> PlatedEnds:
    """Ends at all nodes that are to stand on plates by how members meet there; nodes that cannot
    have one have a ``fault``."""
    ends = _on_plates(structure, _ends_of(structure))
    count, fault, alone = len(ends.fault), ends.fault, ends.partner < 0
    mitred, into = (_along(way, ends.away) for way in (ends.half_way[0], ends.normal))
    blame(fault, any_of(ends.node, ~alone & (mitred > -LEAST_RISE), count), Fault.CLOSE)
    turned = ~alone & ~ends.is_pair & (_along(ends.normal, ends.normal[ends.partner]) < 0)
    blame(fault, any_of(ends.node, turned | (into > -LEAST_RISE), count), Fault.STEEP)
    return ends.some(fault[ends.node] == 0)


def _on_plates(structure: Structure, ends: PlatedEnds) -> PlatedEnds:
    """The ``ends`` (n) with where their plates lie."""
    told = [(rule.thickness, rule.gap, rule.level) for rule in structure.rules]
    thickness, gap, level = np.array(told)[structure.rule[ends.node]].T
    alone, (apart, half) = ends.partner < 0, ends.half_way
    is_pair = ~alone & ~structure.foot[ends.node]
    lies_level = (level > 0) | ~alone
    upright = np.where(ends.away[:, 2] < 0, 1.0, -1.0)[:, None] * UPWARD
    flat = np.where(lies_level[:, None], upright, -ends.away)
    normal = np.where(is_pair[:, None], apart, flat)
    # Level plates lie above their nodes, square ones before where axes end.
    below = thickness + gap + np.where(lies_level, _along(normal, ends.off), 0.0)
    between = half - thickness - gap / 2
    return replace(ends, normal=normal, level=np.where(is_pair, between, -below), is_pair=is_pair)


def _along(vectors: Array, ways: Array) -> Array:
    """How far (n,) vectors (n, 3) lead along directions (n, 3)."""
    return np.asarray(np.einsum("ij,ij->i", vectors, ways))


def _ends_of(structure: Structure) -> PlatedEnds:
    """Ends at nodes that are to have plates and where but one or two end, not yet on these."""
    arms = arms_of(structure, joined=True)
    count, is_end = len(structure.places), arms.end != PASSAGE
    fault = np.zeros(count, np.int32)
    several = np.bincount(arms.node[is_end], minlength=count)
    blame(fault, several < 1, Fault.FEW)
    wanted = np.array([rule.way == "plated" for rule in structure.rules])
    blame(fault, ~wanted[structure.rule], Fault.OTHER)
    blame(fault, np.bincount(arms.node[~is_end], minlength=count) > 0, Fault.PASSES)
    blame(fault, several > PLANES, Fault.MANY)
    which = np.flatnonzero(is_end & (fault[arms.node] == 0))
    nothing = np.zeros(len(which))
    return PlatedEnds(
        node=arms.node[which],
        member=arms.member[which],
        end=arms.end[which],
        away=arms.away[which],
        off=arms.offset[which],
        normal=np.zeros((len(which), 3)),
        level=nothing,
        is_pair=nothing > 0,
        fault=fault,
    )


def plated(structure: Structure, arms: Arms) -> Structure:
    """The structure with its members cut for plates; where there can be none they are welded."""
    ends = plated_ends(structure)
    has = ends.fault == 0
    welded, back = weld_cuts(structure, arms)
    at_plates = has[structure.ends].ravel()
    own, square = _cuts_of(structure, ends)
    back = np.where(at_plates.reshape(-1, 2), 0.0, back)
    back.reshape(-1)[ends.ends] = square
    cuts = Cuts.together([welded.some(~at_plates[welded.end]), own])
    way = np.where(has, meeting_number("plated"), meeting_number("welded")).astype(np.int32)
    return replace(structure, meeting=way).cut_by(cuts, back)


def _cuts_of(structure: Structure, ends: PlatedEnds) -> tuple[Cuts, Array]:
    """What cuts ends, and the set-backs (n,) in metres of those that are cut square, once."""
    rows = np.zeros((len(ends.node), PLANES, CUT))
    rows[:, 0, NORMAL], rows[:, 0, LEVEL] = ends.normal, ends.level
    meets = (ends.partner >= 0) & ~ends.is_pair
    apart, half = ends.half_way
    rows[meets, 1, NORMAL], rows[meets, 1, LEVEL] = apart[meets], half[meets]
    is_square = _along(ends.normal, ends.away) < SQUARE - 1
    is_square &= ~meets & structure.straight_ends[ends.ends]
    rows[is_square] = 0.0
    row, slot = np.nonzero(rows.any(axis=2))
    order = np.lexsort((slot, ends.ends[row]))
    row, slot = row[order], slot[order]
    cuts = Cuts.of_rows(ends.ends[row], rows[row, slot])
    return cuts, np.where(is_square, -ends.level, 0.0)


def blame_moved(structure: Structure, ends: PlatedEnds) -> None:
    """Notes nodes whose members are cut otherwise by now than for their plates."""
    wanted = plated(structure, arms_of(structure))
    off = np.abs(wanted.set_back - structure.set_back)[ends.member, ends.end] > ROOM
    blame(ends.fault, any_of(ends.node, off, len(ends.fault)), Fault.MOVED)
