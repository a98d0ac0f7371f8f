"""Reading a pack back and verifying it from the files alone.

Nothing here uses what wrote the files: lengths, planes, joints and overlaps are worked out anew from the numbers
that a workshop would get.
"""

from __future__ import annotations

import csv
import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import STRtree

from .balance import EDGES, NODES, lengths_differ, unbalanced
from .dxf import Outline, read_wireframe
from .ifc import element_names
from .models import model_names
from .pack_files import Pack, PackError, Row, number_in, read_pack
from .proof import apart, overlapping, solids_of

__all__ = ["GUARDS", "Finding", "check_pack"]

Array = NDArray[np.float64]

LENGTH_MM = 0.01
"""Lengths are written to 0.001 mm and coordinates to 0.001 mm: more than this is a mistake."""
SIDE_MM = 0.05
OVERLAP_MM2 = 0.01
POSITION_MM = 0.05
SHARED_MM3, APART_MM, AWAY_MM = 1.0, 0.15, 1.0
BALANCE_PERCENT = 1.0
"""A net that was stopped before it settled is no equilibrium to be handed on."""


@dataclass(frozen=True)
class Finding:
    """One check: whether it passed, its worst value with unit, and where that is."""

    check: str
    passed: bool
    worst: float
    unit: str
    where: str


def check_pack(folder: Path) -> list[Finding]:
    """All findings on the pack in ``folder``; a file that cannot be read is a finding too."""
    try:
        if not (folder / "statement.json").is_file():
            raise PackError(f"there is no statement.json in {folder}")
        pack = read_pack(folder)
        matched = _matched(pack)
    except (PackError, OSError, KeyError, ValueError, csv.Error) as error:
        return [Finding("readable", False, 0.0, "", str(error))]
    findings = [Finding("readable", True, 0.0, "", "")]
    for name, unit, limit, check in CHECKS:
        try:
            worst, where = max(check(pack, matched), key=lambda found: found[0], default=(0.0, ""))
        except (PackError, KeyError, ValueError, IndexError) as error:
            findings.append(Finding(name, False, 0.0, unit, f"{type(error).__name__}: {error}"))
            continue
        passed = worst <= limit
        findings.append(Finding(name, passed, round(worst, 6), unit, where if worst else ""))
    return findings


Found = Iterator[tuple[float, str]]
Matched = dict[str, tuple[int, Outline]]


def _corner(points: Array) -> Array:
    return points.min(axis=0) if len(points) else np.full(2, np.inf)


def _matched(pack: Pack) -> Matched:
    """The outer outline of each part of parts.csv, found by where its lower left corner should be."""
    out: Matched = {}
    for number, drawing in pack.sheets.items():
        rows = [r for r in pack.tables.get("parts", []) if r["sheet"] == str(number)]
        if not rows or not drawing.outer:
            continue
        corners = np.array([_corner(o.points) for o in drawing.outer])
        free = np.ones(len(corners), bool)
        for row in rows:
            at = np.array([number_in(row, "x_mm", "parts"), number_in(row, "y_mm", "parts")])
            away = np.where(free, np.abs(corners - at).max(axis=1), np.inf)
            k = int(np.argmin(away))
            if np.isfinite(away[k]):
                free[k] = False
                out[row["label"]] = (number, drawing.outer[k])
    return out


def _member_lengths(pack: Pack, _: Matched) -> Found:
    for row in pack.tables.get("members", []):
        ends = [pack.nodes.get(row[e]) for e in ("start", "end")]
        if ends[0] is None or ends[1] is None:
            yield np.inf, f"{row['label']}: node {row['start'] if ends[0] is None else row['end']} is not in nodes.csv"
            continue
        off = abs(float(np.linalg.norm(ends[1] - ends[0])) * 1000 - number_in(row, "length_mm", "members"))
        yield off, f"{row['label']} between {row['start']} and {row['end']}"


