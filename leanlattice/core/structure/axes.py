"""Axes of members as they are drawn: straight pieces, of arcs their chords, of swelling sections
their cones."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import STRAIGHT, arc_places
from ..results import remembered
from .structure import Structure
from .swelling import CONES, scales_at

__all__ = ["DrawnAxes", "drawn_axes", "set_out_lines"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

TURN, OFF = np.radians(6.0), 1e-3
"""Most of a turn that a chord of a drawn arc stands for, and most metres that it is off it."""


@dataclass(frozen=True, eq=False)
class DrawnAxes:
    """Straight pieces (K) of members (M), one after the other, between places (Q = K + M).

    Parameters
    ----------
    places : (Q, 3) in metres
    scale : (Q,) of the section there
    segment, member : (K,) what a piece is of
    """

    places: Array
    scale: Array
    segment: Index
    member: Index

    @cached_property
    def ends(self) -> Index:
        """The two places (K, 2) of each piece."""
        start = np.arange(len(self.member), dtype=np.int32) + self.member
        return np.column_stack([start, start + 1])

    @cached_property
    def first(self) -> Index:
        """Where each member's pieces (M + 1,) begin among all."""
        count = int(self.member[-1]) + 1 if len(self.member) else 0
        return np.searchsorted(self.member, np.arange(count + 1)).astype(np.int32)

    def of_member(self, member: int) -> tuple[Array, Array, Index]:
        """Places (k, 3) along one member, the section's scale (k,) there, and the segment (k − 1,)
        of each of its pieces."""
        pieces = slice(self.first[member], self.first[member + 1])
        rows = slice(pieces.start + member, pieces.stop + member + 1)
        return self.places[rows], self.scale[rows], self.segment[pieces]


@remembered
def drawn_axes(structure: Structure) -> DrawnAxes:
    """Axes of all members of a structure."""
    has_waist = structure.waist != 0
    return _drawn(structure, structure.axis_places, has_waist)


def set_out_lines(structure: Structure) -> tuple[Array, Index]:
    """Lines (n, 2, 3) from node to node of all members, arcs as chords, and the member (n,) of
    each."""
    places = structure.places[structure.path]
    drawn = _drawn(structure, places, np.zeros(len(structure.first_entry), bool))
    return drawn.places[drawn.ends], drawn.member


def _drawn(structure: Structure, at: Array, in_cones: NDArray[np.bool_]) -> DrawnAxes:
    """Pieces between places ``at`` (P, 3) of entries, of which some segments (S,) are
    ``in_cones``."""
    first = structure.first_entry
    chords, bulge = at[first + 1] - at[first], structure.bulge
    counts = _pieces_of_arcs(chords, bulge)
    segment, share = _parted(np.where(in_cones, -(-counts // CONES) * CONES, counts))
    entry, starts = first[segment], structure.offsets[:-1]
    member = structure.member_of_segment[segment]
    ends = at[entry + 1]
    inner = share < 1
    of = segment[inner]
    ends[inner] = arc_places(at[first[of]], chords[of], bulge[of], share[inner])
    own = structure.scale[entry], structure.scale[entry + 1], structure.waist[segment]
    return DrawnAxes(
        places=_with_starts(at[starts], ends, member),
        scale=_with_starts(structure.scale[starts], scales_at(*own, share), member),
        segment=segment,
        member=member,
    )


def _parted(counts: Index) -> tuple[Index, Array]:
    """The segment of each piece (K,), of segments in so many (S,), and the share of it at which the
    piece ends."""
    segment = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
    number = np.arange(len(segment)) - np.repeat(np.cumsum(counts) - counts, counts)
    return segment, (number + 1) / counts[segment]


def _with_starts(starts: Array, ends: Array, member: Index) -> Array:
    """What members start with (M, …), each followed by what its pieces end with (K, …)."""
    first = np.searchsorted(member, np.arange(len(starts)))
    return np.insert(ends, first, starts, axis=0)


def _pieces_of_arcs(chords: Array, bulge: Array) -> Index:
    """In how many chords (S,) each segment is drawn; straight ones in one."""
    rise, length = np.linalg.norm(bulge, axis=1), np.linalg.norm(chords, axis=1)
    counts = np.ones(len(chords), np.int32)
    bent = rise > STRAIGHT * np.maximum(length, 1e-300)
    h, c = rise[bent], length[bent]
    turn = 4 * np.arctan(2 * h / c)
    radius = (c * c / 4 + h * h) / (2 * h)
    step = np.minimum(TURN, 2 * np.arccos(np.maximum(1 - OFF / radius, -1.0)))
    counts[bent] = np.maximum(2, np.ceil(turn / step))
    return counts
