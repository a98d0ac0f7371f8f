"""Members in straight pieces between their cuts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..results import remembered
from .axes import drawn_axes
from .structure import Structure

__all__ = ["Pieces", "pieces_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class Pieces:
    """Straight pieces (K) of members, one after the other.

    ``places`` (Q, 3) on the axes in metres and the section's ``scale`` (Q,) there, ``ends`` (K, 2)
    the two of each piece; ``member`` and ``segment`` (K,) what a piece is of; ``set_back`` (K, 2)
    how much of its axis, in metres, lies beyond its member's cuts.
    """

    places: Array
    scale: Array
    ends: Index
    member: Index
    segment: Index
    set_back: Array


@remembered
def pieces_of(structure: Structure) -> Pieces:
    """All members of a structure in straight pieces."""
    drawn = drawn_axes(structure)
    member, first = drawn.member, drawn.first
    lengths = np.linalg.norm(
        drawn.places[drawn.ends[:, 1]] - drawn.places[drawn.ends[:, 0]], axis=1
    )
    # How far along its member each piece begins, and how far before the member's end it ends.
    run = np.concatenate([[0.0], np.cumsum(lengths)])
    before = run[:-1] - run[first[:-1]][member]
    after = run[first[1:]][member] - run[1:]
    beyond = structure.axis_back[member] - np.column_stack([before, after])
    back = np.clip(beyond, 0.0, lengths[:, None])
    return Pieces(drawn.places, drawn.scale, drawn.ends, member, drawn.segment, back)
