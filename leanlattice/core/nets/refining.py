"""Finer cells where they are wanted, without hanging vertices."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net
from .fans import cell_of_half_edges, creases, following, preceding, ragged
from .rebuilt import lifted, rebuilt, without_mere_points
from .spots import between, middles

__all__ = ["divided_edges", "refined"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
HALVES = 0.6
"""In a net with a larger share of triangles these are cells of their own, not halves of others."""


def refined(net: Net, wanted: NDArray[np.bool_], way: str = "halved") -> Net:
    """The ``wanted`` cells (C,) divided.

    ``"halved"``: triangles into four, others into one cell a corner about their middle, and halves
    of those at borders and creases so that they go on. ``"joined"``: the middles of sides that
    follow each other joined. ``"spokes"``: triangles about the middle, without new vertices on the
    sides. A neighbour takes the middles of the sides it shares as corners; one that is a triangle
    becomes triangles over them, so that a net of triangles stays one.
    """
    if way == "joined":
        net = without_mere_points(net)
    halved = np.zeros(len(net.edges), bool)
    cell = cell_of_half_edges(net)
    if way != "spokes":
        halved[net.sides[wanted[cell]]] = True
    edge_number = len(net.vertices) + np.cumsum(halved) - 1
    mids_uv = between(net, *net.edges[halved].T)
    counts = np.diff(net.offsets)
    around = wanted & ((counts > 3) & (way == "halved") | (way == "spokes"))
    cells_uv = middles(net)[around]
    straight = np.vstack(
        [
            net.vertices[net.edges[halved]].mean(axis=1),
            net.cell_means[around],
        ]
    )
    new_uv = np.vstack([mids_uv, cells_uv])
    vertices = np.vstack([net.vertices, lifted(net, new_uv, straight)])
    uv = np.vstack([net.uv, new_uv])
    middle_number = len(net.vertices) + int(halved.sum()) + np.cumsum(around) - 1
    before = preceding(net)
    mid_after, mid_before = edge_number[net.sides], edge_number[net.sides[before]]
    parts: list[tuple[Index, Index]] = []
    rows = np.flatnonzero(around[cell])
    after_of = following(net)
    if way == "spokes":
        after = net.corners[after_of]
        parts.append(
            (
                np.column_stack([net.corners[rows], after[rows], middle_number[cell[rows]]]),
                np.full(len(rows), 3),
            )
        )
    else:
        quads = np.column_stack(
            [net.corners[rows], mid_after[rows], middle_number[cell[rows]], mid_before[rows]]
        )
        parts.append((quads, np.full(len(quads), 4)))
    halves = _half_cells(net, wanted & ~around) if way == "halved" else np.zeros(0, np.int64)
    if len(halves):
        following_mid, opposite_mid = mid_after[after_of[halves]], mid_before[halves]
        far = net.corners[before[halves]]
        first, second = net.corners[halves], net.corners[after_of[halves]]
        parts.append(
            (
                np.column_stack([far, opposite_mid, mid_after[halves], following_mid]),
                np.full(len(halves), 4),
            )
        )
        parts.append(
            (np.column_stack([first, mid_after[halves], opposite_mid]), np.full(len(halves), 3))
        )
        parts.append(
            (np.column_stack([second, following_mid, mid_after[halves]]), np.full(len(halves), 3))
        )
    tips = wanted & ~around
    tips[cell[halves]] = False
    rows = np.flatnonzero(tips[cell])
    parts.append(
        (
            np.column_stack([net.corners[rows], mid_after[rows], mid_before[rows]]),
            np.full(len(rows), 3),
        )
    )
    parts.append((mid_after[rows], counts[tips]))
    parts += _untouched(net, ~wanted, halved, edge_number)
    return rebuilt(net, vertices, uv, *ragged(parts))


def _half_cells(net: Net, wanted: NDArray[np.bool_]) -> Index:
    """Half-edges along the border or a crease, of ``wanted`` triangles that have one such: in a net
    of other cells, these are cells cut in half there."""
    cell = cell_of_half_edges(net)
    if np.mean(np.diff(net.offsets) == 3) > HALVES:
        return np.zeros(0, np.int32)
    sharp = net.border | creases(net)
    half = np.flatnonzero(sharp[net.sides] & wanted[cell])
    alone = np.bincount(cell[half], minlength=net.cell_count) == 1
    return half[alone[cell[half]]].astype(np.int32)


def _untouched(
    net: Net, rest: NDArray[np.bool_], halved: NDArray[np.bool_], number: Index
) -> list[tuple[Index, Index]]:
    """Cells that are not divided, with the middles on their sides; triangles as triangles."""
    touched = np.zeros(net.cell_count, bool)
    cell = cell_of_half_edges(net)
    touched[cell[halved[net.sides]]] = True
    counts = np.diff(net.offsets)
    plain = rest & ~touched
    out: list[tuple[Index, Index]] = [(net.corners[plain[cell]], counts[plain])]
    for c in np.flatnonzero(rest & touched):
        ring: list[int] = []
        split: list[bool] = []
        for k in range(net.offsets[c], net.offsets[c + 1]):
            ring.append(int(net.corners[k]))
            split.append(bool(halved[net.sides[k]]))
            if split[-1]:
                ring.append(int(number[net.sides[k]]))
        pieces = _triangles_over(ring, split) if counts[c] == 3 else [ring]
        out += [(np.array(p, np.int32), np.array([len(p)])) for p in pieces]
    return out


def _triangles_over(ring: list[int], split: list[bool]) -> list[list[int]]:
    """A triangle with middles on one, two or three of its sides as triangles that use them."""
    corners, mids, at = [], [], 0
    for is_split in split:
        corners.append(ring[at])
        mids.append(ring[at + 1] if is_split else -1)
        at += 2 if is_split else 1
    (a, b, c), (ab, bc, ca) = corners, mids
    if all(split):
        return [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]
    # Turned so that the first side is halved, and of two halved ones the second is the next.
    while ab < 0 or (sum(split) == 2 and bc < 0):
        a, b, c, ab, bc, ca = b, c, a, bc, ca, ab
    if bc >= 0:
        return [[ab, b, bc], [a, ab, bc], [a, bc, c]]
    return [[a, ab, c], [ab, b, c]]


def divided_edges(net: Net, longest: float) -> Net:
    """Every edge longer than ``longest`` (m) divided evenly; its cells take the new vertices as
    corners."""
    parts = np.maximum(np.ceil(net.edge_lengths / longest - 1e-9).astype(np.int64), 1)
    more = parts - 1
    edge = np.repeat(np.arange(len(parts)), more)
    step = np.arange(len(edge)) - np.repeat(np.cumsum(more) - more, more) + 1
    share = step / parts[edge]
    a, b = net.edges[edge].T
    uv = between(net, a, b, share)
    straight = net.vertices[a] + share[:, None] * (net.vertices[b] - net.vertices[a])
    first = len(net.vertices) + np.cumsum(more) - more
    forward = net.edges[net.sides, 0] == net.corners
    counts = 1 + more[net.sides]
    total = np.concatenate([[0], np.cumsum(counts)])
    corners = np.empty(total[-1], np.int32)
    corners[total[:-1]] = net.corners
    half = np.repeat(np.arange(len(counts)), counts - 1)
    k = np.arange(len(half)) - np.repeat(np.cumsum(counts - 1) - (counts - 1), counts - 1)
    within = np.where(forward[half], k, more[net.sides[half]] - 1 - k)
    corners[total[:-1][half] + 1 + k] = first[net.sides[half]] + within
    offsets = total[net.offsets].astype(np.int32)
    vertices = np.vstack([net.vertices, lifted(net, uv, straight)])
    return rebuilt(net, vertices, np.vstack([net.uv, uv]), corners, offsets)
