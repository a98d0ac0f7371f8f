"""Models: what stands in GLB, OBJ, STL and IFC against what schedules and sheets say of every
label."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import numpy as np
import shapely
import trimesh
from numpy.typing import NDArray

from ...core.sections import find
from ...core.structure.roles import ROLES
from ..kinds.kind import UNSPECIFIED
from .flat import flat_of, polygon_of
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in
from .pack_members import Members, members_of
from .panels import pose_of

__all__ = [
    "Wanted",
    "building_elements",
    "element_material",
    "elements_in",
    "labels_everywhere",
    "mesh_models",
    "meshes_in",
    "models_alike",
    "shapes_as_listed",
    "step_as_listed",
]

Array = NDArray[np.float64]
ROUGH = 0.02
"""Share by which triangles may measure less than what is round."""
ROUNDED_SHARE = 1e-4
SIDES = 24
"""Of circles in models."""
GROWN = float(np.sqrt(2 * np.pi / SIDES / np.sin(2 * np.pi / SIDES)))
"""How much larger than a circle a polygon of so many sides is about, that has its area."""
ROUNDED_M = 1e-6
"""What coordinates of models are rounded by, which tells on thin plates."""


@dataclass(frozen=True)
class Wanted:
    """What a solid with a label is to be: within a frame (origin and axes, rows) its extent ``low``
    to ``high`` (3,) in metres, and where it is known its ``volume`` in m³. Of one along a ``line``
    (k, 3) no place is further from it than it can ``reach``, and it stands about all of it."""

    origin: Array
    axes: Array
    low: Array
    high: Array
    volume: float | None
    line: Array | None = None
    reach: float = 0.0
    twisted: float = 0.0
    """Share of the volume that a twist on its way may take."""


def wanted_solids(pack: Pack) -> dict[str, Wanted]:
    """Members, panels and plane ribs by label."""
    if "wanted" not in pack.kept:
        pack.kept["wanted"] = _wanted_members(pack) | _wanted_plates(pack)
    found: dict[str, Wanted] = pack.kept["wanted"]
    return found


def _wanted_members(pack: Pack) -> dict[str, Wanted]:
    m = members_of(pack)
    if m is None:
        return {}
    out = {}
    axes = np.stack([m.side, m.up, m.axis], axis=1)
    for k, row in enumerate(m.rows):
        pieces = np.arange(m.first[k], m.first[k] + m.count[k])
        left = float(m.whole[k] - m.back[pieces].sum())
        if left <= 0:
            continue
        if len(pieces) > 1:
            out[row["label"]] = _along_pieces(m, pieces, _outline_area(row["section"]) * left)
            continue
        p = pieces[0]
        half = np.array([m.width[p], m.height[p]]) / 2
        low = np.append(-half, m.back[p, 0])
        high = np.append(half, m.lengths[p] - m.back[p, 1])
        out[row["label"]] = Wanted(m.start[p], axes[p], low, high, None)
    return out


def _along_pieces(m: Members, pieces: NDArray[np.integer], volume: float) -> Wanted:
    """What a member that runs on is to be: somewhere about the line between its saw cuts."""
    first, last = pieces[0], pieces[-1]
    line = np.vstack([m.start[pieces], m.end[pieces[-1:]]])
    line[0] += m.back[first, 0] * m.axis[first]
    line[-1] -= m.back[last, 1] * m.axis[last]
    half = np.hypot(m.width[first], m.height[first]) / 2
    reach = float(m.width[first] / 2 * GROWN if m.round[first] else half)
    # Between ends turned by an angle the middle is cos² of half of it as large; mitres take as
    # much again.
    turn = float(np.einsum("ij,ij->i", m.up[pieces[1:]], m.up[pieces[:-1]]).min())
    twisted = ROUNDED_SHARE + 1 - min(max(turn, -1.0), 1.0)
    unknown = np.full(3, np.nan)
    return Wanted(line[0], np.eye(3), unknown, unknown, volume, line, reach, twisted)


def _outline_area(name: str) -> float:
    """Area (m²) between the outlines of a section as models draw it: with sharp corners, and its
    circles as polygons that are as large."""
    shape = find(name).shape
    rings = [shapely.Polygon(ring).area for ring in shape.outline(SIDES) if ring is not None]
    return float((rings[0] - sum(rings[1:])) * (GROWN**2 if shape.round else 1.0))


def _wanted_plates(pack: Pack) -> dict[str, Wanted]:
    """Panels rise from their plane, ribs lie about theirs."""
    poses = {r["label"]: r for r in pack.rows("poses")}
    flat = flat_of(pack)
    out = {}
    for table in ("panels", "ribs"):
        for row in pack.rows(table):
            label, thickness = row["label"], number_in(row, "thickness_mm", table) / 1000
            if label not in poses:
                continue
            place, x, y = pose_of(poses[label])
            low = -thickness / 2 if table == "ribs" else 0.0
            if label in flat.parts:
                _, outer, inner = flat.parts[label]
                shape = polygon_of(outer, inner, pack.tool(label))
                turn = -np.radians(number_in(pack.part_rows[label], "rotation_deg", "parts"))
                c, s = np.cos(turn), np.sin(turn)
                turned = shapely.affinity.affine_transform(shape, [c, -s, s, c, 0, 0])
                size = (
                    np.array(
                        [turned.bounds[2] - turned.bounds[0], turned.bounds[3] - turned.bounds[1]]
                    )
                    / 1000
                )
                volume: float | None = float(shape.area) / 1e6 * thickness
            else:
                size, volume = np.full(2, np.nan), None
            extent = np.append(size, low + thickness)
            out[label] = Wanted(
                place, np.stack([x, y, np.cross(x, y)]), np.array([0, 0, low]), extent, volume
            )
    return out


def _differs(wanted: Wanted, vertices: Array, triangles: NDArray[np.integer]) -> float:
    """How far (mm) a mesh's extent is from what is wanted; by its volume, the same as a share of
    its size."""
    local = (vertices - wanted.origin) @ wanted.axes.T
    if wanted.line is not None:
        worst = _off_line(wanted.line, wanted.reach, vertices) * 1000
    else:
        ends = [local.min(axis=0) - wanted.low, local.max(axis=0) - wanted.high]
        worst = float(np.nanmax(np.abs(np.concatenate(ends)))) * 1000
    volume = _volume(local, triangles)
    if volume <= 0:
        return np.inf
    if wanted.volume is not None:
        sides = local[triangles[:, 1:]] - local[triangles[:, :1]]
        area = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1).sum() / 2
        slack = ROUNDED_M * area + wanted.twisted * wanted.volume
        off_by = max(abs(volume - wanted.volume) - slack, 0.0)
        worst = max(worst, off_by / wanted.volume * 1000)
    return worst


def _off_line(line: Array, reach: float, vertices: Array) -> float:
    """How far (m) corners of a solid lie beyond what it can reach from a line, or a place of the
    line beyond that from all of them. Mitres reach further by their turns, which are small."""
    starts, ways = line[:-1], np.diff(line, axis=0)
    square = np.maximum(np.einsum("ij,ij->i", ways, ways), 1e-12)
    to = vertices[:, None] - starts
    share = np.clip(np.einsum("nkj,kj->nk", to, ways) / square, 0.0, 1.0)
    away = np.linalg.norm(to - share[:, :, None] * ways, axis=2).min(axis=1)
    turn = np.einsum("ij,ij->i", ways[1:], ways[:-1]) / np.sqrt(square[1:] * square[:-1])
    mitre = 1 / float(np.sqrt((1 + min(float(turn.min(initial=1.0)), 1.0)) / 2))
    bare = np.linalg.norm(line[:, None] - vertices, axis=2).min(axis=1)
    return max(float(away.max()) - reach * mitre, float(bare.max()) - reach * mitre, 0.0)


def _volume(vertices: Array, triangles: NDArray[np.integer]) -> float:
    p = vertices[triangles]
    return float(np.einsum("ij,ij->", p[:, 0], np.cross(p[:, 1], p[:, 2])) / 6)


def meshes_in(pack: Pack, name: str) -> dict[str, tuple[Array, NDArray[np.integer]]]:
    """Vertices in metres, z upward, and triangles of a model by label."""
    key = f"meshes {name}"
    if key not in pack.kept:
        path = pack.folder / name
        pack.kept[key] = _read_obj(path) if name.endswith(".obj") else _read_glb(path)
    found: dict[str, tuple[Array, NDArray[np.integer]]] = pack.kept[key]
    return found


def _read_glb(path: Path) -> dict[str, tuple[Array, NDArray[np.integer]]]:
    try:
        scene = trimesh.load_scene(path)
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise PackError(f"{path.name} cannot be read: {error}") from None
    out = {}
    for name in scene.graph.nodes_geometry:
        matrix, key = scene.graph[name]
        mesh = scene.geometry[key]
        places = trimesh.transform_points(np.asarray(mesh.vertices), matrix)
        out[str(name)] = places[:, [0, 2, 1]] * [1.0, -1.0, 1.0], np.asarray(mesh.faces)
    return out


def _read_obj(path: Path) -> dict[str, tuple[Array, NDArray[np.integer]]]:
    """Objects by name, read line by line, as common readers merge them."""
    points: list[list[float]] = []
    faces: dict[str, list[list[int]]] = {}
    own: list[list[int]] | None = None
    try:
        for line in path.read_text(encoding="utf-8").splitlines():
            head, _, rest = line.partition(" ")
            if head == "o":
                own = faces.setdefault(rest.strip(), [])
            elif head == "v":
                points.append([float(x) for x in rest.split()[:3]])
            elif head == "f" and own is not None:
                own.append([int(x.split("/")[0]) - 1 for x in rest.split()[:3]])
        places = np.array(points, float).reshape(-1, 3)
        out: dict[str, tuple[Array, NDArray[np.integer]]] = {}
        for name, triangles in faces.items():
            index = np.array(triangles, int).reshape(-1, 3)
            used, number = np.unique(index, return_inverse=True)
            out[name] = places[used], number.reshape(-1, 3)
    except (ValueError, IndexError, UnicodeDecodeError) as error:
        raise PackError(f"{path.name} cannot be read: {error}") from None
    return out


def mesh_models(pack: Pack) -> Found:
    """Solids of GLB and OBJ by label (mm)."""
    wanted = wanted_solids(pack)
    for name in ("model.glb", "model.obj"):
        if not pack.has(name):
            continue
        found = meshes_in(pack, name)
        for label, solid in wanted.items():
            if label in found:
                yield _differs(solid, *found[label]), f"{label} in {name}"
        yield from _bent_volumes(pack, found, name)


def _bent_volumes(pack: Pack, found: dict[str, Any], name: str) -> Found:
    """Bent ribs by volume alone, in thousandths."""
    ribs = {r["label"]: r for r in pack.rows("ribs")}
    for label in {r["label"] for r in pack.rows("bends")} & set(found) & set(ribs):
        row = ribs[label]
        volume = number_in(row, "area_m2", "ribs") * number_in(row, "thickness_mm", "ribs") / 1000
        off = abs(_volume(*found[label]) / volume - 1) * 1000
        yield max(off - 5.0, 0.0), f"{label} in {name}: volume"
        step = next(r for r in pack.rows("bends") if r["label"] == label)
        place = vector_in(step, "bends", "{}_m")
        low, high = found[label][0].min(axis=0), found[label][0].max(axis=0)
        reach = float(np.maximum(np.maximum(low - place, place - high), 0).max())
        yield (
            max(reach - 0.5 * float((high - low).max()), 0.0) * 1000,
            f"{label} in {name}: place, bends.csv",
        )


def models_alike(pack: Pack) -> Found:
    """GLB, OBJ and STL hold the same triangles in the same place (mm, and mm of the root of their
    area)."""
    whole = {}
    for name in ("model.glb", "model.obj", "model.stl"):
        if not pack.has(name):
            continue
        if name == "model.stl":
            vertices, triangles = _read_stl(pack.folder / name)
        else:
            meshes = list(meshes_in(pack, name).values())
            before = np.cumsum([0, *(len(v) for v, _ in meshes)])
            vertices = np.concatenate([np.zeros((0, 3)), *(v for v, _ in meshes)])
            triangles = np.concatenate(
                [np.zeros((0, 3), int), *(t + b for (_, t), b in zip(meshes, before, strict=False))]
            )
        whole[name] = _moments(vertices, triangles)
    names = list(whole)
    for other in names[1:]:
        yield float(np.abs(whole[names[0]] - whole[other]).max()) * 1000, f"{names[0]} and {other}"


def _moments(vertices: Array, triangles: NDArray[np.integer]) -> Array:
    """Extent, middle and spread of a mesh and the roots of its area and volume (14,), all in
    metres."""
    corner = vertices[triangles]
    crosses = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    area = np.linalg.norm(crosses, axis=1) / 2
    middle = area @ corner.mean(axis=1) / max(float(area.sum()), 1e-12)
    spread = area @ (corner.mean(axis=1) - middle) ** 2 / max(float(area.sum()), 1e-12)
    used = vertices[np.unique(triangles)] if len(triangles) else np.zeros((1, 3))
    sizes = np.array([np.sqrt(area.sum()), np.cbrt(_volume(vertices, triangles))])
    return np.concatenate([used.min(axis=0), used.max(axis=0), middle, np.sqrt(spread), sizes])


def _read_stl(path: Path) -> tuple[Array, NDArray[np.integer]]:
    try:
        mesh = trimesh.load_mesh(path, process=False)
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise PackError(f"{path.name} cannot be read: {error}") from None
    return np.asarray(mesh.vertices, float), np.asarray(mesh.faces)


def labels_everywhere(pack: Pack) -> Found:
    """Uniqueness, and the same labels in every file; counts mistakes."""
    seen: dict[str, str] = {}
    for table in ("nodes", "members", "panels", "ribs", "bodies"):
        for row in pack.rows(table):
            label = row["label"]
            twice = f"{label} stands twice, in {seen.get(label)}.csv and {table}.csv"
            yield float(label in seen), twice
            yield float(not label), f"a row of {table}.csv has no label"
            seen[label] = table
    plates = {r["label"] for name in ("panels", "ribs") for r in pack.rows(name)}
    parts = [r["label"] for r in pack.rows("parts")]
    for label in parts:
        # Copies are told apart by a number behind a point.
        yield (
            float(label.partition(".")[0] not in plates),
            f"{label} of parts.csv is in no schedule",
        )
    yield float(len(parts) - len(set(parts))), "a label stands twice in parts.csv"
    made = set(wanted_solids(pack)) | {r["label"] for r in pack.rows("bends")}
    if "assembly" not in pack.tables:
        # Where bent ribs stand is told with their sheets.
        made |= {r["label"] for r in pack.rows("ribs") if r["radius_m"]}
    made |= {r["label"] for r in pack.rows("bodies")}
    shapes = {r["label"] for r in pack.rows("solids")}
    nets = {r["clause"] for r in pack.rows("net_nodes")}
    for name in ("model.glb", "model.obj", "model.ifc"):
        if not pack.has(name):
            continue
        if (
            "members" not in pack.tables
            and "poses" not in pack.tables
            and (pack.rows("nodes") or plates)
        ):
            continue  # without schedules there is nothing to compare with
        names = set(elements_in(pack)) if name.endswith("ifc") else set(meshes_in(pack, name))
        for label in sorted((names - made - shapes - nets) | (made - names)):
            yield float(bool(made)), f"{label} is {'only' if label in names else 'not'} in {name}"


def elements_in(pack: Pack) -> dict[str, Any]:
    """Elements of the building model by label."""
    if "elements" not in pack.kept:
        path = pack.folder / "model.ifc"
        if not path.read_bytes().rstrip().endswith(b"END-ISO-10303-21;"):
            raise PackError("model.ifc cannot be read: it ends before its end")
        try:
            model = ifcopenshell.open(str(path))
            pack.kept["elements"] = {str(e.Name): e for e in model.by_type("IfcElement")}
            pack.kept["ifc unit"] = ifcopenshell.util.unit.calculate_unit_scale(model)
            pack.kept["ifc"] = model
        except (OSError, RuntimeError, ifcopenshell.Error, AttributeError, IndexError) as error:
            raise PackError(f"model.ifc cannot be read: {error}") from None
    found: dict[str, Any] = pack.kept["elements"]
    return found


def building_elements(pack: Pack) -> Found:
    """Elements of the building model: places, sizes (mm), materials, types and classes."""
    if not pack.has("model.ifc"):
        return
    elements = elements_in(pack)
    yield abs(pack.kept["ifc unit"] - 1.0) * 1000, "model.ifc is not in metres"
    wanted = wanted_solids(pack)
    members = {r["label"]: r for r in pack.rows("members")}
    plates = {r["label"]: (t, r) for t in ("panels", "ribs") for r in pack.rows(t)}
    bodies = {r["label"] for r in pack.rows("bodies")}
    for label, element in elements.items():
        where = f"{label} in model.ifc"
        solid = element.Representation.Representations[0].Items[0]
        matrix = ifcopenshell.util.placement.get_local_placement(element.ObjectPlacement)
        if solid.is_a("IfcTriangulatedFaceSet"):
            vertices = np.array(solid.Coordinates.CoordList, float)
            places = vertices @ matrix[:3, :3].T + matrix[:3, 3]
            triangles = np.array(solid.CoordIndex) - 1
            if label in wanted:
                yield _differs(wanted[label], places, triangles), where
            elif element.is_a("IfcBuildingElementProxy") and label not in bodies:
                yield from _proxy_differs(pack, label, places, triangles, where)
                yield beyond(element_material(element) != UNSPECIFIED), f"{where}: material"
            elif pack.has("model.glb") and label in meshes_in(pack, "model.glb"):
                off = np.abs(
                    _moments(places, triangles) - _moments(*meshes_in(pack, "model.glb")[label])
                )
                yield float(off.max()) * 1000, f"{where} and model.glb"
        elif label in wanted:
            yield _extruded_differs(wanted[label], solid, matrix, label in members), where
        if label in members:
            row = members[label]
            yield beyond(element.ObjectType != row["type"]), f"{where}: type"
            kind = ROLES[row["layer"]].ifc[0] if row["layer"] in ROLES else "IfcMember"
            yield beyond(not element.is_a(kind)), f"{where}: class"
            if solid.is_a("IfcSweptAreaSolid"):
                yield beyond(solid.SweptArea.ProfileName != row["section"]), f"{where}: profile"
            yield beyond(element_material(element) != row["material"]), f"{where}: material"
        elif label in plates:
            table, row = plates[label]
            yield beyond(not element.is_a("IfcPlate")), f"{where}: class"
            if table == "panels":
                yield beyond(element.ObjectType != row["type"]), f"{where}: type"
                yield beyond(element_material(element) != row["material"]), f"{where}: material"
            part = pack.part_rows.get(label)
            if part is not None:
                yield beyond(element_material(element) != part["material"]), f"{where}: material"


def _proxy_differs(
    pack: Pack, label: str, places: Array, triangles: NDArray[np.integer], where: str
) -> Found:
    """A shape against solids.glb, the cells of a net against its nodes (mm)."""
    if pack.has("solids.glb") and label in meshes_in(pack, "solids.glb"):
        off = np.abs(_moments(places, triangles) - _moments(*meshes_in(pack, "solids.glb")[label]))
        yield float(off.max()) * 1000, f"{where} and solids.glb"
    nodes = [
        vector_in(r, "net_nodes", "{}_m") for r in pack.rows("net_nodes") if r["clause"] == label
    ]
    if nodes and len(nodes) == len(places):
        yield float(np.abs(np.array(nodes) - places).max()) * 1000, f"{where} and net_nodes.csv"
    elif nodes:
        yield np.inf, f"{where}: {len(places)} nodes for {len(nodes)} in net_nodes.csv"


def element_material(element: Any) -> str:
    """Name of an element's material; empty where it has none."""
    found = ifcopenshell.util.element.get_material(element)
    return str(found.Name) if found is not None else ""


