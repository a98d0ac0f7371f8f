"""What open sections share: their worth from their rings, webs and flanges, plates, and series."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from .area import Area, area_of, rounded
from .shapes import Array, Outline, Properties, Shape, in_mm, within

__all__ = ["Open", "Plated", "Rolled", "Webbed"]


class Open(Shape):
    """What is not closed: all it is worth follows from the rings round it."""

    @property
    def turns(self) -> int:  # type: ignore[override]
        return 1

    @abstractmethod
    def rings(self) -> list[Array]:
        """The rings that its properties are of, with their fillets."""

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
    @abstractmethod
    def torsion(self) -> float:
        """In m⁴."""

    @property
    @abstractmethod
    def sheared(self) -> tuple[float, float]:
        """Areas in m² that carry shear along y and z: EN 1993-1-1, 6.2.6(3)."""

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


class Webbed(Open):
    """A web and one or two ``flanges``, of two thicknesses, with ``fillet`` between them.

    Torsion is by the formulas of SCI P363 (2009), notes to section properties, after El Darwish and
    Johnston (1965).
    """

    web: float
    flange: float
    fillet: float
    flanges: ClassVar[int] = 2
    junctions: ClassVar[tuple[int, ...]] = ()
    """Corners of the outline that have a fillet when it is rolled."""

    @property
    def wall(self) -> float:  # type: ignore[override]
        return min(self.web, self.flange)

    @classmethod
    def checked(cls, mm: tuple[float, ...]) -> None:
        """Raises ``ValueError`` where web and flanges do not fit into height and width."""
        within(mm[:2], cls)
        height, width, web, flange = mm
        room = height / 2 if cls.flanges == 2 else height
        if not (0.5 <= web < width and 0.5 <= flange < room):
            plates = f"a web of {web:g} mm and flanges of {flange:g} mm"
            raise ValueError(f"{plates} do not fit {height:g} × {width:g} mm")

    @cached_property
    @abstractmethod
    def corners(self) -> Array:
        """Corners (n, 2) of its outline, counter-clockwise."""

    def outline(self, segments: int = 16) -> Outline:
        return self.corners, None

    def rings(self) -> list[Array]:
        radii = np.zeros(len(self.corners))
        radii[list(self.junctions)] = self.fillet
        return [rounded(self.corners, radii.tolist())]

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
class Plated(Webbed):
    """What is welded of plates or pressed of one, to any size: sharp corners, and ``drawn`` in what
    is common."""

    height: float
    width: float
    web: float
    flange: float
    fillet: float = 0.0
    count: ClassVar[int] = 4
    drawn: ClassVar[tuple[tuple[float, ...], ...]] = ()

    @classmethod
    def of_sizes(cls, mm: tuple[float, ...], cold: bool = False) -> Shape:
        cls.checked(mm)
        return cls(*(m / 1e3 for m in mm))

    @classmethod
    def made(cls) -> Iterator[Shape]:
        yield from map(cls.of_sizes, cls.drawn)

    @property
    def size(self) -> tuple[float, ...]:
        return in_mm(self.height, self.width, self.web, self.flange)


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
