"""Ribs: their schedule, and put together again from sheets, poses and bends."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np
import shapely
import trimesh
from shapely.affinity import affine_transform

from ...core.geometry.meshes import mesh_of_triangles
from ...core.geometry.nearest import MeshSearch
from .flat import flat_of
from .pack_files import RINGS, Found, Pack, PackError, Row, beyond, number_in, vector_in
from .panels import pose_of
from .proof import apart, ribs_in_place, told_of_tools

__all__ = [
    "bends_as_listed",
    "edges_on_bodies",
    "order_works",
    "ribs_apart",
    "ribs_as_parts",
]

Solids = dict[str, manifold3d.Manifold]
STEPS = (0.002, 0.02, 0.2)
"""How far (m) back along its way a rib is looked at before it is in its place."""
ALONG_MM = 20.0
STRAIGHT_M = 1e5
"""A rib of a larger radius is not bent."""
SLOT_MM = 40.0
ROUND, SAGITTA = np.radians(20.0), 5.0
"""Faces at a smaller angle (rad) are of something round: its sagitta over an edge is an eighth of
the angle times the length, and a little more over a triangle of such edges."""
JOINT_MM = 1.0
"""Lengths of a spliced rib are grown by so much to close the joints between them, and shrunk."""


def ribs_apart(pack: Pack) -> Found:
    rows, solids = pack.rows("assembly"), ribs_in_place(pack)
    clearance = max(pack.clearances, default=0.0)
    gaps = [
        float(c["figures"]["joint_gap"]["value"])
        for c in pack.report["clauses"]
        if "joint_gap" in c["figures"]
    ]
    for column, spare in (("meets", max(clearance, 0.0) / 2), ("joins", max(gaps, default=0.0))):
        for value, pair in apart(rows, solids, column, spare):
            yield told_of_tools(pack, value, pair)


def edges_on_bodies(pack: Pack) -> Found:
    """How far (mm) outlines of ribs, put back in space, lie from the body they are cut from, slots
    and what the clause says is off it by intent left out. Spliced ribs are joined before."""
    bodies = _bodies(pack)
    solids = ribs_in_place(pack)
    sources = {r["label"]: r["source"] for r in pack.rows("parts")}
    clauses = {c["id"]: c for c in pack.report["clauses"]}
    bent = {r["label"] for r in pack.rows("bends")}
    for joined in _joined(pack.rows("assembly")):
        label = joined[0]["label"]
        clause = clauses.get(sources.get(label, ""), {})
        while "ribs" in clause.get("inputs", {}):
            # Spliced ribs lie where those do that they are lengths of.
            clause = clauses.get(clause["inputs"]["ribs"][0], {})
        if label not in solids or "away" not in clause.get("figures", {}):
            continue
        if _is_ring(pack, joined[0], clause):
            continue
        body = bodies.get(clause.get("inputs", {}).get("shape", [""])[0])
        told = float(clause["figures"]["away"]["value"])
        if body is None or label in bent:
            # A bent rib follows its curve in plane pieces; its clause measures it.
            yield told, f"{label} in report.json"
            continue
        off = np.sort(body.off(_edge_points(pack, joined)))[::-1]
        # Where others pass there are slots: as many places as these take may lie inside.
        slots = sum(SLOT_MM + 2 * depth for row in joined for depth in _slot_depths(pack, row))
        skipped = int(np.ceil(slots / ALONG_MM)) + 4
        share = float(off[min(skipped, len(off) - 1)])
        yield max(share, told), f"{label} of ribs.csv off its body in solids.glb"


def _is_ring(pack: Pack, row: Row, clause: dict[str, Any]) -> bool:
    """Whether a part is one of the rings that keep slices apart, which lie inside the body."""
    rib = next((r for r in pack.rows("ribs") if r["label"] == row["label"]), None)
    return rib is not None and "rings" in clause["figures"] and rib["set"].endswith(RINGS)


def _slot_depths(pack: Pack, row: Row) -> list[float]:
    """Depth (mm) at most of the slots in a rib: half of what it shares with another, or all its
    height."""
    label = row["label"]
    low_x, low_y, high_x, high_y = _flat_part(pack, row).bounds
    tall = min(high_x - low_x, high_y - low_y)
    rib = next((r for r in pack.rows("ribs") if r["label"] == label), None)
    if rib is None:
        raise PackError(f"{label} of assembly.csv is not in ribs.csv")
    return [tall] * int(number_in(rib, "slots", "ribs"))


def _flat_part(pack: Pack, row: Row) -> Any:
    """The part of a row of the assembly, in mm from the lower left corner of its outline."""
    if row["label"] not in flat_of(pack).parts:
        raise PackError(f"{row['label']} of assembly.csv lies on no sheet")
    drawn = flat_of(pack).parts[row["label"]][1].points
    return shapely.Polygon(drawn - drawn.min(axis=0)).buffer(-pack.tool(row["label"]) / 2)


def _edge_points(pack: Pack, joined: list[Row]) -> Any:
    """Places (n, 3) in metres along the outer outline of a rib, its lengths joined in the plane of
    the first."""
    place, x, y = pose_of(joined[0], "assembly")
    shapes = []
    for row in joined:
        there, right, up = pose_of(row, "assembly")
        # As affine_transform wants it: the turn by rows, then the shift.
        off = (there - place) * 1000
        numbers = [right @ x, up @ x, right @ y, up @ y, off @ x, off @ y]
        carried = affine_transform(_flat_part(pack, row), [float(n) for n in numbers])
        shapes.append(carried.buffer(JOINT_MM, join_style="mitre") if len(joined) > 1 else carried)
    whole = shapely.union_all(shapes)
    if len(joined) > 1:
        whole = whole.buffer(-JOINT_MM, join_style="mitre")
    every = []
    for piece in shapely.get_parts(whole):
        closed = shapely.get_coordinates(piece.exterior)
        at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
        wanted = np.arange(0, at[-1], ALONG_MM)
        every.append(np.column_stack([np.interp(wanted, at, closed[:, k]) for k in range(2)]))
    flat = np.concatenate(every)
    return place + (flat[:, :1] * x + flat[:, 1:] * y) / 1000


@dataclass(frozen=True, eq=False)
class _Body:
    """The triangles of a body, and how far (mm) inside of what is round each may lie."""

    search: MeshSearch
    inside: Any

    @classmethod
    def of(cls, mesh: trimesh.Trimesh) -> _Body:
        places = np.asarray(mesh.vertices)[:, [0, 2, 1]] * [1.0, -1.0, 1.0]
        found = mesh_of_triangles(places, np.asarray(mesh.faces))
        angle, beside = np.asarray(mesh.face_adjacency_angles), np.asarray(mesh.face_adjacency)
        turn = np.zeros(len(mesh.faces))
        smooth = angle < ROUND
        for k in range(2):
            np.maximum.at(turn, beside[smooth, k], angle[smooth])
        corner = places[found.triangles]
        longest = np.linalg.norm(corner - np.roll(corner, 1, axis=1), axis=2).max(axis=1)
        return cls(found.search, longest * turn / SAGITTA * 1000)

    def off(self, points: Any) -> Any:
        """How far (mm) points (n, 3) lie from the body, more than its triangles may."""
        triangle, _, off = self.search.nearest(points)
        return np.maximum(off * 1000 - self.inside[triangle], 0.0)


def _bodies(pack: Pack) -> dict[str, _Body]:
    """Each body of solids.glb."""
    path = pack.folder / "solids.glb"
    if not path.is_file():
        return {}
    try:
        scene = trimesh.load_scene(path)
    except (ValueError, KeyError, IndexError, TypeError) as error:
        raise PackError(f"solids.glb cannot be read: {error}") from None
    out = {}
    for name, mesh in scene.geometry.items():
        out[str(name)] = _Body.of(mesh)
    return out


def ribs_as_parts(pack: Pack) -> Found:
    """Areas (% off), lengths, thicknesses, sets and slots of ribs.csv against parts and
    assembly."""
    assembly = {r["label"]: r for r in pack.rows("assembly")}
    poses = {r["label"]: r for r in pack.rows("poses")}
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
        if part is not None and part["sheet"] and step is not None and label in poses:
            # What runs to the right on the sheet is what ran at that angle in its own drawing.
            right = pose_of(step, "assembly")[1]
            _, x, y = pose_of(poses[label])
            turn = np.degrees(np.arctan2(right @ y, right @ x))
            turned = number_in(part, "rotation_deg", "parts") + turn
            yield abs(float((turned + 180) % 360 - 180)), f"{where}: rotation in parts.csv"
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
    rows, solids = pack.rows("assembly"), ribs_in_place(pack)
    by_source: dict[str, list[dict[str, str]]] = {}
    sources = {r["label"]: r["source"] for r in pack.rows("parts")}
    for row in rows:
        by_source.setdefault(sources.get(row["label"], ""), []).append(row)
    for own in by_source.values():
        steps = [int(number_in(r, "step", "assembly")) for r in own]
        yield beyond(steps != list(range(1, len(own) + 1))), "assembly.csv: the steps do not follow"
        placed: Solids = {}
        for joined in _joined(own):
            yield from _joint_works(joined)
            for row in joined:
                yield from _step_works(row, solids, placed)
            placed |= {
                r["label"]: solids[r["label"]]
                for r in joined
                if r["label"] in solids and r["goes_in"] != "locked"
            }
    for column in ("meets", "joins"):
        others = {r["label"]: set(r[column].split()) for r in rows}
        for label, named in others.items():
            for other in named:
                yield (
                    beyond(label not in others.get(other, set())),
                    f"{label} {column} {other} in assembly.csv, but not the other way",
                )


def _joined(rows: list[Row]) -> list[list[Row]]:
    """Steps that are done at once, as what they put in is joined before: those that follow each
    other and of which each joins one before it."""
    out: list[list[Row]] = []
    for row in rows:
        others = set(row["joins"].split())
        if out and others & {r["label"] for r in out[-1]}:
            out[-1].append(row)
        else:
            out.append([row])
    return out


def _joint_works(joined: list[Row]) -> Found:
    """Lengths that are joined are all of those they join, lie in one plane and go in one way."""
    labels = {r["label"] for r in joined}
    for row in joined:
        where = f"{row['label']} in assembly.csv"
        yield beyond(not set(row["joins"].split()) <= labels), f"{where}: joins"
        alike = all(row[f"way_{a}"] == joined[0][f"way_{a}"] for a in "xyz")
        yield beyond(not alike or row["goes_in"] != joined[0]["goes_in"]), f"{where}: way"


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