def _extruded_differs(wanted: Wanted, solid: Any, matrix: Array, is_member: bool) -> float:
    """How far (mm) an extruded profile is from what is wanted."""
    ring, area = _profile(solid.SweptArea)
    low, high = ring.min(axis=0), ring.max(axis=0)
    box = np.array(
        [[x, y, z] for z in (0.0, solid.Depth) for x, y in ((low[0], low[1]), (high[0], high[1]))]
    )
    places = box @ matrix[:3, :3].T + matrix[:3, 3]
    local = (places - wanted.origin) @ wanted.axes.T
    off = np.abs(np.concatenate([local.min(axis=0) - wanted.low, local.max(axis=0) - wanted.high]))
    worst = float(np.nanmax(off)) * 1000
    turned = matrix[:3, :3].T @ wanted.axes.T
    worst = max(worst, float(np.abs(turned - np.eye(3)).max()) * 1000)
    if wanted.volume is not None and not is_member:
        worst = max(worst, abs(area * solid.Depth / wanted.volume - 1) * 1000)
    return worst


def _profile(profile: Any) -> tuple[Array, float]:
    """Outer points (n, 2) of a profile and its area."""
    if profile.is_a("IfcCircleProfileDef"):
        r = profile.Radius
        return np.array([[-r, -r], [r, r]]), np.pi * r * r
    if profile.is_a("IfcRectangleProfileDef"):
        half = np.array([profile.XDim, profile.YDim]) / 2
        return np.array([-half, half]), profile.XDim * profile.YDim
    outer = np.array([p.Coordinates for p in profile.OuterCurve.Points], float)
    inner = [
        np.array([p.Coordinates for p in curve.Points], float)
        for curve in getattr(profile, "InnerCurves", None) or ()
    ]
    return outer, float(shapely.Polygon(outer, inner).area)


