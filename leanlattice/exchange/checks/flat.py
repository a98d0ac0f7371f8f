"""Flat parts on sheets and as files of their own: outlines, lettering, distances, and what is
listed."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import STRtree

from ...core.flat.lettering import lettered
from ..dxf import Outline, SheetDrawing, read_sheet
from .pack_files import Found, Pack, PackError, beyond, number_in

__all__ = [
    "Flat",
    "flat_of",
    "kept_apart",
    "lettered_with_own_label",
    "nothing_overlaps",
    "on_their_sheets",
    "one_kind_a_sheet",
    "outlines_sound",
    "parts_as_listed",
    "pictures_as_drawings",
    "sheets_as_listed",
    "single_parts_as_on_sheets",
]

Array = NDArray[np.float64]
SIDE_MM = 0.05
LENGTH_COUNTS = 1e-3
"""What a mm of length counts beside one of distance where outlines are matched with their parts."""
ALIKE = 0.03
"""Share of their height by which strokes may differ from those of the letters they are to be."""
SMALL_MM = 10.0
"""In parts whose widest place is narrower than this names may have no room."""
SVG = "{http://www.w3.org/2000/svg}"


def corner(points: Array) -> Array:
    """Lower left corner (2,) of points."""
    return points.min(axis=0) if len(points) else np.full(2, np.inf)


def polygon(points: Array) -> Any:
    return shapely.Polygon(points).buffer(0) if len(points) >= 3 else shapely.Polygon()


@dataclass
class Flat:
    """Parts as they are drawn: of each label its sheet, outer outline and inner ones; and of each
    sheet its outer polygons less their openings, with a label each ("" where none is listed)."""

    parts: dict[str, tuple[int, Outline, list[Outline]]]
    polygons: dict[int, NDArray[Any]]
    labels: dict[int, list[str]]


def flat_of(pack: Pack) -> Flat:
    """Outlines of the sheets, matched with parts.csv by where their lower left corners are to be,
    and by their lengths where several are there."""
    if "flat" not in pack.kept:
        out = Flat({}, {}, {})
        rows: dict[int, list[dict[str, str]]] = {}
        for row in pack.rows("parts"):
            if row["sheet"]:
                rows.setdefault(int(number_in(row, "sheet", "parts")), []).append(row)
        for number, drawing in pack.sheets.items():
            holes = _openings(drawing)
            labels = [""] * len(drawing.outer)
            corners = np.array([corner(o.points) for o in drawing.outer]).reshape(-1, 2)
            free = np.ones(len(corners), bool)
            lengths = np.array([_length(o, h) for o, h in zip(drawing.outer, holes, strict=True)])
            for row in rows.get(number, []):
                at = np.array([number_in(row, f"{a}_mm", "parts") for a in "xy"])
                off = np.abs(lengths - number_in(row, "cut_length_mm", "parts"))
                away = np.abs(corners - at).max(axis=1) + LENGTH_COUNTS * off
                away = np.where(free, away, np.inf)
                k = int(np.argmin(away)) if len(away) else -1
                if k >= 0 and np.isfinite(away[k]):
                    free[k], labels[k] = False, row["label"]
                    out.parts[row["label"]] = (number, drawing.outer[k], holes[k])
            shapes = [
                polygon(o.points).difference(shapely.union_all([polygon(h.points) for h in inner]))
                for o, inner in zip(drawing.outer, holes, strict=True)
            ]
            out.polygons[number], out.labels[number] = np.array(shapes, object), labels
        pack.kept["flat"] = out
    found: Flat = pack.kept["flat"]
    return found


def _length(outer: Outline, inner: list[Outline]) -> float:
    """Length (mm) of an outline and its openings."""
    rings = [np.asarray(o.points) for o in (outer, *inner) if len(o.points)]
    return float(sum(np.linalg.norm(np.roll(r, -1, axis=0) - r, axis=1).sum() for r in rings))


def _openings(drawing: SheetDrawing) -> list[list[Outline]]:
    """Inner outlines of each outer one: each is of the smallest outer outline it lies in."""
    out: list[list[Outline]] = [[] for _ in drawing.outer]
    wholes = np.array([polygon(o.points) for o in drawing.outer], object)
    size = shapely.area(wholes) if len(wholes) else np.zeros(0)
    tree = STRtree(wholes)
    for inner in drawing.inner:
        if len(inner.points):
            around = tree.query(shapely.Point(inner.points[0]), predicate="within")
            if len(around):
                out[int(around[np.argmin(size[around])])].append(inner)
    return out


def outlines_sound(pack: Pack) -> Found:
    """Outlines closed, free of crossings and of straight sides; nothing else on a sheet;
    millimetres."""
    flat = flat_of(pack)
    names = {id(o): label for label, (_, o, _) in flat.parts.items()}
    for number, drawing in pack.sheets.items():
        sheet = f"sheet {number} (sheets/sheet-{number:02d}.dxf)"
        yield float(not drawing.millimetres), f"{sheet} is not in millimetres"
        yield (
            float(len(drawing.strange)),
            f"{sheet} holds a {drawing.strange[0] if drawing.strange else ''}",
        )
        for outline in drawing.outer + drawing.inner:
            at = ", ".join(f"{x:.1f}" for x in corner(outline.points))
            where = f"{names.get(id(outline), 'an outline')} on {sheet} at ({at}) mm"
            sound = len(outline.points) >= 3 and shapely.Polygon(outline.points).is_valid
            yield float(not outline.closed), f"{where} is open"
            yield float(not sound), f"{where} crosses itself"
            yield float(outline.bulged), f"{where} has a side that is an arc"


def parts_as_listed(pack: Pack) -> Found:
    """Places, areas and lengths of parts.csv against their outlines (mm, or thousandths of m²)."""
    flat = flat_of(pack)
    for row in pack.rows("parts"):
        label = row["label"]
        if not row["sheet"]:
            yield beyond(label not in pack.not_made()), f"{label} of parts.csv is on no sheet"
            continue
        if label not in flat.parts:
            if pack.sheets:
                yield np.inf, f"{label} of parts.csv is not on sheet {row['sheet']}"
            continue
        number, outline, inner = flat.parts[label]
        where = f"{label} on sheet {number}, parts.csv"
        rings = [shapely.LinearRing(o.points) for o in (outline, *inner) if len(o.points) >= 3]
        at = np.array([number_in(row, f"{a}_mm", "parts") for a in "xy"])
        yield float(np.abs(corner(outline.points) - at).max()), where
        yield abs(sum(r.length for r in rings) - number_in(row, "cut_length_mm", "parts")), where
        tool = pack.tool(label)
        area = float(polygon_of(outline, inner, tool).area) / 1e6
        slack = 0.0 if not tool else 0.01 * area
        yield (
            max(abs(area - number_in(row, "area_m2", "parts")) - slack, 0.0) * 1000,
            f"{where}: area",
        )
    listed = sum(bool(r["sheet"]) for r in pack.rows("parts"))
    drawn = sum(len(d.outer) for d in pack.sheets.values())
    if pack.sheets and "parts" in pack.tables and listed != drawn:
        yield np.inf, f"{drawn} outlines on the sheets for {listed} parts of parts.csv"


def polygon_of(outer: Outline, inner: list[Outline], tool: float) -> Any:
    """A part itself: within an outline beside which a ``tool`` (mm) runs."""
    shape = polygon(outer.points).difference(shapely.union_all([polygon(h.points) for h in inner]))
    return shape.buffer(-tool / 2, join_style="mitre") if tool else shape


def sheets_as_listed(pack: Pack) -> Found:
    """Sizes, tools, counts and shares of sheets.csv against the drawings (mm, mm, parts, %)."""
    flat = flat_of(pack)
    for number, drawing in pack.sheets.items():
        row, where = (
            pack.sheet_rows.get(number),
            f"sheet {number} (sheets/sheet-{number:02d}.dxf), sheets.csv",
        )
        if row is None:
            continue
        size = np.array([number_in(row, f"{k}_mm", "sheets") for k in ("width", "height")])
        edge = drawing.sheet[0].points if len(drawing.sheet) == 1 else np.zeros((0, 2))
        wanted = np.array([[0, 0], [size[0], 0], size, [0, size[1]]])
        off = float(np.abs(edge - wanted).max()) if edge.shape == wanted.shape else np.inf
        yield off, f"{where}: size"
        yield abs(drawing.tool - number_in(row, "tool_mm", "sheets")), f"{where}: tool"
        for name in ("margin", "spacing", "thickness", "tool"):
            yield beyond(number_in(row, f"{name}_mm", "sheets") < 0), f"{where}: {name}"
        yield float(abs(number_in(row, "parts", "sheets") - len(drawing.outer))), f"{where}: parts"
        area = sum(float(polygon_of(o, h, drawing.tool).area) for _, o, h in _on(flat, number))
        share = 100 * area / float(np.prod(size))
        slack = 0.02 + (0.01 * share if drawing.tool else 0.0)
        yield (
            max(abs(share - number_in(row, "used_percent", "sheets")) - slack, 0.0),
            f"{where}: share used",
        )


def _on(flat: Flat, number: int) -> list[tuple[int, Outline, list[Outline]]]:
    return [p for p in flat.parts.values() if p[0] == number]


def one_kind_a_sheet(pack: Pack) -> Found:
    """All that lies on a sheet is of the sheet's material and thickness, and cut with its tool."""
    for row in pack.rows("parts"):
        if not row["sheet"]:
            continue
        sheet = pack.sheet_rows.get(int(number_in(row, "sheet", "parts")))
        if sheet is None:
            continue
        where = f"{row['label']} of parts.csv on sheet {row['sheet']}"
        yield float(row["material"] != sheet["material"]), f"{where} is {row['material']}"
        off = abs(
            number_in(row, "thickness_mm", "parts") - number_in(sheet, "thickness_mm", "sheets")
        )
        yield (
            float(off > 0.01),
            f"{where} is {row['thickness_mm']} mm thick, not {sheet['thickness_mm']} mm",
        )
        yield float(row["tool_mm"] != sheet["tool_mm"]), f"{where}: tool"
        of_sheet = sheet["source"].split()
        yield float(row["source"] not in of_sheet), f"{where} is of “{row['source']}”"
        joint = number_in(row, "joint_mm", "parts")
        yield float(joint < 0 or (row["kind"] != "panel" and joint != 0)), f"{where}: joint"
    yield from _as_scheduled(pack)


