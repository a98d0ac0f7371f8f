"""Runs of vertices of a net: along its strands of one way, and along its borders."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.lines import Line
from ..geometry.nets import Net
from .strands import Families, families_of

__all__ = ["border_runs", "line_along", "runs_of_way", "walks"]

Rows = NDArray[np.int64]


def walks(starts: list[int], onward: list[int]) -> list[list[int]]:
    """Ends through which walks leave vertices, each edge once: from each of the ``starts`` along
    its edge, and on into the end that the opposite one runs ``onward`` into, −1 for none."""
    seen: set[int] = set()
    found = []
    for end in starts:
        walk = []
        while end >= 0 and end >> 1 not in seen:
            seen.add(end >> 1)
            walk.append(end)
            end = onward[end ^ 1]
        if walk:
            found.append(walk)
    return found


def runs_of_way(net: Net, way: int) -> list[Rows]:
    """Vertices of each strand of one ``way``, counted from 0, of as many as the net has; those that
    close on themselves come back to their first vertex."""
    families = families_of(net)
    level = _levels(net, families)
    mine = level == min(way, families.count - 1) - (families.count - 1) / 2
    # Where edges of another way would follow, the strand has ended.
    onward = np.where(np.repeat(mine, 2), families.partner, -1)
    edges = np.flatnonzero(mine)
    ends = np.column_stack([2 * edges, 2 * edges + 1]).ravel()
    loose = ends[onward[ends] < 0]
    vertex = net.edges.ravel()
    found = walks([*loose.tolist(), *(2 * edges).tolist()], onward.tolist())
    return [vertex[np.array([*walk, walk[-1] ^ 1])].astype(np.int64) for walk in found]


def _levels(net: Net, families: Families) -> NDArray[np.float64]:
    """Of edges (E,): that of their strand, and of a border strand, which crosses none, one that no
    strand has which ends at it."""
    level = families.level[::2].copy()
    strand, every = families.strand, np.unique(level)
    for number in np.unique(strand[net.border]).tolist():
        own = strand == number
        if not net.border[own].all():
            continue
        ends, times = np.unique(net.edges[own], return_counts=True)
        beside = np.isin(net.edges, ends[times > 1]).any(axis=1) & ~net.border
        free = np.setdiff1d(every, level[beside])
        if len(free):
            level[own] = free[0]
    return level


def border_runs(net: Net) -> list[Rows]:
    """Vertices of each border loop, back to its first."""
    return [np.concatenate([loop, loop[:1]]).astype(np.int64) for loop in net.loops]


def line_along(net: Net, run: Rows) -> Line:
    """The line from vertex to vertex of a net."""
    places = net.vertices[run]
    return Line(places, np.zeros((len(run) - 1, 3)), net.normals[run])
