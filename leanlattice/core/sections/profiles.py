"""Open sections: I and H, channels single and double, angles, and tees.

Rolled ones are named by the series of EN 10365 and EN 10056-1 and have the fillets of these; a size
of one's own is welded or pressed and has sharp corners. They are drawn with sharp corners about the
middle of the box they fill, which is where a member's axis lies.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from . import sizes
from .area import Area, area_of, rounded
from .shapes import Array, Outline, Profile, Properties, Shape, in_mm, within

__all__ = [
    "HEA",
    "HEB",
    "IPE",
    "Angle",
    "Channel",
    "DoubleChannel",
    "ISection",
    "Open",
    "RolledChannel",
    "Tee",
]


class Open(Shape):
    """What is not closed: a web and flanges of two thicknesses, with ``fillet`` between them.

    Torsion is by the formulas of SCI P363 (2009), notes to section properties, after El Darwish and
    Johnston (1965).
    """

    web: float
    flange: float
    fillet: float
    junctions: ClassVar[tuple[int, ...]] = ()
    """Corners of the outline that have a fillet when it is rolled."""

    @property
    def wall(self) -> float:  # type: ignore[override]
        return min(self.web, self.flange)

    @property
    def turns(self) -> int:  # type: ignore[override]
        return 1

    @classmethod
    def checked(cls, mm: tuple[float, ...]) -> None:
        """Raises ``ValueError`` where web and flanges do not fit into height and width."""
        within(mm[:2], cls)
        height, width, web, flange = mm
        room = height / 2 if cls.flanges == 2 else height
        if not (0.5 <= web < width and 0.5 <= flange < room):
            plates = f"a web of {web:g} mm and flanges of {flange:g} mm"
            raise ValueError(f"{plates} do not fit {height:g} × {width:g} mm")

    flanges: ClassVar[int] = 2

    @cached_property
    def corners(self) -> Array:
        """Corners (n, 2) of its outline, counter-clockwise."""
        raise NotImplementedError

    def outline(self, segments: int = 16) -> Outline:
        return self.corners, None

    def rings(self) -> list[Array]:
        """The rings that its properties are of, with their fillets."""
        radii = np.zeros(len(self.corners))
        radii[list(self.junctions)] = self.fillet
        return [rounded(self.corners, radii.tolist())]

    def reach(self, directions: Array) -> Array:
        corners = np.vstack([outer for outer, _ in self.pieces()])
        return np.asarray((directions @ corners.T).max(axis=1))

    @cached_property
    def worth(self) -> Area:
        """What its area with its fillets is worth."""
        return area_of(self.rings())

    @property
    def centroid(self) -> tuple[float, float]:  # type: ignore[override]
        return self.worth.centroid

    @property
    def torsion(self) -> float:
        """In m⁴."""
        raise NotImplementedError

    @property
    def sheared(self) -> tuple[float, float]:
        """Areas in m² that carry shear along y and z: EN 1993-1-1, 6.2.6(3)."""
        raise NotImplementedError

    @cached_property
    def properties(self) -> Properties:
        own = self.worth
        shear_y, shear_z = self.sheared
        return Properties(
            area=own.area,
            inertia_y=own.inertia_y,
            inertia_z=own.inertia_z,
            torsion=self.torsion,
            elastic_y=own.elastic_y,
            elastic_z=own.elastic_z,
            plastic_y=own.plastic_y,
            plastic_z=own.plastic_z,
            shear_y=shear_y,
            shear_z=shear_z,
            product=own.product,
        )

    def _at_tee(self) -> float:
        """What the place where a web meets the middle of a flange adds to torsion, in m⁴; nothing
        where one is so much thicker that the formula does not hold."""
        t, w, r = self.flange, self.web, self.fillet
        diameter = ((t + r) ** 2 + (r + w / 4) * w) / (2 * r + t)
        factor = -0.042 + 0.2204 * w / t + 0.1355 * r / t
        factor -= 0.0865 * r * w / t**2 + 0.0725 * (w / t) ** 2
        return float(max(factor, 0.0) * diameter**4)

    def _at_corner(self) -> float:
        """The same where a web meets the edge of a flange."""
        t, w, r = self.flange, self.web, self.fillet
        diameter = 2 * ((3 * r + w + t) - np.sqrt(2 * (2 * r + w) * (2 * r + t)))
        factor = -0.0908 + 0.2621 * w / t + 0.1231 * r / t
        factor -= 0.0752 * r * w / t**2 + 0.0945 * (w / t) ** 2
        return float(max(factor, 0.0) * diameter**4)


@dataclass(frozen=True)
class ISection(Open):
    """An I or H welded of three plates."""

    height: float
    width: float
    web: float
    flange: float
    fillet: float = 0.0
    family: ClassVar[str] = "I"
    title: ClassVar[str] = "I beam welded of plates"
    count: ClassVar[int] = 4
    junctions: ClassVar[tuple[int, ...]] = (3, 4, 9, 10)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        return cls(*(m / 1e3 for m in mm))

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.WELDED_I)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.height, self.width, self.web, self.flange)

    @property
    def turns(self) -> int:  # type: ignore[override]
        return 2

    @cached_property
    def corners(self) -> Array:
        b, h, w = self.width / 2, self.height / 2, self.web / 2
        f = h - self.flange
        right = [(b, -h), (b, -f), (w, -f), (w, f), (b, f), (b, h)]
        return np.array([(-b, -h), *right, *((-y, z) for y, z in right[:0:-1])])

    @property
    def torsion(self) -> float:
        t, w = self.flange, self.web
        plates = 2 / 3 * self.width * t**3 + (self.height - 2 * t) * w**3 / 3
        return plates + 2 * self._at_tee() - 0.42 * t**4

    @property
    def sheared(self) -> tuple[float, float]:
        area, clear = self.worth.area, (self.height - 2 * self.flange) * self.web
        if not self.fillet:
            return area - clear, clear
        along = area - 2 * self.width * self.flange + (self.web + 2 * self.fillet) * self.flange
        return 2 * self.width * self.flange, max(along, clear)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        sides = (self.width, self.height, self.web, self.flange)
        return "IfcIShapeProfileDef", (*sides, self.fillet or None, None, None)


class Rolled(Open):
    """What is rolled in the sizes of a series, by which it is named."""

    nominal: float
    table: ClassVar[dict[float, tuple[float, ...]]]
    count: ClassVar[int] = 1
    tabled: ClassVar[bool] = True

    @classmethod
    def row(cls, mm: float) -> tuple[float, ...]:
        """Sizes in metres of the one of a nominal size in mm; raises ``ValueError`` with a sentence
        where none is rolled."""
        if mm not in cls.table:
            near = sorted(cls.table, key=lambda own: abs(own - mm))[:2]
            word = " and ".join(f"{size:g}" for size in sorted(near))
            raise ValueError(f"no {cls.family} {mm:g} is rolled; {word} come nearest")
        return tuple(size / 1e3 for size in cls.table[mm])

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        return cls(*cls.row(mm[0]), nominal=mm[0])  # type: ignore[call-arg]

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from (cls.of_sizes((mm,)) for mm in cls.table)

    @property
    def size(self) -> tuple[float, ...]:
        return (self.nominal,)


@dataclass(frozen=True)
class RolledI(Rolled, ISection):
    """A rolled I or H: EN 10365."""

    nominal: float = 0.0


@dataclass(frozen=True)
class IPE(RolledI):
    """An I with parallel flanges."""

    family: ClassVar[str] = "IPE"
    title: ClassVar[str] = "I beam"
    table = sizes.IPE


@dataclass(frozen=True)
class HEA(RolledI):
    """A light H with wide flanges."""

    family: ClassVar[str] = "HEA"
    title: ClassVar[str] = "H beam, light"
    table = sizes.HEA


@dataclass(frozen=True)
class HEB(RolledI):
    """An H with wide flanges."""

    family: ClassVar[str] = "HEB"
    title: ClassVar[str] = "H beam"
    table = sizes.HEB


@dataclass(frozen=True)
class Channel(Open):
    """A channel, its web to the left: pressed or welded to a size of one's own."""

    height: float
    width: float
    web: float
    flange: float
    fillet: float = 0.0
    family: ClassVar[str] = "U"
    title: ClassVar[str] = "channel, pressed or welded"
    count: ClassVar[int] = 4
    junctions: ClassVar[tuple[int, ...]] = (3, 4)
    seen_back = np.pi

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        return cls(*(m / 1e3 for m in mm))

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.PRESSED_U)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.height, self.width, self.web, self.flange)

    @cached_property
    def corners(self) -> Array:
        b, h = self.width / 2, self.height / 2
        w, f = self.web - b, h - self.flange
        lower = [(-b, -h), (b, -h), (b, -f), (w, -f)]
        return np.array([*lower, *((y, -z) for y, z in lower[::-1])])

    @property
    def torsion(self) -> float:
        t, w = self.flange, self.web
        plates = 2 / 3 * self.width * t**3 + (self.height - 2 * t) * w**3 / 3
        return plates + 2 * self._at_corner() - 0.42 * t**4

    @property
    def sheared(self) -> tuple[float, float]:
        flanges = 2 * self.width * self.flange
        clear = (self.height - 2 * self.flange) * self.web
        if not self.fillet:
            return self.worth.area - clear, clear
        return flanges, self.worth.area - flanges + (self.web + self.fillet) * self.flange

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        sides = (self.height, self.width, self.web, self.flange)
        return "IfcUShapeProfileDef", (*sides, self.fillet or None, None, None)


