"""Single-stroke lettering: text as open polylines that a pen or a tool can follow once."""

from __future__ import annotations

from functools import cache

import numpy as np
from HersheyFonts import HersheyFonts
from numpy.typing import NDArray

__all__ = ["lettered"]

Array = NDArray[np.float64]


@cache
def _font() -> HersheyFonts:
    font = HersheyFonts()
    font.load_default_font("futural")  # a plain simplex face
    return font


@cache
def _strokes(text: str) -> tuple[tuple[Array, ...], Array]:
    """Strokes one unit high about their own middle, and their box (4, 2)."""
    lines = [
        np.array(s, float) * [1.0, -1.0] for s in _font().strokes_for_text(text)
    ]  # the font counts y downward
    points = np.concatenate(lines)
    low, high = points.min(axis=0), points.max(axis=0)
    scale = 1.0 / max(high[1] - low[1], 1e-9)
    middle = (low + high) / 2
    lines = [(line - middle) * scale for line in lines]
    half = (high - low) / 2 * scale
    return tuple(lines), np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]]) * half


def lettered(text: str, height: float, middle: Array, angle: float) -> tuple[list[Array], Array]:
    """Polylines (n, 2) of ``text`` with capitals ``height`` mm high about ``middle`` (2,), turned
    by ``angle`` (rad).

    Second result: the corners (4, 2) of the box around it, a stroke's breadth wider than the text.
    """
    strokes, box = _strokes(text)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])

    def place(points: Array) -> Array:
        return points * height @ turn + middle

    return [place(s) for s in strokes], place(box + np.sign(box) * 0.1)
