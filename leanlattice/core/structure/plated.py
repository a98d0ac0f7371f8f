"""Ends of members that stand on plates: at feet and where one ends alone on a plate that lies level
or square to it, and where two are bolted on two plates that face each other.

A plate at a foot holds all that ends there. Two members are parted by the plane half-way between
them, square to a₂ − a₁ of the unit directions a in which they lead away; where they are bolted the
plates lie along it. Three or more stand apart: their plate lies as far above the node as it takes.
So far above, an axis is at h g of the node, g = a / (a · u) − u of the direction u square to the
plate, and a section of radius r about it reaches r √(1 + (d · g)²) along the plate's direction d.
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
CLEAR = 0.01
"""Metres that three or more members stand apart on one plate, to be welded to it all round."""
ROOM = 1e-6
"""Metres by which members may be held back otherwise than for their plates."""
SIDES = 96
"""Sides of round sections as they are looked at."""
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
    raised : (n,) metres that the plate lies higher for members to stand apart on it
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
    raised: Array
    fault: Index

    def some(self, which: Flags) -> PlatedEnds:
        """Some of them."""
        names = ("node", "member", "end", "away", "off", "normal", "level", "is_pair", "raised")
        return replace(self, **{name: getattr(self, name)[which] for name in names})

    @cached_property
    def ends(self) -> Index:
        """Twice the number (n,) of the member of each, plus 1 for its last end."""
        return (2 * self.member + self.end).astype(np.int32)

    @cached_property
    def several(self) -> Index:
        """How many ends there are at the node of each (n,)."""
        return np.bincount(self.node, minlength=len(self.fault))[self.node].astype(np.int32)

    @cached_property
    def pairs(self) -> Index:
        """All twos (p, 2) of ends at nodes with three or more."""
        most = int(self.several.max(initial=0))
        out = [np.zeros((0, 2), np.int32)]
        for step in range(1, most if most > 2 else 0):
            one = np.flatnonzero(self.node[step:] == self.node[:-step])
            one = one[self.several[one] > 2].astype(np.int32)
            out.append(np.column_stack([one, one + step]))
        return np.concatenate(out)

    @cached_property
    def partner(self) -> Index:
        """The other of two ends at a node (n,), −1 where there is none or more than one."""
        out = np.full(len(self.node), -1, np.int32)
        first = np.flatnonzero((self.several[:-1] == 2) & (self.node[:-1] == self.node[1:]))
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
    count, fault = len(ends.fault), ends.fault
    into, (one, two) = _along(ends.normal, ends.away), ends.pairs.T
    is_two = ends.partner >= 0
    close = is_two & (_along(ends.half_way[0], ends.away) > -LEAST_RISE)
    apart = np.linalg.norm(ends.away[one] - ends.away[two], axis=1)
    close[one[apart < 2 * LEAST_RISE]] = True
    blame(fault, any_of(ends.node, close, count), Fault.CLOSE)
    first = np.searchsorted(ends.node, ends.node)
    turned = ~ends.is_pair & (_along(ends.normal, ends.normal[first]) < 0)
    blame(fault, any_of(ends.node, turned | (into > -LEAST_RISE), count), Fault.STEEP)
    return ends.some(fault[ends.node] == 0)


def _on_plates(structure: Structure, ends: PlatedEnds) -> PlatedEnds:
    """The ``ends`` (n) with where their plates lie."""
    told = [(rule.thickness, rule.gap, rule.level) for rule in structure.rules]
    thickness, gap, level = np.array(told)[structure.rule[ends.node]].T
    alone, (apart, half) = ends.several < 2, ends.half_way
    is_pair = ~alone & ~structure.foot[ends.node]
    lies_level = (level > 0) | ~alone
    upright = np.where(ends.away[:, 2] < 0, 1.0, -1.0)[:, None] * UPWARD
    flat = np.where(lies_level[:, None], upright, -ends.away)
    normal = np.where(is_pair[:, None], apart, flat)
    # Level plates lie above their nodes, square ones before where axes end.
    ends = replace(ends, normal=normal, is_pair=is_pair)
    raised = np.maximum(_apart_from(structure, ends) - thickness - gap, 0.0)
    below = thickness + gap + raised + np.where(lies_level, _along(normal, ends.off), 0.0)
    between = half - thickness - gap / 2
    return replace(ends, level=np.where(is_pair, between, -below), raised=raised)


def _apart_from(structure: Structure, ends: PlatedEnds) -> Array:
    """From how far (n,) above the nodes of ends, in metres, all that end there are apart; 0 where
    these are not more than two."""
    one, two = ends.pairs.T
    up = -ends.normal
    rise = np.maximum(_along(ends.away, up), LEAST_RISE)
    lean = ends.away / rise[:, None] - up
    at = ends.off - _along(ends.off, up)[:, None] * (up + lean)
    between = lean[two] - lean[one]
    spread = np.maximum(np.linalg.norm(between, axis=1), ROOM)
    way = between / spread[:, None]
    half = [_reach(structure, ends, k) * np.hypot(1.0, _along(way, lean[k])) for k in (one, two)]
    needed = (half[0] + half[1] + CLEAR - _along(at[two] - at[one], way)) / spread
    out = np.zeros(len(ends.fault))
    np.maximum.at(out, ends.node[one], needed)
    return out[ends.node]


def _reach(structure: Structure, ends: PlatedEnds, which: Index) -> Array:
    """How far (k,) sections of the ends ``which`` (k,) reach from their axes, in metres."""
    corners = [np.vstack([ring for ring, _ in s.shape.pieces(SIDES)]) for s in structure.sections]
    radius = np.array([np.linalg.norm(rows, axis=1).max() for rows in corners])
    member = ends.member[which]
    entry = np.where(
        ends.end[which] == 1, structure.offsets[member + 1] - 1, structure.offsets[member]
    )
    return np.asarray(radius[structure.section_of[member]] * structure.scale[entry])


def _along(vectors: Array, ways: Array) -> Array:
    """How far (n,) vectors (n, 3) lead along directions (n, 3)."""
    return np.asarray(np.einsum("ij,ij->i", vectors, ways))


def _ends_of(structure: Structure) -> PlatedEnds:
    """Ends at nodes that are to have plates and are feet or where but one or two end, not yet on
    these."""
    arms = arms_of(structure, joined=True)
    count, is_end = len(structure.places), arms.end != PASSAGE
    fault = np.zeros(count, np.int32)
    several = np.bincount(arms.node[is_end], minlength=count)
    blame(fault, several < 1, Fault.FEW)
    wanted = np.array([rule.way == "plated" for rule in structure.rules])
    blame(fault, ~wanted[structure.rule], Fault.OTHER)
    blame(fault, np.bincount(arms.node[~is_end], minlength=count) > 0, Fault.PASSES)
    blame(fault, (several > PLANES) & ~structure.foot, Fault.MANY)
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
        raised=nothing,
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
