"""Notches: what is taken of timber members that overlap where they pass each other.

Two members that overlap at a crossing are each cut down to the plane half-way between the faces
they turn to each other. So both lie on that plane, over the whole strip in which the other one
passes, and neither has room to slip.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..results import remembered
from ..structure.crossings import Crossings, crossings_of
from ..structure.structure import Structure
from .blanks import blanks_of

__all__ = ["Notches", "notches_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
DEEP = 1e-5
"""Metres; what is less deep is not cut."""
RUN_OUT = 0.001
"""Metres by which a notch reaches over the sides of its blank."""
CORNERS = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
"""Sides of the strip and of the blank between which the corners of a floor lie."""


@dataclass(frozen=True, eq=False)
class Notches:
    """Notches (k) by member and place along it, in the frames of blanks and in metres.

    Parameters
    ----------
    member, other : (k,) what is notched, and for which
    node : (k,) where they cross
    normal : (k, 3) unit direction out of the floor of a notch
    corners : (k, 4, 3) of the floor, in the order in which they follow each other about its normal
    depth : (k,) above the floor to which the member reaches at most
    """

    member: Index
    other: Index
    node: Index
    normal: Array
    corners: Array
    depth: Array

    @property
    def count(self) -> int:
        return len(self.member)


@remembered
def notches_of(structure: Structure) -> Notches:
    """The notches of members of rectangular section, where these overlap with others."""
    crossings = crossings_of(structure)
    which = np.flatnonzero(crossings.kind == "notch")
    both = [_notches(structure, _Pair.of(structure, crossings, which, side)) for side in (0, 1)]
    member, other, node, normal, corners, depth = (
        np.concatenate(p) for p in zip(*both, strict=True)
    )
    is_cut = (depth > DEEP) & _is_rectangular(structure)[member]
    order = np.lexsort((corners[:, :, 0].mean(axis=1), member))
    order = order[is_cut[order]]
    return Notches(*(p[order] for p in (member, other, node, normal, corners, depth)))


def _is_rectangular(structure: Structure) -> NDArray[np.bool_]:
    """Whether the section (M,) of each member fills its width and height."""
    filled = [s.shape.fills for s in structure.sections]
    return np.array(filled, bool)[structure.section_of]


class _Pair(NamedTuple):
    """One side of crossings (k): members at their ``own`` entries, and the ``other`` ones that they
    are notched for.

    ``frame`` (k, 3, 3; rows x, y, z) is that of the blank, ``out`` (k, 3) leads out of its notch,
    ``off`` (k, 3) from its own axis to the other's, and ``across`` (k, 3) across the strip in which
    that passes; ``high`` (k, 2) how far its own section and the other's reach along ``out``, and
    ``wide`` (k,) the other's across the strip, from side to side. All in metres.
    """

    node: Index
    own: Index
    other: Index
    frame: Array
    out: Array
    off: Array
    across: Array
    high: Array
    wide: Array

    @classmethod
    def of(cls, structure: Structure, found: Crossings, which: Index, side: int) -> _Pair:
        """Of crossings ``which`` (k,), the side of what lies over (0) or under (1)."""
        own, other = found.entry[which, side], found.entry[which, 1 - side]
        way, up = found.ways[which, side], found.ups[which, side]
        passing = found.ways[which, 1 - side]
        across = np.cross(found.normal[which], passing)
        across /= np.linalg.norm(across, axis=1, keepdims=True)
        wide = _reach(structure, other, (passing, found.ups[which, 1 - side]), across)
        return cls(
            node=found.node[which],
            own=own,
            other=other,
            frame=np.stack([way, np.cross(up, way), up], axis=1),
            # Out of the floor of what lies over leads down.
            out=found.normal[which] * (1.0 if side else -1.0),
            off=structure.offset[other] - structure.offset[own],
            across=across,
            high=found.high[which][:, [side, 1 - side]],
            wide=wide,
        )


def _notches(structure: Structure, pair: _Pair) -> tuple[Index, Index, Index, Array, Array, Array]:
    """What ``Notches`` tells of one side of crossings."""
    normal, across = (np.einsum("kij,kj->ki", pair.frame, way) for way in (pair.out, pair.across))
    apart, aside = (np.einsum("ki,ki->k", pair.off, way) for way in (pair.out, pair.across))
    # Half-way between the faces: that of this one, and that of the other before its own axis.
    level = (apart + (pair.high[:, 0] - pair.high[:, 1]) / 2) / 2
    sides = aside[:, None] + pair.wide[:, None] / 2 * CORNERS[:, 0]
    member, other = (structure.member_of_entry[e].astype(np.int64) for e in (pair.own, pair.other))
    floors = _Footprints(normal, level, across, sides, _halves(structure, member))
    depth = floors.depths()
    corners = floors.corners(depth)
    corners[:, :, 0] += blanks_of(structure).stations[pair.own][:, None]
    return member, other, pair.node, normal, corners, depth


def _reach(structure: Structure, entry: Index, along: tuple[Array, Array], across: Array) -> Array:
    """How far (k,) sections of members at entries, with such directions (k, 3) ``along`` their axes
    and heights, reach along others (k, 3), from side to side."""
    member = structure.member_of_entry[entry]
    is_round = np.array([s.shape.round for s in structure.sections])[structure.section_of[member]]
    half = _halves(structure, member)
    way, up = along
    wide = np.abs(np.einsum("ki,ki->k", across, np.cross(up, way)))
    tall = np.abs(np.einsum("ki,ki->k", across, up))
    return 2 * np.where(is_round, half[:, 0], wide * half[:, 0] + tall * half[:, 1])


def _halves(structure: Structure, member: NDArray[np.integer]) -> Array:
    """Half the width and the height (k, 2) of members' sections."""
    sizes = np.array([(s.shape.width, s.shape.height) for s in structure.sections]) / 2
    return np.asarray(sizes[structure.section_of[member]])


