"""Hollow sections: tubes, and boxes welded of plates."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from . import sizes
from .shapes import (
    SQUARE,
    Circular,
    Outline,
    Properties,
    Rectangular,
    Shape,
    circle,
    in_mm,
    plain,
    within,
)

__all__ = ["Box", "CircularHollow", "Hollow", "RectangularHollow", "SquareHollow"]


class Hollow(Shape):
    """What has a wall, of which the last size tells."""

    thickness: float
    cold: bool

    @property
    def wall(self) -> float:  # type: ignore[override]
        return self.thickness

    @property
    def formed(self) -> str:  # type: ignore[override]
        return sizes.COLD_FORMED if self.cold else ""

    @classmethod
    def checked(cls, mm: tuple[float, ...]) -> None:
        within(mm[:-1], cls)
        if not 0.5 <= mm[-1] < min(mm[:-1]) / 2:
            raise ValueError(
                f"a wall of {mm[-1]:g} mm does not fit; it is from 0.5 mm to less than half of "
                f"{min(mm[:-1]):g} mm"
            )


@dataclass(frozen=True)
class CircularHollow(Circular, Hollow):
    """A tube: EN 10210-2 and EN 10219-2."""

    diameter: float
    thickness: float
    cold: bool = False
    family: ClassVar[str] = "CHS"
    title: ClassVar[str] = "round tube"
    count: ClassVar[int] = 2
    tabled: ClassVar[bool] = True

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
        return in_mm(self.diameter, self.thickness)

    @cached_property
    def properties(self) -> Properties:
        """EN 10210-2, annex B; shear area EN 1993-1-1, 6.2.6(3)."""
        d, inner = self.diameter, self.diameter - 2 * self.thickness
        area = np.pi * (d**2 - inner**2) / 4
        inertia = np.pi * (d**4 - inner**4) / 64
        elastic, plastic = inertia / (d / 2), (d**3 - inner**3) / 6
        moduli = (elastic, elastic, plastic, plastic)
        return plain(area, inertia, inertia, 2 * inertia, *moduli, *(2 * (2 * area / np.pi,)))

    def outline(self, segments: int = 16) -> Outline:
        unit = circle(segments)
        return unit * self.diameter / 2, unit * (self.diameter / 2 - self.thickness)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcCircleHollowProfileDef", (self.diameter / 2, self.thickness)


@dataclass(frozen=True)
class RectangularHollow(Rectangular, Hollow):
    """A rectangular tube with rounded corners: EN 10210-2, and cold-formed EN 10219-2."""

    height: float
    width: float
    thickness: float
    cold: bool = False
    family: ClassVar[str] = "RHS"
    title: ClassVar[str] = "rectangular tube"
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
        return in_mm(self.height, self.width, self.thickness)

    @property
    def radii(self) -> tuple[float, float]:
        """Outer and inner corner radius in wall thicknesses, for properties: EN 10210-2, annex B,
        and EN 10219-2, annex B, where they grow with the wall; no more than there is room for."""
        wall = self.thickness * 1e3
        usual = (1.5, 1.0)
        if self.cold:
            usual = (
                (2.0, 1.0) if wall <= 6 + 1e-9 else (2.5, 1.5) if wall <= 10 + 1e-9 else (3.0, 2.0)
            )
        room = min(self.height, self.width) / (2 * self.thickness)
        return min(usual[0], room), min(usual[1], room - 1)

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
        # Meant for thin walls, it may come out above what no section goes beyond.
        torsion = min(t**3 * run / 3 + 4 * enclosed**2 * t / run, inertia_y + inertia_z)
        return plain(
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
        return SQUARE * half, SQUARE * (half - self.thickness)

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        outer, inner = (k * self.thickness for k in self.radii)
        sides = (self.width, self.height, self.thickness)
        return "IfcRectangleHollowProfileDef", (*sides, inner or None, outer or None)


@dataclass(frozen=True)
class SquareHollow(RectangularHollow):
    """A square tube."""

    family: ClassVar[str] = "SHS"
    title: ClassVar[str] = "square tube"
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
        return in_mm(self.height, self.thickness)


@dataclass(frozen=True)
class Box(RectangularHollow):
    """A box welded of four plates, with sharp corners."""

    family: ClassVar[str] = "Box"
    title: ClassVar[str] = "box of plates"
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