def shapes_as_listed(pack: Pack) -> Found:
    """Volumes, areas, middles and extents of solids.csv against solids.glb (thousandths, mm)."""
    if not pack.has("solids.glb"):
        return
    found = meshes_in(pack, "solids.glb")
    rows = {r["label"]: r for r in pack.rows("solids")}
    yield beyond(len(rows) != len(pack.rows("solids"))), "a label stands twice in solids.csv"
    for label in sorted(set(found) ^ set(rows)):
        yield np.inf, f"{label} stands in one of solids.csv and solids.glb only"
    for label in set(found) & set(rows):
        row, (vertices, triangles) = rows[label], found[label]
        where, corner = f"{label} in solids.csv or solids.glb", vertices[triangles]
        crosses = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        area = float(np.linalg.norm(crosses, axis=1).sum() / 2)
        size = float(np.ptp(vertices, axis=0).max())
        yield abs(area / number_in(row, "area_m2", "solids") - 1) * 1000, f"{where}: area"
        yield (
            beyond(int(number_in(row, "triangles", "solids")) != len(triangles)),
            f"{where}: triangles",
        )
        if row["kind"] == "body":
            volume = _volume(vertices, triangles)
            yield abs(volume / number_in(row, "volume_m3", "solids") - 1) * 1000, f"{where}: volume"
            weight = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2])) / 6
            middle = weight @ corner.sum(axis=1) / 4 / volume
        else:
            yield beyond(row["kind"] != "surface" or bool(row["volume_m3"])), f"{where}: kind"
            weight = np.linalg.norm(crosses, axis=1)
            middle = weight @ corner.mean(axis=1) / weight.sum()
        for of, place in (
            ("centroid", middle),
            ("low", vertices.min(axis=0)),
            ("high", vertices.max(axis=0)),
        ):
            off = np.abs(vector_in(row, "solids", of + "_{}_m") - place).max()
            yield max(float(off) - 1e-6 * size, 0.0) * 1000, f"{where}: {of}"
        yield from _true_measures(pack, row, where)