def _cut_lengths(pack: Pack, _: Matched) -> Found:
    for row in pack.tables.get("members", []):
        length, cut, start, end = (
            number_in(row, c, "members") for c in ("length_mm", "cut_length_mm", "start_setback_mm", "end_setback_mm")
        )
        yield abs(length - start - end - cut), row["label"]


def _no_length_left(pack: Pack, _: Matched) -> Found:
    for row in pack.tables.get("members", []):
        yield max(0.0, -number_in(row, "cut_length_mm", "members")), row["label"]


def _member_types(pack: Pack, _: Matched) -> Found:
    groups: dict[str, list[Row]] = {}
    for row in pack.tables.get("members", []):
        groups.setdefault(row["type"], []).append(row)
    for kind in pack.tables.get("member_types", []):
        rows = groups.pop(kind["type"], [])
        if len(rows) != int(kind["count"]):
            yield np.inf, f"{kind['type']}: {kind['count']} in the types, {len(rows)} among the members"
            continue
        cuts = [number_in(r, "cut_length_mm", "members") for r in rows]
        yield abs(max(cuts) - min(cuts) - float(kind["spread_mm"])), kind["type"]
        if {r["section"] for r in rows} != {kind["section"]}:
            yield np.inf, f"{kind['type']}: sections differ"
    for name in groups:
        yield np.inf, f"{name} is not in member_types.csv"


def _labels(pack: Pack, matched: Matched) -> Found:
    """Uniqueness, and the same labels in every file: the worst is a count of mistakes."""
    seen: dict[str, str] = {}
    for table in ("nodes", "members", "panels", "ribs"):
        for row in pack.tables.get(table, []):
            label = row["label"]
            if label in seen:
                yield 1.0, f"{label} stands in {seen[label]}.csv and {table}.csv" if seen[label] != table else (
                    f"{label} stands twice in {table}.csv")  # fmt: skip
            seen[label] = table
    panels = {r["label"] for name in ("panels", "ribs") for r in pack.tables.get(name, [])}
    parts = [r["label"] for r in pack.tables.get("parts", [])]
    for label in parts:
        # Copies are told apart by a number behind a point.
        if label.partition(".")[0] not in panels:
            yield 1.0, f"{label} of parts.csv is neither in panels.csv nor in ribs.csv"
    if len(set(parts)) < len(parts):
        yield 1.0, f"{next(p for p in parts if parts.count(p) > 1)} stands twice in parts.csv"
    for row in pack.tables.get("node_angles", []):
        if row["node"] not in pack.nodes or row["member"] not in seen:
            yield 1.0, f"{row['node']} or {row['member']} of node_angles.csv is unknown"
    yield from _drawn_labels(pack, seen, set(parts))


def _drawn_labels(pack: Pack, seen: dict[str, str], parts: set[str]) -> Found:
    for path in sorted((pack.folder / "sheets").glob("sheet-*.svg")):
        number = str(int(path.stem.split("-")[1]))
        listed = {r["label"] for r in pack.tables.get("parts", []) if r["sheet"] == number}
        drawn = {e.get("id") or "" for e in _svg(path).iter("{http://www.w3.org/2000/svg}g")}
        for label in listed ^ drawn:
            yield 1.0, f"{label} is {'drawn' if label in drawn else 'missing'} on sheets/{path.name}"
    singles = {p for p in parts if "." not in p} | {r["label"] for r in pack.tables.get("ribs", [])}
    if (pack.folder / "model.glb").is_file():
        names = model_names(pack.folder / "model.glb")
        made = {
            r["label"] for r in pack.tables.get("members", []) if number_in(r, "cut_length_mm", "members") > 0
        } | singles
        for label in names ^ made:
            yield 1.0, f"{label} is {'only' if label in names else 'not'} in model.glb"

    if (pack.folder / "model.ifc").is_file():
        made = {r["label"] for r in pack.tables.get("members", []) if number_in(r, "cut_length_mm", "members") > 0}
        made |= {r["label"] for name in ("panels", "ribs") for r in pack.tables.get(name, [])}
        names = element_names(pack.folder / "model.ifc")
        for label in names ^ made:
            yield 1.0, f"{label} is {'only' if label in names else 'not'} in model.ifc"


