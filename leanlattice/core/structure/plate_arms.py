"""Arms of node plates: flat straps that leave a plate's middle and are folded twice onto the axes of
members.

At a node the frame is the normal and the plan direction of its first arm; all is counted from the
middle of the axes that end there. An axis whose plan direction is u passes ``aside`` of the middle
and is h(t) = rise + t · tan e high at a plan distance t along u, with e the elevation. Its arm stays
in the plate's plane as far as the first fold, t = ρ, goes straight to the axis, which it meets at
the second fold, t = ρ + r, and is on it from there on. So it is folded by α = atan2(h(ρ + r), r) and
by e − α.

Between two arms, γ apart, the plate's corner is rounded. The rounding touches their sides where a
place that is its radius off both lies, p · v₁ = a₁ and p · v₂ = a₂ with the directions v square to
the arms (in closed form, as two lines meet), and no arm is folded before that.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import IntEnum
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .arms import PASSAGE, Arms, arms_of, sizes_of
from .structure import Structure

__all__ = ["ArmJoint", "Fault", "PlateArms", "arm_set_backs", "plate_arms"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]

STEEP = float(np.radians(45.0))
"""Elevation above which a member stands on a plate rather than being held by an arm of it."""
LEAST_LEFT = 0.05
"""Tangent that has to be left between the sharpest fold and a member's own elevation."""
RUN = 4.0
"""Least distance of an arm's two folds, in thicknesses."""
LEAST_ANGLE = float(np.radians(8.0))
"""Between arms; less leaves no corner that can be rounded."""
STRAIGHT = float(np.radians(150.0))
"""Angle between arms from which what is between them is filled up to their folds."""
ROOM = 1e-6
"""Metres by which a member may be nearer to its node than the last fold."""
EDGE = 1.2
"""Least distance of a bolt from an arm's side, in diameters of its hole (EN 1993-1-8, 3.5)."""
END, PITCH = 2.0, 3.0
"""Distances of bolts from ends and from each other, in diameters of holes."""


class Fault(IntEnum):
    """Why a node where members end has no plate; the first that holds."""

    NONE = 0
    FEW = 1
    OTHER = 2
    PASSES = 3
    BENT = 4
    CLOSE = 5
    STEEP = 6
    NARROW = 7
    LONG = 8


class ArmJoint(NamedTuple):
    """How arms are joined to members.

    Parameters
    ----------
    enters : metres by which arms reach into their members; with bolts, this follows from them
    bolts : through each arm
    hole : diameter of their holes, in metres
    """

    enters: float
    bolts: int = 0
    hole: float = 0.0

    @property
    def lap(self) -> float:
        """Metres by which arms reach into their members."""
        if not self.bolts:
            return self.enters
        return (2 * END + (self.bolts - 1) * PITCH) * self.hole

    @property
    def least_width(self) -> float:
        """Metres that an arm has to be wide for its bolts."""
        return 2 * EDGE * self.hole if self.bolts else 0.0

    @property
    def stations(self) -> Array:
        """How far (b,) bolts are into their members, in metres."""
        return np.asarray((END + PITCH * np.arange(self.bolts)) * self.hole)