SCHEDULE_OF = {
    "panels": "panel",
    "ribs": "rib",
    "templates": "template",
    "strips": "strip",
    "unrolled": "unrolled",
    "node_plates": "plate",
    "end_plates": "end plate",
    "wraps": "wrap",
}
"""Kinds of parts by the tables that tell all about what they are of."""


def _as_scheduled(pack: Pack) -> Found:
    """Kinds, materials and thicknesses of parts as they are told of what they are of."""
    known = {r["label"]: (table, r) for table in SCHEDULE_OF for r in pack.rows(table)}
    for label, row in pack.part_rows.items():
        table, own = known.get(label.partition(".")[0], ("", row))
        if not table:
            continue
        off = abs(number_in(row, "thickness_mm", "parts") - float(own["thickness_mm"]))
        yield float(off > 0.01), f"{label}: parts.csv and {table}.csv differ"
        other = own.get("material", row["material"]) != row["material"]
        yield float(other), f"{label}: material, {table}.csv"
        wanted = SCHEDULE_OF[table]
        told = f"{label} of parts.csv is a {row['kind']}, not a {wanted}"
        yield float(row["kind"] != wanted), told


def nothing_overlaps(pack: Pack) -> Found:
    """Areas (mm²) that parts share on a sheet; parts may lie in openings of others."""
    flat = flat_of(pack)
    for number, shapes in flat.polygons.items():
        labels = flat.labels[number]
        for a, b in STRtree(shapes).query(shapes, predicate="intersects").T.tolist():
            if a < b:
                where = (
                    f"{labels[a] or 'an outline'} and {labels[b] or 'an outline'} on sheet {number}"
                )
                yield float(shapes[a].intersection(shapes[b]).area), where
        yield 0.0, f"sheet {number}"


