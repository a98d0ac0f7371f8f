"""What of a pack of the pyramid is not as worked out by hand, file by file."""

from __future__ import annotations

import csv
import json
import math

import ezdxf
import ifcopenshell
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import numpy as np
import trimesh
from pypdf import PdfReader

from . import by_hand
from .by_hand import CORNERS, LIES, MEMBERS, PANELS

NEAR = 1e-4
"""Metres, within which a place is the same."""
POINTS = 72 / 25.4
"""A millimetre on paper."""
VIEWS = {"plan": (0, 1), "elevation along y": (0, 2), "elevation along x": (1, 2)}


def differences(pack):
    """Sentences that begin with the name of a file, of the files that are there."""
    found = [*_figures(pack)]
    for name in filter(lambda name: (pack / name).is_file(), by_hand.COLUMNS):
        found += (f"{name}: {told}" for told in _table(pack, name))
    for name in filter(lambda name: (pack / name).is_file(), FILES):
        found += (f"{name}: {told}" for told in FILES[name](pack / name))
    return found


def _figures(pack):
    clauses = json.loads((pack / "report.json").read_text())["clauses"]
    figures = {c["id"]: c["figures"] for c in clauses}
    for (clause, name), wanted in by_hand.FIGURES.items():
        value = figures[clause][name]["value"]
        if not math.isclose(value, wanted(), rel_tol=1e-6):
            yield f"report.json: {name} of {clause} is {value}, by hand {wanted()}"


def _table(pack, name):
    header, rows = by_hand.table(name)
    with (pack / name).open(encoding="utf-8", newline="") as file:
        there = list(csv.reader(file))
    if there[0] != header:
        yield f"columns {there[0]}"
        return
    if len(there) != len(rows) + 1:
        yield f"{len(there) - 1} rows, by hand {len(rows)}"
    for wanted, row in zip(rows, there[1:], strict=False):
        for column, value, text in zip(header, wanted, row, strict=True):
            if not _same(value, text):
                yield f"{column} of {row[0]} is {text}, by hand {value}"


def _same(value, text):
    """Whether a text is what is worked out, to its last digit."""
    if isinstance(value, str):
        return text == value
    digits = len(text.partition(".")[2])
    return text != "" and abs(float(text) - value) <= 0.51 * 10**-digits


def _apart(one, two):
    return float(np.abs(np.asarray(one, float) - np.asarray(two, float)).max())


def _wireframe(path):
    lines = {}
    for e in ezdxf.readfile(path).modelspace().query("LINE"):
        ends = (tuple(e.dxf.start), tuple(e.dxf.end))
        lines[frozenset(tuple(round(x, 6) for x in end) for end in ends)] = e.dxf.layer
    for member, ends in MEMBERS.items():
        layer = lines.pop(frozenset(tuple(map(float, CORNERS[n])) for n in ends), None)
        if layer != ("GRID" if member[0] == "M" else "EDGE"):
            yield f"{member} lies on {layer}"
    yield from (f"a line too many at {line}" for line in lines)


def _sheet(number):
    def look(path):
        space = ezdxf.readfile(path).modelspace()
        there = [
            [tuple(p[:2]) for p in e.get_points()]
            for e in space.query('LWPOLYLINE[layer=="CUT_OUTER"]')
        ]
        for panel in (p for p in PANELS if LIES[p][0] == number):
            wanted = by_hand.on_sheet(panel)
            near = min(max(min(math.dist(a, b) for b in ring) for a in wanted) for ring in there)
            if near > 0.001:
                yield f"{panel} is {near:.3f} mm from its place"

    return look