@dataclass(frozen=True, eq=False)
class PlateArms:
    """Arms (n) of the plates at some ``nodes`` (k,), node by node and counter-clockwise.

    Parameters
    ----------
    nodes : (k,) of the structure
    thickness : (k,) of plates, in metres
    middles, frames : (k, 3), (k, 3, 3; rows) of plates, in metres
    plate : (n,) the plate each arm is of, its position in ``nodes``
    member, end : (n,) the member each holds, and which end of it
    way : (n, 2) unit directions in which arms leave, in the plane of their plates
    aside : (n,) metres by which their axes pass on the left of the middle
    width, rounding : (n,) of arms, and of the corner between each and the next, in metres
    first, run : (n,) plan distances of the first fold from the middle, and between the folds
    slant, elevation : (n,) elevations of an arm between its folds and after them, in radians
    start, stop : (n,) metres along the member's axis from its end to the second fold, and to the
        arm's own end
    set_back : (n,) where the member begins
    angle : (n,) from an arm to the next, in radians
    corner : (n, 2) the middle of the rounding between these; not a number where there is none
    fault : (N,) of all nodes of the structure
    stood : (s,) members that stand too steeply at a plate for an arm, and
    stood_end : (s,) which end of them
    """

    nodes: Index
    thickness: Array
    middles: Array
    frames: Array
    plate: Index
    member: Index
    end: Index
    way: Array
    aside: Array
    width: Array
    rounding: Array
    first: Array
    run: Array
    slant: Array
    elevation: Array
    start: Array
    stop: Array
    set_back: Array
    angle: Array
    corner: Array
    fault: Index
    stood: Index
    stood_end: Index

    @property
    def count(self) -> int:
        """Number of plates."""
        return len(self.nodes)

    @cached_property
    def offsets(self) -> Index:
        """Plate ``i`` has the arms ``offsets[i]:offsets[i + 1]``."""
        return np.searchsorted(self.plate, np.arange(self.count + 1)).astype(np.int32)

    @cached_property
    def slope(self) -> Array:
        """Lengths (n,) of arms between their folds, in metres."""
        return self.run / np.cos(self.slant)

    @cached_property
    def reach(self) -> Array:
        """How long (n,) arms are in the flat, from the middle on, in metres."""
        return self.first + self.slope + self.stop - self.start

    @cached_property
    def following(self) -> Index:
        """The next arm (n,) counter-clockwise round the same plate."""
        after = np.arange(1, len(self.plate) + 1)
        last = self.offsets[1:] - 1
        after[last] = self.offsets[:-1]
        return after.astype(np.int32)

    def folded(self, arm: Index, flat: Array) -> Array:
        """Places (k, 3) in metres of flat ones (k, 2) along and across the arms (k,)."""
        along, across = flat.T
        slope, beyond = self.slope[arm], along - self.first[arm]
        on = np.clip(beyond, 0.0, slope)
        past = np.maximum(beyond - slope, 0.0)
        slant, rise = self.slant[arm], self.elevation[arm]
        out = np.minimum(along, self.first[arm]) + on * np.cos(slant) + past * np.cos(rise)
        high = on * np.sin(slant) + past * np.sin(rise)
        way = self.way[arm]
        left = np.column_stack([-way[:, 1], way[:, 0]])
        plan = out[:, None] * way + across[:, None] * left
        return self.placed(self.plate[arm], np.column_stack([plan, high]))

    def placed(self, plate: Index, local: Array) -> Array:
        """Places (k, 3) of those (k, 3) in the frames of plates (k,)."""
        turned = np.einsum("ki,kij->kj", local, self.frames[plate])
        return np.asarray(self.middles[plate] + turned)


@dataclass(frozen=True, eq=False)
class _Ends:
    """Ends (n,) of members at nodes that may have plates, counter-clockwise round each; what is not
    as in ``PlateArms`` is the distance ``along`` the way of the axis' place, its height ``rise``
    over the middle, the ``least`` distance of folds and the tangent of the ``sharpest`` one."""

    node: Index
    member: Index
    end: Index
    way: Array
    along: Array
    aside: Array
    rise: Array
    elevation: Array
    thickness: Array
    rounding: Array
    least: Array
    sharpest: Array
    width: Array
    set_back: Array

    def some(self, which: Flags | NDArray[np.int64]) -> _Ends:
        """Some of them, or all in another order."""
        return replace(self, **{name: values[which] for name, values in vars(self).items()})


class _Fitted(NamedTuple):
    """Arms of ``ends`` (n,) that nothing but their joints may speak against, with what is as in
    ``PlateArms``; ``least_run`` and ``least_start`` (n,) are those of the steepest folds. Of all
    nodes the ``frames`` and the ``fault`` (N,), and ends that ``stood`` too steeply."""

    ends: _Ends
    stood: _Ends
    frames: Array
    angle: Array
    corner: Array
    first: Array
    least_run: Array
    least_start: Array
    fault: Index


def arm_set_backs(structure: Structure, clear: Array) -> tuple[Array, Flags]:
    """Set-backs (M, 2) in metres by which members are ``clear`` (M, 2) of each other and begin no
    nearer to nodes than the last folds of their arms; and nodes (N,) that can have a plate. What
    meets otherwise stays as it is."""
    fitted = _fitted(structure)
    ends, out = fitted.ends, clear.copy()
    can = fitted.fault == 0
    here = can[ends.node]
    at = ends.member[here], ends.end[here]
    out[at] = np.maximum(out[at], fitted.least_start[here])
    return out, can


