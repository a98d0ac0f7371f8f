"""Single-stroke lettering: text as open polylines that a pen or a tool can follow once, and names
written on parts where there is room for them."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import cache
from typing import Any, NamedTuple

import numpy as np
import shapely
from HersheyFonts import HersheyFonts
from numpy.typing import NDArray

__all__ = ["LABEL_HEIGHT", "LEAST_HEIGHT", "NEIGHBOUR_HEIGHT", "Names", "lettered"]

Array = NDArray[np.float64]

LABEL_HEIGHT, NEIGHBOUR_HEIGHT, LEAST_HEIGHT = 40.0, 14.0, 2.5
"""Heights in mm of a part's own label, of its neighbours' labels, and the least that can be read.
"""
ZERO: Array = np.zeros(2)
CLEAR = 3.0
"""Millimetres from lines that are there before names are written: no name stands between two of
them that are one letter."""
SMALLER = 0.75
"""A name without room is tried again so many times as high."""


@cache
def _letters() -> dict[str, tuple[list[Array], float]]:
    """Strokes (n, 2) of each letter of a plain simplex face, upright, from its left side on, and
    by how much the next one is further on."""
    font = HersheyFonts()
    font.load_default_font("futural")
    out = {}
    for letter, glyph in font.all_glyphs.items():
        from_left = np.array([glyph.left_offset, 0.0])
        # The font counts y downward.
        strokes = [(np.array(s, float) - from_left) * [1.0, -1.0] for s in glyph.strokes]
        out[letter] = (strokes, float(glyph.char_width))
    return out


class _Strokes(NamedTuple):
    """Strokes one unit high about their own middle: their ``points`` (n, 2), where all but the
    first begin, and the ``box`` (4, 2) around them, a stroke's breadth wider."""

    points: Array
    begins: tuple[int, ...]
    box: Array


@cache
def _strokes(text: str) -> _Strokes:
    letters, lines, at = _letters(), [], np.zeros(2)
    for strokes, further in (letters[letter] for letter in text if letter in letters):
        lines += [stroke + at for stroke in strokes]
        at = at + [further, 0.0]
    points = np.concatenate(lines)
    low, high = points.min(axis=0), points.max(axis=0)
    scale = 1.0 / max(high[1] - low[1], 1e-9)
    half = (high - low) / 2 * scale + 0.1
    box = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]]) * half
    begins = tuple(np.cumsum([len(line) for line in lines[:-1]]).tolist())
    return _Strokes((points - (low + high) / 2) * scale, begins, box)


def lettered(text: str, height: float, middle: Array, angle: float) -> tuple[list[Array], Array]:
    """Polylines (n, 2) of ``text`` with capitals ``height`` mm high about ``middle`` (2,), turned
    by ``angle`` (rad).

    Second result: the corners (4, 2) of the box around it, a stroke's breadth wider than the text.
    """
    strokes, turn = _strokes(text), height * _turned(angle)
    points, box = (places @ turn + middle for places in (strokes.points, strokes.box))
    cuts = [0, *strokes.begins, len(points)]
    return [points[a:b] for a, b in itertools.pairwise(cuts)], box


def _turned(angle: float) -> Array:
    """What turns rows (n, 2) by an ``angle`` (rad)."""
    return np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])


class Names:
    """Names on a part of a ``shape`` (mm): each is made smaller until it keeps clear of outlines,
    of lines (n, 2) that are ``there`` and of those before it; one that would be too small to read is
    left out, and the part is then not ``complete``.

    ``strokes`` are the open polylines (n, 2) of all that is written.
    """

    def __init__(self, shape: shapely.Polygon, there: Sequence[Array] = ()) -> None:
        shapely.prepare(shape)
        self.shape = shape
        self.strokes: list[Array] = []
        self.complete = True
        lines = [shapely.LineString(line) for line in there]
        self._boxes: list[Any] = [line.envelope.buffer(CLEAR) for line in lines]

    def write(
        self,
        text: str,
        tallest: float,
        at: Array,
        angle: float = 0.0,
        step: Array = ZERO,
        may_lack: bool = False,
    ) -> None:
        """Writes a ``text`` at the first place that is free, turned by ``angle`` (rad).

        Parameters
        ----------
        tallest : its height in mm, where there is room for that
        at : (k, 2) places for its middle, in mm
        step : (2,) by how much these move for each mm of its height
        may_lack : whether a part without it is complete all the same
        """
        height, box = tallest, _strokes(text).box @ _turned(angle)
        while height >= LEAST_HEIGHT:
            middles = at + height * step
            boxes: Any = shapely.polygons(middles[:, None] + height * box)
            free = shapely.contains_properly(self.shape, boxes)
            for taken in self._boxes:
                free &= ~shapely.intersects(boxes, taken)
            if free.any():
                first = int(np.argmax(free))
                self.strokes += lettered(text, height, middles[first], angle)[0]
                self._boxes.append(boxes[first])
                return
            height *= SMALLER
        self.complete = self.complete and may_lack

    def room(self, tolerance: float = 2.0) -> tuple[Array, float]:
        """The middle (1, 2) of the widest place that is left, and how far it is from all about
        it, within a ``tolerance`` (mm)."""
        left: Any = self.shape
        if self._boxes:
            left = left.difference(shapely.union_all(self._boxes))
        widest = max(shapely.get_parts(left), key=lambda piece: piece.area)
        line = shapely.maximum_inscribed_circle(widest, tolerance=tolerance)
        return shapely.get_coordinates(line)[:1], float(line.length)
