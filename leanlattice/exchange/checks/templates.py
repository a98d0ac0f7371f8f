"""Templates: their outlines, put back in space, against the solids they were drawn of."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from .flat import SIDE_MM, flat_of
from .models import meshes_in
from .pack_files import Found, Pack, Row, beyond, number_in
from .panels import angle_within, outline_in_pose, pose_of

__all__ = ["openings_as_solids", "templates_as_solids"]

Array = NDArray[np.float64]
ROOM_MM = 0.02
"""What places of models may differ by, as they are of single precision."""
ROUNDING_MM = 0.005
"""What places and how far they are off are rounded by."""
ROOM_DEGREES = 0.1
UNSTRETCHED = 1e-3
"""Per cent up to which a plane template may be said to be stretched."""


def templates_as_solids(pack: Pack) -> Found:
    """Templates against the solids of bodies.csv and model.glb (mm, degrees): what they are of and
    for how many; where their corners come to lie; what lies beyond their sides, and at which
    angles."""
    rows = pack.rows("templates")
    if not rows:
        return
    yield from _listed(pack, rows)
    yield from _as_reported(pack, rows)
    if "poses" not in pack.tables or not pack.has("model.glb"):
        return
    solids = _solids(pack, {row["solid"] for row in rows})
    faces = {row["label"]: face for row in rows if (face := _face(pack, row, solids)) is not None}
    for row in rows:
        if row["label"] in faces:
            yield from _in_place(row, faces)


def openings_as_solids(pack: Pack) -> Found:
    """Openings against their templates and the solids of model.glb (mm): how many each template is
    for, and where its corners come to lie in each."""
    rows = pack.rows("openings")
    templates = {row["label"]: row for row in pack.rows("templates") if not row["face"]}
    yield from _openings_listed(rows, templates)
    if not rows or not pack.has("model.glb"):
        return
    meshes = meshes_in(pack, "model.glb")
    seen: dict[tuple[float, ...], str] = {}
    for row in rows:
        if row["template"] not in flat_of(pack).parts or row["solid"] not in meshes:
            continue
        where = f"{row['label']} in openings.csv"
        place, x, y = pose_of(row, "openings")
        own = outline_in_pose(pack, row["template"]) * _grown(templates.get(row["template"]))
        corners = place * 1000 + own[:, :1] * x + own[:, 1:] * y
        middle = tuple(np.round(corners.mean(axis=0), 0).tolist())
        yield beyond(middle in seen), f"{where} lies where {seen.get(middle)} does"
        seen[middle] = row["label"]
        vertices, _ = meshes[row["solid"]]
        yield from _corners_on(
            corners, vertices * 1000, number_in(row, "off_mm", "openings"), where
        )


def _openings_listed(rows: list[Row], templates: dict[str, Row]) -> Found:
    """Openings in the order of their templates, and what these say of them."""
    of: dict[str, list[Row]] = {label: [] for label in templates}
    for row in rows:
        where = f"{row['label']} in openings.csv"
        own = of.get(row["template"])
        yield beyond(own is None), f"{where}: there is no template “{row['template']}”"
        if own is not None:
            own.append(row)
            yield beyond(row["label"] != f"{row['template']}.{len(own)}"), f"{where}: label"
    for label, row in templates.items():
        where = f"{label} in templates.csv and openings.csv"
        own = of[label]
        yield abs(len(own) - number_in(row, "pieces", "templates")), f"{where}: pieces"
        for column in ("solid", "off_mm") if own else ():
            yield beyond(row[column] != own[0][column]), f"{where}: {column}"


def _corners_on(corners: Array, vertices: Array, off: float, where: str) -> Found:
    """How far corners (k, 3) lie from a solid's vertices (n, 3) beyond what they are told to be
    ``off``, all in mm; and whether it is less, where no other vertex is nearer than their own."""
    room = ROUNDING_MM + 1e-6 * float(np.abs(vertices).max())
    tree = scipy.spatial.cKDTree(np.unique(np.round(vertices, 3), axis=0))
    away = np.asarray(tree.query(corners, 2)[0])
    farthest = float(away[:, 0].max())
    yield max(farthest - off - room, 0.0), where
    if farthest < away[:, 1].min() / 2:
        yield beyond(off - farthest > room), f"{where} is said to be {off:g} mm off"


def _listed(pack: Pack, rows: list[Row]) -> Found:
    """Solids, types, counts and faces, and areas against those of the parts."""
    bodies = {r["label"]: r for r in pack.rows("bodies")}
    seen: set[str] = set()
    for row in rows:
        label = row["label"]
        where = f"{label} in templates.csv"
        yield beyond(label in seen), f"{where} stands twice"
        seen.add(label)
        own = bodies.get(row["solid"])
        yield beyond(own is None), f"{where}: there is no solid “{row['solid']}” in bodies.csv"
        if own is not None:
            yield beyond(own["type"] != row["type"]), f"{where}: type"
            yield from _for_so_many(row, bodies, where)
        sides = row["beyond"].split(), row["angles_deg"].split()
        yield beyond(len(sides[0]) != len(sides[1])), f"{where}: sides"
        part = pack.part_rows.get(label)
        if part is not None:
            off = number_in(row, "area_m2", "templates") - number_in(part, "area_m2", "parts")
            yield abs(off) * 1e6, f"{where}: area"


def _for_so_many(row: Row, bodies: dict[str, Row], where: str) -> Found:
    """Whether a label is that of the solid or of its type, and for how many solids that is."""
    if not row["face"]:
        return  # of openings, which are told apart
    of, _, face = row["label"].rpartition("-")
    yield beyond(of not in (row["solid"], row["type"])), f"{where} is of “{row['solid']}”"
    alike = sum(r["type"] == row["type"] for r in bodies.values())
    wanted = alike if of == row["type"] else 1
    yield beyond(number_in(row, "pieces", "templates") != wanted), f"{where}: pieces"
    yield beyond(face != row["face"]), f"{where}: face"


def _as_reported(pack: Pack, rows: list[Row]) -> Found:
    told = [c["figures"] for c in pack.report["clauses"] if "templates" in c["figures"]]
    said = sum(float(figures["templates"]["value"]) for figures in told)
    yield abs(said - len(rows)), f"report.json says {said:g} templates for {len(rows)}"


class _Solid(NamedTuple):
    """The corners (t, 3, 3) in mm of a solid's triangles, a tree of them, and the least distance
    (mm) of two that differ."""

    triangles: Array
    corners: scipy.spatial.cKDTree
    spacing: float


class _Face(NamedTuple):
    """A template in its place: the corners (k, 3) of its outline in mm, its normal (3,), how far
    (mm) it is told to be off its face, and its solid."""

    corners: Array
    normal: Array
    off: float
    solid: _Solid


def _solids(pack: Pack, labels: set[str]) -> dict[str, _Solid]:
    """Those of the labels that are in the model."""
    meshes = meshes_in(pack, "model.glb")
    out = {}
    for label in labels & meshes.keys():
        places, triangles = meshes[label]
        corners = places[triangles] * 1000
        tree = scipy.spatial.cKDTree(corners.reshape(-1, 3))
        out[label] = _Solid(corners, tree, _spacing(corners))
    return out


def _face(pack: Pack, row: Row, solids: dict[str, _Solid]) -> _Face | None:
    """``None`` of one that is on no sheet or of no solid."""
    label = row["label"]
    pose = next((r for r in pack.rows("poses") if r["label"] == label), None)
    if pose is None or label not in flat_of(pack).parts or row["solid"] not in solids:
        return None
    place, x, y = pose_of(pose)
    own = _counter_clockwise(outline_in_pose(pack, label)) * _grown(row)
    corners = place * 1000 + own[:, :1] * x + own[:, 1:] * y
    off = number_in(row, "off_mm", "templates")
    return _Face(corners, np.cross(x, y), off, solids[row["solid"]])


def _grown(row: Row | None) -> float:
    """How many times as large as it is cut a template stands."""
    return 1.0 if row is None else 1 / (1 - number_in(row, "smaller_percent", "templates") / 100)


def _counter_clockwise(outline: Array) -> Array:
    after = np.roll(outline, -1, axis=0)
    area = (outline[:, 0] * after[:, 1] - outline[:, 1] * after[:, 0]).sum()
    return outline if area > 0 else outline[::-1]


def _in_place(row: Row, faces: dict[str, _Face]) -> Found:
    face, where = faces[row["label"]], f"{row['label']} in templates.csv or poses.csv"
    solid, off, is_plane = face.solid, face.off, face.off <= SIDE_MM
    room = ROOM_MM + 1e-6 * float(np.abs(solid.triangles).max())
    farthest = float(np.max(solid.corners.query(face.corners)[0]))
    yield max(farthest - off - room, 0.0), where
    if farthest < solid.spacing / 2:  # no other corner is nearer than its own
        yield max(off - farthest - room, 0.0), f"{where} is said to be {off:g} mm off its face"
    if not is_plane:
        return
    yield beyond(number_in(row, "stretch_percent", "templates") > UNSTRETCHED), f"{where}: stretch"
    yield from _sides(row, face, _told_normals(row, faces), room + off)


def _sides(row: Row, face: _Face, told: Array, room: float) -> Found:
    """Angles at the sides of a plane face, and the normals (k, 3) of what is ``told`` to lie
    beyond them, against the solid."""
    where = f"{row['label']} in templates.csv or poses.csv"
    numbers, angles = row["beyond"].split(), np.array(row["angles_deg"].split(), float)
    if len(numbers) != len(face.corners):
        return  # its sides are of several edges
    found = [_beyond(face, k, room) for k in range(len(face.corners))]
    if any(normal is None for normal in found):
        yield np.inf, f"{where}: a side does not lie on the solid"
        return
    normals = np.array(found)
    given = np.array([_angle(face, k, n) for k, n in enumerate(normals)])
    # Outlines on sheets may begin at any corner.
    worst = np.inf
    for k in range(len(given)):
        turned = np.abs(np.roll(given, -k) - angles).max()
        away = np.nanmax(np.abs(np.roll(normals, -k, axis=0) - told), initial=0.0)
        worst = min(worst, float(max(turned, away)))
    yield max(worst - ROOM_DEGREES, 0.0), f"{where}: sides"


def _spacing(solid: Array) -> float:
    """The least distance (mm) of two corners of a solid."""
    corners = np.unique(np.round(solid.reshape(-1, 3), 2), axis=0)
    apart, _ = scipy.spatial.cKDTree(corners).query(corners, 2)
    return float(np.asarray(apart)[:, 1].min())


def _told_normals(row: Row, faces: dict[str, _Face]) -> Array:
    """Normals (k, 3) of the faces that are told to lie beyond, as far as they are plane and have a
    template."""
    of, numbers = row["label"].rpartition("-")[0], row["beyond"].split()
    told = np.full((len(numbers), 3), np.nan)
    for k, number in enumerate(numbers):
        other = faces.get(f"{of}-{number}")
        if other is not None and other.off <= SIDE_MM:
            told[k] = other.normal
    return told


def _beyond(face: _Face, k: int, room: float) -> Array | None:
    """The normal (3,) of what lies beyond side ``k``: of the triangles that have its middle on one
    of their sides, the one that looks away most."""
    a, b = face.corners[k], face.corners[(k + 1) % len(face.corners)]
    start, end = face.solid.triangles, np.roll(face.solid.triangles, -1, axis=1)
    way = end - start
    share = np.einsum("tij,tij->ti", (a + b) / 2 - start, way)
    share /= np.maximum(np.einsum("tij,tij->ti", way, way), 1e-12)
    nearest = start + np.clip(share, 0, 1)[:, :, None] * way
    off = np.linalg.norm(nearest - (a + b) / 2, axis=2).min(axis=1)
    found = face.solid.triangles[off < room]
    cross = np.cross(found[:, 1] - found[:, 0], found[:, 2] - found[:, 0])
    size = np.linalg.norm(cross, axis=1)
    normals = cross[size > 1e-9] / size[size > 1e-9, None]
    if not len(normals):
        return None
    return np.asarray(normals[np.argmin(normals @ face.normal)])


def _angle(face: _Face, k: int, other: Array) -> float:
    """The angle (°) within the solid at side ``k``, where a face with the normal ``other`` lies
    beyond."""
    along = face.corners[(k + 1) % len(face.corners)] - face.corners[k]
    return angle_within(along, face.normal, other)
