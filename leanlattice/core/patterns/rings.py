"""Sectors: rows of triangles round an apex, each row with one triangle a sector less than the one
below."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from .flat import FlatPattern
from .layout import Layout

__all__ = ["sectors"]

Array = NDArray[np.float64]


def sectors(layout: Layout) -> FlatPattern:
    """Rows along v; a sector is divided once more with each row away from an apex.

    Where neither end of v is a point, rows lose a division towards v = 1 and end with one a sector;
    where both are, they gain up to the middle and lose from there.
    """
    rows, n = layout.bays[1], layout.sectors
    below, above = "v0" in layout.apexes, "v1" in layout.apexes
    if below and above:
        divisions = [min(r, rows - r) for r in range(rows + 1)]
    elif below:
        divisions = list(range(rows + 1))
    else:
        divisions = [rows - r + (0 if above else 1) for r in range(rows + 1)]
    places, first, cells = [], [0], []
    closed = layout.closed[0]
    for r, k in enumerate(divisions):
        count = max(n * k, 1) + (0 if closed or k == 0 else 1)
        u = np.zeros(1) if k == 0 else np.arange(count) / (n * k)
        places.append(np.column_stack([u, np.full(count, r / rows)]))
        first.append(first[-1] + count)
    for r, (a, b) in enumerate(pairwise(divisions)):
        cells.append(_between(first[r], a, first[r + 1], b, n, closed))
    corners = np.vstack(cells).astype(np.int32)
    return FlatPattern(
        np.vstack(places),
        corners.ravel(),
        np.arange(0, corners.size + 1, 3, dtype=np.int32),
        layout.closed,
    )


def _between(low: int, a: int, high: int, b: int, n: int, closed: bool) -> NDArray[np.int64]:
    """Triangles (m, 3) between a row of ``n`` · ``a`` sides and one of ``n`` · ``b``, a and b at
    most one apart."""
    s = np.arange(n)[:, None]

    def at(first: int, k: int, q: NDArray[np.int64]) -> NDArray[np.int64]:
        number = s * k + q if k else np.zeros_like(s * 1 + q)
        return first + (number % max(n * k, 1) if closed else number)

    most = max(a, b)
    q = np.arange(most)[None, :]
    inner = q[:, : most - 1]
    if a > b:
        up = np.stack([at(low, a, q), at(low, a, q + 1), at(high, b, q)], axis=-1)
        down = np.stack(
            [at(low, a, inner + 1), at(high, b, inner + 1), at(high, b, inner)], axis=-1
        )
    elif a < b:
        up = np.stack([at(low, a, q), at(high, b, q + 1), at(high, b, q)], axis=-1)
        down = np.stack([at(low, a, inner), at(low, a, inner + 1), at(high, b, inner + 1)], axis=-1)
    else:
        up = np.stack([at(low, a, q), at(low, a, q + 1), at(high, b, q + 1)], axis=-1)
        down = np.stack([at(low, a, q), at(high, b, q + 1), at(high, b, q)], axis=-1)
    return np.concatenate([up.reshape(-1, 3), down.reshape(-1, 3)])
