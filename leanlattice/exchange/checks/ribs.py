"""Ribs: their schedule, and put together again from sheets, poses and bends."""

from __future__ import annotations

import itertools
from typing import Any

import manifold3d
import numpy as np
import shapely
import trimesh

from ...core.geometry.meshes import mesh_of_triangles
from .flat import flat_of
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in
from .panels import pose_of
from .proof import apart, overlapping, solids_of

__all__ = [
    "bends_as_listed",
    "edges_on_bodies",
    "order_works",
    "ribs_apart",
    "ribs_as_parts",
    "ribs_overlap",
]

Solids = dict[str, manifold3d.Manifold]
STEPS = (0.002, 0.02, 0.2)
"""How far (m) back along its way a rib is looked at before it is in its place."""
ALONG_MM = 20.0
STRAIGHT_M = 1e5
"""A rib of a larger radius is not bent."""
SLOT_MM = 40.0


def solids_in_place(pack: Pack) -> Solids:
    """Solids of ribs where the assembly says they go."""
    if "solids" not in pack.kept:
        flat = flat_of(pack)
        rings = {
            k: (o.points, [i.points for i in inner]) for k, (_, o, inner) in flat.parts.items()
        }
        tools = {label: pack.tool(label) for label in rings}
        pack.kept["solids"] = solids_of(
            pack.rows("assembly"), pack.rows("bends"), rings, tools, pack.press_mm
        )
    found: Solids = pack.kept["solids"]
    return found


def _with_tool(pack: Pack, where: str) -> str:
    """Where, and the tool that leaves inner corners uncut."""
    tool = max(
        (pack.tool(label) for label in where.split(" and ") if label in pack.part_rows), default=0.0
    )
    return (
        f"{where}, cut with a tool {tool:g} mm wide; a narrower one or larger reliefs"
        if tool
        else where
    )


def ribs_overlap(pack: Pack) -> Found:
    for value, where in overlapping(
        pack.rows("assembly"), pack.rows("bends"), solids_in_place(pack)
    ):
        yield value, _with_tool(pack, where) if value else where


def ribs_apart(pack: Pack) -> Found:
    clearance = max(pack.clearances, default=0.0)
    for value, where in apart(pack.rows("assembly"), solids_in_place(pack), clearance):
        yield value, _with_tool(pack, where) if value else where


def edges_on_bodies(pack: Pack) -> Found:
    """How far (mm) outlines of ribs, put back in space, lie from the body they are cut from, slots
    and what the clause says is off it by intent left out."""
    bodies = _bodies(pack)
    solids = solids_in_place(pack)
    rows = [r["label"] for r in pack.rows("assembly")]
    sources = {r["label"]: r["source"] for r in pack.rows("parts")}
    clauses = {c["id"]: c for c in pack.report["clauses"]}
    bent = {r["label"] for r in pack.rows("bends")}
    for label in rows:
        clause = clauses.get(sources.get(label, ""), {})
        if label not in solids or "away" not in clause.get("figures", {}):
            continue
        body = bodies.get(clause.get("inputs", {}).get("shape", ""))
        if body is None or label in bent:
            # A bent rib follows its curve in plane pieces; its clause measures it.
            yield float(clause["figures"]["away"]["value"]), f"{label} in report.json"
            continue
        told = float(clause["figures"]["away"]["value"])
        points = _edge_points(pack, label)
        off = np.sort(body.nearest(points)[2])[::-1] * 1000
        # Where others pass there are slots: as many places as these take may lie inside.
        slots = sum(SLOT_MM + 2 * depth for depth in _slot_depths(pack, label))
        skipped = int(np.ceil(slots / ALONG_MM)) + 4
        share = float(off[min(skipped, len(off) - 1)])
        yield max(share, told), f"{label} of ribs.csv off its body in solids.glb"


