"""A net parted along seams into pieces that lie flat, each with no length changed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ..geometry.meshes import half_edges
from ..geometry.nets import Net
from ..geometry.triangulation import polygon_triangles
from ..geometry.unrolled import Unrolled, unrolled
from ..nets.fans import cell_of_half_edges
from ..nets.rows import RowsError, Way, joined_in_rows, labelled
from .seams import Room, joined_by_least_seams

__all__ = ["Parted", "Parting", "fits", "parted", "rings_of"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Flags = NDArray[np.bool_]
Parting = Way | Literal["least", "cells", "coffers"]
"""By rows of cells and the way they go, by seams of least cut, each cell alone, or all together
that were raised from one."""
ROUNDS = 60
"""How often rows that do not fit are parted once more."""


@dataclass(frozen=True, eq=False)
class Parted:
    """Pieces of a net laid flat, the ``cell`` (T,) each triangle is of, and the half-edge
    ``beyond`` each (3T,) in space; −1 at the net's border."""

    laid: Unrolled
    cell: Index
    beyond: Index


def parted(net: Net, way: Parting, room: Room) -> Parted:
    """A net in pieces: rows of cells by the ``way`` they go, each parted evenly until its pieces
    fit into the ``room`` and lie beside themselves, or pieces with seams of least cut, of which
    are cells that are in no row too; or each cell by itself, or with those of its coffer.

    Raises ``RowsError`` where cells are in no such rows, or were not raised.
    """
    cut = _Cut(net)
    joined = np.zeros(len(net.edges), bool)
    if way == "cells":
        return Parted(cut.laid(joined), cut.cell, cut.twin)
    if way == "coffers":
        return Parted(cut.laid(_within_coffers(net)), cut.cell, cut.twin)
    if way != "least":
        joined = joined_in_rows(net, way)
    alone = ~np.isin(np.arange(net.cell_count), net.edge_cells[joined])
    if joined.any():
        joined = _fitting(cut, joined, room)
    if alone.any():
        joined = joined_by_least_seams(net, cut.cells_flat(), alone, room, joined)
    return Parted(cut.laid(joined), cut.cell, cut.twin)


def _within_coffers(net: Net) -> Flags:
    """The edges (E,) between cells that were raised from the same one."""
    if net.raised_from is None:
        raise RowsError(
            "These cells were not raised, or were changed since; “Raise cells” right before makes "
            "coffers, and cell by cell, or with the shortest seams, works for any."
        )
    one, other = net.raised_from[net.edge_cells].T
    within = ~net.border & (one == other)
    # All round a top: what is raised to it lies about it like petals, and not over itself.
    cell = cell_of_half_edges(net)
    is_top = np.bincount(cell, within[net.sides]) == np.diff(net.offsets)
    has_top = np.isin(net.raised_from, net.raised_from[is_top])
    on_top = is_top[net.edge_cells].any(axis=1)
    return np.asarray(within & (on_top | ~has_top[net.edge_cells[:, 0]]))


def rings_of(laid: Unrolled) -> list[Array]:
    """The outlines (k, 2) of all pieces, in metres."""
    return np.split(laid.flat[laid.start[laid.ring]], laid.ring_offsets[1:-1])


def fits(laid: Unrolled, room: Room) -> Flags:
    """Whether each piece (S,) fits into the ``room`` and does not lie over itself."""
    of = np.repeat(np.arange(laid.count), np.diff(laid.ring_offsets))
    shapes: Any = shapely.polygons(
        shapely.linearrings(laid.flat[laid.start[laid.ring]], indices=of)
    )
    return np.asarray(shapely.is_valid(shapes)) & room.takes_all(shapes)


