"""Regions of the plane: an outline with openings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result

__all__ = ["Region", "corner_places", "signed_area"]

Array = NDArray[np.float64]
CORNER = np.radians(20)
"""An outline that turns by more than this at a point has a corner there."""


def signed_area(ring: Array) -> float:
    """Area of a closed polygon (n, 2), positive when counter-clockwise."""
    x, y = ring[:, 0], ring[:, 1]
    return float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) / 2)


def corner_places(ring: Array, least: float = CORNER) -> Array:
    """Points (k, 2) at which a closed polygon (n, 2) turns by more than ``least`` (rad)."""
    before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    turn = np.arctan2(
        before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0],
        np.einsum("ij,ij->i", before, after),
    )
    return ring[np.abs(turn) > least]


@dataclass(frozen=True, eq=False)
class Region(Result):
    """An outline (n, 2) with openings (m, 2 each); none of them repeats its first point."""

    outer: Array
    openings: tuple[Array, ...] = ()

    @cached_property
    def polygon(self) -> shapely.Polygon:
        polygon = shapely.Polygon(self.outer, self.openings)
        if polygon.is_valid:
            return polygon
        # Outlines that touch themselves at a point are common at the borders of imported meshes.
        parts = [
            g for g in shapely.get_parts(shapely.make_valid(polygon)) if g.geom_type == "Polygon"
        ]
        return max(parts, key=lambda g: g.area) if parts else polygon

    @cached_property
    def corners(self) -> Array:
        """Places (k, 2) where an outline turns sharply."""
        return np.vstack([corner_places(r) for r in (self.outer, *self.openings)])

    def contains(self, points: Array) -> NDArray[np.bool_]:
        """Whether each point (n, 2) lies in the region or on its outline."""
        return np.asarray(shapely.intersects_xy(self.polygon, points[:, 0], points[:, 1]))

    def mapped(self, low: Array, size: Array) -> Region:
        """The region in coordinates in which the box from ``low`` of the given ``size`` is the unit
        square."""
        return Region((self.outer - low) / size, tuple((o - low) / size for o in self.openings))

    @staticmethod
    def of(rings: Sequence[Array]) -> Region:
        """Region of the ring with the largest area, the others being its openings."""
        sizes = [abs(signed_area(r)) for r in rings]
        largest = int(np.argmax(sizes))
        return Region(rings[largest], tuple(r for i, r in enumerate(rings) if i != largest))