def _slot_depths(pack: Pack, label: str) -> list[float]:
    """Depth (mm) at most of the slots in a rib: half of what it shares with another, or all its
    height."""
    outline = flat_of(pack).parts[label][1].points
    tall = float(np.ptp(outline, axis=0).min())
    row = next((r for r in pack.rows("ribs") if r["label"] == label), None)
    if row is None:
        raise PackError(f"{label} of assembly.csv is not in ribs.csv")
    return [tall] * int(number_in(row, "slots", "ribs"))


def _edge_points(pack: Pack, label: str) -> Any:
    """Places (n, 3) in metres along the outline of a rib, so far apart as ``ALONG_MM``."""
    row = next(r for r in pack.rows("assembly") if r["label"] == label)
    place, x, y = pose_of(row, "assembly")
    drawn = flat_of(pack).parts[label][1].points
    part = shapely.Polygon(drawn - drawn.min(axis=0)).buffer(-pack.tool(label) / 2)
    closed = shapely.get_coordinates(part.exterior if part.geom_type == "Polygon" else part)
    at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    wanted = np.arange(0, at[-1], ALONG_MM)
    flat = np.column_stack([np.interp(wanted, at, closed[:, k]) for k in range(2)])
    return place + (flat[:, :1] * x + flat[:, 1:] * y) / 1000


def _bodies(pack: Pack) -> dict[str, Any]:
    """What finds the nearest places on each body of solids.glb."""
    path = pack.folder / "solids.glb"
    if not path.is_file():
        return {}
    try:
        scene = trimesh.load_scene(path)
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise PackError(f"solids.glb cannot be read: {error}") from None
    out = {}
    for name, mesh in scene.geometry.items():
        places = np.asarray(mesh.vertices)[:, [0, 2, 1]] * [1.0, -1.0, 1.0]
        out[str(name)] = mesh_of_triangles(places, np.asarray(mesh.faces)).search
    return out


def ribs_as_parts(pack: Pack) -> Found:
    """Areas (% off), lengths, thicknesses, sets and slots of ribs.csv against parts and
    assembly."""
    assembly = {r["label"]: r for r in pack.rows("assembly")}
    bent = {r["label"] for r in pack.rows("bends")}
    for row in pack.rows("ribs"):
        label, where = row["label"], f"{row['label']} in ribs.csv"
        yield 100.0 * (not label.startswith(row["set"]) or not row["set"]), f"{where}: set"
        yield (
            100.0 * (bool(row["radius_m"]) != (label in bent) and "bends" in pack.tables),
            f"{where}: radius",
        )
        part, step = pack.part_rows.get(label), assembly.get(label)
        if part is not None:
            area, listed = number_in(part, "area_m2", "parts"), number_in(row, "area_m2", "ribs")
            yield abs(area / max(listed, 1e-9) - 1) * 100, f"{where}: area"
            if not pack.tool(label):
                length = number_in(part, "cut_length_mm", "parts")
                off = abs(length / max(number_in(row, "outline_length_mm", "ribs"), 1e-9) - 1) * 100
                yield off, f"{where}: length"
            off = abs(
                number_in(part, "thickness_mm", "parts") - number_in(row, "thickness_mm", "ribs")
            )
            yield 100.0 * (off > 0.01), f"{where}: thickness"
        if step is not None:
            off = abs(
                number_in(step, "thickness_mm", "assembly") - number_in(row, "thickness_mm", "ribs")
            )
            yield 100.0 * (off > 0.01), f"{where} and assembly.csv: thickness"
            fewer = number_in(row, "slots", "ribs") - len(step["meets"].split())
            locked = step["goes_in"] == "locked" or any(
                assembly[o]["goes_in"] == "locked" for o in step["meets"].split() if o in assembly
            )
            yield (
                100.0 * (fewer != 0 and not (locked and fewer > 0)),
                f"{where} and assembly.csv: slots",
            )
    if assembly:
        for label in sorted({r["label"] for r in pack.rows("ribs")} ^ set(assembly)):
            yield 100.0, f"{label} stands in one of ribs.csv and assembly.csv only"


