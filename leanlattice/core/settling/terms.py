"""What a settling net works towards, each aim as rows of a least-squares problem with targets that follow the form.

A term stands for Σ wᵢ |Aᵢ x − pᵢ|² / 2 with weights in kN/m, places in m, so that its gradient is a force in kN. For fixed
targets that is solved in one step; targets that follow the form are the nearest that meet the aim (projections onto
constraint sets; Bouaziz, Deuss, Schwartzburg, Weise and Pauly, 2012).
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import bsr_array, csr_array, eye_array, kron

from ..geometry.polygons import best_planes, fan_triangles, vector_areas

__all__ = [
    "CellAreas",
    "Closeness",
    "Densities",
    "FairStrands",
    "Film",
    "FlatCells",
    "Forces",
    "Lengths",
    "RightAngles",
    "Term",
]

Array = NDArray[np.float64]
Index = NDArray[np.int32]
SOFT = 1e-3
"""The share of its strength by which an aim holds on to directions it leaves free."""


def _rows(columns: NDArray[np.integer], factors: Array, count: int) -> csr_array:
    """Sparse rows (m, count), row i with ``factors[i]`` at ``columns[i]`` (m, k each)."""
    m, k = columns.shape
    return csr_array(
        (np.broadcast_to(factors, (m, k)).ravel(), columns.ravel(), np.arange(0, m * k + 1, k)), shape=(m, count)
    )


class Term(ABC):
    """An aim as rows ``matrix`` (m, V) with ``weights`` (m,), and the targets of a form."""

    name: str = ""
    fixed: bool = False
    """Whether targets and weights stay whatever the form, so that one step solves it."""
    matrix: csr_array
    weights: Array
    _constant: csr_array | None = None

    @property
    def anchored(self) -> NDArray[np.integer]:
        """Vertices that are drawn to places and so need nothing else to hold them."""
        return np.zeros(0, np.int64)

    @abstractmethod
    def targets(self, x: Array) -> Array:
        """Targets (m, 3) for the form ``x`` (V, 3)."""

    @cached_property
    def _spread(self) -> csr_array:
        """The rows for all three coordinates (3m, 3V)."""
        return csr_array(kron(self.matrix, eye_array(3), format="csr"))

    def blocks(self, x: Array) -> Array:
        """Stiffness (m, 3, 3) of each row, none of them negative in any direction."""
        return np.asarray(self.weights[:, None, None] * np.eye(3))

    def stiffness_at(self, x: Array) -> csr_array:
        """Stiffness (3V, 3V) of the form, coordinates of a vertex next to each other."""
        if self.fixed and self._constant is not None:
            return self._constant
        rows = len(self.weights)
        middle = bsr_array((self.blocks(x), np.arange(rows), np.arange(rows + 1)), shape=(3 * rows, 3 * rows))
        out = csr_array(self._spread.T @ middle.tocsr() @ self._spread)
        if self.fixed:
            self._constant = out
        return out

    def energy(self, x: Array) -> float:
        """What the aim is off by, squared and weighted (kNm); with fixed targets it falls with every step."""
        off = self.matrix @ x - self.targets(x)
        return float(self.weights @ (off * off).sum(axis=1)) / 2

    def gap(self, x: Array) -> float:
        """How far off the aim is, as a mean over its rows in its own unit."""
        return float(np.sqrt(np.mean(((self.matrix @ x - self.targets(x)) ** 2).sum(axis=1))))


@dataclass(eq=False)
class EdgeTerm(Term):
    """Base of terms on edges: rows are differences of their ends."""

    edges: NDArray[np.integer]
    count: int
    stiffness: Array

    def __post_init__(self) -> None:
        self.matrix = _rows(self.edges, np.array([-1.0, 1.0]), self.count)
        self.weights = np.broadcast_to(self.stiffness, len(self.edges)).astype(float)

    def steps(self, x: Array) -> tuple[Array, Array]:
        """Differences (m, 3) of the ends and lengths (m,), none of them 0."""
        d = x[self.edges[:, 1]] - x[self.edges[:, 0]]
        return d, np.maximum(np.linalg.norm(d, axis=1), 1e-12)

    def forces(self, x: Array) -> Array:
        """Tension (m,) in kN, compression below 0."""
        d, length = self.steps(x)
        pull = self.weights[:, None] * (d - self.targets(x))
        return np.asarray(np.einsum("ij,ij->i", pull, d) / length)


@dataclass(eq=False)
class Densities(EdgeTerm):
    """Force densities ``stiffness`` (kN/m) on edges (Schek, 1974)."""

    name = "force densities"
    fixed = True

    def targets(self, x: Array) -> Array:
        return np.zeros((len(self.edges), 3))

    def gap(self, x: Array) -> float:
        return 0.0


@dataclass(eq=False)
class Forces(EdgeTerm):
    """Edges with a ``force`` (kN) each, whatever their lengths."""

    force: Array
    name = "edge forces"

    def __post_init__(self) -> None:
        super().__post_init__()
        self.weights = np.ones(len(self.edges))

    def targets(self, x: Array) -> Array:
        d, length = self.steps(x)
        return np.asarray(d * (1 - self.force / length)[:, None])

    def blocks(self, x: Array) -> Array:
        # Across an edge it acts as a force density; along it the force stays as it is.
        d, length = self.steps(x)
        u = d / length[:, None]
        across = np.eye(3) - u[:, :, None] * u[:, None, :]
        return np.asarray(
            np.maximum(self.force / np.maximum(length, 0.02 * np.median(length)), 0.0)[:, None, None] * across
        )

    def energy(self, x: Array) -> float:
        return float(self.force @ self.steps(x)[1])

    def gap(self, x: Array) -> float:
        return float(np.abs(self.forces(x) - self.force).mean())


@dataclass(eq=False)
class Lengths(EdgeTerm):
    """Edges drawn to lengths: ``wanted`` gives those (m,) in metres from the lengths (m,) of the form."""

    wanted: Callable[[Array], Array]
    name: str = "lengths"

    def targets(self, x: Array) -> Array:
        d, length = self.steps(x)
        return np.asarray(d * (self.wanted(length) / length)[:, None])

    def blocks(self, x: Array) -> Array:
        d, length = self.steps(x)
        u = d / length[:, None]
        along = u[:, :, None] * u[:, None, :]
        # Across a stretched edge its tension is stiffness too; that of a pressed one would lead uphill.
        share = np.clip(1 - self.wanted(length) / length, 0.0, 1.0)[:, None, None]
        return np.asarray(self.weights[:, None, None] * (along + share * (np.eye(3) - along)))


class FlatCells(Term):
    """Corners drawn to the best planes of their cells."""

    name = "flat cells"

    def __init__(self, corners: Index, offsets: Index, count: int, strength: float) -> None:
        self.corners, self.offsets = corners, offsets
        self.sizes = np.diff(offsets)
        self.matrix = _rows(corners[:, None], np.ones(1), count)
        self.weights = np.full(len(corners), strength)

    def targets(self, x: Array) -> Array:
        centres, normals = best_planes(x, self.corners, self.offsets)
        cell = np.repeat(np.arange(len(self.sizes)), self.sizes)
        p = x[self.corners]
        off = np.einsum("ij,ij->i", p - centres[cell], normals[cell])
        return np.asarray(p - off[:, None] * normals[cell])

    def blocks(self, x: Array) -> Array:
        # Within its plane a corner is free.
        normals = best_planes(x, self.corners, self.offsets)[1]
        n = np.repeat(normals, self.sizes, axis=0)
        return np.asarray(self.weights[:, None, None] * (n[:, :, None] * n[:, None, :] + SOFT * np.eye(3)))


class CellAreas(Term):
    """Cells grown or shrunk about their middles to the mean area of all."""

    name = "equal cell areas"

    def __init__(self, corners: Index, offsets: Index, count: int, strength: float) -> None:
        self.corners, self.offsets = corners, offsets
        self.sizes = np.diff(offsets)
        self.matrix = _rows(corners[:, None], np.ones(1), count)
        self.weights = np.full(len(corners), strength)

    def targets(self, x: Array) -> Array:
        p = x[self.corners]
        cell = np.repeat(np.arange(len(self.sizes)), self.sizes)
        middle = (np.add.reduceat(p, self.offsets[:-1]) / self.sizes[:, None])[cell]
        area = np.maximum(np.linalg.norm(vector_areas(x, self.corners, self.offsets), axis=1), 1e-12)
        grow = np.clip(np.sqrt(area.mean() / area), 0.5, 2.0)[cell]
        return np.asarray(middle + grow[:, None] * (p - middle))


class FairStrands(Term):
    """Strands without kinks: three vertices that follow each other in one straight, even line."""

    name = "fair strands"
    fixed = True

    def __init__(self, triples: NDArray[np.integer], count: int, strength: float) -> None:
        self.matrix = _rows(triples, np.array([1.0, -2.0, 1.0]), count)
        self.weights = np.full(len(triples), strength)

    def targets(self, x: Array) -> Array:
        return np.zeros((self.matrix.shape[0], 3))


class RightAngles(Term):
    """Corners drawn towards right angles: the two sides of each turned apart or together evenly."""

    name = "right angles"

    def __init__(self, corners: NDArray[np.integer], count: int, strength: float) -> None:
        """``corners`` (m, 3): the vertex before, at and after each corner."""
        self.corners = corners
        both = np.vstack([corners[:, [1, 0]], corners[:, [1, 2]]])
        self.matrix = _rows(both, np.array([-1.0, 1.0]), count)
        self.weights = np.full(len(both), strength)

    def targets(self, x: Array) -> Array:
        a, b = x[self.corners[:, 0]] - x[self.corners[:, 1]], x[self.corners[:, 2]] - x[self.corners[:, 1]]
        la, lb = (np.maximum(np.linalg.norm(v, axis=1, keepdims=True), 1e-12) for v in (a, b))
        u, v = a / la, b / lb
        out = u + v
        size = np.linalg.norm(out, axis=1, keepdims=True)
        out = np.where(size < 1e-9, u, out / np.maximum(size, 1e-12))
        across = u - v
        across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12)
        half = np.sqrt(0.5)
        return np.vstack([la * half * (out + across), lb * half * (out - across)])


class Closeness(Term):
    """Vertices drawn to places: ``places`` gives those (m, 3) for where the vertices (m, 3) are."""

    name = "closeness"

    def __init__(
        self, vertices: NDArray[np.integer], count: int, strength: float, places: Callable[[Array], Array]
    ) -> None:
        self.vertices, self.places = vertices, places
        self.matrix = _rows(vertices[:, None], np.ones(1), count)
        self.weights = np.full(len(vertices), strength)

    @property
    def anchored(self) -> NDArray[np.integer]:
        return self.vertices

    def targets(self, x: Array) -> Array:
        return self.places(x[self.vertices])


class Film(Term):
    """A film of even ``tension`` (kN/m) in the cells, whose area becomes as small as it can (Pinkall and Polthier, 1993).

    The film's pull along a side of a triangle is tension · cot / 2 of the angle opposite; cells of four corners are cut both
    ways at half the tension.
    """

    name = "smallest area"

    def __init__(self, corners: Index, offsets: Index, count: int, tension: float) -> None:
        self.full = tension
        counts = np.diff(offsets)
        quads = np.flatnonzero(counts == 4)
        q = corners[offsets[quads][:, None] + np.arange(4)].reshape(-1, 4)
        kept = np.repeat(counts != 4, counts)
        rest = fan_triangles(corners[kept], np.concatenate([[0], np.cumsum(counts[counts != 4])]).astype(np.int32))[0]
        self.triangles = np.vstack([rest, q[:, [0, 1, 2]], q[:, [0, 2, 3]], q[:, [1, 2, 3]], q[:, [1, 3, 0]]])
        self.tension = np.concatenate([np.full(len(rest), tension), np.full(4 * len(q), tension / 2)])
        t = self.triangles
        self.matrix = _rows(np.vstack([t[:, [1, 2]], t[:, [2, 0]], t[:, [0, 1]]]), np.array([-1.0, 1.0]), count)
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

    def blocks(self, x: Array) -> Array:
        # Obtuse corners push; that part is left out, so that every step leads downhill.
        tension = np.tile(self.tension, 3)
        return np.asarray(np.clip(self._pulls(x), SOFT * tension, 50 * tension)[:, None, None] * np.eye(3))

    def energy(self, x: Array) -> float:
        return self.area(x) * self.full

    def area(self, x: Array) -> float:
        p = x[self.triangles]
        size = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2
        return float(size @ self.tension) / self.full
