"""Slivers: cells cut down to little are merged with the neighbour they share the longest side
with."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .flat import FlatPattern, keep_cells, local_places

__all__ = ["cell_areas", "without_slivers"]

Array = NDArray[np.float64]


def cell_areas(pattern: FlatPattern, size: Array) -> Array:
    """Areas (n,) of cells when the square measures ``size`` (2,)."""
    p = local_places(pattern) * size
    after = np.arange(1, len(p) + 1)
    after[pattern.offsets[1:] - 1] = pattern.offsets[:-1]
    q = p[after]
    return np.asarray(
        np.add.reduceat(p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1], pattern.offsets[:-1]) / 2
    )


def without_slivers(pattern: FlatPattern, share: float, size: Array) -> FlatPattern:
    """Cells below ``share`` of the usual cell's area merged with a neighbour, the smallest first.

    A cell goes to the neighbour it shares the longest run of sides with; where that run is broken,
    so that the union would enclose something, to the next best. Cells without such a neighbour
    stay.
    """
    if pattern.cell_count < 2:
        return pattern
    areas = cell_areas(pattern, size)
    counts = np.diff(pattern.offsets)
    usual = float(np.median(areas[counts == np.bincount(counts).argmax()]))
    small = np.flatnonzero(areas < share * usual)
    if not len(small):
        return pattern
    # Only cells that touch a small one can change.
    at_small = np.zeros(len(pattern.uv), bool)
    at_small[pattern.corners[np.repeat(np.isin(np.arange(pattern.cell_count), small), counts)]] = (
        True
    )
    near = np.flatnonzero(np.maximum.reduceat(at_small[pattern.corners], pattern.offsets[:-1]))
    rings = {
        c: pattern.corners[pattern.offsets[c] : pattern.offsets[c + 1]].tolist()
        for c in near.tolist()
    }
    owner = {}
    for c, ring in rings.items():
        for a, b in zip(ring, ring[1:] + ring[:1], strict=True):
            owner[a, b] = c
    for c in small[np.argsort(areas[small], kind="stable")].tolist():
        _merge(c, rings, owner, pattern, size)
    _drop_passed(rings, owner, at_small)
    others = np.ones(pattern.cell_count, bool)
    others[near] = False
    rest = keep_cells(pattern, others)
    sizes = np.concatenate([np.diff(rest.offsets), [len(r) for r in rings.values()]])
    corners = np.concatenate(
        [rest.corners, np.array([v for r in rings.values() for v in r], np.int32)]
    )
    return replace(
        pattern, corners=corners, offsets=np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    )


def _merge(
    c: int,
    rings: dict[int, list[int]],
    owner: dict[tuple[int, int], int],
    pattern: FlatPattern,
    size: Array,
) -> None:
    """Joins cell ``c`` to its best neighbour, in place."""
    ring = rings[c]
    sides = list(zip(ring, ring[1:] + ring[:1], strict=True))
    shared: dict[int, float] = {}
    for a, b in sides:
        other = owner.get((b, a))
        if other is not None and other != c:
            step = pattern.uv[b] - pattern.uv[a]
            step = (step - np.round(step) * np.array(pattern.closed)) * size
            shared[other] = shared.get(other, 0.0) + float(np.hypot(*step))
    for other in sorted(shared, key=lambda k: (-shared[k], k)):
        union = _united(ring, rings[other])
        if union is None:
            continue
        for a, b in sides:
            owner.pop((a, b), None)
        mate = rings[other]
        for a, b in zip(mate, mate[1:] + mate[:1], strict=True):
            owner.pop((a, b), None)
        for a, b in zip(union, union[1:] + union[:1], strict=True):
            owner[a, b] = other
        rings[other] = union
        del rings[c]
        return


def _drop_passed(
    rings: dict[int, list[int]], owner: dict[tuple[int, int], int], wanted: NDArray[np.bool_]
) -> None:
    """Takes out, in place, the inner vertices among those ``wanted`` at which only two cells are
    left: nothing ends there any more."""
    cells_at: dict[int, list[int]] = {}
    for c, ring in rings.items():
        for v in ring:
            cells_at.setdefault(v, []).append(c)
    open_at = {v for a, b in owner if (b, a) not in owner for v in (a, b)}
    for v, cells in cells_at.items():
        if (
            wanted[v]
            and len(cells) == 2
            and v not in open_at
            and all(len(rings[c]) > 3 for c in cells)
        ):
            for c in cells:
                rings[c] = [w for w in rings[c] if w != v]


def _united(one: list[int], two: list[int]) -> list[int] | None:
    """The ring round two cells that share one unbroken run of sides; ``None`` where they do not."""
    sides = set(zip(two, two[1:] + two[:1], strict=True))
    n = len(one)
    common = [(one[(k + 1) % n], one[k]) in sides for k in range(n)]
    starts = [k for k in range(n) if common[k] and not common[k - 1]]
    if len(starts) != 1:
        return None
    start = starts[0]
    run = next(k for k in range(1, n + 1) if not common[(start + k) % n])
    # What is left of the first, from the end of the run round to its start, then the second the
    # same way.
    left = [one[(start + run + k) % n] for k in range(n - run + 1)]
    at = two.index(left[-1])
    rest = [two[(at + k) % len(two)] for k in range(1, len(two) - run)]
    union = left + rest
    return union if len(union) >= 3 and len(set(union)) == len(union) else None
