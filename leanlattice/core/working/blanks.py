"""Blanks: members as the straight pieces of stock they are cut from.

A blank has a frame of its own. Its x runs along the member's axis from where the saw first cuts, y
along the section's width and z along its height, both from the axis. Of a member that bends the
axis is laid out straight, and the section with it: what is worked at a place is worked square to
the axis there, and bends with it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import tangents, unit
from ..results import remembered
from ..structure.cuts import LEVEL, NORMAL
from ..structure.structure import Structure

__all__ = ["Blanks", "blanks_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
STRAIGHT = 1e-6
"""Radians by which an axis may turn at a node, and metres of an arc's rise, that do not count."""


@dataclass(frozen=True, eq=False)
class Blanks:
    """The blanks of all members (M) of a ``structure``, in metres."""

    structure: Structure

    @property
    def lengths(self) -> Array:
        """From saw cut to saw cut (M,); not above 0 where nothing is left."""
        return self.structure.cut_lengths

    @cached_property
    def ends(self) -> Array:
        """Where on x the axis of each member begins and ends (M, 2)."""
        back = self.structure.set_back
        return np.column_stack([-back[:, 0], self.structure.cut_lengths + back[:, 1]])

    @cached_property
    def frames(self) -> Array:
        """Unit directions (M, 2, 3, 3; rows x, y, z) of blanks at both ends of their members."""
        away, up = self.structure.end_frames
        way = away * np.array([1.0, -1.0])[:, None]
        return np.stack([way, np.cross(up, way), up], axis=2)

    @cached_property
    def origins(self) -> Array:
        """Where (M, 3) blanks begin, of members that are straight there."""
        first = self.structure.axis_places[self.structure.offsets[:-1]]
        return np.asarray(first + self.structure.set_back[:, :1] * self.frames[:, 0, 0])

    @cached_property
    def stations(self) -> Array:
        """Where on x each entry (P,) of the structure's path lies."""
        structure = self.structure
        run = np.zeros(len(structure.path))
        run[structure.first_entry + 1] = structure.segment_lengths
        run = np.cumsum(run)
        begun = run[structure.offsets[:-1]] + structure.set_back[:, 0]
        return np.asarray(run - begun[structure.member_of_entry])

    @cached_property
    def cuts_of_ends(self) -> Array:
        """What cuts each end (2 M, 2, CUT), as kernels take it."""
        return self.structure.cuts.rows_of_ends(2 * self.structure.count)

    @cached_property
    def planes(self) -> Array:
        """The planes (C, 4) that cut ends, in the order of the structure's cuts: a unit normal out
        of the blank, and the level on it. Of a saddle the plane at the tube's side."""
        cuts = self.structure.cuts
        member, end = np.divmod(cuts.end, 2)
        normal = np.einsum("cij,cj->ci", self.frames[member, end], cuts.rows[:, NORMAL])
        level = cuts.rows[:, LEVEL] + normal[:, 0] * self.ends[member, end]
        return np.column_stack([normal, level])

    @cached_property
    def bend_radii(self) -> Array:
        """The least radius (M,) to which blanks are bent, in metres; not a number where they stay
        straight. What turns at a node is bent over half the pieces that meet there."""
        structure = self.structure
        turns = structure.turns
        lengths = structure.segment_lengths
        radii = np.where(turns > STRAIGHT, lengths / np.maximum(turns, STRAIGHT), np.inf)
        least = np.full(structure.count, np.inf)
        np.minimum.at(least, structure.member_of_segment, radii)
        before, kinks = self._kinks
        over = (lengths[before] + lengths[before + 1]) / 2
        at = np.where(kinks > STRAIGHT, over / np.maximum(kinks, STRAIGHT), np.inf)
        np.minimum.at(least, structure.member_of_segment[before], at)
        return np.where(np.isfinite(least), least, np.nan)

    @cached_property
    def largest_kinks(self) -> Array:
        """The most (M,) by which members turn at once, at a node, in radians."""
        before, kinks = self._kinks
        out = np.zeros(self.structure.count)
        np.maximum.at(out, self.structure.member_of_segment[before], kinks)
        return out

    @cached_property
    def _kinks(self) -> tuple[Index, Array]:
        """Segments (k,) that others of their members follow, and by how much (k,) in radians the
        axis turns between the two."""
        structure = self.structure
        before = np.flatnonzero(np.diff(structure.member_of_segment) == 0)
        leaving, arriving = tangents(structure.chords, structure.bulge)
        came, goes = unit(arriving[before]), unit(leaving[before + 1])
        sine = np.linalg.norm(np.cross(came, goes), axis=1)
        turned = np.arctan2(sine, np.einsum("ij,ij->i", came, goes))
        return before.astype(np.int32), turned


@remembered
def blanks_of(structure: Structure) -> Blanks:
    """The blanks of a structure's members."""
    return Blanks(structure)
