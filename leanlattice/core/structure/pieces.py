"""Members in straight pieces: what is between two nodes, and arcs as chords."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..results import remembered
from .solids import axis_line
from .structure import Structure

__all__ = ["Pieces", "pieces_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Pieces:
    """Straight pieces (K) of members, one after the other.

    ``places`` (Q, 3) on the axes in metres, ``ends`` (K, 2) the two of each piece; ``member`` and
    ``segment`` (K,) what a piece is of; ``set_back`` (K, 2) how much of its axis, in metres, lies
    beyond its member's cuts.
    """

    places: Array
    ends: Index
    member: Index
    segment: Index
    set_back: Array


@remembered
def pieces_of(structure: Structure) -> Pieces:
    """All members of a structure in straight pieces."""
    places, ends, segment = _axes(structure)
    member = structure.member_of_segment[segment]
    lengths = np.linalg.norm(places[ends[:, 1]] - places[ends[:, 0]], axis=1)
    # How far along its member each piece begins, and how far before the member's end it ends.
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    first = np.searchsorted(member, np.arange(structure.count))
    last = np.searchsorted(member, np.arange(structure.count), "right")
    before = run[:-1] - run[first][member]
    after = run[last][member] - run[1:]
    beyond = structure.axis_back[member] - np.column_stack([before, after])
    return Pieces(places, ends, member, segment, np.clip(beyond, 0.0, lengths[:, None]))


def _axes(structure: Structure) -> tuple[Array, Index, Index]:
    """Places on the axes, pairs of them and the segment of each."""
    if not structure.bulge.any():
        ends = np.column_stack([structure.first_entry, structure.first_entry + 1])
        segment = np.arange(len(ends), dtype=np.int32)
        return structure.axis_places, ends, segment
    lines = [axis_line(structure, m) for m in range(structure.count)]
    counts = [len(places) for places, _ in lines]
    inner = np.ones(sum(counts), bool)
    inner[np.cumsum(counts) - 1] = False
    start = np.flatnonzero(inner).astype(np.int32)
    places = np.vstack([places for places, _ in lines])
    return places, np.column_stack([start, start + 1]), np.concatenate([s for _, s in lines])
