"""Ends of members at nodes that are to have plates with folded arms, and what these need.

At a node the frame is the normal and the plan direction of its first arm; all is counted from the
middle of the axes that end there. An axis whose plan direction is u passes ``aside`` of the
middle and is h(t) = rise + t · tan e high at a plan distance t along u, with e the elevation. Its
arm stays in the plate's plane as far as the first fold, t = ρ, goes straight to the axis, which
it meets at the second fold, t = ρ + r, and is on it from there on. So it is folded by α =
atan2(h(ρ + r), r) and by e − α.

Between two arms, γ apart, the plate's corner is rounded. The rounding touches their sides where a
place that is its radius off both lies, p · v₁ = a₁ and p · v₂ = a₂ with the directions v square
to the arms (in closed form, as two lines meet), and no arm is folded before that.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import unit
from .arms import PASSAGE, Arms, arms_of, sizes_of
from .faults import Fault, any_of, blame, without_part
from .structure import Structure

__all__ = ["Fitted", "PlateEnds", "arm_set_backs", "corners_of", "fitted_ends", "touches"]

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


class Fan(Protocol):
    """Arms (n) of plates, counter-clockwise round each: see ``PlateEnds``."""

    @property
    def way(self) -> Array: ...
    @property
    def aside(self) -> Array: ...
    @property
    def width(self) -> Array: ...
    @property
    def rounding(self) -> Array: ...
    @property
    def angle(self) -> Array: ...
    @property
    def following(self) -> NDArray[np.integer]: ...


def corners_of(fan: Fan) -> Array:
    """Middle (n, 2) of the rounding between each arm and the next; not a number where there is no
    corner."""
    after, sine = fan.following, np.sin(fan.angle)
    has = (fan.angle > LEAST_ANGLE) & (fan.angle < STRAIGHT)
    one = fan.aside + fan.width / 2 + fan.rounding
    two = fan.aside[after] - fan.width[after] / 2 - fan.rounding
    both = one[:, None] * fan.way[after] - two[:, None] * fan.way
    return np.where(has[:, None], both / np.where(has, sine, 1.0)[:, None], np.nan)


def touches(fan: Fan) -> Array:
    """How far (n,) from the middle the roundings on both sides touch an arm; 0 where there are
    none."""
    corner = np.nan_to_num(corners_of(fan))
    out = np.einsum("ij,ij->i", corner, fan.way)
    np.maximum.at(out, fan.following, np.einsum("ij,ij->i", corner, fan.way[fan.following]))
    return np.asarray(out)


@dataclass(frozen=True, eq=False)
class PlateEnds:
    """Ends (n,) of members at nodes that may have plates, counter-clockwise round each.

    Parameters
    ----------
    node, member, end : (n,) where they are, and which end of the member
    way : (n, 2) unit directions in which they leave, in the plane square to the node's normal
    along, aside, high : (n,) metres from the middle to the axis' own place along the way, on its
        left, and up
    elevation : (n,) of axes over that plane, in radians
    width : (n,) of arms, in metres
    thickness, rounding, least : (n,) of plates, of corners and of the distance of folds from the
        middle, in metres
    sharpest : (n,) tangents of the sharpest folds
    set_back : (n,) where members begin, in metres
    """

    node: Index
    member: Index
    end: Index
    way: Array
    along: Array
    aside: Array
    high: Array
    elevation: Array
    width: Array
    thickness: Array
    rounding: Array
    least: Array
    sharpest: Array
    set_back: Array

    def some(self, which: Flags | NDArray[np.int64]) -> PlateEnds:
        """Some of them, or all in another order."""
        return replace(self, **{name: getattr(self, name)[which] for name in FIELDS})

    @cached_property
    def following(self) -> NDArray[np.int64]:
        """The next (n,) counter-clockwise round the same node."""
        begins = np.flatnonzero(np.diff(self.node, prepend=-1))
        after = np.arange(1, len(self.node) + 1)
        after[np.append(begins, len(self.node))[1:] - 1] = begins
        return after

    @cached_property
    def angle(self) -> Array:
        """From each to the next (n,), in radians."""
        other = self.way[self.following]
        sine = self.way[:, 0] * other[:, 1] - self.way[:, 1] * other[:, 0]
        cosine = np.einsum("ij,ij->i", self.way, other)
        return np.asarray(np.arctan2(sine, cosine) % (2 * np.pi))

    @property
    def rise(self) -> Array:
        """How high (n,) axes are over the middle, in metres."""
        return np.asarray(self.high - self.along * np.tan(self.elevation))

    @cached_property
    def first(self) -> Array:
        """Plan distances (n,) of first folds from the middle."""
        return np.maximum(touches(self) + self.thickness, self.least)

    @cached_property
    def least_run(self) -> Array:
        """Plan distances (n,) between folds: as long as they have to be for the metal, and for no
        fold to be sharper than can be."""
        slope = np.tan(self.elevation)
        high = self.rise + self.first * slope
        towards = np.where(high * slope > 0, np.abs(slope), -np.abs(slope))
        left = np.maximum(self.sharpest - towards, LEAST_LEFT)
        return np.maximum(RUN * self.thickness, np.abs(high) / left)

    @cached_property
    def least_start(self) -> Array:
        """How far (n,) along axes from their ends arms can be on these, in metres."""
        return self.stations(self.first + self.least_run)

    def stations(self, plan: Array) -> Array:
        """How far (n,) along axes from their ends they are so far out in plan."""
        return np.asarray((plan - self.along) / np.cos(self.elevation))

    @property
    def on_plate(self) -> Array:
        """How far (n,) along steep axes from their ends members stand clear of the plate's face."""
        steep, flat = np.abs(np.sin(self.elevation)), np.cos(self.elevation)
        over = self.thickness / 2 - np.sign(self.elevation) * self.high
        return np.asarray(np.maximum(over + self.width / 2 * flat, 0.0) / steep)

    @property
    def is_sharp(self) -> Flags:
        """Whether (n,) a member is steeper than arms may be folded."""
        return np.asarray(np.abs(np.tan(self.elevation)) > self.sharpest - LEAST_LEFT)


