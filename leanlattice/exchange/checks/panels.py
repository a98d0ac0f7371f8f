"""Panels: their outlines against the nodes they are to fit between, in the flat and put back in
space."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .flat import flat_of, polygon_of
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, tolerance_of, vector_in

__all__ = [
    "MOVED",
    "angle_within",
    "corners_of",
    "held_back",
    "outline_in_pose",
    "panel_sides",
    "panels_as_nodes",
    "panels_at_nodes",
    "panels_cut_alike",
    "panels_in_place",
    "panels_meet",
    "places_in_pose",
    "plane_of",
    "pose_of",
    "poses_as_parts",
    "types_of_panels",
]

Array = NDArray[np.float64]
Plane = tuple[Array, Array, Array]
ROUNDED_DEG = 0.03
"""What angles differ by, as places are rounded."""
ROUND = 90
"""Chords of a quarter circle."""
MOVED = 2.5
"""Times what corners of one that is cut as others are off its own, that sides and corners are."""
CHORDS_MM = 0.05
"""What rounding corners again, that are of chords, takes off these."""
ALIKE_MM = 0.01
"""What parts that are cut alike differ by, as their places are rounded."""
ROUNDED_MM = 0.002
"""What places of nodes may differ by as they are written to a micrometre."""


def panels_at_nodes(pack: Pack) -> list[Row]:
    """Panels at the nodes of a structure; others have nothing to be held against."""
    return [row for row in pack.rows("panels") if row["corners"].strip()]


def corners_of(pack: Pack, row: Row) -> Array:
    """Places (n, 3) in mm of a panel's nodes, and of its tip where it has one."""
    return np.array([_place(pack, c) for c in row["corners"].split()]) * 1000


def _place(pack: Pack, corner: str) -> Array:
    """Where a corner is, in metres: a node's label, or a place."""
    if corner in pack.nodes:
        return np.asarray(pack.nodes[corner])
    given = corner.split("/")
    if len(given) != 3:
        raise PackError(f"node {corner} of panels.csv is not in nodes.csv")
    return np.array(given, float)


def plane_of(corners: Array) -> tuple[Array, Array, Array]:
    """Middle (3,), axes (2, 3) and normal (3,) of the best plane, counter-clockwise about the
    normal."""
    middle = corners.mean(axis=0)
    axes = np.linalg.svd(corners - middle)[2]
    flat = (corners - middle) @ axes[:2].T
    x, y = flat.T
    if np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) < 0:
        axes = axes * [[1.0], [-1.0], [1.0]]
    return middle, axes[:2], np.cross(axes[0], axes[1])


def panel_sides(pack: Pack) -> Found:
    """Sides of panels on sheets against the edges between their nodes less the joint (mm)."""
    flat = flat_of(pack)
    for row in panels_at_nodes(pack):
        label = row["label"]
        if label not in flat.parts:
            continue
        number, outline, _ = flat.parts[label]
        joint = number_in(pack.part_rows[label], "joint_mm", "parts")
        radius, tool = number_in(row, "corner_radius_mm", "panels"), pack.tool(label)
        expected = _straight_sides(held_back(corners_of(pack, row), joint)[0], radius, tool)
        given = np.linalg.norm(np.roll(outline.points, -1, axis=0) - outline.points, axis=1)
        is_sharp = not radius and not tool
        if not is_sharp:
            # Sides are longer than chords of arcs about corners.
            given = given[np.sort(np.argsort(given)[-len(expected) :])]
        where = f"{label} on sheet {number}"
        if len(given) != len(expected):
            yield np.inf, f"{where} has {len(given)} sides for {len(expected)} corners"
            continue
        off = _off_turned(given, expected, 1 if is_sharp else len(given))
        k, names = int(np.argmax(off)), row["corners"].split()
        side = f"side {names[k]}–{names[(k + 1) % len(names)]}"
        yield max(float(off[k]) - _room(row), 0.0), f"{where}, {side}"


def _off_turned(given: Array, expected: Array, turns: int) -> Array:
    """How far lengths (n,) are off others (n,), of so many turns where they are so least."""
    every = np.array([np.abs(np.roll(given, k) - expected) for k in range(turns)])
    return np.asarray(every[every.max(axis=1).argmin()])


def held_back(corners: Array, joint: float) -> tuple[Array, Array, Array, Array]:
    """Corners (n, 2) of a panel held back by half the joint in its plane, and that plane."""
    middle, axes, normal = plane_of(corners)
    flat = (corners - middle) @ axes.T
    edge = np.roll(flat, -1, axis=0) - flat
    edge /= np.linalg.norm(edge, axis=1, keepdims=True)
    after = np.column_stack([-edge[:, 1], edge[:, 0]])
    before = np.roll(after, 1, axis=0)
    share = np.maximum(1 + np.einsum("ij,ij->i", after, before), 1e-9)
    return flat + joint / 2 * (after + before) / share[:, None], middle, axes, normal