def _svg(path: Path) -> Any:
    from xml.etree import ElementTree

    try:
        return ElementTree.parse(path).getroot()
    except ElementTree.ParseError as error:
        raise PackError(f"sheets/{path.name} cannot be read: {error}") from None


def _wireframe(pack: Pack, _: Matched) -> Found:
    path = pack.folder / "wireframe.dxf"
    if not path.is_file() or "members" not in pack.tables:
        return
    try:
        lines = read_wireframe(path)
    except ValueError as error:
        raise PackError(f"wireframe.dxf cannot be read: {error}") from None
    members = pack.tables["members"]
    if len(lines) != len(members):
        yield np.inf, f"{len(lines)} lines for {len(members)} members"
        return
    tree = shapely.STRtree(shapely.points(lines.mean(axis=1)[:, :2]))
    for row in members:
        ends = np.stack([pack.nodes[row["start"]], pack.nodes[row["end"]]])
        near = tree.query(shapely.Point(ends.mean(axis=0)[:2]).buffer(0.02))
        off = min((min(np.abs(lines[k] - e).max() for e in (ends, ends[::-1])) for k in near), default=np.inf)
        yield float(off) * 1000, f"{row['label']} in wireframe.dxf"


def _closed(pack: Pack, matched: Matched) -> Found:
    names = {id(outline): label for label, (_, outline) in matched.items()}
    for number, drawing in pack.sheets.items():
        for outline in drawing.outer + drawing.inner:
            at = ", ".join(f"{x:.1f}" for x in _corner(outline.points))
            where = f"{names.get(id(outline), 'an outline')} on sheet {number} at ({at}) mm"
            if not outline.closed:
                yield 1.0, f"{where} is open"
            elif len(outline.points) < 3 or not shapely.Polygon(outline.points).is_valid:
                yield 1.0, f"{where} crosses itself"


def _parts_as_listed(pack: Pack, matched: Matched) -> Found:
    for row in pack.tables.get("parts", []):
        if not row["sheet"]:
            continue
        if row["label"] not in matched:
            yield np.inf, f"{row['label']} is not on sheet {row['sheet']}"
            continue
        number, outline = matched[row["label"]]
        rings = [shapely.LinearRing(o.points) for o in (outline, *_within(pack, number, outline))]
        at = np.array([number_in(row, "x_mm", "parts"), number_in(row, "y_mm", "parts")])
        where = f"{row['label']} on sheet {number}"
        yield float(np.abs(_corner(outline.points) - at).max()), where
        yield abs(sum(r.length for r in rings) - number_in(row, "cut_length_mm", "parts")), where
        if not pack.tool_mm:
            area = shapely.Polygon(rings[0], rings[1:]).area
            yield abs(area / 1e6 - number_in(row, "area_m2", "parts")) * 1000, where
    listed = sum(bool(r["sheet"]) for r in pack.tables.get("parts", []))
    drawn = sum(len(d.outer) for d in pack.sheets.values())
    if listed != drawn:
        yield np.inf, f"{drawn} outlines on the sheets for {listed} parts"


def _within(pack: Pack, number: int, outer: Outline) -> list[Outline]:
    """Inner outlines of a part: those inside its outer one and not inside another that lies in an opening of it."""
    drawing = pack.sheets[number]
    whole = shapely.Polygon(outer.points).buffer(0)
    inside = [o for o in drawing.inner if whole.contains(shapely.Point(o.points[0]))]
    others = [shapely.Polygon(o.points).buffer(0) for o in drawing.outer if o is not outer]
    nested = [p for p in others if p.within(whole)]
    return [o for o in inside if not any(p.contains(shapely.Point(o.points[0])) for p in nested)]


