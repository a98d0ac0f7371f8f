"""Pieces: blanks that are worked alike, so that one file or one part in a file is of all of them.

Members of one type are the same part but for what is worked in them. Where that is slots and holes
at the ends of straight members cut square, one piece is of all that agree, seen from either end and
in any turn that leaves the section as it is. Members that are notched, or cut aslant or bent and
slotted too, are pieces of their own.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..structure.congruence import alike
from ..structure.structure import Structure
from .notches import Notches
from .slots import Slots

__all__ = ["WorkedPieces", "worked_pieces"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class WorkedPieces:
    """The piece each member is (M,) numbered from 0, and of each piece (K,) the first ``member``
    that is it, its ``type`` and its ``number`` from 1 among those of its type, 0 where there is no
    other."""

    piece: Index
    member: Index
    type: Index
    number: Index

    def members(self, piece: int) -> Index:
        """The members (n,) that are a piece."""
        return np.flatnonzero(self.piece == piece)


def worked_pieces(
    structure: Structure, types: NDArray[np.integer], notches: Notches, slots: Slots
) -> WorkedPieces:
    """The pieces of a structure whose members are of ``types`` (M,)."""
    kind = np.zeros(structure.count, np.int64)
    slotted = np.unique(slots.end // 2)
    is_cut = np.zeros(structure.count, bool)
    is_cut[structure.cuts.end // 2] = True
    plain = ~is_cut & structure.is_plain
    plain[notches.member] = False
    for number in np.unique(types[slotted]).tolist():
        rows = slotted[(types[slotted] == number) & plain[slotted]]
        if len(rows):
            shape = structure.sections[structure.section_of[rows[0]]].shape
            forms = _forms(slots, rows, shape.turns, shape.seen_back, shape.width / 2)
            kind[rows] = 1 + alike(forms, np.zeros(len(rows), np.int32), structure.tolerance)
    alone = np.unique(np.concatenate([notches.member, slotted[~plain[slotted]]]))
    kind[alone] = structure.count + 1 + np.arange(len(alone))
    return _numbered(types.astype(np.int64), kind)


def _numbered(types: Index, kind: Index) -> WorkedPieces:
    """Pieces by type and, in one, by the first member that is of a ``kind`` (M,)."""
    pairs = np.column_stack([types, kind])
    _, first, which = np.unique(pairs, axis=0, return_index=True, return_inverse=True)
    order = np.lexsort((first, types[first]))
    rank = np.empty(len(first), np.int64)
    rank[order] = np.arange(len(first))
    lead = first[order]
    of_type = types[lead]
    number = np.arange(len(lead)) - np.searchsorted(of_type, of_type) + 1
    alone = np.bincount(of_type)[of_type] == 1
    return WorkedPieces(rank[which.ravel()], lead, of_type, np.where(alone, 0, number))


def _forms(slots: Slots, rows: Index, turns: int, seen_back: float | None, reach: float) -> Array:
    """What slots at both ends of straight members in ``rows`` (n,) are, in all views (n, v, f)."""
    ends = np.stack([_at_ends(slots, rows, end) for end in (0, 1)], axis=1)
    seen = [ends]
    if seen_back is not None:
        # From the other end widths run the other way, about the turn that brings it back.
        other = ends[:, ::-1].copy()
        other[:, :, 0] = np.where(other[:, :, 1] > 0, seen_back - other[:, :, 0], 0.0)
        seen.append(other)
    views = [view for one in seen for view in _turned(one, turns)]
    return np.ascontiguousarray(np.stack([_form(v, reach) for v in views], axis=1))


def _at_ends(slots: Slots, rows: Index, end: int) -> Array:
    """Of each member (n, 3) the angle of the arm at an end about the axis, its thickness and its
    width, negative where it needs no slot; 0 where none enters."""
    out = np.zeros((len(rows), 3))
    for k, member in enumerate(rows.tolist()):
        row = slots.of_end(member, end)
        if row >= 0:
            angle = np.arctan2(slots.normal[row, 0], slots.normal[row, 1])
            wide = slots.width[row] * (1.0 if slots.is_cut[row] else -1.0)
            out[k] = angle, slots.thickness[row], wide
    return out


def _turned(ends: Array, turns: int) -> list[Array]:
    """Views (n, 2, 3) of ends that differ by the ``turns`` that leave the section as it is; where
    any does, from the first arm."""
    if turns:
        angles = [np.full(len(ends), 2 * np.pi * k / turns) for k in range(turns)]
    else:
        angles = [np.where(ends[:, 0, 1] > 0, ends[:, 0, 0], ends[:, 1, 0])]
    out = []
    for angle in angles:
        view = ends.copy()
        view[:, :, 0] -= np.where(view[:, :, 1] > 0, angle[:, None], 0.0)
        out.append(view)
    return out


def _form(ends: Array, reach: float) -> Array:
    """The form (n, 8) of ends (n, 2, 3): arms are the same turned half round."""
    angle, thickness, width = np.moveaxis(ends, 2, 0)
    turned = reach / 2 * np.stack([np.cos(2 * angle), np.sin(2 * angle)], axis=-1)
    turned *= (thickness > 0)[..., None]
    sizes = np.stack([thickness, width], axis=-1)
    return np.concatenate([turned, sizes], axis=-1).reshape(len(ends), -1)