def order_works(pack: Pack) -> Found:
    """Volumes (mm³) that ribs share with those in place on their way in, in the order of
    assembly.csv; a step that is missing, twice or unknown counts as much as can be."""
    rows, solids = pack.rows("assembly"), solids_in_place(pack)
    by_source: dict[str, list[dict[str, str]]] = {}
    sources = {r["label"]: r["source"] for r in pack.rows("parts")}
    for row in rows:
        by_source.setdefault(sources.get(row["label"], ""), []).append(row)
    for own in by_source.values():
        steps = [int(number_in(r, "step", "assembly")) for r in own]
        yield beyond(steps != list(range(1, len(own) + 1))), "assembly.csv: the steps do not follow"
        placed: Solids = {}
        for row in own:
            yield from _step_works(row, solids, placed)
    meets = {r["label"]: set(r["meets"].split()) for r in rows}
    for label, others in meets.items():
        for other in others:
            mutual = label in meets.get(other, set())
            yield (
                beyond(not mutual),
                f"{label} meets {other} in assembly.csv, but not the other way",
            )


def _step_works(row: dict[str, str], solids: Solids, placed: Solids) -> Found:
    label, where = row["label"], f"{row['label']} on its way in, assembly.csv"
    way = vector_in(row, "assembly", "way_{}")
    place, x, y = pose_of(row, "assembly")
    square = max(abs(x @ x - 1), abs(y @ y - 1), abs(x @ y))
    yield beyond(square > 1e-5 or not np.isfinite(place).all()), f"{where}: directions"
    size = float(np.linalg.norm(way))
    yield beyond(min(size, abs(size - 1)) > 1e-5), f"{where}: way"
    yield beyond(not _words_fit(row["goes_in"], way)), f"{where}: “{row['goes_in']}”"
    if label not in solids:
        return
    if row["goes_in"] != "locked":
        shared = 0.0
        # What is only stood in its place goes beside what is there.
        for back in STEPS if size else (0.0,):
            moved = solids[label].translate(tuple(-back * way))
            low, high = np.array(moved.bounding_box()).reshape(2, 3)
            for other in placed.values():
                a, b = np.array(other.bounding_box()).reshape(2, 3)
                if (a <= high).all() and (b >= low).all():
                    shared = max(shared, float((moved ^ other).volume()) * 1e9)
        yield shared, where
        placed[label] = solids[label]


def _words_fit(words: str, way: Any) -> bool:
    if words == "locked":
        return True
    if not way.any():
        return words == "stood up"
    if abs(way[2]) > 0.9:
        return words == ("from above" if way[2] < 0 else "from below")
    if not words.startswith("from the side, "):
        return False
    named = words.partition(", ")[2].replace("−", "-").split()
    side = np.zeros(2)
    for word in named:
        side["xy".index(word[1])] = 1.0 if word[0] == "+" else -1.0
    flat = -way[:2] / np.linalg.norm(way[:2])
    return bool(side.any()) and float(side @ flat) / float(np.linalg.norm(side)) > np.cos(
        np.radians(23)
    )


