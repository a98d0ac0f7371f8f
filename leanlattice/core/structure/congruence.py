"""Members that are the same part: equal in section and cut length, in how they run, and in how
their ends are cut.

What a member is lies in its *form*, seen from one of its ends: lengths in metres. The axis between
the cuts comes first, place by place; then where its heights point, piece by piece, as far off the
axis as the section reaches; then how far the cuts take the outline at eight places about each end.
Two members are one part when the forms agree. A form may be seen from either end, and from any turn
about the axis that leaves the section as it is: of an oblong two, of a square four. Of a round one,
which any turn leaves, it is seen from where the axis first bends, else from where a plane cuts off
most. So a member has several forms, and it is of the type of another when one of them agrees with
that one's first. Mirror images are different parts, unless they are also the same when turned.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..naming.numbering import bands
from .cuts import ALONG, LEVEL, NORMAL, PLANES, taken_at
from .pieces import Pieces, pieces_of
from .structure import Structure

__all__ = ["alike", "member_types"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Rows = NDArray[np.intp]

AROUND = np.pi / 4 * np.arange(8)
"""Angles at which places about an end are looked at."""
EVEN = 1e-6
"""Of unit vectors, what has to lie across a direction to tell another."""


def member_types(structure: Structure) -> Index:
    """Types (M,) from 1 of members: by section, then by cut length, in bands as wide as the
    structure's tolerance, then by form, within the same tolerance."""
    out, used = np.zeros(structure.count, np.int32), 0
    kinds = _kinds(structure)
    for section in range(len(structure.sections)):
        rows = np.flatnonzero(structure.section_of == section)
        if not rows.size:
            continue
        band = bands(structure.cut_lengths[rows], structure.tolerance)
        kind = _by_form(structure, kinds, rows, band)
        out[rows] = used + 1 + _numbered(band, kind)
        used = int(out.max())
    return out


def _numbered(band: Index, kind: Index) -> Index:
    """Numbers (n,) from 0 of all that share ``band`` and ``kind`` (n,): band after band, and in
    one as they come."""
    pairs = np.column_stack([band, kind])
    _, first, which = np.unique(pairs, axis=0, return_index=True, return_inverse=True)
    rank = np.empty(len(first), np.int32)
    rank[np.lexsort((first, band[first]))] = np.arange(len(first), dtype=np.int32)
    return np.asarray(rank[which.ravel()])