def plate_arms(structure: Structure, joint: ArmJoint) -> PlateArms:
    """Plates at all nodes that members are held back for, and their arms; nodes that cannot have
    one have a ``fault``."""
    ends, stood, frames, angle, corner, first, least_run, least_start, fault = _fitted(structure)
    count = len(structure.places)
    narrow = ends.width < np.maximum(joint.least_width, ends.thickness)
    _blame(fault, _any(ends.node, narrow, count), Fault.NARROW)
    stop = ends.set_back + joint.lap
    _blame(fault, _any(ends.node, stop > structure.lengths[ends.member] / 2, count), Fault.LONG)
    early = least_start > ends.set_back + ROOM
    _blame(fault, _any(ends.node, early, count), Fault.OTHER)
    level = np.cos(ends.elevation)
    room = ends.set_back * level + ends.along - first
    # As gentle as folds are where the second is twice as far out as the first.
    run = np.maximum(np.minimum(room, np.maximum(least_run, first)), least_run)
    high = ends.rise + (first + run) * np.tan(ends.elevation)
    kept = fault[ends.node] == 0
    nodes, leads, plate = np.unique(ends.node[kept], return_index=True, return_inverse=True)
    stands = np.isin(stood.node, nodes)
    return PlateArms(
        nodes=nodes.astype(np.int32),
        thickness=ends.thickness[kept][leads],
        middles=structure.body_middles[nodes],
        frames=frames[nodes],
        plate=plate.astype(np.int32),
        member=ends.member[kept],
        end=ends.end[kept],
        way=ends.way[kept],
        aside=ends.aside[kept],
        width=ends.width[kept],
        rounding=ends.rounding[kept],
        first=first[kept],
        run=run[kept],
        slant=np.arctan2(high, run)[kept],
        elevation=ends.elevation[kept],
        start=((first + run - ends.along) / level)[kept],
        stop=stop[kept],
        set_back=ends.set_back[kept],
        angle=angle[kept],
        corner=corner[kept],
        fault=fault,
        stood=stood.member[stands],
        stood_end=stood.end[stands],
    )


def _fitted(structure: Structure) -> _Fitted:
    arms = arms_of(structure, joined=True)
    count = len(structure.places)
    is_end = arms.end != PASSAGE
    fault = np.zeros(count, np.int32)
    fault[np.bincount(arms.node[is_end], minlength=count) < 2] = Fault.FEW
    wanted = np.array([rule.way == "arms" for rule in structure.rules])
    _blame(fault, ~wanted[structure.rule], Fault.OTHER)
    _blame(fault, np.bincount(arms.node[~is_end], minlength=count) > 0, Fault.PASSES)
    which = np.flatnonzero(is_end & (fault[arms.node] == 0))
    frames = _frames(structure, arms.node[which], arms.away[which])
    ends = _ends(structure, arms, which, frames)
    steep = np.abs(ends.elevation) > STEEP
    stood, ends = ends.some(steep), ends.some(~steep)
    few = np.bincount(ends.node, minlength=count) < 2
    _blame(fault, few, Fault.FEW)
    bent = ~structure.straight_ends[2 * ends.member + ends.end]
    _blame(fault, _any(ends.node, bent, count), Fault.BENT)
    ends = ends.some(fault[ends.node] == 0)
    angle, corner, touch, close = _corners(ends)
    _blame(fault, _any(ends.node, close, count), Fault.CLOSE)
    sharp = np.abs(np.tan(ends.elevation)) > ends.sharpest - LEAST_LEFT
    _blame(fault, _any(ends.node, sharp, count), Fault.STEEP)
    first = np.maximum(touch + ends.thickness, ends.least)
    run = _runs(ends, first)
    start = (first + run - ends.along) / np.cos(ends.elevation)
    return _Fitted(ends, stood, frames, angle, corner, first, run, start, fault)


def _blame(fault: Index, holds: Flags, why: Fault) -> None:
    """Notes why nodes (N,) have no plate, of those that had none to blame yet."""
    fault[holds & (fault == 0)] = why


def _any(node: Index, holds: Flags, count: int) -> Flags:
    """Whether it holds at each of so many nodes of one of the ends there."""
    return np.asarray(np.bincount(node, holds, minlength=count) > 0)


def _frames(structure: Structure, node: Index, away: Array) -> Array:
    """Frames (N, 3, 3; rows) of nodes: x along the plan direction of the first of the least steep
    of the arms (n,), z along the normal."""
    normal = structure.normals
    flat = away - np.einsum("ij,ij->i", away, normal[node])[:, None] * normal[node]
    level = np.linalg.norm(flat, axis=1)
    order = np.lexsort((np.arange(len(node)), -np.round(level, 6), node))
    _, leads = np.unique(node[order], return_index=True)
    leads = order[leads]
    x = np.zeros_like(normal)
    x[node[leads]] = flat[leads] / np.maximum(level[leads], 1e-9)[:, None]
    return np.stack([x, np.cross(normal, x), normal], axis=1)