def kept_apart(pack: Pack) -> Found:
    """How much (mm) parts lie nearer to each other than the spacing less the tool that runs between
    them."""
    flat = flat_of(pack)
    for number, shapes in flat.polygons.items():
        row = pack.sheet_rows.get(number)
        if row is None:
            continue
        least = number_in(row, "spacing_mm", "sheets") - number_in(row, "tool_mm", "sheets")
        labels = flat.labels[number]
        yield 0.0, f"sheet {number}"
        if least <= SIDE_MM or not len(shapes):
            continue
        near = STRtree(shapes).query(shapes, predicate="dwithin", distance=least - SIDE_MM).T
        for a, b in near[near[:, 0] < near[:, 1]].tolist():
            where = f"{labels[a] or 'an outline'} and {labels[b] or 'an outline'} on sheet {number}"
            yield least - float(shapes[a].distance(shapes[b])), where


def on_their_sheets(pack: Pack) -> Found:
    """How far (mm) parts lie past their sheet's margin."""
    for number, drawing in pack.sheets.items():
        row = pack.sheet_rows.get(number)
        if not drawing.sheet or not len(drawing.sheet[0].points):
            yield np.inf, f"sheet {number} has no edge"
            continue
        low, high = drawing.sheet[0].points.min(axis=0), drawing.sheet[0].points.max(axis=0)
        margin = 0.0
        if row is not None:
            margin = number_in(row, "margin_mm", "sheets") - number_in(row, "tool_mm", "sheets") / 2
        for label, shape in zip(flat_of(pack).labels[number], drawing.outer, strict=True):
            if len(shape.points):
                past = np.concatenate([low + margin - shape.points, shape.points - high + margin])
                yield max(float(past.max()), 0.0), f"{label or 'an outline'} on sheet {number}"