def _models(read):
    """Solids by name with z up: their places, volumes and middles."""

    def look(path):
        solids = read(path)
        if set(solids) != {*MEMBERS, *PANELS}:
            yield f"holds {sorted(solids)}"
            return
        for name, mesh in solids.items():
            is_member = name in MEMBERS
            volume = (
                by_hand.mass(name) / by_hand.STEEL
                if is_member
                else by_hand.area(name) * by_hand.left(name) ** 2 * by_hand.THICK / 1000
            )
            middle = by_hand.member_middle(name) if is_member else by_hand.panel_middle(name)
            way = by_hand.axis(name) if is_member else by_hand.facing(name)
            long = by_hand.cut_length(name) if is_member else by_hand.THICK
            along = mesh.vertices @ way
            if not math.isclose(mesh.volume, volume, rel_tol=1e-4):
                yield f"{name} has {mesh.volume:.6f} m³, by hand {volume:.6f}"
            if _apart(mesh.center_mass, middle) > NEAR:
                yield f"{name} is about {mesh.center_mass}, by hand {middle}"
            if abs(np.ptp(along) - long / 1000) > NEAR:
                yield f"{name} is {np.ptp(along):.4f} m along, by hand {long / 1000:.4f}"

    return look


def _glb(path):
    scene = trimesh.load_scene(path)
    out = {}
    for name in scene.graph.nodes_geometry:
        place, geometry = scene.graph[name]
        mesh = scene.geometry[geometry].copy().apply_transform(place)
        x, y, z = mesh.vertices.T
        out[name] = trimesh.Trimesh(np.column_stack([x, -z, y]), mesh.faces, process=False)
    return out


def _obj(path):
    points, faces, name = [], {}, ""
    for line in path.read_text().splitlines():
        word, *rest = line.split(" ")
        if word == "o":
            name = rest[0]
        elif word == "v":
            points.append([float(x) for x in rest])
        elif word == "f":
            faces.setdefault(name, []).append([int(k) - 1 for k in rest])
    return {
        name: trimesh.Trimesh(points, rows, process=True, merge_norm=True)
        for name, rows in faces.items()
    }


def _stl(path):
    mesh = trimesh.load_mesh(path)
    volume = sum(by_hand.mass(m) for m in MEMBERS) / by_hand.STEEL
    volume += sum(by_hand.area(p) * by_hand.left(p) ** 2 for p in PANELS) * by_hand.THICK / 1000
    if not math.isclose(mesh.volume, volume, rel_tol=1e-4):
        yield f"holds {mesh.volume:.6f} m³, by hand {volume:.6f}"
    low, high = mesh.bounds
    # The outermost are glass at the ground and at the apex, and tubes below.
    if not (high[2] > 3 > low[2] and low[0] > -0.2 and high[0] < 4.2 and high[1] < 4.7):
        yield f"reaches from {low} to {high}"


def _ifc(path):
    model = ifcopenshell.open(path)
    scale = ifcopenshell.util.unit.calculate_unit_scale(model)
    things = {e.Name: e for e in model.by_type("IfcElement") if e.Representation}
    if set(things) != {*MEMBERS, *PANELS}:
        yield f"holds {sorted(things)}"
        return
    for name, element in things.items():
        place = ifcopenshell.util.placement.get_local_placement(element.ObjectPlacement)
        solid = element.Representation.Representations[0].Items[0]
        inner = ifcopenshell.util.placement.get_axis2placement(solid.Position)
        if _apart(solid.ExtrudedDirection.DirectionRatios, (0, 0, 1)) > 0:
            yield f"{name} is extruded along {solid.ExtrudedDirection.DirectionRatios}"
        look = _ifc_member if name in MEMBERS else _ifc_panel
        yield from (f"{name} {told}" for told in look(name, place @ inner, solid, scale))


def _ifc_member(name, place, solid, scale):
    start, *ways = by_hand.member_frame(name)
    if _apart(place[:3, 3] * scale, start) > NEAR or _apart(place[:3, :3].T, ways) > NEAR:
        yield f"starts at {place[:3, 3] * scale} with its directions {place[:3, :3].T.tolist()}"
    _, across, wall = by_hand.section(name)
    profile = solid.SweptArea
    there = [scale * 1000 * v for v in (solid.Depth, profile.Radius, profile.WallThickness)]
    if _apart(there, (by_hand.cut_length(name), across / 2, wall)) > NEAR * 1000:
        yield f"has length, radius and wall {there}"


