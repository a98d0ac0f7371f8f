"""Parts as runs of cells in columns, and the first free place for them among others on a sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from ..compiled import compiled

__all__ = ["CORNER", "Grid", "Runs", "runs_of", "widened"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
CORNER = np.sqrt(0.5)
"""From the middle of a cell one wide to its corner."""


@dataclass(frozen=True, eq=False)
class Runs:
    """Columns of cells from the left: run k has column ``column[k]`` and the cells ``low[k]`` to
    ``high[k]`` of it; the whole is ``size`` (2,) cells large."""

    column: Index
    low: Index
    high: Index
    size: tuple[int, int]


@compiled
def _columns(a: float, b: float, width: int) -> tuple[int, int]:
    """Columns, from the first and before the last, whose middles an edge from x = a to b
    crosses."""
    first, last = int(np.ceil(min(a, b) - 0.5)), int(np.ceil(max(a, b) - 0.5))
    return max(first, 0), min(last, width)


@compiled
def _filled(places: Array, rings: Index, width: int) -> tuple[Index, Index, Index]:
    """Runs of cells with their middles within rings (even-odd) in units of cells, column by
    column."""
    ahead = np.arange(1, len(places) + 1)
    for r in range(len(rings) - 1):
        ahead[rings[r + 1] - 1] = rings[r]
    start = np.zeros(width + 1, np.int64)
    for i in range(len(places)):
        first, last = _columns(places[i, 0], places[ahead[i], 0], width)
        for column in range(first, last):
            start[column + 1] += 1
    start = np.cumsum(start)
    crossing, filled = np.empty(start[-1]), start[:-1].copy()
    for i in range(len(places)):
        a, b = places[i], places[ahead[i]]
        first, last = _columns(a[0], b[0], width)
        for column in range(first, last):
            crossing[filled[column]] = a[1] + (column + 0.5 - a[0]) / (b[0] - a[0]) * (b[1] - a[1])
            filled[column] += 1
    runs, count = np.empty((3, len(crossing) // 2 + 1), np.int64), 0
    for column in range(width):
        own = crossing[start[column] : start[column + 1]]
        own.sort()
        for k in range(0, len(own) - 1, 2):
            low, high = int(np.ceil(own[k] - 0.5)), int(np.floor(own[k + 1] - 0.5))
            if high >= low:
                runs[0, count], runs[1, count], runs[2, count] = column, low, high
                count += 1
    return runs[0, :count], runs[1, :count], runs[2, :count]


def widened(shape: shapely.Polygon, by: float, cell: float) -> list[Array]:
    """Rings (n, 2) of a shape grown ``by`` all round and at most half a cell more."""
    rings = [shapely.get_coordinates(r)[:-1] for r in (shape.exterior, *shape.interiors)]
    section = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd).simplify(cell / 8)
    grown = section.offset(by + cell / 4, manifold3d.JoinType.Round, 2.0, 16).simplify(cell / 8)
    if grown.is_empty():
        # Of what is thinner than a detail nothing may be left; its box covers it.
        low, high = np.min(rings[0], axis=0) - by, np.max(rings[0], axis=0) + by
        return [np.array([low, [high[0], low[1]], high, [low[0], high[1]]])]
    return [np.asarray(r) for r in grown.to_polygons()]


def runs_of(rings: Sequence[Array], cell: float, origin: Array) -> Runs:
    """Cells of a grid from ``origin`` (2,), which lies to the left of and below all of them, with
    their middles within rings (even-odd)."""
    flat = (np.concatenate(rings) - origin) / cell
    offsets = np.concatenate([[0], np.cumsum([len(r) for r in rings])])
    width, height = (int(np.ceil(v)) for v in flat.max(axis=0))
    column, low, high = _filled(flat, offsets.astype(np.int64), width)
    return Runs(column, low, high, (width, height))


@compiled
def _first(
    last: Index, column: Index, low: Index, high: Index, last_x: int, last_y: int
) -> tuple[int, int]:
    """The first place, from the left and then from below, where no run meets an occupied cell, no
    later than (last_x, last_y); −1 where there is none. ``last[x, y]`` is the highest occupied cell
    of column x at y or below, −1 if none."""
    met = 0
    for x in range(last_x + 1):
        y = 0
        while y <= last_y:
            # The run that was in the way last is likely to be so again.
            jump, k = last[x + column[met], y + high[met]] - y - low[met] + 1, 0
            while jump <= 0 and k < len(column):
                jump = last[x + column[k], y + high[k]] - y - low[k] + 1
                met = k
                k += 1
            if jump <= 0:
                return x, y
            y += jump
    return -1, -1


@compiled
def _occupy(last: Index, column: Index, low: Index, high: Index, x: int, y: int) -> None:
    columns, rows = last.shape
    for k in range(len(column)):
        c = x + column[k]
        if c < 0 or c >= columns:
            continue
        a, b = max(y + low[k], 0), min(y + high[k], rows - 1)
        for t in range(a, b + 1):
            last[c, t] = t
        for t in range(max(b + 1, a), rows):
            if last[c, t] >= b:
                break
            last[c, t] = b


class Grid:
    """Which cells of a sheet are taken. ``size`` (2,) and ``cell`` in mm."""

    def __init__(self, size: Array, cell: float) -> None:
        self.cell = cell
        columns, rows = (int(v) for v in np.floor(size / cell + 1e-9))
        self.last = np.full((max(columns, 0), max(rows, 0)), -1, np.int64)

    def first(self, runs: Runs, last: tuple[int, int], most: int | None = None) -> tuple[int, int]:
        """The first free place for runs, in a column and row no later than ``last``, that ends
        before column ``most``; (−1, −1) where there is none."""
        width, height = runs.size
        column = min(last[0], self.last.shape[0] - width)
        row = min(last[1], self.last.shape[1] - height)
        if most is not None:
            column = min(column, most - width)
        if column < 0 or row < 0:
            return -1, -1
        if not len(runs.column):
            raise ValueError("what takes up no cells has no place")
        return _first(self.last, runs.column, runs.low, runs.high, column, row)

    def occupy(self, runs: Runs, x: int, y: int) -> None:
        if self.last.size:
            _occupy(self.last, runs.column, runs.low, runs.high, x, y)
