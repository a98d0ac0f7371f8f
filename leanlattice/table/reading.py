"""What a table finds on a sheet's drawing, and what of it it cannot cut."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import Any

import ezdxf
import numpy as np
import shapely
from numpy.typing import NDArray

__all__ = ["Fault", "SheetFile", "faults_of", "read_sheet_file"]

Array = NDArray[np.float64]
CUTS = ("CUT_INNER", "CUT_OUTER")
LINES = (*CUTS, "MARK", "SCORE", "TAB")
TOUCH = 0.02
"""Lines nearer than this (mm) touch."""
CORNER = 0.25
"""Share of the square of the tool's radius a round tool leaves in a square corner, and a little."""


@dataclass(frozen=True)
class Fault:
    """Something that cannot be cut, in a sentence, and where (mm)."""

    text: str
    x: float
    y: float


@dataclass
class SheetFile:
    """Lines (n, 2) in mm by layer, cuts with whether they are closed; the sheet's corners; and the
    width of the tool whose middle the lines are, 0 for outlines of parts."""

    cuts: dict[str, list[tuple[Array, bool]]] = field(default_factory=lambda: {k: [] for k in CUTS})
    marks: list[Array] = field(default_factory=list)
    tabs: list[Array] = field(default_factory=list)
    sheet: Array | None = None
    tool: float = 0.0


class Unreadable(ValueError):
    """A file a table can make nothing of, in a sentence."""


def read_sheet_file(content: bytes) -> SheetFile:
    """Polylines of a DXF in millimetres; raises ``Unreadable``."""
    try:
        drawing = ezdxf.read(io.StringIO(content.decode("utf-8", "replace")))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, IndexError, StopIteration) as error:
        raise Unreadable(f"This is no DXF that can be read ({type(error).__name__}).") from None
    if drawing.units not in (0, 4):
        raise Unreadable("The drawing is not in millimetres; the table cuts in millimetres.")
    out = SheetFile()
    given = dict(drawing.header.custom_vars.properties)
    try:
        out.tool = float(given.get("TOOL_MM", 0.0))
    except ValueError:
        raise Unreadable(
            f"TOOL_MM is “{given['TOOL_MM']}”; it must be a number of millimetres."
        ) from None
    for entity in drawing.modelspace():
        layer = entity.dxf.layer
        if layer not in (*LINES, "SHEET"):
            continue
        if entity.dxftype() != "LWPOLYLINE":
            raise Unreadable(
                f"There is a {entity.dxftype()} on {layer}; the table follows polylines only."
            )
        polyline: Any = entity
        points = np.array([p[:2] for p in polyline.get_points("xy")], float).reshape(-1, 2)
        if layer == "SHEET":
            out.sheet = points
        elif layer in CUTS:
            out.cuts[layer].append((points, bool(polyline.closed)))
        else:
            (out.tabs if layer == "TAB" else out.marks).append(points)
    if out.sheet is None:
        raise Unreadable(
            "The drawing has no outline on layer SHEET, so that the table cannot know its sheet."
        )
    if not any(out.cuts.values()):
        raise Unreadable("There is nothing to cut on CUT_OUTER or CUT_INNER.")
    return out


def faults_of(file: SheetFile, tool: float) -> list[Fault]:
    """Everything on a sheet that a table with a ``tool`` (mm) does not cut."""
    out: list[Fault] = []
    if file.tool and abs(file.tool - tool) > 1e-6:
        out.append(
            Fault(
                f"The sheet is drawn for a tool {file.tool:g} mm wide; the table has one of {tool:g} mm.",
                0.0,
                0.0,
            )
        )
    rings: list[tuple[str, Any]] = []
    for layer in CUTS:
        for points, closed in file.cuts[layer]:
            at = points[0] if len(points) else np.zeros(2)
            if not closed or len(points) < 3:
                out.append(_fault(f"An outline on {layer} is open", at))
                continue
            ring: Any = shapely.Polygon(points)
            if not ring.is_valid:
                crossing = _crossing_of(ring, at)
                out.append(_fault(f"An outline on {layer} crosses itself", crossing))
                continue
            rings.append((layer, ring))
    if out:
        return out
    out += _off_sheet(file, rings) + _crossings(rings) + _strays(rings)
    return out or _too_small(file, rings, tool)


