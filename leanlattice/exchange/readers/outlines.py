"""Curves from SVG and DXF."""

from __future__ import annotations

import io
import re
from itertools import pairwise
from typing import Any

import numpy as np
import svgelements
from ezdxf import path as ezpath
from ezdxf.math import bulge_to_arc

from ...core.geometry.drawing import circle_path
from ...core.geometry.paths import ArcPiece, CubicPiece, LinePiece, Path, Piece
from ...core.shaping.brought import Outlines, ReadProblem
from .meshes import DXF_UNITS, open_dxf

__all__ = ["read_dxf_outlines", "read_svg"]

MOST_PIECES = 20_000


def _flat(p: Any) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    return np.array([p.x, -p.y], float)


def _finished(pieces: list[Piece]) -> Path | None:
    pieces = [p for p in pieces if p.length > 1e-12]
    if not pieces:
        return None
    size = max(float(np.abs(p.start).max()) for p in pieces) + 1.0
    return Path(tuple(pieces), bool(np.linalg.norm(pieces[0].start - pieces[-1].end) < 1e-9 * size))


def _arc_piece(a: Any) -> list[Piece]:
    """Circular arcs stay arcs; elliptic ones become cubics."""
    if abs(a.rx - a.ry) < 1e-9 * max(a.rx, a.ry):
        centre, start = _flat(a.center), _flat(a.start)
        way = start - centre
        return [
            ArcPiece(
                centre,
                float(np.linalg.norm(way)),
                float(np.arctan2(way[1], way[0])),
                -float(a.sweep),
            )
        ]
    return [
        CubicPiece(np.array([_flat(q) for q in (c.start, c.control1, c.control2, c.end)]))
        for c in a.as_cubic_curves()
    ]


def read_svg(content: bytes, ending: str) -> Outlines:
    """All shapes and paths of a drawing, y turned upward; in millimetres where its size is given in
    a unit of length."""
    if re.search(rb"<!(ENTITY|DOCTYPE[^>]*\[)", content, re.IGNORECASE):
        raise ReadProblem("it declares entities of its own, which are not read.")
    # 96 pixels an inch, so that a drawing with a size in millimetres comes out in them.
    drawing = svgelements.SVG.parse(io.BytesIO(content), ppi=25.4, reify=True)
    has_unit = bool(re.search(rb"<svg[^>]*\swidth=[\"'][\d.]+(mm|cm|in|pt)", content[:4000]))
    # A view box moves the drawing to its own corner; its coordinates are kept as they were drawn.
    box = drawing.viewbox
    shift = np.zeros(2)
    if box is not None and box.width and box.height:
        scale = float(drawing.width) / float(box.width)
        shift = np.array([float(box.x) * scale, -float(box.y) * scale])
    paths: list[Path] = []
    for element in drawing.elements():
        if not isinstance(element, svgelements.Shape):
            continue
        pieces: list[Piece] = []
        for segment in svgelements.Path(element):
            if isinstance(segment, svgelements.Move):
                paths += [p for p in [_finished(pieces)] if p]
                pieces = []
            elif isinstance(segment, svgelements.Line | svgelements.Close):
                if segment.start is not None and segment.end is not None:
                    pieces.append(LinePiece(_flat(segment.start), _flat(segment.end)))
            elif isinstance(segment, svgelements.CubicBezier):
                corners = (segment.start, segment.control1, segment.control2, segment.end)
                pieces.append(CubicPiece(np.array([_flat(q) for q in corners])))
            elif isinstance(segment, svgelements.QuadraticBezier):
                a, b, c = (_flat(q) for q in (segment.start, segment.control, segment.end))
                pieces.append(CubicPiece(np.array([a, (a + 2 * b) / 3, (c + 2 * b) / 3, c])))
            elif isinstance(segment, svgelements.Arc):
                pieces += _arc_piece(segment)
        paths += [p for p in [_finished(pieces)] if p]
        if sum(len(p.pieces) for p in paths) > MOST_PIECES:
            raise ReadProblem(f"it holds more than {MOST_PIECES:,} pieces of curves.")
    return _all([p.mapped(np.eye(2), shift) for p in paths], 1e-3 if has_unit else 0.0)


def _all(paths: list[Path], unit: float) -> Outlines:
    if not paths:
        raise ReadProblem("it holds no curves.")
    for p in paths:
        if not all(
            np.isfinite(piece.derivatives(np.linspace(0, 1, 3))).all() for piece in p.pieces
        ):
            raise ReadProblem("it holds coordinates that are not numbers.")
    return Outlines(tuple(paths), unit)


def read_dxf_outlines(content: bytes, ending: str) -> Outlines:
    """Lines, arcs, circles, polylines with bulges, ellipses and splines of a drawing, seen from
    above."""
    document = open_dxf(content)
    paths: list[Path] = []
    for entity in document.modelspace():
        kind = entity.dxftype()
        pieces: list[Piece] = []
        if kind == "LINE":
            pieces = [LinePiece(np.array(entity.dxf.start)[:2], np.array(entity.dxf.end)[:2])]
        elif kind == "CIRCLE":
            paths.append(circle_path(np.array(entity.dxf.center)[:2], float(entity.dxf.radius)))
            continue
        elif kind == "ARC":
            first = np.radians(entity.dxf.start_angle)
            sweep = np.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360.0)
            pieces = [
                ArcPiece(
                    np.array(entity.dxf.center)[:2],
                    float(entity.dxf.radius),
                    float(first),
                    float(sweep),
                )
            ]
        elif kind == "LWPOLYLINE":
            pieces = _with_bulges(entity)
        elif kind in ("SPLINE", "ELLIPSE", "POLYLINE"):
            pieces = _from_path(ezpath.make_path(entity))
        path = _finished(pieces)
        if path:
            paths.append(path)
        if sum(len(p.pieces) for p in paths) > MOST_PIECES:
            raise ReadProblem(f"it holds more than {MOST_PIECES:,} pieces of curves.")
    return _all(paths, DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), 0.0))


def _with_bulges(entity: Any) -> list[Piece]:
    rows = [(np.array([x, y]), bulge) for x, y, bulge in entity.get_points("xyb")]
    if entity.closed and rows:
        rows.append((rows[0][0], 0.0))
    out: list[Piece] = []
    for (a, bulge), (b, _) in pairwise(rows):
        if abs(bulge) < 1e-12 or np.linalg.norm(b - a) < 1e-12:
            out.append(LinePiece(a, b))
            continue
        centre, *_, radius = bulge_to_arc(a, b, bulge)
        way = a - np.array(centre)[:2]
        out.append(
            ArcPiece(
                np.array(centre)[:2],
                float(radius),
                float(np.arctan2(way[1], way[0])),
                float(4 * np.arctan(bulge)),
            )
        )
    return out


def _from_path(path: ezpath.Path) -> list[Piece]:
    out: list[Piece] = []
    here = np.array(path.start)[:2]
    for command in path.commands():
        end = np.array(command.end)[:2]
        if command.type == ezpath.Command.CURVE4_TO:
            out.append(
                CubicPiece(
                    np.array([here, np.array(command.ctrl1)[:2], np.array(command.ctrl2)[:2], end])
                )
            )
        elif command.type == ezpath.Command.CURVE3_TO:
            middle = np.array(command.ctrl)[:2]
            out.append(
                CubicPiece(np.array([here, (here + 2 * middle) / 3, (end + 2 * middle) / 3, end]))
            )
        else:
            out.append(LinePiece(here, end))
        here = end
    return out