def _overlaps(pack: Pack, matched: Matched) -> Found:
    names = {id(outline): label for label, (_, outline) in matched.items()}
    for number, drawing in pack.sheets.items():
        outlines = [o for o in drawing.outer if len(o.points) >= 3]
        # Parts may lie in openings of others.
        polygons = np.array([
            shapely.Polygon(o.points).buffer(0).difference(
                shapely.union_all([shapely.Polygon(h.points).buffer(0) for h in _within(pack, number, o)]))
            for o in outlines
        ])  # fmt: skip
        for a, b in STRtree(polygons).query(polygons, predicate="intersects").T:
            if a < b:
                area = polygons[a].intersection(polygons[b]).area
                one, two = (names.get(id(outlines[i]), "an outline") for i in (a, b))
                yield float(area), f"{one} and {two} on sheet {number}"


def _on_sheet(pack: Pack, matched: Matched) -> Found:
    for label, (number, outline) in matched.items():
        sheet = pack.sheets[number].sheet
        if not sheet or not len(outline.points):
            yield np.inf, f"sheet {number} has no edge"
            continue
        low, high = sheet[0].points.min(axis=0), sheet[0].points.max(axis=0)
        past = max(float((low - outline.points).max()), float((outline.points - high).max()), 0.0)
        yield past, f"{label} on sheet {number}"


def _panel_sides(pack: Pack, matched: Matched) -> Found:
    for row in pack.tables.get("panels", []):
        if row["label"] not in matched:
            continue
        number, outline = matched[row["label"]]
        corners = np.array([pack.nodes[c] for c in row["corners"].split()]) * 1000
        series = row["label"].rstrip("0123456789")[:-1]
        expected = _sides_less_joint(corners, pack.joint_mm.get(series, 0.0))
        given = _sides(outline.points, pack.tool_mm)
        where = f"{row['label']} on sheet {number}"
        if len(given) != len(expected):
            yield np.inf, f"{where} has {len(given)} sides for {len(expected)} corners"
            continue
        off = np.abs(given - expected)
        k = int(np.argmax(off))
        names = row["corners"].split()
        yield float(off[k]), f"{where}, side {names[k]}–{names[(k + 1) % len(names)]}"


def _sides(points: Array, tool: float) -> Array:
    """Lengths of an outline's sides, of one beside which a tool ran those it leaves."""
    if tool:
        left: Any = shapely.Polygon(points).buffer(-tool / 2, join_style="mitre").simplify(SIDE_MM)
        points = np.asarray(shapely.orient_polygons(left).exterior.coords)[:-1]
    return np.asarray(np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1))


def _sides_less_joint(corners: Array, joint: float) -> Array:
    """Sides of a panel held back by half the joint: |AB| − j/2 (cot α/2 + cot β/2), after laying it in its plane."""
    centred = corners - corners.mean(axis=0)
    _, _, axes = np.linalg.svd(centred)
    flat = centred @ axes[:2].T
    if np.sum(flat[:, 0] * np.roll(flat[:, 1], -1) - flat[:, 1] * np.roll(flat[:, 0], -1)) < 0:
        flat[:, 1] *= -1
    edge = np.roll(flat, -1, axis=0) - flat
    length = np.linalg.norm(edge, axis=1)
    heading = np.arctan2(edge[:, 1], edge[:, 0])
    turn = (heading - np.roll(heading, 1) + np.pi) % (2 * np.pi) - np.pi
    half_cot = np.tan(turn / 2)  # cot of half the inner angle π − turn
    return np.asarray(length - joint / 2 * (half_cot + np.roll(half_cot, -1)))


