"""Machine files read back: what steel and timber pieces they tell of, in millimetres."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray

from .pack_files import Pack, PackError

__all__ = ["Clearing", "Drilled", "Sawn", "Steel", "Timber", "steel_files", "timber_parts"]

Array = NDArray[np.float64]
T = TypeVar("T")
SPACE = "{https://www.design2machine.com}"
HEAD = 24
"""Lines of the head of a steel piece."""


@dataclass
class Steel:
    """A steel piece: the lines of its ``head``, its ``members`` as a comment tells them, ``rings``
    (n, 2) closed round faces by letter, and ``holes`` (x, y, diameter) in them."""

    head: list[str]
    members: list[str]
    rings: list[tuple[str, Array]] = field(default_factory=list)
    holes: list[tuple[str, Array]] = field(default_factory=list)

    def number(self, line: int) -> float:
        return float(self.head[line].split(",")[0])

    @property
    def label(self) -> str:
        return self.head[3]

    @property
    def length(self) -> float:
        return self.number(8)


def steel_files(pack: Pack) -> dict[str, Steel]:
    """Steel pieces of a pack by their files' names."""
    return _each(pack, "nc1", _steel)


def timber_parts(pack: Pack) -> dict[tuple[str, str], Timber]:
    """Timber parts of a pack by their files' names and their own."""
    files = _each(pack, "btlx", _timber)
    return {(name, part.label): part for name, parts in files.items() for part in parts}


def _each(pack: Pack, ending: str, read: Callable[[Path], T]) -> dict[str, T]:
    """What the machine files of an ``ending`` hold; each is read once."""
    if ending not in pack.kept:
        found: dict[str, T] = {}
        for path in sorted((pack.folder / "machine").glob(f"*.{ending}")):
            try:
                found[path.name] = read(path)
            except (
                ValueError,
                IndexError,
                KeyError,
                AttributeError,
                ElementTree.ParseError,
            ) as error:
                raise PackError(f"machine/{path.name} cannot be read: {error}") from None
        pack.kept[ending] = found
    kept: dict[str, T] = pack.kept[ending]
    return kept


def _steel(path: Path) -> Steel:
    lines = path.read_text(encoding="ascii").splitlines()
    if lines[0] != "ST" or lines[-1] != "EN":
        raise ValueError("it does not begin with ST and end with EN")
    notes = [line[3:] for line in lines if line.startswith("** members ")]
    body = [line for line in lines[1:-1] if not line.startswith("**")]
    out = Steel([line.strip() for line in body[:HEAD]], notes[0].split()[1:])
    places: list[Array] = []
    block, letter = "", ""
    for line in [*body[HEAD:], "--"]:
        if not line.startswith("  "):
            if places:
                out.rings.append((letter, np.array(places)))
            block, places = line.strip(), []
            continue
        letter = line[2].strip() or letter
        values = np.array([float(word) for word in line[3:].replace("u", " ").split()])
        if block == "BO":
            out.holes.append((letter, values))
        else:
            places.append(values[:2])
    return out


@dataclass
class Sawn:
    """An end sawn off beyond a plane: the word for which, a place (3,) on it and the unit
    direction (3,) out of the part."""

    end: str
    place: Array
    normal: Array


@dataclass
class Clearing:
    """What is cleared by a name: the ``ring`` (n, 3) above it, and how ``deep`` along the unit
    ``normal`` (3,)."""

    name: str
    ring: Array
    normal: Array
    deep: float

    @property
    def floor(self) -> Array:
        """The ring (n, 3) of the floor."""
        return np.asarray(self.ring - self.deep * self.normal)


@dataclass
class Drilled:
    """A hole from a place (3,) on against the unit ``normal`` (3,), so ``deep`` and wide."""

    place: Array
    normal: Array
    deep: float
    diameter: float


@dataclass
class Timber:
    """A timber part in the frame of its member: x along it, y along the width and z along the
    height, from the axis. ``stands`` (4, 3) is its corner and its three directions."""

    label: str
    members: list[str]
    material: str
    count: int
    size: Array
    weight: float
    stands: Array
    saws: list[Sawn] = field(default_factory=list)
    clearings: list[Clearing] = field(default_factory=list)
    holes: list[Drilled] = field(default_factory=list)


