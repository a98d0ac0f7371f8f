"""How panels sit on members: how far these reach above the planes panels lie in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.polygons import best_planes
from ..sections import Section
from ..structure.structure import Structure
from .panels import Panels

__all__ = ["MemberHeights", "member_heights", "member_reach", "nodes_of_corners"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class MemberHeights(NamedTuple):
    """How far members reach above the planes of panels: ``height`` (k,) in metres, below 0 where a
    member stays under the plane, of a ``panel`` (k,) and a ``member`` (k,), by their positions; one
    pair a side that has a member."""

    height: Array
    panel: Index
    member: Index


class _Beside(NamedTuple):
    """Members beside sides (k,) of panels: the ``panel`` and the ``member`` of each, how far
    (k,) the higher end of the side lies above the panel's plane, and how far the width, the height
    and the middle (k, 3) of the member's section go ``across`` the side, into the panel, and
    ``high`` above its plane."""

    panel: Index
    member: Index
    base: Array
    across: Array
    high: Array

    @classmethod
    def of(cls, panels: Panels, structure: Structure) -> _Beside:
        segments = _segments_of_sides(panels, structure)
        at = np.flatnonzero(segments >= 0).astype(np.int32)
        panel = np.repeat(np.arange(panels.count, dtype=np.int32), np.diff(panels.offsets))[at]
        segment = segments[at]
        inward, normal, base = _frames_of_sides(panels, panel, at)
        entry = structure.first_entry[segment]
        offset = (structure.offset[entry] + structure.offset[entry + 1]) / 2
        up, chord = structure.up[segment], structure.chords[segment]
        side = np.cross(up, chord / np.linalg.norm(chord, axis=1, keepdims=True))
        across, high = (
            np.column_stack([_along(d, way) for d in (side, up, offset)])
            for way in (inward, normal)
        )
        return cls(panel, structure.member_of_segment[segment], base, across, high)

    def by_section(self, structure: Structure) -> Iterator[tuple[Section, NDArray[np.int64]]]:
        """Sections with the sides, by their positions, that have such a member."""
        of = structure.section_of[self.member]
        for k, section in enumerate(structure.sections):
            rows = np.flatnonzero(of == k)
            if rows.size:
                yield section, rows


def member_heights(panels: Panels, structure: Structure) -> MemberHeights:
    """How far members reach above the planes of the panels beside them, below their edges.

    Of a member's section counts what lies further in than half the joint, where the panel is. A
    panel raised by the largest height from its plane touches no member beside it.
    """
    beside = _Beside.of(panels, structure)
    heights = np.full(len(beside.panel), -np.inf)
    for section, rows in beside.by_section(structure):
        tops = _tops(section, beside.across[rows], beside.high[rows], panels.joint / 2)
        heights[rows] = beside.base[rows] + tops
    return MemberHeights(heights, beside.panel, beside.member)


def member_reach(panels: Panels, structure: Structure) -> float:
    """How far (m), at most, members reach in from the sides of the panels beside them; 0 where
    there are none."""
    beside, most = _Beside.of(panels, structure), 0.0
    for section, rows in beside.by_section(structure):
        across = beside.across[rows]
        if section.shape.round:
            most = max(most, float(across[:, 2].max()) + section.shape.height / 2)
            continue
        for ring, _ in section.shape.pieces():
            most = max(most, float((across[:, :2] @ ring.T + across[:, 2:]).max()))
    return most


def _tops(section: Section, across: Array, high: Array, least: float) -> Array:
    """Largest heights (n,) of a section where it is at least ``least`` across. ``across`` and
    ``high`` (n, 3) tell how far its width, its height and its middle go there."""
    if section.shape.round:
        return _top_of_circle(across[:, 2], high[:, 2], section.shape.height / 2, least)
    tops = []
    for ring, _ in section.shape.pieces():
        x = across[:, :2] @ ring.T + across[:, 2:]
        y = high[:, :2] @ ring.T + high[:, 2:]
        tops.append(_highest_beyond(x, y, least))
    return np.asarray(np.max(tops, axis=0))


def _along(vectors: Array, ways: Array) -> Array:
    return np.asarray(np.einsum("ij,ij->i", vectors, ways))


def _frames_of_sides(panels: Panels, panel: Index, at: Index) -> tuple[Array, Array, Array]:
    """Of the sides ``at`` (k,) of panels (k,): unit directions (k, 3) inward in the panel's plane
    and square to it, and how far (k,) the higher end lies above it."""
    centres, normals = best_planes(panels.places, panels.corners, panels.offsets)
    normal = normals[panel]
    first, second = panels.places[panels.corners[at]], panels.places[panels.next_corner[at]]
    way = second - first
    way -= _along(way, normal)[:, None] * normal
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    base = np.maximum(*(_along(p - centres[panel], normal) for p in (first, second)))
    base[panels.bent[panel]] = 0.0  # these go along their sides
    # The panel lies to the left of its sides.
    return np.cross(normal, way), normal, base


def _top_of_circle(x: Array, y: Array, radius: float, least: float) -> Array:
    """Largest height (n,) of circles about (``x``, ``y``) at places that are at least ``least``
    across; −∞ where they do not reach there."""
    short = np.maximum(least - x, 0.0)
    rise = np.sqrt(np.maximum(radius**2 - short**2, 0.0))
    return np.where(short <= radius, y + rise, -np.inf)


def _highest_beyond(x: Array, y: Array, least: float) -> Array:
    """Largest y (n,) of closed outlines (n, k) where x is at least ``least``; −∞ where it is
    not."""
    after_x, after_y = np.roll(x, -1, axis=1), np.roll(y, -1, axis=1)
    corner = np.where(x >= least, y, -np.inf).max(axis=1)
    crosses = (x >= least) != (after_x >= least)
    share = np.where(crosses, (least - x) / np.where(crosses, after_x - x, 1.0), 0.0)
    on_line = np.where(crosses, y + share * (after_y - y), -np.inf).max(axis=1)
    return np.maximum(corner, on_line)


def nodes_of_corners(panels: Panels, structure: Structure) -> Index:
    """The node (V,) of a structure at each place of panels; −1 where both come from nothing they
    have in common."""
    out = np.full(len(panels.places), -1, np.int32)
    for k, source in enumerate(panels.sources):
        mine = panels.origin[:, 0] == k
        out[mine] = structure.nodes_on(source, panels.origin[mine, 1])
    return out


def _segments_of_sides(panels: Panels, structure: Structure) -> Index:
    """The segment of a member along each side of a panel; −1 where there is none, as where cells
    were split."""
    node = nodes_of_corners(panels, structure)
    count = len(structure.places)
    start = structure.first_entry
    known = _pair_keys(structure.path[start], structure.path[start + 1], count)
    wanted = _pair_keys(node[panels.corners], node[panels.next_corner], count)
    order = np.argsort(known)
    place = np.minimum(np.searchsorted(known[order], wanted), len(order) - 1)
    found = order[place]
    return np.where(known[found] == wanted, found, -1).astype(np.int32)


def _pair_keys(first: Index, second: Index, count: int) -> NDArray[np.int64]:
    """A number (n,) for each pair of nodes, whichever comes first; below 0 where one is −1."""
    low, high = np.minimum(first, second), np.maximum(first, second)
    return np.where(low < 0, -1, low.astype(np.int64) * count + high)
