"""DXF: sheets of flat parts and wireframes."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import ezdxf
import numpy as np
from ezdxf.document import Drawing
from ezdxf.enums import InsertUnits
from ezdxf.layouts import Modelspace
from ezdxf.sections.classes import REQ_R2004
from numpy.typing import NDArray

from ..core.flat.parts import Part
from ..core.flat.sheets import Layout, placed
from .kinds.kind import Lines

__all__ = [
    "Outline",
    "SheetDrawing",
    "UnreadableDrawing",
    "new_drawing",
    "read_sheet",
    "read_wireframe",
    "sheet_dxf",
    "write_part",
    "write_sheet",
    "write_wireframe",
]

Array = NDArray[np.float64]
WIRE_COLOURS = {
    "GRID": 7,
    "EDGE": 5,
    "NET": 3,
    "CHORD": 5,
    "WEB": 4,
    "POST": 4,
    "COLUMN": 1,
    "STRUT": 4,
    "TIE": 6,
    "ARCH": 1,
    "PURLIN": 2,
    "BRACE": 6,
    "LATH": 2,
}
ALWAYS_THERE = {"GRID", "EDGE"}
LAYERS = {"CUT_OUTER": 1, "CUT_INNER": 3, "SCORE": 5, "MARK": 6, "TAB": 4, "SHEET": 8}

# The same statement gives the same bytes.
ezdxf.options.write_fixed_meta_data_for_testing = True


def new_drawing(units: int) -> Drawing:
    """An empty drawing in a unit of the format, the same for the same contents to the last byte."""
    drawing = ezdxf.new("R2010", units=units)
    # The library adds its classes in an order that follows Python's hash seed.
    for name in (*REQ_R2004, *drawing.entitydb.dxf_types_in_use()):
        drawing.classes.add_class(name)
    drawing.classes.classes = dict(sorted(drawing.classes.classes.items()))
    return drawing


def _drawing(units: int, layers: dict[str, int]) -> tuple[Drawing, Modelspace]:
    drawing = new_drawing(units)
    for name, colour in layers.items():
        drawing.layers.add(name, color=colour)
    return drawing, drawing.modelspace()


def _add(space: Modelspace, points: Array, layer: str, close: bool) -> None:
    space.add_lwpolyline(
        np.round(points, 4).tolist(), format="xy", close=close, dxfattribs={"layer": layer}
    )


def write_sheet(path: Path, layout: Layout, sheet: int) -> None:
    """One sheet as ``sheet_dxf`` draws it."""
    path.write_bytes(sheet_dxf(layout, sheet))


def sheet_dxf(layout: Layout, sheet: int) -> bytes:
    """One sheet in millimetres, its lower left corner at the origin; of each part marks and scores
    first, then bridges that are left, inner and outer outlines. Where these are the ways of a tool,
    the property TOOL_MM says how wide it is."""
    drawing, space = _drawing(InsertUnits.Millimeters, LAYERS)
    if layout.cutting.tool:
        drawing.header.custom_vars.append("TOOL_MM", f"{layout.cutting.tool:g}")
    w, h = layout.stock(sheet).width, layout.stock(sheet).height
    _add(space, np.array([[0, 0], [w, 0], [w, h], [0, h]]), "SHEET", True)
    for i in layout.in_order(sheet):
        outer, inner, tabs = layout.ways(i)
        for mark in layout.parts[i].marks:
            _add(space, placed(mark, layout.angle[i], layout.shift[i]), "MARK", False)
        for score in layout.parts[i].scores:
            _add(space, placed(score, layout.angle[i], layout.shift[i]), "SCORE", False)
        for layer, lines in (("TAB", tabs), ("CUT_INNER", inner), ("CUT_OUTER", outer)):
            for line in lines:
                _add(space, line, layer, layer != "TAB")
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def write_part(path: Path, part: Part) -> None:
    """One part by itself in millimetres, in its own frame."""
    drawing, space = _drawing(InsertUnits.Millimeters, LAYERS)
    for mark in part.marks:
        _add(space, mark, "MARK", False)
    for score in part.scores:
        _add(space, score, "SCORE", False)
    for inner in part.inner:
        _add(space, inner, "CUT_INNER", True)
    _add(space, part.outer, "CUT_OUTER", True)
    drawing.saveas(path)


def write_wireframe(path: Path, wires: Sequence[Lines]) -> None:
    """Lines in metres on layers: set-out lines of members, node to node, and edges of nets."""
    used = {layer for lines in wires for layer in lines.layers.tolist()}
    layers = {name: WIRE_COLOURS[name] for name in WIRE_COLOURS if name in used | ALWAYS_THERE}
    drawing, space = _drawing(InsertUnits.Meters, layers)
    for lines in wires:
        for (a, b), layer in zip(lines.ends.tolist(), lines.layers.tolist(), strict=True):
            space.add_line(a, b, dxfattribs={"layer": layer})
    drawing.saveas(path)


@dataclass(frozen=True)
class Outline:
    """A polyline as found: points (n, 2) in mm, whether it is closed, and whether a side is an
    arc."""

    points: Array
    closed: bool
    bulged: bool = False


@dataclass
class SheetDrawing:
    """What a machine finds on a sheet, by layer; ``strange`` are layers and kinds of entities it
    does not know, ``millimetres`` tells the unit in the header, and ``tool`` (mm) what its property
    says."""

    outer: list[Outline] = field(default_factory=list)
    inner: list[Outline] = field(default_factory=list)
    sheet: list[Outline] = field(default_factory=list)
    marks: list[Outline] = field(default_factory=list)
    tabs: list[Outline] = field(default_factory=list)
    scores: list[Outline] = field(default_factory=list)
    strange: list[str] = field(default_factory=list)
    millimetres: bool = True
    tool: float = 0.0


class UnreadableDrawing(ValueError):
    """A file that is no DXF, or a broken one."""


def _opened(path: Path) -> Drawing:
    try:
        return ezdxf.readfile(path)
    except (ezdxf.DXFError, OSError, StopIteration, ValueError, KeyError, IndexError) as error:
        raise UnreadableDrawing(f"{type(error).__name__} {error}".strip()) from None


def read_sheet(path: Path) -> SheetDrawing:
    """Polylines of a sheet or part file; raises ``UnreadableDrawing`` when it cannot be read."""
    drawing, out = _opened(path), SheetDrawing()
    into = {
        "CUT_OUTER": out.outer,
        "CUT_INNER": out.inner,
        "SHEET": out.sheet,
        "MARK": out.marks,
        "TAB": out.tabs,
        "SCORE": out.scores,
    }
    out.millimetres = drawing.units == InsertUnits.Millimeters
    try:
        out.tool = float(dict(drawing.header.custom_vars.properties).get("TOOL_MM", 0.0))
    except ValueError:
        out.strange.append("TOOL_MM")
    for entity in drawing.modelspace():
        layer = entity.dxf.layer
        if layer not in into or entity.dxftype() != "LWPOLYLINE":
            out.strange.append(f"{entity.dxftype()} on {layer}")
            continue
        rows = np.array([tuple(p) for p in entity.get_points("xyb")], float).reshape(-1, 3)
        bulged = bool(np.abs(rows[:, 2]).max(initial=0.0) > 1e-9)
        into[layer].append(Outline(rows[:, :2], bool(entity.closed), bulged))
    return out


def read_wireframe(path: Path) -> tuple[Array, NDArray[np.str_]]:
    """Lines (n, 2, 3) in metres of a wireframe and their layers (n,); raises
    ``UnreadableDrawing``."""
    drawing = _opened(path)
    if drawing.units != InsertUnits.Meters:
        raise UnreadableDrawing("it is not in metres")
    lines = [
        (tuple(e.dxf.start), tuple(e.dxf.end), e.dxf.layer)
        for e in drawing.modelspace().query("LINE")
    ]
    places = np.array([[a, b] for a, b, _ in lines], float).reshape(-1, 2, 3)
    return places, np.array([layer for _, _, layer in lines], dtype=str)
