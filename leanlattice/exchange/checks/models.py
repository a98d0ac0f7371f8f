"""Models: what stands in GLB, OBJ, STL and IFC against what schedules and sheets say of every
label."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import numpy as np
import trimesh
from numpy.typing import NDArray

from ...core.structure.roles import ROLES
from ..kinds.kind import UNSPECIFIED
from .flat import SCHEDULE_OF
from .node_bodies import bodies_of
from .pack_files import Found, Pack, PackError, Row, beyond, number_in, vector_in
from .profiles import drawn_profile, profile_differs
from .steps import step_in
from .wanted_solids import Wanted, mesh_differs, mesh_volume, wanted_solids

__all__ = [
    "building_elements",
    "element_layer",
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

PLATES = ("panels", "ribs", "strips", "node_plates", "end_plates")
"""Tables of what is a plate in the building model."""
PLATES_OF_TYPES = {"panels": "type", "node_plates": "kind", "end_plates": "kind"}
"""Those whose plates have types, by the column that tells these."""
SOLID_PARTS = ("strips", "node_plates", "end_plates", "hubs")
"""Tables of parts that models have as they stand, by checks of their own."""


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
    try:
        text = path.read_text(encoding="utf-8")
        places = np.array(_told(text, "v"), float).reshape(-1, 3)
        out: dict[str, tuple[Array, NDArray[np.integer]]] = {}
        for own in re.split(r"^o ", text, flags=re.MULTILINE)[1:]:
            name = own.partition("\n")[0].strip()
            corners = [corner.partition("/")[0] for corner in _told(own, "f")]
            index = np.array(corners, np.int64).reshape(-1, 3) - 1
            out[name] = _own(places, index)
    except (ValueError, IndexError, UnicodeDecodeError) as error:
        raise PackError(f"{path.name} cannot be read: {error}") from None
    return out


def _own(places: Array, index: NDArray[np.int64]) -> tuple[Array, NDArray[np.integer]]:
    """The places that triangles use, of all, and the triangles by these."""
    if not index.size:
        return np.zeros((0, 3)), index
    first, last = int(index.min()), int(index.max())
    if first < 0 or last >= len(places):
        raise ValueError(f"a face has no vertex {first + 1 if first < 0 else last + 1}")
    used = np.zeros(last - first + 1, bool)
    used[index - first] = True
    return places[first : last + 1][used], np.cumsum(used)[index - first] - 1


def _told(text: str, head: str) -> list[str]:
    """The first three words after each ``head`` of a line."""
    lines = re.findall(rf"^{head} (.*)$", text, re.MULTILINE)
    return [word for line in lines for word in line.split()[:3]]


def mesh_models(pack: Pack) -> Found:
    """Solids of GLB and OBJ by label (mm)."""
    wanted = wanted_solids(pack)
    for name in ("model.glb", "model.obj"):
        if not pack.has(name):
            continue
        found = meshes_in(pack, name)
        for label, solid in wanted.items():
            if label in found:
                yield mesh_differs(solid, *found[label]), f"{label} in {name}"
        yield from _bent_volumes(pack, found, name)


def _bent_volumes(pack: Pack, found: dict[str, Any], name: str) -> Found:
    """Bent ribs by volume alone, in thousandths."""
    ribs = {r["label"]: r for r in pack.rows("ribs")}
    for label in {r["label"] for r in pack.rows("bends")} & set(found) & set(ribs):
        row = ribs[label]
        volume = number_in(row, "area_m2", "ribs") * number_in(row, "thickness_mm", "ribs") / 1000
        off = abs(mesh_volume(*found[label]) / volume - 1) * 1000
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
    is_used = np.zeros(len(vertices), bool)
    is_used[triangles] = True
    used = vertices[is_used] if len(triangles) else np.zeros((1, 3))
    sizes = np.array([np.sqrt(area.sum()), np.cbrt(mesh_volume(vertices, triangles))])
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
    for table in (
        "nodes",
        "members",
        "panels",
        "ribs",
        "strips",
        "unrolled",
        "node_plates",
        "end_plates",
        "hubs",
        "wraps",
        "bodies",
    ):
        for row in pack.rows(table):
            label = row["label"]
            twice = f"{label} stands twice, in {seen.get(label)}.csv and {table}.csv"
            yield float(label in seen), twice
            yield float(not label), f"a row of {table}.csv has no label"
            seen[label] = table
    plates = {r["label"] for name in SCHEDULE_OF for r in pack.rows(name)}
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
    made |= {r["label"] for table in SOLID_PARTS for r in pack.rows(table)}
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
    plates = {r["label"]: (t, r) for t in PLATES for r in pack.rows(t)}
    bodies = {r["label"] for r in pack.rows("bodies")}
    at_nodes = bodies_of(pack)
    profiles: dict[int, float] = {}
    for label, element in elements.items():
        where = f"{label} in model.ifc"
        solid = element.Representation.Representations[0].Items[0]
        matrix = ifcopenshell.util.placement.get_local_placement(element.ObjectPlacement)
        if solid.is_a("IfcTriangulatedFaceSet"):
            vertices = np.array(solid.Coordinates.CoordList, float)
            places = vertices @ matrix[:3, :3].T + matrix[:3, 3]
            triangles = np.array(solid.CoordIndex) - 1
            if label in wanted:
                yield mesh_differs(wanted[label], places, triangles), where
            elif element.is_a("IfcBuildingElementProxy") and label not in bodies:
                yield from _proxy_differs(pack, label, places, triangles, where)
                yield beyond(element_material(element) != UNSPECIFIED), f"{where}: material"
            elif pack.has("model.glb") and label in meshes_in(pack, "model.glb"):
                off = np.abs(
                    _moments(places, triangles) - _moments(*meshes_in(pack, "model.glb")[label])
                )
                yield float(off.max()) * 1000, f"{where} and model.glb"
        elif label in wanted:
            yield _planes_differ(wanted[label], solid, matrix), f"{where}: planes"
            solid = _unclipped(solid)
            yield _extruded_differs(wanted[label], solid, matrix, label in members), where
        if label in members:
            row = members[label]
            yield beyond(element.ObjectType != row["type"]), f"{where}: type"
            kind = ROLES[row["layer"]].ifc[0] if row["layer"] in ROLES else "IfcMember"
            yield beyond(not element.is_a(kind)), f"{where}: class"
            if solid.is_a("IfcSweptAreaSolid"):
                profile = solid.SweptArea
                yield beyond(profile.ProfileName != row["section"]), f"{where}: profile"
                if profile.id() not in profiles:
                    profiles[profile.id()] = profile_differs(profile, row["section"])
                yield profiles[profile.id()], f"{where}: profile"
            yield beyond(element_material(element) != row["material"]), f"{where}: material"
        elif label in at_nodes:
            yield beyond(not element.is_a("IfcDiscreteAccessory")), f"{where}: class"
            row = at_nodes[label].row
            yield beyond(element.ObjectType != row["form"]), f"{where}: form"
            yield beyond(element_material(element) != row["material"]), f"{where}: material"
        elif label in plates:
            yield from _plate_differs(pack, *plates[label], element)


def _plate_differs(pack: Pack, table: str, row: Row, element: Any) -> Found:
    """Class, type, material and thickness (mm) of a plate."""
    where = f"{row['label']} in model.ifc"
    yield beyond(not element.is_a("IfcPlate")), f"{where}: class"
    if table in PLATES_OF_TYPES:
        yield beyond(element.ObjectType != row[PLATES_OF_TYPES[table]]), f"{where}: type"
    if "material" in row:
        yield beyond(element_material(element) != row["material"]), f"{where}: material"
    part = pack.part_rows.get(row["label"])
    if part is not None:
        yield beyond(element_material(element) != part["material"]), f"{where}: material"
    off = element_layer(element) * 1000 - number_in(row, "thickness_mm", table)
    yield abs(off), f"{where}: layer"


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
    """Name of an element's material, or of that of its layer; empty where it has none."""
    found = ifcopenshell.util.element.get_material(element)
    if found is not None and found.is_a("IfcMaterialLayerSet"):
        found = found.MaterialLayers[0].Material
    return str(found.Name) if found is not None else ""


