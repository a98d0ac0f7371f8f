"""Flat parts on sheets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result, result_type
from .cutting import Cutting, outlines, tabs_along
from .parts import Part, Parts

__all__ = [
    "Kept",
    "Layout",
    "OnSheets",
    "Sheets",
    "Stock",
    "narrowest",
    "narrowest_turn",
    "placed",
    "stock_of_slot",
]

Array = NDArray[np.float64]
SAME = 0.005
"""Thicknesses (mm) that differ by less are the same."""
NEAR = 0.05
"""What (mm) parts may lie nearer than the spacing by and still stay where they are."""


@result_type("Stock", "sheets in stock", serves=True)
@dataclass(frozen=True)
class Stock(Result):
    """A sheet's size, the free margin at its edge and the least distance between parts, all in mm;
    how many there are, 0 for as many as needed; the price of one; and its material and thickness
    (mm), "" and 0 where it may be any."""

    width: float
    height: float
    margin: float
    spacing: float
    number: int = 0
    price: float = 0.0
    material: str = ""
    thickness: float = 0.0

    def suits(self, part: Part) -> bool:
        """Whether a part may be cut from it."""
        material, thickness = part.grade
        right = not self.material or self.material == material
        return right and (not self.thickness or abs(self.thickness - thickness) < SAME)


@dataclass(frozen=True, eq=False)
class Layout(Result):
    """Where parts lie: ``sheet`` (n,) from 0, −1 where a part fits no sheet; ``angle`` (n,) rad;
    ``shift`` (n, 2) mm; and which are ``pinned`` (n,). ``stock_of`` (sheets,) tells the stock of
    each sheet, and ``slot`` (sheets,) its place in the order in which they are taken, of which
    those that stay empty are left out.

    A part is turned by its angle about its own origin, then shifted.
    """

    stocks: tuple[Stock, ...]
    stock_of: NDArray[np.int32]
    slot: NDArray[np.int32]
    parts: tuple[Part, ...]
    sheet: NDArray[np.int32]
    angle: Array
    shift: Array
    pinned: NDArray[np.bool_]
    cutting: Cutting = field(default_factory=Cutting)
    made: Any = None
    """What it was nested with, ready to be nested again."""

    @property
    def sheet_count(self) -> int:
        return len(self.stock_of)

    def stock(self, sheet: int) -> Stock:
        """What a sheet is cut from."""
        return self.stocks[self.stock_of[sheet]]

    def grade(self, sheet: int) -> tuple[str, float]:
        """Material and thickness (mm) of a sheet: those of all that lies on it."""
        return self.parts[int(np.flatnonzero(self.sheet == sheet)[0])].grade

    def lies(self) -> list[tuple[str, int, float, float, float, bool]]:
        """Of every part that lies on a sheet: label, slot of its sheet, shift x and y (mm), turn
        (°), and whether pinned."""
        return [
            (
                self.parts[i].label,
                int(self.slot[self.sheet[i]]),
                round(float(self.shift[i, 0]), 4),
                round(float(self.shift[i, 1]), 4),
                round(float(np.degrees(self.angle[i])), 6),
                bool(self.pinned[i]),
            )
            for i in np.flatnonzero(self.sheet >= 0)
        ]

    def taken(self) -> float:
        """Area (mm²) of all sheets less the offcut that is left of the emptiest beyond the last
        part on it."""
        sizes = [(self.stock(k).width, self.stock(k).height) for k in range(self.sheet_count)]
        reach = np.zeros(self.sheet_count)
        for i in np.flatnonzero(self.sheet >= 0):
            x = placed(self.parts[i].outer, self.angle[i], self.shift[i])[:, 0].max()
            reach[self.sheet[i]] = max(reach[self.sheet[i]], x + self.stock(self.sheet[i]).spacing)
        offcuts = [max(w - r, 0.0) * h for (w, h), r in zip(sizes, reach, strict=True)]
        return sum(w * h for w, h in sizes) - max(offcuts, default=0.0)

    def within_outlines(self) -> float:
        """Share of the area that is taken within the outer outlines of parts, openings counted
        in."""
        area = self.taken()
        on = [
            shapely.Polygon(p.outer).area
            for p, s in zip(self.parts, self.sheet, strict=True)
            if s >= 0
        ]
        return sum(on) / area if area else 0.0

    def used(self) -> Array:
        """Share of each sheet's area (sheets,) covered by parts."""
        area = np.zeros(self.sheet_count)
        on = self.sheet >= 0
        np.add.at(area, self.sheet[on], np.array([p.area for p in self.parts])[on])
        return area / np.array(
            [self.stock(k).width * self.stock(k).height for k in range(self.sheet_count)]
        )

    def ways(self, part: int) -> tuple[list[Array], list[Array], list[Array]]:
        """Outer and inner outlines as they are cut on the sheet, closed, and where bridges are
        left, open (n, 2), in mm."""
        outer, inner = (
            [placed(r, self.angle[part], self.shift[part]) for r in rings]
            for rings in outlines(self.parts[part], self.cutting)
        )
        held = [t for ring in outer for t in tabs_along(ring, self.cutting.tab, self.cutting.every)]
        return outer, inner, held

    def in_order(self, sheet: int) -> list[int]:
        """Positions of a sheet's parts in the order in which they are cut: always the nearest next,
        from the origin."""
        left = np.flatnonzero(self.sheet == sheet)
        middle = np.array(
            [placed(self.parts[i].outer, self.angle[i], self.shift[i]).mean(axis=0) for i in left]
        ).reshape(-1, 2)
        out, at, free = [], np.zeros(2), np.ones(len(left), bool)
        for _ in left:
            k = int(np.argmin(np.where(free, np.linalg.norm(middle - at, axis=1), np.inf)))
            free[k], at = False, middle[k]
            out.append(int(left[k]))
        return out


