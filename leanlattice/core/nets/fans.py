"""Half-edges of a net, and the fans of cells about its vertices.

Half-edge ``k`` leaves corner ``k`` of its cell for the next one; its edge is ``net.sides[k]``.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.nets import Net
from ..geometry.polygons import best_planes, vector_areas

__all__ = [
    "Fans",
    "cell_axes",
    "cell_of_half_edges",
    "creases",
    "fans",
    "following",
    "preceding",
    "ragged",
    "twins",
]

Index = NDArray[np.int32]
CREASE = np.radians(25)


def following(net: Net) -> Index:
    """Half-edge after each within its cell."""
    out = np.arange(1, len(net.corners) + 1, dtype=np.int32)
    out[net.offsets[1:] - 1] = net.offsets[:-1]
    return out


def preceding(net: Net) -> Index:
    """Half-edge before each within its cell."""
    out = np.arange(-1, len(net.corners) - 1, dtype=np.int32)
    out[net.offsets[:-1]] = net.offsets[1:] - 1
    return out


def cell_of_half_edges(net: Net) -> Index:
    return np.repeat(np.arange(net.cell_count, dtype=np.int32), np.diff(net.offsets))


def twins(net: Net) -> Index:
    """Half-edge the other way along the same edge, −1 at the border."""
    out = np.full(len(net.corners), -1, np.int32)
    order = np.argsort(net.sides, kind="stable")
    same = np.flatnonzero(net.sides[order][1:] == net.sides[order][:-1])
    out[order[same]], out[order[same + 1]] = order[same + 1], order[same]
    return out


def creases(net: Net) -> NDArray[np.bool_]:
    """Whether the two cells of each inner edge (E,) meet at more than ``CREASE``."""
    normal = vector_areas(net.vertices, net.corners, net.offsets)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    left, right = net.edge_cells.T
    return ~net.border & (np.einsum("ij,ij->i", normal[left], normal[right]) < np.cos(CREASE))


@dataclass(frozen=True, eq=False)
class Fans:
    """Runs of cells about vertices, counter-clockwise: fan ``i`` is about ``vertex[i]`` and
    consists of the half-edges ``half[offsets[i]:offsets[i + 1]]`` that leave it; ``open`` tells
    that it begins and ends at the border. A vertex at which the net only touches itself has
    several."""

    vertex: Index
    half: Index
    offsets: Index
    open: NDArray[np.bool_]


@compiled
def _fans(corners, twin, before):  # type: ignore[no-untyped-def]
    count = len(corners)
    done = np.zeros(count, np.bool_)
    half = np.empty(count, np.int32)
    vertex = np.empty(count, np.int32)
    offsets = np.empty(count + 1, np.int32)
    is_open = np.empty(count, np.bool_)
    offsets[0] = 0
    n = 0
    fan = 0
    for round_ in range(2):
        for first in range(count):
            if done[first] or (round_ == 0 and twin[first] >= 0):
                continue
            h = first
            while h >= 0 and not done[h]:
                done[h] = True
                half[n] = h
                n += 1
                h = twin[before[h]]
            vertex[fan] = corners[first]
            is_open[fan] = round_ == 0
            fan += 1
            offsets[fan] = n
    return vertex[:fan].copy(), half, offsets[: fan + 1].copy(), is_open[:fan].copy()


def fans(net: Net) -> Fans:
    """All fans, those at the border first."""
    return Fans(*_fans(net.corners, twins(net), preceding(net)))


def ragged(parts: list[tuple[Index, Index]]) -> tuple[Index, Index]:
    """Cells given as several blocks of flat corners and counts, one after the other, as corners and
    offsets."""
    corners = np.concatenate([np.asarray(c).ravel() for c, _ in parts]).astype(np.int32)
    counts = np.concatenate([np.asarray(n).ravel() for _, n in parts])
    return corners, np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)


def cell_axes(net: Net) -> NDArray[np.float64]:
    """Unit vectors (C, 3, 3; rows) along the first side of each cell, across it and out of it."""
    normal = best_planes(net.vertices, net.corners, net.offsets)[1]
    first = net.offsets[:-1]
    way = net.vertices[net.corners[first + 1]] - net.vertices[net.corners[first]]
    way -= np.einsum("ij,ij->i", way, normal)[:, None] * normal
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    return np.stack([way, np.cross(normal, way), normal], axis=1)
