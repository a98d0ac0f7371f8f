"""The order in which ribs go together: how each is put in, and which lock each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heappop, heappush

import numpy as np
from numpy.typing import NDArray

from ..results import Result
from .laps import Crossing, Passing

__all__ = ["Assembly", "assembly"]

Array = NDArray[np.float64]
ALIKE = np.cos(np.radians(0.5))
"""Ways that differ by less are one."""


@dataclass(frozen=True, eq=False)
class Assembly(Result):
    """Positions of ribs in the ``order`` in which they can be put in, each along its ``way`` (n,
    3), zero where it only has to be stood in its place; and groups of ribs that are ``locked`` by
    each other and cannot be put in at all."""

    order: list[int]
    way: Array
    locked: list[list[int]]

    def of_parts(self, of: Sequence[int]) -> Assembly:
        """The same order where ribs are made of parts that are joined before: ``of`` tells which
        rib each part is of."""
        parts: dict[int, list[int]] = {}
        for part, rib in enumerate(of):
            parts.setdefault(rib, []).append(part)
        order = [p for rib in self.order for p in parts[rib]]
        count = [len(parts[rib]) for rib in self.order]
        locked = [[p for rib in group for p in parts[rib]] for group in self.locked]
        return Assembly(order, np.repeat(self.way, count, axis=0), locked)


def assembly(
    count: int, crossings: Sequence[Crossing], passing: Sequence[Passing] = ()
) -> Assembly:
    """Ribs taken apart one by one, each along one line, and put together the other way round.

    At a crossing the rib slotted from above can only leave downward and the other upward, along the
    line in which their planes meet; past a rib it does not cross on that line it cannot leave
    either way that one lies. As taking a rib away frees others and binds none, one that can leave
    always may, and what stays in the end cannot be put together (disassembly by single
    translations, see Wilson and Latombe, 1994).
    """
    held: list[list[tuple[int, Array | None]]] = [[] for _ in range(count)]
    blocked: list[list[tuple[int, Array]]] = [[] for _ in range(count)]
    for c in crossings:
        held[c.first].append((c.second, None if c.locked else -c.way))
        held[c.second].append((c.first, None if c.locked else c.way))
    for p in passing:
        for above, way in ((p.above, p.way), (p.below, -p.way)):
            if above:
                blocked[p.first].append((p.second, -way))
                blocked[p.second].append((p.first, way))
    gone = np.zeros(count, bool)
    ways = np.zeros((count, 3))
    left: list[int] = []

    def way_out(k: int) -> Array | None:
        out: Array | None = None
        for other, way in held[k]:
            if gone[other]:
                continue
            if way is None or (out is not None and float(out @ way) < ALIKE):
                return None
            out = way if out is None else out
        if out is None:
            return np.zeros(3)
        free = all(gone[other] or float(out @ way) < ALIKE for other, way in blocked[k])
        return out if free else None

    # Last put in, first tried: the second set and higher numbers leave before others, so that the
    # order reads upward.
    waiting = [-k for k in range(count - 1, -1, -1)]
    while waiting:
        k = -heappop(waiting)
        if gone[k]:
            continue
        out = way_out(k)
        if out is None:
            continue
        gone[k] = True
        ways[k] = -out
        left.append(k)
        for other in {other for other, _ in (*held[k], *blocked[k]) if not gone[other]}:
            heappush(waiting, -other)
    order = left[::-1]
    return Assembly(order, ways[order], _groups(count, crossings, gone))


def _groups(count: int, crossings: Sequence[Crossing], gone: NDArray[np.bool_]) -> list[list[int]]:
    """Ribs that stay, by what holds together."""
    parent = list(range(count))

    def root(k: int) -> int:
        while parent[k] != k:
            parent[k] = parent[parent[k]]
            k = parent[k]
        return k

    for c in crossings:
        if not gone[c.first] and not gone[c.second]:
            parent[root(c.first)] = root(c.second)
    groups: dict[int, list[int]] = {}
    for k in np.flatnonzero(~gone).tolist():
        groups.setdefault(root(k), []).append(k)
    return list(groups.values())
