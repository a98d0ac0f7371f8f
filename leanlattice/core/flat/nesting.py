"""Nesting: irregular parts, some with openings, on sheets of several stocks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .cells import CORNER, Grid, Runs, runs_of, widened
from .parts import Part
from .sheets import Kept, Layout, Stock, narrowest, placed, stock_of_slot

__all__ = ["TURNS", "Nest", "nest", "nest_better"]

Array = NDArray[np.float64]
Index = NDArray[np.int64]
ROWS = 240
"""Cells across the narrower side of the first stock."""
MISSES, SMALLER = 6, 0.8
FINEST = 0.5
"""Cells are not smaller than this (mm)."""
TURNS: dict[str, tuple[float, ...]] = {
    "quarters": (0.0, 90.0, 180.0, 270.0),
    "halves": (0.0, 180.0),
    "none": (0.0,),
    "free": (0.0, 90.0, 180.0, 270.0, 45.0, 135.0, 225.0, 315.0),
}
"""Angles (°) a part may be turned by, from its narrowest rectangle lying or, where the grain counts, from its own x."""


@dataclass(frozen=True, eq=False)
class _Turned:
    """A part turned by ``angle`` (rad): its runs, those it takes up with the spacing about it, which lie ``back`` cells
    further back, and the place (2,) of its first cell."""

    angle: float
    runs: Runs
    back: int
    origin: Array
    far: list[Array]
    cell: float

    @cached_property
    def taken(self) -> Runs:
        return runs_of(self.far, self.cell, self.origin - self.back * self.cell)


class Nest:
    """Parts and stocks made ready to be nested many times over.

    ``turns`` names allowed turns; with ``grain`` true they count from the part's own x, which lies along the sheet.
    """

    def __init__(
        self, parts: Sequence[Part], stocks: Sequence[Stock], turns: str = "quarters", grain: bool = False
    ) -> None:
        self.parts, self.stocks, self.turns = tuple(parts), tuple(stocks), TURNS[turns]
        first = self.stocks[0]
        self.cell = max(min(first.width, first.height) / ROWS, FINEST)
        self.shapes = [shapely.Polygon(p.outer, p.inner) for p in parts]
        # Parts fill their sheet as their outlines do: an opening may take others.
        self.size = np.array([shapely.Polygon(p.outer).area for p in parts])
        self.base = np.zeros(len(parts)) if grain or not len(parts) else narrowest(self.parts, np.full(2, np.inf))
        self.length = np.array(
            [np.ptp(placed(p.outer, a, np.zeros(2)), axis=0).max() for p, a in zip(parts, self.base, strict=True)]
        )
        self._turned: dict[tuple[int, int], _Turned] = {}
        self._grown: dict[int, tuple[Any, Any]] = {}

    def turned(self, part: int, k: int) -> _Turned:
        """A part at one of its turns."""
        if (part, k) not in self._turned:
            angle = float(self.base[part] + np.radians(self.turns[k]))
            self._turned[part, k] = self.at_angle(part, angle)
        return self._turned[part, k]

    def at_angle(self, part: int, angle: float) -> _Turned:
        """A part at any angle (rad).

        Cells count as its own where their middles are within half a cell's diagonal of it, and as taken where they are
        within the spacing beyond that, so that parts without a common cell keep the spacing.
        """
        cell, spacing = self.cell, max(s.spacing for s in self.stocks)
        if part not in self._grown:
            shape = self.shapes[part]
            self._grown[part] = widened(shape, CORNER * cell, cell), widened(shape, spacing + CORNER * cell, cell)
        own, far = ([placed(ring, angle, np.zeros(2)) for ring in rings] for rings in self._grown[part])
        origin = np.min([r.min(axis=0) for r in own], axis=0)
        back = int(np.ceil(spacing / cell)) + 2
        return _Turned(angle, runs_of(own, cell, origin), back, origin, far, cell)

    def grid(self, stock: Stock) -> Grid:
        """A sheet with nothing on it; parts' cells may reach past its margin by what they are wider than the parts."""
        reach = 2 * CORNER * self.cell
        return Grid(np.array([stock.width, stock.height]) - 2 * stock.margin + reach, self.cell)

    def shift(self, stock: Stock, turned: _Turned, x: int, y: int) -> Array:
        """Where a part's origin lies that has its first cell at (x, y)."""
        return np.asarray(stock.margin - CORNER * self.cell + self.cell * np.array([x, y]) - turned.origin)

    def taken(self, part: int, angle: float, shift: Array, stock: Stock) -> tuple[Runs, int, int]:
        """Cells that a part takes up that lies anywhere on a sheet."""
        far = [r + shift for r in self.at_angle(part, angle).far]
        start = stock.margin - CORNER * self.cell
        first = np.floor((np.min([r.min(axis=0) for r in far], axis=0) - start) / self.cell).astype(int)
        return runs_of(far, self.cell, start + first * self.cell), int(first[0]), int(first[1])


