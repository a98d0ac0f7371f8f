"""A building model in IFC 4: members and plates with profiles, materials and labels in one spatial
structure."""

from __future__ import annotations

import re
import uuid
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np
from numpy.typing import NDArray

from ..core.sections import Section
from ..core.sections.shapes import Profile
from .material import Material

__all__ = ["Model", "element_names", "write_ifc"]

Array = NDArray[np.float64]
LAYERED = ("IfcPlate", "IfcCovering")
"""Classes of elements that are layers of their material, as thick as they are extruded."""
LENGTH_DIGITS, WAY_DIGITS = 6, 10
"""Decimals of places in metres, and of directions."""
SPACE = uuid.UUID("6f0c1f6e-6d2c-4b0e-9d3a-0f7a5c7be001")
"""Identifiers are derived from labels, so that the same statement gives the same file."""


def _rounded(values: Array, digits: int) -> list[Any]:
    """Numbers as they are written: the fewer digits they have, the sooner a file is."""
    rounded: list[Any] = (np.round(values, digits) + 0.0).tolist()
    return rounded


class Model:
    """An IFC file under construction, with what is shared in it made once."""

    def __init__(self, project: str) -> None:
        self.file = ifcopenshell.file(schema="IFC4")
        self.project = project
        make = self.file.create_entity
        self.origin = make("IfcCartesianPoint", (0.0, 0.0, 0.0))
        world = make("IfcAxis2Placement3D", self.origin)
        context = make("IfcGeometricRepresentationContext", None, "Model", 3, 1e-6, world)
        self.body = self._within(context, "Body", "MODEL_VIEW")
        self.axes = self._within(context, "Axis", "GRAPH_VIEW")
        units = [
            make("IfcSIUnit", None, kind, None, name)
            for kind, name in (
                ("LENGTHUNIT", "METRE"),
                ("AREAUNIT", "SQUARE_METRE"),
                ("VOLUMEUNIT", "CUBIC_METRE"),
                ("PLANEANGLEUNIT", "RADIAN"),
                ("MASSUNIT", "GRAM"),
            )
        ]
        root = make(
            "IfcProject",
            self.identifier("project"),
            None,
            project,
            None,
            None,
            None,
            None,
            [context],
            make("IfcUnitAssignment", units),
        )
        self.placement = make("IfcLocalPlacement", None, world)
        building = make(
            "IfcBuilding",
            self.identifier("building"),
            None,
            project,
            None,
            None,
            self.placement,
            None,
            None,
            "ELEMENT",
        )
        make("IfcRelAggregates", self.identifier("whole"), None, None, None, root, [building])
        self.building = building
        self.elements: list[Any] = []
        self.by_material: dict[tuple[str, float], list[Any]] = {}
        self._profiles: dict[str, Any] = {}

    def identifier(self, name: str) -> str:
        return str(ifcopenshell.guid.compress(uuid.uuid5(SPACE, f"{self.project}/{name}").hex))

    def profile(self, section: Section) -> Any:
        """The profile of a section, its x along the width and its y along the height."""
        if section.name not in self._profiles:
            profiles = [self._parameterised(section.name, one) for one in section.shape.profiles()]
            self._profiles[section.name] = (
                self.file.create_entity("IfcCompositeProfileDef", "AREA", section.name, profiles)
                if len(profiles) > 1
                else profiles[0]
            )
        return self._profiles[section.name]

    def _within(self, context: Any, name: str, target: str) -> Any:
        """A context for representations of a ``name``, seen as ``target`` says."""
        kind, inherited = "IfcGeometricRepresentationSubContext", [None] * 4
        return self.file.create_entity(kind, name, "Model", *inherited, context, None, target)

    def _parameterised(self, name: str, profile: Profile) -> Any:
        make = self.file.create_entity
        at = make("IfcCartesianPoint", profile.at)
        way = make("IfcDirection", (-1.0, 0.0)) if profile.turned else None
        return make(
            profile.kind, "AREA", name, make("IfcAxis2Placement2D", at, way), *profile.sizes
        )

    def outline(self, outer: Array, inner: Iterable[Array] = ()) -> Any:
        """A profile bounded by a ring (n, 2) in metres, with openings."""
        make = self.file.create_entity
        rings = []
        for ring in (outer, *inner):
            points = [self.point(place) for place in ring]
            rings.append(make("IfcPolyline", [*points, points[0]]))
        if len(rings) == 1:
            return make("IfcArbitraryClosedProfileDef", "AREA", None, rings[0])
        return make("IfcArbitraryProfileDefWithVoids", "AREA", None, rings[0], rings[1:])

    def point(self, place: Array) -> Any:
        return self.file.create_entity("IfcCartesianPoint", tuple(_rounded(place, LENGTH_DIGITS)))

    def points(self, places: Array) -> Any:
        """A list of places (n, 3)."""
        listed = tuple(map(tuple, _rounded(places, LENGTH_DIGITS)))
        return self.file.create_entity("IfcCartesianPointList3D", listed)

    def direction(self, vector: Array) -> Any:
        return self.file.create_entity("IfcDirection", tuple(_rounded(vector, WAY_DIGITS)))

    def add(
        self,
        kind: str,
        label: str,
        type_name: str,
        place: Array,
        axes: Array,
        profile: Any,
        depth: float,
        material: str,
        predefined: str,
        planes: Array | None = None,
    ) -> None:
        """An element of class ``kind`` with a ``label``, of the type ``type_name``: a ``profile``
        extruded by ``depth`` along the third of ``axes`` (3, 3; rows x, y, z) from ``place``, in a
        ``material``, ``predefined`` as the standard's enumeration has it; cut off at ``planes``
        (k, 4), each a normal out of it and a level in metres."""
        make = self.file.create_entity
        up = make("IfcDirection", (0.0, 0.0, 1.0))
        local = make("IfcAxis2Placement3D", self.origin)
        solid = make("IfcExtrudedAreaSolid", profile, local, up, float(depth))
        form = "SweptSolid" if planes is None else "Clipping"
        for plane in () if planes is None else planes:
            # In the element's own coordinates; what is taken off lies where the normal points.
            normal = axes @ plane[:3]
            level = float(plane[3] - plane[:3] @ place)
            at = self.point(level * normal)
            position = make("IfcAxis2Placement3D", at, self.direction(normal))
            beyond = make("IfcHalfSpaceSolid", make("IfcPlane", position), False)
            solid = make("IfcBooleanClippingResult", "DIFFERENCE", solid, beyond)
        self._placed(kind, label, type_name, place, axes, form, solid, predefined)
        self._made_of(material, depth if kind in LAYERED else 0.0)

    def add_faced(
        self,
        kind: str,
        label: str,
        type_name: str,
        vertices: Array,
        triangles: NDArray[np.integer[Any]],
        material: str,
        predefined: str,
        closed: bool = True,
        frame: tuple[Array, Array] | None = None,
        layer: float = 0.0,
    ) -> None:
        """An element bounded by ``triangles`` (m, 3) of ``vertices`` (n, 3), which are ``closed``
        or an open shell; ``kind``, ``label``, ``type_name``, ``material`` and ``predefined`` as in
        ``add``, its own ``frame``, a place and axes (3, 3; rows x, y, z), where it has one, and the
        thickness of the ``layer`` it is, where it is one."""
        make = self.file.create_entity
        place, axes = frame or (np.zeros(3), np.eye(3))
        local = (vertices - place) @ axes.T if frame else vertices
        solid = make(
            "IfcTriangulatedFaceSet",
            self.points(local),
            None,
            closed,
            tuple(map(tuple, (triangles + 1).tolist())),
        )
        self._placed(
            kind,
            label,
            type_name,
            place,
            axes,
            "Tessellation",
            solid,
            predefined,
        )
        self._made_of(material, layer)

    def _made_of(self, material: str, layer: float) -> None:
        """Tells what the element that was added last is made of, and as how thick a layer (m)."""
        self.by_material.setdefault((material, layer), []).append(self.elements[-1])

    def describe(self, text: str) -> None:
        """Tells of the element that was added last what it is one of; nothing by no text."""
        if text:
            self.elements[-1].Description = text

    def add_axis(self, places: Array, bulges: Array) -> None:
        """The axis of the element that was added last and stands at the origin: through ``places``
        (n, 3) in metres, straight or in arcs by their ``bulges`` (n − 1, 3)."""
        make = self.file.create_entity
        points, segments = [places[0]], []
        for start, end, bulge in zip(places[:-1], places[1:], bulges, strict=True):
            first = len(points)
            if np.abs(bulge).any():
                points += [(start + end) / 2 + bulge, end]
                segments.append(make("IfcArcIndex", (first, first + 1, first + 2)))
            else:
                points.append(end)
                segments.append(make("IfcLineIndex", (first, first + 1)))
        curve = make("IfcIndexedPolyCurve", self.points(np.array(points)), segments, False)
        line = make("IfcShapeRepresentation", self.axes, "Axis", "Curve3D", [curve])
        shape = self.elements[-1].Representation
        shape.Representations = [*shape.Representations, line]

    def _placed(
        self,
        kind: str,
        label: str,
        type_name: str,
        place: Array,
        axes: Array,
        form: str,
        solid: Any,
        predefined: str,
    ) -> None:
        make = self.file.create_entity
        at = make(
            "IfcAxis2Placement3D",
            self.point(place),
            self.direction(axes[2]),
            self.direction(axes[0]),
        )
        shape = make(
            "IfcProductDefinitionShape",
            None,
            None,
            [make("IfcShapeRepresentation", self.body, "Body", form, [solid])],
        )
        element = make(
            kind,
            self.identifier(label),
            None,
            label,
            None,
            type_name,
            make("IfcLocalPlacement", self.placement, at),
            shape,
            label,
            predefined,
        )
        self.elements.append(element)

    def write(self, path: Path) -> None:
        make = self.file.create_entity
        make(
            "IfcRelContainedInSpatialStructure",
            self.identifier("contents"),
            None,
            None,
            None,
            self.elements,
            self.building,
        )
        materials = {name: make("IfcMaterial", name) for name, _ in self.by_material}
        for (name, layer), elements in self.by_material.items():
            of, told = materials[name], f"material {name}"
            if layer:
                told = f"{name}, {layer * 1000:g} mm"
                layers = [make("IfcMaterialLayer", of, float(layer), None, name)]
                of = make("IfcMaterialLayerSet", layers, told)
            identifier = self.identifier(told)
            make("IfcRelAssociatesMaterial", identifier, None, None, None, elements, of)
        self.file.write(str(path))
        text = path.read_text(encoding="utf-8")
        # The time of day would make the same statement give other bytes.
        path.write_text(
            re.sub(r"'\d{4}-\d\d-\d\dT[^']*'", "'2000-01-01T00:00:00'", text, count=1),
            encoding="utf-8",
        )


def write_ifc(path: Path, material: Material) -> None:
    """Writes members, plates and ribs of all there is, and shapes that nothing was made of; metres,
    z up. Nothing where there are none."""
    model = Model(material.name)
    for subject, build in material.having("building"):
        build(model, subject)
    if model.elements:
        model.write(path)


def element_names(path: Path) -> set[str]:
    """Labels of all members and plates in an IFC file; raises ``ValueError`` when it cannot be
    read."""
    try:
        return {str(e.Name) for e in ifcopenshell.open(str(path)).by_type("IfcElement")}
    except (OSError, RuntimeError, ifcopenshell.Error) as error:
        raise ValueError(f"{path.name} cannot be read: {error}") from None
