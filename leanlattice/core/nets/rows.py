"""Rows of cells, each beyond the side opposite to that it was entered by."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from .fans import cell_of_half_edges, twins

__all__ = ["RowsError", "Way", "joined_in_rows", "labelled"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
Way = Literal["loops", "ends", "long", "short"]
MOST = 0.5
"""Share of cells of one number of sides from which they are in rows."""


class RowsError(ValueError):
    """A net whose cells are in no rows of the way that is asked for, in a sentence."""


@dataclass(frozen=True, eq=False)
class _Row:
    """What one row of cells has to tell when families are compared."""

    closed: bool
    length: float
    cells: int


def joined_in_rows(net: Net, way: Way) -> Flags:
    """The edges (E,) across which cells are joined to rows of one family of all there are.

    Of quads a row goes on through opposite sides; of triangles it lies between two neighbouring
    strands. Where families lead across each other, cells go with the better one.

    Parameters
    ----------
    net : of quads or of triangles for the most part; other cells are joined to none
    way : the family of most rows that close (``"loops"``) or do not (``"ends"``), or of the
        longest or shortest ones on average

    Raises ``RowsError`` where cells are in no rows, or no rows close.
    """
    sides = np.diff(net.offsets)
    if (sides == 4).mean() >= MOST:
        found = _of_quads(net, way)
    elif (sides == 3).mean() >= MOST:
        found = _of_triangles(net, way)
    else:
        raise RowsError(
            "The cells of this net are in no rows, as most have neither three nor four sides; "
            "seams of least cut would work."
        )
    if way == "loops" and not _has_loops(net, found):
        raise RowsError(
            "No cells of this net lie round in loops; strips from border to border would work."
        )
    return found


def labelled(count: int, pairs: NDArray[np.integer]) -> Index:
    """The component (count,) each thing is of, by ``pairs`` (n, 2) that are joined; numbered in
    the order of their first things."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    ones = np.ones(len(pairs), np.int8)
    graph = coo_array((ones, (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    found = connected_components(graph, directed=False)[1]
    _, first, inverse = np.unique(found, return_index=True, return_inverse=True)
    rank = np.empty(len(first), np.int32)
    rank[np.argsort(first)] = np.arange(len(first))
    return rank[inverse]


def _score(way: Way, rows: list[_Row]) -> tuple[float, float]:
    """How well a family does; of equals that of the longer ones is better."""
    cells = max(sum(row.cells for row in rows), 1)
    closed = sum(row.cells for row in rows if row.closed) / cells
    length = sum(row.length for row in rows) / max(len(rows), 1)
    first = {"loops": closed, "ends": -closed, "long": 0.0, "short": -2 * length}
    return first[way], length


def _has_loops(net: Net, joined: Flags) -> bool:
    pairs = net.edge_cells[joined]
    of = labelled(net.cell_count, pairs)
    return bool((np.bincount(of[pairs[:, 0]], minlength=of.max() + 1) >= np.bincount(of)).any())


def _of_quads(net: Net, way: Way) -> Flags:
    """Each quad has two ways through it, between its even and between its odd sides."""
    quad = np.diff(net.offsets) == 4
    twin, cell = twins(net), cell_of_half_edges(net)
    side = np.arange(len(net.corners)) - net.offsets[cell]
    half = np.flatnonzero((twin > np.arange(len(twin))) & quad[cell] & quad[cell[twin]])
    through = np.stack([2 * cell[k] + side[k] % 2 for k in (half, twin[half])], axis=1)
    row = labelled(2 * net.cell_count, through)
    chosen = _chosen_ways(net, row.reshape(-1, 2), through, way, quad)
    out = np.zeros(len(net.edges), bool)
    goes = chosen[through // 2] == through % 2
    out[net.sides[half]] = goes.all(axis=1)
    return out


def _chosen_ways(net: Net, row: Index, through: Index, way: Way, quad: Flags) -> Index:
    """By which of its two ways (C,) each quad is joined: that whose row (C, 2) is of the better
    family, or is better itself where both are or none is."""
    rows = _rows_of_quads(net, row, through)
    cells = np.flatnonzero(quad)
    family, part = _two_families(len(rows), row[cells])
    score = [_score(way, [row]) for row in rows]
    better = {}
    for k in set(part.tolist()):
        both = [
            _score(way, [rows[b] for b in np.flatnonzero((part == k) & (family == f))])
            for f in (0, 1)
        ]
        better[k] = int(both[1] > both[0])
    good = np.array([family[b] == better[int(part[b])] for b in range(len(rows))])
    rank = np.empty(len(rows), np.int64)
    rank[sorted(range(len(rows)), key=lambda b: score[b])] = np.arange(len(rows))
    first, second = row[:, 0], row[:, 1]
    by_score = (rank[second] > rank[first]).astype(np.int32)
    return np.where(good[first] == good[second], by_score, good[second].astype(np.int32))


def _rows_of_quads(net: Net, row: Index, through: Index) -> list[_Row]:
    """All rows; a quad's way is as long as the middles of its two sides are apart."""
    middle = net.vertices[net.edges].mean(axis=1)
    count = int(row.max()) + 1
    length = np.zeros(count)
    quads = np.flatnonzero(np.diff(net.offsets) == 4)
    for k in (0, 1):
        start = net.offsets[quads] + k
        steps = np.linalg.norm(middle[net.sides[start]] - middle[net.sides[start + 2]], axis=1)
        np.add.at(length, row[quads, k], steps)
    cells = np.bincount(row[quads].ravel(), minlength=count)
    links = np.bincount(row.ravel()[through[:, 0]], minlength=count)
    return [
        _Row(bool(links[b] >= cells[b] > 0), float(length[b]), int(cells[b])) for b in range(count)
    ]


def _two_families(count: int, crossing: Index) -> tuple[Index, Index]:
    """One of two families (count,) for each row, so that ``crossing`` ones (n, 2) are of different
    ones where that can be, and the part of the net (count,) each is of."""
    beside: list[set[int]] = [set() for _ in range(count)]
    for a, b in crossing.tolist():
        beside[a].add(b)
        beside[b].add(a)
    family, part = np.full(count, -1, np.int32), np.full(count, -1, np.int32)
    for first in range(count):
        if family[first] >= 0:
            continue
        family[first], part[first] = 0, first
        line = deque([first])
        while line:
            here = line.popleft()
            for other in sorted(beside[here]):
                if family[other] < 0:
                    family[other], part[other] = 1 - family[here], first
                    line.append(other)
    return family, part


def _of_triangles(net: Net, way: Way) -> Flags:
    """Rows between those of three families of strands whose rows are best."""
    triangle = np.diff(net.offsets) == 3
    half, family = twins(net), _families(net)
    cell = cell_of_half_edges(net)
    once = np.flatnonzero((half > np.arange(len(half))) & triangle[cell] & triangle[cell[half]])
    candidates = []
    for strands in range(3):
        joined = np.zeros(len(net.edges), bool)
        goes = (family[once] != strands) & (family[half[once]] != strands)
        joined[net.sides[once]] = goes
        candidates.append(_without_fans(net, joined))
    return max(candidates, key=lambda joined: _score(way, _rows_joined(net, joined)))


def _families(net: Net) -> Index:
    """One of three families for each half-edge, so that of two triangles beside each other the
    sides across the middle of that between them are of one: they are parallel in a regular net."""
    twin = twins(net).tolist()
    is_triangle = (np.diff(net.offsets) == 3).tolist()
    start, cell = net.offsets.tolist(), cell_of_half_edges(net).tolist()
    family = np.full(len(net.corners), -1, np.int32)
    for first in range(net.cell_count):
        if not is_triangle[first] or family[start[first]] >= 0:
            continue
        family[start[first] : start[first] + 3] = (0, 1, 2)
        line = deque([first])
        while line:
            here = start[line.popleft()]
            for k in range(3):
                there = twin[here + k]
                if there < 0 or not is_triangle[cell[there]] or family[there] >= 0:
                    continue
                base = start[cell[there]]
                for step in range(3):
                    into = base + (there - base + step) % 3
                    family[into] = family[here + (k + step) % 3]
                line.append(cell[there])
    return family


def _without_fans(net: Net, joined: Flags) -> Flags:
    """The edges (E,) across which cells are ``joined``, but for those joined all round a vertex."""
    pairs = net.edge_cells[joined]
    of = labelled(net.cell_count, pairs)
    out = joined.copy()
    out[joined] = ~_about_vertices(net, of, pairs)[pairs[:, 0]]
    return out


def _about_vertices(net: Net, of: Index, pairs: Index) -> Flags:
    """Whether each cell (C,) is of those ``of`` one number that close round a vertex: they have
    one vertex more than those that lie round in a loop."""
    cells, links = np.bincount(of), np.bincount(of[pairs[:, 0]], minlength=int(of.max()) + 1)
    own = np.repeat(of, np.diff(net.offsets)).astype(np.int64)
    known = np.unique(own * len(net.vertices) + net.corners)
    vertices = np.bincount(known // len(net.vertices), minlength=len(cells))
    return np.asarray(((links >= cells) & (vertices > cells))[of])


def _rows_joined(net: Net, joined: Flags) -> list[_Row]:
    pairs = net.edge_cells[joined]
    of = labelled(net.cell_count, pairs)
    steps = np.linalg.norm(np.diff(net.cell_means[pairs], axis=1)[:, 0], axis=1)
    count = int(of.max()) + 1
    length = np.bincount(of[pairs[:, 0]], steps, minlength=count)
    links = np.bincount(of[pairs[:, 0]], minlength=count)
    cells = np.bincount(of, minlength=count)
    return [_Row(bool(links[b] >= cells[b]), float(length[b]), int(cells[b])) for b in range(count)]