def _fault(text: str, at: Array) -> Fault:
    return Fault(f"{text} at ({at[0]:.1f}, {at[1]:.1f}) mm.", float(at[0]), float(at[1]))


def _crossing_of(ring: Any, at: Array) -> Array:
    words = shapely.is_valid_reason(ring)
    inside = words.partition("[")[2].rstrip("]").split()
    return np.array([float(v) for v in inside[:2]]) if len(inside) >= 2 else at


def _off_sheet(file: SheetFile, rings: list[tuple[str, Any]]) -> list[Fault]:
    room = shapely.Polygon(file.sheet).buffer(TOUCH)
    shapely.prepare(room)
    shapes: Any = np.array([ring for _, ring in rings], object)
    out = []
    for ring in shapes[~shapely.covers(room, shapes)]:
        beyond = shapely.get_coordinates(ring)
        place = beyond[~shapely.contains_xy(room, beyond)]
        out.append(_fault("A part lies off the sheet", place[0] if len(place) else beyond[0]))
    return out


def _crossings(rings: list[tuple[str, Any]]) -> list[Fault]:
    lines: Any = np.array([r.exterior for _, r in rings], object)
    out = []
    for a, b in shapely.STRtree(lines).query(lines, predicate="intersects").T.tolist():
        if a < b:
            at = shapely.get_coordinates(lines[a].intersection(lines[b]))[0]
            out.append(_fault("Two cuts cross or touch", at))
    return out


def _strays(rings: list[tuple[str, Any]]) -> list[Fault]:
    outer: Any = np.array([r for layer, r in rings if layer == "CUT_OUTER"], object)
    inner: Any = np.array([r for layer, r in rings if layer == "CUT_INNER"], object)
    held = np.zeros(len(inner), bool)
    held[shapely.STRtree(outer).query(inner, predicate="within")[0]] = True
    return [
        _fault("An inner outline lies in no part", shapely.get_coordinates(ring)[0])
        for ring in inner[~held]
    ]


def _too_small(file: SheetFile, rings: list[tuple[str, Any]], tool: float) -> list[Fault]:
    """Slots and openings the tool does not get into, and gaps between parts it does not pass."""
    if file.tool:
        return []
    radius, out = tool / 2, []
    shapes: Any = np.array([ring for _, ring in rings], object)
    is_outer = np.array([layer == "CUT_OUTER" for layer, _ in rings])
    outer, inner = shapes[is_outer], shapes[~is_outer]
    # What a disc of the tool does not reach from the waste side: outside of parts, in openings.
    closed = shapely.buffer(shapely.buffer(outer, radius), -radius)
    opened = shapely.buffer(shapely.buffer(inner, -radius), radius)
    missed = [shapely.difference(closed, outer), shapely.difference(inner, opened)]
    parts, of = shapely.get_parts(np.concatenate(missed), return_index=True)
    area = shapely.area(parts)
    last = -1
    large = np.flatnonzero(area > CORNER * radius * radius)
    for k in large[np.lexsort((-area[large], of[large]))].tolist():
        if of[k] != last:
            at = np.array(parts[k].representative_point().coords[0])
            out.append(_fault(f"A detail is smaller than the tool of {tool:g} mm", at))
        last = of[k]
    rims = shapely.boundary(outer)
    a, b = shapely.STRtree(rims).query(rims, predicate="dwithin", distance=tool - TOUCH)
    for i, j in zip(a[a < b].tolist(), b[a < b].tolist(), strict=True):
        at = shapely.get_coordinates(shapely.shortest_line(rims[i], rims[j])).mean(axis=0)
        text = f"Two parts are nearer to each other than the tool of {tool:g} mm is wide"
        out.append(_fault(text, at))
    return out