def _straight_sides(points: Array, radius: float, tool: float) -> Array:
    """Lengths of an outline's sides as they are drawn: outward corners are rounded to a radius, and
    a tool that runs beside the outline goes round these and does not reach into inward ones."""
    after = np.roll(points, -1, axis=0) - points
    before = np.roll(after, 1, axis=0)
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turn = np.arctan2(cross, np.einsum("ij,ij->i", before, after))
    taken = np.where(turn > 0, radius, tool / 2) * np.tan(np.abs(turn) / 2)
    return np.asarray(np.linalg.norm(after, axis=1) - taken - np.roll(taken, -1))


def panels_as_nodes(pack: Pack) -> Found:
    """Areas (thousandths of m²) and flatness (mm) of panels.csv, worked out from nodes.csv; only
    panels that were made without a structure may have no nodes."""
    rows = panels_at_nodes(pack)
    alone = [c for c in pack.report["clauses"] if c["kind"] == "panels" and c["status"] == "done"]
    counts = [c["figures"]["panels"]["value"] for c in alone if "frame" not in c["inputs"]]
    without = len(pack.rows("panels")) - len(rows)
    yield beyond(without > sum(counts)), f"{without} rows of panels.csv have no corners"
    for row in rows:
        where = f"{row['label']} in panels.csv"
        lost = [c for c in row["corners"].split() if c not in pack.nodes and "/" not in c]
        if lost or len(row["corners"].split()) < 3:
            yield np.inf, f"{where}: node {lost[0] if lost else '…'} is not in nodes.csv"
            continue
        corners = corners_of(pack, row)
        d = corners - corners[0]
        area = float(np.linalg.norm(np.cross(d, np.roll(d, -1, axis=0)).sum(axis=0)) / 2) / 1e6
        yield (
            max(abs(area - number_in(row, "area_m2", "panels")) - 6e-5, 0.0) * 1000,
            f"{where}: area",
        )
        middle, _, normal = plane_of(corners)
        flatness = 0.0 if len(corners) == 3 else float(np.abs((corners - middle) @ normal).max())
        yield abs(flatness - number_in(row, "flatness_mm", "panels")), f"{where}: flatness"
        number_in(row, "raised_mm", "panels")


def panels_meet(pack: Pack) -> Found:
    """Angles (°) at the sides of panels, worked out from the places of their corners, and whether
    what is told to lie beyond a side has that side too."""
    rows = {row["label"]: row for row in panels_at_nodes(pack)}
    planes = {label: plane_of(corners_of(pack, row)) for label, row in rows.items()}
    for label, row in rows.items():
        corners, beyond_it = row["corners"].split(), row["beyond"].split()
        angles = row["angles_deg"].split()
        where = f"{label} in panels.csv: sides"
        yield beyond(not len(corners) == len(beyond_it) == len(angles)), where
        for k, (other, angle) in enumerate(zip(beyond_it, angles, strict=False)):
            ends = corners[k], corners[(k + 1) % len(corners)]
            if other not in rows:
                # Panels of one clause may lie beside others that have no nodes.
                yield beyond((other == "-") != (angle == "-")), f"{where}: {other}"
                yield beyond(other != "-" and not _is_listed(pack, other)), f"{where}: {other}"
                continue
            shared = set(ends) <= set(rows[other]["corners"].split())
            yield beyond(not shared), f"{where}: {other} has no side {ends[0]}–{ends[1]}"
            wanted = _angle(corners_of(pack, row), k, planes[label], planes[other])
            yield max(abs(float(angle) - wanted) - ROUNDED_DEG, 0.0), f"{where}: {other}"
        yield from _borders(rows, label)


def _borders(rows: dict[str, Row], label: str) -> Found:
    """Whether no other panel has a side that is told to have nothing beyond."""
    row = rows[label]
    corners, open_sides = row["corners"].split(), row["beyond"].split()
    for k, other in enumerate(open_sides[: len(corners)]):
        if other == "-":
            ends = {corners[k], corners[(k + 1) % len(corners)]}
            beside = (r for name, r in rows.items() if name != label)
            met = any(ends <= set(r["corners"].split()) and _named(r, label) for r in beside)
            yield beyond(met), f"{label} in panels.csv: sides"


def _named(row: Row, label: str) -> bool:
    return label in row["beyond"].split()