class _Footprints(NamedTuple):
    """Where floors (k) of notches lie, seen from the axes' places.

    Parameters
    ----------
    normal, level : (k, 3), (k,) of the planes that floors lie in
    across, sides : (k, 3), (k, 4) a direction, and how far along it each corner lies
    half : (k, 2) half the blanks' widths and heights
    """

    normal: Array
    level: Array
    across: Array
    sides: Array
    half: Array

    @property
    def _bound(self) -> Index:
        """The axis (k,) along which the sides of blanks bound floors: these face along the height,
        or along the width, whichever is nearer."""
        return 1 + (np.abs(self.normal[:, 1]) > np.abs(self.normal[:, 2])).astype(np.int64)

    def depths(self) -> Array:
        """How far (k,) blanks reach above floors at most: at the corners of their faces, on their
        sides and on those of the strips."""
        rows, bound = np.arange(len(self.half)), self._bound
        facing = 3 - bound
        above = np.zeros((len(rows), 4, 3))
        above[rows, :, bound] = self.half[rows, bound - 1][:, None] * CORNERS[:, 1]
        face = self.half[rows, facing - 1] * np.sign(self.normal[rows, facing])
        above[rows, :, facing] = face[:, None]
        short = self.sides - np.einsum("kci,ki->kc", above, self.across)
        above[:, :, 0] = short / self.across[:, :1]
        high = np.einsum("kci,ki->kc", above, self.normal) - self.level[:, None]
        return np.asarray(high.max(axis=1))

    def corners(self, depth: Array) -> Array:
        """Corners (k, 4, 3) of floors that take so much (k,) above them: what is cleared square to
        a floor that leans has to reach over the blank's sides."""
        rows, bound = np.arange(len(self.half)), self._bound
        over = np.maximum(depth, 0.0) * np.abs(self.normal[rows, bound]) + RUN_OUT
        planes = np.zeros((len(rows), 3, 3))
        planes[:, 0], planes[:, 1] = self.normal, self.across
        planes[rows, 2, bound] = 1.0
        bounds = (self.half[rows, bound - 1] + over)[:, None] * CORNERS[:, 1]
        levels = np.stack([np.repeat(self.level[:, None], 4, axis=1), self.sides, bounds], axis=1)
        corners = np.swapaxes(np.linalg.solve(planes, levels), 1, 2)
        flipped = np.einsum("ki,ki->k", _areas(corners), self.normal) < 0
        corners[flipped] = corners[flipped][:, ::-1]
        return corners


def _areas(corners: Array) -> Array:
    """Twice the directed areas (k, 3) of quadrilaterals (k, 4, 3)."""
    return np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1])
