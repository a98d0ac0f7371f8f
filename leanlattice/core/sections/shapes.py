"""Shapes of sections: one class a family, with its properties, outline and form in building models.

Lengths in metres. The local z is the direction a member is rolled by, along a shape's ``height``;
y lies along its ``width``.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from ..materials import STEELS, TIMBERS
from ..results import Result
from . import sizes

__all__ = [
    "FAMILIES",
    "Box",
    "CircularHollow",
    "Flat",
    "Properties",
    "RectangularHollow",
    "Round",
    "Shape",
    "SquareHollow",
    "Timber",
]

Array = NDArray[np.float64]
Outline = tuple[Array, Array | None]


@dataclass(frozen=True)
class Properties:
    """What a shape is worth: ``area`` in m², second moments ``inertia_y``, ``inertia_z`` and
    ``torsion`` in m⁴, moduli ``elastic_y`` … ``plastic_z`` in m³, and areas that carry shear along
    y and z in m²."""

    area: float
    inertia_y: float
    inertia_z: float
    torsion: float
    elastic_y: float
    elastic_z: float
    plastic_y: float
    plastic_z: float
    shear_y: float
    shear_z: float


class Shape(Result, ABC):
    """A shape of a ``family``, by which it is named with its sizes in mm; it may be of the
    ``materials``, the first where none is named.

    ``tabled`` families have sizes that are made; others are of any size within ``LIMITS``.
    """

    family: ClassVar[str]
    materials: ClassVar[tuple[str, ...]] = STEELS
    count: ClassVar[int]
    """How many sizes it is named by."""
    tabled: ClassVar[bool] = False
    round: ClassVar[bool] = False
    LIMITS: ClassVar[tuple[float, float]] = (5.0, 3000.0)
    height: float
    width: float
    wall: float = 0.0
    formed: str = ""
    """Word for how it was formed, where that matters."""

    @classmethod
    @abstractmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        """The shape of sizes in mm, as they stand in its name; raises ``ValueError`` with a
        sentence where there can be none."""

    @classmethod
    def made(cls) -> Iterator[Shape]:
        """Sizes that are commonly made, small to large."""
        yield from ()

    @property
    @abstractmethod
    def size(self) -> tuple[float, ...]:
        """Sizes in mm, as they stand in its name."""

    @property
    def name(self) -> str:
        """Its name where the material is the usual one."""
        size = " × ".join(f"{mm:g}" for mm in self.size)
        return f"{self.family} {size} {sizes.COLD if self.formed else ''}".rstrip()

    def named_of(self, material: str) -> str:
        """Its name of a material."""
        return self.name if material == self.materials[0] else f"{self.name} {material}"

    @cached_property
    @abstractmethod
    def properties(self) -> Properties:
        """Area, second moments and moduli."""

    @abstractmethod
    def outline(self, segments: int = 16) -> Outline:
        """Outer and inner outline (n, 2) as (y, z), counter-clockwise; the inner one is ``None``
        where it is solid. Arcs of round shapes have so many ``segments``."""

    @abstractmethod
    def reach(self, directions: Array) -> Array:
        """How far (n,) it reaches from its axis along unit ``directions`` (n, 2) as (y, z)."""

    @abstractmethod
    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        """Its profile in building models: class, and what follows its name and place."""


def _within(mm: tuple[float, ...], cls: type[Shape]) -> None:
    low, high = cls.LIMITS
    walls = mm[:-1] if cls.count > 1 and issubclass(cls, _Hollow) else mm
    if not all(low <= size <= high for size in walls):
        raise ValueError(f"sizes of {cls.family} are from {low:g} to {high:g} mm")


class _Hollow(Shape):
    """What has a wall, of which the last size tells."""

    @classmethod
    def checked(cls, mm: tuple[float, ...]) -> None:
        _within(mm, cls)
        if not 0.5 <= mm[-1] < min(mm[:-1]) / 2:
            raise ValueError(
                f"a wall of {mm[-1]:g} mm does not fit; it is from 0.5 mm to less than half of "
                f"{min(mm[:-1]):g} mm"
            )


@dataclass(frozen=True)
class CircularHollow(_Hollow):
    """A tube: EN 10210-2 and EN 10219-2."""

    diameter: float
    thickness: float
    cold: bool = False
    family: ClassVar[str] = "CHS"
    count: ClassVar[int] = 2
    tabled: ClassVar[bool] = True
    round: ClassVar[bool] = True

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> CircularHollow:
        cls.checked(mm)
        return cls(mm[0] / 1e3, mm[1] / 1e3, cold)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        for cold, table in ((False, sizes.CHS), (True, sizes.COLD_CHS)):
            yield from (cls.of_sizes((d, t), cold) for d, walls in table.items() for t in walls)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.diameter, self.thickness)

    @property
    def height(self) -> float:  # type: ignore[override]
        return self.diameter

    @property
    def width(self) -> float:  # type: ignore[override]
        return self.diameter

    @property
    def wall(self) -> float:  # type: ignore[override]
        return self.thickness

    @property
    def formed(self) -> str:  # type: ignore[override]
        return sizes.COLD_FORMED if self.cold else ""

    @cached_property
    def properties(self) -> Properties:
        """EN 10210-2, annex B; shear area EN 1993-1-1, 6.2.6(3)."""
        d, inner = self.diameter, self.diameter - 2 * self.thickness
        area = np.pi * (d**2 - inner**2) / 4
        inertia = np.pi * (d**4 - inner**4) / 64
        elastic, plastic = inertia / (d / 2), (d**3 - inner**3) / 6
        moduli = (elastic, elastic, plastic, plastic)
        return _plain(area, inertia, inertia, 2 * inertia, *moduli, *(2 * (2 * area / np.pi,)))

    def outline(self, segments: int = 16) -> Outline:
        circle = _circle(segments)
        return circle * self.diameter / 2, circle * (self.diameter / 2 - self.thickness)

    def reach(self, directions: Array) -> Array:
        return np.full(len(directions), self.diameter / 2)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcCircleHollowProfileDef", (self.diameter / 2, self.thickness)


@dataclass(frozen=True)
class RectangularHollow(_Hollow):
    """A rectangular tube with rounded corners: EN 10210-2, and cold-formed EN 10219-2."""

    height: float
    width: float
    thickness: float
    cold: bool = False
    family: ClassVar[str] = "RHS"
    count: ClassVar[int] = 3
    tabled: ClassVar[bool] = True

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        h, b, t = mm
        if h == b:
            return SquareHollow.of_sizes((h, t), cold)
        return cls(h / 1e3, b / 1e3, t / 1e3, cold)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        for cold, table in ((False, sizes.RHS), (True, sizes.COLD_RHS)):
            for (h, b), walls in table.items():
                yield from (cls.of_sizes((h, b, t), cold) for t in walls)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.height, self.width, self.thickness)

    @property
    def wall(self) -> float:  # type: ignore[override]
        return self.thickness

    @property
    def formed(self) -> str:  # type: ignore[override]
        return sizes.COLD_FORMED if self.cold else ""

    @property
    def radii(self) -> tuple[float, float]:
        """Outer and inner corner radius in wall thicknesses, for properties: EN 10210-2, annex B,
        and EN 10219-2, annex B, where they grow with the wall."""
        if not self.cold:
            return 1.5, 1.0
        wall = self.thickness * 1e3
        return (2.0, 1.0) if wall <= 6 + 1e-9 else (2.5, 1.5) if wall <= 10 + 1e-9 else (3.0, 2.0)

    @cached_property
    def properties(self) -> Properties:
        """Formulas of EN 10210-2 and EN 10219-2, annex B; shear area EN 1993-1-1, 6.2.6(3)."""
        h, b, t = self.height, self.width, self.thickness
        outer, inner = (k * t for k in self.radii)
        area = 2 * t * (b + h - 2 * t) - (4 - np.pi) * (outer**2 - inner**2)
        inertia_y, inertia_z = self._inertia(h, b), self._inertia(b, h)
        mean = (outer + inner) / 2
        run = 2 * (b + h - 2 * t) - 2 * mean * (4 - np.pi)
        enclosed = (b - t) * (h - t) - mean**2 * (4 - np.pi)
        torsion = t**3 * run / 3 + 4 * enclosed**2 * t / run
        return _plain(
            area,
            inertia_y,
            inertia_z,
            torsion,
            inertia_y / (h / 2),
            inertia_z / (b / 2),
            self._plastic(h, b),
            self._plastic(b, h),
            *self._shear(area),
        )

    def _shear(self, area: float) -> tuple[float, float]:
        whole = self.height + self.width
        return area * self.width / whole, area * self.height / whole

    def _corners(self, h: float) -> Iterator[tuple[float, float, float]]:
        """Of what corners lack outside, and have inside: sign, radius, and distance of where it
        begins from the middle of height ``h``."""
        outer, inner = (k * self.thickness for k in self.radii)
        yield -1.0, outer, h / 2
        yield 1.0, inner, h / 2 - self.thickness

    def _inertia(self, h: float, b: float) -> float:
        t = self.thickness
        total = (b * h**3 - (b - 2 * t) * (h - 2 * t) ** 3) / 12
        for sign, radius, half in self._corners(h):
            corner = (1 - np.pi / 4) * radius**2
            arm = half - (10 - 3 * np.pi) / (12 - 3 * np.pi) * radius
            own = (1 / 3 - np.pi / 16 - 1 / (3 * (12 - 3 * np.pi))) * radius**4
            total += sign * 4 * (own + corner * arm**2)
        return total

    def _plastic(self, h: float, b: float) -> float:
        t = self.thickness
        total = (b * h**2 - (b - 2 * t) * (h - 2 * t) ** 2) / 4
        for sign, radius, half in self._corners(h):
            arm = half - (10 - 3 * np.pi) / (12 - 3 * np.pi) * radius
            total += sign * 4 * (1 - np.pi / 4) * radius**2 * arm
        return total

    def outline(self, segments: int = 16) -> Outline:
        half = np.array([self.width, self.height]) / 2
        return _SQUARE * half, _SQUARE * (half - self.thickness)

    def reach(self, directions: Array) -> Array:
        return _reach_of_rectangle(self, directions)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        outer, inner = (k * self.thickness for k in self.radii)
        sides = (self.width, self.height, self.thickness)
        return "IfcRectangleHollowProfileDef", (*sides, inner or None, outer or None)


@dataclass(frozen=True)
class SquareHollow(RectangularHollow):
    """A square tube."""

    family: ClassVar[str] = "SHS"
    count: ClassVar[int] = 2

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        return cls(mm[0] / 1e3, mm[0] / 1e3, mm[1] / 1e3, cold)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        for cold, table in ((False, sizes.SHS), (True, sizes.COLD_SHS)):
            yield from (cls.of_sizes((b, t), cold) for b, walls in table.items() for t in walls)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.height, self.thickness)


@dataclass(frozen=True)
class Box(RectangularHollow):
    """A box welded of four plates, with sharp corners."""

    family: ClassVar[str] = "Box"
    tabled: ClassVar[bool] = False

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        h, b, t = mm
        return cls(h / 1e3, b / 1e3, t / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.BOX)

    @property
    def radii(self) -> tuple[float, float]:
        return 0.0, 0.0

    def _shear(self, area: float) -> tuple[float, float]:
        t = self.thickness
        return 2 * t * (self.width - 2 * t), 2 * t * (self.height - 2 * t)


@dataclass(frozen=True)
class _Solid(Shape):
    """A solid rectangle."""

    height: float
    width: float
    count: ClassVar[int] = 2

    @cached_property
    def properties(self) -> Properties:
        """Torsion by Roark's formulas, table 10.7, case 4."""
        h, b = self.height, self.width
        short, long = min(b, h), max(b, h)
        torsion = long * short**3 * (1 / 3 - 0.21 * short / long * (1 - short**4 / (12 * long**4)))
        moduli = (b * h**2 / 6, h * b**2 / 6, b * h**2 / 4, h * b**2 / 4)
        sheared = 5 / 6 * b * h
        return _plain(b * h, b * h**3 / 12, h * b**3 / 12, torsion, *moduli, sheared, sheared)

    def outline(self, segments: int = 16) -> Outline:
        return _SQUARE * np.array([self.width, self.height]) / 2, None

    def reach(self, directions: Array) -> Array:
        return _reach_of_rectangle(self, directions)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcRectangleProfileDef", (self.width, self.height)


