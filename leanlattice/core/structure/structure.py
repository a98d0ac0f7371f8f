"""The structure: nodes, and members that run through two or more of them."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry.arcs import arc_lengths, carried, tangents, unit
from ..results import Result, result_type
from ..sections import Section
from .centroid_lines import centroid_gains
from .cut_backs import CutBacks, cut_backs, outlines_of
from .cuts import Cuts
from .meetings import Meeting
from .swelling import swollen_lengths

__all__ = ["LEVEL", "Structure"]

LEVEL = 1e-9
"""Metres by which a member may lie unevenly above its nodes and still count as lifted."""

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@result_type("Structure", "structure", "member", "node", covers=("Net", "Shape", "Curves", "Lines"))
@dataclass(frozen=True, eq=False)
class Structure(Result):
    """Nodes (N) and members (M); a member is a path through two or more nodes, P entries in all.

    Parameters
    ----------
    places, normals : (N, 3) in metres, and unit directions outward
    station, member_station : (N, 2), (M, 2) metres along and across, by which those of a stage are
        numbered
    stage : (N,) which clause of the structure's line made a node, from 0
    origin : (N, 2) position in ``sources`` and number there of what a node stands on; −1 for none
    foot : (N,) whether it stands on something
    rule : (N,) how members are to meet at a node, its place in ``rules``
    meeting : (N,) how they do, its place in ``MEETINGS``: apart where no body fits
    radius, height : (N,) of the body at a node, across and along its normal, in metres; 0 where
        there is none
    path : (P,) nodes, member after member
    offsets : (M + 1,) member ``i`` runs through ``path[offsets[i]:offsets[i + 1]]``
    offset : (P, 3) from an entry's node to the member's axis there, in metres: set-out lines,
        levels of a weave, purlins on rafters, gaps and rigid links alike
    scale : (P,) of the section at each entry
    waist : (S,) by how much the section's scale in the middle of a segment is above the mean of
        those at its ends
    up : (S, 3) unit directions of the section's height, square to the axis, for each of the S = P − M
        segments between entries
    bulge : (S, 3) from a segment's middle to that of its arc, in metres; 0 where it is straight
    sections : the different sections
    section_of, role, member_stage, group : (M,) the one of each member, its place in ``ROLES``,
        the clause that made it, and a number within that clause
    set_back : (M, 2) how far, in metres, a member's saw cuts stop short of its two ends; below 0
        where planes cut the end and its far edge lies beyond
    copy_of : (M,) the member that a member is a copy of, itself where it is none
    mirrored : (M,) whether it is a mirror image of that
    sources : keys of results that ``origin`` counts in
    since : numbers of nodes and members that were there before the last stage
    cuts : planes that cut ends
    rules : the different ways in which members are to meet
    further : (K, 3) nodes that stand on more than one thing, and for each of the others its
        position in ``sources`` and its number there
    series : what stands before all names
    tolerance : within how many metres members are equal, and of one type
    """

    places: Array
    normals: Array
    station: Array
    member_station: Array
    stage: Index
    origin: Index
    foot: NDArray[np.bool_]
    rule: Index
    meeting: Index
    radius: Array
    height: Array
    path: Index
    offsets: Index
    offset: Array
    scale: Array
    waist: Array
    up: Array
    bulge: Array
    sections: tuple[Section, ...]
    section_of: Index
    role: Index
    member_stage: Index
    group: Index
    set_back: Array
    copy_of: Index
    mirrored: NDArray[np.bool_]
    sources: tuple[str, ...] = ()
    since: tuple[int, int] = field(default=(0, 0))
    cuts: Cuts = field(default_factory=Cuts.none)
    rules: tuple[Meeting, ...] = (Meeting(),)
    further: Index = field(default_factory=lambda: np.zeros((0, 3), np.int32))
    series: str = ""
    tolerance: float = 0.001

    @property
    def count(self) -> int:
        """Number of members."""
        return len(self.offsets) - 1

    @cached_property
    def member_of_entry(self) -> Index:
        """The member (P,) each entry of the path belongs to."""
        return np.repeat(np.arange(self.count, dtype=np.int32), np.diff(self.offsets))

    @cached_property
    def first_entry(self) -> Index:
        """The entry (S,) each segment begins at; it ends at the next one."""
        inner = np.ones(len(self.path), bool)
        inner[self.offsets[1:] - 1] = False
        return np.flatnonzero(inner).astype(np.int32)

    @cached_property
    def member_of_segment(self) -> Index:
        """The member (S,) each segment belongs to."""
        return self.member_of_entry[self.first_entry]

    @property
    def ends(self) -> Index:
        """First and last node (M, 2) of each member."""
        return np.column_stack([self.path[self.offsets[:-1]], self.path[self.offsets[1:] - 1]])

    @cached_property
    def node_set_back(self) -> Array:
        """Largest set-back (N,) of the members that end at a node, in metres."""
        out = np.zeros(len(self.places))
        np.maximum.at(out, self.ends.ravel(), self.set_back.ravel())
        return out

    @cached_property
    def first_segment(self) -> Index:
        """The segment (M,) each member begins with."""
        return (self.offsets[:-1] - np.arange(self.count)).astype(np.int32)

    @cached_property
    def axis_places(self) -> Array:
        """Places (P, 3) of the axes at their entries, in metres."""
        return self.places[self.path] + self.offset

    @cached_property
    def chords(self) -> Array:
        """From entry to entry (S, 3), in metres."""
        at = self.axis_places
        return at[self.first_entry + 1] - at[self.first_entry]

    @cached_property
    def segment_lengths(self) -> Array:
        """Lengths (S,) of the axes between entries, along their arcs."""
        return arc_lengths(self.chords, self.bulge)

    @cached_property
    def turns(self) -> Array:
        """By how much (S,) arcs turn, in radians."""
        rise, half = np.linalg.norm(self.bulge, axis=1), np.linalg.norm(self.chords, axis=1) / 2
        return 4 * np.arctan2(rise, half)

    @cached_property
    def lengths(self) -> Array:
        """Lengths (M,) of the axes from end to end, in metres."""
        lengths = np.bincount(self.member_of_segment, self.segment_lengths, minlength=self.count)
        return lengths.astype(np.float64)

    @cached_property
    def cut_lengths(self) -> Array:
        """Between the two saw cuts (M,); not above 0 where the set-backs leave nothing."""
        return self.lengths - self.set_back.sum(axis=1)

    @cached_property
    def heights(self) -> tuple[Array, Array]:
        """Unit directions (S, 3) of sections' heights at the starts and at the ends of segments:
        along an arc they turn with it."""
        if not self.bulge.any():
            return self.up, self.up
        ways = unit(self.chords)
        leaving, arriving = tangents(self.chords, self.bulge)
        return carried(self.up, ways, leaving), carried(self.up, ways, arriving)

    @cached_property
    def end_frames(self) -> tuple[Array, Array]:
        """Unit directions (M, 2, 3) in which members leave their ends, and of their heights
        there."""
        first = self.first_segment
        last = first + np.diff(self.offsets) - 2
        if len(self.path) == 2 * self.count:
            leaving, arriving = tangents(self.chords, self.bulge)
            return np.stack([leaving, -arriving], axis=1), np.stack(self.heights, axis=1)
        leaving = tangents(self.chords[first], self.bulge[first])[0]
        arriving = tangents(self.chords[last], self.bulge[last])[1]
        up = np.stack([self.heights[0][first], self.heights[1][last]], axis=1)
        return np.stack([leaving, -arriving], axis=1), up

    @cached_property
    def straight_ends(self) -> NDArray[np.bool_]:
        """Whether what leads to each end (2 M,) is straight."""
        bent = np.abs(self.bulge).sum(axis=1) > 0
        first = self.first_segment
        last = first + np.diff(self.offsets) - 2
        return np.asarray(~np.column_stack([bent[first], bent[last]]).ravel())

    @cached_property
    def cut_backs(self) -> CutBacks:
        """Where the ends (2 M,) are that planes cut."""
        away, up = (frame.reshape(-1, 3) for frame in self.end_frames)
        entries = np.column_stack([self.offsets[:-1], self.offsets[1:] - 1]).ravel()
        which = np.repeat(self.section_of, 2)
        outlines = outlines_of(self.sections)
        return cut_backs(self.cuts, away, up, which, self.scale[entries], outlines)

    @cached_property
    def square_back(self) -> Array:
        """Set-backs (M, 2) of square cuts that would leave as much of the members, in metres."""
        return self.where_cut(self.cut_backs.mean) if self.cuts.count else self.set_back

    @cached_property
    def axis_back(self) -> Array:
        """How far (M, 2) the cuts stop short of the ends on the axes, in metres."""
        return self.where_cut(self.cut_backs.axis) if self.cuts.count else self.set_back

    def cut_by(self, cuts: Cuts, square: Array) -> Structure:
        """The same members with their ends cut by these ``cuts``, and others ``square`` (M, 2) to
        their axes, in metres from where these end."""
        cut = replace(self, cuts=cuts, set_back=square)
        made = replace(cut, set_back=cut.where_cut(cut.cut_backs.far))
        # Worked out once: it does not depend on the set-backs.
        vars(made)["cut_backs"] = cut.cut_backs
        return made

    def where_cut(self, back: Array) -> Array:
        """Set-backs (M, 2), of ends (2 M,) that planes cut so far ``back``."""
        return np.where(np.isnan(back), self.set_back.ravel(), back).reshape(-1, 2)

    @cached_property
    def mean_lengths(self) -> Array:
        """Lengths (M,) of members with square ends that are as heavy, in metres; not above 0 where
        nothing is left."""
        return np.asarray(self.lengths - self.square_back.sum(axis=1))

    @property
    def body_materials(self) -> list[str]:
        """Names of what the body at each node (N,) would be made of."""
        return [self.rules[rule].material for rule in self.rule.tolist()]

    @cached_property
    def body_middles(self) -> Array:
        """The middle (N, 3) of the axes that end at a node, which is its body's, in metres."""
        entry = np.concatenate([self.offsets[:-1], self.offsets[1:] - 1])
        node, nodes = self.path[entry], len(self.places)
        count = np.maximum(np.bincount(node, minlength=nodes), 1)
        off = [np.bincount(node, self.offset[entry, k], minlength=nodes) for k in range(3)]
        return np.asarray(self.places + np.stack(off, axis=1) / count[:, None])

    @cached_property
    def masses(self) -> Array:
        """Mass (M,) in kg of what the cuts leave, of what the sections are scaled by on their
        way."""
        per_metre = np.array([s.mass for s in self.sections])[self.section_of]
        weighed = np.maximum(self.mean_lengths, 0.0)
        if self.is_uneven.any():
            weighed = np.where(self.is_uneven & (weighed > 0), self._swollen_lengths, weighed)
        return per_metre * (weighed + self._centroid_gains)

    @property
    def _swollen_lengths(self) -> Array:
        """Lengths (M,) of members with square ends and even sections that are as heavy."""
        scale = self.scale[self.first_entry], self.scale[self.first_entry + 1]
        first = np.append(self.first_segment, len(self.waist)).astype(np.int32)
        ends = self.set_back, self._planes_over
        radii = outlines_of(self.sections).radii[self.section_of]
        return swollen_lengths(scale, self.waist, self.segment_lengths, first, ends, radii)

    @property
    def _planes_over(self) -> Array:
        """How far back the planes (M, 2, 2, 3) of members' ends cut their axes, and what a metre of
        width and of height adds; not a number where there is none."""
        out = np.full((2 * self.count, 2, 3), np.nan)
        if not self.cuts.count:
            return out.reshape(-1, 2, 2, 3)
        normals, levels = self.cuts.of_ends(2 * self.count)
        away, up = (frame.reshape(-1, 3) for frame in self.end_frames)
        side = np.cross(up, away)
        into = np.einsum("epi,ei->ep", normals, away)
        into[into == 0] = np.nan
        across = [np.einsum("epi,ei->ep", normals, way) for way in (side, up)]
        out[:] = np.stack([levels, -across[0], -across[1]], axis=2) / into[:, :, None]
        return out.reshape(-1, 2, 2, 3)

    @cached_property
    def is_uneven(self) -> NDArray[np.bool_]:
        """Whether each member (M,) has a section that is larger or smaller somewhere."""
        off = np.bincount(self.member_of_entry, np.abs(self.scale - 1), minlength=self.count)
        waist = np.bincount(self.member_of_segment, np.abs(self.waist), minlength=self.count)
        return np.asarray(off + waist > 0)

    @cached_property
    def largest_scale(self) -> Array:
        """The section's largest scale (M,) along each member, or a little more: a parabola is above
        its ends and its middle by a quarter of its waist at most."""
        first = self.first_entry
        start, end = self.scale[first], self.scale[first + 1]
        most = np.maximum(np.maximum(start, end), (start + end) / 2 + self.waist)
        out = np.maximum.reduceat(self.scale, self.offsets[:-1])
        np.maximum.at(out, self.member_of_segment, most + np.abs(self.waist) / 4)
        return out

    @cached_property
    def _centroid_gains(self) -> Array:
        """Metres (M,) by which the lines of centroids are longer than the axes."""
        if len(self.path) == 2 * self.count and not self.bulge.any():
            return np.zeros(self.count)
        centroids = np.array([s.shape.centroid for s in self.sections])
        of_segment = centroids[self.section_of[self.member_of_segment]]
        member, count = self.member_of_segment, self.count
        return centroid_gains(self.chords, self.bulge, self.up, of_segment, member, count)

    @cached_property
    def middles(self) -> Array:
        """Half-way along each member (M, 3), between its nodes' places."""
        lengths = self.segment_lengths
        done = np.cumsum(lengths)
        last = self.first_segment + np.diff(self.offsets) - 2
        half = done[last] - self.lengths / 2
        # The segment that holds the middle, and how far along its chord that lies.
        holds = np.searchsorted(done, half - 1e-12 * np.maximum(done[last], 1.0))
        holds = np.minimum(holds, last)
        share = (half - (done[holds] - lengths[holds])) / np.maximum(lengths[holds], 1e-300)
        start = self.places[self.path[self.first_entry[holds]]]
        end = self.places[self.path[self.first_entry[holds] + 1]]
        swell = 4 * share * (1 - share)
        return np.asarray(
            start + share[:, None] * (end - start) + swell[:, None] * self.bulge[holds]
        )

    @cached_property
    def up_of_entry(self) -> Array:
        """Height of the section (P, 3) in the segment that begins at an entry, at a member's last
        one in that which ends."""
        segment = np.arange(len(self.path)) - self.member_of_entry
        segment[self.offsets[1:] - 1] -= 1
        return self.up[segment]

    @cached_property
    def lift(self) -> Array:
        """How far (P,) the axis lies from an entry's node along the height of the section there."""
        return np.einsum("ij,ij->i", self.offset, self.up_of_entry)

    def nodes_on(self, source: str, numbers: Index) -> Index:
        """The node (n,) on each of the things with these ``numbers`` (n,) in a source; −1 where
        there is none."""
        if source not in self.sources or not len(numbers):
            return np.full(len(numbers), -1, np.int32)
        which = self.sources.index(source)
        here = np.flatnonzero(self.origin[:, 0] == which)
        also = self.further[self.further[:, 1] == which]
        stood_on = np.concatenate([self.origin[here, 1], also[:, 2]])
        node_of = np.full(max(int(numbers.max()), int(stood_on.max(initial=0))) + 1, -1)
        node_of[stood_on] = np.concatenate([here, also[:, 0]])
        return node_of[numbers].astype(np.int32)

    @cached_property
    def is_plain(self) -> NDArray[np.bool_]:
        """Whether each member (M,) is straight from one node to another and even all along."""
        single = np.diff(self.offsets) == 2
        bent = np.bincount(
            self.member_of_segment, np.abs(self.bulge).sum(axis=1), minlength=self.count
        )
        return single & (bent == 0) & ~self.is_uneven

    @cached_property
    def is_lifted(self) -> NDArray[np.bool_]:
        """Whether each member (M,) is plain and lies as far above both its nodes, along its
        height."""
        aside = np.abs(self.offset - self.lift[:, None] * self.up_of_entry).max(axis=1)
        first = np.repeat(self.lift[self.offsets[:-1]], np.diff(self.offsets))
        off = np.maximum(aside, np.abs(self.lift - first))
        return self.is_plain & (np.maximum.reduceat(off, self.offsets[:-1]) < LEVEL)

    @cached_property
    def valence(self) -> Index:
        """Number of ways (N,) that leave each node: one an end, two a passage."""
        ways = np.full(len(self.path), 2)
        ways[self.offsets[:-1]] = 1
        ways[self.offsets[1:] - 1] = 1
        return np.bincount(self.path, ways, minlength=len(self.places)).astype(np.int32)