def _ends(structure: Structure, arms: Arms, which: NDArray[np.int64], frames: Array) -> _Ends:
    """Ends (n,) of arms at ``which`` positions, in the frames of their nodes."""
    node, away = arms.node[which], arms.away[which]
    off = arms.offset[which] + (structure.places - structure.body_middles)[node]
    local = np.einsum("kij,kj->ki", frames[node], away)
    place = np.einsum("kij,kj->ki", frames[node], off)
    flat = np.maximum(np.linalg.norm(local[:, :2], axis=1), 1e-9)
    way = local[:, :2] / flat[:, None]
    left = np.column_stack([-way[:, 1], way[:, 0]])
    elevation = np.arctan2(local[:, 2], flat)
    along = np.einsum("ij,ij->i", place[:, :2], way)
    # Square to the arm, level in its plate.
    across = np.einsum("ki,kij->kj", np.column_stack([left, np.zeros(len(left))]), frames[node])
    half, is_round = (sizes[which] for sizes in sizes_of(structure, arms))
    wide = np.abs(np.einsum("ij,ij->i", across, arms.side[which])) * half[:, 0]
    tall = np.abs(np.einsum("ij,ij->i", across, arms.up[which])) * half[:, 1]
    reach = np.where(is_round, half[:, 0], wide + tall)
    member, end = arms.member[which], arms.end[which]
    told = [(r.thickness, r.rounding, r.radius, r.beyond, r.fold) for r in structure.rules]
    thickness, rounding, least, beyond, fold = np.array(told)[structure.rule[node]].T
    order = np.lexsort((np.arctan2(way[:, 1], way[:, 0]), node))
    every = _Ends(
        node=node,
        member=member,
        end=end,
        way=way,
        along=along,
        aside=np.einsum("ij,ij->i", place[:, :2], left),
        rise=place[:, 2] - along * np.tan(elevation),
        elevation=elevation,
        thickness=thickness,
        rounding=rounding,
        least=least,
        sharpest=np.tan(fold),
        width=2 * (reach + beyond),
        set_back=structure.set_back[member, end],
    )
    return every.some(order)


def _corners(ends: _Ends) -> tuple[Array, Array, Array, Flags]:
    """Angles (n,) from arms to the next, middles (n, 2) of the roundings between these, how far
    (n,) from the middle the roundings on both sides of arms touch them, and which arms (n,) are too
    close to their next."""
    count = len(ends.node)
    if not count:
        return np.zeros(0), np.zeros((0, 2)), np.zeros(0), np.zeros(0, bool)
    begins = np.flatnonzero(np.diff(ends.node, prepend=-1))
    after = np.arange(1, count + 1)
    after[np.append(begins[1:], count) - 1] = begins
    way, other = ends.way, ends.way[after]
    sine = way[:, 0] * other[:, 1] - way[:, 1] * other[:, 0]
    angle = np.arctan2(sine, np.einsum("ij,ij->i", way, other)) % (2 * np.pi)
    has = (angle > LEAST_ANGLE) & (angle < STRAIGHT)
    one = ends.aside + ends.width / 2 + ends.rounding
    two = ends.aside[after] - ends.width[after] / 2 - ends.rounding
    divisor = np.where(has, sine, 1.0)[:, None]
    corner = (one[:, None] * other - two[:, None] * way) / divisor
    touch = np.where(has, np.einsum("ij,ij->i", corner, way), 0.0)
    of_next = np.where(has, np.einsum("ij,ij->i", corner, other), 0.0)
    reach = touch.copy()
    np.maximum.at(reach, after, of_next)
    close = angle <= LEAST_ANGLE
    return angle, np.where(has[:, None], corner, np.nan), reach, close


def _runs(ends: _Ends, first: Array) -> Array:
    """Plan distances (n,) between folds: as long as they have to be for the metal, and for no fold
    to be sharper than can be."""
    slope = np.tan(ends.elevation)
    high = ends.rise + first * slope
    towards = np.where(high * slope > 0, np.abs(slope), -np.abs(slope))
    left = np.maximum(ends.sharpest - towards, LEAST_LEFT)
    return np.maximum(RUN * ends.thickness, np.abs(high) / left)
