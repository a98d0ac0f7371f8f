"""Round hubs at nodes: the flat seats of members on a ball, and the holes that are drilled in them.

A seat is square to its member's axis. It is the circle of radius ρ that the member's section lies
within, about the radius of the ball that is parallel to the axis, so that it is √(R² − ρ²) from the
middle of a ball of radius R and takes the angle asin(ρ / R) about its direction. Two seats whose
directions are θ apart are clear of each other where these angles are less than θ together. That
takes a ball of R² = (ρ₁² + ρ₂² + 2 ρ₁ ρ₂ cos θ) / sin² θ, as the rims of both are on a circle with
the middle between them; and where one can be a half of the ball beside the other, of the larger ρ.
What stands on a seat leads away within the cone of its angle, and so is clear of all others.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .arms import PASSAGE, Arms, arms_of, between, dot, sizes_of
from .faults import Fault, any_of, blame, without_part
from .structure import Structure

__all__ = ["HubSeats", "Making", "SeatEnds", "hub_seats", "seat_set_backs"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]

LEAST_GAP = 0.001
"""Metres between seats at least."""
LEAST_ANGLE = float(np.radians(8.0))
"""Between members; less would take a hub many times as large as these."""
ROOM = 1e-6
"""Metres by which members may be held back otherwise than for one ball."""
WALL = 0.2
"""Least thickness between two holes, in their diameters."""
RIM = 0.1
"""Least of a seat that is left about a hole, in its diameters."""


class Making(NamedTuple):
    """What hubs are made as: with holes in the middles of their seats, on the axes of members,
    where these have a diameter; hollow where there is a wall.

    Parameters
    ----------
    hole, deep : diameter and depth of holes, in metres
    wall : metres between the hollow and the nearest seat
    """

    hole: float = 0.0
    deep: float = 0.0
    wall: float = 0.0


@dataclass(frozen=True, eq=False)
class SeatEnds:
    """Ends (n,) of members at nodes that may have hubs, node by node.

    Parameters
    ----------
    node, member, end : (n,) where they are, and which end of the member
    way : (n, 3) unit directions in which they leave
    off : (n, 3) metres from the middle of the hub to where their axes end at the node
    reach : (n,) radii of their seats, in metres
    set_back : (n,) where members begin, in metres
    gap : (n,) that seats are to have between them on the ball, in metres
    """

    node: Index
    member: Index
    end: Index
    way: Array
    off: Array
    reach: Array
    set_back: Array
    gap: Array

    def some(self, which: Flags | NDArray[np.int64]) -> SeatEnds:
        """Some of them, or all of a node in another order."""
        return replace(self, **{name: getattr(self, name)[which] for name in FIELDS})

    @property
    def nodes(self) -> Index:
        """The nodes (k,) they are at."""
        return np.unique(self.node)

    @property
    def starts(self) -> Index:
        """Where (k + 1,) those of each node begin, and the end of the last."""
        return np.searchsorted(self.node, np.append(self.nodes, np.iinfo(np.int32).max)).astype(
            np.int32
        )

    @property
    def along(self) -> Array:
        """How far (n,) along members from the foot of the middle on their axes these end."""
        return np.asarray(np.einsum("ij,ij->i", self.off, self.way))

    @property
    def levels(self) -> Array:
        """How far (n,) seats are from the middle, in metres."""
        return self.along + self.set_back

    @cached_property
    def needs(self) -> tuple[Array, Array]:
        """The least radius (k,) of each node's ball in metres, and the least angle (k,) of two of
        its members in radians."""
        radius, angle = _least_balls(self.starts, self.way, self.reach, self.gap)
        return radius, angle


FIELDS = tuple(SeatEnds.__dataclass_fields__)


@dataclass(frozen=True, eq=False)
class HubSeats:
    """Hubs at some ``nodes`` (k,) and their seats (n), hub by hub.

    Parameters
    ----------
    nodes : (k,) of the structure
    middles : (k, 3) of the balls, in metres
    radius : (k,) of the balls, in metres
    hub : (n,) the hub each seat is of, its position in ``nodes``
    ends : (n) what is seated
    hollow : (k,) radii of balls of air about the middles, in metres
    fault : (N,) of all nodes of the structure
    needed : (N,) radius of a ball in metres that would do at nodes whose own is too small, or 0
    """

    nodes: Index
    middles: Array
    radius: Array
    hub: Index
    ends: SeatEnds
    hollow: Array
    fault: Index
    needed: Array

    @property
    def count(self) -> int:
        """Number of hubs."""
        return len(self.nodes)

    @cached_property
    def offsets(self) -> Index:
        """Hub ``i`` has the seats ``offsets[i]:offsets[i + 1]``."""
        return np.searchsorted(self.hub, np.arange(self.count + 1)).astype(np.int32)

    @cached_property
    def volumes(self) -> Array:
        """Volumes (k,) in m³ of balls without what is beyond their seats (a spherical cap each) and
        without their hollows."""
        radius, level = self.radius[self.hub], self.ends.levels
        high = radius - level
        caps = np.pi * high**2 * (3 * radius - high) / 3
        whole = 4 / 3 * np.pi * (self.radius**3 - self.hollow**3)
        return np.asarray(whole - np.bincount(self.hub, caps, minlength=self.count))


def seat_set_backs(structure: Structure, clear: Array) -> tuple[Array, Flags]:
    """Set-backs (M, 2) in metres by which members begin at the seats of their hubs, of sizes as the
    rules of nodes have them, and are ``clear`` (M, 2) of each other where there is no hub; and
    nodes (N,) that can have one."""
    ends, fault = _fitted(structure)
    radius = _wanted_radii(structure, ends, fault)
    out, can = clear.copy(), fault == 0
    ends = ends.some(can[ends.node])
    stop = np.sqrt(radius[ends.node] ** 2 - ends.reach**2) - ends.along
    out[ends.member, ends.end] = stop
    return out, can


def hub_seats(structure: Structure, making: Making) -> HubSeats:
    """Hubs at all nodes that members are held back for; nodes that cannot have one have a
    ``fault``."""
    ends, fault = _fitted(structure)
    needed = np.zeros(len(fault))
    wanted = _wanted_radii(structure, ends, fault)
    small = fault[ends.nodes] == Fault.SMALL
    needed[ends.nodes[small]] = ends.needs[0][small]
    ends = ends.some(fault[ends.node] == 0)
    ball = np.hypot(ends.levels, ends.reach)
    off = np.abs(ball - wanted[ends.node]) > ROOM
    blame(fault, any_of(ends.node, off | (ends.levels <= 0), len(fault)), Fault.MOVED)
    narrow = ends.reach < (0.5 + RIM) * making.hole
    blame(fault, any_of(ends.node, narrow, len(fault)), Fault.NARROW)
    ends = ends.some(fault[ends.node] == 0)
    if making.hole:
        _blame_holes(ends, making, fault, needed)
        ends = ends.some(fault[ends.node] == 0)
    nodes, hub = np.unique(ends.node, return_inverse=True)
    return HubSeats(
        nodes=nodes.astype(np.int32),
        middles=structure.body_middles[nodes],
        radius=wanted[nodes],
        hub=hub.astype(np.int32),
        ends=ends,
        hollow=_hollows(ends, making.wall),
        fault=fault,
        needed=needed,
    )


def _fitted(structure: Structure) -> tuple[SeatEnds, Index]:
    """Ends at all nodes that are to have hubs by how members meet there, and what is at fault (N,)
    with nodes."""
    arms = arms_of(structure, joined=True)
    fault = without_part(structure, arms, "seats")
    ends = _ends(structure, arms, fault)
    bent = ~structure.straight_ends[2 * ends.member + ends.end]
    blame(fault, any_of(ends.node, bent, len(fault)), Fault.BENT)
    close = np.zeros(len(fault), bool)
    close[ends.nodes] = ends.needs[1] < LEAST_ANGLE
    blame(fault, close, Fault.CLOSE)
    return ends.some(fault[ends.node] == 0), fault


def _ends(structure: Structure, arms: Arms, fault: Index) -> SeatEnds:
    """Ends of members at nodes without a ``fault`` (N,)."""
    which = np.flatnonzero((arms.end != PASSAGE) & (fault[arms.node] == 0))
    node, member, end = arms.node[which], arms.member[which], arms.end[which]
    away = arms.away[which]
    off = arms.offset[which] + (structure.places - structure.body_middles)[node]
    aside = off - np.einsum("ij,ij->i", off, away)[:, None] * away
    half, is_round = (sizes[which] for sizes in sizes_of(structure, arms))
    reach = np.where(is_round, half[:, 1], np.linalg.norm(half, axis=1))
    gap = np.array([rule.gap for rule in structure.rules])[structure.rule[node]]
    return SeatEnds(
        node=node,
        member=member,
        end=end,
        way=away,
        off=off,
        reach=reach + np.linalg.norm(aside, axis=1),
        set_back=structure.set_back[member, end],
        gap=np.maximum(gap, LEAST_GAP),
    )


def _wanted_radii(structure: Structure, ends: SeatEnds, fault: Index) -> Array:
    """Radii (N,) of balls as the rules of nodes ask for them; those that are fixed and too small
    are at ``fault`` (N,)."""
    needed = np.zeros(len(fault))
    needed[ends.nodes] = ends.needs[0]
    told = np.array([rule.radius for rule in structure.rules])[structure.rule]
    ways = np.array([rule.sizes for rule in structure.rules])[structure.rule]
    out = np.maximum(needed, told)
    for k, rule in enumerate(structure.rules):
        if rule.sizes == "alike":
            own = (structure.rule == k) & (fault == 0)
            out[own] = out[own].max(initial=0.0)
    is_fixed = ways == "fixed"
    blame(fault, is_fixed & (needed > told + ROOM), Fault.SMALL)
    return np.where(is_fixed, told, out)


def _blame_holes(ends: SeatEnds, making: Making, fault: Index, needed: Array) -> None:
    """Notes nodes (N,) two of whose holes meet, and the radii (N,) that they would need."""
    inner = ends.set_back - making.deep
    apart, level = _least_walls(ends.starts, ends.off, ends.way, inner, making)
    met = apart < (1 + WALL) * making.hole - ROOM
    reach = np.maximum.reduceat(ends.reach, ends.starts[:-1]) if len(ends.node) else level
    nodes = ends.nodes[met]
    needed[nodes] = np.hypot(level, reach)[met]
    holds = np.zeros(len(fault), bool)
    holds[nodes] = True
    blame(fault, holds, Fault.MET)


def _hollows(ends: SeatEnds, wall: float) -> Array:
    """Radii (k,) of hollows that leave a ``wall`` behind each seat, or of none."""
    if not wall or not len(ends.node):
        return np.zeros(len(ends.nodes))
    return np.asarray(np.maximum(np.minimum.reduceat(ends.levels, ends.starts[:-1]) - wall, 0.0))


@compiled
def _least_balls(starts, way, reach, gap):  # type: ignore[no-untyped-def]
    """Least radii (k,) of balls on which no two seats meet, and least angles (k,) of directions."""
    radius, angle = np.zeros(len(starts) - 1), np.full(len(starts) - 1, np.pi)
    for h in range(len(radius)):
        for i in range(starts[h], starts[h + 1]):
            radius[h] = max(radius[h], 1.001 * reach[i])
            for j in range(i + 1, starts[h + 1]):
                cosine = min(max(dot(way[i], way[j]), -1.0), 1.0)
                angle[h] = min(angle[h], np.arccos(cosine))
                one, two = reach[i] + gap[i] / 2, reach[j] + gap[j] / 2
                radius[h] = max(radius[h], _least_ball(cosine, one, two))
    return radius, angle


@compiled
def _least_ball(cosine, one, two):  # type: ignore[no-untyped-def]
    """The least radius of a ball on which seats of radii ``one`` and ``two`` do not meet whose
    directions have a ``cosine``."""
    large, small = max(one, two), min(one, two)
    if cosine <= -small / large:
        return large
    sine_square = max(1.0 - cosine * cosine, 1e-12)
    return np.sqrt((one * one + two * two + 2 * one * two * cosine) / sine_square)


@compiled
def _least_walls(starts, off, way, inner, making):  # type: ignore[no-untyped-def]
    """How near (k,) the axes of two holes come to each other that begin ``inner`` (n,) along
    members, and how far from the middle seats would have to be for none to meet."""
    apart, level = np.full(len(starts) - 1, np.inf), np.zeros(len(starts) - 1)
    hole, deep = making.hole, making.deep
    for h in range(len(apart)):
        for i in range(starts[h], starts[h + 1]):
            for j in range(i + 1, starts[h + 1]):
                most = max(inner[i], inner[j]) + deep
                nearest = between(off[i], way[i], inner[i], off[j], way[j], inner[j], most)
                apart[h] = min(apart[h], np.sqrt(dot(nearest, nearest)))
                half = np.sqrt(max((1.0 - dot(way[i], way[j])) / 2, 1e-6))
                level[h] = max(level[h], deep + (1 + WALL) * hole / 2 / half)
    return apart, level