def bends_as_listed(pack: Pack) -> Found:
    """Pieces of bent ribs meet in space where they follow each other (mm), cover their outline,
    turn as their directions do (°), and their least radius is that of the schedule (%)."""
    pieces: dict[str, list[Row]] = {}
    for row in pack.rows("bends"):
        pieces.setdefault(row["label"], []).append(row)
    assembly = {r["label"]: r for r in pack.rows("assembly")}
    ribs = {r["label"]: r for r in pack.rows("ribs")}
    for label, rows in pieces.items():
        where = f"{label} in bends.csv"
        numbers = [int(number_in(r, "piece", "bends")) for r in rows]
        yield beyond(numbers != list(range(1, len(rows) + 1))), f"{where}: pieces do not follow"
        for row in rows:
            _, x, y = pose_of(row, "bends")
            along = _along(row)
            off = float(np.max(np.abs([x @ x - 1, y @ y - 1, x @ y, along @ along - 1])))
            yield beyond(off > 1e-5), f"{where}, piece {row['piece']}: directions"
        for one, two in itertools.pairwise(rows):
            ends = number_in(one, "to_mm", "bends"), number_in(two, "from_mm", "bends")
            yield abs(ends[1] - ends[0]), f"{where}, piece {one['piece']}"
            gap = np.linalg.norm(_on_piece(one, ends[0]) - _on_piece(two, ends[1]))
            yield (
                float(gap) * 1000,
                f"{where}: pieces {one['piece']} and {two['piece']} do not meet",
            )
            ways = [_way(r)[:2] for r in (one, two)]
            turn = np.degrees(
                np.arctan2(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0], ways[0] @ ways[1])
            )
            yield (
                abs(float(turn) - number_in(one, "turn_deg", "bends")),
                f"{where}, turn after {one['piece']}",
            )
        yield abs(number_in(rows[-1], "turn_deg", "bends")), f"{where}: turn after the last piece"
        yield from _covers(pack, label, rows, where)
        if label in assembly:
            frame = np.concatenate(pose_of(assembly[label], "assembly")[1:])
            apart_from = [
                np.abs(np.concatenate(pose_of(r, "bends")[1:]) - frame).max() for r in rows
            ]
            yield (
                beyond(min(apart_from) > 1e-5),
                f"{label} in assembly.csv stands as none of its pieces in bends.csv",
            )
        if label in ribs and len(rows) > 3:
            told, found = number_in(ribs[label], "radius_m", "ribs"), _mean_radius(rows)
            straight = min(told, found) > STRAIGHT_M
            yield (
                beyond(not straight and not 0.02 * found < told < 1.03 * found),
                f"{label} in ribs.csv: radius",
            )


def _along(row: Row) -> Any:
    """The way (2,) on the sheet in which a rib runs."""
    return np.array([number_in(row, f"along_{a}", "bends") for a in "xy"])


def _way(row: Row) -> Any:
    """The way (3,) in space in which a piece runs."""
    _, x, y = pose_of(row, "bends")
    along = _along(row)
    return along[0] * x + along[1] * y


def _on_piece(row: Row, at: float) -> Any:
    """Place (3,) in metres so far (mm) along a piece from the lower left corner of the outline."""
    return pose_of(row, "bends")[0] + at / 1000 * _way(row)


def _covers(pack: Pack, label: str, rows: list[Row], where: str) -> Found:
    """How much (mm) of the outline along the rib is in no piece, or of pieces not in the
    outline."""
    if label not in flat_of(pack).parts:
        return
    outline = flat_of(pack).parts[label][1].points
    along = (outline - outline.min(axis=0)) @ _along(rows[0])
    half = pack.tool(label) / 2
    for value, end in (
        (along.min() + half, number_in(rows[0], "from_mm", "bends")),
        (along.max() - half, number_in(rows[-1], "to_mm", "bends")),
    ):
        yield max(abs(float(value) - end) - 0.1, 0.0), f"{where}: its ends"


def _mean_radius(rows: list[Row]) -> float:
    """The mean radius (m) that pieces and their turns stand for, which is no less than the
    least."""
    ends = number_in(rows[0], "from_mm", "bends"), number_in(rows[-1], "to_mm", "bends")
    first = (
        number_in(rows[0], "to_mm", "bends") - ends[0],
        ends[1] - number_in(rows[-1], "from_mm", "bends"),
    )
    # Half of the first and the last piece belong to no turn.
    length = (ends[1] - ends[0] - sum(first) / 2) / 1000
    turns = float(np.sum([abs(np.radians(number_in(r, "turn_deg", "bends"))) for r in rows[:-1]]))
    return float(length / max(turns, 1e-9))
