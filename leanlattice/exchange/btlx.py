"""Timber members for machines: a file in the open format BTLx, version 2.1. Lengths in millimetres.

A part stands in its own box: X along it, Y down from its upper side, Z across it. Whatever does not
lie along a side of the box is told of in a plane of its own, so that no angle needs a sign: an end
is sawn square to the X of its plane, a notch or slot is cleared within an outline to a depth below
its plane, and a bolt is drilled square to it.
"""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray

from .. import __version__

__all__ = ["Cut", "Hole", "Pocket", "TimberPart", "write_btlx"]

Array = NDArray[np.float64]
NAMESPACE = "https://www.design2machine.com"
"""What names the format's elements; nothing is fetched from there."""
VERSION = "2.1.0"
MM = 1000.0
FIRST_PLANE = 101
"""Numbers of planes follow those of a part's own sides."""
SQUARE = 1e-9
"""Cosine by which a cut may be off square and be told of in the side of the box."""
LEAN = 0.9
"""Cosine of a direction along the width above which the height leads instead."""


class Cut(NamedTuple):
    """A plane that cuts the start or the last ``end`` of a part: a unit ``normal`` (3,) out of it
    and the ``level`` on it, in the frame of the blank and in metres."""

    end: int
    normal: Array
    level: float


class Pocket(NamedTuple):
    """What is cleared within ``corners`` (n, 3) of a floor, in the frame of the blank and in
    metres: ``depth`` above it along the unit ``normal`` (3,) out of the material."""

    name: str
    corners: Array
    normal: Array
    depth: float


class Hole(NamedTuple):
    """A round hole of a ``diameter`` right through, at a ``place`` (3,) on its axis along the unit
    direction ``way`` (3,), in the frame of the blank and in metres."""

    place: Array
    way: Array
    diameter: float


@dataclass(frozen=True)
class TimberPart:
    """A part by its ``label`` and the ``members`` that are it: the ``size`` (3,) of its box along
    X, Y and Z, the ``origin`` (3,) and ``frame`` (3, 3; rows x, y, z) of its blank where it stands,
    in metres, of a ``material`` and ``mass`` in kg, what is worked in it, and a ``note``."""

    label: str
    members: list[str]
    material: str
    mass: float
    size: Array
    origin: Array
    frame: Array
    cuts: list[Cut] = field(default_factory=list)
    pockets: list[Pocket] = field(default_factory=list)
    holes: list[Hole] = field(default_factory=list)
    note: str = ""

    def placed(self, places: Array) -> Array:
        """Places (n, 3) of the blank's frame in that of the box, in millimetres."""
        _, height, width = self.size
        return np.asarray(self.turned(places) + np.array([0.0, height / 2, width / 2])) * MM

    @staticmethod
    def turned(ways: Array) -> Array:
        """Directions (n, 3) of the blank's frame in that of the box: Y leads down, Z across."""
        x, y, z = np.moveaxis(np.asarray(ways), -1, 0)
        return np.stack([x, -z, y], axis=-1)


def write_btlx(path: Path, project: str, parts: Sequence[TimberPart]) -> None:
    """Writes a file of ``parts``."""
    root = ElementTree.Element("BTLx", {"xmlns": NAMESPACE, "Version": VERSION, "Language": "en"})
    history = ElementTree.SubElement(root, "FileHistory")
    told = {"ProgramName": "Lean Lattice", "ProgramVersion": __version__}
    ElementTree.SubElement(history, "InitialExportProgram", told)
    every = ElementTree.SubElement(
        ElementTree.SubElement(root, "Project", {"Name": project}), "Parts"
    )
    for number, part in enumerate(parts, start=1):
        _Written(every, project, number, part)
    ElementTree.indent(root)
    ElementTree.ElementTree(root).write(path, encoding="utf-8", xml_declaration=True)