def _timber(path: Path) -> list[Timber]:
    root = ElementTree.parse(path).getroot()
    return [_part(part) for part in root.iter(f"{SPACE}Part")]


def _part(part: ElementTree.Element) -> Timber:
    told = part.attrib
    size = np.array([float(told[name]) for name in ("Length", "Height", "Width")])
    out = Timber(
        label=told["Designation"],
        members=told["Annotation"].split(),
        material=told["Material"],
        count=int(told["Count"]),
        size=size,
        weight=float(told["Weight"]),
        stands=_position(next(part.iter(f"{SPACE}Transformation"))),
    )
    planes = {1: np.array([[0.0, 0, 0], [1, 0, 0], [0, 0, 1], [0, -1, 0]])}
    for told_plane in part.iter(f"{SPACE}UserReferencePlane"):
        planes[int(told_plane.attrib["ID"])] = _position(told_plane)
    for made in next(part.iter(f"{SPACE}Processings")):
        plane = _in_member(planes[int(made.attrib["ReferencePlaneID"])], size)
        READ[made.tag.removeprefix(SPACE)](out, made, plane)
    return out


def _in_member(plane: Array, size: Array) -> Array:
    """A plane (4, 3) of a part's box in the frame of its member: Y leads down from the upper side,
    Z across from the front."""
    x, y, z = plane.T
    turned = np.column_stack([x, z, -y])
    turned[0] += [0.0, -size[2] / 2, size[1] / 2]
    return turned


def _sawn(out: Timber, made: ElementTree.Element, plane: Array) -> None:
    told = {child.tag.removeprefix(SPACE): child.text or "" for child in made}
    if (float(told["Angle"]), float(told["Inclination"])) != (90.0, 90.0):
        raise ValueError(f"{out.label} is sawn aslant in a plane")
    sign = {"start": -1.0, "end": 1.0}[told["Orientation"]]
    place = plane[0] + float(told["StartX"]) * plane[1]
    out.saws.append(Sawn(told["Orientation"], place, sign * plane[1]))


def _cleared(out: Timber, made: ElementTree.Element, plane: Array) -> None:
    contour = next(made.iter(f"{SPACE}Contour"))
    corners = [_told(p) for p in contour.iter() if p.tag.endswith("Point")]
    if not np.allclose(corners[0], corners[-1]) or made.attrib["CounterSink"] != "yes":
        raise ValueError(f"{out.label} has an open outline")
    ring = plane[0] + np.array(corners[:-1]) @ plane[1:]
    name, deep = made.attrib["Name"], float(contour.attrib["Depth"])
    out.clearings.append(Clearing(name, ring, plane[3], deep))


def _drilled(out: Timber, made: ElementTree.Element, plane: Array) -> None:
    told = {child.tag.removeprefix(SPACE): child.text or "" for child in made}
    if float(told["Inclination"]) != 90.0:
        raise ValueError(f"{out.label} is drilled aslant in a plane")
    place = plane[0] + float(told["StartX"]) * plane[1] + float(told["StartY"]) * plane[2]
    out.holes.append(Drilled(place, plane[3], float(told["Depth"]), float(told["Diameter"])))


READ = {"JackRafterCut": _sawn, "FreeContour": _cleared, "Drilling": _drilled}
"""What is read of each process; others are an error."""


def _position(parent: ElementTree.Element) -> Array:
    """Origin, X, Y and Z (4, 3) of a coordinate system."""
    position = next(parent.iter(f"{SPACE}Position"))
    at = [
        _told(next(position.iter(f"{SPACE}{n}"))) for n in ("ReferencePoint", "XVector", "YVector")
    ]
    return np.array([*at, np.cross(at[1], at[2])])


def _told(element: ElementTree.Element) -> Array:
    return np.array([float(element.attrib[axis]) for axis in "XYZ"])