def _bars(pack: Pack, _: Matched) -> Found:
    """Cuts on one bar keep apart and within it, and are as long as their members."""
    cuts = {r["label"]: number_in(r, "cut_length_mm", "members") for r in pack.tables.get("members", [])}
    bars: dict[str, list[tuple[float, float, str, float]]] = {}
    for row in pack.tables.get("bars", []):
        begin, end, stock = (number_in(row, c, "bars") for c in ("from_mm", "to_mm", "stock_mm"))
        bars.setdefault(row["bar"], []).append((begin, end, row["member"], stock))
        yield abs(end - begin - cuts.pop(row["member"], np.inf)), f"{row['member']} on {row['bar']}"
    for bar, on in bars.items():
        on.sort()
        yield max(0.0, on[-1][1] - on[-1][3], -on[0][0]), f"{on[-1][2]} on {bar}"
        for one, two in itertools.pairwise(on):
            yield max(0.0, one[1] - two[0]), f"{one[2]} and {two[2]} on {bar}"


def _settled(check: Callable[[list[Row], list[Row]], Found]) -> Callable[[Pack, Matched], Found]:
    def of_pack(pack: Pack, _: Matched) -> Found:
        if (NODES in pack.tables) != (EDGES in pack.tables):
            raise PackError(f"{NODES}.csv and {EDGES}.csv belong together; one of them is missing")
        yield from check(pack.tables.get(NODES, []), pack.tables.get(EDGES, []))

    return of_pack


def _ribs_of(pack: Pack, matched: Matched) -> tuple[list[Row], dict[str, Any]]:
    rows = pack.tables.get("assembly", [])
    if "ribs" not in pack.kept:
        rings = {k: (o.points, [i.points for i in _within(pack, n, o)]) for k, (n, o) in matched.items()}
        pack.kept["ribs"] = solids_of(rows, pack.tables.get("bends", []), rings, pack.tool_mm, pack.press_mm)
    return rows, pack.kept["ribs"]


def _ribs_overlap(pack: Pack, matched: Matched) -> Found:
    rows, solids = _ribs_of(pack, matched)
    yield from overlapping(rows, pack.tables.get("bends", []), solids)


def _ribs_apart(pack: Pack, matched: Matched) -> Found:
    yield from apart(*_ribs_of(pack, matched), pack.clearance_mm)


def _ribs_away(pack: Pack, _: Matched) -> Found:
    yield from pack.away_mm


GUARDS = (
    "ribs put together again share nothing",
    "ribs put together again meet at their slots",
    "edges of ribs lie on their body",
)
"""Checks without which nothing is handed out that could be cut."""
CHECKS: list[tuple[str, str, float, Callable[[Pack, Matched], Found]]] = [
    ("member lengths against node coordinates", "mm", LENGTH_MM, _member_lengths),
    ("cut lengths against set-backs", "mm", LENGTH_MM, _cut_lengths),
    ("members have a length left between set-backs", "mm", 0.0, _no_length_left),
    ("member types against members", "mm", LENGTH_MM, _member_types),
    ("labels unique and the same everywhere", "mistakes", 0.0, _labels),
    ("wireframe against node coordinates", "mm", LENGTH_MM, _wireframe),
    ("outlines closed and free of crossings", "outlines", 0.0, _closed),
    ("parts as listed", "mm", POSITION_MM, _parts_as_listed),
    ("nothing overlaps on a sheet", "mm²", OVERLAP_MM2, _overlaps),
    ("everything on its sheet", "mm", POSITION_MM, _on_sheet),
    ("panel sides against edges in space less the joint", "mm", SIDE_MM, _panel_sides),
    ("members on stock bars", "mm", LENGTH_MM, _bars),
    ("forces at settled nodes sum to nothing", "% of the mean load", BALANCE_PERCENT, _settled(unbalanced)),
    (GUARDS[0], "mm³", SHARED_MM3, _ribs_overlap),
    (GUARDS[1], "mm", APART_MM, _ribs_apart),
    (GUARDS[2], "mm", AWAY_MM, _ribs_away),
    ("lengths of settled edges against their nodes", "mm", LENGTH_MM, _settled(lengths_differ)),
]
"""Name, unit of the worst value, the most that passes, and the check, which yields values with places."""
