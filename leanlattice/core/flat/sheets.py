"""Setting flat parts out on sheets, row by row."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray

from .parts import Part

__all__ = ["Layout", "Sheets", "Stock", "placed", "set_out_rows"]

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Stock:
    """A sheet's size, the free margin at its edge and the least distance between parts; all in mm."""

    width: float
    height: float
    margin: float
    spacing: float


@dataclass(frozen=True, eq=False)
class Layout:
    """Where parts lie: ``sheet`` (n,) from 0, −1 where a part fits no sheet; ``angle`` (n,) rad; ``shift`` (n, 2) mm.

    A part is turned by its angle about its own origin, then shifted.
    """

    stock: Stock
    parts: tuple[Part, ...]
    sheet: NDArray[np.int32]
    angle: Array
    shift: Array

    @property
    def sheet_count(self) -> int:
        return int(self.sheet.max(initial=-1)) + 1

    def used(self) -> Array:
        """Share of each sheet's area (sheets,) covered by parts."""
        area = np.zeros(self.sheet_count)
        on = self.sheet >= 0
        np.add.at(area, self.sheet[on], np.array([p.area for p in self.parts])[on])
        return area / (self.stock.width * self.stock.height)


@dataclass(frozen=True, eq=False)
class Sheets:
    """Flat parts of the panels of a labelled frame, or of ribs, on their sheets; ``part_of`` (panels or ribs,) is −1 where
    there is none."""

    source: Any
    layout: Layout
    part_of: NDArray[np.int32]


def placed(points: Array, angle: float, shift: Array) -> Array:
    """Points (n, 2) of a part where it lies on its sheet."""
    c, s = np.cos(angle), np.sin(angle)
    return points @ np.array([[c, s], [-s, c]]) + shift


@njit(cache=True)
def _clear_of(fixed: Array, moving: Array) -> float:
    """Least shift along x that puts ``moving`` (m, 2) wholly to the right of ``fixed`` (n, 2), height by height."""
    shift = -np.inf
    for y in np.concatenate((fixed[:, 1], moving[:, 1])):
        right, left = -np.inf, np.inf
        for k in range(len(fixed)):
            (ax, ay), (bx, by) = fixed[k], fixed[(k + 1) % len(fixed)]
            if min(ay, by) <= y <= max(ay, by):
                x = max(ax, bx) if ay == by else ax + (y - ay) / (by - ay) * (bx - ax)
                right = max(right, x)
        for k in range(len(moving)):
            (ax, ay), (bx, by) = moving[k], moving[(k + 1) % len(moving)]
            if min(ay, by) <= y <= max(ay, by):
                x = min(ax, bx) if ay == by else ax + (y - ay) / (by - ay) * (bx - ax)
                left = min(left, x)
        shift = max(shift, right - left)
    return shift


def _narrowest(parts: tuple[Part, ...], room: Array) -> Array:
    """Angles (n,) that turn each part to its narrowest rectangle, lying unless it then fits only standing."""
    rectangles = shapely.minimum_rotated_rectangle([shapely.Polygon(p.outer) for p in parts])
    corner = shapely.get_coordinates(rectangles).reshape(len(parts), 5, 2)
    one, two = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 1]
    sizes = np.stack([np.hypot(*one.T), np.hypot(*two.T)])
    long = np.where((sizes[0] >= sizes[1] - 1e-9)[:, None], one, two)
    angle = np.arctan2(-long[:, 1], long[:, 0])
    angle = np.where(np.abs(angle) > np.pi / 2, angle - np.sign(angle) * np.pi, angle)
    wide, narrow = sizes.max(axis=0), sizes.min(axis=0)
    stand = (wide > room[0]) & (wide <= room[1]) & (narrow <= room[0])
    return np.asarray(angle + np.where(stand, np.pi / 2, 0.0))


def set_out_rows(
    parts: tuple[Part, ...], stock: Stock, progress: Callable[[float], None] = lambda share: None
) -> Layout:
    """Parts in rows from the lower left, the tallest first; each turned to its narrowest rectangle.

    Next-fit decreasing height (Coffman et al., 1980); within a row every part slides left until it comes as near
    as the spacing allows to the outlines before it, the one of two half-turns that gets further. Parts too large for
    the sheet keep the sheet number −1.
    """
    count = len(parts)
    sheet, shift = np.full(count, -1, np.int32), np.zeros((count, 2))
    room = np.array([stock.width, stock.height]) - 2 * stock.margin
    if not count:
        return Layout(stock, parts, sheet, np.zeros(0), shift)
    angle = _narrowest(parts, room)
    turned = [placed(p.outer, a, np.zeros(2)) for p, a in zip(parts, angle, strict=True)]
    size = np.array([np.ptp(t, axis=0) for t in turned])
    row: list[Array] = []
    floor, row_height, at_sheet = 0.0, 0.0, 0
    for n, i in enumerate(np.lexsort((np.arange(count), np.round(-size[:, 0], 3), np.round(-size[:, 1], 3)))):
        if n % 20 == 0:
            progress(n / count)
        if size[i, 0] > room[0] or size[i, 1] > room[1]:
            continue
        x, half_turn = _slide(turned[i], row)
        if x + size[i, 0] > room[0]:
            floor, row_height, row = floor + row_height + stock.spacing, 0.0, []
            x, half_turn = 0.0, False
        if floor + size[i, 1] > room[1]:
            floor, row_height, row, at_sheet = 0.0, 0.0, [], at_sheet + 1
            x, half_turn = 0.0, False
        angle[i] += np.pi * half_turn
        outline = -turned[i] if half_turn else turned[i]
        offset = np.array([x, 0.0]) - outline.min(axis=0)
        sheet[i], shift[i] = at_sheet, stock.margin + np.array([0.0, floor]) + offset
        grown: Any = shapely.Polygon(outline + offset).buffer(stock.spacing, join_style="mitre")
        if not isinstance(grown, shapely.Polygon):
            grown = grown.convex_hull
        row.append(np.asarray(grown.exterior.coords)[:-1])
        row_height = max(row_height, size[i, 1])
    return Layout(stock, parts, sheet, angle, shift)


def _slide(outline: Array, row: list[Array]) -> tuple[float, bool]:
    """Where the left of an outline comes to lie in a row, and whether it does better turned by half."""
    best = (np.inf, False)
    for half_turn in (False, True):
        shape = -outline if half_turn else outline
        shape = shape - shape.min(axis=0)
        x = max((_clear_of(fixed, shape) for fixed in row), default=0.0)
        best = min(best, (max(float(x), 0.0), half_turn))
    return best
