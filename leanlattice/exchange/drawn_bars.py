"""Stock bars drawn to one scale for the one at the saw: what is cut from each, and what is left."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from .tables import Table

__all__ = ["draw_bars"]

Page = Callable[[str, str], tuple[float, float, float, float]]
"""Begins a page of a title and a remark; its free field as x, y, width and height in points."""
PITCH, HEIGHT = 9 * mm, 5 * mm
"""From bar to bar, and the height of one."""
BEFORE, BEHIND = 52 * mm, 22 * mm
"""What is kept free before bars for their names, and behind them for what is left."""
FONT = 6.5
CUT, LEFT = colors.HexColor("#e9eff1"), colors.HexColor("#fdfaf2")
INK, SOFT = colors.HexColor("#262f5c"), colors.HexColor("#5d6079")


class _Bar(NamedTuple):
    """The rows (n,) of one bar, in the order of its pieces."""

    name: str
    section: str
    stock: float
    members: list[str]
    starts: NDArray[np.float64]
    ends: NDArray[np.float64]
    kerf: float

    @property
    def left(self) -> float:
        return max(self.stock - float(self.ends.max()) - self.kerf, 0.0)


def draw_bars(page: Page, canvas: Canvas, table: Table) -> None:
    """Draws the bars of a table ``bars``, as many on a ``page`` as there is room for."""
    bars = _bars(table)
    longest = max((bar.stock for bar in bars), default=1.0)
    done = 0
    while done < len(bars):
        x, y, width, height = page("Stock bars", f"{len(bars):,} bars, lengths in mm")
        scale = (width - BEFORE - BEHIND) / longest
        here = bars[done : done + int(height // PITCH)]
        for k, bar in enumerate(here):
            _draw(canvas, bar, x, y + height - (k + 1) * PITCH, scale)
        done += len(here)


def _bars(table: Table) -> list[_Bar]:
    columns = table.columns
    name = np.array(columns["bar"])
    starts = np.flatnonzero(np.r_[True, name[1:] != name[:-1]]) if len(name) else name
    out = []
    for rows in np.split(np.arange(len(name)), starts[1:]) if len(name) else ():
        first = int(rows[0])
        out.append(
            _Bar(
                name=str(name[first]),
                section=str(columns["section"][first]),
                stock=float(columns["stock_mm"][first]),
                members=[str(columns["member"][k]) for k in rows.tolist()],
                starts=np.array(columns["from_mm"], float)[rows],
                ends=np.array(columns["to_mm"], float)[rows],
                kerf=float(columns["kerf_mm"][first]),
            )
        )
    return out


def _draw(c: Canvas, bar: _Bar, x: float, y: float, scale: float) -> None:
    """One bar with its lower left corner, where its name begins, at ``x`` and ``y``; ``scale`` is
    points a millimetre."""
    text = y + HEIGHT / 2 - 0.35 * FONT
    c.setFont("Helvetica-Bold", FONT)
    c.setFillColor(INK)
    c.drawString(x, text, bar.name)
    c.setFont("Helvetica", FONT)
    c.setFillColor(SOFT)
    c.drawString(x + 14 * mm, text, f"{bar.section}, {bar.stock:g}")
    begin = x + BEFORE
    c.setLineWidth(0.4)
    c.setStrokeColor(SOFT)
    c.setFillColor(LEFT)
    c.rect(begin, y, bar.stock * scale, HEIGHT, fill=1)
    for member, start, end in zip(bar.members, bar.starts, bar.ends, strict=True):
        c.setStrokeColor(INK)
        c.setFillColor(CUT)
        c.rect(begin + start * scale, y, (end - start) * scale, HEIGHT, fill=1)
        c.setFillColor(INK)
        room, middle = (end - start) * scale, begin + (start + end) / 2 * scale
        _label(c, f"{member}  {end - start:.1f}", middle, text, room)
    c.setFillColor(SOFT)
    c.setFont("Helvetica", FONT)
    c.drawString(begin + bar.stock * scale + 2 * mm, text, f"{bar.left:.0f} left")


def _label(c: Canvas, text: str, x: float, y: float, room: float) -> None:
    """A text about a place, as large as fits in its ``room`` (points)."""
    wide = c.stringWidth(text, "Helvetica", FONT) + 1.5
    size = FONT * min(room / wide, 1.0)
    c.setFont("Helvetica", size)
    c.drawCentredString(x, y + 0.35 * (FONT - size), text)
