"""A section: a shape of a material."""

from __future__ import annotations

from dataclasses import dataclass

from ..materials import Material
from ..results import Result
from .shapes import Shape

__all__ = ["Section"]


@dataclass(frozen=True)
class Section(Result):
    """What a member is made of: a ``shape``, and the ``material`` it is of."""

    shape: Shape
    material: Material

    @property
    def name(self) -> str:
        """As sentences and schedules write it: the material is named where it is not the one that
        is usual for the shape."""
        return self.shape.named_of(self.material.name)

    @property
    def grade(self) -> str:
        """The material, and how the section was formed where that matters for its strength."""
        return f"{self.material.name} {self.shape.formed}".strip()

    @property
    def mass(self) -> float:
        """kg/m."""
        return self.shape.properties.area * self.material.density