def pictures_as_drawings(pack: Pack) -> Found:
    """SVG of sheets: the outlines, marks and labels of their DXF (mm)."""
    for path in sorted((pack.folder / "sheets").glob("sheet-*.svg")):
        number = int(path.stem.split("-")[1])
        root = _svg(path)
        drawing = pack.sheets.get(number)
        listed = {r["label"] for r in pack.rows("parts") if r["sheet"] == str(number)}
        groups = [e for e in root.iter(f"{SVG}g") if e.get("class") == "PART"]
        drawn = {e.get("id") or "" for e in groups}
        for label in sorted(listed ^ drawn) if "parts" in pack.tables else ():
            yield (
                np.inf,
                f"{label} is {'drawn' if label in drawn else 'missing'} on sheets/{path.name}",
            )
        if drawing is None:
            continue
        height = _millimetres(root, "height", path)
        edge = drawing.sheet[0].points.max(axis=0) if drawing.sheet else np.zeros(2)
        where = f"sheets/{path.name}"
        yield (
            float(np.abs(np.array([_millimetres(root, "width", path), height]) - edge).max()),
            where,
        )
        box = [float(v) for v in (root.get("viewBox") or "").split()]
        off = np.abs(np.array(box) - [0, 0, *edge]).max() if len(box) == 4 else np.inf
        yield float(off), f"{where}: its units"
        for layer, outlines in (
            ("CUT_OUTER", drawing.outer),
            ("CUT_INNER", drawing.inner),
            ("MARK", drawing.marks),
            ("SCORE", drawing.scores),
            ("TAB", drawing.tabs),
        ):
            here = np.concatenate([np.zeros((0, 2)), *(_points(g, layer, height) for g in groups)])
            there = np.concatenate([np.zeros((0, 2)), *(o.points for o in outlines)])
            off = np.abs(here - there).max(initial=0.0) if here.shape == there.shape else np.inf
            yield float(off), f"{where}: {layer}"
        flat = flat_of(pack)
        for group in groups:
            label, own = group.get("id") or "", _points(group, "CUT_OUTER", height)
            if label in flat.parts and len(own):
                off = np.abs(corner(own) - corner(flat.parts[label][1].points)).max()
                yield float(off), f"{label} on {where}"


def _svg(path: Path) -> ElementTree.Element:
    try:
        return ElementTree.parse(path).getroot()
    except ElementTree.ParseError as error:
        raise PackError(f"sheets/{path.name} cannot be read: {error}") from None


def _millimetres(root: ElementTree.Element, name: str, path: Path) -> float:
    text = root.get(name) or ""
    if not re.fullmatch(r"[\d.]+mm", text):
        raise PackError(f"sheets/{path.name}: its {name} is “{text}”, no millimetres")
    return float(text[:-2])


def _points(group: ElementTree.Element, layer: str, height: float) -> Array:
    """Points (n, 2) of a layer in a group, with y upward."""
    numbers = [
        float(x)
        for e in group.iter(f"{SVG}path")
        if e.get("class") == layer
        for x in re.findall(r"-?[\d.]+", e.get("d") or "")
    ]
    return np.array(numbers).reshape(-1, 2) * [1, -1] + [0, height]


