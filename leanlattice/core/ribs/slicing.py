"""Sections of closed meshes by planes, ring by ring.

A vertex lies above a plane or it does not; one in the plane does not. So a triangle is met where
one or two of its corners lie above, along a piece from the edge on which it comes down, seen the
way its corners go round, to that on which it goes up, with the material on its left. Of a closed
mesh each edge is come down in one of its two triangles and gone up in the other: pieces follow each
other round rings, whatever lies in the plane. Rings are thinned as Douglas and Peucker (1973) do.

Plain rings are sections as they are. Those that lie in each other, or run over themselves as those
of meshes that cross themselves, are for the boolean package.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.meshes import Mesh
from .planes import Planes

__all__ = ["plain_sections"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
ALIKE = 9
"""Decimals of areas (m²) by which pieces are as large as each other."""


def plain_sections(mesh: Mesh, planes: Planes, fine: float) -> list[list[shapely.Polygon] | None]:
    """Sections of a closed ``mesh`` by ``planes``, in the axes of each and the largest piece first;
    ``None`` where rings do not lie apart. Corners nearer than ``fine`` (m) to the line between
    others are left out."""
    out: list[list[shapely.Polygon] | None] = [None] * len(planes)
    axes = np.stack([planes.x, planes.y, planes.normals], axis=1)
    # Planes that face alike share the heights of the mesh.
    turns = np.flatnonzero((np.diff(axes, axis=0) != 0).any(axis=(1, 2))) + 1
    for group in np.split(np.arange(len(planes)), turns):
        if not group.size:
            continue
        places = _along(mesh.vertices, axes[group[0]])
        shifts = _along(planes.origins[group], axes[group[0]])
        order = np.argsort(shifts[:, 2], kind="stable")
        rings = _Rings.at(mesh.triangles, places, shifts[order, 2], fine)
        for k, pieces in zip(group[order], rings.pieces(shifts[order, :2]), strict=True):
            out[k] = pieces
    return out


def _along(places: Array, axes: Array) -> Array:
    """Places (n, 3) along unit ``axes`` (3, 3), to the last bit the same however many there are and
    whatever machine it is: what lies in a plane of the axes lies in it."""
    x, y, z = places[:, :1], places[:, 1:2], places[:, 2:]
    first, second, third = axes.T
    return x * first + y * second + z * third


@dataclass(frozen=True, eq=False)
class _Rings:
    """Rings of corners (c, 2) in planes (n,): where rings begin in the corners (r + 1,), where
    planes begin in the rings (n + 1,), and whether (n,) the rings of a plane are closed."""

    corner: Array
    ring_at: Index
    plane_at: Index
    closed: NDArray[np.bool_]

    @classmethod
    def at(cls, triangles: NDArray[np.int32], places: Array, heights: Array, fine: float) -> _Rings:
        """Those of ``triangles`` of ``places`` (V, 3) at ``heights`` (n,), which rise."""
        first, second, third = places[:, 2][triangles.T]
        low = np.searchsorted(heights, np.minimum(np.minimum(first, second), third))
        high = np.searchsorted(heights, np.maximum(np.maximum(first, second), third))
        piece_at = _counted(low, high, len(heights))
        pieces = _pieces(places, triangles, heights, low, high, piece_at)
        return cls(*_rings(*pieces, piece_at, fine * fine))

    def pieces(self, shifts: Array) -> list[list[shapely.Polygon] | None]:
        """The polygons of each plane, from places ``shifts`` (n, 2) in it; ``None`` where they are
        not plain. Of pieces as large as each other the leftmost comes first."""
        plane_of = np.repeat(np.arange(len(shifts)), np.diff(self.plane_at))
        ring_of = np.repeat(np.arange(len(plane_of)), np.diff(self.ring_at))
        corner = self.corner - shifts[plane_of[ring_of]]
        lines: Any = shapely.linearrings(corner, indices=ring_of)
        made: Any = shapely.polygons(lines)
        bounds = shapely.bounds(made)
        wrong = ~shapely.is_ccw(lines) | ~shapely.is_valid(made)
        wrong[_close(bounds, plane_of)] = True
        plain = self.closed.copy()
        plain[plane_of[wrong]] = False
        out: list[list[shapely.Polygon] | None] = [[] if p else None for p in plain]
        size = np.round(shapely.area(made), ALIKE)
        for ring in np.lexsort((bounds[:, 0], -size)).tolist():
            pieces = out[plane_of[ring]]
            if pieces is not None:
                pieces.append(made[ring])
        return out


def _close(bounds: Array, plane_of: Index) -> Index:
    """Rings (k,) whose bounds (n, 4) meet those of another in the same plane."""
    if not len(plane_of):
        return plane_of
    boxes: Any = shapely.box(*bounds.T)
    # Planes are told apart by moving each further along x than the last.
    step = float(np.ptp(bounds[:, [0, 2]])) + 1.0
    apart = shapely.transform(boxes, lambda at: at + [step, 0.0] * plane_of.repeat(5)[:, None])
    first, second = shapely.STRtree(apart).query(apart, predicate="intersects")
    return np.asarray(np.unique(first[first != second]))


@compiled
def _counted(low, high, count):  # type: ignore[no-untyped-def]
    """Where planes begin (count + 1,) among pieces, of which a triangle has one in each plane from
    ``low`` to ``high`` (T,)."""
    out = np.zeros(count + 1, np.int64)
    for t in range(len(low)):
        for k in range(low[t], high[t]):
            out[k + 1] += 1
    for k in range(count):
        out[k + 1] += out[k]
    return out


@compiled
def _pieces(places, triangles, heights, low, high, piece_at):  # type: ignore[no-untyped-def]
    """Plane by plane the edges (p, 2) that pieces begin on, those they end on, and the places
    (p, 2) where they begin."""
    count = piece_at[-1]
    begins, ends = np.empty((count, 2), np.int64), np.empty((count, 2), np.int64)
    start = np.empty((count, 2))
    slot = piece_at[:-1].copy()
    for t in range(len(triangles)):
        for k in range(low[t], high[t]):
            _piece(places, triangles[t], heights[k], begins, ends, start, slot[k])
            slot[k] += 1
    return begins, ends, start


@compiled
def _rings(begins, ends, start, piece_at, fine):  # type: ignore[no-untyped-def]
    """The fields of ``_Rings`` of all pieces; ``fine`` is the square of what rings are thinned
    by."""
    count = len(piece_at) - 1
    corner = np.empty((piece_at[-1], 2))
    ring_at = [0]
    plane_at = np.zeros(count + 1, np.int64)
    closed = np.ones(count, np.bool_)
    for k in range(count):
        a, b = piece_at[k], piece_at[k + 1]
        closed[k] = _chained(begins[a:b], ends[a:b], start[a:b], corner, ring_at, fine)
        plane_at[k + 1] = len(ring_at) - 1
    return corner[: ring_at[-1]], np.array(ring_at), plane_at, closed


@compiled
def _piece(places, triangle, height, begins, ends, start, at):  # type: ignore[no-untyped-def]
    """Enters the piece of a triangle at ``height`` at position ``at``."""
    for i in range(3):
        a, b = triangle[i], triangle[(i + 1) % 3]
        is_above, next_above = places[a, 2] > height, places[b, 2] > height
        if is_above == next_above:
            continue
        # The same of both triangles beside an edge, to the last bit.
        p, q = min(a, b), max(a, b)
        if next_above:
            ends[at, 0], ends[at, 1] = p, q
            continue
        begins[at, 0], begins[at, 1] = p, q
        share = (height - places[p, 2]) / (places[q, 2] - places[p, 2])
        start[at, 0] = places[p, 0] + share * (places[q, 0] - places[p, 0])
        start[at, 1] = places[p, 1] + share * (places[q, 1] - places[p, 1])


@compiled
def _chained(begins, ends, start, corner, ring_at, fine):  # type: ignore[no-untyped-def]
    """Adds rings of the pieces of one plane to ``corner`` and ``ring_at``; whether each piece
    follows one and is followed by one."""
    count = len(begins)
    after = _followers(begins, ends)
    if count and after.min() < 0:
        return False
    used = np.zeros(count, np.bool_)
    ring = np.empty((count + 1, 2))
    for i in range(count):
        if used[i]:
            continue
        length, at, leftmost = 0, i, i
        while not used[at]:
            used[at] = True
            if (start[at, 0], start[at, 1]) < (start[leftmost, 0], start[leftmost, 1]):
                leftmost = at
            length += 1
            at = after[at]
        if at != i:
            return False
        at = leftmost
        for n in range(length + 1):
            ring[n] = start[at]
            at = after[at]
        kept = _thinned(ring[: length + 1], corner[ring_at[-1] :], fine)
        if kept >= 3:
            ring_at.append(ring_at[-1] + kept)
    return True


@compiled
def _followers(begins, ends):  # type: ignore[no-untyped-def]
    """For each piece (n,) the one that begins on the edge it ends on, and −1 where none does; of
    two that begin on one edge no piece is followed by the first."""
    count, size = len(begins), 4
    while size < 2 * count:
        size *= 2
    table = np.full(size, -1, np.int64)
    after = np.full(count, -1, np.int64)
    for i in range(count):
        table[_slot(begins, table, begins[i, 0], begins[i, 1])] = i
    for i in range(count):
        after[i] = table[_slot(begins, table, ends[i, 0], ends[i, 1])]
    return after


@compiled
def _slot(begins, table, p, q):  # type: ignore[no-untyped-def]
    """Where in a table of pieces, a power of two long, is the one that begins on edge (p, q), or
    would be."""
    last = len(table) - 1
    h = (p * 73856093 ^ q * 19349663) & last
    while table[h] >= 0 and (begins[table[h], 0] != p or begins[table[h], 1] != q):
        h = (h + 1) & last
    return h


@compiled
def _thinned(ring, out, fine):  # type: ignore[no-untyped-def]
    """Writes the corners that are left of a ring (n + 1, 2), which comes back to its leftmost
    corner, to ``out``; how many. It is parted there and at the corner farthest from there."""
    count = len(ring) - 1
    far, most = 0, 0.0
    for i in range(count):
        away = (ring[i, 0] - ring[0, 0]) ** 2 + (ring[i, 1] - ring[0, 1]) ** 2
        if away > most:
            far, most = i, away
    if most <= fine:
        return 0
    kept = np.zeros(count, np.bool_)
    kept[0] = kept[far] = True
    stack = [(far, count), (0, far)]
    while len(stack) > 0:
        a, b = stack.pop()
        worst, split = _farthest(ring, a, b)
        if worst > fine:
            kept[split] = True
            stack.append((split, b))
            stack.append((a, split))
    length = 0
    for i in range(count):
        if kept[i]:
            out[length] = ring[i]
            length += 1
    return length


@compiled
def _farthest(ring, a, b):  # type: ignore[no-untyped-def]
    """Of the corners between two: how far the farthest is from the line between these, squared,
    and which."""
    x, y = ring[b, 0] - ring[a, 0], ring[b, 1] - ring[a, 1]
    square = x * x + y * y
    scale = 1 / square if square > 0 else 0.0
    worst, split = -1.0, a
    for i in range(a + 1, b):
        u, v = ring[i, 0] - ring[a, 0], ring[i, 1] - ring[a, 1]
        share = min(max((u * x + v * y) * scale, 0.0), 1.0)
        u -= share * x
        v -= share * y
        if u * u + v * v > worst:
            worst, split = u * u + v * v, i
    return worst, split
