"""Curves on planes, lines in space, and pictures to trace."""

from __future__ import annotations

import numpy as np

from ...clauses.shape.drawn import Curves
from ...clauses.shape.files import Underlay
from ...core.geometry.line_sets import Lines
from ..subjects import Subject
from ..tables import Table, table_of_rows
from .kind import Drawing, Kind, Layer, Picture, Places, Schedule, narrow

__all__ = ["CURVES", "LINES", "UNDERLAY"]

FINE, COARSE = 4e-4, 5e-4
"""How far drawn curves and those of small pictures lie off, as shares of their size."""
PLUM = (122, 46, 98)
SHEET = [
    *((0, 0), (1, 0), (1, 1), (0, 1)),
    *((0.15, 0.2), (0.85, 0.2), (0.85, 0.55), (0.5, 0.85), (0.15, 0.55)),
    *((0.42, 0.2), (0.42, 0.45), (0.58, 0.45), (0.58, 0.2)),
]
"""Corners of a picture of a gabled house, as shares of the picture."""
SHEET_LINES = ((0, 1, 2, 3, 0), (4, 5, 6, 7, 8, 4), (6, 8), (9, 10, 11, 12))


def _polylines(curves: Curves | Lines, off: float) -> list[Places]:
    """Curves as polylines, closed ones back to their start."""
    if isinstance(curves, Lines):
        size = max(line.length for line in curves.lines)
        return [line.sampled(max(size * off, 1e-6))[0] for line in curves.lines]
    out = []
    for curve in curves.curves:
        places = curve.polyline(max(curve.path.size * off, 1e-6))
        out.append(np.vstack([places, places[:1]]) if curve.path.closed else places)
    return out


def _drawn(curves: Curves | Lines) -> Drawing:
    lines = _polylines(curves, FINE)
    return {}, {
        "positions": np.vstack([np.zeros((0, 3)), *lines]).astype("<f4"),
        "counts": narrow(np.array([len(line) for line in lines], int)),
    }


def _picture(curves: Curves | Lines) -> Picture:
    lines = _polylines(curves, COARSE)
    return Picture(np.vstack(lines), None, lines, PLUM)


def _lengths(subject: Subject) -> Table | None:
    if not subject.is_drawn_out:
        return None
    rows = []
    for k, curve in enumerate(subject.result.curves, 1):
        path = curve.path
        area = round(abs(path.signed_area), 6) if path.closed else ""
        length = round(path.length, 6)
        rows.append([subject.clause, k, int(path.closed), len(path.pieces), length, area])
    return table_of_rows(["clause", "curve", "closed", "pieces", "length_m", "area_m2"], rows)


def _lines_told(subject: Subject) -> Table | None:
    if not subject.ends:
        return None
    rows = []
    layers = subject.result.layers or ("",) * len(subject.result.lines)
    for k, (line, layer) in enumerate(zip(subject.result.lines, layers, strict=True), 1):
        arcs = int(np.count_nonzero(np.abs(line.bulge).any(axis=1)))
        ends = [round(x, 6) + 0.0 for x in (*line.places[0].tolist(), *line.places[-1].tolist())]
        length = round(line.length, 6)
        rows.append([subject.clause, k, layer, len(line.bulge), arcs, length, *ends])
    ends_named = [f"{axis}{end}_m" for end in (1, 2) for axis in "xyz"]
    names = ["clause", "line", "layer", "pieces", "arcs", "length_m", *ends_named]
    return table_of_rows(names, rows)


def _sheet(underlay: Underlay) -> Picture:
    corners = np.array(SHEET, float) * underlay.size
    lines = [underlay.frame.lifted(corners[list(run)]) for run in SHEET_LINES]
    return Picture(np.vstack(lines), None, lines)


CURVES = Kind(
    "Curves",
    layers=(Layer("curves", "Curves", alone=True),),
    drawn=_drawn,
    schedules=(Schedule("curves", _lengths, group="curves"),),
    picture=_picture,
    told_until="Shape",
)
LINES = Kind(
    "Lines",
    layers=(Layer("paths", "Lines", alone=True),),
    drawn=_drawn,
    schedules=(Schedule("lines", _lines_told, group="curves"),),
    picture=_picture,
    told_until="Shape",
)
UNDERLAY = Kind("Underlay", picture=_sheet, portrait=False)
