"""Lines and arcs in space, with their layers, from DXF, OBJ and CSV."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from ezdxf.math import Vec3
from numpy.typing import NDArray

from ...core.shaping.brought import DrawnLines, ReadProblem, Wires
from .meshes import DXF_UNITS, open_dxf
from .wires import MOST_LINES, read_csv_wires, read_obj_wires

__all__ = ["read_csv_lines", "read_dxf_lines", "read_obj_lines"]

Array = NDArray[np.float64]
Run = tuple[Array, Array]
PARTS = 3
"""Arcs that a circle is parted into."""
FLAT = 1e-4
"""Share of a smooth curve's size that places along it are off it by."""
SAME = 1e-9
"""Share of the size of coordinates within which two ends are one place."""


def _line(entity: Any) -> list[Run]:
    return [_straight([entity.dxf.start, entity.dxf.end])]


def _straight(found: list[Any]) -> Run:
    places = np.array([tuple(Vec3(p)) for p in found], float)
    return places, np.zeros((max(len(places) - 1, 0), 3))


def _arc(entity: Any) -> list[Run]:
    """An arc, or a circle in several, in its own plane of the drawing."""
    first, last = 0.0, 360.0
    if entity.dxftype() == "ARC":
        first, last = float(entity.dxf.start_angle), float(entity.dxf.end_angle)
        last += 360.0 if last <= first else 0.0
    count = max(1, int(np.ceil((last - first) / (360.0 / PARTS) - 1e-9)))
    angles = np.radians(np.linspace(first, last, 2 * count + 1))
    centre, radius = Vec3(entity.dxf.center), float(entity.dxf.radius)
    around = [centre + Vec3(radius * np.cos(a), radius * np.sin(a), 0.0) for a in angles]
    at = np.array([tuple(p) for p in entity.ocs().points_to_wcs(around)], float)
    if last - first == 360.0:
        at[-1] = at[0]
    places = at[::2]
    return [(places, at[1::2] - (places[:-1] + places[1:]) / 2)]


def _polyline(entity: Any) -> list[Run]:
    """Pieces that follow each other as one line, with their arcs."""
    if entity.dxftype() == "POLYLINE" and not (entity.is_2d_polyline or entity.is_3d_polyline):
        return []
    parts = [
        run
        for piece in entity.virtual_entities()
        for run in (_arc if piece.dxftype() == "ARC" else _line)(piece)
    ]
    places: list[Array] = []
    bulges: list[Array] = []
    for own, bent in parts:
        onward = _onward(places[-1][-1], own, bent) if places else _begun(own, bent, parts)
        places.append(onward[0] if not places else onward[0][1:])
        bulges.append(onward[1])
    return [(np.vstack(places), np.vstack(bulges))] if places else []


def _begun(own: Array, bent: Array, parts: list[Run]) -> Run:
    """The first piece, turned so that it leads to the second."""
    if len(parts) < 2:
        return own, bent
    ends = parts[1][0][[0, -1]]
    away = np.linalg.norm(ends[:, None] - own[[0, -1]], axis=2).min(axis=0)
    return (own, bent) if away[1] <= away[0] else (own[::-1], bent[::-1])


def _onward(end: Array, own: Array, bent: Array) -> Run:
    """A piece turned so that it begins where the one before ends."""
    away = np.linalg.norm(own[[0, -1]] - end, axis=1)
    return (own, bent) if away[0] <= away[1] else (own[::-1], bent[::-1])


def _smooth(entity: Any) -> list[Run]:
    points = [Vec3(p) for p in entity.flattening(_size(entity) * FLAT)]
    return [_straight(points)]


def _size(entity: Any) -> float:
    if entity.dxftype() == "ELLIPSE":
        return float(Vec3(entity.dxf.major_axis).magnitude)
    points = np.array([tuple(Vec3(p)) for p in entity.control_points], float)
    return float(np.ptp(points, axis=0).max()) if len(points) else 1.0


READ: dict[str, Callable[[Any], list[Run]]] = {
    "LINE": _line,
    "ARC": _arc,
    "CIRCLE": _arc,
    "LWPOLYLINE": _polyline,
    "POLYLINE": _polyline,
    "SPLINE": _smooth,
    "ELLIPSE": _smooth,
}
"""How what is in a drawing is read, by its type."""


def _checked(found: list[tuple[Array, Array, str]], unit: float) -> DrawnLines:
    """What was found; raises ``ReadProblem`` where it cannot be used."""
    found = [row for row in found if len(row[0]) > 1]
    if not found:
        raise ReadProblem("it holds no lines, arcs, polylines or smooth curves.")
    if len(found) > MOST_LINES:
        raise ReadProblem(f"it holds more than {MOST_LINES:,} lines.")
    for k, (places, bulges, _) in enumerate(found, 1):
        if not (np.isfinite(places).all() and np.isfinite(bulges).all()):
            raise ReadProblem(f"line {k:,} has a coordinate that is not a number.")
        if np.abs(places).max() > 1e9:
            raise ReadProblem(
                "it holds coordinates beyond 1,000,000,000; in whatever unit, that is no building."
            )
    return DrawnLines(
        places=tuple(row[0] for row in found),
        bulges=tuple(row[1] for row in found),
        layers=tuple(row[2] for row in found),
        unit=unit,
    )


def read_dxf_lines(content: bytes, ending: str) -> DrawnLines:
    """Lines, arcs, polylines and smooth curves of a drawing's model space, with their layers."""
    document = open_dxf(content)
    unit = DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), 0.0)
    return _checked(list(_drawn(document)), unit)


def _drawn(document: Any) -> Iterator[tuple[Array, Array, str]]:
    for entity in document.modelspace():
        read = READ.get(entity.dxftype())
        for places, bulges in read(entity) if read else ():
            yield places, bulges, str(entity.dxf.layer)


def _of_wires(wires: Wires) -> DrawnLines:
    every = wires.joined()
    layers = every.layers or ("",) * len(every.lines)
    rows = zip(every.points[every.lines], layers, strict=True)
    return _checked([(ends, np.zeros((1, 3)), layer) for ends, layer in rows], every.unit)


def read_csv_lines(content: bytes, ending: str) -> DrawnLines:
    """Members of a table, as ``read_csv_wires`` describes it."""
    return _of_wires(read_csv_wires(content, ending))


def read_obj_lines(content: bytes, ending: str) -> DrawnLines:
    """The line elements of an OBJ file, or where it has none the outlines of its faces."""
    return _of_wires(read_obj_wires(content, ending))
