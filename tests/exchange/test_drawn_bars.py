"""Drawings of stock bars."""

from __future__ import annotations

import pytest
from pypdf import PdfReader
from reportlab.lib.pagesizes import A3, landscape
from reportlab.pdfgen.canvas import Canvas

from leanlattice.exchange.drawn_bars import draw_bars
from leanlattice.exchange.tables import Table

FIELD = (30.0, 60.0, 1100.0, 700.0)


def table(*bars, stock=6000.0, kerf=4.0):
    """Bars of pieces of given lengths (mm)."""
    rows = []
    for b, pieces in enumerate(bars, 1):
        begin = 0.0
        for length in pieces:
            rows.append(
                (f"B{b}", "CHS 60.3 × 4", stock, f"M{len(rows) + 1}", begin, begin + length)
            )
            begin += length + kerf
    names = ("bar", "section", "stock_mm", "member", "from_mm", "to_mm")
    columns = {name: [row[k] for row in rows] for k, name in enumerate(names)}
    return Table("member", columns | {"kerf_mm": [kerf] * len(rows)}, list(range(len(rows))))


class Boxes(Canvas):
    """Remembers the boxes and the texts that are drawn."""

    def __init__(self, path):
        super().__init__(str(path), pagesize=landscape(A3), invariant=1)
        self.boxes, self.words, self.pages = [], [], 0

    def rect(self, x, y, width, height, *args, **kwargs):
        self.boxes.append((x, y, width, height))
        super().rect(x, y, width, height, *args, **kwargs)

    def drawString(self, x, y, text, *args, **kwargs):  # noqa: N802
        self.words.append(text)
        super().drawString(x, y, text, *args, **kwargs)

    def begin(self, title, remark):
        if self.pages:
            self.showPage()
        self.pages += 1
        return FIELD


def drawn(path, of):
    canvas = Boxes(path)
    draw_bars(canvas.begin, canvas, of)
    canvas.save()
    return canvas


def test_pieces_lie_on_their_bar_to_scale(tmp_path):
    canvas = drawn(tmp_path / "bars.pdf", table([2500.0, 3000.0], [5998.0]))
    whole, one, other, second, third = canvas.boxes
    scale = whole[2] / 6000
    assert (one[0], one[2]) == pytest.approx((whole[0], 2500 * scale))
    assert (other[0], other[2]) == pytest.approx((whole[0] + 2504 * scale, 3000 * scale))
    assert second[1] < whole[1]
    assert third[2] == pytest.approx(5998 * scale)
    assert whole[0] + whole[2] < FIELD[0] + FIELD[2]
    # Behind the last cut; the end of the second goes with it.
    assert {"492 left", "0 left"} <= set(canvas.words)
    text = PdfReader(tmp_path / "bars.pdf").pages[0].extract_text()
    assert "M2" in text
    assert "3000.0" in text


def test_bars_go_on_as_many_pages_as_it_takes(tmp_path):
    canvas = drawn(tmp_path / "bars.pdf", table(*[[1000.0]] * 70))
    assert canvas.pages == len(PdfReader(tmp_path / "bars.pdf").pages) == 3
    assert min(y for _, y, _, _ in canvas.boxes) >= FIELD[1]
    assert max(y + high for _, y, _, high in canvas.boxes) <= FIELD[1] + FIELD[3]


def test_where_nothing_is_cut_there_is_no_page(tmp_path):
    assert drawn(tmp_path / "bars.pdf", table()).pages == 0