def element_layer(element: Any) -> float:
    """Thickness in metres of the one layer of material an element is; 0 where it is none."""
    found = ifcopenshell.util.element.get_material(element)
    if found is None or not found.is_a("IfcMaterialLayerSet") or len(found.MaterialLayers) != 1:
        return 0.0
    return float(found.MaterialLayers[0].LayerThickness)


def _unclipped(solid: Any) -> Any:
    """What is left when all planes that clip a solid are taken away."""
    while solid.is_a("IfcBooleanClippingResult"):
        solid = solid.FirstOperand
    return solid


def _planes_differ(wanted: Wanted, solid: Any, matrix: Array) -> float:
    """How far (mm, thousandths of directions) the planes that clip a solid are from those that are
    wanted."""
    found = []
    while solid.is_a("IfcBooleanClippingResult"):
        beyond = solid.SecondOperand
        at = beyond.BaseSurface.Position
        normal = matrix[:3, :3] @ np.array(at.Axis.DirectionRatios)
        place = matrix[:3, :3] @ np.array(at.Location.Coordinates) + matrix[:3, 3]
        if beyond.AgreementFlag or solid.Operator != "DIFFERENCE":
            return np.inf
        found.append(np.append(normal, normal @ place))
        solid = solid.FirstOperand
    planes = np.zeros((0, 4)) if wanted.planes is None else wanted.planes[:, :4]
    if len(found) != len(planes):
        return np.inf
    off = [min(float(np.abs(plane - other).max()) for other in found) for plane in planes]
    return max(off, default=0.0) * 1000