def _is_listed(pack: Pack, label: str) -> bool:
    return any(row["label"] == label for row in pack.rows("panels"))


def _angle(corners: Array, k: int, one: Plane, other: Plane) -> float:
    """The angle (°) below two panels at side ``k`` of the first, whose corners (n, 3) are given."""
    return angle_within(corners[(k + 1) % len(corners)] - corners[k], one[2], other[2])


def angle_within(along: Array, one: Array, other: Array) -> float:
    """The angle (°) on the inside of two faces with outward unit normals (3,), about a side that
    runs ``along`` (3,) counter-clockwise round the first."""
    sine = np.cross(one, other) @ along / max(float(np.linalg.norm(along)), 1e-12)
    return float(180 - np.degrees(np.arctan2(sine, one @ other)))


def types_of_panels(pack: Pack) -> Found:
    """How far (mm) sides of panels of one type differ, beyond what they are told to be equal
    within."""
    tolerance = tolerance_of(pack)
    leader: dict[str, tuple[str, Array]] = {}
    for row in panels_at_nodes(pack):
        corners = corners_of(pack, row)
        sides = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
        name, first = leader.setdefault(row["type"], (row["label"], sides))
        where = f"{row['label']} and {name} of type {row['type']} in panels.csv"
        if len(first) != len(sides):
            yield np.inf, where
            continue
        off = min(float(np.abs(np.roll(sides, k) - first).max()) for k in range(len(sides)))
        yield max(off - 2 * tolerance, 0.0), where
        yield float(row["type"] == ""), f"{row['label']} in panels.csv has no type"


def pose_of(row: Row, table: str = "poses") -> tuple[Array, Array, Array]:
    """Place (3,) in metres and the directions (3,) of x and y of a row."""
    return (
        vector_in(row, table, "{}_m"),
        vector_in(row, table, "right_{}"),
        vector_in(row, table, "up_{}"),
    )


def poses_as_parts(pack: Pack) -> Found:
    """One pose for every part, bent ones apart, its directions square and of unit length
    (thousandths)."""
    poses = {r["label"]: r for r in pack.rows("poses")}
    if poses:
        yield float(len(pack.rows("poses")) - len(poses)), "a label stands twice in poses.csv"
    bent = {r["label"] for r in pack.rows("bends")}
    for label, row in poses.items():
        place, x, y = pose_of(row)
        off = max(abs(x @ x - 1), abs(y @ y - 1), abs(x @ y))
        yield float(off) * 1000, f"{label} in poses.csv"
        yield beyond(not np.isfinite(place).all()), f"{label} in poses.csv"
    wanted = {label for label in pack.part_rows if "." not in label} - bent
    if "parts" in pack.tables and poses:
        for label in sorted(wanted ^ set(poses)):
            missing = "poses" if label in wanted else "parts"
            yield np.inf, f"{label} is missing in {missing}.csv"


def panels_in_place(pack: Pack) -> Found:
    """How far (mm) panels, put back where poses.csv says, lie from between their nodes."""
    flat = flat_of(pack)
    poses = {r["label"]: r for r in pack.rows("poses")}
    for row in panels_at_nodes(pack):
        label = row["label"]
        if label not in poses:
            continue
        place, x, y = pose_of(poses[label])
        where = f"{label} in poses.csv"
        corners = corners_of(pack, row)
        middle, axes, normal = plane_of(corners)
        off = (place * 1000 - middle) @ normal - number_in(row, "raised_mm", "panels")
        yield abs(float(off)), f"{where} or raised in panels.csv"
        # The plane of a narrow panel turns by what its nodes are rounded by.
        narrow = float(np.ptp((corners - middle) @ axes.T, axis=0).min())
        slack = ROUNDED_MM / max(narrow, ROUNDED_MM) * 1000
        turned = float(np.linalg.norm(np.cross(x, y) - normal)) * 1000
        yield max(turned - slack, 0.0), f"{where}: turned over or off its plane"
        if label not in flat.parts:
            continue
        where = f"{label} of sheet {flat.parts[label][0]} by parts.csv and poses.csv"
        yield max(_off_corners(pack, row, corners, (place, x, y)) - _room(row), 0.0), where


def _room(row: Row) -> float:
    """How far (mm) what is cut of a panel may be off what its nodes ask for."""
    return MOVED * number_in(row, "off_mm", "panels")