FIELDS = tuple(PlateEnds.__dataclass_fields__)


class Fitted(NamedTuple):
    """Ends (n,) that nothing but the joints of their arms may speak against, those that ``stood``
    too steeply on the same nodes, and of all nodes the ``frames`` (N, 3, 3; rows) and the ``fault``
    (N,)."""

    ends: PlateEnds
    stood: PlateEnds
    frames: Array
    fault: Index


def arm_set_backs(structure: Structure, clear: Array, alike: bool) -> tuple[Array, Flags]:
    """Set-backs (M, 2) in metres by which members are ``clear`` (M, 2) of each other and begin no
    nearer to nodes than the last folds of their arms, or stand on plates; those of a section
    ``alike``, if wanted; and nodes (N,) that can have a plate. What meets otherwise stays as it
    is."""
    ends, stood, _, fault = fitted_ends(structure)
    out, can = clear.copy(), fault == 0
    here = can[ends.node]
    at = ends.member[here], ends.end[here]
    needed = np.maximum(out[at], ends.least_start[here])
    if alike:
        section = structure.section_of[at[0]]
        most = np.zeros(len(structure.sections))
        np.maximum.at(most, section, needed)
        needed = most[section]
    out[at] = needed
    stood = stood.some(can[stood.node])
    out[stood.member, stood.end] = stood.on_plate
    return out, can


def fitted_ends(structure: Structure) -> Fitted:
    """Ends at all nodes that are to have plates by how members meet there."""
    arms = arms_of(structure, joined=True)
    fault = without_part(structure, arms, "arms")
    which = np.flatnonzero((arms.end != PASSAGE) & (fault[arms.node] == 0))
    frames = _frames(structure, arms.node[which], arms.away[which])
    every = _ends(structure, arms, which, frames)
    steep = np.abs(every.elevation) > STEEP
    stood, ends = every.some(steep), every.some(~steep)
    blame(fault, np.bincount(ends.node, minlength=len(fault)) < 2, Fault.FEW)
    bent = ~structure.straight_ends[2 * ends.member + ends.end]
    blame(fault, any_of(ends.node, bent, len(fault)), Fault.BENT)
    ends = ends.some(fault[ends.node] == 0)
    blame(fault, any_of(ends.node, ends.angle <= LEAST_ANGLE, len(fault)), Fault.CLOSE)
    blame(fault, any_of(ends.node, ends.is_sharp, len(fault)), Fault.STEEP)
    return Fitted(ends, stood, frames, fault)


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


def _ends(structure: Structure, arms: Arms, which: NDArray[np.int64], frames: Array) -> PlateEnds:
    """Ends (n,) of arms at ``which`` positions, in the frames of their nodes."""
    node, member, end = arms.node[which], arms.member[which], arms.end[which]
    off = arms.offset[which] + (structure.places - structure.body_middles)[node]
    local, place = (np.einsum("kij,kj->ki", frames[node], v) for v in (arms.away[which], off))
    flat = np.linalg.norm(local[:, :2], axis=1)
    way, elevation = unit(local[:, :2]), np.arctan2(local[:, 2], flat)
    left = way[:, ::-1] * [-1.0, 1.0]
    along, aside = (np.einsum("ij,ij->i", place[:, :2], v) for v in (way, left))
    thickness, rounding, least, beyond, sharpest = _told(structure, node)
    every = PlateEnds(
        node=node,
        member=member,
        end=end,
        way=way,
        along=along,
        aside=aside,
        high=place[:, 2],
        elevation=elevation,
        width=2 * (_reach(structure, arms, which, left, frames) + beyond),
        thickness=thickness,
        rounding=rounding,
        least=least,
        sharpest=sharpest,
        set_back=structure.set_back[member, end],
    )
    return every.some(np.lexsort((np.arctan2(way[:, 1], way[:, 0]), node)))


def _told(structure: Structure, node: Index) -> Array:
    """Of the plates at nodes (n,) thickness, rounding, least distance of folds, what arms are wider
    by on each side, and the tangent of the sharpest fold: rows (5, n), in metres."""
    rules = structure.rules
    told = [(r.thickness, r.rounding, r.radius, r.beyond, math.tan(r.fold)) for r in rules]
    return np.array(told)[structure.rule[node]].T


def _reach(
    structure: Structure, arms: Arms, which: NDArray[np.int64], left: Array, frames: Array
) -> Array:
    """How far (n,) sections reach across their arms, in metres.

    Parameters
    ----------
    structure, arms : what they are of
    which : (n,) positions of the arms
    left : (n, 2) unit directions on the left of these, in the planes of their plates
    frames : (N, 3, 3; rows) of nodes
    """
    across = np.einsum("ki,kij->kj", left, frames[arms.node[which], :2])
    half, is_round = (sizes[which] for sizes in sizes_of(structure, arms))
    wide = np.abs(np.einsum("ij,ij->i", across, arms.side[which])) * half[:, 0]
    tall = np.abs(np.einsum("ij,ij->i", across, arms.up[which])) * half[:, 1]
    return np.where(is_round, half[:, 0], wide + tall)