@dataclass(frozen=True)
class Timber(_Solid):
    """A beam or lath of timber, its width before its height."""

    family: ClassVar[str] = "Timber"
    materials: ClassVar[tuple[str, ...]] = TIMBERS
    LIMITS: ClassVar[tuple[float, float]] = (20.0, 2000.0)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Timber:
        _within(mm, cls)
        return cls(mm[1] / 1e3, mm[0] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.TIMBER)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.width, self.height)

    def named_of(self, material: str) -> str:
        """The class stands in the place of the family."""
        if material == self.materials[0]:
            return self.name
        return self.name.replace(self.family, material)


@dataclass(frozen=True)
class Flat(_Solid):
    """A steel flat or plate on edge, its height before its thickness."""

    family: ClassVar[str] = "Flat"

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Flat:
        if not (5 <= mm[0] <= 3000 and 1 <= mm[1] <= 300):
            raise ValueError("a flat is from 5 to 3000 mm high and from 1 to 300 mm thick")
        return cls(mm[0] / 1e3, mm[1] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.FLAT)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.height, self.width)


@dataclass(frozen=True)
class Round(Shape):
    """A round bar."""

    diameter: float
    family: ClassVar[str] = "Round"
    count: ClassVar[int] = 1
    round: ClassVar[bool] = True
    LIMITS: ClassVar[tuple[float, float]] = (4.0, 1000.0)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Round:
        _within(mm, cls)
        return cls(mm[0] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from (cls.of_sizes((d,)) for d in sizes.ROUND)

    @property
    def size(self) -> tuple[float, ...]:
        return _in_mm(self.diameter)

    @property
    def height(self) -> float:  # type: ignore[override]
        return self.diameter

    @property
    def width(self) -> float:  # type: ignore[override]
        return self.diameter

    @cached_property
    def properties(self) -> Properties:
        """Shear area by the form factor of a circle, 10/9."""
        d = self.diameter
        area, inertia = np.pi * d**2 / 4, np.pi * d**4 / 64
        elastic, plastic = inertia / (d / 2), d**3 / 6
        moduli = (elastic, elastic, plastic, plastic)
        return _plain(area, inertia, inertia, 2 * inertia, *moduli, 0.9 * area, 0.9 * area)

    def outline(self, segments: int = 16) -> Outline:
        return _circle(segments) * self.diameter / 2, None

    def reach(self, directions: Array) -> Array:
        return np.full(len(directions), self.diameter / 2)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcCircleProfileDef", (self.diameter / 2,)


_SQUARE = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])


def _circle(segments: int) -> Array:
    turn = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    return np.column_stack([np.cos(turn), np.sin(turn)])


def _reach_of_rectangle(shape: Shape, directions: Array) -> Array:
    half = np.array([shape.width, shape.height]) / 2
    return np.asarray(np.abs(directions) @ half)


def _in_mm(*metres: float) -> tuple[float, ...]:
    return tuple(round(m * 1e3, 6) for m in metres)


def _plain(*values: float) -> Properties:
    return Properties(*map(float, values))


FAMILIES: dict[str, type[Shape]] = {
    cls.family: cls
    for cls in (CircularHollow, SquareHollow, RectangularHollow, Box, Flat, Round, Timber)
}
"""By the word their names begin with. A new family is one class, entered here."""
