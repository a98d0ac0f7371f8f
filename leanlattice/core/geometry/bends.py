"""Upright plates bent along a line in plan, flat and in their place."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..results import Result

__all__ = ["Bend"]

Array = NDArray[np.float64]
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Bend(Result):
    """The middle plane of a plate bent about upright lines: ``line`` (n, 2) in plan, in metres,
    between whose places it is plane. Flat, its x runs along the line from 0 and its y is the
    height, so that lengths in its middle plane stay. ``radius`` (m) is the least of the curve the
    line stands for."""

    line: Array
    radius: float = np.inf

    @cached_property
    def at(self) -> Array:
        """Distances (n,) along it of the places of the line."""
        return np.concatenate(
            [[0.0], np.cumsum(np.linalg.norm(np.diff(self.line, axis=0), axis=1))]
        )

    @cached_property
    def ways(self) -> Array:
        """Directions (n − 1, 2) in plan of its plane pieces."""
        return np.asarray(np.diff(self.line, axis=0) / np.diff(self.at)[:, None])

    @cached_property
    def turns(self) -> Array:
        """Angles (n − 2,) in radians, to the left positive, by which it is bent between its
        pieces."""
        a, b = self.ways[:-1], self.ways[1:]
        return np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], np.einsum("ij,ij->i", a, b))

    @property
    def pieces(self) -> int:
        return len(self.line) - 1

    @cached_property
    def _mitres(self) -> Array:
        """How far (n, 2) corners move in plan for one metre off the plane: (m + n) / (1 + m · n), m
        and n the normals."""
        normal = np.column_stack([self.ways[:, 1], -self.ways[:, 0]])
        before, after = np.vstack([normal[:1], normal]), np.vstack([normal, normal[-1:]])
        return np.asarray((before + after) / (1 + np.einsum("ij,ij->i", before, after))[:, None])

    def frames(self) -> tuple[Array, Array, Array]:
        """Origins, x and y (n − 1, 3) of the planes of its pieces, in which flat places are where
        they stand."""
        x = np.column_stack([self.ways, np.zeros(self.pieces)])
        origin = np.column_stack([self.line[:-1], np.zeros(self.pieces)]) - self.at[:-1, None] * x
        return origin, x, np.tile(UP, (self.pieces, 1))

    def poses(self) -> Array:
        """Take places (x, y, z, 1) of the flat plate, in millimetres, to the planes of its pieces
        in space (n − 1, 3, 4)."""
        origin, x, y = self.frames()
        return np.stack([x / 1000, y / 1000, np.cross(x, y) / 1000, origin], axis=2)

    def piece_at(self, x: Array) -> NDArray[np.int64]:
        """Plane pieces (n,) that flat places ``x`` (n,) are on; the first and the last reach on
        without end."""
        return np.asarray(
            np.clip(np.searchsorted(self.at, x, side="right") - 1, 0, self.pieces - 1)
        )

    def places(self, flat: Array, off: Any = 0.0) -> Array:
        """Places (n, 3) in space of flat ones (n, 2), ``off`` (n,) metres off the middle plane to
        the right of the line."""
        k = self.piece_at(flat[:, 0])
        share = ((flat[:, 0] - self.at[k]) / (self.at[k + 1] - self.at[k]))[:, None]
        off = np.broadcast_to(np.asarray(off, float), len(flat))[:, None]
        ends = [self.line[j] + off * self._mitres[j] for j in (k, k + 1)]
        return np.column_stack([ends[0] * (1 - share) + ends[1] * share, flat[:, 1]])

    def flattened(self, places: Array) -> Array:
        """Flat places (n, 2) of the places on it nearest to given ones (n, 3)."""
        along = shapely.line_locate_point(
            shapely.LineString(self.line), shapely.points(places[:, :2])
        )
        return np.column_stack([along, places[:, 2]])
