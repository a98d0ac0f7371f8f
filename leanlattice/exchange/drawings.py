"""Drawings as PDF: plan, elevations, an assembly plan with labels, and schedules, to scale, with a
title block."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from reportlab.lib import colors
from reportlab.lib.pagesizes import A3, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ..core.structure.axes import set_out_lines
from ..core.structure.names import StructureNames, names_of_structure
from ..core.structure.roles import ROLES
from ..core.structure.structure import Structure
from .drawn_bars import draw_bars
from .kinds import KINDS
from .material import tables_of
from .subjects import Subject
from .tables import Table

__all__ = ["scale_for", "write_drawings"]

Array = NDArray[np.float64]
PAGE = landscape(A3)
MARGIN, TITLE_HEIGHT = 12 * mm, 16 * mm
SCALES = (5, 10, 20, 25, 50, 75, 100, 150, 200, 250, 500, 1000, 2000, 5000, 10_000)
INK, SOFT = colors.HexColor("#262f5c"), colors.HexColor("#5d6079")
SCHEDULE_PAGES = ("member_types", "members", "panels")
ROW_HEIGHT, ROW_FONT = 3.6 * mm, 6.5


def scale_for(size: Array, width: float, height: float) -> int:
    """Denominator of the largest usual scale at which ``size`` (2,) in metres fits a field in
    points."""
    room = np.array([width, height]) / (mm * 1000)
    return next((s for s in SCALES if (size / s <= room).all()), SCALES[-1])


class _Set:
    """Pages of one set of drawings, numbered as they come."""

    def __init__(self, path: Path, project: str) -> None:
        # Without the time of day in it, the same statement gives the same bytes.
        self.canvas = Canvas(str(path), pagesize=PAGE, invariant=1)
        self.canvas.setTitle(project)
        self.canvas.setAuthor("Lean Lattice")
        self.project, self.number = project, 0

    def page(self, title: str, remark: str) -> tuple[float, float, float, float]:
        """Begins a page with its title block; the free field as x, y, width, height in points."""
        c = self.canvas
        if self.number:
            c.showPage()
        self.number += 1
        width, height = PAGE[0] - 2 * MARGIN, PAGE[1] - 2 * MARGIN
        c.setStrokeColor(INK)
        c.setFillColor(INK)
        c.setLineWidth(0.8)
        c.rect(MARGIN, MARGIN, width, height)
        c.line(MARGIN, MARGIN + TITLE_HEIGHT, MARGIN + width, MARGIN + TITLE_HEIGHT)
        for share, size, text in (
            (0.01, 15, self.project),
            (0.36, 12, title),
            (0.68, 9, remark),
            (0.94, 9, f"sheet {self.number}"),
        ):
            c.setFont("Helvetica", size)
            c.drawString(MARGIN + share * width, MARGIN + 5.5 * mm, text)
        return (
            MARGIN + 4 * mm,
            MARGIN + TITLE_HEIGHT + 4 * mm,
            width - 8 * mm,
            height - TITLE_HEIGHT - 8 * mm,
        )

    def save(self) -> None:
        self.canvas.showPage()
        self.canvas.save()


def _lines(c: Canvas, ends: Array, heavy: NDArray[np.bool_]) -> None:
    """Lines (n, 2, 2) in points, the heavy ones thicker."""
    c.setStrokeColor(INK)
    for kind, weight in ((False, 0.35), (True, 1.0)):
        c.setLineWidth(weight)
        c.lines([tuple(e.ravel()) for e in ends[heavy == kind]])


def _heavy(structure: Structure) -> NDArray[np.bool_]:
    """Whether each member (M,) is drawn thicker than those of a grid."""
    weights = np.array([role.precedence for role in ROLES.values()])
    return np.asarray(weights[structure.role] > ROLES["grid"].precedence)


def _projected(points: Array, view: str) -> Array:
    axes = {"plan": (0, 1), "front": (0, 2), "side": (1, 2)}[view]
    return np.asarray(points[:, axes])


def _view(
    c: Canvas,
    structure: Structure,
    view: str,
    field: tuple[float, float, float, float],
    scale: int,
) -> None:
    """Draws one view in the middle of a field."""
    x, y, width, height = field
    flat = _projected(structure.places, view)
    middle = (flat.min(axis=0) + flat.max(axis=0)) / 2
    unit = 1000 * mm / scale
    ends, member = set_out_lines(structure)
    lines = _projected(ends.reshape(-1, 3), view).reshape(-1, 2, 2)
    places = (lines - middle) * unit + np.array([x + width / 2, y + height / 2])
    _lines(c, places, _heavy(structure)[member])


def _caption(c: Canvas, x: float, y: float, text: str) -> None:
    c.setFont("Helvetica", 9)
    c.setFillColor(SOFT)
    c.drawString(x, y, text)
    c.setFillColor(INK)


def _overview(pages: _Set, structure: Structure) -> None:
    size = np.ptp(structure.places, axis=0)
    # The plan takes the left half, the two elevations share the right one.
    width, height = PAGE[0] - 2 * MARGIN - 8 * mm, PAGE[1] - 2 * MARGIN - TITLE_HEIGHT - 8 * mm
    half, row = width / 2 - 6 * mm, height / 2 - 10 * mm
    scale = max(
        scale_for(size[[0, 1]], half, height - 12 * mm),
        scale_for(size[[0, 2]], half, row),
        scale_for(size[[1, 2]], half, row),
    )
    x, y, width, height = pages.page("Plan and elevations", f"1 : {scale}   metres   A3")
    c = pages.canvas
    for view, title, field in (
        ("plan", "Plan", (x, y, half, height - 8 * mm)),
        ("front", "Elevation along y", (x + width / 2, y + height / 2, half, row)),
        ("side", "Elevation along x", (x + width / 2, y, half, row)),
    ):
        _view(c, structure, view, field, scale)
        _caption(c, field[0], field[1] + field[3], f"{title}, 1 : {scale}")


def _assembly(pages: _Set, structure: Structure, names: StructureNames) -> None:
    """The plan as large as the page takes it, with the names of nodes and members."""
    size = np.ptp(structure.places, axis=0)[:2]
    turned = size[1] > size[0]
    width, height = PAGE[0] - 2 * MARGIN - 8 * mm, PAGE[1] - 2 * MARGIN - TITLE_HEIGHT - 8 * mm
    scale = scale_for(size[::-1] if turned else size, width, height)
    field = pages.page(
        "Assembly plan",
        f"1 : {scale}   {'x upward, y to the left' if turned else 'x to the right'}   A3",
    )
    c = pages.canvas
    unit = 1000 * mm / scale
    turn = np.array([[0.0, 1.0], [-1.0, 0.0]]) if turned else np.eye(2)
    flat = structure.places[:, :2] @ turn
    shift = np.array([field[0] + field[2] / 2, field[1] + field[3] / 2])
    shift -= (flat.min(axis=0) + flat.max(axis=0)) / 2 * unit
    places = flat * unit + shift
    ends, member = set_out_lines(structure)
    _lines(c, ends[:, :, :2] @ turn * unit + shift, _heavy(structure)[member])
    font = float(np.clip(0.16 * np.median(structure.segment_lengths) * unit, 1.2, 7))
    c.setFont("Helvetica", font)
    for place, label in zip(places, names.every_node, strict=True):
        c.setFillColor(colors.HexColor("#7a2e62"))
        c.drawCentredString(place[0], place[1] + 0.2 * font, label)
    c.setFillColor(INK)
    middles = structure.middles[:, :2] @ turn * unit + shift
    for (x, y), label in zip(middles, names.every_member, strict=True):
        c.drawCentredString(x, y - 0.35 * font, label)


def _rows(pages: _Set, title: str, table: Table) -> None:
    """A schedule over as many pages as it takes, in columns as wide as their texts."""
    names = list(table.columns)
    texts = [
        [name, *(f"{v:g}" if isinstance(v, float) else str(v) for v in table.columns[name])]
        for name in names
    ]
    widths = [min(max(len(t) for t in column), 34) * ROW_FONT * 0.56 + 3 * mm for column in texts]
    count = len(texts[0]) - 1
    room = PAGE[1] - 2 * MARGIN - TITLE_HEIGHT - 8 * mm
    per_column = int(room / ROW_HEIGHT) - 1
    blocks = max(1, int((PAGE[0] - 2 * MARGIN - 8 * mm) // (sum(widths) + 6 * mm)))
    for start in range(0, count, per_column * blocks):
        x, y, _, height = pages.page(f"Schedule of {title.lower()}", f"{count:,} rows")
        for block in range(blocks):
            first = start + block * per_column
            _block(
                pages.canvas,
                x + block * (sum(widths) + 6 * mm),
                y + height,
                texts,
                widths,
                range(first, min(first + per_column, count)),
            )


def _block(
    c: Canvas, x: float, top: float, texts: list[list[str]], widths: list[float], rows: range
) -> None:
    if not rows:
        return
    for column, width in zip(texts, widths, strict=True):
        c.setFont("Helvetica-Bold", ROW_FONT)
        c.drawString(x, top - ROW_HEIGHT, column[0])
        c.setFont("Helvetica", ROW_FONT)
        for k, r in enumerate(rows):
            c.drawString(x, top - (k + 2) * ROW_HEIGHT, column[r + 1][:40])
        x += width


def write_drawings(
    path: Path,
    project: str,
    subjects: list[Subject],
    progress: Callable[[float], None] = lambda share: None,
) -> None:
    """Writes all drawings of structures into one PDF on A3, with schedules of them and of their
    panels, and of the bars members are cut from."""
    pages = _Set(path, project)
    structures = [s for s in subjects if s.type == "Structure"]
    for k, subject in enumerate(structures):
        progress(k / len(structures))
        _overview(pages, subject.result)
        _assembly(pages, subject.result, subject.once(names_of_structure))
        shown = [subject, *(s for s in subjects if s.structure is subject)]
        for name in SCHEDULE_PAGES:
            for of, table in tables_of(shown, name):
                title = next(s.title for s in KINDS[of.type].schedules if s.name == name)
                _rows(pages, title, table)
        for _, table in tables_of([subject], "bars"):
            draw_bars(pages.page, pages.canvas, table)
    pages.save()
