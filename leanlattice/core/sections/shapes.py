"""What shapes of sections are: properties, outline and form in building models.

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

from ..materials import STEELS
from ..results import Result
from . import sizes

__all__ = [
    "SQUARE",
    "Array",
    "Circular",
    "Outline",
    "Profile",
    "Properties",
    "Rectangular",
    "Shape",
    "circle",
    "in_mm",
    "plain",
    "within",
]

Array = NDArray[np.float64]
Outline = tuple[Array, Array | None]


@dataclass(frozen=True)
class Properties:
    """What a shape is worth: ``area`` in m², second moments ``inertia_y``, ``inertia_z``, their
    ``product`` and ``torsion`` in m⁴, moduli ``elastic_y`` … ``plastic_z`` in m³, and areas that
    carry shear along y and z in m²."""

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
    product: float = 0.0


@dataclass(frozen=True)
class Profile:
    """A profile in building models: its class, what follows its name and place, where its middle is
    ``at`` in metres, and whether it is ``turned`` half round."""

    kind: str
    sizes: tuple[Any, ...]
    at: tuple[float, float] = (0.0, 0.0)
    turned: bool = False


class Shape(Result, ABC):
    """A shape of a ``family``, by which it is named with its sizes in mm; it may be of the
    ``materials``, the first where none is named.

    ``tabled`` families have sizes that are made; others are of any size within ``LIMITS``.
    """

    family: ClassVar[str]
    title: ClassVar[str]
    """What it is in words, by which it is found, too."""
    materials: ClassVar[tuple[str, ...]] = STEELS
    count: ClassVar[int]
    """How many sizes it is named by."""
    tabled: ClassVar[bool] = False
    round: ClassVar[bool] = False
    fills: ClassVar[bool] = False
    """Whether it is solid and fills its width and height."""
    turns: int = 1
    """How many turns about its axis leave it as it is; 0 where any does."""
    seen_back: float | None = 0.0
    """The turn about its axis in radians by which it is the same seen from its other end; ``None``
    where there is none, as for an angle of unequal legs."""
    centroid: tuple[float, float] = (0.0, 0.0)
    """Where its centroid lies, as (y, z) in metres from its axis."""
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

    def pieces(self, segments: int = 16) -> tuple[Outline, ...]:
        """The outlines of all that it consists of, which is mostly one."""
        return (self.outline(segments),)

    @abstractmethod
    def reach(self, directions: Array) -> Array:
        """How far (n,) it reaches from its axis along unit ``directions`` (n, 2) as (y, z)."""

    @abstractmethod
    def ifc(self) -> tuple[str, tuple[Any, ...]]:
        """Its profile in building models: class, and what follows its name and place; of several
        pieces that of each."""

    def profiles(self) -> tuple[Profile, ...]:
        """The profiles in building models of all its pieces."""
        return (Profile(*self.ifc()),)


class Circular(Shape):
    """What is as wide in all directions."""

    diameter: float
    round: ClassVar[bool] = True
    turns = 0

    @property
    def height(self) -> float:  # type: ignore[override]
        return self.diameter

    @property
    def width(self) -> float:  # type: ignore[override]
        return self.diameter

    def reach(self, directions: Array) -> Array:
        return np.full(len(directions), self.diameter / 2)


class Rectangular(Shape):
    """What fills its width and height."""

    @property
    def turns(self) -> int:  # type: ignore[override]
        return 4 if self.width == self.height else 2

    def reach(self, directions: Array) -> Array:
        half = np.array([self.width, self.height]) / 2
        return np.asarray(np.abs(directions) @ half)


def within(mm: tuple[float, ...], cls: type[Shape]) -> None:
    """Raises ``ValueError`` with a sentence where sizes are not within a family's limits."""
    low, high = cls.LIMITS
    if not all(low <= size <= high for size in mm):
        raise ValueError(f"sizes of {cls.family} are from {low:g} to {high:g} mm")


SQUARE = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])


def circle(segments: int) -> Array:
    """Corners (n, 2) of a polygon in a circle of radius 1."""
    turn = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    return np.column_stack([np.cos(turn), np.sin(turn)])


def in_mm(*metres: float) -> tuple[float, ...]:
    """Lengths in mm, without what conversion leaves."""
    return tuple(round(m * 1e3, 6) for m in metres)


def plain(*values: float) -> Properties:
    """Properties of plain numbers."""
    return Properties(*map(float, values))
