"""Patterns as flat cells, before they meet the shape."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..compiled import compiled
from ..geometry.polygons import cleaned

__all__ = [
    "FlatPattern",
    "are_convex",
    "first_of_near",
    "following_corners",
    "keep_cells",
    "local_places",
    "merged_places",
    "reversed_cells",
    "used_places",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class FlatPattern:
    """Vertices ``uv`` (n, 2) and counter-clockwise cells as flat ``corners`` with ``offsets``.

    In a direction that is ``closed``, cells across the seam use the vertices at its start, so that
    nothing is doubled.
    """

    uv: Array
    corners: Index
    offsets: Index
    closed: tuple[bool, bool] = (False, False)

    @property
    def cell_count(self) -> int:
        return len(self.offsets) - 1


def keep_cells(pattern: FlatPattern, kept: NDArray[np.bool_]) -> FlatPattern:
    """Only some of the cells."""
    counts = np.diff(pattern.offsets)
    offsets = np.concatenate([[0], np.cumsum(counts[kept])]).astype(np.int32)
    return replace(pattern, corners=pattern.corners[np.repeat(kept, counts)], offsets=offsets)


def following_corners(pattern: FlatPattern) -> Index:
    """The corner after each, within its cell."""
    out = np.roll(pattern.corners, -1)
    out[pattern.offsets[1:] - 1] = pattern.corners[pattern.offsets[:-1]]
    return out


def local_places(pattern: FlatPattern) -> Array:
    """Places (len(corners), 2) of every cell's corners in one piece: across a seam they run on past
    the square."""
    places = pattern.uv[pattern.corners]
    for axis, closed in enumerate(pattern.closed):
        if closed:
            step = np.diff(places[:, axis], prepend=places[:1, axis])
            step[pattern.offsets[:-1]] = 0.0
            turns = -np.round(step)
            turns[pattern.offsets[:-1]] = 0.0
            total = np.cumsum(turns)
            places[:, axis] += total - np.repeat(
                total[pattern.offsets[:-1]], np.diff(pattern.offsets)
            )
    return places


def are_convex(pattern: FlatPattern) -> bool:
    """Whether no cell has a corner that turns inward; of a pattern that is closed in no
    direction."""
    return bool(_all_convex(pattern.uv, pattern.corners, pattern.offsets))


@compiled
def _all_convex(uv: Array, corners: Index, offsets: Index) -> bool:
    for cell in range(len(offsets) - 1):
        low, high = offsets[cell], offsets[cell + 1]
        for k in range(low, high):
            before, after = k - 1 if k > low else high - 1, k + 1 if k + 1 < high else low
            a, b, c = corners[before], corners[k], corners[after]
            ax, ay = uv[b, 0] - uv[a, 0], uv[b, 1] - uv[a, 1]
            bx, by = uv[c, 0] - uv[b, 0], uv[c, 1] - uv[b, 1]
            if ax * by - ay * bx < -1e-9 * np.sqrt((ax * ax + ay * ay) * (bx * bx + by * by)):
                return False
    return True


def reversed_cells(pattern: FlatPattern) -> FlatPattern:
    """The same cells turned the other way round, each still starting at its first corner."""
    counts: NDArray[np.int32] = np.diff(pattern.offsets)
    start = np.repeat(pattern.offsets[:-1], counts)
    k = np.arange(len(pattern.corners)) - start
    return replace(pattern, corners=pattern.corners[start + (-k) % np.repeat(counts, counts)])


def used_places(pattern: FlatPattern) -> FlatPattern:
    """Without vertices no cell uses."""
    used = np.zeros(len(pattern.uv), bool)
    used[pattern.corners] = True
    number = np.cumsum(used, dtype=np.int32) - 1
    return replace(pattern, uv=pattern.uv[used], corners=number[pattern.corners])


def merged_places(pattern: FlatPattern, name: Index) -> FlatPattern:
    """Vertex ``i`` becomes vertex ``name[i]``; corners that repeat the one before and cells left
    with fewer than three are dropped."""
    corners, offsets = cleaned(name[pattern.corners].astype(np.int32), pattern.offsets)
    return replace(pattern, corners=corners, offsets=offsets)


def first_of_near(uv: Array, near: float, closed: tuple[bool, bool] = (False, False)) -> Index:
    """For each vertex the first of those that lie within ``near`` of each other, across seams
    too."""
    pairs = scipy.spatial.cKDTree(uv, boxsize=np.array(closed, float)).query_pairs(
        near, output_type="ndarray"
    )
    graph = scipy.sparse.coo_array(
        (np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(uv), len(uv))
    )
    group = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
    first = np.full(group.max(initial=-1) + 1, len(uv))
    np.minimum.at(first, group, np.arange(len(uv)))
    return first[group].astype(np.int32)