def lettered_with_own_label(pack: Pack) -> Found:
    """Every part on a sheet bears its own label, readable and not mirrored."""
    for number, drawing in pack.sheets.items():
        shapes, labels = flat_of(pack).polygons[number], flat_of(pack).labels[number]
        if not len(shapes):
            continue
        marks = _marks_of(drawing, shapes)
        for k, label in enumerate(labels):
            if not label or not len(marks[k]):
                continue
            where = (
                f"{label} on sheet {number} (sheets/sheet-{number:02d}.dxf) does not bear its label"
            )
            name = label.partition(".")[0]
            missing = not (_reads(marks[k], label) or _reads(marks[k], name))
            if missing and 2 * shapely.maximum_inscribed_circle(shapes[k], 1.0).length < SMALL_MM:
                continue
            yield float(missing), where


def _marks_of(drawing: SheetDrawing, shapes: NDArray[Any]) -> list[list[Array]]:
    """Marks within each part, in order."""
    out: list[list[Array]] = [[] for _ in shapes]
    kept = [m.points for m in drawing.marks if len(m.points)]
    if kept:
        at = shapely.points(np.array([m[0] for m in kept]))
        for mark, part in sorted(STRtree(shapes).query(at, predicate="within").T.tolist()):
            out[part].append(kept[mark])
    return out


def _reads(marks: list[Array], text: str) -> bool:
    """Whether a run of marks is a text: its strokes turned, moved and scaled, which a complex
    number does and a mirror is not."""
    wanted = lettered(text, 1.0, np.zeros(2), 0.0)[0]
    sizes = [len(s) for s in wanted]
    plain = np.concatenate(wanted) @ [1, 1j]
    plain = plain - plain.mean()
    square = float((np.abs(plain) ** 2).sum())
    for k in range(len(marks) - len(sizes) + 1):
        run = marks[k : k + len(sizes)]
        if [len(m) for m in run] != sizes:
            continue
        drawn = np.concatenate(run) @ [1, 1j]
        middle = drawn.mean()
        turn = complex((plain.conj() @ (drawn - middle)) / square)
        off = np.abs(drawn - middle - turn * plain)
        if abs(turn) > 1.0 and off.max() < ALIKE * abs(turn):
            return True
    return False


def single_parts_as_on_sheets(pack: Pack) -> Found:
    """Files of single parts: the outlines of their sheets turned back (mm), with as many marks."""
    flat = flat_of(pack)
    paths = sorted((pack.folder / "parts").glob("*.dxf"))
    if paths and "parts" in pack.tables:
        names = {p.stem for p in paths}
        for label in sorted(names ^ set(pack.part_rows)):
            yield np.inf, f"parts/{label}.dxf is {'too many' if label in names else 'missing'}"
    for path in paths:
        where = f"parts/{path.name}"
        try:
            drawing = read_sheet(path)
        except ValueError as error:
            raise PackError(f"{where} cannot be read: {error}") from None
        bad = drawing.strange or not drawing.millimetres or len(drawing.outer) != 1
        bad = bad or any(o.bulged or not o.closed for o in (*drawing.outer, *drawing.inner))
        yield beyond(bool(bad)), f"{where} is not one part in millimetres"
        if bad or path.stem not in flat.parts:
            continue
        row = pack.part_rows[path.stem]
        _, outer, inner = flat.parts[path.stem]
        own = polygon_of(drawing.outer[0], drawing.inner, 0.0)
        laid = polygon_of(outer, inner, pack.tool(path.stem))
        turn = math.radians(number_in(row, "rotation_deg", "parts"))
        c, s = math.cos(turn), math.sin(turn)
        turned = shapely.affinity.affine_transform(own, [c, -s, s, c, 0, 0])
        low, at = turned.bounds[:2], laid.bounds[:2]
        moved = shapely.affinity.translate(turned, at[0] - low[0], at[1] - low[1])
        slack = SIDE_MM if pack.tool(path.stem) else 0.01
        yield max(float(moved.hausdorff_distance(laid)) - slack, 0.0), where
        if (
            not _reads([m.points for m in drawing.marks], path.stem.partition(".")[0])
            and drawing.marks
        ):
            small = 2 * shapely.maximum_inscribed_circle(own, 1.0).length < SMALL_MM
            yield (
                0.0 if small or _reads([m.points for m in drawing.marks], path.stem) else np.inf,
                where,
            )
