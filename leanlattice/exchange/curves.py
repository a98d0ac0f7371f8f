"""Curves as SVG and DXF, in millimetres on their own plane."""

from __future__ import annotations

import io

import numpy as np
from ezdxf.enums import InsertUnits

from ..clauses.shape.drawn import Curves
from ..core.geometry.paths import ArcPiece, CubicPiece, LinePiece, Path, on_plane
from .dxf import new_drawing

__all__ = ["curves_dxf", "curves_svg"]


def _paths(curves: Curves) -> list[Path]:
    """All paths on the plane of the first curve, in millimetres."""
    flat = on_plane(curves.curves, curves.curves[0].frame)
    return [p.mapped(np.eye(2) * 1000.0, np.zeros(2)) for p in flat]


def _svg_data(path: Path) -> str:
    x, y = path.pieces[0].start
    out = [f"M{x:.6g} {-y:.6g}"]
    for p in path.pieces:
        ex, ey = p.end
        if isinstance(p, LinePiece):
            out.append(f"L{ex:.9g} {-ey:.9g}")
        elif isinstance(p, ArcPiece):
            # Half by half, as an arc of a full turn would have no direction.
            for t in (0.5, 1.0):
                hx, hy = p.derivatives(np.array([t]))[0]
                out.append(
                    f"A{p.radius:.9g} {p.radius:.9g} 0 0 {0 if p.sweep > 0 else 1} {hx:.9g} {-hy:.9g}"
                )
        elif isinstance(p, CubicPiece):
            b, c, d = p.control[1:]
            out.append(f"C{b[0]:.9g} {-b[1]:.9g} {c[0]:.9g} {-c[1]:.9g} {d[0]:.9g} {-d[1]:.9g}")
    return "".join(out) + ("Z" if path.closed else "")


def curves_svg(curves: Curves) -> str:
    """Drawing in true size, y upward as on the plane."""
    paths = _paths(curves)
    points = np.vstack([p.polygon(max(p.size * 1e-3, 1e-9)) for p in paths]) * [1, -1]
    low, size = points.min(axis=0), np.maximum(np.ptp(points, axis=0), 1e-6)
    body = "\n".join(f'<path d="{_svg_data(p)}"/>' for p in paths)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]:.6g}mm" height="{size[1]:.6g}mm" '
        f'viewBox="{low[0]:.9g} {low[1]:.9g} {size[0]:.9g} {size[1]:.9g}">\n'
        f'<g fill="none" stroke="#262f5c" stroke-width="{size.max() / 500:.3g}">\n{body}\n</g>\n</svg>\n'
    )


def curves_dxf(curves: Curves) -> str:
    """Drawing with true arcs; runs of lines and arcs as polylines with bulges, cubics as
    splines."""
    document = new_drawing(InsertUnits.Millimeters)
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    for path in _paths(curves):
        if all(isinstance(p, LinePiece | ArcPiece) for p in path.pieces):
            rows = []
            for p in path.pieces:
                bulge = np.tan(p.sweep / 4) if isinstance(p, ArcPiece) else 0.0
                rows.append((*p.start, float(bulge)))
            if not path.closed:
                rows.append((*path.pieces[-1].end, 0.0))
            space.add_lwpolyline(rows, format="xyb", close=path.closed)
            continue
        for p in path.pieces:
            if isinstance(p, LinePiece):
                space.add_line(p.start, p.end)
            elif isinstance(p, ArcPiece):
                first, last = np.degrees([p.first, p.first + p.sweep])
                space.add_arc(
                    p.centre, p.radius, *((first, last) if p.sweep > 0 else (last, first))
                )
            elif isinstance(p, CubicPiece):
                spline = space.add_spline(degree=3)
                spline.set_open_uniform([(*q, 0.0) for q in p.control], degree=3)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