@dataclass(frozen=True)
class RolledChannel(Rolled, Channel):
    """A rolled channel with parallel flanges: EN 10365."""

    nominal: float = 0.0
    family: ClassVar[str] = "UPE"
    title: ClassVar[str] = "channel"
    table = sizes.UPE


@dataclass(frozen=True)
class DoubleChannel(Open):
    """Two rolled channels back to back, their webs a ``gap`` apart, joined at intervals."""

    channel: RolledChannel
    gap: float
    family: ClassVar[str] = "2UPE"
    title: ClassVar[str] = "double channel, two back to back"
    count: ClassVar[int] = 2
    MOST: ClassVar[float] = 200.0

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        if not 0 <= mm[1] <= cls.MOST:
            raise ValueError(f"channels are from 0 to {cls.MOST:g} mm apart")
        channel = RolledChannel.of_sizes(mm[:1])
        assert isinstance(channel, RolledChannel)
        return cls(channel, mm[1] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.DOUBLE_UPE)

    @property
    def size(self) -> tuple[float, ...]:
        return (*self.channel.size, *in_mm(self.gap))

    @property
    def height(self) -> float:  # type: ignore[override]
        return self.channel.height

    @property
    def width(self) -> float:  # type: ignore[override]
        return 2 * self.channel.width + self.gap

    @property
    def wall(self) -> float:  # type: ignore[override]
        return self.channel.wall

    @property
    def turns(self) -> int:  # type: ignore[override]
        return 2

    @property
    def _aside(self) -> Array:
        """From the middle to that of the channel on the right."""
        return np.array([(self.channel.width + self.gap) / 2, 0.0])

    def pieces(self, segments: int = 16) -> tuple[Outline, ...]:
        right = self.channel.corners + self._aside
        return (-right, None), (right, None)

    def outline(self, segments: int = 16) -> Outline:
        raise TypeError("two channels have two outlines; ask for pieces")

    def rings(self) -> list[Array]:
        right = self.channel.rings()[0] + self._aside
        return [-right, right]

    @property
    def torsion(self) -> float:
        return 2 * self.channel.torsion

    @property
    def sheared(self) -> tuple[float, float]:
        along_y, along_z = self.channel.sheared
        return 2 * along_y, 2 * along_z

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return self.channel.ifc()

    def profiles(self) -> tuple[Profile, ...]:
        aside = float(self._aside[0])
        left = Profile(*self.channel.ifc(), at=(-aside, 0.0), turned=True)
        return left, Profile(*self.channel.ifc(), at=(aside, 0.0))


