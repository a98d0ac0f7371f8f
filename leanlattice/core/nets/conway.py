"""Nets made of a net by rule (Conway's operators; Hart, 1998): the middles of its edges, and its
dual."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from ..geometry.polygons import corner_angles
from .fans import Fans, cell_of_half_edges, fans, preceding, ragged
from .rebuilt import lifted, rebuilt, without_mere_points
from .spots import between, middles

__all__ = ["dual", "truncated"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
STRAIGHT = np.radians(175.0)
"""Where a border turns by less than what is missing of half a turn, it runs straight on."""


def truncated(net: Net) -> Net:
    """The middles of edges joined round every cell and round every vertex (ambo: V' = E, E' = 2E on
    a closed net).

    At the border the cells about its vertices keep these, so that it stays where it is. Where the
    border all but runs straight on at a vertex of one cell, the sliver there would have is left
    with that cell.
    """
    net = without_mere_points(net)
    about = fans(net)
    mids = between(net, *net.edges.T)
    straight = net.vertices[net.edges].mean(axis=1)
    edges = len(net.edges)
    ring, counts = _rings(net, about, net.sides, np.arange(edges, dtype=np.int32), edges)
    at = _straight_on(net, about)
    slivers = np.isin(about.half[about.offsets[:-1]], at) & about.open
    inner = np.insert(net.sides, at, edges + net.corners[at])
    inner_counts = np.diff(net.offsets) + np.bincount(
        cell_of_half_edges(net)[at], minlength=net.cell_count
    )
    ring, counts = ring[np.repeat(~slivers, counts)], counts[~slivers]
    corners, offsets = ragged(
        [(inner.astype(np.int32), inner_counts.astype(np.int32)), (ring, counts)]
    )
    vertices = np.vstack([lifted(net, mids, straight), net.vertices])
    return rebuilt(net, vertices, np.vstack([mids, net.uv]), corners, offsets)


def _straight_on(net: Net, about: Fans) -> Index:
    """Half-edges, in order, that begin at a border vertex of one cell alone whose sides there all
    but run straight on."""
    alone = about.open & (np.diff(about.offsets) == 1)
    half = about.half[about.offsets[:-1][alone]]
    angle = corner_angles(net.vertices, net.corners, net.offsets)[half]
    return np.sort(half[angle > STRAIGHT])


def dual(net: Net) -> Net:
    """A vertex in the middle of every cell, a cell about every vertex; at the border the middles of
    its edges and its vertices close the cells."""
    net = without_mere_points(net)
    about = fans(net)
    cells, edges = net.cell_count, len(net.edges)
    uv = np.vstack([middles(net), between(net, *net.edges.T), net.uv])
    straight = np.vstack(
        [
            net.cell_means,
            net.vertices[net.edges].mean(axis=1),
        ]
    )
    vertices = np.vstack([lifted(net, uv[: cells + edges], straight), net.vertices])
    of_half = cell_of_half_edges(net)
    ring, counts = _rings(
        net, about, of_half, cells + np.arange(edges, dtype=np.int32), cells + edges, both_ends=True
    )
    corners, offsets = ragged([(ring, counts)])
    return rebuilt(net, vertices, uv, corners, offsets)


def _rings(
    net: Net,
    about: Fans,
    of_half: Index,
    of_edge: Index,
    first_vertex: int,
    both_ends: bool = False,
) -> tuple[Index, Index]:
    """For every fan the things ``of_half`` its half-edges, counter-clockwise.

    An open fan gets at its end the border edge it ends with (``of_edge``), then its vertex,
    numbered from ``first_vertex``; with ``both_ends`` also the border edge it begins with.
    """
    counts = np.diff(about.offsets)
    before = preceding(net)
    last = about.half[about.offsets[1:] - 1]
    start = about.half[about.offsets[:-1]]
    extra = np.where(about.open, 3 if both_ends else 2, 0)
    offsets = np.concatenate([[0], np.cumsum(counts + extra)])
    out = np.empty(offsets[-1], np.int32)
    fan = np.repeat(np.arange(len(counts)), counts)
    out[offsets[:-1][fan] + np.arange(len(about.half)) - about.offsets[:-1][fan]] = of_half[
        about.half
    ]
    rows = np.flatnonzero(about.open)
    at = offsets[:-1][rows] + counts[rows]
    out[at] = of_edge[net.sides[before[last[rows]]]]
    out[at + 1] = first_vertex + about.vertex[rows]
    if both_ends:
        out[at + 2] = of_edge[net.sides[start[rows]]]
    return out, (counts + extra).astype(np.int32)