@dataclass
class _Sheet:
    stock: int
    grid: Grid
    misses: int = 0
    """Parts that did not fit since one did."""
    least: float = np.inf
    """Size of the smallest that did not."""

    def may_take(self, size: float) -> bool:
        """Whether it is worth trying a part of that size: a sheet that many did not fit waits for much smaller ones."""
        return self.misses < MISSES or size < SMALLER * self.least

    def missed(self, size: float) -> None:
        self.misses, self.least = self.misses + 1, min(self.least, size)


def nest(
    made: Nest, kept: Kept | None = None, order: Index | None = None, turn: Index | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> Layout:  # fmt: skip
    """Parts one after the other at the first free place of the first sheet they fit on, from the left and then from below
    (bottom-left placement, Baker et al., 1980, on cells), each at the turn that ends furthest left; ``kept`` stay.

    ``order`` are positions of parts, largest first unless given; ``turn`` (parts,) names the turn tried alone, −1 for all.
    """
    count = len(made.parts)
    slot, angle, shift = np.full(count, -1), made.base.copy(), np.zeros((count, 2))
    pinned = np.zeros(count, bool)
    sheets: dict[int, _Sheet] = {}

    def sheet(k: int) -> _Sheet | None:
        if k not in sheets:
            stock = stock_of_slot(made.stocks, k)
            if stock is None:
                return None
            sheets[k] = _Sheet(stock, made.grid(made.stocks[stock]))
        return sheets[k]

    if kept is not None:
        for i in kept.fitting(made.parts, made.stocks):
            slot[i], angle[i], shift[i], pinned[i] = kept.slot[i], kept.angle[i], kept.shift[i], kept.pinned[i]
            on = sheet(int(slot[i]))
            assert on is not None
            on.grid.occupy(*made.taken(i, float(angle[i]), shift[i], made.stocks[on.stock]))
    todo = np.lexsort((np.arange(count), -made.size)) if order is None else np.asarray(order)
    for n, i in enumerate(todo.tolist()):
        if n % 20 == 0:
            progress(n / max(count, 1))
        if slot[i] >= 0:
            continue
        k = 0
        while True:
            on = sheet(k)
            if on is None:
                break
            tried = on.may_take(made.size[i])
            found = _place(made, on, i, -1 if turn is None else int(turn[i])) if tried else None
            if tried and found is None:
                on.missed(made.size[i])
            if found is not None:
                on.misses = 0
                t, x, y = found
                lies = made.turned(i, t)
                slot[i], angle[i], shift[i] = k, lies.angle, made.shift(made.stocks[on.stock], lies, x, y)
                on.grid.occupy(lies.taken, x - lies.back, y - lies.back)
                break
            if not on.grid.touched and k >= sum(s.number for s in made.stocks):
                break  # it does not fit an empty sheet
            k += 1
    return _layout(made, slot, angle, shift, pinned)


def _place(made: Nest, on: _Sheet, part: int, only: int) -> tuple[int, int, int] | None:
    """The turn and place of a part on a sheet, of those that end furthest left."""
    best: tuple[int, int, int, int] | None = None
    for t in range(len(made.turns)) if only < 0 else (only,):
        runs = made.turned(part, t).runs
        x, y = on.grid.first(runs, None if best is None else best[0])
        if x >= 0 and (best is None or (x + runs.size[0], y) < (best[0], best[3])):
            best = (x + runs.size[0], t, x, y)
    return None if best is None else best[1:]


def _layout(made: Nest, slot: Index, angle: Array, shift: Array, pinned: NDArray[np.bool_]) -> Layout:
    used = np.unique(slot[slot >= 0])
    sheet = np.where(slot >= 0, np.searchsorted(used, slot), -1).astype(np.int32)
    of = np.array([stock_of_slot(made.stocks, int(k)) for k in used], np.int32)
    return Layout(made.stocks, of, used.astype(np.int32), made.parts, sheet, angle, shift, pinned, made=made)


def score(layout: Layout) -> tuple[int, float, float]:
    """What is better is less: parts on no sheet; the price of sheets and, a little, their area taken, offcuts taken off; and
    how evenly filled they are, as a sheet that is nearly empty is soon spared."""
    off = int((layout.sheet < 0).sum())
    if not layout.sheet_count:
        return off, 0.0, 0.0
    price = sum(layout.stock(k).price for k in range(layout.sheet_count))
    filled = np.zeros(layout.sheet_count)
    on = layout.sheet >= 0
    np.add.at(filled, layout.sheet[on], layout.made.size[on])
    area = np.array([layout.stock(k).width * layout.stock(k).height for k in range(layout.sheet_count)])
    return off, price * 1e6 + layout.taken(), float(-np.sum((filled / area) ** 2))


@dataclass
class _Search:
    """Orders of parts and their turns (−1 for the best), the one gone on from with its score, and the best layout."""

    made: Nest
    order: Index
    turn: Index
    at: tuple[int, float, float]
    best: Layout

    def takes(self, tried: Layout, order: Index, turn: Index) -> bool:
        """Goes on from a layout that is no worse; whether it is better."""
        found = score(tried)
        if found > self.at:
            return False
        better = found < self.at
        self.order, self.turn, self.at = order, turn, found
        if better:
            self.best = tried
        return better


def nest_better(
    made: Nest, start: Layout, goes_on: Callable[[], bool], better: Callable[[Layout], None], seed: int = 1
) -> Layout:
    """Looks for better arrangements while ``goes_on``: other orders of parts and turns, of which those that do no worse are
    gone on from (local search on the order of placement, see Gomes and Oliveira, 2002); ``better`` hears of each better one.
    Pinned parts stay.
    """
    rng = np.random.default_rng(seed)
    kept = Kept.of(start, start.pinned) if start.pinned.any() else None
    count = len(made.parts)
    start = replace(start, made=made)
    search = _Search(made, np.lexsort((start.shift[:, 0], start.sheet)), np.full(count, -1), score(start), start)

    def tried(order: Index, turn: Index) -> None:
        layout = replace(nest(made, kept, order, turn), cutting=start.cutting, made=made)
        if search.takes(layout, order, turn):
            better(layout)

    for first in (made.size, made.length, made.length * made.size):
        if goes_on():
            tried(np.lexsort((np.arange(count), -first)), np.full(count, -1))
    while count > 1 and goes_on():
        order, turn = search.order.copy(), search.turn.copy()
        for _ in range(rng.integers(1, 4)):
            a, b = rng.integers(0, count, 2)
            if rng.random() < 0.5:
                order[[a, b]] = order[[b, a]]
            else:
                order = np.insert(np.delete(order, a), b, order[a])
        if rng.random() < 0.3:
            turn[rng.integers(0, count)] = rng.integers(-1, len(made.turns))
        tried(order, turn)
    return search.best