@dataclass(frozen=True)
class Angle(Open):
    """An angle, its heel to the lower left: its height before its width."""

    height: float
    width: float
    thickness: float
    fillet: float = 0.0
    family: ClassVar[str] = "L"
    title: ClassVar[str] = "angle"
    count: ClassVar[int] = 3
    tabled: ClassVar[bool] = True
    flanges: ClassVar[int] = 1
    junctions: ClassVar[tuple[int, ...]] = (3,)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked((*mm[:2], mm[2], mm[2]))
        long, short = max(mm[:2]), min(mm[:2])
        fillet = sizes.ANGLES.get((long, short, mm[2]), 0.0)
        return cls(*(m / 1e3 for m in (*mm, fillet)))

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.ANGLES)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.height, self.width, self.thickness)

    @property
    def web(self) -> float:  # type: ignore[override]
        return self.thickness

    @property
    def flange(self) -> float:  # type: ignore[override]
        return self.thickness

    @property
    def seen_back(self) -> float | None:  # type: ignore[override]
        """One of equal legs is the same on both sides of the line between them."""
        return -np.pi / 2 if self.height == self.width else None

    @cached_property
    def corners(self) -> Array:
        b, h = self.width / 2, self.height / 2
        y, z = self.thickness - b, self.thickness - h
        return np.array([(-b, -h), (b, -h), (b, z), (y, z), (y, h), (-b, h)])

    def rings(self) -> list[Array]:
        """Its toes are rounded half as far: EN 10056-1."""
        toe = self.fillet / 2
        return [rounded(self.corners, [0.0, 0.0, toe, self.fillet, toe, 0.0])]

    @property
    def torsion(self) -> float:
        t = self.thickness
        return (self.width + self.height - t) * t**3 / 3 + self._at_corner() - 0.21 * t**4

    @property
    def sheared(self) -> tuple[float, float]:
        return self.width * self.thickness, self.height * self.thickness

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        toe = self.fillet / 2
        sides = (self.height, self.width, self.thickness)
        return "IfcLShapeProfileDef", (*sides, self.fillet or None, toe or None, None)


@dataclass(frozen=True)
class Tee(Open):
    """A tee welded of two plates, its flange above."""

    height: float
    width: float
    web: float
    flange: float
    fillet: float = 0.0
    family: ClassVar[str] = "T"
    title: ClassVar[str] = "tee"
    count: ClassVar[int] = 4
    flanges: ClassVar[int] = 1

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        return cls(*(m / 1e3 for m in mm))

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.TEES)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.height, self.width, self.web, self.flange)

    @cached_property
    def corners(self) -> Array:
        b, h, w = self.width / 2, self.height / 2, self.web / 2
        f = h - self.flange
        right = [(w, -h), (w, f), (b, f), (b, h)]
        return np.array([*right, *((-y, z) for y, z in right[::-1])])

    @property
    def torsion(self) -> float:
        t, w = self.flange, self.web
        plates = self.width * t**3 / 3 + (self.height - t) * w**3 / 3
        return plates + self._at_tee() - 0.21 * t**4 - 0.105 * w**4

    @property
    def sheared(self) -> tuple[float, float]:
        return self.width * self.flange, self.web * (self.height - self.flange / 2)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        sides = (self.height, self.width, self.web, self.flange)
        return "IfcTShapeProfileDef", (*sides, *(None,) * 5)
