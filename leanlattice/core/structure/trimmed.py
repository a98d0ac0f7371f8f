"""Solids of members whose ends are cut by planes and saddles.

The section is a mesh of its own: corners of its outlines, sides between them, and triangles of the
face between. Every corner goes on along the axis to the cut that takes more of it; where two
share an end, the face's triangles are parted along the line where both take as much.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from ..geometry.prisms import ring_between
from ..sections.shapes import Outline
from .cuts import CUT, taken_at

__all__ = ["SectionMesh", "section_mesh", "trimmed_solid"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

ON_RIDGE = 1e-9
"""Metres by which what two planes take may differ and still count as equal."""


@dataclass(frozen=True, eq=False)
class SectionMesh:
    """Corners (Q, 2) of a section's outlines, ``sides`` (E, 2) between them with the outside on
    their right, and the ``face`` (T, 3) between as triangles, counter-clockwise. ``is_tube`` tells
    whether it is one piece without a corner that leads inward."""

    corners: Array
    sides: Index
    face: Index
    is_tube: bool

    @cached_property
    def side_of(self) -> dict[tuple[int, int], int]:
        """The side between two corners, the lower one first."""
        return {(min(a, b), max(a, b)): k for k, (a, b) in enumerate(self.sides.tolist())}


def section_mesh(pieces: tuple[Outline, ...]) -> SectionMesh:
    """The mesh of a section of outlines: of each piece the loop (n, 2) round it and that round its
    hollow, counter-clockwise."""
    meshes = [_piece_mesh(piece) for piece in pieces]
    first = np.cumsum([0, *(len(mesh.corners) for mesh in meshes)])
    return SectionMesh(
        corners=np.vstack([mesh.corners for mesh in meshes]),
        sides=np.vstack([mesh.sides + n for mesh, n in zip(meshes, first, strict=False)]),
        face=np.vstack([mesh.face + n for mesh, n in zip(meshes, first, strict=False)]),
        is_tube=len(meshes) == 1 and meshes[0].is_tube,
    )


def _piece_mesh(piece: Outline) -> SectionMesh:
    loops = [loop for loop in piece if loop is not None]
    corners = np.ascontiguousarray(np.vstack(loops))
    ends = np.cumsum([len(loop) for loop in loops]).astype(np.uint32)
    if len(loops) == 2 and len(loops[0]) == len(loops[1]):
        # Across the wall: an end that fits a tube bends from corner to corner.
        face = ring_between(len(loops[0]), 0, len(loops[0]))
    else:
        face = mapbox_earcut.triangulate_float64(corners, ends).reshape(-1, 3).astype(np.int32)
    turned = _bends(*(corners[face[:, k]] for k in range(3))) < 0
    face[turned] = face[turned][:, ::-1]
    sides = []
    for k, end in enumerate(ends.tolist()):
        ring = np.arange(end - len(loops[k]), end)
        onward = np.roll(ring, -1)
        sides.append(np.column_stack([ring, onward] if k == 0 else [onward, ring]))
    outer = loops[0]
    bends = _bends(np.roll(outer, 1, axis=0), outer, np.roll(outer, -1, axis=0))
    return SectionMesh(corners, np.vstack(sides).astype(np.int32), face, bool((bends >= 0).all()))


def _bends(a: Array, b: Array, c: Array) -> Array:
    """Twice the areas (n,) of triangles (n, 2) each, below 0 where they turn clockwise."""
    return np.asarray((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])


def trimmed_solid(
    section: SectionMesh, places: Array, rings: Array, inward: Array, cuts: tuple[Array, Array]
) -> tuple[Array, Index]:
    """Vertices (n, 3) in metres and triangles (m, 3) of a member, closed and normals outward.

    Parameters
    ----------
    places, rings : (k, 3), (k, 2, 3) where the section stands, and what a metre along its width and
        height is there
    inward : (2, 3) unit directions from the first and the last place into the member
    cuts : for both ends up to two rows as ``Cuts`` has them (p, CUT); none where it is square
    """
    count, last = len(section.corners), len(places) - 1
    stations = section.corners @ rings + places[:, None]
    ends: list[_End] = []
    for end, station in ((0, 0), (1, last)):
        first = stations.size // 3 + sum(len(e.added) for e in ends)
        ends.append(_End.of(section, stations, station, first, rings, inward[end], cuts[end]))
    walls = [_walls(section.sides, k * count, (k + 1) * count) for k in range(last)]
    # Those at the far end first: what is added comes last, and rows before it keep their numbers.
    walls[-1] = _opened(walls[-1], ends[1].on_side, len(section.sides), 1)
    walls[0] = _opened(walls[0], ends[0].on_side, len(section.sides), 0)
    triangles = np.concatenate([*walls, ends[0].face[:, ::-1], ends[1].face]).astype(np.int32)
    return np.vstack([stations.reshape(-1, 3), *(e.added for e in ends)]), triangles


@dataclass(frozen=True, eq=False)
class _End:
    """An end of a member: its ``face`` (T, 3), the places of corners that were ``added`` (n, 3),
    and by number of a side the corner that lies ``on_side``."""

    face: Index
    added: Array
    on_side: dict[int, int]

    @classmethod
    def of(
        cls,
        section: SectionMesh,
        stations: Array,
        station: int,
        first: int,
        rings: Array,
        inward: Array,
        cuts: Array,
    ) -> _End:
        """The end of a ``section`` at a ``station``, whose corners in ``stations`` (k, Q, 3) go on
        to its ``cuts`` (p, CUT); those that are added count from ``first``. ``rings`` and
        ``inward`` (3,) are those of ``trimmed_solid``."""
        count = len(section.corners)
        if not len(cuts):
            return cls(section.face + station * count, np.zeros((0, 3)), {})
        over = _Over(rings[station], inward, bool(station), cuts)
        taken, more = over.at(section.corners)
        square = stations[station].copy()
        stations[station] += (taken + np.maximum(more, 0.0))[:, None] * inward
        parted = _parted(section, more)
        between = parted.between(section.corners)
        taken, more = over.at(between)
        added = parted.between(square) + (taken + np.maximum(more, 0.0))[:, None] * inward
        face = parted.face
        face = np.where(face < count, face + station * count, face - count + first)
        return cls(face, added, {side: first + k for side, k in parted.on_side.items()})


class _Over(NamedTuple):
    """What takes an end: its ``cuts`` (p, CUT), the ``ring`` (2, 3) of the section there, the way
    ``inward`` (3,), and whether it is the last end."""

    ring: Array
    inward: Array
    is_last: bool
    cuts: Array

    def at(self, places: Array) -> tuple[Array, Array]:
        """How far along the axis the first cut takes of each of the ``places`` (Q, 2) of the
        section, and how much more than that (Q,) the second does."""
        scale, count = float(np.linalg.norm(self.ring[1])), len(self.cuts)
        # Seen from the other end, widths run the other way.
        seen = scale * places * np.array([-1.0 if self.is_last else 1.0, 1.0])
        alone = np.zeros((count, 2, CUT))
        alone[:, 0] = self.cuts
        away, up = (np.tile(way, (count, 1)) for way in (self.inward, self.ring[1] / scale))
        by_cut = taken_at(alone, away, up, np.tile(seen, (count, 1, 1)))
        taken, more = by_cut[0], by_cut[-1] - by_cut[0]
        more[np.abs(more) < ON_RIDGE] = 0.0
        return taken, more


@dataclass(frozen=True, eq=False)
class _Parted:
    """A section's ``face`` (T, 3) parted along a line: new corners are counted on from the old ones
    and lie at a ``share`` (n,) of the ``pair`` (n, 2) of these; ``on_side`` tells, by number of the
    side, which of them lies on it, counted from 0."""

    face: Index
    pair: Index
    share: Array
    on_side: dict[int, int]

    def between(self, values: Array) -> Array:
        """What new corners (n, …) have of the ``values`` (Q, …) of the old ones."""
        low, high = values[self.pair[:, 0]], values[self.pair[:, 1]]
        return np.asarray(low + self.share[:, None] * (high - low))


def _parted(section: SectionMesh, value: Array) -> _Parted:
    """Parts the face where a ``value`` (Q,), linear over it, is 0."""
    signs = np.sign(value)[section.face]
    crossed = (signs.min(axis=1) < 0) & (signs.max(axis=1) > 0)
    new = _NewCorners(len(section.corners))
    split, values = section.face[crossed].tolist(), value.tolist()
    pieces = [piece for corners in split for piece in _pieces(corners, values, new)]
    face = np.concatenate([section.face[~crossed], np.array(pieces, np.int32).reshape(-1, 3)])
    pair = np.array(list(new.known), np.int32).reshape(-1, 2)
    low, high = value[pair[:, 0]], value[pair[:, 1]]
    sides = section.side_of
    on_side = {sides[edge]: k for edge, k in new.known.items() if edge in sides}
    return _Parted(face, pair, low / (low - high), on_side)


class _NewCorners:
    """Corners between two others, counted on from ``count``."""

    def __init__(self, count: int) -> None:
        self.count = count
        self.known: dict[tuple[int, int], int] = {}

    def between(self, a: int, b: int) -> int:
        return self.count + self.known.setdefault((min(a, b), max(a, b)), len(self.known))


def _pieces(corners: list[int], value: list[float], new: _NewCorners) -> list[list[int]]:
    """A triangle parted where a ``value`` is 0."""
    # Turned so that the first is alone on its side, or on the line with the third.
    for _ in range(3):
        a, b, c = corners
        if value[a] * value[b] < 0 and value[a] * value[c] <= 0:
            break
        corners = corners[1:] + corners[:1]
    m = new.between(a, b)
    if value[c] == 0:
        return [[a, m, c], [m, b, c]]
    n = new.between(a, c)
    return [[a, m, n], [m, b, c], [m, c, n]]


def _walls(sides: Index, low: int, high: int) -> Index:
    """Two triangles (2 E, 3) a side between two stations, whose corners count from ``low`` and from
    ``high``: first those at the low one, then those at the high one."""
    a, b = sides.T
    at_low = np.column_stack([low + a, low + b, high + b])
    at_high = np.column_stack([low + a, high + b, high + a])
    return np.concatenate([at_low, at_high]).astype(np.int32)


def _opened(walls: Index, on_side: dict[int, int], sides: int, end: int) -> Index:
    """Walls whose sides at an ``end`` have another corner between: the triangle there becomes
    two."""
    if not on_side:
        return walls
    rows = [k + (sides if end else 0) for k in on_side]
    added = np.array(list(on_side.values()))
    a, b, c = walls[rows].T
    # At the low end the side runs from the first corner to the second, at the high one from the
    # second to the third.
    pieces = [(a, added, c), (added, b, c)] if end == 0 else [(a, b, added), (a, added, c)]
    kept = np.delete(walls, rows, axis=0)
    return np.concatenate([kept, *(np.column_stack(p) for p in pieces)]).astype(np.int32)