@dataclass(frozen=True, eq=False)
class Kept:
    """Where parts are to stay if they fit: ``slot`` (n,), −1 for those that are free, ``angle``
    (n,) rad, ``shift`` (n, 2) mm and which are ``pinned`` (n,)."""

    slot: NDArray[np.int64]
    angle: Array
    shift: Array
    pinned: NDArray[np.bool_]

    @classmethod
    def of(cls, layout: Layout, which: NDArray[np.bool_]) -> Kept:
        """Those of a layout that are to stay."""
        on = which & (layout.sheet >= 0)
        slot = np.where(on, layout.slot[layout.sheet] if layout.sheet_count else -1, -1)
        return cls(slot.astype(np.int64), layout.angle, layout.shift, layout.pinned)

    def fitting(self, parts: Sequence[Part], stocks: Sequence[Stock]) -> list[int]:
        """Positions of those that lie on a sheet of their material and thickness and clear of each
        other, pinned ones first."""
        out: list[int] = []
        grades: dict[int, tuple[str, float]] = {}
        lying: dict[int, list[Any]] = {}
        for i in sorted(np.flatnonzero(self.slot >= 0).tolist(), key=lambda i: not self.pinned[i]):
            slot = int(self.slot[i])
            stock = stock_of_slot(stocks, slot)
            if stock is None or not stocks[stock].suits(parts[i]):
                continue
            if grades.setdefault(slot, parts[i].grade) != parts[i].grade:
                continue
            s = stocks[stock]
            shape = shapely.Polygon(
                placed(parts[i].outer, self.angle[i], self.shift[i]),
                [placed(h, self.angle[i], self.shift[i]) for h in parts[i].inner],
            )
            low_x, low_y, high_x, high_y = shape.bounds
            m = s.margin - NEAR
            if low_x < m or low_y < m or high_x > s.width - m or high_y > s.height - m:
                continue
            others = lying.setdefault(slot, [])
            if (
                others
                and float(shapely.distance(np.array(others, object), shape).min())
                < s.spacing - NEAR
            ):
                continue
            if any(o.intersects(shape) for o in others):
                continue
            others.append(shape)
            out.append(i)
        return out


