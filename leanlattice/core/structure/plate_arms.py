"""Arms of node plates: flat straps that leave a plate's middle and are folded twice onto the axes
of members, into which they reach (see ``plate_ends``)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .faults import Fault, any_of, blame
from .plate_ends import PlateEnds, corners_of, fitted_ends
from .structure import Structure

__all__ = ["EDGE", "ArmJoint", "PlateArms", "plate_arms"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

ROOM = 1e-6
"""Metres by which a member may be nearer to its node than the last fold."""
EDGE = 1.2
"""Least distance of a bolt from an arm's side, in diameters of its hole (EN 1993-1-8, 3.5)."""
END, PITCH = 2.0, 3.0
"""Distances of bolts from ends and from each other, in diameters of holes."""


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


def plate_arms(structure: Structure, joint: ArmJoint) -> PlateArms:
    """Plates at all nodes that members are held back for, and their arms; nodes that cannot have
    one have a ``fault``."""
    every, stood, frames, fault = fitted_ends(structure)
    _blame_joints(structure, every, joint, fault)
    run = _runs(every)
    kept = fault[every.node] == 0
    run, ends, angle, corner = (
        run[kept],
        every.some(kept),
        every.angle[kept],
        corners_of(every)[kept],
    )
    nodes, leads, plate = np.unique(ends.node, return_index=True, return_inverse=True)
    first, stands = every.first[kept], np.isin(stood.node, nodes)
    high = ends.rise + (first + run) * np.tan(ends.elevation)
    return PlateArms(
        nodes=nodes.astype(np.int32),
        thickness=ends.thickness[leads],
        middles=structure.body_middles[nodes],
        frames=frames[nodes],
        plate=plate.astype(np.int32),
        member=ends.member,
        end=ends.end,
        way=ends.way,
        aside=ends.aside,
        width=ends.width,
        rounding=ends.rounding,
        first=first,
        run=run,
        slant=np.arctan2(high, run),
        elevation=ends.elevation,
        start=ends.stations(first + run),
        stop=ends.set_back + joint.lap,
        set_back=ends.set_back,
        angle=angle,
        corner=corner,
        fault=fault,
        stood=stood.member[stands],
        stood_end=stood.end[stands],
    )


def _blame_joints(structure: Structure, ends: PlateEnds, joint: ArmJoint, fault: Index) -> None:
    """Notes nodes (N,) whose arms are too narrow for their joints, reach too far into members, or
    whose members are cut otherwise than for plates."""
    narrow = ends.width < np.maximum(joint.least_width, ends.thickness)
    blame(fault, any_of(ends.node, narrow, len(fault)), Fault.NARROW)
    far = ends.set_back + joint.lap > structure.lengths[ends.member] / 2
    blame(fault, any_of(ends.node, far, len(fault)), Fault.LONG)
    early = ends.least_start > ends.set_back + ROOM
    blame(fault, any_of(ends.node, early, len(fault)), Fault.MOVED)


def _runs(ends: PlateEnds) -> Array:
    """Plan distances (n,) between folds: where there is room, folds are as gentle as where the
    second is twice as far out as the first."""
    room = ends.set_back * np.cos(ends.elevation) + ends.along - ends.first
    wanted = np.maximum(ends.least_run, ends.first)
    return np.maximum(np.minimum(room, wanted), ends.least_run)
