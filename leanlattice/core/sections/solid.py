"""Solid sections: timber, flats and round bars."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from ..materials import TIMBERS
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

__all__ = ["Flat", "Round", "SolidRectangle", "Timber"]


@dataclass(frozen=True)
class SolidRectangle(Rectangular):
    """A solid rectangle."""

    height: float
    width: float
    count: ClassVar[int] = 2
    fills: ClassVar[bool] = True

    @cached_property
    def properties(self) -> Properties:
        """Torsion by Roark's formulas, table 10.7, case 4."""
        h, b = self.height, self.width
        short, long = min(b, h), max(b, h)
        torsion = long * short**3 * (1 / 3 - 0.21 * short / long * (1 - short**4 / (12 * long**4)))
        moduli = (b * h**2 / 6, h * b**2 / 6, b * h**2 / 4, h * b**2 / 4)
        sheared = 5 / 6 * b * h
        return plain(b * h, b * h**3 / 12, h * b**3 / 12, torsion, *moduli, sheared, sheared)

    def outline(self, segments: int = 16) -> Outline:
        return SQUARE * np.array([self.width, self.height]) / 2, None

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcRectangleProfileDef", (self.width, self.height)


@dataclass(frozen=True)
class Timber(SolidRectangle):
    """A beam or lath of timber, its width before its height."""

    family: ClassVar[str] = "Timber"
    title: ClassVar[str] = "timber beam or lath"
    materials: ClassVar[tuple[str, ...]] = TIMBERS
    LIMITS: ClassVar[tuple[float, float]] = (20.0, 2000.0)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Timber:
        within(mm, cls)
        return cls(mm[1] / 1e3, mm[0] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, sizes.TIMBER)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.width, self.height)

    def named_of(self, material: str) -> str:
        """The class stands in the place of the family."""
        if material == self.materials[0]:
            return self.name
        return self.name.replace(self.family, material)


@dataclass(frozen=True)
class Flat(SolidRectangle):
    """A steel flat or plate on edge, its height before its thickness."""

    family: ClassVar[str] = "Flat"
    title: ClassVar[str] = "flat or plate"

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
        return in_mm(self.height, self.width)


@dataclass(frozen=True)
class Round(Circular):
    """A round bar."""

    diameter: float
    family: ClassVar[str] = "Round"
    title: ClassVar[str] = "round bar"
    count: ClassVar[int] = 1
    LIMITS: ClassVar[tuple[float, float]] = (4.0, 1000.0)

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Round:
        within(mm, cls)
        return cls(mm[0] / 1e3)

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from (cls.of_sizes((d,)) for d in sizes.ROUND)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.diameter)

    @cached_property
    def properties(self) -> Properties:
        """Shear area by the form factor of a circle, 10/9."""
        d = self.diameter
        area, inertia = np.pi * d**2 / 4, np.pi * d**4 / 64
        elastic, plastic = inertia / (d / 2), d**3 / 6
        moduli = (elastic, elastic, plastic, plastic)
        return plain(area, inertia, inertia, 2 * inertia, *moduli, 0.9 * area, 0.9 * area)

    def outline(self, segments: int = 16) -> Outline:
        return circle(segments) * self.diameter / 2, None

    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        return "IfcCircleProfileDef", (self.diameter / 2,)