def _extruded_differs(wanted: Wanted, solid: Any, matrix: Array, is_member: bool) -> float:
    """How far (mm) an extruded profile is from what is wanted."""
    profile = drawn_profile(solid.SweptArea)
    left, lower, right, upper = profile.bounds
    box = np.array(
        [[x, y, z] for z in (0.0, solid.Depth) for x, y in ((left, lower), (right, upper))]
    )
    places = box @ matrix[:3, :3].T + matrix[:3, 3]
    local = (places - wanted.origin) @ wanted.axes.T
    off = np.abs(np.concatenate([local.min(axis=0) - wanted.low, local.max(axis=0) - wanted.high]))
    worst = float(np.nanmax(off)) * 1000
    if wanted.extruded is not None:
        reach = np.array([local[:, 2].min(), local[:, 2].max()])
        worst = max(worst, float(np.abs(reach - wanted.extruded).max()) * 1000)
    turned = matrix[:3, :3].T @ wanted.axes.T
    worst = max(worst, float(np.abs(turned - np.eye(3)).max()) * 1000)
    if wanted.volume is not None and not is_member:
        # How thick it is was compared above, as finely as tables tell it.
        area = wanted.volume / float(wanted.high[2] - wanted.low[2])
        worst = max(worst, abs(profile.area / area - 1) * 1000)
    return worst


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
            volume = mesh_volume(vertices, triangles)
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
    told = step_in(pack, "shape.step")
    if told is None:
        return
    _, found = told
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
    areas = _areas_told(pack)
    area = float(np.sum([areas.get(r["label"], number_in(r, "area_m2", "solids")) for r in shapes]))
    yield abs(found.area / area - 1) * 1000 if area else np.inf, "area of shape.step"
    bodies = [r for r in shapes if r["kind"] == "body"]
    volume = sum(
        number_in(r, "exact_volume_m3" if r["exact_volume_m3"] else "volume_m3", "solids")
        for r in bodies
    )
    if bodies:
        yield abs(found.volume / volume - 1) * 1000, "volume of shape.step"
