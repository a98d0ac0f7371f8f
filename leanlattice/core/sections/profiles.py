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
from .area import rounded
from .shapes import Array, Outline, Profile, Shape, in_mm
from .webbed import Open, Plated, Rolled, Webbed

__all__ = [
    "HEA",
    "HEB",
    "IPE",
    "Angle",
    "Channel",
    "DoubleChannel",
    "ISection",
    "RolledChannel",
    "Tee",
]


@dataclass(frozen=True)
class ISection(Plated):
    """An I or H welded of three plates."""

    family: ClassVar[str] = "I"
    title: ClassVar[str] = "I beam welded of plates"
    drawn = sizes.WELDED_I
    junctions: ClassVar[tuple[int, ...]] = (3, 4, 9, 10)

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
class Channel(Plated):
    """A channel, its web to the left: pressed or welded to a size of one's own."""

    family: ClassVar[str] = "U"
    title: ClassVar[str] = "channel, pressed or welded"
    drawn = sizes.PRESSED_U
    junctions: ClassVar[tuple[int, ...]] = (3, 4)
    seen_back = np.pi

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
class Angle(Webbed):
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
class Tee(Plated):
    """A tee welded of two plates, its flange above."""

    family: ClassVar[str] = "T"
    title: ClassVar[str] = "tee"
    drawn = sizes.TEES
    flanges: ClassVar[int] = 1

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
