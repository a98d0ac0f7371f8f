"""Setting flat parts out on sheets, row by row."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from .parts import Part

__all__ = ["Layout", "Stock", "placed", "set_out_rows"]

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


def placed(points: Array, angle: float, shift: Array) -> Array:
    """Points (n, 2) of a part where it lies on its sheet."""
    c, s = np.cos(angle), np.sin(angle)
    return points @ np.array([[c, s], [-s, c]]) + shift


def set_out_rows(parts: tuple[Part, ...], stock: Stock) -> Layout:
    """Parts in rows from the lower left, the tallest first; each turned to its narrowest rectangle.

    Next-fit decreasing height (Coffman et al., 1980) on the rectangles, so that no two can overlap. Parts too large
    for the sheet keep the sheet number −1.
    """
    count = len(parts)
    sheet, angle, shift = np.full(count, -1, np.int32), np.zeros(count), np.zeros((count, 2))
    if not count:
        return Layout(stock, parts, sheet, angle, shift)
    rectangles = shapely.minimum_rotated_rectangle([shapely.Polygon(p.outer) for p in parts])
    corner = shapely.get_coordinates(rectangles).reshape(count, 5, 2)
    one, two = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 1]
    long = np.where((np.hypot(*one.T) >= np.hypot(*two.T) - 1e-9)[:, None], one, two)
    # An angle within half a turn, so that lettering is rarely upside down.
    angle = -np.arctan(np.divide(long[:, 1], long[:, 0], out=np.full(count, np.inf), where=np.abs(long[:, 0]) > 1e-12))
    room = np.array([stock.width, stock.height]) - 2 * stock.margin
    low, size = np.zeros((count, 2)), np.zeros((count, 2))
    for i, part in enumerate(parts):
        turned = placed(part.outer, angle[i], np.zeros(2))
        low[i], size[i] = turned.min(axis=0), np.ptp(turned, axis=0)
        if size[i, 0] > room[0] and size[i, 1] <= room[0] and size[i, 0] <= room[1]:
            angle[i] += np.pi / 2
            turned = placed(part.outer, angle[i], np.zeros(2))
            low[i], size[i] = turned.min(axis=0), np.ptp(turned, axis=0)
    cursor, row_height, at_sheet = np.zeros(2), 0.0, 0
    for i in np.lexsort((np.arange(count), np.round(-size[:, 0], 3), np.round(-size[:, 1], 3))):
        w, h = size[i]
        if w > room[0] or h > room[1]:
            continue
        if cursor[0] + w > room[0]:
            cursor = np.array([0.0, cursor[1] + row_height + stock.spacing])
            row_height = 0.0
        if cursor[1] + h > room[1]:
            cursor, row_height, at_sheet = np.zeros(2), 0.0, at_sheet + 1
        sheet[i] = at_sheet
        shift[i] = stock.margin + cursor - low[i]
        cursor = cursor + [w + stock.spacing, 0.0]
        row_height = max(row_height, h)
    return Layout(stock, parts, sheet, angle, shift)