def panels_cut_alike(pack: Pack) -> Found:
    """How far (mm) panels that are cut alike are off their nodes otherwise than they are told to
    be, and how much sides of a type differ."""
    leads: dict[str, tuple[str, Array]] = {}
    poses = {r["label"]: r for r in pack.rows("poses")}
    for row in panels_at_nodes(pack):
        label = row["label"]
        yield beyond(row["cut"] not in ("own", "alike")), f"{label} in panels.csv: cut"
        if row["cut"] == "own":
            yield beyond(number_in(row, "off_mm", "panels") != 0), f"{label} in panels.csv: off"
            continue
        if label not in poses or label not in flat_of(pack).parts:
            continue
        outline = outline_in_pose(pack, label)
        yield from _moved(pack, row, outline, poses[label])
        sides = np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1)
        name, first = leads.setdefault(row["type"], (label, sides))
        turns = [np.abs(np.roll(sides, k) - first).max() for k in range(len(sides))]
        differ = min(turns) if len(first) == len(sides) else np.inf
        yield max(float(differ) - ALIKE_MM, 0.0), f"{label} and {name}, cut alike"


def _moved(pack: Pack, row: Row, outline: Array, pose: Row) -> Found:
    """How far (mm) an outline (n, 2) that is cut as others is off its nodes otherwise than it is
    told to be, and rounding its corners again takes off it."""
    radius, shape = number_in(row, "corner_radius_mm", "panels"), shapely.Polygon(outline)
    rounded = shape.hausdorff_distance(_rounded(shape, radius)) - CHORDS_MM
    yield max(float(rounded), 0.0), f"{row['label']} in panels.csv: radius of corners"
    is_sharp = not radius and not pack.tool(row["label"])
    if is_sharp and not number_in(row, "twist_mm", "panels"):
        off = _off_nodes(pack, row, outline, pose) - number_in(row, "off_mm", "panels")
        yield max(abs(off) - ALIKE_MM, 0.0), f"{row['label']} in panels.csv: off"


def _off_nodes(pack: Pack, row: Row, outline: Array, pose: Row) -> float:
    """How far (mm) corners of an outline (n, 2) in its own frame, the joint added to it again, are
    from the nodes of a panel in its plane, at most."""
    place, x, y = pose_of(pose)
    turning = shapely.is_ccw(shapely.LinearRing(outline))
    outline = outline if turning else outline[::-1]
    space = place * 1000 + outline[:, :1] * x + outline[:, 1:] * y
    joint = number_in(pack.part_rows[row["label"]], "joint_mm", "parts")
    whole, middle, axes, _ = held_back(space, -joint)
    nodes = corners_of(pack, row)
    own = (nodes - middle) @ axes.T
    away = [np.linalg.norm(np.roll(whole, k, axis=0) - own, axis=1) for k in range(len(own))]
    return min(float(apart.max()) for apart in away) if len(whole) == len(own) else np.inf


def _off_corners(pack: Pack, row: Row, corners: Array, pose: Plane) -> float:
    """How far (mm) a panel's outline, put back by a pose, is from what the joint leaves between
    corners (n, 3), its own corners rounded."""
    joint = number_in(pack.part_rows[row["label"]], "joint_mm", "parts")
    inset, middle, axes, _ = held_back(corners, joint)
    own, (place, x, y) = outline_in_pose(pack, row["label"]), pose
    space = place * 1000 + own[:, :1] * x + own[:, 1:] * y
    here = shapely.Polygon((space - middle) @ axes.T)
    wanted = _rounded(shapely.Polygon(inset), number_in(row, "corner_radius_mm", "panels"))
    return float(here.hausdorff_distance(wanted))


def _rounded(polygon: shapely.Polygon, radius: float) -> Any:
    """What a disc of a ``radius`` sweeps within a polygon."""
    if not radius:
        return polygon
    return polygon.buffer(-radius, quad_segs=ROUND).buffer(radius, quad_segs=ROUND)


def outline_in_pose(pack: Pack, label: str) -> Array:
    """Outline (n, 2) in mm of a part on a sheet in its own frame, from its lower left corner on."""
    return places_in_pose(pack, label, _own_outline(pack, label))


def places_in_pose(pack: Pack, label: str, places: Array) -> Array:
    """Places (…, 2) in mm on a part's sheet in the part's own frame, from its lower left corner
    on."""
    turn = -np.radians(number_in(pack.part_rows[label], "rotation_deg", "parts"))
    c, s = np.cos(turn), np.sin(turn)
    back = np.array([[c, s], [-s, c]])
    return np.asarray(places @ back - (_own_outline(pack, label) @ back).min(axis=0))


def _own_outline(pack: Pack, label: str) -> Array:
    """Outline (n, 2) in mm of a part itself on its sheet, whatever tool runs beside it."""
    outline = flat_of(pack).parts[label][1]
    return np.asarray(polygon_of(outline, [], pack.tool(label)).exterior.coords)[:-1]