def _ifc_panel(name, place, solid, scale):
    flat = np.array([p.Coordinates for p in _points_of(solid.SweptArea.OuterCurve)])
    corners = [
        scale * (place @ [*p, 0.0, 1.0])[:3]
        for p in flat[: -1 if np.allclose(flat[0], flat[-1]) else None]
    ]
    lift = by_hand.times(by_hand.raised() / 1000, by_hand.facing(name))
    wanted = [by_hand.plus(p, lift) for p in by_hand.shrunk(name)]
    off = max(min(_apart(p, c) for c in corners) for p in wanted)
    if off > NEAR or len(corners) != 3:
        yield f"has its corners {off * 1000:.2f} mm off"
    if _apart(place[:3, 2], by_hand.facing(name)) > NEAR:
        yield f"faces {place[:3, 2]}"
    if abs(solid.Depth * scale * 1000 - by_hand.THICK) > 0.001:
        yield f"is {solid.Depth * scale * 1000} mm thick"


def _points_of(curve):
    if curve.is_a("IfcPolyline"):
        return curve.Points
    return [_Point(p) for p in curve.Points.CoordList]


class _Point:
    def __init__(self, coordinates):
        self.Coordinates = coordinates


def _drawings(path):
    overview, assembly = PdfReader(path).pages[:2]
    width, height = float(overview.mediabox.width), float(overview.mediabox.height)
    lines, texts = _drawn(overview)
    scale = _scale(texts)
    fields = {name: [] for name in VIEWS}
    for line in lines:
        x, y = np.mean(line, axis=0)
        on_left, on_top = x < width / 2, y > height / 2
        fields[[*VIEWS][0 if on_left else 1 if on_top else 2]].append(line)
    for name, (right, up) in VIEWS.items():
        wanted = [[(CORNERS[n][right], CORNERS[n][up]) for n in ends] for ends in MEMBERS.values()]
        if _off(fields[name], np.array(wanted, float) * 1000 / scale * POINTS) > 0.01:
            yield f"the {name} is another one"
    lines, texts = _drawn(assembly)
    unit = 1000 / _scale(texts) * POINTS
    # It is deeper than wide, and lies on its side: x upward, y to the left.
    corners = {n: np.array([-y, x]) * unit for n, (x, y, _) in CORNERS.items()}
    wanted = np.array([[corners[n] for n in ends] for ends in MEMBERS.values()])
    if _off(lines, wanted) > 0.01:
        yield "the assembly plan is another one"
    shift = _middle(np.array(lines)) - _middle(wanted)
    for name, place in texts:
        if name in CORNERS and math.dist(place, corners[name] + shift) > 3 * POINTS:
            yield f"{name} stands elsewhere on the assembly plan"


def _scale(texts):
    return float(next(text for text, _ in texts if text.startswith("1 : ")).split()[2])


def _middle(lines):
    points = lines.reshape(-1, 2)
    return (points.min(axis=0) + points.max(axis=0)) / 2


def _off(there, wanted):
    """By how much lines (n, 2, 2) differ from others, each about its middle."""
    there = np.array(there).reshape(-1, 2, 2)
    if len(there) != len(wanted):
        return math.inf
    there, wanted = there - _middle(there), wanted - _middle(wanted)
    return max(min(min(_apart(a, b), _apart(a[::-1], b)) for b in there) for a in wanted)


def _drawn(page):
    """Lines within the frame of a page, and its texts with their places, in points."""
    lines, texts, at = [], [], None

    def operand(operator, operands, matrix, _):
        nonlocal at
        if operator in (b"m", b"l"):
            x, y = (float(v) for v in operands)
            a, b, c, d, e, f = (float(v) for v in matrix)
            place = (a * x + c * y + e, b * x + d * y + f)
            if operator == b"l" and math.dist(place, at) < 1100:
                lines.append((at, place))
            at = place

    def text(words, matrix, placed, *_):
        if words.strip():
            texts.append((words.strip(), (placed[4] + matrix[4], placed[5] + matrix[5])))

    page.extract_text(visitor_operand_before=operand, visitor_text=text)
    return lines, texts


FILES = {
    "wireframe.dxf": _wireframe,
    "sheets/sheet-01.dxf": _sheet(1),
    "sheets/sheet-02.dxf": _sheet(2),
    "model.glb": _models(_glb),
    "model.obj": _models(_obj),
    "model.stl": _stl,
    "model.ifc": _ifc,
    "drawings.pdf": _drawings,
}
