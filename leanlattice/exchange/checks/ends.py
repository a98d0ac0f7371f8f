"""Nets, strands, curves and forces that a statement ends in."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import ezdxf
import numpy as np
import svgelements
from ezdxf import path as ezpath
from numpy.typing import NDArray

from ..balance import lengths_differ, reactions_of_free, unbalanced
from ..lines import layer_name
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in

__all__ = [
    "curves_as_drawn",
    "forces_balance",
    "lines_as_drawn",
    "nets_as_nodes",
    "reactions_held",
    "settled_lengths",
    "wireframe_as_nets",
]


Array = NDArray[np.float64]
T = TypeVar("T")
RESIDUAL_ROUGH, RESIDUAL_ROUNDED = 0.02, 0.002
"""Share and % by which a residual may differ from what forces in the tables add up to."""


def _nodes(pack: Pack) -> dict[tuple[str, str], Any]:
    return {
        (r["clause"], r["node"]): vector_in(r, "net_nodes", "{}_m") for r in pack.rows("net_nodes")
    }


def nets_as_nodes(pack: Pack) -> Found:
    """Lengths (mm), valences, areas (thousandths of m²), flatness and strands of nets from their
    nodes."""
    if "net_nodes" not in pack.tables:
        return
    places = _nodes(pack)
    yield beyond(len(places) != len(pack.rows("net_nodes"))), "a node stands twice in net_nodes.csv"
    for clause in {r["clause"] for r in pack.rows("net_cells")}:
        own = [r["cell"] for r in pack.rows("net_cells") if r["clause"] == clause]
        yield (
            beyond(own != [str(k + 1) for k in range(len(own))]),
            f"cells of “{clause}” in net_cells.csv",
        )
    valence: dict[tuple[str, str], int] = defaultdict(int)
    strands: dict[tuple[str, str], list[float]] = defaultdict(list)
    sides: dict[tuple[str, frozenset[str]], int] = defaultdict(int)
    for row in pack.rows("net_cells"):
        where = f"{row['clause']}, cell {row['cell']} in net_cells.csv"
        names = row["corners"].split()
        corners = (
            np.array([places.get((row["clause"], c), np.full(3, np.inf)) for c in names]) * 1000
        )
        if len(names) < 3 or not np.isfinite(corners).all():
            yield np.inf, f"{where}: corners"
            continue
        for a, b in zip(names, names[1:] + names[:1], strict=True):
            sides[row["clause"], frozenset((a, b))] += 1
        d = corners - corners[0]
        area = float(np.linalg.norm(np.cross(d, np.roll(d, -1, axis=0)).sum(axis=0)) / 2) / 1e6
        yield (
            max(abs(area - number_in(row, "area_m2", "net_cells")) - 1e-5, 0.0) * 1000,
            f"{where}: area",
        )
        centred = corners - corners.mean(axis=0)
        flat = (
            0.0 if len(names) == 3 else float(np.abs(centred @ np.linalg.svd(centred)[2][2]).max())
        )
        yield (
            max(abs(flat - number_in(row, "flatness_mm", "net_cells")) - 0.005, 0.0),
            f"{where}: flatness",
        )
    for row in pack.rows("net_edges"):
        ends = [(row["clause"], row[e]) for e in ("start", "end")]
        where = f"{row['clause']}, edge {row['start']} to {row['end']} in net_edges.csv"
        if any(e not in places for e in ends):
            yield np.inf, f"{where}: no such node"
            continue
        length = float(np.linalg.norm(places[ends[1]] - places[ends[0]])) * 1000
        yield max(abs(length - number_in(row, "length_mm", "net_edges")) - 0.003, 0.0), where
        cells = sides[row["clause"], frozenset((row["start"], row["end"]))]
        border = cells < 2
        yield beyond(row["border"] != str(int(border))), f"{where}: border"
        yield beyond(row["mark"] not in ("unmarked", "main", "second", "third")), f"{where}: mark"
        for e in ends:
            valence[e] += 1
        if row["strand"]:
            strands[row["clause"], row["strand"]].append(number_in(row, "length_mm", "net_edges"))
    for row in pack.rows("net_nodes"):
        off = number_in(row, "valence", "net_nodes") - valence[row["clause"], row["node"]]
        yield abs(off), f"{row['clause']}, node {row['node']} in net_nodes.csv: valence"
    if pack.rows("net_edges"):
        yield from _strands(pack, strands)


def _strands(pack: Pack, found: dict[tuple[str, str], list[float]]) -> Found:
    rows = {(r["clause"], r["strand"]): r for r in pack.rows("strands")}
    yield beyond(len(rows) != len(pack.rows("strands"))), "a strand stands twice in strands.csv"
    for key in sorted(set(rows) ^ set(found)):
        yield (
            np.inf,
            f"{key[0]}, strand {key[1]} stands in one of strands.csv and net_edges.csv only",
        )
    sizes: dict[str, set[tuple[str, str]]] = defaultdict(set)
    for key, row in rows.items():
        where, lengths = f"{key[0]}, strand {key[1]} in strands.csv", found.get(key, [])
        slack = 0.001 * (len(lengths) + 1)
        yield max(abs(sum(lengths) - number_in(row, "length_mm", "strands")) - slack, 0.0), where
        yield abs(number_in(row, "pieces", "strands") - len(lengths)), f"{where}: pieces"
        sizes[key[0]].add((row["width_mm"], row["thickness_mm"]))
    for clause, different in sizes.items():
        yield beyond(len(different) > 1), f"laths of “{clause}” in strands.csv are of several sizes"


def wireframe_as_nets(pack: Pack) -> Found:
    """Lines of edges in wireframe.dxf (mm)."""
    if not pack.has("wireframe.dxf") or "net_edges" not in pack.tables:
        return
    lines, _ = pack.wireframe("NET")
    places = _nodes(pack)
    rows = pack.rows("net_edges")
    if len(lines) != len(rows):
        yield np.inf, f"{len(lines)} lines in wireframe.dxf for {len(rows)} edges of nets"
        return
    for line, row in zip(lines, rows, strict=True):
        ends = np.stack([places[row["clause"], row[e]] for e in ("start", "end")])
        yield (
            float(np.abs(line - ends).max()) * 1000,
            f"edge {row['start']} to {row['end']} in wireframe.dxf",
        )


def curves_as_drawn(pack: Pack) -> Found:
    """Lengths and areas (thousandths) of curves.csv against the DXF and SVG of each clause."""
    by_clause: dict[str, list[Row]] = defaultdict(list)
    for row in pack.rows("curves"):
        by_clause[row["clause"]].append(row)
    drawn = {p.stem.removeprefix("curves-") for p in pack.folder.glob("curves-*.*")}
    for clause in sorted(drawn | set(by_clause)):
        rows = by_clause.get(clause, [])
        yield beyond(not rows), f"“{clause}” is not in curves.csv"
        numbers = [int(number_in(r, "curve", "curves")) for r in rows]
        yield beyond(numbers != list(range(1, len(rows) + 1))), f"“{clause}” in curves.csv: numbers"
        total = sum(number_in(r, "length_m", "curves") for r in rows)
        dxf, svg = (pack.folder / f"curves-{clause}.{ending}" for ending in ("dxf", "svg"))
        length, found = _measured(dxf, _in_dxf), _measured(svg, _in_svg)
        yield abs(length / max(total, 1e-9) - 1) * 1000, f"{dxf.name} or curves.csv"
        yield beyond(len(found) != len(rows)), f"{svg.name}: {len(found)} curves for {len(rows)}"
        for row, own in zip(rows, found, strict=False):
            yield from _curve_as_drawn(row, own)


def _measured(path: Path, measure: Callable[[Path], T]) -> T:
    """What is measured in a drawing; raises ``PackError`` where it is missing or damaged."""
    if not path.is_file():
        raise PackError(f"{path.name} is missing")
    try:
        return measure(path)
    except (OSError, ValueError, KeyError, IndexError, AttributeError, ezdxf.DXFError) as error:
        raise PackError(f"{path.name} cannot be read: {type(error).__name__} {error}") from None


def _curve_as_drawn(row: Row, drawn: tuple[float, float]) -> Found:
    """One curve against its length and area in the drawing, 0 where it is open."""
    where = f"“{row['clause']}”, curve {row['curve']} in curves.csv"
    length, area = drawn
    yield abs(number_in(row, "length_m", "curves") / max(length, 1e-9) - 1) * 1000, where
    closed = row["closed"] == "1"
    yield beyond(closed != bool(row["area_m2"])), where
    if closed:
        off = number_in(row, "area_m2", "curves") - area
        # A figure of eight has next to none.
        yield abs(off) / max(area, length**2 * 1e-3) * 1000, f"{where}: area"


def _in_dxf(path: Path) -> float:
    """The length (m) of all curves."""
    drawing = ezdxf.readfile(path)
    if drawing.units != 4:
        raise ValueError("it is not in millimetres")
    lines = [ezpath.make_path(entity).flattening(0.01) for entity in drawing.modelspace()]
    return sum(_run(np.array([tuple(v) for v in line])) for line in lines) / 1e3


def _in_svg(path: Path) -> list[tuple[float, float]]:
    """The length (m) of each curve and the area (m²) within, 0 of those that are open."""
    text = path.read_text(encoding="utf-8")
    width = re.search(r'width="([\d.e+-]+)mm"', text)
    box = re.search(r'viewBox="[\d.e+-]+ [\d.e+-]+ ([\d.e+-]+)', text)
    if width is None or box is None or abs(float(width.group(1)) / float(box.group(1)) - 1) > 1e-4:
        raise ValueError("its units are not millimetres")
    out = []
    for data in re.findall(r'<path d="([^"]*)"', text):
        line = np.vstack([_flattened(piece) for piece in svgelements.Path(data)])
        x, y = (line - line[0]).T
        area = abs(float(x[:-1] @ y[1:] - x[1:] @ y[:-1])) / 2 if data.endswith("Z") else 0.0
        out.append((_run(line) / 1e3, area / 1e6))
    return out


def _run(places: Array) -> float:
    """The way from place to place."""
    return float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())


def _flattened(piece: Any) -> Array:
    """Places (n, 2) along a piece of a path, from its start to its end."""
    if isinstance(piece, svgelements.Move):
        return np.zeros((0, 2))
    steps = 2 if isinstance(piece, svgelements.Line | svgelements.Close) else 1025
    return np.asarray(piece.npoint(np.linspace(0.0, 1.0, steps)), float)


def forces_balance(pack: Pack) -> Found:
    """What forces at nodes add up to (%), and the residuals that clauses tell against the largest
    of it."""
    told = {c["id"]: c["figures"] for c in pack.report["clauses"] if "residual_of" in c["figures"]}
    pulls = {name: float(figures["residual_of"]["value"]) for name, figures in told.items()}
    worst: dict[str, float] = defaultdict(float)
    nodes, edges = pack.rows("settled_nodes"), pack.rows("settled_edges")
    for off, clause, where in unbalanced(nodes, edges, pulls):
        worst[clause] = max(worst[clause], off)
        yield off, where
    for clause, found in worst.items():
        residual = float(told[clause]["residual"]["value"]) if clause in told else np.inf
        off = abs(found - residual) > RESIDUAL_ROUGH * residual + RESIDUAL_ROUNDED
        yield beyond(off), f"{clause} in report.json: residual"


def settled_lengths(pack: Pack) -> Found:
    yield from lengths_differ(pack.rows("settled_nodes"), pack.rows("settled_edges"))


def reactions_held(pack: Pack) -> Found:
    """Reactions where nothing holds, in % of the mean load, and the sense of loads and forces the
    clause tells of."""
    yield from reactions_of_free(pack.rows("settled_nodes"))
    for clause in pack.report["clauses"]:
        figures = clause["figures"]
        own = [r for r in pack.rows("settled_nodes") if r["clause"] == clause["id"]]
        edges = [r for r in pack.rows("settled_edges") if r["clause"] == clause["id"]]
        if not own:
            continue
        for name, rows in (("vertices", own), ("edges", edges)):
            count = int(figures[name]["value"]) if name in figures else len(rows)
            yield (
                beyond(count != len(rows)),
                f"{len(rows)} {name} of “{clause['id']}” in its tables, not {count}",
            )
        load = np.sum([vector_in(r, "settled_nodes", "load_{}_kN") for r in own], axis=0)
        up = sum(number_in(r, "reaction_z_kN", "settled_nodes") for r in own)
        scale = max(float(np.linalg.norm(load)), abs(up), 1e-3)
        for name, value in (("load", float(np.linalg.norm(load))), ("reaction", up)):
            if name in figures:
                off = abs(value - float(figures[name]["value"])) / scale * 100
                yield off, f"{name} of “{clause['id']}” in settled_nodes.csv"
        forces = [number_in(r, "force_kN", "settled_edges") for r in edges]
        for name, value in (
            ("largest_tension", max(forces)),
            ("largest_compression", -min(forces)),
        ):
            if name in figures and isinstance(figures[name]["value"], int | float):
                said = float(figures[name]["value"])
                yield (
                    abs(max(value, 0.0) - said) / max(said, 1e-3) * 100,
                    (f"{name.replace('_', ' ')} of “{clause['id']}” in settled_edges.csv"),
                )


def lines_as_drawn(pack: Pack) -> Found:
    """Lengths (mm) of lines.csv against the DXF of each clause, layer by layer, and how many pieces
    and arcs these have."""
    by_clause: dict[str, list[Row]] = defaultdict(list)
    for row in pack.rows("lines"):
        by_clause[row["clause"]].append(row)
    drawn = {p.stem.removeprefix("lines-") for p in pack.folder.glob("lines-*.dxf")}
    for clause in sorted(drawn | set(by_clause)):
        rows, name = by_clause.get(clause, []), f"lines-{clause}.dxf"
        if not rows or clause not in drawn:
            yield np.inf, f"“{clause}” is in one of lines.csv and {name} only"
            continue
        try:
            pieces = _pieces_drawn(pack.folder / name)
        except (OSError, ValueError, ezdxf.DXFError) as error:
            raise PackError(f"{name} cannot be read: {type(error).__name__} {error}") from None
        yield from _lines_of_clause(rows, pieces, name)


Piece = tuple[np.ndarray, np.ndarray, float, bool, str]
"""Ends (3,) of a piece that was drawn, its length, whether it is an arc, and its layer."""


def _pieces_drawn(path: Path) -> list[Piece]:
    out: list[Piece] = []
    for entity in ezdxf.readfile(path).modelspace():
        is_arc = entity.dxftype() == "ARC"
        first, last = (
            (entity.start_point, entity.end_point) if is_arc else (entity.dxf.start, entity.dxf.end)
        )
        a, b = np.array(tuple(first)), np.array(tuple(last))
        turn = np.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360) if is_arc else 0.0
        length = entity.dxf.radius * turn if is_arc else float(np.linalg.norm(b - a))
        out.append((a, b, length, is_arc, entity.dxf.layer))
    return out


def _lines_of_clause(rows: list[Row], pieces: list[Piece], name: str) -> Found:
    """Each row of lines.csv against the pieces of it that were drawn, in their order."""
    counts = [int(number_in(row, "pieces", "lines")) for row in rows]
    if sum(counts) != len(pieces):
        yield np.inf, f"{len(pieces)} pieces in {name} for {sum(counts)} in lines.csv"
        return
    at = 0
    for number, (row, count) in enumerate(zip(rows, counts, strict=True), 1):
        own, where = pieces[at : at + count], f"line {row['line']} in lines.csv and {name}"
        at += count
        yield beyond(int(number_in(row, "line", "lines")) != number), where
        wanted = np.array([[number_in(row, f"{x}{e}_m", "lines") for x in "xyz"] for e in (1, 2)])
        ends = np.stack([own[0][0], own[-1][1]])
        yield float(np.abs(ends - wanted).max()) * 1000, f"{where}: ends"
        length = sum(piece[2] for piece in own)
        yield abs(length - number_in(row, "length_m", "lines")) * 1000, f"{where}: length"
        arcs = sum(piece[3] for piece in own)
        yield beyond(arcs != int(number_in(row, "arcs", "lines"))), f"{where}: arcs"
        yield beyond(any(piece[4] != layer_name(row["layer"]) for piece in own)), f"{where}: layer"