class _Cut:
    """A net whose cells are cut into triangles."""

    def __init__(self, net: Net) -> None:
        self.net = net
        self.triangles, self.cell = polygon_triangles(net.vertices, net.corners, net.offsets)
        self.twin = half_edges(self.triangles, len(net.vertices))[0].astype(np.int32)

    @cached_property
    def edge(self) -> Index:
        """The net's edge (3T,) each half-edge lies along; −1 within cells."""
        net, count = self.net, len(self.net.vertices)
        one = self.triangles.ravel().astype(np.int64)
        other = np.roll(self.triangles, -1, axis=1).ravel()
        key = np.minimum(one, other) * count + np.maximum(one, other)
        known = net.edges[:, 0].astype(np.int64) * count + net.edges[:, 1]
        order = np.argsort(known)
        at = order[np.minimum(np.searchsorted(known[order], key), len(known) - 1)]
        owner = np.repeat(self.cell, 3)
        within = (self.twin >= 0) & (owner == owner[np.maximum(self.twin, 0)])
        return np.where((known[at] == key) & ~within, at, -1).astype(np.int32)

    def laid(self, joined: Flags) -> Unrolled:
        """Its triangles laid flat, joined within cells and across ``joined`` edges (E,)."""
        across = np.where(self.edge >= 0, joined[np.maximum(self.edge, 0)], True)
        beyond = np.where(across, self.twin, -1).astype(np.int32)
        return unrolled(self.net.vertices, self.triangles, beyond)

    def of_pieces(self, laid: Unrolled) -> Index:
        """A cell (S,) of each piece."""
        out = np.empty(laid.count, np.int32)
        out[laid.piece] = self.cell
        return out

    def cells_flat(self) -> list[Array]:
        """Corners (k, 2) of each cell as it lies flat alone, in their order."""
        laid = self.laid(np.zeros(len(self.net.edges), bool))
        cells = self.of_pieces(laid)[laid.piece_of_place]
        own = zip(cells.tolist(), laid.origin.tolist(), strict=True)
        place = {pair: k for k, pair in enumerate(own)}
        corners = np.split(self.net.corners, self.net.offsets[1:-1])
        return [laid.flat[[place[c, v] for v in ring.tolist()]] for c, ring in enumerate(corners)]


@dataclass(frozen=True)
class _Row:
    """The ``cells`` of a row one after the other, and the ``edges`` between them."""

    cells: list[int]
    edges: list[int]

    def joined(self, pieces: int) -> list[int]:
        """The edges that stay joined when it is parted evenly."""
        cuts = {round(k * len(self.cells) / pieces) - 1 for k in range(1, pieces)}
        return [e for k, e in enumerate(self.edges) if k not in cuts]


def _fitting(cut: _Cut, joined: Flags, room: Room) -> Flags:
    """Edges (E,) across which rows stay joined once each is parted into as few pieces as fit."""
    rows = _rows(cut.net, joined)
    row_of = np.full(cut.net.cell_count, -1)
    for k, row in enumerate(rows):
        row_of[row.cells] = k
    most = np.array([len(row.cells) for row in rows], np.int64)
    number = np.ones(len(rows), np.int64)
    for _ in range(ROUNDS):
        out = np.zeros_like(joined)
        for row, many in zip(rows, number.tolist(), strict=True):
            out[row.joined(many)] = True
        laid = cut.laid(out)
        bad = np.unique(row_of[cut.of_pieces(laid)[~fits(laid, room)]])
        again = bad[(bad >= 0) & (number[bad] < most[bad])]
        if not again.size:
            break
        number[again] += 1
    return out


def _rows(net: Net, joined: Flags) -> list[_Row]:
    """All rows; one that closes is opened at its edge of the lowest number."""
    pairs, edges = net.edge_cells.tolist(), np.flatnonzero(joined).tolist()
    of = labelled(net.cell_count, net.edge_cells[joined])
    links = np.bincount(of[net.edge_cells[joined][:, 0]], minlength=int(of.max()) + 1)
    closes = set(np.flatnonzero(links >= np.bincount(of)).tolist())
    beside: dict[int, list[tuple[int, int]]] = {}
    for e in edges:
        one, other = pairs[e]
        if int(of[one]) in closes:
            closes.remove(int(of[one]))
            continue
        beside.setdefault(one, []).append((e, other))
        beside.setdefault(other, []).append((e, one))
    ends = [c for c in sorted(beside) if len(beside[c]) == 1]
    out, seen = [], set()
    for end in ends:
        if end not in seen:
            out.append(_row_from(end, beside))
            seen.add(out[-1].cells[-1])
    return out


def _row_from(end: int, beside: dict[int, list[tuple[int, int]]]) -> _Row:
    """The row that begins with the cell at its ``end``."""
    row, before = _Row([end], []), -1
    while True:
        here = row.cells[-1]
        onward = [pair for pair in beside[here] if pair[0] != before]
        if not onward:
            return row
        before, there = onward[0]
        row.edges.append(before)
        row.cells.append(there)
