"""Wireframes from DXF, OBJ and CSV."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import numpy as np

from ...core.shaping.brought import ReadProblem, Wires
from .meshes import DXF_UNITS, open_dxf

__all__ = ["read_csv_wires", "read_dxf_wires", "read_obj_wires"]

MOST_LINES = 200_000
Point = tuple[float, float, float]
SAME_WORDS = {
    **dict.fromkeys(("name", "id", "node"), "label"),
    **dict.fromkeys(("section", "role", "profile"), "layer"),
}
"""Other words for columns."""
UNIT_ENDINGS = {"": 0.0, "m": 1.0, "cm": 1e-2, "mm": 1e-3}


def _checked(wires: Wires) -> Wires:
    if len(wires.lines) + len(wires.named_lines) > MOST_LINES:
        raise ReadProblem(f"it holds more than {MOST_LINES:,} lines.")
    if len(wires.points) and not np.isfinite(wires.points).all():
        row = int(np.flatnonzero(~np.isfinite(wires.points).all(axis=1))[0])
        raise ReadProblem(f"point {row + 1:,} has a coordinate that is not a number.")
    if len(wires.points) and np.abs(wires.points).max() > 1e9:
        raise ReadProblem(
            "it holds coordinates beyond 1,000,000,000; in whatever unit, that is no building."
        )
    return wires


def _of_runs(runs: list[list[Point]], unit: float) -> Wires:
    points = [p for run in runs for p in run]
    lines, start = [], 0
    for run in runs:
        lines += list(pairwise(range(start, start + len(run))))
        start += len(run)
    return _checked(
        Wires(
            np.array(points, float).reshape(-1, 3), np.array(lines, np.int64).reshape(-1, 2), unit
        )
    )


def read_dxf_wires(content: bytes, ending: str) -> Wires:
    """Lines and polylines of a drawing's model space, curves of polylines by their ends."""
    document = open_dxf(content)
    runs: list[list[Point]] = []
    for entity in document.modelspace():
        kind = entity.dxftype()
        found: list[Any] = []
        closed = False
        if kind == "LINE":
            found = [entity.dxf.start, entity.dxf.end]
        elif kind == "LWPOLYLINE":
            found, closed = list(entity.vertices_in_wcs()), bool(entity.closed)
        elif kind == "POLYLINE" and (entity.is_2d_polyline or entity.is_3d_polyline):
            found, closed = list(entity.points_in_wcs()), bool(entity.is_closed)
        run = [(float(p[0]), float(p[1]), float(p[2])) for p in found]
        runs.append([*run, run[0]] if closed and run else run)
    runs = [r for r in runs if len(r) > 1]
    if not runs:
        raise ReadProblem("it holds no lines or polylines.")
    return _of_runs(runs, DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), 0.0))


def read_obj_wires(content: bytes, ending: str) -> Wires:
    """The line elements (``l``) of an OBJ file, or where it has none the outlines of its faces."""
    points: list[Point] = []
    lines: list[list[int]] = []
    faces: list[list[int]] = []
    for number, line in enumerate(content.decode("latin-1").splitlines(), 1):
        words = line.split()
        if not words or words[0] not in ("v", "l", "f"):
            continue
        try:
            if words[0] == "v":
                points.append((float(words[1]), float(words[2]), float(words[3])))
                continue
            run = [int(w.partition("/")[0]) for w in words[1:]]
        except (ValueError, IndexError):
            raise ReadProblem(
                f"line {number:,} is “{line.strip()[:40]}”, which is no {words[0]} of an OBJ file."
            ) from None
        run = [len(points) + k if k < 0 else k - 1 for k in run]
        wrong = [k for k in run if not 0 <= k < len(points)]
        if wrong:
            raise ReadProblem(
                f"line {number:,} speaks of point {wrong[0] + 1:,}, but {len(points):,} stand before it."
            )
        (lines if words[0] == "l" else faces).append(run)
    pairs = [p for run in lines for p in pairwise(run)] or [
        p for f in faces for p in pairwise([*f, f[0]])
    ]
    if not pairs:
        raise ReadProblem("it holds no lines.")
    return _checked(Wires(np.array(points), np.array(pairs, np.int64), 0.0))