def _true_measures(pack: Pack, row: Row, where: str) -> Found:
    """Volume and area of a body with its faces as they are: near those of its triangles, and told
    so of its clause."""
    clause: dict[str, Any] = next(
        (c for c in pack.report["clauses"] if c["id"] == row["label"]), {"figures": {}}
    )
    for name, figure in (("volume_m3", "volume"), ("area_m2", "area")):
        if not row.get(f"exact_{name}"):
            continue
        value = number_in(row, f"exact_{name}", "solids")
        rough = abs(value / number_in(row, name, "solids") - 1)
        told = float(clause["figures"].get(figure, {}).get("value", np.nan))
        yield beyond(not rough < ROUGH), f"{where}: exact_{name}"
        yield beyond(not abs(value / told - 1) < 1e-6), f"{where} and report.json: {figure}"


def _areas_told(pack: Pack) -> dict[str, float]:
    """Area (m²) of each shape by its clause, that of its exact form where it has one; solids.csv
    has that of its facets."""
    figures = {c["id"]: c.get("figures", {}) for c in pack.report["clauses"]}
    return {name: float(f["area"]["value"]) for name, f in figures.items() if "area" in f}


def step_as_listed(pack: Pack) -> Found:
    """Area and volume of shape.step against those told of its surfaces and bodies, and extent
    against solids.csv (thousandths)."""
    path = pack.folder / "shape.step"
    if not path.is_file():
        return
    from ..readers.step import measured_step

    try:
        found = measured_step(path.read_bytes())
    except Exception as error:
        raise PackError(f"shape.step cannot be read: {error}") from None
    shapes = [r for r in pack.rows("solids") if r.get("exact") == "1"]
    if "solids" not in pack.tables:
        yield 0.0, "shape.step"
        return
    if not shapes:
        yield np.inf, "shape.step, of which solids.csv lists no surface or body"
        return
    low = np.min([vector_in(r, "solids", "low_{}_m") for r in shapes], axis=0, initial=np.inf)
    high = np.max([vector_in(r, "solids", "high_{}_m") for r in shapes], axis=0, initial=-np.inf)
    size = float((high - low).max())
    off = np.abs(np.concatenate([found.low - low, found.high - high])).max() / size
    yield float(off) * 1000, "extent of shape.step"
    told = _areas_told(pack)
    area = float(np.sum([told.get(r["label"], number_in(r, "area_m2", "solids")) for r in shapes]))
    yield abs(found.area / area - 1) * 1000 if area else np.inf, "area of shape.step"
    bodies = [r for r in shapes if r["kind"] == "body"]
    volume = sum(
        number_in(r, "exact_volume_m3" if r["exact_volume_m3"] else "volume_m3", "solids")
        for r in bodies
    )
    if bodies:
        yield abs(found.volume / volume - 1) * 1000, "volume of shape.step"
