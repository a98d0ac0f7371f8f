"""Double-layer grids: a net, a second layer of nodes beside it, and webs between.

The second layer has a node under each bay of the net, which gives square on square offset of
quads; under every second bay, so that its chords run diagonally to those of quads, and of triangles
are triangles again; or one under each node of the net, with posts and diagonals between; or there
and in the middle of each bay below, to which webs lead from the corners of the bay above.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...geometry.nets import Net
from ...geometry.polygons import vector_areas
from ...nets.fans import preceding
from ...nets.stations import run_stations, vertex_stations
from ...nets.turns import cells_in_turns, steps_from_first
from ...sections import Section
from ..arms import arms_of
from ..joints import with_joints
from ..meetings import Meeting
from ..roles import role_number
from ..structure import Structure
from .assembled import assembled
from .heights import members_up, square_to

__all__ = ["ARRANGEMENTS", "SecondLayer", "double_layer", "second_layer"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Mask = NDArray[np.bool_]
TOP, BOTTOM, WEB = 0, 1, 2
"""Groups of members."""


@dataclass(frozen=True, eq=False)
class SecondLayer:
    """What a second layer is to be like, before it is known how far away it lies.

    Parameters
    ----------
    beside : (B, 3) places of the net beside which its nodes lie, in metres
    normals : (B, 3) unit directions outward there
    station : (B, 2) metres along and across
    chords : (n, 2) nodes of the layer that are joined
    webs : (m, 2) vertices of the net and the nodes of the layer they are joined with
    is_post : (m,) whether a web leads straight across
    """

    beside: Array
    normals: Array
    station: Array
    chords: Index
    webs: Index
    is_post: Mask

    def without(self, gone: Mask) -> SecondLayer:
        """The layer without the nodes (B,) that are ``gone`` and all that leads to them."""
        number = (np.cumsum(~gone) - 1).astype(np.int32)
        chords = self.chords[~gone[self.chords].any(axis=1)]
        left = ~gone[self.webs[:, 1]]
        webs = self.webs[left]
        return SecondLayer(
            beside=self.beside[~gone],
            normals=self.normals[~gone],
            station=self.station[~gone],
            chords=number[chords],
            webs=np.column_stack([webs[:, 0], number[webs[:, 1]]]),
            is_post=self.is_post[left],
        )


def second_layer(net: Net, arrangement: str, thinned: bool = False) -> SecondLayer:
    """The second layer of a net by an entry of ``ARRANGEMENTS``.

    Where it is ``thinned``, bays within that touch no other such bay stay open: of quads every
    second one both ways. Raises ``NotAlternate`` where bays cannot be taken in turns.
    """
    layer = ARRANGEMENTS[arrangement](net)
    if not thinned:
        return layer
    return layer.without(_open_bays(net, layer))


def _under_cells(net: Net) -> SecondLayer:
    inner = net.edge_cells.min(axis=1) >= 0
    cell = np.repeat(np.arange(net.cell_count, dtype=np.int32), np.diff(net.offsets))
    areas = vector_areas(net.vertices, net.corners, net.offsets)
    return SecondLayer(
        beside=net.cell_means,
        normals=areas / np.maximum(np.linalg.norm(areas, axis=1, keepdims=True), 1e-300),
        station=run_stations(net, net.corners, net.offsets),
        chords=np.sort(net.edge_cells[inner], axis=1).astype(np.int32),
        webs=np.column_stack([net.corners, cell]).astype(np.int32),
        is_post=np.zeros(len(net.corners), bool),
    )


def _under_alternate_cells(net: Net) -> SecondLayer:
    colour = cells_in_turns(net)
    layer = _under_cells(net)
    cell = np.repeat(np.arange(net.cell_count), np.diff(net.offsets))
    # Two bays of the layer lie either side of each corner of one that is not of it.
    sides = np.column_stack([net.sides[preceding(net)], net.sides])
    beside = net.edge_cells[sides]
    across = np.where(beside[:, :, 0] == cell[:, None], beside[:, :, 1], beside[:, :, 0])
    both = across[(colour[cell] == 1) & (across >= 0).all(axis=1)]
    chords = np.unique(np.sort(both, axis=1), axis=0).astype(np.int32)
    diagonal = SecondLayer(
        layer.beside, layer.normals, layer.station, chords, layer.webs, layer.is_post
    )
    return diagonal.without(colour == 1)


def _under_vertices(net: Net) -> SecondLayer:
    count = len(net.vertices)
    number = np.arange(count, dtype=np.int32)
    # From vertices in even steps down to those in odd ones, where that can be told apart.
    first, steps = np.zeros(count, bool), _steps(net)
    first[steps % 2 == 0] = True
    a, b = net.edges.T
    turned = first[b] & ~first[a]
    diagonals = np.where(turned[:, None], net.edges[:, ::-1], net.edges)
    return SecondLayer(
        beside=net.vertices,
        normals=net.normals,
        station=vertex_stations(net),
        chords=net.edges,
        webs=np.concatenate([np.column_stack([number, number]), diagonals]).astype(np.int32),
        is_post=np.concatenate([np.ones(count, bool), np.zeros(len(net.edges), bool)]),
    )


def _under_vertices_and_cells(net: Net) -> SecondLayer:
    """Bays below those of the net, each with a node in its middle: to that webs lead from the
    corners of the bay above, and chords from its own; further chords lie along the border."""
    below, middles = _under_vertices(net), _under_cells(net)
    count = len(net.vertices)
    corner, cell = middles.webs.T
    border = net.edge_cells.min(axis=1) < 0
    webs = [below.webs[below.is_post], np.column_stack([corner, cell + count])]
    return SecondLayer(
        beside=np.vstack([below.beside, middles.beside]),
        normals=np.vstack([below.normals, middles.normals]),
        station=np.vstack([below.station, middles.station]),
        chords=np.concatenate([net.edges[border], webs[1]]).astype(np.int32),
        webs=np.concatenate(webs).astype(np.int32),
        is_post=np.repeat([True, False], [len(webs[0]), len(webs[1])]),
    )


ARRANGEMENTS = {
    "cells": _under_cells,
    "alternate": _under_alternate_cells,
    "nodes": _under_vertices,
    "middles": _under_vertices_and_cells,
}
"""Where the nodes of a second layer lie."""


def _steps(net: Net) -> Index:
    """How many edges (V,) lead to each vertex from the first of those it is joined with."""
    return steps_from_first(net.edges, len(net.vertices))


def _open_bays(net: Net, layer: SecondLayer) -> Mask:
    """Which nodes (B,) of a layer go so that the bays above them are open: one after the other
    those away from the border that share no vertex with one before."""
    at_border = np.zeros(len(net.vertices), bool)
    at_border[net.loop_vertices] = True
    by_node = np.argsort(layer.webs[:, 1], kind="stable")
    corners = np.split(layer.webs[by_node, 0], np.cumsum(np.bincount(layer.webs[:, 1]))[:-1])
    taken = at_border.copy()
    gone = np.zeros(len(layer.beside), bool)
    for node in np.lexsort(np.round(layer.station.T, 6)[::-1]):
        own = corners[node]
        if not taken[own].any():
            gone[node] = True
            taken[own] = True
    return gone


def double_layer(
    net: Net,
    layer: SecondLayer,
    places: Array,
    top: Section,
    bottom: Section,
    web: Section,
    meeting: Meeting,
    source: str = "",
) -> Structure:
    """Chords along a net's edges and those of its second layer, and webs between.

    Parameters
    ----------
    layer : the second layer, from ``second_layer``
    places : (B, 3) of its nodes, in metres
    top, bottom, web : sections of the net's members, of the layer's and of those between
    meeting : how members meet at nodes
    source : key of the net
    """
    vertices = len(net.vertices)
    nodes = np.concatenate([net.vertices, places])
    normals = np.concatenate([net.normals, layer.normals])
    station = np.concatenate([vertex_stations(net), layer.station])
    webs = layer.webs + np.array([0, vertices], np.int32)
    ends = np.concatenate([net.edges, layer.chords + vertices, webs]).astype(np.int32)
    counts = [len(net.edges), len(layer.chords), len(webs)]
    group = np.repeat(np.array([TOP, BOTTOM, WEB], np.int32), counts)
    role = np.full(len(ends), role_number("chord"), np.int32)
    role[group == WEB] = np.where(layer.is_post, role_number("post"), role_number("web"))
    made = assembled(
        places=nodes,
        normals=normals,
        path=ends.ravel(),
        offsets=_pairs(len(ends)),
        up=_heights(net, nodes, normals, ends),
        wanted=(top, bottom, web),
        which=group,
        role=role,
        station=station,
        member_station=_member_stations(net, station, ends),
        group=group,
        source=source,
        on_source=vertices,
    )
    return with_joints(made, arms_of(made, joined=True), meeting)


def _pairs(count: int) -> Index:
    """Where each of so many members begins along a path of two nodes each."""
    return np.arange(0, 2 * count + 1, 2, dtype=np.int32)


def _member_stations(net: Net, station: Array, ends: Index) -> Array:
    """Metres (M, 2) along and across of members between nodes (M, 2) at ``station`` (N, 2), those
    of the net's edges first."""
    edges = len(net.edges)
    along = run_stations(net, net.edges.ravel(), _pairs(edges))
    return np.concatenate([along, station[ends[edges:]].mean(axis=1)])


def _heights(net: Net, nodes: Array, normals: Array, ends: Index) -> Array:
    """Directions (M, 3) of heights: along the faces beside a net's edges, elsewhere outward."""
    way = nodes[ends[:, 1]] - nodes[ends[:, 0]]
    axis = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    outward = normals[ends].sum(axis=1)
    # What leads outward itself stands along x, or along y where it is that.
    aside = np.where(np.abs(axis[:, :1]) < 0.9, [1.0, 0.0, 0.0], [0.0, 1.0, 0.0])
    steep = np.abs(np.einsum("ij,ij->i", axis, outward)) > 0.999 * np.linalg.norm(outward, axis=1)
    up = square_to(axis, np.where(steep[:, None], aside, outward), aside)
    up[: len(net.edges)] = members_up(net, 0.0)
    return up
