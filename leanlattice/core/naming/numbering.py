"""Numbers that follow position, and types of things equal within a tolerance."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = [
    "ROW",
    "bands",
    "in_order",
    "median_side",
    "narrowest_bands",
    "numbers_by_position",
    "numbers_by_stage",
    "type_numbers",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]

HALVED = 1e-9
"""Share of a width within which the narrowest one is found."""
ROW = 0.2
"""How deep a row of things is that are numbered across it, in median lengths of sides."""


@compiled
def _bands(ordered: Array, width: float):  # type: ignore[no-untyped-def]
    out = np.empty(len(ordered), np.int32)
    band = 0
    start = ordered[0] if len(ordered) else 0.0
    for i in range(len(ordered)):
        if ordered[i] - start > width:
            band += 1
            start = ordered[i]
        out[i] = band
    return out


def bands(values: Array, width: float) -> Index:
    """Band (n,) of each value, from the smallest up; no band is wider than ``width``.

    Each band starts at the smallest value not yet in one, which uses the fewest bands possible.
    """
    order = np.argsort(values, kind="stable")
    out = np.empty(len(values), np.int32)
    out[order] = _bands(values[order], width)
    return out


def narrowest_bands(values: Array, count: int) -> Index:
    """Band (n,) of each value where there are ``count`` at most and the widest is as narrow as can
    be: found by halving, as a wider one never needs more bands."""
    ordered = np.sort(values)
    low, high = 0.0, float(np.ptp(values)) if len(values) else 0.0
    while high - low > HALVED * max(high, 1e-300) and count > 1:
        middle = (low + high) / 2
        if len(ordered) and _bands(ordered, middle)[-1] < count:
            high = middle
        else:
            low = middle
    return bands(values, high)


def numbers_by_position(along: Array, across: Array, width: float) -> Index:
    """Numbers (n,) from 0: rows no deeper than ``width`` follow each other along, and within a row
    across."""
    order = np.lexsort((along, across, bands(along, width)))
    out = np.empty(len(along), np.int32)
    out[order] = np.arange(len(along), dtype=np.int32)
    return out


def numbers_by_stage(station: Array, stage: Index, depth: Mapping[int, float]) -> Index:
    """Numbers (n,) from 1 by ``stage`` (n,), and in a stage by ``station`` (n, 2), metres along and
    across, in rows no deeper than ``depth`` says of it."""
    out = np.zeros(len(station), np.int32)
    for s in np.unique(stage).tolist():
        rows = np.flatnonzero(stage == s)
        before = int(np.count_nonzero(stage < s))
        along, across = station[rows].T
        out[rows] = before + 1 + numbers_by_position(along, across, depth[s])
    return out


def median_side(places: Array, pairs: Index) -> float:
    """Median distance in metres of ``pairs`` (n, 2) of ``places`` (N, 3)."""
    return float(np.median(np.linalg.norm(places[pairs[:, 1]] - places[pairs[:, 0]], axis=1)))


def in_order(types: NDArray[np.integer]) -> Index:
    """Types (n,) from 1, by where each first comes."""
    _, first, number = np.unique(types, axis=0, return_index=True, return_inverse=True)
    rank = np.empty(len(first), np.int32)
    rank[np.argsort(first)] = np.arange(1, len(first) + 1)
    return rank[number.ravel()]


@compiled
def _cyclic_types(features: Array, size: Array, tolerance: float):  # type: ignore[no-untyped-def]
    """Greedy grouping over items sorted by ``size``; corners of an item may be counted from any of
    them."""
    n, k, f = features.shape
    out = np.full(n, -1, np.int32)
    leader = np.empty(n, np.int32)
    count = 0
    oldest = 0
    for i in range(n):
        while oldest < count and size[i] - size[leader[oldest]] > k * tolerance:
            oldest += 1
        for g in range(oldest, count):
            other = features[leader[g]]
            for turn in range(k):
                same = True
                for c in range(k):
                    for d in range(f):
                        if abs(features[i, (c + turn) % k, d] - other[c, d]) > tolerance:
                            same = False
                            break
                    if not same:
                        break
                if same:
                    out[i] = g
                    break
            if out[i] >= 0:
                break
        if out[i] < 0:
            leader[count] = i
            out[i] = count
            count += 1
    return out, count


def type_numbers(features: Array, tolerance: float) -> tuple[Index, int]:
    """Types (n,) from 0 and their count, of polygons described by ``features`` (n, k, f) at their k
    corners.

    Two are of one type when all features agree with those of the type's first one within
    ``tolerance`` for some common turn of the corners. Mirror images are different types unless they
    also agree by turning.
    """
    size = features[:, :, 0].sum(axis=1)
    order = np.argsort(size, kind="stable")
    types, count = _cyclic_types(np.ascontiguousarray(features[order]), size[order], tolerance)
    out = np.empty(len(features), np.int32)
    out[order] = types
    return out, int(count)