class _Written:
    """A part as it is written."""

    def __init__(
        self, parent: ElementTree.Element, project: str, number: int, part: TimberPart
    ) -> None:
        self.part = part
        self.count = 0
        length, height, width = part.size * MM
        attributes = {
            "SingleMemberNumber": str(number),
            "Designation": part.label,
            "Annotation": " ".join(part.members),
            "Material": part.material,
            "Count": str(len(part.members)),
            "Length": _told(length),
            "Height": _told(height),
            "Width": _told(width),
            "Weight": _told(part.mass),
        }
        root = ElementTree.SubElement(parent, "Part", attributes)
        self._transformations(root, project)
        ElementTree.SubElement(
            root, "GrainDirection", {"X": "1", "Y": "0", "Z": "0", "Align": "no"}
        )
        ElementTree.SubElement(root, "ReferenceSide", {"Side": "1", "Align": "no"})
        if part.note:
            described = ElementTree.SubElement(root, "UserAttributes")
            ElementTree.SubElement(described, "UserAttribute", {"ID": "note", "Value": part.note})
        self.planes = ElementTree.SubElement(root, "UserReferencePlanes")
        self.processings = ElementTree.SubElement(root, "Processings")
        self._ends()
        for pocket in part.pockets:
            self._clear(pocket)
        for hole in part.holes:
            self._drill(hole)
        if not len(self.planes):
            root.remove(self.planes)

    def _transformations(self, root: ElementTree.Element, project: str) -> None:
        """Where the first of the members stands."""
        part = self.part
        name = f"{project}/{part.label}/{part.members[0]}"
        guid = str(uuid.uuid5(uuid.NAMESPACE_OID, name)).upper()
        every = ElementTree.SubElement(root, "Transformations")
        one = ElementTree.SubElement(every, "Transformation", {"GUID": f"{{{guid}}}"})
        _, height, width = part.size
        corner = part.origin + np.array([0.0, -width / 2, height / 2]) @ part.frame
        _position(one, corner * MM, part.frame[0], -part.frame[2])

    def _ends(self) -> None:
        """Saw cuts of both ends, square ones in the side of the box."""
        for end in (0, 1):
            own = [cut for cut in self.part.cuts if cut.end == end]
            word = "end" if end else "start"
            for cut in own:
                self._saw(cut, word)
            if not own:
                self._jack_rafter(1, word, self.part.size[0] * MM * end)

    def _saw(self, cut: Cut, word: str) -> None:
        """An end sawn in a plane of its own, whose X leads out of a last end and into a first."""
        if abs(cut.normal[0]) > 1 - SQUARE:
            self._jack_rafter(1, word, cut.level * cut.normal[0] * MM)
            return
        along = cut.normal if cut.end else -cut.normal
        place = np.array([cut.level / cut.normal[0], 0.0, 0.0])
        plane = self._plane(place, along, _square_to(along))
        self._jack_rafter(plane, word, 0.0)

    def _jack_rafter(self, plane: int, word: str, at: float) -> None:
        told = {
            "Orientation": word,
            "StartX": _told(at),
            "StartY": _told(0),
            "StartDepth": _told(0),
        }
        self._processing(
            "JackRafterCut", plane, told | {"Angle": _told(90), "Inclination": _told(90)}
        )

    def _clear(self, pocket: Pocket) -> None:
        """What is cleared within an outline, from above the material down to a floor."""
        along = pocket.corners[1] - pocket.corners[0]
        along = along / np.linalg.norm(along)
        across = np.cross(pocket.normal, along)
        raised = pocket.corners[0] + pocket.depth * pocket.normal
        plane = self._plane(raised, along, across)
        flat = (pocket.corners - pocket.corners[0]) @ np.column_stack([along, across]) * MM
        more = {"CounterSink": "yes", "ToolPosition": "left"}
        made = self._processing("FreeContour", plane, {}, more | {"Name": pocket.name})
        contour = {
            "Depth": _told(pocket.depth * MM),
            "DepthBounded": "yes",
            "Inclination": _told(90),
        }
        ring = ElementTree.SubElement(made, "Contour", contour)
        _place(ring, "StartPoint", np.append(flat[0], 0.0))
        for corner in [*flat[1:], flat[0]]:
            _place(ElementTree.SubElement(ring, "Line"), "EndPoint", np.append(corner, 0.0))

    def _drill(self, hole: Hole) -> None:
        """A hole right through, from the plane beyond the part that is square to it."""
        along = np.array([1.0, 0.0, 0.0])
        outside = float(np.linalg.norm(self.part.size[1:]) / 2)
        plane = self._plane(hole.place + outside * hole.way, along, np.cross(hole.way, along))
        told = {"StartX": _told(0), "StartY": _told(0), "Angle": _told(0), "Inclination": _told(90)}
        told |= {"DepthLimited": "yes", "Depth": _told(2 * outside * MM)}
        self._processing("Drilling", plane, told | {"Diameter": _told(hole.diameter * MM)})

    def _plane(self, place: Array, along: Array, across: Array) -> int:
        """The number of a new plane that lies out of the material, from a ``place`` (3,) on."""
        number = FIRST_PLANE + len(self.planes)
        plane = ElementTree.SubElement(self.planes, "UserReferencePlane", {"ID": str(number)})
        turned = self.part.turned(np.stack([along, across]))
        _position(plane, self.part.placed(place), *turned)
        return number

    def _processing(
        self, kind: str, plane: int, told: dict[str, str], more: dict[str, str] | None = None
    ) -> ElementTree.Element:
        """A new processing of a ``kind`` in a ``plane``, with elements and further attributes."""
        self.count += 1
        attributes = {"Name": kind} | (more or {})
        attributes |= {"Process": "yes", "Priority": "0", "ProcessID": str(self.count)}
        attributes["ReferencePlaneID"] = str(plane)
        made = ElementTree.SubElement(self.processings, kind, attributes)
        for name, value in told.items():
            ElementTree.SubElement(made, name).text = value
        return made


def _square_to(way: Array) -> Array:
    """A unit direction (3,) square to a ``way`` (3,), in the plane of the width where it can be."""
    lead = np.array([0.0, 1.0, 0.0]) if abs(way[1]) < LEAN else np.array([0.0, 0.0, 1.0])
    across = lead - (lead @ way) * way
    return np.asarray(across / np.linalg.norm(across))


def _position(parent: ElementTree.Element, place: Array, along: Array, across: Array) -> None:
    """A coordinate system: its origin in millimetres, and its X and Y."""
    position = ElementTree.SubElement(parent, "Position")
    _place(position, "ReferencePoint", place)
    for name, way in (("XVector", along), ("YVector", across)):
        told = {axis: f"{value + 0.0:.9f}" for axis, value in zip("XYZ", way, strict=True)}
        ElementTree.SubElement(position, name, told)


def _place(parent: ElementTree.Element, name: str, place: Array) -> None:
    ElementTree.SubElement(parent, name, {a: _told(v) for a, v in zip("XYZ", place, strict=True)})


def _told(value: float) -> str:
    return f"{round(float(value), 3) + 0.0:.3f}"
