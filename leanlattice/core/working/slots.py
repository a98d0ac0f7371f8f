"""Slots and bolt holes in the ends of members that the arms of node plates enter."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..sections.shapes import Shape
from ..structure.plate_arms import ArmJoint, PlateArms
from ..structure.structure import Structure
from .blanks import blanks_of

__all__ = ["Slots", "no_slots", "slots_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
ROUND = 96
"""Sides of a round section where it is asked whether an arm fits into it."""
FITS = 1e-7
"""Square metres of a wall that an arm may reach into and still fit between."""


@dataclass(frozen=True, eq=False)
class Slots:
    """What arms need of the ends of members they enter (n), in the order of these ends and in the
    frames of blanks; lengths in metres.

    Parameters
    ----------
    end : (n,) twice the member's number, plus 1 for its last end
    normal : (n, 2) unit direction across the arm, along the section's width and height
    thickness, width : (n,) of the arm, and so of its slot, which is as wide as the plate is thick
    is_cut : (n,) whether the arm needs a slot at all: within a wide tube it does not
    depth : metres from the end of the blank to the end of the arm
    stations : (b,) metres from the end of the blank to each bolt
    hole : diameter of the holes of bolts, in metres; 0 where there are none
    """

    end: Index
    normal: Array
    thickness: Array
    width: Array
    is_cut: NDArray[np.bool_]
    depth: float
    stations: Array
    hole: float

    @property
    def count(self) -> int:
        return len(self.end)

    def of_end(self, member: int, end: int) -> int:
        """The row of an end of a member; −1 where no arm enters it."""
        row = int(np.searchsorted(self.end, 2 * member + end))
        return row if row < self.count and self.end[row] == 2 * member + end else -1

    def outline(self, row: int) -> Array:
        """Corners (4, 2) of the slot at the end, along the section's width and height."""
        across = self.normal[row]
        along = np.array([across[1], -across[0]])
        half = np.array([self.width[row], self.thickness[row]]) / 2
        signs = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half
        return np.asarray(signs @ np.stack([along, across]))


def no_slots() -> Slots:
    """Nothing enters any end."""
    none = np.zeros(0)
    flags = np.zeros(0, bool)
    return Slots(np.zeros(0, np.int32), np.zeros((0, 2)), none, none, flags, 0.0, none, 0.0)


def slots_of(structure: Structure, arms: PlateArms, joint: ArmJoint) -> Slots:
    """What the ``arms`` of plates need of a structure's members, into which they are joined so."""
    ends = 2 * arms.member + arms.end
    order = np.argsort(ends)
    arm, ends = np.arange(len(ends))[order], ends[order]
    # In its plate's frame the last piece of an arm is square to this.
    rise, way = arms.elevation[arm], arms.way[arm]
    local = np.column_stack([-np.sin(rise)[:, None] * way, np.cos(rise)])
    across = np.einsum("ki,kij->kj", local, arms.frames[arms.plate[arm]])
    frames = blanks_of(structure).frames[arms.member[arm], arms.end[arm]]
    normal = np.einsum("kij,kj->ki", frames, across)[:, 1:]
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    slots = Slots(
        end=ends.astype(np.int32),
        normal=normal,
        thickness=arms.thickness[arms.plate[arm]],
        width=arms.width[arm],
        is_cut=np.ones(len(ends), bool),
        depth=joint.lap,
        stations=joint.stations,
        hole=joint.hole if joint.bolts else 0.0,
    )
    shapes = [structure.sections[k].shape for k in structure.section_of[ends // 2].tolist()]
    for row, shape in enumerate(shapes):
        slots.is_cut[row] = _is_cut(shape, slots.outline(row))
    return slots


def _is_cut(shape: Shape, outline: Array) -> bool:
    """Whether an arm of this ``outline`` (4, 2) reaches into the material of a section."""
    for outer, inner in shape.pieces(ROUND):
        holes = [] if inner is None else [inner]
        if shapely.Polygon(outer, holes).intersection(shapely.Polygon(outline)).area > FITS:
            return True
    return False
