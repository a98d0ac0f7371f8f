"""What machines can be told of a structure's members, and of which they cannot."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..sections.section import Section
from ..structure.congruence import member_types
from ..structure.plate_arms import ArmJoint, PlateArms
from ..structure.structure import Structure
from .blanks import Blanks, blanks_of
from .faces import faces_of
from .notches import Notches, notches_of
from .pieces import WorkedPieces, worked_pieces
from .slots import Slots, no_slots, slots_of

__all__ = ["LEAST_BEND", "LeftOut", "Machined", "Standard", "machined"]

Index = NDArray[np.int64]


class Standard(IntEnum):
    """The format in which machines are told of a member."""

    NONE = 0
    NC = 1
    BTLX = 2


class LeftOut(IntEnum):
    """Why machines are told nothing of a member; the first that holds."""

    NONE = 0
    NOTHING_LEFT = 1
    MATERIAL = 2
    SECTION = 3
    SWELLS = 4
    TIGHT = 5


LEAST_BEND = {Standard.NC: 3.0, Standard.BTLX: 20.0}
"""Least radius to which what is cut straight may be bent, in heights of the lesser side of its
section; steel is bent by rolls, timber by hand where it is built in."""

SHARPEST = float(np.radians(30.0))
"""Most that an axis may turn at a node for the turn to be a bend, and not a corner."""


@dataclass(frozen=True, eq=False)
class Machined:
    """Members (M) of a ``structure`` as machines are told of them: the ``slots`` that others enter
    by, ``standard`` and ``left_out`` (M,) by the numbers of ``Standard`` and ``LeftOut``."""

    structure: Structure
    slots: Slots
    standard: Index
    left_out: Index

    @property
    def blanks(self) -> Blanks:
        return blanks_of(self.structure)

    @property
    def notches(self) -> Notches:
        return notches_of(self.structure)

    @cached_property
    def pieces(self) -> WorkedPieces:
        """Members that are worked alike."""
        types = member_types(self.structure)
        return worked_pieces(self.structure, types, self.notches, self.slots)

    def told(self, standard: Standard) -> Index:
        """The pieces (n,) that are told of in a standard."""
        mine = self.standard[self.pieces.member] == standard
        return np.flatnonzero(mine & (self.left_out[self.pieces.member] == LeftOut.NONE))

    def notches_in(self, member: int) -> Index:
        """The notches (n,) of a member."""
        return np.arange(*np.searchsorted(self.notches.member, [member, member + 1]))


def machined(
    structure: Structure, arms: PlateArms | None = None, joint: ArmJoint | None = None
) -> Machined:
    """What machines are told of a structure, whose members the ``arms`` of node plates enter where
    there are any, joined as ``joint`` says."""
    slots = no_slots()
    if arms is not None and joint is not None:
        slots = slots_of(structure, arms, joint)
    by_section = [_standard(section) for section in structure.sections]
    standard = np.array([s for s, _ in by_section], np.int64)[structure.section_of]
    left = np.array([why for _, why in by_section], np.int64)[structure.section_of]
    left[(left == 0) & structure.is_uneven] = LeftOut.SWELLS
    sizes = np.array([min(s.shape.width, s.shape.height) for s in structure.sections])
    least = np.array([LEAST_BEND.get(s, 0.0) for s, _ in by_section]) * sizes
    blanks = blanks_of(structure)
    tight = blanks.bend_radii < least[structure.section_of]
    tight |= blanks.largest_kinks > SHARPEST
    left[(left == 0) & tight] = LeftOut.TIGHT
    left[structure.mean_lengths <= 0] = LeftOut.NOTHING_LEFT
    return Machined(structure, slots, standard, left)


def _standard(section: Section) -> tuple[Standard, LeftOut]:
    """The format in which members of a section are told of, or why there is none."""
    if section.material.family == "timber":
        known = section.shape.fills
        return Standard.BTLX, LeftOut.NONE if known else LeftOut.SECTION
    if section.material.family == "steel":
        known = bool(faces_of(section.shape))
        return Standard.NC, LeftOut.NONE if known else LeftOut.SECTION
    return Standard.NONE, LeftOut.MATERIAL
