"""Borders of nets: loops by size, their corners, and the sides between corners."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.nets import Net

__all__ = ["corners_of_loop", "edges_along", "loops_by_size", "side_towards"]

Index = NDArray[np.int32]
CORNER = np.radians(40.0)
"""Where a border turns by more, it has a corner."""
QUARTER = np.pi / 4


def loops_by_size(net: Net) -> list[Index]:
    """Border loops, the outer one first."""
    return sorted(net.loops, key=lambda loop: -float(np.ptp(net.vertices[loop], axis=0).max()))


def corners_of_loop(net: Net, loop: Index) -> NDArray[np.bool_]:
    """Whether a border loop has a corner at each of its vertices (n,)."""
    p = net.vertices[loop]
    a, b = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
    cosine = np.einsum("ij,ij->i", a, b) / np.maximum(
        np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1), 1e-300
    )
    return np.asarray(cosine < np.cos(CORNER))


def side_towards(net: Net, azimuth: float) -> Index:
    """Vertices (n,), one after the other, of the part of the outer border between two corners that
    lies furthest towards ``azimuth`` (rad in plan, from x); of a border with fewer than two corners
    the quarter about it. Empty for a net without border."""
    loops = loops_by_size(net)
    if not loops:
        return np.zeros(0, np.int32)
    loop, way = loops[0], np.array([np.cos(azimuth), np.sin(azimuth)])
    plan = net.vertices[loop][:, :2] - net.vertices[loop][:, :2].mean(axis=0)
    at = np.flatnonzero(corners_of_loop(net, loop))
    if len(at) < 2:
        near = plan @ way > (np.cos(QUARTER) - 1e-9) * np.linalg.norm(plan, axis=1)
        # From the first after one that is not near: the quarter is one run.
        first = int(np.argmax(near & ~np.roll(near, 1)))
        return np.roll(loop, -first)[np.roll(near, -first)]
    runs = [
        np.arange(start, end + 1) % len(loop)
        for start, end in zip(at, [*at[1:], at[0] + len(loop)], strict=True)
    ]
    return loop[max(runs, key=lambda run: float((plan[run] @ way).mean()))]


def edges_along(net: Net, run: Index) -> NDArray[np.bool_]:
    """Whether each edge (E,) lies between two vertices that follow each other in a run (n,)."""
    ends = np.sort(np.column_stack([run[:-1], run[1:]]), axis=1).astype(np.int64)
    keys, count = net.edges.astype(np.int64), len(net.vertices)
    return np.isin(keys[:, 0] * count + keys[:, 1], ends[:, 0] * count + ends[:, 1])