def read_csv_wires(content: bytes, ending: str) -> Wires:
    """Nodes and members from a table with a header.

    Nodes have ``x``, ``y``, ``z`` (or ``x_m``, ``x_mm`` …) and a ``label``; members ``start`` and
    ``end`` that name nodes, or all six coordinates ``x1`` … ``z2``. One file may hold either, or
    both one after the other, each with its header. Members may have a ``layer``, ``section`` or
    ``role``, which is the layer they are on.
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise ReadProblem("it is not text; a table of nodes or members is wanted.") from None
    rows = [
        (n, [w.strip() for w in row])
        for n, row in enumerate(
            csv.reader(io.StringIO(text), delimiter=";" if ";" in text[:2000] else ","), 1
        )
        if any(w.strip() for w in row) and not row[0].lstrip().startswith("#")
    ]
    nodes: dict[str, Point] = {}
    members: list[tuple[str, str]] = []
    runs: list[list[Point]] = []
    layers: tuple[list[str], list[str]] = ([], [])
    unit = 0.0
    columns: dict[str, int] = {}
    for number, row in rows:
        if _is_header(row):
            columns, found = _columns(row)
            unit = found or unit
            continue
        if not columns:
            raise ReadProblem(
                f"line {number:,} is “{','.join(row)[:40]}” and no header stands before it; nodes need label, x, y, z and "
                "members start, end, or x1 to z2."
            )
        cells = dict(_cells(row, columns))
        if "start" in cells and "end" in cells:
            members.append((cells["start"], cells["end"]))
            layers[1].append(cells.get("layer", ""))
        elif "x" in cells:
            nodes[cells.get("label", str(len(nodes) + 1))] = _place(cells, "", number)
        elif "x1" in cells:
            runs.append([_place(cells, "1", number), _place(cells, "2", number)])
            layers[0].append(cells.get("layer", ""))
    if not nodes and not members and not runs:
        raise ReadProblem(
            "it holds neither nodes (label, x, y, z) nor members (start, end, or x1 to z2)."
        )
    made = _of_runs(runs, unit)
    points = np.vstack([made.points, np.array(list(nodes.values()), float).reshape(-1, 3)])
    names = {name: len(made.points) + k for k, name in enumerate(nodes)}
    return _checked(
        Wires(
            points,
            made.lines,
            unit,
            names=names,
            layers=tuple(layers[0]),
            named_lines=tuple(members),
            named_layers=tuple(layers[1]),
        )
    )


def _is_header(row: list[str]) -> bool:
    known = {w.lower() for w in row}
    return bool(
        {"start", "end"} <= known or known & {"x", "x_m", "x_mm", "x_cm", "x1", "x1_m", "x1_mm"}
    )


def _columns(row: list[str]) -> tuple[dict[str, int], float]:
    """Column numbers by name without their unit, and that unit in metres where it is given."""
    out: dict[str, int] = {}
    unit = 0.0
    for k, word in enumerate(row):
        match = re.fullmatch(r"([xyz][12]?)(?:_(m|cm|mm))?", word.lower())
        name = match[1] if match else SAME_WORDS.get(word.lower(), word.lower())
        out.setdefault(name, k)
        if match and match[2]:
            unit = UNIT_ENDINGS[match[2]]
    return out, unit


def _cells(row: list[str], columns: dict[str, int]) -> Iterator[tuple[str, str]]:
    for name, k in columns.items():
        if k < len(row):
            yield name, row[k]


def _place(cells: dict[str, str], ending: str, number: int) -> Point:
    try:
        x, y, z = (float(cells[axis + ending]) for axis in "xyz")
    except (KeyError, ValueError):
        shown = ", ".join(cells.get(axis + ending, "nothing") or "nothing" for axis in "xyz")
        raise ReadProblem(
            f"line {number:,} has the coordinates {shown}; three numbers are wanted."
        ) from None
    return x, y, z