def stock_of_slot(stocks: Sequence[Stock], slot: int) -> int | None:
    """The stock of the sheet at a place in the order in which sheets are taken: those of which
    there are so many, then the first that there is as many of as needed, without end; ``None``
    where there is none any more."""
    for k, s in enumerate(stocks):
        if slot < s.number:
            return k
        slot -= s.number
    return next((k for k, s in enumerate(stocks) if not s.number), None)


@dataclass(frozen=True, eq=False)
class OnSheets:
    """Where the flat parts of one result lie in a ``layout``: those of its ``parts`` at ``rows``
    (copies, n), round after round."""

    parts: Parts
    layout: Layout
    rows: NDArray[np.int32]

    @property
    def lying(self) -> tuple[Part, ...]:
        """One of every part as it is in the layout."""
        return tuple(self.layout.parts[i] for i in self.rows[0])

    @property
    def off(self) -> list[int]:
        """Positions in the layout of those that lie on no sheet."""
        rows = self.rows.ravel()
        return [int(i) for i in rows[self.layout.sheet[rows] < 0]]


@result_type("Sheets", "sheets", "part")
@dataclass(frozen=True, eq=False)
class Sheets(Result):
    """Flat parts of several results on sheets: ``made`` holds those of each, and ``layout`` all of
    them one after the other, as often as there are copies."""

    made: tuple[Parts, ...]
    layout: Layout

    def of(self, place: int) -> OnSheets:
        """Those of the result at a place in the order in which they were taken."""
        counts = [parts.count for parts in self.made]
        total = max(sum(counts), 1)
        first = sum(counts[:place])
        copies = max(len(self.layout.parts) // total, 1)
        rows = first + np.arange(counts[place]) + total * np.arange(copies)[:, None]
        return OnSheets(self.made[place], self.layout, rows.astype(np.int32))


def placed(points: Array, angle: float, shift: Array) -> Array:
    """Points (n, 2) of a part where it lies on its sheet."""
    c, s = np.cos(angle), np.sin(angle)
    return points @ np.array([[c, s], [-s, c]]) + shift


def narrowest(parts: Sequence[Part]) -> Array:
    """Angles (n,) that turn each part to its narrowest rectangle, lying.

    Of rectangles that differ by rounding alone the one turned least is taken, so that equal parts,
    and the same part in other units, turn alike.
    """
    return np.array([narrowest_turn(p.outer) for p in parts])


def narrowest_turn(outer: Array) -> float:
    """The angle that turns an outline (n, 2) in mm to its narrowest rectangle, lying; that has a
    side along one of the convex hull (Freeman and Shapira, 1975)."""
    hull = shapely.get_coordinates(shapely.convex_hull(shapely.MultiPoint(outer)))
    side = np.diff(hull, axis=0)
    long = np.hypot(*side.T) > 1e-6
    angle = -np.arctan2(side[long, 1], side[long, 0])
    if not len(angle):
        return 0.0
    c, s = np.cos(angle)[:, None], np.sin(angle)[:, None]
    width = np.ptp(hull[:, 0] * c - hull[:, 1] * s, axis=1)
    height = np.ptp(hull[:, 0] * s + hull[:, 1] * c, axis=1)
    narrow = np.minimum(width, height)
    angle = angle + np.where(width >= height - SAME, 0.0, np.pi / 2)
    angle = (angle + np.pi / 2 - 1e-7) % np.pi - np.pi / 2 + 1e-7  # a half turn gives the same
    best = np.flatnonzero(narrow <= narrow.min() + SAME)
    return float(angle[best[np.argmin(np.round(np.abs(angle[best]), 6))]])
