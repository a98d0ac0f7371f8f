"""Aims of cells: flat ones, equal areas, right angles, and films of even tension."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..geometry.polygons import best_planes, vector_areas
from ..geometry.triangulation import polygon_triangles
from .kernels import pull_areas, pull_film, pull_flat, pull_right
from .terms import SOFT, Array, Term, rows

__all__ = ["CellAreas", "Film", "FlatCells", "RightAngles"]

Index = NDArray[np.int32]


class CellTerm(Term):
    """Base of terms on the corners of cells, all alike strong: rows are single corners."""

    def __init__(self, corners: Index, offsets: Index, count: int, strength: float) -> None:
        self.corners, self.offsets = corners, offsets
        self.sizes = np.diff(offsets)
        self.matrix = rows(corners[:, None], np.ones(1), count)
        self.weights = np.full(len(corners), strength)


class FlatCells(CellTerm):
    """Corners drawn to the best planes of their cells."""

    name = "flat cells"
    unit = "mm"
    fair = 2.0

    def targets(self, x: Array) -> Array:
        centres, normals = best_planes(x, self.corners, self.offsets)
        cell = np.repeat(np.arange(len(self.sizes)), self.sizes)
        p = x[self.corners]
        off = np.einsum("ij,ij->i", p - centres[cell], normals[cell])
        return np.asarray(p - off[:, None] * normals[cell])

    def pull(self, x: Array, out: Array) -> None:
        pull_flat(x, self.corners, self.offsets, self.weights, out)

    def blocks(self, x: Array) -> Array:
        # Within its plane a corner is free.
        normals = best_planes(x, self.corners, self.offsets)[1]
        n = np.repeat(normals, self.sizes, axis=0)
        return np.asarray(
            self.weights[:, None, None] * (n[:, :, None] * n[:, None, :] + SOFT * np.eye(3))
        )

    def gap(self, x: Array) -> float:
        return super().gap(x) * 1000


class CellAreas(CellTerm):
    """Cells drawn to the mean area of all: ``strength`` / 2 · Σ (A − mean)² / mean as it was at
    first is made small."""

    name = "equal cell areas"
    unit = "%"
    fair = 5.0

    usual: float = 0.0

    def _sizes(self, x: Array) -> tuple[Array, Array]:
        """Areas (C,) and unit normals (C, 3)."""
        across = vector_areas(x, self.corners, self.offsets)
        area = np.maximum(np.linalg.norm(across, axis=1), 1e-12)
        self.usual = self.usual or float(area.mean())
        return area, across / area[:, None]

    def targets(self, x: Array) -> Array:
        out = np.zeros_like(x)
        self.pull(x, out)
        share = self.matrix.sum(axis=0)
        return np.asarray(
            x[self.corners]
            - (out / np.maximum(share, 1)[:, None])[self.corners] / self.weights[:, None]
        )

    def blocks(self, x: Array) -> Array:
        return np.asarray(2 * self.weights[:, None, None] * np.eye(3))

    def pull(self, x: Array, out: Array) -> None:
        area, normals = self._sizes(x)
        pull_areas(
            x,
            self.corners,
            self.offsets,
            self.weights[0] * (area - area.mean()) / self.usual,
            normals,
            out,
        )

    def energy(self, x: Array) -> float:
        area = self._sizes(x)[0]
        return float(self.weights[0] * ((area - area.mean()) ** 2).sum() / (2 * self.usual))

    def gap(self, x: Array) -> float:
        area = self._sizes(x)[0]
        return float(np.abs(area / area.mean() - 1).max(initial=0.0)) * 100


class RightAngles(Term):
    """Corners drawn towards right angles: ``strength`` / 2 · Σ ab cos² is made small, ab being
    their sides as at first."""

    name = "right angles"
    unit = "°"
    fair = 3.0

    def __init__(self, corners: NDArray[np.integer], x: Array, strength: float) -> None:
        """``corners`` (m, 3): the vertex before, at and after each corner, which lie at ``x`` (V,
        3) at first."""
        self.corners = corners
        both = np.vstack([corners[:, [1, 0]], corners[:, [1, 2]]])
        self.matrix = rows(both, np.array([-1.0, 1.0]), len(x))
        a, b = self._sides(x)
        self.turning = strength * a * b
        self.weights = np.full(len(both), strength)

    def _sides(self, x: Array) -> tuple[Array, Array]:
        p = x[self.corners]
        a, b = (np.maximum(np.linalg.norm(p[:, k] - p[:, 1], axis=1), 1e-12) for k in (0, 2))
        return a, b

    def _cosines(self, x: Array) -> Array:
        a, b = self._sides(x)
        p = x[self.corners]
        return np.asarray(np.einsum("ij,ij->i", p[:, 0] - p[:, 1], p[:, 2] - p[:, 1]) / (a * b))

    def pull(self, x: Array, out: Array) -> None:
        pull_right(x, self.corners, self.turning, out)

    def targets(self, x: Array) -> Array:
        p, cosine = x[self.corners], self._cosines(x)[:, None]
        a, b = (s[:, None] for s in self._sides(x))
        u, v = (p[:, 0] - p[:, 1]) / a, (p[:, 2] - p[:, 1]) / b
        turn = (self.turning / self.weights[0])[:, None] * cosine
        return np.vstack([u * a - turn * (v - cosine * u) / a, v * b - turn * (u - cosine * v) / b])

    def blocks(self, x: Array) -> Array:
        a, b = self._sides(x)
        stiff = np.concatenate(
            [self.turning * (1 / a + 1 / b) / a, self.turning * (1 / a + 1 / b) / b]
        )
        return np.asarray(stiff[:, None, None] * np.eye(3))

    def energy(self, x: Array) -> float:
        return float(self.turning @ self._cosines(x) ** 2) / 2

    def gap(self, x: Array) -> float:
        return float(
            np.degrees(np.arcsin(np.clip(np.abs(self._cosines(x)).max(initial=0.0), 0.0, 1.0)))
        )


class Film(Term):
    """A film of even ``tension`` (kN/m) in the cells, whose area becomes as small as it can
    (Pinkall and Polthier, 1993).

    The film's pull along a side of a triangle is tension · cot / 2 of the angle opposite; cells of
    four corners are cut both ways at half the tension.
    """

    name = "smallest area"

    def __init__(self, points: Array, corners: Index, offsets: Index, tension: float) -> None:
        self.full = tension
        counts, count = np.diff(offsets), len(points)
        quads = np.flatnonzero(counts == 4)
        q = corners[offsets[quads][:, None] + np.arange(4)].reshape(-1, 4)
        kept = np.repeat(counts != 4, counts)
        starts = np.concatenate([[0], np.cumsum(counts[counts != 4])]).astype(np.int32)
        rest = polygon_triangles(points, corners[kept], starts)[0]
        self.triangles = np.vstack(
            [rest, q[:, [0, 1, 2]], q[:, [0, 2, 3]], q[:, [1, 2, 3]], q[:, [1, 3, 0]]]
        )
        self.tension = np.concatenate(
            [np.full(len(rest), tension), np.full(4 * len(q), tension / 2)]
        )
        t = self.triangles
        self.matrix = rows(
            np.vstack([t[:, [1, 2]], t[:, [2, 0]], t[:, [0, 1]]]), np.array([-1.0, 1.0]), count
        )
        self.weights = np.tile(self.tension, 3)

    def _pulls(self, x: Array) -> Array:
        p = x[self.triangles]
        out = []
        for k in range(3):
            a, b = p[:, (k + 1) % 3] - p[:, k], p[:, (k + 2) % 3] - p[:, k]
            size = np.maximum(np.linalg.norm(np.cross(a, b), axis=1), 1e-12)
            out.append(self.tension * np.einsum("ij,ij->i", a, b) / size / 2)
        return np.concatenate(out)

    def targets(self, x: Array) -> Array:
        d = self.matrix @ x
        return np.asarray(d * (1 - self._pulls(x) / self.weights)[:, None])

    def pull(self, x: Array, out: Array) -> None:
        pull_film(x, self.triangles, self.tension, out)

    def blocks(self, x: Array) -> Array:
        # Obtuse corners push; that part is left out, so that every step leads downhill.
        tension = np.tile(self.tension, 3)
        return np.asarray(
            np.clip(self._pulls(x), tension / 4, 1e3 * tension)[:, None, None] * np.eye(3)
        )

    def energy(self, x: Array) -> float:
        return self.area(x) * self.full

    def gap(self, x: Array) -> float:
        return 0.0

    def area(self, x: Array) -> float:
        """The film's area in m²."""
        p = x[self.triangles]
        size = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2
        return float(size @ self.tension) / self.full
