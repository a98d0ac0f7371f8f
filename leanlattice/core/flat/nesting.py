"""Nesting: irregular parts, some with openings, on sheets of several stocks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result
from .cells import CORNER, Grid, Runs, runs_of, widened
from .neighbours import SLACK, Neighbours, lying
from .parts import Part
from .sheets import Kept, Layout, Stock, narrowest, placed, stock_of_slot

__all__ = ["EIGHTHS", "TURNS", "Nest", "Sheet", "nest", "nest_by", "score"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
ROWS = 240
"""Cells across the narrower side of the first stock."""
MISSES, SMALLER = 6, 0.8
FINEST = 0.5
"""Cells are not smaller than this (mm)."""
PAD = 2
"""Cells about a part and a sheet for what cells are larger than what they stand for."""
PRICE = 1e6
"""Area (mm²) that weighs as much as one unit of price."""
EIGHTHS = tuple(45.0 * k for k in (0, 2, 4, 6, 1, 3, 5, 7))
HALVES, AS_IT_IS = (True, (0.0, 180.0)), (True, (0.0,))
TURNS: dict[str, tuple[tuple[bool, tuple[float, ...]], ...]] = {
    "none": (AS_IT_IS,),
    "halves": (HALVES, AS_IT_IS),
    "quarters": (HALVES, (False, EIGHTHS[:4]), AS_IT_IS),
    "free": (HALVES, (False, EIGHTHS[:4]), (False, EIGHTHS), AS_IT_IS),
}
"""Choices of turns: each is tried whole, and a freer entry holds all choices of a tighter one, so
that more freedom is never worse. A choice says whether angles (°) count from a part's own x or from
its narrowest rectangle lying. What is quickly tried and mostly good comes first: others are given
up when they become worse."""


@dataclass(frozen=True, eq=False)
class _Turned(Result):
    """A part turned by ``angle`` (rad): its ``rings``, those of what it covers with certainty,
    ``own``, and of what it takes up with the spacing about it, ``far``, whose cells lie ``back``
    further back; and the ``low`` (2,) corner and ``size`` (2,) in mm of its extent.
    """

    angle: float
    rings: list[Array]
    own: list[Array]
    far: list[Array]
    back: int
    low: Array
    size: Array
    cell: float

    @cached_property
    def tight(self) -> Runs:
        runs = runs_of(self.rings, self.cell, self.low - PAD * self.cell)
        # What is thinner than a cell may hold the middle of none.
        return runs if len(runs.column) else self.wide

    @cached_property
    def wide(self) -> Runs:
        return runs_of(self.own, self.cell, self.low - PAD * self.cell)

    @cached_property
    def taken(self) -> Runs:
        return runs_of(self.far, self.cell, self.low - (PAD + self.back) * self.cell)


class Nest:
    """Parts and stocks made ready to be nested many times over.

    ``turns`` names an entry of ``TURNS``. Parts of other materials or thicknesses lie on sheets of
    their own: ``group`` (n,) tells which belong together.
    """

    def __init__(
        self, parts: Sequence[Part], stocks: Sequence[Stock], turns: str = "quarters"
    ) -> None:
        self.parts, self.stocks, self.choices = tuple(parts), tuple(stocks), TURNS[turns]
        first = self.stocks[0]
        self.cell = max(min(first.width, first.height) / ROWS, FINEST)
        self.spacing = max(s.spacing for s in self.stocks)
        self.shapes = [p.shape for p in parts]
        # Parts fill their sheet as their outlines do: an opening may take others. What differs by
        # rounding alone is alike, so that the same design gives the same sheets.
        self.size = np.array([round(shapely.Polygon(p.outer).area, 1) for p in parts])
        self.narrow = narrowest(self.parts)
        turned = [placed(p.outer, a, np.zeros(2)) for p, a in zip(parts, self.narrow, strict=True)]
        self.length = np.array([round(np.ptp(p, axis=0).max(), 2) for p in turned])
        grades = [p.grade for p in parts]
        known = sorted(set(grades), key=lambda g: (-g[1], g[0]))
        self.group = np.array([known.index(g) for g in grades], np.int64)
        self._turned: dict[tuple[int, float], _Turned] = {}
        self._grown: dict[int, tuple[Any, Any]] = {}

    def angles(self, part: int, choice: int) -> list[float]:
        """Angles (rad) a part may be turned by."""
        own, degrees = self.choices[choice]
        base = 0.0 if own else float(self.narrow[part])
        return [base + np.radians(d) for d in degrees]

    def turned(self, part: int, angle: float) -> _Turned:
        """A part at one of its turns, kept for the next time."""
        if (part, angle) not in self._turned:
            self._turned[part, angle] = self.at_angle(part, angle)
        return self._turned[part, angle]

    def at_angle(self, part: int, angle: float) -> _Turned:
        """A part at any angle (rad).

        Cells count as taken where their middles are within the spacing of it, and as its own where
        they are within a cell's diagonal. Parts without a common cell then keep the spacing: of two
        places nearer than that there is one between them, half a diagonal from the first, and the
        middle of the cell it is in is near enough to both.
        """
        cell, spacing = self.cell, self.spacing
        if part not in self._grown:
            shape, reach = self.shapes[part], CORNER * cell
            far = widened(shape, max(spacing, reach), cell)
            self._grown[part] = widened(shape, 2 * reach, cell), far
        zero = np.zeros(2)
        own, far = ([placed(ring, angle, zero) for ring in rings] for rings in self._grown[part])
        rings = [placed(r, angle, zero) for r in (self.parts[part].outer, *self.parts[part].inner)]
        outer = placed(self.parts[part].outer, angle, np.zeros(2))
        low, size = outer.min(axis=0), np.ptp(outer, axis=0)
        back = int(np.ceil(spacing / cell)) + PAD
        return _Turned(angle, rings, own, far, back, low, size, cell)

    def grid(self, stock: Stock) -> Grid:
        """A sheet with nothing on it, and a few cells more all round."""
        room = np.array([stock.width, stock.height]) - 2 * stock.margin
        return Grid(room + (2 * PAD + 1) * self.cell, self.cell)

    def last(self, stock: Stock, turned: _Turned) -> tuple[int, int]:
        """The last column and row at which a part may begin; below 0 where it does not fit."""
        room = np.array([stock.width, stock.height]) - 2 * stock.margin - turned.size
        x, y = np.floor((room + SLACK) / self.cell).astype(int)
        return int(x), int(y)

    def shift(self, stock: Stock, turned: _Turned, x: int, y: int) -> Array:
        """Where the origin of a part lies that begins in column x and row y."""
        return np.asarray(stock.margin + self.cell * np.array([x, y]) - turned.low)

    def taken(self, part: int, angle: float, shift: Array, stock: Stock) -> tuple[Runs, int, int]:
        """Cells that a part takes up that lies anywhere on a sheet."""
        far = [r + shift for r in self.at_angle(part, angle).far]
        start = stock.margin - PAD * self.cell
        least = np.min([r.min(axis=0) for r in far], axis=0)
        first = np.floor((least - start) / self.cell).astype(int)
        return runs_of(far, self.cell, start + first * self.cell), int(first[0]), int(first[1])


@dataclass
class Sheet:
    """A sheet while it fills: its stock, the group of what lies on it (−1 while it is empty), and
    shapes (mm) that lie there with their boxes."""

    stock: int
    grid: Grid
    group: int = -1
    misses: int = 0
    """Parts that did not fit since one did."""
    least: float = np.inf
    """Size of the smallest that did not."""
    shapes: list[Any] = field(default_factory=list)
    boxes: list[Array] = field(default_factory=list)

    def may_take(self, group: int, size: float) -> bool:
        """Whether it is worth trying a part: a sheet that many did not fit waits for much smaller
        ones."""
        right = self.group in (-1, group)
        return right and (self.misses < MISSES or size < SMALLER * self.least)

    def missed(self, size: float) -> None:
        self.misses, self.least = self.misses + 1, min(self.least, size)

    def put(self, group: int, shape: Any) -> None:
        self.group, self.misses = group, 0
        self.shapes.append(shape)
        self.boxes.append(np.array(shape.bounds))


def nest(
    made: Nest,
    kept: Kept | None = None,
    order: Index | None = None,
    turn: Index | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Layout:
    """Parts one after the other at the first free place of the first sheet they fit on, from the
    left and then from below (bottom-left placement, Baker et al., 1980, on cells), each at the turn
    that ends furthest left, and from there pushed left and down as far as true distances allow.

    All choices of turns that the allowed ones hold are tried, and the best is given.

    Parameters
    ----------
    made : the parts and stocks
    kept : parts that stay where they are
    order : positions of parts, largest first unless given
    turn : (parts,) places in ``angles`` of the turn tried alone, −1 for all
    progress : is told the share done
    """
    best: Layout | None = None
    count = len(made.choices)
    for choice in range(count):

        def done(share: float, before: int = choice) -> None:
            progress((before + share) / count)

        beaten = None if best is None else score(best)
        tried = nest_by(made, choice, kept, order, turn, beaten, done)
        if tried is not None and (best is None or score(tried) < score(best)):
            best = tried
    assert best is not None
    return best


def nest_by(
    made: Nest,
    choice: int,
    kept: Kept | None = None,
    order: Index | None = None,
    turn: Index | None = None,
    beaten: tuple[int, float, float] | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Layout | None:
    """As ``nest`` by the same ``made``, ``kept``, ``order``, ``turn`` and ``progress``, with one
    ``choice`` of turns; given up, with ``None``, where as many parts as in the score ``beaten`` fit
    no sheet and the price of sheets alone is more than there."""
    lies = _Lies(made, choice, kept)
    if order is None:
        order = np.lexsort((np.arange(len(made.parts)), -made.size, made.group))
    for n, i in enumerate(order.tolist()):
        if n % 20 == 0:
            progress(n / len(made.parts))
        if lies.slot[i] < 0:
            lies.place(i, -1 if turn is None else int(turn[i]))
            if beaten is not None and lies.missed >= beaten[0] and lies.price * PRICE > beaten[1]:
                return None
    return lies.layout()


class _Lies:
    """Where parts lie while they are placed."""

    def __init__(self, made: Nest, choice: int, kept: Kept | None) -> None:
        count = len(made.parts)
        self.made, self.choice = made, choice
        self.slot, self.angle, self.shift = (
            np.full(count, -1),
            made.narrow.copy(),
            np.zeros((count, 2)),
        )
        self.pinned = np.zeros(count, bool)
        self.sheets: dict[int, Sheet] = {}
        self.price, self.missed = 0.0, 0
        self.counted = sum(s.number for s in made.stocks)
        if kept is None:
            return
        for i in kept.fitting(made.parts, made.stocks):
            self.pinned[i] = kept.pinned[i]
            sheet = self.sheet(int(kept.slot[i]))
            assert sheet is not None
            self._put(i, int(kept.slot[i]), sheet, float(kept.angle[i]), kept.shift[i])

    def sheet(self, slot: int) -> Sheet | None:
        """The sheet at a place in the order in which they are taken."""
        if slot not in self.sheets:
            stock = stock_of_slot(self.made.stocks, slot)
            if stock is None:
                return None
            self.sheets[slot] = Sheet(stock, self.made.grid(self.made.stocks[stock]))
        return self.sheets[slot]

    def _put(self, part: int, slot: int, sheet: Sheet, angle: float, shift: Array) -> None:
        if sheet.group < 0:
            self.price += self.made.stocks[sheet.stock].price
        self.slot[part], self.angle[part], self.shift[part] = slot, angle, shift
        sheet.grid.occupy(*self.made.taken(part, angle, shift, self.made.stocks[sheet.stock]))
        sheet.put(int(self.made.group[part]), lying(self.made.shapes[part], angle, shift))

    def place(self, part: int, only: int) -> None:
        """Puts a part on the first sheet it fits on, or counts it as missed."""
        made, size, group = self.made, self.made.size[part], int(self.made.group[part])
        slot = 0
        while (sheet := self.sheet(slot)) is not None:
            stock = made.stocks[sheet.stock]
            if stock.suits(made.parts[part]) and sheet.may_take(group, size):
                found = self._found(part, sheet, only)
                if found is not None:
                    self._put(part, slot, sheet, *found)
                    return
                sheet.missed(size)
            if sheet.group < 0 and slot >= self.counted:
                break  # it does not fit an empty sheet
            slot += 1
        self.missed += 1

    def _found(self, part: int, sheet: Sheet, only: int) -> tuple[float, Array] | None:
        """Turn (rad) and shift (mm) of a part on a sheet: the first place by the cells it covers,
        if it can be moved from there to where it keeps the spacing, or else by the cells it keeps
        free.
        """
        stock, made = self.made.stocks[sheet.stock], self.made
        for tight in (True, False) if made.spacing > 2 * made.cell and sheet.shapes else (False,):
            found = self._first(part, sheet, only, tight)
            if found is None:
                return None  # what does not fit tightly does not fit
            turned, x, y = found
            reach = (2 * PAD + 1) * made.cell
            near = Neighbours(
                sheet.shapes,
                sheet.boxes,
                stock,
                made.shapes[part],
                turned.angle,
                turned.low,
                turned.size,
                reach,
            )
            shift = made.shift(stock, turned, x, y)
            moved = near.freed(shift) if tight else shift
            if moved is not None:
                return turned.angle, near.pushed(moved)
        return None

    def _first(
        self, part: int, sheet: Sheet, only: int, tight: bool
    ) -> tuple[_Turned, int, int] | None:
        """The turn and first place of a part on a sheet, of those that end furthest left."""
        made, stock = self.made, self.made.stocks[sheet.stock]
        angles = made.angles(part, self.choice)
        best: tuple[int, int] | None = None
        found = None
        for angle in angles if only < 0 else [angles[only % len(angles)]]:
            turned = made.turned(part, angle)
            runs = turned.tight if tight else turned.wide
            x, y = sheet.grid.first(
                runs, made.last(stock, turned), None if best is None else best[0]
            )
            ends = x + runs.size[0], y
            if x >= 0 and (best is None or ends < best):
                best, found = ends, (turned, x, y)
        return found

    def layout(self) -> Layout:
        made, used = self.made, np.unique(self.slot[self.slot >= 0])
        sheet = np.where(self.slot >= 0, np.searchsorted(used, self.slot), -1).astype(np.int32)
        of = np.array([stock_of_slot(made.stocks, int(k)) for k in used], np.int32)
        return Layout(
            made.stocks,
            of,
            used.astype(np.int32),
            made.parts,
            sheet,
            self.angle,
            self.shift,
            self.pinned,
            made=made,
        )


def score(layout: Layout) -> tuple[int, float, float]:
    """What is better is less: parts on no sheet; the price of sheets and, a little, their area
    taken, offcuts taken off; and how evenly filled they are, as a sheet that is nearly empty is
    soon spared."""
    off = int((layout.sheet < 0).sum())
    if not layout.sheet_count:
        return off, 0.0, 0.0
    price = sum(layout.stock(k).price for k in range(layout.sheet_count))
    filled = np.zeros(layout.sheet_count)
    on = layout.sheet >= 0
    np.add.at(filled, layout.sheet[on], layout.made.size[on])
    area = np.array(
        [layout.stock(k).width * layout.stock(k).height for k in range(layout.sheet_count)]
    )
    taken = round(price * PRICE + layout.taken(), 0)
    return off, taken, round(float(-np.sum((filled / area) ** 2)), 9)
