"""Patterns over the square of parameters, as flat cells before they meet the shape.

A pattern is one entry of ``PATTERNS``. Its builder takes the numbers of bays along u and along v and whether u is
closed, and gives a ``FlatPattern`` that covers the whole square and may reach past it. To add one, write a builder
and enter it in the table: counts, borders, welding and the interface follow from that.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["PATTERNS", "FlatPattern", "Pattern", "keep_cells"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]


@dataclass(frozen=True, eq=False)
class FlatPattern:
    """Vertices ``uv`` (n, 2) and counter-clockwise convex cells as flat ``corners`` with ``offsets``.

    Where u is closed, cells across the seam use the vertices at its start, so that nothing is doubled.
    """

    uv: Array
    corners: Index
    offsets: Index


def keep_cells(pattern: FlatPattern, kept: NDArray[np.bool_]) -> FlatPattern:
    """Only some of the cells."""
    counts = np.diff(pattern.offsets)
    offsets = np.concatenate([[0], np.cumsum(counts[kept])]).astype(np.int32)
    return FlatPattern(pattern.uv, pattern.corners[np.repeat(kept, counts)], offsets)


@dataclass(frozen=True)
class Pattern:
    """An entry of the table: its name in a sentence, what it looks like, its builder, and cells per bay."""

    title: str
    summary: str
    build: Callable[[int, int, bool], FlatPattern]
    cells_per_bay: int


def _uniform(uv: Array, cells: Index) -> FlatPattern:
    size = cells.shape[1]
    return FlatPattern(uv, cells.ravel(), np.arange(0, cells.size + 1, size, dtype=np.int32))


def _grid(nu: int, nv: int, closed: bool) -> tuple[Array, Index]:
    """Vertices of a plain grid and its quads (nu · nv, 4), bay after bay along u within each row."""
    columns = nu if closed else nu + 1
    i, j = np.arange(columns, dtype=np.int32), np.arange(nv + 1, dtype=np.int32)
    uv = np.column_stack([np.tile(i / nu, nv + 1), np.repeat(j / nv, columns)])
    left = np.tile(i[:nu], nv)
    right = (left + 1) % columns
    below = np.repeat(j[:nv], nu) * columns
    above = below + columns
    return uv, np.column_stack([below + left, below + right, above + right, above + left]).astype(np.int32)


def _quads(nu: int, nv: int, closed: bool) -> FlatPattern:
    return _uniform(*_grid(nu, nv, closed))


def _split_quads(nu: int, nv: int, closed: bool, rising: NDArray[np.bool_]) -> FlatPattern:
    uv, q = _grid(nu, nv, closed)
    up = np.stack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]], axis=1)
    down = np.stack([q[:, [0, 1, 3]], q[:, [1, 2, 3]]], axis=1)
    return _uniform(uv, np.where(rising[:, None, None], up, down).reshape(-1, 3))


def _triangles(nu: int, nv: int, closed: bool) -> FlatPattern:
    return _split_quads(nu, nv, closed, np.ones(nu * nv, bool))


def _alternating(nu: int, nv: int, closed: bool) -> FlatPattern:
    i, j = np.tile(np.arange(nu), nv), np.repeat(np.arange(nv), nu)
    return _split_quads(nu, nv, closed, (i + j) % 2 == 0)


def _diagrid(nu: int, nv: int, closed: bool) -> FlatPattern:
    """Rhombs one bay wide and high, centred on every other point of a lattice of half bays."""
    first = 0 if closed else -1
    i = np.arange(first, 2 * nu - first if closed else 2 * nu + 2)
    j = np.arange(-1, 2 * nv + 2)
    ii, jj = np.meshgrid(i, j)
    even = (ii + jj) % 2 == 0
    number = np.full(ii.shape, -1, np.int32)
    number[even] = np.arange(even.sum(), dtype=np.int32)
    uv = np.column_stack([ii[even] / (2 * nu), jj[even] / (2 * nv)])
    columns = len(i)
    # Centres are the odd points with all four neighbours at hand: every one within the square has them.
    row, column = np.nonzero(~even & (jj >= 0) & (jj <= 2 * nv) & (ii >= 0) & (ii <= 2 * nu))
    left = (column - 1) % columns if closed else column - 1
    right = (column + 1) % columns if closed else column + 1
    cells = np.column_stack(
        [number[row - 1, column], number[row, right], number[row + 1, column], number[row, left]]
    ).astype(np.int32)
    return _uniform(uv, cells)


PATTERNS: dict[str, Pattern] = {
    "quads": Pattern("quads", "four-sided cells in rows", _quads, 1),
    "diagrid": Pattern("a diagrid", "rhombs on two crossing families of diagonals", _diagrid, 2),
    "triangles": Pattern("triangles on one diagonal", "bays halved, all along the same diagonal", _triangles, 2),
    "alternating": Pattern(
        "triangles on alternating diagonals", "bays halved along diagonals that alternate", _alternating, 2
    ),
}