def _kinds(structure: Structure) -> Index:
    """How many pieces (M,) members have whose forms have to be looked at; 0 of straight ones that
    are cut square, which are alike where they are as long."""
    pieces = np.bincount(pieces_of(structure).member, minlength=structure.count).astype(np.int32)
    is_cut = np.zeros(structure.count, bool)
    is_cut[structure.cuts.end // 2] = True
    return np.where(is_cut | ~structure.is_plain, pieces, 0)


def _by_form(structure: Structure, pieces: Index, rows: Rows, band: Index) -> Index:
    """Numbers (n,) that tell forms apart of members in ``rows`` (n,), of one section and in
    ``band`` (n,), each of so many ``pieces`` (M,); 0 where forms are not looked at."""
    kind = np.zeros(len(rows), np.int32)
    for count in np.unique(pieces[rows]).tolist():
        if not count:
            continue
        here = np.flatnonzero(pieces[rows] == count)
        here = here[np.argsort(band[here], kind="stable")]
        forms = _Members.of(structure, rows[here], count).forms()
        kind[here] = kind.max() + 1 + alike(forms, band[here], structure.tolerance)
    return kind


@compiled
def alike(forms, band, tolerance):  # type: ignore[no-untyped-def]
    """Numbers (n,) from 0 of members with ``forms`` (n, v, f): each is as the earliest in its
    ``band`` (n,), which rises, whose first form one of its own agrees with."""
    out = np.empty(len(forms), np.int32)
    leads = np.empty(len(forms), np.int32)
    count, low = 0, 0
    for i in range(len(forms)):
        if i and band[i] != band[i - 1]:
            low = count
        out[i] = -1
        for k in range(low, count):
            if _agrees(forms[i], forms[leads[k], 0], tolerance):
                out[i] = k
                break
        if out[i] < 0:
            leads[count] = i
            out[i] = count
            count += 1
    return out


@compiled
def _agrees(forms, other, tolerance):  # type: ignore[no-untyped-def]
    """Whether one of ``forms`` (v, f) is another (f,)."""
    for v in range(len(forms)):
        same = True
        for k in range(len(other)):
            if abs(forms[v, k] - other[k]) > tolerance:
                same = False
                break
        if same:
            return True
    return False


@dataclass(frozen=True, eq=False)
class _Members:
    """Members (n) of one section in k pieces each, as they are seen from their first ends.

    ``places`` (n, k + 1, 3) in metres lead from cut to cut; ``way`` and ``up`` (n, k, 3) are unit
    directions of the pieces and their heights, ``scale`` (n, k + 1) is that of the section.
    ``cuts`` (n, 2, PLANES, CUT) are what cuts the first and the last end, from where the axis is
    cut there. ``half`` (2,) in metres is half the section's width and height, and ``turns`` how
    many turns leave it as it is, 0 where any does.
    """

    places: Array
    way: Array
    up: Array
    scale: Array
    cuts: Array
    half: Array
    turns: int
    seen_back: float | None

    @classmethod
    def of(cls, structure: Structure, rows: Rows, count: int) -> _Members:
        """Members in ``rows`` (n,), each in so many pieces."""
        pieces = pieces_of(structure)
        which = np.searchsorted(pieces.member, rows)[:, None] + np.arange(count)
        segment = pieces.segment[which]
        places, way = _between_cuts(pieces, which)
        ends = np.stack([way[:, 0], -way[:, -1]], axis=1)
        shape = structure.sections[structure.section_of[rows[0]]].shape
        return cls(
            places=places,
            way=way,
            up=_unit(_square_to(structure.up[segment], way)),
            scale=_scales(pieces, which),
            cuts=_cuts(structure, rows, ends),
            half=np.array([shape.width, shape.height]) / 2,
            turns=shape.turns,
            seen_back=shape.seen_back,
        )

    def reversed(self, turn: float) -> _Members:
        """The same, seen from their last ends and turned about their axes by ``turn`` (rad)."""
        way, up = -self.way[:, ::-1], self.up[:, ::-1]
        return replace(
            self,
            places=self.places[:, ::-1],
            way=way,
            up=np.cos(turn) * up + np.sin(turn) * np.cross(up, way),
            scale=self.scale[:, ::-1],
            cuts=self.cuts[:, ::-1],
        )

    def forms(self) -> Array:
        """All forms (n, v, f)."""
        seen = [self]
        if self.seen_back is not None:
            seen.append(self.reversed(self.seen_back))
        views = [view._form(up) for view in seen for up in view._heights()]
        return np.ascontiguousarray(np.stack(views, axis=1))

    def _heights(self) -> list[Array]:
        """Heights (n, k, 3) of the pieces, in all the turns that count."""
        if not self.turns:
            return [self._carried(first) for first in self._leading()]
        side = np.cross(self.up, self.way)
        turn = 2 * np.pi / self.turns * np.arange(self.turns)
        return [np.cos(t) * self.up + np.sin(t) * side for t in turn]

    def _leading(self) -> list[Array]:
        """Directions (n, 3) square to the first pieces that tell round members' turns: where they
        first bend, else where one of the cuts at the first end takes most, else one at the last;
        of two cuts either; else along the tube that an end fits, this way or that."""
        first, count = self.way[:, 0], len(self.way)
        bends = _square_to(self.way, first[:, None])
        falls = _square_to(self.cuts[..., NORMAL], first[:, None, None])
        tubes = _square_to(self.cuts[..., ALONG], first[:, None, None])
        told = np.full((2, count, 3), np.nan)
        steps = [(bends[:, k], bends[:, k]) for k in range(1, bends.shape[1])]
        steps += [(falls[:, end, 0], falls[:, end, PLANES - 1]) for end in (0, 1)]
        steps += [(tubes[:, end, k], -tubes[:, end, k]) for end in (0, 1) for k in range(PLANES)]
        for step in steps:
            size = np.linalg.norm(step, axis=2)
            # Where there is but one plane it is taken twice.
            both = np.where((size > EVEN)[:, :, None], np.stack(step), np.stack(step)[::-1])
            both = np.where(np.isnan(told) & (size.max(axis=0) > EVEN)[:, None], both, told)
            told = both
        told = np.where(np.isnan(told), self.up[:, 0], told)
        return list(_unit(told))

    def _carried(self, first: Array) -> Array:
        """Heights (n, k, 3) that begin with the ``first`` (n, 3), carried on from piece to piece
        without a turn about them."""
        out = [first]
        for k in range(1, self.way.shape[1]):
            out.append(_unit(_square_to(out[-1], self.way[:, k])))
        return np.stack(out, axis=1)

    def _form(self, up: Array) -> Array:
        """The form (n, f) with such heights (n, k, 3)."""
        side = np.cross(up[:, 0], self.way[:, 0])
        frame = np.stack([side, up[:, 0], self.way[:, 0]], axis=2)
        reach = float(self.half.max())
        parts = [(self.places[:, 1:] - self.places[:, :1]) @ frame]
        if self.turns:
            parts.append(reach * (up[:, 1:] @ frame))
        flat = [part.reshape(len(up), -1) for part in parts]
        ends = [self._taken(end, up) for end in (0, 1)]
        return np.concatenate([*flat, *ends, reach * self.scale], axis=1)

    def _taken(self, end: int, up: Array) -> Array:
        """How far (n, 8) in metres cuts take an end at places about its outline, along the axis
        from where that is cut; 0 where it is square."""
        # The first end is that of the first piece, and the last that of the last.
        up, way = up[:, -end], self.way[:, -end]
        wide, high = np.sin(AROUND), np.cos(AROUND)
        if self.turns:
            wide, high = np.round(wide), np.round(high)
        # Seen from the last end, widths run the other way.
        around = np.column_stack([-wide if end else wide, high]) * self.half
        places = self.scale[:, -end, None, None] * around
        return taken_at(self.cuts[:, end], -way if end else way, up, places)


def _between_cuts(pieces: Pieces, which: Rows) -> tuple[Array, Array]:
    """Places (n, k + 1, 3) on axes from cut to cut, and the directions (n, k, 3) between them, of
    members with these pieces, ``which`` (n, k)."""
    ends = pieces.places[pieces.ends[which]]
    way = _unit(ends[:, :, 1] - ends[:, :, 0])
    back = pieces.set_back[which][..., None]
    starts = ends[:, :, 0] + back[:, :, 0] * way
    last = ends[:, -1, 1] - back[:, -1, 1] * way[:, -1]
    return np.concatenate([starts, last[:, None]], axis=1), way


def _cuts(structure: Structure, rows: Rows, away: Array) -> Array:
    """What cuts the ends of members in ``rows`` (n,), which lead ``away`` (n, 2, 3), from where
    the axis is cut on (n, 2, PLANES, CUT)."""
    cuts = structure.cuts.rows_of_ends(2 * structure.count)[2 * rows[:, None] + np.arange(2)]
    off = np.einsum("neki,nei->nek", cuts[..., NORMAL], away)
    cuts[..., LEVEL] -= off * structure.axis_back[rows][:, :, None]
    return cuts


def _scales(pieces: Pieces, which: Rows) -> Array:
    """Of the section (n, k + 1) where the pieces of members, ``which`` (n, k), begin and end."""
    ends = pieces.ends[which]
    return np.asarray(pieces.scale[np.concatenate([ends[:, :, 0], ends[:, -1:, 1]], axis=1)])


def _square_to(vectors: Array, ways: Array) -> Array:
    """What of ``vectors`` (..., 3) is square to unit ``ways`` (..., 3)."""
    along = np.sum(vectors * ways, axis=-1, keepdims=True)
    return np.asarray(vectors - along * ways)


def _unit(vectors: Array) -> Array:
    size = np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.asarray(vectors / np.maximum(size, 1e-300))
