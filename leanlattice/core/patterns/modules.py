"""Patterns that repeat: a module of points and cells, laid side by side over the square of
parameters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from .flat import FlatPattern, keep_cells, reversed_cells
from .layout import Layout

__all__ = ["MODULES", "Module", "tiled"]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
Corner = tuple[int, int, int]
Cell = tuple[Corner, ...]


@dataclass(frozen=True)
class Module:
    """``points`` within one module, (0, 0) to (1, 1), and ``cells`` counter-clockwise, each corner
    a point's number with the steps across and along to the module it is taken from. A module spans
    ``bays`` across and along.

    Every cell of the pattern is listed once, in one of the modules it touches.
    """

    points: tuple[tuple[float, float], ...]
    cells: tuple[Cell, ...]
    bays: tuple[int, int] = (1, 1)


def _modules_along(layout: Layout, size: tuple[int, int], reach: int) -> list[NDArray[np.int64]]:
    """Numbers of the modules wanted in each direction: all of a closed one, else as far as the
    square reaches."""
    low, high = layout.box
    out = []
    for axis in (0, 1):
        if layout.closed[axis]:
            out.append(np.arange(layout.bays[axis] // size[axis]))
        else:
            first, last = (
                np.floor(low[axis] / size[axis] + 1e-9),
                np.ceil(high[axis] / size[axis] - 1e-9),
            )
            out.append(np.arange(int(first) - reach, int(last) + reach))
    return out


def tiled(module: Module, layout: Layout) -> FlatPattern:
    """The cells of a module's pattern that reach into the square.

    In a closed direction the bays must be whole modules.
    """
    steps = [c[1:] for cell in module.cells for c in cell]
    reach = max(1, *(abs(s) for step in steps for s in step))
    points = np.array(module.points, float)
    # Cells whose points lie outside their module dip into the next.
    reach += int(points.min() < 0 or points.max() > 1)
    i, j = _modules_along(layout, module.bays, reach)
    count = len(points)
    # Row after row along v.
    base = np.stack(np.broadcast_arrays(i[None, :], j[:, None]), axis=-1).reshape(-1, 2)
    uv = layout.placed(((base[:, None] + points[None]) * module.bays).reshape(-1, 2))
    blocks = []
    for size in sorted({len(c) for c in module.cells}):
        table = np.array([c for c in module.cells if len(c) == size], np.int32)
        across, fits_across = _stepped(table[:, :, 1], len(i), layout.closed[0])
        along, fits_along = _stepped(table[:, :, 2], len(j), layout.closed[1])
        first = np.int32(count) * (np.int32(len(i)) * along[:, None] + across[None])
        fits = fits_along[:, None] & fits_across[None]
        blocks.append((first + table[:, :, 0])[fits])
    corners = np.concatenate([b.ravel() for b in blocks])
    sizes = np.concatenate([np.full(len(b), b.shape[1]) for b in blocks])
    flat = FlatPattern(
        uv, corners, np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32), layout.closed
    )
    flat = _reaching(flat, layout)
    return reversed_cells(flat) if np.linalg.det(layout.matrix) < 0 else flat


def _stepped(steps: Index, count: int, closed: bool) -> tuple[Index, NDArray[np.bool_]]:
    """In one direction, for each of so many modules the ones (n, cells, k) its cells' corners lie
    in, and which cells (n, cells) there are."""
    numbers: Index = np.arange(count, dtype=np.int32)[:, None, None] + steps
    if closed:
        return numbers % np.int32(count), np.ones(numbers.shape[:2], bool)
    return numbers, np.all((numbers >= 0) & (numbers < count), axis=2)


def _reaching(flat: FlatPattern, layout: Layout) -> FlatPattern:
    """Cells of which some part lies within the square and its margin, as far as their boxes
    tell."""
    kept = np.ones(flat.cell_count, bool)
    low, high = 1e-9 - layout.margin, 1 + layout.margin - 1e-9
    for axis in (0, 1):
        if not layout.closed[axis]:
            _keep_between(flat.uv[:, axis], flat.corners, flat.offsets, low, high, kept)
    return flat if kept.all() else keep_cells(flat, kept)


@compiled
def _keep_between(  # type: ignore[no-untyped-def]
    values, corners, offsets, low, high, kept
):
    """Takes out of ``kept`` (C,) cells all of whose corners have ``values`` not above ``low``, or
    not below ``high``."""
    for cell in range(len(offsets) - 1):
        above, below = False, False
        for k in range(offsets[cell], offsets[cell + 1]):
            value = values[corners[k]]
            above |= value > low
            below |= value < high
        kept[cell] &= above and below


def _cells(*texts: str) -> tuple[Cell, ...]:
    """Cells written as words: a corner is a point's number, with ``>`` or ``<`` for each module
    further across or back and ``^`` or ``_`` for each further along or back."""

    def corner(word: str) -> Corner:
        number = word.rstrip("<>^_")
        marks = word[len(number) :]
        return int(number), marks.count(">") - marks.count("<"), marks.count("^") - marks.count("_")

    return tuple(tuple(corner(w) for w in text.split()) for text in texts)


STAGGER = 0.07
"""How far, in bays, lamellas that meet a continuous one from either side stand apart along it."""

MODULES: dict[str, Module] = {
    "quads": Module(((0, 0),), _cells("0 0> 0>^ 0^")),
    "triangles": Module(((0, 0),), _cells("0 0> 0>^", "0 0>^ 0^")),
    "alternating": Module(
        ((0, 0), (0.5, 0), (0, 0.5), (0.5, 0.5)),
        _cells("0 1 3", "0 3 2", "1 0> 3", "0> 2> 3", "2 3 0^", "3 1^ 0^", "3 2> 0>^", "3 0>^ 1^"),
        (2, 2),
    ),
    "crossed": Module(((0, 0), (0.5, 0.5)), _cells("0 0> 1", "0> 0>^ 1", "0>^ 0^ 1", "0^ 0 1")),
    # Rows of triangles, each moved by half a side: two rows repeat.
    "equilateral": Module(
        ((0, 0), (0.5, 0.5)), _cells("0 0> 1", "0> 1> 1", "1 0>^ 0^", "1 1> 0>^"), (1, 2)
    ),
    "diagrid": Module(((0, 0), (0.5, 0.5)), _cells("0 1_ 0> 1", "1< 0 1 0^")),
    "ringed": Module(((0, 0), (0.5, 0.5)), _cells("0 0> 1", "0> 1> 1", "1 0>^ 0^", "1 1> 0>^")),
    "hexagons": Module(
        ((0, 1 / 6), (0.5, 1 / 3), (0.5, 2 / 3), (0, 5 / 6)),
        _cells("2 3> 0>^ 1^ 0^ 3", "0> 1> 2> 3> 2 1"),
        (1, 2),
    ),
    # The middles of a triangular lattice's edges.
    "trihexagons": Module(
        ((0.5, 0), (0.25, 0.25), (0.75, 0.25), (0, 0.5), (0.75, 0.75), (0.25, 0.75)),
        _cells("0 1 2< 0< 4<_ 5_", "3> 4 5 3 1 2", "0 2 1", "1> 3> 2", "4 0^ 5", "3> 5> 4"),
        (1, 2),
    ),
    # Rhombs whose nodes are drawn apart: one member passes through, the two that meet it end a step
    # away from each other.
    "lamella": Module(
        (
            (-STAGGER, -STAGGER),
            (STAGGER, STAGGER),
            (0.5 - STAGGER, 0.5 + STAGGER),
            (0.5 + STAGGER, 0.5 - STAGGER),
        ),
        _cells("1 2_ 3_ 0> 3 2", "3< 0 1 2 1^ 0^"),
    ),
}
