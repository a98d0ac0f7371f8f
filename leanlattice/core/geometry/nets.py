"""The net: vertices, edges and cells on a shape, with its borders."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..results import Result, result_type
from . import polygons
from .surfaces import Surface

__all__ = ["MARKS", "Equilibrium", "Net", "NetError", "Weave", "build_net"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


class NetError(ValueError):
    """Cells that do not form a surface: an edge in more than two cells, or two cells that turn
    opposite ways."""


MARKS = ("unmarked", "main", "second", "third")
"""What edges and cells can be marked as, for what is built of them."""


@dataclass(frozen=True, eq=False)
class Weave:
    """How the edges of a net run on through its vertices: the ``strand`` (E,) each is part of, and
    for both its ends the ``level`` (E, 2) at which it passes, in thicknesses above the net. Strands
    are laths ``width`` wide and ``thickness`` thick (m)."""

    strand: Index
    level: Array
    width: float
    thickness: float


@dataclass(frozen=True, eq=False)
class Equilibrium:
    """What balances in a settled net, in kN: ``forces`` (E,) of its edges, tension above 0;
    ``loads``, ``reactions`` and ``aims`` (V, 3) at its vertices, the last by what is aimed for
    besides edge forces. At each vertex they sum to nothing but for the last of the ``residuals``
    (n,), shares of the mean load by step. ``lengths`` (E,) and ``flatness`` (C,) in m are those
    before it was let go. ``held`` (V, 3) tells which coordinates stayed as they are, ``slid`` (V,)
    which vertices slide along something."""

    forces: Array
    loads: Array
    reactions: Array
    aims: Array
    residuals: Array
    lengths: Array
    flatness: Array
    held: NDArray[np.bool_]
    slid: NDArray[np.bool_]


@result_type("Net", "net", "cell", "edge", "node", covers=("Net", "Shape"))
@dataclass(frozen=True, eq=False)
class Net(Result):
    """A sound net: welded, every edge once, cells counter-clockwise seen from outside.

    ``vertices`` (V, 3) in metres with parameters ``uv`` (V, 2); ``edges`` (E, 2), the lower vertex
    first; cell ``i`` has the corners ``corners[offsets[i]:offsets[i + 1]]``, and its side ``k``,
    from corner ``k`` to the next, is edge ``sides[offsets[i] + k]``. ``edge_cells`` (E, 2): the
    cells left and right of an edge, −1 for none. Border loops are closed runs of vertices with the
    net on their left: loop ``i`` is ``loop_vertices[loop_offsets[i]:loop_offsets[i + 1]]``.
    ``marks`` (E,) and ``cell_marks`` (C,) count in ``MARKS``. ``raised_from`` (C,) tells the cell
    of another net that each was raised from, with others. What makes another net of it makes one
    without these, weave and equilibrium.
    """

    surface: Surface
    vertices: Array
    uv: Array
    edges: Index
    corners: Index
    offsets: Index
    sides: Index
    edge_cells: Index
    loop_vertices: Index
    loop_offsets: Index
    marks: Index | None = None
    cell_marks: Index | None = None
    raised_from: Index | None = None
    weave: Weave | None = None
    equilibrium: Equilibrium | None = None

    @property
    def cell_count(self) -> int:
        return len(self.offsets) - 1

    @property
    def loops(self) -> list[Index]:
        """Border loops, each an array of vertices."""
        if not len(self.loop_vertices):
            return []
        return np.split(self.loop_vertices, self.loop_offsets[1:-1])

    @cached_property
    def border(self) -> NDArray[np.bool_]:
        """Whether each edge (E,) lies on the border."""
        return self.edge_cells.min(axis=1) < 0

    @cached_property
    def edge_lengths(self) -> Array:
        """Lengths (E,) in metres."""
        return np.asarray(_lengths(self.vertices, self.edges))

    @cached_property
    def valence(self) -> Index:
        """Number of edges at each vertex (V,)."""
        return np.bincount(self.edges.ravel(), minlength=len(self.vertices)).astype(np.int32)

    @cached_property
    def normals(self) -> Array:
        """Unit normals of the shape (V, 3) at the vertices."""
        return self.surface.normals(self.uv)

    @cached_property
    def cell_means(self) -> Array:
        """Means (C, 3) of the corners of cells, in metres."""
        sums = np.add.reduceat(self.vertices[self.corners], self.offsets[:-1], axis=0)
        return np.asarray(sums / np.diff(self.offsets)[:, None])

    @cached_property
    def flatness(self) -> Array:
        """Flatness of each cell (C,) in metres."""
        return polygons.flatness(self.vertices, self.corners, self.offsets)


@compiled
def _lengths(places: Array, pairs: Index) -> Array:
    """Distances (n,) between ``pairs`` (n, 2) of ``places`` (V, 3)."""
    out = np.empty(len(pairs))
    for e in range(len(pairs)):
        a, b = pairs[e, 0], pairs[e, 1]
        x = places[b, 0] - places[a, 0]
        y = places[b, 1] - places[a, 1]
        z = places[b, 2] - places[a, 2]
        out[e] = np.sqrt(x * x + y * y + z * z)
    return out


@compiled
def _edges(corners: Index, offsets: Index, vertex_count: int):  # type: ignore[no-untyped-def]
    """Unique edges by bucketing half-edges at their lower vertex; a second dimension would cost a
    full sort."""
    count = len(corners)
    following = np.empty(count, np.int32)
    cell_of = np.empty(count, np.int32)
    for c in range(len(offsets) - 1):
        for h in range(offsets[c], offsets[c + 1]):
            following[h] = h + 1 if h + 1 < offsets[c + 1] else offsets[c]
            cell_of[h] = c
    start = np.zeros(vertex_count + 1, np.int32)
    for h in range(count):
        start[min(corners[h], corners[following[h]]) + 1] += 1
    start = np.cumsum(start).astype(np.int32)
    fill = start[:-1].copy()
    bucket = np.empty(count, np.int32)
    high = np.empty(count, np.int32)
    for h in range(count):
        a, b = corners[h], corners[following[h]]
        top = max(a, b)
        low = min(a, b)
        at = fill[low]
        fill[low] += 1
        while at > start[low] and high[at - 1] > top:
            high[at] = high[at - 1]
            bucket[at] = bucket[at - 1]
            at -= 1
        high[at] = top
        bucket[at] = h
    edges = np.empty((count, 2), np.int32)
    edge_cells = np.full((count, 2), -1, np.int32)
    sides = np.empty(count, np.int32)
    twin = np.full(count, -1, np.int32)
    first = np.empty(count, np.int32)
    bad = -1
    e = -1
    for v in range(vertex_count):
        for at in range(start[v], start[v + 1]):
            h = bucket[at]
            if at == start[v] or high[at] != high[at - 1]:
                e += 1
                edges[e, 0], edges[e, 1] = v, high[at]
                first[e] = h
            elif twin[first[e]] >= 0:
                bad = h
            else:
                twin[h], twin[first[e]] = first[e], h
            side = 0 if corners[h] == v else 1
            if edge_cells[e, side] >= 0:
                bad = h
            edge_cells[e, side] = cell_of[h]
            sides[h] = e
    return edges[: e + 1], edge_cells[: e + 1], sides, twin, following, bad


@compiled
def _loops(corners: Index, twin: Index, following: Index):  # type: ignore[no-untyped-def]
    """Chains border half-edges; at a vertex the next one is found by turning through the fan of
    cells there."""
    count = len(corners)
    done = np.zeros(count, np.bool_)
    vertices = np.empty(count, np.int32)
    offsets = [0]
    n = 0
    for h0 in range(count):
        if twin[h0] >= 0 or done[h0]:
            continue
        h = h0
        while not done[h]:
            done[h] = True
            vertices[n] = corners[h]
            n += 1
            h = following[h]
            while twin[h] >= 0:
                h = following[twin[h]]
        offsets.append(n)
    return vertices[:n].copy(), np.array(offsets, np.int32)


def build_net(surface: Surface, vertices: Array, uv: Array, corners: Index, offsets: Index) -> Net:
    """Net on a ``surface`` from welded ``vertices`` (V, 3) with their parameters ``uv`` (V, 2), and
    cells in order: ``corners[offsets[i]:offsets[i + 1]]`` are those of cell i, counter-clockwise as
    seen from outside.

    Raises ``NetError`` where an edge has more than two cells or two cells of it turn opposite ways.
    """
    corners, offsets = corners.astype(np.int32), offsets.astype(np.int32)
    edges, edge_cells, sides, twin, following, bad = _edges(corners, offsets, len(vertices))
    if bad >= 0:
        x, y, z = vertices[corners[bad]]
        raise NetError(f"The cells do not form a surface near ({x:.3f}, {y:.3f}, {z:.3f}).")
    loop_vertices, loop_offsets = _loops(corners, twin, following)
    return Net(
        surface,
        vertices,
        uv,
        edges,
        corners,
        offsets,
        sides,
        edge_cells,
        loop_vertices,
        loop_offsets,
    )
